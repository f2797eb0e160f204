"""The guide language: how one program, or one open format, keeps its things. A guide is data; nothing in it is run."""

from __future__ import annotations

import re
from functools import cached_property
from typing import Annotated, Literal, Self

from pydantic import (
    AfterValidator,
    AliasChoices,
    Field,
    PrivateAttr,
    StringConstraints,
    ValidationError,
    model_validator,
)

from ..documents import Part
from ..paths import MachinePath
from .entries import (
    AttachedPart,
    CounterPart,
    EntriesPart,
    GroupsPart,
    Keys,
    LookupPart,
    Pattern,
    ReferencePart,
    Text,
)
from .kinds import HoldingKind
from .short_forms import OneForList, TextForTable


def _is_id(text: str) -> str:
    if not re.fullmatch(r"[a-z0-9][a-z0-9-]*", text):
        raise ValueError('an id of small letters, digits and dashes, such as "lamps"')
    return text


Id = Annotated[str, AfterValidator(_is_id)]


class GuidePart(Part):
    """``[guide]``"""

    id: Id
    title: Text
    language: Literal[1]


class SystemTexts(Part):
    """A place, written once for each system that has it."""

    windows: Text | None = None
    macos: Text | None = None
    linux: Text | None = None


class ProgramPart(Part):
    """``[program]``: what is so of the program itself.

    ``first-start`` is a place that exists once the program has been started; ``installer`` is where its installer is
    kept, the last name with wildcards; ``seats`` is the number of computers that its license allows.
    """

    processes: tuple[Text, ...] = ()
    versions: Literal["same", "same-or-newer", "any"] = "any"
    first_start: Text | None = None
    seats: int | None = Field(default=None, ge=1)
    installer: Text | None = None


class ManualStepPart(Part):
    """``[[manual-step]]``: what only a person can do, when, and ``who`` does it."""

    when: Literal["before-pack", "before-unpack", "after-unpack", "after-check", "before-retire"]
    do: Text
    who: Literal["technician", "customer"] = "technician"


Syntaxes = Literal[
    "sqlite",
    "xml",
    "html",
    "json",
    "json-lines",
    "plist",
    "lines",
    "delimited",
    "ini",
    "properties",
    "reg",
    "turtle",
    "yaml",
    "toml",
    "tagged",
]
_BY_RECORDS = ("xml", "html", "json", "json-lines", "plist", "yaml", "toml", "tagged")


def _with_key(text: str) -> str:
    if "{key}" not in text:
        raise ValueError('a name that contains {key}, such as "{key}.png"')
    return text


class ToldByPart(Part):
    """``told-by``: what is in the documents of a sweep, since others may have such names.

    ``root`` is the name of the root element of XML, ``begins`` the text that a file begins with, ``holds`` a regular
    expression that matches somewhere in it, and ``table`` one that a database in SQLite has. Of several all must be so.
    """

    root: Text | None = None
    begins: Text | None = None
    holds: Pattern | None = None
    table: Text | None = None

    @model_validator(mode="after")
    def _something(self) -> Self:
        if self.root is None and self.begins is None and self.holds is None and self.table is None:
            raise ValueError('"root", "begins", "holds" or "table"')
        return self


class NamedByPart(Part):
    """Files that are named by the path of the media they belong to: a digest of it, as it is written in some way."""

    path: Literal["native", "slashes", "file-url"]
    method: Literal["md5", "sha1", "sha256"] = Field(alias="as")
    name: Annotated[Text, AfterValidator(_with_key)] = "{key}"


LAYERS_OF_ONE = ("gzip", "zlib", "base64")
LAYERS_BY_NAME = ("zip", "tar")


class LayerPart(Part):
    """One of the things that a document is ``inside``: a text names it, a table tells which values of a document it is.

    ``gzip``, ``zlib`` and ``base64`` hold one document; ``zip:NAME`` and ``tar:NAME`` are members, where ``*`` and
    ``?`` in the name stand for any characters but ``/``. Any other text names a member of a ZIP. A table with
    ``syntax``, ``table`` or ``each``, ``key`` and ``at`` selects values as entries are selected: each is a document.
    """

    text: str = Field(default="", exclude=True)
    syntax: Syntaxes | None = None
    table: Text = ""
    each: Text = ""
    key: Text = ""
    at: Text = Field(default="", validation_alias=AliasChoices("at", "column"))
    where: Text | None = None
    namespaces: dict[str, Text] = Field(default_factory=dict)
    encoding: Keys = ()

    @property
    def kind(self) -> str:
        """What it is, by the first word."""
        first, colon, _ = self.text.partition(":")
        return self.text if self.text in LAYERS_OF_ONE else first if colon and first in LAYERS_BY_NAME else "zip"

    @property
    def name(self) -> str:
        """The name of the member or members; empty for what holds one document alone."""
        if self.kind in LAYERS_OF_ONE:
            return ""
        return self.text.removeprefix(f"{self.kind}:")

    @property
    def may_hold_several(self) -> bool:
        """Whether there may be several documents of this kind in it."""
        return self.syntax is not None or "*" in self.name or "?" in self.name

    @cached_property
    def values(self) -> HoldingPart | None:
        """The values of a document, as a holding whose paths these are."""
        if self.syntax is None:
            return None
        entries = {"table": self.table, "each": self.each, "key": self.key, "where": self.where}
        told = {name: value for name, value in entries.items() if value}
        return HoldingPart.model_validate(
            {
                "id": "values",
                "kind": HoldingKind.CATALOG,
                "at": "{home}",
                "syntax": self.syntax,
                "namespaces": self.namespaces,
                "encoding": self.encoding,
                "entries": [{**told, "path": [{"at": self.at}]}],
            }
        )

    @model_validator(mode="after")
    def _a_name_or_values(self) -> Self:
        if bool(self.text) == bool(self.syntax and self.at):
            raise ValueError('"gzip", "zlib", "base64", "zip:NAME", "tar:NAME", or a table with "syntax" and "at"')
        if self.syntax == "sqlite" and not (self.table and self.key):
            raise ValueError('"table" and "key" in a layer with syntax = "sqlite"')
        if self.syntax not in (None, "sqlite", "delimited") and not self.each:
            raise ValueError(f'"each" in a layer with syntax = "{self.syntax}"')
        try:
            _ = self.values
        except ValidationError as error:
            raise ValueError(error.errors()[0]["msg"].removeprefix("Value error, ")) from error
        return self


class StartPart(Part):
    """Where relative paths start: at the document's ``folder``, at the ``document`` itself, or at a place.

    A table tells of a folder that an entry of another ``holding`` names; of several the one with this ``key``.
    """

    text: str = Field(default="", exclude=True)
    holding: Id | None = None
    key: Text = ""

    @property
    def place(self) -> str:
        """The place; empty where they start elsewhere."""
        return self.text if "{" in self.text else ""

    @model_validator(mode="after")
    def _one_of_these(self) -> Self:
        is_known = self.text in ("folder", "document") or bool(re.search(r"\{[\w-]+\}", self.text))
        if is_known == bool(self.holding):
            raise ValueError('"folder", "document", a place such as "{own}/objects", or a table with "holding"')
        return self


Length = Literal["u8", "u16-le", "u16-be", "u32-le", "u32-be", "u64-le", "u64-be"]
_FORMS: dict[str, tuple[Length, dict[str, int]]] = {
    "riff": ("u32-le", {"RIFF": 4, "LIST": 4}),  # Microsoft and IBM, "Multimedia Programming Interface", 1991
    "iff": ("u32-be", {"FORM": 4, "LIST": 4, "CAT ": 4, "PROP": 4}),  # Electronic Arts, "EA IFF 85"
}


class RecordsPart(Part):
    """How the records of a binary file are laid out: ``riff``, ``iff``, or as a table says.

    A record is a ``tag`` of so many bytes, a ``length``, and a payload that is padded to a multiple of ``pad``. The
    length ``counts`` the payload, or the whole record. The first record is ``start`` bytes into the file. ``nested``
    are tags whose payload is records again, after so many bytes.
    """

    form: Literal["riff", "iff"] | None = None
    tag: int = Field(default=4, ge=1, le=16)
    length: Length = "u32-le"
    counts: Literal["payload", "record"] = "payload"
    pad: int = Field(default=1, ge=1, le=64)
    start: int = Field(default=0, ge=0)
    nested: dict[str, int] = Field(default_factory=dict)

    @model_validator(mode="before")
    @classmethod
    def _of_a_form(cls, given: object) -> object:
        if not isinstance(given, dict) or given.get("form") not in _FORMS:
            return given
        length, nested = _FORMS[given["form"]]
        return {"tag": 4, "length": length, "pad": 2, "nested": nested, **given}

    @property
    def length_bytes(self) -> int:
        """How many bytes a length has."""
        return int(self.length[1:].partition("-")[0]) // 8

    @property
    def byte_order(self) -> Literal["little", "big"]:
        """In which order."""
        return "big" if self.length.endswith("-be") else "little"

    @property
    def header_bytes(self) -> int:
        """How many bytes stand before a payload."""
        return self.tag + self.length_bytes


Start = Annotated[StartPart, TextForTable("text")]
Inside = Annotated[tuple[Annotated[LayerPart, TextForTable("text")], ...], OneForList()]


class HoldingPart(Part):
    """``[[holding]]``: one thing that the program keeps: ``at`` one place, found anywhere by a ``sweep``, or kept in
    the system's registry below a ``branch``.

    The last name of ``at`` may have wildcards. A sweep takes only what is ``told-by`` its content, and is ``within``
    certain folders where others have such files by the thousand. ``whole-folder``
    takes with a swept file the folder that it is in. A ``cache``, by kind or by ``class``, is what the program makes
    again by itself: it is counted and not carried.

    ``encoding`` (one, or several of which the first that fits counts), ``comment``, ``delimiter`` and ``namespaces``
    tell how a text catalog is read; ``inside`` names what it is inside, outermost first. ``carry`` (lines) are
    expressions whose groups hold for the lines that follow, ``anywhere`` has ``each`` searched for within lines, and
    ``includes`` finds documents that are read as part of this one. ``relative-to`` tells where relative paths start: at
    the document's ``folder``, at the ``document`` itself, at a place, or at a folder that another document names.

    What is ``machine-bound`` (outputs, calibrations) may be of no use on another computer, and can be left out.

    ``registers`` names the holding, or holdings, whose folders are what these registrations are about.

    Files that are ``named-by`` the path of their media are renamed when that goes elsewhere.

    A ``warning`` is said before it is placed: what the program does with such things by itself.

    A document ``may-have-none`` when one without entries is usual.

    ``attached``, ``lookups``, ``references`` and ``counters`` say how rows hang together when two catalogs are merged,
    where foreign keys do not.

    ``records`` tell how a binary file is laid out (tagged).

    ``escapes`` tells how a text of lines writes a backslash: doubled as in JSON, or as itself.
    """

    id: Id
    kind: HoldingKind
    at: Text = ""
    sweep: tuple[Text, ...] = ()
    within: Keys = ()
    branch: Text = ""
    told_by: ToldByPart | None = None
    whole_folder: bool = False
    machine_bound: bool = False
    title: str = ""
    factory: tuple[Text, ...] = ()
    media_class: Literal["original", "proxy", "cache"] | None = Field(default=None, alias="class")
    syntax: Syntaxes | None = None
    inside: Inside = ()
    encoding: Keys = ()
    comment: Text | None = None
    delimiter: Annotated[str, StringConstraints(min_length=1, max_length=1)] = ","
    namespaces: dict[str, Text] = Field(default_factory=dict)
    carry: tuple[Pattern, ...] = ()
    anywhere: bool = False
    includes: Pattern | None = None
    records: Annotated[RecordsPart, TextForTable("form")] | None = None
    relative_to: Start = StartPart(text="folder")
    registers: Keys = ()
    named_by: NamedByPart | None = None
    warning: Text | None = None
    may_have_none: bool = False
    escapes: Literal["json", "none"] | None = None
    entries: tuple[EntriesPart, ...] = ()
    groups: tuple[GroupsPart, ...] = ()
    attached: tuple[AttachedPart, ...] = ()
    lookups: tuple[LookupPart, ...] = ()
    references: tuple[ReferencePart, ...] = ()
    counters: tuple[CounterPart, ...] = ()

    _base: MachinePath | None = PrivateAttr(default=None)

    @property
    def base(self) -> MachinePath | None:
        """The folder from which relative paths start on one computer, where that is not the document's own."""
        return self._base

    def based_on(self, base: MachinePath | None) -> HoldingPart:
        """The same, with another such folder."""
        made = self.model_copy()
        made._base = base
        return made

    @property
    def is_regenerable(self) -> bool:
        """Whether the program makes it again by itself."""
        return self.kind is HoldingKind.CACHE or self.media_class == "cache"

    @model_validator(mode="after")
    def _at_one_place_or_anywhere(self) -> Self:
        if [bool(self.at), bool(self.sweep), bool(self.branch)].count(True) != 1:
            raise ValueError('one of "at", "sweep" and "branch"')
        if re.search(r"[*?].*[\\/][^\\/]", self.at):
            raise ValueError('wildcards only in the last name of "at"; for files in any folder, "sweep" with "within"')
        if self.factory and not self.at:
            raise ValueError('"factory" only with "at"')
        for name in ("told_by", "within", "whole_folder"):
            if getattr(self, name) and not self.sweep:
                raise ValueError(f'"{name.replace("_", "-")}" only with "sweep"')
        if self.branch and (self.kind is not HoldingKind.REGISTRATIONS or self.syntax != "reg"):
            raise ValueError('"branch" only with kind = "registrations" and syntax = "reg"')
        if self.named_by and not (self.at and self.kind is HoldingKind.COMPANIONS):
            raise ValueError('"named-by" only with kind = "companions" and "at"')
        if self.media_class and self.kind is not HoldingKind.MEDIA:
            raise ValueError('"class" only with kind = "media"')
        return self

    @model_validator(mode="after")
    def _catalog_is_whole(self) -> Self:
        if self.kind in (HoldingKind.CATALOG, HoldingKind.REGISTRATIONS) and not (self.syntax and self.entries):
            raise ValueError(f'{self.kind} with "syntax" and at least one [[holding.entries]]')
        if not self.kind.has_entries and (self.syntax or self.entries or self.groups):
            kinds = ", ".join(kind for kind in HoldingKind if kind.has_entries)
            raise ValueError(f'"syntax", entries and groups only in a holding of the kinds {kinds}')
        if bool(self.syntax) != bool(self.entries):
            raise ValueError('"syntax" and [[holding.entries]] together, or neither of them')
        if bool(self.records) != (self.syntax == "tagged"):
            raise ValueError('"records" where syntax = "tagged", and nowhere else')
        if self.registers and self.kind is not HoldingKind.REGISTRATIONS:
            raise ValueError('"registers" only with kind = "registrations"')
        if (self.carry or self.anywhere or self.includes or self.escapes) and self.syntax != "lines":
            raise ValueError('"carry", "anywhere", "includes" and "escapes" only with syntax = "lines"')
        if (self.lookups or self.references) and self.syntax != "sqlite":
            raise ValueError('"lookups" and "references" only with syntax = "sqlite"')
        self._require_whole_parts()
        if self.inside and (self.branch or self.includes):
            raise ValueError('"inside" without "branch" and "includes"')
        return self

    def _require_whole_parts(self) -> None:
        """Raise `ValueError` for what hangs on entries, or counts them, in another manner than its syntax needs."""
        in_tables = self.syntax == "sqlite"
        for attached in self.attached:
            if bool(attached.table) != in_tables or bool(attached.each) == in_tables:
                raise ValueError(f'"attached" with "{"table" if in_tables else "each"}", as {self.syntax} needs it')
            if attached.of and not in_tables:
                raise ValueError('"of" in "attached" only with syntax = "sqlite"')
        for counter in self.counters:
            own, other = (("table", "column"), ("each", "at")) if in_tables else (("each", "at"), ("table", "column"))
            if not all(getattr(counter, each) for each in own) or any(getattr(counter, each) for each in other):
                raise ValueError(f'"counters" with "{own[0]}" and "{own[1]}", as {self.syntax} needs them')
            if in_tables and (counter.holds == "count" or "of" not in counter.model_fields_set):
                raise ValueError('"counters" "of" a table, that hold the "next" number or the "last" one')
            if not in_tables and (counter.where or counter.of not in ("entries", "groups")):
                raise ValueError('"counters" of "entries" or "groups", without "where"')
        if self.attached and self.syntax not in ("sqlite", "lines", *_BY_RECORDS):
            raise ValueError(f'"attached" not with syntax = "{self.syntax}"')

    @model_validator(mode="after")
    def _entries_fit_the_syntax(self) -> Self:
        for part in self.entries:
            if self.syntax == "sqlite" and not (part.table and part.key):
                raise ValueError('entries with "table" and "key", as a catalog in SQLite needs them')
            if self.syntax != "sqlite" and (part.table or part.where or any(piece.table for piece in part.path)):
                raise ValueError('"table", "via" and "where" only in a catalog of the syntax "sqlite"')
            if self.syntax not in ("sqlite", "delimited", "properties") and not part.each:
                raise ValueError(f'entries with "each", as a catalog in {self.syntax} needs it')
            if self.syntax in ("lines", "ini", "properties", "reg"):
                try:
                    re.compile(part.each)
                except re.error as error:
                    raise ValueError(f'a regular expression as "each" ({error})') from error
            if any(piece.holds == "names" for piece in part.path) and self.syntax not in ("json", "json-lines"):
                raise ValueError('holds = "names" only in JSON; a JSON text in a column is a document inside it')
            if part.values and self.syntax not in ("ini", "properties", "reg"):
                raise ValueError('"values" only in a catalog of the syntaxes "ini", "properties" and "reg"')
        return self

    @model_validator(mode="after")
    def _members_name_one_key(self) -> Self:
        has_several = any(len(each.key_selectors) > 1 for each in self.entries)
        if has_several and any(part.members for part in self.groups):
            raise ValueError('groups with members only where entries have one "key"')
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
                if members.of and members.of not in {each.table for each in self.entries}:
                    raise ValueError(f'members "of" a table of entries; {members.of!r} is none')
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
    manual_step: tuple[ManualStepPart, ...] = ()
    holding: tuple[HoldingPart, ...] = ()

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Self:
        ids = [holding.id for holding in self.holding]
        twice = sorted({each for each in ids if ids.count(each) > 1})
        if twice:
            raise ValueError(f"a different id for each holding ({', '.join(twice)} is used twice)")
        settings = (each.relative_to for each in self.holding if each.relative_to.holding)
        with_entries = {each.id for each in self.holding if each.entries}
        for each in settings:
            if each.holding not in with_entries:
                raise ValueError(f'"relative-to" to name a holding with entries ({each.holding!r} is none)')
        about = sorted({each for holding in self.holding for each in holding.registers} - set(ids))
        if about:
            raise ValueError(f'"registers" to name a holding of this guide ({about[0]!r} is not one)')
        return self
