"""The installed program, as a technician runs it: output, JSON, exit statuses, and what it says about bad input."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import bagit
import pytest

from conftest import Zesty
from support.moves import SmallMove, picture

DONE, ATTENTION, USAGE, REFUSED, HALFWAY = range(5)


class Bench:
    """A laid-out demo, and the program."""

    def __init__(self, zesty: Zesty, root: Path) -> None:
        self.zesty = zesty
        self.move = SmallMove.at(root)
        self.crate = self.move.crate.root
        self.old, self.new, self.guides = (self.move.demo.old_sheet, self.move.demo.new_sheet, self.move.demo.guides)

    def step(self, name: str, *more: str | Path) -> subprocess.CompletedProcess[str]:
        arguments: list[str | Path] = [name, self.crate, *more]
        if name == "survey":
            arguments += ["--from", self.old, "--guides", self.guides]
        elif name != "pack":
            arguments += ["--to", self.new]
        return self.zesty(*arguments)

    def json(self, name: str, *more: str) -> dict[str, Any]:
        said = json.loads(self.step(name, "--json", *more).stdout)
        assert isinstance(said, dict)
        return said


@pytest.fixture
def bench(zesty: Zesty, tmp_path: Path) -> Bench:
    SmallMove(tmp_path / "demo")
    return Bench(zesty, tmp_path / "demo")


@pytest.fixture
def ready(zesty: Zesty, small: SmallMove) -> Bench:
    return Bench(zesty, small.demo.root)


def test_the_demo_ends_with_everything_found(zesty: Zesty, tmp_path: Path) -> None:
    said = zesty("demo", tmp_path / "show")
    assert said.returncode == DONE, said.stderr
    assert "390 catalog entries: 380 found, 6 missing-before, 3 remote, 1 unplugged." in said.stdout
    assert said.stderr == ""
    assert "merge: 3 new, 1 on both; new groups: On the road" in said.stdout
    travel, crate = sorted((tmp_path / "show" / "carrier").glob("Odile*"))
    assert zesty("undo", travel, "--to", tmp_path / "show/cartshed/sheet.toml", "--yes").returncode == DONE
    assert crate.name.startswith("Odile - paintloft - 20")
    bagit.Bag(str(crate)).validate()
    checked = zesty("check", crate, "--to", tmp_path / "show/cartshed/sheet.toml", "--json")
    totals = json.loads(checked.stdout)["totals"]
    assert (totals["found"], totals["missing"], totals["entries"]) == (380, 0, 390)
    assert zesty("undo", crate, "--to", tmp_path / "show/cartshed/sheet.toml", "--yes").returncode == DONE
    zesty("demo", tmp_path / "untouched", "--lay-out")
    # All is as it was, but for the sheet, in which the technician corrected a version.
    assert picture(tmp_path / "show/cartshed/disks") == picture(tmp_path / "untouched/cartshed/disks")
    again = zesty("demo", tmp_path / "show")
    assert again.returncode == REFUSED
    assert "is not an empty folder" in again.stderr


def lay_out_with_all_guides(zesty: Zesty, place: Path) -> None:
    """The demo, with a guide of the one program that has none, drafted from its folder."""
    zesty("demo", place, "--lay-out")
    packs = ("--look-in", "C:\\Users\\Odile\\Documents\\Dapplegarth Packs", "-o", place / "guides/packs.toml")
    drafted = zesty("guide", "draft", "--at", place / "paintloft/sheet.toml", *packs)
    assert drafted.returncode == DONE, drafted.stderr


def test_the_survey_of_the_whole_theatre(zesty: Zesty, tmp_path: Path) -> None:
    lay_out_with_all_guides(zesty, tmp_path / "show")
    old, guides, crate = tmp_path / "show/paintloft/sheet.toml", tmp_path / "show/guides", tmp_path / "crate"
    said = zesty(
        "survey",
        crate,
        "--from",
        old,
        "--guides",
        guides,
        "--spot-check",
        "moth wok",
        "--spot-check",
        "Rim",
        "--csv",
        tmp_path / "tables",
    )
    assert said.returncode == ATTENTION, said.stderr
    for line in (
        "394 catalog entries: 381 found, 7 missing-before, 3 remote, 2 outside, 1 unplugged",
        "Gorsebell Running Order 5.0.2",
        "E:\\Lanternfold\\Instruments\\Hurdy-gurdy (borrowed)",
        "media of class proxy: 54 files",
        "7 factory files that come with installers, 2.6 kB: Gorsebell Running Order: plugins; Mothwick Cloths",
        "named: E:\\Lanternfold\\Instruments\\Marsh Drums\\Samples\\rim.wav",
        'There is no item named "moth wok" (did you mean "moth walk"?)',
    ):
        assert line in said.stdout
    assert len(list((tmp_path / "tables").iterdir())) == 10
    entries = (tmp_path / "tables/entries.csv").read_text(encoding="utf-8-sig").splitlines()
    assert entries[0] == "holding,key,name,recorded,path,state,why"
    assert len(entries) == 395
    assert zesty("survey", crate, "--csv", tmp_path / "tables").returncode == REFUSED
    again = json.loads(zesty("survey", crate, "--json").stdout)
    assert again["totals"]["entries"] == 394
    assert "mothwick/cloths     catalog" in zesty("survey", crate, "--details", "mothwick").stdout
    details = zesty("survey", crate, "--details", "mothwick/cloths")
    assert "  The Paper Geese: 0 members\n    Marsh: 10 members\n" in details.stdout
    near = zesty("survey", crate, "--details", "mothwick/cloth")
    assert (near.returncode, 'Did you mean "mothwick/cloths"?' in near.stderr) == (REFUSED, True)
    named = zesty("survey", crate, "--spot-check", "Tilleul", "--json")
    assert [each["at"].rpartition("\\")[2] for each in json.loads(named.stdout)["spot-checks"] if each["named"]] == [
        "rim.wav",
        "Tilleul.png",
    ]


def test_one_computer_is_checked_by_itself(zesty: Zesty, tmp_path: Path) -> None:
    lay_out_with_all_guides(zesty, tmp_path / "show")
    old, guides = tmp_path / "show/paintloft/sheet.toml", tmp_path / "show/guides"
    before = picture(tmp_path / "show")
    said = zesty("check", "--at", old, "--guides", guides, "--json")
    document = json.loads(said.stdout)
    assert (said.returncode, document["totals"]["missing"], document["totals"]["found"]) == (ATTENTION, 7, 381)
    assert picture(tmp_path / "show") == before
    wrong = zesty("check", "--at", old, tmp_path / "crate")
    assert (wrong.returncode, "either CRATE and --to SHEET, or --at SHEET" in wrong.stderr) == (USAGE, True)
    pointless = zesty("check", "--at", old, "--guides", guides, "--content", "all")
    assert pointless.returncode == USAGE
    assert "--content needs a CRATE" in " ".join(pointless.stderr.split())
    fresh = zesty("check", "--at", tmp_path / "show/cartshed/sheet.toml", "--guides", guides)
    assert (fresh.returncode, "cloths.xml." in fresh.stdout) == (ATTENTION, True)


def test_two_demos_are_the_same_to_the_byte(zesty: Zesty, tmp_path: Path) -> None:
    for name in ("one", "two"):
        assert zesty("demo", tmp_path / name, "--lay-out").returncode == DONE
    one, two = picture(tmp_path / "one"), picture(tmp_path / "two")
    assert one == two
    assert sum(path.stat().st_size for path in (tmp_path / "one").rglob("*") if path.is_file()) < 6_000_000


def test_the_whole_job_step_by_step(bench: Bench) -> None:
    before = picture(bench.move.new_disks)
    assert bench.step("survey").returncode == DONE
    assert bench.step("pack", "--outside").returncode == DONE
    assert "all read back and unchanged" in bench.step("pack", "--verify-only").stdout
    assert "No blockers" in bench.step("plan").stdout
    assert bench.step("unpack", "--yes").returncode == DONE
    unlinked = bench.step("check")
    assert unlinked.returncode == ATTENTION
    assert "Needs attention: " in unlinked.stdout
    assert "nothing else differs" in bench.step("relink", "--yes").stdout
    checked = bench.step("check")
    assert checked.returncode == DONE
    assert "All well" in checked.stdout
    assert bench.step("undo", "--yes").returncode == DONE
    assert picture(bench.move.new_disks) == before


def test_json_is_one_document_with_the_agreed_keys(ready: Bench) -> None:
    assert ready.json("unpack", "--yes")["files"] == 13
    assert ready.json("relink", "--dry-run")["dry-run"] is True
    assert ready.json("relink", "--yes")["catalogs"][0]["proof"]["cells-changed"] == 2
    said = ready.json("check")
    assert said["computer"] == "cartshed"
    assert set(said["totals"]) == {
        "found",
        "changed",
        "missing",
        "missing-before",
        "remote",
        "outside",
        "left-out",
        "unplugged",
        "unclear",
        "entries",
    }
    catalog = next(each for each in said["holdings"] if each["kind"] == "catalog")
    assert {"id", "kind", "guide", "title", "totals", "before"} <= catalog.keys()
    assert catalog["before"]["outside"] == 1
    assert {"holding", "entry", "state", "recorded", "why"} <= said["problems"][0].keys()
    assert [step["name"] for step in ready.json("undo", "--dry-run")["steps"]] == ["relink", "unpack"]


@pytest.mark.parametrize("step", ["unpack", "relink", "undo"])
def test_a_computer_is_not_changed_unless_somebody_agrees(ready: Bench, step: str) -> None:
    if step != "unpack":
        ready.step("unpack", "--yes")
    before = picture(ready.move.new_disks)
    said = ready.step(step)
    assert said.returncode == REFUSED
    assert "--yes" in said.stderr
    assert ready.step(step, "--dry-run").returncode == DONE
    assert picture(ready.move.new_disks) == before


# -- bad input -------------------------------------------------------------------------------------------------------


def refused(said: subprocess.CompletedProcess[str], *words: str) -> None:
    assert said.returncode == REFUSED, said.stdout + said.stderr
    assert "Traceback" not in said.stderr
    for word in words:
        assert word in " ".join(said.stderr.split()), said.stderr


def edit(path: Path, old: str, new: str) -> None:
    text = path.read_text(encoding="utf-8")
    assert old in text
    path.write_text(text.replace(old, new), encoding="utf-8")


def test_a_sheet_with_three_mistakes(bench: Bench) -> None:
    edit(bench.old, '"windows"', '"window"')
    edit(bench.old, "running = false", "running = 3")
    edit(bench.old, 'user   = "Odile"', "")
    refused(bench.step("survey"), "has 3 mistakes", "line 4", "line 2: computer.user is missing", "running")
    assert not bench.crate.exists()


def test_a_sheet_that_is_not_there(bench: Bench) -> None:
    bench.old.unlink()
    refused(bench.step("survey"), "nothing is there")


def test_a_guide_with_an_unknown_key(bench: Bench) -> None:
    guide = bench.guides / "wimblethorn.toml"
    edit(guide, "annotations = [", "anotations = [")
    line = next(n for n, text in enumerate(guide.read_text().splitlines(), start=1) if "anotations" in text)
    refused(bench.step("survey"), f"line {line}:", 'did you mean "annotations"?')
    assert not bench.crate.exists()


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (None, "The catalog of Wimblethorn Shelf is not at C:\\Users"),
        (b"MOTHS" * 2000, "Roaming\\Wimblethorn\\shelf.db is not an SQLite database"),
    ],
    ids=["missing", "not SQLite"],
)
def test_a_catalog_that_cannot_be_read(bench: Bench, content: bytes | None, said: str) -> None:
    """It stops no other catalog, nor the survey when it is the only one."""
    catalog = next(bench.move.old_disks.rglob("shelf.db"))
    catalog.unlink() if content is None else catalog.write_bytes(content)
    survey = bench.step("survey")
    assert survey.returncode == ATTENTION
    assert "not read: C:\\Users" in survey.stdout
    assert said in survey.stdout
    shutil.rmtree(bench.crate)
    for each in (*bench.move.old_disks.rglob("*.m3u8"), *bench.move.old_disks.rglob("*.xspf")):
        each.unlink()
    before = picture(bench.move.old_disks)
    alone = bench.step("survey")
    assert (alone.returncode, said in alone.stdout) == (ATTENTION, True)
    assert picture(bench.move.old_disks) == before


def test_a_computer_on_which_nothing_is_found(bench: Bench) -> None:
    edit(bench.old, 'user   = "Odile"', 'user   = "Bertille"')
    edit(bench.old, "Sound Store'", "Nothing'")
    for each in bench.old.parent.rglob("*.[mx][3s][up]*"):
        each.unlink()  # playlists, which are found wherever they lie
    refused(bench.step("survey"), "No guide found anything", "looked for Wimblethorn Shelf: C:\\Users\\Bertille")


def test_no_guides(bench: Bench) -> None:
    shutil.rmtree(bench.guides)
    refused(bench.step("survey"), "guides folder")


def test_a_damaged_payload_file(ready: Bench) -> None:
    victim = next(ready.crate.rglob("Lamp Lit.wav"))
    victim.write_bytes(bytes(victim.stat().st_size))
    before = picture(ready.move.new_disks)
    refused(ready.step("pack", "--verify-only"), "is damaged", "Lamp Lit.wav: content differs")
    refused(ready.step("unpack", "--yes"), "is damaged", "Lamp Lit.wav: content differs")
    assert picture(ready.move.new_disks) == before


def test_a_crate_without_its_manifest(ready: Bench) -> None:
    (ready.crate / "manifest-sha512.txt").unlink()
    refused(ready.step("plan"), "has no manifest-sha512.txt")


def test_an_unfinished_crate(bench: Bench) -> None:
    bench.step("survey")
    refused(bench.step("plan"), "is unfinished", "zesty pack")


def test_a_folder_that_is_no_crate(ready: Bench, tmp_path: Path) -> None:
    refused(ready.zesty("plan", tmp_path, "--to", ready.new), "is not a crate")
    (tmp_path / "mine").mkdir()
    (tmp_path / "mine" / "work.txt").touch()
    said = ready.zesty("survey", tmp_path / "mine", "--from", ready.old, "--guides", ready.guides)
    refused(said, "is not a crate and is not empty. Nothing on a carrier is changed", "Odile - paintloft - ")


def test_errors_are_json_too(ready: Bench) -> None:
    shutil.rmtree(ready.crate / "zesty")
    said = ready.step("check", "--json")
    assert said.returncode == REFUSED
    assert "is not a crate" in json.loads(said.stdout)["error"]["message"]


@pytest.mark.parametrize(
    "arguments", [["--nonsense"], ["nonsense"], ["pack"], ["plan", "x"], ["pack", "x", "--classes"]]
)
def test_wrong_usage(zesty: Zesty, arguments: list[str]) -> None:
    said = zesty(*arguments)
    assert said.returncode == USAGE
    assert "usage: zesty" in said.stderr


def test_help_loads_no_heavy_package(zesty: Zesty) -> None:
    names = ("demo", "sheet", "survey", "pack", "plan", "unpack", "relink", "check", "undo")
    assert all(f"    {name} " in zesty("--help").stdout for name in names)
    for arguments in (["--help"], ["pack", "--nonsense"], ["relink", "--help"]):
        code = (
            "import sys\nfrom zesty_crate.cli.main import main\n"
            f"try: main({arguments!r})\nexcept SystemExit: pass\n"
            "print([m for m in ('pydantic', 'rich', 'apsw', 'tomlkit', 'pathspec', 'hashlib') if m in sys.modules])"
        )
        said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        assert said.stdout.splitlines()[-1] == "[]"


# -- killed ----------------------------------------------------------------------------------------------------------


# -- sheets ----------------------------------------------------------------------------------------------------------


def test_a_sheet_of_a_mounted_disk_leads_to_a_survey(bench: Bench, tmp_path: Path) -> None:
    disks = bench.move.old_disks
    (disks / "c" / "Windows").mkdir()
    made = tmp_path / "found.toml"
    said = bench.zesty("sheet", "--mounted", disks / "c", "--mounted", disks / "e", "-o", made)
    assert said.returncode == DONE, said.stderr
    assert "a guess" in made.read_text()
    edit(made, 'anchor = "C:"', 'anchor = "C:"\nlabel  = "System"')  # its catalog names volumes
    edit(made, 'anchor = "D:"', 'anchor = "E:"\nlabel  = "Spools"')
    made.write_text(
        made.read_text() + "\n[programs.wimblethorn]\nplaces = { store = 'E:\\Lanternfold\\Sound Store' }\n"
    )
    said = bench.zesty("survey", bench.crate, "--from", made, "--guides", bench.guides, "--json")
    totals = json.loads(said.stdout)["totals"]
    assert (totals["found"], totals["outside"]) == (7, 1)
    refused(bench.zesty("sheet", "-o", made), "already exists")


def test_a_survey_of_this_computer(zesty: Zesty, tmp_path: Path) -> None:
    (tmp_path / "media" / "deep").mkdir(parents=True)
    (tmp_path / "media" / "deep" / "a.wav").write_bytes(b"x" * 10)
    (tmp_path / "list.txt").write_text(f"{tmp_path}/media/deep/a.wav\n{tmp_path}/media/gone.wav\n")
    (tmp_path / "guides").mkdir()
    (tmp_path / "guides" / "g.toml").write_text(
        f"""[guide]
id = "g"
title = "Gorsebell"
language = 1
[program]
processes = ["python", "python3", "zesty"]
[[holding]]
id = "media"
kind = "media"
at = "{tmp_path}/media"
[[holding]]
id = "list"
kind = "catalog"
at = "{tmp_path}/list.txt"
syntax = "lines"
[[holding.entries]]
each = "(?P<file>.+)"
path = [{{ at = "file" }}]
"""
    )
    said = zesty("survey", tmp_path / "crate", "--from", "this-computer", "--guides", tmp_path / "guides", "--json")
    assert said.returncode in (DONE, ATTENTION), said.stderr  # other things are on it, too
    document = json.loads(said.stdout)
    totals = document["totals"]
    assert (totals["found"], totals["missing-before"]) == (1, 1)
    assert document["programs"][0]["running"]
    assert any(volume["free-bytes"] for volume in document["volumes"])
    assert zesty("pack", tmp_path / "crate").returncode == DONE


# -- the whole move, and parts of it taken back ----------------------------------------------------------------------


def move(bench: Bench, *more: str) -> subprocess.CompletedProcess[str]:
    arguments = ("--from", bench.old, "--to", bench.new, "--guides", bench.guides, "--outside", *more)
    return bench.zesty("move", bench.crate, *arguments)


def test_a_move_stops_at_the_first_blocker_and_goes_on_from_there(bench: Bench) -> None:
    sheet = bench.new.read_text()
    bench.new.write_text(sheet.replace("running = false", "running = true"))
    said = move(bench, "--yes")
    assert said.returncode == REFUSED
    assert "is running on cartshed" in said.stdout
    assert "Stopped at zesty plan. Clear the cause, then continue with: zesty move " in said.stdout.replace("\n", " ")
    bench.new.write_text(sheet)
    said = move(bench, "--yes")
    assert said.returncode == DONE, said.stderr
    assert "zesty survey" not in said.stdout
    assert "All well" in said.stdout
    before = picture(bench.move.new_disks)
    assert move(bench, "--yes").returncode == DONE
    assert picture(bench.move.new_disks) == before


def test_a_move_that_is_only_looked_at_changes_nothing(bench: Bench) -> None:
    before = picture(bench.move.new_disks)
    said = json.loads(move(bench, "--dry-run", "--json").stdout)
    assert [step["command"] for step in said["steps"]] == ["survey", "pack", "plan", "unpack"]
    assert said["stopped-at"] is None
    assert said["steps"][3]["document"]["dry-run"] is True
    assert picture(bench.move.new_disks) == before


def test_one_step_is_taken_back_and_done_again(ready: Bench) -> None:
    ready.step("unpack", "--yes")
    unpacked = picture(ready.move.new_disks)
    ready.step("relink", "--yes")
    relinked = picture(ready.move.new_disks)
    refused(ready.step("undo", "--only", "unpack", "--yes"), "before the later step relink")
    assert ready.step("undo", "--only", "relink", "--yes").returncode == DONE
    assert picture(ready.move.new_disks) == unpacked
    refused(ready.step("undo", "--only", "relink", "--yes"), "No step relink of this crate was done")
    ready.step("relink", "--yes")
    assert picture(ready.move.new_disks) == relinked
    for _ in range(2):
        assert ready.step("undo", "--only", "last", "--yes").returncode == DONE
    refused(ready.step("undo", "--yes"), "Nothing of this crate was done")


def test_what_blocks_one_program_stops_its_own_part_alone(zesty: Zesty, tmp_path: Path) -> None:
    lay_out_with_all_guides(zesty, tmp_path / "demo")
    demo, crate = tmp_path / "demo", tmp_path / "crate"
    zesty("survey", crate, "--from", demo / "paintloft/sheet.toml", "--guides", demo / "guides")
    zesty("pack", crate, "--outside")
    sheet = demo / "cartshed/sheet.toml"
    to = ("--to", sheet)
    untouched = picture(demo / "cartshed/disks")
    said = zesty("plan", crate, *to, "--decide", "newer", "--decide", "wimblethorn/sounds=both")
    assert said.returncode == REFUSED
    assert "Mothwick Cloths is version 1.9 on cartshed; the carried files need 1.8." in said.stdout
    assert "To do: Start Gorsebell Running Order once on cartshed" in said.stdout
    said = zesty("unpack", crate, *to, "--yes")
    assert (said.returncode, "255 files" in said.stdout) == (ATTENTION, True)
    assert zesty("relink", crate, *to, "--yes").returncode == DONE
    checked = json.loads(zesty("check", crate, *to, "--json").stdout)
    assert any("not unpacked yet: Mothwick Cloths is version 1.9" in each["why"] for each in checked["problems"])
    edit(sheet, '"1.9"', '"1.8"')
    assert zesty("unpack", crate, *to, "--yes").returncode == DONE
    assert zesty("relink", crate, *to, "--yes").returncode == DONE
    assert json.loads(zesty("check", crate, *to, "--json").stdout)["totals"]["missing"] == 0
    assert zesty("undo", crate, *to, "--yes").returncode == DONE
    assert picture(demo / "cartshed/disks") == untouched


def test_routes_are_given_by_hand_and_kept(ready: Bench) -> None:
    old = r"C:\Users\Odile\Music\Wimblethorn Sounds"
    new = "/Users/odile.k/Music/A = B"
    said = ready.step("plan", "--route", f"{old}={new}")
    assert said.returncode == DONE, said.stderr
    assert f"  {old}\n    to {new}\n" in said.stdout
    assert f"to {new}" in ready.step("plan").stdout
    ready.step("unpack", "--yes")
    assert list((ready.move.new_disks / "system/Users/odile.k/Music/A = B").rglob("*.wav"))
    refused(ready.step("plan", "--route", "somewhere=else"), "is not of the form OLD=NEW", "OLD=NEW")
    two = ("--route", f"{old}=/Users/a", "--route", f"{old}=/Users/b")
    refused(ready.step("plan", *two), "Two routes start at", "/Users/a", "/Users/b")
