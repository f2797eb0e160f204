"""The syntax ``yaml`` (YAML 1.1, and of 1.2 what is written alike), selected by JSONPath.

PyYAML composes the nodes and tells where each begins and ends; the values are made from these. A node that aliases
repeat is one value. Nothing is constructed by a tag.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from functools import cached_property
from typing import Any

from ..guides import HoldingPart
from .json_tree import MEMBER, Placed, PlacedList, PlacedObject, Tree
from .model import CatalogError, Cell
from .records import Record
from .spans import Room, Span
from .text_file import TextFile
from .tree_spans import NamedTreeSpans
from .yaml_nodes import CollectionNode, MappingNode, ScalarNode, SequenceNode, YamlNode, documents_in, places_of_names

_MOST_VALUES = 5_000_000  # with all that aliases repeat
_BLOCKS = ("|", ">")
_TAG = "tag:yaml.org,2002:"
_ONLY_READ = ("null", "bool")  # which have no text of their own
_LEAD = re.compile(r" *(?:- +)*")
_COMMENT = re.compile(r"(?:^|[ \t])#[^\r\n]*")


class YamlText(NamedTreeSpans, Tree):
    """A YAML text. Records are *in a block*, on lines of their own, or between brackets."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:  # noqa: ARG002  one form for every reader
        self._text = file.text
        root, brackets = _read(file.text, title)
        Tree.__init__(self, root)
        self._brackets = sorted(brackets)

    @cached_property
    def _placed(self) -> Tree:
        return self

    def glue(self, between: str) -> str:
        """What stands between two members: a comma, or a new line as the last one begins; comments are left out."""
        plain = _COMMENT.sub("", between)
        if plain.strip(" \r\n-,") == "" and plain == between:
            return between
        return ", " if "," in plain else f"\n{plain.rpartition(chr(10))[2]}"

    def lead(self, record: Record) -> str | None:
        """What stands before another record that follows one."""
        start = self.span_of(record)[0]
        if self._is_between_brackets(start):
            return ", "
        line = self._text[_line_start(self._text, start) : start]
        return "\n" + _indented(line, is_member=self.name_of(record) is None) if _LEAD.fullmatch(line) else None

    def _is_between_brackets(self, at: int) -> bool:
        """Whether a place is inside of brackets; where they begin is not."""
        number = bisect_left(self._brackets, (at,))
        return number > 0 and at < self._brackets[number - 1][1]

    def fitted(self, text: str, column: int, before: str, glue: str) -> str:
        """A record of another document as it goes behind what is ``before`` it; it began at another column there.

        Raises `CatalogError` for one in a block that would go between brackets.
        """
        if "," in glue or before.endswith(("[", "{")):
            if not any(_can_be_read(f"{marks[0]}{text}{marks[1]}") for marks in ("[]", "{}")):
                raise CatalogError(
                    "Its records are between brackets, and the carried ones on lines of their own.",
                    next_step="Have its program save both in one manner, or choose keep, bring-in or both.",
                )
            return text
        first, *others = re.split(r"\r\n|\r|\n", text)
        shift = len((before + glue).rpartition("\n")[2]) - column
        moved = (" " * shift + each if shift > 0 and each else each[min(-shift, _indent(each)) :] for each in others)
        return "\n".join([first, *moved])

    def added(self, name: str, path: Span, written: str) -> tuple[int, str] | None:
        """A member more, after that of the path."""
        if not MEMBER.fullmatch(name):
            return None
        if self._is_between_brackets(path[0]):
            return path[1], f", {name}: {written}"
        before = self._text[_line_start(self._text, path[0]) : path[0]]
        found = re.fullmatch(r"( *(?:- +)*)[^\s{\[,]+ *: +", before)
        if found is None:
            return None
        end = re.compile(r"[^\r\n]*").match(self._text, path[1])
        return (end.end() if end else path[1]), f"\n{_indented(found[1], is_member=False)}{name}: {written}"

    def span_of(self, record: Record) -> Span:
        """The characters that a record takes up. Raises `CatalogError` for one that others share, or share with it."""
        start, end = super().span_of(record)
        if end < start:
            raise CatalogError("Records that end with a text whose empty lines count cannot be merged.")
        if bisect_left(self._names, start) < bisect_left(self._names, end):
            raise CatalogError(
                "Records of it have names for what is repeated elsewhere (& and *), so that none can be put in alone.",
                next_step="Choose keep, bring-in or both for this catalog.",
            )
        return start, end

    @cached_property
    def _names(self) -> list[int]:
        return places_of_names(self._text) if re.search(r"[&*]", self._text) else []

    def _inside(self, container: Span) -> Room:
        """An empty pair of brackets becomes a block, unless it is between others."""
        start, end = container
        line = self._text[_line_start(self._text, start) : start]
        found = re.fullmatch(r"(?P<lead> *(?:- +)*)(?:[^\s{\[,\"'][^{\[,]*: +)?", line)
        if found is None or self._is_between_brackets(start):
            return Room(start + 1, start + 1, between=", ")
        deeper = _indented(found["lead"], is_member=False) + ("  " if line.strip(" -") else "")
        before = f"\n{deeper}{'- ' if self._text[start] == '[' else ''}"
        return Room(start, end, before if line.strip() else before.lstrip("\n"), between=before)


def _indented(lead: str, *, is_member: bool) -> str:
    """The beginning of the line after one that begins so; of a list's members each has a dash of its own."""
    blank = re.sub("-", " ", lead)
    if not is_member or "-" not in lead:
        return blank
    dash = lead.rindex("-")
    return f"{blank[:dash]}{lead[dash:]}"


def _line_start(text: str, at: int) -> int:
    return max(text.rfind("\n", 0, at), text.rfind("\r", 0, at)) + 1


def _indent(line: str) -> int:
    return len(line) - len(line.lstrip(" "))


def _can_be_read(text: str) -> bool:
    try:
        found = documents_in(text)
    except ValueError:
        return False
    return len(found) == 1 and isinstance(found[0], CollectionNode) and len(found[0].value) == 1


def _read(text: str, title: str) -> tuple[Any, list[Span]]:
    """The values of a document, of several in one file a list; and the outermost brackets. Raises `CatalogError`."""
    reader = _Values(title, text)
    try:
        values = [reader.of(each) for each in documents_in(text)]
    except ValueError as error:
        raise CatalogError(
            f"The catalog {title} is not YAML: {error}.", next_step="It may be damaged; open it in its program."
        ) from error
    except RecursionError as error:
        raise CatalogError(f"The catalog {title} is nested too deeply.") from error
    if not values or not isinstance(values[0], dict | list):
        raise CatalogError(
            f"The catalog {title} is not YAML with keys or lists.",
            next_step="It may be damaged; open it in its program.",
        )
    return values[0] if len(values) == 1 else values, reader.brackets


class _Values:
    """Makes values of nodes, each once."""

    def __init__(self, title: str, text: str) -> None:
        self._title = title
        self._text = text
        self._made: dict[int, tuple[Any, int]] = {}
        self._within: set[int] = set()
        self.brackets: list[Span] = []  # the outermost ones, with what is in them
        self._depth = 0

    def of(self, node: YamlNode) -> Any:
        """The value of a node and all below it."""
        return self._value(node)[0]

    def _value(self, node: YamlNode) -> tuple[Any, int]:
        """A value, and how many there are in it."""
        known = self._made.get(id(node))
        if known is None:
            if id(node) in self._within:
                raise CatalogError(f"The catalog {self._title} holds a value that contains itself.")
            self._within.add(id(node))
            known = self._made[id(node)] = self._new(node)
            self._within.discard(id(node))
            if known[1] > _MOST_VALUES:
                raise CatalogError(f"The catalog {self._title} repeats its values more than {_MOST_VALUES:,} times.")
        return known

    def _new(self, node: YamlNode) -> tuple[Any, int]:
        if not isinstance(node, CollectionNode) or not node.flow_style:
            return self._made_of(node)
        if not self._depth:
            self.brackets.append((node.start_mark.index, node.end_mark.index))
        self._depth += 1
        made = self._made_of(node)
        self._depth -= 1
        return made

    def _made_of(self, node: YamlNode) -> tuple[Any, int]:
        if isinstance(node, MappingNode):
            found, size = PlacedObject(), 1
            for key, inner in node.value:
                value, more = self._value(inner)
                found[_name(key)] = value
                size += more
            found.span = node.start_mark.index, self._end_of(node)
            return found, size
        if isinstance(node, SequenceNode):
            values = [self._value(each) for each in node.value]
            made = PlacedList(value for value, _ in values)
            made.span = node.start_mark.index, self._end_of(node)
            return made, 1 + sum(more for _, more in values)
        if not isinstance(node, ScalarNode):
            raise CatalogError(f"The catalog {self._title} holds a node of no known kind.")
        return _scalar(node), 1

    def _end_of(self, node: YamlNode) -> int:
        """Where a node ends, without the space and the comments that follow a block; -1 where that is not known."""
        while isinstance(node, CollectionNode) and not node.flow_style and node.value:
            last = node.value[-1]
            node = last[1] if isinstance(node, MappingNode) else last
        start, end = node.start_mark.index, node.end_mark.index
        if not isinstance(node, ScalarNode) or node.style not in _BLOCKS:
            return int(end)
        text = self._text[start:end]
        return -1 if "+" in text.partition("\n")[0] else int(start) + len(text.rstrip())


def _name(key: YamlNode) -> str:
    name = _scalar(key) if isinstance(key, ScalarNode) else ""
    return name if isinstance(name, Placed) else str(key.value) if isinstance(key, ScalarNode) else ""


def _scalar(node: ScalarNode) -> Any:
    text, kind = str(node.value), str(node.tag).removeprefix(_TAG)
    if kind not in _ONLY_READ and node.style not in _BLOCKS:
        start, end = node.start_mark.index, node.end_mark.index
        return Placed.at(text, Cell("", "yaml", start, end - start)) if end > start else text
    if kind == "null":
        return None
    return text.lower() == "true" if kind == "bool" else text
