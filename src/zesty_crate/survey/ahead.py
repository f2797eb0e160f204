"""Large catalogs, read by a process of its own while this one lists files: Python does one thing at a time."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Sequence
from concurrent.futures import Future, ProcessPoolExecutor
from contextlib import closing, suppress
from pathlib import Path
from typing import NamedTuple

from ..catalogs import syntax_of
from ..guides import Holding
from ..machines import Computer, Disk, Finder, Seen, working_folder
from .entries import EntryTaker
from .judge import Judge
from .model import State
from .rows import Document
from .store import SurveyStore

_ENOUGH_BYTES = 32 << 20  # of a catalog, to be worth a process, which takes as long to start as some MB to read


class Errand(NamedTuple):
    """A catalog to read: where it was found, and what its keys begin with."""

    holding: Holding
    seen: Seen
    prefix: str = ""


class Ahead:
    """Reads catalogs ahead, each into a store of its own, which is then taken over.

    It is never needed: what it did not read, or could not, is read where it is asked for, and so the reason is told.
    """

    def __init__(self, computer: Computer, disk: Disk, scratch: Path, gone: State) -> None:
        """``scratch`` is a folder for the stores; ``gone`` is the state of an entry that names no path."""
        self._computer = computer
        self._disk = disk
        self._scratch = scratch
        self._gone = gone
        self._pool: ProcessPoolExecutor | None = None
        self._begun: dict[str, tuple[Path, Future[None]]] = {}

    def begin(self, errands: Sequence[Errand]) -> None:
        """Begin to read those of the catalogs that are worth it."""
        worth = [each for each in errands if _is_worth_it(each)]
        if not worth or not self._disk.is_shared or (os.cpu_count() or 1) < 2:
            return
        self._pool = ProcessPoolExecutor(1, multiprocessing.get_context("spawn"))
        with suppress(OSError):  # where the system starts no other process
            for number, each in enumerate(worth):
                store = self._scratch / f"{number}.ahead"
                future = self._pool.submit(_read, self._computer, each, store, self._gone)
                self._begun[str(each.seen.path)] = store, future

    def take_over(self, taker: EntryTaker, document: Document, holding: Holding) -> bool:
        """Wait for a catalog that was begun, and take what was read of it; whether there is anything to take."""
        store, future = self._begun.pop(document.path, (None, None))
        if store is None or future is None or future.exception() is not None:
            return False
        taker.take_over(holding, store)
        self._disk.remove(store)
        return True

    def close(self) -> None:
        """Begin nothing more, and wait for what was begun."""
        if self._pool is not None:
            self._pool.shutdown(cancel_futures=True)


def _is_worth_it(errand: Errand) -> bool:
    """Whether a catalog is large, and its entries are plain files, which nobody need look at while they are read."""
    facts, parts = errand.seen.facts, errand.holding.part.entries
    is_large = facts is not None and facts.is_file and facts.size_bytes >= _ENOUGH_BYTES
    return is_large and not errand.holding.part.branch and not any(part.folder or part.numbered for part in parts)


def _read(computer: Computer, errand: Errand, target: Path, gone: State) -> None:
    """Read one catalog into a new store. Runs in the other process."""
    holding, seen, disk = errand.holding, errand.seen, Disk()
    finder = Finder(computer, disk)
    document = Document(0, holding.id, str(seen.path), errand.prefix)
    if seen.real is None:
        raise ValueError("a catalog that is on no plugged-in volume cannot be read")
    with (
        closing(SurveyStore.create(target)) as store,
        working_folder(disk, target.with_suffix(".work")) as scratch,
        closing(syntax_of(holding.part).open(seen.real, holding.part, seen.path, disk, scratch)) as catalog,
    ):
        EntryTaker(store, computer, finder, Judge(computer, finder, [], gone), disk).take(document, holding, catalog)
