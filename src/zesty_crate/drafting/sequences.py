"""Entries that are sequences of files: which fields tell their first and their last numbers."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from ..catalogs.known import FRAME
from ..paths import MachinePath
from .details import Details, Known
from .explain import Entries
from .manners import FRAMES, Judge


def say_sequences(
    details: Details, entries: Entries, leads: Sequence[tuple[int, str, MachinePath]], judge: Judge
) -> None:
    """That entries are sequences by a field in their names."""
    found = {row: numbers for row, _, path in leads if (numbers := _numbers_beside(path, FRAMES, judge))}
    first = _telling(entries, {row: numbers[0] for row, numbers in found.items()})
    last = _telling(entries, {row: numbers[-1] for row, numbers in found.items()})
    told = {"first": first, "last": last} if first and last and first != last else {}
    _say(details, told, f"{len(found):,} sequences of files")


def say_first_files(details: Details, entries: Entries, known: Sequence[Known], judge: Judge) -> bool:
    """That entries are sequences, each by the name of its first file; whether they are.

    Fields must tell for every entry where it begins and ends, the files of all these numbers must be there, and none of
    them may be another entry's, as the numbered pieces of an album are.
    """
    spans: dict[int, tuple[int, int]] = {}
    named = {each.path for each in known}
    for each in known:
        number = FRAME.search(each.path.name)
        if number is None:
            return False
        numbers = set(_numbers_beside(each.path, FRAME, judge))
        first = last = int(number.group())
        while last + 1 in numbers:
            last += 1
            if _numbered(each.path, number, last) in named:
                return False
        spans[each.row] = first, last
    if not any(last > first for first, last in spans.values()):
        return False
    told = {
        "first": _telling(entries, {row: first for row, (first, _) in spans.items()}),
        "last": _telling(entries, {row: last for row, (_, last) in spans.items()}),
        "span": _telling(entries, {row: last - first + 1 for row, (first, last) in spans.items()}),
    }
    if told["last"]:
        del told["span"]
    told = {name: selector for name, selector in told.items() if selector}
    if len(told) < 2 or "first" not in told:
        return False
    _say(details, told, f"{len(spans):,} sequences of files, each by the name of its first")
    return True


def _numbered(path: MachinePath, number: re.Match[str], other: int) -> MachinePath:
    """The same path with another number, as long as its own."""
    return path.renamed(f"{path.name[: number.start()]}{other:0{len(number.group())}d}{path.name[number.end() :]}")


def first_of(path: MachinePath, judge: Judge) -> MachinePath:
    """Any file of a sequence whose name has a field."""
    pattern = re.compile(r"\d+".join(map(re.escape, FRAMES.split(path.name))), re.IGNORECASE)
    return next((each.path for each in judge.finder.inside(path.parent) if pattern.fullmatch(each.path.name)), path)


def _numbers_beside(path: MachinePath, field: re.Pattern[str], judge: Judge) -> list[int]:
    """The numbers that files beside a path have in a field of its name."""
    found = field.search(path.name)
    around = [] if found is None else [path.name[: found.start()], path.name[found.end() :]]
    pattern = re.compile(r"(\d+)".join(map(re.escape, around)), re.IGNORECASE)
    names = (each.path.name for each in judge.finder.inside(path.parent))
    return sorted(int(match[1]) for name in names if (match := pattern.fullmatch(name)) and match.lastindex)


def _telling(entries: Entries, wanted: Mapping[int, int]) -> str:
    """The field that has these numbers in these records; empty for none."""
    fits = (
        each.selector
        for each in entries.table
        if each.selector not in entries.own
        and wanted
        and all(str(each.values[row]) == str(n) for row, n in wanted.items())
    )
    return next(fits, "")


def _say(details: Details, told: Mapping[str, str], evidence: str) -> None:
    details.say("numbered", dict(told), evidence)
    if details.told.get("key") in told.values():
        del details.told["key"]
    annotations = details.told.pop("annotations", [])
    if isinstance(annotations, list) and (rest := [each for each in annotations if each not in told.values()]):
        details.say("annotations", rest)
