"""Results as one JSON document: each fact on a line of its own, and of what there are many, each item."""

from __future__ import annotations

import dataclasses
import datetime as dt
import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from enum import Enum
from functools import cache
from typing import Any

from ..paths import MachinePath


def json_text(content: Mapping[str, object], *, only_ascii: bool = False) -> Iterator[str]:
    """The document, piece by piece: there may be a million items. Names that are not Unicode have question marks.

    ``only_ascii`` escapes all other characters, for a standard output that is not UTF-8.
    """
    text = _ascii_text if only_ascii else _text
    yield "{"
    for number, (name, value) in enumerate(content.items()):
        yield f"{',' * bool(number)}\n  {text(name)}: "
        yield from _lines(value, text)
    yield "\n}\n"


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
    if _is_list(kind):
        return lambda value: [as_json(each) for each in value]
    return lambda value: value if isinstance(value, str | int | float) else str(value)


@cache
def _fields(kind: Any) -> tuple[tuple[str, str], ...]:
    names = [each.name for each in dataclasses.fields(kind)] if dataclasses.is_dataclass(kind) else kind._fields
    return tuple((name.replace("_", "-"), name) for name in names)


def _lines(value: Any, text: Callable[[Any], str]) -> Iterator[str]:
    if not _is_list(type(value)) or not value:
        yield text(as_json(value))
        return
    for number, each in enumerate(value):
        yield f"{',' if number else '['}\n    {text(as_json(each))}"
    yield "\n  ]"


def _is_list(kind: Any) -> bool:
    return issubclass(kind, Sequence) and not (issubclass(kind, str | bytes) or hasattr(kind, "_fields"))


def _text(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False).encode("utf-8", "replace").decode()


def _ascii_text(value: Any) -> str:
    return json.dumps(value)
