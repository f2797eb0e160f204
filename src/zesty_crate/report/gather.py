"""Everything that a report tells, gathered from the crate and the move's own records. Nothing is looked at anew."""

from __future__ import annotations

import io
import re
from collections import Counter
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..check import CheckRecord, CheckReport, last_change, last_check
from ..crate import Step
from ..errors import ZestyError
from ..journal import Journal, Stage
from ..machines import Finder
from ..machines.moments import to_the_second
from ..machines.places import USUAL_PLACES
from ..machines.texts import restored
from ..paths import RouteMap
from ..plan import Move, Placements, PlanFile, load_plan, read_plan
from ..survey import Document, SurveyReport, SurveyStore, file_to_open, summarize
from ..systems.reached import reached
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
class Flow:
    """Carried files of one folder and where they went; ``is_hidden`` where only programs look into that folder."""

    old: str
    new: str
    files: int
    is_hidden: bool


@dataclass(frozen=True, slots=True)
class FileKinds:
    """The carried files of one ending. Sizes in bytes."""

    ending: str
    files: int
    size_bytes: int


@dataclass(frozen=True, slots=True)
class Thumbnail:
    """A picture of the customer, opened on the new computer and made small: its caption, and a PNG."""

    name: str
    png: bytes


@dataclass(frozen=True, slots=True)
class GroupList:
    """The groups of one catalog or program: each with its depth, its name, and the number of its entries."""

    title: str
    groups: tuple[tuple[int, str, int], ...]


@dataclass(frozen=True, slots=True)
class Gathered:
    """What a report is made from. ``outdated`` says what the move did after the check; empty when it did nothing."""

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
    flows: tuple[Flow, ...]
    groups: tuple[GroupList, ...]
    documents: dict[str, tuple[str, ...]]  # names of the documents of each holding
    thumbnails: tuple[Thumbnail, ...]
    outdated: str


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
        groups=tuple(_groups(move)),
        documents=_documents(move),
        thumbnails=tuple(_thumbnails(move, check.report)),
        outdated=_outdated(move, check),
    )


def _outdated(move: Move, check: CheckRecord) -> str:
    """Why the last check no longer tells how things are."""
    journal = Journal.open_existing(move.journal_path, move.outside)
    if journal is None:
        return ""
    with closing(journal):
        undone = max((step.undone for step in journal.steps() if step.name == "unpack"), default="")
        if undone and not journal.standing("unpack"):
            return f"This move was undone on {undone[:10]}. The page tells how things were before that."
        if last_change(journal) != check.last_change:
            return "The move changed files after this check. The page tells how things were before that."
    return ""


def _journalled(move: Move) -> list[JournalledStep]:
    journal = Journal.open_existing(move.journal_path, move.outside)
    if journal is None:
        return []
    with closing(journal):
        return [
            JournalledStep(
                step.name,
                to_the_second(step.begun),
                to_the_second(step.ended),
                to_the_second(step.undone),
                journal.kinds(step, Stage.DONE, Stage.UNDONE),
            )
            for step in journal.steps()
        ]


def _kinds(move: Move) -> list[FileKinds]:
    """The carried files by their endings, the largest sum first."""
    sums: dict[str, tuple[int, int]] = {}
    for carried in move.survey.carried():
        stem, dot, ending = carried.payload.rpartition("/")[2].rpartition(".")
        kind = (dot + ending).lower() if stem and len(ending) <= _LONGEST_ENDING else "no ending"
        files, size = sums.get(kind, (0, 0))
        sums[kind] = files + 1, size + carried.file.facts.size_bytes
    return sorted((FileKinds(kind, *sums[kind]) for kind in sums), key=lambda each: -each.size_bytes)


def _flows(move: Move, plan: PlanFile) -> list[Flow]:
    routes = RouteMap(plan.routes, move.old.rules_for)
    counts = Counter(each.route for each in Placements(move.survey, move.old, routes).files() if each.route is not None)
    hidden = [
        f"{move.old.key(move.old.place(name))}/" for name in _HIDDEN_PLACES if name in USUAL_PLACES[move.old.system]
    ]
    return [
        Flow(
            str(route.old),
            str(route.new),
            files,
            is_hidden=any(f"{move.old.key(route.old)}/".startswith(each) for each in hidden),
        )
        for route, files in counts.items()
    ]


def _groups(move: Move) -> Iterator[GroupList]:
    """Albums, playlists and other lists by name, as the survey found them, nested ones below theirs."""
    for holding in (row for row in move.survey.holdings() if row.present):
        documents = [each for each in move.survey.documents() if each.holding == holding.id]
        listed: list[tuple[int, str, int]] = []
        for document in documents:
            groups = list(_groups_of(move.survey, document))
            is_whole = [name for _, name, _ in groups] == [move.old.parse(document.path).name]
            if groups and len(documents) > 1 and not is_whole:
                listed.append((0, move.old.parse(document.path).name, 0))
                groups = [(depth + 1, name, members) for depth, name, members in groups]
            listed += groups
        if listed:
            yield GroupList(holding.title, tuple(listed))


def _groups_of(survey: SurveyStore, document: Document) -> Iterator[tuple[int, str, int]]:
    bindings = (document.holding, len(document.prefix), document.prefix)
    rows = [
        (key, restored(name), parent, size) for key, name, parent, size in survey.database.execute(_GROUPS, bindings)
    ]
    known = {key for key, *_ in rows}
    inside: dict[str, list[tuple[str, str, int]]] = {}
    for key, name, parent, size in rows:
        inside.setdefault(parent if parent in known else "", []).append((key, name, size))
    yield from _nested(inside, "", 0)


def _nested(inside: dict[str, list[tuple[str, str, int]]], parent: str, depth: int) -> Iterator[tuple[int, str, int]]:
    for key, name, members in inside.get(parent, ()) if depth < _DEEPEST_GROUP else ():
        yield depth, name, members
        yield from _nested(inside, key, depth + 1)


def _documents(move: Move) -> dict[str, tuple[str, ...]]:
    names: dict[str, list[str]] = {}
    for document in move.survey.documents():
        names.setdefault(document.holding, []).append(move.old.parse(document.path).name)
    return {holding: tuple(found) for holding, found in names.items()}


def _thumbnails(move: Move, report: CheckReport) -> Iterator[Thumbnail]:
    """A few of the pictures among the spot checks, each once, those that a person named first."""
    from PIL import Image

    finder = Finder(move.new, move.outside.disk)
    pictures = [each for each in report.spot_checks if each.is_good and each.opened.dimensions]
    shown: set[bytes] = set()
    for each in sorted(pictures, key=lambda mark: not mark.named):
        if len(shown) == _MOST_THUMBNAILS:
            return
        real = file_to_open(each.at, move.new, finder)
        if real is None:
            continue
        stream = io.BytesIO()
        try:
            with Image.open(reached(real)) as picture:
                picture.thumbnail((_THUMBNAIL_PIXELS, _THUMBNAIL_PIXELS))
                picture.convert("RGBA").save(stream, "PNG")
        except (OSError, ValueError):
            continue  # it was opened a moment ago, and the report continues without it
        png = stream.getvalue()
        if png not in shown:  # a light copy looks the same as its original
            shown.add(png)
            yield Thumbnail(_caption(real), png)


def _caption(picture: Path) -> str:
    """The picture's own name; a frame of a sequence, which has a number for a name, is named by its folder."""
    return picture.stem if re.search("[^\\W\\d_]{2}", picture.stem) else f"{picture.parent.name}, {picture.stem}"


_HIDDEN_PLACES = ("app-data", "app-data-local", "shared-data", "config", "preferences")
_GROUPS = """
SELECT g.key, g.name, g.parent, (SELECT count(*) FROM member AS m WHERE m.holding = g.holding AND m.grp = g.key)
FROM grp AS g WHERE g.holding = ? AND substr(g.key, 1, ?) = ? ORDER BY g.rowid
"""
_DEEPEST_GROUP = 20
_LONGEST_ENDING = 12
_MOST_THUMBNAILS, _THUMBNAIL_PIXELS = 6, 200
