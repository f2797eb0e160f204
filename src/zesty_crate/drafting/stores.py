"""Content stores: files whose names are made of values of a record, such as ``ab/cdef…`` of a digest."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence

from ..paths import MachinePath, Spelling
from .manners import Explained, Judge, Manner, Text
from .tables import Field, Table

_CODE = re.compile(r"[0-9A-Za-z][0-9A-Za-z_-]{5,}")
_ENDING = re.compile(r"\.?[A-Za-z0-9]{1,8}")
_FEWEST = 3
_MOST_TRIED = 60
_SHARE = 0.6
# How names may be made of a code: folders of its first characters, and what is left of it, or all of it.
_LAYOUTS: tuple[tuple[tuple[int, int | None], ...], ...] = (
    ((0, None),),
    ((0, 2), (2, None)),
    ((0, 2), (0, None)),
    ((0, 1), (0, None)),
    ((0, 3), (0, None)),
    ((0, 2), (2, 4), (0, None)),
    ((0, 2), (2, 4), (4, None)),
    ((0, 1), (1, 2), (0, None)),
)


def stored(table: Table, judge: Judge) -> Iterator[tuple[str, set[str], Explained, list[str]]]:
    """What a guide says a path is made of, the fields of that, what it explains, and the path in each record."""
    endings = ["", *(each.selector for each in table if _are_endings(each))]
    for each in table:
        codes = each.texts
        if each.outside or len(set(codes)) < _FEWEST or not all(map(_CODE.fullmatch, codes[:_MOST_TRIED])):
            continue
        for layout in _LAYOUTS:
            for ending in endings:
                paths = list(_paths(table, each, layout, ending))
                base = _base_of([text for text in paths if text], judge)
                if base is None:
                    continue
                manner = Manner(Spelling.RELATIVE, "base", base)
                texts = {Text(text, at) for text, at in zip(paths, table.at, strict=True) if text}
                tried = judge.try_on(sorted(texts)[:_MOST_TRIED], manner)
                if tried.files >= _FEWEST and tried.share > _SHARE:
                    yield _made_of(each.selector, layout, ending), {each.selector, ending} - {""}, tried, paths
                    return


def _are_endings(each: Field) -> bool:
    different = set(each.texts)
    return 0 < len(different) <= _MOST_TRIED and not each.outside and all(map(_ENDING.fullmatch, different))


def _paths(table: Table, code: Field, layout: Sequence[tuple[int, int | None]], ending: str) -> Iterator[str]:
    more = table.fields[ending].values if ending else [None] * len(table.at)
    for value, last in zip(code.values, more, strict=True):
        if not isinstance(value, str) or not value or (ending and not last):
            yield ""
            continue
        text = "/".join(value[start:end] for start, end in layout)
        yield f"{text}.{str(last).removeprefix('.')}" if last else text


def _base_of(paths: Sequence[str], judge: Judge) -> MachinePath | None:
    """The folder in which most such names are files."""
    votes: Counter[MachinePath] = Counter()
    some = paths[:: max(1, len(paths) // _MOST_TRIED)][:_MOST_TRIED]
    for text in some:
        votes.update({target.base for target in judge.names.ending_in(text.split("/")) if target.is_file})
    if not votes:
        return None
    base, number = votes.most_common(1)[0]
    return base if number >= max(_FEWEST, _SHARE * len(some)) else None


def _made_of(code: str, layout: Sequence[tuple[int, int | None]], ending: str) -> str:
    parts = ["{" + code + ("" if cut == (0, None) else f"[{cut[0]}:{cut[1] or ''}]") + "}" for cut in layout]
    return "/".join(parts) + (f".{{{ending}}}" if ending else "")
