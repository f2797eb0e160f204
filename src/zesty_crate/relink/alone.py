"""Relink the catalogs of one computer with no crate: find where files went, keep the originals, write, prove."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ..errors import ZestyError
from ..machines import Computer, Finder
from ..machines.texts import restored
from ..paths import Folding, MachinePath, PathError, name_key
from ..progress import Progress, Tell, silent
from ..survey import State, SurveyStore
from .evidence import Displaced, Evidence, Searcher

_TELL_EVERY = 2_000
_MISSING = "SELECT path, size FROM entry WHERE state = ? AND path <> '' ORDER BY rowid"


def find_routes(
    store: SurveyStore, computer: Computer, finder: Finder, look_in: Sequence[str], tell: Tell = silent
) -> Evidence:
    """Look in folders of a computer for the files of entries that the survey found to be missing.

    Raises `ZestyError` when one of the folders is not there.
    """
    searcher = Searcher(_displaced(store, computer), lambda name: name_key(name, Folding.CANONICAL_CASELESS))
    seen = 0
    for top in _tops(computer, finder, look_in):
        for each in finder.walk(top):
            if each.facts is not None:
                searcher.see(each.path, each.facts.size_bytes if each.facts.is_file else None)
            seen += 1
            if seen % _TELL_EVERY == 0:
                tell(Progress("looking for files", seen))
    return searcher.search()


def catalogs_concerned(store: SurveyStore, computer: Computer, evidence: Evidence) -> tuple[str, ...]:
    """The holdings whose catalogs have entries that the evidence explains."""
    keys = {computer.key(path) for path in evidence.explained}
    query = "SELECT DISTINCT holding, path_key FROM entry WHERE state = ? AND path <> ''"
    rows = store.database.execute(query, (State.MISSING_BEFORE,))
    return tuple(sorted({holding for holding, key in rows if restored(key) in keys}))


def _displaced(store: SurveyStore, computer: Computer) -> Iterator[Displaced]:
    for path, size in store.database.execute(_MISSING, (State.MISSING_BEFORE,)):
        yield Displaced(computer.parse(restored(path)), size)


def _tops(computer: Computer, finder: Finder, look_in: Sequence[str]) -> Iterator[MachinePath]:
    for text in look_in:
        try:
            top = computer.parse(text)
        except PathError as error:
            raise ZestyError(
                f"{text!r} is no path of {computer.name}: {error.message}",
                next_step=f"Write the folder as {computer.name} ({computer.system}) writes it.",
            ) from error
        seen = finder.find(top)
        if seen.facts is None or seen.facts.kind != "folder":
            raise ZestyError(f"There is no folder {top} on {computer.name}.", next_step="Name one that is there.")
        yield seen.path
