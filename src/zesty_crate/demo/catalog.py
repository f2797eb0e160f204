"""The catalog of the made-up program: SQLite, with its folders as a tree, and its volumes by their names."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path

import apsw

from .content import DESKTOP, HOUSE, LISTS, STICK, STORE, Sound
from .sound import frames_of

_PLACES = {  # as the program writes them: the name of a volume, and the folders from there
    HOUSE: ("System", "Users", "Odile", "Music", "Wimblethorn Sounds"),
    STORE: ("Spools", "Lanternfold", "Sound Store"),
    DESKTOP: ("System", "Users", "Odile", "Desktop"),
    STICK: ("Festival", "Festival Stick"),
}
# The program sorts titles by a rule of its own, keeps a diary by trigger, and forbids two records of one file.
_SCHEMA = """
PRAGMA user_version = 32;
CREATE TABLE shelf (shelf_id INTEGER PRIMARY KEY, within INTEGER REFERENCES shelf, label TEXT NOT NULL);
CREATE TABLE sound (
    sound_id INTEGER PRIMARY KEY, title TEXT NOT NULL COLLATE SHELF_ORDER,
    shelf_id INTEGER REFERENCES shelf, file TEXT NOT NULL,
    bytes INTEGER, origin TEXT NOT NULL, stars INTEGER, note TEXT);
CREATE UNIQUE INDEX one_record_a_file ON sound (shelf_id, file);
CREATE TABLE list (list_id INTEGER PRIMARY KEY, title TEXT NOT NULL, parent_id INTEGER REFERENCES list);
CREATE TABLE list_item (list_id INTEGER NOT NULL, place INTEGER NOT NULL, sound_id INTEGER NOT NULL,
                        PRIMARY KEY (list_id, place)) WITHOUT ROWID;
CREATE TABLE diary (line TEXT);
CREATE TRIGGER note_move AFTER UPDATE OF label ON shelf
    BEGIN INSERT INTO diary VALUES ('renamed a shelf from ' || old.label || ' to ' || new.label); END;
CREATE TRIGGER note_name AFTER UPDATE OF file ON sound
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


class Shelves:
    """The folders of a catalog, each in a row within that of the folder around it; added as they are asked for."""

    def __init__(self, database: apsw.Connection) -> None:
        self._database = database
        self._numbers: dict[tuple[str, ...], int] = {}

    def number_of(self, folders: tuple[str, ...]) -> int | None:
        """The row of a folder, by the name of its volume and the folders from there; None for none."""
        if not folders:
            return None
        if folders not in self._numbers:
            row = (self.number_of(folders[:-1]), folders[-1])
            self._database.execute("INSERT INTO shelf (within, label) VALUES (?, ?)", row)
            self._numbers[folders] = self._database.last_insert_rowid()
        return self._numbers[folders]


def write_catalog(path: Path, rows: Sequence[Sound]) -> None:
    """Write the demo catalog with these records into the new file ``path``."""
    with new_shelf(path) as database:
        shelves = Shelves(database)
        for number, sound in enumerate(rows, start=1):
            database.execute("INSERT INTO sound VALUES (?, ?, ?, ?, ?, ?, ?, ?)", _record(number, sound, shelves))
        if rows:  # the program's first start makes a catalog without lists
            _add_lists(database, rows)


def _record(number: int, sound: Sound, shelves: Shelves) -> tuple[object, ...]:
    folders = (*_PLACES[sound.place], *filter(None, sound.folder.split("\\"))) if sound.place else ()
    size = _size(number - 1) if sound.on_disk and sound.place != DESKTOP else None
    title = sound.file.removesuffix(".wav")
    return (number, title, shelves.number_of(folders), sound.file, size, sound.origin, sound.stars, sound.note)


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
