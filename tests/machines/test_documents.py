"""Sheets and guides: everything wrong is said at once, by line; a bad one never comes to more than a clear error."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from support.moves import SmallMove
from zesty_crate.demo.layout import NEW_SHEET, OLD_SHEET
from zesty_crate.documents import DocumentError, KeyLines, parse_document
from zesty_crate.errors import ZestyError
from zesty_crate.guides import WholeGuide, holdings_on, load_guides
from zesty_crate.machines import Disk, computer_of, load_sheet
from zesty_crate.machines.sheet import SheetPart

GUIDE = (Path(__file__).parents[2] / "src/zesty_crate/demo/guides/wimblethorn.toml").read_text(encoding="utf-8")


def faults(text: str, kind: type[SheetPart] | type[WholeGuide]) -> list[str]:
    with pytest.raises(DocumentError) as raised:
        parse_document(text, kind, "The file x.toml")
    return list(raised.value.details)


def test_a_sheet_with_three_mistakes_has_three_lines() -> None:
    text = OLD_SHEET.replace('system = "windows"', 'system = "window"').replace(
        "running = false", 'running = "perhaps"'
    )
    text = text.replace('label  = "Spools"', 'lable  = "Spools"')
    said = faults(text, SheetPart)
    assert len(said) == 3
    assert said[0].startswith("line 4: computer.system is 'window'")
    assert 'did you mean "windows"?' in said[0]
    assert said[1].startswith('line 18: volume.2.lable is not a known key; did you mean "label"?')
    assert said[2].startswith("line 30: programs.wimblethorn.running is 'perhaps'")


@pytest.mark.parametrize(
    ("old", "new", "near", "word"),
    [
        ('at    = "{store}"', 'factroy = ["x"]', "factroy", 'did you mean "factory"?'),
        ('kind    = "presets"', 'kind    = "preset"', '"preset"', 'did you mean "presets"?'),
        ('syntax = "sqlite"', 'syntax = "sqlight"', "sqlight", 'did you mean "sqlite"?'),
        ('{ column = "file" },', "", "path ", "a last piece"),
        ('via = "shelf_id", parent', "parent", "path ", '"table" and "via" together'),
        ('id    = "store"', 'id    = "sounds"', "#", "sounds is used twice"),
        ("language = 1", "language = 2", "language", "language is 2"),
        ('title    = "Wimblethorn Shelf"\n', "", "[guide]", "title is missing"),
    ],
)
def test_a_guides_mistake_is_told_with_its_line(old: str, new: str, near: str, word: str) -> None:
    text = GUIDE.replace(old, new)
    assert text != GUIDE
    line = next(number for number, each in enumerate(text.splitlines(), start=1) if each.strip().find(near) >= 0)
    said = next(each for each in faults(text, WholeGuide) if word in each)
    assert said.startswith(f"line {line}:"), said


@pytest.mark.parametrize(
    ("old", "new", "word"),
    [
        ('key   = "sound_id"', "", 'entries with "table" and "key"'),
        ('syntax = "sqlite"', 'syntax = "xml"', 'only in a catalog of the syntax "sqlite"'),
        ('syntax = "sqlite"', "", 'catalog with "syntax"'),
        ('kind   = "catalog"', 'kind   = "media"', "only in a holding of the kinds companions, project"),
        ('key     = "list_id"', "", 'groups with "table", "key", "name" and "members"'),
        ('at     = "{own}/shelf.db"', 'at = "{own}/*/shelf.db"', 'wildcards only in the last name of "at"'),
        ('at     = "{own}/shelf.db"', "", 'one of "at", "sweep" and "branch"'),
        ('at     = "{own}/shelf.db"', 'at = "x"\nregisters = "x"', '"registers" only with kind = "registrations"'),
        ('at     = "{own}/shelf.db"', 'at = "x"\ncarry = ["x"]', 'only with syntax = "lines"'),
        ('size     = "bytes"', "folder = true\nnumbered = {}", 'either "folder" or "numbered"'),
        ('size     = "bytes"', "numbered = { last = 3 }", '"first", where "last"'),
        ('size     = "bytes"', 'content = { column = "x", as = "md6" }', 'did you mean "md5"'),
        ('size     = "bytes"', 'modified = { column = "x", as = "unix" }', "'unix-seconds'"),
        ('size     = "bytes"', 'values = "x"', 'only in a catalog of the syntaxes "ini", "properties"'),
        ('remote   = "origin', 'remote-like = "("\nremote = "origin', "a regular expression"),
        ('spelling = "from-volume"', 'spelling = "from-volumes"', 'did you mean "from-volume"?'),
    ],
)
def test_entries_that_do_not_fit_their_syntax_are_told(old: str, new: str, word: str) -> None:
    assert any(word in each for each in faults(GUIDE.replace(old, new), WholeGuide))


def test_bad_toml_is_told_with_its_line() -> None:
    with pytest.raises(DocumentError, match="line 2"):
        parse_document("a = 1\nb = = 2\n", SheetPart, "x")


@given(st.text(max_size=80))
@settings(max_examples=40)
def test_any_text_is_a_sheet_or_a_clear_error(text: str) -> None:
    try:
        parse_document(text, SheetPart, "x")
    except DocumentError as error:
        assert error.message


@given(st.data(), st.sampled_from([OLD_SHEET, NEW_SHEET, GUIDE]))
def test_a_damaged_file_is_still_one_or_a_clear_error(data: st.DataObject, text: str) -> None:
    at = data.draw(st.integers(0, len(text) - 1))
    damaged = text[:at] + data.draw(st.text(max_size=3)) + text[at + data.draw(st.integers(0, 30)) :]
    kind: type[SheetPart] | type[WholeGuide] = WholeGuide if text == GUIDE else SheetPart
    try:
        parse_document(damaged, kind, "x")
    except DocumentError as error:
        assert error.next_step


def test_lines_of_arrays_of_tables() -> None:
    lines = KeyLines('[[a]]\nx = 1\n[[a.b]]\ny = 1\n[[a.b]]\ny = 2\n[[a]]\n[a.c]\n"z w" = 1\n')
    assert lines.line_of(("a", 0, "b", 1, "y")) == 6
    assert lines.line_of(("a", 1, "c", "z w")) == 9
    assert lines.line_of(("a", 1, "nothing", 3)) == 7


@pytest.mark.parametrize(
    ("old", "new", "word"),
    [
        ("store =", "stoer =", "'stoer'"),
        ('anchor = "E:"', 'anchor = "E"', "anchor 'E'"),
        ("'E:\\Lanternfold\\Sound Store'", "'Sound Store'", "not a path"),
        ("'E:\\Lanternfold\\Sound Store'", "'{stoor}'", "{stoor} is not known"),
        ("'E:\\Lanternfold\\Sound Store'", "'{store}'", "refers to itself"),
    ],
)
def test_a_place_that_cannot_be_is_named(tmp_path: Path, old: str, new: str, word: str) -> None:
    move = SmallMove(tmp_path / "demo")
    move.demo.old_sheet.write_text(OLD_SHEET.replace(old, new))
    sheet = load_sheet(move.demo.old_sheet, Disk())
    (guide,) = load_guides([move.demo.guides], Disk())
    with pytest.raises(ZestyError) as raised:
        holdings_on(guide, computer_of(sheet), sheet)
    assert word in raised.value.message


def test_of_two_guides_with_one_id_the_earlier_folder_counts(tmp_path: Path) -> None:
    for name in ("mine", "theirs"):
        (tmp_path / name).mkdir()
        (tmp_path / name / "g.toml").write_text(f'[guide]\nid = "g"\ntitle = "{name}"\nlanguage = 1\n')
    assert [guide.title for guide in load_guides([tmp_path / "mine", tmp_path / "theirs"], Disk())] == ["mine"]
