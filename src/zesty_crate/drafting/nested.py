"""Documents inside values of documents: texts or bytes of a field that are documents themselves, and lists of paths."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterator
from typing import Any

from ..machines import Computer
from ..paths import MachinePath, System
from .documents import Kind, read_tables
from .read_sqlite import Database
from .recognize import Recognized, recognize
from .tables import Field, Table, evenly, merged

Sort = tuple[tuple[str, ...], str]  # layers, and the syntax inside
Opened = Callable[[bytes, MachinePath], Database]
_MOST_VALUES = 200
_MOST = 0.6  # of the values of a field, to be documents
_STRUCTURED = ("json", "xml", "plist", "html", "sqlite", "reg")
_SIGNS = re.compile(r"\s*[\[{<]|[A-Za-z0-9+/=\s]{64,}$")
_LISTS = ";|\n:,"
_DEEPEST = 4


def nested_kinds(kind: Kind, computer: Computer, opened: Opened) -> Iterator[Kind]:
    """Kinds of documents that are values of another one's fields; ``opened`` opens a database that is one."""
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
            yield from _of_field(kind, table, each, layer, opened)
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


def _of_field(kind: Kind, table: Table, each: Field, layer: dict[str, object], opened: Opened) -> Iterator[Kind]:
    values = [(at, value) for at, value in zip(table.at, each.values, strict=True) if _may_be_document(value)]
    if not values or len(values) * 2 < sum(value not in (None, "") for value in each.values):
        return
    some = [values[number] for number in evenly(len(values), _MOST_VALUES)]
    found: defaultdict[Sort, list[tuple[Recognized, MachinePath]]] = defaultdict(list)
    for at, value in some:
        for document in recognize(value.encode() if isinstance(value, str) else value):
            if document.syntax in _STRUCTURED or document.inside:
                found[document.inside, document.syntax].append((document, at))
    for (layers, syntax), documents in found.items():
        if len(documents) < len(some) * _MOST:
            continue
        inside = (*kind.inside, layer, *layers)
        if syntax == "sqlite":  # of which the largest stands for all
            database = opened(max((each.content for each, _ in documents), key=len), kind.files[0].path)
            yield Kind(syntax, inside, "", kind.files, list(database.tables.values()), database, kind.number)
        else:
            yield Kind(syntax, inside, "", kind.files, _tables_of(documents), None, kind.number)


def _tables_of(documents: list[tuple[Recognized, MachinePath]]) -> list[Table]:
    by_each: defaultdict[tuple[str, bool], list[Table]] = defaultdict(list)
    for document, at in documents:
        for table in _read(document, at):
            by_each[table.each, "values" in table.more].append(table)
    return [merged(group) for group in by_each.values()]


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
