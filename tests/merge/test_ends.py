"""Which paths of a large catalog are taken apart: every one that may mean a carried file, however it is written."""

from __future__ import annotations

from hypothesis import example, given, settings
from hypothesis import strategies as st

from zesty_crate.machines import Computer, FileKeys
from zesty_crate.merge.who import Ends
from zesty_crate.paths import Spelling, System

NAMES = st.text(st.sampled_from("aBß.ıK é-%$ "), min_size=1, max_size=7)
DRIVES = ["C:\\", "c:/", "\\\\?\\C:\\", "\\\\barn\\a\\", "\\\\?\\UNC\\barn\\reels\\"]
STARTS = st.sampled_from(["", "/", "%HOME%\\", *DRIVES])


@given(system=st.sampled_from(System), start=STARTS, names=st.lists(NAMES, min_size=1, max_size=3))
@example(system=System.MACOS, start="", names=["x.wav"])
@example(system=System.WINDOWS, start="\\\\?\\C:\\", names=["ab.wav"])
@example(system=System.WINDOWS, start="\\\\barn\\a\\", names=["x.wav"])
@settings(max_examples=300)
def test_no_path_of_a_carried_file_is_passed_over(system: System, start: str, names: list[str]) -> None:
    computer = Computer("loft", system, "odile", [], {})
    recorded = start + system.separator.join(names)
    # What is no path is known by its text, with a mark in front.
    key = FileKeys(computer).key(recorded, Spelling.NATIVE, None) or f"\0{recorded}"
    assert Ends([key]).may_be(recorded)
    assert (
        Ends([key]).may_be(recorded.swapcase())
        or FileKeys(computer).key(recorded.swapcase(), Spelling.NATIVE, None) != key
    )
