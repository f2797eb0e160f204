from __future__ import annotations

import unicodedata

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from support.strategies import machine_paths, names
from zesty_crate.paths import (
    FORMATS,
    USUAL_FORMAT,
    Folding,
    MachinePath,
    NameRules,
    PathError,
    Route,
    RouteMap,
    System,
    before_ending,
    escape_name,
    length_fault,
    name_fault,
    name_key,
    path_key,
    tell_apart,
    unescape_name,
)

formats = st.sampled_from(sorted(FORMATS)).map(FORMATS.__getitem__)


def usual_rules(path: MachinePath) -> NameRules:
    return FORMATS[USUAL_FORMAT[path.system]]


@given(st.text(max_size=20), st.sampled_from(Folding))
def test_a_key_is_its_own_key(name: str, folding: Folding) -> None:
    key = name_key(name, folding)
    assert name_key(key, folding) == key


@given(st.text(st.characters(max_codepoint=0x17F), max_size=12))
def test_volumes_take_for_one_what_they_take_for_one(name: str) -> None:
    composed, decomposed = (unicodedata.normalize(form, name) for form in ("NFC", "NFD"))
    assert name_key(composed, Folding.CANONICAL) == name_key(decomposed, Folding.CANONICAL)
    swapped = decomposed.swapcase()
    assume(swapped.swapcase() == decomposed)
    assert name_key(composed, Folding.CANONICAL_CASELESS) == name_key(swapped, Folding.CANONICAL_CASELESS)
    if composed != decomposed:
        assert name_key(composed, Folding.UPPERCASE) != name_key(decomposed, Folding.UPPERCASE)


@pytest.mark.parametrize(
    ("one", "other", "same_on"),
    [
        ("owl.wav", "OWL.wav", {"ntfs", "exfat", "fat32", "apfs", "hfs+"}),
        ("For\u00eat", "Fore\u0302t", {"apfs", "apfs-case", "hfs+", "hfs+-case"}),
        ("for\u00eat", "FORE\u0302T", {"apfs", "hfs+"}),
        ("stra\u00dfe", "STRASSE", {"apfs", "hfs+"}),
        ("\u0130", "i", set()),
        ("a", "b", set()),
    ],
)
def test_each_format_has_its_own_twins(one: str, other: str, same_on: set[str]) -> None:
    found = {name for name, rules in FORMATS.items() if name_key(one, rules.folding) == name_key(other, rules.folding)}
    assert found == same_on


@given(st.text(min_size=1, max_size=30).filter(lambda name: name not in (".", "..") and "\0" not in name))
def test_an_escaped_name_fits_every_carrier_and_comes_back(name: str) -> None:
    written = escape_name(name)
    assert unescape_name(written) == name
    assert "%" not in written
    for rules in FORMATS.values():
        if fault := name_fault(written, rules):
            assert "long" in fault


@given(st.text(alphabet="~()%2f5aé", min_size=1, max_size=12))
def test_names_that_look_escaped_come_back(name: str) -> None:
    assert unescape_name(escape_name(name)) == name


@given(names(System.WINDOWS))
def test_everyday_names_stay_as_they_are(name: str) -> None:
    assume("%" not in name and "~(" not in name and not name_fault(name, FORMATS["ntfs"]))
    assert escape_name(name) == name


@pytest.mark.parametrize(
    ("name", "format_", "word"),
    [
        ("a:b", "ntfs", "':'"),
        ("AUX.txt", "exfat", "device"),
        ("ends.", "fat32", "dot"),
        ("é" * 130, "ext4", "260 bytes"),
        ("a" * 256, "ntfs", "256 utf-16"),
        ("", "apfs", "not a name"),
        ("a/b", "apfs", "no volume"),
    ],
)
def test_a_name_that_cannot_be_is_told_with_its_reason(name: str, format_: str, word: str) -> None:
    assert word in name_fault(name, FORMATS[format_])


@given(machine_paths(), machine_paths(), st.lists(st.sampled_from(["Rain", "Wind"]), max_size=3))
def test_there_and_back_is_the_same_path(old: MachinePath, new: MachinePath, below: list[str]) -> None:
    there = RouteMap([Route(old, new)], usual_rules).translate(old.below(*below))
    assert there == new.below(*below)
    assert RouteMap([Route(new, old)], usual_rules).translate(there) == old.below(*below)


def windows(*parts: str) -> MachinePath:
    return MachinePath(System.WINDOWS, "C:", parts)


def macos(*parts: str) -> MachinePath:
    return MachinePath(System.MACOS, "/", parts)


def test_the_deepest_route_counts_by_the_old_volumes_case() -> None:
    routes = [Route(windows("Users", "Odile"), macos("a")), Route(windows("Users", "Odile", "Music"), macos("b"))]
    found = RouteMap(routes, usual_rules)
    assert found.translate(windows("USERS", "odile", "music", "X.wav")) == macos("b", "X.wav")
    assert found.translate(windows("Users", "Odile", "Musical", "X.wav")) == macos("a", "Musical", "X.wav")
    assert found.translate(windows("Other")) is None
    assert found.route_for(windows("Users", "Odile")) == routes[0]


def test_routes_that_contradict_each_other_are_refused() -> None:
    with pytest.raises(PathError, match="Two routes"):
        RouteMap([Route(windows("a"), macos("x")), Route(windows("A"), macos("y"))], usual_rules)


@given(machine_paths(), formats)
def test_path_keys_follow_names(path: MachinePath, rules: NameRules) -> None:
    assert path_key(path, rules).startswith(path_key(path.parent, rules))


@pytest.mark.parametrize(
    ("name", "made"),
    [("take.wav", "take (2).wav"), (".hidden", ".hidden (2)"), ("reel", "reel (2)"), ("a.b.c", "a.b (2).c")],
)
def test_something_more_goes_before_the_ending(name: str, made: str) -> None:
    assert before_ending(name, " (2)") == made


@given(names(System.LINUX))
def test_a_name_that_is_told_apart_gives_back_the_old_one(name: str) -> None:
    assume(name not in (".", ".."))
    told = tell_apart(name)
    assert told != name
    assert unescape_name(told) == name


def test_paths_that_no_system_opens_are_told() -> None:
    assert "1024" in length_fault("/" + "a" * 1_100, System.MACOS).replace(",", "")
    assert length_fault("/" + "a" * 1_100, System.LINUX) == ""
