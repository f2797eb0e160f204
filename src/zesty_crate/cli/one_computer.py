"""One computer without a crate: surveyed into a temporary file, its catalogs kept in a crate before they change."""

from __future__ import annotations

import argparse
from collections.abc import Collection, Iterator
from contextlib import contextmanager
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from .terminal import Terminal

if TYPE_CHECKING:
    from ..machines import Computer, Finder
    from ..plan import Move
    from ..relink import LeftBehind
    from ..split_paths import Destinations
    from ..survey import SurveyStore


class OneComputer:
    """The computer that ``--at`` names, and all guides that apply here."""

    def __init__(self, args: argparse.Namespace, terminal: Terminal) -> None:
        from ..guides import find_guides
        from ..machines import Outside, read_sheet

        self._keep_in: Path = args.keep_in
        self._terminal = terminal
        self.outside = Outside()
        self.sheet = read_sheet(args.at, self.outside.disk)
        self.guides = find_guides(args.guides, self.outside.disk)

    @cached_property
    def computer(self) -> Computer:
        """The computer of the sheet."""
        from ..machines import computer_of

        return computer_of(self.sheet)

    def finder(self) -> Finder:
        """A fresh look at it."""
        from ..machines import Finder

        return Finder(self.computer, self.outside.disk)

    def take_back_unfinished(self, *, yes: bool) -> None:
        """Take back what a killed run did to this computer, if the person agrees, and remove what it left."""
        from ..relink import take_back, tidy_up, unfinished

        for crate in unfinished(self._keep_in, self.sheet, self.outside):
            if not self._terminal.json:
                self._terminal.say(f"An earlier run was stopped partway; its originals are in {crate.root}.")
            self._terminal.ask("Undo what it changed, and begin again?", yes=yes)
            take_back(crate, self.sheet, self.outside)
        tidy_up(self._keep_in, self.sheet, self.outside)

    @contextmanager
    def surveyed(self) -> Iterator[SurveyStore]:
        """All its entries, judged now."""
        import platformdirs

        from ..check import survey_aside

        cache = platformdirs.user_cache_path("zesty-crate")
        with (
            self._terminal.progress() as tell,
            survey_aside(self.sheet, self.guides, self.outside, cache, tell, before=True) as store,
        ):
            yield store

    def left_behind(
        self, store: SurveyStore, holdings: Collection[str], destinations: Destinations
    ) -> list[LeftBehind]:
        """The catalogs of these holdings that could not say where all their entries go."""
        import platformdirs

        from ..relink import left_behind

        scratch = platformdirs.user_cache_path("zesty-crate")
        computer = (self.sheet, self.finder())
        return left_behind(store, holdings, computer, self.guides, destinations, self.outside, scratch)

    @contextmanager
    def originals_kept(self, holdings: tuple[str, ...]) -> Iterator[Move]:
        """Keep the original catalogs in a crate of their own, from which undo restores them."""
        from ..crate import Crate, Scope, create_crate, open_finished, pack, proposed_name
        from ..machines import make_folders
        from ..plan import open_move
        from ..relink import ORIGINALS

        make_folders(self.outside.disk, self._keep_in)
        name = proposed_name(self.sheet, self._keep_in, self.outside, ORIGINALS)
        crate = Crate(self._keep_in / name)
        with self._terminal.progress() as tell:
            create_crate(crate, self.sheet, self.guides, self.outside, tell)
            pack(crate, Scope(only=holdings), self.outside, tell)
        move = open_move(open_finished(crate.root, self.outside.disk), self.sheet, self.outside)
        try:
            yield move
        finally:
            move.survey.close()
