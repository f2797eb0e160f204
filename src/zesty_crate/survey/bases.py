"""The folders from which the paths of a catalog start, where a setting of another document names them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from contextlib import closing
from dataclasses import replace
from pathlib import Path

from ..catalogs import CatalogError, syntax_of
from ..guides import Holding
from ..machines import Computer, Disk
from ..paths import MachinePath, PathError, read_path
from .documents import FoundDocument


def based(holdings: Iterable[Holding], bases: Mapping[str, str], computer: Computer) -> list[Holding]:
    """The same holdings, whose catalogs know where their paths start; ``bases`` are by the ids of holdings."""
    return [
        replace(each, part=each.part.based_on(computer.parse(bases[each.id]))) if each.id in bases else each
        for each in holdings
    ]


def bases_of(
    holdings: Iterable[Holding], documents: Sequence[FoundDocument], computer: Computer, disk: Disk, scratch: Path
) -> tuple[dict[str, str], dict[str, CatalogError]]:
    """The folders that settings name, by the ids of holdings; and why not, for those of which they are not known."""
    bases, baseless = dict[str, str](), dict[str, CatalogError]()
    for each in holdings:
        if each.part.relative_to.holding:
            try:
                bases[each.id] = str(_named_base(each, documents, computer, disk, scratch))
            except CatalogError as error:
                baseless[each.id] = error
    return bases, baseless


def _named_base(
    holding: Holding, documents: Sequence[FoundDocument], computer: Computer, disk: Disk, scratch: Path
) -> MachinePath:
    """The folder that a setting names. Raises `CatalogError` where no document has that setting, or several differ."""
    setting = holding.part.relative_to
    of = f"{holding.guide.id}/{setting.holding}"
    found: dict[str, MachinePath] = {}
    for each in (document for document in documents if document.holding.id == of):
        if each.seen.real is None:
            continue
        part = each.holding.part
        with closing(syntax_of(part).open(each.seen.real, part, each.seen.path, disk, scratch)) as catalog:
            for entry in catalog.entries():
                if entry.remote or (setting.key and entry.key != setting.key):
                    continue
                try:
                    read = read_path(entry.recorded, computer.system, entry.spelling, entry.base, computer.variables)
                except PathError:
                    continue
                found[computer.key(read.path)] = read.path
    if len(found) != 1:
        told = " and ".join(str(each) for each in found.values()) or "no folder"
        raise CatalogError(
            f"Its paths start from a folder that {setting.key or setting.holding} names, which says {told}.",
            next_step=f"Look at the documents of {of}, and at relative-to in the guide.",
        )
    return next(iter(found.values()))
