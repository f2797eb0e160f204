"""A working copy of a carried catalog, relinked and proven: as its program would have it on the new computer."""

from __future__ import annotations

from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..catalogs import CatalogError, ChangeList, syntax_of
from ..guides import HoldingPart
from ..machines import Computer, Disk
from ..paths import MachinePath
from .branches import Branches
from .deciding import decided
from .meaning import prove_meaning
from .targets import Destinations, part_there

_EXAMPLES = 3


@dataclass(frozen=True, slots=True)
class CarriedCatalog:
    """A catalog of the old one of two ``computers``: its file, where it was, and its ``place`` on the new one."""

    part: HoldingPart
    file: Path
    at: MachinePath
    place: MachinePath
    computers: tuple[Computer, Computer]


def relinked_copy(
    catalog: CarriedCatalog,
    destinations: Destinations,
    scratch: Path,
    disk: Disk,
    changes: ChangeList | None = None,
    *,
    leave_entries: bool = False,
) -> Path:
    """Write the copy into ``scratch``; its file. What was decided is put into ``changes``.

    Raises `CatalogError` when it cannot say where all entries go.
    """
    part, syntax = catalog.part, syntax_of(catalog.part)
    if changes is None:
        changes = ChangeList(scratch / "changes.db")
    copy, original = scratch / "relinked", scratch / "carried"
    syntax.copy_whole(catalog.file, original, disk)
    with closing(syntax.open(original, part, catalog.at, disk, scratch)) as opened:
        pieces = decided(part, opened, destinations, catalog.computers, catalog.place)
        cells = pieces.write(changes, opened)
    if pieces.inexpressible and not leave_entries:
        few = ", ".join(each.recorded for each in pieces.inexpressible[:_EXAMPLES])
        raise CatalogError(
            f"Entries whose new paths it cannot say: {len(pieces.inexpressible)} ({few}).",
            next_step="Send their whole folder to one place with a route, or leave them with --leave-entries.",
        )
    if cells:
        syntax.rewrite(original, copy, part, changes, disk)
        syntax.prove(original, copy, part, changes, disk)
    else:
        syntax.copy_whole(original, copy, disk)
    if any(len(each.path) > 1 for each in part.entries):
        with (
            closing(syntax.open(original, part, catalog.at, disk, scratch)) as before,
            closing(syntax.open(copy, part_there(part, destinations), catalog.place, disk, scratch)) as after,
        ):
            prove_meaning(Branches(before), Branches(after), pieces, *catalog.computers)
    return copy
