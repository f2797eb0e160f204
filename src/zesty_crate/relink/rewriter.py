"""Rewrite documents: decide on their new paths, list the changes, and have all of a batch in their places together."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import ExitStack, closing
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

from ..catalogs import Catalog, CatalogError, Change, ChangeList, Entry, Proof, base_of, syntax_of
from ..guides import Holding
from ..journal import Action, Location, Locations, Step
from ..machines import FileFacts, working_folder
from ..paths import MachinePath
from ..plan import Move
from ..split_paths import Branches, Decided, DecidedFolders, Destinations, decided, part_there, prove_meaning
from ..survey import Document
from .destinations import StillOpen
from .model import RelinkedCatalog, Untouched
from .prefix_changes import PrefixChange, prefix_changes
from .replace import CatalogReplacer, Wanted

_EXAMPLES = 8
_SHARED = "it shares a piece of its path with entries that move elsewhere"
_WRITTEN_ODDLY = "it is put together of several texts in the document, or by an entity"


class Ready(NamedTuple):
    """A document that may be rewritten: where it was and is, and where what it names goes."""

    document: Document
    holding: Holding
    location: Location
    at: MachinePath
    place: MachinePath
    destinations: Destinations
    placed: Action | None  # what put it there, where that was a move


class _Listed(NamedTuple):
    """What the change list of one document comes to."""

    cells: int
    moved: int
    rows_added: int
    untouched: tuple[Untouched, ...]
    pieces: Decided


@dataclass(slots=True)
class _Draft:
    """A document that was decided on, with its change list; ``work`` is for what it is taken apart into."""

    ready: Ready
    work: Path
    changes: ChangeList
    listed: _Listed
    sha512: str
    examples: tuple[Change, ...]
    told: tuple[PrefixChange, ...]
    is_changed: bool


class Rewriter:
    """Rewrites what is ready. Working copies go into folders of their own in that of ``catalogs``."""

    def __init__(
        self,
        move: Move,
        locations: Locations,
        destinations: Destinations,
        catalogs: CatalogReplacer,
        *,
        leave_entries: bool,
    ) -> None:
        self._move = move
        self._disk = move.outside.disk
        self._locations = locations
        self._destinations = destinations
        self._catalogs = catalogs
        self._leave_entries = leave_entries
        self._decided_from: tuple[str, MachinePath, MachinePath] | None = None
        self._folders: DecidedFolders | None = None

    def rewrite(self, step: Step | None, batch: Sequence[Ready]) -> list[RelinkedCatalog | CatalogError]:
        """Rewrite documents, each of which may fail alone; without a step, only tell what would be."""
        with ExitStack() as stack:
            stack.enter_context(working_folder(self._disk, self._catalogs.work))
            drafts = [self._drafted(each, stack, number, step) for number, each in enumerate(batch)]
            some = [each for each in drafts if isinstance(each, _Draft) and each.listed.cells and step is not None]
            proofs = self._catalogs.replace_all(step, [self._wanted(each) for each in some]) if step and some else []
            outcomes = {id(draft): proof for draft, proof in zip(some, proofs, strict=True)}
            return [self._told(each, outcomes.get(id(each))) for each in drafts]

    def _drafted(self, ready: Ready, stack: ExitStack, number: int, step: Step | None) -> _Draft | CatalogError:
        real, placed = self._locations.real(ready.location), ready.placed
        is_changed = placed is not None and not _is_as_placed(self._disk.facts(real), placed.facts)
        work = self._catalogs.work / str(number)
        if ready.holding.part.inside or ready.holding.part.syntax == "sqlite":  # what they are taken apart into
            stack.enter_context(working_folder(self._disk, work))
        changes = ChangeList(self._catalogs.work / f"{number}-changes.db")
        try:
            # Digested while it is decided on. If it changes meanwhile, it is not replaced.
            with self._disk.digested(real) as digest:
                listed = self._listed(ready, real, work, changes)
                draft = _Draft(ready, work, changes, listed, digest(), (), (), is_changed)
        except CatalogError as error:
            return error
        draft.examples = tuple(draft.changes.first(_EXAMPLES))
        draft.told = prefix_changes(draft.changes) if step is None else ()
        return draft

    def _listed(self, ready: Ready, real: Path, work: Path, changes: ChangeList) -> _Listed:
        """Decide, and write the change list. The catalog is let go of before it is read again to be proven."""
        part = ready.holding.part
        with closing(syntax_of(part).open(real, part, ready.at, self._disk, work)) as catalog:
            pieces = self.decide(ready.holding, catalog, ready.place, ready.destinations, self._folders_of(ready))
            cells = pieces.write(changes, catalog)
            if pieces.made_wrong and not self._leave_entries:
                raise _shared_by_others(pieces.made_wrong)
            return _Listed(cells, pieces.moved, pieces.rows_added, tuple(_untouched(pieces)), pieces)

    def decide(
        self,
        holding: Holding,
        catalog: Catalog,
        place: MachinePath,
        destinations: Destinations,
        folders: DecidedFolders | None = None,
    ) -> Decided:
        """Decide on the new paths of a catalog."""
        settled = destinations.is_settled if isinstance(destinations, StillOpen) else None
        return decided(holding.part, catalog, destinations, (self._move.old, self._move.new), place, settled, folders)

    def _folders_of(self, ready: Ready) -> DecidedFolders | None:
        """What was decided in documents whose paths start from the same places: thousands of small ones are alike."""
        if ready.destinations is not self._destinations:
            return None  # they are of this document alone
        part = ready.holding.part
        bases = base_of(part, ready.at), base_of(part_there(part, self._destinations), ready.place)
        if self._decided_from != (ready.holding.id, *bases):
            self._decided_from = (ready.holding.id, *bases)
            self._folders = DecidedFolders(self._move.old.system, self._destinations.going_along)
        return self._folders

    def _wanted(self, draft: _Draft) -> Wanted:
        """The rewritten document in the place of the old one."""
        holding, syntax = draft.ready.holding, syntax_of(draft.ready.holding.part)

        def build(original: Path, part: Path) -> Proof:
            syntax.rewrite(original, part, holding.part, draft.changes, self._disk)
            proof = syntax.prove(original, part, holding.part, draft.changes, self._disk)
            self._prove_meaning(draft, original, part)
            return proof

        return Wanted(holding, draft.ready.location, draft.sha512, build)

    def _prove_meaning(self, draft: _Draft, original: Path, rewritten: Path) -> None:
        """Where entries share pieces, no cell tells alone where one leads: each is read again as its program would."""
        part = draft.ready.holding.part
        if all(len(each.path) == 1 for each in part.entries):
            return
        there = part_there(part, self._destinations)
        syntax, old, new = syntax_of(part), self._move.old, self._move.new
        with (
            closing(syntax.open(original, part, draft.ready.at, self._disk, draft.work / "before")) as before,
            closing(syntax.open(rewritten, there, draft.ready.place, self._disk, draft.work / "after")) as after,
        ):
            prove_meaning(Branches(before), Branches(after), draft.listed.pieces, old, new)

    def _told(self, draft: _Draft | CatalogError, proof: Proof | CatalogError | None) -> RelinkedCatalog | CatalogError:
        if isinstance(draft, CatalogError):
            return draft
        if isinstance(proof, CatalogError):
            return proof
        listed, holding = draft.listed, draft.ready.holding
        return RelinkedCatalog(
            holding.id,
            holding.title,
            str(draft.ready.place),
            listed.moved,
            listed.cells,
            draft.examples,
            listed.untouched,
            proof,
            changed=draft.is_changed,
            prefix_changes=draft.told,
            rows_added=listed.rows_added,
            leaves_unasked=not self._leave_entries and any(each.unsaid for each in listed.untouched),
        )


def _shared_by_others(entries: Sequence[Entry]) -> CatalogError:
    """Entries that would be led elsewhere by a piece of their path that they share with entries that move."""
    few = ", ".join(each.recorded for each in entries[:_EXAMPLES]) + (" and more" if len(entries) > _EXAMPLES else "")
    return CatalogError(
        f"Entries that would lead nowhere, since they share a piece of their path with others that go elsewhere: "
        f"{len(entries)} ({few}).",
        next_step="Send the whole folder to one place with a route, allow new rows in the guide (may-add), or relink "
        "with --leave-entries, which names them and goes on.",
    )


def _is_as_placed(now: FileFacts | None, placed: FileFacts) -> bool:
    return now is not None and (now.size_bytes, now.modified_ns) == (placed.size_bytes, placed.modified_ns)


def _untouched(pieces: Decided) -> Iterator[Untouched]:
    for entry, why in pieces.without_route:
        yield Untouched(entry.key, entry.recorded, why)
    for entry in pieces.stale:
        besides = ", ".join(copy.part.at for copy in entry.copies)
        yield Untouched(entry.key, entry.recorded, f"what {besides} holds is not made of its path as the guide says")
    for entry in pieces.inexpressible:
        is_fixed = any(piece is not None and piece.cell.is_fixed for piece in entry.pieces)
        why = _WRITTEN_ODDLY if is_fixed else _SHARED
        yield Untouched(entry.key, entry.recorded, f"its new path cannot be expressed: {why}", unsaid=True)
