"""Matching one by one: what is sure is taken, what is not is left for a person, in a table that is handed back."""

from __future__ import annotations

import csv
import io
import json
import shutil
from dataclasses import dataclass
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Zesty
from support.moves import SmallMove
from zesty_crate.media import NOTHING_TOLD, MediaFacts, media_facts
from zesty_crate.paths import MachinePath, System
from zesty_crate.relink import Lost, Matched
from zesty_crate.relink.matching import Matcher

DAY_NS = 86_400 * 10**9


def path(text: str) -> MachinePath:
    return MachinePath(System.LINUX, "/", tuple(text.strip("/").split("/")))


@dataclass(frozen=True)
class There:
    """A file; ``content`` represents what is in it."""

    name: str
    size: int = 7_654_321
    date: int = DAY_NS
    content: str = ""
    media: MediaFacts = NOTHING_TOLD


def match(lost: list[Lost], *there: There) -> list[Matched]:
    files = {path(each.name): each for each in there}
    matcher = Matcher(lost)
    for place, each in files.items():
        matcher.see(place, each.size, each.date)
    return matcher.match(
        lambda place, method: f"{method}:{files[place].content or files[place].name}", lambda place: files[place].media
    )


def choices(found: list[Matched]) -> list[str]:
    return [str(each.choice.path) if each.choice else "" for each in found]


LOST = Lost(path("/old/Rain/Lamp Lit 2.wav"), 7_654_321, modified_ns=DAY_NS)


@pytest.mark.parametrize("name", ["/new/Rain/Lamp Lit 2.wav", "/new/LAMP_lit 2 (1).wav", "/new/Owl.wav"])
def test_size_and_date_together_are_enough_under_any_name(name: str) -> None:
    assert choices(match([LOST], There(name))) == [name]


def test_a_zone_s_shift_of_the_date_is_no_other_date() -> None:
    assert choices(match([LOST], There("/new/Lamp Lit 2.wav", date=DAY_NS + 2 * 3600 * 10**9))) != [""]


@pytest.mark.parametrize(
    "nasty",
    [
        There("/new/Rain/Lamp Lit 2.wav", size=9),  # of the same name, with other content
        There("/new/Rain/Lamp Lit 2.wav", date=5 * DAY_NS + 1),  # edited in place, as long as before
        There("/new/Rain/Lamp Lit 3.wav", date=DAY_NS + 61 * 10**9),  # the take after it
        There("/new/Rain/Lamp Lit 2.wav", size=7_000_000),  # truncated, with its date
        There("/new/Rain/Lamp Lit 2.flac", size=4_000_000),  # converted
    ],
)
def test_what_only_looks_like_it_is_not_taken(nasty: There) -> None:
    assert choices(match([LOST], nasty)) == [""]


def test_names_that_were_exchanged_do_not_mislead() -> None:
    lost = [Lost(path("/a/One.wav"), 5_000_001, modified_ns=1), Lost(path("/a/Two.wav"), 6_000_003, modified_ns=DAY_NS)]
    there = There("/b/Two.wav", 5_000_001, 1), There("/b/One.wav", 6_000_003, DAY_NS)
    assert choices(match(lost, *there)) == ["/b/Two.wav", "/b/One.wav"]


def test_a_known_content_decides_and_several_entries_may_share_it() -> None:
    lost = [Lost(path(f"/a/{name}.wav"), 10, "sha1:x") for name in ("One", "Two")]
    assert choices(match(lost, There("/b/Other.wav", 10, content="x"))) == ["/b/Other.wav"] * 2
    assert choices(match(lost, There("/b/One.wav", 10, content="y"))) == ["", ""]


def test_a_known_content_is_found_among_any_number_of_files_of_one_size() -> None:
    lost = [Lost(path(f"/a/take {number}.wav"), 10, f"sha1:{number}") for number in range(200)]
    there = [There(f"/b/x{number:03}.wav", 10, content=str(number)) for number in range(200)]
    assert choices(match(lost, *there)) == [each.name for each in there]


def test_what_agrees_in_more_comes_first_and_twins_are_told() -> None:
    exact, shifted = There("/new/A.wav", content="x"), There("/new/B.wav", date=DAY_NS + 3600 * 10**9, content="y")
    (found,) = match([LOST], shifted, exact)
    assert [str(each.path) for each in found.candidates] == [exact.name, shifted.name]
    (found,) = match([LOST], There("/new/A.wav", content="x"), There("/new/B.wav", content="x"))
    assert found.choice is None
    assert len({each.confidence for each in found.candidates}) == 1
    assert all("one of 2 files with one content" in each.why for each in found.candidates)


def test_without_it_a_file_goes_to_one_entry_only() -> None:
    lost = [LOST, Lost(path("/old/Rain/Lamp Lit 2 (1).wav"), LOST.size_bytes, modified_ns=DAY_NS)]
    assert sorted(choices(match(lost, There("/new/Lamp Lit 2.wav")))) != ["/new/Lamp Lit 2.wav"] * 2


def test_of_equal_copies_the_one_in_a_folder_of_the_same_name_is_taken_and_else_none() -> None:
    one, two = There("/new/Rain/Lamp Lit 2.wav", content="x"), There("/new/B/Lamp Lit 2.wav", content="x")
    assert choices(match([LOST], one, two)) == [one.name]
    assert choices(match([LOST], two, There("/new/C/Lamp Lit 2.wav", content="x"))) == [""]
    (found,) = match([LOST], one, There(two.name, content="y"))
    assert found.choice is None
    assert sum(each.confidence for each in found.candidates) <= 1


def test_another_length_speaks_against_it() -> None:
    lost = Lost(path("/old/Lamp Lit.wav"), None, modified_ns=DAY_NS, media=MediaFacts(duration_s=12.0))
    same, other = (There("/new/Lamp Lit.wav", media=MediaFacts(duration_s=s)) for s in (12.4, 30.0))
    (first,), (second,) = match([lost], same), match([lost], other)
    assert first.candidates[0].confidence > 0.5
    assert not second.candidates or second.candidates[0].confidence < 0.1
    assert "the same length" in first.candidates[0].why


@given(st.lists(st.tuples(st.text("ab1 ._", max_size=8), st.integers(0, 4), st.integers(0, 3)), max_size=12), st.data())
def test_every_confidence_is_a_probability(rows: list[tuple[str, int, int]], data: st.DataObject) -> None:
    files = [There(f"/n/{number}/x{name}.wav", size, date) for number, (name, size, date) in enumerate(rows)]
    lost = [
        Lost(path(f"/o/x{name}.wav"), size, modified_ns=date)
        for name, size, date in rows[: data.draw(st.integers(0, 12))]
    ]
    for each in match(lost, *files):
        assert all(0 <= candidate.confidence <= 1 for candidate in each.candidates)
        assert [c.confidence for c in each.candidates] == sorted((c.confidence for c in each.candidates), reverse=True)


def test_media_files_tell_their_length_and_dimensions(small: SmallMove, tmp_path: Path) -> None:
    from PIL import Image

    Image.new("RGB", (12, 34)).save(tmp_path / "moth.png")
    assert media_facts(tmp_path / "moth.png") == MediaFacts(dimensions=(12, 34))
    sound = next(small.old_disks.rglob("Lamp Lit.wav"))
    assert (media_facts(sound).duration_s or 0) > 0
    (tmp_path / "no.wav").write_bytes(b"RIFF")
    assert media_facts(tmp_path / "no.wav") == NOTHING_TOLD


# -- the command -------------------------------------------------------------------------------------------------------


@pytest.fixture
def parted(small: SmallMove) -> tuple[str, ...]:
    """Two sounds have gone elsewhere one by one, and one of them was renamed, too; the arguments to look for them."""
    store, away = small.old_disks / "e/Lanternfold/Sound Store", small.old_disks / "e/Away"
    away.mkdir()
    files = sorted(each for each in store.rglob("*.wav") if each.is_file())
    shutil.move(files[0], away / "Something else.wav")
    shutil.move(files[1], away / files[1].name)
    at = ("relink", "--at", str(small.demo.old_sheet), "--guides", str(small.demo.guides))
    return (*at, "--look-in", "E:\\Away", "--keep-in", str(small.demo.carrier), "--json")


def test_a_table_of_what_is_not_sure_is_written_edited_and_handed_back(
    zesty: Zesty, parted: tuple[str, ...], tmp_path: Path
) -> None:
    table = tmp_path / "undecided.csv"
    told = json.loads(zesty(*parted, "--decisions", table, "--dry-run").stdout)
    unsure = [each for each in told["matched"] if each["choice"] is None and each["candidates"]]
    rows = list(csv.DictReader(io.StringIO(table.read_text("utf-8-sig"))))
    assert [row["recorded path"] for row in rows] == [each["recorded"] for each in unsure] != []
    for row in rows:
        row["choice"] = "1"
    text = io.StringIO()
    edited = csv.DictWriter(text, list(rows[0]), delimiter=";")
    edited.writeheader()
    edited.writerows(rows)
    table.write_text(text.getvalue(), "utf-8-sig")
    said = json.loads(zesty(*parted, "--decisions", table, "--yes").stdout)
    assert said["explained"] == told["explained"] + len(rows)
    assert said["relinked"]["catalogs"][0]["entries-moved"] >= 1
    again = zesty(*parted, "--decisions", table, "--yes")  # what it says was done, and is no mistake
    assert again.returncode in (0, 1), again.stdout
    assert "mistakes" not in again.stdout


def test_wrong_and_stale_rows_are_refused_by_their_number(
    zesty: Zesty, parted: tuple[str, ...], tmp_path: Path
) -> None:
    table = tmp_path / "undecided.csv"
    zesty(*parted, "--decisions", table, "--dry-run")
    recorded = next(csv.DictReader(io.StringIO(table.read_text("utf-8-sig"))))["recorded path"]
    choices = [(recorded, "7"), (recorded, "E:\\Nowhere.wav"), ("E:\\Other.wav", "1"), (recorded, "so"), (recorded, "")]
    text = io.StringIO()
    csv.writer(text).writerows([("recorded path", "choice"), *choices])
    table.write_text(text.getvalue())
    said = zesty(*parted, "--decisions", table, "--yes")
    assert said.returncode == 3
    error = json.loads(said.stdout)["error"]
    assert [each.split(":")[0] for each in error["details"]] == ["row 2", "row 3", "row 4", "row 5"]
    table.write_text("a,b\n")
    assert "no column 'recorded path'" in zesty(*parted, "--decisions", table).stdout
