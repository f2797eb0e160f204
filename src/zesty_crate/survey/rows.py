"""What the rows of a survey are: holdings, files, documents, entries, and files as they are in the crate."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any, NamedTuple

from ..machines import FileFacts
from ..machines.texts import restored
from .states import State
from .verdicts import Verdict


class HoldingRow(NamedTuple):
    """A holding: what it is, where it was looked for, and whether it is there; ``swept`` when it was found anywhere."""

    id: str
    guide: str
    title: str
    kind: str
    media_class: str
    at: str
    present: bool
    swept: bool


class FileRow(NamedTuple):
    """One file, folder or link of the old computer. ``path`` is its own native text there; ``id`` is the store's."""

    id: int
    holding: str
    role: str  # own | factory | outside | cache
    kind: str  # file | folder | link
    path: str
    key: str
    size_bytes: int
    modified_ns: int
    mode: int
    target: str
    fault: str = ""

    @property
    def facts(self) -> FileFacts:
        """What the disk said about it."""
        return FileFacts(self.kind, self.size_bytes, self.modified_ns, self.mode, self.target)


NewFile = tuple[str, str, str, str, str, int, int, int, str, str]  # a `FileRow` without its id


def new_file(holding: str, role: str, path: str, key: str, facts: FileFacts, fault: str = "") -> NewFile:
    """A file that the store does not know yet."""
    return (holding, role, facts.kind, path, key, *facts[1:], fault)


# An entry of which no more is known, taken for found and not judged: holding, key, recorded, path, path_key, size.
BriefEntry = tuple[str, str, str, str, str, "int | None"]


@dataclass(frozen=True, slots=True)
class Document:
    """A catalog on the old computer. What it holds is known by its own keys, with ``prefix`` before them.

    ``unread`` records could not be read; ``reasons`` has the first reasons for the ``verdict``. ``pointers`` are
    entries with something that only their program can follow, ``stale`` those with a copy that was not made of their
    path.
    """

    id: int
    holding: str
    path: str
    prefix: str
    verdict: Verdict = Verdict.READ
    unread: int = 0
    reasons: tuple[str, ...] = ()
    pointers: int = 0
    stale: int = 0


# An SQL condition on the rows of one document by their key, which is bound to `bounds_of` it.
OF_DOCUMENT = "holding = ?1 AND {0} >= ?2 AND {0} < ?3"


def bounds_of(document: Document) -> tuple[str, str, str]:
    """What `OF_DOCUMENT` is bound to."""
    prefix = document.prefix
    return document.holding, prefix, f"{prefix[:-1]};" if prefix else "\U0010ffff"


class EntryRow(NamedTuple):
    """One catalog entry as it was judged. ``path`` and ``path_key`` are empty when it names no local file.

    ``content`` is ``method:digest`` as the catalog has it. What is not ``judged`` yet is taken for found.
    """

    holding: str
    key: str
    name: str
    recorded: str
    path: str
    path_key: str
    state: State
    why: str
    size_bytes: int | None = None
    content: str = ""
    modified_ns: int | None = None
    judged: bool = True
    duration_s: float | None = None
    width: int | None = None
    height: int | None = None


class PathRow(NamedTuple):
    """A file, folder or link by its path, with the key of that; and its size in bytes."""

    id: int
    holding: str
    path: str
    key: str
    size_bytes: int


class Carried(NamedTuple):
    """A file as it is in the crate: below ``data/`` of a bag, with its digest. In bag 0 are those cut in segments."""

    file: FileRow
    payload: str
    sha512: str
    bag: int


# A third of the time of `_make`: there may be a million of them.
_path_row: Callable[[tuple[Any, ...]], PathRow] = partial(tuple.__new__, PathRow)
_file_row: Callable[[tuple[Any, ...]], FileRow] = partial(tuple.__new__, FileRow)


def path_row(row: tuple[Any, ...]) -> PathRow:
    """A path as the store gives it."""
    number, holding, path, key, size = row
    if path.__class__ is key.__class__ is str:  # as nearly always
        return _path_row(row)
    return PathRow(number, holding, restored(path), restored(key), size)


def file_row(row: tuple[Any, ...]) -> FileRow:
    """A file as the store gives it."""
    number, holding, role, kind, path, key, size, modified_ns, mode, target, fault = row
    if path.__class__ is key.__class__ is target.__class__ is str:  # as nearly always
        return _file_row(row)
    texts = restored(path), restored(key)
    return FileRow(number, holding, role, kind, *texts, size, modified_ns, mode, restored(target), fault)


def entry_row(row: tuple[Any, ...]) -> EntryRow:
    """An entry as the store gives it."""
    holding, key, name, recorded, path, path_key, state, *rest = row
    texts = (restored(name), restored(recorded), restored(path), restored(path_key))
    return EntryRow(holding, key, *texts, State(state), *rest)
