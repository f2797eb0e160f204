"""What a survey finds: programs, registrations, spot checks, duplicates, links, and what is wrong already."""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from support.hives import Key, hive
from support.outside import outside
from zesty_crate.catalogs import CatalogError, syntax_of
from zesty_crate.crate import Crate, create_crate
from zesty_crate.documents import parse_document
from zesty_crate.errors import ZestyError
from zesty_crate.guides import Guide, WholeGuide
from zesty_crate.machines import Disk, Outside, Processes, load_sheet
from zesty_crate.paths import MachinePath, System
from zesty_crate.survey import SurveyOptions, SurveyReport, Verdict, details_of

WINDOWS = """[computer]
name = "loft"
system = "windows"
user = "Odile"
[[volume]]
anchor = "C:"
mount = "c"
"""
HOME = "c/Users/Odile"
AT = MachinePath(System.WINDOWS, "C:", ("Users", "Odile", "NTUSER.DAT"))


class Loft:
    """A Windows computer with one program, whose guide a test writes."""

    def __init__(self, root: Path) -> None:
        self.root = root
        (root / HOME).mkdir(parents=True)
        self.sheet = WINDOWS
        self.crate = Crate(root / "crate")

    def write(self, name: str, content: str | bytes = "x") -> Path:
        path = self.root / HOME / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content.encode() if isinstance(content, str) else content)
        return path

    def survey(self, guide: str, options: SurveyOptions | None = None, world: Outside | None = None) -> SurveyReport:
        text = '[guide]\nid = "rack"\ntitle = "Rack"\nlanguage = 1\n' + guide
        (self.root / "sheet.toml").write_text(self.sheet)
        world = world or outside()
        guides = [Guide(parse_document(text, WholeGuide, "The guide"), text)]
        return create_crate(
            self.crate, load_sheet(self.root / "sheet.toml", world.disk), guides, world, options=options
        )


@pytest.fixture
def loft(tmp_path: Path) -> Loft:
    return Loft(tmp_path)


PROGRAM = """[program]
processes = ["rack.exe"]
versions = "same-or-newer"
first-start = "{app-data}/Rack"
seats = 2
installer = "{downloads}/rack-*.msi"
[[manual-step]]
when = "before-retire"
do = "Give back the seat."
[[holding]]
id = "songs"
kind = "media"
at = "{music}"
"""


def test_a_program_with_its_installer_and_what_a_person_must_do(loft: Loft) -> None:
    loft.write("Music/a.wav")
    loft.write("Downloads/rack-3.1.msi", "installer")
    loft.write("Downloads/rack.txt", "no installer")
    loft.sheet += '[programs.rack]\nversion = "3.1"\n'
    report = loft.survey(PROGRAM)
    (program,) = report.programs
    assert (program.version, program.versions, program.seats) == ("3.1", "same-or-newer", 2)
    assert (program.running, program.started) == (None, False), "a sheet is all that is known of it"
    installer = next(each for each in report.holdings if each.id == "rack/installer")
    assert (installer.files, installer.kind) == (1, "installer")
    assert [(step.when, step.do) for step in report.manual_steps] == [("before-retire", "Give back the seat.")]


@pytest.mark.parametrize(("here", "expected"), [(True, True), (False, None)])
def test_a_running_program_is_noticed_on_the_computer_itself_only(
    loft: Loft, *, here: bool, expected: bool | None
) -> None:
    class Busy(Processes):
        def names(self) -> frozenset[str]:
            return frozenset({"RACK.EXE", "init"})

    loft.write("AppData/Roaming/Rack/x")
    loft.write("Music/a.wav")
    world = Outside(Disk(), outside().clock, Busy())
    (loft.root / "sheet.toml").write_text(WINDOWS)
    sheet = load_sheet(loft.root / "sheet.toml", world.disk)
    text = '[guide]\nid = "rack"\ntitle = "Rack"\nlanguage = 1\n' + PROGRAM
    guide = Guide(parse_document(text, WholeGuide, "The guide"), text)
    report = create_crate(loft.crate, type(sheet)(sheet.part, sheet.text, sheet.folder, here), [guide], world)
    assert report.programs[0].running is expected
    assert report.programs[0].started is True
    assert any("running" in warning for warning in report.warnings) is bool(expected)


def test_media_classes_and_the_deeper_of_two_places(loft: Loft) -> None:
    for name in ("a.mov", "Light/a.mov", "Light/Thumbs/a.png", "b.mov"):
        loft.write(f"Videos/{name}", name)
    report = loft.survey(
        """
[[holding]]
id = "full"
kind = "media"
class = "original"
at = "{movies}"
[[holding]]
id = "light"
kind = "media"
class = "proxy"
at = "{movies}/Light"
[[holding]]
id = "thumbs"
kind = "media"
class = "cache"
at = "{movies}/Light/Thumbs"
"""
    )
    assert [(each.media_class, each.files, each.is_left) for each in report.holdings] == [
        ("original", 2, False),
        ("proxy", 1, False),
        ("cache", 1, True),
    ]


REGISTRY = r"""
[[holding]]
id = "packs"
kind = "content-pack"
at = "{documents}/Packs"
[[holding]]
id = "known"
kind = "registrations"
branch = 'HKEY_CURRENT_USER\Software\Rack\Packs'
syntax = "reg"
registers = "packs"
[[holding.entries]]
each = 'HKEY_CURRENT_USER\\Software\\Rack\\Packs\\[^\\]+'
key = "[]"
name = "title"
path = [{ at = "folder" }]
folder = true
"""
PACKS: Key = {
    "Moths": {"title": "Moths of the Marsh", "folder": r"C:\Users\Odile\Documents\Packs\Moths", "number": 7},
    "Gone": {"title": "Gone", "folder": r"C:\Users\Odile\Documents\Packs\Gone"},
}


def export_of(packs: Any) -> str:
    lines = ["Windows Registry Editor Version 5.00", ""]
    for name, values in packs.items():
        lines += [rf"[HKEY_CURRENT_USER\Software\Rack\Packs\{name}]"]
        lines += [f'"{key}"="{str(value).replace(chr(92), chr(92) * 2)}"' for key, value in values.items()]
    return "\r\n".join([*lines, "[HKEY_CURRENT_USER\\Software\\Else]", '"folder"="C:\\\\x"', ""])


@pytest.mark.parametrize("form", ["export", "hive"])
def test_registrations_with_and_without_content_and_content_without_registration(loft: Loft, form: str) -> None:
    loft.write("Documents/Packs/Moths/a.png")
    loft.write("Documents/Packs/Forgotten/a.png")
    if form == "export":
        (loft.root / "rack.reg").write_bytes(export_of(PACKS).encode("utf-16"))
        loft.sheet += '[windows-registry]\nfile = "rack.reg"\n'
    else:
        loft.write("ntuser.dat", hive({"Software": {"Rack": {"Packs": PACKS}, "Else": {"folder": "C:\\x"}}}))
    report = loft.survey(REGISTRY)
    known = next(each for each in report.holdings if each.id == "rack/known")
    assert (known.present, known.totals["found"], known.totals["missing-before"]) == (True, 1, 1)
    (problem,) = report.problems
    assert problem.recorded.endswith("Gone")
    assert [each.at for each in report.unregistered] == [r"C:\Users\Odile\Documents\Packs\Forgotten"]


@pytest.mark.parametrize(("kept", "more"), [(200, b""), (4096, bytes(4096)), (4200, b"\xff" * 90)])
def test_a_damaged_hive_is_one_line(loft: Loft, kept: int, more: bytes) -> None:
    loft.write("Documents/Packs/Moths/a.png")
    loft.write("NTUSER.DAT", hive({"Software": {"Rack": {"Packs": PACKS}}})[:kept] + more)
    (unread,) = loft.survey(REGISTRY).unsettled
    assert unread.verdict is Verdict.NOT_READ
    assert re.search(r"hive of the registry|registry export", unread.reasons[0])


@given(st.integers(0, 8191), st.binary(min_size=1, max_size=8))
@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_any_damage_to_a_hive_is_survived(tmp_path: Path, at: int, harm: bytes) -> None:
    content = hive({"Software": {"Rack": {"Packs": PACKS}}})
    path = tmp_path / "NTUSER.DAT"
    path.write_bytes(content[:at] + harm + content[at + len(harm) :])
    part = parse_document(f'[guide]\nid = "r"\ntitle = "R"\nlanguage = 1\n{REGISTRY}', WholeGuide, "x").holding[1]
    with contextlib.suppress(CatalogError):
        list(syntax_of(part).open(path, part, AT, Disk(), tmp_path).entries())


def test_a_program_that_never_registered_anything_has_no_branch(loft: Loft) -> None:
    loft.write("Documents/Packs/Moths/a.png")
    loft.write("NTUSER.DAT", hive({"Software": {"Else": {}}}))
    report = loft.survey(REGISTRY)
    assert report.totals["entries"] == 0
    assert len(report.unregistered) == 1


LIST = """
[[holding]]
id = "songs"
kind = "media"
at = "{music}"
[[holding]]
id = "list"
kind = "catalog"
at = "{documents}/list.csv"
syntax = "delimited"
[[holding.entries]]
key = "id"
name = "title"
path = [{ column = "file" }]
content = { column = "digest", as = "sha1" }
modified = { column = "edited", as = "unix-seconds" }
annotations = ["stars"]
"""


def list_of(*rows: tuple[str, str, str]) -> str:
    lines = [
        rf"{number},Song {number},C:\Users\Odile\Music\{name},{digest},{edited},5"
        for number, (name, digest, edited) in enumerate(rows, start=1)
    ]
    return "\n".join(["id,title,file,digest,edited,stars", *lines])


def test_content_is_compared_where_the_date_is_not_the_recorded_one(loft: Loft) -> None:
    for name in ("same", "touched", "edited"):
        os.utime(loft.write(f"Music/{name}.wav", name), (1_000_000, 1_000_000))
    sums = {name: hashlib.sha1(name.encode()).hexdigest() for name in ("same", "touched")}
    wrong = "0" * 40
    loft.write(
        "Documents/list.csv",
        list_of(("same.wav", wrong, "1000001"), ("touched.wav", sums["touched"], "7"), ("edited.wav", wrong, "7")),
    )
    report = loft.survey(LIST)
    assert (report.totals["found"], report.totals["changed"]) == (2, 1)
    assert report.problems[0].why == "its content differs from the digest in the catalog (by sha1)"


def test_spot_checks_are_named_or_picked_fairly(loft: Loft) -> None:
    names = [f"{number:02d}.wav" for number in range(30)]
    for name in names:
        loft.write(f"Music/{name}", name)
    loft.write("Documents/list.csv", list_of(*((name, "", "") for name in names)))
    report = loft.survey(LIST, SurveyOptions(spot_checks=("song 4", "07", "Sonk 4")))
    named = [each for each in report.spot_checks if each.named]
    assert [(each.holding, each.at.rpartition("\\")[2]) for each in named] == [
        ("rack/list", "03.wav"),
        ("rack/list", "07.wav"),
    ]
    picked = [
        each.at.rpartition("\\")[2] for each in report.spot_checks if not each.named and each.holding == "rack/list"
    ]
    assert picked == ["04.wav", "14.wav", "24.wav"]
    assert any('"Sonk 4" (did you mean "song 4"?)' in warning for warning in report.warnings)


def test_duplicates_are_told_by_content_and_not_by_size(loft: Loft) -> None:
    large = bytes(range(256)) * 1024
    loft.write("Music/a.wav", large)
    loft.write("Music/copy/of a.wav", large)
    loft.write("Music/alike at both ends.wav", large[:100_000] + b"!" + large[100_001:])
    loft.write("Music/b.wav", "one")
    loft.write("Music/c.wav", "two")
    loft.write("Music/empty.wav", "")
    loft.write("Music/empty too.wav", "")
    loft.write("Documents/list.csv", list_of())
    report = loft.survey(LIST)
    assert report.duplicates is not None
    (twins,) = report.duplicates
    assert [path.rpartition("Music")[2] for path in twins.paths] == [r"\a.wav", r"\copy\of a.wav"]
    loft.crate = Crate(loft.root / "other")
    assert loft.survey(LIST, SurveyOptions(duplicates=False)).duplicates is None


def test_duplicates_among_many_files_of_one_size_are_told_however_they_are_read(loft: Loft) -> None:
    for number in range(1_100):  # so many that a process of its own reads some
        loft.write(f"Music/{number:04d}.wav", f"{number // 2 if number < 6 else number:04d}")
    loft.write("Documents/list.csv", list_of())
    report = loft.survey(LIST)
    told = [[path.rpartition("\\")[2] for path in each.paths] for each in report.duplicates or ()]
    assert told == [["0000.wav", "0001.wav"], ["0002.wav", "0003.wav"], ["0004.wav", "0005.wav"]]


@pytest.mark.skipif(os.name == "nt", reason="links as another system has them")
def test_links_that_lead_out_are_listed(loft: Loft) -> None:
    loft.write("Music/a.wav")
    (loft.root / HOME / "Music/inner").symlink_to("a.wav")
    (loft.root / HOME / "Music/outer").symlink_to(r"..\Desktop\b.wav")
    loft.write("Documents/list.csv", list_of())
    report = loft.survey(LIST)
    assert [(each.at.rpartition("\\")[2], each.leads_to) for each in report.links] == [("outer", r"..\Desktop\b.wav")]


STRAYS = """
[[holding]]
id = "own"
kind = "media"
at = "{music}"
[[holding]]
id = "strays"
kind = "media"
sweep = ["*.wmb"]
"""


def test_a_stray_is_what_lies_in_nobodys_place(loft: Loft) -> None:
    loft.write("Music/mine.wmb")
    loft.write("Desktop/found.WMB")
    loft.write("Downloads/deep/er/found too.wmb")
    report = loft.survey(STRAYS)
    assert [(each.id, each.files) for each in report.holdings] == [("rack/own", 1), ("rack/strays", 2)]


NUMBERED = """
[[holding]]
id = "frames"
kind = "media"
at = "{pictures}"
[[holding]]
id = "list"
kind = "catalog"
at = "{documents}/list.csv"
syntax = "delimited"
[[holding.entries]]
key = "id"
path = [{ column = "file" }]
beside = ["{name}.peaks", "{stem}.txt"]
"""


MORE = (("[001-004]", "", ""), ("[001-002]", "", ""), ("*", "", ""))


def test_sequences_and_what_stands_beside_a_file(loft: Loft) -> None:
    for number in (1, 2, 4):
        loft.write(f"Pictures/moth.{number:03d}.png")
    for name in ("moth.wav", "moth.wav.peaks", "moth.txt", "moth.doc", "other.txt"):
        loft.write(f"Desktop/{name}", name)
    rows = "id,file,from,to\n1,C:\\Users\\Odile\\Desktop\\moth.wav,,\n"
    loft.write("Documents/list.csv", rows)
    report = loft.survey(NUMBERED)
    listed = next(each for each in report.holdings if each.id == "rack/list")
    assert (listed.outside_files, report.totals["outside"]) == (3, 1)
    numbered = NUMBERED.replace('beside = ["{name}.peaks", "{stem}.txt"]', 'numbered = { first = "from", last = "to" }')
    reasons: list[str] = []
    for pattern, first, last in (("%03d", "1", "4"), ("###", "1", "2"), ("%03d", "", ""), ("%d", "", ""), *MORE):
        loft.write(
            "Documents/list.csv", f"id,file,from,to\n1,C:\\Users\\Odile\\Pictures\\moth.{pattern}.png,{first},{last}\n"
        )
        loft.crate = Crate(loft.root / f"crate{len(reasons)}")
        problems = loft.survey(numbered).problems
        reasons.append(problems[0].why if problems else "")
    gap = "1 of 4 files are missing: moth.003.png"
    assert reasons == [gap, "", "", "1 of 1 files are missing: moth.1.png", gap, "", ""]


def test_details_of_a_holding_and_of_one_that_is_none(loft: Loft) -> None:
    loft.write("Music/a.wav")
    loft.write("Music/B.WAV")
    loft.write("Documents/list.csv", list_of(("a.wav", "", ""), ("gone.wav", "", "")))
    report = loft.survey(LIST)
    with closing(loft.crate.open_survey(Disk())) as store:
        songs, listed = (details_of(store, report, f"rack/{name}") for name in ("songs", "list"))
        assert [(each.ending, each.files) for each in songs.file_kinds] == [(".wav", 2)]
        assert (listed.annotations, len(listed.problems)) == ((("stars", 2),), 1)
        with pytest.raises(ZestyError) as raised:
            details_of(store, report, "rack/lists")
    assert 'Did you mean "rack/list"' in raised.value.next_step


TOLD = """[[holding]]
id = "scenes"
kind = "project"
sweep = ["*.scene", "*.show"]
TOLD
syntax = "xml"
[[holding.entries]]
each = "//sound"
path = [{ at = "@file" }]
"""


def test_documents_are_told_by_their_content(loft: Loft) -> None:
    xml = '<?xml version="1.0"?><!-- a --><l:scene xmlns:l="urn:lamps"><sound file="x"/><scene/></l:scene>'
    contents = {"a.scene": xml, "b.scene": "<shop/>", "c.scene": "nothing", "d.show": "LAMPS 1\n", "e.scene": ""}
    for name, content in contents.items():
        loft.write(f"Documents/{name}", content)
    with closing(sqlite3.connect(loft.write("Documents/f.show", b""))) as database:
        database.execute("CREATE TABLE Sound (id)")
        database.commit()
    found = {}
    for number, told in enumerate(('root = "scene"', 'begins = "LAMPS"', 'table = "sound"', 'table = "x"')):
        loft.crate = Crate(loft.root / f"crate{number}")
        try:
            report = loft.survey(TOLD.replace("TOLD", f"told-by = {{ {told} }}"))
        except ZestyError as error:
            assert "No guide found anything" in error.message
            continue
        found[told] = [each.at.rpartition("\\")[2] for each in report.documents]
    assert found == {'root = "scene"': ["a.scene"], 'begins = "LAMPS"': ["d.show"], 'table = "sound"': ["f.show"]}
