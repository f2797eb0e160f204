"""Drawn texts of every syntax are merged: read by other software, the result has all of both, and no more."""

from __future__ import annotations

import shutil
import tempfile
from collections import Counter
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from merge.test_text_merge import KINDS, Kind, Rows
from support.outside import STRIDE
from support.trip import HEAD
from zesty_crate.documents import parse_document
from zesty_crate.guides import WholeGuide
from zesty_crate.machines import Computer, Disk, Volume
from zesty_crate.merge import MergeOptions, MergeReport, Sides, Taken, merge_and_prove
from zesty_crate.paths import FORMATS, Spelling, System, read_path

NAMES = ("owl", "kiln & mill", "gale, night", 'it\'s "quoted"', "čáp", "a=b;c#d", "<x>", "night 🦉")
SOUNDS = st.lists(
    st.tuples(st.sampled_from(NAMES), st.sampled_from(("", "1", "2"))), max_size=6, unique_by=lambda each: each[0]
)
WORLD = st.tuples(
    SOUNDS,
    st.dictionaries(st.sampled_from("pqr"), st.lists(st.integers(0, 9), max_size=4), max_size=3),
    st.sampled_from((1, 3, 40)),  # where the keys begin
)


def written(kind: Kind, path: Path, world: tuple[list[tuple[str, str]], dict[str, list[int]], int]) -> None:
    sounds, lists, first = world
    rows: Rows = [(str(first + at), f"{name}.wav", stars, "") for at, (name, stars) in enumerate(sounds)]
    members = {name: [rows[at % len(rows)][0] for at in each] if rows else [] for name, each in lists.items()}
    kind.put(path, kind.write("/m/", rows, members))


def told(kind: Kind, path: Path) -> tuple[dict[str, str], dict[str, Counter[str]]]:
    sounds, lists = kind.read(kind.text(path))
    assert len(dict(sounds)) == len(sounds)
    return dict(sounds), {name: Counter(members) for name, members in lists.items()}


def merged(kind: Kind, folder: Path) -> MergeReport:
    part = parse_document(HEAD + kind.guide, WholeGuide, "guide").holding[1]
    volume = Volume(read_path("/", System.LINUX, Spelling.NATIVE).path, FORMATS["ext4"], "", None)
    computer = Computer("shed", System.LINUX, "odile", [volume], {})
    shutil.copy(folder / "there", folder / "merged")
    place, (there, target, carried) = (
        computer.parse("/home/odile/scenes"),
        (folder / name for name in ("there", "merged", "carried")),
    )
    sides = Sides(part, place, there, target, carried, computer)
    return merge_and_prove(sides, MergeOptions(Taken.KEEP), Disk(), folder).report


def writable(kind: Kind, sounds: list[tuple[str, str]]) -> bool:
    """Whether this test's own writer can write such names; and whether it has a place for more than none."""
    awkward = {"xml": '&<"', "counted": '&<"', "zipped": '&<"', "delimited": ',"', "registry": '"', "ini": "%"}
    refused = awkward.get(kind.name, "")
    return bool(sounds) and not any(sign in name for name, _ in sounds for sign in refused)


@settings(max_examples=120 if STRIDE > 1 else 4_000, deadline=None)
@given(kind=st.sampled_from([each for each in KINDS if each.name != "ini-values"]), there=WORLD, carried=WORLD)
def test_all_of_both_is_in_it_and_no_more(
    kind: Kind,
    there: tuple[list[tuple[str, str]], dict[str, list[int]], int],
    carried: tuple[list[tuple[str, str]], dict[str, list[int]], int],
) -> None:
    if not (writable(kind, there[0]) and writable(kind, carried[0])):
        return
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        written(kind, folder / "there", there)
        written(kind, folder / "carried", carried)
        merged(kind, folder)
        (sounds, lists), (others, their_lists), (both, all_lists) = (
            told(kind, folder / each) for each in ("there", "carried", "merged")
        )
        assert both == {path: sounds.get(path) or others.get(path, "") for path in {**sounds, **others}}
        assert list(both)[: len(sounds)] == list(sounds)
        if kind.has_groups:
            assert all_lists.keys() == lists.keys() | their_lists.keys()
            for group, members in all_lists.items():
                assert members == lists.get(group, Counter()) | their_lists.get(group, Counter()), group
        shutil.copy(folder / "merged", folder / "there")
        before = (folder / "there").read_bytes()
        again = merged(kind, folder)
        assert all(table.new == 0 for table in again.tables), "the same again changes nothing"
        assert kind.text(folder / "merged") == kind.unpacked(before)
