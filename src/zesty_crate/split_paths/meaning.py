"""The proof of meaning: in a rewritten catalog with shared pieces, every entry leads where it was meant to lead."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ..catalogs import CatalogError, Entry
from ..machines import Computer
from ..paths import MachinePath, PathError, join_pieces, read_path
from .deciding import Decided
from .voting import entry_texts
from .witnesses import Outer

_SHOWN = 3


def prove_meaning(
    before: Iterable[Entry], after: Iterable[Entry], pieces: Decided, old: Computer, new: Computer
) -> None:
    """Compare the entries of the original and of the rewritten catalog, both in its order.

    One that a selector no longer selects in its new form is passed over. Raises `CatalogError` that names the first
    entries which lead elsewhere.
    """
    given_up = {entry.key for entry in pieces.made_wrong}
    folders = _Folders(pieces)
    astray = [
        f"{one.recorded} became {other.recorded}"
        for one, other in _paired(before, after)
        if not one.remote
        and one.key not in given_up
        and not folders.prove(one, other)
        and not folders.learn(one, other, is_meant=_is_meant(one, other, pieces, old, new))
    ]
    if astray:
        raise CatalogError(
            f"Entries that would not lead where they must, by a reading of the new catalog: {len(astray)} "
            f"({'; '.join(astray[:_SHOWN])}).",
            next_step="This is a fault of Zesty Crate, noticed before anything was changed. Please report it.",
        )


class _Folders:
    """What was proven of one entry of a folder holds for those that share all pieces with it, before and after."""

    def __init__(self, pieces: Decided) -> None:
        self._pieces = pieces
        self._proven: dict[Outer, Outer] = {}

    def prove(self, one: Entry, other: Entry) -> bool:
        """Whether an entry is as right as another one that was proven: its own name is the same as before."""
        proven = self._proven.get(one.pieces[:-1])
        if proven is None or proven != other.pieces[:-1] or self._pieces.speaks_for_itself(one):
            return False
        last, now = one.pieces[-1], other.pieces[-1]
        return last is not None and now is not None and last.text == now.text

    def learn(self, one: Entry, other: Entry, *, is_meant: bool) -> bool:
        """Take what was found out of an entry."""
        if is_meant:
            self._proven.setdefault(one.pieces[:-1], other.pieces[:-1])
        return is_meant


def _paired(before: Iterable[Entry], after: Iterable[Entry]) -> Iterator[tuple[Entry, Entry]]:
    rest = iter(after)
    other = next(rest, None)
    for one in before:
        if other is not None and one.key == other.key:
            yield one, other
            other = next(rest, None)


def _is_meant(one: Entry, other: Entry, pieces: Decided, old: Computer, new: Computer) -> bool:
    wanted = pieces.wanted(one)
    if wanted is not None:
        path = _read(other, new, entry_texts(other))
        return path is not None and (path.root, path.parts) == wanted
    if entry_texts(one) == entry_texts(other):
        return True
    meant = _read(one, old, entry_texts(one))
    return meant is None or _read(one, old, entry_texts(other)) == meant


def _read(entry: Entry, computer: Computer, texts: list[str]) -> MachinePath | None:
    """What the texts of an entry's pieces mean on a computer; None when that is no path."""
    try:
        text = join_pieces(texts, computer.system, entry.spelling)
        return read_path(text, computer.system, entry.spelling, entry.base, computer.variables).path
    except PathError:
        return None
