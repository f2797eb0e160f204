"""Companions that are named by the path of their media: when that goes elsewhere, they get the name of its new path."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from urllib.parse import quote

from ..guides import Holding, NamedByPart
from ..machines import Computer
from ..machines.texts import restored
from ..paths import MachinePath, file_url
from ..survey import SurveyStore

Form = Callable[[MachinePath], str]

_SAMPLE = 20_000
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
        for companion, path, form in companions_of(survey, holding, old):
            new = goes_to(path)
            if part is not None and new is not None and (name := _name(part, form(new))) != companion.name:
                yield companion, name


def companions_of(
    survey: SurveyStore, holding: Holding, old: Computer
) -> Iterator[tuple[MachinePath, MachinePath, Form]]:
    """Each companion whose name is known from a path, with that path and the form in which its program wrote it.

    Programs write one path in several ways: what the usual form does not explain is tried in the others.
    """
    part = holding.part.named_by
    if part is None:
        return
    left = companions_in(survey, holding, old)
    usual, *others = _FORMS[part.path]
    for form in (usual, *(each for each in others if left and _is_used(survey, part, each, left, old))):
        for (text,) in survey.database.execute(_PATHS) if left else ():
            path = old.parse(restored(text))
            companion = left.pop(_name(part, form(path)), None)
            if companion is not None:
                yield companion, path, form


def companions_in(survey: SurveyStore, holding: Holding, old: Computer) -> dict[str, MachinePath]:
    """The files of a holding of companions, by their names."""
    rows = survey.database.execute(_COMPANIONS, (holding.id,))
    return {path.name: path for (text,) in rows for path in (old.parse(restored(text)),)}


def _is_used(
    survey: SurveyStore, part: NamedByPart, form: Form, left: Mapping[str, MachinePath], old: Computer
) -> bool:
    """Whether any of the first paths, written in a form, explains a companion: a form is its program's habit."""
    rows = survey.database.execute(f"{_PATHS} LIMIT {_SAMPLE}")
    return any(_name(part, form(old.parse(restored(text)))) in left for (text,) in rows)


def _name(part: NamedByPart, text: str) -> str:
    """The name of the companion of the media whose path is written as ``text``."""
    key = hashlib.new(part.method, text.encode("utf-8", "surrogateescape"), usedforsecurity=False).hexdigest()
    return part.name.replace("{key}", key)


def _slashes(path: MachinePath) -> str:
    return str(path).replace("\\", "/")


def _small_letter(path: MachinePath) -> str:
    return re.sub(r"^(file:///)?([A-Z])(?=:)", lambda match: (match[1] or "") + match[2].lower(), file_url(path))


_NATIVE: tuple[Form, ...] = (str, _slashes, lambda path: str(path).lower(), lambda path: _slashes(path).lower())
_URLS: tuple[Form, ...] = (
    file_url,
    lambda path: file_url(path).replace("file:///", "file://localhost/", 1),
    lambda path: file_url(path).replace("file:///", "file:/", 1),
    lambda path: re.sub(r"^(file:///[A-Za-z]):", r"\1%3A", file_url(path)),
    _small_letter,
    lambda path: re.sub("%[0-9A-F]{2}", lambda match: match.group().lower(), file_url(path)),
    lambda path: "file://" + quote(_slashes(path) if path.root == "/" else f"/{_slashes(path)}", safe="/:"),
    lambda path: "file://" + (_slashes(path) if path.root == "/" else f"/{_slashes(path)}"),
)
_FORMS: dict[str, tuple[Form, ...]] = {
    "file-url": _URLS,
    "native": _NATIVE,
    "slashes": (_slashes, *(each for each in _NATIVE if each is not _slashes)),
}
