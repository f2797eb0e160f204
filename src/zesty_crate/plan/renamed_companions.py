"""Companions that are named by the path of their media: when that goes elsewhere, they get the name of its new path."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Iterator

from ..guides import Holding, NamedByPart
from ..machines import Computer
from ..machines.texts import restored
from ..paths import MachinePath, file_url
from ..survey import SurveyStore

_PATHS = "SELECT path FROM file WHERE kind = 'file' UNION SELECT path FROM entry WHERE path <> ''"
_COMPANIONS = "SELECT path FROM file WHERE kind = 'file' AND holding = ?"


def renamed_companions(
    survey: SurveyStore,
    holdings: Iterable[Holding],
    old: Computer,
    goes_to: Callable[[MachinePath], MachinePath | None],
) -> Iterator[tuple[MachinePath, str]]:
    """Each companion on the ``old`` computer whose media goes elsewhere, and its new name."""
    for holding in holdings:
        part = holding.part.named_by
        rows = survey.database.execute(_COMPANIONS, (holding.id,)) if part else ()
        there = {path.name: path for (text,) in rows for path in (old.parse(restored(text)),)}
        if part is None or not there:
            continue
        for (text,) in survey.database.execute(_PATHS):
            path = old.parse(restored(text))
            companion = there.get(named_by(part, path))
            new = goes_to(path) if companion is not None else None
            if companion is not None and new is not None and (name := named_by(part, new)) != companion.name:
                yield companion, name


def named_by(part: NamedByPart, path: MachinePath) -> str:
    """The name of the companion of the media at ``path``."""
    text = file_url(path) if part.path == "file-url" else str(path)
    if part.path == "slashes":
        text = text.replace("\\", "/")
    key = hashlib.new(part.method, text.encode("utf-8", "surrogateescape"), usedforsecurity=False).hexdigest()
    return part.name.replace("{key}", key)
