"""Crates are valid bags, carry everything, and are trusted only when they are whole."""

from __future__ import annotations

import json
import os
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import bagit
import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.moves import SmallMove
from support.outside import FaultyDisk, outside
from zesty_crate.crate import Crate, DamagedCrate, Scope, open_finished, pack, verify
from zesty_crate.crate.bag import read_manifest
from zesty_crate.crate.naming import PayloadNames
from zesty_crate.errors import HalfwayError, ZestyError
from zesty_crate.machines import Computer, Disk, DiskError, FileFacts, Volume, usual_mode
from zesty_crate.machines.files import AnyPath, Copied
from zesty_crate.paths import FORMATS, MachinePath, System

MUSIC = "disks/c/Users/Odile/Music/Wimblethorn Sounds"


def whole(crate: Crate) -> None:
    verify(open_finished(crate.root, Disk()), Disk())


def test_a_crate_is_a_valid_bag(small: SmallMove) -> None:
    bag = bagit.Bag(str(small.crate.root))
    bag.validate()
    assert bag.info["Payload-Oxum"].split(".")[1] == str(len(list(bag.payload_entries())))
    assert not any("%" in name for name in bag.payload_entries())
    whole(small.crate)


def test_names_dates_and_empty_folders_are_carried(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "demo")
    empty = move.demo.old_sheet.parent / MUSIC / "To Record"
    empty.mkdir()
    move.survey()
    move.pack()
    carried = move.crate.data / "C/Users/Odile/Music/Wimblethorn Sounds"
    assert (carried / "To Record").is_dir()
    source = move.demo.old_sheet.parent / MUSIC / "Weather/Rain/Rain 80% Softer.wav"
    kept = carried / "Weather/Rain/Rain 80~(25) Softer.wav"
    assert kept.read_bytes() == source.read_bytes()
    assert kept.stat().st_mtime_ns == source.stat().st_mtime_ns


def flip(path: Path) -> None:
    content = bytearray(path.read_bytes())
    content[len(content) // 2] ^= 1
    path.write_bytes(content)


def lie_about_sizes(root: Path) -> None:
    text = (root / "bag-info.txt").read_text()
    (root / "bag-info.txt").write_text(text.replace("Payload-Oxum: ", "Payload-Oxum: 1"))
    remake_tag_manifest(root, "bag-info.txt")


def remake_tag_manifest(root: Path, *names: str) -> None:
    """Make the tag manifest fit a file that was tampered with."""
    path = root / "tagmanifest-sha512.txt"
    lines = {line.split("  ", 1)[1]: line.split("  ", 1)[0] for line in path.read_text().splitlines()}
    for name in names:
        lines[name] = Disk().digest(root / name).sha512
    path.write_text("".join(f"{digest}  {name}\n" for name, digest in lines.items()))


def rename_in_manifest(root: Path, new: str) -> None:
    path = root / "manifest-sha512.txt"
    first, rest = path.read_text().split("\n", 1)
    path.write_text(f"{first.split('  ')[0]}  {new}\n{rest}")
    remake_tag_manifest(root, "manifest-sha512.txt")


def twin_of_the_second(root: Path) -> str:
    return (root / "manifest-sha512.txt").read_text().splitlines()[1].split("  ")[1].upper().replace("DATA", "data", 1)


def payload(root: Path) -> Path:
    return next(path for path in sorted((root / "data").rglob("*.wav")))


def other_format(root: Path) -> None:
    about = json.loads((root / "zesty/about.json").read_text())
    (root / "zesty/about.json").write_text(json.dumps({**about, "format": 99}))
    remake_tag_manifest(root, "zesty/about.json")


@pytest.mark.parametrize(
    ("damage", "word"),
    [
        (lambda root: flip(payload(root)), "content differs"),
        (lambda root: payload(root).unlink(), "not there"),
        (lambda root: (root / "data" / "extra.wav").touch(), "not in the manifest"),
        (lambda root: (root / "manifest-sha512.txt").unlink(), "has no manifest-sha512.txt"),
        (lambda root: (root / "tagmanifest-sha512.txt").unlink(), "has no tagmanifest-sha512.txt"),
        (lambda root: (root / "bagit.txt").unlink(), "no bagit.txt"),
        (lambda root: flip(root / "zesty/sheet.toml"), "content differs"),
        (lambda root: flip(root / "manifest-sha512.txt"), "content differs"),
        (lambda root: (root / "zesty/guides/more.toml").touch(), "not in the tag manifest"),
        (lie_about_sizes, "Payload-Oxum"),
        (other_format, "format 99"),
        (lambda root: rename_in_manifest(root, "data/../../away.wav"), "lead out"),
        (lambda root: rename_in_manifest(root, "/etc/away.wav"), "not a valid name"),
        (lambda root: rename_in_manifest(root, "C:/away.wav"), "not a valid name"),
        (lambda root: rename_in_manifest(root, "data/C/other.wav"), "not there"),
        (lambda root: rename_in_manifest(root, "data/C/con.wav"), "reserves this name for a device"),
        (lambda root: rename_in_manifest(root, "data/C/a?.wav"), "not every system can write"),
        (lambda root: rename_in_manifest(root, twin_of_the_second(root)), "a second time"),
        (lambda root: (root / "bagit.txt").write_text("BagIt-Version: 7\n"), "declares BagIt 7"),
    ],
)
def test_a_damaged_or_hostile_crate_is_refused(small: SmallMove, damage: Callable[[Path], None], word: str) -> None:
    damage(small.crate.root)
    with pytest.raises(DamagedCrate) as raised:
        whole(small.crate)
    assert word in raised.value.message + " ".join(raised.value.details)
    assert raised.value.next_step


def test_a_link_in_the_payload_is_refused(small: SmallMove) -> None:
    target = payload(small.crate.root)
    shutil.move(target, small.demo.root / "elsewhere")
    target.symlink_to(small.demo.root / "elsewhere")
    with pytest.raises(DamagedCrate, match="damaged"):
        whole(small.crate)


def test_a_bag_that_is_no_crate_is_refused(tmp_path: Path) -> None:
    (tmp_path / "plain").mkdir()
    (tmp_path / "plain" / "a.txt").write_text("x")
    bagit.make_bag(str(tmp_path / "plain"), checksums=["sha512"])
    with pytest.raises(ZestyError, match="is not a crate"):
        open_finished(tmp_path / "plain", Disk())


def test_percent_escapes_of_the_rfc_are_read(tmp_path: Path) -> None:
    (tmp_path / "m.txt").write_text(f"{'A' * 128}  data/100%25 a%09b%2525\n")
    assert dict(read_manifest(Disk(), tmp_path / "m.txt")) == {"data/100% a%09b%25": "a" * 128}


@given(st.binary(max_size=300))
def test_any_manifest_is_read_or_refused(content: bytes) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "manifest-sha512.txt")
        path.write_bytes(content)
        try:
            rows = dict(read_manifest(Disk(), path))
        except ZestyError:
            return
    assert all(".." not in name.split("/") and not name.startswith("/") for name in rows)


# -- packing ---------------------------------------------------------------------------------------------------------


def test_a_full_carrier_stops_and_later_goes_on(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "demo")
    move.survey()
    with pytest.raises(HalfwayError) as raised:
        move.pack(outside(FaultyDisk(30, full=True)))
    assert "No space left" in raised.value.message
    report = move.pack()
    assert report.already_there + report.copied_now == report.files
    whole(move.crate)


class TooSmall(Disk):
    def free_bytes(self, folder: Path) -> int:  # noqa: ARG002
        return 1000


def test_a_carrier_without_room_is_refused_before_anything_is_copied(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "demo")
    move.survey()
    with pytest.raises(ZestyError, match="1,000 bytes free"):
        move.pack(outside(TooSmall()))
    assert not move.crate.data.exists()


class Unreadable(Disk):
    def copy(self, source: AnyPath, target: AnyPath, facts: FileFacts, **more: Any) -> Copied:
        if Path(source).name == "Lamp Lit.wav":
            raise DiskError("Reading", source, OSError(5, "Input/output error"))
        return super().copy(source, target, facts, **more)


def test_a_file_that_cannot_be_read_is_listed_and_the_rest_goes_on(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "demo")
    move.survey()
    report = move.pack(outside(Unreadable()))
    assert [each.path for each in report.left] == [r"C:\Users\Odile\Music\Wimblethorn Sounds\Lamp Lit.wav"]
    assert "Input/output error" in report.left[0].why
    move.plan()
    move.unpack()
    move.relink()
    (problem,) = [each for each in move.check().problems if each.state == "missing"]
    assert "could not be carried" in problem.why


class Restless(Disk):
    """A file that changes while it is copied, so many times."""

    def __init__(self, times: int) -> None:
        self.left = times

    def copy(self, source: AnyPath, target: AnyPath, facts: FileFacts, **more: Any) -> Copied:
        if Path(source).name == "Lamp Lit.wav" and self.left:
            self.left -= 1
            Path(source).write_bytes(Path(source).read_bytes() + b"more")
        return super().copy(source, target, facts, **more)


@pytest.mark.parametrize(("times", "left"), [(1, 0), (9, 1)])
def test_a_file_that_changes_while_it_is_copied_is_taken_again(tmp_path: Path, times: int, left: int) -> None:
    move = SmallMove(tmp_path / "demo")
    move.survey()
    report = move.pack(outside(Restless(times)))
    assert len(report.left) == left
    assert len(report.changed_since_survey) == 1 - left
    whole(move.crate)


class Forgetful(Disk):
    """A drive that does not give back what was written to it, once."""

    def __init__(self) -> None:
        self.done = False

    def rename(self, source: AnyPath, target: AnyPath) -> None:
        super().rename(source, target)
        if Path(target).suffix == ".wav" and not self.done:
            self.done = True
            flip(Path(target))


def test_what_the_drive_does_not_give_back_is_copied_anew(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "demo")
    move.survey()
    with pytest.raises(HalfwayError, match="returned different data"):
        move.pack(outside(Forgetful()))
    with pytest.raises(ZestyError):
        open_finished(move.crate.root, Disk())
    assert move.pack().copied_now == 1
    whole(move.crate)


def test_a_finished_crate_is_not_packed_again_nor_with_another_scope(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "demo")
    move.survey()
    with pytest.raises(HalfwayError):
        pack(move.crate, Scope(), outside(FaultyDisk(50, full=True)))
    with pytest.raises(ZestyError, match="--outside differs"):
        move.pack()
    pack(move.crate, Scope(), outside())
    with pytest.raises(ZestyError, match="already packed"):
        pack(move.crate, Scope(), outside())
    with pytest.raises(ZestyError, match="already holds a survey"):
        move.survey()


# -- names -----------------------------------------------------------------------------------------------------------


def linux(*parts: str) -> MachinePath:
    return MachinePath(System.LINUX, "/", parts)


def test_twins_get_names_of_their_own_on_every_carrier() -> None:
    computer = Computer("barn", System.LINUX, "o", [Volume(linux(), FORMATS["ext4"], "", Path())], {})
    paths = [
        linux("a", "Owl"),
        linux("a", "owl"),
        linux("a", "OWL"),
        linux("A"),
        linux("A", "x"),
        linux("a"),
        linux("a", "x"),
        linux("For\u00eat"),
        linux("Fore\u0302t"),
        linux("con"),
        linux("what?"),
        linux("\udcff.wav"),
    ]
    names = PayloadNames(computer, paths)
    written = [names.name_of(path) for path in paths]
    assert len({name.casefold() for name in written}) == len(paths)
    assert written[0] == "data/Root/a/Owl" or written[0].startswith("data/Root/")
    assert all(name.isascii() or "For" in name for name in written)


def test_volumes_of_one_name_get_folders_of_their_own() -> None:
    anchors = [linux("media", "Spools"), linux("mnt", "spools"), linux()]
    volumes = [Volume(anchor, FORMATS["ext4"], "", Path()) for anchor in anchors]
    names = PayloadNames(Computer("barn", System.LINUX, "o", volumes, {}), [])
    assert {names.name_of(anchor.below("a")) for anchor in anchors} == {
        "data/Root/a",
        "data/Spools/a",
        "data/spools 2/a",
    }


def test_permissions_stay_out_of_the_crate(tmp_path: Path) -> None:
    move = SmallMove(tmp_path / "demo")
    source = move.demo.old_sheet.parent / MUSIC / "Lamp Lit.wav"
    source.chmod(0o440)
    move.survey()
    move.pack()
    move.plan()
    move.unpack()
    placed = move.new_disks / "system/Users/odile.k/Music/Wimblethorn Sounds/Lamp Lit.wav"
    assert placed.stat().st_mode & 0o777 == usual_mode("file")  # it came from Windows
    assert os.access(move.crate.data / "C/Users/Odile/Music/Wimblethorn Sounds/Lamp Lit.wav", os.W_OK)
