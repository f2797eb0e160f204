"""Where each file of the old computer lies below ``data/``: one folder a volume, then its own folders."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Mapping

from ..machines import Computer
from ..paths import MachinePath, escape_name


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
        """``paths`` are all that will be carried, folders included: twins among them are told apart."""
        self._computer = computer
        self._volumes = volume_folders(computer)
        self._twins = _twins(paths)

    def name_of(self, path: MachinePath) -> str:
        """The name in the bag, starting with ``data/``. Raises `KeyError` for a path on no volume."""
        volume = self._computer.volume_of(path)
        if volume is None:
            raise KeyError(str(path))
        names = ["data", self._volumes[volume.anchor]]
        for depth in range(len(volume.anchor.parts), len(path.parts)):
            name = path.parts[depth]
            twin = bool(self._twins) and path.parts[: depth + 1] in self._twins.get(path.root, ())
            names.append(_told_apart(name) if twin else escape_name(name))
        return "/".join(names)


def carrier_key(name: str) -> str:
    """The form in which the most forgetful carrier compares names: neither case nor Unicode form counts."""
    return unicodedata.normalize("NFC", unicodedata.normalize("NFD", name).casefold())


def _twins(paths: Iterable[MachinePath]) -> Mapping[str, set[tuple[str, ...]]]:
    """Those of the paths that some carrier would take for another one of them, but for the first of each."""
    seen: set[int] = set()
    twins: dict[str, set[tuple[str, ...]]] = {}
    for path in paths:
        # A hash stands for the key: should two ever meet by chance, a name is written more carefully than it needs.
        key = hash((path.root, *(carrier_key(part) for part in path.parts)))
        if key in seen:
            twins.setdefault(path.root, set()).add(path.parts)
        seen.add(key)
    return twins


def _told_apart(name: str) -> str:
    """A name in which everything that a carrier may confuse, and always the first character, is a code point."""
    first, rest = escape_name(name[0]), escape_name(name[1:])
    if first == name[0]:
        first = f"~({ord(first):x})"
    return first + "".join(c if c.isascii() and c == c.lower() else f"~({ord(c):x})" for c in rest)
