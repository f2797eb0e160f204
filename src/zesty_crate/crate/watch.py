"""How far long work on files is, told by parallel threads, and while a large file is on its way."""

from __future__ import annotations

import threading
import time

from ..progress import Progress, Tell
from .distribution import Sum

_EVERY_S = 0.2


class Watch:
    """Tells of one stage: what is done, and what of large files has moved besides."""

    def __init__(self, stage: str, total: Sum, tell: Tell) -> None:
        self._stage = stage
        self._total = total
        self._tell = tell
        self._done = Sum(0, 0)
        self._moving = 0
        self._told = 0.0
        self._lock = threading.Lock()

    def moved(self, size_bytes: int) -> None:
        """Some bytes of a large file went; called from where the work is done."""
        with self._lock:
            self._moving += size_bytes
            if time.monotonic() - self._told >= _EVERY_S:
                self._say()

    def flush(self, done: Sum, large_bytes: int = 0) -> None:
        """So much is done by now, with so many bytes of large files among it."""
        with self._lock:
            self._done, self._moving = done, max(0, self._moving - large_bytes)
            self._say()

    def _say(self) -> None:
        self._told = time.monotonic()
        size = min(self._done.size_bytes + self._moving, self._total.size_bytes)
        self._tell(Progress(self._stage, self._done.files, self._total.files, size, self._total.size_bytes))
