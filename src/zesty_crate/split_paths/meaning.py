"""The proof of meaning: in a rewritten catalog with shared pieces, every entry leads where it was meant to lead."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import chain

from ..catalogs import CatalogError, Entry, InBranch
from ..machines import Computer
from ..paths import MachinePath, PathError, join_pieces, read_path
from .branches import Branches, Pair
from .deciding import Decided
from .voting import entry_texts

_SHOWN = 3
_ANY_NAME = "x"
_UNKNOWN = object()


def prove_meaning(before: Branches, after: Branches, pieces: Decided, old: Computer, new: Computer) -> None:
    """Compare the entries of the original and of the rewritten catalog, both in its order.

    In a folder that takes along every name in it, one entry is proven for all that are the same name in it after; and
    of a branch that goes along as one, its first folder. One that a selector no longer selects in its new form is
    passed over. Raises `CatalogError` that names the first entries which lead elsewhere.
    """
    given_up = {entry.key for entry in pieces.made_wrong}
    folders = _Folders(pieces)
    whole = all(_is_branch_meant(each, before, after, pieces, (old, new)) for each in pieces.branches())
    astray = list[str]()
    for row, row_after in _to_be_proven(before, after, pieces) if whole else _paired(before, after):
        if folders.prove(row, row_after):
            continue
        one, other = before.whole(row), after.whole(row_after)
        if one.remote or one.key in given_up:
            continue
        if _is_meant(one, other, pieces, old, new):
            folders.learn(row, row_after)
        else:
            astray.append(f"{one.recorded} became {other.recorded}")
    if astray:
        raise CatalogError(
            f"Entries that would not lead where they must, by a reading of the new catalog: {len(astray)} "
            f"({'; '.join(astray[:_SHOWN])}).",
            next_step="This is a fault of Zesty Crate, noticed before anything was changed. Please report it.",
        )


def _to_be_proven(before: Branches, after: Branches, pieces: Decided) -> Iterable[Pair]:
    """Each entry with what it is after; of folders that take along every name in them, one for all that are alike.

    Of folders in branches none: these lead where they must.
    """
    whole = pieces.whole_folders()
    single = set(whole).difference(*pieces.branches())
    unlike = before.unlike(after, whole)
    firsts, firsts_after = (
        {each[1]: each for each in (some.firsts() if single and unlike is not None else ())} for some in (before, after)
    )
    if unlike is None or not all(_are_one(firsts.get(folder), firsts_after.get(folder)) for folder in single):
        return _paired(before, after)
    return chain(((firsts[folder], firsts_after[folder]) for folder in single), unlike)


def _are_one(one: InBranch | None, other: InBranch | None) -> bool:
    """Whether two are the same entry by their keys."""
    return one is not None and other is not None and one[0] == other[0]


class _Folders:
    """What was proven of one entry of a folder holds for those that are in it before, and in the same one after."""

    def __init__(self, pieces: Decided) -> None:
        self._pieces = pieces
        self._proven: dict[object, object] = {}  # folders after by those before

    def prove(self, one: Entry | InBranch, other: Entry | InBranch) -> bool:
        """Whether an entry is as right as another one that was proven: its own name is the same as before."""
        if isinstance(one, Entry) or isinstance(other, Entry):
            return False
        _, folder, name, _ = one
        is_same = self._proven.get(folder, _UNKNOWN) == other[1] and other[2] == name
        return is_same and self._pieces.says_all_of(folder, name)

    def learn(self, one: Entry | InBranch, other: Entry | InBranch) -> None:
        """Take it that an entry is right."""
        if isinstance(one, Entry) or isinstance(other, Entry):
            return
        if self._pieces.says_all_of(one[1], one[2]):
            self._proven.setdefault(one[1], other[1])


def _paired(before: Iterable[Entry | InBranch], after: Iterable[Entry | InBranch]) -> Iterator[Pair]:
    rest = iter(after)
    other = next(rest, None)
    for one in before:
        if other is not None and one[0] == other[0]:
            yield one, other
            other = next(rest, None)


def _is_branch_meant(
    branch: Sequence[object], before: Branches, after: Branches, pieces: Decided, computers: tuple[Computer, Computer]
) -> bool:
    """Whether the first folder of a branch leads where it must, and all others are in it as they were."""
    one, other = before.named(branch[0], _ANY_NAME), after.named(branch[0], _ANY_NAME)
    is_meant = one is not None and other is not None and _is_meant(one, other, pieces, *computers)
    return is_meant and before.is_branch_of(after, branch)


def _is_meant(one: Entry, other: Entry, pieces: Decided, old: Computer, new: Computer) -> bool:
    wanted = pieces.wanted(one)
    if wanted is not None:
        path = _read(other, new, other.recorded)
        return path is not None and (path.root, path.parts) == wanted
    if entry_texts(one) == entry_texts(other):
        return True
    meant = _read(one, old, one.recorded)
    return meant is None or _read(one, old, join_pieces(entry_texts(other), old.system, one.spelling)) == meant


def _read(entry: Entry, computer: Computer, text: str) -> MachinePath | None:
    """What an entry's path, written so, means on a computer; None when it is none."""
    try:
        return read_path(text, computer.system, entry.spelling, entry.base, computer.variables).path
    except PathError:
        return None
