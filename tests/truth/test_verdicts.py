"""Every document has a verdict, from survey to retire, and "All well" is said only when each was read and relinked."""

from __future__ import annotations

from pathlib import Path
from subprocess import CompletedProcess

import pytest

from conftest import Zesty
from support.trip import JSON, LINES, SOUNDS, SQLITE, XML, Trip, document


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    return Trip(tmp_path, zesty)


def verdicts(said: CompletedProcess[str]) -> list[str]:
    return [each["verdict"] for each in document(said)["documents"]]


def test_a_row_that_cannot_be_read_is_counted_and_the_others_are_relinked(trip: Trip) -> None:
    trip.guide(SQLITE)
    paths: list[object] = [*trip.sounds(300)]
    paths[200] = b"\x00binary"
    trip.database(paths)
    survey = trip.survey()
    assert survey.returncode == 1
    assert "partly read" in survey.stdout
    assert "201" in survey.stdout, "the row is named"
    assert verdicts(trip.survey_again("--json")) == ["partly-read"]
    check = trip.moved()
    assert check.returncode == 1
    assert "All well" not in check.stdout
    assert "partly read" in check.stdout
    new = trip.new_paths()
    assert new[0] == "/Users/odile/Music/Lamps/0.wav"
    assert sum(str(each).startswith("/Users/odile/") for each in new) == 299
    assert "partly read" in trip.run("report", trip.crate, "--to", trip.new).stdout + trip.page()
    retire = trip.retire()
    assert "must not be wiped" in retire.stdout
    assert "partly read" in retire.stdout
    assert "partly read" in trip.run("todo", trip.crate, "--to", trip.new).stdout


def test_text_that_is_not_unicode_is_a_row_that_cannot_be_read(trip: Trip) -> None:
    trip.guide(SQLITE)
    at = trip.database(trip.sounds(20))
    trip.execute(at, "UPDATE sound SET path = CAST(X'433A5C66FF' AS TEXT) WHERE id = 7")
    assert verdicts(trip.survey("--json")) == ["partly-read"]
    assert document(trip.survey_again("--json"))["totals"]["entries"] == 19


def test_a_catalog_that_no_guide_fits_is_not_read_and_holds_the_old_computer(trip: Trip) -> None:
    trip.guide(
        SQLITE.replace('"path" }', '"file" }') + LINES.join(["[[holding]]\nid = 'lists'\nkind = 'catalog'\n", ""])
    )
    trip.database(trip.sounds(3))
    (trip.home / "AppData/Roaming/Lamps/scenes.txt").write_text(f"sound={SOUNDS}0.wav\n")
    survey = trip.survey()
    assert survey.returncode == 1
    assert "not read" in survey.stdout
    check = trip.moved()
    assert (check.returncode, "All well" in check.stdout) == (1, False)
    assert "every entry" not in trip.page().lower()
    assert "must not be wiped" in trip.retire().stdout


def test_media_are_moved_though_no_catalog_can_be_read(trip: Trip) -> None:
    trip.guide(SQLITE)
    trip.sounds(3)
    (trip.home / "AppData/Roaming/Lamps/scenes.db").write_bytes(b"not a database, and long enough to be looked at")
    survey = trip.survey()
    assert survey.returncode == 1, survey.stderr
    assert "not read" in survey.stdout
    assert trip.moved().returncode == 1
    assert (trip.new_home / "Music/Lamps/2.wav").exists()


@pytest.mark.parametrize(
    ("guide", "name", "content"),
    [
        (XML.replace("//sound", "//track"), "scenes.xml", "<s><sound path='{0}'/><sound path='{0}'/></s>"),
        (XML.replace("@path", "@src"), "scenes.xml", "<s><sound path='{0}'/></s>"),
        (JSON.replace("$.sounds", "$.tracks"), "scenes.json", '{{"sounds": [{{"path": "{1}"}}]}}'),
        (JSON.replace('"path" }', '"file" }'), "scenes.json", '{{"sounds": [{{"path": "{1}"}}]}}'),
        (LINES.replace("sound=", "media="), "scenes.txt", "sound={0}\n"),
    ],
    ids=["xpath", "attribute", "jsonpath", "member", "expression"],
)
def test_a_selector_that_matches_nothing_is_most_likely_wrong(trip: Trip, guide: str, name: str, content: str) -> None:
    trip.guide(guide)
    path = trip.sound("a.wav")
    (trip.home / "AppData/Roaming/Lamps" / name).write_text(content.format(path, path.replace("\\", "\\\\")))
    survey = trip.survey()
    assert survey.returncode == 1, survey.stdout
    assert "nothing selected" in survey.stdout
    assert verdicts(trip.survey_again("--json")) == ["nothing-selected"]
    check = trip.moved()
    assert (check.returncode, "All well" in check.stdout) == (1, False)


@pytest.mark.parametrize("content", ["<s/>", ""], ids=["a root alone", "an empty table"])
def test_an_empty_catalog_is_read(trip: Trip, content: str) -> None:
    trip.guide(XML if content else SQLITE)
    trip.sound("a.wav")
    if content:
        (trip.home / "AppData/Roaming/Lamps/scenes.xml").write_text(content)
    else:
        trip.database([])
    assert verdicts(trip.survey("--json")) == ["read"]


def test_a_guide_that_can_hardly_be_right_is_doubted(trip: Trip) -> None:
    trip.guide(SQLITE)
    wrong = [f"D:\\Elsewhere\\{path.rpartition(chr(92))[2]}" for path in trip.sounds(10)]
    trip.database([path.replace("D:", "C:") for path in wrong])
    survey = trip.survey()
    assert survey.returncode == 1
    assert "doubtful" in survey.stdout
    assert verdicts(trip.survey_again("--json")) == ["doubtful"]


def test_keys_that_are_not_unique_make_a_document_doubtful(trip: Trip) -> None:
    trip.guide(SQLITE.replace('key = "id"', 'key = "scene"'))
    trip.database(trip.sounds(4), table="sound (id INTEGER PRIMARY KEY, path, scene DEFAULT 1)")
    assert verdicts(trip.survey("--json")) == ["doubtful"]


def test_each_document_of_a_holding_is_doubted_by_its_own_keys(trip: Trip) -> None:
    keyed = LINES.replace("sound=(?P<path>.*)", "(?P<key>[^=]*)=(?P<path>.*)")
    trip.guide(keyed.replace("scenes.txt", "*.txt").replace("path = [", 'key = "key"\npath = ['))
    path = trip.sound("a.wav")
    for name, keys in (("one", "aa"), ("two", "bb"), ("three", "ab")):
        text = "".join(f"{key}={path}\n" for key in keys)
        (trip.home / f"AppData/Roaming/Lamps/{name}.txt").write_text(text)
    said = {each["at"].rpartition("\\")[2]: each["verdict"] for each in document(trip.survey("--json"))["documents"]}
    assert said == {"one.txt": "doubtful", "two.txt": "doubtful", "three.txt": "read"}


def test_a_document_without_a_place_on_the_new_computer_is_no_choice(trip: Trip) -> None:
    places = "[places]\nown = { windows = '{app-data}\\Lamps' }\n"
    trip.guide(SQLITE.replace("{app-data}/Lamps", "{own}") + places)
    trip.database(trip.sounds(2))
    for step in (trip.survey, trip.pack, trip.plan, trip.unpack, trip.relink):
        step()
    check = trip.check()
    assert "All well" not in check.stdout
    assert check.returncode != 0


def test_what_relinking_came_to_is_a_verdict_too(trip: Trip) -> None:
    trip.guide(SQLITE)
    trip.database(trip.sounds(4))
    check = trip.moved()
    assert (check.returncode, "All well" in check.stdout) == (0, True), check.stdout
    (line,) = document(trip.check("--json"))["documents"]
    assert (line["verdict"], line["relinked"]) == ("read", "proven")


def test_a_catalog_that_was_never_relinked_is_not_all_well(trip: Trip) -> None:
    trip.guide(SQLITE)
    trip.database([*trip.sounds(1), "C:\\Users\\Odile\\Music\\gone.wav"])
    for step in (trip.survey, trip.pack, trip.plan, trip.unpack):
        step()
    check = trip.check()
    assert check.returncode == 1
    assert document(trip.check("--json"))["documents"][0]["relinked"] == "not-relinked"
