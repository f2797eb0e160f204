"""Texts with changes written in: many that are looked at together, or one by one, come to the same."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_crate.catalogs import CatalogError
from zesty_crate.catalogs import text_file as spliced_texts
from zesty_crate.catalogs.changes import SpanChange
from zesty_crate.catalogs.quoting import QUOTINGS
from zesty_crate.catalogs.text_file import TextFile, prove_splice, spliced

_NAMES = st.sampled_from(["plain", "json", "xml-double"])
_RAW = st.text("ab/ä ", max_size=6)
_NEW = st.text('ab/ä &"\\', max_size=6)
_PIECES = st.lists(st.tuples(st.text("xy<\n", max_size=3), _RAW, _NEW, _NAMES), max_size=12)


@pytest.fixture(params=[1, 3, 500], autouse=True)
def together(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(spliced_texts, "_TOGETHER", request.param)


def document(pieces: list[tuple[str, str, str, str]]) -> tuple[TextFile, list[SpanChange], str]:
    """A text of gaps and raw texts, its changes, and what it comes to with them."""
    text, new, changes = "", "", []
    for gap, raw, wanted, name in pieces:
        changes.append(SpanChange(len(text) + len(gap), len(raw), name, raw, wanted))
        text += gap + raw
        new += gap + QUOTINGS[name].rewrite(raw, wanted)
    return TextFile(text + ">", "utf-8", b""), changes, new + ">"


@given(_PIECES)
def test_every_change_is_written_and_proven(pieces: list[tuple[str, str, str, str]]) -> None:
    file, changes, expected = document(pieces)
    assert spliced(file, changes) == expected
    proof = prove_splice(file, TextFile(expected, "utf-8", b""), changes)
    assert (proof.cells_changed, proof.rows_compared) == (len(changes), file.text.count("\n") + 1)


@given(_PIECES.filter(bool), st.data())
def test_any_other_character_is_found(pieces: list[tuple[str, str, str, str]], data: st.DataObject) -> None:
    file, changes, expected = document(pieces)
    at = data.draw(st.integers(0, len(expected) - 1))
    for other in (expected[:at] + "?" + expected[at + 1 :], expected[:at] + expected[at + 1 :], expected + "?"):
        with pytest.raises(CatalogError, match="in more than its paths"):
            prove_splice(file, TextFile(other, "utf-8", b""), changes)


@given(_PIECES.filter(bool), st.data())
def test_a_place_that_holds_another_text_is_not_written(
    pieces: list[tuple[str, str, str, str]], data: st.DataObject
) -> None:
    file, changes, _ = document(pieces)
    number = data.draw(st.integers(0, len(changes) - 1))
    one = changes[number]
    for wrong in (
        one._replace(old=one.old + "?"),
        one._replace(length=len(file.text)),
        one._replace(start=-1),
    ):
        with pytest.raises(CatalogError, match="no longer holds"):
            spliced(file, [*changes[:number], wrong, *changes[number + 1 :]])
