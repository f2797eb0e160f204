"""What is carried when a person chooses; what is left is written down and never called lost."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import SmallMove
from support.outside import FaultyDisk, outside
from zesty_crate.check import CheckReport
from zesty_crate.cli.commands.check import status_of
from zesty_crate.cli.status import Status
from zesty_crate.crate import PackReport, Scope, pack
from zesty_crate.demo import Demo, lay_out
from zesty_crate.errors import HalfwayError, ZestyError


class Chosen:
    """A small move with a scope, to its end."""

    def __init__(self, root: Path, scope: Scope) -> None:
        self.move = SmallMove(root)
        self.move.survey()
        self.report: PackReport = pack(self.move.crate, scope, outside())
        self.carried = {path.name for path in self.move.crate.data.rglob("*") if path.is_file()}

    def checked(self) -> CheckReport:
        self.move.plan()
        self.move.unpack()
        self.move.relink()
        return self.move.check()


LIBRARY = {"Lamp Lit.wav", "Rain 80% Softer.wav", "Owl Hoot.wav", "Geese, bars 1-8.wav"}


@pytest.mark.parametrize(
    ("scope", "carried", "left"),
    [
        (Scope(only=("wimblethorn/presets",)), {"Small Hall.wsp"}, {"shelf.db", "Lamp Lit.wav", "desk.ini"}),
        (Scope(only=("wimblethorn",)), {"Small Hall.wsp", "shelf.db", "Lamp Lit.wav"}, set()),
        (Scope(folders=(r"c:\users\odile\music",)), {"Lamp Lit.wav"}, {"shelf.db", "Geese, bars 1-8.wav"}),
        (Scope(groups=("The Miller and the Moth",)), {"shelf.db", "Rain 80% Softer.wav"}, {"Lamp Lit.wav", "desk.ini"}),
        (Scope(metadata_only=True), {"shelf.db", "desk.ini"}, {"Lamp Lit.wav", "Try this bell.wav"}),
        (Scope(classes=("proxy",)), {"shelf.db"}, {"Lamp Lit.wav"}),
        (Scope(classes=("original", "proxy", "cache")), {"shelf.db", "0000.wave"}, set()),
        (Scope(outside=True, groups=("The Miller and the Moth",)), {"Try this bell.wav"}, {"Lamp Lit.wav"}),
    ],
    ids=["holding", "program", "folder", "group", "metadata", "class", "cache", "group and outside"],
)
def test_what_is_chosen_is_carried_and_the_rest_is_not_called_lost(
    tmp_path: Path, scope: Scope, carried: set[str], left: set[str]
) -> None:
    chosen = Chosen(tmp_path, scope)
    names = {name.replace("~(25)", "%") for name in chosen.carried}
    assert carried <= names
    assert not left & names
    about = json.loads((chosen.move.crate.own / "about.json").read_text())
    assert about["left-out"] == [
        {"why": each.why, "files": each.files, "size_bytes": each.size_bytes} for each in chosen.report.left_out
    ]
    report = chosen.checked()
    lost = [each for each in report.problems if each.state == "missing" and not each.chosen]
    assert [each.why for each in lost if "--outside" not in each.why] == []
    if scope.outside:
        assert status_of(report) is Status.DONE


@pytest.mark.parametrize(
    ("scope", "hint"),
    [
        (Scope(only=("wimblethorm",)), '"wimblethorn"'),
        (Scope(groups=("The Paper Goose",)), '"The Paper Geese"'),
        (Scope(folders=(r"C:\Users\Bertille",)), "--details"),
        (Scope(folders=("Music",)), "as the old computer writes it"),
    ],
)
def test_a_choice_that_the_survey_does_not_know_is_refused(tmp_path: Path, scope: Scope, hint: str) -> None:
    with pytest.raises(ZestyError) as raised:
        Chosen(tmp_path, scope)
    assert hint in raised.value.next_step


def test_a_crate_is_finished_with_the_scope_that_it_was_begun_with(tmp_path: Path) -> None:
    move = SmallMove(tmp_path)
    move.survey()
    scope = Scope(metadata_only=True)
    with pytest.raises(HalfwayError):
        pack(move.crate, scope, outside(FaultyDisk(30, full=True)))
    with pytest.raises(ZestyError, match="--metadata-only differs"):
        pack(move.crate, Scope(), outside())
    assert pack(move.crate, scope, outside()).left == ()


def test_sequences_classes_and_machine_settings_of_the_whole_theatre(zesty: Zesty, tmp_path: Path) -> None:
    demo: Demo = lay_out(tmp_path / "show")
    crate = tmp_path / "crate"
    assert zesty("survey", crate, "--from", demo.old_sheet, "--guides", demo.guides).returncode == 1  # not covered
    wrong = zesty("pack", crate, "--classes", "light")
    assert (wrong.returncode, "'light' is not a class" in wrong.stderr) == (2, True)
    said = zesty(
        "pack",
        crate,
        "--group",
        "Second half in The Paper Geese.running",
        "--only",
        "hobbinreel",
        "--classes",
        "proxy",
        "--leave-machine-settings",
        "--outside",
    )
    assert said.returncode == 0, said.stderr
    assert "left on the old computer" in said.stdout
    names = {path.relative_to(crate / "data").as_posix() for path in (crate / "data").rglob("*") if path.is_file()}
    assert len([name for name in names if "/Light/" in name]) == 54
    assert len([name for name in names if name.endswith(".running")]) == 1
    assert not [name for name in names if "/Originals/" in name or name.endswith("monitors.ini")]
    to = ("--to", demo.new_sheet)
    zesty("plan", crate, *to)
    zesty("unpack", crate, *to, "--yes")
    zesty("relink", crate, *to, "--yes")
    checked = zesty("check", crate, *to)
    assert (checked.returncode, "by choice" in checked.stdout) == (0, True), checked.stdout
