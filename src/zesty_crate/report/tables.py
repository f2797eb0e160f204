"""All that a technician may want to look up, as tables: in the page, and as CSV (RFC 4180, UTF-8 with a mark)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import chain
from pathlib import Path
from typing import overload

from ..errors import ZestyError
from ..machines import Disk, make_folders
from ..spreadsheets import write_rows
from ..survey import Problem
from .gather import Gathered, JournalledStep

Row = tuple[str | int, ...]


@dataclass(frozen=True, slots=True)
class Table:
    """A table; numbers stay numbers, so that they can be sorted and summed."""

    name: str
    title: str
    columns: tuple[str, ...]
    rows: Sequence[Row]


class _ProblemRows(Sequence[Row]):
    """Entries that are not simply found, made into rows as they are asked for: there may be a million."""

    def __init__(self, problems: Sequence[Problem]) -> None:
        self._problems = problems

    def __len__(self) -> int:
        return len(self._problems)

    def __iter__(self) -> Iterator[Row]:
        return map(_row_of, self._problems)

    @overload
    def __getitem__(self, at: int) -> Row: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[Row]: ...
    def __getitem__(self, at: int | slice) -> Row | Sequence[Row]:
        found = self._problems[at]
        return _row_of(found) if isinstance(found, Problem) else [_row_of(each) for each in found]


def _row_of(problem: Problem) -> Row:
    return problem.state.value, problem.holding, problem.recorded, problem.why, _yes(problem.chosen)


def tables_of(gathered: Gathered) -> list[Table]:
    """Every table, in the order in which a technician asks."""
    return [*_of_check(gathered), *_of_plan(gathered), *_of_records(gathered)]


def write_csv(gathered: Gathered, folder: Path, disk: Disk) -> list[Path]:
    """Write each table as a file into ``folder``. Raises `ZestyError` when one of them is there already."""
    make_folders(disk, folder)
    targets = [(table, folder / f"{table.name}.csv") for table in tables_of(gathered)]
    taken = [str(path) for _, path in targets if disk.facts(path) is not None]
    if taken:
        raise ZestyError(f"{taken[0]} already exists and is not overwritten.", next_step="Name an empty folder.")
    for table, path in targets:
        with disk.new_text(path) as stream:
            write_rows(stream, chain([table.columns], table.rows))
    return [path for _, path in targets]


def _of_check(gathered: Gathered) -> Iterator[Table]:
    report = gathered.check.report
    yield _sides(gathered, "holdings", "Files of holdings", {"files": "files", "size_bytes": "bytes"})
    counted = {"entries": "entries", "groups": "groups", "annotations": "annotations"}
    yield _sides(gathered, "catalogs", "What catalogs hold", counted)
    documents = (
        (d.verdict.words, d.relinked.words if d.relinked else "", d.title, d.at, d.unread, "\n".join(d.said))
        for d in report.documents
    )
    title = "Documents, and how far they were read and relinked"
    heads = ("read", "relinked", "document", "at", "records not read", "why")
    yield Table("documents", title, heads, tuple(documents))
    title, asked = "Entries and files that are not simply found", ("state", "holding", "recorded", "why", "chosen")
    yield Table("problems", title, asked, _ProblemRows(report.problems))
    searched = report.searched.residue if report.searched else ()
    residue = ((r.kind.words, r.holding, r.at, r.field, r.mentions, r.example) for r in searched)
    title = "Still naming places of the old computer; told and not changed"
    yield Table("residue", title, ("in", "holding", "at", "field", "times", "example"), tuple(residue))
    surplus = ((s.holding, s.why.value, s.files, s.size_bytes, "\n".join(s.paths)) for s in report.surplus)
    yield Table("surplus", "More than was carried", ("holding", "why", "files", "bytes", "paths"), tuple(surplus))
    organised = ((o.title, o.at, _yes(o.is_equal), "\n".join(o.differences), o.now) for o in report.organisation)
    columns = ("catalog", "at", "equal", "differences", "SHA-256")
    yield Table("organisation", "Organisation of catalogs, by digest", columns, tuple(organised))
    unlike = tuple((at,) for at in (report.attributes.lacking if report.attributes else ()))
    yield Table(
        "attributes",
        "Tags, labels (extended attributes) and dates of creation that differ from what was carried",
        ("file or folder",),
        unlike,
    )
    unknown = ((u.holding, u.at, _yes(u.before)) for u in report.unknown_media)
    yield Table("unknown-media", "Media that no catalog knows", ("holding", "at", "before"), tuple(unknown))
    lacking = [(each.holding, each.at, "a registration") for each in report.unregistered]
    lacking += [(each.holding, each.at, "its content") for each in report.without_content]
    title = "Registrations and content that lack each other"
    yield Table("registrations", title, ("holding", "at", "lacks"), tuple(lacking))
    spot_checks = ((m.verdict, m.holding, m.at, _yes(m.named), m.said) for m in report.spot_checks)
    columns = ("verdict", "holding", "at", "named", "found")
    yield Table("spot-checks", "Spot checks, opened and decoded", columns, tuple(spot_checks))


def _sides(gathered: Gathered, name: str, title: str, figures: dict[str, str]) -> Table:
    """Some figures of every holding, those of its three sides beside each other."""
    columns = tuple(f"{word} {side}" for word in figures.values() for side in ("before", "carried", "now"))
    rows = (
        (h.title, h.kind, h.at, *(getattr(side, figure) for figure in figures for side in (h.old, h.carried, h.new)))
        for h in gathered.check.report.holdings
    )
    shown = tuple(row for row in rows if any(row[3:]))
    return Table(name, title, ("holding", "kind", "at", *columns), shown)


def _of_plan(gathered: Gathered) -> Iterator[Table]:
    plan = gathered.plan
    routes = ((str(each.old), str(each.new), each.why) for each in (*plan.routes, *plan.renames))
    yield Table("routes", "Routes", ("old", "new", "why"), tuple(routes))
    settled = (
        (str(c.old), str(c.new), c.outcome.value if c.outcome else "", str(c.beside or "")) for c in plan.conflicts
    )
    title = "Decisions where something else was in the place"
    yield Table("decisions", title, ("old", "new", "outcome", "beside"), tuple(settled))


def _of_records(gathered: Gathered) -> Iterator[Table]:
    programs = ((p.title, p.version, p.versions, p.seats or "") for p in gathered.survey.programs)
    columns = ("program", "version on the old computer", "rule", "seats")
    yield Table("programs", "Programs", columns, tuple(programs))
    heads = ("folder", "only right in it", "files", "bytes", "left, since", "could not be looked into")
    uncovered = (
        (u.at, _yes(u.is_split), u.files, u.size_bytes, u.left or ("" if u.is_open else "little"), u.fault)
        for u in gathered.survey.uncovered
    )
    yield Table("uncovered", "On the old computer and in no holding", heads, tuple(uncovered))
    steps = ((s.id, s.when, s.who, s.do, s.done, s.note) for s in gathered.steps)
    yield Table("steps", "Manual steps", ("id", "when", "who", "what", "done", "note"), tuple(steps))
    done = ((j.name, j.begun, j.ended, j.undone, _changes(j)) for j in gathered.journal)
    about = ("step", "begun", "ended", "undone", "changes")
    yield Table("journal", "What was done to the new computer", about, tuple(done))
    yield Table("checksums", "Checksums of the crate", ("file", "SHA-512"), gathered.digests)


def _changes(step: JournalledStep) -> str:
    return ", ".join(f"{number:,} {kind}" for kind, number in step.changes.items())


def _yes(holds: bool) -> str:
    return "yes" if holds else "no"
