"""The library: the README's ten lines run, and a strictly typed program may use it."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

import zesty_crate as zesty
from support.moves import SmallMove
from zesty_crate.demo import lay_out

ROOT = Path(__file__).parents[1]
CONSUMER = """
import zesty_crate as zesty

def lost(sheet: str, folder: str) -> list[str]:
    report: zesty.CheckReport = zesty.check_computer(zesty.load_sheet(sheet), zesty.load_guides(folder))
    return [problem.recorded for problem in report.problems if problem.state is zesty.State.MISSING]

def names(sheet: zesty.Sheet, guides: list[zesty.Guide]) -> dict[str, int]:
    catalog = zesty.read_catalog(sheet, guides, "wimblethorn/shelf")
    return {group.name: len(group.members) for group in catalog.groups}
"""


def test_the_lines_of_the_readme_move_the_demo(tmp_path: Path) -> None:
    (lines,) = re.findall(r"```python\n(.*?)```", (ROOT / "README.md").read_text(encoding="utf-8"), re.DOTALL)
    demo = lay_out(tmp_path / "demo")
    new = demo.new_sheet.read_text()
    packs = zesty.draft_guide(zesty.load_sheet(demo.old_sheet), ["C:\\Users\\Odile\\Documents\\Dapplegarth Packs"])
    (demo.guides / "packs.toml").write_text(packs.text)
    demo.new_sheet.write_text(new.replace('"1.9"', '"1.8"').replace('"5.1"', '"5.0.2"'))
    environment = {**os.environ, "XDG_CACHE_HOME": str(tmp_path / "cache")}
    said = subprocess.run(
        [sys.executable, "-c", lines], cwd=demo.root, env=environment, capture_output=True, text=True, check=False
    )
    assert said.returncode == 0, said.stderr
    assert said.stdout.startswith("378 "), said.stdout
    assert (demo.carrier / "Odile/moves/cartshed/check.json").exists()


def test_a_strictly_typed_program_may_use_it(tmp_path: Path) -> None:
    (tmp_path / "consumer.py").write_text(CONSUMER)
    command = [sys.executable, "-m", "mypy", "--strict", "--config-file=", "consumer.py"]
    said = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, check=False)
    assert said.returncode == 0, said.stdout


def test_its_names_are_there_and_say_what_they_do() -> None:
    for name in zesty.__all__:
        assert getattr(zesty, name).__doc__, name
    assert set(zesty.__all__) <= set(dir(zesty))
    with pytest.raises(AttributeError, match="no attribute 'surveil'"):
        getattr(zesty, "surveil")  # noqa: B009  as a typed program could not write it


def test_one_catalog_is_read_and_what_is_not_there_is_named(small: SmallMove) -> None:
    sheet, guides = zesty.load_sheet(small.demo.old_sheet), zesty.load_guides(small.demo.guides)
    shelf = zesty.read_catalog(sheet, guides, "wimblethorn/shelf")
    assert len(shelf.entries) == 10
    assert "System\\Users\\Odile\\Music\\Wimblethorn Sounds\\Lamp Lit.wav" in {each.recorded for each in shelf.entries}
    with pytest.raises(zesty.ZestyError, match="There is no holding 'wimblethorn/list'") as refused:
        zesty.read_catalog(sheet, guides, "wimblethorn/list")
    assert "wimblethorn/shelf" in refused.value.next_step
    with pytest.raises(zesty.ZestyError, match="There is no catalog of m3u/lists at"):
        zesty.read_catalog(sheet, guides, "m3u/lists", "C:\\none.m3u")


def test_a_move_and_back(small: SmallMove) -> None:
    new = zesty.load_sheet(small.demo.new_sheet)
    before = sorted(path.name for path in small.new_disks.rglob("*"))
    assert zesty.verify(small.crate.root).files == 13
    assert zesty.unpack(small.crate.root, new).files == 13
    assert zesty.relink_catalogs(small.crate.root, new, dry_run=True).catalogs
    zesty.relink_catalogs(small.crate.root, new)
    assert zesty.check_move(small.crate.root, new).attention == ()
    assert [step.name for step in zesty.undo(small.crate.root, new).steps] == ["relink", "unpack"]
    assert sorted(path.name for path in small.new_disks.rglob("*")) == before
