"""Libraries, routes, letters and late drives drawn at random: no entry ever leads elsewhere than is said."""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path, PureWindowsPath
from typing import Any

import pytest
from hypothesis import HealthCheck, event, given, settings
from hypothesis import strategies as st
from lxml import etree

import zesty_crate as zesty
from support.trip import HEAD
from zesty_crate.crate import Scope
from zesty_crate.errors import ZestyError
from zesty_crate.guides import load_guides
from zesty_crate.machines import Disk

WHOLE = """at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [{ at = "path" }]
spelling = "native"
"""
SPLIT = """at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [
  { table = "drawer", via = "drawer", column = "base"MORE },
  { table = "tray", via = "tray", column = "rel" },
  { column = "leaf" },
]
spelling = "native"
"""
XML = """at = "{app-data}/Lamps/scenes.xml"
syntax = "xml"
[[holding.entries]]
each = "//sound"
key = "@id"
path = [{ at = "@path" }]
spelling = "native"
"""
JSON = """at = "{app-data}/Lamps/scenes.json"
syntax = "json"
[[holding.entries]]
each = "$.sounds[*]"
key = "id"
path = [{ at = "base" }, { at = "rest" }]
spelling = "native"
"""
FORMS = {"whole": WHOLE, "split": SPLIT.replace("MORE", ""), "split-add": SPLIT.replace("MORE", ", may-add = true")}
FORMS |= {"xml": XML, "json": JSON}
NAMES = st.sampled_from(["Rain", "Owls", "rain 2", "Bell"])
FOLDERS = st.lists(NAMES, min_size=1, max_size=3).map(tuple)


@dataclass(frozen=True)
class World:
    """What is drawn. Files are by drive and folders; each drive of the old computer has its letter on the new one."""

    form: str
    files: tuple[tuple[str, tuple[str, ...]], ...]
    letters: dict[str, str]
    routes: tuple[tuple[str, tuple[str, ...], str, tuple[str, ...]], ...]
    later: tuple[tuple[str, tuple[str, ...], str, tuple[str, ...]], ...]
    is_mac: bool
    cut: int  # how many folders the outermost piece has


@st.composite
def worlds(draw: st.DrawFn) -> World:
    """Drives C:, D: and K:; K: is found only after everything was relinked."""
    files = draw(st.lists(st.tuples(st.sampled_from("CDK"), FOLDERS), min_size=1, max_size=8))
    is_mac = draw(st.booleans())
    letters = draw(st.permutations("DEK")) if not is_mac else ["/Volumes/D", "/Volumes/New", "/Volumes/K 1"]
    places = st.sampled_from([*dict(files), "D"]) if files else st.just("C")
    route = st.tuples(places, FOLDERS, st.sampled_from(["C", letters[0]]), FOLDERS)
    routes, later = (draw(st.lists(route, max_size=2, unique_by=lambda each: each[:2])) for _ in range(2))
    known = {"C": "C" if not is_mac else "", "D": letters[0], "K": letters[1]}
    form = draw(st.sampled_from(sorted(FORMS)))
    return World(form, tuple(files), known, tuple(routes), tuple(later), is_mac, draw(st.integers(0, 2)))


class Stage:
    """A drawn world on the disk, and what entries of its catalog lead to by an independent reading."""

    def __init__(self, root: Path, world: World) -> None:
        shutil.rmtree(root, ignore_errors=True)
        self.root, self.world = root, world
        self.home = root / "old/C/Users/Odile"
        self.catalog = self.home / "AppData/Roaming/Lamps"
        for each in (self.catalog, root / "guides", root / "new/C", root / "new/D", root / "new/K"):
            each.mkdir(parents=True)
        (root / "guides/lamps.toml").write_text(HEAD + FORMS[world.form])
        self.paths = []
        for number, (drive, folders) in enumerate(world.files):
            file = root / "old" / drive / Path(*folders) / f"{number}.wav"
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_text(str(number))
            self.paths.append(f"{drive}:\\" + "\\".join([*folders, f"{number}.wav"]))
        if (root / "old/K").exists():
            (root / "old/K").rename(root / "K, in a drawer")
        self._write_catalog()
        self._write_sheets(with_late=False)

    def _write_sheets(self, *, with_late: bool) -> None:
        volume = '[[volume]]\nanchor = "{}"\nmount = "{}"\nlabel = "{}"\n'
        head = '[computer]\nname = "{}"\nsystem = "{}"\nuser = "Odile"\n'
        old = [volume.format(f"{each}:", f"old/{each}", each) for each in "CD"]
        (self.root / "old/D").mkdir(exist_ok=True)
        old.append('[[volume]]\nanchor = "K:"\nlabel = "K"\n')
        (self.root / "old.toml").write_text(head.format("loft", "windows") + "".join(old))
        letters = self.world.letters
        colon = "" if self.world.is_mac else ":"
        new = [volume.format("/" if self.world.is_mac else "C:", "new/C", "C")]
        new.append(volume.format(letters["D"] + colon, "new/D", "D"))
        if with_late:
            new.append(volume.format(letters["K"] + colon, "K, in a drawer", "K"))
            (self.root / "K, in a drawer").mkdir(exist_ok=True)
        system = "macos" if self.world.is_mac else "windows"
        (self.root / "new.toml").write_text(head.format("shed", system) + "".join(new))

    def _pieces(self, path: str) -> tuple[str, str, str]:
        """A path in three pieces: some folders with the drive, others, and the name."""
        drive, *folders, leaf = path.split("\\")
        cut = min(self.world.cut, len(folders))
        return "\\".join([drive, *folders[:cut]]) + "\\", "".join(f"{e}\\" for e in folders[cut:]), leaf

    def _write_catalog(self) -> None:
        rows = [(number, path, *self._pieces(path)) for number, path in enumerate(self.paths)]
        if self.world.form == "xml":
            top = etree.Element("s")
            for number, path, *_ in rows:
                etree.SubElement(top, "sound", id=str(number), path=path)
            (self.catalog / "scenes.xml").write_bytes(etree.tostring(top))
            return
        if self.world.form == "json":
            sounds = [{"id": str(n), "base": base, "rest": rel + leaf} for n, _, base, rel, leaf in rows]
            (self.catalog / "scenes.json").write_text(json.dumps({"sounds": sounds}))
            return
        with closing(sqlite3.connect(self.catalog / "scenes.db")) as database:
            database.execute("CREATE TABLE drawer (drawer_id INTEGER PRIMARY KEY, base UNIQUE)")
            database.execute("CREATE TABLE tray (tray_id INTEGER PRIMARY KEY, rel UNIQUE)")
            database.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, path, drawer, tray, leaf)")
            for number, path, base, rel, leaf in rows:
                database.execute("INSERT OR IGNORE INTO drawer (base) VALUES (?)", (base,))
                database.execute("INSERT OR IGNORE INTO tray (rel) VALUES (?)", (rel,))
                query = (
                    "INSERT INTO sound SELECT ?, ?, drawer_id, tray_id, ? FROM drawer, tray WHERE base = ? AND rel = ?"
                )
                database.execute(query, (number, path if self.world.form == "whole" else None, leaf, base, rel))
            database.commit()

    def recorded(self) -> dict[int, str]:
        """What the new computer's catalog says, read by others than us."""
        below = "Library/Application Support/Lamps" if self.world.is_mac else "AppData/Roaming/Lamps"
        folder = self.root / "new/C/Users/Odile" / below
        if self.world.form == "xml":
            sounds = etree.parse(folder / "scenes.xml").iter("sound")
            return {int(each.get("id", "")): each.get("path", "") for each in sounds}
        if self.world.form == "json":
            told: list[dict[str, Any]] = json.loads((folder / "scenes.json").read_text())["sounds"]
            return {int(each["id"]): each["base"] + each["rest"] for each in told}
        column = "path" if self.world.form == "whole" else "base || rel || leaf"
        tables = "sound JOIN drawer ON drawer_id = drawer JOIN tray ON tray_id = tray"
        with closing(sqlite3.connect(folder / "scenes.db")) as database:
            return dict(database.execute(f"SELECT id, {column} FROM {tables}"))

    def content_at(self, text: str, *, with_late: bool) -> str | None:
        """What the new computer has at a path; None where there is nothing."""
        letters, mounts = self.world.letters, {"D": "new/D", "K": "K, in a drawer"}
        places = {letters[each]: mount for each, mount in mounts.items() if each == "D" or with_late}
        if self.world.is_mac:
            anchor = next((each for each in places if text.startswith(each + "/")), "")
            real = self.root / places.get(anchor, "new/C") / text[len(anchor) :].lstrip("/")
            return real.read_text() if text.startswith("/") and real.is_file() else None
        path = PureWindowsPath(text)
        mount = {"C": "new/C", **places}.get(path.drive.rstrip(":"))
        at = self.root / (mount or "nowhere")
        for name in path.parts[1:]:  # as Windows does, without case
            found = next(
                (each for each in (at.iterdir() if at.is_dir() else ()) if each.name.lower() == name.lower()), None
            )
            if found is None:
                return None
            at = found
        return at.read_text() if at.is_file() else None


WORLDS = 500 if "ZESTY_KILLS" in os.environ else 6  # `make faults` draws more


@settings(max_examples=WORLDS, deadline=None, suppress_health_check=list(HealthCheck))
@given(worlds())
def test_no_entry_leads_elsewhere(tmp_path_factory: pytest.TempPathFactory, world: World) -> None:
    root = tmp_path_factory.getbasetemp() / "drawn"
    stage = Stage(root, world)
    crate, guides = root / "crate", load_guides([root / "guides"], Disk())
    zesty.take_survey(crate, zesty.load_sheet(root / "old.toml"), guides, duplicates=False)
    zesty.pack(crate, Scope(outside=True))
    arrived(stage, crate, world.routes, with_late=False)
    stage._write_sheets(with_late=True)
    arrived(stage, crate, world.later, with_late=True)


def world_of(stage: Stage) -> str:
    return f"{stage.world.form}, {'mac' if stage.world.is_mac else 'windows'}"


def arrived(stage: Stage, crate: Path, routes: tuple[Any, ...], *, with_late: bool) -> None:
    """From a plan with these routes to the check; what each entry leads to is as the check says."""
    new = zesty.load_sheet(stage.root / "new.toml")
    texts = [_route(stage.world, *each) for each in routes]
    try:
        plan = zesty.make_plan(crate, new, routes=texts, leave_entries=True)
    except ZestyError:
        event("routes that contradict each other")
        return
    if plan.blockers:
        event(f"blocked: {plan.blockers[0].what[:60]}")
        return
    event(f"moved with {len(routes)} routes, {world_of(stage)}")
    try:
        zesty.unpack(crate, new)
    except ZestyError as error:
        assert "appeared" not in error.message, error
        return
    zesty.relink_catalogs(crate, new)
    report = zesty.check_move(crate, new)
    astray = {int(each.entry) for each in report.problems if each.entry}
    for number, text in stage.recorded().items():
        there = stage.content_at(text, with_late=with_late)
        assert there in (None, str(number)), (stage.world, number, text, there)
        assert (there is None) == (number in astray), (stage.world, number, text, there, report.problems)


def _route(world: World, drive: str, folders: tuple[str, ...], new: str, there: tuple[str, ...]) -> str:
    old = f"{drive}:\\" + "\\".join(folders)
    if world.is_mac:
        return f"{old}={'' if new == 'C' else new}/{'/'.join(there)}"
    return f"{old}={new}:\\" + "\\".join(there)
