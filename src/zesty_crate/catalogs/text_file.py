"""Catalogs that are texts: decoded without loss, their path values known by exact spans, and spliced, never rebuilt."""

from __future__ import annotations

import codecs
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import chain, islice
from operator import add, le
from pathlib import Path
from typing import NamedTuple

from ..machines import Disk
from .changes import SpanChange
from .model import CatalogError, Proof
from .quoting import QUOTINGS
from .quoting_units import represent_themselves, requoted

_MARKS = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF32_LE, "utf-32-le"),
    (codecs.BOM_UTF32_BE, "utf-32-be"),
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
)
_XML_ENCODING = re.compile(rb"<\?xml[^>]*?encoding\s*=\s*[\"']([A-Za-z0-9._-]+)[\"']")
BYTES = "latin-1"  # in which each byte is one character
_LARGEST_BYTES = 1 << 30
_TOGETHER = 500  # changes that are looked at together
# One text of a document, several that are next to each other, or names with their values.
Value = str | Sequence[str] | Mapping[str, object]


@dataclass(frozen=True, slots=True)
class Span:
    """Where a raw text stands: the characters from ``start`` to ``end``, written in a quoting."""

    start: int
    end: int
    quoting: str


@dataclass(frozen=True, slots=True)
class TextFile:
    """A text with all that is needed to write it back to the byte."""

    text: str
    encoding: str
    mark: bytes

    def encoded(self, text: str) -> bytes:
        """Another text as this file would hold it."""
        return self.mark + text.encode(self.encoding, "surrogateescape" if self.encoding == "utf-8" else "strict")

    def value(self, span: Span) -> str:
        """What the raw text at a span represents."""
        return QUOTINGS[span.quoting].decode(self.text[span.start : span.end])


def read_text_file(path: Path, disk: Disk, declared: Sequence[str] = ()) -> TextFile:
    """Read a text file.

    By its byte-order mark, else in the first of the ``declared`` encodings that fits, else as its XML declaration
    says, else as UTF-8.

    Raises `CatalogError` when it is not there, too large, or not text in that encoding.
    """
    return decode_text(read_whole(path, disk), str(path), declared)


def read_bytes_as_text(path: Path, disk: Disk) -> TextFile:
    """A file of bytes as a text in which each is one character, so that places are the same in both."""
    return TextFile(read_whole(path, disk).decode(BYTES), BYTES, b"")


def read_whole(path: Path, disk: Disk) -> bytes:
    """A catalog that is read as a whole. Raises `CatalogError` when it is not there, or too large."""
    facts = disk.facts(path)
    if facts is None or not facts.is_file:
        raise CatalogError(
            f"The catalog {path} is not there.", next_step="Check the program's folder in the guide and the sheet."
        )
    if facts.size_bytes > _LARGEST_BYTES:
        raise CatalogError(f"The catalog {path} has {facts.size_bytes:,} bytes; at most 1 GiB can be read.")
    return disk.read_bytes(path)


def decode_text(content: bytes, title: str, declared: Sequence[str] = ()) -> TextFile:
    """Decode a text so that encoding it gives back the same bytes; ``title`` names it in errors."""
    mark, encoding = next(((m, e) for m, e in _MARKS if content.startswith(m)), (b"", ""))
    if not encoding:
        found = _XML_ENCODING.match(content[:200])
        encoding = _first_fit(content, declared) or (found.group(1).decode("ascii") if found else "utf-8")
    try:
        encoding = codecs.lookup(encoding).name
        # A name that is not Unicode is kept as the bytes it is; other encodings have no such gaps to keep.
        gaps = "surrogateescape" if encoding == "utf-8" else "strict"
        file = TextFile(content[len(mark) :].decode(encoding, gaps), encoding, mark)
        lossless = file.encoded(file.text) == content
    except (LookupError, UnicodeError) as error:
        raise CatalogError(
            f"The catalog {title} is not text in {encoding}: {error}.",
            next_step='Name its encoding in the guide, for example encoding = "cp1252".',
        ) from error
    if not lossless:
        raise CatalogError(f"The catalog {title} cannot be written back without loss in {encoding}.")
    return file


def _first_fit(content: bytes, declared: Sequence[str]) -> str:
    for encoding in declared[:-1]:
        try:
            content.decode(encoding)
        except (LookupError, UnicodeError):
            continue
        return encoding
    return declared[-1] if declared else ""


def splice(file: TextFile, spans: Iterable[SpanChange]) -> bytes:
    """The file's bytes with every change written at its span; they come in its order.

    Raises `CatalogError` when a span does not hold its old text, or the new one cannot be written.
    """
    try:
        return file.encoded(spliced(file, spans))
    except UnicodeEncodeError as error:
        raise CatalogError(
            f"A new path cannot be written in {file.encoding}, which lacks {error.object[error.start : error.end]!r}.",
            next_step="Place these files elsewhere with a route. The catalog was not changed.",
        ) from error


def spliced(file: TextFile, spans: Iterable[SpanChange]) -> str:
    """The same as a text."""
    at = 0
    parts: list[str] = []
    for part in _parts(file.text, spans):
        if isinstance(part, SpanChange):
            raise CatalogError(
                f"The catalog no longer holds the text {part.old!r} where it was read.",
                next_step="The catalog changed while it was rewritten. Run the command again.",
            )
        parts.append(part.written)
        at = part.end
    return "".join([*parts, file.text[at:]])


def prove_splice(old: TextFile, new: TextFile, spans: Iterable[SpanChange]) -> Proof:
    """Compare two texts: outside the listed spans they must be equal, in them must stand what is written for the new.

    That it stands for the new texts is seen when they are read, or by `prove_quoting`.
    """
    text, now = old.text, new.text
    before, after, cells = 0, 0, 0
    for part in _parts(text, spans):
        if isinstance(part, SpanChange) or not now.startswith(part.written, after):
            raise _differs(part.start)
        after += len(part.written)
        before, cells = part.end, cells + part.changes
    if text[before:] != now[after:] or (old.encoding, old.mark) != (new.encoding, new.mark):
        raise _differs(before)
    return Proof(1, text.count("\n") + 1, cells)


class _Part(NamedTuple):
    """A part of a text: where it begins and ends, how it reads with its changes written, and how many these are."""

    start: int
    end: int
    written: str
    changes: int


def _parts(text: str, spans: Iterable[SpanChange]) -> Iterator[_Part | SpanChange]:
    """The parts of a text up to its last change, one after the other; a change that is not there ends them."""
    spans, at = iter(spans), 0
    while some := list(islice(spans, _TOGETHER)):
        part = _plainly_written(text, at, some)
        for each in [part] if part else _one_by_one(text, at, some):
            yield each
            if isinstance(each, SpanChange):
                return
            at = each.end


def _plainly_written(text: str, at: int, some: Sequence[SpanChange]) -> _Part | None:
    """The part from a place to the last of some changes, where all of their texts are written as they are."""
    starts, lengths, names, olds, news = zip(*some, strict=True)
    quoting = QUOTINGS.get(names[0])
    if quoting is None or names.count(names[0]) != len(some) or not represent_themselves(quoting, olds, news):
        return None
    ends = list(map(add, starts, lengths))
    befores = [at, *ends[:-1]]
    is_there = ends[-1] <= len(text) and all(map(le, befores, starts))
    if not is_there or [*map(text.__getitem__, map(slice, starts, ends))] != [*olds]:
        return None
    gaps = map(text.__getitem__, map(slice, befores, starts))
    return _Part(at, ends[-1], "".join(chain.from_iterable(zip(gaps, news, strict=True))), len(some))


def _one_by_one(text: str, at: int, some: Iterable[SpanChange]) -> Iterator[_Part | SpanChange]:
    for each in some:
        start, length, name, old, new = each
        quoting, end = QUOTINGS.get(name), start + length
        is_there = quoting is not None and start >= at and end <= len(text)
        written = requoted(quoting, text[start:end], old, new) if quoting and is_there else None
        if written is None:
            yield each
            return
        yield _Part(at, end, text[at:start] + written, 1)
        at = end


def prove_quoting(old: TextFile, spans: Iterable[SpanChange]) -> None:
    """What is written for each new text must stand for it, where it is not read again."""
    for start, length, name, was, wanted in spans:
        quoting = QUOTINGS[name]
        written = requoted(quoting, old.text[start : start + length], was, wanted)
        if written is None or quoting.decode(written) != wanted:
            raise _differs(start)


def _differs(at: int) -> CatalogError:
    return CatalogError(
        f"The rewritten catalog differs from the original in more than its paths: what is behind character {at} "
        "differs. It was discarded.",
        next_step="The catalog was not changed. Please report this fault to the makers of Zesty Crate.",
    )
