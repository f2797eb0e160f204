"""A small move: a handful of sounds with one of each difficulty, taken through each step by the real code."""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from zesty_crate.check import CheckReport, check
from zesty_crate.crate import Crate, PackReport, Scope, create_crate, open_finished, pack
from zesty_crate.demo import Demo, lay_out
from zesty_crate.demo.content import Sound, sounds
from zesty_crate.guides import load_guides
from zesty_crate.machines import Outside, load_sheet
from zesty_crate.moving import UnpackReport, prepare_unpack, undo, unpack
from zesty_crate.plan import Move, PlanReport, make_plan, open_move
from zesty_crate.relink import RelinkReport, relink
from zesty_crate.survey import SurveyReport

from .outside import outside as real_outside

_WANTED = ("Lamp Lit", "Rain 80% Softer", "Owl Hoot", "Geese, bars 1-8", "Cuille\u0300re", "Try this bell")


def few_sounds() -> list[Sound]:
    """One record of each difficulty, those without a file among them."""
    return [each for each in sounds() if not each.on_disk or each.on_disk.removesuffix(".wav") in _WANTED]


class SmallMove:
    """The demo with few sounds, and the steps of a move as single calls."""

    def __init__(self, root: Path, rows: list[Sound] | None = None) -> None:
        self.demo: Demo = lay_out(root, few_sounds() if rows is None else rows)
        self.crate = Crate(self.demo.carrier / "crate")

    @classmethod
    def at(cls, root: Path) -> SmallMove:
        """A small move that is laid out already (a copy of another one)."""
        move = cls.__new__(cls)
        move.demo = Demo(root)
        move.crate = Crate(move.demo.carrier / "crate")
        return move

    @property
    def old_disks(self) -> Path:
        return self.demo.old_sheet.parent / "disks"

    @property
    def new_disks(self) -> Path:
        return self.demo.new_sheet.parent / "disks"

    @property
    def new_catalog(self) -> Path:
        return self.new_disks / "system/Users/odile.k/Library/Application Support/Wimblethorn/shelf.db"

    def survey(self, outside: Outside | None = None) -> SurveyReport:
        outside = outside or real_outside()
        sheet = load_sheet(self.demo.old_sheet, outside.disk)
        return create_crate(self.crate, sheet, load_guides([self.demo.guides], outside.disk), outside)

    def pack(self, outside: Outside | None = None) -> PackReport:
        return pack(self.crate, Scope(outside=True), outside or real_outside())

    @contextmanager
    def opened(self, outside: Outside | None = None) -> Iterator[Move]:
        outside = outside or real_outside()
        sheet = load_sheet(self.demo.new_sheet, outside.disk)
        move = open_move(open_finished(self.crate.root, outside.disk), sheet, outside)
        try:
            yield move
        finally:
            move.survey.close()

    def plan(self) -> PlanReport:
        with self.opened() as move:
            return make_plan(move)

    def unpack(self, outside: Outside | None = None) -> UnpackReport:
        with self.opened(outside) as move:
            return unpack(move, prepare_unpack(move))

    def relink(self, outside: Outside | None = None) -> RelinkReport:
        with self.opened(outside) as move:
            return relink(move)

    def check(self) -> CheckReport:
        with self.opened() as move:
            return check(move)

    def undo(self, outside: Outside | None = None) -> None:
        with self.opened(outside) as move:
            undo(move)

    def up_to_plan(self) -> SmallMove:
        self.survey()
        self.pack()
        self.plan()
        return self


def picture(folder: Path, *, dates: bool = True) -> dict[str, tuple[object, ...]]:
    """Everything below a folder: kind, permissions, date and digest of each file, by name."""
    seen: dict[str, tuple[object, ...]] = {}
    for path in sorted(folder.rglob("*")):
        facts = path.lstat()
        name = path.relative_to(folder).as_posix()
        if path.is_symlink():
            seen[name] = ("link", str(path.readlink()))
        elif path.is_dir():
            seen[name] = ("folder", facts.st_mode)
        else:
            digest = hashlib.sha512(path.read_bytes()).hexdigest()
            date = facts.st_mtime_ns if dates and path.suffix != ".db" else 0
            seen[name] = ("file", facts.st_mode, date, digest)
    return seen


_SHELVES = """WITH RECURSIVE whole(id, path) AS (
    SELECT shelf_id, label FROM shelf WHERE within IS NULL
    UNION ALL SELECT s.shelf_id, whole.path || '/' || s.label FROM shelf AS s JOIN whole ON s.within = whole.id)
SELECT coalesce(whole.path || '/', '') || s.file FROM sound AS s LEFT JOIN whole ON whole.id = s.shelf_id ORDER BY 1"""


def shelf_paths(catalog: Path) -> list[str]:
    """What the demo's sound catalog records, put together by SQLite: a volume, folders and a name."""
    with closing(sqlite3.connect(catalog)) as database:
        return [path for (path,) in database.execute(_SHELVES)]
