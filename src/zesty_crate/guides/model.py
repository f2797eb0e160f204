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


Moment = Literal[
    "unix-seconds", "unix-milliseconds", "unix-nanoseconds", "iso-8601", "seconds-since-2001", "windows-filetime"
]
Pattern = Annotated[Text, AfterValidator(_pattern)]


class SystemTexts(Part):
    """A place, written once for each system that has it."""

    windows: Text | None = None
    macos: Text | None = None
    linux: Text | None = None


class ProgramPart(Part):
    """``[program]``: what is so of the program itself.

    ``first-start`` is a place that exists once the program has been started; ``installer`` is where its installer is
    kept, the last name with wildcards; ``seats`` is the number of computers that its licence allows.
    """

    processes: tuple[Text, ...] = ()
    versions: Literal["same", "same-or-newer", "any"] = "any"
    first_start: Text | None = None
    seats: int | None = Field(default=None, ge=1)
    installer: Text | None = None


class ByHandPart(Part):
    """``[[by-hand]]``: what only a person can do, and when."""

    when: Literal["before-pack", "before-unpack", "after-unpack", "after-check", "before-retire"]
    do: Text


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


class ContentPart(Part):
    """What a catalog knows of a file's content: a digest in hexadecimal, and by which method."""

    at: Text = Field(alias="column", validation_alias=AliasChoices("at", "column"))
    method: Literal["md5", "sha1", "sha256", "sha512"] = Field(alias="as")


class ModifiedPart(Part):
    """When a catalog says that a file was modified, and how it writes that."""

    at: Text = Field(alias="column", validation_alias=AliasChoices("at", "column"))
    form: Moment = Field(alias="as")


class NumberedPart(Part):
    """``numbered``: an entry is a sequence of files whose names differ by a number.

    Without ``suffix`` the last name of the path has a field for the number (``frame.%04d.png``, ``frame.####.png``);
    with it, the path is the folder, and names are put together of ``prefix``, the number with ``digits``, and
    ``suffix``. ``first``, ``step``, and ``last`` or the ``span`` from the first number on, tell which numbers there
    are: selectors, or whole numbers. Without them every number that is there belongs to it.
    """

    prefix: Text | None = None
    suffix: Text | None = None
    digits: Text | int | None = None
    first: Text | int | None = None
    last: Text | int | None = None
    span: Text | int | None = None
    step: Text | int | None = None

    @model_validator(mode="after")
    def _an_end_with_a_beginning(self) -> Self:
        if self.last is not None and self.span is not None:
            raise ValueError('either "last" or "span"')
        if self.first is None and (self.last is not None or self.span is not None or self.step is not None):
            raise ValueError('"first", where "last", "span" or "step" is given')
        return self


class EntriesPart(Part):
    """``[[holding.entries]]``: where a catalog keeps its entries, and what is known of each.

    ``table`` (SQLite) or ``each`` (a selector of the syntax) tells which are entries; ``path``, ``key``, ``name``,
    ``size``, ``content``, ``modified`` and ``handwork`` select from one. ``remote`` tells entries that have no file by
    design: an SQL condition, or a selector that finds something; ``remote-like`` does so by a regular expression over
    the recorded path. ``values`` (ini, reg) makes an entry of each value of a section whose text it matches.

    An entry is one file, unless ``folder`` says that it is a folder, or ``numbered`` that it is a sequence.
    ``beside`` are patterns of names that belong to the file and stand beside it (``{name}.peaks``, ``{stem}.cue``).
    """

    table: Text = ""
    each: Text = ""
    key: Text = ""
    path: tuple[PiecePart, ...] = Field(min_length=1)
    spelling: Spelling = Spelling.NATIVE
    where: Text | None = None
    remote: Text | None = None
    remote_like: Pattern | None = None
    values: Pattern | None = None
    name: Text | None = None
    size: Text | None = None
    content: ContentPart | None = None
    modified: ModifiedPart | None = None
    handwork: tuple[Text, ...] = ()
    folder: bool = False
    numbered: NumberedPart | None = None
    beside: tuple[Text, ...] = ()

    @property
    def known(self) -> tuple[str, ...]:
        """Every selector of what is known of an entry, but for its path, its key and the handwork."""
        numbered = self.numbered.model_dump().values() if self.numbered else ()
        known = (self.name, self.size, self.content and self.content.at, self.modified and self.modified.at, *numbered)
        return tuple(each for each in known if isinstance(each, str))

    @model_validator(mode="after")
    def _one_kind_of_thing(self) -> Self:
        if self.folder and self.numbered:
            raise ValueError('either "folder" or "numbered"')
        return self

    @field_validator("path")
    @classmethod
    def _innermost_is_own(cls, path: tuple[PiecePart, ...]) -> tuple[PiecePart, ...]:
        if path[-1].table is not None:
            raise ValueError("the last piece to be one of the entry's own")
        return path


class MembersPart(Part):
    """Which entries a group has, by their keys.

    In SQLite a ``table`` of pairs, with the column that gives their ``order``; elsewhere ``each`` selects the members
    from the group, in the order of the document, and ``entry`` the entry's key from a member.
    """

    table: Text = ""
    group: Text = ""
    entry: Text
    order: Text = ""
    each: Text = ""


class GroupsPart(Part):
    """``[[holding.groups]]``: named, ordered sets of entries. ``whole`` makes one group of each document."""

    table: Text = ""
    each: Text = ""
    key: Text = ""
    name: Text = ""
    parent: Text | None = None
    members: MembersPart | None = None
    whole: bool = False


Syntaxes = Literal["sqlite", "xml", "json", "plist", "lines", "delimited", "ini", "reg", "turtle"]
CATALOG_KINDS = ("catalog", "project", "registrations")
_BY_RECORDS = ("xml", "json", "plist")


class HoldingPart(Part):
    """``[[holding]]``: one thing that the program keeps: ``at`` one place, found anywhere by a ``sweep``, or kept in
    the system's registry below a ``branch``.

    The last name of ``at`` may have wildcards. ``whole-folder`` takes with a swept file the folder that it is in. A
    ``cache``, by kind or by ``class``, is what the program makes again by itself: it is counted and not carried.

    ``encoding`` (one, or several of which the first that fits counts), ``comment``, ``delimiter`` and ``namespaces``
    tell how a text catalog is read; ``inside`` names the member of a ZIP that it is. ``carry`` (lines) are expressions
    whose groups hold for the lines that follow, ``anywhere`` has ``each`` searched for within lines, and ``includes``
    finds documents that are read as part of this one. ``relative-to`` tells where relative paths start.

    What is ``machine-bound`` (outputs, calibrations) may be of no use on another computer, and can be left out.

    ``registers`` names the holding whose folders are what these registrations are about.
    """

    id: Id
    kind: Literal[
        "media", "catalog", "presets", "settings", "content-pack", "companions", "project", "installer", "cache",
        "registrations",
    ]  # fmt: skip
    at: Text = ""
    sweep: tuple[Text, ...] = ()
    branch: Text = ""
    whole_folder: bool = False
    machine_bound: bool = False
    title: str = ""
    factory: tuple[Text, ...] = ()
    media_class: Literal["original", "stand-in", "cache"] | None = Field(default=None, alias="class")
    syntax: Syntaxes | None = None
    inside: Text | None = None
    encoding: Annotated[tuple[Text, ...], BeforeValidator(_as_list)] = ()
    comment: Text | None = None
    delimiter: Annotated[str, StringConstraints(min_length=1, max_length=1)] = ","
    namespaces: dict[str, Text] = Field(default_factory=dict)
    carry: tuple[Pattern, ...] = ()
    anywhere: bool = False
    includes: Pattern | None = None
    relative_to: Literal["folder", "document"] = "folder"
    registers: Text | None = None
    entries: tuple[EntriesPart, ...] = ()
    groups: tuple[GroupsPart, ...] = ()

    @property
    def is_regenerable(self) -> bool:
        """Whether the program makes it again by itself."""
        return self.kind == "cache" or self.media_class == "cache"

    @model_validator(mode="after")
    def _at_one_place_or_anywhere(self) -> Self:
        if [bool(self.at), bool(self.sweep), bool(self.branch)].count(True) != 1:
            raise ValueError('one of "at", "sweep" and "branch"')
        if self.factory and not self.at:
            raise ValueError('"factory" only with "at"')
        if self.whole_folder and not self.sweep:
            raise ValueError('"whole-folder" only with "sweep"')
        if self.branch and (self.kind != "registrations" or self.syntax != "reg"):
            raise ValueError('"branch" only with kind = "registrations" and syntax = "reg"')
        if self.media_class and self.kind != "media":
            raise ValueError('"class" only with kind = "media"')
        return self

    @model_validator(mode="after")
    def _catalog_is_whole(self) -> Self:
        if self.kind in ("catalog", "registrations") and not (self.syntax and self.entries):
            raise ValueError(f'{self.kind} with "syntax" and at least one [[holding.entries]]')
        if self.kind not in CATALOG_KINDS and (self.syntax or self.entries or self.groups):
            kinds = ", ".join(CATALOG_KINDS)
            raise ValueError(f'"syntax", entries and groups only in a holding of the kinds {kinds}')
        if bool(self.syntax) != bool(self.entries):
            raise ValueError('"syntax" and [[holding.entries]] together, or neither of them')
        if self.registers and self.kind != "registrations":
            raise ValueError('"registers" only with kind = "registrations"')
        if (self.carry or self.anywhere or self.includes) and self.syntax != "lines":
            raise ValueError('"carry", "anywhere" and "includes" only with syntax = "lines"')
        if self.inside and self.syntax == "sqlite":
            raise ValueError('"inside" with a syntax of texts or property lists')
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
            if part.values and self.syntax not in ("ini", "reg"):
                raise ValueError('"values" only in a catalog of the syntaxes "ini" and "reg"')
        return self

    @model_validator(mode="after")
    def _groups_fit_the_syntax(self) -> Self:
        for part in self.groups:
            members = part.members
            if part.whole:
                if part.model_dump(exclude_defaults=True) != {"whole": True}:
                    raise ValueError('groups with "whole = true" and nothing else')
            elif self.syntax == "sqlite":
                if not (part.table and part.key and part.name and members):
                    raise ValueError('groups with "table", "key", "name" and "members", as SQLite needs them')
                if not (members.table and members.group and members.order):
                    raise ValueError('members with "table", "group", "entry" and "order", as SQLite needs them')
            elif self.syntax not in _BY_RECORDS:
                raise ValueError(f'groups in {self.syntax} only with "whole = true"')
            elif not (part.each and part.name and members and members.each):
                raise ValueError(f'groups with "each", "name" and members = {{ each, entry }}, as {self.syntax} needs')
        return self


class WholeGuide(Part):
    """A whole guide file."""

    guide: GuidePart
    program: ProgramPart | None = None
    places: dict[str, SystemTexts] = Field(default_factory=dict)
    by_hand: tuple[ByHandPart, ...] = ()
    holding: tuple[HoldingPart, ...] = ()

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Self:
        ids = [holding.id for holding in self.holding]
        twice = sorted({each for each in ids if ids.count(each) > 1})
        if twice:
            raise ValueError(f"each holding to have an id of its own ({', '.join(twice)} stands twice)")
        about = sorted({holding.registers for holding in self.holding if holding.registers} - set(ids))
        if about:
            raise ValueError(f'"registers" to name a holding of this guide ({about[0]!r} is none)')
        return self
