"""Move a folder of media to its final place, and take the recorded paths of all catalogs along: both or neither."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..errors import ZestyError, halfway
from ..journal import NOTHING, Action, Doer, Journal, Kind, Locations
from ..machines import Computer, Finder, Outside, Sheet, computer_of, require_in_reach
from ..machines.texts import restored
from ..paths import MachinePath, Route
from ..plan import Move, given_route
from ..progress import Tell, silent
from ..survey import SurveyStore
from .destinations import Rehomed
from .model import RelinkReport
from .relink import STEP, carry_out
from .running import require_closed
from .unfinished import mover_of

_BELOW = (
    "SELECT holding, recorded, state FROM entry WHERE path_key = ?1 OR path_key > ?1 || '/' AND path_key < ?1 || '0'"
)


@dataclass(frozen=True, slots=True)
class Leading:
    """The entries that lead into a folder: how many, how many of those find their file, and of which holdings."""

    entries: int
    found: int
    holdings: tuple[str, ...]
    recorded: tuple[str, ...]


def leading_into(store: SurveyStore, computer: Computer, folder: MachinePath) -> Leading:
    """What of all catalogs leads into a folder."""
    rows = list(store.database.execute(_BELOW, (computer.key(folder),)))
    found = sum(state in ("found", "outside") for _, _, state in rows)
    return Leading(len(rows), found, tuple(sorted({row[0] for row in rows})), tuple(restored(row[1]) for row in rows))


def rehome_route(text: str, sheet: Sheet, outside: Outside, keep_in: Path) -> Route:
    """A route as a technician writes it, ``OLD=NEW``, when the folder may be moved so. Raises `ZestyError` else.

    ``keep_in`` is where the originals must be kept, which must not go along.
    """
    computer = computer_of(sheet)
    finder = Finder(computer, outside.disk)
    route = given_route(text, computer, computer)
    old, new = finder.find(route.old), finder.find(route.new)
    require_in_reach(old, computer)
    if old.facts is None or old.facts.kind != "folder":
        moved = mover_of(keep_in, route, sheet, outside)
        raise ZestyError(
            f"There is no folder {route.old} on {computer.name}"
            + (f": it was moved there by an earlier run, which kept the originals in {moved.root}." if moved else "."),
            next_step="Verify that all entries find their files with zesty check --at."
            if moved
            else "Name a folder that is there.",
        )
    if new.facts is not None:
        raise ZestyError(f"{route.new} already exists.", next_step="Name a place that is free.")
    if computer.key(new.path).startswith(computer.key(old.path) + "/"):
        raise ZestyError(f"{route.new} is inside {route.old} itself.", next_step="Name a place outside it.")
    if old.real is not None and keep_in.resolve().is_relative_to(old.real.resolve()):
        raise ZestyError(
            f"The originals cannot be kept in {keep_in.resolve()}, which is inside the folder to move.",
            next_step="Name another place with --keep-in DIR.",
        )
    if computer.anchor_of(old.path) != computer.anchor_of(new.path):
        raise ZestyError(
            f"{route.new} is on another volume than {route.old}; a folder can only be moved within its volume.",
            next_step=f"Copy it there, then run the command with --route '{text}' in place of --rehome.",
        )
    return Route(old.path, route.new, route.why)


def rehome(move: Move, route: Route, tell: Tell = silent) -> RelinkReport:
    """Move the folder and relink. When anything goes wrong on the way, all of it is taken back."""
    with_catalogs = {document.holding for document in move.survey.documents()}
    require_closed(move, {row.guide for row in move.survey.holdings() if row.id in with_catalogs})
    with move.at_work("zesty relink"), closing(Journal.open(move.journal_path, move.outside)) as journal:
        doer = Doer(move.contents, Locations(move.new), journal, move.outside, move.registry())
        step = journal.begin(STEP)
        try:
            with halfway():
                doer.carry_out(step, list(_actions(route, Finder(move.new, move.outside.disk), Locations(move.new))))
            return carry_out(move, journal, Rehomed(move.new, route), tell, all_or_none=True)
        except (ZestyError, KeyboardInterrupt):
            with halfway():
                for each in reversed([each for each in journal.steps() if each.id >= step.id and not each.undone]):
                    doer.undo(each)
            raise


def _actions(route: Route, finder: Finder, locations: Locations) -> Iterator[Action]:
    """What makes the folders above the new place, and then moves the folder."""
    missing = []
    folder = route.new.parent
    while folder.parts and finder.find(folder).facts is None:
        missing.append(folder)
        folder = folder.parent
    for each in reversed(missing):
        yield Action(Kind.FOLDER, locations.at(finder, each), NOTHING)
        finder.note_made(each)
    yield Action(Kind.MOVE, locations.at(finder, route.new), NOTHING, source=locations.at(finder, route.old).path)
