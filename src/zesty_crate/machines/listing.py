"""All that is below a folder, listed by this process, or, once there is much of it, by one that works beside it."""

from __future__ import annotations

import errno
from collections.abc import Callable, Iterator, Mapping
from contextlib import ExitStack
from functools import partial
from pathlib import Path

from ..systems import worker_program
from ..systems.worker_program import Facts, Fault, Names
from .files import DiskError, FileFacts
from .worker import started

_ENOUGH_NAMES = 20_000  # to be worth a process, which takes as long to start as some thousand names to list
_facts = partial(
    tuple.__new__, FileFacts
)  # past the argument handling of a named tuple, which costs more than the rest


class Contents(Mapping[str, FileFacts | DiskError]):
    """The names in a folder, sorted, each with what is there, or with why it may not be looked at.

    Of a million files most are only passed on, so facts stay as they were told until one is asked for.
    """

    __slots__ = ("_known", "folder", "names", "told")

    def __init__(self, folder: str, names: tuple[str, ...], told: tuple[Facts | Fault, ...]) -> None:
        self.folder = folder
        self._known: dict[str, FileFacts | DiskError] | None = None
        self.names = names
        self.told = told

    def kinds(self) -> list[str | int]:
        """What kind of thing is at each name; of what may not be looked at, a number."""
        return [each[0] for each in self.told]

    def __getitem__(self, name: str) -> FileFacts | DiskError:
        return self.known[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self.names)

    def __len__(self) -> int:
        return len(self.names)

    @property
    def known(self) -> dict[str, FileFacts | DiskError]:
        """The same as a dictionary, to which what is made in the folder may be added."""
        if self._known is None:
            self._known = {
                name: _facts(facts) if len(facts) > 2 else _fault("Looking at", str(Path(self.folder, name)), facts)
                for name, facts in zip(self.names, self.told, strict=True)
            }
        return self._known


def contents_of(folder: Path) -> Contents:
    """The names in a folder, sorted, each with what is there. Raises `DiskError`."""
    try:
        return Contents(str(folder), *worker_program.names_in(str(folder)))
    except OSError as error:
        raise DiskError("Listing", folder, error) from error


def contents_below(
    top: Path,
    scan: Callable[[Path], Contents],
    enough: int = _ENOUGH_NAMES,
    skipped: frozenset[str] = frozenset(),
) -> Iterator[Contents | DiskError]:
    """What is in a folder and in every one below it, outer ones first and in the order of their names.

    ``scan`` lists one folder; it is asked until there are ``enough`` names. Folders that are ``skipped``, by their
    whole paths, are told where they are and not listed.
    """
    pile, seen = [top], 0
    while pile and seen < enough:
        folder = pile.pop()
        try:
            contents = scan(folder)
        except DiskError as error:
            yield error
            continue
        yield contents
        seen += len(contents)
        within = [name for name, kind in zip(contents.names, contents.kinds(), strict=True) if kind == "folder"]
        below = (folder / name for name in reversed(within))
        pile += [each for each in below if not skipped or str(each) not in skipped]
    if pile:
        yield from _beside([str(folder) for folder in pile], skipped)


def _beside(pile: list[str], skipped: frozenset[str]) -> Iterator[Contents | DiskError]:
    """The same for all of a pile, listed by another process while this one works on what it has."""
    with ExitStack() as stack:
        try:
            process = stack.enter_context(started("files"))
        except OSError:  # then by this one alone
            yield from (_told(*listed) for listed in worker_program.names_below(pile, skipped))
            return
        try:
            worker_program.send(pile, process.asked)
            worker_program.send([*skipped], process.asked)
            while packet := worker_program.receive(process.told):
                yield from (_told(*listed) for listed in packet)
        except (EOFError, ValueError, BrokenPipeError) as error:
            raise DiskError("Listing", pile[0], OSError(errno.EIO, "the listing process has ended")) from error


def _told(folder: str, fault: Fault | None, names: Names) -> Contents | DiskError:
    return Contents(folder, *names) if fault is None else _fault("Listing", folder, fault)


def _fault(doing: str, path: str, fault: Fault) -> DiskError:
    return DiskError(doing, path, OSError(*fault))
