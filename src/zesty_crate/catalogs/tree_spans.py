"""Where the values of a tree stand in its text: what JSON and property lists in XML have in common."""

from __future__ import annotations

import re
from abc import abstractmethod
from collections.abc import Collection, Container, Iterator
from functools import cached_property
from typing import Any

from ..guides import EntriesPart
from .json_tree import MEMBER, MEMBER_NAME, Node, Placed, PlacedInteger, PlacedList, PlacedNumber, PlacedObject, Tree
from .model import CatalogError, Cell
from .records import OuterRecord, Record
from .spans import RecordName, Room, SelfStanding, Span

_EVERY_MEMBER = re.compile(r"(?P<container>.*?)(?:\[\*\]|\.\*)")


class TreeSpans(SelfStanding):
    """A tree in a text; how the text writes it is told by the syntax."""

    _text: str

    @cached_property
    @abstractmethod
    def _placed(self) -> Tree:
        """The tree whose values know their places."""

    @abstractmethod
    def _around(self, cell: Cell) -> Span:
        """A scalar with its marks, by the place of what is between them."""

    @abstractmethod
    def _name_before(self, start: int, name: str) -> RecordName:
        """The name of the member whose value begins at a place."""

    @abstractmethod
    def _inside(self, container: Span) -> Room:
        """Where the first value of a list or an object goes that has none."""

    def span_of(self, record: Record) -> Span:
        """The characters that a value takes up, with its name if it has one."""
        node = _node(record)
        start, end = self._span(node.plain)
        name = self._whole_name(node)
        return (start if name is None else min(start, name[0])), end

    def _span(self, value: Any) -> Span:
        if isinstance(value, PlacedList | PlacedObject):
            return value.span
        if isinstance(value, Placed | PlacedInteger | PlacedNumber):
            return self._around(value.cell)
        raise CatalogError("Records that are truths or nulls cannot be merged.")

    def _whole_name(self, node: Node) -> Span | None:
        name = self.name_of(node)
        return None if name is None else self._around(Cell("", name.quoting, name.start, name.end - name.start))

    def name_of(self, record: Record) -> RecordName | None:
        """The name of a member of an object."""
        node = _node(record)
        step = node.steps[-1] if node.steps else 0
        return self._name_before(self._span(node.plain)[0], step) if isinstance(step, str) else None

    def names_at(self, container: str) -> Collection[str]:
        """The names of all members of the objects that are like this one."""
        found = (value for place, value in self._containers() if place == container and isinstance(value, dict))
        return {name for value in found for name in value}

    def container_of(self, record: Record) -> str:
        """The names on the way to a record; of objects in lists, what they say of themselves."""
        node = _node(record)
        around = zip(reversed(node.above[:-1]), node.steps, strict=False)
        return "".join(f"/{_told(step, value)}" for value, step in around)

    def place_like(self, record: Record, container: str) -> Room | None:  # noqa: ARG002
        """In the first list or object at the same place, if nothing is in it."""
        found = next((value for place, value in self._containers() if place == container), None)
        return self._first_in(found)

    def _containers(self) -> Iterator[tuple[str, PlacedList | PlacedObject]]:
        """Every list and object, with what tells its place."""
        pending: list[tuple[str, Any]] = [("", next(self._placed.outer("$")).plain)]
        while pending:
            place, value = pending.pop()
            if isinstance(value, PlacedList | PlacedObject):
                yield place, value
                steps = value.items() if isinstance(value, dict) else enumerate(value)
                pending += reversed([(f"{place}/{_told(step, each)}", each) for step, each in steps])

    def _first_in(self, container: Any) -> Room | None:
        is_empty = isinstance(container, PlacedList | PlacedObject) and not container
        return self._inside(container.span) if is_empty else None

    def room(self, each: str, within: OuterRecord | None) -> Room | None:
        """Inside the list or the object of which a selector selects every member."""
        whole = _EVERY_MEMBER.fullmatch(each)
        if whole is None:
            return None
        selector = whole["container"] or "$"
        found = next(self._placed.outer(selector) if within is None else _node(within).inside(selector), None)
        return None if found is None else self._first_in(found.plain)

    def written(self, cell: Cell) -> str:
        """A value with its marks."""
        return self._text[slice(*self._around(cell))]

    def placed_outer(self, each: str) -> Iterator[Node]:
        """The values that an absolute JSONPath selects, to look inside, with their places."""
        return self._placed.outer(each)


class TextTree(TreeSpans):
    """A tree in a text that is read sooner, and takes less room, while nobody asks where things are in it."""

    def __init__(self) -> None:
        self._plain: Tree | None = self._read()

    @abstractmethod
    def _read(self) -> Tree:
        """The tree without places. Raises `CatalogError` for a text that is not of the syntax."""

    @abstractmethod
    def _with_places(self, only: Container[str] | None) -> Tree:
        """The tree whose values know their places; perhaps ``only`` members of some names."""

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing in it to select from."""
        return self._any.is_empty

    @property
    def _any(self) -> Tree:
        return self._plain or self._placed

    @cached_property
    def _placed(self) -> Tree:
        self._plain = None  # so that it is not held twice
        return self._with_places(None)

    def select(self, part: EntriesPart) -> Iterator[Node]:
        """The values that an absolute JSONPath selects, with their places."""
        return self._placed.select(part)

    def select_paths(self, part: EntriesPart) -> Iterator[Node]:
        """The same values, of which only those of paths know their places: most of a large document are no paths."""
        selectors = {piece.at or "" for piece in part.path}
        if not all(MEMBER.fullmatch(each) for each in selectors):
            return self.select(part)
        self._plain = None
        return self._with_places(selectors).select(part)

    def told(self, part: EntriesPart) -> Iterator[Node]:
        """The same values, without places."""
        return self.outer(part.each)

    def outer(self, each: str) -> Iterator[Node]:
        """The values that an absolute JSONPath selects, to look inside."""
        if self._plain is None:
            self._plain = self._read()
        return self._plain.outer(each)


class NamedTreeSpans(TreeSpans):
    """A tree whose names know their places, in a text that writes a scalar with its marks as one."""

    def name_of(self, record: Record) -> RecordName | None:
        """The name of a member of an object."""
        node = _node(record)
        if not node.steps or not isinstance(node.steps[-1], str):
            return None
        found = node.value(MEMBER_NAME)
        if found is None or found.cell is None:
            raise CatalogError("The name of a record is no text, so that its place is not known.")
        start = int(found.cell.row)
        return RecordName(start, start + found.cell.length, found.cell.column, found.text, found.text)

    def _around(self, cell: Cell) -> Span:
        return int(cell.row), int(cell.row) + cell.length

    def _name_before(self, start: int, name: str) -> RecordName:
        raise CatalogError(f"The place of the name {name} before {start} is not known.")


def _told(step: int | str, value: Any) -> str:
    """A step on the way to a value: its name; in a list, what an object says of itself."""
    if isinstance(step, str):
        return step
    return (
        f"*{sorted((k, str(v)) for k, v in value.items() if not isinstance(v, dict | list))}"
        if isinstance(value, dict)
        else "*"
    )


def _node(record: Record) -> Node:
    if not isinstance(record, Node):
        raise CatalogError("This is no value.")
    return record
