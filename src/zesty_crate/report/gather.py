"""Everything that a report tells, gathered from the crate and the move's own records. Nothing is looked at anew."""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass

from ..check import CheckRecord, CheckReport, last_check
from ..crate import Step
from ..errors import ZestyError
from ..journal import Journal, Stage
from ..machines import Finder
from ..paths import RouteMap
from ..plan import Move, Placements, PlanFile, load_plan, read_plan
from ..survey import SurveyReport, file_to_open, summarize
from ..todo import list_steps

_TAGS, _PAYLOAD = "tagmanifest-sha512.txt", "manifest-sha512.txt"


@dataclass(frozen=True, slots=True)
class JournalledStep:
    """One command's changes to the new computer, by kind. Times as in ISO 8601."""

    name: str
    begun: str
    ended: str
    undone: str
    changes: dict[str, int]


@dataclass(frozen=True, slots=True)
class FileKinds:
    """The carried files of one ending. Sizes in bytes."""

    ending: str
    files: int
    size_bytes: int


@dataclass(frozen=True, slots=True)
class Thumbnail:
    """A picture of the customer's, opened on the new computer and made small: its name, and a PNG."""

    name: str
    png: bytes


@dataclass(frozen=True, slots=True)
class Gathered:
    """What a report is made from."""

    made: str
    software: str
    crate: str
    surveyed: str
    packed: str
    digests: tuple[tuple[str, str], ...]
    survey: SurveyReport
    new_computer: str
    new_system: str
    plan: PlanFile
    check: CheckRecord
    steps: tuple[Step, ...]
    journal: tuple[JournalledStep, ...]
    kinds: tuple[FileKinds, ...]
    flows: tuple[tuple[str, str, int], ...]  # routes as from, to, and how many carried files go by each
    thumbnails: tuple[Thumbnail, ...]


def gather(move: Move) -> Gathered:
    """Gather it. Raises `ZestyError` when the move was not checked yet: there is nothing to report then."""
    check = last_check(move)
    if check is None:
        raise ZestyError(
            f"The move to {move.new.name} was not checked yet, so there is nothing to report.",
            next_step=f'Run zesty check "{move.crate.root}" --to SHEET first.',
        )
    disk, about = move.outside.disk, move.crate.about(move.outside.disk)
    plan = read_plan(load_plan(move.plan_path, disk), move.plan_title, move.old, move.new)
    return Gathered(
        made=move.outside.clock.now().isoformat(),
        software=str(about["software"]),
        crate=move.crate.name,
        surveyed=str(about["surveyed"]),
        packed=str(about["packed"]),
        digests=tuple((name, disk.digest(move.crate.root / name).sha512) for name in (_TAGS, _PAYLOAD)),
        survey=summarize(move.survey),
        new_computer=move.new.name,
        new_system=move.new.system.value,
        plan=plan,
        check=check,
        steps=list_steps(move.crate, move.survey, move.outside, move).steps,
        journal=tuple(_journalled(move)),
        kinds=tuple(_kinds(move)),
        flows=tuple(_flows(move, plan)),
        thumbnails=tuple(_thumbnails(move, check.report)),
    )


def _journalled(move: Move) -> list[JournalledStep]:
    journal = Journal.open_existing(move.journal_path, move.outside)
    if journal is None:
        return []
    with closing(journal):
        return [
            JournalledStep(
                step.name, step.begun, step.ended, step.undone,
                dict(Counter(action.kind.value for action in journal.actions(step, Stage.DONE, Stage.UNDONE))),
            )
            for step in journal.steps()
        ]  # fmt: skip


def _kinds(move: Move) -> list[FileKinds]:
    """The carried files by their endings, the largest sum first."""
    sums: dict[str, tuple[int, int]] = {}
    for carried in move.survey.carried():
        stem, dot, ending = carried.payload.rpartition("/")[2].rpartition(".")
        kind = (dot + ending).lower() if stem and len(ending) <= _LONGEST_ENDING else "no ending"
        files, size = sums.get(kind, (0, 0))
        sums[kind] = files + 1, size + carried.file.facts.size_bytes
    return sorted((FileKinds(kind, *sums[kind]) for kind in sums), key=lambda each: -each.size_bytes)


def _flows(move: Move, plan: PlanFile) -> list[tuple[str, str, int]]:
    routes = RouteMap(plan.routes, move.old.rules_for)
    counts = Counter(each.route for each in Placements(move.survey, move.old, routes).files() if each.route is not None)
    return [(str(route.old), str(route.new), files) for route, files in counts.items()]


def _thumbnails(move: Move, report: CheckReport) -> Iterator[Thumbnail]:
    """A few of the pictures that are landmarks, those that a person named first."""
    from PIL import Image

    finder = Finder(move.new, move.outside.disk)
    pictures = [each for each in report.landmarks if each.is_good and each.opened.dimensions]
    for each in sorted(pictures, key=lambda mark: not mark.named)[:_MOST_THUMBNAILS]:
        real = file_to_open(each.at, move.new, finder)
        if real is None:
            continue
        stream = io.BytesIO()
        try:
            with Image.open(real) as picture:
                picture.thumbnail((_THUMBNAIL_PIXELS, _THUMBNAIL_PIXELS))
                picture.convert("RGBA").save(stream, "PNG")
        except (OSError, ValueError):
            continue  # it was opened a moment ago, and the report goes on without it
        yield Thumbnail(real.stem, stream.getvalue())


_LONGEST_ENDING = 12
_MOST_THUMBNAILS, _THUMBNAIL_PIXELS = 6, 200
