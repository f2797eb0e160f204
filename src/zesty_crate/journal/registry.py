"""Merges an export into a registry, and takes that back, through one small class, whatever the registry is."""

from __future__ import annotations

import hashlib

from ..crate import Contents
from ..errors import HalfwayError
from ..machines import Disk, make_folders
from ..machines.registry import SystemRegistry, read_export, write_export
from .journal import Journal
from .model import NOTHING, Action, Stage


class RegistryDoer:
    """Carries out what concerns the registry. Merging twice comes to what merging once does."""

    def __init__(self, contents: Contents, journal: Journal, disk: Disk, registry: SystemRegistry | None) -> None:
        self._contents = contents
        self._journal = journal
        self._disk = disk
        self._registry = registry

    def do(self, action: Action) -> None:
        """Save the branch, then merge; what the branch then is, is recorded."""
        registry = self._require(action)
        aside, source = self._contents.file_of(action.aside), self._contents.file_of(action.source)
        if self._disk.facts(aside) is None:
            if digest_of(registry, action.location.path) != action.old_sha512:
                raise HalfwayError(
                    f"{action.location} in the registry was changed before it could be merged.",
                    next_step="Run the command again; it reads the present state.",
                )
            make_folders(self._disk, aside.parent)
            self._disk.write_bytes(aside, registry.saved(action.location.path))
        registry.merge(read_export(self._disk.read_bytes(source), str(source)))
        self._journal.know_contents([(action, digest_of(registry, action.location.path), NOTHING)])

    def undo(self, action: Action) -> None:
        """Have the branch again as it was saved; nothing was done to it before it was."""
        aside = self._contents.file_of(action.aside)
        if self._disk.facts(aside) is not None:
            self._require(action).restore(action.location.path, self._disk.read_bytes(aside))
            self._disk.remove(aside)

    def changed_since(self, action: Action) -> str:
        """Why a merge cannot be taken back without losing what was done since; it may have been taken back already."""
        if action.stage is Stage.INTENDED:
            return ""
        digest = digest_of(self._require(action), action.location.path)
        return "" if digest in (action.sha512, action.old_sha512) else "this branch of the registry was changed"

    def _require(self, action: Action) -> SystemRegistry:
        if self._registry is None:
            raise HalfwayError(
                f"The registry with {action.location} is not available here.",
                next_step="Run the command on that computer, or name an export of its registry in its sheet.",
            )
        return self._registry


def digest_of(registry: SystemRegistry, branch: str) -> str:
    """The digest of all that is in a branch."""
    return hashlib.sha512(write_export(registry.branch(branch))).hexdigest()
