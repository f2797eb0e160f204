"""Shared pieces: the outermost one that can say it changes, and what cannot be expressed is named and left."""

from __future__ import annotations

from collections.abc import Callable, Container, Sequence

from hypothesis import given
from hypothesis import strategies as st

from support.strategies import names, systems
from zesty_crate.catalogs import Cell, Entry, StoredPiece
from zesty_crate.paths import FORMATS, MachinePath, Route, RouteMap, Spelling, System, join_pieces, read_path
from zesty_crate.split_paths import ALL_NAMES, PathDecider, Target
from zesty_crate.split_paths.by_folder import no_names

Rows = Sequence[tuple[str, ...]]


class Shelf:
    """A catalog in memory: each row names its pieces; equal texts at one level share one cell."""

    def __init__(self, rows: Rows, old: System = System.WINDOWS, new: System = System.MACOS) -> None:
        self.old, self.new = old, new
        self.texts: dict[Cell, str] = {}
        self.entries = [self._entry(number, row) for number, row in enumerate(rows)]

    def _entry(self, number: int, row: tuple[str, ...]) -> Entry:
        pieces: list[StoredPiece | None] = []
        for level, text in enumerate(row):
            last = level == len(row) - 1
            cell = Cell(f"level{level}", "text", number if last else f"shared {text}")
            self.texts[cell] = text
            pieces.append(StoredPiece(cell, text) if text else None)
        recorded = join_pieces([each for each in row if each], self.old, Spelling.NATIVE)
        return Entry(str(number), tuple(pieces), recorded, Spelling.NATIVE)

    def relink(
        self, *routes: tuple[str, str], going_along: Callable[[MachinePath], Container[str]] = no_names
    ) -> PathDecider:
        """Decide by these routes and write the new texts."""
        found = RouteMap(
            [Route(self._path(old, self.old), self._path(new, self.new)) for old, new in routes],
            lambda _: FORMATS["ntfs"],
        )

        def target(entry: Entry) -> Target:
            old = self._path(entry.recorded, self.old)
            return Target(old, found.translate(old))

        decider = PathDecider(
            lambda: self.entries, target, self.old, self.new, going_along=going_along, translate=found.translate
        )
        decider.decide(len(self.entries[0].pieces))
        for change in decider.changes():
            assert self.texts[change.cell] == change.old
            self.texts[change.cell] = change.new
        return decider

    def recorded(self) -> list[str]:
        """Each entry's path as it reads now."""
        return [
            join_pieces([self.texts[p.cell] for p in entry.pieces if p], self.new, Spelling.NATIVE)
            for entry in self.entries
        ]

    @staticmethod
    def _path(text: str, system: System) -> MachinePath:
        return read_path(text, system, Spelling.NATIVE).path


def test_one_outer_piece_moves_all_its_entries() -> None:
    shelf = Shelf([("C:\\Sounds\\", "Rain\\", f"{n}.wav") for n in range(50)])
    decider = shelf.relink(("C:\\Sounds", "/Users/o/Sounds"))
    assert decider.moved == 50
    assert shelf.recorded()[7] == "/Users/o/Sounds/Rain/7.wav"
    assert {text for cell, text in shelf.texts.items() if cell.table != "level2"} == {"/Users/o/Sounds/", "Rain/"}


def test_an_outer_piece_whose_users_part_takes_what_they_share() -> None:
    shelf = Shelf([("E:\\", "Rain\\Soft", "a.wav"), ("E:\\", "Voices", "b.wav")])
    shelf.relink(("E:\\Rain", "/Volumes/Spools/Rain"), ("E:\\Voices", "/Volumes/Spools/Spoken/Voices"))
    assert shelf.recorded() == ["/Volumes/Spools/Rain/Soft/a.wav", "/Volumes/Spools/Spoken/Voices/b.wav"]
    assert "/Volumes/Spools/" in shelf.texts.values()


def test_a_piece_shared_by_entries_that_part_for_good_stays_and_they_are_named() -> None:
    shelf = Shelf([("E:\\Rain", "a.wav"), ("E:\\Rain", "b.wav"), ("E:\\Wind", "c.wav")])
    decider = shelf.relink(
        ("E:\\Rain\\a.wav", "/Volumes/One/a.wav"), ("E:\\Rain\\b.wav", "/Users/b.wav"), ("E:\\Wind", "/Wind")
    )
    assert [entry.key for entry in decider.inexpressible] == ["0", "1"]
    assert shelf.recorded()[2] == "/Wind/c.wav"
    assert "E:\\Rain" in shelf.texts.values()


def test_an_entry_without_a_route_keeps_its_meaning() -> None:
    shelf = Shelf([("E:\\", "Rain\\Soft", "a.wav"), ("F:\\", "Rain\\Soft", "b.wav")])
    decider = shelf.relink(("E:\\", "/Volumes/Spools"))
    assert [entry.key for entry, _ in decider.without_route] == ["1"]
    kept = read_path(shelf.recorded()[1], System.WINDOWS, Spelling.NATIVE).path
    assert str(kept) == "F:\\Rain\\Soft\\b.wav"
    assert shelf.recorded()[0] == "/Volumes/Spools/Rain/Soft/a.wav"


def test_a_shared_piece_is_not_respelled_when_that_would_change_another_entry() -> None:
    rows = [("/Volumes/Spools/", "Rain/Soft", "a.wav"), ("/Volumes/Stick/", "Rain/Soft", "b.wav")]
    shelf = Shelf(rows, System.MACOS, System.WINDOWS)
    shelf.relink(("/Volumes/Spools", "E:\\"))
    kept = join_pieces([shelf.texts[p.cell] for p in shelf.entries[1].pieces if p], System.MACOS, Spelling.NATIVE)
    assert kept == "/Volumes/Stick/Rain/Soft/b.wav"


def test_a_missing_inner_piece_is_no_obstacle() -> None:
    shelf = Shelf([("C:\\S\\", "", "a.wav"), ("C:\\S\\", "Rain", "b.wav"), ("", "C:\\S\\x", "c.wav")])
    shelf.relink(("C:\\S", "/S"))
    assert shelf.recorded() == ["/S/a.wav", "/S/Rain/b.wav", "/S/x/c.wav"]


_NAMES = st.sampled_from(["Rain", "Wind", "Owl"])
_ROWS = st.lists(
    st.tuples(
        st.sampled_from(["C:\\", "C:\\Sounds\\", "E:\\Store"]),
        st.lists(_NAMES, max_size=2).map("\\".join),
        _NAMES.map(lambda name: f"{name}.wav"),
    ),
    min_size=1,
    max_size=8,
)
_FOLDERS = st.sampled_from(["C:\\", "C:\\Sounds", "C:\\Sounds\\Rain", "E:\\", "E:\\Store", "E:\\Store\\Wind"])
_PLACES = st.sampled_from(["/", "/Users/o", "/Volumes/Spools", "/Volumes/Spools/Rain", "/Users/o/Wind/Rain"])


@given(_ROWS, st.dictionaries(_FOLDERS, _PLACES, min_size=1, max_size=4))
def test_every_entry_reads_as_it_must_or_is_named(rows: Rows, routes: dict[str, str]) -> None:
    shelf = Shelf(rows)
    decider = shelf.relink(*routes.items())
    named = {entry.key for entry in decider.inexpressible}
    unmoved = {entry.key for entry, _ in decider.without_route}
    found = RouteMap(
        [Route(shelf._path(old, System.WINDOWS), shelf._path(new, System.MACOS)) for old, new in routes.items()],
        lambda _: FORMATS["ntfs"],
    )
    for entry, now in zip(shelf.entries, shelf.recorded(), strict=True):
        old = shelf._path(entry.recorded, System.WINDOWS)
        if entry.key in unmoved:
            assert read_path(now, System.WINDOWS, Spelling.NATIVE).path == old
        elif entry.key not in named:
            assert shelf._path(now, System.MACOS) == found.translate(old)


@st.composite
def lists(draw: st.DrawFn) -> tuple[System, System, list[str], list[tuple[str, str]]]:
    """Whole paths in a few folders, and routes for some of the folders, or of single files in them."""
    old, new = draw(systems), draw(systems)
    start, end = ("C:\\", "E:\\") if old is System.WINDOWS else ("/", "/mnt/")
    folders = draw(st.lists(st.sampled_from(["Rain", "Rain\\Soft", "Voices", "Owls & Co"]), min_size=1, unique=True))
    tops = [draw(st.sampled_from([start, end])) + folder for folder in folders]
    if old is not System.WINDOWS:
        tops = [top.replace("\\", "/") for top in tops]
    texts = [
        f"{top}{draw(st.sampled_from(list(_separators(old))))}{draw(names(old))}" for top in tops for _ in range(3)
    ]
    routed = draw(st.lists(st.sampled_from([*tops, *texts]), unique_by=_folded))
    goal = "D:\\New {}" if new is System.WINDOWS else "/srv/New {}"
    return old, new, texts, [(each, goal.format(number)) for number, each in enumerate(routed)]


def _folded(text: str) -> str:
    return text.replace("\\", "/").upper()


def _separators(system: System) -> str:
    return "\\/" if system is System.WINDOWS else "/"


@given(lists())
def test_folder_by_folder_comes_to_the_same_as_one_by_one(
    drawn: tuple[System, System, list[str], list[tuple[str, str]]],
) -> None:
    old, new, texts, routes = drawn
    one_by_one, by_folder = (Shelf([(text,) for text in texts], old, new) for _ in range(2))
    parted = {_folded(str(Shelf._path(text, old).parent)) for text, _ in routes}
    first = one_by_one.relink(*routes)
    second = by_folder.relink(*routes, going_along=lambda folder: () if _folded(str(folder)) in parted else ALL_NAMES)
    assert one_by_one.recorded() == by_folder.recorded()
    assert first.moved == second.moved
