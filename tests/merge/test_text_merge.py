"""Two texts of one program become one, whatever their syntax: through the installed command, byte for byte."""

from __future__ import annotations

import csv
import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import pytest
from lxml import etree

from conftest import Zesty
from support.moves import picture
from support.trip import HEAD, Trip, document

CARRIED = "C:\\Users\\Odile\\Music\\Lamps\\"
THERE = "/Users/odile/Music/Lamps/"
Rows = list[tuple[str, str, str, str]]  # key, file name, stars, note


@dataclass(frozen=True)
class Kind:
    """One syntax: its guide, how a catalog of it is written, and how somebody else reads it."""

    name: str
    guide: str
    write: Callable[[str, Rows, dict[str, list[str]]], str]
    read: Callable[[str], tuple[list[tuple[str, str]], dict[str, list[str]]]]
    has_groups: bool = False
    has_annotations: bool = True


def write_xml(folder: str, rows: Rows, lists: dict[str, list[str]]) -> str:
    sounds = "\n".join(
        f'    <sound id="{key}" path="{folder}{name}"' + (f' stars="{stars}"' if stars else "") + "><x/></sound>"
        for key, name, stars, _ in rows
    )
    groups = "\n".join(
        f'    <list name="{name}">' + "".join(f'<item of="{key}"/>' for key in keys) + "</list>"
        for name, keys in lists.items()
    )
    return f'<?xml version="1.0"?>\n<scenes>\n  <!-- é -->\n{sounds}\n  <lists>\n{groups}\n  </lists>\n</scenes>\n'


def read_xml(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    root = etree.fromstring(text.encode())
    paths = {str(each.get("id")): str(each.get("path")) for each in root.iter("sound")}
    sounds = [(str(each.get("path")), str(each.get("stars") or "")) for each in root.iter("sound")]
    lists = {str(g.get("name")): [paths[str(i.get("of"))] for i in g.iter("item")] for g in root.iter("list")}
    return sounds, lists


def write_json(folder: str, rows: Rows, lists: dict[str, list[str]]) -> str:
    sounds = [
        {"id": int(key), "path": folder + name, **({"stars": int(stars)} if stars else {})}
        for key, name, stars, _ in rows
    ]
    groups = [{"name": name, "items": [int(key) for key in keys]} for name, keys in lists.items()]
    return json.dumps({"version": 3, "sounds": sounds, "lists": groups}, indent=2) + "\n"


def read_json(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    found = json.loads(text)
    paths = {each["id"]: each["path"] for each in found["sounds"]}
    sounds = [(each["path"], str(each.get("stars", ""))) for each in found["sounds"]]
    return sounds, {each["name"]: [paths[key] for key in each["items"]] for each in found["lists"]}


def write_lines(folder: str, rows: Rows, _: dict[str, list[str]]) -> str:
    return "# lamps\n" + "".join(f"# about {name}\nsound={folder}{name}\n" for _, name, _, _ in rows)


def read_lines(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    lines = text.splitlines()
    assert lines[0] == "# lamps"
    for comment, line in zip(lines[1::2], lines[2::2], strict=True):
        assert comment.removeprefix("# about ") == line.replace("\\", "/").rpartition("/")[2]
    return [(line.removeprefix("sound="), "") for line in lines[2::2]], {}


def write_csv(folder: str, rows: Rows, _: dict[str, list[str]]) -> str:
    head = "id,path,stars,note\n"
    return head + "".join(f'{key},{folder}{name},{stars},"{note}"\n' for key, name, stars, note in rows)


def read_csv(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    return [(row["path"], row["stars"]) for row in csv.DictReader(text.splitlines())], {}


KINDS = (
    Kind(
        "xml",
        """at = "{app-data}/Lamps/scenes.txt"
syntax = "xml"
[[holding.entries]]
each = "//sound"
key = "@id"
path = [{ at = "@path" }]
annotations = ["@stars"]
[[holding.groups]]
each = "//list"
name = "@name"
members = { each = "item", entry = "@of" }
""",
        write_xml,
        read_xml,
        has_groups=True,
    ),
    Kind(
        "json",
        """at = "{app-data}/Lamps/scenes.txt"
syntax = "json"
[[holding.entries]]
each = "$.sounds[*]"
key = "id"
path = [{ at = "path" }]
annotations = ["stars"]
[[holding.groups]]
each = "$.lists[*]"
name = "name"
members = { each = "items[*]", entry = "$" }
""",
        write_json,
        read_json,
        has_groups=True,
    ),
    Kind(
        "lines",
        """at = "{app-data}/Lamps/scenes.txt"
syntax = "lines"
comment = "#"
[[holding.entries]]
each = "sound=(?P<path>.*)"
path = [{ at = "path" }]
""",
        write_lines,
        read_lines,
        has_annotations=False,
    ),
    Kind(
        "delimited",
        """at = "{app-data}/Lamps/scenes.txt"
syntax = "delimited"
[[holding.entries]]
key = "id"
path = [{ at = "path" }]
annotations = ["stars"]
""",
        write_csv,
        read_csv,
    ),
)


@pytest.fixture(params=KINDS, ids=[each.name for each in KINDS])
def kind(request: pytest.FixtureRequest) -> Kind:
    return request.param  # type: ignore[no-any-return]


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty, kind: Kind) -> Trip:
    """The old computer has kiln, owl and gale, the new one owl and mill; keys of one are taken by others."""
    trip = Trip(tmp_path, zesty)
    trip.guide(HEAD + kind.guide)
    for name in ("owl.wav", "kiln.wav", "gale.wav"):
        trip.sound(name)
    library = trip.new_home / "Music/Lamps"
    library.mkdir(parents=True)
    for name in ("owl.wav", "mill.wav"):
        (library / name).write_bytes(name.encode())
    carried = [("1", "kiln.wav", "5", "hot, dry"), ("2", "owl.wav", "4", ""), ("7", "gale.wav", "", "")]
    lists = {"Night": ["2", "1"], "Weather": ["7", "1"]}
    old = trip.home / "AppData/Roaming/Lamps/scenes.txt"
    old.write_text(kind.write(CARRIED.replace("\\", "\\"), carried, lists), encoding="utf-8")
    there = place(trip)
    there.parent.mkdir(parents=True)
    rows = [("1", "owl.wav", "", ""), ("2", "mill.wav", "2", "turns")]
    there.write_text(kind.write(THERE, rows, {"Night": ["2"]}), encoding="utf-8")
    return trip


def place(trip: Trip) -> Path:
    return trip.new_home / "Library/Application Support/Lamps/scenes.txt"


def test_carried_records_are_spliced_in_and_all_can_be_undone(trip: Trip, kind: Kind) -> None:
    start, before = picture(trip.root / "shed"), place(trip).read_text("utf-8")
    assert trip.survey().returncode == trip.pack().returncode == 0
    planned = trip.plan("--decide", "merge", "--json")
    assert planned.returncode == 0, planned.stdout
    (conflict,) = document(planned)["conflicts"]
    assert (conflict["merge"]["new"], conflict["merge"]["same"]) == (2, 1)
    assert trip.unpack().returncode == 0
    relinked = trip.relink()
    assert relinked.returncode == 0, relinked.stdout
    text = place(trip).read_text("utf-8")
    stars = "4" if kind.has_annotations else ""
    sounds, lists = kind.read(text)
    assert sounds == [
        (f"{THERE}owl.wav", stars),
        (f"{THERE}mill.wav", "2" if kind.has_annotations else ""),
        (f"{THERE}kiln.wav", "5" if kind.has_annotations else ""),
        (f"{THERE}gale.wav", ""),
    ]
    if kind.has_groups:
        assert lists == {
            "Night": [f"{THERE}{name}.wav" for name in ("mill", "owl", "kiln")],
            "Weather": [f"{THERE}{name}.wav" for name in ("gale", "kiln")],
        }
    for line in before.splitlines()[:3]:
        assert line.rstrip("]},/>")[:20] in text
    checked = trip.check()
    assert checked.returncode == 0, checked.stdout
    assert trip.relink().returncode == 0
    assert place(trip).read_text("utf-8") == text
    assert trip.undo().returncode == 0
    assert picture(trip.root / "shed") == start


def test_values_that_differ_are_decided(trip: Trip, kind: Kind) -> None:
    if not kind.has_annotations:
        pytest.skip("it has none")
    old = trip.home / "AppData/Roaming/Lamps/scenes.txt"
    carried = [("1", "mill.wav", "5", "")]
    trip.sound("mill.wav")
    old.write_text(kind.write(CARRIED, carried, {"Night": []}), encoding="utf-8")
    assert trip.survey().returncode in (0, 1)
    assert trip.pack().returncode == 0
    assert trip.plan("--decide", "merge").returncode == 3
    assert trip.plan("--values", "bring-in").returncode == 0
    assert trip.unpack().returncode == trip.relink().returncode == 0
    sounds, _ = kind.read(place(trip).read_text("utf-8"))
    assert sounds == [(f"{THERE}owl.wav", ""), (f"{THERE}mill.wav", "5")]
    assert trip.check().returncode == 0


def test_a_second_trip_has_no_false_conflicts(trip: Trip, kind: Kind) -> None:
    if not kind.has_annotations:
        pytest.skip("it has none")
    assert trip.survey().returncode == trip.pack().returncode == 0
    done = trip.run("merge", trip.crate, "--to", trip.new, "--values", "keep", "--yes")
    assert done.returncode == 0, done.stdout
    old = trip.home / "AppData/Roaming/Lamps/scenes.txt"
    trip.sound("fog.wav")
    rows = [("1", "kiln.wav", "1", "hot, dry"), ("2", "owl.wav", "4", ""), ("7", "gale.wav", "", "")]
    rows.append(("9", "fog.wav", "3", ""))
    old.write_text(kind.write(CARRIED, rows, {"Night": ["2", "1"], "Weather": ["7", "1", "9"]}), encoding="utf-8")
    there = place(trip)
    text = there.read_text("utf-8")
    (line,) = [each for each in text.splitlines() if "owl.wav" in each]
    there.write_text(text.replace(line, line.replace("4", "2")), encoding="utf-8")
    trip.crate = trip.root / "second"
    assert trip.survey().returncode == trip.pack().returncode == 0
    done = trip.run("merge", trip.crate, "--to", trip.new, "--yes")
    assert done.returncode == 0, done.stdout
    sounds, lists = kind.read(there.read_text("utf-8"))
    assert [(path.rpartition("/")[2], stars) for path, stars in sounds] == [
        ("owl.wav", "2"),
        ("mill.wav", "2"),
        ("kiln.wav", "1"),
        ("gale.wav", ""),
        ("fog.wav", "3"),
    ]
    if kind.has_groups:
        assert [path.rpartition("/")[2] for path in lists["Weather"]] == ["gale.wav", "kiln.wav", "fog.wav"]


@pytest.mark.parametrize("kind", [KINDS[0]], indirect=True)
@pytest.mark.parametrize(
    ("change", "why"),
    [
        (('id="1"', 'id="a"'), "no new one can be written"),
        (("sound", "noise"), "no record of this kind"),
    ],
)
def test_what_cannot_be_spliced_is_undecided_and_says_why(trip: Trip, change: tuple[str, str], why: str) -> None:
    there, old = place(trip), trip.home / "AppData/Roaming/Lamps/scenes.txt"
    there.write_text(there.read_text("utf-8").replace(*change), encoding="utf-8")
    if change[0] == 'id="1"':
        old.write_text(old.read_text("utf-8").replace('id="1"', 'id="a"').replace('of="1"', 'of="a"'), encoding="utf-8")
    before = there.read_bytes()
    assert trip.survey().returncode == trip.pack().returncode == 0
    planned = trip.plan(
        "--decide", f"{THERE.replace('Music/Lamps/', '')}Library/Application Support/Lamps/scenes.txt=merge"
    )
    assert planned.returncode == 3, planned.stdout
    assert why in " ".join(planned.stdout.split())
    assert there.read_bytes() == before
