"""A folder of media is rehomed on this very machine, and other software then opens what leads into it."""

from __future__ import annotations

import json
import plistlib
import shutil
import struct
import subprocess
import zipfile
from pathlib import Path
from typing import Any

import pytest
from lxml import html
from odf.opendocument import OpenDocumentText
from PIL import Image

from conftest import Zesty
from guides.test_more_formats import add_header, pictured

GUIDE = """[guide]
id = "rack"
title = "Rack"
language = 1
[[holding]]
id = "racks"
kind = "catalog"
sweep = ["*.rack"]
syntax = "plist"
[[holding.entries]]
each = "$.slots[*]"
path = [{ at = "sound" }]
spelling = "file-url"
"""


class Bench:
    """A folder that is a computer's only volume, with media in ``old``, and documents beside it."""

    def __init__(self, root: Path, zesty: Zesty) -> None:
        self.root = root / "disk"
        self.old, self.new, self.documents = (self.root / name for name in ("old", "put/here", "Documents"))
        self.old.mkdir(parents=True)
        self.documents.mkdir()
        (root / "guides").mkdir()
        (root / "guides/rack.toml").write_text(GUIDE)
        sheet = f'[computer]\nname = "bench"\nsystem = "linux"\nuser = "odile"\n[places]\nhome = "{self.root}"\n'
        (root / "sheet.toml").write_text(f'{sheet}[[volume]]\nanchor = "{self.root}"\nmount = "disk"\n')
        self._zesty, self._outer = zesty, root

    def rehome(self) -> None:
        at = ("--at", self._outer / "sheet.toml", "--guides", self._outer / "guides", "--keep-in", self._outer / "kept")
        said = self._zesty("relink", *at, "--rehome", f"{self.old}={self.new}", "--yes", "--json")
        assert said.returncode == 0, said.stdout
        assert json.loads(said.stdout)["still-leading-there"] == []

    def run(self, *command: object) -> str:
        """What other software says; it must be content."""
        said = subprocess.run([str(each) for each in command], capture_output=True, text=True, check=False)
        assert said.returncode == 0, said.stderr + said.stdout
        return said.stdout + said.stderr


@pytest.fixture
def bench(tmp_path: Path, zesty: Zesty) -> Bench:
    return Bench(tmp_path, zesty)


def needs(tool: str) -> pytest.MarkDecorator:
    return pytest.mark.skipif(shutil.which(tool) is None, reason=f"{tool} is not on this machine")


@needs("ffprobe")
def test_ffprobe_plays_a_playlist_that_ffmpeg_wrote(bench: Bench) -> None:
    playlist = bench.documents / "dusk.m3u8"
    bench.run(
        "ffmpeg",
        "-f",
        "lavfi",
        "-i",
        "sine=d=5",
        "-f",
        "hls",
        "-hls_list_size",
        "0",
        "-hls_time",
        "1",
        "-hls_base_url",
        f"{bench.old}/",
        "-hls_segment_filename",
        bench.old / "d%02d.ts",
        playlist,
    )
    bench.rehome()
    said = bench.run(
        "ffprobe",
        "-allowed_extensions",
        "ALL",
        "-extension_picky",
        "0",
        "-show_entries",
        "format=duration",
        "-of",
        "csv",
        playlist,
    )
    assert float(said.split("format,")[1].split()[0]) >= 4.9


@needs("ffprobe")
def test_ffprobe_plays_a_list_whose_tags_and_lines_name_files(bench: Bench) -> None:
    playlist, segments = bench.documents / "dawn.m3u8", ("-hls_segment_type", "fmp4", "-hls_time", "1")
    bench.run("ffmpeg", "-f", "lavfi", "-i", "sine=d=3", "-c:a", "aac", *segments, "-hls_list_size", "0", playlist)
    for each in (*bench.documents.glob("*.m4s"), bench.documents / "init.mp4"):
        each.rename(bench.old / each.name)
    text = playlist.read_text().replace("init.mp4", "../old/init.mp4").replace("\ndawn", f"\n{bench.old}/dawn")
    playlist.write_text(text)
    bench.rehome()
    lenient = ("-allowed_extensions", "ALL", "-extension_picky", "0")
    shown = ("-show_entries", "format=duration", "-of", "csv=p=0")
    assert float(bench.run("ffprobe", "-v", "error", *lenient, *shown, playlist)) >= 2.9
    assert playlist.read_text().count("put/here") == text.count("old/")


@needs("ffprobe")
def test_ffmpeg_writes_a_description_and_plays_it(bench: Bench) -> None:
    described = bench.documents / "dusk.mpd"
    lists = ("-use_template", "0", "-use_timeline", "0", "-seg_duration", "1")
    bench.run("ffmpeg", "-f", "lavfi", "-i", "sine=d=3", "-c:a", "aac", "-f", "dash", *lists, described)
    for each in bench.documents.glob("*.m4s"):
        each.rename(bench.old / each.name)
    text = described.read_text()
    for name in ("init-stream", "chunk-stream"):
        text = text.replace(f'"{name}', f'"../old/{name}')
    described.write_text(text)
    bench.rehome()
    assert described.read_text().count("../put/here/") == text.count("../old/") > 2
    assert "Audio: aac" in bench.run("ffprobe", described)
    bench.run("ffmpeg", "-v", "error", "-i", described, bench.root.parent / "played.wav")
    assert loudest(bench, bench.root.parent / "played.wav") > -40


@needs("assimp")
def test_assimp_loads_a_gltf_and_an_obj_with_what_they_refer_to(bench: Bench) -> None:
    triangle = struct.pack("<9f", 0, 0, 0, 1, 0, 0, 0, 1, 0)
    (bench.old / "moth.bin").write_bytes(triangle)
    view = {"buffer": 0, "byteLength": len(triangle)}
    accessor = {"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3", "min": [0, 0, 0], "max": [1, 1, 0]}
    (bench.documents / "moth.gltf").write_text(
        json.dumps(
            {
                "asset": {"version": "2.0"},
                "scenes": [{"nodes": [0]}],
                "nodes": [{"mesh": 0}],
                "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
                "accessors": [accessor],
                "bufferViews": [view],
                "buffers": [{"uri": "../old/moth.bin", "byteLength": len(triangle)}],
            }
        )
    )
    (bench.old / "paper.mtl").write_text("newmtl paper\nKd 0.1 0.2 0.3\n")
    (bench.documents / "lamp.obj").write_text(
        "mtllib ../old/paper.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl paper\nf 1 2 3\n"
    )
    bench.rehome()
    assert "Vertices:           3" in bench.run("assimp", "info", bench.documents / "moth.gltf")
    assert "'paper'" in bench.run("assimp", "info", bench.documents / "lamp.obj")


@needs("xmllint")
def test_xmllint_reads_the_locations_of_a_playlist(bench: Bench) -> None:
    (bench.old / "Rain & Wind.wav").write_bytes(b"RIFF")
    playlist = bench.documents / "evening.xspf"
    playlist.write_text(
        '<?xml version="1.0"?><playlist version="1" xmlns="http://xspf.org/ns/0/"><trackList>'
        f"<track><location>file://{bench.old}/Rain%20&amp;%20Wind.wav</location></track></trackList></playlist>"
    )
    bench.rehome()
    said = bench.run("xmllint", "--nonet", "--xpath", "string(//*[local-name()='location'])", playlist)
    assert said.strip() == f"file://{bench.new}/Rain%20&%20Wind.wav"


@needs("plistutil")
@pytest.mark.parametrize("form", [plistlib.FMT_BINARY, plistlib.FMT_XML], ids=["binary", "xml"])
def test_plistutil_reads_a_property_list(bench: Bench, form: plistlib.PlistFormat) -> None:
    (bench.old / "bell.wav").write_bytes(b"RIFF")
    rack = bench.documents / "tower.rack"
    content: dict[str, Any] = {
        "slots": [{"sound": f"file://{bench.old}/bell.wav", "gain": 0.5, "raw": b"\0\1"}],
        "tempo": 96,
    }
    rack.write_bytes(plistlib.dumps(content, fmt=form))
    bench.rehome()
    converted = bench.root / "converted"
    bench.run("plistutil", "-i", rack, "-o", converted)  # into the other form
    wanted = {**content, "slots": [{**content["slots"][0], "sound": f"file://{bench.new}/bell.wav"}]}
    assert plistlib.loads(rack.read_bytes()) == plistlib.loads(converted.read_bytes()) == wanted


FLAT = """<?xml version="1.0" encoding="UTF-8"?>
<office:document xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"
 xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"
 xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0"
 xmlns:svg="urn:oasis:names:tc:opendocument:xmlns:svg-compatible:1.0" xmlns:xlink="http://www.w3.org/1999/xlink"
 office:version="1.2" office:mimetype="application/vnd.oasis.opendocument.text"><office:body><office:text>
<text:p><draw:frame text:anchor-type="as-char" svg:width="4cm" svg:height="4cm">
<draw:image xlink:href="../old/leaf.png" xlink:type="simple" xlink:show="embed" xlink:actuate="onLoad"/>
</draw:frame></text:p></office:text></office:body></office:document>
"""


def drawn(bench: Bench, name: str, colors: dict[str, tuple[int, int, int]]) -> set[str]:
    """The pictures that an office draws of a document, by their colors."""
    profile = f"-env:UserInstallation=file://{bench.root.parent}/profile"
    folder = bench.root.parent / "drawn"
    bench.run("soffice", "--headless", profile, "--convert-to", "png", "--outdir", folder, bench.documents / name)
    with Image.open((folder / name).with_suffix(".png")) as page:
        seen = {color for _, color in page.convert("RGB").getcolors(1 << 24) or ()}
    return {each for each, color in colors.items() if color in seen}


@needs("soffice")
def test_an_office_draws_the_same_pictures(bench: Bench) -> None:
    colors = {"moth": (200, 30, 40), "leaf": (20, 130, 40)}
    for name, color in colors.items():
        Image.new("RGB", (60, 60), color).save(bench.old / f"{name}.png")
    text = OpenDocumentText()
    text.text.addElement(pictured("../../old/leaf.png"))
    add_header(text, "../../old/moth.png")
    text.save(str(bench.documents / "script.odt"))
    (bench.documents / "flat.fodt").write_text(FLAT)
    bench.rehome()
    assert drawn(bench, "script.odt", colors) == {"moth", "leaf"}
    assert drawn(bench, "flat.fodt", colors) == {"leaf"}


TYPES = "http://schemas.openxmlformats.org"
PARTS = {
    "[Content_Types].xml": f'''<Types xmlns="{TYPES}/package/2006/content-types">
<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>
<Override PartName="/word/document.xml"
 ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>''',
    "_rels/.rels": f'''<Relationships xmlns="{TYPES}/package/2006/relationships">
<Relationship Id="a" Type="{TYPES}/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/>
</Relationships>''',
    "word/_rels/document.xml.rels": f'''<Relationships xmlns="{TYPES}/package/2006/relationships">
<Relationship Id="b" Type="{TYPES}/officeDocument/2006/relationships/image" Target="TARGET" TargetMode="External"/>
</Relationships>''',
    "word/document.xml": f'''<w:document xmlns:w="{TYPES}/wordprocessingml/2006/main"
 xmlns:r="{TYPES}/officeDocument/2006/relationships" xmlns:a="{TYPES}/drawingml/2006/main"
 xmlns:p="{TYPES}/drawingml/2006/picture" xmlns:d="{TYPES}/drawingml/2006/wordprocessingDrawing">
<w:body><w:p><w:r><w:drawing><d:inline><d:extent cx="1440000" cy="1440000"/><d:docPr id="1" name="leaf"/>
<a:graphic><a:graphicData uri="{TYPES}/drawingml/2006/picture"><p:pic>
<p:nvPicPr><p:cNvPr id="1" name="leaf"/><p:cNvPicPr/></p:nvPicPr>
<p:blipFill><a:blip r:link="b"/><a:stretch><a:fillRect/></a:stretch></p:blipFill>
<p:spPr><a:xfrm><a:off x="0" y="0"/><a:ext cx="1440000" cy="1440000"/></a:xfrm><a:prstGeom prst="rect"/></p:spPr>
</p:pic></a:graphicData></a:graphic></d:inline></w:drawing></w:r></w:p></w:body></w:document>''',
}


def write_linked_picture(at: Path, target: str) -> None:
    """A text document with one picture, which is not in it."""
    with zipfile.ZipFile(at, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in PARTS.items():
            archive.writestr(name, content.replace("TARGET", target))


PAGE = """<!DOCTYPE html><meta charset=utf-8><title>Dusk</title><link rel=stylesheet href="{old}/dusk.css?v=2">
<p>Owl &amp; moth<p><img src=../old/leaf.png><img src="file://{old}/moth%20%26%20lamp.png" alt="x">
<img src="data:image/gif;base64,R0lGODlhAQABAAAAACw=" srcset="{old}/leaf.png 1x, ../old/moth%20%26%20lamp.png 2x">
"""


@needs("soffice")
def test_an_office_draws_the_picture_that_another_office_linked(bench: Bench) -> None:
    Image.new("RGB", (60, 60), (20, 130, 40)).save(bench.old / "leaf.png")
    write_linked_picture(bench.documents / "script.docx", f"file://{bench.old}/leaf.png")
    bench.rehome()
    assert drawn(bench, "script.docx", {"leaf": (20, 130, 40)}) == {"leaf"}


@needs("chromium")
def test_a_browser_shows_a_page_with_all_its_pictures(bench: Bench) -> None:
    for name, color in (("moth & lamp", "red"), ("leaf", "green")):
        Image.new("RGB", (60, 60), color).save(bench.old / f"{name}.png")
    (bench.old / "dusk.css").write_text("body { background: blue }")
    page = bench.documents / "page.html"
    page.write_text(PAGE.format(old=bench.old))
    bench.rehome()
    told = html.document_fromstring(page.read_text())
    assert [each.get("href") for each in told.iter("link")] == [f"{bench.new}/dusk.css?v=2"]
    leaf, moth, sizes = told.iter("img")
    assert (leaf.get("src"), moth.get("src")) == ("../put/here/leaf.png", f"file://{bench.new}/moth%20%26%20lamp.png")
    assert sizes.get("srcset") == f"{bench.new}/leaf.png 1x, ../put/here/moth%20%26%20lamp.png 2x"
    shot, profile = bench.root.parent / "shot.png", bench.root.parent / "profile"
    quiet = ("--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking")
    bench.run("chromium", *quiet, f"--user-data-dir={profile}", f"--screenshot={shot}", page.as_uri())
    with Image.open(shot) as drawn_page:
        seen = {color for _, color in drawn_page.convert("RGB").getcolors(1 << 24) or ()}
    assert {(255, 0, 0), (0, 128, 0), (0, 0, 255)} <= seen


def tone(bench: Bench) -> Path:
    """A second of a tone, in the folder that is going to move."""
    path = bench.old / "Evening bell & wind.wav"
    bench.run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=d=1", path)
    return path


def loudest(bench: Bench, sound: Path) -> float:
    """In decibels below full scale; -91 is silence."""
    said = bench.run("ffmpeg", "-i", sound, "-af", "volumedetect", "-f", "null", "-")
    return float(said.split("max_volume:")[1].split()[0])


@needs("melt")
@needs("ffmpeg")
def test_melt_plays_a_project_that_it_wrote(bench: Bench) -> None:
    project, played = bench.documents / "dusk.mlt", bench.root.parent / "played.wav"
    bench.run("melt", tone(bench), "-consumer", f"xml:{project}")
    bench.rehome()
    bench.run("melt", project, "-consumer", f"avformat:{played}")
    assert loudest(bench, played) > -40


@needs("ges-launch-1.0")
@needs("ffmpeg")
def test_an_editing_service_renders_a_project_that_it_wrote(bench: Bench) -> None:
    project, played = bench.documents / "dusk.xges", bench.root.parent / "played.ogg"
    bench.run("ges-launch-1.0", "+clip", tone(bench).as_uri(), "-s", project, "-o", played.as_uri())
    played.unlink()
    bench.rehome()
    assert project.read_text().count("put/here/Evening") == 2
    bench.run("ges-launch-1.0", "-l", project, "-o", played.as_uri())
    assert loudest(bench, played) > -40


@needs("ffmpeg")
def test_ffmpeg_joins_a_list(bench: Bench) -> None:
    listed, played = bench.documents / "all.ffconcat", bench.root.parent / "played.wav"
    sound = tone(bench)
    listed.write_text(f"ffconcat version 1.0\nfile '../old/{sound.name}'\nfile '{sound}'\n")
    bench.rehome()
    bench.run("ffmpeg", "-v", "error", "-f", "concat", "-safe", "0", "-i", listed, played)
    assert float(bench.run("ffprobe", "-v", "error", "-show_entries", "format=duration", "-of", "csv=p=0", played)) == 2
