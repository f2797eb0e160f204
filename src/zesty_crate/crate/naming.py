"""Where each file of the old computer is below ``data/``: one folder a volume, then its own folders."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Mapping

from ..machines import Computer
from ..paths import MachinePath, escape_name, shortened, tell_apart

_LONGEST_NAME_BYTES = 230  # of UTF-8; formats allow 255 units, and a segment's number goes behind it
_LONGEST_FOLDER_BYTES = 700  # systems allow paths of 1,024 bytes (macOS) and more, and the carrier's own comes before
# Most names: nothing to escape, no device of Windows, no dot or blank at the end.
PLAIN_NAME = re.compile(
    r"(?!(?i:con|prn|aux|nul|com\d|lpt\d)(?:\.|$))[A-Za-z0-9_-](?:[A-Za-z0-9 _.&,+'!()-]*[A-Za-z0-9_!)-])?"
)


def volume_folders(computer: Computer) -> dict[MachinePath, str]:
    """A folder name for each volume, all different: the drive letter, the last name of a mount point, or the label."""
    names: dict[MachinePath, str] = {}
    for volume in sorted(computer.volumes, key=lambda each: str(each.anchor)):
        anchor = volume.anchor
        wish = anchor.name.strip("\\/:").replace("\\", " ") if anchor.name != "/" else volume.label or "Root"
        name, number = escape_name(wish or "Root"), 2
        while carrier_key(name) in {carrier_key(taken) for taken in names.values()}:
            name, number = f"{escape_name(wish)} {number}", number + 1
        names[anchor] = name
    return names


class PayloadNames:
    """Gives each path its name in the bag: readable, and such that every carrier can hold it."""

    def __init__(self, computer: Computer, paths: Iterable[MachinePath]) -> None:
        """``paths`` are all that will be carried, folders included: twins among them are distinguished."""
        self._computer = computer
        self._volumes = volume_folders(computer)
        self._twins = _twins(paths)

    def name_of(self, path: MachinePath) -> str:
        """The name in the bag, starting with ``data/``. Raises `KeyError` for a path on no volume.

        Folders so deep that a carrier could not hold what is in them are put near the top, under a name that begins
        with their own; the survey knows where they were.
        """
        volume = self._computer.volume_of(path)
        if volume is None:
            raise KeyError(str(path))
        top = name = f"data/{self._volumes[volume.anchor]}"
        for depth in range(len(volume.anchor.parts), len(path.parts)):
            folder = MachinePath(path.system, path.root, path.parts[:depth])
            written = self.written(folder, path.parts[depth])
            if len(name.encode()) + len(written.encode()) > _LONGEST_FOLDER_BYTES:
                name = f"{top}/{shortened(name.rpartition('/')[2], name)}"
            name = f"{name}/{written}"
        return name

    def written(self, folder: MachinePath, name: str) -> str:
        """What one name in a folder is written as."""
        twins = self._twins.get(folder.root) if self._twins else None
        if twins is not None and (*folder.parts, name) in twins:
            written = tell_apart(name)
        else:
            written = name if PLAIN_NAME.fullmatch(name) else escape_name(name)
        return written if len(written) <= _LONGEST_NAME_BYTES // 4 else _fitting(written, name)


def _fitting(written: str, name: str) -> str:
    """A name no longer than every carrier allows."""
    return written if len(written.encode()) <= _LONGEST_NAME_BYTES else shortened(written, name)


def carrier_key(name: str) -> str:
    """The form in which the most forgetful carrier compares names: neither case nor Unicode form counts."""
    if name.isascii():
        return name.lower()
    return unicodedata.normalize("NFC", unicodedata.normalize("NFD", name).casefold())


def _twins(paths: Iterable[MachinePath]) -> Mapping[str, set[tuple[str, ...]]]:
    """Those of the paths that some carrier would take for another one of them, but for the first of each."""
    seen: set[int] = set()
    twins: dict[str, set[tuple[str, ...]]] = {}
    last: tuple[str, ...] | None = None
    around: tuple[str, ...] = ()
    for path in paths:
        if path.parts[:-1] != last:  # they come by folders
            last = path.parts[:-1]
            around = tuple(carrier_key(part) for part in last)
        # A hash represents the key: should two ever meet by chance, a name is written more carefully than it needs.
        key = hash((path.root, around, carrier_key(path.name)))
        if key in seen:
            twins.setdefault(path.root, set()).add(path.parts)
        seen.add(key)
    return twins
