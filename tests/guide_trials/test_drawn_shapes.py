"""Catalogs of drawn shapes go to a computer of each system and back, and an independent reader agrees."""

from __future__ import annotations

import os
import shutil
import tempfile
from pathlib import Path

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from guide_trials.shapes import FOLDERS, Made, catalogs
from zesty_crate.catalogs import CatalogError
from zesty_crate.guide_trials.invented import Routed
from zesty_crate.guides import HoldingPart
from zesty_crate.machines import Computer, Disk, Volume
from zesty_crate.paths import FORMATS, USUAL_FORMAT, MachinePath, Route, Spelling, System, read_path
from zesty_crate.split_paths import CarriedCatalog, relinked_copy

LABELS = {"first": "Loft", "second": "Spools & Co"}
ROOTS = {
    System.WINDOWS: {"first": "C:", "second": "E:"},
    System.MACOS: {"first": "/", "second": "/Volumes/Spools & Co"},
    System.LINUX: {"first": "/", "second": "/media/odile/Spools & Co"},
}
NEW_ROOTS = {
    System.WINDOWS: {"first": "C:", "second": "H:"},
    System.MACOS: {"first": "/", "second": "/Volumes/Spools & Co"},
    System.LINUX: {"first": "/", "second": "/mnt/spools"},
}
LAMPS = tuple(FOLDERS[0].split("/"))
PLACES = ["Lamps", "Users/odile.k/Music/Lamps", "Archive/Sounds/of the theatre/2026/Lamps"]
EXAMPLES = int(os.environ.get("ZESTY_SHAPES", "25"))
SYSTEMS = st.sampled_from(System)


def computer(name: str, system: System, roots: dict[str, str]) -> Computer:
    volumes = [
        Volume(_path(system, root), FORMATS[USUAL_FORMAT[system]], LABELS[volume], None)
        for volume, root in roots.items()
    ]
    return Computer(name, system, "Odile", volumes, {})


def _path(system: System, text: str) -> MachinePath:
    return read_path(text, system, Spelling.NATIVE).path


@given(st.data(), SYSTEMS, SYSTEMS)
@settings(max_examples=EXAMPLES, suppress_health_check=[HealthCheck.too_slow], deadline=None)
def test_any_shape_goes_there_and_back(data: st.DataObject, old_system: System, new_system: System) -> None:
    made = data.draw(catalogs(old_system, LABELS))
    elsewhere = data.draw(st.none() | st.tuples(st.sampled_from(sorted(LABELS)), st.sampled_from(PLACES)))
    folder = Path(tempfile.mkdtemp())
    try:
        go(folder, made, (old_system, new_system), elsewhere)
    finally:
        shutil.rmtree(folder)


def go(folder: Path, made: Made, systems: tuple[System, System], elsewhere: tuple[str, str] | None) -> None:
    """There and back; with ``elsewhere`` one folder goes to another place, if its catalog can say that."""
    old_system, new_system = systems
    old = computer("old", old_system, ROOTS[old_system])
    new = computer("new", new_system, NEW_ROOTS[new_system])
    routes = [
        Route(_path(old_system, ROOTS[old_system][each]), _path(new_system, NEW_ROOTS[new_system][each]))
        for each in ("first", "second")
    ]
    if elsewhere is not None:
        volume, names = elsewhere
        inner = _path(new_system, whole(new_system, NEW_ROOTS[new_system][volume], tuple(names.split("/"))))
        routes.append(Route(_path(old_system, whole(old_system, ROOTS[old_system]["first"], LAMPS)), inner))
    part = HoldingPart.model_validate(made.shape.guide)
    original = folder / "catalog"
    made.write(original, ROOTS[old_system])
    at, place = (each.expand("{home}").below("c") for each in (old, new))
    there, back = Routed.of_routes(routes, old), Routed.of_routes([Route(r.new, r.old) for r in routes], new)
    for name in ("there", "back"):
        (folder / name).mkdir()
    disk = Disk()
    try:
        went = relinked_copy(CarriedCatalog(part, original, at, place, (old, new)), there, folder / "there", disk)
    except CatalogError as error:
        assert elsewhere is not None and "cannot say" in error.message, error
        assert not made.shape.may_add
        return
    came = relinked_copy(CarriedCatalog(part, went, place, at, (new, old)), back, folder / "back", disk)
    at_home = [whole(old_system, ROOTS[old_system][volume], names) for volume, names in made.files]
    away = [str(there.goes_to(_path(old_system, each))) for each in at_home]
    for path, system, roots, expected in (
        (original, old_system, ROOTS[old_system], at_home),
        (went, new_system, NEW_ROOTS[new_system], away),
        (came, old_system, ROOTS[old_system], at_home),
    ):
        by_label = {LABELS[volume]: root for volume, root in roots.items()}
        assert list(made.read(path, by_label, system)) == list(enumerate(expected, 1))


def whole(system: System, root: str, names: tuple[str, ...]) -> str:
    return system.separator.join([root.rstrip("/"), *names])
