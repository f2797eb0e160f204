"""Work on many files in parallel: while one waits for the disk, another is digested. Results come in order."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import Generic, NamedTuple, TypeVar

from ..systems.worker_program import Order, carry_out
from .worker import Worker

BATCH_FILES, BATCH_BYTES = 64, 8 << 20  # small files go by the handful, so that handing them out costs little
ENOUGH_FILES = 1_000  # from so many on, a process beside this one is worth its start
WORKERS = 2
_AHEAD = 16  # so many are begun before the first result is taken, and no more, so that a million are no burden

Item = TypeVar("Item")
Result = TypeVar("Result")


class SmallWork(NamedTuple, Generic[Item, Result]):
    """Work on small files, of which a `Worker` does some: what to order for an item, and what its answers come to.

    ``orders`` is told whether they are for the hand; it is None for an item that is no such work, or only in part. An
    answer is empty where nothing was done.
    """

    worker: Worker
    orders: Callable[[Item, bool], Sequence[Order] | None]
    result: Callable[[Item, list[str]], Result]


def in_parallel(
    work: Callable[[Item], Result], items: Iterable[Item], small: SmallWork[Item, Result] | None = None
) -> Iterator[tuple[Item, Result]]:
    """``work`` on each item, at most a few at a time. The first error stops everything, and arises here.

    Threads wait for the disk at the same time, and digest large files; of ``small`` work this process does what the
    hand does not get to, since threads would only wait for each other.
    """
    waiting: deque[tuple[Item, Callable[[], Result], Callable[[], bool]]] = deque()
    with ThreadPoolExecutor(WORKERS) as pool:
        try:
            for item in items:
                waiting.append((item, *_begun(work, item, small, pool)))
                while waiting and (len(waiting) > _AHEAD or (small and waiting[0][2]())):
                    done, result, _ = waiting.popleft()
                    yield done, result()
            while waiting:
                done, result, _ = waiting.popleft()
                yield done, result()
        finally:
            pool.shutdown(cancel_futures=True)


def _begun(
    work: Callable[[Item], Result], item: Item, small: SmallWork[Item, Result] | None, pool: ThreadPoolExecutor
) -> tuple[Callable[[], Result], Callable[[], bool]]:
    """Begin with an item; how to get the result, and whether it is there."""
    by_worker = small is not None and small.worker.is_free
    orders = small.orders(item, by_worker) if small else None
    if small is None or orders is None:
        future = pool.submit(work, item)
        return future.result, future.done
    if by_worker:
        answers = small.worker.give(orders)
        return lambda: small.result(item, answers.result()), answers.done
    result = small.result(item, [carry_out(each) for each in orders])
    return lambda: result, lambda: True


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
