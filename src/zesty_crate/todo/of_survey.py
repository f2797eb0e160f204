"""Steps that follow from what was found on the old computer."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby

from ..crate import Crate, RequestedStep, seats_of
from ..machines import Disk
from ..survey import State, SurveyReport

_SOURCE = "survey"
_SHOWN = 4


def steps_of_survey(report: SurveyReport, crate: Crate, disk: Disk) -> Iterator[RequestedStep]:
    """What to do about documents, volumes, links, seats, device settings, and uninstalling."""
    yield from _documents(report)
    yield from _pointers(report)
    yield from _volumes(report, crate, disk)
    yield from _links(report)
    yield from _device_settings(report, crate, disk)
    yield from _seats(report)
    yield from _uninstalling(report)
    yield from _uncovered(report)


def _uncovered(report: SurveyReport) -> Iterator[RequestedStep]:
    """Folders that no holding covers: a person has to look before the computer is wiped."""
    files = sum(each.files for each in report.to_decide)
    if report.to_decide:
        named = ", ".join(each.at for each in report.to_decide[:_SHOWN])
        more = f", and {len(report.to_decide) - _SHOWN} more" if len(report.to_decide) > _SHOWN else ""
        do = (
            f"Decide about what no holding covers on {report.computer}, which was not carried: files: {files:,}; "
            f"folders: {named}{more}. zesty survey CRATE --details coverage lists all."
        )
        yield RequestedStep("before-retire", "coverage", do, _SOURCE, gates=True)


def _documents(report: SurveyReport) -> Iterator[RequestedStep]:
    """Documents that were not simply read, those of one holding with one verdict in one step."""
    titles = {each.id: each.title for each in report.holdings}
    of = sorted(report.unsettled, key=lambda each: (each.holding, each.verdict))
    for (holding, verdict), group in groupby(of, key=lambda each: (each.holding, each.verdict)):
        alike = list(group)
        more = f" and {len(alike) - 1} more" if len(alike) > 1 else ""
        do = f"{titles[holding]}: {verdict.words}: {alike[0].at}{more}. {' '.join(alike[0].said)}"
        yield RequestedStep("after-check", holding.partition("/")[0], do, _SOURCE)


def _pointers(report: SurveyReport) -> Iterator[RequestedStep]:
    """Bookmarks and the like, which hold where a file was, and nobody but their program can read."""
    for each in report.holdings:
        entries = sum(document.pointers for document in report.documents if document.holding == each.id)
        if entries:
            do = (
                f"{each.title}: open some entries in the program. {entries:,} of them have a pointer to the old file "
                "that only the program can make. If it does not find the new files, choose them there again."
            )
            yield RequestedStep("after-check", each.guide, do, _SOURCE)


def _volumes(report: SurveyReport, crate: Crate, disk: Disk) -> Iterator[RequestedStep]:
    """What was not plugged in, and catalogs point to; once the crate is full, it can only be brought later."""
    when = "after-unpack" if crate.is_finished(disk) else "before-pack"
    for volume in report.unplugged:
        lost = (each for each in report.problems if each.state is State.UNPLUGGED)
        entries = sum(f" {volume.anchor} " in each.why for each in lost)  # a path may begin with the name of a volume
        if entries:
            named = f"{volume.anchor} {volume.label}".strip()
            do = f"Find the volume {named}, which was not connected. Catalog entries on it: {entries}."
            yield RequestedStep(when, "volume", do, _SOURCE, who="customer")


def _links(report: SurveyReport) -> Iterator[RequestedStep]:
    for each in (link for link in report.links if not link.carried):
        do = f"Create the link {each.at} again if it is needed: it leads to {each.leads_to}, which was not carried."
        yield RequestedStep("after-unpack", "link", do, _SOURCE)


def _device_settings(report: SurveyReport, crate: Crate, disk: Disk) -> Iterator[RequestedStep]:
    """Settings that are tied to the machine; where a guide says what to do about its program, it has said it better."""
    guides = {guide.id: guide for guide in crate.guides(disk)}
    told = {each.guide for each in report.manual_steps if each.when == "after-unpack"}
    for each in report.holdings:
        part = next((p for p in guides[each.guide].part.holding if f"{each.guide}/{p.id}" == each.id), None)
        if each.present and part is not None and part.machine_bound and each.guide not in told:
            do = f"Set the devices that {guides[each.guide].title} uses ({part.title or part.id}): "
            yield RequestedStep("after-unpack", each.guide, do + "they differ on every computer.", _SOURCE)


def _seats(report: SurveyReport) -> Iterator[RequestedStep]:
    """License seats, of programs whose guide has no step for giving them back."""
    told = {each.guide for each in report.manual_steps if each.when == "before-retire"}
    for each in report.programs:
        if each.seats and each.guide not in told:
            seats = seats_of(each.seats, each.seats_used)
            do = f"Give back the seat of {each.title} on {report.computer}: its license has {seats}."
            yield RequestedStep("before-retire", each.guide, do, _SOURCE, gates=True)


def _uninstalling(report: SurveyReport) -> Iterator[RequestedStep]:
    titles = sorted(each.title for each in report.programs)
    if titles:
        do = (
            f"If you uninstall anything on {report.computer} ({', '.join(titles)}), clear the options "
            "that remove its settings and content."
        )
        yield RequestedStep("before-retire", "uninstall", do, _SOURCE)
