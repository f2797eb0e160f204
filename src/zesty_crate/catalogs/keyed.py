"""The syntaxes ``ini`` and ``reg``: sections with keys. A record is a section; selectors are its keys.

Registry exports: "Windows Registry Editor Version 5.00" is UTF-16 with a byte-order mark, "REGEDIT4" an 8-bit page.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from ..guides import EntriesPart, HoldingPart
from ..machines.registry import whole_name
from .model import CatalogError, Cell
from .quoting import QUOTINGS
from .records import Found, Record
from .text_file import TextFile


class Section(Record):
    """A section: its name, and the values of its keys."""

    __slots__ = ("name", "values")

    def __init__(self, name: str) -> None:
        self.name = name
        self.values: dict[str, Found] = {}

    def value(self, selector: str) -> Found | None:
        """The value of a key, whatever its case; ``@`` alone is a registry key's own, ``[]`` the section's name."""
        return Found(self.name, None) if selector == "[]" else self.values.get(selector.casefold())


class RegistryKey(Section):
    """A section that has no twin in its document."""

    __slots__ = ()

    @property
    def known_as(self) -> str:
        """Its whole name, in small letters: registries keep case and do not count it."""
        return whole_name(self.name).casefold()


class SectionValue(Record):
    """One value of a section; selectors are ``value`` and ``name``, and ``[]`` for the section's name."""

    __slots__ = ("_found", "_name", "_section")

    def __init__(self, section: Section, name: str, found: Found) -> None:
        self._section = section
        self._name = name
        self._found = found

    @property
    def known_as(self) -> str:
        """Its name in its section, where that is known by itself."""
        above = self._section.known_as
        return above and f"{above}\\{self._name}"

    def value(self, selector: str) -> Found | None:
        """The value itself, its name, or the name of its section."""
        if selector == "value":
            return self._found
        return Found(self._name, None) if selector == "name" else self._section.value(selector)


class Sections:
    """A document of sections."""

    def __init__(self, sections: list[Section]) -> None:
        self._sections = sections

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


_INI = re.compile(
    r"""^[ \t]*+(?:\[(?P<section>[^\]\r\n]*)\]
      |(?P<key>[^=\r\n;\#\[][^=\r\n]*+)=[ \t]*+
        (?:"(?P<quoted>[^"\r\n]*)"(?=[ \t]*$)|(?P<bare>(?:[^\r\n]*[^\s])?)(?=[ \t]*$)))""",
    re.MULTILINE | re.VERBOSE,
)


def read_ini(file: TextFile, part: HoldingPart, title: str) -> Sections:  # noqa: ARG001  one form for every reader
    """Sections of an INI text. Keys before the first section belong to a section without a name."""
    sections = [Section("")]
    for match in _INI.finditer(_unix_ends(file.text)):
        if match.group("section") is not None:
            sections.append(Section(match.group("section")))
            continue
        group = "bare" if match.group("quoted") is None else "quoted"
        start, end = match.span(group)
        quoting = "plain" if group == "bare" else "ini-quoted"
        found = Found(match.group(group), Cell("", quoting, start, end - start))
        sections[-1].values.setdefault(match.group("key").strip().casefold(), found)
    return Sections(sections)


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
    for match in _REG.finditer(text):
        if match.group("branch") is not None:
            sections.append(RegistryKey(match.group("branch")))
        elif sections:
            found = _registry_value(match, wide=file.encoding.startswith("utf-16"))
            if found is not None:
                name = "@" if match.group("name") is None else QUOTINGS["registry"].decode(match.group("name"))
                sections[-1].values[name.casefold()] = found
    branch = f"{whole_name(part.branch)}\\".upper() if part.branch else ""
    return Sections(
        [
            section
            for section in sections
            if not section.name.startswith("-") and f"{whole_name(section.name)}\\".upper().startswith(branch)
        ]
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
