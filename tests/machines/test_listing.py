"""All below a folder: the process beside tells the same as this one."""

from __future__ import annotations

import os
from pathlib import Path

import psutil
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from zesty_crate.machines import DiskError
from zesty_crate.machines.listing import Contents, contents_below, contents_of

NAMES = st.text(st.characters(exclude_characters="/\0", exclude_categories=["Cs"]), min_size=1, max_size=8).filter(
    lambda name: name not in (".", "..")
)
TREES = st.lists(st.lists(NAMES, min_size=1, max_size=4), max_size=12)


def told(top: Path, enough: int, *skipped: Path) -> list[Contents | str]:
    found = contents_below(top, contents_of, enough, frozenset(map(str, skipped)))
    return [str(each) if isinstance(each, DiskError) else each for each in found]


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(TREES, st.integers(0, 5))
def test_a_process_beside_lists_what_this_one_lists(
    tmp_path_factory: pytest.TempPathFactory, tree: list[list[str]], enough: int
) -> None:
    top = tmp_path_factory.mktemp("tree")
    for number, names in enumerate(tree):
        folder = top.joinpath(*names[:-1])
        if all(each.is_dir() or not each.exists() for each in (folder, *folder.parents)):
            folder.mkdir(parents=True, exist_ok=True)
            if not (folder / names[-1]).exists():
                (folder / names[-1]).write_bytes(bytes(number))
    assert told(top, enough) == told(top, 10**9)
    inner = [each for each in top.rglob("*") if each.is_dir()][::2]
    without = told(top, enough, *inner)
    assert without == told(top, 10**9, *inner)
    assert len(without) == 1 + sum(not {each, *each.parents} & {*inner} for each in top.rglob("*") if each.is_dir())


def test_links_names_that_are_not_unicode_and_odd_things_are_told(tmp_path: Path) -> None:
    (tmp_path / os.fsdecode(b"caf\xe9")).touch()
    (tmp_path / "around").symlink_to(tmp_path)
    os.mkfifo(tmp_path / "pipe")
    (contents,) = contents_below(tmp_path, contents_of, 0)
    assert isinstance(contents, Contents)
    kinds = {name: facts.kind for name, facts in contents.items() if not isinstance(facts, DiskError)}
    assert kinds == {os.fsdecode(b"caf\xe9"): "file", "around": "link", "pipe": "other"}
    assert contents == contents_of(tmp_path)


def test_what_may_not_be_listed_is_told_and_the_rest_goes_on(tmp_path: Path) -> None:
    (tmp_path / "a").touch()
    here, gone = told(tmp_path, 0), told(tmp_path / "a", 0)
    assert here == told(tmp_path, 10**9)
    assert gone == [f"Listing {tmp_path / 'a'} failed: Not a directory."]


def test_a_look_that_is_broken_off_ends_the_process_beside(tmp_path: Path) -> None:
    for number in range(5):
        (tmp_path / f"{number}").mkdir()
    before = {*psutil.Process().children()}
    listing = contents_below(tmp_path, contents_of, 0)
    assert len(next(listing)) == 5  # type: ignore[arg-type]  # no error here
    listing.close()  # type: ignore[attr-defined]  # a generator
    assert {*psutil.Process().children()} == before
