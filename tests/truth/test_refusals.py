"""One catalog that cannot be relinked stops no other: it stays as it is, with its reason, and is tried again alone."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import HEAD, SOUNDS, SQLITE, Trip, document

LISTS = """
[[holding]]
id = "lists"
kind = "catalog"
at = "{documents}/*.list"
syntax = "lines"
[[holding.entries]]
each = "sound=(?P<path>.*)"
path = [{ at = "path" }]
spelling = "native"
"""
LISTS_ALONE = '[guide]\nid = "lists"\ntitle = "Lists"\nlanguage = 1\n' + LISTS
ESCAPED = "C:\\\\Users\\\\Odile\\\\Music\\\\Lamps\\\\0.wav"


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    (trip.home / "Documents").mkdir()
    (trip.home / "Documents/evening.list").write_text(f"sound={SOUNDS}0.wav\n")
    return trip


def relinked(trip: Trip) -> dict[str, tuple[str, str]]:
    """What relinking came to, by the name of the document: the outcome and why."""
    said = document(trip.check("--json"))["documents"]
    return {each["at"].rpartition("\\")[2]: (each["relinked"], each["why"]) for each in said}


def test_a_refused_catalog_stays_and_the_others_are_relinked(trip: Trip) -> None:
    trip.guide(SQLITE + LISTS)
    trip.database(trip.sounds(3), table="sound (id INTEGER PRIMARY KEY, path CHECK (path LIKE 'C:%'))")
    for step in (trip.survey, trip.pack, trip.plan, trip.unpack):
        assert step().returncode == 0
    before = trip.new_database.read_bytes()
    relink = trip.relink()
    assert relink.returncode == 1, relink.stderr
    assert "CHECK constraint failed" in relink.stdout
    assert "/Library/Application Support/Lamps/scenes.db" in relink.stdout
    assert ".part" not in relink.stdout
    assert trip.new_database.read_bytes() == before
    assert not list(trip.new_database.parent.glob(".zesty*"))
    assert "/Users/odile/Music" in (trip.new_home / "Documents/evening.list").read_text()
    again = document(trip.relink("--json"))
    assert [(each["already"], bool(each["refused"])) for each in again["catalogs"]] == [(False, True), (True, False)]
    check = trip.check()
    assert (check.returncode, "All well" in check.stdout) == (1, False)
    assert relinked(trip)["scenes.db"][0] == "not-relinked"
    assert relinked(trip)["evening.list"][0] == "proven"
    assert "not relinked" in trip.run("todo", trip.crate, "--to", trip.new).stdout


def test_only_names_what_to_relink(trip: Trip) -> None:
    trip.guide(SQLITE + LISTS)
    trip.database(trip.sounds(3))
    for step in (trip.survey, trip.pack, trip.plan, trip.unpack):
        assert step().returncode == 0
    assert trip.relink("--only", "lamps/lists").returncode == 0
    assert trip.new_paths()[0] == f"{SOUNDS}0.wav"
    assert "/Users/odile/" in (trip.new_home / "Documents/evening.list").read_text()
    assert relinked(trip)["scenes.db"][0] == "not-relinked"
    unknown = trip.relink("--only", "lamps/list")
    assert (unknown.returncode, "lamps/lists" in unknown.stderr) == (3, True)
    assert trip.relink().returncode == 0
    assert trip.check().returncode == 0


def test_a_running_program_holds_back_its_own_catalogs_alone(trip: Trip) -> None:
    trip.guide(SQLITE)
    trip.guide(LISTS_ALONE, "lists")
    trip.database(trip.sounds(3))
    for step in (trip.survey, trip.pack, trip.plan, trip.unpack):
        assert step().returncode == 0
    trip.new.write_text(trip.new.read_text() + "[programs.lamps]\nrunning = true\n")
    assert trip.relink("--only", "lamps").returncode == 3  # nothing is left to do then
    refused = trip.relink()
    assert refused.returncode == 1
    assert "Lamps is running on shed" in refused.stdout
    assert "/Users/odile/" in (trip.new_home / "Documents/evening.list").read_text()
    assert relinked(trip)["scenes.db"][0] == "not-relinked"


@pytest.mark.parametrize(
    ("guide", "name", "content"),
    [
        (
            """at = "{app-data}/Lamps/scenes.ini"
syntax = "ini"
[[holding.entries]]
each = ".*"
values = '[A-Z]:\\\\.*'
path = [{ at = "value" }]
spelling = "native"
""",
            "scenes.ini",
            f"[sounds]\nfirst={SOUNDS}0.wav\nsecond={SOUNDS}1.wav\n",
        ),
        (
            """at = "{app-data}/Lamps/scenes.xml"
syntax = "xml"
[[holding.entries]]
each = "//sound[contains(@path, ':')]"
path = [{ at = "@path" }]
spelling = "native"
""",
            "scenes.xml",
            f"<s><sound path='{SOUNDS}0.wav'/><sound path='{SOUNDS}1.wav'/></s>",
        ),
        (
            """at = "{app-data}/Lamps/scenes.json"
syntax = "json"
[[holding.entries]]
each = '$.sounds[?search(@.path, "^C:")]'
path = [{ at = "path" }]
spelling = "native"
""",
            "scenes.json",
            f'{{"sounds": [{{"path": "{ESCAPED}"}}, {{"path": "{ESCAPED.replace("0.wav", "1.wav")}"}}]}}',
        ),
    ],
    ids=["ini values", "xpath", "jsonpath"],
)
def test_a_selector_may_mention_what_only_old_paths_have(trip: Trip, guide: str, name: str, content: str) -> None:
    trip.guide(guide)
    trip.sounds(2)
    (trip.home / "AppData/Roaming/Lamps" / name).write_text(content)
    check = trip.moved()
    assert check.returncode == 0, check.stdout
    assert "All well" in check.stdout
    new = (trip.new_home / "Library/Application Support/Lamps" / name).read_text()
    assert (new.count("/Users/odile/Music/Lamps/"), "C:" in new) == (2, False)
    assert document(trip.check("--json"))["totals"]["found"] == 2


def test_a_condition_may_mention_what_only_old_paths_have(trip: Trip) -> None:
    trip.guide(SQLITE.replace('key = "id"', 'key = "id"\nwhere = "path LIKE \'C:%\'"'))
    trip.database(trip.sounds(5))
    check = trip.moved()
    assert (check.returncode, "All well" in check.stdout) == (0, True), check.stdout
    assert document(trip.check("--json"))["totals"]["found"] == 5


def test_a_stray_registry_export_stops_nothing(trip: Trip) -> None:
    trip.guide(SQLITE)
    trip.database(trip.sounds(2))
    export = f'REGEDIT4\r\n\r\n[HKEY_CURRENT_USER\\Software\\Lamps]\r\n"Sound"="{ESCAPED}"\r\n'
    (trip.home / "Documents/lamps.reg").write_text(export)
    trip.moved()
    assert trip.new_paths()[0] == "/Users/odile/Music/Lamps/0.wav"
    assert relinked(trip)["lamps.reg"][0] == "proven"


@pytest.mark.parametrize("key", ["path", '["scene", "path"]'])
def test_a_path_that_is_the_key_of_a_table_without_row_numbers_is_relinked(trip: Trip, key: str) -> None:
    trip.guide(SQLITE.replace('key = "id"', f"key = {key if key[0] == '[' else repr(key)}\nannotations = ['note']"))
    columns = "path TEXT, scene DEFAULT 1, note DEFAULT 'dim', PRIMARY KEY (" + (
        "path)" if key == "path" else "scene, path)"
    )
    trip.database(trip.sounds(3), table=f"sound ({columns}) WITHOUT ROWID")
    check = trip.moved()
    assert check.returncode == 0, check.stdout
    assert trip.new_paths("SELECT path FROM sound") == [f"/Users/odile/Music/Lamps/{each}.wav" for each in range(3)]
    assert "1 catalog compared: groups, nesting, order and annotations are the same" in check.stdout
    assert trip.undo().returncode == 0


def test_a_collation_that_only_the_program_knows_is_refused_by_name(trip: Trip) -> None:
    trip.guide(SQLITE + LISTS)
    trip.sounds(3)
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    database = sqlite3.connect(at)
    database.create_collation("lamps", lambda one, other: (len(one) > len(other)) - (len(one) < len(other)))
    database.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, path TEXT COLLATE lamps)")
    database.execute("CREATE INDEX by_path ON sound (path)")
    for name in ("10.wav", "9.wav", "333.wav"):
        database.execute("INSERT INTO sound (path) VALUES (?)", (trip.sound(name),))
    database.commit()
    database.close()
    trip.moved()
    outcome, why = relinked(trip)["scenes.db"]
    assert (outcome, "by_path" in why or "order" in why) == ("not-relinked", True), why
    assert relinked(trip)["evening.list"][0] == "proven"


def test_folders_and_files_may_be_entries_of_one_holding(trip: Trip) -> None:
    folders = """[[holding.entries]]
table = "folder"
key = "id"
path = [{ at = "path" }]
folder = true
spelling = "native"
"""
    files = SQLITE.replace(
        'path = [{ at = "path" }]', 'path = [{ table = "folder", via = "folder", at = "path" }, { at = "name" }]'
    )
    trip.guide(files + folders)
    trip.sounds(4)
    database = sqlite3.connect(trip.home / "AppData/Roaming/Lamps/scenes.db")
    database.execute("CREATE TABLE folder (id INTEGER PRIMARY KEY, path)")
    database.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, folder REFERENCES folder (id), name)")
    database.execute("INSERT INTO folder VALUES (1, ?)", (SOUNDS.rstrip("\\"),))
    database.executemany("INSERT INTO sound (folder, name) VALUES (1, ?)", [(f"{each}.wav",) for each in range(4)])
    database.commit()
    database.close()
    check = trip.moved()
    assert check.returncode == 0, check.stdout
    assert trip.new_paths("SELECT path FROM folder") == ["/Users/odile/Music/Lamps"]


def test_a_path_in_a_full_text_table_is_refused_by_name(trip: Trip) -> None:
    trip.guide(SQLITE.replace('key = "id"', 'key = "rowid"') + LISTS)
    trip.sounds(3)
    database = sqlite3.connect(trip.home / "AppData/Roaming/Lamps/scenes.db")
    database.execute("CREATE VIRTUAL TABLE sound USING fts5(path)")
    database.executemany("INSERT INTO sound (path) VALUES (?)", [(f"{SOUNDS}{each}.wav",) for each in range(3)])
    database.commit()
    database.close()
    trip.moved()
    outcome, why = relinked(trip)["scenes.db"]
    assert (outcome, "is a virtual table" in why) == ("not-relinked", True), why
    assert relinked(trip)["evening.list"][0] == "proven"


SHARED = """at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [
    { at = "path", via = "root", table = "root" },
    { at = "path", via = "folder", table = "folder" },
    { at = "name" },
]
"""


def test_a_shared_piece_leads_no_other_entry_elsewhere(trip: Trip) -> None:
    trip.guide(HEAD + SHARED)
    (trip.home / "Music/Lamps/Rain").mkdir()
    for name in ("0.wav", "Rain/1.wav"):
        (trip.home / "Music/Lamps" / name).write_bytes(name.encode())
    at = trip.database([], table="sound (id INTEGER PRIMARY KEY, root, folder, name, path)")
    trip.execute(
        at,
        "CREATE TABLE root (id INTEGER PRIMARY KEY, path)",
        "CREATE TABLE folder (id INTEGER PRIMARY KEY, path)",
        f"INSERT INTO root VALUES (1, '{SOUNDS}')",
        "INSERT INTO folder VALUES (1, ''), (2, 'Rain')",
        "INSERT INTO sound VALUES (1, 1, 1, '0.wav', ''), (2, 1, 2, '1.wav', '')",
    )
    for step in (trip.survey, trip.pack):
        assert step().returncode == 0
    refused = trip.plan("--route", f"{SOUNDS}Rain=/Users/odile/Elsewhere/Rain")
    assert refused.returncode == 3
    assert "Entries whose new paths their catalog cannot say: 1." in refused.stdout
    assert "--leave-entries" in refused.stdout
    assert trip.unpack().returncode == 3
    assert trip.plan("--leave-entries").returncode == 0
    trip.unpack()
    decided = trip.relink()
    assert decided.returncode == 0, decided.stdout
    assert "not updated: 1 entry" in decided.stdout
