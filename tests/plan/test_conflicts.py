"""Something else is in a carried file's place: weighed, decided, carried out, checked, and taken back."""

from __future__ import annotations

import os
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import apsw
import pytest

from support.moves import SmallMove, picture
from zesty_crate.demo.catalog import write_catalog
from zesty_crate.demo.content import Sound
from zesty_crate.errors import ZestyError
from zesty_crate.moving import Blocked, prepare_unpack, unpack
from zesty_crate.plan import Choice, PlanOptions, PlanReport, make_plan

MUSIC = "/Users/odile.k/Music/Wimblethorn Sounds"
LAMP = f"{MUSIC}/Lamp Lit.wav"
SHELF = "/Users/odile.k/Library/Application Support/Wimblethorn/shelf.db"
LATER, SOONER = 2_000_000_000, 1_000_000_000


def put(move: SmallMove, path: str, content: bytes, seconds: int = LATER) -> Path:
    real = move.new_disks / "system" / path.lstrip("/")
    real.parent.mkdir(parents=True, exist_ok=True)
    real.write_bytes(content)
    os.utime(real, (seconds, seconds))
    return real


def plan(move: SmallMove, *decisions: str, **more: object) -> PlanReport:
    with move.opened() as opened:
        return make_plan(opened, PlanOptions(decisions=decisions, **more))  # type: ignore[arg-type]


def carry_out(move: SmallMove) -> dict[str, int]:
    move.unpack()
    move.relink()
    return {state: number for state, number in move.check().totals.items() if number}


def recorded(move: SmallMove) -> list[str]:
    with closing(apsw.Connection(str(move.new_catalog))) as database:
        return [row[0] for row in database.execute("SELECT file FROM sound WHERE file LIKE 'Lamp Lit%'")]


@pytest.mark.parametrize(
    ("decision", "outcome", "there", "name"),
    [
        ("keep", "keep", b"mine", "Lamp Lit.wav"),
        ("bring-in", "bring-in", None, "Lamp Lit.wav"),
        ("both", "both", b"mine", "Lamp Lit (from paintloft).wav"),
        ("newer", "keep", b"mine", "Lamp Lit.wav"),
        ("wimblethorn=both", "both", b"mine", "Lamp Lit (from paintloft).wav"),
        ("wimblethorn/sounds=keep", "keep", b"mine", "Lamp Lit.wav"),
        (f"{LAMP.upper()}=bring-in", "bring-in", None, "Lamp Lit.wav"),  # this volume does not tell case
    ],
)
def test_each_choice_is_carried_out_and_taken_back(
    small: SmallMove, decision: str, outcome: str, there: bytes | None, name: str
) -> None:
    mine = put(small, LAMP, b"mine")
    before = picture(small.new_disks)
    report = plan(small, decision)
    assert report.blockers == ()
    assert [each.outcome for each in report.conflicts] == [outcome]
    totals = carry_out(small)
    carried = (small.old_disks / "c/Users/Odile/Music/Wimblethorn Sounds/Lamp Lit.wav").read_bytes()
    assert mine.read_bytes() == (carried if there is None else there)
    assert recorded(small) == [name]
    if outcome == "both":
        assert mine.with_name(name).read_bytes() == carried
    if outcome == "keep":
        assert totals["changed"] == 1
        (problem,) = [each for each in small.check().problems if each.state == "changed"]
        assert problem.chosen
        assert "by choice" in problem.why
    else:
        assert totals["found"] == 6
    assert plan(small).blockers == ()
    assert small.unpack().files == 0
    small.undo()
    assert picture(small.new_disks) == before


def test_newer_goes_by_the_dates_and_says_so_when_they_do_not_tell(small: SmallMove) -> None:
    mine = put(small, LAMP, b"mine", SOONER)
    assert [each.outcome for each in plan(small, "newer").conflicts] == [Choice.BRING_IN]
    carried = (small.old_disks / "c/Users/Odile/Music/Wimblethorn Sounds/Lamp Lit.wav").stat().st_mtime
    os.utime(mine, (carried + 1, carried + 1))
    (conflict,) = plan(small).conflicts
    assert conflict.outcome is None
    assert "have the same date" in conflict.why


def test_the_closer_decision_counts_and_an_edit_in_the_plan_is_one(small: SmallMove) -> None:
    put(small, LAMP, b"mine")
    put(small, f"{MUSIC}/Creatures/Owl Hoot.wav", b"mine, too")
    outcomes = {each.new.rpartition("/")[2]: each.outcome for each in plan(small, "keep", f"{LAMP}=both").conflicts}
    assert outcomes == {"Lamp Lit.wav": "both", "Owl Hoot.wav": "keep"}
    path = small.crate.move_folder("cartshed") / "plan.toml"
    text = path.read_text(encoding="utf-8")
    path.write_text(text.replace('choose = ""', 'choose = "bring-in"'), encoding="utf-8")
    with pytest.raises(Blocked) as raised:
        small.unpack()
    assert "choice was edited after the plan was made" in raised.value.details[0]
    outcomes = {each.new.rpartition("/")[2]: each.outcome for each in plan(small).conflicts}
    assert outcomes == {"Lamp Lit.wav": "both", "Owl Hoot.wav": "bring-in"}
    assert plan(small) == plan(small)


@pytest.mark.parametrize(
    ("wish", "said"),
    [
        ("newest", "Did you mean newer"),
        ("wimblethorn/sound=keep", "Did you mean wimblethorn/sounds"),
        ("nowhere=keep", "neither a program or holding"),
    ],
)
def test_decisions_that_make_no_sense_are_refused(small: SmallMove, wish: str, said: str) -> None:
    with pytest.raises(ZestyError) as raised:
        plan(small, wish)
    assert said in f"{raised.value.message} {raised.value.next_step}"


def test_what_comes_or_changes_after_the_plan_stops_unpacking(small: SmallMove) -> None:
    put(small, LAMP, b"mine")
    plan(small, "bring-in")
    mine = put(small, LAMP, b"changed since", LATER + 60)
    other = put(small, f"{MUSIC}/Creatures/Owl Hoot.wav", b"new")
    with pytest.raises(Blocked) as raised:
        small.unpack()
    assert len([line for line in raised.value.details if "Lamp Lit" in line or "Owl Hoot" in line]) == 2
    assert (mine.read_bytes(), other.read_bytes()) == (b"changed since", b"new")
    assert plan(small).blockers == ()
    small.unpack()
    assert mine.read_bytes() != b"changed since"


def test_what_was_to_be_kept_and_is_gone_stops_unpacking(small: SmallMove) -> None:
    mine = put(small, LAMP, b"mine")
    plan(small, "keep")
    mine.unlink()
    with pytest.raises(Blocked) as raised:
        small.unpack()
    assert "no longer exist: 1" in raised.value.details[0]
    assert plan(small).blockers == ()
    assert carry_out(small)["found"] == 6
    assert mine.exists()


def test_what_appears_at_the_last_moment_is_not_overwritten(small: SmallMove) -> None:
    with small.opened() as move:
        text = prepare_unpack(move)
        mine = put(small, LAMP, b"mine")
        with pytest.raises(ZestyError, match="after the plan was made"):
            unpack(move, text)
    assert mine.read_bytes() == b"mine"


# -- catalogs --------------------------------------------------------------------------------------------------------


def catalog(*names: str, stars: int | None = None) -> Callable[[Path], None]:
    def write(path: Path) -> None:
        path.unlink(missing_ok=True)
        path.parent.mkdir(parents=True, exist_ok=True)
        write_catalog(path, [Sound("", "", name, name, stars=stars) for name in names])
        os.utime(path, (LATER, LATER))

    return write


def test_an_empty_catalog_from_a_first_start_is_set_aside(small: SmallMove) -> None:
    catalog()(small.new_catalog)
    before = picture(small.new_disks)
    report = plan(small)
    assert report.blockers == ()
    (conflict,) = report.conflicts
    assert (conflict.outcome, "first start" in conflict.why) == (Choice.BRING_IN, True)
    assert conflict.there.work is not None
    assert conflict.there.work.entries == 0
    assert carry_out(small)["found"] == 6
    small.undo()
    assert picture(small.new_disks) == before


def test_a_catalog_with_work_is_never_replaced_by_a_decision_on_many(small: SmallMove) -> None:
    catalog("harbour at noon.wav", stars=5)(small.new_catalog)
    report = plan(small, "newer", "wimblethorn/shelf=bring-in")
    (conflict,) = report.conflicts
    assert conflict.outcome is None
    assert "Each holds work that the other lacks" in conflict.warning
    assert "need a decision: 1" in report.blockers[0].what
    (conflict,) = plan(small, f"{SHELF}=both").conflicts
    assert conflict.beside.endswith("shelf (from paintloft).db")
    mine = small.new_catalog.read_bytes()
    assert carry_out(small)["found"] == 6
    assert small.new_catalog.read_bytes() == mine


def test_a_kept_catalog_is_not_taken_for_the_carried_one(small: SmallMove) -> None:
    catalog("harbour at noon.wav", stars=5)(small.new_catalog)
    plan(small, f"{SHELF}=keep")
    mine = small.new_catalog.read_bytes()
    small.unpack()
    assert small.relink().catalogs == ()
    report = small.check()
    assert report.totals["entries"] == report.totals["missing-before"] == 1  # of the catalog that was there
    assert [each.chosen for each in report.problems if each.state != "missing-before"] == [True]
    assert small.new_catalog.read_bytes() == mine


def test_a_log_beside_a_replaced_catalog_goes_with_it(small: SmallMove) -> None:
    catalog("harbour at noon.wav")(small.new_catalog)
    log = small.new_catalog.with_name("shelf.db-wal")
    log.write_bytes(b"left by a crash")
    before = picture(small.new_disks)
    plan(small, f"{SHELF}=bring-in")
    assert carry_out(small)["found"] == 6
    assert not log.exists()
    small.undo()
    assert picture(small.new_disks) == before


def test_a_catalog_that_cannot_be_read_needs_a_decision_of_its_own(small: SmallMove) -> None:
    put(small, SHELF, b"no database at all, but somebody's")
    (conflict,) = plan(small, "bring-in").conflicts
    assert conflict.outcome is None
    assert "cannot be read" in conflict.warning
    assert plan(small, f"{SHELF}=bring-in").blockers == ()
