"""Named sets of entries: tables of pairs in a database; records with keys of entries inside of others in a text."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Collection, Iterator, Sequence
from typing import Any

from .read_sqlite import Database
from .tables import Field, Table

_CONTAINED = 0.95
_LONGEST_NAME = 120
_FEWEST_NUMBERS = 3  # that differ, to be keys and no accident
_MOST_LISTS = 4

Told = dict[str, object]


def groups_in_database(
    database: Database, entries: Table, key: str, pieces: Collection[str]
) -> Iterator[tuple[Told, str]]:
    """Tables of pairs that hold keys of entries and keys of something with a name; each with why.

    Of several ways to understand a table the one that the schema tells counts, or names do; ``pieces`` are tables that
    hold pieces of paths.
    """
    for pairs in database.tables.values():
        if pairs is entries or pairs.each in pieces:
            continue
        found: list[tuple[tuple[int, bool, int], Told, int]] = []
        ways = database.ways_from(pairs.each)
        for entry in (way for way in ways if way.to == entries.each and _is_key(way.target, key)):
            for group in ways:
                if group.to in (entries.each, pairs.each) or group.via == entry.via:
                    continue
                told = _of_pairs(database, pairs, entry.via, group.via, database.tables[group.to])
                if told is not None:
                    rank = (entry.is_evident + group.is_evident, group.to not in pieces, -len(found))
                    found.append((rank, told, database.tables[group.to].count))
        if found:
            (evident, _, _), told, number = max(found, key=lambda each: each[0])
            if evident > 1:
                yield told, f"{pairs.count:,} pairs, {number:,} rows with a name"


def _is_key(target: str, key: str) -> bool:
    return target.strip('"').lower() in (key.lower(), "rowid")


def _of_pairs(database: Database, pairs: Table, entry: str, group: str, named: Table) -> Told | None:
    keys, name = database.keys[named.each], name_of(named)
    if len(keys) != 1 or name is None or len(pairs.at) < 1:
        return None
    more = [each for each in pairs if each.selector not in (entry, group, *database.keys[pairs.each][:1])]
    order = next((each.selector for each in more if _is_order(pairs, group, each)), "")
    order = order or next((each for each in database.keys[pairs.each] if each not in (entry, group)), "") or "rowid"
    parent = next(iter(database.parents_in(named.each)), "")
    told: Told = {"table": named.each, "key": keys[0], "name": name}
    if parent:
        told["parent"] = parent
    return {**told, "members": {"table": pairs.each, "group": group, "entry": entry, "order": order}}


def _is_order(pairs: Table, group: str, field: Field) -> bool:
    """Whether the numbers of a field differ within each group."""
    seen: defaultdict[Any, list[Any]] = defaultdict(list)
    for of, value in zip(pairs.fields[group].values, field.values, strict=True):
        seen[of].append(value)
    numbers = [value for values in seen.values() for value in values]
    are_numbers = all(isinstance(each, int | float) for each in numbers)
    return are_numbers and all(len(set(values)) == len(values) for values in seen.values()) and bool(numbers)


def name_of(table: Table, key: str = "") -> str | None:
    """The field by which people know a record: a text that nearly all have."""
    candidates = []
    for order, each in enumerate(table):
        texts = each.texts
        is_told = len(texts) * 10 >= len(table.at) * 9 and texts
        if is_told and not each.outside and each.selector != key and all(len(text) <= _LONGEST_NAME for text in texts):
            is_code = all(re.fullmatch(r"[0-9a-fA-F-]{8,}|[A-Za-z]{0,3}-?\d+", text) for text in texts)
            candidates.append((is_code, -len(set(texts)), order, each.selector))
    return min(candidates)[-1] if candidates else None


def groups_in_text(tables: Sequence[Table], entries: Table, key: str, *, is_xml: bool) -> Iterator[tuple[Told, str]]:
    """Records that are within others, and hold keys of entries."""
    keys = {str(each) for each in entries.fields[key].values if each is not None} if key in entries.fields else set()
    if not keys:
        return
    by_identity = {identity: table for table in tables for identity in table.identities}
    found = 0
    for members in tables:
        if members is entries or not members.identities:
            continue
        for each in members:
            values = [str(value) for value in each.values if value is not None]
            hits = sum(value in keys for value in values)
            few = len(set(values)) < _FEWEST_NUMBERS and all(value.isdecimal() for value in values)
            if each.outside or len(values) < 2 or few or hits < _CONTAINED * len(values):
                continue
            around = {id(by_identity[p]): by_identity[p] for p in members.parents if p in by_identity}
            for table in around.values():
                told = _of_records(table, members, each.selector, tables, is_xml=is_xml)
                if told is not None and table is not entries and found < _MOST_LISTS:
                    found += 1
                    yield told, f"{len(values):,} members, {len(table.at):,} records with a name"
            break


def _of_records(table: Table, members: Table, entry: str, tables: Sequence[Table], *, is_xml: bool) -> Told | None:
    inner = members.path[len(table.path) :]
    key = _key_of(table)
    name = name_of(table, key) or name_of(table)
    if name is None or members.path[: len(table.path)] != table.path or not inner:
        return None
    told: Told = {"each": table.each, **({"key": key} if key else {}), "name": name}
    around = next((each for each in tables if is_xml and each.path == table.path[:-1]), None)
    if around is not None and key and _key_of(around) == key and name in around.fields:  # groups of groups
        told |= {"each": f"{around.each} | {table.each}", "parent": f"../{key}"}
    each = "/".join(inner) if is_xml else _json_steps(inner)
    return {**told, "members": {"each": each, "entry": entry}}


def _key_of(table: Table) -> str:
    """The first field that differs in each record of a document."""
    unique = (
        each.selector
        for each in table
        if not each.outside
        and all(value is not None for value in each.values)
        and len(set(zip(table.at, map(str, each.values), strict=True))) == len(table.at)
    )
    return next(unique, "")


def _json_steps(steps: Sequence[str]) -> str:
    text = ""
    for step in steps:
        text += step if step.startswith("[") else f".{step}" if text else step
    return text
