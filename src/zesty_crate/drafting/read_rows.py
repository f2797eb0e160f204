"""Sections of settings, registries, tables with a header, and plain lines, as tables of records."""

from __future__ import annotations

import csv
import io
import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence

from ..catalogs.keyed import Section, read_ini, read_properties, read_registry
from ..catalogs.text_file import TextFile
from ..guides import EntriesPart, HoldingPart
from ..paths import MachinePath
from .recognize import delimiter_of, lines_of
from .tables import Located, Table, evenly, new_identity

_PART = HoldingPart.model_validate({"id": "document", "kind": "media", "at": "{home}"})
_EVERY_SECTION = EntriesPart.model_validate({"each": "(?s).*", "path": [{"at": "path"}]})
_MOST_SECTIONS_ALONE = 40
_FEWEST_LINES = 2  # of a shape, to be more than one line
_MOST_SHAPES = 60
_MOST_BLOCKS, _BLOCK = 20, 1_000  # lines that are looked at
_LONGEST_LINE = 10_000
_MOST_CARRIES = 12  # kinds of lines that may hold for those that follow


def read_sections(syntax: str, text: str, at: MachinePath) -> list[Table]:
    """The tables in a text of sections, of settings, or of registry keys. Raises `ValueError`."""
    file = TextFile(text.lstrip("\ufeff"), "utf-8", b"")
    reader = {"ini": read_ini, "properties": read_properties, "reg": read_registry}[syntax]
    sections = [each for each in reader(file, _PART, "it").select(_EVERY_SECTION) if isinstance(each, Section)]
    if syntax == "properties":
        return _of_properties(sections, at)
    return _of_sections([each for each in sections if each.values], at, is_registry=syntax == "reg")


def _of_properties(sections: Sequence[Section], at: MachinePath) -> list[Table]:
    whole, values = Table(""), Table("", more={"values": ""})
    for section in sections:
        own = new_identity()
        fields = [(name, Located.at(found.text, own, name)) for name, found in section.values.items()]
        whole.add(at, fields)
        for name, text in fields:
            values.add(at, (("value", text), ("name", name)))
    return [whole.finish(), values.finish()]


def _of_sections(sections: Sequence[Section], at: MachinePath, *, is_registry: bool) -> list[Table]:
    kinds: defaultdict[str, list[Section]] = defaultdict(list)
    own = {id(section): new_identity() for section in sections}
    for section in sections:
        if len(sections) <= _MOST_SECTIONS_ALONE:
            kinds[escaped(section.name)].append(section)
        for pattern in _kinds_of(section.name, is_registry=is_registry):
            kinds[pattern].append(section)
    tables = []
    for pattern, found in kinds.items():
        is_alone = len(found) == 1
        if is_alone and pattern != escaped(found[0].name):
            continue
        whole, values = Table(pattern), Table(pattern, more={"values": ""})
        for section in found:
            told = Located.at(section.name, own[id(section)], "[]")
            fields = [(name, Located.at(each.text, own[id(section)], name)) for name, each in section.values.items()]
            whole.add(at, fields if is_alone else [("[]", told), *fields])
            for name, text in fields:
                values.add(at, (("value", text), ("name", name)))
        tables += [whole.finish(), values.finish()]
    return tables


def _kinds_of(name: str, *, is_registry: bool) -> Iterator[str]:
    """The patterns of section names that one fits, the narrowest first."""
    if is_registry:
        parent, cut, _ = name.rpartition("\\")
        if cut:
            yield f"{escaped(parent)}\\\\[^\\\\]+"
        return
    word = re.match(r"[A-Za-z_]+(?=[\W\d_])", name)
    if word:
        yield f"{escaped(word[0])}.*"
    yield ".+"


def escaped(text: str) -> str:
    """An expression for a text as it is, in which only marks of expressions are escaped."""
    return re.sub(r"([\\.^$*+?{}\[\]|()])", r"\\\1", text)


def read_delimited(text: str, at: MachinePath) -> list[Table]:
    """The one table of a text with a header."""
    text = text.lstrip("\ufeff")
    delimiter = delimiter_of([each for each in lines_of(text) if each.strip()])
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter or ",")
    header = next(rows, [])
    table = Table("", more={} if delimiter == "," else {"delimiter": delimiter})
    for row in rows:
        if row:
            table.add(at, zip(header, (each or None for each in row), strict=False))
    return [table.finish()]


_WORD = re.compile(r"\s*([A-Za-z_][\w.-]*)(\s*[=:]\s*|\s+)(?=\S)")
_SETTING = re.compile(r"(?:^|\s)(\w+)=(?=\S)")
_STARTS = tuple(
    (re.compile(start), f"(?P<path>{shape})")
    for start, shape in (
        (r"[A-Za-z]:[\\/]", r"[A-Za-z]:[\\/].+"),
        (r"file:", r"file:.+"),
        (r"[~/]", r"[~/].+"),
        (r"\\\\", r"\\\\.+"),
        (r"[^=:]+\.\w{1,10}$", r"[^=:]+\.\w{1,10}"),
    )
)
_TITLED = re.compile(r"(\W*[A-Za-z][\w .-]{1,50}[:=])\s*(?=\S)")
_QUOTED = re.compile(r'([^"]*)"([^"]+)"')


def read_lines(text: str, at: MachinePath) -> list[Table]:
    """Lines of each shape: whole ones, those with a word before, with quotes, with tabs."""
    lines = list(_some_lines(text))
    comment = "#" if any(each.startswith("#") for each in lines) else ""
    shapes: Counter[str] = Counter()
    for line in lines:
        if not (comment and line.startswith(comment)):
            shapes.update(_shapes_of(line))
    carried = _carries(shapes)
    tables = []
    for pattern, number in shapes.most_common(_MOST_SHAPES):
        if number < _FEWEST_LINES and len(lines) > _FEWEST_LINES * 10:
            continue
        more = {"comment": comment} if comment else {}
        more |= {f"carry:{name}": shape.pattern for name, shape in carried.items()}
        expression, table, known = re.compile(pattern), Table(pattern, more=more), dict[str, str | None]()
        for place, line in enumerate(lines):
            if comment and line.startswith(comment):
                continue
            known |= {name: found[name] for name, shape in carried.items() if (found := shape.fullmatch(line))}
            if found := expression.fullmatch(line):
                told = [(name, Located.at(text, at, place)) for name, text in found.groupdict().items() if text]
                table.add(at, [*told, *known.items()], outside=tuple(known))
        tables.append(table.finish())
    return tables


def _some_lines(text: str) -> Iterator[str]:
    """The lines that say something; of very many, those of blocks from all over, each whole, since lines may hold for
    those that follow.
    """
    lines = [each for each in lines_of(text.lstrip("\ufeff")) if each.strip() and len(each) <= _LONGEST_LINE]
    if len(lines) <= _MOST_BLOCKS * _BLOCK:
        yield from lines
        return
    for number in evenly(len(lines) // _BLOCK, _MOST_BLOCKS):
        yield from lines[number * _BLOCK : (number + 1) * _BLOCK]


def _carries(shapes: Counter[str]) -> dict[str, re.Pattern[str]]:
    """Lines of which a word holds for those that follow, by names of groups."""
    words = [each for each in shapes if each.startswith(r"\s*") and each.endswith(r"(?P<path>.+?)\s*")]
    found = {}
    for number, pattern in enumerate(sorted(words, key=lambda each: -shapes[each])[:_MOST_CARRIES], start=1):
        if shapes[pattern] >= _FEWEST_LINES:
            found[f"carried{number}"] = re.compile(pattern.replace("(?P<path>", f"(?P<carried{number}>"))
    return found


def _shapes_of(line: str) -> Iterator[str]:
    yield next((shape for start, shape in _STARTS if start.match(line)), "(?P<path>.+)")
    word = _WORD.match(line)
    if word:
        between = r"\s*[=:]\s*" if word[2].strip() else r"\s+"
        sign = word[2].strip()
        between = f"\\s*{sign}\\s*" if sign else between
        yield f"\\s*{escaped(word[1])}{between}(?P<path>.+?)\\s*"
    elif titled := _TITLED.match(line):
        yield f"{escaped(titled[1])}\\s*(?P<path>.+?)\\s*"
    quoted = _QUOTED.match(line)
    if quoted:
        first = re.match(r"\s*[\w.-]+(?=\s)", quoted[1])
        before = f'{escaped(first[0])}[^"]*' if first else _general(quoted[1])
        yield f'{before}"(?P<path>[^"]+)".*'
    for name in dict.fromkeys(_SETTING.findall(line)) if line.count("=") > 1 else ():
        yield f"(?:.*\\s)?{escaped(name)}=(?P<path>.+?)(?:\\s+\\w+=.*)?"
    columns = line.split("\t")
    if len(columns) > 1:
        yield "\t".join(f"(?P<c{number}>[^\t]*)" for number in range(1, len(columns) + 1))


def _general(text: str) -> str:
    """An expression for a text in which numbers may differ."""
    return re.sub(r"\d+", r"\\d+", escaped(text))


def as_values(table: Table, pattern: str) -> Table:
    """A table of values, which are records where their text matches a pattern."""
    wanted, made = re.compile(pattern), Table(table.each, more={**table.more, "values": pattern})
    values, names = table.fields["value"].values, table.fields["name"].values
    for at, value, name in zip(table.at, values, names, strict=True):
        if wanted.fullmatch(value):
            made.add(at, (("value", value), ("name", name)))
    return made.finish()
