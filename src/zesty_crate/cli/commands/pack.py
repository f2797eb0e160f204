"""``zesty pack CRATE``"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ..options import add_crate
from ..status import Status
from ..terminal import Terminal, as_json
from ..wording import count, show_list

if TYPE_CHECKING:
    from ...crate import PackReport, Room, Scope


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
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
    parser.add_argument("--verify-only", action="store_true", help="read a packed crate back, and copy nothing")


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
    from ...crate import Crate, open_finished, pack, readable_size, verify
    from ...machines import Outside

    outside = Outside()
    with terminal.progress() as tell:
        if args.verify_only:
            verified = verify(open_finished(args.crate, outside.disk), outside.disk, tell)
        else:
            report = pack(Crate(args.crate), _scope(args), outside, tell, lambda room: announce(room, terminal))
    if args.verify_only:
        if terminal.json:
            terminal.document({"crate": str(args.crate), **as_json(verified)})
        else:
            size = readable_size(verified.size_bytes)
            terminal.say(f"{count(verified.files, 'file')}, {size}: all read back, all as they were carried.")
        return Status.DONE
    if terminal.json:
        terminal.document(as_json(report))
    else:
        show(report, terminal)
        terminal.say("\nThe carrier can go to the new computer now.")
        terminal.next(f'zesty plan "{args.crate}" --to SHEET')
    return Status.ATTENTION if report.left else Status.DONE


def announce(room: Room, terminal: Terminal) -> None:
    """Say, before it begins, what is to be copied, what room there is, and how long it may take."""
    from ...crate import readable_size

    carrier = f"{readable_size(room.free_bytes)} free" + (f" ({room.format})" if room.format else "")
    largest = f", the largest {readable_size(room.largest_bytes)}" if room.files > 1 else ""
    takes = f"; about {_minutes(room.least_s)} to {_minutes(room.most_s)}" if room.least_s and room.most_s else ""
    size = readable_size(room.size_bytes)
    terminal.err.print(
        f"To copy: {count(room.files, 'file')}, {size}{largest}. On the carrier: {carrier}{takes}.", markup=False
    )


def _minutes(seconds: float) -> str:
    if seconds < 90:
        return f"{max(1, round(seconds))} s"
    minutes = round(seconds / 60)
    return f"{minutes} min" if minutes < 90 else f"{minutes / 60:.1f} h"


def show(report: PackReport, terminal: Terminal) -> None:
    """What was carried, and what was not."""
    from ...crate import readable_size

    terminal.heading(f"{report.crate} is packed")
    size = readable_size(report.size_bytes)
    terminal.say(
        f"{count(report.files, 'file')}, {size}, all read back from the carrier and as they were on the old computer."
    )
    if report.already_there:
        terminal.say(f"{count(report.already_there, 'file')} of them were there from an earlier run.")
    for each in report.left_out:
        size = readable_size(each.size_bytes)
        terminal.say(f"{count(each.files, 'file')} left on the old computer, {size}: {each.why}.")
    if report.factory_left:
        terminal.say(f"{count(report.factory_left, 'factory file')} left: they come with the programs' installers.")
    if report.outside_left:
        terminal.say(
            f"{count(report.outside_left, 'file')} outside the programs' folders left; --outside carries them."
        )
    if report.changed_since_survey:
        terminal.say(
            f"{count(len(report.changed_since_survey), 'file')} changed after the survey and went as they are now:"
        )
        show_list(terminal, report.changed_since_survey)
    if report.left:
        terminal.heading(f"{count(len(report.left), 'file')} could not be carried:")
        show_list(terminal, (f"{each.path}: {each.why}" for each in report.left), shown=20)
