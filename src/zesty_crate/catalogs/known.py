"""What a catalog knows of an entry besides its path: a name, the content, a date, and which files it represents."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Callable
from typing import NamedTuple

from ..guides import DimensionsPart, DurationPart, EntriesPart, NumberedPart, SiblingPart
from .reading import UnreadRecord

Value = Callable[[str], str | None]

# A field for the number: %04d, ####, all numbers from one to another as [0001-0250], or any with *.
_FIELD = re.compile(r"%(?:0?(?P<digits>\d+))?d|(?P<marks>#+)|\[(?P<first>\d{1,9})-(?P<last>\d{1,9})\]|(?P<any>\*)")
FRAME = re.compile(r"\d+(?=[^\d.]*(?:\.[^.]*)?$)")  # the last number of a name, before its ending
_DIGESTS = {"md5": 32, "sha1": 40, "sha256": 64, "sha512": 128}
_TO_2001_S = 978_307_200  # from 1970, the beginning of other clocks' time, to that of Apple's
_TO_1601_S = 11_644_473_600
_MOST_SECONDS = 10**9
_MOST_NUMBERS = 10_000_000


class Numbered(NamedTuple):
    """A sequence of files: names with a number of at least ``digits`` digits between ``prefix`` and ``suffix``.

    With 0 ``digits`` the number may have any.

    ``numbers`` are those that belong to it, None for all that are there. With ``in_folder`` the recorded path is the
    folder; else its last name is the sequence's own, with a field for the number.
    """

    prefix: str
    suffix: str
    digits: int
    numbers: range | None
    in_folder: bool

    def name_of(self, number: int) -> str:
        """The name of one file."""
        sign, digits = ("-", -number) if number < 0 else ("", number)
        return f"{self.prefix}{sign}{digits:0{self.digits}d}{self.suffix}"

    def has(self, name: str) -> bool:
        """Whether a name is one of the sequence."""
        middle = name[len(self.prefix) : len(name) - len(self.suffix)]
        if not (name.startswith(self.prefix) and name.endswith(self.suffix) and re.fullmatch(r"-?[0-9]+", middle)):
            return False
        is_so_written = not self.digits or self.name_of(int(middle)) == name
        return is_so_written and (self.numbers is None or int(middle) in self.numbers)


class Known(NamedTuple):
    """What is known of an entry. ``content`` is ``method:digest``; moments are in nanoseconds since 1970.

    ``identity`` is the same for an entry of another catalog that is the same; ``changed_ns`` is when it was changed.
    """

    name: str = ""
    content: str = ""
    modified_ns: int | None = None
    duration_s: float | None = None
    dimensions: tuple[int, int] | None = None
    folder: bool = False
    numbered: Numbered | None = None
    beside: tuple[SiblingPart, ...] = ()
    identity: str = ""
    changed_ns: int | None = None


NOTHING_KNOWN = Known()


def known_of(part: EntriesPart, value: Value, recorded: str) -> Known:
    """What an entry's values tell; ``recorded`` is its path, or the last piece of it."""
    if not (part.known or part.folder or part.numbered or part.beside):
        return NOTHING_KNOWN  # by far the most frequent
    return Known(
        name=(value(part.name) or "") if part.name else "",
        content=_content(part, value),
        modified_ns=moment(value(part.modified.at), part.modified.form) if part.modified else None,
        duration_s=_duration(part.duration, value) if part.duration else None,
        dimensions=_dimensions(part.dimensions, value) if part.dimensions else None,
        folder=part.folder,
        numbered=_numbered(part.numbered, value, re.split(r"[\\/]", recorded)[-1]) if part.numbered else None,
        beside=part.beside,
        identity=_identity(part, value),
        changed_ns=moment(value(part.changed.at), part.changed.form) if part.changed else None,
    )


def _identity(part: EntriesPart, value: Value) -> str:
    """All that an entry is known by; empty where any of it is lacking."""
    texts = [value(selector) or "" for selector in part.identity]
    return "\0".join(texts) if all(texts) else ""


def _content(part: EntriesPart, value: Value) -> str:
    digest = (value(part.content.at) or "").strip().lower() if part.content else ""
    if not part.content or not re.fullmatch(f"[0-9a-f]{{{_DIGESTS[part.content.method]}}}", digest):
        return ""
    return f"{part.content.method}:{digest}"


def _duration(part: DurationPart, value: Value) -> float | None:
    try:
        counted = float(value(part.at) or "")
    except ValueError:
        return None
    seconds = counted / 1000 if part.unit == "milliseconds" else counted
    return seconds if 0 < seconds < _MOST_SECONDS else None


def _dimensions(part: DimensionsPart, value: Value) -> tuple[int, int] | None:
    width, height = (_number(side, value) for side in (part.width, part.height))
    return (width, height) if width and height and width > 0 and height > 0 else None


def moment(text: str | None, form: str) -> int | None:
    """A moment in nanoseconds since 1970; None for what is not written as it should be."""
    try:
        if form == "iso-8601":
            moment = dt.datetime.fromisoformat((text or "").strip())
            zoned = moment if moment.tzinfo else moment.replace(tzinfo=dt.UTC)
            return int(zoned.timestamp()) * 10**9 + zoned.microsecond * 1000
        whole, _, fraction = (text or "").strip().partition(".")
        number, rest = int(whole), fraction[:9].ljust(9, "0")
        if form in ("unix-seconds", "seconds-since-2001"):
            shift = _TO_2001_S if form == "seconds-since-2001" else 0
            return (number + shift) * 10**9 + int(rest)
        if form == "windows-filetime":
            return number * 100 - _TO_1601_S * 10**9
        return number * (10**6 if form == "unix-milliseconds" else 1)
    except (ValueError, OverflowError):
        return None


def _numbered(part: NumberedPart, value: Value, last_name: str) -> Numbered:
    """The sequence that an entry is. Raises `UnreadRecord` for a name that has no field for the number."""
    in_folder = part.suffix is not None
    if in_folder:
        prefix, suffix = (value(part.prefix) or "" if part.prefix else ""), value(part.suffix or "") or ""
        digits = _number(part.digits, value) or 1
    else:
        field = _FIELD.search(last_name)
        found = field or _first_frame(last_name, _numbers(part, value))
        if found is None:
            raise UnreadRecord(
                f"the guide says that it is a sequence, and {last_name!r} has no field for the number, and is not the "
                "first of them"
            )
        prefix, suffix = last_name[: found.start()], last_name[found.end() :]
        if field is None:
            digits = len(found.group())
        elif field["any"]:
            return Numbered(prefix, suffix, 0, _numbers(part, value), in_folder=False)
        elif field["first"]:
            first, last = int(field["first"]), int(field["last"])
            whole = range(first, min(last + 1, first + _MOST_NUMBERS))
            return Numbered(prefix, suffix, len(field["first"]), _numbers(part, value) or whole, in_folder=False)
        else:
            digits = len(field["marks"]) if field["marks"] else int(field["digits"] or 1)
    return Numbered(prefix, suffix, min(max(digits, 1), 20), _numbers(part, value), in_folder)


def _first_frame(last_name: str, numbers: range | None) -> re.Match[str] | None:
    """The number in the name of a sequence's first file, by which it is recorded; None in any other name."""
    frame = FRAME.search(last_name)
    return frame if frame is not None and numbers and int(frame.group()) == numbers.start else None


def _numbers(part: NumberedPart, value: Value) -> range | None:
    """Which numbers belong to a sequence; None when nothing tells where they begin and end."""
    first, last, span = (_number(each, value) for each in (part.first, part.last, part.span))
    if first is None or (last is None and span is None):
        return None
    step = max(1, _number(part.step, value) or 1)
    end = last + 1 if last is not None else first + (span or 0)
    return range(first, min(end, first + _MOST_NUMBERS), step)


def _number(selector: str | int | None, value: Value) -> int | None:
    if selector is None or isinstance(selector, int):
        return selector
    try:
        return int(float(value(selector) or ""))
    except (ValueError, OverflowError):
        return None
