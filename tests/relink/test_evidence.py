"""Where folders went, found from evidence; and a computer whose catalogs are relinked by it, with no crate."""

from __future__ import annotations

import json
import random
import re
import shutil
from collections.abc import Mapping
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from conftest import Zesty
from support.moves import SmallMove, picture
from zesty_crate.paths import MachinePath, System
from zesty_crate.relink import Evidence, Lost, Searcher


def path(text: str) -> MachinePath:
    return MachinePath(System.LINUX, "/", tuple(text.strip("/").split("/")))


def evidence(missing: Mapping[str, int | None], there: Mapping[str, int | None]) -> Evidence:
    searcher = Searcher((Lost(path(each), size) for each, size in missing.items()), str.casefold)
    for each, size in there.items():
        searcher.see(path(each), size)
    return searcher.search()


def routes(found: Evidence) -> dict[str, tuple[str, int, int, int]]:
    return {
        str(each.route.old): (str(each.route.new), each.found, each.missing, each.contradicted) for each in found.routes
    }


def test_the_folder_that_went_is_found() -> None:
    missing = {"/old/Music/A/x.wav": 1, "/old/Music/A/y.wav": 2, "/old/Music/B/z.wav": None, "/old/Music/B/gone.wav": 9}
    there = {"/new/Store/Music/A/x.wav": 1, "/new/Store/Music/a/Y.wav": 2, "/new/Store/Music/B/z.wav": 3}
    found = evidence(missing, there)
    assert routes(found) == {"/old/Music": ("/new/Store/Music", 3, 4, 0)}
    assert [str(each) for each in found.left] == ["/old/Music/B/gone.wav"]
    assert str(found.explained[path("/old/Music/A/y.wav")]) == "/new/Store/Music/a/Y.wav"


def test_another_size_speaks_against_a_move_and_is_counted() -> None:
    missing = {f"/old/A/{n}.wav": n for n in range(5)} | {"/old/A/edited.wav": 100}
    there = {f"/new/A/{n}.wav": n for n in range(5)} | {"/new/A/edited.wav": 101}
    found = evidence(missing, there)
    assert routes(found) == {"/old/A": ("/new/A", 5, 6, 1)}
    assert [str(each) for each in found.left] == ["/old/A/edited.wav"]
    assert routes(evidence({f"/old/A/{n}": 1 for n in range(5)}, {f"/new/A/{n}": 2 for n in range(5)})) == {}


def test_two_copies_are_in_doubt_and_nothing_is_guessed() -> None:
    missing = {f"/old/A/{n}.wav": n for n in range(5)}
    there = {f"/{top}/A/{n}.wav": n for n in range(5) for top in ("one", "two")}
    found = evidence(missing, there)
    assert (found.routes, found.explained) == ((), {})
    (doubt,) = found.doubts
    assert ([str(each) for each in doubt.new], doubt.entries) == (["/one/A", "/two/A"], 5)


def test_a_chance_namesake_of_a_few_does_not_cast_doubt_on_the_many() -> None:
    missing = {f"/old/A/{n}.wav": None for n in range(20)}
    there = {f"/new/A/{n}.wav": None for n in range(20)} | {"/else/A/3.wav": None}
    assert routes(evidence(missing, there)) == {"/old/A": ("/new/A", 20, 20, 0)}


def test_a_folder_that_went_to_two_places_goes_folder_by_folder() -> None:
    missing = {f"/old/{folder}/{n}.wav": n for folder in "ABC" for n in range(4)}
    there = {f"/one/A/{n}.wav": n for n in range(4)} | {f"/two/{f}/{n}.wav": n for f in "BC" for n in range(4)}
    found = evidence(missing, there)
    assert len(found.explained) == 12
    assert routes(found)["/old"][0] == "/two"
    assert routes(found)["/old/A"][:2] == ("/one/A", 4)


def test_a_name_alone_is_not_enough() -> None:
    assert routes(evidence({"/old/a/take.wav": None}, {"/new/b/take.wav": None})) == {}
    assert routes(evidence({"/old/a/take.wav": 7}, {"/new/b/take.wav": 7})) == {"/old/a": ("/new/b", 1, 1, 0)}


names = st.sampled_from(["A", "B", "kick.wav", "snare.wav", "take 1.wav", "Music"])
paths = st.lists(names, min_size=1, max_size=4).map(lambda parts: "/" + "/".join(parts))


@given(
    st.dictionaries(paths.map("/old{}".format), st.integers(0, 2), max_size=12),
    st.dictionaries(paths.map("/new{}".format), st.integers(0, 2), max_size=12),
)
def test_what_is_explained_is_there_with_its_name_and_size(missing: dict[str, int], there: dict[str, int]) -> None:
    found = evidence(missing, there)
    assert {*map(str, found.explained), *map(str, found.left)} == set(missing)
    assert len(found.explained) + len(found.left) == len(missing)
    for old, new in found.explained.items():
        assert there[str(new)] == missing[str(old)]
        assert old.name == new.name


def test_many_of_one_name_are_no_burden() -> None:
    chance = random.Random(7)
    missing = {f"/old/Kits/{n:05d}/kick.wav": chance.randrange(9) for n in range(20_000)}
    there = {name.replace("/old", "/mnt/box"): size for name, size in missing.items()}
    found = evidence(missing, there)
    assert routes(found) == {"/old/Kits": ("/mnt/box/Kits", 20_000, 20_000, 0)}


# -- the command -----------------------------------------------------------------------------------------------------


def test_one_computer_is_relinked_from_evidence_and_taken_back(zesty: Zesty, small: SmallMove, tmp_path: Path) -> None:
    disks = small.old_disks
    (disks / "e/Archive").mkdir()
    shutil.move(disks / "e/Lanternfold/Sound Store", disks / "e/Archive/Store")
    before = picture(disks)
    at = ("--at", small.demo.old_sheet, "--guides", small.demo.guides)
    look = (*at, "--look-in", "E:\\Archive", "--keep-in", tmp_path)
    lost = json.loads(zesty("check", *at, "--json").stdout)["totals"]["missing"]
    told = json.loads(zesty("relink", *look, "--dry-run", "--json").stdout)
    assert [(*list(each["route"].values())[:2], each["found"], each["missing"]) for each in told["routes"]] == [
        ("E:\\Lanternfold\\Sound Store", "E:\\Archive\\Store", 2, 6)
    ]
    assert picture(disks) == before
    assert zesty("relink", *look).returncode == 3  # nobody is here to agree
    said = zesty("relink", *look, "--yes")
    assert said.returncode == 1, said.stderr  # one was missing before already
    assert re.search(r"shelf\.label: Lanternfold\n +Archive\n", said.stdout), said.stdout
    (kept,) = [each for each in tmp_path.iterdir() if each.name.endswith("catalogs before relinking")]
    assert len(list((kept / "data").rglob("*.db"))) == 1
    assert json.loads(zesty("check", *at, "--json").stdout)["totals"]["missing"] == lost - 2
    assert zesty("undo", kept, "--to", small.demo.old_sheet, "--yes").returncode == 0
    assert picture(disks) == before


def test_a_route_of_ones_own_decides_what_evidence_does_not(zesty: Zesty, small: SmallMove, tmp_path: Path) -> None:
    disks = small.old_disks
    shutil.copytree(disks / "e/Lanternfold/Sound Store", disks / "e/Two")
    shutil.move(disks / "e/Lanternfold/Sound Store", disks / "e/One")
    at = ("relink", "--at", small.demo.old_sheet, "--guides", small.demo.guides, "--keep-in", tmp_path, "--json")
    look = ("--look-in", "E:\\One", "--look-in", "E:\\Two")
    told = json.loads(zesty(*at, *look, "--dry-run").stdout)
    assert (told["routes"], [len(each["new"]) for each in told["doubts"]]) == ([], [2])
    route = "E:\\Lanternfold\\Sound Store=E:\\One"
    told = json.loads(zesty(*at, *look, "--route", route, "--yes").stdout)
    assert [(each["route"]["new"], each["found"]) for each in told["routes"]] == [("E:\\One", 2)]
    assert told["relinked"]["catalogs"]
    refused = zesty(*at, "--route", f"{route}", "--route", "E:\\Lanternfold\\Sound Store=E:\\Two")
    assert (refused.returncode, "Two routes start at" in refused.stderr) == (3, True)


def test_what_cannot_be_looked_in_is_refused(zesty: Zesty, small: SmallMove) -> None:
    at = ("relink", "--at", small.demo.old_sheet, "--guides", small.demo.guides)
    assert "There is no folder E:\\Nowhere" in zesty(*at, "--look-in", "E:\\Nowhere").stderr
    assert "is not a path of paintloft" in zesty(*at, "--look-in", "Nowhere").stderr
    assert zesty(*at).returncode == 2
    assert zesty("relink", small.crate.root).returncode == 2
