"""Paths of every system, as Hypothesis draws them."""

from __future__ import annotations

from hypothesis import strategies as st

from zesty_crate.paths import MachinePath, Spelling, System

_TRICKY = st.sampled_from(
    [
        "a b",
        "100% Rain",
        "Owl's Nest",
        "For\u00eat",
        "Fore\u0302t",
        "caf%C3%A9",
        "#1",
        "x;y",
        "ß",
        "İ",
        "ΐ",
        "~(25)",
        "A&B",
        "雨",
        "&amp;",
    ]
)
_POSIX_NAME = st.text(st.characters(blacklist_characters="/\0", blacklist_categories=["Cs"]), min_size=1, max_size=12)
_WINDOWS_NAME = st.text(
    st.characters(blacklist_characters='<>:"/\\|?*\x7f', blacklist_categories=["Cs", "Cc"]), min_size=1, max_size=12
).filter(lambda name: name[-1] not in ". ")


def names(system: System) -> st.SearchStrategy[str]:
    """Names that this system can have."""
    drawn = _WINDOWS_NAME if system is System.WINDOWS else _POSIX_NAME
    return (drawn | _TRICKY).filter(lambda name: name not in (".", ".."))


@st.composite
def machine_paths(draw: st.DrawFn, system: System | None = None) -> MachinePath:
    """Absolute paths."""
    chosen = system or draw(st.sampled_from(System))
    root = "/"
    if chosen is System.WINDOWS:
        root = draw(st.sampled_from(["C:", "E:", "\\\\barn\\spools"]))
    return MachinePath(chosen, root, tuple(draw(st.lists(names(chosen), max_size=5))))


spellings = st.sampled_from([each for each in Spelling if each is not Spelling.FROM_VOLUME])  # which needs a computer
systems = st.sampled_from(System)
