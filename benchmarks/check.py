"""Check of large catalogs, on one computer and after a move, against `find` over the same tree.

python benchmarks/check.py FOLDER [--rows 1000000] [--moved 20000]
"""

from __future__ import annotations

import argparse
import shutil
from pathlib import Path

from bench import SHEET, ZESTY, Run, run, table

from survey import LISTED, SQLITE, lay_out, write_database


def old_computer(root: Path, rows: int) -> Path:
    """A computer with so many files, and the guide of its one program; its sheet."""
    paths = lay_out(root, rows)
    write_database(root / "disk/home/odile/Documents/list.db", paths)
    (root / "guides").mkdir(exist_ok=True)
    media = '\n[[holding]]\nid = "takes"\nkind = "media"\nat = "{music}"\n'
    (root / "guides/large.toml").write_text(LISTED + SQLITE + media)
    return root / "sheet.toml"


def find(root: Path) -> Run:
    """What a person would list the same files with."""
    return run(["find", str(root / "disk"), "-type", "f", "-printf", "%s %T@ %p\\n"])


def main() -> None:
    """Print two tables."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--moved", type=int, default=20_000)
    args = parser.parse_args()
    one = args.folder / "one"
    if args.rows:
        sheet = old_computer(one, args.rows)
        listed = find(one)
        checked = run([ZESTY, "check", "--at", str(sheet), "--guides", str(one / "guides"), "--json"])
        table(
            f"one computer, {args.rows:,} entries and files", [("find", listed), ("zesty check --at", checked)], listed
        )
        shutil.rmtree(one)
    old, new, crate = args.folder / "old", args.folder / "new", str(args.folder / "crate")
    shutil.rmtree(args.folder, ignore_errors=True)
    sheet = old_computer(old, args.moved)
    (new / "disk/home/odile").mkdir(parents=True)
    (new / "sheet.toml").write_text(SHEET)
    to = ["--to", str(new / "sheet.toml")]
    for command in (
        ["survey", crate, "--from", str(sheet), "--guides", str(old / "guides"), "--no-duplicates"],
        ["pack", crate],
        ["plan", crate, *to],
        ["unpack", crate, *to, "--yes"],
        ["relink", crate, *to, "--yes"],
    ):
        run([ZESTY, *command])
    listed = find(new)
    contents = ("changed", "sample", "all")
    checks = [(f"check --content {each}", run([ZESTY, "check", crate, *to, "--content", each])) for each in contents]
    table(f"after a move, {args.moved:,} entries and files", [("find", listed), *checks], listed)


if __name__ == "__main__":
    main()
