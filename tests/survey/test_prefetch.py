"""Catalogs that another process reads ahead come to the same as those that are read here."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

import pytest

from support.moves import SmallMove
from support.outside import outside
from zesty_crate.catalogs import Reading
from zesty_crate.crate import Crate, create_crate
from zesty_crate.guides import Holding, load_guides
from zesty_crate.machines import load_sheet
from zesty_crate.survey import Document, EntryTaker, SurveyStore, prefetch
from zesty_crate.systems import helpers

TABLES = ("file", "entry", "annotation", "grp", "member", "belongs", "document", "spot_check")
GUIDE = """[guide]
id = "tally"
title = "Tally"
language = 1
[[holding]]
id = "list"
kind = "catalog"
at = "{documents}/tally.csv"
syntax = "delimited"
[[holding.entries]]
path = [{ at = "file" }]
key = "number"
annotations = ["mood"]
[[holding]]
id = "moods"
kind = "catalog"
at = "{documents}/tally.csv"
syntax = "delimited"
[[holding.entries]]
path = [{ at = "mood" }]
key = "number"
"""


@pytest.fixture
def move(tmp_path: Path) -> SmallMove:
    """A small move of two programs: one of them keeps its list in a database, the other in a text."""
    move = SmallMove(tmp_path)
    (move.demo.guides / "tally.toml").write_text(GUIDE)
    documents = move.old_disks / "c/Users/Odile/Documents"
    rows = (f"{number},C:\\Users\\Odile\\Music\\M\u00f6th {number}.wav,soft\r\n" for number in range(20))
    (documents / "tally.csv").write_bytes(("number,file,mood\r\n" + "".join(rows)).encode())
    return move


@contextmanager
def reading_ahead(*, least_bytes: int = 1) -> Iterator[list[str]]:
    """So large a catalog is read ahead; the paths of those that were."""
    taken: list[str] = []
    take_over = prefetch.Prefetch.take_over

    def noted(self: prefetch.Prefetch, taker: EntryTaker, document: Document, holding: Holding) -> Reading | None:
        done = take_over(self, taker, document, holding)
        taken.extend([document.path] if done else [])
        return done

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(prefetch, "_ENOUGH_BYTES", least_bytes)
        patch.setattr(prefetch.Prefetch, "take_over", noted)
        yield taken


def surveyed(move: SmallMove) -> dict[str, list[object]]:
    move.survey()
    with closing(SurveyStore.open(move.crate.survey_path)) as store:
        tables = {name: list(store.database.execute(f"SELECT * FROM {name} ORDER BY rowid")) for name in TABLES}
    move.crate.survey_path.unlink()
    return tables


def test_a_survey_says_the_same(move: SmallMove) -> None:
    wanted = surveyed(move)
    assert len(wanted["entry"]) > 20
    with reading_ahead() as taken:
        assert surveyed(move) == wanted
    assert sorted(path.rpartition("\\")[2] for path in taken) == ["shelf.db", "tally.csv", "tally.csv"]


def test_a_check_says_the_same(move: SmallMove) -> None:
    move.up_to_plan()
    move.unpack()
    move.relink()

    move.check()  # the first one is what was handed over
    wanted = move.check()
    with reading_ahead() as taken:
        assert move.check() == wanted
    assert len(taken) == 3


@pytest.mark.parametrize("program", ["import os; os._exit(1)", "open(1, 'wb').write(b'what is this')"])
def test_without_the_other_process_all_is_read_here(
    move: SmallMove, monkeypatch: pytest.MonkeyPatch, program: str
) -> None:
    wanted = surveyed(move)
    monkeypatch.setattr(helpers, "_READING", program)
    with reading_ahead() as taken:
        assert surveyed(move) == wanted
    assert taken == []


def test_what_is_wrong_with_a_catalog_is_told_as_ever(move: SmallMove) -> None:
    world = outside()
    sheet, guides = load_sheet(move.demo.old_sheet, world.disk), load_guides([move.demo.guides], world.disk)
    next(move.old_disks.rglob("shelf.db")).write_bytes(b"no database at all")
    next(move.old_disks.rglob("tally.csv")).unlink()

    def refused(name: str) -> list[tuple[str, ...]]:
        report = create_crate(Crate(move.crate.root.with_name(name)), sheet, guides, world)
        return [each.reasons for each in report.unsettled]

    wanted = refused("one")
    assert wanted
    with reading_ahead() as taken:
        assert refused("other") == wanted
    assert taken == []
