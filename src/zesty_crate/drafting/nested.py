"""Documents inside values of documents: texts or bytes of a field that are documents themselves, and lists of paths."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from typing import Any

from ..machines import Computer
from ..paths import System
from .documents import Kind, read_tables
from .recognize import Recognized, recognize
from .tables import Field, Table, evenly, merged

_MOST_VALUES = 200
_MOST = 0.6  # of the values of a field, to be documents
_STRUCTURED = ("json", "xml", "plist", "html", "sqlite", "reg")
_SIGNS = re.compile(r"\s*[\[{<]|[A-Za-z0-9+/=\s]{64,}$")
_LISTS = ";|\n:,"
_DEEPEST = 4


def nested_kinds(kind: Kind, computer: Computer) -> Iterator[Kind]:
    """Kinds of documents that are values of another one's fields."""
    if len(kind.inside) >= _DEEPEST or kind.syntax in ("lines", "tagged") or kind.branch:
        return
    for table in kind.tables:
        key = _key_of(kind, table)
        if "values" in table.more or (kind.database is not None and not key):
            continue
        for each in table:
            if each.outside:
                continue
            layer: dict[str, object] = {"syntax": kind.syntax}
            layer |= {"table": table.each, "key": key} if kind.database is not None else _selected(table, key)
            layer["column" if kind.database is not None else "at"] = each.selector
            yield from _of_field(kind, table, each, layer)
            if (lists := _of_lists(kind, table, each, layer, computer)) is not None:
                yield lists


def _selected(table: Table, key: str) -> dict[str, object]:
    told: dict[str, object] = {"each": table.each} if table.each else {}
    return told | ({"key": key} if key else {})


def _key_of(kind: Kind, table: Table) -> str:
    if kind.database is not None:
        keys = kind.database.keys[table.each]
        return keys[0] if len(keys) == 1 else "" if keys else "rowid"
    unique = (
        each.selector
        for each in table
        if not each.outside
        and len(table.at) > 1
        and all(isinstance(v, str | int) and len(str(v)) < 60 for v in each.values)
        and len({*map(str, each.values)}) == len(each.values)
    )
    return next(unique, "")


def _of_field(kind: Kind, table: Table, each: Field, layer: dict[str, object]) -> Iterator[Kind]:
    values = [(at, value) for at, value in zip(table.at, each.values, strict=True) if _may_be_document(value)]
    if not values or len(values) * 2 < sum(value not in (None, "") for value in each.values):
        return
    some = [values[number] for number in evenly(len(values), _MOST_VALUES)]
    found: Counter[tuple[Any, ...]] = Counter()
    read: dict[tuple[Any, ...], list[Table]] = {}
    for at, value in some:
        content = value.encode() if isinstance(value, str) else value
        for document in recognize(content):
            if document.syntax not in _STRUCTURED and not document.inside:
                continue
            sort = (document.inside, document.syntax)
            found[sort] += 1
            if document.syntax != "sqlite":
                read.setdefault(sort, []).extend(_read(document, at))
    for sort, number in found.items():
        if number >= len(some) * _MOST and sort in read:
            by_each: dict[str, list[Table]] = {}
            for one in read[sort]:
                by_each.setdefault(f"{one.each}\0{'values' in one.more}", []).append(one)
            tables = [merged(group) for group in by_each.values()]
            inside = (*kind.inside, layer, *sort[0])
            yield Kind(sort[1], inside, "", kind.files, tables, None, kind.number)


def _read(document: Recognized, at: Any) -> list[Table]:
    try:
        return read_tables(document, at)
    except ValueError:
        return []


def _may_be_document(value: Any) -> bool:
    if isinstance(value, bytes):
        return len(value) > 8
    return isinstance(value, str) and len(value) > 8 and _SIGNS.match(value) is not None


def _of_lists(kind: Kind, table: Table, each: Field, layer: dict[str, object], computer: Computer) -> Kind | None:
    """A field whose texts are several paths, as a document of lines."""
    start = r"[A-Za-z]:[\\/]" if computer.system is System.WINDOWS else r"/(?=[^/\s])"
    texts = each.texts
    for mark in _LISTS:
        if mark == ":" and computer.system is System.WINDOWS:
            continue
        pattern = f"(?:^|{re.escape(mark)}\\s*){start}"
        several = [text for text in texts if len(re.findall(pattern, text)) > 1]
        if several and len(several) * 2 >= len(texts):
            escaped = re.escape(mark) if mark != "\n" else "\\n"
            whole = Table(f"(?P<path>[^{escaped}]+)", more={"anywhere": "true"})
            for at, text in zip(table.at, each.values, strict=True):
                for part in text.split(mark) if isinstance(text, str) else ():
                    if part.strip():
                        whole.add(at, [("path", part)])
            return Kind("lines", (*kind.inside, layer), "", kind.files, [whole.finish()], None, kind.number)
    return None
