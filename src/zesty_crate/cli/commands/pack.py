"""``zesty pack CRATE``"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from ...paths import FORMATS
from ..options import add_crate, size
from ..status import Status
from ..terminal import Terminal, as_json
from ..wording import count, show_list

if TYPE_CHECKING:
    from ...crate import PackReport, Room, Scope
    from ...machines import Outside


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
    parser.add_argument(
        "--part-size", metavar="SIZE", type=size,
        help="make parts of at most this size, such as 30GB; the second and later ones lie beside the crate",
    )  # fmt: skip
    parser.add_argument(
        "--onto", metavar="DIR", type=Path, action="append", default=[],
        help="a folder on another carrier, for the next part of the crate (may be repeated)",
    )  # fmt: skip
    parser.add_argument(
        "--second-copy", metavar="DIR", type=Path, help="also write a second copy into this folder, in the same pass"
    )
    parser.add_argument(
        "--carrier-format", metavar="NAME", choices=sorted(FORMATS),
        help="the carrier's format, where it does not tell: " + ", ".join(sorted(FORMATS)),
    )  # fmt: skip
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
    from ...machines import Outside

    outside = Outside()
    return _verify(args, outside, terminal) if args.verify_only else _pack(args, outside, terminal)


def _verify(args: argparse.Namespace, outside: Outside, terminal: Terminal) -> Status:
    from ...crate import open_finished, readable_size, verify

    with terminal.progress() as tell:
        verified = verify(open_finished(args.crate, outside.disk), outside.disk, tell)
    if terminal.json:
        terminal.document({"crate": str(args.crate), **as_json(verified)})
    else:
        size = readable_size(verified.size_bytes)
        terminal.say(f"{count(verified.files, 'file')}, {size}: all read back, all as they were carried.")
    return Status.DONE


def _pack(args: argparse.Namespace, outside: Outside, terminal: Terminal) -> Status:
    from ...crate import Crate, Targets, pack

    with terminal.progress() as tell:
        targets = Targets(
            part_bytes=args.part_size,
            onto=tuple(args.onto),
            second=args.second_copy,
            format=args.carrier_format or "",
            ask=terminal.asker(_question) if not args.part_size else None,
        )
        crate = Crate(args.crate)
        report = pack(crate, _scope(args), outside, tell, lambda room: announce(room, terminal), targets)
    if terminal.json:
        terminal.document(as_json(report))
    else:
        show(report, terminal)
        terminal.next(f'zesty plan "{args.crate}" --to SHEET')
    return Status.ATTENTION if report.left else Status.DONE


def _question(number: int, size_bytes: int) -> str:
    from ...crate import readable_size

    return (
        f"{readable_size(size_bytes)} have no room yet. What is written is flushed; parts on other carriers than the "
        f"first can be unplugged now.\nFolder for part {number} (empty to stop here): "
    )


def announce(room: Room, terminal: Terminal) -> None:
    """Say, before it begins, what is to be copied, what room there is, and how long it may take."""
    from ...crate import readable_size

    def tell(text: str) -> None:
        terminal.err.print(text, markup=False)

    first = room.parts[0]
    carrier = f"{readable_size(first.free_bytes)} free" + (f" ({first.format})" if first.format else "")
    largest = f", the largest {readable_size(room.largest_bytes)}" if room.files > 1 else ""
    takes = f"; about {_minutes(room.least_s)} to {_minutes(room.most_s)}" if room.least_s and room.most_s else ""
    size = readable_size(room.size_bytes)
    tell(f"To copy: {count(room.files, 'file')}, {size}{largest}. On the carrier: {carrier}{takes}.")
    if len(room.parts) > 1 or room.lacking_bytes:
        for part in room.parts:
            tell(f"  part {part.part}: {count(part.files, 'file')}, {readable_size(part.size_bytes)}, in {part.at}")
    if room.cut:
        tell(f"  {count(room.cut, 'file')} larger than a carrier holds: in segments, and made whole when unpacked")
    if room.lacking_bytes:
        tell(f"  {readable_size(room.lacking_bytes)} need another carrier, which will be asked for")


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
    if len(report.parts) > 1:
        for part in report.parts:
            terminal.say(
                f"  part {part.part}: {count(part.files, 'file')}, {readable_size(part.size_bytes)}, in {part.at}"
            )
    if second := report.parts[0].second:
        terminal.say(f"A second copy is in {second}, read back just the same.")
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
    everything = (
        "Everything is on the carrier" if len(report.parts) == 1 and not second else "Everything is on its carriers"
    )
    terminal.say(f"\n{everything} and flushed: safe to unplug, after the system's own way to eject.")
