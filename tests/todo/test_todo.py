"""Steps for a person: where they come from, how they are ticked, and what waits for them."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import SmallMove
from support.outside import outside
from zesty_crate.crate import RequestedStep, Step, keep_steps, kept_steps
from zesty_crate.errors import ZestyError
from zesty_crate.moving import Blocked
from zesty_crate.survey import Problem, ProgramReport, State, SurveyReport, VolumeReport
from zesty_crate.survey.model import LeavingLink, ManualStep
from zesty_crate.todo import TodoReport, list_steps, refresh_steps, tick
from zesty_crate.todo.of_survey import steps_of_survey

GATE = '\n[[manual-step]]\nwhen = "{when}"\ndo = "Write down the name of the lamp desk."\n'


def listed(move: SmallMove) -> TodoReport:
    with move.opened() as opened:
        return list_steps(move.crate, opened.survey, outside(), opened)


def add_gate(move: SmallMove, when: str) -> None:
    guide = move.demo.guides / "wimblethorn.toml"
    guide.write_text(guide.read_text() + GATE.format(when=when))


def test_steps_come_from_guides_the_survey_and_the_move_in_the_order_of_the_work(small: SmallMove) -> None:
    steps = listed(small).steps
    whens = [each.when for each in steps]
    order = ["before-pack", "before-unpack", "after-unpack", "after-check", "before-retire"]
    assert whens == sorted(whens, key=order.index)
    assert {each.source for each in steps} == {"guide", "survey"}
    seat = next(each for each in steps if "seat" in each.do and each.about == "wimblethorn")
    assert seat.gates
    assert "has 2 seats" in seat.do
    assert any(each.about == "volume" and "F:" in each.do for each in steps)


def test_ticks_stay_with_their_steps_whatever_else_comes_or_goes(small: SmallMove) -> None:
    report = listed(small)
    last = report.steps[-1]
    ticked = tick(report, small.crate, outside(), done=[last.id], note="by telephone")
    assert next(each for each in ticked.steps if each.id == last.id).note == "by telephone"
    small.unpack()
    small.relink()
    with small.opened() as move:
        again = refresh_steps(move)
    kept = next(each for each in again.steps if each.id == last.id)
    assert (kept.do, bool(kept.done)) == (last.do, True)
    opened = tick(again, small.crate, outside(), undone=[last.id])
    assert last.id in [each.id for each in opened.open]


def test_the_table_is_one_that_spreadsheets_open_and_a_foreign_one_is_refused(small: SmallMove) -> None:
    step = Step(
        "link-1",
        "after-unpack",
        "link",
        'Make "it", again; é',
        "survey",
        gates=False,
        done="2026-11-23",
        note="two\nlines",
    )
    keep_steps(small.crate, [step], outside().disk)
    assert kept_steps(small.crate, outside().disk) == [step]
    assert small.crate.manual_steps_path.read_bytes().startswith(b"\xef\xbb\xbf")
    small.crate.manual_steps_path.write_text("a,b,c\n")
    with pytest.raises(ZestyError, match="is not the table of manual steps"):
        kept_steps(small.crate, outside().disk)


def test_an_unknown_step_is_refused_with_the_nearest_one(small: SmallMove) -> None:
    with pytest.raises(ZestyError, match="no step 'wimblethorn-11'") as caught:
        tick(listed(small), small.crate, outside(), done=["wimblethorn-11"])
    assert "wimblethorn-1" in caught.value.next_step


def test_a_step_before_unpacking_holds_its_program_back_until_it_is_ticked(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "demo")
    add_gate(move, "before-unpack")
    move.up_to_plan()
    with pytest.raises(Blocked) as caught:
        move.unpack()
    assert any("Write down the name of the lamp desk" in line for line in caught.value.details)
    gate = next(each for each in listed(move).steps if "lamp desk" in each.do)
    tick(listed(move), move.crate, outside(), done=[gate.id])
    assert move.unpack().files > 0


def test_a_step_before_packing_is_asked_for_by_the_command(tmp_path: Path, zesty: Zesty) -> None:
    move = SmallMove(tmp_path / "demo")
    add_gate(move, "before-pack")
    move.survey()
    refused = zesty("pack", move.crate.root)
    assert refused.returncode == 3
    assert "lamp desk" in refused.stderr
    assert "--done wimblethorn-2" in refused.stderr.replace("\n", " ")
    assert zesty("todo", move.crate.root, "--done", "wimblethorn-2").returncode == 0
    assert zesty("pack", move.crate.root).returncode == 0


def test_after_a_bad_check_there_is_something_to_do(small: SmallMove) -> None:
    small.unpack()
    small.relink()
    next((small.new_disks / "system").rglob("Lamp Lit.wav")).unlink()
    small.check()
    after = [each.do for each in listed(small).open if each.when == "after-check"]
    assert any("1 missing" in each for each in after)


def survey_of(**changed: object) -> SurveyReport:
    """What a survey says about a computer with one of each thing to do."""
    volume = VolumeReport("F:", "Festival", "exfat", False, False, None, None)  # noqa: FBT003
    program = ProgramReport("bellows", "Bellows", "2.0", "any", 3, 2, False, True)  # noqa: FBT003
    fields: dict[str, object] = {
        "computer": "barn",
        "system": "windows",
        "user": "Odile",
        "home": "C:\\Users\\Odile",
        "taken": "",
        "volumes": (volume,),
        "programs": (program,),
        "holdings": (),
        "problems": (),
        "unregistered": (),
        "links": (LeavingLink("bellows/list", "C:\\a", "D:\\b", carried=False),),
        "duplicates": None,
        "hard_links": 0,
        "spot_checks": (),
        "manual_steps": (),
        "documents": (),
        "uncovered": (),
        "uncovered_documents": (),
        "not_searched": 0,
        "not_looked_into": (),
        "system_folders": (),
        "warnings": (),
    }
    return SurveyReport(**{**fields, **changed})  # type: ignore[arg-type]


def asked(report: SurveyReport, move: SmallMove) -> dict[str, RequestedStep]:
    return {each.about: each for each in steps_of_survey(report, move.crate, outside().disk)}


def test_seats_links_and_uninstalling_are_asked_for_where_no_guide_does(small: SmallMove) -> None:
    steps = asked(survey_of(), small)
    assert set(steps) == {"link", "bellows", "uninstall"}, "nothing points to the volume that is not connected"
    assert "its license has 3 seats" in steps["bellows"].do
    assert steps["bellows"].gates
    assert "leads to D:\\b" in steps["link"].do
    told = (ManualStep("bellows", "before-retire", "Give the seat back by telephone."),)
    assert "bellows" not in asked(survey_of(manual_steps=told), small)


def test_a_volume_is_asked_for_by_the_entries_that_need_it(small: SmallMove) -> None:
    problem = Problem("bellows/list", "1", State.UNPLUGGED, "Festival\\song.wav", "the volume F: is not connected")
    volume = asked(survey_of(problems=(problem,)), small)["volume"]
    assert (volume.when, volume.do.endswith("Catalog entries on it: 1.")) == ("after-unpack", True)
