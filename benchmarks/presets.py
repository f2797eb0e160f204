"""Many small documents of one path each: relinking them against a plain script over all files.

The script does what a technician would write: the format's usual library, parse, change, write. It proves nothing.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

from .bench import NEW, OLD, Row, run, zesty

GUIDE = """[guide]
id = "lamps"
title = "Lamps"
language = 1
[[holding]]
id = "sounds"
kind = "media"
at = "{music}/Lamps"
[[holding]]
id = "presets"
kind = "presets"
at = "{documents}/Lamps/*.lamp"
syntax = "xml"
[[holding.entries]]
each = "//sample"
path = [{ at = "@path" }]
"""
SCRIPT = """
import sys, pathlib, lxml.etree
HOME = "C:" + chr(92) + "Users" + chr(92) + "Odile" + chr(92)
for path in pathlib.Path(sys.argv[1]).glob("*.lamp"):
    document = lxml.etree.parse(path)
    for element in document.xpath("//sample"):
        element.set("path", element.get("path").replace(HOME, "/Users/odile/").replace(chr(92), "/"))
    document.write(path, encoding="utf-8")
"""


def lay_out(root: Path, presets: int) -> None:
    """A computer with presets in one folder, and a hundred sounds that they name."""
    shutil.rmtree(root, ignore_errors=True)
    sounds, documents = root / "old/Users/Odile/Music/Lamps", root / "old/Users/Odile/Documents/Lamps"
    for folder in (sounds, documents, root / "new/Users/odile", root / "guides"):
        folder.mkdir(parents=True)
    for number in range(100):
        (sounds / f"{number}.wav").write_bytes(b"RIFF%d" % number)
    for number in range(presets):
        path = f"C:\\Users\\Odile\\Music\\Lamps\\{number % 100}.wav"
        knobs = "".join(f'<knob name="k{each}" value="0.{each}"/>' for each in range(40))
        (documents / f"{number}.lamp").write_text(f'<preset name="{number}">{knobs}<sample path="{path}"/></preset>')
    (root / "old.toml").write_text(OLD)
    (root / "new.toml").write_text(NEW)
    (root / "guides/lamps.toml").write_text(GUIDE)


def rows(folder: Path, size: float) -> Iterator[Row]:
    """Measure each step."""
    presets = int(5_000 * size)
    lay_out(folder, presets)
    plain = folder / "plain"
    shutil.copytree(folder / "old/Users/Odile/Documents/Lamps", plain)
    subprocess.run(["sync"], check=True)  # as after unpacking: a file that is not on the disk yet costs less to replace
    against = run([sys.executable, "-c", SCRIPT, str(plain)])
    crate, to = folder / "crate", ["--to", folder / "new.toml"]
    steps: dict[str, list[str | Path]] = {
        "survey": ["survey", crate, "--from", folder / "old.toml", "--guides", folder / "guides"],
        "pack": ["pack", crate],
        "plan": ["plan", crate, *to],
        "unpack": ["unpack", crate, *to, "--yes"],
        "relink": ["relink", crate, *to, "--yes"],
        "check": ["check", crate, *to],
    }
    for name, words in steps.items():
        aims = (5, 15) if name == "relink" else (None, None)
        yield Row(f"{name}, {presets:,} presets, a script", zesty(*words), against, *aims)
