"""Out to the travel computer, work there, back, work here, and out again: drawn histories of work on both sides.

Nothing is lost, there is no conflict but where both changed one value, and merged both ways both hold the same.
"""

from __future__ import annotations

import random
import sqlite3
from pathlib import Path
from typing import Any

import pytest

from conftest import Zesty
from merge.test_merging import GUIDE, fill, rows
from support.outside import STRIDE
from support.trip import NEW, OLD, Trip, document

ROUNDS = 1 if STRIDE > 1 else 40
SHEETS = {
    "loft": OLD,
    "shed": NEW,
}
HOMES = {"loft": "loft/Users/Odile", "shed": "shed/Users/odile"}
CATALOGS = {
    "loft": "AppData/Roaming/Lamps/scenes.db",
    "shed": "Library/Application Support/Lamps/scenes.db",
}
LIBRARIES = {"loft": "C:\\Users\\Odile\\Music\\Lamps\\", "shed": "/Users/odile/Music/Lamps/"}


class Two:
    """Two computers in use, and the work that is done on each."""

    def __init__(self, trip: Trip, zesty: Zesty, seed: int) -> None:
        self.root = trip.root
        self.zesty = zesty
        self.chance = random.Random(seed)
        self.trips = 0
        self.names: dict[str, set[str]] = {"loft": set(), "shed": set()}
        trip.guide(GUIDE)
        for name, text in SHEETS.items():
            (self.root / f"{name}.toml").write_text(text)
            (self.root / HOMES[name] / "Music/Lamps").mkdir(parents=True, exist_ok=True)
            fill(self.catalog(name), LIBRARIES[name], [], {})
        for number in range(4):
            self.add("loft", f"first {number}.wav")

    def catalog(self, name: str) -> Path:
        return self.root / HOMES[name] / CATALOGS[name]

    def execute(self, name: str, statement: str, *values: object) -> None:
        with sqlite3.connect(self.catalog(name)) as database:
            database.execute(statement, values)
        database.close()

    def add(self, name: str, sound: str) -> None:
        """A new sound, with its file."""
        (self.root / HOMES[name] / "Music/Lamps" / sound).write_bytes(sound.encode())
        self.execute(name, "INSERT INTO sound (path, note) VALUES (?, '')", LIBRARIES[name] + sound)
        self.names[name].add(sound)

    def work(self, name: str, side: int) -> None:
        """A week of work: stars are given on one side alone, notes on the other, so that no value changes on both."""
        for _ in range(self.chance.randint(0, 3)):
            self.add(name, f"{name} {self.trips} {self.chance.randrange(10**6)}.wav")
        for (key,) in rows(self.catalog(name), "SELECT id FROM sound"):
            if self.chance.random() < 0.3:
                column, value = (
                    ("stars", self.chance.randint(1, 5)) if side else ("note", f"note {self.chance.random()}")
                )
                self.execute(name, f"UPDATE sound SET {column} = ? WHERE id = ?", value, key)
        if self.chance.random() < 0.6:
            self.execute(name, "INSERT INTO list (title) VALUES (?)", f"list {name} {self.trips}")
        for (group,) in rows(self.catalog(name), "SELECT id FROM list"):
            for (key,) in rows(self.catalog(name), "SELECT id FROM sound"):
                if self.chance.random() < 0.2:
                    place = rows(
                        self.catalog(name), f"SELECT coalesce(max(place), 0) + 1 FROM item WHERE list = {group}"
                    )
                    self.execute(name, "INSERT INTO item VALUES (?, ?, ?)", group, key, place[0][0])

    def go(self, old: str, new: str) -> None:
        """Everything of one computer into the other."""
        self.trips += 1
        crate, to = self.root / f"carrier/trip {self.trips}", ("--to", self.root / f"{new}.toml")
        crate.parent.mkdir(exist_ok=True)
        self.run("survey", crate, "--from", self.root / f"{old}.toml", "--guides", self.root / "guides")
        self.run("pack", crate)
        planned = self.run("plan", crate, *to, "--decide", "merge", "--json")
        for each in document(planned)["conflicts"]:
            assert each["merge"] is None or each["merge"]["conflicts"] == [], each["merge"]["conflicts"]
        for command in ("unpack", "relink"):
            self.run(command, crate, *to, "--yes")
        self.run("check", crate, *to)
        self.names[new] |= self.names[old]

    def run(self, *arguments: str | Path) -> Any:
        said = self.zesty(*arguments)
        assert said.returncode == 0, f"trip {self.trips}: {arguments}: {said.stdout}{said.stderr}"
        return said

    def content(self, name: str) -> dict[str, Any]:
        """What a catalog says, by names alone."""
        at, cut = self.catalog(name), len(LIBRARIES[name])
        sounds = {path[cut:]: (stars, note) for path, stars, note in rows(at, "SELECT path, stars, note FROM sound")}
        members = rows(at, "SELECT title, path FROM item JOIN list ON list.id = list JOIN sound ON sound.id = sound")
        return {
            "sounds": sounds,
            "lists": sorted(title for (title,) in rows(at, "SELECT title FROM list")),
            "members": sorted((title, path[cut:]) for title, path in members),
        }


@pytest.mark.parametrize("seed", range(ROUNDS))
def test_work_on_two_computers_is_merged_in_turn(tmp_path: Path, zesty: Zesty, seed: int) -> None:
    two = Two(Trip(tmp_path, zesty), zesty, seed)
    for _ in range(3):
        two.work("loft", 1)
        two.work("shed", 0)
        before = {name: two.content(name) for name in HOMES}
        two.go("loft", "shed")
        two.go("shed", "loft")
        assert two.content("loft") == two.content("shed")
        assert set(two.content("loft")["sounds"]) == two.names["loft"]
        for content in before.values():
            for sound, (stars, note) in content["sounds"].items():
                now = two.content("loft")["sounds"][sound]
                assert stars in (None, now[0]) or stars != before["loft"]["sounds"].get(sound, (0,))[0]
                assert note in ("", None, now[1]) or note != before["shed"]["sounds"].get(sound, (0, 0))[1]
            assert set(content["members"]) <= set(two.content("loft")["members"])
