"""Read the entries of catalogs into the survey, and judge them: most by one join with the files that were listed."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from functools import lru_cache
from itertools import islice
from pathlib import Path
from urllib.parse import unquote_to_bytes

from ..catalogs import NOTHING_KNOWN, BriefCatalog, BriefTable, Catalog, Entry, Reading
from ..guides import Holding, SiblingPart
from ..machines import Computer, Disk, Finder
from ..machines.moments import SAME_MOMENT_NS
from ..machines.texts import restored, stored
from ..paths import (
    Folding,
    MachinePath,
    PathError,
    Spelling,
    System,
    UnclearPathError,
    name_key,
    read_path,
    seems_several,
)
from ..progress import Progress, Tell, silent
from .joining import join_entries, pending_entries
from .judge import Judge, Judgement, beside
from .rows import BriefEntry, Document, EntryRow, new_file
from .states import State
from .store import SurveyStore

_TELL_EVERY = 5_000
_BY_FOLDER = (Spelling.NATIVE, Spelling.SLASHES, Spelling.FILE_URL)
_PLAIN_NAME = re.compile(r"[^/\\\0]+")
_NO_NAMES = ("", ".", "..")

_DOUBTFUL = """
SELECT e.rowid, e.path, e.content FROM entry AS e JOIN file AS f ON f.key = e.path_key
WHERE e.state = 'found' AND e.content <> '' AND abs(e.modified_ns - f.modified_ns) > ?
"""


class EntryTaker:
    """Takes entries, and in the end judges those that could not be judged on the way."""

    def __init__(
        self, store: SurveyStore, computer: Computer, finder: Finder, judge: Judge, disk: Disk, tell: Tell = silent
    ) -> None:
        self._store = store
        self._computer = computer
        self._finder = finder
        self._judge = judge
        self._disk = disk
        self._tell = tell
        self._taken = 0
        self._folders: defaultdict[Spelling, dict[str, tuple[str, str, Folding]]] = defaultdict(dict)
        self._parsed_folder = lru_cache(maxsize=65_536)(computer.parse)
        self._is_windows = computer.system is System.WINDOWS
        self._outside: set[str] = set()
        self._knows_contents = False
        self._beside: dict[str, tuple[SiblingPart, ...]] = {}
        self._looked_in, self._beforehand = "", judge.beforehand(computer.place("home"))

    def take(self, document: Document, holding: Holding, catalog: Catalog) -> Reading:
        """Take the entries and groups of one catalog; what became of its records."""
        self._note_beside(holding)
        own, prefix = document.holding, document.prefix
        rows = self._rows(document, catalog)
        while batch := list(islice(rows, _TELL_EVERY)):
            self._store.add_entries(batch)
            self._taken += len(batch)
            self._tell(Progress("reading catalogs", self._taken))
        reading = catalog.reading
        for group in catalog.groups():
            members = (prefix + member for member in group.members)
            parent = prefix + group.parent if group.parent else ""
            self._store.add_group(own, prefix + group.key, group.name, parent, members)
        return reading

    def take_over(self, holding: Holding, path: Path) -> Reading:
        """Take what was read into another store; what became of the records."""
        self._note_beside(holding)
        reading, know_contents = self._store.take_over(path)
        self._taken += reading.entries
        self._knows_contents |= know_contents
        self._tell(Progress("reading catalogs", self._taken))
        return reading

    def judge(self) -> None:
        """Judge what was taken."""
        database = self._store.database
        self._store.flush()
        folds = any(volume.rules.folding is not Folding.EXACT for volume in self._computer.volumes)
        join_entries(self._store, folds=folds)
        if self._knows_contents:
            self._compare_doubtful()
        number = 0
        for some in pending_entries(self._store, _TELL_EVERY):
            by_folders = sorted(some, key=lambda row: restored(row[1]))
            states = [said for row in by_folders if (said := self._state_of(*row))]
            database.executemany("UPDATE entry SET state = ?, why = ? WHERE rowid = ?", states)
            number += len(some)
            self._tell(Progress("judging entries", number))
        self._store.flush()

    def _state_of(
        self, row: int, stored_path: str | bytes, size: int | None, holding: str
    ) -> tuple[State, str, int] | None:
        """What to write down of an entry; None when it is found."""
        path = restored(stored_path)
        cut = path.rfind(self._computer.system.separator) + 1
        if path[:cut] != self._looked_in:  # entries come by folders
            self._looked_in, self._beforehand = path[:cut], self._judge.beforehand(self._parsed_folder(path[:cut]))
        judged = self._beforehand(path[cut:])
        if judged is None:
            judged = self._judge.judge_at(self._parsed(path), size, NOTHING_KNOWN)
            self._note_outside(holding, judged)
            judged = self._said_of(holding, judged)
            self._note_true_key(row, judged)
        if judged.state is self._judge.gone and seems_several(path, self._computer.system):
            judged = replace(judged, state=State.UNCLEAR, why=f"{path!r} looks like several paths")
        return None if judged.state is State.FOUND else (judged.state, judged.why, row)

    def _note_true_key(self, row: int, judged: Judgement) -> None:
        """An entry that leads through a link means the file that the link leads to."""
        if judged.seen is None or judged.seen.facts is None or judged.path is None:
            return
        key = self._computer.key(judged.seen.path)
        if key != self._computer.key(judged.path):
            run = self._store.database.execute
            run("UPDATE entry SET path_key = ? WHERE rowid = ?", (stored(key), row))
            run("DELETE FROM unnamed WHERE file IN (SELECT id FROM file WHERE key = ?)", (stored(key),))

    def _said_of(self, holding: str, judged: Judgement) -> Judgement:
        """Nothing is called outside where the guide has no folders of its own, as those of open formats."""
        if judged.state is State.OUTSIDE and not self._judge.says_outside(holding):
            return replace(judged, state=State.FOUND, why="")
        return judged

    def _note_beside(self, holding: Holding) -> None:
        parts = holding.part.entries
        self._beside[holding.id] = tuple({each: None for part in parts for each in part.beside})

    def _parsed(self, path: str) -> MachinePath:
        """A path that was written by us. Entries come by folders, so each folder is parsed once."""
        cut = path.rfind(self._computer.system.separator) + 1
        return self._parsed_folder(path[:cut]).below(path[cut:])

    def _rows(self, document: Document, catalog: Catalog) -> Iterator[EntryRow | BriefEntry]:
        if not isinstance(catalog, BriefCatalog):
            yield from (self._row(document, entry) for entry in catalog.entries(placed=False))
            return
        for table in catalog.brief():
            yield from self._rows_of(document, table)

    def _rows_of(self, document: Document, table: BriefTable) -> Iterator[EntryRow | BriefEntry]:
        """The rows of a table's entries. Most go straight through: their folder is known."""
        holding, prefix, spelling = document.holding, document.prefix, table.spelling
        folders, is_url = self._folders[spelling], spelling.is_url
        either_slash = self._is_windows and not is_url
        last, known = "", None
        for each in table.rows:
            if isinstance(each, Entry):
                yield self._row(document, each)
                continue
            key, recorded, size, annotations = each
            folder, slash, name = recorded.rpartition("\\" if either_slash and "\\" in recorded else "/")
            if folder != last:  # which costs less than to look each up
                last, known = folder, folders.get(folder + slash)
            if is_url and "%" in name:
                name = _unquoted(name)
            is_odd = not slash or name in _NO_NAMES or "/" in name or "\\" in name or "\0" in name
            if known is None or is_odd:
                yield self._row(
                    document,
                    Entry(key, (), recorded, spelling, size_bytes=size, annotations=annotations, base=table.base),
                )
                known = folders.get(folder + slash)  # by now, perhaps
                continue
            key = prefix + key
            if annotations:
                self._store.add_annotations(holding, key, annotations)
            text, path_key, folding = known
            path_key += name if folding is Folding.EXACT else name_key(name, folding)
            yield holding, key, recorded, text + name, path_key, size

    def _row(self, document: Document, entry: Entry) -> EntryRow:
        holding, key = document.holding, document.prefix + entry.key
        if entry.annotations:
            self._store.add_annotations(holding, key, entry.annotations)
        known, state, why = entry.known, State.FOUND, ""
        self._knows_contents |= bool(known.content)
        judged = entry.remote or known.numbered is not None or known.folder
        if judged:
            text, path_key, state, why = self._judged(holding, key, entry)
        else:
            try:
                text, path_key = self._place(entry)
            except PathError as error:
                state = State.UNCLEAR if isinstance(error, UnclearPathError) else self._judge.gone
                text, path_key, why, judged = "", "", error.message, True
        return EntryRow(
            holding,
            key,
            known.name,
            entry.recorded,
            text,
            path_key,
            state,
            why,
            entry.size_bytes,
            known.content,
            known.modified_ns,
            judged,
            known.duration_s,
            *(known.dimensions or (None, None)),
        )

    def _judged(self, holding: str, key: str, entry: Entry) -> tuple[str, str, State, str]:
        """An entry that is judged at once, for it is no single file: its path, the key of that, its state, and why."""
        found = self._judge.judge(entry)
        self._note_outside(holding, found)
        found = self._said_of(holding, found)
        for each in found.files:
            self._store.add_belonging(holding, key, self._computer.key(each.path))
        if found.path is None:
            return "", "", found.state, found.why
        is_single = found.seen is not None and found.seen.facts is not None and entry.known.numbered is None
        path_key = self._computer.key(found.seen.path if found.seen is not None and is_single else found.path)
        text = str(found.path)
        return text, path_key, found.state, found.why

    def _place(self, entry: Entry) -> tuple[str, str]:
        """The path of an entry and its key. Entries come by folders, so each folder is understood once."""
        recorded, spelling = entry.recorded, entry.spelling
        cut = recorded.rfind("/") + 1
        if self._is_windows and not spelling.is_url:
            cut = max(cut, recorded.rfind("\\") + 1)
        name = recorded[cut:]
        if spelling is Spelling.FILE_URL and "%" in name:
            name = _unquoted(name)
        if not cut or spelling not in _BY_FOLDER or name in _NO_NAMES or not _PLAIN_NAME.fullmatch(name):
            path = self._judge.locate(entry)
            return str(path), self._computer.key(path)
        folder = recorded[:cut]
        known = self._folders[spelling].get(folder)
        if known is None:
            path = read_path(folder, self._computer.system, spelling).path
            folding = self._computer.rules_for(path).folding
            known = self._folders[spelling][folder] = str(path.below("")), self._computer.key(path) + "/", folding
        text, key, folding = known
        return text + name, key + name_key(name, folding)

    def _compare_doubtful(self) -> None:
        """Read those files whose content a catalog knows and whose date is not the one that it records."""
        database = self._store.database
        for row, path, content in list(database.execute(_DOUBTFUL, (SAME_MOMENT_NS,))):
            method, _, digest = content.partition(":")
            real = self._finder.find(self._computer.parse(restored(path))).real
            if real is not None and self._disk.digest_by(real, method) != digest:
                why = f"its content differs from the digest in the catalog (by {method})"
                database.execute("UPDATE entry SET state = ?, why = ? WHERE rowid = ?", (State.CHANGED, why, row))

    def _note_outside(self, holding: str, judged: Judgement) -> None:
        """Media outside the programs' folders is listed once, so that it can be carried if that is asked for."""
        seen = judged.seen
        if seen is None or seen.facts is None or self._judge.owns(seen.path):
            return
        single = [seen] if seen.facts.is_file else []
        for each in (
            *single,
            *judged.files,
            *(b for one in single for b in beside(one, self._beside[holding], self._finder)),
        ):
            key = self._computer.key(each.path)
            if each.facts is not None and key not in self._outside:
                self._outside.add(key)
                self._store.add_file(new_file(holding, "outside", str(each.path), key, each.facts))


def _unquoted(name: str) -> str:
    return unquote_to_bytes(name).decode("utf-8", "surrogateescape")
