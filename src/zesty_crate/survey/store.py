"""The survey on disk: one SQLite file with every file, entry and group that was found, and what was carried of it."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

import apsw

from ..catalogs import Reading
from ..errors import ZestyError
from ..guides import HoldingKind
from ..machines import faults_in, require_readable
from ..machines.texts import restored, stored
from ..systems import this_system
from .batches import Batches
from .hostile import faults_of_survey, require_plain, require_tables
from .rows import (
    BriefEntry,
    Carried,
    Document,
    EntryRow,
    FileRow,
    HoldingRow,
    NewFile,
    PathRow,
    entry_row,
    file_row,
    path_row,
)
from .schema import FORMAT, INDEXES, SCHEMA
from .verdicts import Verdict

WERE_READ = f"verdict <> '{Verdict.NOT_READ}'"  # of documents, at least in part
_READ_FILES = f"{WERE_READ} AND NOT registry"
_CARRIED = (
    "f.id, f.holding, f.role, f.kind, f.path, f.key, c.size, c.modified_ns, f.mode, f.target, f.fault, "
    "c.payload, c.sha512, c.bag"
)
_AT_ONCE = 1_000  # numbers that one question has
_CACHE_KIB = 52 << 10
_PAGE_BYTES = 16 << 10  # rows of three paths fill small pages badly; a million take a tenth less time in these


@contextlib.contextmanager
def written(store: SurveyStore) -> Iterator[SurveyStore]:
    """A survey that is written to, and closed in the end. What its disk does arises as `DiskError`."""
    try:
        with faults_in(store.database.filename):
            yield store
            store.close()
    except BaseException:
        with contextlib.suppress(apsw.Error):  # the first fault is the one to report
            store.close()
        raise


class SurveyStore:
    """Reads and writes one survey file. Names that are not Unicode are kept, too."""

    def __init__(self, database: apsw.Connection) -> None:
        self.database = database
        self._batches = Batches(database)

    @classmethod
    def create(cls, path: Path) -> SurveyStore:
        """A new, empty survey, inside one transaction until `close`."""
        flags = apsw.SQLITE_OPEN_READWRITE | apsw.SQLITE_OPEN_CREATE | apsw.SQLITE_OPEN_URI  # for what is attached
        database = apsw.Connection(str(path), flags=flags)
        database.pragma("page_size", _PAGE_BYTES)
        database.pragma("journal_mode", "off")
        database.pragma("synchronous", "off")
        database.pragma("cache_size", -_CACHE_KIB)
        database.execute("BEGIN;" + SCHEMA)
        return cls(database)

    @classmethod
    def open(cls, path: Path, *, writable: bool = False) -> SurveyStore:
        """An existing survey. Raises `ZestyError` when it is none, or of an unknown format."""
        try:
            if writable:
                database = apsw.Connection(str(path), flags=apsw.SQLITE_OPEN_READWRITE)
            else:
                database = apsw.Connection(read_only(path), flags=apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI)
            store = cls(database)
            require_plain(database, str(path))
            with faults_of_survey(str(path)):
                found = store.about("format")
        except apsw.Error as error:
            require_readable(path)
            raise ZestyError(f"{path} is not a survey: {error}.", next_step="Use another copy of the crate.") from error
        if found != FORMAT:
            raise ZestyError(
                f"{path} is a survey of format {found}; this version reads format {FORMAT}.",
                next_step="Use the version of Zesty Crate that wrote it.",
            )
        require_tables(database, str(path))
        return store

    def close(self) -> None:
        """End an open transaction and let go of the file."""
        try:
            self.flush()
            if self.database.in_transaction:
                self.database.execute("COMMIT")
        finally:
            self.database.close()

    # -- about ----------------------------------------------------------------------------------------------------

    def about(self, name: str) -> Any:
        """A fact about the survey itself, or None."""
        text = self.database.execute("SELECT value FROM about WHERE name = ?", (name,)).get
        return None if text is None else json.loads(text)

    def bases(self) -> dict[str, str]:
        """The folders from which paths start that a setting names, by the ids of holdings."""
        return dict(self.about("bases") or {})

    def set_about(self, name: str, value: object) -> None:
        """Record a fact about the survey itself."""
        self.database.execute("INSERT OR REPLACE INTO about VALUES (?, ?)", (name, json.dumps(value)))

    def set_format(self) -> None:
        """Say of which format this is, without which nobody opens it again."""
        self.set_about("format", FORMAT)

    # -- writing --------------------------------------------------------------------------------------------------

    def add_holding(self, row: HoldingRow) -> None:
        """Add a holding."""
        self._batches.add("holding", row)

    def add_file(self, row: NewFile) -> None:
        """Add a file; the store gives it an id."""
        self._batches.add("file", row)

    def add_files(self, rows: list[NewFile]) -> None:
        """Add many files at once."""
        self._batches.add_all("file", rows)

    def add_uncovered(
        self, path: str, key: str, files: int, size_bytes: int, kinds: Mapping[str, int], fault: str
    ) -> None:
        """Add a folder with files right in it that no holding covers."""
        self._batches.add("uncovered", (path, key, "", False, files, size_bytes, json.dumps(kinds), fault))

    def uncovered_as_noted(self) -> Iterator[tuple[str, str, int, int, dict[str, int], str]]:
        """The folders that were added: path, key, files, bytes, files of each ending, and a fault."""
        self.flush()
        rows = self.database.execute("SELECT path, key, files, size, kinds, fault FROM uncovered ORDER BY rowid")
        for path, key, files, size, kinds, fault in rows:
            yield restored(path), restored(key), files, size, json.loads(kinds), fault

    def set_uncovered(self, rows: Iterable[tuple[object, ...]]) -> None:
        """Keep these folders in the place of those that were added."""
        summed = [*rows]
        self.database.execute("DELETE FROM uncovered")
        self.database.executemany("INSERT INTO uncovered VALUES (?, ?, ?, ?, ?, ?, ?, ?)", summed)

    def flush(self) -> None:
        """Have all that was added in the tables."""
        self._batches.flush()

    def index(self, name: str) -> None:
        """Make an index, now that its table is full."""
        self.flush()
        self.database.execute(f"CREATE INDEX {name} ON {INDEXES[name]}")

    def add_document(self, holding: str, path: str, *, several: bool, registry: bool) -> Document:
        """Add a catalog document; the keys of what it holds begin with its prefix, where a holding has several."""
        row = (holding, stored(path), registry)
        self.database.execute("INSERT INTO document (holding, path, prefix, registry) VALUES (?, ?, '', ?)", row)
        number = self.database.last_insert_rowid()
        prefix = f"{number}:" if several else ""
        self.database.execute("UPDATE document SET prefix = ? WHERE id = ?", (prefix, number))
        return Document(number, holding, path, prefix)

    def add_same_document(self, document: Document, *, registry: bool) -> None:
        """Add a document of another survey under its own number and prefix, so that keys are the same in both."""
        row = (document.id, document.holding, stored(document.path), document.prefix, registry)
        self.database.execute(
            "INSERT OR IGNORE INTO document (id, holding, path, prefix, registry) VALUES (?, ?, ?, ?, ?)", row
        )

    def take_over(self, path: Path) -> tuple[Reading, bool]:
        """Take what was read of a catalog into a store of its own: its reading, and if contents are known of any.

        The tables are the same in both, so SQLite copies their rows as they are.
        """
        self.flush()
        self.database.execute("ATTACH ? AS other", (str(path),))
        for table in ("entry", "annotation", "grp", "member"):
            self.database.execute(f"INSERT INTO {table} SELECT * FROM other.{table}")
        reading = json.loads(self.database.execute("SELECT value FROM other.about WHERE name = 'reading'").get)
        know_contents = self.count("SELECT EXISTS (SELECT 1 FROM other.entry WHERE content <> '')")
        self.database.execute("COMMIT; DETACH other; BEGIN")
        return Reading(**reading), bool(know_contents)

    def set_verdict(self, document: Document, verdict: Verdict, unread: int, reasons: Sequence[str]) -> None:
        """Record how far a document was read."""
        row = (verdict, unread, json.dumps(reasons), document.id)
        self.database.execute("UPDATE document SET verdict = ?, unread = ?, reasons = ? WHERE id = ?", row)

    def set_besides(self, document: Document, pointers: int, stale: int) -> None:
        """Record how many entries have something that only their program can follow, or a copy not of their path."""
        self.database.execute(
            "UPDATE document SET pointers = ?, stale = ? WHERE id = ?", (pointers, stale, document.id)
        )

    def set_not_read(self, document: Document, why: str) -> None:
        """Record that a document could not be read, and forget what was read of it before that."""
        self.flush()
        self.set_verdict(document, Verdict.NOT_READ, 0, [why])
        of_entries = (("entry", "key"), ("annotation", "entry"), ("belongs", "entry"))
        for table, column in (*of_entries, ("grp", "key"), ("member", "grp")):
            self.database.execute(
                f"DELETE FROM {table} WHERE holding = ? AND substr({column}, 1, ?) = ?",
                (document.holding, len(document.prefix), document.prefix),
            )

    def holdings(self) -> list[HoldingRow]:
        """Every holding, in the order of the guides."""
        rows = self.database.execute("SELECT * FROM holding ORDER BY rowid")
        return [HoldingRow(*row)._replace(present=bool(row[6]), swept=bool(row[7])) for row in rows]

    def documents(self, condition: str = _READ_FILES) -> list[Document]:
        """The catalog documents for which an SQL condition of ours holds: files that were read, by default."""
        rows = self.database.execute(
            "SELECT id, holding, path, prefix, verdict, unread, reasons, pointers, stale FROM document "
            f"WHERE {condition} ORDER BY id"
        )
        return [
            Document(
                number, holding, restored(path), prefix, Verdict(verdict), unread, tuple(json.loads(reasons)), *besides
            )
            for number, holding, path, prefix, verdict, unread, reasons, *besides in rows
        ]

    def add_entries(self, rows: Sequence[EntryRow | BriefEntry]) -> None:
        """Add many entries at once: `EntryRow`, or `BriefEntry`."""
        self._batches.add_all("entry", rows)

    def add_annotations(self, holding: str, entry: str, annotations: Iterable[tuple[str, str]]) -> None:
        """Add an entry's annotations: names and values."""
        for name, value in annotations:
            self._batches.add("annotation", (holding, entry, name, value))

    def add_group(self, holding: str, key: str, name: str, parent: str, members: Iterable[str]) -> None:
        """Add a group with its members in order."""
        self._batches.add("grp", (holding, key, name, parent))
        for position, entry in enumerate(members):
            self._batches.add("member", (holding, key, position, entry))

    def add_belonging(self, holding: str, entry: str, key: str) -> None:
        """Add a file, by its key, to an entry that represents several, or beside whose file it belongs."""
        self._batches.add("belongs", (holding, entry, key))

    def add_spot_check(self, holding: str, entry: str, path: str, *, named: bool) -> None:
        """Add something to be looked at again in the end: an entry, or a file that is none."""
        self._batches.add("spot_check", (holding, entry, path, named, "", "", False, None, None, None))

    def add_duplicates(self, group: int, files: Iterable[int]) -> None:
        """Add files of one content."""
        for file in files:
            self._batches.add("duplicate", (group, file))

    def add_hard_links(self, group: int, files: Iterable[int]) -> None:
        """Add the names of one file: hard links."""
        for file in files:
            self._batches.add("hard_link", (group, file))

    def add_unregistered(self, holding: str, path: str) -> None:
        """Add content that no registration of a holding knows."""
        self._batches.add("unregistered", (holding, path))

    def set_carried(self, rows: Sequence[tuple[int, str, str, int, int, int]]) -> None:
        """Record files that are in a crate: file, payload name, SHA-512, size, date in ns, and number of the bag."""
        self.database.executemany("INSERT OR REPLACE INTO carried VALUES (?, ?, ?, ?, ?, ?)", rows)

    def set_attributes(self, file: int, attributes: Mapping[str, bytes]) -> None:
        """Record the extended attributes of a file or folder."""
        rows = ((file, stored(name), value) for name, value in attributes.items())
        self.database.executemany("INSERT OR REPLACE INTO attribute VALUES (?, ?, ?)", rows)

    # -- reading --------------------------------------------------------------------------------------------------

    def files(self, condition: str = "1", bindings: tuple[object, ...] = ()) -> Iterator[FileRow]:
        """The files for which an SQL condition of ours holds, by path."""
        query = (
            "SELECT id, holding, role, kind, path, key, size, modified_ns, mode, target, fault FROM file "
            f"WHERE {condition} ORDER BY path"
        )
        for row in self.database.execute(query, bindings):
            yield file_row(row)

    def carried(self) -> Iterator[Carried]:
        """Every file in the crate: media, what belongs to it, catalogs, and then what refers to them; by payload name.

        What is outside all holdings is media, whatever the kind of the catalog that refers to it. Catalogs that lie
        in packs (tags, which go by what is there) come after them.
        """
        for row in self._carried(_CARRIED):
            yield Carried(file_row(row[:-3]), *row[-3:])

    def carried_files(self, numbers: Sequence[int]) -> Iterator[Carried]:
        """Some of them by their numbers, in any order."""
        for first in range(0, len(numbers), _AT_ONCE):
            some = numbers[first : first + _AT_ONCE]
            marks = ", ".join("?" * len(some))
            query = f"SELECT {_CARRIED} FROM carried AS c JOIN file AS f ON f.id = c.file WHERE f.id IN ({marks})"
            for row in self.database.execute(query, some):
                yield Carried(file_row(row[:-3]), *row[-3:])

    def carried_paths(self) -> Iterator[PathRow]:
        """The same files in fewer words."""
        return map(path_row, self._carried("f.id, f.holding, f.path, f.key, c.size"))

    def paths(self, condition: str) -> Iterator[PathRow]:
        """The files for which an SQL condition of ours holds, by path, in fewer words."""
        query = f"SELECT id, holding, path, key, size FROM file WHERE {condition} ORDER BY path"
        return map(path_row, self.database.execute(query))

    def _carried(self, columns: str) -> Iterator[tuple[Any, ...]]:
        ranks = " ".join(f"WHEN h.kind = '{kind}' THEN {rank}" for rank, kind in enumerate(HoldingKind))
        in_packs = (
            "SELECT c.id FROM holding AS c JOIN holding AS p ON p.guide = c.guide AND p.kind = 'content-pack' "
            "WHERE c.kind = 'catalog' AND substr(c.at, 1, length(p.at)) = p.at"
        )
        query = (
            f"SELECT {columns} FROM carried AS c JOIN file AS f ON f.id = c.file "
            "LEFT JOIN holding AS h ON h.id = f.holding "
            f"ORDER BY CASE WHEN f.role = 'outside' THEN 0 WHEN f.holding IN ({in_packs}) THEN {len(HoldingKind)} "
            f"{ranks} END, c.payload"
        )
        return iter(self.database.execute(query))

    def entry(self, holding: str, key: str) -> EntryRow | None:
        """One entry as it was before the move."""
        query = "SELECT * FROM entry WHERE holding = ? AND key = ?"
        row = next(iter(self.database.execute(query, (holding, key))), None)
        return entry_row(row) if row else None

    def carried_as(self, path_key: str) -> tuple[str, str, int] | None:
        """Of the file with this key: its path on the old computer, its digest and its size, if it was carried."""
        query = "SELECT f.path, c.sha512, c.size FROM file f JOIN carried c ON c.file = f.id WHERE f.key = ? LIMIT 1"
        row = next(iter(self.database.execute(query, (stored(path_key),))), None)
        return (restored(row[0]), row[1], row[2]) if row else None

    def carried_right_inside(self, folder_key: str) -> Iterator[str]:
        """The true paths of the files that were carried from the folder with this key, not from folders in it."""
        query = (
            "SELECT f.path FROM file f JOIN carried c ON c.file = f.id WHERE f.key > ?1 AND f.key < ?2 "
            "AND instr(substr(f.key, length(?1) + 1), ?3) = 0"
        )
        bounds = stored(folder_key + "/"), stored(folder_key + "0")
        for (path,) in self.database.execute(query, (*bounds, "/" if isinstance(bounds[0], str) else b"/")):
            yield restored(path)

    def is_any_carried_in(self, folder_key: str) -> bool:
        """Whether a file was carried from the folder with this key, or from one in it."""
        query = "SELECT 1 FROM file f JOIN carried c ON c.file = f.id WHERE f.key > ? AND f.key < ? LIMIT 1"
        return bool(self.database.execute(query, (stored(folder_key + "/"), stored(folder_key + "0"))).get)

    def attributes(self, file: int) -> dict[str, bytes]:
        """The extended attributes of a file or folder."""
        rows = self.database.execute("SELECT name, value FROM attribute WHERE file = ?", (file,))
        return {restored(name): value for name, value in rows}

    def hard_links(self) -> dict[int, int]:
        """Files that are names of one and the same, each with the number of its set."""
        return dict(self.database.execute("SELECT file, grp FROM hard_link"))

    def left_out(self, path_key: str) -> str:
        """Why a file with this key was left out by the scope of packing; empty when it was not."""
        query = "SELECT l.why FROM file AS f JOIN left_out AS l ON l.file = f.id WHERE f.key = ? LIMIT 1"
        row = next(iter(self.database.execute(query, (stored(path_key),))), None)
        return str(row[0]) if row else ""

    def left_out_of(self, holding: str, entry: str) -> str:
        """Why a file of an entry that represents several was left out by the scope; empty when none was."""
        query = """SELECT l.why FROM belongs AS b JOIN file AS f ON f.key = b.key JOIN left_out AS l ON l.file = f.id
                   WHERE b.holding = ? AND b.entry = ? LIMIT 1"""
        return str(self.database.execute(query, (holding, entry)).get or "")

    def entries(self, condition: str = "1") -> Iterator[EntryRow]:
        """The entries for which an SQL condition of ours holds."""
        for row in self.database.execute(f"SELECT * FROM entry WHERE {condition} ORDER BY rowid"):
            yield entry_row(row)

    def count(self, query: str, bindings: tuple[object, ...] = ()) -> int:
        """The number that a query of ours comes to."""
        return int(self.database.execute(query, bindings).get or 0)


def read_only(path: Path) -> str:
    """Where to open a survey that nobody writes: as immutable, since it may be on a read-only carrier."""
    return this_system().database_uri(str(path.absolute())) + "?mode=ro&immutable=1"
