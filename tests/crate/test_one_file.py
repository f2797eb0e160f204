"""A crate as one file: whole, read by other software, taken by every command, and refused where it is hostile."""

from __future__ import annotations

import io
import shutil
import subprocess
import tarfile
from collections.abc import Callable
from pathlib import Path

import bagit
import pytest

from conftest import Zesty
from support.moves import picture
from support.trip import SQLITE, Trip, document


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database([trip.sound("owl.wav"), trip.sound("čáp at night.wav"), trip.sound(f"{'long ' * 30}.wav")])
    assert trip.survey().returncode == 0
    return trip


def sent(trip: Trip) -> Path:
    """The crate as a file that came by mail, without the folder that it was made of."""
    packed = trip.run("pack", trip.crate, "--as-file")
    assert packed.returncode == 0, packed.stdout
    mail = trip.root / "mail"
    mail.mkdir()
    (trip.root / "crate.tar").rename(mail / "crate.tar")
    shutil.rmtree(trip.crate)
    return mail / "crate.tar"


def test_other_software_reads_it_and_finds_all_of_the_crate(trip: Trip) -> None:
    packed = trip.run("pack", trip.crate, "--as-file", "--json")
    assert packed.returncode == 0, packed.stdout
    (written,) = document(packed)["written"]
    assert written["size-bytes"] == (trip.root / "crate.tar").stat().st_size
    before = picture(trip.crate)
    out = trip.root / "out"
    out.mkdir()
    if shutil.which("tar"):
        subprocess.run(["tar", "-xf", trip.root / "crate.tar", "-C", out], check=True)
    else:
        with tarfile.open(trip.root / "crate.tar") as archive:
            archive.extractall(out, filter="data")
    bagit.Bag(str(out / "crate")).validate()
    found = {name: each for name, each in picture(out / "crate").items() if (out / "crate" / name).is_file()}
    wanted = {name: each for name, each in before.items() if (trip.crate / name).is_file() and "lock" not in name}
    assert found.keys() == wanted.keys()
    for name in found:
        assert (out / "crate" / name).read_bytes() == (trip.crate / name).read_bytes()
    again = trip.run("pack", trip.crate, "--as-file", "--json")
    assert document(again)["written"] == [written]


def test_every_command_takes_it(trip: Trip) -> None:
    file, start = sent(trip), picture(trip.root / "shed")
    assert trip.run("pack", file, "--verify-only").returncode == 0
    trip.crate = file
    for step in (trip.plan, trip.unpack, trip.relink, trip.check):
        done = step()
        assert done.returncode == 0, done.stdout + done.stderr
    assert trip.run("todo", file).returncode in (0, 1)
    assert trip.run("report", file, "--to", trip.new).returncode == 0
    assert trip.run("survey", file).returncode == 0
    assert trip.run("compare", file, "--with", trip.new).returncode == 0
    assert trip.undo().returncode == 0
    assert picture(trip.root / "shed") == start


def test_with_the_work_elsewhere_nothing_is_written_beside_it(trip: Trip) -> None:
    file, work = sent(trip), trip.root / "work"
    work.mkdir()
    planned = trip.run("plan", file, "--to", trip.new, "--work", work)
    assert planned.returncode == 0, planned.stdout
    assert [each.name for each in file.parent.iterdir()] == ["crate.tar"]


def test_another_crate_of_the_name_is_not_touched(trip: Trip) -> None:
    file = sent(trip)
    (file.parent / "crate").mkdir()
    (file.parent / "crate/mine").write_text("mine")
    refused = trip.run("plan", file, "--to", trip.new)
    assert refused.returncode == 3
    assert "is there already" in refused.stderr
    assert [each.name for each in (file.parent / "crate").iterdir()] == ["mine"]


def added(name: str, kind: bytes = tarfile.REGTYPE, link: str = "", content: bytes = b"x") -> Callable[[Path], None]:
    """Make a file hostile with one member more."""

    def change(file: Path) -> None:
        info = tarfile.TarInfo(name)
        info.type, info.linkname, info.size = kind, link, len(content) if kind == tarfile.REGTYPE else 0
        with tarfile.open(file, "a") as archive:
            archive.addfile(info, io.BytesIO(content))

    return change


def header_with_size(size: int, kind: bytes) -> Callable[[Path], None]:
    def change(file: Path) -> None:
        info = tarfile.TarInfo("crate/data/x")
        info.type, info.size = kind, size
        file.write_bytes(info.tobuf(tarfile.GNU_FORMAT) + file.read_bytes())

    return change


def cut_short(file: Path) -> None:
    file.write_bytes(file.read_bytes()[: file.stat().st_size // 2])


def compressed(file: Path) -> None:
    import gzip

    file.write_bytes(gzip.compress(file.read_bytes()))


@pytest.mark.parametrize(
    ("change", "why"),
    [
        (added("crate/../../out"), "lead out of the crate"),
        (added("/etc/out"), "not a valid name"),
        (added("crate/data/C:\\out"), "not a valid name"),
        (added("other/x"), "no folder at its top"),
        (added("out"), "is in no folder"),
        (added("crate/link", tarfile.SYMTYPE, "/etc"), "is no plain file"),
        (added("crate/link", tarfile.LNKTYPE, "crate/bagit.txt"), "is no plain file"),
        (added("crate/pipe", tarfile.FIFOTYPE), "is no plain file"),
        (added("crate/BAGIT.txt"), "a second time"),
        (header_with_size(1 << 40, tarfile.REGTYPE), "cut short"),
        (header_with_size(1 << 30, tarfile.XHDTYPE), "a header in it says"),
        (cut_short, "cut short"),
        (compressed, "is compressed (gzip)"),
        (lambda file: file.write_bytes(b"no crate" * 200), "cannot be read as tar"),
        (lambda file: file.write_bytes(b""), "cannot be read as tar"),
    ],
)
def test_a_hostile_or_damaged_one_is_refused_before_anything_is_written(
    trip: Trip, change: Callable[[Path], None], why: str
) -> None:
    file = sent(trip)
    change(file)
    refused = trip.run("plan", file, "--to", trip.new)
    assert refused.returncode == 3, refused.stdout + refused.stderr
    assert why in " ".join(refused.stderr.split())
    assert [each.name for each in file.parent.iterdir()] == [file.name]


def test_one_that_is_killed_on_the_way_is_made_again(trip: Trip) -> None:
    file = sent(trip)
    left = file.parent / ".crate.part/crate/data"
    left.mkdir(parents=True)
    (left / "half").write_text("half")
    assert trip.run("plan", file, "--to", trip.new).returncode == 0
    assert sorted(each.name for each in file.parent.iterdir()) == ["crate", "crate.tar"]
    assert not (file.parent / "crate/data/half").exists()


def test_each_part_is_a_file(trip: Trip) -> None:
    for number in range(4):
        trip.sound(f"large {number}.wav")
        (trip.home / f"Music/Lamps/large {number}.wav").write_bytes(bytes([number]) * 300_000)
    trip.crate = trip.root / "parts"
    assert trip.survey().returncode == 0
    packed = trip.run("pack", trip.crate, "--part-size", "2MB", "--as-file")
    assert packed.returncode == 0, packed.stderr
    files = sorted(trip.root.glob("parts*.tar"))
    mail = trip.root / "mail"
    mail.mkdir()
    for each in files:
        each.rename(mail / each.name)
    for each in trip.root.glob("parts*"):
        shutil.rmtree(each)
    first, others = mail / "parts.tar", [mail / each.name for each in files if each.name != "parts.tar"]
    assert others
    more = [word for each in others for word in ("--part", str(each))]
    assert trip.run("plan", first, "--to", trip.new).returncode == 0
    assert trip.run("unpack", first, "--to", trip.new, "--yes", *more).returncode == 0
    assert len(list((trip.new_home / "Music/Lamps").iterdir())) == 7
