"""What a technician sees: in any encoding, on a narrow terminal, of very many documents, in a spreadsheet, in a log."""

from __future__ import annotations

import csv
import json
import os
import pty
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import SmallMove

PROGRAM = Path(sys.executable).parent / "zesty"
PRESETS = """[guide]
id = "lamps"
title = "Lamps"
language = 1
[[holding]]
id = "sounds"
kind = "media"
at = "{music}/Lamps"
[[holding]]
id = "scenes"
kind = "project"
at = "{documents}/*.lamp"
syntax = "lines"
[[holding.entries]]
each = "sound=(?P<path>.*)"
path = [{ at = "path" }]
spelling = "native"
"""


def on_a_terminal(*arguments: str | Path, columns: int = 80) -> str:
    """What the program shows on a terminal of so many columns."""
    reader, writer = pty.openpty()
    environment = {**os.environ, "COLUMNS": str(columns), "TERM": "xterm", "NO_COLOR": "1"}
    with subprocess.Popen(
        [PROGRAM, *map(str, arguments)], stdout=writer, stderr=subprocess.DEVNULL, env=environment
    ) as process:
        os.close(writer)
        shown = b""
        while True:
            try:
                more = os.read(reader, 65536)
            except OSError:  # the other end is closed
                break
            if not more:
                break
            shown += more
        process.wait()
    os.close(reader)
    return shown.decode().replace("\r\n", "\n").replace("\x1b[1m", "").replace("\x1b[2m", "").replace("\x1b[0m", "")


@pytest.mark.parametrize("encoding", ["ascii", "cp437", "cp1252", "utf-8"])
def test_every_encoding_of_a_console_works(small: SmallMove, zesty: Zesty, encoding: str) -> None:
    music = small.old_disks / "c/Users/Odile/Music/Wimblethorn Sounds"
    (music / "雨 \x1b[31mTh\u00e9i\u00e8re.wav").write_bytes(b"odd")
    at = ("check", "--at", small.demo.old_sheet, "--guides", small.demo.guides)
    console = {"PYTHONIOENCODING": encoding, "PYTHONUTF8": "0"}
    said = zesty(*at, environment=console, encoding=encoding)
    assert said.returncode == 1, said.stderr
    assert "\x1b" not in said.stdout
    assert "\\x1b[31m" in said.stdout
    assert ("雨" if encoding == "utf-8" else "\\u96e8") in said.stdout
    document = zesty(*at, "--json", environment=console, encoding=encoding)
    media = [each["at"] for each in json.loads(document.stdout)["unknown-media"]]
    assert any("雨 \x1b[31mThéière.wav" in each for each in media)


def test_on_a_narrow_terminal_lines_wrap_and_the_next_command_can_be_copied(small: SmallMove) -> None:
    shown = on_a_terminal("plan", small.crate.root, "--to", small.demo.new_sheet)
    lines = shown.split("\n")
    command = shown[shown.index("Next:") :]
    assert all(len(line) <= 80 for line in lines if str(small.demo.root) not in line), shown
    assert command.replace("Next:", "").replace(" \\\n", " ").split() == [
        "zesty",
        "unpack",
        str(small.crate.root),
        "--to",
        str(small.demo.new_sheet),
    ]


def test_many_alike_documents_are_one_row_with_a_count_and_an_example(tmp_path: Path, zesty: Zesty) -> None:
    demo, crate = tmp_path / "demo", tmp_path / "crate"
    zesty("demo", demo, "--lay-out")
    home = demo / "paintloft/disks/c/Users/Odile"
    (home / "Music/Lamps").mkdir()
    for number in range(60):
        (home / f"Music/Lamps/{number}.wav").write_bytes(bytes([number]))
        sound = f"sound=C:\\Users\\Odile\\Music\\Lamps\\{number}.wav\r\n"
        (home / f"Documents/scene {number}.lamp").write_bytes(sound.encode())
    shutil.rmtree(demo / "guides")
    (demo / "guides").mkdir()
    (demo / "guides/lamps.toml").write_text(PRESETS)
    zesty("survey", crate, "--from", demo / "paintloft/sheet.toml", "--guides", demo / "guides")
    zesty("pack", crate, "--only", "lamps")
    to = ("--to", demo / "cartshed/sheet.toml")
    zesty("plan", crate, *to)
    zesty("unpack", crate, *to, "--yes")
    planned, said = zesty("relink", crate, *to, "--dry-run"), zesty("relink", crate, *to, "--yes")
    for each in (planned, said):
        assert len(each.stdout.splitlines()) < 20, each.stdout
        assert "Lamps: scenes: 60 documents" in each.stdout
        assert "--details shows each document" in each.stdout
    assert "each compared with its original: nothing else differs" in said.stdout
    again = zesty("relink", crate, *to, "--yes", "--details")
    assert again.stdout.count("relinked already") == 60


def test_cells_that_a_spreadsheet_would_run_are_texts(small: SmallMove, zesty: Zesty, tmp_path: Path) -> None:
    music = small.old_disks / "c/Users/Odile/Music/Wimblethorn Sounds"
    (music / "=1+1.wav").write_bytes(b"odd")
    guide = small.demo.guides / "wimblethorn.toml"
    guide.write_text(guide.read_text() + '\n[[manual-step]]\nwhen = "after-check"\ndo = "=HYPERLINK(1)"\n')
    crate = tmp_path / "crate"
    zesty("survey", crate, "--from", small.demo.old_sheet, "--guides", small.demo.guides, "--csv", tmp_path / "tables")
    zesty("todo", crate, "--done", "wimblethorn-1")
    tables = [*(tmp_path / "tables").iterdir(), crate / "zesty/manual-steps.csv"]
    cells = [
        cell
        for table in tables
        for row in csv.reader(table.read_text(encoding="utf-8-sig").splitlines())
        for cell in row
    ]
    assert "'=HYPERLINK(1)" in cells
    assert not [cell for cell in cells if cell.startswith(("=", "+", "@", "\t"))]
    assert "=HYPERLINK(1)" in zesty("todo", crate).stdout


def test_a_log_has_versions_steps_timings_and_tracebacks_but_no_contents(
    small: SmallMove, zesty: Zesty, tmp_path: Path
) -> None:
    log, to = tmp_path / "zesty.log", ("--to", small.demo.new_sheet)
    assert zesty("unpack", small.crate.root, *to, "--yes", "--log", log, "--quiet").returncode == 0
    assert zesty("relink", small.crate.root, *to, "--yes", "--log", log).returncode == 0
    assert zesty("survey", tmp_path / "none", "--from", tmp_path / "none.toml", "--log", log).returncode == 3
    text = log.read_text(encoding="utf-8")
    for said in ("Zesty Crate 0.1.0 on Python", "step unpack begins", "step relink begins", "ended after", "Traceback"):
        assert said in text
    assert "Wimblethorn Sounds\\Lamp Lit.wav" not in text, "what stands in a catalog is not logged"
    spoken = zesty("check", small.crate.root, *to, "-v")
    assert "I totals {" in spoken.stderr
    assert "Traceback" not in zesty("survey", tmp_path / "none", "--from", tmp_path / "none.toml").stderr
    refused = zesty("check", small.crate.root, *to, "--log", tmp_path / "no folder/zesty.log")
    assert (refused.returncode, "cannot be written" in refused.stderr) == (3, True)


def test_quiet_shows_results_and_nothing_about_the_next_step(small: SmallMove, zesty: Zesty) -> None:
    said = zesty("plan", small.crate.root, "--to", small.demo.new_sheet, "--quiet")
    assert "Next:" not in said.stdout
    assert "No blockers" in said.stdout
