"""Two computers, Linux and Windows, with media that no program calls its own; and the whole move between them."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from zesty_crate.check import CheckReport, check
from zesty_crate.crate import Crate, Scope, create_crate, open_finished, pack
from zesty_crate.guides import load_guides, shipped_guides
from zesty_crate.machines import load_sheet
from zesty_crate.moving import prepare_unpack, undo, unpack
from zesty_crate.plan import Move, make_plan, open_move
from zesty_crate.relink import relink
from zesty_crate.survey import SurveyReport

from .outside import outside

OLD = """[computer]
name = "barn"
system = "linux"
user = "odile"
[[volume]]
anchor = "/"
mount = "old/root"
[[volume]]
anchor = "/mnt/spools"
mount = "old/spools"
label = "Spools"
"""
NEW = """[computer]
name = "cart"
system = "windows"
user = "Odile"
[[volume]]
anchor = "C:"
mount = "new/c"
[[volume]]
anchor = "E:"
mount = "new/e"
label = "Spools"
"""
HOME, SPOOLS = "old/root/home/odile", "old/spools"
NEW_HOME, NEW_SPOOLS = "new/c/Users/Odile", "new/e"
MEDIA = (f"{HOME}/Music/Rain & Wind/drip.wav", f"{HOME}/Music/For\u00eat 100%.wav", f"{SPOOLS}/Moth's Wing.png")


class Barn:
    """Two computers, and media that no program calls its own."""

    def __init__(self, root: Path) -> None:
        self.root = root
        for number, name in enumerate(MEDIA):
            self.write(name, f"media {number}")
        for folder in ("Music", "Documents"):
            (root / NEW_HOME / folder).mkdir(parents=True)
        (root / NEW_SPOOLS).mkdir()
        self.write("old.toml", OLD)
        self.write("new.toml", NEW)

    def write(self, name: str, content: str, encoding: str = "utf-8") -> Path:
        path = self.root / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content.encode(encoding))
        return path

    def packed(self, name: str = "crate", *folders: Path) -> SurveyReport:
        """Take stock and fill a crate of this name, with the guides in more ``folders``; the survey."""
        world, crate = outside(), Crate(self.root / name)
        guides = [*load_guides(folders, world.disk), *shipped_guides()]
        survey = create_crate(crate, load_sheet(self.root / "old.toml", world.disk), guides, world)
        pack(crate, Scope(outside=True), world)
        return survey

    @contextmanager
    def opened(self, name: str = "crate") -> Iterator[Move]:
        """The move of a crate that was packed."""
        world = outside()
        sheet = load_sheet(self.root / "new.toml", world.disk)
        move = open_move(open_finished(self.root / name, world.disk), sheet, world)
        try:
            yield move
        finally:
            move.survey.close()

    def move(self) -> tuple[SurveyReport, CheckReport]:
        """The whole move; the survey before and the check after."""
        survey = self.packed()
        with self.opened() as move:
            assert make_plan(move).blockers == ()
            unpack(move, prepare_unpack(move))
            relink(move)
            report = check(move)
            assert all(catalog.already or not catalog.cells for catalog in relink(move).catalogs)
            before = {path for path in (self.root / "new").rglob("*") if path.is_file()}
            undo(move)
            assert before
            assert not any(path.exists() for path in before)
            unpack(move, prepare_unpack(move))
            relink(move)
        return survey, report
