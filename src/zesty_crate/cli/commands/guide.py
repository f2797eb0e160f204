"""``zesty guide ACTION``"""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from ..guide_drafts import add_draft_options, draft
from ..guide_screen import show_guide, show_known, show_mistakes, show_rehearsal, show_trial
from ..json_text import fields_of
from ..options import add_guides
from ..status import Status
from ..terminal import Terminal

if TYPE_CHECKING:
    from ...guide_trials import Mistake, RehearsalReport, TrialReport
    from ...guides import Guide
    from ...machines import Outside, Sheet
    from ...progress import Tell

    Report = TypeVar("Report", TrialReport, RehearsalReport)

_ACTIONS = {
    "draft": "look into places of a computer, and write a guide for what is there, with its evidence",
    "list": "the guides that count here, and where each is from",
    "show": "a guide in words",
    "lint": "all mistakes of guides at once; with --at also those that only the data of a computer show",
    "try": "what a guide finds on a computer: documents, entries and the files that they mean, groups, files nearby",
    "rehearse": "take copies of every document to invented computers of all three systems and back, and prove each",
}


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    parser.set_defaults(wrong=parser.error)
    actions = "; ".join(f"{name}: {what}" for name, what in _ACTIONS.items())
    parser.add_argument("action", metavar="ACTION", choices=tuple(_ACTIONS), help=actions)
    parser.add_argument("guide", metavar="GUIDE", nargs="*", help="a guide file, or the id of a guide that is known")
    parser.add_argument(
        "--at", metavar="SHEET", type=Path, help="the sheet of a computer that has such documents, or this-computer"
    )
    add_draft_options(parser)
    add_guides(parser)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Do what was asked for."""
    if args.action == "draft":
        return draft(args, terminal)
    if args.action == "list":
        return _list(args, terminal)
    if not args.guide or (args.action != "lint" and len(args.guide) > 1):
        args.wrong(f"zesty guide {args.action} needs {'guides' if args.action == 'lint' else 'one guide'}")
    if args.action in ("try", "rehearse") and args.at is None:
        args.wrong(f"zesty guide {args.action} needs --at SHEET")
    return {"show": _show, "lint": _lint, "try": _try, "rehearse": _rehearse}[args.action](args, terminal)


def _list(args: argparse.Namespace, terminal: Terminal) -> Status:
    from ...guide_trials import known_guides
    from ...machines import Disk

    known = [each for each, _ in known_guides(args.guides, Disk())]
    if terminal.json:
        terminal.document({"guides": [fields_of(each) for each in known]})
    else:
        show_known(known, terminal)
    return Status.DONE


def _show(args: argparse.Namespace, terminal: Terminal) -> Status:
    guide = _guide(args, args.guide[0])
    if terminal.json:
        terminal.document(guide.part.model_dump(mode="json", by_alias=True, exclude_defaults=True))
    else:
        show_guide(guide, terminal)
    return Status.DONE


def _lint(args: argparse.Namespace, terminal: Terminal) -> Status:
    found = {name: _mistakes(args, name, terminal) for name in args.guide}
    if terminal.json:
        terminal.document({"guides": {name: [fields_of(each) for each in told] for name, told in found.items()}})
    else:
        show_mistakes(found, terminal)
    return Status.ATTENTION if any(found.values()) else Status.DONE


def _mistakes(args: argparse.Namespace, name: str, terminal: Terminal) -> tuple[Mistake, ...]:
    from ...documents import DocumentError, parse_document
    from ...guide_trials import lint, lint_on, try_guide
    from ...guides import Guide, WholeGuide
    from ...machines import Disk

    text = Disk().read_text(Path(name)) if Path(name).is_file() else _guide(args, name).text
    found = lint(text)
    if args.at is None:
        return found
    try:
        guide = Guide(parse_document(text, WholeGuide, "The guide"), text)
    except DocumentError:
        return found  # they are all in there
    sheet, outside = _computer(args)
    with terminal.progress() as tell:
        return (*found, *lint_on(guide, try_guide(sheet, guide, outside, _aside(), tell)))


def _try(args: argparse.Namespace, terminal: Terminal) -> Status:
    from ...guide_trials import try_guide

    status = _at_computer(args, terminal, try_guide, show_trial)
    if not terminal.json:
        more = [word for folder in args.guides for word in ("--guides", str(folder))]
        terminal.next("zesty", "guide", "rehearse", args.guide[0], "--at", str(args.at), *more)
    return status


def _rehearse(args: argparse.Namespace, terminal: Terminal) -> Status:
    from ...guide_trials import rehearse

    return _at_computer(args, terminal, rehearse, show_rehearsal)


def _at_computer(
    args: argparse.Namespace,
    terminal: Terminal,
    look: Callable[[Sheet, Guide, Outside, Path, Tell], Report],
    show: Callable[[Report, Terminal], None],
) -> Status:
    """Look at what a guide means on a computer, and show it."""
    guide, (sheet, outside) = _guide(args, args.guide[0]), _computer(args)
    with terminal.progress() as tell:
        report = look(sheet, guide, outside, _aside(), tell)
    if terminal.json:
        terminal.document(fields_of(report))
    else:
        show(report, terminal)
    return Status.ATTENTION if report.attention else Status.DONE


def _guide(args: argparse.Namespace, name: str) -> Guide:
    from ...guide_trials import guide_named
    from ...machines import Disk

    return guide_named(name, args.guides, Disk())


def _computer(args: argparse.Namespace) -> tuple[Sheet, Outside]:
    from ...machines import Outside, read_sheet

    outside = Outside()
    return read_sheet(args.at, outside.disk), outside


def _aside() -> Path:
    import platformdirs

    return platformdirs.user_cache_path("zesty-crate")
