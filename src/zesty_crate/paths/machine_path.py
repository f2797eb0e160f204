"""A path as one computer means it. Values only: nothing here ever touches a disk."""

from __future__ import annotations

from typing import NamedTuple

from .systems import System


class MachinePath(NamedTuple):
    """An absolute path of one computer, taken apart. It is a tuple because there are millions.

    ``root`` is ``C:`` (letter in upper case) or ``\\\\server\\share`` on Windows, and ``/`` elsewhere.
    ``parts`` are the names below it, exactly as they were written.
    """

    system: System
    root: str
    parts: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        """The last name, or the root itself."""
        return self.parts[-1] if self.parts else self.root

    @property
    def parent(self) -> MachinePath:
        """The folder above; a root is its own parent."""
        return MachinePath(self.system, self.root, self.parts[:-1])

    def below(self, *names: str) -> MachinePath:
        """The path of ``names``, one inside the other, in this folder."""
        return MachinePath(self.system, self.root, self.parts + names)

    def renamed(self, name: str) -> MachinePath:
        """The same folder, another last name."""
        return MachinePath(self.system, self.root, (*self.parts[:-1], name))

    def __str__(self) -> str:
        """The native text, as the computer's own programs show it."""
        if self.root == "/":
            return "/" + "/".join(self.parts)
        return self.root + "\\" + "\\".join(self.parts)
