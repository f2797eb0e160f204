"""Work on many files side by side: while one waits for the disk, another is digested. Results come in order."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from typing import TypeVar

WORKERS = 2
_AHEAD = 16  # so many are begun before the first result is taken, and no more, so that a million are no burden

Item = TypeVar("Item")
Result = TypeVar("Result")


def side_by_side(work: Callable[[Item], Result], items: Iterable[Item]) -> Iterator[tuple[Item, Result]]:
    """``work`` on each item, at most a few at a time. The first error stops everything, and arises here."""
    waiting: deque[tuple[Item, Future[Result]]] = deque()
    with ThreadPoolExecutor(WORKERS) as pool:
        try:
            for item in items:
                waiting.append((item, pool.submit(work, item)))
                if len(waiting) > _AHEAD:
                    done, future = waiting.popleft()
                    yield done, future.result()
            while waiting:
                done, future = waiting.popleft()
                yield done, future.result()
        finally:
            pool.shutdown(cancel_futures=True)


@contextmanager
def beside(work: Callable[[], Result]) -> Iterator[Callable[[], Result]]:
    """Do ``work`` while the body does something else; what it came to can be asked for afterwards."""
    with ThreadPoolExecutor(1) as pool:
        yield pool.submit(work).result


def in_batches(
    items: Iterable[Item], most: int, most_bytes: int, size_of: Callable[[Item], int]
) -> Iterator[list[Item]]:
    """Items in batches of so many, or of so many bytes together; never an empty one."""
    batch: list[Item] = []
    room = most_bytes
    for item in items:
        batch.append(item)
        room -= size_of(item) + most_bytes // most
        if room <= 0:
            yield batch
            batch, room = [], most_bytes
    if batch:
        yield batch
