"""Why an entry has no file now that had one before: looked into one possible reason after the other."""

from __future__ import annotations

from ..crate import IS_OUTSIDE
from ..machines import Finder, Sight
from ..machines.texts import restored, stored
from ..paths import Folding, MachinePath, name_fault, name_key
from ..plan import Arrangement, Move
from ..survey import EntryRow, SurveyStore

NOT_CARRIED = {
    "outside": "it was not carried: it is outside the program's folders, and zesty pack ran without --outside",
    "factory": "it was not carried: it comes with the program's own installer",
    "cache": "it was not carried: its program creates it again",
    "own": "it was not carried",
}


class Reasons:
    """Finds out why. What is known for certain comes before what was found by looking."""

    def __init__(self, move: Move, arrangement: Arrangement, store: SurveyStore, finder: Finder) -> None:
        self._move = move
        self._arrangement = arrangement
        self._store = store
        self._finder = finder
        self._faults: dict[str, str] = dict(move.survey.about("left") or ())

    def left_out(self, before: EntryRow) -> str:
        """Why its file was left where it was on purpose; empty when it was not, or came with its drive."""
        survey = self._move.survey
        why = survey.left_out(before.path_key) or survey.left_out_of(before.holding, before.key)
        if self._travelled(before):
            return ""
        row = next(survey.files("key = ? AND role = 'factory'", (stored(before.path_key),)), None)
        is_choice = bool(why) and why != IS_OUTSIDE and row is None
        return f"it was left on {self._move.old.name} by choice: {why}" if is_choice else ""

    def of(self, before: EntryRow, now: EntryRow) -> str:
        """Why an entry that had its file ``before`` has none ``now``."""
        if chosen := self.left_out(before):
            return chosen
        if self._travelled(before):
            return f"its drive travelled to the new computer, but there is no file at {now.path}" + self._nearly(now)
        if (why := self._not_carried(before)) or (why := self._not_placed(before)):
            return why
        if not now.path:
            return f"its path was not relinked: {now.why}"
        if why := self._not_relinked(before, now):
            return why
        if self._move.survey.carried_as(before.path_key) is None and not self._represents_several(before):
            return "it was not carried: the survey found its file, and did not list it" + self._nearly(now)
        return f"it was carried, but there is no file at {now.path}" + self._nearly(now)

    def _represents_several(self, before: EntryRow) -> bool:
        query = "SELECT EXISTS (SELECT 1 FROM belongs WHERE holding = ? AND entry = ?)"
        return bool(self._move.survey.count(query, (before.holding, before.key)))

    def _travelled(self, before: EntryRow) -> bool:
        return bool(before.path) and self._move.old.travels(self._move.old.parse(before.path))

    def _not_carried(self, before: EntryRow) -> str:
        row = next(self._move.survey.files("key = ?", (stored(before.path_key),)), None)
        if row is not None and row.path in self._faults:
            return f"it could not be carried: {self._faults[row.path]}"
        if row is not None and row.kind == "file" and self._move.survey.carried_as(before.path_key) is None:
            return NOT_CARRIED[row.role]
        return ""

    def _not_placed(self, before: EntryRow) -> str:
        """What is known of its file, where that was carried and is not in its place."""
        query = "SELECT why FROM expected WHERE old_key = ? AND state = 'missing' LIMIT 1"
        found = self._store.database.execute(query, (stored(before.path_key),)).get
        if found is None:
            return ""
        new = self._arrangement.routes.translate(self._move.old.parse(before.path))
        return restored(found) + (self._nearly_at(new) if new is not None else "")

    def _not_relinked(self, before: EntryRow, now: EntryRow) -> str:
        """Its file is in its place, and the catalog says another one."""
        query = "SELECT new FROM expected WHERE old_key = ? AND state = 'found' LIMIT 1"
        found = self._store.database.execute(query, (stored(before.path_key),)).get
        if found is None:
            return ""
        there = restored(found)
        if self._move.new.key(self._move.new.parse(there)) == now.path_key:
            return ""
        said = "still says" if now.recorded == before.recorded else "says"
        return f"its path was not updated: its file is at {there}, but the catalog {said} {now.recorded}"

    def _nearly(self, now: EntryRow) -> str:
        return self._nearly_at(self._move.new.parse(now.path)) if now.path else ""

    def _nearly_at(self, path: MachinePath) -> str:
        """What else may be meant: another case or Unicode form, another volume, a name that cannot be."""
        if (twin := self.other_case(path)) is not None:
            return f"; {twin} is there, and differs only in upper and lower case or Unicode form"
        for each in self._move.new.volumes:
            elsewhere = MachinePath(path.system, each.anchor.root, each.anchor.parts + self._below_anchor(path))
            if elsewhere != path and self._is_file(elsewhere):
                return f"; it is on another volume, at {elsewhere}"
        for name in path.parts:
            if fault := name_fault(name, self._move.new.rules_for(path)):
                return f"; the name {name!r} is not possible there: {fault}"
        return ""

    def other_case(self, path: MachinePath) -> MachinePath | None:
        """The one path that differs from this only in case or Unicode form, where the volume tells them apart."""
        at = MachinePath(path.system, path.root)
        for name in path.parts:
            seen = self._finder.find(at.below(name))
            if seen.sight is Sight.THERE:
                at = seen.path
                continue
            wanted = name_key(name, Folding.CANONICAL_CASELESS)
            near = [
                each.path
                for each in self._finder.inside(at)
                if name_key(each.path.name, Folding.CANONICAL_CASELESS) == wanted
            ]
            if len(near) != 1:
                return None
            at = near[0]
        return at if at != path and self._is_file(at) else None

    def _below_anchor(self, path: MachinePath) -> tuple[str, ...]:
        volume = self._move.new.volume_of(path)
        return path.parts[len(volume.anchor.parts) :] if volume else path.parts

    def _is_file(self, path: MachinePath) -> bool:
        facts = self._finder.find(path).facts
        return facts is not None and facts.is_file
