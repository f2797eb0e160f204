"""The syntaxes ``ini`` and ``reg``: sections with keys. A record is a section; selectors are its keys.

Registry exports: "Windows Registry Editor Version 5.00" is UTF-16 with a byte-order mark, "REGEDIT4" an 8-bit page.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Iterator

from ..guides import EntriesPart, HoldingPart
from ..machines.registry import whole_name
from .model import CatalogError, Cell, Found
from .quoting import QUOTINGS
from .records import Record
from .spans import PlainSpans, RecordName, Room, Span
from .text_file import TextFile


class Section(Record):
    """A section: its name, and the values of its keys."""

    __slots__ = ("is_alone", "name", "names", "span", "values")

    def __init__(self, name: str, span: Span = (0, 0)) -> None:
        self.name = name
        self.span = span  # from its head to the end of its last line
        self.values: dict[str, Found] = {}
        self.names: dict[str, Span] = {}  # where the names of these are written
        self.is_alone = True  # no other one of the document has its name

    @property
    def known_as(self) -> str:
        """Its name, in small letters, if it alone has it."""
        return self.name.casefold() if self.is_alone else ""

    def value(self, selector: str) -> Found | None:
        """The value of a key, whatever its case; ``@`` alone is a registry key's own, ``[]`` the section's name."""
        return Found(self.name, None) if selector == "[]" else self.values.get(selector.casefold())


class RegistryKey(Section):
    """A key of a registry."""

    __slots__ = ()

    @property
    def known_as(self) -> str:
        """Its whole name, in small letters: registries keep case and do not count it."""
        return whole_name(self.name).casefold()


class SectionValue(Record):
    """One value of a section; selectors are ``value`` and ``name``, and ``[]`` for the section's name."""

    __slots__ = ("_found", "name", "section")

    def __init__(self, section: Section, name: str, found: Found) -> None:
        self.section = section
        self.name = name
        self._found = found

    @property
    def known_as(self) -> str:
        """Its name in its section, where that is known by itself."""
        above = self.section.known_as
        return f"{above}\\{self.name}" if above else self.name if self.section.is_alone else ""

    def value(self, selector: str) -> Found | None:
        """The value itself, its name, or the name of its section."""
        if selector == "value":
            return self._found
        return Found(self.name, None) if selector == "name" else self.section.value(selector)


class Sections(PlainSpans):
    """A document of sections, with the text that they were read from, if it is one."""

    def __init__(self, sections: list[Section], text: str = "", quoting_of_names: str = "plain") -> None:
        self._sections = sections
        self._quoting_of_names = quoting_of_names
        self._text = text
        number = Counter(each.name.casefold() for each in sections)
        for each in sections:
            each.is_alone = number[each.name.casefold()] == 1

    @property
    def is_empty(self) -> bool:
        """Whether no section has a value."""
        return not any(section.values for section in self._sections)

    def values(self) -> Iterator[str]:
        """Every section's name, and its keys with their values."""
        for section in self._sections:
            yield section.name
            for name, found in section.values.items():
                yield name
                yield found.text

    def select(self, part: EntriesPart) -> Iterator[Record]:
        """The sections whose whole name matches a regular expression, whatever its case; or such values of theirs."""
        pattern = re.compile(part.each, re.IGNORECASE)
        wanted = re.compile(part.values) if part.values else None
        for section in self._sections:
            if pattern.fullmatch(section.name):
                if wanted is None:
                    yield section
                    continue
                for name, found in section.values.items():
                    if wanted.fullmatch(found.text):
                        yield SectionValue(section, name, found)

    def span_of(self, record: Record) -> Span:
        """A section with all its lines, or the lines of a value."""
        if isinstance(record, Section):
            return record.span
        start, end = self._span_of_name(record)
        cell = record.value("value")
        if cell is not None and cell.cell is not None:
            end = int(cell.cell.row) + cell.cell.length
        return max(self._text.rfind("\n", 0, start), self._text.rfind("\r", 0, start)) + 1, _line_end(self._text, end)

    def _span_of_name(self, record: Record) -> Span:
        if not isinstance(record, SectionValue):
            raise CatalogError("This is neither a section nor a value.")
        return record.section.names[record.name]

    def name_of(self, record: Record) -> RecordName:
        """The name of a section, or that of a value."""
        if isinstance(record, Section):
            start = self._text.index(record.name, record.span[0])
            return RecordName(start, start + len(record.name), "plain", record.name, _known_name(record))
        start, end = self._span_of_name(record)
        quoting = "registry" if self._text[start - 1 : start] == '"' else self._quoting_of_names
        text = QUOTINGS[quoting].decode(self._text[start:end])
        return RecordName(start, end, quoting, text, text.casefold() if self._quoting_of_names == "plain" else text)

    def names_at(self, container: str) -> Collection[str]:
        """The names of all sections, or those of all values of one."""
        if not container:
            return {_known_name(each) for each in self._sections}
        return {name for each in self._sections if _known_name(each) == container for name in each.values}

    def container_of(self, record: Record) -> str:
        """The section of a value."""
        return _known_name(record.section) if isinstance(record, SectionValue) else ""

    def written(self, cell: Cell) -> str:
        """A value with its quotation marks, if it has any."""
        start, end = int(cell.row), int(cell.row) + cell.length
        marks = self._text[start - 1 : start] == '"' == self._text[end : end + 1]
        return self._text[start - marks : end + marks]

    def added(self, name: str, path: Span, written: str) -> tuple[int, str] | None:
        """A line more, after that of the path, and in its manner."""
        line = max(self._text.rfind("\n", 0, path[0]), self._text.rfind("\r", 0, path[0])) + 1
        manner = _MANNER.match(self._text, line)
        if manner is None:
            return None
        mark = manner["mark"] if name != "@" else ""
        end = _line_end(self._text, path[1])
        put = f"{mark}{name}{mark}{manner['equals']}{written}"
        lacks_end = end == len(self._text) and self._text[-1] not in "\r\n"
        line_end = "\r\n" if "\r\n" in self._text else "\n"
        return end, f"{line_end}{put}" if lacks_end else f"{put}{line_end}"

    def place_like(self, record: Record, container: str) -> Room | None:
        """The end of the section of the same name, or of the document, after the head of a new one."""
        end = len(self._text)
        if not isinstance(record, SectionValue):
            return Room(end, end)
        found = next((each for each in self._sections if _known_name(each) == container), None)
        if found is not None:
            return Room(found.span[1], found.span[1])
        line = "\r\n" if "\r\n" in self._text else "\n"
        gap = "" if not end or self._text[-1] in "\r\n" else line
        return Room(end, end, f"{gap}{line}[{record.section.name}]{line}")


def _known_name(section: Section) -> str:
    """What no other section should be called."""
    return section.known_as or section.name.casefold()


def _line_end(text: str, at: int) -> int:
    """The first character after the line that a place is in."""
    found = _LINE_END.search(text, at)
    return found.end() if found else len(text)


def _spanned(sections: list[Section], heads: list[int], text: str) -> None:
    """Let each section know where it is: from its head to the last line before the next one that is not empty."""
    for section, start, after in zip(sections, heads, [*heads[1:], len(text)], strict=True):
        section.span = start, _line_end(text, start + len(text[start:after].rstrip()))


_MANNER = re.compile(r'[ \t]*(?P<mark>"?)[^=]*?"?(?P<equals>[ \t]*=[ \t]*)')
_LINE_END = re.compile(r"\r\n|\r|\n")
_INI = re.compile(
    r"""^[ \t]*+(?:\[(?P<section>[^\]\r\n]*)\]
      |(?P<key>[^=\r\n;\#\[][^=\r\n]*+)=[ \t]*+
        (?:"(?P<quoted>[^"\r\n]*)"(?=[ \t]*$)|(?P<bare>(?:[^\r\n]*[^\s])?)(?=[ \t]*$)))""",
    re.MULTILINE | re.VERBOSE,
)


def read_ini(file: TextFile, part: HoldingPart, title: str) -> Sections:  # noqa: ARG001  one form for every reader
    """Sections of an INI text. Keys before the first section belong to a section without a name."""
    sections, heads = [Section("")], [0]
    for match in _INI.finditer(_unix_ends(file.text)):
        if match.group("section") is not None:
            sections.append(Section(match.group("section")))
            heads.append(match.start("section") - 1)
            continue
        group = "bare" if match.group("quoted") is None else "quoted"
        start, end = match.span(group)
        quoting = "plain" if group == "bare" else "ini-quoted"
        found = Found(match.group(group), Cell("", quoting, start, end - start))
        key = match.group("key").strip()
        name = key.casefold()
        sections[-1].names.setdefault(name, (match.start("key"), match.start("key") + len(key)))
        sections[-1].values.setdefault(name, found)
    _spanned(sections, heads, file.text)
    return Sections(sections, file.text)


class Properties(Section):
    """All keys of a file without sections. Their case counts."""

    __slots__ = ()

    def value(self, selector: str) -> Found | None:
        """The value of a key."""
        return self.values.get(selector)


_PROPERTY = re.compile(
    r"""(?:\A|(?<=\n)|(?<=\r))[ \t\f]*+(?:[\#!][^\r\n]*
      |(?P<key>(?:\\(?:\r\n|[\s\S])|[^\\=:\s])++)[ \t\f]*+[=:]?[ \t\f]*+
        (?P<value>(?:\\(?:\r\n|[\s\S])|[^\\\r\n])*+))""",
    re.VERBOSE,
)


def read_properties(file: TextFile, part: HoldingPart, title: str) -> Sections:  # noqa: ARG001  one form for every reader
    """The one section of a .properties text, as java.util.Properties reads it: of a key that comes twice, the last."""
    decode, section = QUOTINGS["properties"].decode, Properties("", (0, len(file.text)))
    for match in _PROPERTY.finditer(file.text):
        if match["key"] is not None:
            key, (start, end) = decode(match["key"]), match.span("value")
            section.values[key] = Found(decode(match["value"]), Cell("", "properties", start, end - start))
            section.names[key] = match.span("key")
    return Sections([section], file.text, "properties")


_REG_HEAD = re.compile(r"(?:Windows Registry Editor Version 5\.00|REGEDIT4)[ \t]*$", re.MULTILINE)
_REG = re.compile(
    r"""^(?:\[(?P<branch>-?[^\r\n]+)\][ \t]*$
      |(?:@|"(?P<name>(?:\\.|[^"\\])*)")[ \t]*=[ \t]*
        (?:"(?P<string>(?:\\.|[^"\\])*)"|(?P<other>(?:[^\r\n\\]|\\[ \t]*\n)*)))""",
    re.MULTILINE | re.VERBOSE,
)
_HEX = re.compile(r"hex(?:\((?P<kind>[0-9a-fA-F]+)\))?:(?P<bytes>[0-9a-fA-F,\s\\]*)$")


def read_registry(file: TextFile, part: HoldingPart, title: str) -> Sections:
    """Keys of a registry export with their values, those of the guide's branch where it names one.

    Keys and values that are marked for removal are left out.
    """
    text = _unix_ends(file.text)
    if not _REG_HEAD.match(text):
        raise CatalogError(
            f"{title} is not a registry export: it begins with {text[:40].splitlines()[:1]}.",
            next_step="Export the branch again with the registry editor of the system.",
        )
    sections: list[Section] = []
    heads: list[int] = []
    for match in _REG.finditer(text):
        if match.group("branch") is not None:
            sections.append(RegistryKey(match.group("branch")))
            heads.append(match.start("branch") - 1)
        elif sections:
            found = _registry_value(match, wide=file.encoding.startswith("utf-16"))
            if found is not None:
                name = "@" if match.group("name") is None else QUOTINGS["registry"].decode(match.group("name"))
                sections[-1].values[name.casefold()] = found
                at = match.start() if name == "@" and match.group("name") is None else match.start("name")
                sections[-1].names[name.casefold()] = at, at + len(match.group("name") or "@")
    _spanned(sections, heads, file.text)
    branch = f"{whole_name(part.branch)}\\".upper() if part.branch else ""
    return Sections(
        [
            section
            for section in sections
            if not section.name.startswith("-") and f"{whole_name(section.name)}\\".upper().startswith(branch)
        ],
        file.text,
    )


def _registry_value(match: re.Match[str], *, wide: bool) -> Found | None:
    """A value as text. Strings can be written; expandable and other values are read, and their place is the whole."""
    if match.group("string") is not None:
        start, end = match.span("string")
        raw = match.group("string")
        return Found(QUOTINGS["registry"].decode(raw), Cell("", "registry", start, end - start))
    other = match.group("other").strip()
    if other == "-":
        return None
    if other.startswith("dword:"):
        return Found(str(int(other[6:], 16)) if re.fullmatch("dword:[0-9a-fA-F]{1,8}", other) else other, None)
    found = _HEX.match(other)
    if not found or found.group("kind") not in ("1", "2"):
        return Found(other, None)
    name = "registry-hex-wide" if wide else "registry-hex"
    raw = match.group("other").rstrip()
    return Found(QUOTINGS[name].decode(raw), Cell("", name, match.start("other"), len(raw)))


def _unix_ends(text: str) -> str:
    """The text with every line end as one that ``$`` knows, and not a character longer or shorter."""
    return re.sub(r"\r(?!\n)", "\n", text).replace("\r\n", " \n") if "\r" in text else text
