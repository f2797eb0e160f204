"""A folder of media goes to its final place, and all recorded paths go along: both or neither."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import SmallMove, picture

STORE = "E:\\Lanternfold\\Sound Store"


@pytest.fixture
def at(small: SmallMove, tmp_path: Path) -> tuple[object, ...]:
    keep = tmp_path / "kept"
    return ("relink", "--at", small.demo.old_sheet, "--guides", small.demo.guides, "--keep-in", keep, "--json")


def test_folder_and_paths_go_together_and_come_back(zesty: Zesty, small: SmallMove, at: tuple[object, ...]) -> None:
    before = picture(small.old_disks)
    route = f"{STORE}=E:\\Final\\Quiet\\Sounds"
    told = json.loads(zesty(*at, "--rehome", route, "--dry-run").stdout)
    assert picture(small.old_disks) == before
    assert zesty(*at, "--rehome", route).returncode == 3  # nobody is here to agree
    done = json.loads(zesty(*at, "--rehome", route, "--yes").stdout)
    assert done["entries"] == told["entries"] > 0
    assert (done["still-leading-there"], done["found-after"]) == ([], told["found-before"])
    assert not (small.old_disks / "e/Lanternfold/Sound Store").exists()
    assert (small.old_disks / "e/Final/Quiet/Sounds").is_dir()
    assert zesty("undo", done["kept"], "--to", small.demo.old_sheet, "--yes").returncode == 0
    assert picture(small.old_disks) == before


def test_a_folder_with_its_own_documents_keeps_what_is_relative(
    zesty: Zesty, small: SmallMove, at: tuple[object, ...]
) -> None:
    store = small.old_disks / "e/Lanternfold/Sound Store"
    sound = next(store.rglob("*.wav")).relative_to(store).as_posix().replace("/", "\\")
    (store / "evening.m3u8").write_text(f"{sound}\n{STORE}\\{sound}\n")
    done = json.loads(zesty(*at, "--rehome", f"{STORE}=E:\\Final", "--yes").stdout)
    assert done["still-leading-there"] == []
    assert (small.old_disks / "e/Final/evening.m3u8").read_text() == f"{sound}\nE:\\Final\\{sound}\n"


@pytest.mark.parametrize(
    ("route", "why"),
    [
        (f"{STORE} two=E:\\Final", "There is no folder"),
        (f"{STORE}=E:\\Lanternfold", "already exists"),
        (f"{STORE}={STORE}\\Deeper", "is inside"),
        (f"{STORE}=C:\\Final", "is on another volume"),
        ("C:\\Users\\Odile\\Nothing=C:\\Users\\Odile\\Table", "No catalog entry refers"),
    ],
)
def test_what_cannot_be_is_refused(
    zesty: Zesty, small: SmallMove, at: tuple[object, ...], route: str, why: str
) -> None:
    (small.old_disks / "c/Users/Odile/Nothing").mkdir()
    before = picture(small.old_disks)
    said = zesty(*at, "--rehome", route, "--yes")
    assert (said.returncode, why in said.stdout) == (3, True), said.stdout
    assert picture(small.old_disks) == before


def test_an_entry_that_is_the_folder_itself_goes_along(zesty: Zesty, small: SmallMove, at: tuple[object, ...]) -> None:
    (small.old_disks / "e/Lanternfold/Marsh").mkdir()
    (small.old_disks / "c/Users/Odile/Desktop").mkdir(parents=True, exist_ok=True)
    catalog = small.old_disks / "c/Users/Odile/Desktop/marsh.m3u8"
    catalog.write_text("E:\\Lanternfold\\Marsh\n")
    done = json.loads(zesty(*at, "--rehome", "E:\\Lanternfold\\Marsh=E:\\Marsh", "--yes").stdout)
    assert (done["entries"], done["still-leading-there"]) == (1, [])
    assert catalog.read_text() == "E:\\Marsh\n"


def test_the_originals_must_not_go_along(zesty: Zesty, small: SmallMove, at: tuple[object, ...]) -> None:
    inside = small.old_disks / "e/Lanternfold/Sound Store/kept"
    said = zesty(*at, "--keep-in", inside, "--rehome", f"{STORE}=E:\\Final", "--yes")
    assert (said.returncode, "is inside the folder to move" in said.stdout) == (3, True)
    assert not inside.exists()


@contextmanager
def held_open(path: Path) -> Iterator[None]:
    """Another program has a file open, for writing."""
    code = f"file = open({str(path)!r}, 'r+b'); print(flush=True); input()"
    with subprocess.Popen([sys.executable, "-c", code], stdin=subprocess.PIPE, stdout=subprocess.PIPE) as process:
        assert process.stdout is not None
        process.stdout.readline()
        yield
        process.kill()


def test_a_catalog_that_is_open_somewhere_is_not_touched(
    zesty: Zesty, small: SmallMove, at: tuple[object, ...]
) -> None:
    catalog = next(small.old_disks.rglob("shelf.db"))
    before = picture(small.old_disks)
    with held_open(catalog):
        said = zesty(*at, "--rehome", f"{STORE}=E:\\Final", "--yes")
    assert said.returncode in (3, 4)
    assert "is open in" in said.stdout
    assert picture(small.old_disks) == before
