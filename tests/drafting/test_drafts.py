"""Guides drafted from what is on a computer: through the installed command, tried and rehearsed without an edit."""

from __future__ import annotations

import hashlib
import json
import ntpath
import sqlite3
import tomllib
from contextlib import closing
from pathlib import Path, PureWindowsPath
from typing import Any

import pytest

from conftest import Zesty
from drafting.samples import ROWS, SAMPLES, content_of
from support.trip import Trip, document

PROGRAM = "C:\\Users\\Odile\\AppData\\Roaming\\Lamps"


class Loft(Trip):
    """A computer with media, and one program's folder."""

    def __init__(self, root: Path, zesty: Zesty) -> None:
        super().__init__(root, zesty)
        self.program = self.home / "AppData/Roaming/Lamps"
        self.drafted = root / "draft.toml"
        for _, path in ROWS:
            self.put(path, content_of(path))

    def put(self, path: str, content: bytes) -> None:
        """Write a file where the old computer has it."""
        real = self.root / "loft" / path.removeprefix("C:\\").replace("\\", "/")
        real.parent.mkdir(parents=True, exist_ok=True)
        real.write_bytes(content)

    def draft(self, *more: str | Path, look_in: str = PROGRAM) -> Any:
        """Draft a guide for the program's folder."""
        return self.run("guide", "draft", "--at", self.old, "--look-in", look_in, *more)


@pytest.fixture
def loft(tmp_path: Path, zesty: Zesty) -> Loft:
    return Loft(tmp_path, zesty)


def has(told: dict[str, Any], wanted: dict[str, Any]) -> bool:
    """Whether a table has all that is wanted."""
    return all(told.get(key) == value for key, value in wanted.items())


@pytest.mark.parametrize("name", SAMPLES)
def test_a_draft_finds_everything_and_goes_everywhere(loft: Loft, name: str) -> None:
    sample = SAMPLES[name]
    sample.write(loft.program)
    made = loft.draft("-o", loft.drafted, "--json")
    assert made.returncode == 0, made.stdout + made.stderr
    guide = tomllib.loads(loft.drafted.read_text())
    holding = next((each for each in guide["holding"] if has(each, sample.holding)), None)
    assert holding is not None, loft.drafted.read_text()
    assert any(has(each, sample.entries) for each in holding["entries"]), loft.drafted.read_text()
    (drafted,) = document(made)["drafts"]
    totals = [each["totals"] for part in drafted["trial"]["holdings"] for each in part["documents"]]
    assert drafted["mistakes"] == drafted["unexplained"] == []
    found = sum(each["found"] + each["outside"] for each in totals)
    assert found >= len(ROWS)
    assert found == sum(each["entries"] for each in totals)
    rehearsed = loft.run("guide", "rehearse", loft.drafted, "--at", loft.old)
    assert rehearsed.returncode == 0, rehearsed.stdout


def test_the_media_of_the_entries_are_carried_and_the_rest_of_the_folder_is(loft: Loft) -> None:
    SAMPLES["JSON"].write(loft.program)
    (loft.program / "desk.cfg").write_text("volume 3\n")
    assert loft.draft("-o", loft.drafted).returncode == 0
    guide = tomllib.loads(loft.drafted.read_text())
    kinds = {each["kind"]: each["at"] for each in guide["holding"]}
    assert kinds == {"catalog": "{own}/takes.json", "media": "{music}/Lamps", "settings": "{own}"}
    assert guide["places"]["own"]["windows"] == "{app-data}\\Lamps"
    assert guide["places"]["own"]["macos"] == "{app-data}/Lamps"
    assert "Tried: 12 entries; 12 found" in loft.drafted.read_text()


def test_numbered_files_of_their_own_are_no_sequence(loft: Loft) -> None:
    pieces = []
    for number in range(1, 9):
        path = f"C:\\Users\\Odile\\Music\\Lamps\\Walk\\piece {number:02d}.wav"
        loft.put(path, b"sound")
        pieces.append({"file": path, "number": number, "of": 8})
    (loft.program / "walk.json").write_text(json.dumps(pieces))
    assert loft.draft("-o", loft.drafted).returncode == 0
    (entries,) = tomllib.loads(loft.drafted.read_text())["holding"][0]["entries"]
    assert "numbered" not in entries


def test_what_two_catalogs_say_alike_of_a_file_is_its_identity(loft: Loft) -> None:
    for at, some in (("A/desk.lampdb", ROWS[:9]), ("B/desk.lampdb", ROWS[4:][::-1])):
        (loft.program / at).parent.mkdir()
        with closing(sqlite3.connect(loft.program / at)) as database:
            database.execute("CREATE TABLE take (id INTEGER PRIMARY KEY, file TEXT, stars INTEGER, mark TEXT)")
            rows = ((path, number % 3, f"mark {number * 7}") for number, path in some)
            database.executemany("INSERT INTO take (file, stars, mark) VALUES (?, ?, ?)", rows)
            database.commit()
    made = loft.draft("-o", loft.drafted)
    assert made.returncode == 0, made.stdout + made.stderr
    guide = tomllib.loads(loft.drafted.read_text())
    (holding,) = (each for each in guide["holding"] if "entries" in each)
    assert (holding["sweep"], holding["entries"][0]["identity"]) == (["*.lampdb"], ["mark"])
    assert "the same in two databases for 5 files" in loft.drafted.read_text()


def test_files_beside_media_belong_to_them(loft: Loft) -> None:
    SAMPLES["JSON"].write(loft.program)
    for _, path in ROWS[:8]:
        loft.put(f"{path}.peaks", b"peaks")
        loft.put(f"{path.rpartition('.')[0]}.cue", b"cue")
    assert loft.draft("-o", loft.drafted).returncode == 0
    (entries,) = tomllib.loads(loft.drafted.read_text())["holding"][0]["entries"]
    assert entries["beside"] == ["{name}.peaks", "{stem}.cue"]


def test_each_place_of_a_path_is_told_though_the_path_is_the_same(loft: Loft) -> None:
    SAMPLES["properties by their names, and the same paths elsewhere"].write(loft.program)
    assert loft.draft("-o", loft.drafted).returncode == 0
    (holding,) = (each for each in tomllib.loads(loft.drafted.read_text())["holding"] if "entries" in each)
    assert {each["each"] for each in holding["entries"]} == {"/cut/take", "/cut/all/file"}


def test_companions_are_known_by_what_they_are_named_after(loft: Loft) -> None:
    SAMPLES["JSON"].write(loft.program)
    for folder, name in (("Small", lambda path: hashlib.md5(path.encode()).hexdigest()), ("Waves", ntpath.basename)):
        (loft.program / folder).mkdir()
        for _, path in ROWS:
            (loft.program / folder / f"{name(path)}.peaks").write_bytes(b"\1\2")
    assert loft.draft("-o", loft.drafted).returncode == 0
    made = {each["at"]: each for each in tomllib.loads(loft.drafted.read_text())["holding"]}
    assert made["{own}/Small"]["named-by"] == {"path": "native", "as": "md5", "name": "{key}.peaks"}
    assert made["{own}/Waves"]["kind"] == "companions"
    assert "named-by" not in made["{own}/Waves"]


def test_what_the_installer_brings_is_proposed_to_stay(loft: Loft) -> None:
    SAMPLES["JSON"].write(loft.program)
    for number in range(4):
        for folder in (f"{PROGRAM}\\Looks\\Factory", "C:\\Program Files\\Lamps\\Looks"):
            loft.put(f"{folder}\\dusk {number}.look", b"dusk" * number)
        loft.put(f"{PROGRAM}\\Looks\\Mine\\my dusk {number}.look", b"mine" * number)
    assert loft.draft("-o", loft.drafted).returncode == 0
    drafted = loft.drafted.read_text()
    assert "# 4 files have one of their name and size among the program's, such as C:\\Program Files" in drafted
    assert "# The content of 4 was compared and is the same." in drafted
    assert '# factory = ["/Factory/**"]' in drafted
    (looks,) = (each for each in tomllib.loads(drafted)["holding"] if each["at"] == "{own}/Looks")
    assert "factory" not in looks  # nothing is left behind that a person has not decided on
    loft.drafted.write_text(drafted.replace('# factory = ["/Factory', 'factory = ["/Factory'))
    assert loft.run("guide", "lint", loft.drafted, "--at", loft.old).returncode == 0


def test_a_draft_moves_the_program(loft: Loft) -> None:
    SAMPLES["a tree"].write(loft.program)
    assert loft.draft("-o", loft.drafted).returncode == 0
    (loft.guides / "lamps.toml").write_text(loft.drafted.read_text())
    assert loft.survey().returncode == loft.pack().returncode == loft.plan().returncode == 0
    checked = loft.arrived()
    assert checked.returncode == 0, checked.stdout
    assert (loft.new_home / "Library/Application Support/Lamps/takes.db").exists()


def test_a_branch_of_the_registry(loft: Loft) -> None:
    key = "HKEY_CURRENT_USER\\Software\\Lamps"
    packs = "".join(
        f'[{key}\\Packs\\{name}]\n"Folder"="{folder}"\n"Voices"=dword:00000003\n\n'.replace("\\Music", "\\\\Music")
        for name, folder in (
            ("Rain", "C:\\\\Users\\\\Odile\\Music\\\\Lamps\\\\Rain & Wind"),
            ("Bells", "C:\\\\Users\\\\Odile\\Music\\\\Lamps\\\\Bells"),
        )
    )
    (loft.root / "registry.reg").write_text(f"Windows Registry Editor Version 5.00\n\n{packs}", "utf-16")
    loft.old.write_text(loft.old.read_text() + '[windows-registry]\nfile = "registry.reg"\n')
    made = loft.draft("-o", loft.drafted, look_in=key)
    assert made.returncode == 0, made.stdout + made.stderr
    (holding,) = (
        each for each in tomllib.loads(loft.drafted.read_text())["holding"] if each["kind"] == "registrations"
    )
    assert holding["branch"] == key
    assert holding["entries"][0]["folder"] is True
    refused = loft.draft(look_in="HKEY_CURRENT_USER\\Software\\Other")
    assert refused.returncode == 3
    assert "There is nothing in HKEY_CURRENT_USER\\Software\\Other" in refused.stderr


def test_sequences_and_single_files_are_told_apart(loft: Loft) -> None:
    for number in range(3, 8):
        loft.put(f"C:\\Users\\Odile\\Pictures\\walk\\walk.{number:04d}.png", b"picture")
    loft.put("C:\\Users\\Odile\\Pictures\\still.png", b"picture")
    folder = "C:\\\\Users\\\\Odile\\\\Pictures\\\\"
    shots = f'[{{"at": "{folder}walk\\\\walk.%04d.png", "from": 3, "to": 7}}, {{"at": "{folder}still.png"}}]'
    (loft.program / "shots.json").write_text(shots)
    assert loft.draft("-o", loft.drafted).returncode == 0
    entries = tomllib.loads(loft.drafted.read_text())["holding"][0]["entries"]
    assert [each.get("numbered") for each in entries] == [{"first": "from", "last": "to"}, None]
    assert loft.run("guide", "rehearse", loft.drafted, "--at", loft.old).returncode == 0


@pytest.mark.parametrize("end", ["last", "span"])
def test_sequences_are_known_by_their_first_files(loft: Loft, end: str) -> None:
    shots = []
    for name, first, last in (("walk", 3, 7), ("gate", 1, 4), ("still", 9, 9)):
        for number in range(first, last + 1):
            loft.put(f"C:\\Users\\Odile\\Pictures\\{name}\\{name}.{number:04d}.png", b"picture")
        at = f"C:\\Users\\Odile\\Pictures\\{name}\\{name}.{first:04d}.png"
        shots.append({"at": at, "from": first, "to": last if end == "last" else last - first + 1})
    (loft.program / "shots.json").write_text(json.dumps(shots))
    made = loft.draft("-o", loft.drafted, "--json")
    assert made.returncode == 0
    (entries,) = tomllib.loads(loft.drafted.read_text())["holding"][0]["entries"]
    assert entries["numbered"] == {"first": "from", end: "to"}
    (totals,) = (each["totals"] for each in document(made)["drafts"][0]["trial"]["holdings"][0]["documents"])
    assert totals["entries"] == totals["found"] + totals["outside"] == 3
    assert loft.run("guide", "rehearse", loft.drafted, "--at", loft.old).returncode == 0


@pytest.mark.parametrize(
    "text", ["a,b,c\n1,Rain,Bells\n2,Bells,Rain\n3,Rain,Rain\n", '{"kinds": ["wav", "flac", "owl"]}', "x = 3\n"]
)
def test_words_that_are_names_of_something_are_no_paths(loft: Loft, text: str) -> None:
    for name in ("Rain", "Bells", "wav", "flac", "owl"):
        loft.put(f"C:\\Users\\Odile\\Pictures\\{name}\\one.png", b"picture")
    (loft.program / "words.txt").write_text(text)
    loft.draft("-o", loft.drafted)
    assert not any("entries" in each for each in tomllib.loads(loft.drafted.read_text())["holding"])


def test_what_is_left_for_a_person_is_told_with_offsets_and_samples(loft: Loft) -> None:
    _, path = ROWS[0]
    (loft.program / "own.bin").write_bytes(b"\1\2\0\0" + path.encode() + b"\0\0")
    made = loft.draft("-o", loft.drafted)
    assert made.returncode == 1
    told = " ".join(made.stdout.split())
    assert "a format of its own, with texts like paths, such as at 4: C:\\Users\\Odile" in told
    assert "Not explained" in loft.drafted.read_text()


def test_statements_about_files_are_left_for_a_person(loft: Loft) -> None:
    about = (f'<{PureWindowsPath(path).as_uri()}> l:label "Take {n}" .\n' for n, path in ROWS)
    (loft.program / "takes.ttl").write_text(f"@prefix l: <urn:lamps#> .\n{''.join(about)}")
    told = " ".join(loft.draft("-o", loft.drafted).stdout.split())
    assert "paths in statements subject that nothing explains, such as file:///C:/Users/Odile/Music" in told


def test_without_a_file_it_is_printed_and_nothing_else_is_changed(loft: Loft) -> None:
    SAMPLES["JSON"].write(loft.program)
    before = {each: each.read_bytes() for each in loft.root.rglob("*") if each.is_file()}
    made = loft.draft()
    assert made.returncode == 0
    assert 'id     = "takes"' in made.stdout
    assert {each: each.read_bytes() for each in loft.root.rglob("*") if each.is_file()} == before
    told = document(loft.draft("--json"))["drafts"][0]
    assert told["entries"][0]["found"] == len(ROWS)


def test_what_is_not_covered_gets_a_guide_for_each_program(loft: Loft) -> None:
    SAMPLES["JSON"].write(loft.program)
    other = loft.home / "AppData/Roaming/Gulls"
    other.mkdir()
    SAMPLES["a tree"].write(other)
    loft.put("C:\\Users\\Odile\\Music\\known.m3u", ROWS[0][1].encode())
    surveyed = loft.survey()
    assert f"zesty guide draft --at {loft.old} --not-covered -o drafts" in " ".join(surveyed.stdout.split())
    assert "12 paths near its beginning, 91 % lead to files" in " ".join(surveyed.stdout.split())
    made = loft.run("guide", "draft", "--at", loft.old, "--not-covered", "-o", loft.root / "made")
    assert made.returncode == 0, made.stdout + made.stderr
    assert sorted(each.name for each in (loft.root / "made").iterdir()) == ["gulls.toml", "lamps.toml"]
    covered = loft.run(
        "guide", "draft", "--at", loft.old, "--not-covered", "-o", loft.root / "more", "--guides", loft.root / "made"
    )
    assert covered.returncode == 3
    assert "there is nothing to draft" in covered.stderr


def test_refusals_say_what_to_do(loft: Loft) -> None:
    loft.drafted.write_text("")
    there = loft.draft("-o", loft.drafted)
    assert (there.returncode, "is there already" in there.stderr) == (3, True)
    absent = loft.draft(look_in="C:\\Users\\Odile\\Nowhere")
    assert (absent.returncode, "There is no C:\\Users\\Odile\\Nowhere on loft" in absent.stderr) == (3, True)
    empty = loft.draft()
    assert empty.returncode == 3
    assert "Nothing was found that records paths" in empty.stdout
    for more in ((), ("--look-in", "C:\\", "--not-covered")):
        assert loft.run("guide", "draft", "--at", loft.old, *more).returncode == 2


def test_time_may_be_limited(loft: Loft) -> None:
    SAMPLES["JSON"].write(loft.program)
    made = loft.draft("-o", loft.drafted, "--limit-time", "0")
    assert made.returncode in (1, 3)
    assert "The time was up" in made.stdout
