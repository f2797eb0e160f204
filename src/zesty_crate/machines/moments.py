"""When two dates count as the same: file systems round them. And moments as people read them."""

from __future__ import annotations

import datetime as dt

SAME_MOMENT_NS = 2 * 10**9
"""FAT stores every other second, so dates that differ by less may be of the same file."""


def same_moment(one_ns: int, other_ns: int) -> bool:
    """Whether two dates, in nanoseconds since 1970, can be the date of the same file on two volumes."""
    return abs(one_ns - other_ns) <= SAME_MOMENT_NS


def to_the_second(moment: str) -> str:
    """A moment as ISO 8601 without parts of a second; empty for none."""
    return dt.datetime.fromisoformat(moment).isoformat(timespec="seconds") if moment else ""
