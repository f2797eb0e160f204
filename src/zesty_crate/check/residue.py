"""Residue: what on the new computer still names places of the old one, after every recorded path was relinked.

It is told and never changed: nobody but the program knows what these texts are for.
"""

from __future__ import annotations

import hashlib
import io
import re
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from contextlib import closing
from itertools import islice
from pathlib import Path
from typing import TypeVar
from urllib.parse import unquote

import apsw

from ..catalogs import CatalogError, open_readonly, quoted
from ..guides import HoldingKind
from ..machines import Disk, DiskError, Finder
from ..machines.texts import restored
from ..paths import MachinePath, Mentions, System
from ..plan import Arrangement, Move
from ..progress import Progress, Tell
from ..survey import OF_DOCUMENT, Document, SurveyStore, bounds_of
from .look import Look
from .model import Residue, ResidueKind, Searched

_SMALL_BYTES = 1 << 20
_CELL_BYTES = 64 << 10
_BATCH = 500
_DIGESTED, _DIGEST_ROWS = 500, 5_000
_SQLITE = b"SQLite format 3\0"
_ZIP = b"PK\3\4"
_ZIP_FAULTS = (zipfile.BadZipFile, NotImplementedError, RuntimeError)  # damaged, packed oddly, encrypted
_MOST_PLACES = 200
_EXAMPLE = 160
_SEARCHED_KINDS = (
    HoldingKind.SETTINGS,
    HoldingKind.PRESETS,
    HoldingKind.COMPANIONS,
    HoldingKind.PROJECT,
    HoldingKind.CATALOG,
    HoldingKind.REGISTRATIONS,
)

_Value = TypeVar("_Value")


class Search:
    """Searches what a move placed: every document that was relinked, and every small file beside media."""

    def __init__(
        self,
        move: Move,
        arrangement: Arrangement,
        store: SurveyStore,
        finder: Finder,
        look: Look,
        scratch: Path,
        tell: Tell,
    ) -> None:
        self._move = move
        self._store = store
        self._finder = finder
        self._look = look
        self._scratch = scratch
        self._tell = tell
        self._disk: Disk = move.outside.disk
        self._mentions = Mentions(old_places(move, arrangement))
        self._digests: frozenset[str] = frozenset()  # of old paths, as programs keep them beside a path

    def run(self, relinked: Iterable[Document]) -> Searched:
        """Search all of it; ``relinked`` are the documents that were relinked or needed no change."""
        found: list[Residue] = []
        files, documents = 0, set[str]()
        for document in relinked:
            self._digests = self._old_digests(document)
            seen = self._look.places.get(document.id)
            if seen is not None and seen.real is not None:
                documents.add(self._move.new.key(seen.path))
                known = self._recorded(document)
                told = self._in_file(document.holding, str(seen.path), seen.real, ResidueKind.COPY, known)
                files += told is not None
                found += told or ()
        self._digests = frozenset()
        elsewhere = documents | {self._move.new.key(seen.path) for seen in self._look.places.values()}
        for holding, kind, path, key in self._placed():
            seen = self._finder.find(self._move.new.parse(path)) if key not in elsewhere else None
            if seen is not None and seen.facts is not None and seen.real is not None:
                settings = kind in (HoldingKind.SETTINGS, HoldingKind.PRESETS)
                what = ResidueKind.SETTING if settings else ResidueKind.OTHER
                told = self._in_file(holding, str(seen.path), seen.real, what, frozenset())
                files += told is not None
                found += told or ()
                self._tell(Progress("searching for old paths", files))
        return Searched(files, tuple(found))

    def _placed(self) -> Iterator[tuple[str, str, str, str]]:
        """Small files that were carried and are there: holding, kind, path and key."""
        rows = self._store.database.execute(
            "SELECT e.holding, h.kind, e.new, e.key FROM expected AS e JOIN holding AS h ON h.id = e.holding "
            f"WHERE e.kind = 'file' AND e.role <> 'outside' AND e.size <= {_SMALL_BYTES} "
            "AND e.state <> 'missing' AND NOT e.chosen "
            f"AND h.kind IN ({', '.join(repr(str(kind)) for kind in _SEARCHED_KINDS)})"
        )
        for holding, kind, path, key in rows:
            if key is not None:
                yield holding, kind, restored(path), restored(key)

    def _old_digests(self, document: Document) -> frozenset[str]:
        """Digests of some of a document's paths that are other ones now, as programs make keys of them."""
        query = f"SELECT recorded, path, key FROM entry WHERE {OF_DOCUMENT.format('key')} AND path <> '' LIMIT ?"
        now = "SELECT recorded, path FROM entry WHERE holding = ? AND key = ?"
        texts = {
            restored(text)
            for *told, key in self._move.survey.database.execute(query, (*bounds_of(document), _DIGESTED))
            for text in {*told}.difference(*self._store.database.execute(now, (document.holding, key)))
        }
        forms = {form for text in texts for form in (text, text.replace("\\", "/"), text.lower())}
        return frozenset(
            hashlib.new(method, form.encode("utf-8", "surrogateescape"), usedforsecurity=False).hexdigest()
            for form in forms
            for method in ("md5", "sha1", "sha256")
        )

    def _recorded(self, document: Document) -> frozenset[str]:
        """The paths of a document's own entries that name old places, as far as a check tells of them anyway."""
        likes = " OR ".join("recorded LIKE ?" for _ in self._mentions.likes) or "0"
        query = f"SELECT DISTINCT recorded FROM entry WHERE {OF_DOCUMENT.format('key')} AND ({likes})"
        bounds = (*bounds_of(document), *(f"%{token}%" for token in self._mentions.likes))
        texts = (restored(row[0]) for row in self._store.database.execute(query, bounds))
        return frozenset(_plain(each) for some in _some(texts) for each in self._mentions.in_texts(some))

    def _in_file(
        self, holding: str, path: str, real: Path, kind: ResidueKind, known: frozenset[str]
    ) -> list[Residue] | None:
        """What is in one file; None where it cannot be searched, which a check says otherwise."""
        fields: dict[str, tuple[int, str]] = {}
        try:
            is_database = self._disk.read_start(real, len(_SQLITE)) == _SQLITE
            for field, text in self._in_database(real) if is_database else self._in_text(real):
                if _plain(text) not in known:
                    number, example = fields.get(field, (0, text))
                    fields[field] = number + 1, example
        except (DiskError, CatalogError, apsw.Error, *_ZIP_FAULTS):
            return None
        return [
            Residue(holding, path, field, kind, number, example[:_EXAMPLE])
            for field, (number, example) in fields.items()
        ]

    def _in_text(self, real: Path) -> Iterator[tuple[str, str]]:
        content = self._disk.read_bytes(real)
        for each in self._mentions.in_bytes(content):
            yield _field_before(each.before), each.text
        if content.startswith(_ZIP):
            yield from self._in_members(content)

    def _in_members(self, content: bytes) -> Iterator[tuple[str, str]]:
        """What is in the members of a ZIP, of which the content shows nothing."""
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            for member in archive.infolist():
                if member.compress_type and member.file_size <= _SMALL_BYTES:
                    for each in self._mentions.in_bytes(archive.read(member)):
                        yield f"{member.filename}, {_field_before(each.before)}", each.text

    def _in_database(self, real: Path) -> Iterator[tuple[str, str]]:
        with closing(open_readonly(real, self._disk, self._scratch)) as connection:
            tables = "SELECT name FROM pragma_table_list WHERE schema = 'main' AND type IN ('table', 'shadow')"
            for (table,) in list(connection.execute(tables)):
                columns = [row[0] for row in connection.execute("SELECT name FROM pragma_table_xinfo(?)", (table,))]
                for column in columns:
                    cell = quoted(column)
                    texts = " OR ".join(f"{cell} LIKE '%{token}%'" for token in self._mentions.likes)
                    query = (
                        f"SELECT coalesce(substr({cell}, 1, {_CELL_BYTES}), '') FROM {quoted(table)} "
                        f"WHERE typeof({cell}) = 'blob' OR (typeof({cell}) = 'text' AND ({texts or 0}))"
                    )
                    for digest in self._digests_in(connection, table, cell):
                        yield f"{table}.{column}", f"a digest of an old path, {digest}"
                    for values in _some(value for (value,) in connection.execute(query)):
                        for text in self._in_values(values):
                            yield f"{table}.{column}", text

    def _in_values(self, values: Sequence[str | bytes]) -> Iterator[str]:
        yield from self._mentions.in_texts(value for value in values if isinstance(value, str))
        for value in values:
            if isinstance(value, bytes):
                yield from (each.text for each in self._mentions.in_bytes(value))

    def _digests_in(self, connection: apsw.Connection, table: str, cell: str) -> Iterator[str]:
        """The digests of old paths among the first texts of a column."""
        sizes = "(32, 40, 64)"  # hexadecimal digits of MD5, SHA-1 and SHA-256
        texts = f"typeof({cell}) = 'text' AND length({cell}) IN {sizes}"
        query = f"SELECT lower({cell}) FROM (SELECT {cell} FROM {quoted(table)} LIMIT {_DIGEST_ROWS}) WHERE {texts}"
        if self._digests:
            yield from (text for (text,) in connection.execute(query) if text in self._digests)


def _some(values: Iterable[_Value]) -> Iterator[list[_Value]]:
    """Values a few at a time."""
    values = iter(values)
    while some := list(islice(values, _BATCH)):
        yield some


def old_places(move: Move, arrangement: Arrangement) -> list[MachinePath]:
    """The places of the old computer that are other ones on the new computer."""
    old, same_system = move.old, move.old.system is move.new.system
    anchors = [volume.anchor for volume in old.volumes if volume.anchor.parts or old.system is System.WINDOWS]
    places = [old.place("home"), *anchors, *(route.old for route in arrangement.routes if route.old.parts)]
    if same_system:
        places = [each for each in places if _is_elsewhere(each, move, arrangement)]
    return _outermost(places[:_MOST_PLACES], move)


def _is_elsewhere(place: MachinePath, move: Move, arrangement: Arrangement) -> bool:
    """Whether a place of the old computer is not the same place on a new one of its system."""
    new = arrangement.routes.translate(place)
    same = [move.new.place("home"), *(volume.anchor for volume in move.new.volumes)] if new is None else [new]
    return all(str(each).casefold() != str(place).casefold() for each in same)


def _outermost(places: list[MachinePath], move: Move) -> list[MachinePath]:
    keys = {move.old.key(each): each for each in places}
    return [p for key, p in keys.items() if not any(key != other and key.startswith(other + "/") for other in keys)]


_BEFORE = (
    re.compile(r"<key>([^<]{1,60})</key>\s*<string>[^<]*\Z"),  # a member of a property list
    re.compile(r"""["']([^"'\\<>]{1,60})["']\s*[:=]\s*[\[{(]*\s*["'][^"']*\Z"""),  # a member of an object
    re.compile(r"""([\w:.-]{1,60})\s*=\s*["'][^"'<>]*\Z"""),  # an attribute
    re.compile(r"<([\w:.-]{1,60})[^<>]*>[^<>]*\Z"),  # an element
    re.compile(r"(?:\A|[\r\n])\s*([^=:\x00-\x1f<>]{1,60}?)\s*[=:][^\r\n]*\Z"),  # a key and its value in a line
)


def _field_before(before: str) -> str:
    """The name of the field that a text is in, by what stands before it in most text formats."""
    for pattern in _BEFORE:
        if match := pattern.search(before):
            return match.group(1).strip()
    return "text"


def _plain(text: str) -> str:
    """A path in one spelling, to know one again."""
    return re.sub(r"[\\/]+", "/", unquote(text)).rstrip("/").casefold()
