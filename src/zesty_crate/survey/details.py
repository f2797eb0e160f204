"""One holding of a survey in full."""

from __future__ import annotations

import difflib
from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import ZestyError
from ..machines.texts import restored
from .model import HoldingReport, Problem, SpotCheck, SurveyReport
from .problems import Problems
from .store import SurveyStore

_ENDINGS = """
SELECT path, size FROM file WHERE holding = ? AND kind = 'file' AND role IN ('own', 'cache')
"""


@dataclass(frozen=True, slots=True)
class FileKind:
    """The files of one ending, in small letters, with its dot. Sizes in bytes."""

    ending: str
    files: int
    size_bytes: int


@dataclass(frozen=True, slots=True)
class GroupLine:
    """A group, and how deep it is in others."""

    name: str
    depth: int
    members: int


@dataclass(frozen=True, slots=True)
class HoldingDetails:
    """All that a survey knows of one holding. ``annotations`` are names of values, with how many entries have one."""

    report: HoldingReport
    file_kinds: tuple[FileKind, ...]
    documents: tuple[str, ...]
    annotations: tuple[tuple[str, int], ...]
    groups: tuple[GroupLine, ...]
    spot_checks: tuple[SpotCheck, ...]
    problems: Sequence[Problem]


def details_of(store: SurveyStore, report: SurveyReport, holding: str) -> HoldingDetails:
    """The details of the holding with this id. Raises `ZestyError` when there is none."""
    known = {each.id: each for each in report.holdings}
    if holding not in known:
        near = difflib.get_close_matches(holding, known, n=1)
        guides = dict.fromkeys(each.guide for each in report.holdings)
        near = near or difflib.get_close_matches(holding, guides, n=1)
        hint = f'Did you mean "{near[0]}"?' if near else f"The programs are {', '.join(guides)}."
        raise ZestyError(f"This survey has no program or holding {holding!r}.", next_step=hint)
    database = store.database
    annotations = database.execute("SELECT name, count(*) FROM annotation WHERE holding = ? GROUP BY name", (holding,))
    documents = database.execute("SELECT path FROM document WHERE holding = ? ORDER BY id", (holding,))
    return HoldingDetails(
        report=known[holding],
        file_kinds=_file_kinds(store, holding),
        documents=tuple(restored(row[0]) for row in documents),
        annotations=tuple((name, number) for name, number in annotations),
        groups=_groups(store, holding),
        spot_checks=tuple(each for each in report.spot_checks if each.holding == holding),
        problems=Problems(each for each in report.problems if each.holding == holding),
    )


def _file_kinds(store: SurveyStore, holding: str) -> tuple[FileKind, ...]:
    counts: dict[str, tuple[int, int]] = {}
    for path, size in store.database.execute(_ENDINGS, (holding,)):
        name = restored(path).replace("\\", "/").rpartition("/")[2]
        stem, dot, ending = name.rpartition(".")
        kind = (dot + ending).lower() if stem else ""
        files, total = counts.get(kind, (0, 0))
        counts[kind] = files + 1, total + size
    return tuple(FileKind(kind, *counts[kind]) for kind in sorted(counts, key=lambda kind: (-counts[kind][1], kind)))


def _groups(store: SurveyStore, holding: str) -> tuple[GroupLine, ...]:
    """The groups, each below the one that it is in; those in a circle are told at the top."""
    query = """SELECT g.key, g.name, g.parent, (SELECT count(*) FROM member AS m
               WHERE m.holding = g.holding AND m.grp = g.key) FROM grp AS g WHERE g.holding = ? ORDER BY g.rowid"""
    rows = list(store.database.execute(query, (holding,)))
    inside: dict[str, list[tuple[str, str, int]]] = {}
    keys = {row[0] for row in rows}
    for key, name, parent, members in rows:
        inside.setdefault(parent if parent in keys else "", []).append((key, restored(name), members))
    lines: list[GroupLine] = []
    told: set[str] = set()

    def tell(parent: str, depth: int) -> None:
        pending = [(*each, depth) for each in reversed(inside.get(parent, []))]
        while pending:
            key, name, members, depth = pending.pop()
            if key not in told:
                told.add(key)
                lines.append(GroupLine(name, depth, members))
                pending += [(*each, depth + 1) for each in reversed(inside.get(key, []))]

    tell("", 0)
    for key, _, parent, _ in rows:
        if key not in told:
            tell(parent, 0)
    return tuple(lines)
