"""The keys and names of a text that are taken, and the next ones that are free."""

from __future__ import annotations

import re
from collections.abc import Collection

from ..catalogs import CatalogError, PlacedRecord

_NUMBERED = re.compile(r"(?P<stem>.*?)(?P<number>\d+)", re.DOTALL)


class TextKeys:
    """The keys of one kind of records, all with one ``prefix`` that tells the kind."""

    def __init__(self, prefix: str, taken: Collection[str]) -> None:
        self._prefix = prefix
        self._taken = set(taken)

    def __contains__(self, key: str) -> bool:
        return key in self._taken

    def take(self, key: str) -> None:
        """Let a key be another record's from now on."""
        self._taken.add(key)

    def own(self, key: str) -> str:
        """The key as its document has it."""
        return key.removeprefix(self._prefix)

    def free(self, record: PlacedRecord) -> str:
        """A key that is not taken, in the manner of a record's. Raises `CatalogError` where it has no number."""
        taken = {self.own(each) for each in self._taken}
        return self._prefix + next_free(self.own(record.key), taken, record)

    def next_number(self) -> str:
        """The next number, for records that are known by their place alone."""
        numbers = [int(own) for each in self._taken if (own := self.own(each)).isdigit()]
        return f"{self._prefix}{max(numbers, default=0) + 1}"


def next_free(text: str, taken: Collection[str], record: PlacedRecord) -> str:
    """A text with the next number that is free, in place of the number that it ends with.

    Raises `CatalogError` for a text that ends with none.
    """
    found = _NUMBERED.fullmatch(text)
    if found is None:
        raise no_free_key(record, text)
    stem, number = found.group("stem", "number")
    others = (_NUMBERED.fullmatch(each) for each in taken)
    highest = max(
        (int(each["number"]) for each in others if each and each["stem"].casefold() == stem.casefold()), default=0
    )
    return f"{stem}{max(highest, int(number)) + 1:0{len(number)}d}"


def with_number_of(text: str, other: str) -> str:
    """A text with the number that another one ends with, in place of its own; its letters keep their case."""
    found, number = _NUMBERED.fullmatch(text), _NUMBERED.fullmatch(other)
    return f"{found['stem']}{number['number']}" if found and number else other


def no_free_key(record: PlacedRecord, key: str) -> CatalogError:
    """The error for a key that another record has, and in place of which none can be written."""
    return CatalogError(
        f"The key {key} of the carried entry {record.recorded} is another entry's there, and no new one can be "
        "written.",
        next_step="Choose keep, bring-in or both for this catalog.",
    )
