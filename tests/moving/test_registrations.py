"""Registrations go from one Windows computer to another: merged with their new paths, checked, and taken back."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path

import pytest

from support.moves import SmallMove, picture
from support.outside import FaultyDisk, Killed, outside
from support.winreg import FakeWinreg
from zesty_crate.check import CheckReport, check
from zesty_crate.crate import Crate, Scope, create_crate, pack
from zesty_crate.demo import lay_out
from zesty_crate.errors import ZestyError
from zesty_crate.guides import load_guides
from zesty_crate.machines import Outside, load_sheet
from zesty_crate.machines.registry import Tree, WindowsRegistry, read_export, write_export
from zesty_crate.moving import plan_undo, prepare_unpack, undo, unpack
from zesty_crate.plan import PlanOptions, make_plan
from zesty_crate.relink import Merging, Registrations, relink

BRANCH = "HKEY_CURRENT_USER\\Software\\Thrumbarrow\\Instruments"
SHEET = r"""
[computer]
name = "cartshed"
system = "windows"
user = "Bertille"
[[volume]]
anchor = "C:"
mount = "disks/system"
[[volume]]
anchor = "G:"
mount = "disks/spools"
label = "Spools"
[programs.thrumbarrow]
version = "2.4"
[programs.thrumbarrow.places]
instruments = 'G:\Lanternfold\Instruments'
"""
EXPORTED = '[windows-registry]\nfile = "registry.reg"\n'
THEIRS = (
    "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\Software\\Thrumbarrow\\Instruments\\Barn Harp]\r\n"
    '"Title"="Barn Harp"\r\n"Folder"="C:\\\\Harps"\r\n\r\n; a remark\r\n[HKEY_CURRENT_USER\\Software\\Else]\r\n'
)


@pytest.fixture(scope="module")
def packed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The whole theatre in a crate, and a new computer with Windows on it."""
    root = tmp_path_factory.mktemp("registered") / "demo"
    demo = lay_out(root)
    disk = outside().disk
    guides = [each for each in load_guides([demo.guides], disk) if each.id == "thrumbarrow"]
    create_crate(Crate(demo.carrier / "crate"), load_sheet(demo.old_sheet, disk), guides, outside())
    pack(Crate(demo.carrier / "crate"), Scope(), outside())
    return root


@pytest.fixture
def move(packed: Path, tmp_path: Path) -> SmallMove:
    made = SmallMove.at(shutil.copytree(packed, tmp_path / "demo", symlinks=True))
    shutil.rmtree(made.new_disks)
    for name in ("system", "spools"):
        (made.new_disks / name).mkdir(parents=True)
    made.demo.new_sheet.write_text(SHEET + EXPORTED)
    made.demo.new_sheet.with_name("registry.reg").write_bytes(b"\xff\xfe" + THEIRS.encode("utf-16-le"))
    return made


def carry_out(move: SmallMove, world: Outside | None = None) -> tuple[Registrations, CheckReport]:
    with move.opened(world) as opened:
        assert make_plan(opened, PlanOptions()).blockers == ()
        unpack(opened, prepare_unpack(opened))
        (registrations,) = relink(opened).registrations
        return registrations, check(opened)


def branch(move: SmallMove) -> dict[str, dict[str, str]]:
    content = move.demo.new_sheet.with_name("registry.reg").read_bytes()
    return {
        block.key.removeprefix(BRANCH).strip("\\"): {
            name: value.data.decode("utf-16-le").rstrip("\0")
            for name, value in block.values
            if value and value.kind == 1
        }
        for block in Tree(read_export(content, "it")).branch(BRANCH)
    }


def test_only_the_branch_is_carried_and_merged_with_new_paths(move: SmallMove) -> None:
    (carried,) = move.crate.registry_folder.iterdir()
    assert "Desk" not in carried.read_bytes().decode("utf-16")
    before = picture(move.demo.new_sheet.parent, dates=False)
    registrations, report = carry_out(move)
    assert registrations.state is Merging.MERGED
    assert registrations.without_content == ("Barn Organ",)
    assert registrations.unregistered == ("E:\\Lanternfold\\Instruments\\Hurdy-gurdy (borrowed)",)
    here = branch(move)
    assert here["Marsh Drums"] == {"Title": "Marsh Drums", "Folder": "G:\\Lanternfold\\Instruments\\Marsh Drums"}
    assert here["Barn Harp"]["Folder"] == "C:\\Harps"
    (holding,) = [each for each in report.holdings if each.id == "thrumbarrow/registered"]
    assert (holding.totals["found"], holding.totals["missing-before"], holding.totals["missing"]) == (3, 2, 0)
    with move.opened() as opened:
        (again,) = relink(opened).registrations
        assert again.state is Merging.ALREADY
        undo(opened)
    assert picture(move.demo.new_sheet.parent, dates=False) == before


def test_what_was_registered_since_is_not_lost_by_undo(move: SmallMove) -> None:
    carry_out(move)
    path = move.demo.new_sheet.with_name("registry.reg")
    tree = Tree(read_export(path.read_bytes(), "it"))
    tree.merge(read_export(f'REGEDIT4\n[{BRANCH}\\Since]\n"Title"="Since"\n'.encode(), "it"))
    path.write_bytes(write_export(tree.blocks()))
    with move.opened() as opened, pytest.raises(ZestyError) as raised:
        plan_undo(opened)
    assert "this branch of the registry was changed" in raised.value.details[0]


def test_without_a_registry_here_the_export_is_left_for_a_person(move: SmallMove) -> None:
    move.demo.new_sheet.write_text(SHEET)
    registrations, _ = carry_out(move)
    assert registrations.state is Merging.MANUAL
    assert "G:\\\\Lanternfold" in Path(registrations.file).read_bytes().decode("utf-16")


def test_killed_at_every_change_it_resumes_and_undoes(move: SmallMove, tmp_path: Path) -> None:
    before = picture(move.demo.new_sheet.parent, dates=False)
    with move.opened() as opened:
        make_plan(opened)
        unpack(opened, prepare_unpack(opened))
    start = shutil.copytree(move.demo.root, tmp_path / "start", symlinks=True)
    counting = FaultyDisk()
    move.relink(outside(counting))
    unbroken = branch(move)
    for at in range(1, counting.changes + 1, 3):
        shutil.rmtree(move.demo.root)
        shutil.copytree(start, move.demo.root, symlinks=True)
        with pytest.raises(Killed):
            move.relink(outside(FaultyDisk(at)))
        move.relink()
        assert branch(move) == unbroken, f"resumed after {at} of {counting.changes}"
        move.undo()
        assert picture(move.demo.new_sheet.parent, dates=False) == before, f"undone after {at} of {counting.changes}"


def test_the_real_registry_of_this_computer_is_used_where_there_is_one(move: SmallMove) -> None:
    fake = FakeWinreg()
    world = replace(outside(), registry=WindowsRegistry(fake))
    sheet = load_sheet(move.demo.new_sheet, world.disk)
    with move.opened(world) as opened:
        here = replace(
            opened,
            new_sheet=replace(sheet, part=sheet.part.model_copy(update={"windows_registry": None}), is_here=True),
        )
        make_plan(here)
        unpack(here, prepare_unpack(here))
        assert relink(here).registrations[0].state is Merging.MERGED
        assert fake.keys[f"{BRANCH}\\Marsh Drums".upper()][1]["VOICES"] == ("Voices", 16, 4)
        assert check(here).totals["missing"] == 0
        undo(here)
    assert not any(key.startswith(BRANCH.upper()) for key in fake.keys)
