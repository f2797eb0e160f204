"""Companions that are named by the path of their media follow it, with a crate and without."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from urllib.parse import quote

import pytest
from hypothesis import given

from conftest import Zesty
from support.moves import SmallMove, picture
from support.strategies import machine_paths
from zesty_crate.paths import MachinePath, Spelling, file_url, read_path

GUIDE = """[guide]
id = "glimmer"
title = "Glimmer"
language = 1
[places]
own = { windows = '{app-data}\\Glimmer', macos = "{app-data}/Glimmer", linux = "{config}/glimmer" }
[[holding]]
id = "glances"
kind = "companions"
at = "{own}/glances"
named-by = { path = "file-url", as = "md5", name = "{key}.png" }
"""


def glance(url: str) -> str:
    return hashlib.md5(url.encode(), usedforsecurity=False).hexdigest() + ".png"


@given(machine_paths())
def test_a_file_url_reads_back(path: MachinePath) -> None:
    assert read_path(file_url(path), path.system, Spelling.FILE_URL).path == path


def laid_out(small: SmallMove, start: str = "file:///E:/") -> tuple[Path, str]:
    """The guide, and one companion of a sound on the drive; its folder, and the sound's name."""
    (small.demo.guides / "glimmer.toml").write_text(GUIDE)
    store = small.old_disks / "e/Lanternfold/Sound Store"
    sound = next(store.rglob("*.wav")).relative_to(store).as_posix()
    folder = small.old_disks / "c/Users/Odile/AppData/Roaming/Glimmer/glances"
    folder.mkdir(parents=True)
    (folder / glance(f"{start}Lanternfold/Sound%20Store/" + quote(sound, safe="/!$&'()*+,=:@"))).write_bytes(b"png")
    (folder / "other.png").write_bytes(b"png")
    return folder, sound


@pytest.mark.parametrize(
    ("start", "new_start"),
    [
        ("file:///E:/", "file:///Volumes/"),
        ("file://localhost/E:/", "file://localhost/Volumes/"),
        ("file:/E:/", "file:/Volumes/"),
        ("file:///E%3A/", "file:///Volumes/"),
        ("file:///e:/", "file:///Volumes/"),
    ],
)
def test_they_are_unpacked_under_the_name_of_the_new_path(tmp_path: Path, start: str, new_start: str) -> None:
    small = SmallMove(tmp_path / "demo")
    _, sound = laid_out(small, start)
    plan = small.up_to_plan().plan()
    assert any("whose names no path explains: 1 of 2" in note for note in plan.notes)
    assert any("renamed after the new path: 1" in note for note in plan.notes)
    small.unpack()
    small.relink()
    (there,) = small.new_disks.rglob("glances")
    url = new_start + "Spools/Lanternfold/Sound%20Store/" + quote(sound, safe="/!$&'()*+,=:@")
    assert sorted(each.name for each in there.iterdir()) == sorted([glance(url), "other.png"])
    assert not [each for each in small.check().problems if "glimmer" in each.holding]


def test_they_are_renamed_where_they_are_when_a_folder_is_rehomed(zesty: Zesty, tmp_path: Path) -> None:
    small = SmallMove(tmp_path / "demo")
    folder, sound = laid_out(small)
    before = picture(small.old_disks)
    at = (
        "--at",
        small.demo.old_sheet,
        "--guides",
        small.demo.guides,
        "--keep-in",
        tmp_path / "kept",
        "--json",
        "--yes",
    )
    done = json.loads(zesty("relink", *at, "--rehome", "E:\\Lanternfold\\Sound Store=E:\\Final").stdout)
    url = "file:///E:/Final/" + quote(sound, safe="/!$&'()*+,=:@")
    assert sorted(each.name for each in folder.iterdir()) == sorted([glance(url), "other.png"])
    assert zesty("undo", done["kept"], "--to", small.demo.old_sheet, "--yes").returncode == 0
    assert picture(small.old_disks) == before
