"""Steps that follow from what was found on the old computer."""

from __future__ import annotations

from collections.abc import Iterator

from ..crate import Crate, Wanted
from ..machines import Disk
from ..survey import SurveyReport

_SOURCE = "survey"


def steps_of_survey(report: SurveyReport, crate: Crate, disk: Disk) -> Iterator[Wanted]:
    """What to do about volumes, links, seats, device settings, and uninstalling."""
    yield from _volumes(report, crate, disk)
    yield from _links(report)
    yield from _device_settings(report, crate, disk)
    yield from _seats(report)
    yield from _uninstalling(report)


def _volumes(report: SurveyReport, crate: Crate, disk: Disk) -> Iterator[Wanted]:
    """What was not plugged in, and catalogs point to; once the crate is full, it can only be brought later."""
    when = "after-unpack" if crate.is_finished(disk) else "before-pack"
    for volume in report.unplugged:
        entries = sum(each.recorded.upper().startswith(volume.anchor.upper()) for each in report.problems)
        if entries:
            named = f"{volume.anchor} {volume.label}".strip()
            do = f"Find the volume {named}, which was not plugged in. Catalog entries that point to it: {entries}."
            yield Wanted(when, "volume", do, _SOURCE)


def _links(report: SurveyReport) -> Iterator[Wanted]:
    for each in report.links:
        do = f"Make the link {each.at} again, or do without it: it leads to {each.leads_to}, which was not carried."
        yield Wanted("after-unpack", "link", do, _SOURCE)


def _device_settings(report: SurveyReport, crate: Crate, disk: Disk) -> Iterator[Wanted]:
    """Settings that are tied to the machine; where a guide says what to do about its program, it has said it better."""
    guides = {guide.id: guide for guide in crate.guides(disk)}
    told = {each.guide for each in report.by_hand if each.when == "after-unpack"}
    for each in report.holdings:
        part = next((p for p in guides[each.guide].part.holding if f"{each.guide}/{p.id}" == each.id), None)
        if each.present and part is not None and part.machine_bound and each.guide not in told:
            do = f"Look through the devices that {guides[each.guide].title} uses ({part.title or part.id}): "
            yield Wanted("after-unpack", each.guide, do + "they differ on every computer.", _SOURCE)


def _seats(report: SurveyReport) -> Iterator[Wanted]:
    """Licence seats, of programs whose guide has no step for giving them back."""
    told = {each.guide for each in report.by_hand if each.when == "before-retire"}
    for each in report.programs:
        if each.seats and each.guide not in told:
            do = f"Give back the seat of {each.title} on {report.computer}: its licence has {each.seats} in all."
            yield Wanted("before-retire", each.guide, do, _SOURCE, gates=True)


def _uninstalling(report: SurveyReport) -> Iterator[Wanted]:
    titles = sorted(each.title for each in report.programs)
    if titles:
        do = (
            f"Should anything be uninstalled on {report.computer} ({', '.join(titles)}), leave the boxes off "
            "that would remove its settings and content."
        )
        yield Wanted("before-retire", "uninstall", do, _SOURCE)
