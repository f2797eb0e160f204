"""Many small documents of one path each: relinking them against a plain script over all files.

python benchmarks/presets.py FOLDER [--presets 5000]

The script does what a technician would write: the format's usual library, parse, change, write. It proves nothing.
"""

from __future__ import annotations

import argparse
import shutil
import sys
from pathlib import Path

from bench import ZESTY, Run, run, table

OLD = """[computer]
name = "old"
system = "windows"
user = "Odile"
[[volume]]
anchor = "C:"
mount = "old"
"""
NEW = """[computer]
name = "new"
system = "macos"
user = "odile"
[[volume]]
anchor = "/"
mount = "new"
"""
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


def main() -> None:
    """Measure each step."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--presets", type=int, default=5_000)
    args = parser.parse_args()
    root = args.folder / "presets"
    lay_out(root, args.presets)
    plain = root / "plain"
    shutil.copytree(root / "old/Users/Odile/Documents/Lamps", plain)
    against = run([sys.executable, "-c", SCRIPT, str(plain)])
    crate, old, new = str(root / "crate"), str(root / "old.toml"), str(root / "new.toml")
    steps = {
        "survey": ["survey", crate, "--from", old, "--guides", str(root / "guides")],
        "pack": ["pack", crate],
        "plan": ["plan", crate, "--to", new],
        "unpack": ["unpack", crate, "--to", new, "--yes"],
        "relink": ["relink", crate, "--to", new, "--yes"],
        "check": ["check", crate, "--to", new],
    }
    rows: list[tuple[str, Run]] = [("a plain script", against)]
    rows += [(name, run([ZESTY, *words])) for name, words in steps.items()]
    table(f"{args.presets:,} presets of one path each", rows, against)


if __name__ == "__main__":
    main()
