"""The library: the steps of a move as functions. ``import zesty_crate`` offers all of them; see docs/api.md.

Every function takes paths as ``str`` or ``Path`` and raises `ZestyError` when it refuses (nothing is changed then) or
`HalfwayError` when it stopped partway (call it again to continue). Functions that take ``progress`` call it
with `Progress` values while they work.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from . import check as _check
from . import crate as _crate
from . import moving as _moving
from . import plan as _plan
from . import relink as _relink
from .catalogs import Entry, Group, syntax_of
from .check import CheckReport, Content
from .crate import Crate, PackReport, Scope, Verified
from .drafting import Draft
from .drafting import draft_guide as _draft_guide
from .errors import HalfwayError, ZestyError
from .guides import Guide, Holding, find_guides, holdings_on
from .machines import Finder, Outside, Sheet, computer_of, own_folder, read_sheet
from .moving import UndoReport, UnpackReport
from .plan import PlanOptions, PlanReport
from .progress import Progress, Tell, silent
from .relink import RelinkReport
from .survey import State, SurveyOptions, SurveyReport

__all__ = [
    "CatalogContents",
    "CheckReport",
    "Content",
    "Draft",
    "Entry",
    "Group",
    "Guide",
    "HalfwayError",
    "PackReport",
    "PlanReport",
    "Progress",
    "RelinkReport",
    "Scope",
    "Sheet",
    "State",
    "SurveyReport",
    "UndoReport",
    "UnpackReport",
    "Verified",
    "ZestyError",
    "check_computer",
    "check_move",
    "draft_guide",
    "load_guides",
    "load_sheet",
    "make_plan",
    "pack",
    "read_catalog",
    "relink_catalogs",
    "take_survey",
    "undo",
    "unpack",
    "verify",
]

AnyPath = str | Path


@dataclass(frozen=True, slots=True)
class CatalogContents:
    """What one catalog holds: its entries with their recorded paths and annotations, and its groups in order."""

    path: str
    entries: tuple[Entry, ...]
    groups: tuple[Group, ...]


def load_sheet(path: AnyPath) -> Sheet:
    """Read the sheet of a computer. ``this-computer`` describes the computer that the program runs on."""
    return read_sheet(Path(path), Outside().disk)


def load_guides(*folders: AnyPath) -> list[Guide]:
    """The guides in ``folders``, then in the user's configuration folder, then those that ship.

    Of several guides with one id, the first counts.
    """
    return find_guides([Path(each) for each in folders], Outside().disk)


def draft_guide(sheet: Sheet, look_in: Sequence[str], *, progress: Tell = silent) -> Draft:
    """Draft a guide from what is in folders, documents or branches of the registry, as the computer writes them.

    Its ``text`` is for a person to read; ``unexplained`` is what it could not tell.
    """
    outside, known = Outside(), find_guides([], Outside().disk)
    return _draft_guide(sheet, look_in, outside, _scratch(), progress, known=known)


def take_survey(
    crate: AnyPath,
    sheet: Sheet,
    guides: Sequence[Guide],
    *,
    also: Sequence[str] = (),
    spot_checks: Sequence[str] = (),
    duplicates: bool = True,
    progress: Tell = silent,
) -> SurveyReport:
    """Take stock of the computer of ``sheet`` and start a new crate in the folder ``crate``.

    ``also`` names folders that belong to no guide, ``spot_checks`` files or entries to open again at the end.
    ``duplicates`` compares files of equal size.
    """
    options = SurveyOptions(spot_checks=tuple(spot_checks), duplicates=duplicates)
    return _crate.create_crate(Crate(Path(crate)), sheet, guides, Outside(), progress, options, also)


def pack(crate: AnyPath, scope: Scope | None = None, *, progress: Tell = silent) -> PackReport:
    """Copy what ``scope`` selects (everything by default) into a surveyed crate, and verify the copy."""
    return _crate.pack(Crate(Path(crate)), scope or Scope(), Outside(), progress)


def verify(crate: AnyPath, *, progress: Tell = silent) -> Verified:
    """Read every file of a packed crate and compare it with its checksum. Raises `ZestyError` for a damaged crate."""
    disk = Outside().disk
    return _crate.verify(_crate.open_part(Path(crate), disk), disk, progress)


def make_plan(
    crate: AnyPath,
    sheet: Sheet,
    *,
    routes: Sequence[str] = (),
    decisions: Sequence[str] = (),
    fold_in: bool = False,
    leave_entries: bool = False,
) -> PlanReport:
    """Compare both computers and write the plan. ``report.blockers`` lists what must be cleared before unpacking.

    ``routes`` are texts ``OLD=NEW``, ``decisions`` are ``CHOICE`` or ``WHAT=CHOICE``, as on the command line. With
    ``leave_entries`` those stay behind whose new paths their catalogs cannot say.
    """
    with _opened(crate, sheet) as move:
        return _plan.make_plan(move, PlanOptions(tuple(routes), tuple(decisions), fold_in, leave_entries))


def unpack(
    crate: AnyPath, sheet: Sheet, *, parts: Sequence[AnyPath] = (), into: AnyPath | None = None, progress: Tell = silent
) -> UnpackReport:
    """Place everything on the new computer as the plan says. Raises `ZestyError` while the plan has blockers.

    ``parts`` are folders with other parts of the crate; ``into`` is a folder to use in place of the new computer.
    """
    with _opened(crate, sheet, parts, into) as move:
        return _moving.unpack(move, _moving.prepare_unpack(move, progress), progress)


def relink_catalogs(
    crate: AnyPath, sheet: Sheet, *, dry_run: bool = False, into: AnyPath | None = None, progress: Tell = silent
) -> RelinkReport:
    """Repair the recorded paths of all unpacked catalogs, and prove that nothing else changed.

    With ``dry_run`` nothing on the computer changes.
    """
    with _opened(crate, sheet, into=into) as move:
        return _relink.relink(move, progress, dry_run=dry_run)


def check_move(
    crate: AnyPath,
    sheet: Sheet,
    *,
    content: Content = Content.SAMPLE,
    into: AnyPath | None = None,
    progress: Tell = silent,
) -> CheckReport:
    """Confirm every catalog entry after a move. ``report.attention`` is empty when all is well."""
    with _opened(crate, sheet, into=into) as move:
        return _check.check(move, progress, content)


def check_computer(sheet: Sheet, guides: Sequence[Guide], *, progress: Tell = silent) -> CheckReport:
    """Check every catalog entry of one computer without a crate."""
    return _check.check_computer(sheet, guides, Outside(), _scratch(), progress)


def undo(crate: AnyPath, sheet: Sheet, *, step: str = "all", leave_changed: bool = False) -> UndoReport:
    """Undo a move, newest step first: ``all`` steps, the ``last`` one, or ``unpack`` or ``relink``."""
    with _opened(crate, sheet) as move:
        _moving.plan_undo(move, step, leave_changed=leave_changed)
        return _moving.undo(move, step)


def read_catalog(sheet: Sheet, guides: Sequence[Guide], holding: str, path: str = "") -> CatalogContents:
    """Read one catalog by a guide, without a crate; nothing is changed.

    ``holding`` is its id, such as ``wimblethorn/shelf``. ``path`` is the path of the document on that computer, for a
    holding with several documents. Raises `CatalogError` when the catalog cannot be read.
    """
    computer, outside = computer_of(sheet), Outside()
    found = _holding(holding, [each for guide in guides for each in holdings_on(guide, computer, sheet)])
    at = computer.parse(path) if path else found.at
    seen = Finder(computer, outside.disk).find(at) if at is not None and found.part.syntax else None
    if seen is None or seen.real is None or seen.facts is None:
        where = path or found.where
        raise ZestyError(f"There is no catalog of {holding} at {where}.", next_step="Name the path of its document.")
    with (
        own_folder(outside, _scratch(), "read") as scratch,
        closing(syntax_of(found.part).open(seen.real, found.part, seen.path, outside.disk, scratch)) as catalog,
    ):
        return CatalogContents(str(seen.path), tuple(catalog.entries()), tuple(catalog.groups()))


def _holding(name: str, holdings: Sequence[Holding]) -> Holding:
    for each in holdings:
        if each.id == name:
            return each
    known = ", ".join(each.id for each in holdings if each.part.syntax)
    raise ZestyError(f"There is no holding {name!r}.", next_step=f"Holdings with catalogs are {known or 'none'}.")


@contextmanager
def _opened(
    crate: AnyPath, sheet: Sheet, parts: Sequence[AnyPath] = (), into: AnyPath | None = None
) -> Iterator[_plan.Move]:
    outside = Outside()
    finished = _crate.open_finished(Path(crate), outside.disk)
    folders = [Path(each) for each in parts]
    move = _plan.open_move(finished, sheet, outside, folders, None if into is None else Path(into))
    with closing(move.survey):
        yield move


def _scratch() -> Path:
    return platformdirs.user_cache_path("zesty-crate")
