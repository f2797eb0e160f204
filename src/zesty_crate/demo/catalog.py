"""The catalog of the made-up program: SQLite, with recorded paths split over three tables."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path

import apsw

from .content import DESKTOP, HOUSE, LISTS, STICK, STORE, Sound
from .sound import frames_of

_BASES = {
    HOUSE: "C:\\Users\\Odile\\Music\\Wimblethorn Sounds\\",
    STORE: "E:\\Lanternfold\\Sound Store\\",
    DESKTOP: "C:\\Users\\Odile\\Desktop\\",
    STICK: "F:\\Festival Stick\\",
}
# The program sorts titles by a rule of its own, keeps a diary by trigger, and forbids two records of one file.
_SCHEMA = """
PRAGMA user_version = 32;
CREATE TABLE drawer (drawer_id INTEGER PRIMARY KEY, base TEXT NOT NULL);
CREATE TABLE tray (tray_id INTEGER PRIMARY KEY, rel TEXT NOT NULL);
CREATE TABLE sound (
    sound_id INTEGER PRIMARY KEY, title TEXT NOT NULL COLLATE SHELF_ORDER,
    drawer_id INTEGER REFERENCES drawer, tray_id INTEGER REFERENCES tray, leaf TEXT NOT NULL,
    bytes INTEGER, origin TEXT NOT NULL, stars INTEGER, note TEXT);
CREATE UNIQUE INDEX one_record_a_file ON sound (drawer_id, tray_id, leaf);
CREATE TABLE list (list_id INTEGER PRIMARY KEY, title TEXT NOT NULL, parent_id INTEGER REFERENCES list);
CREATE TABLE list_item (list_id INTEGER NOT NULL, place INTEGER NOT NULL, sound_id INTEGER NOT NULL,
                        PRIMARY KEY (list_id, place)) WITHOUT ROWID;
CREATE TABLE diary (line TEXT);
CREATE TRIGGER note_move AFTER UPDATE OF base ON drawer
    BEGIN INSERT INTO diary VALUES ('moved a drawer from ' || old.base || ' to ' || new.base); END;
CREATE TRIGGER note_name AFTER UPDATE OF leaf ON sound
    BEGIN UPDATE sound SET stars = NULL WHERE sound_id = new.sound_id; END;
CREATE VIEW favourites AS SELECT title FROM sound WHERE stars = 5;
"""


@contextmanager
def new_shelf(path: Path) -> Iterator[apsw.Connection]:
    """A new catalog without records, to be filled."""
    with closing(apsw.Connection(str(path))) as database:
        database.create_collation(
            "SHELF_ORDER", lambda one, other: (one.lower() > other.lower()) - (one.lower() < other.lower())
        )
        database.pragma("journal_mode", "off")
        database.execute("BEGIN;" + _SCHEMA)
        yield database
        database.execute("INSERT INTO diary VALUES ('begun in the year of the Paper Geese')")
        database.execute("COMMIT")


def write_catalog(path: Path, rows: Sequence[Sound]) -> None:
    """Write the demo catalog with these records into the new file ``path``."""
    with new_shelf(path) as database:
        trays = _trays(rows)
        database.executemany("INSERT INTO drawer VALUES (?, ?)", enumerate(_BASES.values(), start=1))
        database.executemany("INSERT INTO tray VALUES (?, ?)", ((number, rel) for rel, number in trays.items()))
        database.executemany(
            "INSERT INTO sound VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (_record(number, sound, trays) for number, sound in enumerate(rows, start=1)),
        )
        if rows:  # the program's first start makes a catalog without lists
            _add_lists(database, rows)


def _trays(rows: Sequence[Sound]) -> dict[str, int]:
    return {rel: number for number, rel in enumerate(dict.fromkeys(row.tray for row in rows), start=1)}


def _record(number: int, sound: Sound, trays: dict[str, int]) -> tuple[object, ...]:
    here = bool(sound.drawer)
    drawer = list(_BASES).index(sound.drawer) + 1 if here else None
    size = _size(number - 1) if sound.on_disk and sound.drawer != DESKTOP else None
    tray = trays[sound.tray] if here else None
    title = sound.leaf.removesuffix(".wav")
    return (number, title, drawer, tray, sound.leaf, size, sound.origin, sound.stars, sound.note)


def _size(number: int) -> int:
    """The size in bytes of the tone that is written for this sound: a header of 44 bytes, 2 bytes a frame."""
    return 44 + 2 * frames_of(number)


def _add_lists(database: apsw.Connection, rows: Sequence[Sound]) -> None:
    numbers = {sound.on_disk.removesuffix(".wav"): number for number, sound in enumerate(rows, start=1)}
    titles = [title for title, _, _ in LISTS]
    for number, (title, parent, members) in enumerate(LISTS, start=1):
        outer = titles.index(parent) + 1 if parent else None
        database.execute("INSERT INTO list VALUES (?, ?, ?)", (number, title, outer))
        items = [(number, place, numbers[name]) for place, name in enumerate(members, start=1) if name in numbers]
        database.executemany("INSERT INTO list_item VALUES (?, ?, ?)", items)
