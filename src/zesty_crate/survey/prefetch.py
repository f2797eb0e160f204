"""Large catalogs, read by a process of its own while this one lists files: Python does one thing at a time."""

from __future__ import annotations

import os
import pickle
import threading
from collections.abc import Sequence
from contextlib import ExitStack, closing
from dataclasses import asdict
from pathlib import Path
from typing import IO, NamedTuple

from ..catalogs import Reading, syntax_of
from ..guides import Holding
from ..machines import Computer, Disk, Finder, Process, Seen, started, working_folder
from ..systems.worker_program import receive, send
from .entries import EntryTaker
from .judge import Judge
from .rows import Document
from .states import State
from .store import SurveyStore

_ENOUGH_BYTES = 32 << 20  # of a catalog, to be worth a process, which takes as long to start as some MB to read


_Key = tuple[str, str]  # a holding and the path of a catalog


class Errand(NamedTuple):
    """A catalog to read: where it was found, and what its keys begin with."""

    holding: Holding
    seen: Seen
    prefix: str = ""

    @property
    def key(self) -> _Key:
        """What it is known by: two holdings may look into one catalog."""
        return self.holding.id, str(self.seen.path)


class Prefetch:
    """Reads catalogs ahead, each into a store of its own, which is then taken over.

    It is never needed: what it did not read, or could not, is read where it is asked for, and so the reason is told.
    """

    def __init__(self, computer: Computer, disk: Disk, scratch: Path, gone: State) -> None:
        """``scratch`` is a folder for the stores; ``gone`` is the state of an entry that names no path."""
        self._computer = computer
        self._disk = disk
        self._scratch = scratch
        self._gone = gone
        self._stack = ExitStack()
        self._process: Process | None = None
        self._asked: dict[_Key, Path] = {}
        self._read: set[_Key] = set()

    def begin(self, errands: Sequence[Errand]) -> None:
        """Begin to read those of the catalogs that are worth it."""
        worth = [each for each in errands if _is_worth_it(each)]
        if not worth or not self._disk.is_shared or os.cpu_count() == 1:
            return
        folder = self._stack.enter_context(working_folder(self._disk, self._scratch / "ahead"))
        stores = {each.key: folder / f"{number}.read" for number, each in enumerate(worth)}
        try:
            process = self._stack.enter_context(started("reading"))
            pickle.dump((self._computer, self._gone, list(zip(worth, stores.values(), strict=True))), process.asked)
            process.asked.flush()
        except OSError:
            return  # where the system starts no other process
        self._process, self._asked = process, stores

    def take_over(self, taker: EntryTaker, document: Document, holding: Holding) -> Reading | None:
        """Wait for a catalog that was begun, and take what was read of it; None when there is nothing to take."""
        key = document.holding, document.path
        store = self._asked.pop(key, None)
        if store is None or not self._is_read(key):
            return None
        reading = taker.take_over(holding, store)
        self._disk.remove(store)
        return reading

    def close(self) -> None:
        """End the other process, whatever it is at."""
        self._stack.close()

    def _is_read(self, key: _Key) -> bool:
        while self._process is not None and key not in self._read:
            try:
                told = receive(self._process.told)
            except (EOFError, ValueError):
                told = []
            if not told:  # it has ended
                self._process = None
            self._read.update(told)
        return key in self._read


def _is_worth_it(errand: Errand) -> bool:
    """Whether a catalog is large, and its entries are plain files, which nobody need look at while they are read."""
    facts, parts = errand.seen.facts, errand.holding.part.entries
    if errand.holding.part.relative_to.holding:
        return False  # that must be looked up first
    is_large = facts is not None and facts.is_file and facts.size_bytes >= _ENOUGH_BYTES
    return is_large and not errand.holding.part.branch and not any(part.folder or part.numbered for part in parts)


# -- in the other process ------------------------------------------------------------------------------------------


def serve() -> None:
    """Read what standard input asks for, and tell which catalogs were read. An error ends it."""
    with open(0, "rb") as asked, open(1, "wb") as told:
        computer, gone, errands = pickle.load(asked)
        threading.Thread(target=_end_with, args=(asked,), daemon=True).start()
        for errand, target in errands:
            _read(computer, errand, target, gone)
            send([errand.key], told)


def _end_with(asked: IO[bytes]) -> None:
    """End when the other process does, for whatever reason."""
    asked.read()
    os._exit(1)


def _read(computer: Computer, errand: Errand, target: Path, gone: State) -> None:
    """Read one catalog into a new store."""
    holding, seen, disk = errand.holding, errand.seen, Disk()
    finder = Finder(computer, disk)
    document = Document(0, holding.id, str(seen.path), errand.prefix)
    if seen.real is None:
        raise ValueError("a catalog that is on no connected volume cannot be read")
    syntax, scratch = syntax_of(holding.part), target.parent
    with (
        closing(SurveyStore.create(target)) as store,
        closing(syntax.open(seen.real, holding.part, seen.path, disk, scratch)) as catalog,
    ):
        taker = EntryTaker(store, computer, finder, Judge(computer, finder, [], gone), disk)
        store.set_about("reading", asdict(taker.take(document, holding, catalog)))
