"""Rows that are too many to be held: in a working file, from which they are read again one after the other."""

from __future__ import annotations

import marshal
from collections.abc import Iterator
from itertools import islice
from pathlib import Path
from typing import Any

Row = tuple[Any, ...]
_TOGETHER = 2_000
_LENGTH = 8  # bytes that tell how many follow


class SpilledRows:
    """Tuples of texts, numbers, bytes and None. The file is for the process that wrote it, and for nobody else."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._number = 0

    def __len__(self) -> int:
        return self._number

    def extend(self, rows: Iterator[Row]) -> None:
        """Add all of some rows."""
        with self._path.open("ab" if self._number else "wb") as file:
            while some := list(islice(rows, _TOGETHER)):
                content = _marshalled(some)
                file.write(len(content).to_bytes(_LENGTH, "big") + content)
                self._number += len(some)

    def __iter__(self) -> Iterator[Row]:
        left = self._number
        if not left:
            return
        with self._path.open("rb") as file:
            while left:
                some: list[Row] = marshal.loads(file.read(int.from_bytes(file.read(_LENGTH), "big")))
                left -= len(some)
                yield from some

    def clear(self) -> None:
        """Let go of all."""
        self._number = 0
        self._path.unlink(missing_ok=True)


def _marshalled(rows: list[Row]) -> bytes:
    try:
        return marshal.dumps(rows)
    except ValueError:  # a text of a class of its own, of which the text is what counts
        return marshal.dumps([tuple(str(each) if isinstance(each, str) else each for each in row) for row in rows])
