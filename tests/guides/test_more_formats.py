"""More open formats, as other software writes them where that installs, else by their specification."""

from __future__ import annotations

import shutil
import subprocess
import zipfile
from pathlib import Path

import opentimelineio as otio
import pytest
from odf.draw import Frame, Image
from odf.opendocument import OpenDocumentText, load
from odf.style import Header, HeaderStyle, MasterPage, PageLayout
from odf.text import P

from support.barn import HOME, NEW_HOME, NEW_SPOOLS, SPOOLS, Barn
from support.outside import outside
from zesty_crate.crate import Crate, create_crate
from zesty_crate.guides import shipped_guides
from zesty_crate.machines import load_sheet


@pytest.fixture
def barn(tmp_path: Path) -> Barn:
    return Barn(tmp_path)


def texts(path: Path) -> str:
    return path.read_bytes().decode("utf-8")


def test_a_timeline_with_a_sequence_of_pictures(barn: Barn) -> None:
    timeline = otio.schema.Timeline("Moth")
    track = otio.schema.Track("pictures")
    timeline.tracks.append(track)
    for base, frames in (("file:///mnt/spools/Moth%20Walk/", 12), ("", 4), ("file:///mnt/spools/Moth%20Walk/", 40)):
        length = otio.opentime.TimeRange(otio.opentime.RationalTime(0, 12), otio.opentime.RationalTime(frames, 12))
        media = otio.schema.ImageSequenceReference(
            base, "moth.", ".png", start_frame=7, frame_zero_padding=4, rate=12, available_range=length
        )
        track.append(otio.schema.Clip("walk", media_reference=media))
    (barn.root / HOME / "Documents").mkdir()
    otio.adapters.write_to_file(timeline, str(barn.root / HOME / "Documents/moth.otio"))
    for number in range(7, 19):
        barn.write(f"{SPOOLS}/Moth Walk/moth.{number:04d}.png", f"picture {number}")
        barn.write(f"{HOME}/Documents/moth.{number:04d}.png", f"other picture {number}")
    barn.write(f"{SPOOLS}/Moth Walk/moth.7.png", "no part of it")
    survey, report = barn.move()
    assert (survey.totals["found"], survey.totals["missing-before"]) == (2, 1)
    (lacking,) = [problem for problem in survey.problems if problem.state == "missing-before"]
    assert lacking.why == "28 of 40 files are missing: moth.0019.png, moth.0020.png, moth.0021.png and 25 more"
    assert (report.totals["found"], report.totals["missing-before"]) == (2, 1)
    moved = otio.adapters.read_from_file(str(barn.root / NEW_HOME / "Documents/moth.otio"))
    bases = [clip.media_reference.target_url_base for clip in moved.find_clips()]
    assert bases == ["file:///E:/Moth%20Walk/", "", "file:///E:/Moth%20Walk/"]
    assert sorted(path.name for path in (barn.root / NEW_SPOOLS / "Moth Walk").iterdir()) == [
        f"moth.{number:04d}.png" for number in range(7, 19)
    ]


@pytest.mark.parametrize("style", ["avid", "nucoda"])
def test_an_edit_list_that_other_software_wrote(barn: Barn, style: str) -> None:
    rate = 24
    span = otio.opentime.TimeRange(otio.opentime.RationalTime(0, rate), otio.opentime.RationalTime(48, rate))
    track = otio.schema.Track("V", kind=otio.schema.TrackKind.Video)
    for url in ("/mnt/spools/Moth's Wing.png", "/home/odile/Music/gone.wav"):
        media = otio.schema.ExternalReference(target_url=url, available_range=span)
        track.append(otio.schema.Clip("wing", media_reference=media, source_range=span))
    timeline = otio.schema.Timeline("Moth", tracks=[track])
    text = otio.adapters.write_to_string(timeline, "cmx_3600", rate=rate, style=style)
    barn.write(f"{HOME}/Documents/moth.edl", text)
    _, report = barn.move()
    assert (report.totals["found"], report.totals["missing-before"]) == (1, 1)
    moved = texts(barn.root / NEW_HOME / "Documents/moth.edl")
    assert moved == text.replace("/mnt/spools/Moth's Wing.png", "E:\\Moth's Wing.png").replace(
        "/home/odile/Music/gone.wav", "C:\\Users\\Odile\\Music\\gone.wav"
    )


# SFZ: opcodes are in force for what follows; backslashes are usual on every system (sfzformat.com, "sample").
SFZ = """// <region> sample=not/this.wav
<control> default_path=Samples\\Deep/
#include "parts/high.inc"
<group> ampeg_release=0.5
<region> key=60 sample=a drum.wav lokey=59 // soft
<region>sample=b.wav<region> sample=*sine key=7
<control>
default_path=
<region> sample=../Music/Rain & Wind/drip.wav
"""


def test_sfz_with_a_default_path_and_includes(barn: Barn) -> None:
    barn.write(f"{HOME}/Instruments/drum.sfz", SFZ)
    barn.write(f"{HOME}/Instruments/parts/high.inc", '<region> sample=high.wav\n#include "parts/circle.inc"\n')
    barn.write(f"{HOME}/Instruments/parts/circle.inc", '#include "drum.sfz"\n<region> sample=c.wav\n')
    for name in ("a drum", "b", "high", "c"):
        barn.write(f"{HOME}/Instruments/Samples/Deep/{name}.wav", name)
    survey, report = barn.move()
    assert survey.problems == ()
    assert survey.totals["found"] == 8
    assert report.totals["found"] == report.totals["entries"] == 8
    assert texts(barn.root / NEW_HOME / "Instruments/drum.sfz") == SFZ


def test_sfz_files_that_include_each_other_are_read_once(barn: Barn) -> None:
    barn.write(f"{HOME}/one.sfz", '#include "two.sfz"\n<region> sample=Music/Rain & Wind/drip.wav\n')
    barn.write(f"{HOME}/two.sfz", '#include "one.sfz"\n#include "two.sfz"\n')
    _, report = barn.move()
    assert report.totals["found"] == report.totals["entries"] == 4


# ISO 16684-1, 8.2.2.9 (ResourceRef): a path or a URL.
XMP = """<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>
<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
 <rdf:Description rdf:about="" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmp:Rating="4"
   xmlns:xmpMM="http://ns.adobe.com/xap/1.0/mm/" xmlns:stRef="http://ns.adobe.com/xap/1.0/sType/ResourceRef#">
  <xmpMM:DerivedFrom stRef:documentID="uuid:1" stRef:filePath="/mnt/spools/Moth&apos;s Wing.png"/>
  <xmpMM:Ingredients><rdf:Bag><rdf:li rdf:parseType="Resource">
    <stRef:filePath>file:///home/odile/Music/Rain%20&amp;%20Wind/drip.wav</stRef:filePath></rdf:li></rdf:Bag>
  </xmpMM:Ingredients>
 </rdf:Description></rdf:RDF></x:xmpmeta>
<?xpacket end="w"?>
"""


def test_xmp_sidecars(barn: Barn) -> None:
    barn.write(f"{SPOOLS}/wing.xmp", XMP)
    survey, report = barn.move()
    assert report.totals["found"] == report.totals["entries"] == 2
    assert next(each for each in survey.holdings if each.guide == "xmp").annotations == 2
    moved = barn.root / NEW_SPOOLS / "wing.xmp"
    assert texts(moved) == XMP.replace("/mnt/spools/Moth&apos;s", "E:\\Moth&apos;s").replace(
        "/home/", "/C:/Users/"
    ).replace("/odile/", "/Odile/")
    if shutil.which("exiv2") is None:
        pytest.skip("exiv2 is not on this machine")
    said = subprocess.run(["exiv2", "-px", str(moved)], capture_output=True, text=True, check=True).stdout
    assert "E:\\Moth's Wing.png" in said
    assert "file:///C:/Users/Odile/Music/Rain%20&%20Wind/drip.wav" in said


# Wavefront, "Materials", B5: options before the name; "mtllib filename1 filename2 ...".
OBJ = "# o\nmtllib stage set.mtl ../other.mtl\nv 0 0 0\nusemtl wood\nf 1 1 1\n"
MTL = """newmtl wood
Kd 1 1 1
map_Kd -s 1 1 1 -o 0.5 -mm 0 1 -clamp on "wood.png
map_aat on
bump -bm 2.5 ..\\Spools Pictures\\bump.png
"""


def test_obj_with_materials(barn: Barn) -> None:
    barn.write(f"{HOME}/Stage/stage.obj", OBJ)
    barn.write(f"{HOME}/Stage/stage set.mtl", MTL.replace('"', ""))
    barn.write(f"{HOME}/other.mtl", "map_Kd /mnt/spools/Moth's Wing.png\n")
    barn.write(f"{HOME}/Stage/wood.png", "wood")
    barn.write(f"{HOME}/Spools Pictures/bump.png", "bump")
    _, report = barn.move()
    assert report.totals["found"] == report.totals["entries"] == 5
    assert texts(barn.root / NEW_HOME / "Stage/stage.obj") == OBJ
    assert texts(barn.root / NEW_HOME / "other.mtl") == "map_Kd E:\\Moth's Wing.png\n"


def pictured(href: str) -> P:
    """A paragraph with a linked picture."""
    paragraph, frame = P(), Frame(width="4cm", height="4cm", anchortype="as-char")
    frame.addElement(Image(href=href, type="simple", show="embed", actuate="onLoad"))
    paragraph.addElement(frame)
    return paragraph


def add_header(document: OpenDocumentText, href: str) -> None:
    """A linked picture in the header of every page."""
    layout, page, header = PageLayout(name="page"), MasterPage(name="Standard", pagelayoutname="page"), Header()
    layout.addElement(HeaderStyle())
    document.automaticstyles.addElement(layout)
    document.masterstyles.addElement(page)
    page.addElement(header)
    header.addElement(pictured(href))


def test_an_opendocument_text_that_other_software_wrote(barn: Barn) -> None:
    document = OpenDocumentText()
    (barn.root / HOME / "Documents").mkdir()
    picture = barn.write(f"{HOME}/inner.png", "a picture that is kept inside")
    hrefs = ["../../Music/Rain%20&%20Wind/drip.wav", "file:///mnt/spools/Moth's%20Wing.png"]
    for href in [*hrefs, document.addPicture(str(picture))]:
        document.text.addElement(pictured(href))
    add_header(document, hrefs[1])
    path = barn.root / HOME / "Documents/script.odt"
    document.save(str(path))
    _, report = barn.move()
    assert report.totals["found"] == report.totals["entries"] == 3
    moved = barn.root / NEW_HOME / "Documents/script.odt"
    images = {each.getAttribute("href") for each in load(str(moved)).getElementsByType(Image)}
    assert {hrefs[0], "file:///E:/Moth's%20Wing.png"} < images
    assert hrefs[1] not in images
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(moved) as new:
        assert new.testzip() is None
        assert [each.filename for each in old.infolist()] == [each.filename for each in new.infolist()]
        for each in old.namelist():
            assert (old.read(each) == new.read(each)) is (each not in ("content.xml", "styles.xml"))


# DAWproject 1.0, Project.xsd: fileReference with path and external.
DAW = """<?xml version="1.0" encoding="UTF-8" standalone="yes"?>
<Project version="1.0"><Arrangement><Lanes><Clips>
<Clip><Audio channels="1" sampleRate="22050" duration="1.0"><File path="audio/inside.wav"/></Audio></Clip>
<Clip><Audio channels="1" sampleRate="22050" duration="1.0"><File path="../Music/Rain &amp; Wind/drip.wav" external="true"/></Audio></Clip>
<Clip><Audio channels="1" sampleRate="22050" duration="1.0"><File path="/mnt/spools/Moth's Wing.png" external="true"/></Audio></Clip>
</Clips></Lanes></Arrangement></Project>
"""  # noqa: E501


def test_dawproject(barn: Barn) -> None:
    path = barn.write(f"{HOME}/Projects/moth.dawproject", "")
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("project.xml", DAW)
        archive.writestr("metadata.xml", "<MetaData/>")
        archive.writestr("audio/inside.wav", "inside")
    _, report = barn.move()
    assert report.totals["found"] == report.totals["entries"] == 2
    with zipfile.ZipFile(barn.root / NEW_HOME / "Projects/moth.dawproject") as moved:
        assert moved.testzip() is None
        assert moved.read("project.xml").decode() == DAW.replace("/mnt/spools/Moth's", "E:\\Moth's")
        assert moved.namelist() == ["project.xml", "metadata.xml", "audio/inside.wav"]


MANIFEST = """@prefix lv2: <http://lv2plug.in/ns/lv2core#> .
@prefix rdfs: <http://www.w3.org/2000/01/rdf-schema#> .
<urn:lanternfold:reverb> a lv2:Plugin ; lv2:binary <reverb.so> ; rdfs:seeAlso <reverb.ttl> .
<urn:lanternfold:gone> a lv2:Plugin ; lv2:binary <gone.so> ; rdfs:seeAlso <file:///mnt/spools/Moth's%20Wing.png> .
"""
REVERB = """@prefix lv2: <http://lv2plug.in/ns/lv2core#> .
@prefix doap: <http://usefulinc.com/ns/doap#> .
<urn:lanternfold:reverb> a lv2:Plugin ; doap:name "Barn Reverb" ; doap:license <urn:x> ;
  lv2:port [ a lv2:InputPort, lv2:ControlPort ; lv2:index 0 ; lv2:symbol "wet" ; lv2:name "Wet" ] .
"""


def test_lv2_bundles(barn: Barn) -> None:
    bundle = f"{HOME}/.lv2/barn.lv2"
    barn.write(f"{bundle}/manifest.ttl", MANIFEST)
    barn.write(f"{bundle}/reverb.ttl", REVERB)
    barn.write(f"{bundle}/reverb.so", "machine code")
    barn.write(f"{bundle}/presets/hall/state.bin", "a state")
    survey, report = barn.move()
    bundles = next(each for each in survey.holdings if each.guide == "lv2")
    assert (bundles.files, bundles.totals["found"], bundles.totals["missing-before"]) == (4, 3, 1)
    assert (report.totals["found"], report.totals["missing-before"]) == (3, 1)
    moved = barn.root / NEW_HOME / "AppData/Roaming/LV2/barn.lv2"
    assert (moved / "presets/hall/state.bin").read_text() == "a state"
    assert texts(moved / "manifest.ttl") == MANIFEST.replace("file:///mnt/spools", "file:///E:")
    if shutil.which("lv2info") is None:
        pytest.skip("lilv is not on this machine")
    command = ["lv2info", "urn:lanternfold:reverb"]
    said = subprocess.run(command, capture_output=True, text=True, check=False, env={"LV2_PATH": str(moved.parent)})
    assert "Barn Reverb" in said.stdout


REG = (
    'Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\Software\\Barn]\r\n"Last"="D:\\\\Old\\\\a.wav"\r\n'
    '"Program"="C:\\\\Program Files\\\\Barn\\\\barn.exe"\r\n"Line"="C:\\\\x.exe \\"%1\\""\r\n"Count"=dword:00000003\r\n'
)


def test_registry_exports(barn: Barn) -> None:
    barn.write(f"{HOME}/Documents/barn.reg", "\ufeff" + REG, "utf-16-le")
    survey, _ = barn.move()
    (problem,) = survey.problems
    assert (problem.state, problem.recorded) == ("missing-before", "D:\\Old\\a.wav")
    assert (barn.root / NEW_HOME / "Documents/barn.reg").read_bytes().decode("utf-16") == REG


@pytest.mark.parametrize(
    "name",
    [
        "a.m3u",
        "a.pls",
        "a.cue",
        "a.edl",
        "a.sfz",
        "a.obj",
        "a.mtl",
        "a.otio",
        "a.svg",
        "a.xspf",
        "a.xmp",
        "a.reg",
        "manifest.ttl",
    ],
)
@pytest.mark.parametrize(
    "start", ["", "sample=x", "map_Kd -s 1", "mtllib a.mtl", "File1=x", "* FROM CLIP: x", "default_path=", '#include "']
)
def test_long_lines_in_any_format_are_read_at_once(barn: Barn, name: str, start: str) -> None:
    barn.write(f"{HOME}/good.m3u", "Music/For\u00eat 100%.wav\n")
    barn.write(f"{HOME}/{name}", start + " " * 200_000 + "x" + " " * 200_000 + "\n")
    world = outside()
    sheet = load_sheet(barn.root / "old.toml", world.disk)
    report = create_crate(Crate(barn.root / "crate"), sheet, shipped_guides(), world)
    assert report.totals["entries"] >= 1


def test_links_in_circles_are_told_and_not_followed(barn: Barn) -> None:
    barn.write(f"{HOME}/lists/good.m3u", "../Music/For\u00eat 100%.wav\n")
    (barn.root / HOME / "lists/again").symlink_to("../lists")
    (barn.root / HOME / "lists/self.m3u").symlink_to("self.m3u")
    survey, report = barn.move()
    assert survey.totals["entries"] == report.totals["found"] == 1


# MLT XML, as melt writes it: a root for relative resources, and resources that are no files.
MLT = """<?xml version="1.0" encoding="utf-8"?>
<mlt LC_NUMERIC="C" version="7.12.0" root="/home/odile/Music"><producer id="p0">
<property name="resource">Rain &amp; Wind/drip.wav</property><property name="mlt_service">avformat</property></producer>
<producer id="p1"><property name="resource">/mnt/spools/Moth's Wing.png</property></producer>
<producer id="p2"><property name="resource">2:/home/odile/Music/For\u00eat 100%.wav</property>
<property name="mlt_service">timewarp</property></producer>
<producer id="p3"><property name="resource">0x00ff0080</property>
<property name="mlt_service">color</property></producer>
<producer id="p4"><property name="resource">https://barn.example/a.mp4</property></producer></mlt>
"""
XBEL = """<?xml version="1.0" encoding="UTF-8"?>
<xbel version="1.0"><bookmark href="file:///home/odile/Music/Rain%20&amp;%20Wind/drip.wav"><title>Drip</title></bookmark>
<bookmark href="https://barn.example/"><title>Barn</title></bookmark>
<bookmark href="file:///mnt/spools/Moth's%20Wing.png"/></xbel>
"""
CONCAT = (
    "ffconcat version 1.0\n# file '/home/odile/no.wav'\nfile '../Music/Rain & Wind/drip.wav'\nduration 1.0\n"
    "file /home/odile/Music/Rain\\ left.wav\nfile '/home/odile/Music/For\u00eat 100%.wav'\nfile 'https://barn.example/a.wav'\n"
)


@pytest.mark.parametrize(
    ("name", "content", "found", "moved"),
    [
        ("Documents/dusk.mlt", MLT, 2, [('root="/home/odile', 'root="C:/Users/Odile'), ("/mnt/spools", "E:")]),
        ("Documents/recent.xbel", XBEL, 2, [("/home/odile", "/C:/Users/Odile"), ("/mnt/spools", "/E:")]),
        ("Documents/all.ffconcat", CONCAT, 2, [("'/home/odile/Music/For", "'C:\\Users\\Odile\\Music\\For")]),
    ],
)
def test_lists_of_media_in_other_forms(
    barn: Barn, name: str, content: str, found: int, moved: list[tuple[str, str]]
) -> None:
    barn.write(f"{HOME}/{name}", content)
    survey, report = barn.move()
    assert (survey.totals["found"], survey.totals["remote"]) == (found, 1)
    assert report.totals["found"] == found
    expected = content
    for old, new in moved:
        expected = expected.replace(old, new)
    expected = expected.replace("# file 'C:\\Users\\Odile", "# file '/home/odile")
    assert texts(barn.root / NEW_HOME / name) == expected
