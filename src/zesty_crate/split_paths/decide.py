"""Decide the new texts of recorded paths that are kept in pieces, some of them shared by many entries.

The outermost piece is changed where all its users agree on it; where they do not, it takes what they have in common and
the difference goes one piece inwards. A shared piece on which its users cannot agree stays as it is, and the entries
that this leaves wrong are named.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Container, Iterable, Iterator, Sequence
from dataclasses import replace
from functools import lru_cache

from ..catalogs import Catalog, Cell, Change, ChangeList, Entry, GrowingCatalog, SweptCatalog, renewed
from ..paths import (
    NO_VARIABLES,
    MachinePath,
    PathError,
    SpelledPiece,
    Spelling,
    System,
    Variables,
    join_pieces,
    read_inner,
    read_path,
    respell,
    write_piece,
)
from .by_folder import DecidedFolders, no_names
from .new_rows import NewRows
from .targets import Target, always_told
from .voting import Content, SplitEntry, Votes, entry_texts, vote, wanted_of_outermost, without_start
from .witnesses import Witnesses

ANY_NUMBER = 0
Entries = Callable[[], Iterable[Entry]]
TargetOf = Callable[[Entry], Target]


def no_translation(_: MachinePath) -> MachinePath | None:
    """Nobody knows where folders go by themselves."""
    return None


class PathDecider:
    """Decides the changes for one catalog's entries."""

    def __init__(
        self,
        entries: Entries,
        target_of: TargetOf,
        old: System,
        new: System,
        new_base: MachinePath | None = None,
        variables: tuple[Variables, Variables] = (NO_VARIABLES, NO_VARIABLES),
        left: Callable[[Entry], str] = always_told,
        going_along: Callable[[MachinePath], Container[str]] = no_names,
        translate: Callable[[MachinePath], MachinePath | None] = no_translation,
        is_settled: Callable[[Entry], bool] | None = None,
        folders: DecidedFolders | None = None,
        *,
        may_repeat: bool = False,
    ) -> None:
        """``new_base`` is the folder in which the document itself is now; ``variables`` are the old's and the new's.

        ``left`` tells which entries that do not move must be reported, and why; ``going_along`` which names in a
        folder are sure to go where that folder goes, just as they are; ``translate`` where a folder goes;
        ``is_settled`` whether an entry says already what it must; ``folders`` have what other documents came to.
        Several entries ``may_repeat`` one cell.
        """
        self._may_repeat = may_repeat
        self._translate = translate
        self._is_settled = is_settled
        self._old_variables, self._new_variables = variables
        self._new_base = new_base
        self._left = left
        self._folders = folders or DecidedFolders(old, going_along)
        self._witnesses = Witnesses(target_of, going_along)
        self._voters: list[SplitEntry] | None = None  # where few speak for all
        self._entries = entries
        self._target_of = target_of
        self._old = old
        self._new = new
        self._new_rows = NewRows()
        self._decided: dict[Cell, SpelledPiece] = {}
        self._frozen: set[Cell] = set()
        self.moved = 0
        self.rows_added = 0
        self.without_route: list[tuple[Entry, str]] = []
        self.inexpressible: list[Entry] = []
        self.stale: list[Entry] = []  # what they keep beside their path was not made of it as the guide says
        self.made_wrong: list[
            Entry
        ] = []  # of these, those that a changed piece, which they share, would lead elsewhere

    def decide(self, levels: int, *, may_add: bool = False) -> None:
        """Decide the shared pieces: of ``levels`` in all, all but the last of each entry; 0 where that differs.

        Entries that do not move keep their meaning.
        Where that leaves entries that cannot say where they go, and it ``may_add`` rows, the rows they share are split.
        Pieces of settled entries stay as they are.
        """
        if levels != 1 and self._is_settled is not None:
            settled = (entry for entry in self._entries() if self._is_settled(entry))
            self._frozen |= {piece.cell for entry in settled for piece in entry.pieces[:-1] if piece is not None}
        elif levels == ANY_NUMBER and not may_add:  # each level is a pass over all that have a vote
            speaking = (entry for entry in self._entries() if self._witnesses.speaks(entry))
            self._voters = [cut for entry in speaking if (cut := self._split(entry)) is not None]
        if levels == ANY_NUMBER:
            levels = max((len(cut.entry.pieces) for cut in self._cuts()), default=1)
        self._decide(levels)
        if may_add and (unsaid := self._unsaid()):
            cuts = (cut for entry in self._entries() if (cut := self._split(entry)) is not None)
            self._new_rows.split(
                (cut.pieces[0][1], wanted, cut.moved)
                for cut in cuts
                if cut.pieces[0][1] in unsaid and (wanted := wanted_of_outermost(cut)) is not None
            )
            self._frozen -= unsaid
            self._decide(levels)

    def _unsaid(self) -> set[Cell]:
        """The outermost pieces of entries that cannot be expressed, of tables that may get more rows."""
        return {
            entry.pieces[0].cell
            for entry in self._entries()
            if entry.pieces
            and entry.pieces[0] is not None
            and entry.pieces[0].via is not None
            and (cut := self._split(entry)) is not None
            and cut.moved
            and self._last(cut) is None
        }

    def _decide(self, levels: int) -> None:
        while True:
            self._decided.clear()
            shared = [self._decide_level(level) for level in range(levels - 1)]
            harmed = self._harmed() if any(shared) else set()
            if not harmed:
                return
            self._frozen |= harmed

    def write(self, changes: ChangeList, catalog: Catalog) -> int:
        """Write all changes for a catalog into a new change list; their number."""
        if not (isinstance(catalog, SweptCatalog) and catalog.sweep(changes, self.new_text)):
            changes.add(self.changes())
        if isinstance(catalog, GrowingCatalog):
            self.rows_added = self._new_rows.write(changes, catalog)
        return len(changes) + self.rows_added

    def changes(self) -> Iterator[Change]:
        """Every change to a cell; entries that have no route or cannot be expressed are collected on the way."""
        told: set[Cell] = set()
        for entry in self._entries():
            if self._voters is not None and self._witnesses.is_settled_by_another(entry):
                self.moved += 1
                continue
            piece = entry.pieces[0] if len(entry.pieces) == 1 and not entry.remote else None
            if (
                piece is None
                or piece.cell.is_fixed
                or piece.cell in self._decided
                or entry.copies
                or entry.pointers
                or (text := self._known(piece.text, entry.spelling)) is None
            ):
                yield from self._changes_of(entry, told)
            elif text != piece.text and self._is_new(piece.cell, told):
                yield Change(piece.cell, piece.text, text)

    def branches(self) -> Sequence[Sequence[object]]:
        """Nothing is told by folders here."""
        return ()

    def whole_folders(self) -> Collection[object]:
        """Nothing is told by folders here."""
        return ()

    def says_all_of(self, _folder: object, _name: str) -> bool:
        """Nothing is told by folders here."""
        return False

    def wanted(self, entry: Entry) -> Content | None:
        """Where an entry leads once everything is written; None for one that stays as it is."""
        cut = self._split(entry)
        if cut is None or not cut.moved:
            return None
        last = self._last(cut)
        return cut.want if last is not None and self._agrees(cut.pieces[-1][1], last) else None

    def new_text(self, text: str, spelling: Spelling, ask: Callable[[], Entry | None]) -> str | None:
        """The new text of a path that is kept whole in one cell; None when it stays. See `NewText`."""
        known = self._folders.new_text(text, spelling)
        if known is not None:
            self.moved += 1
            return known if known != text else None
        entry = ask()
        changes = list(self._changes_of(entry, set())) if entry else []
        return changes[0].new if changes else None

    def _agrees(self, cell: Cell, last: SpelledPiece) -> bool:
        """Whether an entry's own piece becomes what was decided for it as a piece of others, such as a folder's."""
        shared = self._decided.get(cell)
        return shared is None or write_piece(shared) == write_piece(last)

    def _is_new(self, cell: Cell, told: set[Cell]) -> bool:
        """Whether the change of a cell was not told yet; asked where several entries may have one cell."""
        if not self._may_repeat:
            return True
        is_new = cell not in told
        told.add(cell)
        return is_new

    def _known(self, text: str, spelling: Spelling) -> str | None:
        known = self._folders.new_text(text, spelling)
        self.moved += known is not None
        return known

    def _changes_of(self, entry: Entry, told: set[Cell]) -> Iterator[Change]:
        """The changes for one entry, but for those of shared pieces that were told already."""
        cut = self._split(entry)
        if cut is None or not cut.moved:
            if why := self._left(entry):
                self.without_route.append((entry, why))
            return
        self.moved += 1
        texts, last = entry_texts(entry), self._last(cut)
        yield from self._shared_changes(entry, cut, told, is_said=last is not None)
        _, cell, old = cut.pieces[-1]
        if last is None or not self._agrees(cell, last):
            self._give_up(entry, cut)
            return
        own = list(_change(cell, texts[-1], old, last))
        if not own:
            self._witnesses.note(entry)
        elif self._is_new(cell, told):
            yield from own
        if entry.copies or entry.pointers:
            yield from self._besides(entry, cut, last)
        if len(entry.pieces) == 1:
            self._folders.learn(texts[-1], entry.spelling, cut.old, own[0].new if own else texts[-1])

    def _besides(self, entry: Entry, cut: SplitEntry, last: SpelledPiece) -> Iterator[Change]:
        """The changes of what is made of the path and kept beside it; and pointers that are to be emptied."""
        pieces = [*(self._decided.get(cell, piece) for _, cell, piece in cut.pieces[:-1]), last]
        new = join_pieces([write_piece(each) for each in pieces], self._new, entry.spelling)
        old = join_pieces(entry_texts(entry), self._old, entry.spelling)
        for copy in entry.copies:
            text = renewed(copy, old, new)
            if text is None:
                self.stale.append(entry)
            elif text != copy.text and copy.cell is not None:
                yield Change(copy.cell, copy.text, text)
        yield from (Change(each.cell, each.text, "") for each in entry.pointers if each.cell is not None)

    def _shared_changes(self, entry: Entry, cut: SplitEntry, told: set[Cell], *, is_said: bool) -> Iterator[Change]:
        """The changes of shared pieces that were not told yet; an entry that can be said uses its new rows."""
        for (_, cell, old), text in zip(cut.pieces, entry_texts(entry), strict=True):
            new = self._decided.get(cell)
            if new is not None and self._new_rows.has(cell):
                if is_said:
                    self._new_rows.use(cell, entry, text, write_piece(new))
            elif new is not None and cell not in told:
                told.add(cell)
                yield from _change(cell, text, old, new)

    def _give_up(self, entry: Entry, cut: SplitEntry) -> None:
        """Note an entry that cannot say where it goes, and whether that makes it wrong."""
        self.inexpressible.append(entry)
        if any(self._changes(shared, piece) for _, shared, piece in cut.pieces[:-1]):
            self.made_wrong.append(entry)

    def _changes(self, cell: Cell, piece: SpelledPiece) -> bool:
        """Whether a shared piece gets another text."""
        new = self._decided.get(cell)
        return new is not None and write_piece(new) != write_piece(piece)

    def _decide_level(self, level: int) -> bool:
        """Decide the pieces at one level; whether any that changes is used by an entry that does not move."""
        ballots: dict[Cell, Votes] = {}
        for cut in self._cuts():
            place = next((n for n, (at, _, _) in enumerate(cut.pieces[:-1]) if at == level), None)
            if place is None:
                continue
            _, cell, piece = cut.pieces[place]
            rest = self._rest(cut, place)
            if rest is not None and cell not in self._frozen and not cell.is_fixed:
                own = self._volume(rest) if piece.style.spelling is Spelling.FROM_VOLUME else self._own(piece)
                vote(ballots.setdefault(cell, Votes(piece)), cut, place, rest, own)
        for cell, votes in ballots.items():
            content = votes.decision(self._own(votes.piece))
            if content is not None:
                self._decided[cell] = respell(votes.piece, *content, self._new, self._new_base, self._new_variables)
        return any(votes.unmoved for cell, votes in ballots.items() if cell in self._decided)

    def _cuts(self) -> Iterable[SplitEntry]:
        """The entries that have a vote, taken apart."""
        if self._voters is not None:
            return self._voters
        return (cut for entry in self._entries() if (cut := self._split(entry)) is not None)

    def _own(self, piece: SpelledPiece) -> Content | None:
        """Where the folder that a piece is goes by itself."""
        new = self._translate(piece.path) if piece.root else None
        return None if new is None else (new.root, new.parts)

    def _volume(self, rest: Content) -> Content | None:
        """The beginning of a path by the volume that it is on."""
        volume = self._new_variables.volume_of(*rest)
        return None if volume is None else (volume.anchor.root, volume.anchor.parts)

    def _rest(self, cut: SplitEntry, place: int) -> Content | None:
        """What is left of the wanted path for the piece at ``place`` and those inside it."""
        rest: Content | None = cut.want
        for _, cell, piece in cut.pieces[:place]:
            outer = self._decided.get(cell) or self._as_it_stands(cell, piece)
            if rest is not None:
                rest = without_start(rest, (outer.root, outer.parts))
        return rest

    def _as_it_stands(self, cell: Cell, piece: SpelledPiece) -> SpelledPiece:
        """A piece that stays as it is written: a relative one means another folder when its document has moved."""
        if piece.style.base is None or not piece.root or not cell.is_fixed:
            return piece
        return _outer(write_piece(piece), self._new, piece.style.spelling, self._new_base, self._new_variables)

    def _last(self, cut: SplitEntry) -> SpelledPiece | None:
        """The last piece, which is the entry's own, as it must be; None when the path cannot be expressed."""
        _, cell, piece = cut.pieces[-1]
        rest = self._rest(cut, len(cut.pieces) - 1)
        # A name stays one name; a piece with folders of its own, below a drive, may get more or fewer of them.
        is_below_root = len(cut.pieces) > 1 and len(piece.parts) > 1 and cut.is_anchor(len(cut.pieces) - 2)
        if rest is None or (len(cut.pieces) > 1 and len(rest[1]) != len(piece.parts) and not is_below_root):
            return None
        last = respell(piece, *rest, self._new, self._new_base, self._new_variables)
        if cell.is_fixed and write_piece(last) != write_piece(piece):
            return None
        outer = [self._decided.get(cell) or self._as_it_stands(cell, piece) for _, cell, piece in cut.pieces[:-1]]
        meant = self._means([*outer, last], cut, self._new, self._new_base, self._new_variables)
        return last if meant else None

    def _means(
        self,
        pieces: list[SpelledPiece],
        cut: SplitEntry,
        system: System,
        base: MachinePath | None,
        variables: Variables,
    ) -> bool:
        """Whether pieces, joined and read as the program would, are the wanted path."""
        spelling = cut.entry.spelling
        try:
            text = join_pieces([write_piece(each) for each in pieces], system, spelling)
            path = read_path(text, system, spelling, base, variables).path
        except PathError:
            return False
        return (path.root, path.parts) == cut.want

    def _harmed(self) -> set[Cell]:
        """Shared pieces whose new text would give another meaning to an entry that does not move."""
        harmed: set[Cell] = set()
        for cut in self._cuts():
            if cut.moved:
                continue
            pieces = [self._decided.get(cell, piece) for _, cell, piece in cut.pieces]
            if not self._means(pieces, cut, self._old, cut.entry.base, self._old_variables):
                harmed.update(cell for _, cell, _ in cut.pieces if cell in self._decided)
        return harmed

    def _split(self, entry: Entry) -> SplitEntry | None:
        """Take an entry apart; None when it names no path, or one whose names do not are in its pieces as such."""
        target = self._target_of(entry)
        want = target.new or target.old
        if want is None or target.old is None:
            return None
        pieces: list[tuple[int, Cell, SpelledPiece]] = []
        holds: list[str] = []
        for level, each in enumerate(entry.pieces):
            if each is not None:
                piece = (
                    _inner(each.text, self._old, entry.spelling)
                    if pieces
                    else _outer(each.text, self._old, entry.spelling, entry.base, self._old_variables)
                )
                pieces.append((level, each.cell, piece))
                holds.append(each.holds)
        if not pieces:
            return None
        names = tuple(name for _, _, piece in pieces for name in piece.parts)
        if len(pieces) > 1 and names != target.old.parts:
            return None
        cut = SplitEntry(
            entry, target.old, (want.root, want.parts), target.new is not None, tuple(pieces), tuple(holds)
        )
        level, cell, piece = pieces[0]
        if not self._new_rows.parts(cell):
            return cut
        return replace(
            cut, pieces=((level, self._new_rows.cell_for(cell, wanted_of_outermost(cut)), piece), *pieces[1:])
        )


def _change(cell: Cell, text: str, old: SpelledPiece, new: SpelledPiece) -> Iterator[Change]:
    """A change, unless it would only tidy up how the same thing is written."""
    written = write_piece(new)
    if written not in (text, write_piece(old)):
        yield Change(cell, text, written)


@lru_cache(maxsize=65536)
def _outer(
    text: str, system: System, spelling: Spelling, base: MachinePath | None, variables: Variables
) -> SpelledPiece:
    return read_path(text, system, spelling, base, variables)


@lru_cache(maxsize=65536)
def _inner(text: str, system: System, spelling: Spelling) -> SpelledPiece:
    return read_inner(text, system, spelling)
