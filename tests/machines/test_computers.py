"""A computer: how its native paths are read."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from zesty_crate.machines import Computer
from zesty_crate.paths import PathError, System

NAMED = st.text(st.sampled_from("ab/\\. é:"), min_size=1, max_size=4)


@given(system=st.sampled_from(System), paths=st.lists(st.lists(NAMED, max_size=3), max_size=8))
def test_paths_that_come_by_folders_are_read_as_each_by_itself(system: System, paths: list[list[str]]) -> None:
    computer = Computer("loft", system, "odile", [], {})
    roots = ["C:\\", "e:\\", "\\\\barn\\reels\\"] if system is System.WINDOWS else ["/"]
    texts = [root + system.separator.join(names) for names in [*paths, *paths] for root in roots]
    texts = [text for text in texts if _is_path(computer, text)]
    assert list(computer.parse_all(texts)) == [computer.parse(text) for text in texts]


def _is_path(computer: Computer, text: str) -> bool:
    try:
        computer.parse(text)
    except PathError:
        return False
    return True
