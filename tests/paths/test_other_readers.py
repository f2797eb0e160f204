"""Paths and names of Windows as the standard library reads them, which is another reader than ours."""

from __future__ import annotations

import ntpath
from pathlib import PureWindowsPath

from hypothesis import example, given
from hypothesis import strategies as st

from zesty_crate.paths import FORMATS, PathError, Spelling, System, name_fault, read_path

DEVICES = [
    *("con", "PRN", "aux", "nul", "com1", "COM9", "com¹", "lpt3", "LPT²", "conin$", "CONOUT$"),
    *("com", "com10", "console"),
]
ENDS = ("", "txt", ".txt", " .b", "x")
NAMES = st.tuples(st.sampled_from(DEVICES), st.sampled_from(("", " ", "  ", ".")), st.sampled_from(ENDS)).map("".join)
PLAIN = st.text(
    st.characters(exclude_characters='<>:"/\\|?*\0', exclude_categories=("Cc", "Cs")), min_size=1, max_size=9
)


@given(st.one_of(NAMES, PLAIN))
@example("nul .txt")
@example("CONIN$")
def test_what_windows_takes_for_a_device_is_no_name_for_us(name: str) -> None:
    if PureWindowsPath(name).is_reserved():
        assert name_fault(name, FORMATS["ntfs"])


@given(
    st.sampled_from(("C:\\", "d:/", "\\\\nas\\share\\", "//nas/share/", "\\\\?\\C:\\", "\\\\?\\UNC\\nas\\share\\")),
    st.lists(PLAIN.filter(lambda each: each[-1] not in ". "), min_size=1, max_size=5),
    st.sampled_from("\\/"),
)
def test_roots_and_names_are_those_that_the_standard_library_finds(root: str, names: list[str], separator: str) -> None:
    separator = "\\" if root.startswith("\\\\?") else separator
    text = root + separator.join(names)
    try:
        path = read_path(text, System.WINDOWS, Spelling.NATIVE).path
    except PathError:  # several paths in one text, or a variable
        return
    drive, rest = ntpath.splitdrive(text)
    assert list(path.parts) == [each for each in rest.replace("/", "\\").split("\\") if each]
    plain = drive.replace("/", "\\").removeprefix("\\\\?\\").removeprefix("UNC\\").strip("\\")
    assert path.root.strip("\\").casefold() == plain.casefold()
    assert PureWindowsPath(text).name == path.parts[-1]
