"""Results as one JSON document: each fact on a line of its own, and of what there are many, each item."""

from __future__ import annotations

import dataclasses
import datetime as dt
import json
from collections.abc import Callable, Mapping
from enum import Enum
from functools import cache
from typing import Any

from ..paths import MachinePath


def json_text(content: Mapping[str, object], *, only_ascii: bool = False) -> str:
    """The document. Names that are not Unicode are written with question marks.

    ``only_ascii`` escapes all other characters, for a standard output that is not UTF-8.
    """
    text = _ascii_text if only_ascii else _text
    lines = (f"  {text(name)}: {_lines(value, text)}" for name, value in as_json(content).items())
    return ("{\n" + ",\n".join(lines) + "\n}\n").encode("utf-8", "replace").decode()


def fields_of(value: Any) -> dict[str, Any]:
    """The fields of a dataclass or a named tuple, as they are, by names with dashes."""
    kind: Any = type(value)
    return {name: getattr(value, field) for name, field in _fields(kind)}


def as_json(value: Any) -> Any:
    """A value as JSON has it; names of fields are written with dashes."""
    kind: Any = type(value)
    return _converter(kind)(value)


@cache  # of classes there are few, and of values hundreds of thousands
def _converter(kind: Any) -> Callable[[Any], Any]:
    if issubclass(kind, Enum):
        return lambda value: value.value
    if kind in (str, int, float, bool, type(None)):
        return lambda value: value
    if issubclass(kind, MachinePath):
        return str
    if issubclass(kind, dt.datetime):
        return lambda value: value.isoformat()
    if dataclasses.is_dataclass(kind) or hasattr(kind, "_fields"):
        fields = _fields(kind)
        return lambda value: {name: as_json(getattr(value, field)) for name, field in fields}
    if issubclass(kind, Mapping):
        return lambda value: {str(key): as_json(each) for key, each in value.items()}
    if issubclass(kind, list | tuple):
        return lambda value: [as_json(each) for each in value]
    return lambda value: value if isinstance(value, str | int | float) else str(value)


@cache
def _fields(kind: Any) -> tuple[tuple[str, str], ...]:
    names = [each.name for each in dataclasses.fields(kind)] if dataclasses.is_dataclass(kind) else kind._fields
    return tuple((name.replace("_", "-"), name) for name in names)


def _lines(value: Any, text: Callable[[Any], str]) -> str:
    if isinstance(value, list) and value:
        return "[\n    " + ",\n    ".join(map(text, value)) + "\n  ]"
    return text(value)


def _text(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False)


def _ascii_text(value: Any) -> str:
    return json.dumps(value)
