"""TOML files that people read and write: validated with every mistake by its line, and written to be read."""

from __future__ import annotations

import datetime as dt
import difflib
import re
import tomllib
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, Any, NamedTuple, TypeVar

from pydantic import AliasChoices, BaseModel, ConfigDict, ValidationError

from .errors import ZestyError

if TYPE_CHECKING:
    from pydantic.fields import FieldInfo
    from pydantic_core import ErrorDetails
    from tomlkit.items import String


class DocumentError(ZestyError):
    """A sheet, guide or plan that cannot be used as it is; ``details`` has a line for each mistake."""


def _dashed(field_name: str) -> str:
    return field_name.replace("_", "-")


class Part(BaseModel):
    """A table of a document. Keys are written with dashes; unknown keys are mistakes; values never change."""

    model_config = ConfigDict(extra="forbid", frozen=True, alias_generator=_dashed, populate_by_name=True)


Document = TypeVar("Document", bound=Part)


def parse_document(text: str, kind: type[Document], title: str) -> Document:
    """Read ``text`` as a document of this ``kind``; ``title`` names it in errors.

    Raises `DocumentError` with every mistake: its line, what was found, what was expected, and a near match.
    """
    try:
        document: Document = _read(text, kind)
    except tomllib.TOMLDecodeError as error:
        raise DocumentError(f"{title} is not valid TOML: {error}.", next_step="Correct that line.") from error
    except ValidationError as error:
        lines = KeyLines(text)
        faults = sorted((lines.line_of(fault["loc"]), _explained(fault, kind)) for fault in error.errors())
        number = "1 mistake" if len(faults) == 1 else f"{len(faults)} mistakes"
        raise DocumentError(
            f"{title} has {number}.",
            details=[f"line {line}: {explanation}" for line, explanation in faults],
            next_step="Correct the file and run the command again.",
        ) from error
    return document


@lru_cache(maxsize=64)  # the guides that ship are in each crate once more, word for word
def _read(text: str, kind: type[Document]) -> Document:
    return kind.model_validate(tomllib.loads(text))


class Line(NamedTuple):
    """A key of a table with its value, and a remark that stands behind it."""

    key: str
    value: str | int | dt.datetime | list[str]
    remark: str = ""


def table_text(name: str, lines: Iterable[Line], *, is_item: bool = False) -> str:
    """A table as TOML, in others where its name has dots; ``is_item`` makes it one item of an array of tables.

    >>> print(table_text("volume", [Line("anchor", "E:"), Line("label", "Spools", "a guess")], is_item=True), end="")
    [[volume]]
    anchor = "E:"
    label = "Spools" # a guess
    """
    import tomlkit  # not needed to read one

    table = tomlkit.table()
    for key, value, remark in lines:
        item = _readable(value) if isinstance(value, str) else tomlkit.item(value)
        table.add(key, item.comment(remark) if remark else item)
    document = tomlkit.document()
    if is_item:
        items = tomlkit.aot()
        items.append(table)
        document.append(name, items)
    else:
        *outer, last = name.split(".")
        for each in reversed(outer):
            above = tomlkit.table(is_super_table=True)
            above.append(last, table)
            table, last = above, each
        document.append(last, table)
    return document.as_string()


def _readable(text: str) -> String:
    """Backslashes read better in single quotes, wherever TOML can write a text so."""
    import tomlkit

    plain = "'" not in text and text.isprintable()
    return tomlkit.string(str(text), literal="\\" in text and plain)


class KeyLines:
    """Where each key of a TOML text stands, so that a mistake can be named by its line."""

    _TABLE = re.compile(r"\s*(\[\[?)\s*([^\]]+?)\s*\]")
    _KEY = re.compile(r"""\s*((?:[A-Za-z0-9_.\-]|"[^"]*"|'[^']*')+)\s*=""")

    def __init__(self, text: str) -> None:
        self._lines: dict[tuple[str | int, ...], int] = {(): 1}
        table: tuple[str | int, ...] = ()
        for number, line in enumerate(text.splitlines(), start=1):
            if header := self._TABLE.match(line):
                table = self._resolved(_names(header.group(2)), header.group(1) == "[[")
                self._lines.setdefault(table, number)
            elif key := self._KEY.match(line):
                self._lines.setdefault((*table, *_names(key.group(1))), number)

    def line_of(self, place: Sequence[str | int]) -> int:
        """The line of a key, or of the nearest table around it."""
        loc = tuple(_dashed(step) if isinstance(step, str) else step for step in place)
        while loc not in self._lines:
            loc = loc[:-1]
        return self._lines[loc]

    def _resolved(self, names: list[str], opens_item: bool) -> tuple[str | int, ...]:
        """A table header as the path to it, with the number of the current item of each array on the way."""
        path: tuple[str | int, ...] = ()
        for position, name in enumerate(names):
            path = (*path, name)
            last = self._last_item(path)
            if opens_item and position == len(names) - 1:
                path = (*path, last + 1)
            elif last >= 0:
                path = (*path, last)
        return path

    def _last_item(self, path: tuple[str | int, ...]) -> int:
        number = -1
        while (*path, number + 1) in self._lines:
            number += 1
        return number


def _names(dotted: str) -> list[str]:
    return [bare or quoted.strip("\"'") for bare, quoted in re.findall(r"([^\s.\"']+)|(\"[^\"]*\"|'[^']*')", dotted)]


# What a value must be, in the words of a person who writes TOML, by the validator's name of the fault.
_EXPECTED = {
    "string_type": 'a text in quotes, such as "text"',
    "string_too_short": "a text that is not empty",
    "string_too_long": "a text of at most {max_length} characters",
    "string_pattern_mismatch": "a text like the regular expression {pattern}",
    "int_type": "a whole number",
    "int_parsing": "a whole number",
    "int_from_float": "a whole number",
    "bool_type": "true or false",
    "bool_parsing": "true or false",
    "tuple_type": 'a list in square brackets, such as ["one", "two"]',
    "list_type": 'a list in square brackets, such as ["one", "two"]',
    "too_short": "a list of at least {min_length}",
    "dict_type": "a table of keys with values",
    "model_type": "a table of keys with values",
    "greater_than_equal": "a number of at least {ge}",
    "datetime_type": "a date with a time, such as 2026-05-01T18:30:00Z",
}


def _explained(fault: ErrorDetails, kind: type[Part]) -> str:
    place = ".".join(str(step + 1) if isinstance(step, int) else _dashed(step) for step in fault["loc"])
    if fault["type"] == "extra_forbidden":
        known = _known_keys(kind, fault["loc"][:-1])
        near = difflib.get_close_matches(str(fault["loc"][-1]), known, n=1)
        hint = f'did you mean "{near[0]}"?' if near else f"known keys are {', '.join(known)}."
        return f"{place} is not a known key; {hint}"
    if fault["type"] == "missing":
        return f"{place} is missing."
    found = fault["input"]
    said = "has the wrong form" if isinstance(found, dict | list) else f"is {found!r}"
    return f"{place or 'the file'} {said}; expected: {_expectation(fault)}."


def _expectation(fault: ErrorDetails) -> str:
    expected = fault.get("ctx", {}).get("expected")
    if expected:
        near = difflib.get_close_matches(str(fault["input"]), re.findall(r"'([^']+)'", str(expected)), n=1)
        return str(expected) + (f' (did you mean "{near[0]}"?)' if near else "")
    if fault["type"] in _EXPECTED:
        return _EXPECTED[fault["type"]].format(**fault.get("ctx", {}))
    return fault["msg"].removeprefix("Value error, ").removeprefix("Input should be ").rstrip(".")


def _known_keys(kind: type[Part], place: Sequence[str | int]) -> list[str]:
    """The keys of the table at ``place`` inside a document of this ``kind``."""
    current: Any = kind
    for step in place:
        if isinstance(step, int):
            continue
        fields = getattr(current, "model_fields", {})
        field = next((f for name, f in fields.items() if step in (_written(name, f), name)), None)
        current = _part_inside(field.annotation) if field else None
    return [_written(name, field) for name, field in getattr(current, "model_fields", {}).items()]


def _written(name: str, field: FieldInfo) -> str:
    """How people write a key: by the first of its names."""
    alias = field.validation_alias
    first = alias.choices[0] if isinstance(alias, AliasChoices) else alias
    return first if isinstance(first, str) else _dashed(name)


def _part_inside(annotation: Any) -> Any:
    if isinstance(annotation, type) and issubclass(annotation, Part):
        return annotation
    inside = (_part_inside(argument) for argument in getattr(annotation, "__args__", ()))
    return next((part for part in inside if part is not None), None)
