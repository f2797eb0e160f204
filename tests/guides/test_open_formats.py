"""Open formats, found wherever they are: read, moved from Linux to Windows, and found there by other software."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from pathlib import Path

import opentimelineio as otio
import pygltflib
import pytest
from lxml import etree

from support.barn import HOME, NEW_HOME, NEW_SPOOLS, SPOOLS, Barn
from support.moves import picture
from support.outside import FaultyDisk, Killed, outside
from zesty_crate.crate import Crate, Scope, create_crate, open_finished, pack
from zesty_crate.guides import shipped_guides
from zesty_crate.machines import load_sheet
from zesty_crate.moving import prepare_unpack, undo, unpack
from zesty_crate.plan import Move, make_plan, open_move
from zesty_crate.relink import relink
from zesty_crate.survey import Verdict


@pytest.fixture
def barn(tmp_path: Path) -> Barn:
    return Barn(tmp_path)


M3U8 = (
    "#EXTM3U\r\n#EXTINF:3,Drip\r\n../Music/Rain & Wind/drip.wav\r\n/home/odile/Music/For\u00eat 100%.wav\r\n\r\n"
    "https://barn.example/stream\r\nfile:///mnt/spools/Moth's%20Wing.png\r\n"
)
PLS = (
    "[playlist]\nNumberOfEntries=3\nFile1=/home/odile/Music/Rain & Wind/drip.wav\nTitle1=Drip\n"
    "File2=../Music/For\u00eat 100%.wav\nFile3=/mnt/spools/Moth's Wing.png\n"
)
CUE = (
    'PERFORMER "Odile"\nFILE "../Music/Rain & Wind/drip.wav" WAVE\n  TRACK 01 AUDIO\n    INDEX 01 00:00:00\n'
    'FILE "/home/odile/Music/For\u00eat 100%.wav" WAVE\n  TRACK 02 AUDIO\n    INDEX 01 00:00:00\n'
)
# xspf.org, version 1: "Location: URI of resource to be rendered"; relative ones by the playlist's own place.
XSPF = """<?xml version="1.0" encoding="UTF-8"?>
<playlist version="1" xmlns="http://xspf.org/ns/0/"><trackList>
 <track><title>Drip</title><location>../Music/Rain%20&amp;%20Wind/drip.wav</location></track>
 <track><location>file:///home/odile/Music/For%C3%AAt%20100%25.wav</location></track>
 <track><location>file:///mnt/spools/Moth's%20Wing.png</location></track>
 <track><location>https://barn.example/stream</location></track>
</trackList></playlist>
"""
# SVG 2, 12.1: href, or the deprecated xlink:href.
SVG = """<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">
 <image href="file:///mnt/spools/Moth's%20Wing.png"/><image xlink:href='/mnt/spools/Moth&apos;s%20Wing.png'/>
 <image href="data:image/png;base64,AAAA"/><rect href="not/a/picture"/></svg>
"""


def texts(path: Path) -> str:
    return path.read_bytes().decode("utf-8")


def test_m3u(barn: Barn) -> None:
    barn.write(f"{HOME}/Documents/list.m3u8", M3U8)
    survey, report = barn.move()
    assert (survey.totals["found"], survey.totals["remote"]) == (3, 1)
    assert (report.totals["found"], report.totals["remote"]) == (3, 1)
    assert texts(barn.root / NEW_HOME / "Documents/list.m3u8") == (
        "#EXTM3U\r\n#EXTINF:3,Drip\r\n../Music/Rain & Wind/drip.wav\r\n"
        "C:\\Users\\Odile\\Music\\For\u00eat 100%.wav\r\n\r\nhttps://barn.example/stream\r\nfile:///E:/Moth's%20Wing.png\r\n"
    )


def test_an_old_m3u_in_a_code_page_keeps_its_bytes(barn: Barn) -> None:
    barn.write(f"{HOME}/Documents/old.m3u", "# caf\u00e9\n/home/odile/Music/For\u00eat 100%.wav\n", "cp1252")
    _, report = barn.move()
    assert report.totals["found"] == 1
    assert (barn.root / NEW_HOME / "Documents/old.m3u").read_bytes() == (
        "# caf\u00e9\nC:\\Users\\Odile\\Music\\For\u00eat 100%.wav\n".encode("cp1252")
    )


def test_pls_and_cue(barn: Barn) -> None:
    barn.write(f"{HOME}/Documents/list.pls", PLS)
    barn.write(f"{HOME}/Documents/tape.cue", CUE)
    _, report = barn.move()
    assert report.totals["found"] == report.totals["entries"] == 5
    assert "File3=E:\\Moth's Wing.png\n" in texts(barn.root / NEW_HOME / "Documents/list.pls")
    assert 'FILE "C:\\Users\\Odile\\Music\\For\u00eat 100%.wav" WAVE' in texts(
        barn.root / NEW_HOME / "Documents/tape.cue"
    )


def test_xspf(barn: Barn) -> None:
    barn.write(f"{HOME}/Documents/list.xspf", XSPF)
    _, report = barn.move()
    assert (report.totals["found"], report.totals["remote"]) == (3, 1)
    tree = etree.fromstring((barn.root / NEW_HOME / "Documents/list.xspf").read_bytes())
    found = tree.xpath("//x:location/text()", namespaces={"x": "http://xspf.org/ns/0/"})
    assert found == [
        "../Music/Rain%20&%20Wind/drip.wav",
        "file:///C:/Users/Odile/Music/For%C3%AAt%20100%25.wav",
        "file:///E:/Moth's%20Wing.png",
        "https://barn.example/stream",
    ]


def test_svg(barn: Barn) -> None:
    barn.write(f"{SPOOLS}/drawing.svg", SVG)
    _, report = barn.move()
    assert report.totals["found"] == report.totals["entries"] == 2
    assert texts(barn.root / NEW_SPOOLS / "drawing.svg") == SVG.replace("file:///mnt/spools", "file:///E:").replace(
        "'/mnt/spools/", "'/E:/"
    )


def test_a_timeline_that_other_software_wrote_finds_its_media_there(barn: Barn) -> None:
    timeline = otio.schema.Timeline("The Moth")
    track = otio.schema.Track("pictures")
    timeline.tracks.append(track)
    for url in ("file:///mnt/spools/Moth's%20Wing.png", "../Music/Rain & Wind/drip.wav"):
        media = otio.schema.ExternalReference(target_url=url)
        track.append(otio.schema.Clip("a clip", media_reference=media))
    track.append(otio.schema.Clip("a gap", media_reference=otio.schema.MissingReference()))
    (barn.root / HOME / "Documents").mkdir()
    otio.adapters.write_to_file(timeline, str(barn.root / HOME / "Documents/moth.otio"))
    _, report = barn.move()
    assert report.totals["found"] == report.totals["entries"] == 2
    moved = otio.adapters.read_from_file(str(barn.root / NEW_HOME / "Documents/moth.otio"))
    urls = [clip.media_reference.target_url for clip in moved.find_clips()[:2]]
    assert urls == ["file:///E:/Moth's%20Wing.png", "../Music/Rain & Wind/drip.wav"]


def test_a_scene_that_other_software_wrote_finds_its_pictures_there(barn: Barn) -> None:
    scene = pygltflib.GLTF2(
        images=[pygltflib.Image(uri="Moth's%20Wing.png"), pygltflib.Image(uri="data:image/png;base64,AAAA")],
        buffers=[pygltflib.Buffer(uri="file:///home/odile/Music/Rain%20&%20Wind/drip.wav", byteLength=7)],
    )
    scene.save_json(str(barn.root / SPOOLS / "stage.gltf"))
    _, report = barn.move()
    assert report.totals["found"] == report.totals["entries"] == 2
    moved = pygltflib.GLTF2().load_json(str(barn.root / NEW_SPOOLS / "stage.gltf"))
    assert [image.uri for image in moved.images] == ["Moth's%20Wing.png", "data:image/png;base64,AAAA"]
    assert moved.buffers[0].uri == "file:///C:/Users/Odile/Music/Rain%20&%20Wind/drip.wav"


@pytest.mark.parametrize("spoil", [lambda text: text[: len(text) // 2], lambda _: "\0\0"], ids=["cut", "zeros"])
def test_a_damaged_list_stops_no_other(barn: Barn, spoil: Callable[[str], str]) -> None:
    barn.write(f"{HOME}/Documents/bad.xspf", spoil(XSPF))
    barn.write(f"{HOME}/Documents/good.m3u8", M3U8)
    survey, report = barn.move()
    (unread,) = survey.unsettled
    assert (unread.verdict, "bad.xspf" in unread.at) == (Verdict.NOT_READ, True)
    assert report.totals["found"] == 3


def test_relinking_texts_killed_at_every_change_resumes_and_undoes(barn: Barn) -> None:
    barn.write(f"{HOME}/Documents/list.m3u8", M3U8)
    barn.write(f"{SPOOLS}/drawing.svg", SVG)
    barn.write(f"{HOME}/Documents/second.m3u8", M3U8)
    world = outside()
    crate = Crate(barn.root / "crate")
    create_crate(crate, load_sheet(barn.root / "old.toml", world.disk), shipped_guides(), world)
    pack(crate, Scope(outside=True), world)

    def opened(disk: FaultyDisk | None = None) -> Move:
        here = outside(disk)
        return open_move(open_finished(crate.root, here.disk), load_sheet(barn.root / "new.toml", here.disk), here)

    def content() -> dict[str, tuple[object, ...]]:
        return picture(barn.root / "new", dates=False)  # a relinked text is as old as the relinking

    untouched = content()
    make_plan(opened())
    unpack(opened(), prepare_unpack(opened()))
    relink(opened())
    whole = content()
    undo(opened())
    killed = 0
    for at in itertools.count(1):
        unpack(opened(), prepare_unpack(opened()))
        try:
            relink(opened(FaultyDisk(at, torn=at % 2 == 0)))
        except Killed:
            killed += 1
        relink(opened())
        assert content() == whole, f"resumed after change {at}"
        undo(opened())
        assert content() == untouched, f"undone after change {at}"
        if killed < at:
            break
    assert killed > 20


def test_every_shipped_guide_has_an_id_of_its_own() -> None:
    ids = [guide.id for guide in shipped_guides()]
    assert ids == sorted(set(ids))
