"""``zesty pack CRATE``"""

from __future__ import annotations

import argparse
import shutil
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING

from ...paths import FORMATS
from ..json_text import fields_of
from ..options import add_guides, find_guides, read_sheet, size
from ..pack_screen import announce, show, show_routine
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
        "crate", metavar="CRATE", type=Path, nargs="?", help="the crate: a folder on the carrier; none with --routine"
    )
    parser.add_argument(
        "--outside", action="store_true", help="also carry media that catalogs point to outside the programs' folders"
    )
    parser.add_argument(
        "--only", metavar="ID", action="append", default=[],
        help="carry this program or holding alone, as the survey names it (may be repeated)",
    )  # fmt: skip
    parser.add_argument(
        "--folder", metavar="PATH", action="append", default=[],
        help="carry this folder of the old computer alone (may be repeated)",
    )  # fmt: skip
    parser.add_argument(
        "--group", metavar="NAME", action="append", default=[],
        help="carry a group of a catalog alone, a playlist or a sequence, with the media it names (may be repeated)",
    )  # fmt: skip
    parser.add_argument(
        "--classes", metavar="LIST", type=_classes, default=None,
        help="classes of media to carry, with commas between: original,stand-in,cache (default: original,stand-in)",
    )  # fmt: skip
    parser.add_argument("--metadata-only", action="store_true", help="carry no media")
    parser.add_argument(
        "--leave-machine-settings", action="store_true", help="leave settings that a guide calls machine-bound"
    )
    add_carriers(parser)
    add_routine(parser)
    parser.add_argument("--verify-only", action="store_true", help="read a packed crate back, and copy nothing")


def add_carriers(parser: argparse.ArgumentParser) -> None:
    """Where it goes, besides the crate itself."""
    parser.add_argument(
        "--part-size", metavar="SIZE", type=size,
        help="make parts of at most this size, such as 30GB; the second and later ones lie beside the crate",
    )  # fmt: skip
    parser.add_argument(
        "--onto", metavar="DIR", type=Path, action="append", default=[],
        help="a folder on another carrier, for the next part of the crate (may be repeated)",
    )  # fmt: skip
    parser.add_argument(
        "--since", metavar="CRATE", type=Path,
        help="hold only what is new or changed since this earlier crate, which is needed for unpacking, too",
    )  # fmt: skip
    parser.add_argument(
        "--second-copy", metavar="DIR", type=Path, help="also write a second copy into this folder, in the same pass"
    )
    parser.add_argument(
        "--carrier-format", metavar="NAME", choices=sorted(FORMATS),
        help="the carrier's format, where it does not tell: " + ", ".join(sorted(FORMATS)),
    )  # fmt: skip


def add_routine(parser: argparse.ArgumentParser) -> None:
    """What a crate of each week takes."""
    parser.add_argument(
        "--routine", metavar="DIR", type=Path,
        help="take stock and make a crate of today in this folder; unchanged files are shared with the one before",
    )  # fmt: skip
    parser.add_argument(
        "--keep", metavar="RULE", type=_rule,
        help="with --routine: which crates stay, such as 4w,6m: the newest of each of so many d(ays), w(eeks), "
        "m(onths), y(ears); without it, all",
    )  # fmt: skip
    parser.add_argument(
        "--from", dest="source", metavar="SHEET", type=Path, default=Path("this-computer"),
        help="with --routine: the computer's sheet (default: this-computer)",
    )  # fmt: skip
    add_guides(parser)
    parser.add_argument(
        "--print-schedule", metavar="KIND", choices=sorted(SCHEDULERS),
        help="with --routine: print what runs it each week, for " + ", ".join(sorted(SCHEDULERS)),
    )  # fmt: skip


def _rule(text: str) -> str:
    """A rule for what stays. Raises `argparse.ArgumentTypeError` for what is none."""
    from ...crate import KeepRule

    try:
        KeepRule.parse(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"{text!r} is no such rule; write it like 4w,6m") from error
    return text


def _classes(text: str) -> tuple[str, ...]:
    """A list of media classes. Raises `argparse.ArgumentTypeError` for one that is none."""
    found = tuple(text.split(","))
    unknown = sorted({*found} - {"original", "stand-in", "cache"})
    if unknown:
        raise argparse.ArgumentTypeError(f"{unknown[0]!r} is none of original, stand-in, cache")
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
    )


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Fill the crate, or only read it back."""
    from ...machines import Outside

    outside = Outside()
    if (args.crate is None) == (args.routine is None):
        args.wrong("name a crate, or a folder with --routine")
    if args.print_schedule:
        if args.routine is None:
            args.wrong("--print-schedule goes with --routine")
        terminal.say(schedule_for(args.print_schedule, _routine_command(args)).rstrip())
        return Status.DONE
    if args.routine is not None:
        return _routine(args, outside, terminal)
    return _verify(args, outside, terminal) if args.verify_only else _pack(args, outside, terminal)


def _verify(args: argparse.Namespace, outside: Outside, terminal: Terminal) -> Status:
    from ...crate import open_finished, readable_size, verify

    with terminal.progress() as tell:
        verified = verify(open_finished(args.crate, outside.disk), outside.disk, tell)
    if terminal.json:
        terminal.document({"crate": str(args.crate), **fields_of(verified)})
    else:
        size = readable_size(verified.size_bytes)
        terminal.say(f"{count(verified.files, 'file')}, {size}: all read back, all as they were carried.")
    return Status.DONE


def _pack(args: argparse.Namespace, outside: Outside, terminal: Terminal) -> Status:
    from ...crate import Crate, Targets, pack, require_done

    with terminal.progress() as tell:
        targets = Targets(
            part_bytes=args.part_size,
            onto=tuple(args.onto),
            second=args.second_copy,
            format=args.carrier_format or "",
            ask=terminal.asker(_question) if not args.part_size else None,
        )
        crate, since = Crate(args.crate), Crate(args.since) if args.since else None
        with closing(crate.open_survey(outside.disk)) as survey:
            require_done(crate, survey, "before-pack", outside.disk)
        report = pack(crate, _scope(args), outside, tell, lambda room: announce(room, terminal), targets, since)
    if terminal.json:
        terminal.document(fields_of(report))
    else:
        show(report, terminal)
        terminal.next(f'zesty plan "{args.crate}" --to SHEET')
    return Status.ATTENTION if report.left else Status.DONE


def _routine(args: argparse.Namespace, outside: Outside, terminal: Terminal) -> Status:
    from ...crate import KeepRule, run_routine

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
    """The same command, with places that hold from everywhere, for a scheduler."""
    program = shutil.which("zesty") or "zesty"
    source = str(args.source) if str(args.source) == "this-computer" else str(args.source.absolute())
    guides = [word for folder in args.guides for word in ("--guides", str(folder.absolute()))]
    keep = ["--keep", args.keep] if args.keep else []
    outside = ["--outside"] if args.outside else []
    return [program, "pack", "--routine", str(args.routine.absolute()), *keep, "--from", source, *guides, *outside]


def _question(number: int, size_bytes: int) -> str:
    from ...crate import readable_size

    return (
        f"{readable_size(size_bytes)} have no room yet. What is written is flushed; parts on other carriers than the "
        f"first can be unplugged now.\nFolder for part {number} (empty to stop here): "
    )
