"""Where carried records go in a text that is not like the other: several places, empty ones, odd line ends, counts."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import HEAD, Trip, document

OLD, NEW = "C:\\Users\\Odile\\Music\\Lamps\\", "/Users/odile/Music/Lamps/"


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    for name in ("kiln.wav", "owl.wav"):
        trip.sound(name)
    library = trip.new_home / "Music/Lamps"
    library.mkdir(parents=True)
    (library / "owl.wav").write_bytes(b"owl.wav")
    return trip


def merged(trip: Trip, syntax: str, entries: str, carried: str, there: str, *, more: str = "") -> str:
    """The catalog on the new computer after the merge, or what the plan says against it."""
    trip.guide(f'{HEAD}at = "{{app-data}}/Lamps/scenes"\nsyntax = "{syntax}"\n{more}[[holding.entries]]\n{entries}')
    (trip.home / "AppData/Roaming/Lamps/scenes").write_bytes(carried.encode())
    place = trip.new_home / "Library/Application Support/Lamps/scenes"
    place.parent.mkdir(parents=True)
    place.write_bytes(there.encode("cp1252" if more else "utf-8"))
    assert trip.survey().returncode == trip.pack().returncode == 0
    planned = trip.plan("--decide", "merge")
    if planned.returncode:
        return " ".join(planned.stdout.split())
    assert trip.unpack().returncode == 0
    relinked = trip.relink()
    assert relinked.returncode == 0, relinked.stdout
    assert trip.check().returncode == 0
    return place.read_bytes().decode()


XML = 'each = "//sound"\nkey = "@id"\npath = [{ at = "@path" }]\n'


def test_each_goes_to_the_place_that_is_like_its_own(trip: Trip) -> None:
    carried = (
        f'<s><shelf of="A"><sound id="1" path="{OLD}owl.wav"/></shelf>'
        f'<shelf of="B"><sound id="2" path="{OLD}kiln.wav"/></shelf></s>'
    )
    there = f'<s><shelf of="B"/><shelf of="A"><sound id="7" path="{NEW}owl.wav"/></shelf></s>'
    assert merged(trip, "xml", XML, carried, there) == there.replace(
        '<shelf of="B"/>', f'<shelf of="B"><sound id="2" path="{NEW}kiln.wav"/></shelf>'
    )


def test_a_place_that_is_not_there_is_not_guessed(trip: Trip) -> None:
    carried = (
        f'<s><shelf of="A"><sound id="1" path="{OLD}owl.wav"/></shelf>'
        f'<shelf of="C"><sound id="2" path="{OLD}kiln.wav"/></shelf></s>'
    )
    there = f'<s><shelf of="A"><sound id="7" path="{NEW}owl.wav"/></shelf></s>'
    assert "no record of this kind where the carried one is" in merged(trip, "xml", XML, carried, there)


@pytest.mark.parametrize("there", ['{"kept": 3, "sounds": {}}', '{"kept": 3, "sounds": {"other": {"x": 1}}}'])
def test_an_object_without_such_members_takes_them_if_it_is_empty(trip: Trip, there: str) -> None:
    carried = json.dumps({"kept": 3, "sounds": {"kiln": {"path": f"{OLD}kiln.wav"}}})
    entries = 'each = "$.sounds[?@.path]"\npath = [{ at = "path" }]\n'
    told = merged(trip, "json", entries, carried, there)
    if "other" in there:
        assert "nothing tells where that goes" in told
    else:
        assert json.loads(told) == {"kept": 3, "sounds": {"kiln": {"path": f"{NEW}kiln.wav"}}}


def test_values_go_to_their_section_which_is_made_if_it_is_not_there(trip: Trip) -> None:
    carried = f"[a]\npath={OLD}owl.wav\n[b]\npath={OLD}kiln.wav\n"
    there = f"[z]\r\nwidth=3\r\n[a]\r\npath={NEW}owl.wav"
    told = merged(trip, "ini", "each = '.*'\nvalues = '.*wav'\npath = [{ at = \"value\" }]\n", carried, there)
    assert told == f"{there}\r\n\r\n[b]\r\npath={NEW}kiln.wav\r\n"


def test_what_its_encoding_lacks_is_refused_by_name(trip: Trip) -> None:
    carried, there = (
        f'<s><sound id="1" path="{OLD}kiln.wav" name="č"/></s>',
        f'<s><sound id="2" path="{NEW}é.wav"/></s>',
    )
    told = merged(trip, "xml", XML, carried, there, more='encoding = ["utf-8", "cp1252"]\n')
    assert "It is in cp1252, which lacks 'č' of the carried one" in told


def test_what_is_outside_of_the_records_is_told(trip: Trip) -> None:
    trip.guide(f'{HEAD}at = "{{app-data}}/Lamps/scenes"\nsyntax = "xml"\n[[holding.entries]]\n{XML}')
    scenes = trip.home / "AppData/Roaming/Lamps/scenes"
    scenes.write_text(f'<s><sound id="1" path="{OLD}kiln.wav"/><look dark="yes"/></s>')
    place = trip.new_home / "Library/Application Support/Lamps/scenes"
    place.parent.mkdir(parents=True)
    place.write_text(f'<s><sound id="2" path="{NEW}owl.wav"/></s>')
    assert trip.survey().returncode == trip.pack().returncode == 0
    planned = trip.plan("--decide", "merge", "--json")
    (left,) = document(planned)["conflicts"][0]["merge"]["left-out"]
    assert left.startswith("what is outside of its records, as < look dark")


def test_two_playlists_with_titles_and_a_count_become_one(trip: Trip) -> None:
    def playlist(folder: str, *names: str) -> str:
        rows = "".join(
            f"File{number}={folder}{name}.wav\nTitle{number}={name.title()}\nLength{number}=-1\n"
            for number, name in enumerate(names, start=1)
        )
        return f"[playlist]\n{rows}NumberOfEntries={len(names)}\nVersion=2\n"

    trip.guide(
        f'{HEAD}at = "{{app-data}}/Lamps/none"\nsyntax = "xml"\nmay-have-none = true\n[[holding.entries]]\n{XML}'
    )
    there = trip.new_home / "Music/Lamps/night.pls"
    (trip.home / "Music/Lamps/night.pls").write_text(playlist(OLD, "kiln", "owl"))
    there.write_text(playlist(NEW, "owl"))
    assert trip.survey().returncode in (0, 1)
    assert trip.pack().returncode == 0
    planned = trip.plan("--decide", "merge")
    assert planned.returncode == 0, planned.stdout
    assert trip.unpack().returncode == 0
    assert trip.relink().returncode in (0, 1)
    lines = dict(line.split("=", 1) for line in there.read_text().splitlines()[1:])
    assert lines == {
        "File1": f"{NEW}owl.wav",
        "Title1": "Owl",
        "Length1": "-1",
        "File2": f"{NEW}kiln.wav",
        "Title2": "Kiln",
        "Length2": "-1",
        "NumberOfEntries": "2",
        "Version": "2",
    }


def test_several_libraries_become_one_by_a_name_of_ones_own(trip: Trip) -> None:
    trip.guide(f'{HEAD}sweep = ["*.scene"]\nsyntax = "xml"\n[[holding.entries]]\n{XML}')
    folder = trip.home / "Music/Lamps"
    for number, (library, sound) in enumerate((("Night", "owl"), ("Fire", "kiln")), start=1):
        text = f'<s><sound id="1" path="{OLD}{sound}.wav"/></s>'
        (folder / f"{library}.scene").write_text(text)
        trip.crate = trip.root / library
        assert trip.survey().returncode == 0
        assert trip.pack("--folder", f"{OLD}{library}.scene", "--folder", f"{OLD}{sound}.wav").returncode == 0
        planned = trip.plan("--route", f"{OLD}{library}.scene={NEW}Everything.scene", "--decide", "merge")
        assert planned.returncode == 0, planned.stdout
        assert trip.unpack().returncode == trip.relink().returncode == 0
        checked = trip.check()
        assert checked.returncode == 0, checked.stdout
        assert (trip.new_home / "Music/Lamps/Everything.scene").read_text().count("<sound ") == number
    text = (trip.new_home / "Music/Lamps/Everything.scene").read_text()
    assert text == f'<s><sound id="1" path="{NEW}owl.wav"/>\n<sound id="2" path="{NEW}kiln.wav"/></s>'
