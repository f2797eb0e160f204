"""``zesty pack CRATE``"""

from __future__ import annotations

import argparse
import shutil
from contextlib import closing
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from ...paths import FORMATS
from ..json_text import fields_of
from ..options import add_guides, size
from ..pack_screen import announce, show, show_files, show_routine
from ..schedule import SCHEDULERS, schedule_for
from ..status import Status
from ..terminal import Terminal
from ..wording import count

if TYPE_CHECKING:
    from ...crate import Scope
    from ...machines import Outside


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    parser.set_defaults(wrong=parser.error)
    parser.add_argument(
        "crate", metavar="CRATE", type=Path, nargs="?", help="the crate: a folder on the carrier (not with --routine)"
    )
    parser.add_argument(
        "--outside", action="store_true", help="also carry media outside the programs' folders that catalogs refer to"
    )
    parser.add_argument(
        "--only",
        metavar="ID",
        action="append",
        default=[],
        help="carry only this program or holding, by its id in the survey (may be repeated)",
    )
    parser.add_argument(
        "--folder",
        metavar="PATH",
        action="append",
        default=[],
        help="carry only this folder of the old computer (may be repeated)",
    )
    parser.add_argument(
        "--group",
        metavar="NAME",
        action="append",
        default=[],
        help="carry only this group of a catalog (a playlist, a sequence) with its media (may be repeated)",
    )
    parser.add_argument(
        "--classes",
        metavar="LIST",
        type=_classes,
        default=None,
        help="classes of media to carry, with commas between: original,proxy,cache (default: original,proxy)",
    )
    parser.add_argument("--metadata-only", action="store_true", help="carry no media")
    parser.add_argument(
        "--leave-machine-settings", action="store_true", help="leave out settings that the guide marks as machine-bound"
    )
    parser.add_argument(
        "--leave",
        metavar="FOLDER=REASON",
        action="append",
        default=[],
        help="this folder, which no holding covers, stays on the old computer, and why; rest=REASON is short for all "
        "that are undecided (may be repeated)",
    )
    parser.add_argument(
        "--lacking-on",
        metavar="SHEET|CRATE",
        type=Path,
        help="carry only what this other computer lacks, or has older: its sheet, or a crate of it. Catalogs and other "
        "documents are always carried",
    )
    add_carriers(parser)
    add_routine(parser)
    parser.add_argument(
        "--as-file",
        action="store_true",
        help="also write the crate into one file beside it, CRATE.tar, to send it; of a packed crate, only that",
    )
    parser.add_argument("--verify-only", action="store_true", help="verify a packed crate; copy nothing")


def add_carriers(parser: argparse.ArgumentParser) -> None:
    """Where the crate goes besides its own folder."""
    parser.add_argument(
        "--part-size",
        metavar="SIZE",
        type=size,
        help="split into parts of at most this size, such as 30GB; later parts are created beside the crate",
    )
    parser.add_argument(
        "--onto",
        metavar="DIR",
        type=Path,
        action="append",
        default=[],
        help="a folder on another carrier for the next part (may be repeated)",
    )
    parser.add_argument(
        "--since",
        metavar="CRATE",
        type=Path,
        help="carry only what is new or changed since this earlier crate, which unpacking then needs too",
    )
    parser.add_argument(
        "--second-copy", metavar="DIR", type=Path, help="also write a second copy into this folder, in the same run"
    )
    parser.add_argument(
        "--carrier-format",
        metavar="NAME",
        choices=sorted(FORMATS),
        help="the format of the carrier, if it cannot be detected: " + ", ".join(sorted(FORMATS)),
    )


def add_routine(parser: argparse.ArgumentParser) -> None:
    """The arguments of a weekly crate."""
    parser.add_argument(
        "--routine",
        metavar="DIR",
        type=Path,
        help="survey and pack a crate of today in this folder; unchanged files are hard links to the crate before",
    )
    parser.add_argument(
        "--keep",
        metavar="RULE",
        type=_rule,
        help="with --routine: which crates to keep, such as 4w,6m: the newest of each of the last 4 weeks and 6 months "
        "(d, w, m, y; default: all)",
    )
    parser.add_argument(
        "--from",
        dest="source",
        metavar="SHEET",
        type=Path,
        default=Path("this-computer"),
        help="with --routine: the computer's sheet (default: this-computer)",
    )
    add_guides(parser)
    parser.add_argument(
        "--print-schedule",
        metavar="KIND",
        choices=sorted(SCHEDULERS),
        help="with --routine: print a weekly scheduler entry for " + ", ".join(sorted(SCHEDULERS)),
    )


def _rule(text: str) -> str:
    """A rule for --keep. Raises `argparse.ArgumentTypeError` for any other text."""
    from ...crate import KeepRule

    try:
        KeepRule.parse(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"{text!r} is not a rule; write it like 4w,6m") from error
    return text


def _classes(text: str) -> tuple[str, ...]:
    """A list of media classes. Raises `argparse.ArgumentTypeError` for an unknown class."""
    found = tuple(text.split(","))
    unknown = sorted({*found} - {"original", "proxy", "cache"})
    if unknown:
        raise argparse.ArgumentTypeError(f"{unknown[0]!r} is not a class; choose among original, proxy, cache")
    return found


def _scope(args: argparse.Namespace) -> Scope:
    from ...crate import USUAL_CLASSES, Scope

    return Scope(
        outside=args.outside,
        only=tuple(args.only),
        folders=tuple(args.folder),
        groups=tuple(args.group),
        classes=args.classes or USUAL_CLASSES,
        metadata_only=args.metadata_only,
        leave_machine_settings=args.leave_machine_settings,
        leave=tuple(args.leave),
        lacking_on=str(args.lacking_on or ""),
    )


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Fill the crate, or only verify it."""
    from ...crate import Crate
    from ...machines import Outside

    outside = Outside()
    if (args.crate is None) == (args.routine is None):
        args.wrong("give either CRATE or --routine DIR")
    if args.print_schedule:
        if args.routine is None:
            args.wrong("--print-schedule needs --routine")
        print(schedule_for(args.print_schedule, _routine_command(args)).rstrip())
        return Status.DONE
    if args.routine is not None and args.as_file:
        args.wrong("--as-file needs CRATE")
    if args.as_file and args.verify_only:
        args.wrong("--as-file verifies what it writes; leave out --verify-only")
    if args.routine is not None:
        return _routine(args, outside, terminal)
    if args.as_file and Crate(args.crate).is_finished(outside.disk):
        return _as_file(args, outside, terminal)
    return _verify(args, outside, terminal) if args.verify_only else _pack(args, outside, terminal)


def _as_file(args: argparse.Namespace, outside: Outside, terminal: Terminal) -> Status:
    """Write a packed crate, and each of its parts, into one file."""
    from ...crate import Crate, CrateFiles, parts_here, write_one_file

    with terminal.progress() as tell:
        parts = parts_here(Crate(args.crate), outside.disk)
        written = tuple(write_one_file(each, outside.disk, tell) for each in parts)
    if terminal.json:
        terminal.document(fields_of(CrateFiles(str(args.crate), written)))
    else:
        show_files(written, terminal)
    return Status.DONE


def _verify(args: argparse.Namespace, outside: Outside, terminal: Terminal) -> Status:
    from ...crate import open_part, readable_size, verify

    with terminal.progress() as tell:
        verified = verify(open_part(args.crate, outside.disk), outside.disk, tell)
    if terminal.json:
        terminal.document({"crate": str(args.crate), **fields_of(verified)})
    else:
        size = readable_size(verified.size_bytes)
        terminal.say(f"{count(verified.files, 'file')}, {size}: all read back and unchanged.")
    return Status.DONE


def _pack(args: argparse.Namespace, outside: Outside, terminal: Terminal) -> Status:
    from ...crate import Crate, Targets, pack, parts_here, require_done, write_one_file
    from ...plan import files_there

    with terminal.progress() as tell:
        targets = Targets(
            part_bytes=args.part_size,
            onto=tuple(args.onto),
            second=args.second_copy,
            format=args.carrier_format or "",
            ask=terminal.asker(_question) if not args.part_size else None,
        )
        crate, since = Crate(args.crate), Crate(args.since) if args.since else None
        there: list[int] = []
        with closing(crate.open_survey(outside.disk)) as survey:
            require_done(crate, survey, "before-pack", outside.disk)
            if args.lacking_on:
                sheet, guides = crate.old_sheet(outside.disk, survey), crate.guides(outside.disk)
                there += files_there(survey, sheet, guides, args.lacking_on, outside.disk)
        report = pack(crate, _scope(args), outside, tell, lambda room: announce(room, terminal), targets, since, there)
        parts = parts_here(crate, outside.disk) if args.as_file else []
        report = replace(report, written=tuple(write_one_file(each, outside.disk, tell) for each in parts))
    if terminal.json:
        terminal.document(fields_of(report))
    else:
        show(report, terminal)
        show_files(report.written, terminal)
        if not args.as_file:
            terminal.next("zesty", "plan", str(args.crate), "--to", "SHEET")
    return Status.ATTENTION if report.left else Status.DONE


def _routine(args: argparse.Namespace, outside: Outside, terminal: Terminal) -> Status:
    from ...crate import KeepRule, run_routine
    from ...guides import find_guides
    from ...machines import read_sheet

    sheet = read_sheet(args.source, outside.disk)
    guides = find_guides(args.guides, outside.disk)
    rule = KeepRule.parse(args.keep) if args.keep else None
    with terminal.progress() as tell:
        report = run_routine(
            args.routine, rule, _scope(args), sheet, guides, outside, tell, lambda room: announce(room, terminal)
        )
    if terminal.json:
        terminal.document(fields_of(report))
    else:
        show_routine(report, terminal)
    return Status.ATTENTION if report.packed.left else Status.DONE


def _routine_command(args: argparse.Namespace) -> list[str]:
    """The same command with absolute paths, for a scheduler."""
    program = shutil.which("zesty") or "zesty"
    source = str(args.source) if str(args.source) == "this-computer" else str(args.source.absolute())
    guides = [word for folder in args.guides for word in ("--guides", str(folder.absolute()))]
    keep = ["--keep", args.keep] if args.keep else []
    outside = ["--outside"] if args.outside else []
    return [program, "pack", "--routine", str(args.routine.absolute()), *keep, "--from", source, *guides, *outside]


def _question(number: int, size_bytes: int) -> list[str]:
    from ...crate import readable_size

    return [
        f"{readable_size(size_bytes)} still need room. What is written is flushed. Keep part 1 connected; you "
        "may unplug other parts now.",
        f"Folder for part {number} (empty to stop here): ",
    ]
