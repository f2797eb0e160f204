"""The versions of programs that guides describe, among all that is installed."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ..documents import Line, table_text
from ..machines import Finder, Installed, Outside, Sheet, computer_of, installed_in_registry, installed_on
from .guide import Guide


def program_versions(guides: Sequence[Guide], installed: Iterable[Installed]) -> dict[str, str]:
    """The version of each program, by the id of its guide, where one and no other is installed under its name.

    A program is known by its title, which a version may follow, and by the names of its processes.
    """
    everything = [(frozenset(map(_plain, each.names)), each) for each in installed]
    versions = {}
    for guide in guides:
        if guide.part.program is None:
            continue
        wanted = {_plain(guide.title), *map(_plain, guide.part.program.processes)}
        found = {each.version for names, each in everything if _is_one_of(names, wanted, each.version)}
        if len(found) == 1:
            versions[guide.id] = found.pop()
    return versions


def _is_one_of(names: frozenset[str], wanted: set[str], version: str) -> bool:
    with_version = {_plain(f"{each} {version}") for each in wanted}
    return not names.isdisjoint(wanted | with_version)


def _plain(name: str) -> str:
    return name.casefold().removesuffix(".exe").strip()


def program_tables(sheet: Sheet, guides: Sequence[Guide], outside: Outside) -> str:
    """The tables ``[programs.ID]`` of a new sheet, with the versions that the system of its computer tells."""
    computer = computer_of(sheet)
    home = Finder(computer, outside.disk).find(computer.place("home")).real
    volume = computer.volume_of(computer.place("programs"))
    system_disk = volume.mount if volume is not None else None
    if sheet.is_here and outside.registry is not None:
        installed = list(installed_in_registry(outside.registry))
    elif system_disk is not None:
        installed = list(installed_on(sheet.system, system_disk, home, outside.disk))
    else:
        installed = []
    versions = program_versions(guides, installed)
    return "\n".join(table_text(f"programs.{name}", [Line("version", text)]) for name, text in versions.items())
