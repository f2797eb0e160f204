"""A crate that builds on an earlier one: what is unchanged since then stays there, and what is gone is listed."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from typing import Any

from ..errors import ZestyError
from ..machines import Disk, DiskError
from ..machines.texts import restored, stored
from ..survey import SurveyStore
from .contents import find_contents
from .crate import Crate, open_finished
from .scope import Scope

_SCHEMA = """
CREATE TEMP TABLE earlier_file (key PRIMARY KEY, file INTEGER, holding TEXT, path, size INTEGER, modified_ns INTEGER,
                                payload TEXT, sha512 TEXT, bag INTEGER);
CREATE TEMP TABLE earlier_entry (holding TEXT, key TEXT, recorded, size INTEGER, notes, PRIMARY KEY (holding, key));
CREATE TEMP TABLE notes (holding TEXT, key TEXT, notes, PRIMARY KEY (holding, key));
"""
# What a person gave to an entry, as one text: tags, ratings, markers.
_NOTES = """
SELECT holding, entry, group_concat(note, char(31)) AS notes FROM (
    SELECT holding, entry, name || char(30) || coalesce(value, '') AS note FROM annotation ORDER BY 1, 2, 3)
GROUP BY holding, entry
"""
_DOCUMENTS_CHANGED = """
SELECT count(*) FROM document AS d JOIN file AS f ON f.path = d.path AND f.holding = d.holding
WHERE NOT d.registry AND f.id NOT IN (SELECT file FROM unchanged) AND f.id NOT IN (SELECT file FROM left_out)
"""
_CARRIED = """
SELECT f.key, f.id, f.holding, f.path, c.size, c.modified_ns, c.payload, c.sha512, c.bag
FROM carried AS c JOIN file AS f ON f.id = c.file
"""
_SAME_FILES = """
CREATE TEMP TABLE IF NOT EXISTS same_file (key PRIMARY KEY, size INTEGER, modified_ns INTEGER, payload TEXT,
                                           sha512 TEXT);
DELETE FROM same_file;
"""
# A file of the same size and the same date is taken for unchanged: to read them all would take as long as to copy them.
_UNCHANGED = """
INSERT INTO unchanged SELECT id FROM file WHERE kind = 'file' AND {} AND EXISTS (
    SELECT 1 FROM earlier_file AS e WHERE e.key = file.key AND e.size = file.size AND e.modified_ns = file.modified_ns)
"""
_TAKE_OVER = """
INSERT INTO carried SELECT f.id, e.payload, e.sha512, f.size, f.modified_ns, e.bag
FROM unchanged AS u JOIN file AS f ON f.id = u.file JOIN earlier_file AS e ON e.key = f.key
"""
_CUT = """
SELECT u.file, e.file FROM unchanged AS u JOIN file AS f ON f.id = u.file JOIN earlier_file AS e USING (key)
WHERE e.bag = 0
"""
_SEGMENTS = "SELECT first, payload, sha512, size, modified_ns, bag FROM segment WHERE file = ?"
_GONE = """
INSERT INTO gone SELECT e.holding, e.path, e.key FROM earlier_file AS e
WHERE e.key NOT IN (SELECT key FROM file WHERE kind = 'file') ORDER BY e.path
"""
_ENTRIES = {
    "new": "SELECT count(*) FROM entry AS n WHERE NOT EXISTS (SELECT 1 FROM earlier_entry AS e WHERE {same})",
    "changed": """SELECT count(*) FROM entry AS n JOIN earlier_entry AS e ON {same}
                  LEFT JOIN temp.notes AS o ON o.holding = n.holding AND o.key = n.key
                  WHERE e.recorded <> n.recorded OR e.size IS NOT n.size OR e.notes IS NOT o.notes""",
    "gone": "SELECT count(*) FROM earlier_entry AS e WHERE NOT EXISTS (SELECT 1 FROM entry AS n WHERE {same})",
}
_SAME = "e.holding = n.holding AND e.key = n.key"


@dataclass(frozen=True, slots=True)
class Since:
    """What a crate that builds on an earlier one leaves there, and what has gone. Sizes in bytes."""

    name: str
    unchanged: int
    unchanged_bytes: int
    gone: tuple[str, ...]
    entries_new: int
    entries_changed: int
    entries_gone: int
    documents_changed: int


def note_unchanged(survey: SurveyStore, scope: Scope, since: Crate | None, disk: Disk) -> None:
    """A crate builds on one other, or on none, from its beginning."""
    known = survey.about("since")
    if since is None or (known is not None and known["name"] == since.name):
        return
    if known is not None or survey.count("SELECT count(*) FROM carried"):
        begun = f"since {known['name']}" if known is not None else "without --since"
        raise ZestyError(
            f"This crate was begun {begun}, and not since {since.name}.",
            next_step="Run zesty pack with the same options as before, or create a new crate.",
        )
    with disk.one_change(survey.database):
        build_on(survey, scope, since, disk)


def build_on(survey: SurveyStore, scope: Scope, earlier: Crate, disk: Disk) -> None:
    """Write down what an earlier crate holds already, as it does still.

    Raises `ZestyError` when it is not whole, does not know all of its parts, or is of another computer.
    """
    open_finished(earlier.root, disk)
    with closing(earlier.open_survey(disk)) as before:
        for name in ("computer", "user"):
            if before.about(name) != survey.about(name):
                raise ZestyError(
                    f"{earlier.root} is of the {name} {before.about(name)}, and this crate of {survey.about(name)}.",
                    next_step="Name an earlier crate of the same computer with --since.",
                )
        find_contents(earlier, before, disk)  # refuses records that do not know all parts
        _take_over(survey, scope, before)
    series = earlier.about(disk)["series"]
    survey.set_about("since", {"name": earlier.name, "series": series, "entries": _compare_entries(survey)})
    survey.database.execute("DROP TABLE earlier_file; DROP TABLE earlier_entry; DROP TABLE temp.notes")


def note_same_files(survey: SurveyStore, earlier: Crate | None, target: Crate, disk: Disk) -> None:
    """Write down, while this survey is open, where an earlier crate holds a file as it is still."""
    database = survey.database
    database.execute(_SAME_FILES)
    if earlier is None or survey.about("links-failed") or not _can_link(earlier, target, disk):
        return
    with closing(earlier.open_survey(disk)) as before:
        rows = before.database.execute(
            f"SELECT key, size, modified_ns, payload, sha512 FROM ({_CARRIED}) WHERE bag = 1"
        )
        database.executemany("INSERT OR IGNORE INTO same_file VALUES (?, ?, ?, ?, ?)", rows)


def _can_link(earlier: Crate, target: Crate, disk: Disk) -> bool:
    """Whether the carrier can give one file a second name."""
    trial = target.own / "link.part"
    disk.remove(trial)
    try:
        disk.link(earlier.about_path, trial)
    except DiskError:
        return False
    disk.remove(trial)
    return True


def since_of(survey: SurveyStore) -> Since | None:
    """What a crate builds on; None when it is complete without others."""
    about = survey.about("since")
    if about is None:
        return None
    unchanged = "FROM unchanged AS u JOIN file AS f ON f.id = u.file"
    gone = survey.database.execute("SELECT path FROM gone ORDER BY path")
    return Since(
        about["name"],
        survey.count(f"SELECT count(*) {unchanged}"),
        survey.count(f"SELECT sum(f.size) {unchanged}"),
        tuple(restored(path) for (path,) in gone),
        entries_new=about["entries"]["new"],
        entries_changed=about["entries"]["changed"],
        entries_gone=about["entries"]["gone"],
        documents_changed=survey.count(_DOCUMENTS_CHANGED),
    )


def _take_over(survey: SurveyStore, scope: Scope, before: SurveyStore) -> None:
    database = survey.database
    database.execute(_SCHEMA)
    numbers = _take_over_bags(survey, before)
    rows = ((*row[:-1], numbers.get(row[-1], 0)) for row in before.database.execute(_CARRIED))
    database.executemany("INSERT OR IGNORE INTO earlier_file VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)", rows)
    database.executemany("INSERT OR IGNORE INTO earlier_entry VALUES (?, ?, ?, ?, ?)", _entries(survey, before))
    survey.database.execute(f"INSERT INTO temp.notes {_NOTES}")
    database.execute(_UNCHANGED.format(scope.condition))
    database.execute(_TAKE_OVER)
    database.executemany("INSERT INTO segment VALUES (?, ?, ?, ?, ?, ?, ?)", _segments(survey, before, numbers))
    database.execute(_GONE)


def _entries(survey: SurveyStore, before: SurveyStore) -> Iterator[tuple[Any, ...]]:
    """The earlier entries, by the keys that they have now: a document's number may be another in each survey."""
    now = {(each.holding, each.path): each.prefix for each in survey.documents("1")}
    prefixes = {
        (each.holding, each.prefix): now.get((each.holding, each.path), f"gone {each.prefix}")
        for each in before.documents("1")
        if each.prefix
    }
    notes = f"LEFT JOIN ({_NOTES}) AS o ON o.holding = e.holding AND o.entry = e.key"
    for holding, key, *rest in before.database.execute(
        f"SELECT e.holding, e.key, e.recorded, e.size, o.notes FROM entry AS e {notes}"
    ):
        prefix, _, own = key.partition(":")
        known = prefixes.get((holding, f"{prefix}:"))
        yield (holding, key if known is None else known + own, *rest)


def _take_over_bags(survey: SurveyStore, before: SurveyStore) -> dict[int, int]:
    """The bags of the earlier crate, and those that it builds on, under numbers below zero."""
    numbers: dict[int, int] = {}
    rows = before.database.execute("SELECT number, series, part, name, root FROM bag ORDER BY number < 0, abs(number)")
    for number, series, part, name, root in rows:
        numbers[number] = -1 - len(numbers)
        row = (numbers[number], series, part, name, stored(restored(root)))
        survey.database.execute("INSERT INTO bag VALUES (?, ?, ?, ?, ?, 1, 1)", row)
    return numbers


def _segments(survey: SurveyStore, before: SurveyStore, numbers: dict[int, int]) -> Iterator[tuple[Any, ...]]:
    for file, old in list(survey.database.execute(_CUT)):
        for *row, bag in before.database.execute(_SEGMENTS, (old,)):
            yield (file, *row, numbers[bag])


def _compare_entries(survey: SurveyStore) -> dict[str, int]:
    return {name: survey.count(query.format(same=_SAME)) for name, query in _ENTRIES.items()}
