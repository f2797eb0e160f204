"""A check of a move: three sides, surplus explained, organisation, the reverse, spot checks, and what changed later."""

from __future__ import annotations

import errno
import os
import shutil
from contextlib import closing
from pathlib import Path

import apsw
import pytest

from support.moves import SmallMove
from support.outside import outside
from zesty_crate.check import CheckReport, Content, SurplusReason, check, last_check
from zesty_crate.machines import Contents, Disk, DiskError

MUSIC = "system/Users/odile.k/Music/Wimblethorn Sounds"
OLD_DAY = (1_000_000_000, 1_000_000_000)


@pytest.fixture(scope="module")
def handed(planned: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    root = tmp_path_factory.mktemp("handed") / "demo"
    shutil.copytree(planned, root, symlinks=True)
    move = SmallMove.at(root)
    music = move.new_disks / MUSIC
    music.mkdir(parents=True)
    (music / "Here before.wav").write_bytes(b"here before")
    move.unpack()
    move.relink()
    return root


@pytest.fixture
def moved(handed: Path, tmp_path: Path) -> SmallMove:
    shutil.copytree(handed, tmp_path / "demo", symlinks=True)
    return SmallMove.at(tmp_path / "demo")


def checked(move: SmallMove, content: Content = Content.SAMPLE) -> CheckReport:
    with move.opened() as opened:
        return check(opened, content=content)


def change(move: SmallMove, statement: str) -> None:
    with closing(apsw.Connection(str(move.new_catalog))) as database:
        database.execute(statement)


def test_three_sides_of_each_holding_and_a_surplus_that_was_there_before(moved: SmallMove) -> None:
    report = checked(moved)
    assert report.attention == ()
    sounds = next(each for each in report.holdings if each.id == "wimblethorn/sounds")
    assert sounds.old.files == sounds.carried.files == sounds.files_found
    assert sounds.new.files == sounds.old.files + 1
    shelf = next(each for each in report.holdings if each.id == "wimblethorn/shelf")
    assert shelf.old.entries == shelf.carried.entries == shelf.new.entries == 10
    assert (shelf.old.groups, shelf.old.annotations) == (shelf.new.groups, shelf.new.annotations)
    (surplus,) = report.surplus
    assert (surplus.why, surplus.files, surplus.paths) == (SurplusReason.BASELINE, 1, ())


def test_what_was_made_since_is_told_apart_from_what_nobody_can_explain(moved: SmallMove) -> None:
    (moved.new_disks / MUSIC / "Made since.wav").write_bytes(b"new")
    odd = moved.new_disks / MUSIC / "From somewhere.wav"
    odd.write_bytes(b"odd")
    os.utime(odd, OLD_DAY)
    reasons = {each.why: [path.rpartition("/")[2] for path in each.paths] for each in checked(moved).surplus}
    assert reasons == {
        SurplusReason.BASELINE: [],
        SurplusReason.MADE_SINCE: ["Made since.wav"],
        SurplusReason.UNKNOWN: ["From somewhere.wav"],
    }
    assert {each.at.rpartition("/")[2] for each in checked(moved).unknown_media} >= {"Made since.wav"}


def silently(path: Path) -> None:
    """Another content of the same size and date."""
    facts = path.stat()
    content = bytearray(path.read_bytes())
    content[-1] ^= 1
    path.write_bytes(content)
    os.utime(path, ns=(facts.st_atime_ns, facts.st_mtime_ns))


def test_contents_are_read_as_was_asked(moved: SmallMove) -> None:
    for file in (moved.new_disks / MUSIC).rglob("*.wav"):
        silently(file)
    unread = checked(moved, Content.CHANGED)
    assert unread.content is not None
    assert (unread.content.read, unread.content.differ) == (0, 0)
    assert unread.totals["changed"] == 0
    every = checked(moved, Content.ALL)
    assert every.content is not None
    assert every.content.read >= every.content.carried - 2, "all but the catalogs that were relinked"
    assert every.totals["changed"] > 0
    assert any("content differs from what was carried" in each.why for each in every.problems)


@pytest.mark.parametrize(
    ("statement", "said"),
    [
        ("UPDATE list SET title = 'Another name' WHERE list_id = 1", "is Another name now"),
        ("UPDATE list_item SET place = 100 - place", "the order in the group"),
        ("DELETE FROM list_item WHERE list_id = 1", "are gone"),
        ("UPDATE sound SET stars = 1", "stars of"),
    ],
)
def test_organisation_is_compared_by_digest_and_differences_are_named(
    moved: SmallMove, statement: str, said: str
) -> None:
    assert all(each.is_equal for each in checked(moved).organisation)
    change(moved, statement)
    (apart,) = [each for each in checked(moved).organisation if not each.is_equal]
    assert apart.holding == "wimblethorn/shelf"
    assert any(said in each for each in apart.differences), apart.differences


def test_an_entry_added_later_is_no_difference(moved: SmallMove) -> None:
    change(
        moved,
        "INSERT INTO sound (sound_id, shelf_id, file, title, bytes, origin) "
        "SELECT 999, shelf_id, 'Later.wav', 'Later', 1, 'stream' FROM sound LIMIT 1",
    )
    (shelf,) = [each for each in checked(moved).organisation if each.holding == "wimblethorn/shelf"]
    assert shelf.is_equal
    assert shelf.entries_new == 1


def test_an_entry_that_its_catalog_lost_is_missing_though_nothing_speaks_of_it(moved: SmallMove) -> None:
    change(moved, "UPDATE sound SET stars = NULL, note = NULL WHERE file = 'Owl Hoot.wav'")
    change(moved, "DELETE FROM list_item")
    change(moved, "DELETE FROM sound WHERE file = 'Lamp Lit.wav'")
    report = checked(moved)
    (gone,) = [each for each in report.problems if "no longer has this entry" in each.why]
    assert (gone.state, gone.recorded.rpartition("\\")[2]) == ("missing", "Lamp Lit.wav")
    shelf = next(each for each in report.holdings if each.id == "wimblethorn/shelf")
    assert (shelf.totals["entries"], shelf.new.entries) == (10, 9)
    assert "1 missing" in report.attention


def test_entries_of_a_catalog_that_is_gone_are_counted_as_missing(moved: SmallMove) -> None:
    moved.new_catalog.unlink()
    report = checked(moved)
    assert report.totals["entries"] == 10
    assert report.totals["missing"] > 0
    assert sum("this catalog is not at" in each.why for each in report.problems) == 1


def test_a_spot_check_that_no_longer_decodes_is_told(moved: SmallMove) -> None:
    report = checked(moved)
    sound = next(each for each in report.spot_checks if each.at.endswith(".wav") and each.verdict == "opened")
    assert sound.opened.duration_s
    file = moved.new_disks / "system" / sound.at.lstrip("/")
    if not file.exists():
        file = moved.new_disks / "spools" / sound.at.removeprefix("/Volumes/Spools/")
    file.write_bytes(file.read_bytes()[:500])
    (bad,) = [each for each in checked(moved).spot_checks if not each.is_good and each.at == sound.at][:1]
    assert bad.verdict == "broken"
    assert "truncated" in bad.said


def test_the_first_good_check_is_the_hand_over_and_later_ones_say_what_changed(moved: SmallMove) -> None:
    assert checked(moved).since is None
    quiet = checked(moved).since
    assert quiet is not None
    assert (quiet.files_new, quiet.files_edited, quiet.files_gone) == ((), (), ())
    (moved.new_disks / MUSIC / "Weeks later.wav").write_bytes(b"new")
    (moved.new_disks / MUSIC / "Lamp Lit.wav").write_bytes(b"edited")
    (moved.new_disks / MUSIC / "Here before.wav").unlink()
    since = checked(moved).since
    assert since is not None
    names = [
        [path.rpartition("/")[2] for path in paths] for paths in (since.files_new, since.files_edited, since.files_gone)
    ]
    assert names == [["Weeks later.wav"], ["Lamp Lit.wav"], ["Here before.wav"]]


def test_after_a_change_by_the_move_itself_the_hand_over_begins_anew(moved: SmallMove) -> None:
    checked(moved)
    moved.undo()
    moved.unpack(outside(days=1))
    moved.relink(outside(days=1))
    assert checked(moved).since is None


def test_a_check_is_kept_as_it_was(moved: SmallMove) -> None:
    (moved.new_disks / MUSIC / "Lamp Lit.wav").unlink()
    report = checked(moved)
    with moved.opened() as move:
        kept = last_check(move)
    assert kept is not None
    assert kept.report == report
    assert not kept.passed


def test_why_missing_names_another_case_another_volume_and_a_path_left_behind(moved: SmallMove) -> None:
    lamp = moved.new_disks / MUSIC / "Lamp Lit.wav"
    elsewhere = moved.new_disks / "spools" / lamp.relative_to(moved.new_disks / "system")
    elsewhere.parent.mkdir(parents=True)
    lamp.rename(elsewhere)
    (why,) = [each.why for each in checked(moved).problems if each.state == "missing"]
    assert "on another volume, at /Volumes/Spools/Users/odile.k/Music" in why
    shutil.move(elsewhere, lamp)
    change(moved, "UPDATE sound SET file = 'No such.wav' WHERE file = 'Lamp Lit.wav'")
    (why,) = [each.why for each in checked(moved).problems if each.state == "missing"]
    assert "its file is at /Users/odile.k/Music/Wimblethorn Sounds/Lamp Lit.wav" in why


def test_where_case_counts_a_name_in_another_case_is_named(moved: SmallMove) -> None:
    sheet = moved.demo.new_sheet
    sheet.write_text(sheet.read_text().replace('format = "apfs"', 'format = "apfs-case"'))
    lamp = moved.new_disks / MUSIC / "Lamp Lit.wav"
    lamp.rename(lamp.with_name("lamp lit.WAV"))
    reasons = [each.why for each in checked(moved).problems if each.recorded.endswith("/Lamp Lit.wav")]
    assert reasons
    why = reasons[0]
    assert "lamp lit.WAV is there, and differs only in upper and lower case" in why


class ForbiddenFolder(Disk):
    """A disk on which one folder may not be listed."""

    def scan(self, folder: Path) -> Contents:
        if folder.name == "Wimblethorn Sounds":
            raise DiskError("Listing", folder, PermissionError(errno.EACCES, "Permission denied"))
        return super().scan(folder)


def test_what_may_not_be_looked_at_is_never_missing(moved: SmallMove) -> None:
    with moved.opened(outside(ForbiddenFolder())) as move:
        report = check(move)
    assert report.totals["missing"] == 0
    assert report.totals["unclear"] > 0
    assert any("Permission denied" in each.why for each in report.problems if each.state == "unclear")


def test_a_program_that_wrote_to_its_catalog_raises_no_alarm(moved: SmallMove) -> None:
    change(moved, "UPDATE sound SET title = title || ', heard'")
    os.utime(moved.new_catalog)
    assert checked(moved, Content.ALL).attention == ()


def test_a_bad_check_leaves_what_was_handed_over_as_it_is(moved: SmallMove) -> None:
    first = checked(moved)
    assert first.attention == ()
    lamp = moved.new_disks / MUSIC / "Lamp Lit.wav"
    content, facts = lamp.read_bytes(), lamp.stat()
    lamp.unlink()
    bad = checked(moved)
    assert bad.since is not None
    assert [each.rpartition("/")[2] for each in bad.since.files_gone] == ["Lamp Lit.wav"]
    lamp.write_bytes(content)
    os.utime(lamp, ns=(facts.st_atime_ns, facts.st_mtime_ns))
    again = checked(moved).since
    assert again is not None
    assert (again.handed_over, again.files_gone) == (bad.since.handed_over, ())
