"""Color labels, tags and notes are in extended attributes; they go along over carriers that could not keep them."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from support.moves import SmallMove
from support.outside import FaultyDisk, Killed, outside
from zesty_crate.check import AttributesCompared
from zesty_crate.machines import Disk
from zesty_crate.moving import prepare_unpack, undo, unpack
from zesty_crate.plan import PlanOptions, make_plan

OLD, NEW = "c/Users/Odile/Music/Wimblethorn Sounds", "system/Users/odile.k/Music/Wimblethorn Sounds"
TAGS = {"com.example.tags": b"violet\x00dusk", "note": "f\u00fcr Akt II".encode()}


def keeps_attributes(folder: Path) -> bool:
    (folder / "probe").touch()
    return Disk().set_attributes(folder / "probe", TAGS)


@pytest.fixture
def tagged(tmp_path: Path) -> SmallMove:
    if not keeps_attributes(tmp_path):
        pytest.skip("the volume of temporary files keeps no extended attributes")
    move = SmallMove(tmp_path / "show")
    for path in (move.old_disks / OLD / "Lamp Lit.wav", move.old_disks / OLD):
        assert Disk().set_attributes(path, TAGS)
    return move


def attributes(move: SmallMove) -> list[dict[str, bytes]]:
    return [Disk().attributes(move.new_disks / NEW / name) for name in ("Lamp Lit.wav", "")]


def test_labels_of_files_and_folders_go_along_and_the_crate_needs_none(tagged: SmallMove) -> None:
    tagged.up_to_plan()
    carried = next(tagged.crate.data.rglob("Lamp Lit.wav"))
    assert Disk().attributes(carried) == {}
    dates = carried.stat().st_mtime_ns
    assert tagged.unpack().attributes_not_kept == 0
    assert attributes(tagged) == [TAGS, TAGS]
    assert (tagged.new_disks / NEW / "Lamp Lit.wav").stat().st_mtime_ns == dates


def test_a_check_tells_which_labels_are_not_as_they_were_carried(tagged: SmallMove) -> None:
    tagged.up_to_plan().unpack()
    lamp = tagged.new_disks / NEW / "Lamp Lit.wav"
    Disk().set_attributes(lamp, {"since": b"heard"})
    assert tagged.check().attributes == AttributesCompared(2, ())
    Disk().set_attributes(lamp, {"note": b"another"})
    seen = tagged.check().attributes
    assert (seen and [path.rpartition("/")[2] for path in seen.lacking]) == ["Lamp Lit.wav"]


def test_a_relinked_catalog_keeps_its_labels_there_and_back(tagged: SmallMove) -> None:
    tagged.up_to_plan()
    tagged.unpack()
    assert Disk().set_attributes(tagged.new_catalog, TAGS)
    assert tagged.relink().catalogs
    assert Disk().attributes(tagged.new_catalog) == TAGS
    with tagged.opened() as move:
        undo(move, "relink")
    assert Disk().attributes(tagged.new_catalog) == TAGS


@pytest.mark.parametrize("own", [{"note": b"mine"}, {}])
def test_what_was_replaced_comes_back_with_its_own_labels_and_no_others(
    tagged: SmallMove, own: dict[str, bytes]
) -> None:
    lamp = tagged.new_disks / NEW / "Lamp Lit.wav"
    lamp.parent.mkdir(parents=True)
    lamp.write_bytes(b"mine")
    assert Disk().set_attributes(lamp, own)
    tagged.up_to_plan()
    with tagged.opened() as move:
        make_plan(move, PlanOptions(decisions=("bring-in",)))
    tagged.unpack()
    assert Disk().attributes(lamp) == TAGS
    tagged.undo()
    assert (lamp.read_bytes(), Disk().attributes(lamp)) == (b"mine", own)


def test_what_a_person_labels_later_is_left_as_it_is(tagged: SmallMove) -> None:
    tagged.up_to_plan()
    tagged.unpack()
    lamp = tagged.new_disks / NEW / "Lamp Lit.wav"
    Disk().set_attributes(lamp, {"note": b"heard"})
    tagged.unpack()
    assert Disk().attributes(lamp)["note"] == b"heard"


def test_an_interrupted_run_comes_to_its_labels_later(tagged: SmallMove) -> None:
    tagged.up_to_plan()
    kills = 0
    for at in range(1, 400):
        disk = FaultyDisk(at)
        try:
            with tagged.opened(outside(disk)) as move:
                unpack(move, prepare_unpack(move))
            break
        except Killed:
            kills += 1
    assert kills
    assert attributes(tagged) == [TAGS, TAGS]


class Plain(Disk):
    """A volume that keeps no extended attributes."""

    def set_attributes(self, path: str | Path, attributes: object) -> bool:  # noqa: ARG002
        return False


def test_a_volume_that_keeps_none_is_told_of_and_loses_nothing_else(tagged: SmallMove) -> None:
    tagged.up_to_plan()
    report = tagged.unpack(outside(Plain()))
    assert (report.attributes_not_kept, attributes(tagged)) == (2, [{}, {}])


def test_only_what_is_a_persons_own_is_read(tmp_path: Path) -> None:
    if not keeps_attributes(tmp_path):
        pytest.skip("the volume of temporary files keeps no extended attributes")
    file = tmp_path / "probe"
    os.setxattr(file, "user.large", b"x" * 3000)
    assert Disk().attributes(file) == {**TAGS, "large": b"x" * 3000}
    assert Disk().attributes(tmp_path / "probe") == Disk().attributes(file)


class Listed(Disk):
    """One on which a folder says who may do what in it."""

    def has_access_list(self, folder: str | Path) -> bool:
        return Path(folder).name == "Wimblethorn Sounds"


def test_access_lists_are_said_to_be_left(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "show")
    move.survey()
    assert move.pack(outside(Listed())).access_lists == 1
