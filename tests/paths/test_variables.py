"""Paths that begin with a variable, read on one computer and written for another one."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.strategies import names
from zesty_crate.paths import MachinePath, PathError, Spelling, System, Variables, read_path, respell, write_piece

VARIABLES = Spelling.WITH_VARIABLES
WINDOWS = MachinePath(System.WINDOWS, "C:", ("Users", "Odile"))
OTHER = MachinePath(System.WINDOWS, "D:", ("People", "odile.k"))
MAC = MachinePath(System.MACOS, "/", ("Users", "odile.k"))
ODILES = Variables({"USERPROFILE": WINDOWS, "APPDATA": WINDOWS.below("AppData", "Roaming")})
OTHERS = Variables({"USERPROFILE": OTHER, "APPDATA": OTHER.below("Roaming")})
MACS = Variables({"HOME": MAC})


@pytest.mark.parametrize(
    ("text", "system", "variables", "expected"),
    [
        (r"%UserProfile%\Music\a.wav", System.WINDOWS, ODILES, WINDOWS.below("Music", "a.wav")),
        ("%APPDATA%/Rack/", System.WINDOWS, ODILES, WINDOWS.below("AppData", "Roaming", "Rack")),
        ("$HOME/Music/a.wav", System.MACOS, MACS, MAC.below("Music", "a.wav")),
        ("${HOME}/a", System.MACOS, MACS, MAC.below("a")),
        ("~/a", System.MACOS, MACS, MAC.below("a")),
        ("~", System.MACOS, MACS, MAC),
        (r"E:\plain", System.WINDOWS, ODILES, MachinePath(System.WINDOWS, "E:", ("plain",))),
    ],
)
def test_a_variable_is_read_and_written_back(
    text: str, system: System, variables: Variables, expected: MachinePath
) -> None:
    piece = read_path(text, system, VARIABLES, None, variables)
    assert piece.path == expected
    assert write_piece(piece) == text


@pytest.mark.parametrize("text", ["%RACK%\\a", "$RACK/a", "~odile/a", "%APPDATA%x\\a"])
def test_a_variable_that_is_not_known_is_no_path(text: str) -> None:
    system = System.WINDOWS if "\\" in text else System.MACOS
    with pytest.raises(PathError):
        read_path(text, system, VARIABLES, None, ODILES)


@given(st.lists(names(System.WINDOWS), max_size=3))
def test_what_stays_below_a_variable_keeps_it(below: list[str]) -> None:
    text = "\\".join(["%APPDATA%", *below])
    piece = read_path(text, System.WINDOWS, VARIABLES, None, ODILES)
    new = OTHER.below("Roaming", *below)
    moved = respell(piece, new.root, new.parts, System.WINDOWS, None, OTHERS)
    assert write_piece(moved) == text
    assert read_path(write_piece(moved), System.WINDOWS, VARIABLES, None, OTHERS).path == new


def test_what_leaves_its_variable_is_written_in_full() -> None:
    piece = read_path(r"%APPDATA%\Rack\a.wav", System.WINDOWS, VARIABLES, None, ODILES)
    elsewhere = respell(piece, "E:", ("Rack", "a.wav"), System.WINDOWS, None, OTHERS)
    assert write_piece(elsewhere) == r"E:\Rack\a.wav"
    mac = respell(piece, "/", (*MAC.parts, "Rack", "a.wav"), System.MACOS, None, MACS)
    assert write_piece(mac) == "/Users/odile.k/Rack/a.wav"
