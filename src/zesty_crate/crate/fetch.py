"""Fetch files into the crate: digested while they are copied, whole or not at all, and as they are at one moment."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import zip_longest
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from ..errors import HalfwayError
from ..machines import BATCH_BYTES, BATCH_FILES, WHOLE, Cut, Disk, DiskError, FileFacts
from ..systems.worker_program import SMALL_BYTES, Order
from .distribution import Allotment
from .sources import Source

if TYPE_CHECKING:
    from hashlib import _Hash as Hash

_TRIES = 3


class Place(NamedTuple):
    """Where a file is written first, and where it goes."""

    part: str
    target: str


@dataclass(frozen=True, slots=True)
class Errand:
    """A file to fetch, or one segment of it, and the places it goes to: one in each copy of the crate.

    ``path`` is its own on the old computer, ``listed`` what the survey says about it. ``running`` digests
    the whole of a file that goes in segments. What the crate of an earlier day has is ``linked`` from there, with its
    known digest. ``why_not`` says why it cannot be had; ``moved`` is told the bytes of a large file.
    """

    allotment: Allotment
    path: str
    listed: FileFacts
    source: Source
    payload: str
    places: tuple[Place, ...]
    running: Hash | None = None
    linked: tuple[Path, str] | None = None
    why_not: str = ""
    moved: Callable[[int], None] | None = None


class Fetched(NamedTuple):
    """What came of it: the file's digest and facts, or why it was left."""

    sha512: str = ""
    facts: FileFacts | None = None
    why_not: str = ""
    is_shared: bool = False


def orders_for(errands: Sequence[Errand], folder: Path | None) -> list[Order] | None:
    """Errands as orders; a hand puts files together in a ``folder`` of its own, since two would wait for one.

    None when any errand is for more than one small and whole file in one place.
    """
    orders: list[Order] = []
    for errand in errands:
        facts = errand.source.facts
        is_plain = (
            len(errand.places) == 1 and not errand.allotment.is_segment and not errand.linked and not errand.why_not
        )
        if not is_plain or facts.size_bytes > SMALL_BYTES:
            return None
        ((part, target),) = errand.places
        beside = f"{folder}/{part.rpartition('/')[2]}" if folder else part
        orders.append((errand.source.real, beside, target, facts.plain, "", facts.modified_ns, None))
    return orders


def fetched_by_worker(
    errands: Sequence[Errand], answers: list[str], disk: Disk
) -> tuple[list[Fetched], HalfwayError | None]:
    """What came of orders; errands of which nothing came are done here."""
    results: list[Fetched] = []
    for errand, answer in zip_longest(errands, answers, fillvalue=""):
        if isinstance(errand, str):
            break
        done, fault = ([Fetched(answer, errand.source.facts)], None) if answer else fetch_all([errand], disk)
        results += done
        if fault is not None:
            return results, fault
    return results, None


def fetch_all(errands: Sequence[Errand], disk: Disk) -> tuple[list[Fetched], HalfwayError | None]:
    """Fetch several files, one after the other, until the carrier fails; what came of them, and that fault."""
    results: list[Fetched] = []
    for errand in errands:
        try:
            results.append(fetch(errand, disk))
        except HalfwayError as error:
            return results, error
    return results, None


def fetch(errand: Errand, disk: Disk) -> Fetched:
    """Copy one file; one that changes meanwhile is taken again.

    What is wrong with the file itself is told. Raises `HalfwayError` for what is wrong with the carrier.
    """
    source = errand.source
    if errand.why_not:
        return Fetched(why_not=errand.why_not)
    try:
        if errand.linked is not None and source.facts == errand.listed and _link(errand, errand.linked[0], disk):
            return Fetched(errand.linked[1], source.facts, is_shared=True)
        return _copied(errand, disk)
    except DiskError as error:
        if error.path != source.real:
            raise HalfwayError(error.message, next_step=error.next_step) from error
        for place in errand.places:
            disk.remove(place.part)
        return Fetched(why_not=error.message)


def _copied(errand: Errand, disk: Disk) -> Fetched:
    allotment, facts = errand.allotment, errand.source.facts
    first, *others = errand.places
    second = others[0].part if others else None
    cut = Cut(allotment.first, allotment.length) if allotment.is_segment else WHOLE
    for _ in range(1 if allotment.is_segment else _TRIES):  # what was digested of a cut file cannot be taken back
        copied = disk.copy(
            errand.source.real,
            first.part,
            facts,
            settled=False,
            second=second,
            cut=cut,
            running=errand.running,
            moved=errand.moved,
        )
        if copied.facts == facts and copied.size_bytes == cut.of(facts.size_bytes):
            for place in errand.places:
                disk.rename(*place)
            return Fetched(copied.sha512, facts)
        for place in errand.places:
            disk.remove(place.part)
        facts = copied.facts
    return Fetched(why_not="it kept changing while it was copied")


def _link(errand: Errand, old: Path, disk: Disk) -> bool:
    """Share the content of a file in an earlier crate, where the carrier can; whether it could."""
    (place,) = errand.places
    disk.remove(place.part)
    try:
        disk.link(old, place.part)
    except DiskError:
        return False
    disk.rename(*place)
    return True


def in_small_batches(errands: Iterator[Errand]) -> Iterator[list[Errand]]:
    """Errands by the handful; those of one file stay together."""
    batch: list[Errand] = []
    size = 0
    for errand in errands:
        apart = not batch or batch[-1].allotment.file != errand.allotment.file
        if apart and (len(batch) >= BATCH_FILES or size >= BATCH_BYTES):
            yield batch
            batch, size = [], 0
        batch.append(errand)
        size += errand.allotment.length
    if batch:
        yield batch
