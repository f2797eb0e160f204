"""Lines, tables and commands as a terminal of any width shows them."""

from __future__ import annotations

import re
import shlex

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_crate.cli.layout import cells, command_lines, printable, table_lines, wrapped

TEXTS = st.text(st.sampled_from("ab /\\é雨.-"), max_size=60)
WIDTHS = st.integers(24, 100)


@given(TEXTS, WIDTHS, st.integers(0, 6))
def test_no_line_is_wider_than_the_terminal_and_no_letter_is_lost(text: str, width: int, hang: int) -> None:
    lines = wrapped(text, width, hang)
    assert all(cells(line) <= width for line in lines)
    assert re.sub(" ", "", "".join(lines)) == re.sub(" ", "", text)


@given(TEXTS)
def test_into_a_pipe_a_line_stays_as_it_is(text: str) -> None:
    assert wrapped(text, None) == [text]


def test_further_lines_have_a_hanging_indent() -> None:
    text = "  open  wimblethorn-1  Give back the seat on the old computer"
    assert wrapped(text, 40, hang=21) == [
        "  open  wimblethorn-1  Give back the",
        "                       seat on the old",
        "                       computer",
    ]


@given(st.lists(st.text(st.sampled_from("ab c'\"\\$é/-"), min_size=1, max_size=40), min_size=1, max_size=8), WIDTHS)
def test_a_command_on_several_lines_is_the_same_command_and_no_word_is_broken(words: list[str], width: int) -> None:
    lines = command_lines(words, width)
    assert shlex.split(" ".join(lines).replace(" \\ ", " ")) == words
    assert shlex.split("\n".join(lines).replace(" \\\n", " ")) == words
    assert shlex.split(command_lines(words, None)[0]) == words


@given(
    st.lists(st.tuples(TEXTS, TEXTS, st.integers(0, 10**6)), min_size=1, max_size=5),
    st.integers(60, 120),
)
def test_a_table_is_as_wide_as_its_texts_and_no_wider_than_the_terminal(
    rows: list[tuple[str, str, int]], width: int
) -> None:
    cell_rows = [[one.strip(), other.strip(), f"{number:,}"] for one, other, number in rows]
    head, body = table_lines(["name", "where it is", "files"], cell_rows, 1, width)
    assert all(cells(line) <= width and line == line.rstrip() for line in (*head, *body))
    free, unlimited = table_lines(["name", "where it is", "files"], cell_rows, 1, None)
    assert len(unlimited) == len(rows)
    assert all(row[2] in line for row, line in zip(cell_rows, unlimited, strict=True))
    assert free[0].startswith("name")


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("Lamp \x1b[31mLit.wav", "Lamp \\x1b[31mLit.wav"),
        ("two\nlines", "two\\nlines"),
        ("back\u202ewards", "back\\u202ewards"),
        ("not \udce9 Unicode", "not \\udce9 Unicode"),
        ("Théière 雨", "Théière 雨"),
    ],
)
def test_what_a_terminal_would_obey_is_shown_escaped(text: str, shown: str) -> None:
    assert printable(text) == shown
