"""A process beside this one that lends a hand: Python does one thing at a time, and two processes do two."""

from __future__ import annotations

import contextlib
import subprocess
import threading
from collections import deque
from collections.abc import Iterator, Sequence
from concurrent.futures import Future
from typing import IO, NamedTuple

from ..systems import helper_command, worker_program
from ..systems.worker_program import Order

_AHEAD_BYTES = 1 << 20  # by how much that process may be ahead, where a pipe can be so large
_MOST_WAITING = 3  # packets that it has been sent and has not answered: one to do, and the next ones at hand


class Process(NamedTuple):
    """What it is asked, and what it tells."""

    asked: IO[bytes]
    told: IO[bytes]


@contextlib.contextmanager
def started(work: str) -> Iterator[Process]:
    """A helper for some work, as `helper_command` has it; gone afterwards. Raises `OSError` when none is started."""
    command = helper_command(work)
    pipe = subprocess.PIPE
    with subprocess.Popen(
        command, stdin=pipe, stdout=pipe, stderr=subprocess.DEVNULL, pipesize=_AHEAD_BYTES
    ) as process:
        asked, told = process.stdin, process.stdout
        if asked is None or told is None:
            raise ValueError("a process with pipes was asked for")
        try:
            yield Process(asked, told)
        finally:
            process.kill()
            with contextlib.suppress(OSError):  # what was not sent any more
                asked.close()


class Worker:
    """Takes orders for small files, a handful at a time, and does them in turn."""

    def __init__(self, process: Process) -> None:
        self._process = process
        self._waiting: deque[Future[list[str]]] = deque()
        self._is_there = True
        threading.Thread(target=self._listen, daemon=True).start()

    @property
    def is_free(self) -> bool:
        """Whether another handful would be begun soon."""
        return self._is_there and len(self._waiting) < _MOST_WAITING

    def give(self, orders: Sequence[Order]) -> Future[list[str]]:
        """Order something; what comes of each in the end, as `worker_program.carry_out` says it."""
        future: Future[list[str]] = Future()
        self._waiting.append(future)
        try:
            worker_program.send(list(orders), self._process.asked)
        except OSError:
            self._give_up()
        return future

    def end(self) -> None:
        """Let it do what it has at hand, and no more."""
        self._is_there = False
        with contextlib.suppress(OSError):
            self._process.asked.close()

    def _listen(self) -> None:
        try:
            while answer := worker_program.receive(self._process.told):
                self._waiting.popleft().set_result(answer)
        except (EOFError, ValueError, OSError, IndexError):
            pass  # it has ended, and with it what it was asked
        self._give_up()

    def _give_up(self) -> None:
        """Say of all that waits that nothing came of it."""
        self._is_there = False
        while self._waiting:
            with contextlib.suppress(IndexError):
                self._waiting.popleft().set_result([])


@contextlib.contextmanager
def a_worker() -> Iterator[Worker | None]:
    """A hand for a while; none where the system starts no other process."""
    with contextlib.ExitStack() as stack:
        try:
            process = stack.enter_context(started("files"))
        except OSError:
            yield None
        else:
            yield Worker(process)
