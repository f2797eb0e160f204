"""Work on many files side by side: while one waits for the disk, another is digested. Results come in order."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
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
