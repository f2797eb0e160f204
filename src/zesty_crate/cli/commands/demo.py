"""``zesty demo [DIR]``"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from ..layout import command_text
from ..status import Status
from ..terminal import Terminal
from ..wording import count, states
from .check import status_of

if TYPE_CHECKING:
    from ...check import CheckReport, Residue
    from ...crate import Crate
    from ...demo import Demo
    from ...machines import Outside
    from ...plan import Move, PlanOptions, PlanReport


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    parser.add_argument(
        "folder",
        metavar="DIR",
        nargs="?",
        type=Path,
        default=Path("demo"),
        help="an empty or new folder (default: demo)",
    )
    parser.add_argument("--lay-out", action="store_true", help="only create the two computers")


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Create the demo, and run a whole move on it."""
    from ...demo import lay_out
    from ...machines import Outside

    demo = lay_out(args.folder)
    outside = Outside()
    teller = _Teller(terminal)
    teller.tell(
        "",
        "Lanternfold, a travelling shadow theatre, gets a new computer.",
        f"The old one, paintloft (Windows): {demo.old_sheet.parent}",
        f"The new one, cartshed (macOS): {demo.new_sheet.parent}",
    )
    if args.lay_out:
        crate = demo.carrier / _crate_name(outside)
        words = ("--from", str(demo.old_sheet), "--guides", str(demo.guides))
        teller.next("Next", "zesty", "survey", str(crate), *words)
        return teller.end(Status.DONE)
    return teller.end(_move(demo, outside, teller))


class _Teller:
    """Shows each step in a few lines, or keeps them for the JSON document."""

    def __init__(self, terminal: Terminal) -> None:
        self._terminal = terminal
        self._steps: list[dict[str, object]] = []

    def tell(self, command: str, *lines: str) -> None:
        """One step: the command that a person would type, and what came out."""
        self._steps.append({"command": command, "lines": list(lines)})
        if self._terminal.json:
            return
        if command:
            self._terminal.say()
            self._terminal.heading(f"zesty {command}")
        for line in lines:
            self._terminal.say(f"  {line}" if command else line)

    def next(self, why: str, *command: str) -> None:
        """The command to type next."""
        self._steps.append({"next": command_text(command)})
        if not self._terminal.json:
            self._terminal.next(*command, why=why)

    def end(self, status: Status) -> Status:
        """Print the document, when it is JSON that is wanted."""
        if self._terminal.json:
            self._terminal.document({"steps": self._steps, "status": int(status)})
        return status


def _crate_name(outside: Outside) -> str:
    return f"Odile - paintloft - {outside.clock.now().date().isoformat()}"


def _move(demo: Demo, outside: Outside, teller: _Teller) -> Status:
    """The whole move, by the code of the single commands."""
    from ...crate import Crate

    crate = Crate(demo.carrier / _crate_name(outside))
    _look_first(demo, outside, teller)
    _draft(demo, outside, teller)
    _survey_and_pack(demo, crate, outside, teller)
    _plan_for_tent(demo, crate, outside, teller)
    _plan(demo, crate, outside, teller)
    with _opened(demo, crate, outside) as move:
        _unpack(move, teller)
        _relink(move, teller)
        status = _check(move, teller)
        _hand_over(demo, move, teller)
    return max(status, _merge_travel_computer(demo, outside, teller))


_ALSO = "E:\\Workshop"
_VOICES = "HKEY_CURRENT_USER\\Software\\Thrumbarrow\\Instruments\\Marsh Drums\\Voices"


def _look_first(demo: Demo, outside: Outside, teller: _Teller) -> None:
    """A first survey shows what no guide knows, and what a guide reads only in part."""
    from ...crate import Crate, create_crate
    from ...demo import correct_guide, first_guide
    from ...guides import find_guides
    from ...machines import load_sheet
    from ..coverage_screen import folder_said
    from ..documents_screen import verdict_said

    first_guide(demo)
    sheet = load_sheet(demo.old_sheet, outside.disk)
    survey = create_crate(
        Crate(demo.carrier / "a first look"), sheet, find_guides([demo.guides], outside.disk), outside
    )
    documents = (line for each in survey.unsettled for line in (f"{verdict_said(each)}: {each.at}", *each.said))
    teller.tell(
        'survey "a first look" --from paintloft/sheet.toml --guides guides',
        *documents,
        *(f"not covered: {folder_said(each)}" for each in survey.to_decide),
    )
    correct_guide(demo)


_PACKS = "C:\\Users\\Odile\\Documents\\Dapplegarth Packs"


def _draft(demo: Demo, outside: Outside, teller: _Teller) -> None:
    """Nobody has a guide for the gallery: one is drafted from its folder, tried and rehearsed, and used as it is."""
    from ...drafting import draft_guide
    from ...guide_trials import rehearse
    from ...guides import load_guides
    from ...machines import load_sheet

    sheet, guide = load_sheet(demo.old_sheet, outside.disk), demo.guides / "dapplegarth.toml"
    drafted = draft_guide(sheet, [_PACKS], outside, demo.carrier)
    outside.disk.write_text(guide, drafted.text)
    teller.tell(
        f'guide draft --at paintloft/sheet.toml --look-in "{_PACKS}" -o guides/dapplegarth.toml',
        *(f"{each.at}: {each.found:,} of {count(each.looked_at, 'path')} lead somewhere" for each in drafted.entries),
        *(line for line in drafted.text.splitlines() if line.startswith(("[[", "at ", "sweep", "each", "path"))),
    )
    made = next(each for each in load_guides([demo.guides], outside.disk) if each.id == drafted.id)
    rehearsed = rehearse(sheet, made, outside, demo.carrier)
    moves = [move for each in rehearsed.documents for move in each.moves]
    teller.tell(
        "guide rehearse guides/dapplegarth.toml --at paintloft/sheet.toml",
        f"{count(len(rehearsed.documents), 'document')} taken to invented computers of three systems and back: "
        f"{sum(not move.fault for move in moves)} of {len(moves)} moves proven.",
    )


def _survey_and_pack(demo: Demo, crate: Crate, outside: Outside, teller: _Teller) -> None:
    from ...crate import Scope, create_crate, pack, readable_size
    from ...guides import find_guides
    from ...machines import load_sheet

    sheet = load_sheet(demo.old_sheet, outside.disk)
    survey = create_crate(crate, sheet, find_guides([demo.guides], outside.disk), outside, also=[_ALSO])
    present = [holding for holding in survey.holdings if holding.present and not holding.is_left]
    size = readable_size(sum(holding.size_bytes for holding in present))
    teller.tell(
        f"survey CRATE --from paintloft/sheet.toml --guides guides --also {_ALSO}",
        "The guide of Hobbinreel was corrected: a shot may be one picture. The workshop is carried, too.",
        f"{count(sum(h.files for h in present), 'file')} in {count(len(present), 'holding')}, {size}.",
        f"{count(survey.totals['entries'], 'catalog entry', 'catalog entries')}: {states(survey.totals)}.",
    )
    packed = pack(crate, Scope(outside=True), outside)
    teller.tell(
        "pack CRATE --outside",
        f"{count(packed.files, 'file')}, {readable_size(packed.size_bytes)}, copied, read back and identical.",
        f"{count(packed.factory_left, 'factory file')} left out: they come with the programs' installers.",
        f"The crate is {crate.root}",
    )


_OTHER_SOUND = "/Users/odile.k/Music/Wimblethorn Sounds/Lamp Lit.wav"
_DECISIONS = ("newer", f"{_OTHER_SOUND}=both")


def _plan(demo: Demo, crate: Crate, outside: Outside, teller: _Teller) -> None:
    """Plan, read the blockers, and clear them as a technician would."""
    from ...demo import correct_sheet
    from ...plan import PlanOptions

    plan = _planned(demo, crate, outside)
    routes = [
        f"{each.route.old}  to  {each.route.new}  ({count(each.files, 'file')})" for each in plan.routes if each.files
    ]
    blockers = [f"blocked: {each.what}" for each in plan.blockers]
    conflicts = [f"conflict: another file is already at {each.new}" for each in plan.conflicts if not each.outcome]
    teller.tell("plan CRATE --to cartshed/sheet.toml", *routes, *blockers, *conflicts)
    correct_sheet(demo)
    plan = _planned(demo, crate, outside, PlanOptions(decisions=_DECISIONS))
    decided = [f"{each.outcome}: {each.new} ({each.why})" for each in plan.conflicts]
    teller.tell(
        f'plan CRATE --to cartshed/sheet.toml --decide {_DECISIONS[0]} --decide "{_DECISIONS[1]}"',
        "Mothwick Cloths 1.8 was installed, and the sheet was corrected.",
        *decided,
        f"{count(len(plan.blockers), 'blocker')}.",
    )


def _plan_for_tent(demo: Demo, crate: Crate, outside: Outside, teller: _Teller) -> None:
    """A computer with a registry: a value that differs there is decided like a file."""
    from ...crate import open_finished
    from ...machines import load_sheet
    from ...plan import PlanOptions, make_plan, open_move

    sheet = load_sheet(demo.tent_sheet, outside.disk)
    for decisions in ((), (f"{_VOICES}=keep",)):
        move = open_move(open_finished(crate.root, outside.disk), sheet, outside)
        with closing(move.survey):
            values = make_plan(move, PlanOptions(decisions=decisions)).registry_conflicts
        asked = "".join(f' --decide "{each}"' for each in decisions)
        lines = (
            f"{each.value}: {each.carried} carried, {each.there} there: {each.outcome or 'needs a decision'}"
            for each in values
        )
        teller.tell(f"plan CRATE --to tentwagon/sheet.toml{asked}", *lines)


def _planned(demo: Demo, crate: Crate, outside: Outside, options: PlanOptions | None = None) -> PlanReport:
    from ...plan import PlanOptions, make_plan

    with _opened(demo, crate, outside) as move:
        return make_plan(move, options or PlanOptions())


@contextmanager
def _opened(demo: Demo, crate: Crate, outside: Outside) -> Iterator[Move]:
    from ...crate import open_finished
    from ...machines import load_sheet
    from ...plan import open_move

    move = open_move(open_finished(crate.root, outside.disk), load_sheet(demo.new_sheet, outside.disk), outside)
    with closing(move.survey):
        yield move


def _unpack(move: Move, teller: _Teller) -> None:
    from ...crate import readable_size
    from ...moving import prepare_unpack, unpack

    placed = unpack(move, prepare_unpack(move))
    teller.tell(
        "unpack CRATE --to cartshed/sheet.toml --yes",
        f"{count(placed.files, 'file')}, {readable_size(placed.size_bytes)}, placed on {placed.computer}, each change "
        "journalled.",
        f"{count(placed.replaced, 'file')} replaced and kept aside, {placed.kept:,} not placed, "
        f"{placed.already_there:,} already there.",
    )


def _relink(move: Move, teller: _Teller) -> None:
    from ...relink import relink

    lines, still = [], 0
    for catalog in relink(move).catalogs:
        if not catalog.cells and not catalog.untouched:
            still += 1
            continue
        entries = count(catalog.entries_moved, "entry", "entries")
        lines.append(f"{catalog.title}: {entries} updated by {count(catalog.cells, 'changed text')}.")
        lines += [f"{each.recorded} not updated: {each.why}." for each in catalog.untouched]
        if catalog.proof:
            lines.append(
                f"Compared with the original ({count(catalog.proof.rows_compared, 'row')}): nothing else differs."
            )
    lines += [f"{count(still, 'catalog')}: no changes needed, since their paths are relative."] if still else []
    teller.tell("relink CRATE --to cartshed/sheet.toml --yes", *lines)


def _check(move: Move, teller: _Teller, name: str = "CRATE") -> Status:
    from ...check import check

    report = check(move)
    status = status_of(report)
    good = sum(mark.is_good for mark in report.spot_checks)
    equal = sum(each.is_equal for each in report.organisation)
    verdict = (
        "All well: every entry that found its media before the move finds it now."
        if status is Status.DONE
        else "Something needs attention."
    )
    teller.tell(
        f"check {name} --to cartshed/sheet.toml",
        f"{count(report.totals['entries'], 'catalog entry', 'catalog entries')}: {states(report.totals)}.",
        *(f"{each.state}: {each.recorded}{' (by choice)' if each.chosen else ''}" for each in report.problems),
        *(f"still naming the old computer: {each.at}, {each.field}: {each.example}" for each in _residue(report)),
        f"{good} of {count(len(report.spot_checks), 'spot check')} opened, the same as before; "
        f"{equal} of {count(len(report.organisation), 'catalog')} organised as before.",
        verdict,
    )
    return status


def _residue(report: CheckReport) -> tuple[Residue, ...]:
    return report.searched.residue if report.searched else ()


def _hand_over(demo: Demo, move: Move, teller: _Teller) -> None:
    """The manual steps, and the report."""
    from ...machines import make_folders
    from ...report import as_page, gather
    from ...todo import refresh_steps

    steps = refresh_steps(move)
    gates = [step for step in steps.open if step.gates]
    teller.tell(
        "todo CRATE --to cartshed/sheet.toml",
        f"{count(len(steps.steps), 'manual step')}. Before the old computer is retired:",
        *(f"{step.id}: {step.do}" for step in gates),
    )
    page = move.folder / "report" / "report.html"
    make_folders(move.outside.disk, page.parent)
    move.outside.disk.write_text(page, as_page(gather(move)))
    teller.tell("report CRATE --to cartshed/sheet.toml", f"The report is in {page}")
    crate = str(move.crate.root)
    teller.next("To see whether the old computer may be wiped", "zesty", "retire", crate, "--from", str(demo.old_sheet))


def _merge_travel_computer(demo: Demo, outside: Outside, teller: _Teller) -> Status:
    """A week later: what Odile did on her travel computer goes into the catalog that has moved."""
    from ...crate import Crate, Scope, create_crate, open_finished, pack
    from ...guides import find_guides
    from ...machines import load_sheet
    from ...merge import Taken
    from ...moving import prepare_unpack, unpack
    from ...plan import MergingChoices, PlanOptions, make_plan, open_move
    from ...relink import relink

    crate = Crate(demo.carrier / f"Odile - handcart - {outside.clock.now().date().isoformat()}")
    sheet, new = load_sheet(demo.cart_sheet, outside.disk), load_sheet(demo.new_sheet, outside.disk)
    survey = create_crate(crate, sheet, find_guides([demo.guides], outside.disk), outside)
    packed = pack(crate, Scope(outside=True), outside)
    teller.tell(
        "survey TRAVEL --from handcart/sheet.toml --guides guides; zesty pack TRAVEL --outside",
        f"{count(packed.files, 'file')} packed; "
        f"{count(survey.totals['entries'], 'catalog entry', 'catalog entries')}: {states(survey.totals)}.",
    )
    with closing((move := open_move(open_finished(crate.root, outside.disk), new, outside)).survey):
        for values in (None, Taken.KEEP):
            plan = make_plan(move, PlanOptions(decisions=("merge",), merging=MergingChoices(values)))
            merges = [each.merge for each in plan.conflicts if each.merge is not None]
            asked = "" if values is None else f" --values {values}"
            teller.tell(
                f"plan TRAVEL --to cartshed/sheet.toml --decide merge{asked}",
                *(
                    f"merge: {each.new} new, {each.same} on both; new groups: {', '.join(each.groups_new)}"
                    for each in merges
                ),
                *(
                    f"{v.entry}: {v.field} {v.there} there, {v.carried} carried: {v.outcome or 'needs a decision'}"
                    for each in merges
                    for v in each.conflicts
                ),
            )
        unpack(move, prepare_unpack(move))
        merged = (each for each in relink(move).catalogs if each.merge is not None and each.proof is not None)
        teller.tell(
            "relink TRAVEL --to cartshed/sheet.toml --yes",
            *(
                f"{each.title}: {count(each.merge.new, 'new entry', 'new entries')} merged; "
                f"{each.proof.rows_compared:,} records compared: all of both is in it."
                for each in merged
                if each.merge and each.proof
            ),
        )
        status = _check(move, teller, "TRAVEL")
    for each in (str(crate.root), str(demo.carrier / _crate_name(outside))):
        teller.next("To undo everything, newest first", "zesty", "undo", each, "--to", str(demo.new_sheet))
    return status
