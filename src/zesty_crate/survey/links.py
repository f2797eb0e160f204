"""Links that lead out of what is carried, and content that no registration knows."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ..guides import Holding
from ..machines import Computer, Finder
from ..machines.texts import restored, stored
from .judge import Judge
from .rows import new_file
from .store import SurveyStore


def leaving_links(
    store: SurveyStore, computer: Computer, finder: Finder, judge: Judge
) -> Iterator[tuple[str, str, str, str]]:
    """Each link whose target is in no holding: its holding, where it is, where it leads, and the key of that.

    A file to which one leads is noted as outside media, so that it can be carried if that is asked for.
    """
    for row in [*store.files("kind = 'link' AND role = 'own'")]:
        target = finder.follow(finder.find(computer.parse(row.path)))
        if target.facts is not None and judge.owns(target.path):
            continue
        key = computer.key(target.path)
        yield row.holding, row.path, row.facts.target, key
        is_known = store.count("SELECT EXISTS (SELECT 1 FROM file WHERE key = ?)", (stored(key),))
        if target.facts is not None and target.facts.is_file and not is_known:
            store.add_file(new_file(row.holding, "outside", str(target.path), key, target.facts))
            store.flush()


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
