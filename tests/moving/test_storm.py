"""A storm: every command of two moves is killed at a drawn change, goes on, and comes to what it does unbroken.

Then all is taken back. The worlds are drawn: links, hard links, parts, second copies, registries, work on both sides.
``ZESTY_STORM`` says how many commands are to be killed; ``make faults`` has it kill a thousand.
"""

from __future__ import annotations

import os
import random
import shutil
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pytest

from conftest import Zesty
from support.moves import picture
from support.trip import HEAD, LINES, OLD, SQLITE, XML, Trip
from truth.test_registries import BRANCH, export

KILLS = int(os.environ.get("ZESTY_STORM", "6"))
KILLED = -9
REGISTERED = """[[holding]]
id = "packs"
kind = "content-pack"
at = "{documents}/Lamps"
[[holding]]
id = "registered"
kind = "registrations"
branch = 'HKEY_CURRENT_USER\\Software\\Lamps'
syntax = "reg"
registers = ["packs"]
[[holding.entries]]
each = '.*\\\\(?P<name>[^\\\\]+)'
path = [{ at = "Folder" }]
spelling = "native"
"""
NEW_WINDOWS = OLD.replace('"loft"', '"shed"').replace('"Odile"', '"odile"')
WITH_REGISTRY = '[windows-registry]\nfile = "{}.reg"\n'


@dataclass
class World:
    """One drawn world, always the same for a number, and the commands of two moves in it."""

    number: int
    trip: Trip
    chance: random.Random = field(init=False)

    def __post_init__(self) -> None:
        self.chance = random.Random(self.number)
        self._has_registry = self.chance.random() < 0.5
        self._parts = ("--part-size", "700kB") if self.chance.random() < 0.5 else ()
        self._has_second = self.chance.random() < 0.5
        self._lay_out()

    def _lay_out(self) -> None:
        trip, chance = self.trip, self.chance
        guide = HEAD + chance.choice((SQLITE, XML, LINES))
        if self._has_registry:
            trip.old.write_text(OLD + WITH_REGISTRY.format("loft"))
            trip.new.write_text(NEW_WINDOWS + WITH_REGISTRY.format("shed"))
            (trip.root / "loft.reg").write_bytes(
                export((f"{BRANCH}\\Marsh", {"Folder": "C:\\Users\\Odile\\Documents\\Lamps\\Marsh"}))
            )
            (trip.root / "shed.reg").write_bytes(export(("HKEY_CURRENT_USER\\Software\\Other", {"a": "b"})))
            guide += REGISTERED
            for folder in (trip.home / "Documents/Lamps/Marsh", trip.root / "shed/Users/odile"):
                folder.mkdir(parents=True, exist_ok=True)
            (trip.home / "Documents/Lamps/Marsh/fog.dat").write_bytes(b"fog")
        trip.guide(guide)
        library = trip.home / "Music/Lamps"
        for number in range(chance.randint(3, 9)):
            self._sound(f"{number}.wav")
        if chance.random() < 0.5:
            os.link(library / "0.wav", library / "twin.wav")
        if chance.random() < 0.5:
            (trip.root / "loft/Store").mkdir()
            library.rename(trip.root / "loft/Store/Lamps")
            library.symlink_to("../../../Store/Lamps", target_is_directory=True)
        self._catalog()
        if chance.random() < 0.5:  # there is work on the new computer, too
            there = self.new_home / "Music/Lamps"
            there.mkdir(parents=True)
            (there / "own.wav").write_bytes(b"own")
            (there / "1.wav").write_bytes(b"another")

    @property
    def new_home(self) -> Path:
        return self.trip.new_home

    def _sound(self, name: str) -> None:
        content = self.chance.randbytes(self.chance.choice((10, 2_000, 150_000)))
        (self.trip.home / "Music/Lamps" / name).write_bytes(content)

    def _catalog(self) -> None:
        trip = self.trip
        names = sorted(each.name for each in (trip.home / "Music/Lamps").iterdir())
        paths = [f"C:\\Users\\Odile\\Music\\Lamps\\{name}" for name in [*names, "gone.wav"]]
        folder = trip.home / "AppData/Roaming/Lamps"
        guide = (trip.guides / "lamps.toml").read_text()
        if "scenes.db" in guide:
            (folder / "scenes.db").unlink(missing_ok=True)
            trip.database(paths)
        elif "scenes.xml" in guide:
            rows = "".join(f'<sound path="{path}"/>\n' for path in paths)
            (folder / "scenes.xml").write_text(f"<scenes>\n{rows}</scenes>\n", encoding="utf-8")
        else:
            (folder / "scenes.txt").write_text("".join(f"sound={path}\n" for path in paths), encoding="utf-8")

    def work_on(self) -> None:
        """A week goes by on the old computer."""
        chance = random.Random(-self.number)
        self._sound("new.wav")
        if chance.random() < 0.5:
            self._sound("2.wav")
        self._catalog()

    def commands(self, crate: Path, more: tuple[str | Path, ...] = ()) -> list[tuple[str | Path, ...]]:
        trip = self.trip
        to = ("--to", trip.new)
        second: tuple[str | Path, ...] = ()
        if self._has_second:
            (trip.root / "second").mkdir(exist_ok=True)
            second = ("--second-copy", trip.root / "second")
        return [
            ("survey", crate, "--from", trip.old, "--guides", trip.guides),
            ("pack", crate, "--outside", *self._parts, *second, *more),
            ("plan", crate, *to, "--decide", "bring-in"),
            ("unpack", crate, *to, "--yes"),
            ("relink", crate, *to, "--yes"),
            ("check", crate, *to),
        ]

    def undone(self, crate: Path) -> tuple[str | Path, ...]:
        return ("undo", crate, "--to", self.trip.new, "--yes")

    def seen(self) -> dict[str, Any]:
        """All that is on the new computer."""
        registry = self.trip.root / "shed.reg"
        return {
            **picture(self.trip.root / "shed", dates=False),
            "registry": registry.exists() and registry.read_bytes(),
        }


def lived(world: World, run: Callable[..., None]) -> list[dict[str, Any]]:
    """Two moves, and both undone: what the new computer was like after each."""
    crates = [world.trip.root / "carrier" / name for name in ("first", "second trip")]
    crates[0].parent.mkdir()
    seen = [world.seen()]
    for crate, more in zip(crates, ((), ("--since", crates[0])), strict=True):
        for command in world.commands(crate, more):
            run(*command)
        seen.append(world.seen())
        world.work_on()
    for crate in reversed(crates):
        run(*world.undone(crate))
        seen.append(world.seen())
    return seen


def laid_out(number: int, root: Path, zesty: Zesty) -> World:
    shutil.rmtree(root, ignore_errors=True)
    root.mkdir()
    return World(number, Trip(root, zesty))


@pytest.mark.skipif(not hasattr(os, "fork"), reason="a process is forked to be killed")
def test_killed_anywhere_two_moves_come_to_the_same(tmp_path: Path, zesty: Zesty) -> None:
    killed = number = 0
    while killed < KILLS:
        number += 1
        killed += one_storm(number, tmp_path, zesty)


def one_storm(number: int, tmp_path: Path, zesty: Zesty) -> int:
    """One world, once unbroken and once with kills; how many there were."""
    chance, kills = random.Random(1000 + number), 0

    def unbroken(*command: str | Path) -> None:
        said = zesty(*command)
        assert said.returncode in (0, 1), f"world {number}, {command}: {said.stdout}{said.stderr}"

    def with_kills(*command: str | Path) -> None:
        nonlocal kills
        while chance.random() < 0.7:
            said = zesty(*command, kill_at=int(2 ** chance.uniform(0, 7)))
            kills += said.returncode == KILLED
            if said.returncode != KILLED:
                break
        said = zesty(*command)
        is_over = "already" in said.stderr or "nothing to undo" in said.stderr
        done = said.returncode in (0, 1) or (said.returncode == 3 and is_over)
        assert done, f"world {number}, {command}: {said.stdout}{said.stderr}"

    root = tmp_path / "world"  # the same place both times, since paths are in what is written
    expected = lived(laid_out(number, root, zesty), unbroken)
    assert expected[-1] == expected[0]
    found = lived(laid_out(number, root, zesty), with_kills)
    for step, (one, other) in enumerate(zip(expected, found, strict=True)):
        assert other == one, f"world {number}, after step {step}"
    return kills
