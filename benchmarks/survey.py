"""Survey of large catalogs whose files all exist, against `find` and a plain read of the same."""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Iterator
from pathlib import Path

from .bench import GUIDE, SHEET, Row, Run, run, total, zesty

LISTED = f"""{GUIDE}[[holding]]
id = "list"
kind = "catalog"
"""
SQLITE = """at = "{documents}/list.db"
syntax = "sqlite"
[[holding.entries]]
table = "clip"
key = "id"
path = [{ column = "file" }]
size = "bytes"
"""
TEXTS = {
    "xml": """syntax = "xml"
[[holding.entries]]
each = "//clip"
path = [{ at = "@file" }]
spelling = "file-url"
""",
    "json": """syntax = "json"
[[holding.entries]]
each = "$.clips[*]"
path = [{ at = "file" }]
""",
    "plist": """syntax = "plist"
[[holding.entries]]
each = "$.clips[*]"
path = [{ at = "file" }]
""",
    "lines": """syntax = "lines"
[[holding.entries]]
each = '(?P<file>.+)'
path = [{ at = "file" }]
""",
    "delimited": """syntax = "delimited"
[[holding.entries]]
path = [{ column = "file" }]
""",
}
PER_FOLDER = 1000


def lay_out(root: Path, rows: int) -> list[str]:
    """Files of different sizes that take no room, a thousand to a folder; their paths on the computer."""
    shutil.rmtree(root, ignore_errors=True)
    music, documents = (root / "disk/home/odile" / name for name in ("Music", "Documents"))
    documents.mkdir(parents=True)
    paths = []
    for number in range(rows):
        folder = music / f"Reel {number // PER_FOLDER:04d}"
        if number % PER_FOLDER == 0:
            folder.mkdir(parents=True)
        with (folder / f"Take {number:07d}.wav").open("wb") as file:
            file.truncate(1000 + number)
        paths.append(f"/home/odile/Music/{folder.name}/Take {number:07d}.wav")
    (root / "sheet.toml").write_text(SHEET)
    return paths


def measure(root: Path, guide: str, catalog: Path, plain: list[str]) -> tuple[Run, Run]:
    """The survey, and `find` with a plain read of the catalog."""
    guides = root / "guides"
    shutil.rmtree(guides, ignore_errors=True)
    shutil.rmtree(root / "crate", ignore_errors=True)
    guides.mkdir()
    (guides / "large.toml").write_text(guide)
    find = run(["find", str(root / "disk"), "-type", "f", "-printf", "%s %T@ %p\\n"])
    against = total(find, run([*plain, str(catalog)]))
    survey = ["survey", root / "crate", "--from", root / "sheet.toml", "--guides", guides, "--json"]
    return zesty(*survey), against


def write_database(target: Path, paths: list[str]) -> None:
    """A catalog in SQLite that names all files."""
    database = sqlite3.connect(target)
    database.execute("CREATE TABLE clip (id INTEGER PRIMARY KEY, file TEXT, bytes INTEGER, stars INTEGER)")
    rows = ((number, path, 1000 + number, 3) for number, path in enumerate(paths))
    database.executemany("INSERT INTO clip VALUES (?, ?, ?, ?)", rows)
    database.commit()
    database.close()


def write_text(path: Path, syntax: str, paths: list[str]) -> None:
    """The same list in a text syntax."""
    made = {
        "xml": ("<clips>\n", '<clip name="take" file="file://{}" stars="3"/>\n', "</clips>\n"),
        "json": ('{"clips": [\n', '{{"name": "take", "file": "{}", "stars": 3}},\n', '{"name": "end"}]}\n'),
        "plist": (
            '<?xml version="1.0" encoding="UTF-8"?><plist version="1.0"><dict><key>clips</key><array>\n',
            "<dict><key>file</key><string>{}</string><key>stars</key><integer>3</integer></dict>\n",
            "</array></dict></plist>\n",
        ),
        "lines": ("", "{}\n", ""),
        "delimited": ("name,file,stars\n", "take,{},3\n", ""),
    }
    head, line, tail = made[syntax]
    with path.open("w") as file:
        file.write(head)
        for each in paths:
            file.write(line.format(each.replace(" ", "%20") if syntax == "xml" else each))
        file.write(tail)


def rows(folder: Path, size: float) -> Iterator[Row]:
    """Measure."""
    paths = lay_out(folder, int(1_000_000 * size))
    documents = folder / "disk/home/odile/Documents"
    write_database(documents / "list.db", paths)
    shell = ["sh", "-c", 'sqlite3 "$0" "SELECT * FROM clip"']
    survey, against = measure(folder, LISTED + SQLITE, documents / "list.db", shell)
    yield Row(f"survey, SQLite, {len(paths):,}, find and SELECT", survey, against, 6)
    (documents / "list.db").unlink()
    (documents / "Notes").mkdir()
    (documents / "Notes/one.txt").write_text("Lamps")
    notes = GUIDE.replace("{music}", "{documents}/Notes")
    survey, against = measure(folder, notes, documents, ["ls"])
    yield Row(f"survey, {len(paths):,} files that no guide covers, find", survey, against, 4)
    few = lay_out(folder, int(300_000 * size))
    for syntax, part in TEXTS.items():
        catalog = documents / f"list.{syntax}"
        write_text(catalog, syntax, few)
        guide = f'{LISTED}at = "{{documents}}/list.{syntax}"\n{part}'
        survey, against = measure(folder, guide, catalog, ["cat"])
        yield Row(f"survey, {syntax}, {len(few):,}, find and cat", survey, against)
        catalog.unlink()
