"""Catalogs kept in SQLite: entries and groups as the guide's columns say, streamed row by row."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from itertools import groupby
from pathlib import Path
from typing import Any

import apsw

from ..guides import EntriesPart, GroupsPart, HoldingPart
from ..machines import Disk
from ..paths import MachinePath, join_pieces
from .changes import ChangeList, of_blob
from .copies import note_besides
from .forms import read_form
from .known import NOTHING_KNOWN, known_of
from .model import (
    Brief,
    BriefTable,
    CatalogError,
    Cell,
    Copied,
    Entry,
    Found,
    Group,
    NewText,
    StoredPiece,
    base_of,
)
from .pieces import KEY_MARK, made_piece, with_whole_name
from .reading import LONGEST_PATH, Reading, UnreadRecord, is_one_name, path_text
from .sqlite_file import Schema, open_readonly, quoted, reading_condition
from .sqlite_folders import SqliteFolders
from .sqlite_plan import Place, Plan, PlannedRow
from .sqlite_trees import Tree


class SqliteCatalog:
    """A catalog in SQLite, open for reading."""

    def __init__(self, path: Path, part: HoldingPart, at: MachinePath, disk: Disk, scratch: Path) -> None:
        self._path = path
        self._part = part
        self._at = at
        self._base = base_of(part, at)
        self.reading = Reading()
        self._connection = open_readonly(path, disk, scratch)
        try:
            self._schema = Schema(self._connection, path)
            self._plans = [self._plan(each) for each in part.entries]
            for groups in part.groups:
                self._require_groups(groups)
        except apsw.Error as error:
            self._connection.close()
            raise self._damaged(error) from error
        except CatalogError:
            self._connection.close()
            raise

    def close(self) -> None:
        """Let go of the file."""
        self._connection.close()

    def entries(self, *, placed: bool = True) -> Iterator[Entry]:
        """Every entry, in the order of its table."""
        self.reading = reading = self._begun()
        for plan in self._plans:
            for row in self._rows_of(plan, reading, plan.query_of_all, plan.row_at):
                if (entry := self._read(plan, row, reading, placed=placed)) is not None:
                    yield entry

    def _read(self, plan: Plan, row: tuple[Any, ...], reading: Reading, *, placed: bool) -> Entry | None:
        """The entry of a row; None for one that cannot be read, which is noted."""
        try:
            entry = self._entry(plan, row, placed=placed)
        except UnreadRecord as why:
            reading.skip(f"{plan.part.table}, {plan.part.key} {row[0]}", str(why))
            return None
        reading.entries += 1
        if plan.part.besides:
            note_besides(reading, entry)
        return entry

    def folders(self) -> SqliteFolders | None:
        """The entries of the one table by their folders, where these are rows of a tree and nothing more is known."""
        plan = self._plans[0]
        if len(self._plans) > 1 or plan.tree is None:
            return None

        def rows() -> tuple[Iterator[tuple[Any, ...]], Reading]:
            self.reading = reading = self._begun()
            return self._rows_of(plan, reading, plan.query_of_all, plan.row_at), reading

        def read(row: tuple[Any, ...], reading: Reading | None) -> Entry | None:
            return (
                self._entry(plan, row, placed=True) if reading is None else self._read(plan, row, reading, placed=True)
            )

        return SqliteFolders(self._connection, plan, plan.tree, rows, read)

    def brief(self) -> Iterator[BriefTable]:
        """Every entry; in fewer words where its path is one text of a column, and nothing more is known of it."""
        self.reading = reading = self._begun()
        for plan in self._plans:
            yield BriefTable(self._brief(plan, reading), plan.part.spelling, self._base)

    def _brief(self, plan: Plan, reading: Reading) -> Iterator[Entry | Brief]:
        prefix, names, plain = plan.prefix, plan.part.annotations, plan.is_plain
        rows = apart = 0
        found = self._rows_of(plan, reading, plan.query_of_all, plan.row_at)
        for rows, row in enumerate(found, start=1):  # noqa: B007  counted for the end
            key, remote, size, _, text, *values = row
            if not plain or remote or text.__class__ is not str or not text or len(text) > LONGEST_PATH:
                if (entry := self._read(plan, row, reading, placed=False)) is not None:
                    yield entry
                apart += 1
                continue
            annotations = _annotations(names, values) if names else ()
            yield f"{prefix}{key}", text, size if size.__class__ is int else None, annotations
        reading.entries += rows - apart

    def _begun(self) -> Reading:
        """A reading of nothing yet; the catalog is empty when all tables of its entries are."""
        tables = (f"EXISTS (SELECT 1 FROM {quoted(plan.part.table)})" for plan in self._plans)
        ((has_rows,),) = self._rows(f"SELECT {' OR '.join(tables)}")
        return Reading(is_empty=not has_rows)

    def sweep(self, changes: ChangeList, new_text: NewText) -> bool:
        """Ask for the new text of each path as it comes, where every path is kept whole in a column of its own."""
        columns = {(plan.cells[-1].table.lower(), plan.cells[-1].column.lower()) for plan in self._plans}
        if len(columns) < len(self._plans) or not all(plan.is_swept for plan in self._plans):
            return False
        for plan in self._plans:
            (place,) = plan.cells
            changes.add_column(place.table, place.column, self._renewed(plan, quoted(place.column), new_text))
        return True

    def _renewed(self, plan: Plan, path: str, new_text: NewText) -> Iterator[tuple[int | str, str, str]]:
        spelling = plan.part.spelling
        row: int | str = 0

        def ask() -> Entry | None:
            return self._entry_in(plan, row)  # the row at which we are when it is asked for

        def query(condition: str = "") -> str:
            # In the order of the table, and not of an index that happens to hold all: they are written in this order.
            of_own = f'SELECT "own row", {path}, "is remote" FROM ({plan.own_rows}) AS own'
            return f'{of_own}{condition} ORDER BY "own row"'

        for row, text, remote in self._rows_of(plan, Reading(), query, 0):
            new = new_text(text if text.__class__ is str and not remote else "", spelling, ask)
            if new is not None:
                yield row, text, new

    def _entry_in(self, plan: Plan, row: int | str) -> Entry | None:
        try:
            return next(self._entry(plan, found, placed=True) for found in self._rows(plan.query_of_one, (row,)))
        except UnreadRecord:
            return None

    def free_row(self, table: str) -> int:
        """The number after the last row of a table, and after the last that it ever had where it counts them."""
        last = int(self._connection.execute(f"SELECT coalesce(max(rowid), 0) FROM {quoted(table)}").get)
        if self._connection.execute("SELECT 1 FROM sqlite_schema WHERE name = 'sqlite_sequence'").get:
            query = "SELECT seq FROM sqlite_sequence WHERE name = ? COLLATE NOCASE"
            last = max(last, int(self._connection.execute(query, (table,)).get or 0))
        return last + 1

    def included(self) -> Iterator[MachinePath]:
        """A database includes no other."""
        return iter(())

    def groups(self) -> Iterator[Group]:
        """Every group, with its members in their order; members are of the first entries table, or the one named."""
        several = len(self._part.groups) > 1
        for part in self._part.groups:
            members, own = part.members, f"{part.table}:" if several else ""
            if members is None:
                yield Group(f"{own}whole", self._at.name, "", tuple(entry.key for entry in self.entries()))
                continue
            of = members.of or self._part.entries[0].table
            entries = f"{of}:" if len(self._part.entries) > 1 else ""
            rows = self._rows(
                f"SELECT {quoted(members.group)}, {quoted(members.entry)} FROM {quoted(members.table)} "
                f"ORDER BY 1, {quoted(members.order)}, 2"
            )
            pairs = groupby(rows, key=lambda row: row[0])
            listed = {str(key): tuple(f"{entries}{member}" for _, member in found) for key, found in pairs}
            parent = quoted(part.parent) if part.parent else "NULL"
            query = f"SELECT {quoted(part.key)}, {quoted(part.name)}, {parent} FROM {quoted(part.table)} ORDER BY 1"
            for key, name, above in self._rows(query):
                outer = "" if above is None else f"{own}{above}"
                yield Group(f"{own}{key}", str(name), outer, listed.get(str(key), ()))

    def _entry(self, plan: Plan, values: tuple[Any, ...], *, placed: bool) -> Entry:
        if plan.tree is not None and is_one_name(values[6]):  # a name in a folder of a tree, as most of a million
            return self._entry_of_tree(plan, plan.tree, values)
        part, row = plan.part, plan.named(values)
        if plan.lost and (lost := plan.lost.get(row.pieces[-1][0])):
            raise UnreadRecord(lost)
        pieces, recorded = self._path_of(plan, row, placed=placed)
        known = NOTHING_KNOWN
        values_by_name = dict(zip(plan.known, row.known, strict=True))
        if plan.knows:
            told = {name: None if value is None else str(value) for name, value in values_by_name.items()}
            known = known_of(part, told.get, recorded)
        return Entry(
            f"{plan.prefix}{row.key}",
            pieces if placed else (),
            recorded,
            part.spelling,
            bool(row.remote or (part.remote_like and re.search(part.remote_like, recorded))),
            row.size if isinstance(row.size, int) else None,
            _annotations(part.annotations, row.annotations) if part.annotations else (),
            self._base,
            known,
            tuple(self._copies(plan, values_by_name, row)) if part.copies else (),
            tuple(self._pointers(plan, values_by_name, row)) if part.pointers else (),
        )

    def _copies(self, plan: Plan, values: dict[str, Any], row: PlannedRow) -> Iterator[Copied]:
        for copy in plan.part.copies:
            if values[copy.at] not in (None, "", b""):
                text, kept_as = _written(values[copy.at])
                yield Copied(Cell(plan.part.table, copy.at, row.pieces[-1][0], 0, kept_as), text, copy)

    def _pointers(self, plan: Plan, values: dict[str, Any], row: PlannedRow) -> Iterator[Found]:
        for pointer in plan.part.pointers:
            if values[pointer.at] not in (None, "", b""):
                text, kept_as = _written(values[pointer.at])
                if kept_as == "bytes" and self._schema.allows_null(plan.part.table, pointer.at):
                    kept_as = "pointer"
                cell = Cell(plan.part.table, pointer.at, row.pieces[-1][0], 0, kept_as)
                yield Found(text, cell if pointer.empty else None)

    def _entry_of_tree(self, plan: Plan, tree: Tree, values: tuple[Any, ...]) -> Entry:
        """An entry of which no more is known than its folder, its name, its size and annotations."""
        key, remote, size, _, folder, number, name, *annotations = values
        part, own = plan.part, plan.cells[-1]
        outer, beginning = tree.branch(folder, self._at.system, part.spelling)
        return Entry(
            f"{plan.prefix}{key}",
            (*outer, StoredPiece(Cell(own.table, own.column, number), name, None, own.part.holds or "")),
            beginning + name,
            part.spelling,
            bool(remote),
            size if size.__class__ is int else None,
            _annotations(part.annotations, annotations) if annotations else (),
            self._base,
        )

    def _path_of(self, plan: Plan, row: PlannedRow, *, placed: bool) -> tuple[tuple[StoredPiece | None, ...], str]:
        """The pieces of a path, which unless ``placed`` may be left out, and the whole of it."""
        system, spelling = self._at.system, plan.part.spelling
        if plan.is_composed:
            pieces = _pieces(plan, row)
            return pieces, join_pieces([path_text(piece.text) for piece in pieces if piece], system, spelling)
        texts = [_text(text) for _, text in row.pieces if text not in (None, "")]
        # Most catalogs keep a path in one column; joining costs as much as all the rest.
        whole = texts[0] if len(row.pieces) == len(texts) == 1 else join_pieces(texts, system, spelling)
        return _pieces(plan, row) if placed else (), whole

    def _plan(self, part: EntriesPart) -> Plan:
        """The one query that yields an entries table: key, remote, size, then row id and text of each piece."""
        own = "own"
        own_path = (part.path[-1].at,) if part.path[-1].at else ()
        vias = [piece.via_column for piece in part.path if piece.via and not piece.via_table]
        named = [
            *part.key_selectors,
            *own_path,
            *vias,
            *part.annotations,
            *part.known,
            *part.besides,
        ]
        self._schema.require(part.table, named)
        keys = ["own row" if each.lower() == "rowid" else each for each in part.key_selectors]
        columns = [f" || '{KEY_MARK}' || ".join(f"{own}.{quoted(each)}" for each in keys), 'own."is remote"']
        columns.append(f"{own}.{quoted(part.size)}" if part.size else "NULL")
        joins, cells, more = self._joined(part)
        columns += more
        known = tuple(dict.fromkeys(name for name in (*part.known, *part.besides) if name != part.size))
        columns += [f"{own}.{quoted(name)}" for name in (*part.annotations, *known)]
        own_rows = self._own_rows(part)
        joined = f"FROM ({own_rows}) AS own{joins}"
        prefix = f"{part.table}:" if len(self._part.entries) > 1 else ""
        knows = bool(known or part.folder or part.numbered or part.beside or part.remote_like)
        is_composed = any(place.tree or place.is_in_a_form for place in cells) or part.path[-1].holds == "extension"
        tree = cells[0].tree if len(cells) == 2 and not knows and not cells[1].is_in_a_form else None
        selected = ", ".join(columns)
        return Plan(
            part, prefix, own_rows, selected, joined, cells, known, knows, is_composed, tree, self._lost(part, own_rows)
        )

    def _lost(self, part: EntriesPart, own_rows: str) -> dict[int | str, str]:
        """The rows that point to a shared piece which is not there. Without it a path would lead elsewhere."""
        found: dict[int | str, str] = {}
        for piece in part.path:
            if piece.table and piece.via and not piece.via_table and not piece.parent:
                target = self._schema.target_of(part.table, piece.via, piece.table)
                via = f"own.{quoted(piece.via)}"
                query = (
                    f"SELECT \"own row\", {via} FROM ({own_rows}) AS own WHERE {via} NOT IN (0, '', -1) AND NOT EXISTS "
                    f"(SELECT 1 FROM {quoted(piece.table)} AS piece WHERE piece.{target} = {via})"
                )
                found |= {row: f"there is no row {key} of {piece.table}" for row, key in self._rows(query)}
        return found

    def _joined(self, part: EntriesPart) -> tuple[str, list[Place], list[str]]:
        """The joins that reach every piece, where each stands, and the two columns to ask for it."""
        joins, cells, columns = "", list[Place](), list[str]()
        sources = {"": "own", **{each.table: f"piece{n}" for n, each in enumerate(part.path) if each.table}}
        trees = {each.table for each in part.path if each.parent}
        for piece in reversed(part.path):  # what points to a piece comes before it
            if piece.table is None:
                cells.append(Place(piece, part.table, piece.at))
                columns += [f"own.{quoted(piece.at)}" if piece.at else "NULL", 'own."own row"']
                continue
            if piece.via_table in trees:
                continue  # the tree knows what its outermost rows point to
            pointing = f"{sources[piece.via_table]}.{quoted(piece.via_column)}"
            target = self._schema.target_of(piece.via_table or part.table, piece.via_column, piece.table)
            if piece.parent and piece.may_add:
                self._require_row_number(piece.table, target)
            if piece.parent:
                beyond = next((each for each in part.path if each.via_table == piece.table), None)
                tree = Tree(piece, target, self._schema, self._rows, beyond, is_first=piece is part.path[0])
                cells.append(Place(piece, piece.table, piece.at, tree=tree))
                columns += [pointing, "NULL"]
                continue
            self._schema.require(piece.table, [piece.at])
            source = sources[piece.table]
            joins += f" LEFT JOIN {quoted(piece.table)} AS {source} ON {source}.{target} = {pointing}"
            if piece.may_add:
                self._require_row_number(piece.table, target)
            via = piece.via_column if piece.may_add else ""
            cells.append(Place(piece, piece.table, piece.at, via))
            columns += [f"{source}.{quoted(piece.at)}", f"{self._schema.row_id(piece.table, source)}"]
        return joins, cells[::-1], columns[::-1]

    def _own_rows(self, part: EntriesPart) -> str:
        """The entries' own table, inside which a guide's conditions mean its columns and no others."""
        where = f" WHERE {self._condition(part.where, part.table)}" if part.where else ""
        return (
            f'SELECT {self._schema.row_id(part.table)} AS "own row", *, {self._condition(part.remote, part.table)} '
            f'AS "is remote" FROM {quoted(part.table)}{where}'
        )

    def _condition(self, condition: str | None, table: str) -> str:
        """A guide's SQL condition, in brackets."""
        return "NULL" if condition is None else reading_condition(self._connection, condition, table)

    def _require_row_number(self, table: str, key: str) -> None:
        number = self._schema.number_of(table)
        if number is None or quoted(number).lower() != key.lower():
            raise CatalogError(
                f'The guide allows new rows ("may-add") in the table {table!r} of {self._path}, whose key {key} is no '
                "INTEGER PRIMARY KEY; a new key cannot be chosen.",
                next_step='Remove "may-add" from the guide.',
            )

    def _require_groups(self, part: GroupsPart) -> None:
        if part.members is None:
            return
        self._schema.require(part.table, [part.key, part.name, *([part.parent] if part.parent else [])])
        self._schema.require(part.members.table, [part.members.group, part.members.entry, part.members.order])

    def _rows_of(
        self, plan: Plan, reading: Reading, query: Callable[[str], str], row_at: int
    ) -> Iterator[tuple[Any, ...]]:
        """The rows of a ``query`` over a table's entries, which yields the own row's number at ``row_at``.

        A row with a text that is not Unicode ends SQLite's loop. It is counted, and a new one begins behind it.
        """
        condition, behind = "", tuple[int | str, ...]()
        last: tuple[Any, ...] = ()
        while True:
            try:
                for last in self._connection.execute(query(condition), behind):
                    yield last
            except UnicodeDecodeError as error:
                behind = (self._next_row(plan, last[row_at : row_at + 1] or behind),)
                condition = ' WHERE own."own row" > ?'
                last = ()
                reading.skip(f"{plan.part.table}, row {behind[0]}", f"a text in it is not {error.encoding}")
            except apsw.Error as error:
                raise self._damaged(error) from error
            else:
                return

    def _next_row(self, plan: Plan, behind: tuple[int | str, ...]) -> int | str:
        """The number of the first row of a table's entries, or of the first one ``behind`` another."""
        condition = ' WHERE "own row" > ?' if behind else ""
        query = f'SELECT min("own row") FROM ({plan.own_rows}){condition}'
        found: int | str
        ((found,),) = self._rows(query, behind)
        return found

    def _rows(self, query: str, bindings: tuple[int | str, ...] = ()) -> Iterator[tuple[Any, ...]]:
        try:
            yield from self._connection.execute(query, bindings)
        except (apsw.Error, UnicodeDecodeError) as error:
            raise self._damaged(error) from error

    def _damaged(self, error: Exception) -> CatalogError:
        return CatalogError(
            f"The catalog {self._path} cannot be read: {error}.",
            next_step="Open it in its program on the old computer, and let the program repair it.",
        )


def _told(value: object, encoding: str) -> tuple[str, str]:
    """The text of a cell; and where it is kept as bytes, in which manner."""
    if not encoding or not isinstance(value, bytes):
        return _text(value), ""
    try:
        text, manner = of_blob(value, encoding)
    except UnicodeDecodeError as error:
        raise UnreadRecord(f"its path is not {encoding} ({error.reason})") from error
    return path_text(text), manner


def _written(value: object) -> tuple[str, str]:
    """A value as a text, and what kind of value it is; see `Cell.kept_as`."""
    if isinstance(value, bytes):
        return value.hex(), "bytes"
    return str(value), "integer" if isinstance(value, int) else ""


def _text(value: object) -> str:
    if isinstance(value, bytes):
        raise UnreadRecord("its path is binary data and not text")
    return path_text(str(value))


def _annotations(names: Sequence[str], values: Sequence[Any]) -> tuple[tuple[str, str], ...]:
    return tuple((name, str(value)) for name, value in zip(names, values, strict=True) if value is not None)


def _pieces(plan: Plan, row: PlannedRow) -> tuple[StoredPiece | None, ...]:
    """The pieces of a path with their places; None for one that is empty or has no row."""
    pieces: list[StoredPiece | None] = []
    known = zip(plan.known, row.known, strict=True)
    told = {name: None if value is None else str(value) for name, value in known} if plan.knows else {}
    own_row, _ = row.pieces[-1]  # the last piece is in the entry itself
    for place, (row_number, value) in zip(plan.cells, row.pieces, strict=True):
        if place.tree is not None:
            pieces += place.tree.pieces(value)
        elif place.part.made_of:
            pieces.append(made_piece(place.part, told.get))
        elif value in (None, "", b""):
            pieces.append(None)
        else:
            text, manner = _told(value, place.part.blob or "")
            path, form = read_form(place.part, text)
            pointing = Cell(plan.part.table or "", place.via, own_row) if place.via else None
            cell = Cell(place.table, place.column, row_number, 0, manner, form)
            pieces.append(StoredPiece(cell, path, pointing, place.part.holds or "") if path else None)
    return with_whole_name(plan.part, pieces)
