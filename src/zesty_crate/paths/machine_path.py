"""A path as one computer means it. Values only: nothing here ever touches a disk."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from .systems import System


@dataclass(frozen=True, slots=True)
class MachinePath:
    """An absolute path of one computer, taken apart.

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
        return replace(self, parts=self.parts[:-1])

    def below(self, *names: str) -> MachinePath:
        """The path of ``names``, one inside the other, in this folder."""
        return replace(self, parts=(*self.parts, *names))

    def renamed(self, name: str) -> MachinePath:
        """The same folder, another last name."""
        return replace(self, parts=(*self.parts[:-1], name))

    def __str__(self) -> str:
        """The native text, as the computer's own programs show it."""
        if self.root == "/":
            return "/" + "/".join(self.parts)
        return self.root + "\\" + "\\".join(self.parts)


def common_folder(paths: Iterable[MachinePath]) -> MachinePath | None:
    """The deepest folder that holds all of ``paths``, or None when their roots differ (or there are none)."""
    shared: MachinePath | None = None
    for path in paths:
        shared = path if shared is None else _common_pair(shared, path)
        if shared is None:
            return None
    return shared


def _common_pair(one: MachinePath, other: MachinePath) -> MachinePath | None:
    if (one.system, one.root) != (other.system, other.root):
        return None
    length = 0
    for mine, theirs in zip(one.parts, other.parts, strict=False):
        if mine != theirs:
            break
        length += 1
    return replace(one, parts=one.parts[:length])
