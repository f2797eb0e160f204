"""Which file a recorded path means: entries come by folders, and each folder is understood once."""

from __future__ import annotations

from ..paths import Folding, MachinePath, PathError, Spelling, folded_name, read_path
from .computer import Computer

_REMEMBERED_FOLDERS = 50_000
_NO_NAMES = ("", ".", "..")


class FileKeys:
    """Tells the keys of files that catalogs of one computer record."""

    def __init__(self, computer: Computer) -> None:
        self._computer = computer
        self._separator = computer.system.separator
        self._folders: dict[str, tuple[str, Folding]] = {}

    def key(self, recorded: str, spelling: Spelling, base: MachinePath | None) -> str | None:
        """The key of a file, as `Computer.key` makes it; None for what is no path."""
        try:
            folder, cut, name = recorded.rpartition(self._separator)
            is_odd = name in _NO_NAMES or "/" in name or "%" in recorded or "$" in recorded
            if is_odd or not cut or spelling is not Spelling.NATIVE:
                return self._computer.key(self._read(recorded, spelling, base))
            known = self._folders.get(folder)
            if known is None:
                if len(self._folders) >= _REMEMBERED_FOLDERS:
                    self._folders.clear()
                path = self._read(folder + cut, spelling, base)
                known = self._folders[folder] = f"{self._computer.key(path)}/", self._computer.rules_for(path).folding
            return known[0] + folded_name(name, known[1])
        except PathError:
            return None

    def _read(self, text: str, spelling: Spelling, base: MachinePath | None) -> MachinePath:
        return read_path(text, self._computer.system, spelling, base, self._computer.variables).path
