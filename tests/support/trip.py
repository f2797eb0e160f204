"""A move of one made-up program from a Windows computer to a Mac, step by step through the installed command."""

from __future__ import annotations

import json
import sqlite3
import subprocess
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

OLD = """[computer]
name = "loft"
system = "windows"
user = "Odile"
[[volume]]
anchor = "C:"
mount = "loft"
"""
NEW = """[computer]
name = "shed"
system = "macos"
user = "odile"
[[volume]]
anchor = "/"
mount = "shed"
"""
HEAD = """[guide]
id = "lamps"
title = "Lamps"
language = 1
[[holding]]
id = "sounds"
kind = "media"
at = "{music}/Lamps"
[[holding]]
id = "scenes"
kind = "catalog"
"""
SQLITE = """at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [{ at = "path" }]
spelling = "native"
"""
XML = """at = "{app-data}/Lamps/scenes.xml"
syntax = "xml"
[[holding.entries]]
each = "//sound"
path = [{ at = "@path" }]
spelling = "native"
"""
JSON = """at = "{app-data}/Lamps/scenes.json"
syntax = "json"
[[holding.entries]]
each = "$.sounds[*]"
path = [{ at = "path" }]
spelling = "native"
"""
LINES = """at = "{app-data}/Lamps/scenes.txt"
syntax = "lines"
[[holding.entries]]
each = "sound=(?P<path>.*)"
path = [{ at = "path" }]
spelling = "native"
"""
SOUNDS = "C:\\Users\\Odile\\Music\\Lamps\\"


class Trip:
    """Both computers, a folder of guides, and the crate. Each step gives back how the command ended."""

    def __init__(self, root: Path, zesty: Callable[..., subprocess.CompletedProcess[str]]) -> None:
        self.root = root
        self._zesty = zesty
        self.crate = root / "crate"
        self.old, self.new = root / "loft.toml", root / "shed.toml"
        self.home, self.new_home = root / "loft/Users/Odile", root / "shed/Users/odile"
        self.guides = root / "guides"
        for folder in (self.home / "Music/Lamps", self.home / "AppData/Roaming/Lamps", self.new_home, self.guides):
            folder.mkdir(parents=True)
        self.old.write_text(OLD)
        self.new.write_text(NEW)

    def guide(self, text: str, name: str = "lamps") -> None:
        """Write a guide; one that does not begin with its own head gets the usual one."""
        (self.guides / f"{name}.toml").write_text(text if text.startswith("[guide]") else HEAD + text)

    def sound(self, name: str) -> str:
        """A media file; the path by which the old computer knows it."""
        (self.home / "Music/Lamps" / name).write_bytes(name.encode())
        return SOUNDS + name

    def sounds(self, number: int) -> list[str]:
        """Many media files; their paths."""
        return [self.sound(f"{each}.wav") for each in range(number)]

    def database(self, paths: Iterable[object], *, table: str = "sound (id INTEGER PRIMARY KEY, path)") -> Path:
        """A catalog in SQLite with one row a path."""
        at = self.home / "AppData/Roaming/Lamps/scenes.db"
        database = sqlite3.connect(at)
        database.execute(f"CREATE TABLE {table}")
        database.executemany(f"INSERT INTO {table.split()[0]} (path) VALUES (?)", ((each,) for each in paths))
        database.commit()
        database.close()
        return at

    @property
    def new_database(self) -> Path:
        """Where the catalog goes on the new computer."""
        return self.new_home / "Library/Application Support/Lamps/scenes.db"

    def new_paths(self, query: str = "SELECT path FROM sound ORDER BY id") -> list[object]:
        """The first column of a query over the catalog on the new computer."""
        database = sqlite3.connect(self.new_database)
        database.text_factory = lambda raw: raw.decode("utf-8", "surrogateescape")
        rows = [row[0] for row in database.execute(query)]
        database.close()
        return rows

    def run(self, *arguments: str | Path) -> subprocess.CompletedProcess[str]:
        """One command."""
        return self._zesty(*arguments)

    def survey(self, *more: str | Path) -> subprocess.CompletedProcess[str]:
        return self.run("survey", self.crate, "--from", self.old, "--guides", self.guides, *more)

    def survey_again(self, *more: str | Path) -> subprocess.CompletedProcess[str]:
        return self.run("survey", self.crate, *more)

    def pack(self, *more: str | Path) -> subprocess.CompletedProcess[str]:
        return self.run("pack", self.crate, *more)

    def plan(self, *more: str | Path) -> subprocess.CompletedProcess[str]:
        return self.run("plan", self.crate, "--to", self.new, *more)

    def unpack(self, *more: str | Path) -> subprocess.CompletedProcess[str]:
        return self.run("unpack", self.crate, "--to", self.new, "--yes", *more)

    def relink(self, *more: str | Path) -> subprocess.CompletedProcess[str]:
        return self.run("relink", self.crate, "--to", self.new, "--yes", *more)

    def check(self, *more: str | Path) -> subprocess.CompletedProcess[str]:
        return self.run("check", self.crate, "--to", self.new, *more)

    def undo(self, *more: str | Path) -> subprocess.CompletedProcess[str]:
        return self.run("undo", self.crate, "--to", self.new, "--yes", *more)

    def retire(self, *more: str | Path) -> subprocess.CompletedProcess[str]:
        return self.run("retire", self.crate, "--from", self.old, "--no-second-copy", *more)

    def page(self) -> str:
        """The report, as a page."""
        self.run("report", self.crate, "--to", self.new)
        return (self.crate / "moves/shed/report/report.html").read_text(encoding="utf-8")

    def execute(self, database: Path, *statements: str) -> None:
        """Change a database."""
        connection = sqlite3.connect(database)
        for each in statements:
            connection.execute(each)
        connection.commit()
        connection.close()

    def moved(self) -> subprocess.CompletedProcess[str]:
        """Everything up to the check; how that ended."""
        for step in (self.pack,) if self.crate.exists() else (self.survey, self.pack):
            said = step()
            assert said.returncode in (0, 1), said.stderr
        return self.arrived()

    def arrived(self) -> subprocess.CompletedProcess[str]:
        """Everything from the plan to the check; how that ended."""
        for step in (self.plan, self.unpack, self.relink):
            said = step()
            assert said.returncode in (0, 1), said.stdout + said.stderr
        return self.check()


def document(said: subprocess.CompletedProcess[str]) -> Any:
    """What a command said with --json."""
    return json.loads(said.stdout)
