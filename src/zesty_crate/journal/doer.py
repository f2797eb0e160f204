"""Does what a journal intends, and takes it back. Every act may be asked for twice: what is done already is left."""

from __future__ import annotations

import errno
from collections.abc import Container, Iterable, Iterator, Sequence
from itertools import groupby
from pathlib import Path

from ..crate import Contents
from ..errors import HalfwayError
from ..machines import DiskError, Outside, make_folders
from ..machines.files import AnyPath, Moved
from ..machines.registry import SystemRegistry
from .journal import Journal
from .locations import Locations
from .model import Action, Kind, Location, Stage, Step
from .parts import Parts, holds
from .registry import RegistryDoer

ASIDE = "moves/"  # where originals are kept; everything else that an action names was carried, and is kept anyhow
_CANNOT_LINK = (errno.EPERM, errno.EACCES, errno.ENOSYS, errno.ENOTSUP, errno.EOPNOTSUPP, errno.EINVAL)
_FEW, _TOGETHER = 4, 1_000


class Doer:
    """Carries out actions on one computer; content comes from a crate, and originals go there."""

    def __init__(
        self,
        contents: Contents,
        locations: Locations,
        journal: Journal,
        outside: Outside,
        registry: SystemRegistry | None = None,
        moved: Moved | None = None,
    ) -> None:
        """``moved`` is told the bytes of large files while they are on their way."""
        self._contents = contents
        self._locations = locations
        self._journal = journal
        self._disk = outside.disk
        self.links_refused: list[str] = []
        self.parts = Parts(contents, locations, outside.disk, moved)
        self._registry = RegistryDoer(contents, journal, outside.disk, registry)
        self._links: dict[Location, str] = {}

    # -- doing ----------------------------------------------------------------------------------------------------

    def carry_out(self, step: Step, actions: Sequence[Action]) -> None:
        """Write down all of ``actions``, do them in order, have them on the disk, and mark them as done."""
        self.finish(self._journal.intend(step, actions), fresh=True)

    def finish(self, actions: Sequence[Action], *, fresh: bool = False) -> None:
        """Do actions that are written down already; ``fresh`` ones were so just now, and nothing of them is done."""
        for is_file, group in groupby(actions, key=lambda action: action.kind is Kind.FILE):
            some = list(group)
            self._require_no_links(some)
            if is_file:
                self._place_all(some, fresh=fresh)
            else:
                self._do_each(some)
            self._require_no_links(some)
        self._journal.mark(actions, Stage.DONE)

    def _require_no_links(self, actions: Sequence[Action]) -> None:
        """Nothing is done through a link that came after all was looked at: it could lead out of the computer's disks.

        Asked for again when all is done, so that nothing which came between goes unnoticed.
        """
        known: dict[Location, str] = {}
        for action in actions:
            if action.kind is Kind.REGISTRY:
                continue
            if link := self._locations.link_above(action.location, self._disk, known):
                raise HalfwayError(
                    f"{action.location} is reached by a link now: {link}, which was a folder before.",
                    next_step="Put the folder back in place of the link, then run this again; or run zesty undo.",
                )

    def _do_each(self, actions: Sequence[Action]) -> None:
        for action in actions:
            self._do(action)
        self._settle_around(actions)

    def _settle_around(self, actions: Sequence[Action]) -> None:
        """Have the names on the disk that actions have changed."""
        locations = {each.location for each in actions if each.kind is not Kind.REGISTRY}
        folders = {self._locations.folder_of(location): location.volume for location in locations}
        if len(folders) > _FEW:  # flushing each volume as a whole is quicker
            for folder in {volume: folder for folder, volume in folders.items()}.values():
                self._disk.flush_all(self._nearest(folder))
            return
        for folder in sorted(folders):
            if self._disk.facts(folder) is not None:
                self._disk.flush(folder)

    def _nearest(self, folder: Path) -> Path:
        """The folder itself, or the first one above that is there."""
        while self._disk.facts(folder) is None:
            folder = folder.parent
        return folder

    def _place_all(self, actions: Sequence[Action], *, fresh: bool) -> None:
        """Place files: all are built and on the disk before the first gets its name, so that none is ever half there.

        The volume is flushed as a whole: once for the content, and once for the names.
        """
        waiting = actions if fresh else [action for action in actions if not self.parts.is_placed(action)]
        if not fresh:
            self.parts.remove(waiting)
        self.parts.build_all(waiting)
        folders = {action.location.volume: self._locations.folder_of(action.location) for action in waiting}
        for folder in folders.values():
            self._disk.flush_all(folder)
        self.parts.put_all(waiting)
        for folder in folders.values():
            self._disk.flush_all(folder)

    def resume(self, step: Step) -> None:
        """Do what a step intended and did not finish.

        A replacement that was not built yet is given up with all that was noted with it, to be begun anew.
        """
        pending = list(self._journal.actions(step, Stage.INTENDED))
        unbuilt = {a.note for a in pending if a.kind is Kind.REPLACE and not self._can_finish(a)}
        given_up = [action for action in pending if action.note and action.note in unbuilt]
        if given_up:
            self.give_up(given_up)
        rest = [action for action in pending if action not in given_up]
        if rest:
            self.finish(rest)

    def give_up(self, actions: Sequence[Action]) -> None:
        """Remove what was built for actions of which nothing was done, and record that they will not be."""
        self.parts.remove(actions)
        self._journal.mark(actions, Stage.UNDONE)

    def _can_finish(self, action: Action) -> bool:
        if not action.sha512:
            return False
        if action.source:
            return True  # it can be built again
        return self._holds(self._locations.place(action.location), action.sha512) or self._holds(
            self.parts.path_of(action), action.sha512
        )

    def _do(self, action: Action) -> None:
        if action.kind is Kind.REGISTRY:
            self._registry.do(action)
            return
        real = self._locations.real(action.location)
        if action.kind is Kind.FOLDER:
            if self._disk.facts(real) is None:
                self._disk.make_folder(real)
                self._disk.own_as(real, real.parent)
        elif action.kind is Kind.LINK:
            if self._disk.facts(real) is None:
                self._link(action, real)
        elif action.kind is Kind.REPLACE:
            self._replace(action, real)
        elif action.kind is Kind.MOVE:
            self._move(self._old_place(action), real, action.location)
        elif self._disk.facts(real) is not None:
            self._keep_aside(action, real)
            self._disk.remove(real)

    def _link(self, action: Action, real: Path) -> None:
        """Make a link. Where the volume knows none, or the user may make none, that is counted and stops nothing."""
        try:
            self._disk.make_link(real, action.facts.target)
        except DiskError as error:
            if error.errno not in _CANNOT_LINK:
                raise
            self.links_refused.append(f"{action.location} -> {action.facts.target}")
        else:
            self._disk.own_as(real, real.parent)

    def _replace(self, action: Action, real: Path) -> None:
        now = self._disk.facts(real)
        as_new = now is not None and now.size_bytes == action.facts.size_bytes
        if as_new and self._holds(real, action.sha512):
            return
        if not self._holds(real, action.old_sha512):
            raise HalfwayError(
                f"{action.location} was changed before it could be replaced.",
                next_step="Run the command again; it reads the present state.",
            )
        part = self.parts.path_of(action)
        if action.source:
            self._disk.remove(part)
            part = self.parts.build(action.source, action, action.sha512, action.facts, settled=True)
        self._keep_aside(action, real)
        self._put_in_place_of(real, part)

    def _put_in_place_of(self, real: Path, part: AnyPath) -> None:
        """Let a file take the place of another one, and belong to whom that belonged to."""
        if self._disk.facts(real) is not None:
            self._disk.own_as(part, real)
        self._disk.rename(part, real)

    def _old_place(self, action: Action) -> Path:
        return self._locations.real(Location(action.location.volume, action.source))

    def _move(self, old: Path, new: Path, location: Location) -> None:
        if self._disk.facts(old) is None:
            return
        try:
            self._disk.rename_to_free_name(old, new)
        except DiskError as error:
            if error.errno != errno.EEXIST:
                raise
            raise HalfwayError(
                f"Another file appeared at {location} before a file could be moved there.",
                next_step="Move it elsewhere, then run the command again.",
            ) from error
        if old.parent != new.parent:
            self._disk.flush(old.parent)

    def _keep_aside(self, action: Action, real: Path) -> None:
        """Have the old content in the crate before it goes; what the crate carried is there already.

        Labels are kept in the journal, since few carriers keep any.
        """
        if attributes := self._disk.attributes(real):
            self._journal.keep_attributes(action, attributes)
        if not action.aside.startswith(ASIDE):
            return
        aside = self._contents.file_of(action.aside)
        if self._disk.facts(aside) is not None:
            return
        make_folders(self._disk, aside.parent)
        facts = self._disk.facts(real)
        if facts is not None:
            part = aside.with_name(aside.name + ".part")
            self._disk.remove(part)
            self._disk.copy(real, part, facts)
            self._disk.rename(part, aside)
            self._disk.flush(aside.parent)

    # -- undoing --------------------------------------------------------------------------------------------------

    def undo(self, step: Step, leave: Container[Location] = ()) -> list[str]:
        """Undo a step, the newest change first; folders that something was put into stay and are returned.

        Nothing is done at the locations to ``leave``.
        """
        kept: list[str] = []
        actions = self._journal.actions(step, Stage.INTENDED, Stage.DONE, newest_first=True)
        for batch in _batches(actions):
            for action in batch:
                kept += self._undo(action) if action.location not in leave else []
            self._settle_around(batch)
            self._journal.mark(batch, Stage.UNDONE)
        self._journal.mark_undone(step)
        return kept

    def _undo(self, action: Action) -> list[str]:
        """Take one change back. Asked for twice, it does nothing the second time."""
        if action.kind is Kind.REGISTRY:
            self._registry.undo(action)
            return []
        if action.stage is Stage.INTENDED or action.kind in (Kind.REPLACE, Kind.TAKE_AWAY):
            self.parts.remove([action])
        if action.kind in (Kind.FILE, Kind.LINK):  # by far the most
            self._disk.remove(self._locations.place(action.location))
            return []
        real = self._locations.real(action.location)
        if action.kind is Kind.MOVE:
            self._move(real, self._old_place(action), Location(action.location.volume, action.source))
            return []
        if action.kind is Kind.FOLDER:
            is_astray = bool(self._locations.link_above(action.location, self._disk, self._links))
            return [] if not is_astray and self._remove_folder(real) else [str(action.location)]
        is_same_document = action.kind is Kind.REPLACE and not action.source  # it was built from what was there
        if is_same_document and self._disk.facts(real) is None:
            return []  # a person moved or deleted it
        if not self._holds(real, action.old_sha512):
            self.parts.remove([action])
            part = self.parts.build(action.aside, action, action.old_sha512, action.old_facts, settled=True)
            attributes = self._disk.attributes(real) if is_same_document else self._journal.kept_attributes(action)
            self._disk.set_attributes(part, attributes)
            self._put_in_place_of(real, part)
        return []

    def changed_since(self, action: Action) -> str:
        """Why an action cannot be taken back without losing what a person did since; empty when it can."""
        if action.kind is Kind.FOLDER or action.stage is Stage.UNDONE:
            return ""
        if action.kind is Kind.REGISTRY:
            return self._registry.changed_since(action)
        if link := self._locations.link_above(action.location, self._disk, self._links):
            return f"it is reached by a link now: {link}"
        place = self._locations.place(action.location)
        facts = self._disk.facts(place)
        if action.kind is Kind.MOVE:
            taken = facts is not None and self._disk.facts(self._old_place(action)) is not None
            return "there is another file in its old place" if taken else ""
        if facts is None or action.kind is Kind.TAKE_AWAY:
            return "" if facts is None or self._is_old(action) else "there is a new file"
        if action.kind is Kind.LINK:
            return "" if facts.target == action.facts.target else "it is another link or file"
        same_size = facts.size_bytes == action.facts.size_bytes or not action.sha512
        if (same_size and self._holds(place, action.sha512)) or self._is_old(action):
            return ""
        return "its content was changed"

    def is_gone(self, action: Action) -> bool:
        """Whether a file that was placed or replaced is not there any more."""
        if action.kind not in (Kind.FILE, Kind.REPLACE) or action.stage is not Stage.DONE:
            return False
        return self._disk.facts(self._locations.place(action.location)) is None

    def _is_old(self, action: Action) -> bool:
        return bool(action.old_sha512) and self._holds(self._locations.place(action.location), action.old_sha512)

    def _remove_folder(self, real: Path) -> bool:
        facts = self._disk.facts(real)
        if facts is None:
            return True
        if facts.kind != "folder" or self._disk.names(real):
            return False
        self._disk.remove_folder(real)
        return True

    def _holds(self, place: AnyPath, sha512: str) -> bool:
        return holds(self._disk, place, sha512)


def _batches(actions: Iterable[Action]) -> Iterator[list[Action]]:
    """Actions that may be marked together: what is restored is so one by one."""
    batch: list[Action] = []
    for action in actions:
        alone = action.kind not in (Kind.FILE, Kind.FOLDER, Kind.LINK)
        if batch and (alone or len(batch) == _TOGETHER):
            yield batch
            batch = []
        batch.append(action)
        if alone:
            yield batch
            batch = []
    if batch:
        yield batch
