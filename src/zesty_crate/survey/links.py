"""Links that lead out of what is carried, and content that no registration knows."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ..guides import Holding
from ..machines import Computer, Finder
from ..machines.texts import restored
from ..paths import MachinePath, PathError, Spelling, read_path
from .judge import Judge
from .store import SurveyStore


def leaving_links(store: SurveyStore, computer: Computer, judge: Judge) -> Iterator[tuple[str, str, str]]:
    """Each link whose target is in no holding: its holding, where it is, and where it leads."""
    for row in store.files("kind = 'link' AND role = 'own'"):
        target = _target_of(computer.parse(row.path), row.facts.target)
        if target is None or not judge.owns(target):
            yield row.holding, row.path, row.facts.target


def note_unregistered(store: SurveyStore, computer: Computer, finder: Finder, holdings: Sequence[Holding]) -> None:
    """Note the folders of a holding that no registration points to or into."""
    by_id = {(holding.guide.id, holding.part.id): holding for holding in holdings}
    for holding in holdings:
        registered = [by_id.get((holding.guide.id, name)) for name in holding.part.registers]
        tops = [each.at for each in registered if each is not None and each.at is not None]
        if not tops:
            continue
        known = store.database.execute("SELECT path_key FROM entry WHERE holding = ?", (holding.id,))
        keys = {restored(row[0]) for row in known}
        for seen in (seen for top in tops for seen in finder.inside(top)):
            key = computer.key(seen.path)
            folder = seen.facts is not None and seen.facts.kind == "folder"
            if folder and key not in keys and not any(each.startswith(key + "/") for each in keys):
                store.add_unregistered(holding.id, str(seen.path))


def _target_of(link: MachinePath, target: str) -> MachinePath | None:
    try:
        return read_path(target, link.system, Spelling.RELATIVE, link.parent).path
    except PathError:
        return None
