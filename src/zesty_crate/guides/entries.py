"""The guide language for what a catalog holds: where its entries and groups are, and what is known of each."""

from __future__ import annotations

import re
from functools import cached_property
from typing import Annotated, Literal, Self

from pydantic import (
    AfterValidator,
    AliasChoices,
    Field,
    StringConstraints,
    field_validator,
    model_validator,
)

from ..documents import Part
from ..paths import Spelling
from .short_forms import OneForList, TextForTable

Text = Annotated[str, StringConstraints(min_length=1)]


Keys = Annotated[tuple[Text, ...], OneForList()]


def _pattern(text: str) -> str:
    try:
        re.compile(text)
    except re.error as error:
        raise ValueError(f"a regular expression ({error})") from error
    return text


Pattern = Annotated[Text, AfterValidator(_pattern)]
Moment = Literal[
    "unix-seconds", "unix-milliseconds", "unix-nanoseconds", "iso-8601", "seconds-since-2001", "windows-filetime"
]


class SeparatorPart(Part):
    """What separates the names of a path where no slash does; ``in-names`` is written for one that a name holds."""

    text: Text
    in_names: Text | None = None


Separator = Annotated[SeparatorPart, TextForTable("text")]


def _with_one_group(text: str) -> str:
    if re.compile(_pattern(text)).groups != 1:
        raise ValueError("a regular expression with one group in round brackets, which is the path")
    return text


FIELD = re.compile(r"\{([^{}\[\]]+)(?:\[(-?\d*):(-?\d*)\])?\}")  # a selector in a text, or some characters of its value


def _with_fields(text: str) -> str:
    if not FIELD.search(text) or re.search(r"[{}]", FIELD.sub("", text)):
        raise ValueError('a text with selectors in braces, such as "{digest[0:2]}/{digest}.{kind}"')
    return text


class PiecePart(Part):
    """One piece of a recorded path, selected from the entry itself, or in SQLite from a ``table`` reached ``via``.

    Instead of ``at``, ``made-of`` puts a piece together of values of the entry; such a piece is never written.

    ``via`` is a column of the entry, or as ``table.column`` one of the table of another piece, so that pieces are
    chained. With ``parent``, the column in which a row tells the one around it, the piece is all of a branch of a tree.

    ``holds`` says what a piece always is: an ``anchor`` (the beginning: a drive, or the name of a volume), one
    ``name``, in JSON a list of ``names``, or the ``stem`` of the last name, before a piece that is its ``extension``.

    ``match`` is a regular expression whose one group is the path in a value that holds more; ``separator`` is what
    separates its names there.

    ``blob`` is the encoding of a piece that SQLite keeps as bytes and not as a text; zeros at its end stay.

    With ``may-add`` that table may get a row more where entries that share one go to places that no one text can say.
    """

    at: Text = Field(default="", validation_alias=AliasChoices("at", "column"))
    made_of: Annotated[Text, AfterValidator(_with_fields)] | None = None
    table: Text | None = None
    via: Text | None = None
    parent: Text | None = None
    holds: Literal["anchor", "name", "names", "stem", "extension"] | None = None
    blob: Literal["utf-8", "utf-16-le", "utf-16-be"] | None = None
    match: Annotated[Text, AfterValidator(_with_one_group)] | None = None
    separator: Separator | None = None
    may_add: bool = False

    @property
    def via_table(self) -> str:
        """The table of the other piece that points to this one; empty where the entry does."""
        return (self.via or "").rpartition(".")[0]

    @property
    def via_column(self) -> str:
        """The column that points to this one."""
        return (self.via or "").rpartition(".")[2]

    @property
    def fields(self) -> tuple[str, ...]:
        """The selectors of what it is put together of."""
        return tuple(found[1] for found in FIELD.finditer(self.made_of or ""))

    @model_validator(mode="after")
    def _stands_somewhere(self) -> Self:
        if bool(self.at) == bool(self.made_of):
            raise ValueError('either "at" or "made-of"')
        if self.made_of and self.model_fields_set - {"made_of"}:
            raise ValueError('"made-of" alone')
        return self

    @model_validator(mode="after")
    def _table_with_via(self) -> Self:
        if self.may_add and not self.table:
            raise ValueError('"may-add" only with "table" and "via"')
        if (self.table is None) != (self.via is None):
            raise ValueError('"table" and "via" together, or neither of them')
        if self.parent and not self.table:
            raise ValueError('"parent" only with "table" and "via"')
        if self.may_add and self.via_table:
            raise ValueError('"may-add" only in a table to which the entry points itself')
        if self.parent and (self.match or self.separator):
            raise ValueError('"parent" without "match" and "separator"')
        return self


class ContentPart(Part):
    """What a catalog knows of a file's content: a digest in hexadecimal, and by which method."""

    at: Text = Field(validation_alias=AliasChoices("at", "column"))
    method: Literal["md5", "sha1", "sha256", "sha512"] = Field(alias="as")


COPY_STEPS = ("slashes", "file-url", "folder", "name", "stem", "lower", "upper")
COPY_DIGESTS = ("crc32", "md5", "sha1", "sha256")
_OF_DIGESTS = ("upper", "number", "signed-number")


class CopyPart(Part):
    """What a program keeps of a path beside it: ``as`` are the steps by which it is made of the recorded path.

    A digest is of the text in an ``encoding``, and in hexadecimal unless the step after it says otherwise.
    """

    at: Text = Field(validation_alias=AliasChoices("at", "column"))
    steps: Keys = Field(default=(), alias="as")
    encoding: Literal["utf-8", "utf-16-le", "utf-16-be", "latin-1"] = "utf-8"

    @field_validator("steps")
    @classmethod
    def _are_known(cls, steps: tuple[str, ...]) -> tuple[str, ...]:
        digest = next((number for number, step in enumerate(steps) if step in COPY_DIGESTS), len(steps))
        behind = steps[digest + 1 :]
        if any(step not in COPY_STEPS for step in steps[:digest]) or len(behind) > 1 or set(behind) - {*_OF_DIGESTS}:
            raise ValueError(
                f"steps of {', '.join(COPY_STEPS)}, then perhaps one of {', '.join(COPY_DIGESTS)}, and after that "
                f"perhaps one of {', '.join(_OF_DIGESTS)}"
            )
        return steps


class PointerPart(Part):
    """What only the program itself can follow to the file, such as a bookmark; ``empty`` when it makes it anew."""

    at: Text = Field(validation_alias=AliasChoices("at", "column"))
    empty: bool = False


class ModifiedPart(Part):
    """When a catalog says that a file was modified, and how it writes that."""

    at: Text = Field(validation_alias=AliasChoices("at", "column"))
    form: Moment = Field(alias="as")


class DurationPart(Part):
    """How long a catalog says that a file plays, and in what it counts that."""

    at: Text = Field(validation_alias=AliasChoices("at", "column"))
    unit: Literal["seconds", "milliseconds"] = Field(alias="as")


class DimensionsPart(Part):
    """How wide and how high a catalog says that a picture is, in pixels."""

    width: Text
    height: Text


class NumberedPart(Part):
    """``numbered``: an entry is a sequence of files whose names differ by a number.

    Without ``suffix`` the last name of the path has a field for the number (``frame.%04d.png``, ``frame.####.png``), or
    is that of the ``first`` file (``frame.0001.png``). With ``suffix`` the path is the folder, and names are put
    together of ``prefix``, the number with ``digits``, and ``suffix``. ``first``, ``step``, and ``last`` or the
    ``span`` from the first number on, tell which numbers there are: selectors, or whole numbers. Without them every
    number that is there belongs to it.
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


class SiblingPart(Part):
    """Files beside one: their ``name``, with ``{name}`` and ``{stem}`` for its own, and wildcards.

    With ``of`` there are such only beside names that it matches; ``{1}`` is then what its first group matched.
    """

    of: Pattern = ".+"
    name: Text


class EntriesPart(Part):
    """``[[holding.entries]]``: where a catalog keeps its entries, and what is known of each.

    ``table`` (SQLite) or ``each`` (a selector of the syntax) tells which are entries; ``path``, ``key``, ``name``,
    ``size``, ``content``, ``modified``, ``duration``, ``dimensions`` and ``annotations`` select from one. Several
    selectors as ``key`` tell an entry apart together. ``remote``
    tells entries that have no file by design: an SQL condition, or a selector that finds something; ``remote-like``
    does so by a regular expression over the recorded path. ``values`` (ini, reg) makes an entry of each value
    of a section whose text it matches.

    For merging two catalogs: two entries are one when all that ``identity`` selects is alike, ``changed`` is when a
    person last changed an entry, and ``renumber`` are columns whose numbers must differ and that get new ones.

    ``copies`` are made of the path and kept beside it. ``pointers`` are what nobody but the program can read; they are
    left, and told.

    An entry is one file, unless ``folder`` says that it is a folder, or ``numbered`` that it is a sequence.
    ``beside`` are patterns of names that belong to the file and are beside it (``{name}.peaks``, ``{stem}.cue``).
    A table there gives the name of a sibling by a regular expression.
    """

    table: Text = ""
    each: Text = ""
    key_selectors: Keys = Field(default=(), validation_alias=AliasChoices("key"), serialization_alias="key")
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
    duration: DurationPart | None = None
    dimensions: DimensionsPart | None = None
    annotations: tuple[Text, ...] = ()
    folder: bool = False
    numbered: NumberedPart | None = None
    beside: tuple[Annotated[SiblingPart, TextForTable("name")], ...] = ()
    copies: tuple[CopyPart, ...] = ()
    pointers: tuple[PointerPart, ...] = ()
    identity: tuple[Text, ...] = ()
    changed: ModifiedPart | None = None
    renumber: tuple[Text, ...] = ()

    @property
    def key(self) -> str:
        """The one selector that tells entries apart, or the first of several; empty for none."""
        return self.key_selectors[0] if self.key_selectors else ""

    @cached_property
    def besides(self) -> tuple[str, ...]:
        """The selectors of what is kept beside the path."""
        return (*(each.at for each in self.copies), *(each.at for each in self.pointers))

    @cached_property
    def known(self) -> tuple[str, ...]:
        """Every selector of what is known of an entry, but for its path, its key and the annotations."""
        numbered = self.numbered.model_dump().values() if self.numbered else ()
        one_place = (self.content, self.modified, self.duration, self.changed)
        sides = (self.dimensions.width, self.dimensions.height) if self.dimensions else ()
        made = (each for piece in self.path for each in piece.fields)
        known = (
            self.name,
            self.size,
            *made,
            *(part and part.at for part in one_place),
            *sides,
            *numbered,
            *self.identity,
        )
        return tuple(each for each in known if isinstance(each, str))

    @cached_property
    def is_brief(self) -> bool:
        """Whether an entry is a file, with no more than a key, a path in one piece, a size and annotations."""
        more = set(self.known) - {self.size} or self.folder or self.numbered or self.beside or self.besides
        is_in_a_form = self.path[0].match or self.path[0].separator or self.path[0].holds == "names"
        return not (more or self.remote or self.remote_like or len(self.path) > 1 or is_in_a_form)

    @model_validator(mode="after")
    def _one_kind_of_thing(self) -> Self:
        if self.folder and self.numbered:
            raise ValueError('either "folder" or "numbered"')
        return self

    @field_validator("path")
    @classmethod
    def _innermost_is_own(cls, path: tuple[PiecePart, ...]) -> tuple[PiecePart, ...]:
        if path[-1].table is not None:
            raise ValueError("a last piece that stands in the entry itself")
        if any(piece.parent and piece.may_add for piece in path) and len(path) != 2:
            raise ValueError('"may-add" in a tree only where the path is that tree and a piece of the entry itself')
        tables = [piece.table for piece in path]
        for number, piece in enumerate(path):
            if piece.via_table and piece.via_table not in tables[number + 1 :]:
                raise ValueError(f'"via" through the table of a piece that comes later ({piece.via_table!r} is none)')
            is_end = number == len(path) - 1
            if (piece.holds == "extension") != (number > 0 and path[number - 1].holds == "stem"):
                raise ValueError('holds = "stem", and after it a piece with holds = "extension"')
            if (piece.holds == "extension" and not is_end) or (piece.holds == "anchor" and number):
                raise ValueError('holds = "anchor" of the first piece, and holds = "extension" of the last')
        return path


class MembersPart(Part):
    """Which entries a group has, by their keys.

    In SQLite a ``table`` of pairs, with the column that gives their ``order``; ``of`` is the table of their entries,
    where that is not the first one. Elsewhere ``each`` selects the members from the group, in the order of the
    document, and ``entry`` the entry's key from a member; of several tables the first that has such a key counts.
    """

    table: Text = ""
    group: Text = ""
    entry: Text
    order: Text = ""
    of: Text = ""
    each: Text = ""


class GroupsPart(Part):
    """``[[holding.groups]]``: named, ordered sets of entries. ``whole`` makes one group of each document.

    In a text, ``count`` is where a group tells how many members it has.
    """

    table: Text = ""
    each: Text = ""
    key: Text = ""
    name: Text = ""
    parent: Text | None = None
    members: MembersPart | None = None
    count: Text | None = None
    whole: bool = False


class AttachedPart(Part):
    """``[[holding.attached]]``: a table whose rows hang on entries (edits, markers, tags), by the column ``entry``.

    ``of`` is the table of these entries, where that is not the first one, or another attached table. With ``key`` no
    two rows of one entry have the same values there: such rows are one, and their other values are compared.

    In a text, ``each`` selects such records, and ``entry`` and ``key`` are selectors from there.
    """

    table: Text = ""
    each: Text = ""
    entry: Text
    of: Text = ""
    key: tuple[Text, ...] = ()


class LookupPart(Part):
    """``[[holding.lookups]]``: a table that others point to (tags, authors); rows are one when their ``name`` is."""

    table: Text
    name: tuple[Text, ...] = Field(min_length=1)


class ReferencePart(Part):
    """``[[holding.references]]``: a column that points to a row of another table, where no foreign key says so."""

    table: Text
    column: Text
    to: Text


class CounterPart(Part):
    """``[[holding.counters]]``: where a program keeps the next number for a table, in the rows that a condition finds.

    In a text, the value ``at`` a selector from the records that ``each`` selects, for the entries or the groups.
    ``holds`` tells whether it is the number that comes next, the last one that was given, or the count of them.
    """

    table: Text = ""
    column: Text = ""
    where: Text | None = None
    each: Text = ""
    at: Text = ""
    of: Text = "entries"
    holds: Literal["next", "last", "count"] = "next"
