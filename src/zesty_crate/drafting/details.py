"""What else a record says of its file, verified on files that exist; what people wrote; what is made of its path."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from ..catalogs import moment
from ..catalogs.copies import made_copy
from ..guides import CopyPart
from ..machines import Disk, FileFacts
from ..media import media_facts
from ..paths import MachinePath
from .manners import is_remote
from .tables import Field

_SHARE = 0.9
_MOST_DIGESTED, _LARGEST_DIGESTED = 3, 64 << 20
_MOST_OPENED = 8
_FORMS = ("unix-seconds", "unix-milliseconds", "unix-nanoseconds", "iso-8601", "seconds-since-2001", "windows-filetime")
_DIGESTS = {32: "md5", 40: "sha1", 64: "sha256", 128: "sha512"}
_EARLIEST_NS, _LATEST_NS = 788_918_400 * 10**9, 4_102_444_800 * 10**9  # 1995 to 2100
_CLOSE_NS = 2_000_000_000
_CLOSE_S = 0.1
_BASES = ((), ("slashes",), ("file-url",), ("name",), ("folder",), ("stem",))
_CASES = ((), ("lower",), ("upper",))
_ENDS = (
    (), ("md5",), ("sha1",), ("sha256",), ("crc32",), ("crc32", "number"), ("crc32", "signed-number"),
    ("crc32", "upper"), ("md5", "upper"), ("sha1", "upper"),
)  # fmt: skip
_SECTION = "[]"  # the name of a section, or of a registry key
_UUID = re.compile(r"\{?[0-9A-Fa-f]{8}(?:-?[0-9A-Fa-f]{4}){3}-?[0-9A-Fa-f]{12}\}?")
_HEX = re.compile(r"(?:[0-9a-fA-F]{2}){8,}")
_MOMENT = re.compile(r"\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d.*)?")


class Known(NamedTuple):
    """A record whose file is known: its number, its recorded path, and the file."""

    row: int
    recorded: str
    path: MachinePath
    facts: FileFacts
    real: Any


@dataclass(slots=True)
class Details:
    """What a guide can say of the entries of a table; ``evidence`` is why, by the key of the guide."""

    told: dict[str, object] = field(default_factory=dict)
    evidence: dict[str, str] = field(default_factory=dict)

    def say(self, key: str, value: object, why: str = "") -> None:
        """Say something once."""
        if key not in self.told:
            self.told[key] = value
            if why:
                self.evidence[key] = why


def details_of(
    fields: Sequence[Field],
    known: Sequence[Known],
    rows: Sequence[int],
    recorded: Sequence[str],
    documents: Sequence[MachinePath],
    unique: Sequence[tuple[str, ...]],
    taken: Collection[str],
    disk: Disk,
) -> Details:
    """Everything that is verified. ``unique`` are keys that the document declares; ``taken`` fields are pieces."""
    details = Details()
    used = set(taken)
    own = [each for each in fields if not each.outside]
    _declared(details, unique, used)
    for each in own:
        if each.selector not in used and (found := _fact_of(each, known, disk)):
            key, value, why = found
            if key not in details.told:
                details.say(key, value, why)
                used.add(each.selector)
    _sides(details, own, known, used)
    _copies(details, own, known, used)
    _pointers(details, own, known, used)
    _identity(details, own, rows, used)
    _changed(details, own, rows, used)
    if not details.told.get("key"):
        _key(details, own, rows, documents, used)
    _annotations(details, own, rows, recorded, used)
    return details


def _identity(details: Details, fields: Sequence[Field], rows: Sequence[int], used: set[str]) -> None:
    """A UUID that differs in each record: by it the program itself knows an entry, on every computer."""
    for each in fields:
        texts = [each.values[row] for row in rows]
        is_told = all(isinstance(text, str) and _UUID.fullmatch(text) for text in texts)
        if len(texts) > 1 and is_told and len(set(texts)) == len(texts):
            details.say("identity", [each.selector], "a UUID that differs in each record")
            used.add(each.selector)
            return


def _changed(details: Details, fields: Sequence[Field], rows: Sequence[int], used: set[str]) -> None:
    """The latest of the moments in a record: if any is when a person changed it, that is."""
    found = []
    for each in fields:
        values = [each.values[row] for row in rows]
        told = [str(value) for value in values if value not in (None, "")]
        if each.selector in used or len(told) * 2 < len(values) or len(set(told)) < 2:
            continue
        forms = ("iso-8601",) if not all(map(_is_moment, told)) else _FORMS
        form = next((form for form in forms if all(_is_of_our_time(moment(text, form)) for text in told)), None)
        if form is not None:
            found.append((max(moment(text, form) or 0 for text in told), each.selector, form))
    if found:
        _, selector, form = max(found)
        details.say("changed", {"at": selector, "as": form}, "moments; the latest of a record, it seems")
        used |= {name for _, name, _ in found}


def _is_of_our_time(moment_ns: int | None) -> bool:
    return moment_ns is not None and _EARLIEST_NS < moment_ns < _LATEST_NS


def _declared(details: Details, unique: Sequence[tuple[str, ...]], used: set[str]) -> None:
    """The fields that the document itself declares to tell records apart."""
    declared = next((each for each in unique if each and not set(each) & used), next(iter(unique), ()))
    if declared:
        details.say("key", declared[0] if len(declared) == 1 else list(declared), "the key of its table")
        used |= set(declared)


def _key(
    details: Details, fields: Sequence[Field], rows: Sequence[int], documents: Sequence[MachinePath], used: set[str]
) -> None:
    """A field that differs in each record, and looks like a key."""
    candidates = []
    for order, each in enumerate(fields):
        values = [each.values[row] for row in rows]
        is_whole = all(value not in (None, "") and not isinstance(value, float | bytes | list) for value in values)
        in_documents = set(zip((documents[row] for row in rows), map(str, values), strict=True))
        if each.selector in used or not is_whole or len(in_documents) < len(values) or len(values) < 2:
            continue
        texts = list(map(str, values))
        rank = (
            0
            if all(map(_UUID.fullmatch, texts))
            else 1
            if all(re.fullmatch(r"[A-Za-z_-]{0,8}\d{1,12}", t) for t in texts)
            else 2
        )
        rank = -1 if each.selector == _SECTION else rank
        if rank < 2 or all(re.fullmatch(r"[\w.:-]{1,40}", text) for text in texts):
            candidates.append((rank, order, each.selector))
    if candidates:
        _, _, selector = min(candidates)
        details.say("key", selector, f"differs in each of {len(rows):,} records looked at")
        used.add(selector)


def _fact_of(each: Field, known: Sequence[Known], disk: Disk) -> tuple[str, object, str] | None:
    """What a field says of the files: their size, date, digest or duration."""
    if len(known) < 1:
        return None
    pairs = [(each.values[one.row], one) for one in known if each.values[one.row] not in (None, "")]
    if len(pairs) < min(2, len(known)):
        return None
    if _agree(pairs, lambda value, one: _number(value) == one.facts.size_bytes):
        number = sum(_number(value) == one.facts.size_bytes for value, one in pairs)
        return "size", each.selector, f"the size of {number:,} of {len(pairs):,} files looked at"
    texts = {str(value) for value, _ in pairs}
    for form in _FORMS if len(texts) > 1 or len(pairs) == 1 else ():
        if _agree(pairs, lambda value, one, form=form: _is_close(moment(str(value), form), one.facts.modified_ns)):
            number = sum(_is_close(moment(str(value), form), one.facts.modified_ns) for value, one in pairs)
            why = f"the date of {number:,} of {len(pairs):,} files looked at"
            return "modified", {"at": each.selector, "as": form}, why
    return _digest(each, pairs, disk) or _duration(each, pairs)


def _agree(pairs: Sequence[tuple[Any, Known]], is_so: Callable[..., bool]) -> bool:
    number = sum(is_so(value, one) for value, one in pairs)
    different = len({str(value) for value, one in pairs if is_so(value, one)})
    return number >= max(1, _SHARE * len(pairs)) and (different > 1 or (len(pairs) == 1 and different == 1))


def _number(value: Any) -> int | None:
    if isinstance(value, int):
        return value
    return int(value) if isinstance(value, str) and value.isdecimal() and len(value) < 19 else None


def _is_close(told_ns: int | None, real_ns: int) -> bool:
    return told_ns is not None and abs(told_ns - real_ns) <= _CLOSE_NS


def _digest(each: Field, pairs: Sequence[tuple[Any, Known]], disk: Disk) -> tuple[str, object, str] | None:
    texts = [value for value, _ in pairs if isinstance(value, str)]
    method = _DIGESTS.get(len(texts[0])) if texts and len({*map(len, texts)}) == 1 else None
    if method is None or not all(re.fullmatch(r"[0-9a-fA-F]+", text) for text in texts):
        return None
    small = sorted((one.facts.size_bytes, str(one.real), value, one) for value, one in pairs)
    some = [(value, one) for size, _, value, one in small if size <= _LARGEST_DIGESTED][:_MOST_DIGESTED]
    if some and all(disk.digest_by(one.real, method) == str(value).lower() for value, one in some):
        return "content", {"at": each.selector, "as": method}, f"verified on {len(some)} files"
    return None


def _duration(each: Field, pairs: Sequence[tuple[Any, Known]]) -> tuple[str, object, str] | None:
    numbers = [(_decimal(value), one) for value, one in pairs]
    told = [(value, one) for value, one in numbers if value is not None and value > 0]
    if len(told) < len(pairs):
        return None
    lengths = [(value, media_facts(one.real).duration_s) for value, one in told[:_MOST_OPENED]]
    plays = [(value, length) for value, length in lengths if length]
    for unit, factor in (("seconds", 1.0), ("milliseconds", 1000.0)):
        differ = len({value for value, _ in plays}) == len({round(length, 1) for _, length in plays})
        if (
            len({value for value, _ in plays}) > 1
            and differ
            and all(abs(value / factor - length) <= _CLOSE_S for value, length in plays)
        ):
            return "duration", {"at": each.selector, "as": unit}, f"verified on {len(plays)} files"
    return None


def _decimal(value: Any) -> float | None:
    try:
        return float(value) if isinstance(value, int | float | str) else None
    except ValueError:
        return None


def _sides(details: Details, fields: Sequence[Field], known: Sequence[Known], used: set[str]) -> None:
    """Two fields with the width and the height of pictures."""
    opened = [(one, media_facts(one.real).dimensions) for one in known[:_MOST_OPENED]]
    pictures = [(one, sides) for one, sides in opened if sides]
    if not pictures:
        return
    found = []
    for side in (0, 1):
        fits = (
            each.selector
            for each in fields
            if each.selector not in used
            and each.selector not in found
            and all(_number(each.values[one.row]) == sides[side] for one, sides in pictures)
        )
        found.append(next(fits, ""))
    if all(found):
        details.say("dimensions", {"width": found[0], "height": found[1]}, f"verified on {len(pictures)} pictures")
        used |= set(found)


def _copies(details: Details, fields: Sequence[Field], known: Sequence[Known], used: set[str]) -> None:
    """Fields that are made of the recorded path."""
    if len(known) < 2:
        return
    made = dict(_made_of(known[0].recorded))
    copies = []
    for each in fields:
        if each.selector in used:
            continue
        parts = made.get(_as_text(each.values[known[0].row]), [])
        good = (part for part in parts if _is_made(part, each, known))
        if (part := next(good, None)) is not None:
            steps = part.steps[0] if len(part.steps) == 1 else list(part.steps)
            told: dict[str, object] = {"at": each.selector, "as": steps}
            used.add(each.selector)
            if steps == "stem":  # which people may have changed: it is what the entry is called
                details.say("name", each.selector)
                continue
            copies.append(told | ({"encoding": part.encoding} if part.encoding != "utf-8" else {}))
    if copies:
        details.say("copies", copies, f"made of the path in {len(known):,} of {len(known):,} records looked at")


def _made_of(recorded: str) -> Iterator[tuple[str, list[CopyPart]]]:
    found: dict[str, list[CopyPart]] = {}
    for base in _BASES:
        for case in _CASES:
            for end in _ENDS:
                for encoding in ("utf-8", "utf-16-le") if end else ("utf-8",):
                    part = CopyPart.model_validate({"at": "x", "as": (*base, *case, *end), "encoding": encoding})
                    if part.steps:
                        try:
                            text = made_copy(part, recorded)
                        except ValueError:
                            continue
                        found.setdefault(text, []).append(part)
    found.pop("", None)
    yield from found.items()


def _is_made(part: CopyPart, each: Field, known: Sequence[Known]) -> bool:
    told = [(made_copy(part, one.recorded), _as_text(each.values[one.row])) for one in known]
    return all(one == other for one, other in told) and len({other for _, other in told}) > 1


def _as_text(value: Any) -> str:
    if isinstance(value, bytes):
        return value.hex()
    return "" if value is None else str(value)


def _pointers(details: Details, fields: Sequence[Field], known: Sequence[Known], used: set[str]) -> None:
    """Bytes in which the file's name stands among more: what only the program can follow."""
    pointers = []
    for each in fields:
        blobs = [(each.values[one.row], one) for one in known if isinstance(each.values[one.row], bytes)]
        if each.selector in used or not blobs:
            continue
        hits = sum(any(one.path.name.encode(e) in blob for e in ("utf-8", "utf-16-le")) for blob, one in blobs)
        if hits * 2 > len(blobs):
            pointers.append({"at": each.selector})
            used.add(each.selector)
    if pointers:
        details.say("pointers", pointers, "bytes with the names of the files in them")


def _annotations(
    details: Details, fields: Sequence[Field], rows: Sequence[int], recorded: Sequence[str], used: set[str]
) -> None:
    """What no fact of the file explains, and a person may have written: losing one is worse than one too many."""
    found = []
    for each in fields:
        values = [each.values[row] for row in rows if each.values[row] not in (None, "")]
        if each.selector in used or not values or each.selector in ("member-name()", ".", _SECTION):
            continue
        if any(isinstance(value, bytes | list) for value in values):
            continue
        texts = [str(value) for value in values]
        is_fact = all(
            _UUID.fullmatch(text) or _HEX.fullmatch(text) or _MOMENT.fullmatch(text) or _is_moment(text)
            for text in texts
        )
        if not is_fact and not _is_of_path(each, rows, recorded):
            found.append(each.selector)
    if found:
        details.say("annotations", found)


def _is_of_path(each: Field, rows: Sequence[int], recorded: Sequence[str]) -> bool:
    """Whether a field only repeats what is in the path, such as a folder."""
    pairs = [
        (str(each.values[row]), path) for row, path in zip(rows, recorded, strict=True) if each.values[row] is not None
    ]
    long = [text in path for text, path in pairs if len(text) > 3]
    return bool(long) and all(long)


def _is_moment(text: str) -> bool:
    """Whether a number is far larger than what people type: a moment, an address, a sum."""
    return re.fullmatch(r"-?\d{9,}(?:\.\d+)?", text) is not None


def remote_of(
    fields: Sequence[Field], rows: Sequence[int], recorded: Sequence[str], found: Collection[int], *, in_database: bool
) -> tuple[str, str] | None:
    """What tells entries that have no file by design: the form of their path, or a value that all of these have."""
    without = [(row, text) for row, text in zip(rows, recorded, strict=True) if row not in found]
    if not without:
        return None
    if any(is_remote(text) for _, text in without):
        schemes = sorted({text.partition(":")[0] for _, text in without if is_remote(text)})
        return "remote-like", f"^(?:{'|'.join(map(re.escape, schemes))}):" if len(
            schemes
        ) > 1 else f"^{re.escape(schemes[0])}:"
    if not in_database:
        return None
    unlike = {row for row, text in without if not re.search(r"[\\/]|\.\w{1,10}$", text)}
    for each in fields:
        there = {_as_text(each.values[row]) for row in rows if row not in unlike}
        values = {_as_text(each.values[row]) for row in unlike} - there
        if (
            len(values) == 1
            and all(values)
            and there
            and len(there) < 20
            and all(_as_text(each.values[row]) in values for row in unlike)
        ):
            escaped = next(iter(values)).replace("'", "''")
            return "remote", f"\"{each.selector}\" = '{escaped}'"
    return None
