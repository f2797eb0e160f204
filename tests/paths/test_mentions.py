"""Places that texts name: many asked for at once are told as one by one."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from zesty_crate.paths import MachinePath, Mentions, System

MENTIONS = Mentions(
    [
        MachinePath(System.WINDOWS, "C:", ("Users", "Odile")),
        MachinePath(System.WINDOWS, "E:"),
        MachinePath(System.WINDOWS, "\\\\loft\\reels"),
        MachinePath(System.LINUX, "/", ("home", "odile")),
    ]
)
NAMES = ["C:", "E:", "Users", "Odile", "home", "odile", "\\\\loft", "reels", "file://", "%5C"]
PARTS = st.sampled_from([*NAMES, *"\\/x.' |\n\r\0é"])


@given(st.lists(st.lists(PARTS, max_size=9).map("".join), max_size=6))
def test_many_texts_name_what_each_of_them_names(texts: list[str]) -> None:
    assert list(MENTIONS.in_texts(texts)) == [each.text for text in texts for each in MENTIONS.in_text(text)]
