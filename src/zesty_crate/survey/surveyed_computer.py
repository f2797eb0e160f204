"""The old computer as its survey remembers it: what is not here any more can be looked up, as far as it was seen."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from pathlib import Path, PurePath

from ..guides import Holding
from ..machines import Computer, Contents, Disk, DiskError, FileFacts, Finder, Seen, Sight
from ..machines.files import AnyPath
from ..paths import MachinePath
from .store import SurveyStore

_FOLDER = FileFacts("folder", 0, 0, 0)
_MOUNT = "/as surveyed"


def as_surveyed(computer: Computer) -> Computer:
    """The computer with its volumes where nothing is: only `RememberedFinder` finds anything there."""
    anchors = [volume.anchor for volume in computer.volumes]
    return computer.mounted_at({anchor: Path(_MOUNT, str(number)) for number, anchor in enumerate(anchors)})


class RememberedFinder(Finder):
    """Finds what a survey listed, by the rules of the computer; its links are remembered like anything else.

    Where the survey did not list all that there was, something that it does not know is not looked at, and not missing.
    """

    def __init__(self, store: SurveyStore, computer: Computer, holdings: Sequence[Holding]) -> None:
        """``computer`` is `as_surveyed`; the places of the ``holdings`` were listed whole."""
        super().__init__(computer, _RememberedDisk(store, computer))
        self._listed = [computer.key(each.at) for each in holdings if each.at is not None and not each.has_several]

    def find(self, path: MachinePath) -> Seen:
        """Look for a path."""
        seen = super().find(path)
        if seen.sight is not Sight.ABSENT or self._was_listed(path):
            return seen
        return Seen(Sight.DENIED, path, why="it was not looked at when the survey was taken")

    def _was_listed(self, path: MachinePath) -> bool:
        key = self.computer.key(path)
        return any(key == each or key.startswith(each + "/") for each in self._listed)


class _RememberedDisk(Disk):
    """A disk that holds what a survey listed, and the folders around it."""

    def __init__(self, store: SurveyStore, computer: Computer) -> None:
        self._folders: defaultdict[PurePath, dict[str, FileFacts]] = defaultdict(dict)
        for row in store.files():
            path = computer.parse(row.path)
            volume = computer.volume_of(path)
            if volume is not None and volume.mount is not None:
                names = path.parts[len(volume.anchor.parts) :]
                self._add(volume.mount, names, row.facts)
        for volume in computer.volumes:
            if volume.mount is not None:
                _ = self._folders[volume.mount]

    def _add(self, mount: Path, names: tuple[str, ...], facts: FileFacts) -> None:
        for depth in range(len(names), 0, -1):
            folder = mount.joinpath(*names[: depth - 1])
            known = self._folders[folder]
            if known.setdefault(names[depth - 1], facts) is not facts and depth < len(names):
                return  # all around it is known, too
            facts = _FOLDER

    def facts(self, path: AnyPath) -> FileFacts | None:
        """What was at a path."""
        path = Path(path)
        if path in self._folders:
            return _FOLDER
        return self._folders[path.parent].get(path.name) if path.parent in self._folders else None

    def scan(self, folder: Path) -> Contents:
        """What was in a folder."""
        if folder not in self._folders:
            raise DiskError("Listing", folder, FileNotFoundError("it was not listed by the survey"))
        known = sorted(self._folders[folder].items())
        return Contents(str(folder), tuple(name for name, _ in known), tuple(facts.plain for _, facts in known))
