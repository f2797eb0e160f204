"""A survey as a first screen, and one holding of it in full."""

from __future__ import annotations

import re
from itertools import groupby
from typing import TYPE_CHECKING

from .coverage_screen import show_coverage
from .documents_screen import show_documents
from .wording import count, day, entries, show_list, show_not_looked_at, show_problems, states

if TYPE_CHECKING:
    from collections.abc import Iterable

    from ..survey import HoldingDetails, HoldingReport, ProgramReport, SurveyReport, VolumeReport
    from ..survey.lookalikes import Lookalike
    from .terminal import Terminal


def show_survey(report: SurveyReport, terminal: Terminal, sheet: str) -> None:
    """What there is, what is not carried, and last what needs attention."""
    terminal.heading(f"{report.computer}: {report.system}, user {report.user}, taken {day(report.taken)}")
    for volume in report.volumes:
        terminal.say(f"  {_volume(volume)}")
    terminal.say(f"{_carried_sum(report)}; {entries(report.totals['entries'])}: {states(report.totals)}")
    terminal.say()
    _show_programs(report, terminal)
    _show_section(terminal, "Not carried", _left(report))
    _show_section(terminal, "Looked for and not found", _not_found(report))
    show_not_looked_at(terminal, report.not_looked_at, {each.id: each.title for each in report.holdings})
    _show_section(terminal, "Notes", _worth_knowing(report))
    _show_section(terminal, "Content without a registration", [each.at for each in report.unregistered])
    _show_section(
        terminal, "Links that lead out of a holding", [f"{each.at} leads to {each.leads_to}" for each in report.links]
    )
    show_problems(terminal, "Not simply found, before the move", report.problems)
    show_documents(terminal, report.unsettled, len(report.documents))
    show_coverage(report, terminal, sheet)
    _show_section(terminal, "Disks that seem to be others", [_lookalike(each) for each in report.lookalikes])
    for warning in report.warnings:
        terminal.say()
        terminal.say(f"Warning: {warning}")


def _lookalike(each: Lookalike) -> str:
    of = "their files" if each.looked_up == each.entries else f"the files of {each.looked_up:,} that were looked up"
    return (
        f"{entries(each.entries)} {'is' if each.entries == 1 else 'are'} on {each.volume}, where "
        f"{'their files are not' if each.is_here else 'nothing is connected'}; the disk taken for {each.other} has "
        f"{each.found:,} of {of}. If that disk is {each.volume}, say so in the sheet, and take the survey again."
    )


def show_details(details: HoldingDetails, terminal: Terminal) -> None:
    """One holding in full."""
    holding = details.report
    terminal.heading(f"{holding.title} ({holding.id})")
    terminal.say(f"  {_kind(holding)}, {'anywhere: ' if holding.swept else 'at '}{holding.at}")
    if not holding.present:
        terminal.say(f"  Not looked at: {holding.not_looked_at}" if holding.not_looked_at else "  Not present.")
        return
    terminal.say(f"  {count(holding.files, 'file')}, {_size(holding.size_bytes)}")
    for kind in details.file_kinds:
        terminal.say(f"    {kind.ending or 'without an ending'}: {count(kind.files, 'file')}, {_size(kind.size_bytes)}")
    if holding.factory_files:
        terminal.say(f"  {count(holding.factory_files, 'factory file')}, {_size(holding.factory_bytes)}")
    _show_section(terminal, "Catalogs", details.documents)
    if holding.totals["entries"]:
        terminal.say()
        terminal.say(f"{entries(holding.totals['entries'])}: {states(holding.totals)}")
    lines = [f"{_plain(name)}: {count(number, 'entry', 'entries')}" for name, number in details.annotations]
    _show_section(terminal, f"Annotations: {count(holding.annotations, 'value')}", lines)
    groups = [f"{'  ' * group.depth}{group.name}: {count(group.members, 'member')}" for group in details.groups]
    _show_section(terminal, count(holding.groups, "group"), groups)
    _show_section(terminal, "Spot checks at the end", [each.at for each in details.spot_checks])
    show_problems(terminal, "Not simply found", details.problems)


def _show_programs(report: SurveyReport, terminal: Terminal) -> None:
    """One row for each program or format; --details shows its holdings."""
    programs = {program.guide: program for program in report.programs}
    rows = []
    for guide, group in groupby((h for h in report.holdings if h.present), key=lambda holding: holding.guide):
        holdings = list(group)
        title = _program(programs[guide]) if guide in programs else holdings[0].title.split(": ")[0]
        totals = summed_rows(holdings)
        rows.append([guide, title, f"{len(holdings):,}", *totals])
    columns = ["id", "program or format", "holdings", "files", "size", "entries", "found"]
    terminal.table(columns, rows, numbers=5)


def show_holdings(holdings: list[HoldingReport], terminal: Terminal) -> None:
    """The holdings of one program."""
    terminal.heading(holdings[0].title.split(": ")[0])
    rows = [[each.id, _kind(each), "" if each.present else "not present", *summed_rows([each])] for each in holdings]
    terminal.table(["id", "kind", "", "files", "size", "entries", "found"], rows, numbers=4)


def summed_rows(holdings: list[HoldingReport]) -> list[str]:
    """Files, size, entries and found ones as cells, empty where there is nothing to count."""
    files, size = sum(each.files for each in holdings), sum(each.size_bytes for each in holdings)
    entries, found = (sum(each.totals[name] for each in holdings) for name in ("entries", "found"))
    counted = [f"{files:,}", _size(size)] if files else ["", ""]
    return [*counted, *([f"{entries:,}", f"{found:,}"] if entries else ["", ""])]


def _kind(holding: HoldingReport) -> str:
    return f"{holding.kind}, {holding.media_class}" if holding.media_class else holding.kind


def _program(program: ProgramReport) -> str:
    words = [program.title if not program.version else f"{program.title} {program.version}"]
    if program.running is not None:
        words.append("running now" if program.running else "closed")
    if program.started is False:
        words.append("never started")
    return ", ".join(words)


def _volume(volume: VolumeReport) -> str:
    words = [f"{volume.anchor} {volume.label}".rstrip(), *([volume.format] if volume.format else [])]
    if not volume.here:
        return ", ".join([*words, "not connected"])
    if volume.travels:
        words.append("travels to the new computer")
    if volume.size_bytes is not None:
        words.append(_size(volume.size_bytes))
    if volume.free_bytes is not None:
        words.append(f"{_size(volume.free_bytes)} free")
    return ", ".join(words)


def _carried_sum(report: SurveyReport) -> str:
    carried = [holding for holding in report.holdings if holding.present and not holding.is_left]
    files, size = sum(each.files for each in carried), sum(each.size_bytes for each in carried)
    return f"{count(files, 'file')} in {count(len(carried), 'holding')}, {_size(size)}"


def _left(report: SurveyReport) -> list[str]:
    left = [each for each in report.holdings if each.is_left and each.present]
    factory = [each for each in report.holdings if each.factory_files]
    outside = [each for each in report.holdings if each.outside_files]
    lines = []
    if left:
        files, size = sum(each.files for each in left), sum(each.size_bytes for each in left)
        what = f"{count(files, 'file')} that programs create again, {_size(size)}"
        lines.append(f"{what}: {_titles(left)}")
    if factory:
        files, size = sum(each.factory_files for each in factory), sum(each.factory_bytes for each in factory)
        lines.append(f"{count(files, 'factory file')} that come with installers, {_size(size)}: {_titles(factory)}")
    if outside:
        files, size = sum(each.outside_files for each in outside), sum(each.outside_bytes for each in outside)
        lines.append(
            f"{count(files, 'file')} outside the programs' folders, {_size(size)} (pack --outside carries them)"
        )
    lines += [
        f"{count(each.unreadable, 'file or folder', 'files and folders')} of {each.title} that cannot be read"
        for each in report.holdings
        if each.unreadable
    ]
    if any(each.kind == "registrations" and each.present and not each.files for each in report.holdings):
        lines.append("the registry, except for the branches that guides name; these are carried as exports")
    return lines


def _titles(holdings: list[HoldingReport]) -> str:
    return "; ".join(each.title for each in holdings)


def _plain(selector: str) -> str:
    """What a person calls a value: the last word of its selector."""
    words: list[str] = re.findall(r"[\w.-]+", selector)
    return words[-1] if words else selector


def _not_found(report: SurveyReport) -> list[str]:
    absent = [holding for holding in report.holdings if not holding.present and not holding.not_looked_at]
    lines = [f"{holding.title}: {holding.at}" for holding in absent if not holding.swept]
    swept = dict.fromkeys(holding.title.split(": ")[0] for holding in absent if holding.swept)
    where = "anywhere that could be looked into" if report.not_looked_at else "anywhere"
    return lines + ([f"{where}: {', '.join(swept)}"] if swept else [])


def _worth_knowing(report: SurveyReport) -> list[str]:
    lines = []
    has_classes = any(each.present and each.media_class for each in report.holdings)
    for class_ in ("proxy", "original"):
        light = [each for each in report.holdings if each.present and _media_class(each) == class_]
        if light and has_classes:
            files, size, *_ = summed_rows(light)
            lines.append(f"media of class {class_}: {files} files, {size}")
    if report.duplicates:
        spare = sum(each.size_bytes * (len(each.paths) - 1) for each in report.duplicates)
        sets = count(len(report.duplicates), "file")
        lines.append(f"{sets} present more than once ({_size(spare)} in extra copies), for example")
        lines += [f"  {path}" for path in report.duplicates[0].paths[:3]]
    if report.hard_links:
        links = count(report.hard_links, "of these is only another name", "of these are only other names")
        lines.append(f"{links} of the same file (hard links); they stay so where the new volume can")
    in_use = [(each, "" if each.seats_used is None else f", {each.seats_used} in use") for each in report.programs]
    seats = [f"{each.title} {each.seats}{used}" for each, used in in_use if each.seats]
    if seats:
        lines.append(f"license seats: {'; '.join(seats)}")
    if report.manual_steps:
        lines.append(f"{count(len(report.manual_steps), 'manual step')}; zesty todo lists them")
    if report.spot_checks:
        named = [each.at for each in report.spot_checks if each.named]
        lines.append(f"{count(len(report.spot_checks), 'spot check')} to open again at the end; --details shows which")
        lines += [f"  named: {at}" for at in named]
    return lines


def _media_class(holding: HoldingReport) -> str:
    """Media without a class of its own counts as original."""
    return holding.media_class or ("original" if holding.kind == "media" else "")


def _show_section(terminal: Terminal, title: str, lines: Iterable[str]) -> None:
    listed = list(lines)
    if listed:
        terminal.say()
        terminal.heading(title)
        show_list(terminal, listed, shown=12, indent="  ")


def _size(size_bytes: int) -> str:
    from ..crate import readable_size

    return readable_size(size_bytes)
