"""Trees of lists and objects (JSON, YAML, TOML, property lists) as tables, with JSONPaths that select their records."""

from __future__ import annotations

import datetime
import plistlib
import re
import tomllib
from collections.abc import Iterator
from typing import Any
from xml.parsers.expat import ExpatError

import yaml

from ..catalogs.json_text import loaded_json
from ..catalogs.json_tree import MEMBER, MEMBER_NAME
from ..paths import MachinePath
from .recognize import lines_of
from .tables import Table, new_identity

_DEEPEST = 12
_MOST_VALUES = 3_000_000  # that are looked at, lists and objects among them
_FLAT = 3  # levels of objects in a record that are part of it


def read_tree(syntax: str, content: bytes, text: str, at: MachinePath) -> list[Table]:
    """The tables in a document. Raises `ValueError` for one that cannot be read."""
    root = _loaded(syntax, content, text)
    reader = _Reader(at)
    reader.value("$", root, (), 0)
    return [each.finish() for each in reader.tables.values()]


def _loaded(syntax: str, content: bytes, text: str) -> Any:
    if syntax == "json":
        return loaded_json(text)[1]
    if syntax == "json-lines":
        return [loaded_json(line)[1] for line in lines_of(text) if line.strip()]
    if syntax == "yaml":
        try:
            return yaml.load(text, getattr(yaml, "CSafeLoader", yaml.SafeLoader))
        except yaml.YAMLError as error:
            raise ValueError(str(error)) from error
    if syntax == "toml":
        return tomllib.loads(text)
    try:
        return plistlib.loads(content)
    except (plistlib.InvalidFileException, ExpatError, OverflowError, LookupError, AttributeError, TypeError) as error:
        raise ValueError(str(error)) from error


class _Reader:
    def __init__(self, at: MachinePath) -> None:
        self.tables: dict[str, Table] = {}
        self._at = at
        self._left = _MOST_VALUES

    def value(self, selector: str, value: Any, path: tuple[str, ...], around: int) -> None:
        """Note a value that may be records or hold some."""
        self._left -= 1
        if self._left < 0:  # as of a few aliases that stand for each other again and again
            raise ValueError("it has too many values")
        if len(path) > _DEEPEST:
            return
        if isinstance(value, list):
            for each in value:
                self._record(f"{selector}[*]", each, (*path, "[*]"), around)
        elif isinstance(value, dict) and value:
            if _is_map(value):
                for name, each in value.items():
                    self._record(f"{selector}.*", each, (*path, "*"), around, str(name))
            else:
                self._record(selector, value, path, around)

    def _record(self, each: str, value: Any, path: tuple[str, ...], around: int, name: str | None = None) -> None:
        self._left -= 1
        number = new_identity()
        fields: list[tuple[str, Any]] = []
        inner: list[tuple[str, Any]] = []
        if name is not None:
            fields.append((MEMBER_NAME, name))
        if isinstance(value, dict) and not _is_map(value):
            fields += _fields(value, "", inner, 0)
        elif isinstance(value, list | dict):
            self.value(each, value, path, number)
            if name is None:
                return
        else:
            fields.append(("$", plain(value)))
        table = self.tables.setdefault(each, Table(each, path=path))
        table.add(self._at, fields, identity=number, parent=around)
        for selector, member in inner:
            self.value(_joined(each, selector), member, (*path, selector), number)


def _fields(value: dict[str, Any], before: str, inner: list[tuple[str, Any]], depth: int) -> Iterator[tuple[str, Any]]:
    for name, member in value.items():
        selector = _step(before, str(name))
        if isinstance(member, dict):
            if depth < _FLAT and not _is_map(member):
                yield from _fields(member, selector, inner, depth + 1)
            else:
                inner.append((selector, member))
        elif isinstance(member, list):
            inner.append((selector, member))
            if len(member) > 1 and all(isinstance(each, str) and each for each in member):
                yield selector, list(member)
        else:
            yield selector, plain(member)


def _step(before: str, name: str) -> str:
    quoted = name.replace("\\", "\\\\").replace("'", "\\'")
    if MEMBER.fullmatch(name):
        return f"{before}.{name}" if before else name
    return f"{before or '$'}['{quoted}']"


def _joined(each: str, selector: str) -> str:
    return each + (selector[1:] if selector.startswith("$") else f".{selector}")


def plain(value: Any) -> Any:
    """A value as a text, a number, or bytes."""
    if isinstance(value, datetime.datetime | datetime.date | datetime.time):
        return value.isoformat()
    if isinstance(value, bool):
        return int(value)
    return value if isinstance(value, str | int | float | bytes) else None


def _is_map(value: dict[str, Any]) -> bool:
    """Whether the names of an object are data: its values are objects of one kind, or its names look like paths."""
    names = [str(each) for each in value]
    if sum(bool(re.search(r"[\\/]", each)) for each in names) * 2 > len(names):
        return True
    members = list(value.values())
    if len(members) < 2 or not all(isinstance(each, dict) and each for each in members):
        return False
    shared, everything = set.intersection(*map(set, members)), set.union(*map(set, members))
    return len(shared) * 2 >= len(everything) and len(shared) > 0
