"""Groups of documents whose entries come by several selectors; documents that are equal weigh equal."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import HEAD, Trip, document

ENTRIES = '[[holding.entries]]\neach = "{each}"\nkey = "{key}"\npath = [{{ at = "{at}" }}]\nspelling = "native"\n'
XML = (
    'at = "{app-data}/Lamps/scenes.xml"\nsyntax = "xml"\n'
    + ENTRIES.format(each="//sound", key="@id", at="@path")
    + ENTRIES.format(each="//picture", key="@id", at="@path")
    + '[[holding.groups]]\neach = "//list"\nname = "@name"\nmembers = { each = "item", entry = "@of" }\n'
)
JSON = (
    'at = "{app-data}/Lamps/scenes.json"\nsyntax = "json"\n'
    + ENTRIES.format(each="$.sounds[*]", key="id", at="path")
    + ENTRIES.format(each="$.pictures[*]", key="id", at="path")
    + '[[holding.groups]]\neach = "$.lists[*]"\nname = "name"\nmembers = { each = "items[*]", entry = "of" }\n'
)
TABLE = '[[holding.entries]]\ntable = "{0}"\nkey = "id"\npath = [{{ at = "path" }}]\nspelling = "native"\n'
MEMBERS = 'members = { table = "item", group = "list", entry = "picture", order = "id", of = "picture" }\n'
SQLITE = (
    'at = "{app-data}/Lamps/scenes.db"\nsyntax = "sqlite"\n'
    + TABLE.format("sound")
    + TABLE.format("picture")
    + '[[holding.groups]]\ntable = "list"\nkey = "id"\nname = "name"\n'
    + MEMBERS
)
PATH = "C:\\Users\\Odile\\Music\\Lamps\\1.wav"


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.sounds(2)
    return trip


def wrote(trip: Trip, guide: str) -> None:
    trip.guide(HEAD + guide)
    folder = trip.home / "AppData/Roaming/Lamps"
    escaped = PATH.replace("\\", "\\\\")
    if guide == XML:
        of = '<list name="Evening"><item of="b"/><item of="gone"/></list>'
        (folder / "scenes.xml").write_text(f'<s><sound id="a" path="{PATH}"/><picture id="b" path="{PATH}"/>{of}</s>')
    elif guide == JSON:
        of = '[{"name": "Evening", "items": [{"of": "b"}, {"of": "gone"}]}]'
        text = f'"sounds": [{{"id": "a", "path": "{escaped}"}}], "pictures": [{{"id": "b", "path": "{escaped}"}}]'
        (folder / "scenes.json").write_text(f'{{{text}, "lists": {of}}}')
    else:
        at = trip.database([PATH])
        trip.execute(
            at,
            "CREATE TABLE picture (id INTEGER PRIMARY KEY, path)",
            f"INSERT INTO picture VALUES (7, '{PATH}')",
            "CREATE TABLE list (id INTEGER PRIMARY KEY, name)",
            "INSERT INTO list VALUES (1, 'Evening')",
            "CREATE TABLE item (id INTEGER PRIMARY KEY, list, picture)",
            "INSERT INTO item VALUES (1, 1, 7), (2, 1, 99)",
        )


@pytest.mark.parametrize("guide", [XML, JSON, SQLITE])
def test_a_group_finds_its_members_among_all_entries(trip: Trip, guide: str) -> None:
    wrote(trip, guide)
    assert trip.survey().returncode == 0
    packed = trip.pack("--group", "Evening")
    assert packed.returncode == 0
    assert sorted(each.name for each in (trip.crate / "data").rglob("*.wav")) == ["1.wav"]


@pytest.mark.parametrize("guide", [XML, JSON, SQLITE])
def test_equal_documents_weigh_equal(trip: Trip, guide: str) -> None:
    """One that the move before has placed, with its new paths, holds neither more nor less."""
    wrote(trip, guide)
    assert trip.moved().returncode == 0
    trip.crate.rename(trip.root / "an earlier crate, elsewhere")
    for step in (trip.survey, trip.pack):
        assert step().returncode == 0
    (conflict,) = document(trip.plan("--json"))["conflicts"]
    assert conflict["warning"] == "", conflict
