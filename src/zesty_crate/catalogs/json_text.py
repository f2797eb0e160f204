"""The syntaxes ``json`` (RFC 8259), with or without comments and commas at the end, and ``json-lines``."""

from __future__ import annotations

import json
import re
from collections.abc import Container, Iterator
from typing import Any

from ..guides import EntriesPart, HoldingPart
from .json_tree import MEMBER, MEMBER_NAME, MemberTexts, Node, Tree, placed_tree
from .model import CatalogError, Cell
from .records import Record
from .spans import RecordName, Room
from .text_file import TextFile, Value
from .tree_spans import TextTree

# A string, which stays; a comment; or a comma with nothing behind it but comments and the end of a list or an object.
_COMMENT = r"//[^\r\n]*+|/\*(?:[^*]|\*(?!/))*+\*/"
_LENIENT = re.compile(rf'"(?:[^"\\]|\\.)*"|{_COMMENT}|,(?=(?:\s|{_COMMENT})*+[\]}}])', re.DOTALL)


class JsonText(TextTree):
    """A JSON text. The standard library reads it; our own slower reader does once places are asked for."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:
        self._title = title
        self._part = part
        self._is_lines = part.syntax == "json-lines"
        self._text = file.text
        super().__init__()

    def glue(self, between: str) -> str:
        """What stands between two members of a list or an object, or between two lines."""
        if self._is_lines and not between.strip():
            return between
        return between if between.strip() == "," else ", "

    def lead(self, record: Record) -> str | None:
        """Another line goes on a new one; what is within a line, behind a comma."""
        if not self._is_lines or not isinstance(record, Node):
            return None
        return "\n" if len(record.steps) == 1 else ", "

    def place_like(self, record: Record, container: str) -> Room | None:
        """A line goes to the end of a document of lines; anything else to a place like its own."""
        if not self._is_lines or container:
            return super().place_like(record, container)
        end = len(self._text.rstrip())
        return Room(end, end, "\n" if end else "", between="\n")

    def added(self, name: str, path: tuple[int, int], written: str) -> tuple[int, str] | None:
        """A member more, after that of the path."""
        return (path[1] + 1, f', "{name}": {written}') if MEMBER.fullmatch(name) else None

    def _around(self, cell: Cell) -> tuple[int, int]:
        start, marks = int(cell.row), cell.column == "json"
        return start - marks, start + cell.length + marks

    def _name_before(self, start: int, name: str) -> RecordName:
        end = start - 1  # only white space and a colon are between
        while self._text[end] != '"':
            end -= 1
        begin = self._text.rindex('"', 0, end)
        while _is_escaped(self._text, begin):
            begin = self._text.rindex('"', 0, begin)
        return RecordName(begin + 1, end, "json", name, name)

    def _inside(self, container: tuple[int, int]) -> Room:
        return Room(container[0] + 1, container[0] + 1)

    def values(self) -> Iterator[Value]:
        """Every name and value, and where lists and objects begin."""
        tree = self._any
        return tree.values({id(each) for part in self._part.entries for each in _name_lists(tree, part)})

    def path_texts(self, part: EntriesPart) -> MemberTexts | None:
        """The paths, where each is a member of a name that no other value has."""
        name = part.path[0].at or ""
        if not MEMBER.fullmatch(name):
            return None
        plain = self._plain = self._plain or self._read()
        return plain.member_texts(part.each, name, self._text)

    def _with_places(self, only: Container[str] | None) -> Tree:
        selectors = {each for part in self._part.entries for each in (*(p.at for p in part.path), *part.key_selectors)}
        values = placed_tree(self._text, with_names=only is None and MEMBER_NAME in selectors, only=only)
        return Tree(values if self._is_lines else values[0])

    def _loaded(self) -> Any:
        self._text, value = loaded_json(self._text)
        return value

    def _lines(self) -> list[Any]:
        """One value a line. Raises `ValueError` for the first that is none."""
        found = []
        for number, line in enumerate(self._text.split("\n"), start=1):  # only these end a line; texts may hold others
            if line.strip():
                try:
                    found.append(json.loads(line))
                except ValueError as error:
                    raise ValueError(f"line {number}: {error}") from error
        return found

    def _read(self) -> Tree:
        """Raises `CatalogError` when the text is not JSON, or nested too deeply."""
        try:
            return Tree(self._lines() if self._is_lines else self._loaded())
        except ValueError as error:
            raise CatalogError(
                f"The catalog {self._title} is not JSON: {error}.",
                next_step="It may be damaged; open it in its program.",
            ) from error
        except RecursionError as error:
            raise CatalogError(f"The catalog {self._title} is nested too deeply.") from error


def _name_lists(tree: Tree, part: EntriesPart) -> Iterator[list[Any]]:
    """The lists of names that a guide selects as paths."""
    selectors = [piece.at for piece in part.path if piece.holds == "names"]
    for record in tree.select(part) if selectors else ():
        yield from (found for each in selectors if (found := record.list_at(each)) is not None)


def loaded_json(text: str) -> tuple[str, Any]:
    """The same text as plain JSON, without comments and commas at the end; and its value. Raises `ValueError`."""
    try:
        return text, json.loads(text)
    except ValueError:
        plain = _without_comments(text)
        if plain == text:
            raise
        return plain, json.loads(plain)


def _without_comments(text: str) -> str:
    """The same text as plain JSON, in which everything is where it was: comments and commas at the end are spaces."""
    return _LENIENT.sub(lambda found: found[0] if found[0][0] == '"' else re.sub(r"[^\r\n]", " ", found[0]), text)


def _is_escaped(text: str, at: int) -> bool:
    """Whether an odd number of backslashes is right before a character."""
    start = at
    while start and text[start - 1] == "\\":
        start -= 1
    return bool((at - start) % 2)
