"""Change lists: the same whether they are held or in a file."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path

import apsw
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from zesty_crate.catalogs import Addition, Cell, Change, ChangeList, Pointer, changes

TEXTS = st.text(max_size=8) | st.just("a lone \udc80 byte")
CHANGES = st.lists(st.tuples(st.integers(0, 10**6), TEXTS, TEXTS), max_size=7, unique_by=lambda row: row[0])


@given(plain=CHANGES, column=CHANGES, most=st.integers(0, 8))
@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
def test_a_list_is_the_same_however_many_are_held(
    tmp_path_factory: pytest.TempPathFactory,
    monkeypatch: pytest.MonkeyPatch,
    plain: list[tuple[int, str, str]],
    column: list[tuple[int, str, str]],
    most: int,
) -> None:
    monkeypatch.setattr(changes, "_MOST_HELD", most)
    listed = ChangeList(tmp_path_factory.mktemp("listed") / "list")
    listed.add(Change(Cell("", "plain", at, 3), old, new) for at, old, new in plain)
    listed.add_column("clip", "file", [(at, old.replace("\udc80", ""), new) for at, old, new in column])
    expected = [Change(Cell("", "plain", at, 3), old, new) for at, old, new in plain]
    expected += [Change(Cell("clip", "file", at), old.replace("\udc80", ""), new) for at, old, new in column]
    assert list(listed) == expected
    assert len(listed) == len(expected)
    assert listed.first(2) == expected[:2]
    in_order = sorted((each.cell.row, each.old, each.new) for each in expected)
    assert sorted((each.start, each.old, each.new) for each in listed.spans()) == in_order
    assert [each.start for each in listed.spans()] == [at for at, _, _ in in_order]
    assert [each[1:] for each in listed.pairs()] == [(each.old, each.new) for each in expected]


def test_new_rows_are_in_the_file_and_among_the_pairs(tmp_path: Path) -> None:
    listed = ChangeList(tmp_path / "list")
    listed.add([Change(Cell("clip", "file", 1), "old", "new")])
    listed.add_rows([Addition(Cell("drawer", "base", 9), 4, "E:", "/")], [Pointer(Cell("clip", "drawer", 1), 4, 9)])
    for _ in range(2):  # a file that is made already is gone on with
        with closing(apsw.Connection(str(listed.file("UTF-16le")))) as database:
            assert database.execute("SELECT row, model, old, new FROM addition").fetchall() == [(9, 4, "E:", "/")]
            assert database.execute("SELECT old, new FROM pointer").fetchall() == [(4, 9)]
            assert database.execute("SELECT old, new FROM change").fetchall() == [("old", "new")]
        assert list(listed.pairs()) == [("clip.file", "old", "new"), ("drawer.base", "E:", "/")]
