"""A document as tables: the records of each kind that it holds, with the values of their fields."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import count
from typing import Any

from ..paths import MachinePath

MOST_RECORDS = 3_000  # of one kind that are looked at, from all over the document
MOST_COMPARED = 400  # of these, on which explanations are tried
MOST_FIELDS = 2_000  # of a record
new_identity = count(1).__next__  # of records, through all documents


class Located(str):
    """A text, and which place in its document that is, since several kinds of records may have one text in common."""

    __slots__ = ("cell",)
    cell: tuple[object, ...]

    @classmethod
    def at(cls, text: str, *cell: object) -> Located:
        """A text at a place."""
        made = cls(text)
        made.cell = cell
        return made


@dataclass(slots=True)
class Field:
    """A field of a record as a guide names it, with its value in each: a text, a number, bytes, a list of names, None.

    One from ``outside`` the record (of an element around it) may complete a path, and is nothing that the record has.
    """

    selector: str
    values: list[Any] = field(default_factory=list)
    outside: bool = False

    @property
    def texts(self) -> list[str]:
        """Those values that are texts, and not empty."""
        return [each for each in self.values if isinstance(each, str) and each]


@dataclass(slots=True)
class Table:
    """The records of one kind in documents of one kind.

    ``each`` is how a guide selects them, in a database the table; ``at`` is for each record the document that it is in.
    ``count`` is how many there are, of which these may be some. ``path`` are the names of lists and objects, or of
    elements, that lead to them. ``more`` are other keys that a guide needs to select them.
    """

    each: str
    fields: dict[str, Field] = field(default_factory=dict)
    at: list[MachinePath] = field(default_factory=list)
    count: int = 0
    path: tuple[str, ...] = ()
    more: dict[str, str] = field(default_factory=dict)
    records: str | dict[str, object] | None = None  # how those of a binary document are laid out
    namespaces: dict[str, str] = field(default_factory=dict)  # by the prefixes that selectors have
    identities: list[int] = field(default_factory=list)  # of the records; 0 where none has others inside
    parents: list[int] = field(default_factory=list)  # the identity of the record around each

    def add(
        self,
        at: MachinePath,
        values: Iterable[tuple[str, Any]],
        *,
        outside: Sequence[str] = (),
        identity: int = 0,
        parent: int = 0,
    ) -> None:
        """Add a record."""
        self.count += 1
        if len(self.at) >= MOST_RECORDS:
            return
        self.at.append(at)
        self.identities.append(identity)
        self.parents.append(parent)
        number = len(self.at)
        for selector, value in values:
            known = self.fields.get(selector)
            if known is None and len(self.fields) >= MOST_FIELDS:  # as of an object whose names are data
                continue
            if known is None:
                known = self.fields[selector] = Field(selector, [], selector in outside)
            known.values += [None] * (number - 1 - len(known.values))
            if len(known.values) < number:  # of a field that comes twice, the first counts, as for a guide
                known.values.append(value)

    def finish(self) -> Table:
        """Give every field a value in every record."""
        for each in self.fields.values():
            each.values += [None] * (len(self.at) - len(each.values))
        return self

    def __iter__(self) -> Iterator[Field]:
        return iter(self.fields.values())


def evenly(length: int, most: int) -> list[int]:
    """Some of the numbers below a length, from all over it."""
    if length <= most:
        return list(range(length))
    return sorted({number * length // most for number in range(most)})


def merged(tables: Iterable[Table]) -> Table:
    """Tables of one kind from several documents as one, with some records of each."""
    found = [*tables]
    whole = Table(found[0].each, path=found[0].path, more=found[0].more)
    whole.records = found[0].records
    whole.namespaces = {name: space for each in reversed(found) for name, space in each.namespaces.items()}
    share = max(1, MOST_RECORDS // len(found))
    for each in found:
        for number in evenly(len(each.at), share):
            outside = [one.selector for one in each if one.outside]
            values = ((one.selector, one.values[number]) for one in each)
            of = each.identities[number], each.parents[number]
            whole.add(each.at[number], values, outside=outside, identity=of[0], parent=of[1])
        whole.count += each.count - min(len(each.at), share)
    return whole.finish()
