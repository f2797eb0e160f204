"""Texts that are odd and harmless are read, in proportion to their size; those that are neither are refused."""

from __future__ import annotations

from pathlib import Path

import pytest
from lxml import etree

from conftest import Zesty
from support.trip import LINES, XML, Trip, document

ENTITIES = """<?xml version="1.0"?>
<!DOCTYPE scenes [
  <!ENTITY ns "http://lamps.example/scenes">
  <!ENTITY maker "Fold &amp; Sons">
  <!ENTITY by "made by &maker;">
]>
<l:scenes xmlns:l="&ns;" by="&by;"><sound path="{0}"/>&maker;<sound path="{1}"/></l:scenes>
"""


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    return Trip(tmp_path, zesty)


def test_entities_that_a_document_declares_for_itself_are_read(trip: Trip) -> None:
    trip.guide(XML)
    catalog = trip.home / "AppData/Roaming/Lamps/scenes.xml"
    catalog.write_text(ENTITIES.format(*trip.sounds(2)), encoding="utf-8")
    assert trip.moved().returncode == 0
    there = trip.new_home / "Library/Application Support/Lamps/scenes.xml"
    text = there.read_text("utf-8")
    assert 'by="&by;"' in text, "what is no path stays as it is written"
    paths = [each.get("path") for each in etree.fromstring(text.encode()).iter("sound")]
    assert paths == [f"/Users/odile/Music/Lamps/{number}.wav" for number in (0, 1)]


def test_an_entity_in_a_path_is_read_and_said_to_stay(trip: Trip) -> None:
    trip.guide(XML)
    first, _ = trip.sounds(2)
    folder, _, name = first.rpartition("\\")
    text = f'<!DOCTYPE s [<!ENTITY in "{folder}">]><s><sound path="&in;\\{name}"/></s>'
    (trip.home / "AppData/Roaming/Lamps/scenes.xml").write_text(text, encoding="utf-8")
    survey = document(trip.survey("--json"))
    assert survey["totals"]["found"] == 1
    assert trip.pack().returncode == 0
    assert trip.plan().returncode == 0
    assert trip.unpack().returncode == 0
    relinked = trip.relink("--json")
    assert relinked.returncode == 1
    assert document(relinked)["outcomes"][0]["outcome"] == "not-relinked"
    assert "by an entity" in relinked.stdout
    assert trip.check().returncode == 1


def test_a_playlist_of_many_lines_takes_time_in_proportion(trip: Trip) -> None:
    trip.guide(LINES)
    paths = trip.sounds(2)
    catalog = trip.home / "AppData/Roaming/Lamps/scenes.txt"
    many = [*paths, *(f"C:\\Users\\Odile\\Music\\Lamps\\gone {number}.wav" for number in range(20_000))]
    catalog.write_text("".join(f"sound={path}\n" for path in many), encoding="utf-8")
    survey = document(trip.survey("--json"))
    assert (survey["totals"]["found"], survey["totals"]["missing-before"]) == (2, 20_000)


def test_a_line_without_end_is_no_path(trip: Trip) -> None:
    trip.guide(LINES)
    trip.sounds(1)
    catalog = trip.home / "AppData/Roaming/Lamps/scenes.txt"
    with catalog.open("wb") as stream:
        stream.write(b"sound=")
        stream.truncate(4 << 20)
    (read,) = document(trip.survey("--json"))["documents"]
    assert (read["verdict"], read["unread"]) == ("partly-read", 1)
    assert "its path has 4,194,298 characters, more than that of any system" in str(read["reasons"])
