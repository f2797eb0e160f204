"""Whole files open, each as its kind asks for; files that are truncated or are something else do not."""

from __future__ import annotations

import io
import json
import plistlib
import shutil
import sqlite3
import struct
import subprocess
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageFile

from zesty_crate.demo.sound import tone
from zesty_crate.media import media_facts, open_file, open_within
from zesty_crate.systems import this_system


def png() -> bytes:
    stream = io.BytesIO()
    Image.effect_noise((40, 30), 50).save(stream, "PNG")
    return stream.getvalue()


def box(name: bytes, content: bytes) -> bytes:
    return struct.pack(">I4s", len(content) + 8, name) + content


def mp4() -> bytes:
    header = box(b"mvhd", struct.pack(">IIIII", 0, 0, 0, 1000, 2500) + bytes(80))
    return box(b"ftyp", b"isom\0\0\0\0") + box(b"moov", header) + box(b"mdat", bytes(500))


def archive() -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as target:
        target.writestr("inside.txt", "inside" * 100)
    return stream.getvalue()


WHOLE: dict[str, tuple[str, Callable[[], bytes]]] = {
    "bell.wav": ("sound", lambda: tone(3)),
    "cloth.png": ("picture", png),
    "trailer.mp4": ("video", mp4),
    "stage.svg": ("drawing", lambda: b'<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0"/></svg>'),
    "cut.otio": ("timeline", lambda: json.dumps({"OTIO_SCHEMA": "Timeline.1", "tracks": {}}).encode()),
    "drum.sfz": ("instrument", lambda: b"// a drum of the cart\n" * 3 + b"<region> sample=drum.wav\n"),
    "desk.plist": ("property list", lambda: plistlib.dumps({"desk": [1, 2]})),
    "looks.json": ("text in JSON", lambda: b'{"looks": [1, 2, 3]}'),
    "looks.look": ("text in XML", lambda: b"<?xml version='1.0'?><look><lamp/></look>"),
    "pack.show": ("ZIP archive", archive),
}


@pytest.mark.parametrize("name", WHOLE)
def test_a_whole_file_opens_and_a_cut_one_does_not(name: str, tmp_path: Path) -> None:
    what, make = WHOLE[name]
    path = tmp_path / name
    path.write_bytes(make())
    opened = open_file(path)
    assert (opened.what, opened.fault) == (what, "")
    path.write_bytes(make()[: len(make()) // 2])
    cut = open_file(path)
    assert cut.fault, f"half of {name} opened"


def test_a_cut_picture_does_not_open_though_another_library_would_have_it_so(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(ImageFile, "LOAD_TRUNCATED_IMAGES", True)  # as what lays out PDF sets it for the whole process
    (tmp_path / "cloth.png").write_bytes(png()[: len(png()) // 2])
    assert open_file(tmp_path / "cloth.png").fault
    assert ImageFile.LOAD_TRUNCATED_IMAGES


def test_what_is_measured_is_right(tmp_path: Path) -> None:
    for name in ("bell.wav", "cloth.png", "trailer.mp4"):
        (tmp_path / name).write_bytes(WHOLE[name][1]())
    assert open_file(tmp_path / "bell.wav").duration_s == pytest.approx(1.1, abs=0.01)
    assert open_file(tmp_path / "cloth.png").dimensions == (40, 30)
    assert open_file(tmp_path / "trailer.mp4").duration_s == 2.5


def test_a_database_is_looked_through(tmp_path: Path) -> None:
    path = tmp_path / "shelf.db"
    with sqlite3.connect(path) as database:
        database.execute("CREATE TABLE sound (name TEXT)")
        database.executemany("INSERT INTO sound VALUES (?)", [("x" * 500,)] * 100)
    database.close()
    assert open_file(path).what == "database"
    assert open_file(path).fault == ""
    path.write_bytes(path.read_bytes()[:9000])
    assert open_file(path).fault


def test_what_is_unknown_is_read_to_its_end_and_says_no_more(tmp_path: Path) -> None:
    path = tmp_path / "hall.wsp"
    path.write_bytes(b"whatever this is")
    assert (open_file(path).what, open_file(path).fault) == ("file", "")
    assert open_file(tmp_path / "nothing.wav").fault.startswith("it cannot be read")


def test_slow_is_not_broken(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import threading

    hang = threading.Event()
    monkeypatch.setattr("zesty_crate.media.opening.open_file", lambda _: hang.wait(30))
    opened = open_within(tmp_path / "any.wav", 0.05)
    hang.set()
    assert opened.slow
    assert opened.fault == ""


@given(
    content=st.binary(max_size=300),
    name=st.sampled_from([*WHOLE, "a.mkv", "a.avi", "a.flac", "a.ogg", "a.mp3", "a.aiff"]),
)
def test_nothing_makes_opening_fail_in_itself(
    content: bytes, name: str, tmp_path_factory: pytest.TempPathFactory
) -> None:
    path = tmp_path_factory.mktemp("odd") / name
    path.write_bytes(content)
    opened = open_file(path)
    assert opened.fault or opened.what


@pytest.mark.skipif(shutil.which("ffmpeg") is None, reason="ffmpeg is not here")
@pytest.mark.parametrize("ending", ["flac", "ogg", "mp3", "aiff", "wav", "m4a", "mkv", "avi", "mov", "webm"])
def test_files_that_other_software_wrote(ending: str, tmp_path: Path) -> None:
    path = tmp_path / f"two seconds.{ending}"
    source = ["-f", "lavfi", "-i", "sine=frequency=300:duration=2"]
    if ending in ("mkv", "avi", "mov", "webm"):
        source += ["-f", "lavfi", "-i", "testsrc=duration=2:size=64x48:rate=10"]
    made = subprocess.run(["ffmpeg", "-v", "error", *source, str(path)], check=False, capture_output=True)
    if made.returncode:
        pytest.skip(f"this ffmpeg writes no {ending}")
    opened = open_file(path)
    assert opened.fault == ""
    assert opened.duration_s == pytest.approx(2, abs=0.15)
    path.write_bytes(path.read_bytes()[:-2000])
    assert open_file(path).fault


@pytest.mark.skipif(shutil.which("ffmpeg") is None, reason="ffmpeg is not here")
def test_a_flac_that_lost_whole_frames_is_told_by_its_samples(tmp_path: Path) -> None:
    path, source = tmp_path / "long.flac", ["-f", "lavfi", "-i", "anoisesrc=duration=3:seed=7"]
    subprocess.run(["ffmpeg", "-v", "error", *source, str(path)], check=True, capture_output=True)
    whole = path.read_bytes()
    cut = next(at for at in range(len(whole) // 2, len(whole)) if whole[at : at + 2] in (b"\xff\xf8", b"\xff\xf9"))
    path.write_bytes(whole[:cut])
    assert "truncated" in open_file(path).fault
    path.write_bytes(whole + b"TAG" + bytes(125))
    assert open_file(path).fault == "", "an old kind of tag at the end is no damage"


def test_a_zip_whose_stream_is_damaged_is_broken_and_not_slow(tmp_path: Path) -> None:
    path = tmp_path / "scene.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("scene", bytes(range(256)) * 40)
    content = bytearray(path.read_bytes())
    start = 30 + len("scene")
    content[start : start + 12] = b"\xff" * 12
    path.write_bytes(content)
    opened = open_within(path, 60)
    assert not opened.slow
    assert "not a complete ZIP" in opened.fault


def test_a_file_is_opened_in_the_form_in_which_its_system_takes_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    Image.new("RGB", (3, 2)).save(tmp_path / "reached.png")
    monkeypatch.setattr(type(this_system()), "reach", lambda _, path: str(path).replace("written", "reached"))
    opened = open_file(tmp_path / "written.png")
    assert (opened.what, opened.fault, opened.dimensions) == ("picture", "", (3, 2))
    assert media_facts(tmp_path / "written.png").dimensions == (3, 2)
