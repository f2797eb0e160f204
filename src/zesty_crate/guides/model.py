"""The guide language: how one program, or one open format, keeps its things. A guide is data; nothing in it is run."""

from __future__ import annotations

import re
from typing import Annotated, Literal, Self

from pydantic import (
    AfterValidator,
    AliasChoices,
    BeforeValidator,
    Field,
    StringConstraints,
    field_validator,
    model_validator,
)

from ..documents import Part
from ..paths import Spelling

Text = Annotated[str, StringConstraints(min_length=1)]
Id = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]*$")]


class GuidePart(Part):
    """``[guide]``"""

    id: Id
    title: Text
    language: Literal[1]


def _pattern(text: str) -> str:
    try:
        re.compile(text)
    except re.error as error:
        raise ValueError(f"a regular expression ({error})") from error
    return text


def _as_list(value: object) -> object:
    return (value,) if isinstance(value, str) else value


Pattern = Annotated[Text, AfterValidator(_pattern)]


class SystemTexts(Part):
    """A place, written once for each system that has it."""

    windows: Text | None = None
    macos: Text | None = None
    linux: Text | None = None


class PiecePart(Part):
    """One piece of a recorded path, selected from the entry itself, or in SQLite from a ``table`` reached ``via``."""

    at: Text = Field(alias="column", validation_alias=AliasChoices("at", "column"))
    table: Text | None = None
    via: Text | None = None

    @model_validator(mode="after")
    def _table_with_via(self) -> Self:
        if (self.table is None) != (self.via is None):
            raise ValueError('"table" and "via" together, or neither of them')
        return self


class EntriesPart(Part):
    """``[[holding.entries]]``: where a catalog keeps its entries, and what is known of each.

    ``table`` (SQLite) or ``each`` (a selector of the syntax) tells which are entries; ``path``, ``key``, ``size`` and
    ``handwork`` select from one. ``remote`` tells entries that have no file by design: an SQL condition, or a selector
    that finds something; ``remote-like`` does so by a regular expression over the recorded path.
    """

    table: Text = ""
    each: Text = ""
    key: Text = ""
    path: tuple[PiecePart, ...] = Field(min_length=1)
    spelling: Spelling = Spelling.NATIVE
    where: Text | None = None
    remote: Text | None = None
    remote_like: Pattern | None = None
    size: Text | None = None
    handwork: tuple[Text, ...] = ()

    @field_validator("path")
    @classmethod
    def _innermost_is_own(cls, path: tuple[PiecePart, ...]) -> tuple[PiecePart, ...]:
        if path[-1].table is not None:
            raise ValueError("the last piece to be one of the entry's own")
        return path


class MembersPart(Part):
    """Which entries a group has: a table of pairs, with the column that gives their order."""

    table: Text
    group: Text
    entry: Text
    order: Text


class GroupsPart(Part):
    """``[[holding.groups]]``: named, ordered sets of entries."""

    table: Text
    key: Text
    name: Text
    parent: Text | None = None
    members: MembersPart


class HoldingPart(Part):
    """``[[holding]]``: one thing that the program keeps: ``at`` one place, or found anywhere by a ``sweep``.

    A ``cache`` is what the program makes again by itself: it is counted and not carried.

    ``encoding`` (one, or several of which the first that fits counts), ``comment``, ``delimiter`` and ``namespaces``
    tell how a text catalog is read.
    """

    id: Id
    kind: Literal[
        "media", "catalog", "presets", "settings", "content-pack", "companions", "project", "installer", "cache"
    ]
    at: Text = ""
    sweep: tuple[Text, ...] = ()
    title: str = ""
    factory: tuple[Text, ...] = ()
    syntax: Literal["sqlite", "xml", "json", "plist", "lines", "delimited", "ini", "reg"] | None = None
    encoding: Annotated[tuple[Text, ...], BeforeValidator(_as_list)] = ()
    comment: Text | None = None
    delimiter: Annotated[str, StringConstraints(min_length=1, max_length=1)] = ","
    namespaces: dict[str, Text] = Field(default_factory=dict)
    entries: tuple[EntriesPart, ...] = ()
    groups: tuple[GroupsPart, ...] = ()

    @model_validator(mode="after")
    def _at_one_place_or_anywhere(self) -> Self:
        if bool(self.at) == bool(self.sweep):
            raise ValueError('either "at" or "sweep"')
        if self.sweep and self.factory:
            raise ValueError('"factory" only with "at"')
        return self

    @model_validator(mode="after")
    def _catalog_is_whole(self) -> Self:
        if self.kind == "catalog" and not (self.syntax and self.entries):
            raise ValueError('a catalog with "syntax" and at least one [[holding.entries]]')
        if self.kind != "catalog" and (self.syntax or self.entries or self.groups):
            raise ValueError('"syntax", entries and groups only in a holding of the kind "catalog"')
        return self

    @model_validator(mode="after")
    def _entries_fit_the_syntax(self) -> Self:
        for part in self.entries:
            if self.syntax == "sqlite" and not (part.table and part.key):
                raise ValueError('entries with "table" and "key", as a catalog in SQLite needs them')
            if self.syntax != "sqlite" and (part.table or part.where or any(piece.table for piece in part.path)):
                raise ValueError('"table", "via" and "where" only in a catalog of the syntax "sqlite"')
            if self.syntax not in ("sqlite", "delimited") and not part.each:
                raise ValueError(f'entries with "each", as a catalog in {self.syntax} needs it')
        if self.groups and self.syntax != "sqlite":
            raise ValueError('groups only in a catalog of the syntax "sqlite"')
        return self


class WholeGuide(Part):
    """A whole guide file."""

    guide: GuidePart
    places: dict[str, SystemTexts] = Field(default_factory=dict)
    holding: tuple[HoldingPart, ...] = ()

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Self:
        ids = [holding.id for holding in self.holding]
        twice = sorted({each for each in ids if ids.count(each) > 1})
        if twice:
            raise ValueError(f"each holding to have an id of its own ({', '.join(twice)} stands twice)")
        return self
