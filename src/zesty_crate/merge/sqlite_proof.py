"""Prove a merge of two databases: nothing of either side is lost, and nothing else has changed.

What is compared is read anew from the files; of the merge only its list of new rows and written cells is believed, and
each of these must be borne out.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import closing
from pathlib import Path

import apsw

from ..catalogs import Catalog, CatalogError, open_immutable, quoted, syntax_of
from ..catalogs.sqlite_file import file_uri
from ..machines import Disk
from .model import Handle
from .schema import Table, key_of, tables_of
from .sides import Sides
from .sqlite_merge import SqliteMerged
from .structure import Merged, Role
from .who import known_entries, light


def prove_sqlite(sides: Sides, done: SqliteMerged, disk: Disk, scratch: Path) -> int:
    """Compare the merged ``target`` with what was ``there``, and with what was carried.

    The number of rows that were compared. Raises `CatalogError` for the first thing that is not as it must be.
    """
    proof = _Proof(sides, done)
    try:
        compared = proof.rows()
    except apsw.Error as error:
        raise CatalogError(f"The merged catalog cannot be compared: {error}.") from error
    finally:
        proof.close()
    _read_back(sides, done, disk, scratch)
    return compared


class _Proof:
    def __init__(self, sides: Sides, done: SqliteMerged) -> None:
        self._sides = sides
        self._done = done
        self._written = {(table.lower(), handle, column) for table, handle, column in done.written}
        self._database = open_immutable(sides.target)
        for name, path in (("was", sides.there), ("carried", sides.carried)):
            self._database.execute(f"ATTACH ? AS {name}", (file_uri(path) + "?mode=ro&immutable=1",))

    def close(self) -> None:
        """Let go of the files."""
        self._database.close()

    def rows(self) -> int:
        """Compare every row of every table."""
        self._schema_is_the_same()
        compared = 0
        for table in tables_of(self._database):
            if table.is_virtual or table.is_shadow:
                continue
            merged = self._done.structure.of(table.name)
            compared += self._stays(table, may_grow=merged is not None)
            if merged is not None:
                compared += self._came(merged)
        self._is_sound()
        return compared

    def _schema_is_the_same(self) -> None:
        query = "SELECT type, name, tbl_name, sql FROM {}.sqlite_schema ORDER BY 1, 2"
        one, other = (list(self._database.execute(query.format(side))) for side in ("main", "was"))
        if one != other:
            raise _differs("its tables or indexes are not what they were")

    def _stays(self, table: Table, *, may_grow: bool) -> int:
        """Every row that was there is there, with every value but those that were decided."""
        name, handle = quoted(table.name), _handle(table)
        on = " AND ".join(f"w.{each} IS m.{each}" for each in handle)
        differ = " OR ".join(f"w.{quoted(each)} IS NOT m.{quoted(each)} COLLATE BINARY" for each in table.columns)
        flags = ", ".join(f"w.{quoted(each)} IS NOT m.{quoted(each)} COLLATE BINARY" for each in table.columns)
        keys = ", ".join(f"w.{each}" for each in handle)
        query = (
            f"SELECT {keys}, m.{handle[0]} IS NULL, {flags} FROM was.{name} AS w LEFT JOIN main.{name} AS m ON {on} "
            f"WHERE m.{handle[0]} IS NULL OR {differ}"
        )
        for row in self._database.execute(query):
            of, is_gone, differences = tuple(row[: len(handle)]), row[len(handle)], row[len(handle) + 1 :]
            if is_gone:
                raise _differs(f"a row of its table {table.name} is gone: {of}")
            for column, is_different in zip(table.columns, differences, strict=True):
                if is_different and (table.name.lower(), of, column) not in self._written:
                    raise _differs(f"{column} of a row of its table {table.name} is not what it was: {of}")
        before, after = (table.count(self._database, side) for side in ("was", "main"))
        new = len(self._done.fresh.get(table.name.lower(), ())) if may_grow else 0
        if after != before + new:
            raise _differs(f"its table {table.name} had {before:,} rows, got {new:,}, and has {after:,}")
        return before

    def _came(self, merged: Merged) -> int:
        """Every carried row that was to come is there, with all its values and its references."""
        name, table = merged.name.lower(), merged.table
        rows, fresh = self._done.rows.get(name, {}), self._done.fresh.get(name, set())
        if merged.role is Role.ENTRIES and self._sides.scope is None and not self._has_condition(merged):
            absent = table.count(self._database, "carried") - len(rows)
            if absent:
                raise _differs(f"{absent} carried rows of its table {merged.name} are nowhere")
        if not fresh <= set(rows.values()):
            raise _differs(f"its table {merged.name} has rows that nobody carried")
        same = [each for each in table.columns if each not in self._given_anew(merged)]
        for old, new in rows.items():
            came, there = self._row(table, "carried", old, same), self._row(table, "main", new, same)
            if there is None:
                raise _differs(f"a carried row of its table {merged.name} is not there: {old}")
            if new in fresh and came != there:
                raise _differs(f"a carried row of its table {merged.name} came with other values: {old}")
            if new in fresh:
                self._leads_to_the_same(merged, old, new)
        return len(rows)

    def _has_condition(self, merged: Merged) -> bool:
        return any(each.where for each in self._sides.part.entries if each.table.lower() == merged.name.lower())

    def _given_anew(self, merged: Merged) -> set[str]:
        renumbered = {c for e in self._sides.part.entries if e.table.lower() == merged.name.lower() for c in e.renumber}
        references = {each.column for each in merged.references}
        return {
            *references,
            *renumbered,
            *([merged.order] if merged.order else []),
            *((merged.table.key,) if merged.table.numbered else ()),
        }

    def _leads_to_the_same(self, merged: Merged, old: Handle, new: Handle) -> None:
        """Each reference of a new row leads to what the carried row's leads to."""
        for reference in merged.references:
            other = self._done.structure.of(reference.table)
            (came,), (there,) = (
                self._row(merged.table, side, each, [reference.column]) or (None,)
                for side, each in (("carried", old), ("main", new))
            )
            if other is None or came is None:
                continue
            pointed = self._at(other.table, "carried", reference.target, came)
            if pointed is None:
                continue
            wanted = self._done.rows.get(other.name.lower(), {}).get(pointed)
            if wanted is None or self._at(other.table, "main", reference.target, there) != wanted:
                raise _differs(f"{reference.column} of a carried row of {merged.name} leads elsewhere: {old}")

    def _at(self, table: Table, side: str, target: str, value: object) -> Handle | None:
        of, where = f"{side}.{quoted(table.name)}", f"{key_of(table, target)} = ? LIMIT 1"
        query = f"SELECT {', '.join(_handle(table))} FROM {of} WHERE {where}"
        found: Handle | None = self._database.execute(query, (value,)).fetchone()
        return found

    def _row(self, table: Table, side: str, handle: Handle, columns: Sequence[str]) -> tuple[object, ...] | None:
        where = " AND ".join(f"{each} IS ?" for each in _handle(table))
        cells = ", ".join(map(quoted, columns)) or "1"
        found: tuple[object, ...] | None = self._database.execute(
            f"SELECT {cells} FROM {side}.{quoted(table.name)} WHERE {where}", handle
        ).fetchone()
        return found

    def _is_sound(self) -> None:
        faults = [
            len(list(self._database.execute(f"PRAGMA {side}.foreign_key_check"))) for side in ("main", "was", "carried")
        ]
        if faults[0] > faults[1] + faults[2]:
            raise _differs(f"{faults[0]} rows point to nothing, and {faults[1] + faults[2]} did before")
        said = [row[0] for row in self._database.execute("PRAGMA main.integrity_check(1)")]
        if said != ["ok"] and [row[0] for row in self._database.execute("PRAGMA was.integrity_check(1)")] == ["ok"]:
            raise _differs(f"SQLite finds a fault in it: {said[0]}")


def _read_back(sides: Sides, done: SqliteMerged, disk: Disk, scratch: Path) -> None:
    """The merged catalog, read as its guide says: every entry of both sides, and their groups in order."""

    part = light(sides.part)

    def opened(path: Path) -> closing[Catalog]:
        return closing(syntax_of(part).open(path, part, sides.at, disk, scratch))

    with opened(sides.there) as was, opened(sides.carried) as carried, opened(sides.target) as now:
        keys = done.keys.entries
        if len(set(keys.values())) < len(keys):
            raise _differs("two carried entries became one")
        wanted = set(keys.values())
        files, number = {}, 0
        for number, each in enumerate(known_entries(now, sides.computer, wanted), start=1):  # noqa: B007  counted for the end
            if each.key in wanted:
                files[each.key] = each.file
        before = done.entries_before
        new = sum(len(done.fresh[each.table.lower()]) for each in sides.part.entries)
        if number != before + new:
            raise _differs(f"{before} entries were read from it, {new} came, and {number} are read now")
        _carried_are_there(sides, done, carried, files)
        _groups_are_there(sides, done, was, carried, now)


def _carried_are_there(sides: Sides, done: SqliteMerged, carried: Catalog, files: Mapping[str, str]) -> None:
    """Each carried entry leads to its file; but for one that the program itself knows to be one with another there."""
    for each in known_entries(carried, sides.computer):
        key = done.keys.entries.get(each.key)
        if key is None and sides.scope is not None:
            continue
        if key is None or key not in files or (each.key in done.keys.new and files[key] != each.file):
            raise _differs(f"the carried entry {each.recorded} is not in it")


def _groups_are_there(sides: Sides, done: SqliteMerged, was: Catalog, carried: Catalog, now: Catalog) -> None:
    groups = {each.key: each for each in now.groups()}
    touched = set(done.keys.groups.values())  # the rows of all others are as they were
    for group in was.groups() if touched else ():
        if group.key not in touched:
            continue
        _require_contained(group.name, group.members, groups[group.key].members if group.key in groups else ())
    for group in carried.groups():
        there = groups.get(done.keys.groups.get(group.key, ""))
        if there is not None:
            wanted = [done.keys.entries[key] for key in group.members if key in done.keys.entries]
            _require_all(group.name, wanted, there.members)
        elif sides.scope is None and group.members:
            raise _differs(f"the carried group {group.name} is not in it")


def _require_contained(name: str, wanted: Sequence[str], found: Sequence[str]) -> None:
    """Raise `CatalogError` unless all of a group's members are there, in their order."""
    rest = iter(found)
    if not all(any(each == other for other in rest) for each in wanted):
        raise _differs(f"the group {name} has lost members, or their order")


def _require_all(name: str, wanted: Sequence[str], found: Sequence[str]) -> None:
    absent = set(wanted) - set(found)
    if absent:
        raise _differs(f"{len(absent)} carried members of the group {name} are not in it")


def _handle(table: Table) -> list[str]:
    return [key_of(table, each) for each in ((table.key,) if table.key else table.keys)]


def _differs(what: str) -> CatalogError:
    return CatalogError(
        f"The merged catalog is not as it must be: {what}. It was discarded.",
        next_step="The catalog was not changed. Please report this fault to the makers of Zesty Crate.",
    )
