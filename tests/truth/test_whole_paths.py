"""Only whole paths are rewritten: a text that is several paths, or holds what is none, is left and listed."""

from __future__ import annotations

import io
import json
import shutil
import sqlite3
import subprocess
import zipfile
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import HEAD, SOUNDS, SQLITE, XML, Trip, document


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    return Trip(tmp_path, zesty)


@pytest.mark.parametrize(
    "text",
    [
        f"{SOUNDS}0.wav;{SOUNDS}1.wav;E:\\c.wav",
        f"{SOUNDS}0.wav|{SOUNDS}1.wav",
        f"{SOUNDS}0.wav\n{SOUNDS}1.wav",
        f"{SOUNDS}0.wav;\\\\barn\\share\\1.wav",
        f"{SOUNDS}0.wav\0{SOUNDS}1.wav",
    ],
    ids=["semicolons", "bars", "lines", "share", "NUL"],
)
def test_several_paths_in_one_text_are_left_and_listed(trip: Trip, text: str) -> None:
    trip.guide(SQLITE)
    trip.database([*trip.sounds(5), text])
    survey = trip.survey()
    assert survey.returncode == 1
    (problem,) = document(trip.survey_again("--json"))["problems"]
    assert (problem["state"], "several paths" in problem["why"]) == ("unclear", True)
    check = trip.moved()
    assert (check.returncode, "All well" in check.stdout) == (1, False)
    assert [each["state"] for each in document(trip.check("--json"))["problems"]] == ["unclear"]
    assert trip.new_paths()[5] == text
    assert trip.new_paths()[0] == "/Users/odile/Music/Lamps/0.wav"


def test_two_urls_in_one_text_are_left(trip: Trip) -> None:
    trip.guide(SQLITE.replace('"native"', '"file-url"'))
    one, other = (f"file:///{path.replace(chr(92), '/')}" for path in trip.sounds(2))
    trip.database([one, other, f"{one} {other}"])
    trip.moved()
    assert trip.new_paths() == [
        "file:///Users/odile/Music/Lamps/0.wav",
        "file:///Users/odile/Music/Lamps/1.wav",
        f"{one} {other}",
    ]


def test_names_may_have_semicolons_and_commas(trip: Trip) -> None:
    trip.guide(SQLITE)
    trip.database([trip.sound(name) for name in ("rain; soft, 1.wav", "a;b.wav", "bar 1 | 2.wav".replace("|", "+"))])
    check = trip.moved()
    assert check.returncode == 0, check.stdout


LINES = """at = "{app-data}/Lamps/scenes.txt"
syntax = "lines"
[[holding.entries]]
each = '.*"path": ?"(?P<path>[^"]*)".*'
path = [{ at = "path" }]
spelling = "native"
"""


def lines(trip: Trip) -> Path:
    return trip.home / "AppData/Roaming/Lamps/scenes.txt"


def test_texts_that_hold_escapes_are_not_read_unless_the_guide_says_how(trip: Trip) -> None:
    trip.guide(LINES)
    escaped = trip.sound("for\u00eat.wav").replace("\\", "\\\\")
    lines(trip).write_text(f'{{"path": "{escaped}"}}\n{{"path": "{escaped}"}}\n'.replace("\u00ea", "\\u00ea", 1))
    survey = document(trip.survey("--json"))
    assert [each["verdict"] for each in survey["documents"]] == ["partly-read"]
    assert "escapes" in survey["documents"][0]["reasons"][0]


def test_a_guide_that_says_how_a_text_escapes_has_it_read_and_written(trip: Trip) -> None:
    trip.guide(LINES.replace('syntax = "lines"', 'syntax = "lines"\nescapes = "json"'))
    escaped = trip.sound("for\u00eat.wav").replace("\\", "\\\\")
    lines(trip).write_text(f'{{"path": "{escaped}"}}\n{{"path": "{escaped}"}}\n'.replace("\u00ea", "\\u00ea", 1))
    check = trip.moved()
    assert check.returncode == 0, check.stdout
    new = (trip.new_home / "Library/Application Support/Lamps/scenes.txt").read_text(encoding="utf-8")
    assert [json.loads(line)["path"] for line in new.splitlines()] == ["/Users/odile/Music/Lamps/for\u00eat.wav"] * 2


def test_backslashes_that_are_no_escapes_are_read(trip: Trip) -> None:
    trip.guide(LINES)
    lines(trip).write_text(f'"path": "{trip.sound("a.wav")}"\n')
    assert trip.moved().returncode == 0


PIECES = """at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [
    { at = "name", via = "drive", table = "drive" },
    { at = "path", via = "folder", table = "folder" },
    { at = "name" },
]
"""


def in_pieces(trip: Trip) -> None:
    trip.guide(HEAD + PIECES)
    trip.sounds(2)
    at = trip.database([], table="sound (id INTEGER PRIMARY KEY, drive, folder, name, path)")
    trip.execute(
        at,
        "CREATE TABLE drive (id INTEGER PRIMARY KEY, name)",
        "CREATE TABLE folder (id INTEGER PRIMARY KEY, path)",
        "INSERT INTO drive VALUES (1, 'C:'), (2, 'F:')",
        "INSERT INTO folder VALUES (1, '\\Users\\Odile\\Music\\Lamps\\'), (2, '\\Program Files\\Lamps\\')",
        "INSERT INTO sound VALUES (1, 1, 1, '0.wav', ''), (2, 1, 1, '1.wav', '')",
    )


def test_drive_folder_and_name_keep_their_parts(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    in_pieces(trip)
    assert trip.moved().returncode == 0
    assert trip.new_paths("SELECT name FROM drive") == ["/", "F:"]
    assert trip.new_paths("SELECT path FROM folder") == ["/Users/odile/Music/Lamps/", "\\Program Files\\Lamps\\"]
    assert trip.new_paths("SELECT name FROM sound") == ["0.wav", "1.wav"]


def test_a_drive_that_stays_keeps_the_meaning_of_all_its_folders(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    in_pieces(trip)
    trip.new.write_text(trip.old.read_text().replace("loft", "shed").replace("Odile", "Ute"))
    trip.new_home = trip.root / "shed/Users/Ute"
    trip.new_home.mkdir(parents=True)
    assert trip.moved().returncode == 0
    at = trip.new_home / "AppData/Roaming/Lamps/scenes.db"
    database = sqlite3.connect(at)
    folders = [row[0] for row in database.execute("SELECT path FROM folder")]
    drives = [row[0] for row in database.execute("SELECT name FROM drive")]
    database.close()
    assert (drives, folders) == (["C:", "F:"], ["\\Users\\Ute\\Music\\Lamps\\", "\\Program Files\\Lamps\\"])


FRAMES = """at = "{app-data}/Lamps/scenes.json"
syntax = "json"
[[holding.entries]]
each = "$.walks[*]"
path = [{ at = "path" }]
numbered = { first = "from", last = "to" }
"""


def test_a_sequence_recorded_by_its_first_frame_is_all_of_its_frames(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(HEAD.replace("{music}/Lamps", "{music}/Other") + FRAMES)
    recorded = trip.sound("walk.0001.png")
    for number in range(2, 6):
        trip.sound(f"walk.{number:04d}.png")
    at = trip.home / "AppData/Roaming/Lamps/scenes.json"
    at.write_text(json.dumps({"walks": [{"path": recorded, "from": 1, "to": 5}]}))
    trip.survey()
    assert trip.pack("--outside").returncode == 0
    for step in (trip.plan, trip.unpack, trip.relink):
        assert step().returncode == 0
    assert len([*(trip.new_home / "Music/Lamps").iterdir()]) == 5
    assert trip.check().returncode == 0
    (trip.new_home / "Music/Lamps/walk.0004.png").unlink()
    said = trip.check()
    assert said.returncode == 1 and "walk.0004.png" in said.stdout


def test_a_plain_path_of_a_timeline_stays_plain(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    plain, url = trip.sound("Wind & Rain 100%.wav"), "file:///C:/Users/Odile/Music/Lamps/Wind%20%26%20Rain%20100%25.wav"
    clips = [{"OTIO_SCHEMA": "ExternalReference.1", "target_url": each} for each in (plain, url)]
    at = trip.home / "Documents/barn.otio"
    at.parent.mkdir()
    at.write_text(json.dumps({"OTIO_SCHEMA": "Timeline.1", "clips": clips}))
    trip.moved()
    moved = json.loads((trip.new_home / "Documents/barn.otio").read_text())["clips"]
    assert [each["target_url"] for each in moved] == [
        "/Users/odile/Music/Lamps/Wind & Rain 100%.wav",
        "file:///Users/odile/Music/Lamps/Wind%20%26%20Rain%20100%25.wav",
    ]


class Pipe(io.RawIOBase):
    """A stream that nobody can go back in: sizes are written after the content."""

    def __init__(self) -> None:
        self.content = io.BytesIO()

    def writable(self) -> bool:
        return True

    def write(self, data: object) -> int:
        return self.content.write(data)  # type: ignore[arg-type]


@pytest.mark.parametrize("wide", [False, True])
@pytest.mark.parametrize("streamed", [False, True])
def test_a_zip_of_any_form_says_true_sizes(tmp_path: Path, zesty: Zesty, *, wide: bool, streamed: bool) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(HEAD + XML.replace('syntax = "xml"', 'syntax = "xml"\ninside = "scenes.xml"'))
    stream = Pipe() if streamed else io.BytesIO()
    content = f"<all><sound path='{trip.sound('a.wav')}'/></all>".encode()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in (("first", b"1" * 99), ("scenes.xml", content), ("last", b"2" * 99)):
            with archive.open(zipfile.ZipInfo(name), "w", force_zip64=wide) as member:
                member.write(text)
    made = stream.content if isinstance(stream, Pipe) else stream
    (trip.home / "AppData/Roaming/Lamps/scenes.xml").write_bytes(made.getvalue())
    assert trip.moved().returncode == 0
    moved = trip.new_home / "Library/Application Support/Lamps/scenes.xml"
    with zipfile.ZipFile(moved) as archive:
        assert archive.testzip() is None
        assert b"/Users/odile/Music/Lamps/a.wav" in archive.read("scenes.xml")
    if shutil.which("unzip"):
        assert subprocess.run(["unzip", "-tq", moved], check=False, capture_output=True).returncode == 0


@pytest.mark.parametrize(
    ("pieces", "before", "after"),
    [
        (
            ["@drive", "@dir", "@file"],
            'drive="C:" dir="\\Users\\Odile\\Music\\Lamps\\" file="0.wav"',
            'drive="/" dir="/Users/odile/Music/Lamps/" file="0.wav"',
        ),
        (
            ["@a", "@b", "@c", "@d", "@e", "@f"],
            'a="C:" b="Users" c="Odile" d="Music" e="Lamps" f="0.wav"',
            'a="/" b="Users" c="odile" d="Music" e="Lamps" f="0.wav"',
        ),
    ],
)
def test_attributes_keep_the_part_of_a_path_that_they_had(
    trip: Trip, pieces: list[str], before: str, after: str
) -> None:
    trip.sound("0.wav")
    path = ", ".join(f'{{ at = "{each}" }}' for each in pieces)
    trip.guide(HEAD + XML.replace('path = [{ at = "@path" }]', f"path = [{path}]"))
    (trip.home / "AppData/Roaming/Lamps/scenes.xml").write_text(f"<all><sound {before}/></all>")
    assert trip.moved().returncode == 0
    moved = trip.new_home / "Library/Application Support/Lamps/scenes.xml"
    assert moved.read_text() == f"<all><sound {after}/></all>"


def test_other_separators_are_unclear_and_left(trip: Trip) -> None:
    trip.guide(HEAD + XML)
    text = "<all><sound path='C::Users::Odile::0.wav'/><sound path='C:Users\\Odile\\0.wav'/></all>"
    (trip.home / "AppData/Roaming/Lamps/scenes.xml").write_text(text)
    assert trip.moved().returncode == 1
    assert document(trip.check("--json"))["totals"]["unclear"] == 2
    assert (trip.new_home / "Library/Application Support/Lamps/scenes.xml").read_text() == text
