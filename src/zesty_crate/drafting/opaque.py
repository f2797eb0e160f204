"""What a draft could not explain: by document and field, or by offset, with samples."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from ..machines import DiskError
from ..paths import Mentions, Spelling, System
from .documents import Collected, Kind, Place
from .explain import Entries
from .manners import Judge, Lead, Manner
from .model import Unexplained

_READ_BYTES = 1 << 20
_MOST_SAMPLES = 3
_MOST_LOOKED_AT = 200
_SPACES = re.compile(r"\s+")


def unexplained_in(
    collected: Collected, kinds: Sequence[tuple[Kind, Sequence[Entries]]], judge: Judge
) -> list[Unexplained]:
    """Files that cannot be read, formats of their own with texts like paths, and fields with paths left over."""
    return [*_faults(collected), *_opaque(collected, judge), *_fields(kinds, judge)]


def _faults(collected: Collected) -> Iterator[Unexplained]:
    for place, why in collected.faults:
        yield Unexplained(str(place.path), f"cannot be read: {why}")
    for kind in collected.kinds:
        if kind.fault:
            yield Unexplained(str(kind.files[0].path), f"cannot be read as {kind.syntax}: {kind.fault}")


def _opaque(collected: Collected, judge: Judge) -> Iterator[Unexplained]:
    computer = judge.computer
    anchors = [volume.anchor for volume in computer.volumes]
    if computer.system is not System.WINDOWS:
        anchors = [each for each in anchors if each.parts]
    mentions = Mentions([computer.place("home"), *anchors])
    for place in collected.opaque[:_MOST_LOOKED_AT]:
        samples = list(_samples(place, mentions))
        if samples:
            yield Unexplained(str(place.path), "a format of its own, with texts like paths", tuple(samples))


def _samples(place: Place, mentions: Mentions) -> Iterator[str]:
    try:
        with place.real.open("rb") as stream:
            content = stream.read(_READ_BYTES)
    except OSError as error:
        raise DiskError("Reading", place.real, error) from error
    for number, mention in enumerate(mentions.in_bytes(content)):
        if number >= _MOST_SAMPLES:
            return
        text = mention.text[:120]
        offset = next((at for e in ("utf-8", "utf-16-le") if (at := content.find(text.encode(e, "replace"))) >= 0), -1)
        yield f"at {offset:,}: {_SPACES.sub(' ', text)}" if offset >= 0 else _SPACES.sub(" ", text)


def _fields(kinds: Sequence[tuple[Kind, Sequence[Entries]]], judge: Judge) -> Iterator[Unexplained]:
    """Fields whose texts look like whole paths of this computer, and are no part of what was explained."""
    pattern = r"[A-Za-z]:[\\/]|file:/" if judge.computer.system is System.WINDOWS else r"/[^/\s]+/|file:/"
    for kind, entries in kinds:
        if kind.syntax == "lines" and entries:  # whose shapes are several readings of the same lines
            continue
        explained = {(each.table.each, name) for each in entries for name in each.own}
        seen = {text for each in entries for text in (*each.recorded, *(part for _, part in each.parts))}
        for table in kind.tables:
            for each in table:
                texts = [text for text in each.texts if re.match(pattern, text) and text not in seen]
                if (table.each, each.selector) in explained or each.outside or not texts or "values" in table.more:
                    continue
                if any(judge.lead(text, _plain_manner(text), table.at[0])[0] > Lead.NOT_HERE for text in texts[:20]):
                    where = f"{table.each} {each.selector}".strip()
                    yield Unexplained(
                        str(kind.files[0].path), f"paths in {where} that nothing explains", tuple(texts[:_MOST_SAMPLES])
                    )
                    seen |= set(texts)


def _plain_manner(text: str) -> Manner:
    return Manner(Spelling.FILE_URL) if text.startswith("file:") else Manner()
