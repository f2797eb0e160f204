"""Plan, unpack, relink, check and undo on the small move: what is in the way, what is said, what is taken back."""

from __future__ import annotations

import datetime as dt
import errno
import os
import shutil
import unicodedata
import wave
from contextlib import closing
from pathlib import Path

import apsw
import pytest

from support.moves import SmallMove, picture, shelf_paths
from support.outside import FaultyDisk, Killed, outside
from zesty_crate.crate import DamagedCrate
from zesty_crate.documents import DocumentError
from zesty_crate.errors import HalfwayError, ZestyError
from zesty_crate.journal import Action, Journal, Kind, Location, Stage
from zesty_crate.machines import Disk, DiskError, FileFacts, Outside
from zesty_crate.machines.outside import Clock
from zesty_crate.moving import Blocked, count_unpack, plan_undo, prepare_unpack, unpack
from zesty_crate.plan import make_plan
from zesty_crate.relink import relink
from zesty_crate.survey import State, summarize
from zesty_crate.todo import list_steps

NEW_MUSIC = "system/Users/odile.k/Music/Wimblethorn Sounds"


@pytest.fixture
def moved(small: SmallMove) -> SmallMove:
    small.unpack()
    small.relink()
    return small


def states(move: SmallMove) -> dict[str, int]:
    return {state: number for state, number in move.check().totals.items() if number}


# -- the whole -------------------------------------------------------------------------------------------------------


def test_every_sound_that_was_there_is_found_and_plays(moved: SmallMove) -> None:
    report = moved.check()
    assert {problem.state for problem in report.problems} == {State.MISSING_BEFORE, State.UNPLUGGED}
    assert states(moved) == {"found": 6, "missing-before": 2, "remote": 1, "unplugged": 1, "entries": 10}
    for path in moved.new_disks.rglob("*.wav"):
        with wave.open(str(path)) as sound:
            assert len(sound.readframes(sound.getnframes())) == 2 * sound.getnframes() > 0


def test_the_relinked_catalog_is_sound_and_only_its_paths_differ(moved: SmallMove) -> None:
    old_catalog = moved.old_disks / "c/Users/Odile/AppData/Roaming/Wimblethorn/shelf.db"

    def rows(path: Path, query: str) -> list[tuple[object, ...]]:
        with closing(apsw.Connection(str(path))) as database:
            database.collation_needed(lambda db, name: db.create_collation(name, lambda a, b: (a > b) - (a < b)))
            return list(database.execute(query))

    assert rows(moved.new_catalog, "PRAGMA integrity_check") == [("ok",)]
    for table in ("list", "list_item", "diary", "sound"):
        assert rows(moved.new_catalog, f"SELECT * FROM {table}") == rows(old_catalog, f"SELECT * FROM {table}")
    assert {unicodedata.normalize("NFC", each.rpartition("/")[0]) for each in shelf_paths(moved.new_catalog)} == {
        "",
        "Cartshed HD/Users/odile.k/Music/Wimblethorn Sounds",
        "Cartshed HD/Users/odile.k/Music/Wimblethorn Sounds/Creatures",
        "Spools/Lanternfold/Sound Store/Overtures/Sketches",
        "Spools/Lanternfold/Sound Store/Théière",
        "Cartshed HD/Users/odile.k/Music/Wimblethorn Sounds/Weather",
        "Cartshed HD/Users/odile.k/Music/Wimblethorn Sounds/Weather/Rain",
        "Cartshed HD/Users/odile.k/Desktop",
        "Spools/Lanternfold/Sound Store/Voices",
        "Festival/Festival Stick",
    }


def test_the_crate_is_never_changed_by_the_move(small: SmallMove) -> None:
    def content() -> dict[str, tuple[object, ...]]:
        return {name: facts for name, facts in picture(small.crate.root).items() if not name.startswith("moves")}

    before = content()
    small.unpack()
    small.relink()
    small.check()
    assert content() == before


def test_each_step_done_twice_does_nothing_the_second_time(moved: SmallMove) -> None:
    before = picture(moved.new_disks)
    assert moved.unpack().files == 0
    assert [catalog.already for catalog in moved.relink().catalogs] == [True]
    assert moved.plan().blockers == ()
    assert picture(moved.new_disks) == before
    with moved.opened() as move:
        assert [step.changes > 0 for step in plan_undo(move).steps] == [True, True]


def test_work_left_in_a_log_comes_along(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "demo")
    catalog = move.old_disks / "c/Users/Odile/AppData/Roaming/Wimblethorn/shelf.db"
    aside = tmp_path / "aside"
    aside.mkdir()
    with closing(apsw.Connection(str(catalog))) as database:
        database.pragma("journal_mode", "wal")
        database.execute("UPDATE list SET title = 'The Moth alone' WHERE list_id = 2")
        for beside in ("shelf.db", "shelf.db-wal"):
            shutil.copy(catalog.with_name(beside), aside / beside)
    for beside in ("shelf.db", "shelf.db-wal"):
        shutil.copy(aside / beside, catalog.with_name(beside))
    assert "unfinished work" in move.survey().warnings[0]
    move.pack()
    move.plan()
    before = picture(move.new_disks)
    move.unpack()
    move.relink()
    assert states(move)["found"] == 6
    assert not move.new_catalog.with_name("shelf.db-wal").exists()
    with closing(apsw.Connection(str(move.new_catalog))) as database:
        assert database.execute("SELECT title FROM list WHERE list_id = 2").get == "The Moth alone"
    for beside in ("-wal", "-shm"):
        move.new_catalog.with_name(f"shelf.db{beside}").unlink(missing_ok=True)
    move.undo()
    assert picture(move.new_disks) == before


def test_caches_are_counted_and_left(small: SmallMove) -> None:
    with small.opened() as move:
        (cache,) = [each for each in summarize(move.survey).holdings if each.kind == "cache"]
    assert (cache.files, cache.size_bytes) == (12, 24_000)
    small.unpack()
    assert not list(small.crate.data.rglob("*.wave"))
    assert not list(small.new_disks.rglob("*.wave"))
    assert (small.new_catalog.parent / "desk.ini").exists()


# -- plan ------------------------------------------------------------------------------------------------------------


def place(move: SmallMove, name: str, content: bytes) -> Path:
    path = move.new_disks / NEW_MUSIC / name
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(content)
    return path


def test_something_else_in_a_files_place_blocks_and_nothing_changes(small: SmallMove) -> None:
    place(small, "Lamp Lit.wav", b"another sound")
    before = picture(small.new_disks)
    (blocker,) = small.plan().blockers
    assert "need a decision: 1" in blocker.what
    assert "Lamp Lit.wav" in blocker.places[0]
    with pytest.raises(Blocked) as raised:
        small.unpack()
    assert any("Lamp Lit.wav" in line for line in raised.value.details)
    assert picture(small.new_disks) == before


def test_the_same_content_is_not_in_the_way_and_stays_after_undo(small: SmallMove) -> None:
    source = small.old_disks / "c/Users/Odile/Music/Wimblethorn Sounds/Lamp Lit.wav"
    mine = place(small, "lamp lit.wav", source.read_bytes())
    report = small.plan()
    assert (report.blockers, report.already_there) == ((), 1)
    small.unpack()
    small.relink()
    assert states(small)["found"] == 6
    small.undo()
    assert mine.exists()


def test_an_edited_route_is_kept_and_followed(small: SmallMove) -> None:
    path = small.crate.move_folder("cartshed") / "plan.toml"
    text = path.read_text(encoding="utf-8")
    path.write_text(text.replace('"/Users/odile.k/Music"', '"/Volumes/Spools/All Sounds"'), encoding="utf-8")
    report = small.plan()
    assert report.manual_routes == 1
    assert "/Volumes/Spools/All Sounds" in {str(each.route.new) for each in report.routes}
    small.unpack()
    small.relink()
    assert (small.new_disks / "spools/All Sounds/Wimblethorn Sounds/Lamp Lit.wav").exists()
    assert states(small)["found"] == 6


def test_a_bad_route_is_refused_with_its_line(small: SmallMove) -> None:
    path = small.crate.move_folder("cartshed") / "plan.toml"
    path.write_text(path.read_text().replace('"/Users/odile.k/Music"', '"Music"'))
    with pytest.raises(DocumentError) as raised:
        small.plan()
    assert raised.value.details[0].startswith("line 2")
    assert "'Music'" in raised.value.details[0]


def test_a_plan_changed_after_an_interrupted_unpack_is_refused(small: SmallMove) -> None:
    with pytest.raises(Killed):
        small.unpack(outside(FaultyDisk(40)))
    path = small.crate.move_folder("cartshed") / "plan.toml"
    path.write_text(path.read_text().replace('"/Users/odile.k/Music"', '"/Users/odile.k/Sounds"'))
    with pytest.raises(ZestyError, match="the plan was changed since"):
        small.unpack()


def change_sheet(move: SmallMove, old: str, new: str) -> None:
    text = move.demo.new_sheet.read_text()
    assert old in text
    move.demo.new_sheet.write_text(text.replace(old, new))


def test_a_running_program_and_a_missing_volume_block(small: SmallMove) -> None:
    change_sheet(small, "running = false", "running = true")
    change_sheet(small, 'mount  = "disks/spools"\n', "")
    said = " ".join(blocker.what for blocker in small.plan().blockers)
    assert "is running" in said
    assert "volume that is not connected" in said


class Cramped(Disk):
    def free_bytes(self, folder: Path) -> int:  # noqa: ARG002
        return 20_000


def test_a_computer_without_room_blocks(small: SmallMove) -> None:
    with small.opened(outside(Cramped())) as move:
        system, spools = sorted(blocker.what for blocker in make_plan(move).blockers)
    assert system.startswith("/ has 20.0 kB free")
    assert spools.startswith("/Volumes/Spools has")


# -- unpack and relink -----------------------------------------------------------------------------------------------


class Surprised(Disk):
    """One on which another program puts a file, at the last moment, where a carried one is about to get its name."""

    def rename_to_free_name(self, source: str | Path, target: str | Path) -> None:
        if Path(target).name == "Lamp Lit.wav":
            Path(target).write_bytes(b"somebody else's")
        super().rename_to_free_name(source, target)


def test_a_file_that_comes_at_the_last_moment_is_not_overwritten(small: SmallMove) -> None:
    small.plan()
    with small.opened(outside(Surprised())) as move, pytest.raises(HalfwayError, match="Another file appeared"):
        unpack(move, prepare_unpack(move))
    (there,) = small.new_disks.rglob("Lamp Lit.wav")
    assert there.read_bytes() == b"somebody else's"
    there.unlink()
    assert small.unpack().earlier


class Linkless(Disk):
    """A volume that knows no symbolic links, or a user who may make none."""

    def make_link(self, path: Path, target: str) -> None:  # noqa: ARG002
        raise DiskError("Making the link", path, OSError(errno.EPERM, "not permitted"))


def test_links_that_cannot_be_made_stop_nothing_and_are_told(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "show")
    sounds = move.old_disks / "c/Users/Odile/Music/Wimblethorn Sounds"
    (sounds / "Again.wav").symlink_to("Lamp Lit.wav")
    move.up_to_plan()
    report = move.unpack(outside(Linkless()))
    assert report.links == 0
    (told,) = report.links_refused
    assert told.endswith("Again.wav -> Lamp Lit.wav")
    assert report.files
    assert not list(move.new_disks.rglob("Again.wav"))
    move.relink()
    move.check()
    with move.opened() as opened:
        steps = [each.do for each in list_steps(opened.crate, opened.survey, opened.outside, opened).steps]
    assert [each for each in steps if each.startswith("Make the link") and "leads to Lamp Lit.wav" in each]
    move.undo()
    assert not list(move.new_disks.rglob("Lamp Lit.wav"))


def test_a_damaged_file_stops_unpacking_before_it_begins(small: SmallMove) -> None:
    before = picture(small.new_disks)
    victim = next(small.crate.data.rglob("Lamp Lit.wav"))
    content = bytearray(victim.read_bytes())
    content[-1] ^= 1
    victim.write_bytes(content)
    with pytest.raises(DamagedCrate) as raised:
        small.unpack()
    assert "Lamp Lit.wav" in raised.value.details[0]
    assert picture(small.new_disks) == before


def test_a_full_computer_stops_and_later_goes_on(small: SmallMove) -> None:
    with pytest.raises(ZestyError, match="No space left"):
        small.unpack(outside(FaultyDisk(30, full=True)))
    small.unpack()
    small.relink()
    assert states(small)["found"] == 6


def test_relinking_needs_unpacking_and_closed_programs(small: SmallMove) -> None:
    with pytest.raises(ZestyError, match="nothing to relink"):
        small.relink()
    with pytest.raises(ZestyError, match="nothing to check"):
        small.check()
    small.unpack()
    change_sheet(small, "running = false", "running = true")
    with pytest.raises(ZestyError, match="is running"):
        small.relink()


def test_a_dry_run_changes_nothing(small: SmallMove) -> None:
    before = picture(small.new_disks)
    with small.opened() as move:
        assert count_unpack(move, move.plan_path.read_text()).files == 13
    assert picture(small.new_disks) == before
    small.unpack()
    before = picture(small.new_disks)
    with small.opened() as move:
        (catalog,) = relink(move, dry_run=True).catalogs
    assert catalog.cells == 2  # the name of the volume, and that of the home
    assert catalog.proof is None
    assert picture(small.new_disks) == before


# -- check -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("harm", "state", "word"),
    [
        (lambda path: path.unlink(), "missing", "there is no file at"),
        (lambda path: path.write_bytes(b"short"), "changed", "5 bytes"),
        (lambda path: path.write_bytes(bytes(path.stat().st_size)), "changed", "content differs from what was carried"),
    ],
)
def test_harm_done_since_is_told_with_its_reason(moved: SmallMove, harm: object, state: str, word: str) -> None:
    harm(moved.new_disks / NEW_MUSIC / "Lamp Lit.wav")  # type: ignore[operator]
    (problem,) = [each for each in moved.check().problems if each.state == state]
    assert word in problem.why
    assert problem.recorded.endswith("Lamp Lit.wav")


def test_a_lost_preset_is_told_though_no_catalog_knows_it(moved: SmallMove) -> None:
    (moved.new_catalog.parent / "Presets/Barn.wsp").unlink()
    (problem,) = [each for each in moved.check().problems if each.state == "missing"]
    assert problem.holding == "wimblethorn/presets"
    assert problem.recorded.endswith("Barn.wsp")


def test_paths_that_were_not_relinked_are_missing_for_that_reason(small: SmallMove) -> None:
    small.unpack()
    reasons = {problem.why for problem in small.check().problems if problem.state == "missing"}
    assert len(reasons) == 4  # the other volume has the name that it had
    assert all("not relinked" in why for why in reasons)


# -- undo ------------------------------------------------------------------------------------------------------------


def test_undo_takes_all_back_to_the_byte(planned: Path, moved: SmallMove) -> None:
    moved.undo()
    assert picture(moved.new_disks) == picture(SmallMove.at(planned).new_disks)
    with moved.opened() as move, pytest.raises(ZestyError, match="nothing to undo"):
        plan_undo(move)
    moved.unpack()
    moved.relink()
    assert states(moved)["found"] == 6


def test_undo_refuses_to_lose_what_a_person_did_since(moved: SmallMove) -> None:
    preset = moved.new_catalog.parent / "Presets/Barn.wsp"
    preset.write_text("reverb = 0.9\n")
    before = picture(moved.new_disks)
    with (
        moved.opened() as move,
        pytest.raises(ZestyError, match="changed since and would be lost: 1") as raised,
    ):
        plan_undo(move)
    assert "Barn.wsp" in raised.value.details[0]
    assert picture(moved.new_disks) == before


def test_undo_works_when_the_disk_is_mounted_elsewhere(moved: SmallMove, tmp_path: Path, planned: Path) -> None:
    shutil.move(moved.new_disks / "spools", tmp_path / "spools")
    change_sheet(moved, '"disks/spools"', f'"{tmp_path / "spools"}"')
    moved.undo()
    assert picture(tmp_path / "spools") == picture(SmallMove.at(planned).new_disks / "spools")


def test_undo_keeps_folders_that_hold_something_else(moved: SmallMove) -> None:
    mine = moved.new_disks / NEW_MUSIC / "mine.wav"
    mine.touch()
    moved.undo()
    assert mine.exists()
    assert not (moved.new_disks / NEW_MUSIC / "Lamp Lit.wav").exists()


def test_dates_of_files_and_folders_survive(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "demo")
    old = move.old_disks / "c/Users/Odile/Music/Wimblethorn Sounds"
    for folder in (old / "Creatures", old):
        os.utime(folder, ns=(1_500_000_000_000_000_123, 1_500_000_000_000_000_123))
    move.survey()
    move.pack()
    move.plan()
    move.unpack()
    new = move.new_disks / NEW_MUSIC
    for path in (Path(), Path("Creatures"), Path("Creatures/Owl Hoot.wav"), Path("Lamp Lit.wav")):
        assert (new / path).stat().st_mtime_ns == (old / path).stat().st_mtime_ns


class Zones(Clock):
    """A clock that is carried from one zone to another."""

    def __init__(self) -> None:
        self._moments = iter(
            ("2026-11-23T10:00:00.000001+02:00", "2026-11-23T09:00:00+00:00", "2026-11-23T09:00:00.5+00:00")
        )

    def instant(self) -> dt.datetime:
        return dt.datetime.fromisoformat(next(self._moments))


def test_of_two_moves_in_one_second_or_in_two_zones_the_later_one_is_known(tmp_path: Path) -> None:
    world = Outside(Disk(), Zones())
    begun = list[dt.datetime]()
    for number in range(3):
        with closing(Journal.open(tmp_path / f"{number}.db", world)) as journal:
            assert journal.last_begun() is None
            journal.begin("unpack")
            began = journal.last_begun()
            assert began is not None
            begun.append(began)
    assert begun == sorted(set(begun))


@pytest.mark.parametrize("newest_first", [False, True])
def test_every_action_is_told_once_though_it_is_marked_meanwhile(tmp_path: Path, newest_first: bool) -> None:
    facts = FileFacts("file", 1, 0, 0)
    with closing(Journal.open(tmp_path / "journal.db", Outside(Disk()))) as journal:
        first, second = journal.begin("unpack"), journal.begin("relink")
        places = [Action(Kind.FILE, Location("/", f"{number}.wav"), facts) for number in range(2_345)]
        ids = [action.id for action in journal.intend(first, places)]
        changed = journal.intend(second, [each._replace(kind=Kind.REPLACE) for each in places[:2]])
        assert journal.kinds(first, Stage.INTENDED) == {"file": 2_345}
        newest = {action.location: action.id for action in journal.newest([second, first], Stage.INTENDED)}
        expected = dict(zip((each.location for each in places), ids, strict=True))
        assert newest == expected | {action.location: action.id for action in changed}
        told = []
        for action in journal.actions(first, Stage.INTENDED, newest_first=newest_first):
            told.append(action.id)
            journal.mark([action], Stage.UNDONE)
        assert told == (ids[::-1] if newest_first else ids)
