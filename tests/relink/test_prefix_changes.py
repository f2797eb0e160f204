"""What people read before anything is written: which beginnings of paths become which."""

from __future__ import annotations

from pathlib import Path

import pytest

from support.catalog_bench import list_of
from zesty_crate.catalogs import Cell, Change
from zesty_crate.relink.prefix_changes import PrefixChange, prefix_changes


@pytest.mark.parametrize(
    ("old", "new", "heads"),
    [
        ("C:\\Sounds\\Rain\\a.wav", "/Users/o/Sounds/Rain/a.wav", ("C:\\", "/Users/o/")),
        ("file:///E:/A%20B/x.wav", "file:///Volumes/S/A%20B/x.wav", ("file:///E:/", "file:///Volumes/S/")),
        ("..\\..\\Music\\x.wav", "../../Music/x.wav", ("..\\", "../")),
        ("a.wav", "b.wav", ("a.wav", "b.wav")),
        ("E:\\a.wav", "E:\\b.wav", ("E:\\a.wav", "E:\\b.wav")),
        ("E:\\Old\\", "E:\\New\\", ("E:\\Old\\", "E:\\New\\")),
    ],
)
def test_names_that_stay_are_left_out(tmp_path: Path, old: str, new: str, heads: tuple[str, str]) -> None:
    listed = list_of(tmp_path / "list", *(Change(Cell("drawer", "base", row), old, new) for row in range(3)))
    assert prefix_changes(listed) == (PrefixChange("drawer.base", *heads, 3, (old, new)),)
