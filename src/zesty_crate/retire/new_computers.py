"""The computers that a crate was unpacked on: each must pass a check, and is looked at again where it is here."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import NamedTuple

from ..check import CheckRecord, CheckReport, check, last_change, read_record
from ..crate import Crate
from ..documents import parse_document
from ..errors import ZestyError
from ..journal import Journal
from ..machines import Finder, Host, Outside, Sheet, SheetPart, computer_of
from ..plan import open_move
from ..progress import Tell
from .evidence import Evidence, holds, is_open

_AGAIN = "Run zesty check CRATE --to SHEET, and clear what it reports."


class NewComputer(NamedTuple):
    """A computer on which a crate is unpacked: its last check, and what the last change there is known by."""

    name: str
    record: CheckRecord | None
    last_change: str


def new_computers(crate: Crate, outside: Outside) -> Iterator[NewComputer]:
    """The computers on which a crate is unpacked; folders only to look at things in are none."""
    disk, folder = outside.disk, crate.root / "moves"
    for name in disk.names(folder) if disk.facts(folder) is not None else ():
        journal = Journal.open_existing(folder / name / "journal.db", outside)
        if journal is None or disk.facts(folder / name / "plan.toml") is None:
            continue
        with closing(journal):
            if journal.standing("unpack"):
                yield NewComputer(name, read_record(folder / name, disk), last_change(journal))


def checks(crate: Crate, computers: list[NewComputer], outside: Outside, tell: Tell) -> Iterator[Evidence]:
    """One condition for each computer."""
    if not computers:
        found = "this crate was not unpacked on any computer"
        yield is_open("the new computer", found, "Unpack it, relink, and check.")
    for each in computers:
        about = f"the check on {each.name}"
        if each.record is None:
            yield is_open(about, "there was none", _AGAIN)
        elif each.record.last_change != each.last_change:
            yield is_open(about, f"it was made {_moment(each.record.checked)}, before the last change", _AGAIN)
        elif not each.record.passed:
            yield is_open(about, f"{_moment(each.record.checked)}: {', '.join(each.record.report.attention)}", _AGAIN)
        else:
            yield _looked_at_again(about, crate, each.record, outside, tell)


def _looked_at_again(about: str, crate: Crate, record: CheckRecord, outside: Outside, tell: Tell) -> Evidence:
    """A check that passed, made once more where the computer is here."""
    now, passed = outside.clock.now(), f"passed {_moment(record.checked)}"
    sheet = _sheet_of(record, outside)
    if sheet is None:
        if record.checked[:10] != now.isoformat()[:10]:
            step = "Run zesty check there again, today."
            return is_open(about, f"it {passed}, and this computer is not here to look at again", step)
        return holds(about, f"{passed}, after the last change: {_found(record.report)}; not looked at again")
    try:
        move = open_move(crate, sheet, outside)
        try:
            report = check(move, tell, keep=False)
        finally:
            move.survey.close()
    except ZestyError as error:
        return is_open(about, f"it {passed}, and cannot be made again: {error.message}", error.next_step or _AGAIN)
    if report.attention:
        return is_open(about, f"it {passed}, and it finds now: {', '.join(report.attention)}", _AGAIN)
    return holds(about, f"{passed}, and again now: {_found(report)}")


def _found(report: CheckReport) -> str:
    totals = report.totals
    others = [f"{number:,} {state}" for state, number in totals.items() if number and state not in ("found", "entries")]
    found = f"{totals['found']:,} of {totals['entries']:,} entries found"
    found += f", the others as before the move or by choice ({', '.join(others)})" if others else ""
    if report.content is None:
        return found
    compared = f"size and date of {report.content.carried:,} files compared, and the content of {report.content.read:,}"
    return f"{found}; {compared}"


def _sheet_of(record: CheckRecord, outside: Outside) -> Sheet | None:
    """The sheet that a check was made by, where that computer's files are here."""
    part = parse_document(record.sheet, SheetPart, "The sheet of the last check")
    sheet = Sheet(part, record.sheet, Path(record.sheet_folder), record.is_here)
    if record.is_here and not _is_this_machine(part):
        return None
    computer = computer_of(sheet)
    home = Finder(computer, outside.disk).find(computer.place("home"))
    return sheet if home.facts is not None else None


def _is_this_machine(part: SheetPart) -> bool:
    host, machine = Host(), part.computer.machine
    return host.machine() == machine if machine else host.name() == part.computer.name


def _moment(text: str) -> str:
    """A date and time to the minute."""
    return text[:16].replace("T", " ")
