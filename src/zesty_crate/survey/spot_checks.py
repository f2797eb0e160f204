"""Spot checks: items that are looked at again, by name, when everything is in its new place."""

from __future__ import annotations

import difflib
from collections.abc import Sequence
from pathlib import Path

from ..machines import Computer, Finder, Sight
from ..machines.texts import restored, stored
from ..media import Opened, open_within
from ..paths import PathError
from ..progress import Progress, Tell
from .store import SurveyStore

OPEN_WITHIN_S = 20.0
_PICKS = 3
_SMALL = 10  # of fewer than this, one is enough
_MOST_COMPARED = 50_000
_FILES = "FROM file WHERE kind = 'file' AND role = 'own' AND fault = ''"


def pick_spot_checks(store: SurveyStore) -> None:
    """A fair pick of each holding: from its beginning, its middle and its end, whatever that holds.

    Of a catalog, entries that find their media; of anything else, files.
    """
    for holding in [row[0] for row in store.database.execute("SELECT id FROM holding WHERE present")]:
        for key, path in _spread(store, "key, path FROM entry WHERE +holding = ? AND state = 'found'", holding):
            store.add_spot_check(holding, key, path, named=False)
        if store.count("SELECT count(*) FROM document WHERE holding = ?", (holding,)):
            continue
        for key, path in _spread(store, f"'', path {_FILES} AND holding = ?", holding):
            store.add_spot_check(holding, key, path, named=False)


def name_spot_checks(store: SurveyStore, names: Sequence[str]) -> list[str]:
    """Note the items that a person named, by their name, with or without its ending, in any case; those not found."""
    unknown = []
    for name in names:
        wanted = name.casefold()
        found = [row for row in _named_items(store) if wanted in _names_of(row)]
        for holding, key, _, path in found:
            store.add_spot_check(holding, key, path, named=True)
        if not found:
            known = {text: None for row in _named_items(store)[:_MOST_COMPARED] for text in _names_of(row)}
            near = difflib.get_close_matches(wanted, known, n=1)
            unknown.append(f'"{name}"' + (f' (did you mean "{near[0]}"?)' if near else ""))
    return unknown


def open_spot_checks(store: SurveyStore, computer: Computer, finder: Finder, tell: Tell) -> None:
    """Open every spot check where it is now, so that it is known in the end what it was like in the beginning."""
    rows = list(store.database.execute("SELECT rowid, holding, entry, path FROM spot_check"))
    for number, (row, holding, entry, path) in enumerate(rows, start=1):
        real = file_to_open(first_file_of(store, holding, entry) or restored(path), computer, finder)
        if real is not None:
            _set_opened(store, row, open_within(real, OPEN_WITHIN_S))
        tell(Progress("opening spot checks", number, len(rows)))


def first_file_of(store: SurveyStore, holding: str, entry: str) -> str:
    """The path of the first file of an entry that represents several; empty when it has none."""
    query = """SELECT f.path FROM belongs AS b JOIN file AS f ON f.key = b.key WHERE b.holding = ? AND b.entry = ?
               AND f.kind = 'file' ORDER BY b.rowid LIMIT 1"""
    found = store.database.execute(query, (holding, entry)).get
    return restored(found) if found is not None else ""


def _set_opened(store: SurveyStore, row: int, opened: Opened) -> None:
    size = opened.dimensions or (None, None)
    said = (opened.what, stored(opened.fault), opened.slow, opened.duration_s, *size, row)
    store.database.execute(
        "UPDATE spot_check SET what = ?, fault = ?, slow = ?, duration_s = ?, width = ?, height = ? WHERE rowid = ?",
        said,
    )


def file_to_open(path: str, computer: Computer, finder: Finder) -> Path | None:
    """Where the file of a spot check is from here; None when it is none, or not here."""
    try:
        seen = finder.find(computer.parse(path))
    except PathError:
        return None  # what is streamed has no path
    return seen.real if seen.facts is not None and seen.facts.is_file else None


def why_not_seen(path: str, computer: Computer, finder: Finder) -> str:
    """Why it is not known whether the file of a spot check is there; empty where it is known."""
    try:
        seen = finder.find(computer.parse(path))
    except PathError:
        return ""
    if seen.sight is Sight.UNPLUGGED:
        return f"the volume {computer.anchor_of(seen.path)} is not connected"
    return f"it cannot be accessed: {seen.why}" if seen.sight is Sight.DENIED else ""


def _spread(store: SurveyStore, source: str, holding: str) -> list[tuple[str, str]]:
    """Rows of a key and a path, spread over all that there are, without going through them all."""
    query = f"SELECT rowid, {source} AND rowid >= ? ORDER BY rowid"
    enough = store.count(f"SELECT count(*) FROM (SELECT {source} LIMIT {_SMALL})", (holding,)) == _SMALL
    first = store.database.execute(f"{query} LIMIT 1", (holding, 0)).get
    last = store.database.execute(f"{query} DESC LIMIT 1", (holding, 0)).get
    if first is None or last is None:
        return []
    picks, found, after = _PICKS if enough else 1, [], first[0]
    for number in range(picks):
        at = max(after, first[0] + (2 * number + 1) * (last[0] - first[0]) // (2 * picks))
        for row, key, path in store.database.execute(f"{query} LIMIT 1", (holding, at)):
            found.append((key, restored(path)))
            after = row + 1
    return found


def _named_items(store: SurveyStore) -> list[tuple[str, str, str, str]]:
    """Entries with their names, and files that no entry mentions: holding, key, name, path."""
    entries = store.database.execute("SELECT holding, key, name, coalesce(nullif(path, ''), recorded) FROM entry")
    files = store.database.execute(f"SELECT holding, '', '', path {_FILES} AND key NOT IN (SELECT path_key FROM entry)")
    return [(h, key, restored(name), restored(path)) for rows in (entries, files) for h, key, name, path in rows]


def _names_of(row: tuple[str, str, str, str]) -> tuple[str, ...]:
    last = row[3].replace("\\", "/").rpartition("/")[2].casefold()
    stem = last.rpartition(".")[0]
    return tuple(text for text in (row[2].casefold(), last, stem) if text)
