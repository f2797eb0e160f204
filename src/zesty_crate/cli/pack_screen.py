"""What `zesty pack` shows: what will be copied, and what was copied."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from collections.abc import Sequence

    from ..crate import CrateFile, PackReport, Room, RoutineReport, Since


def announce(room: Room, terminal: Terminal) -> None:
    """Say before the copy begins how much there is, what room the carrier has, and how long it may take."""
    from ..crate import readable_size
    from ..machines import BOUNDLESS

    first = room.parts[0]
    free = "room that it does not tell" if first.free_bytes >= BOUNDLESS else f"{readable_size(first.free_bytes)} free"
    carrier = free + (f" ({first.format})" if first.format else "")
    largest = f", the largest {readable_size(room.largest_bytes)}" if room.files > 1 else ""
    least, most = _minutes(room.least_s), _minutes(room.most_s)
    takes = f"; about {least}{'' if least == most else f' to {most}'}" if room.files else ""
    size = readable_size(room.size_bytes)
    terminal.tell(f"To copy: {count(room.files, 'file')}, {size}{largest}. On the carrier: {carrier}{takes}.")
    if len(room.parts) > 1 or room.lacking_bytes:
        for part in room.parts:
            terminal.tell(
                f"  part {part.part}: {count(part.files, 'file')}, {readable_size(part.size_bytes)}, in {part.at}"
            )
    if room.shared:
        terminal.tell(f"  {count(room.shared, 'file')} unchanged: hard links to the crate before, which take no room")
    if room.cut:
        terminal.tell(
            f"  {count(room.cut, 'file')} too large for one carrier: split into segments, joined when unpacked"
        )
    if room.lacking_bytes:
        terminal.tell(f"  {readable_size(room.lacking_bytes)} need another carrier; you will be asked for it")


def show_files(written: Sequence[CrateFile], terminal: Terminal) -> None:
    """Crates that were written into one file each."""
    from ..crate import readable_size

    for each in written:
        terminal.say(f"One file: {each.file}")
        terminal.say(f"  {count(each.files, 'file')}, {readable_size(each.size_bytes)}; read back")
        terminal.say(f"  SHA-512: {each.sha512[:64]}")
        terminal.say(f"           {each.sha512[64:]}")
    if written:
        terminal.say("Every command that takes a crate takes such a file, and writes the crate out beside it first.")
        terminal.say(
            "It is not encrypted: send it only in a way that you trust, and compare the digest where it arrives."
        )


def _minutes(seconds: float) -> str:
    if seconds < 90:
        return f"{max(1, round(seconds))} s"
    minutes = round(seconds / 60)
    return f"{minutes} min" if minutes < 90 else f"{minutes / 60:.1f} h"


def show_since(since: Since, terminal: Terminal) -> None:
    """What is in the earlier crate, and what is gone since then."""
    from ..crate import readable_size

    size = readable_size(since.unchanged_bytes)
    terminal.say(
        f"{count(since.unchanged, 'file')}, {size}, unchanged since {since.name} (by size and date): not copied again; "
        "unpacking needs both crates."
    )
    entries = (("new", since.entries_new), ("changed", since.entries_changed), ("gone", since.entries_gone))
    told = ", ".join(f"{number:,} {word}" for word, number in entries if number) or "no change"
    terminal.say(f"Catalog entries since then: {told}. Documents changed: {since.documents_changed:,}.")
    if since.gone:
        terminal.say(f"{count(len(since.gone), 'file')} gone since then (nothing is deleted):")
        show_list(terminal, since.gone)


def show(report: PackReport, terminal: Terminal) -> None:
    """What was carried, and what was not."""
    from ..crate import readable_size

    terminal.heading(f"{report.crate} is packed")
    size = readable_size(report.size_bytes)
    terminal.say(f"{count(report.files, 'file')}, {size}, copied; all read back from the carrier, and identical.")
    second = report.parts[0].second
    for part in report.parts if len(report.parts) > 1 else ():
        size = readable_size(part.size_bytes)
        terminal.say(f"  part {part.part}: {count(part.files, 'file')}, {size}, in {part.at}")
    if second:
        terminal.say(f"A second copy is in {second}, also read back.")
    if report.already_there:
        terminal.say(f"{count(report.already_there, 'file')} of them were copied by an earlier run.")
    if report.since:
        show_since(report.since, terminal)
    _show_left(report, terminal)
    carriers = "the carrier" if len(report.parts) == 1 and not second else "the carriers"
    terminal.say()
    terminal.say(f"Everything is written to {carriers} and flushed. Eject the drive with the system, then unplug it.")


def show_routine(report: RoutineReport, terminal: Terminal) -> None:
    """The crate of today, and which earlier ones are kept."""
    show(report.packed, terminal)
    if report.packed.shared:
        terminal.say(
            f"{count(report.packed.shared, 'file')} unchanged: hard links to the crate before, which take no room."
        )
    terminal.say(f"{count(len(report.kept), 'crate')} kept here: {', '.join(report.kept)}.")
    if report.thinned:
        terminal.say(f"{count(len(report.thinned), 'crate')} removed by --keep: {', '.join(report.thinned)}.")


def _show_left(report: PackReport, terminal: Terminal) -> None:
    """What was left on the old computer, what changed meanwhile, and last what could not be carried."""
    from ..crate import readable_size

    for each in report.left_out:
        size = readable_size(each.size_bytes)
        terminal.say(f"{count(each.files, 'file')} left on the old computer, {size}: {each.why}.")
    if report.factory_left:
        terminal.say(f"{count(report.factory_left, 'factory file')} left out: they come with the programs' installers.")
    if report.outside_left:
        files = count(report.outside_left, "file")
        terminal.say(f"{files} outside the programs' folders left out; --outside carries them.")
    if report.access_lists:
        folders = count(report.access_lists, "folder has", "folders have")
        terminal.say(f"{folders} an access list of its own (who may do what): these are left; set them anew if needed.")
    if report.groups_lack:
        terminal.say(
            f"{count(len(report.groups_lack), 'entry', 'entries')} of the chosen groups have no file to carry:"
        )
        show_list(terminal, report.groups_lack)
    if report.changed_since_survey:
        changed = count(len(report.changed_since_survey), "file")
        terminal.say(f"{changed} changed after the survey; the present state was carried:")
        show_list(terminal, report.changed_since_survey)
    if report.left:
        terminal.heading(f"{count(len(report.left), 'file')} could not be carried:")
        show_list(terminal, (f"{each.path}: {each.why}" for each in report.left), shown=20)
