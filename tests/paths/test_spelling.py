from __future__ import annotations

import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from support.strategies import machine_paths, names, spellings, systems
from zesty_crate.paths import (
    MachinePath,
    PathError,
    SpelledPiece,
    Spelling,
    Style,
    System,
    join_pieces,
    read_inner,
    read_path,
    respell,
    write_piece,
)


def plain(path: MachinePath, spelling: Spelling) -> SpelledPiece:
    """A path in the usual style of a spelling."""
    separator = path.system.separator if spelling is Spelling.NATIVE else "/"
    opening = "file://" if spelling is Spelling.FILE_URL else ""
    return SpelledPiece(path.system, path.root, path.parts, Style(spelling, separator, opening))


@given(machine_paths(), spellings)
def test_what_is_spelled_reads_as_the_same_path(path: MachinePath, spelling: Spelling) -> None:
    # A backslash in a name is an ordinary character outside Windows, and no file URL on Windows can mean it.
    assume(path.parts or path.root == "/" or not path.root.startswith("\\"))
    assert read_path(write_piece(plain(path, spelling)), path.system, spelling).path == path


@given(machine_paths(), spellings)
def test_what_is_read_spells_as_the_same_text(path: MachinePath, spelling: Spelling) -> None:
    text = write_piece(plain(path, spelling))
    assert write_piece(read_path(text, path.system, spelling)) == text


TEXTS = [
    ("C:\\Users\\Odile\\Music\\", System.WINDOWS, Spelling.NATIVE),
    ("C:\\", System.WINDOWS, Spelling.NATIVE),
    ("c:\\lower\\letter.wav", System.WINDOWS, Spelling.NATIVE),
    ("C:/Users/Odile", System.WINDOWS, Spelling.NATIVE),
    ("\\\\barn\\spools\\Voices\\a.wav", System.WINDOWS, Spelling.NATIVE),
    ("\\\\?\\C:\\very\\long", System.WINDOWS, Spelling.NATIVE),
    ("\\\\?\\UNC\\barn\\spools\\long", System.WINDOWS, Spelling.NATIVE),
    ("E:/Sound Store/Rain/", System.WINDOWS, Spelling.SLASHES),
    ("//barn/spools/Voices", System.WINDOWS, Spelling.SLASHES),
    ("//barn/spools", System.WINDOWS, Spelling.NATIVE),
    ("//barn/spools", System.WINDOWS, Spelling.WITH_VARIABLES),
    ("/", System.MACOS, Spelling.NATIVE),
    ("/Volumes/Spools/", System.MACOS, Spelling.NATIVE),
    ("file:///C:/Users/Odile/My%20Sounds/a%2cb.wav", System.WINDOWS, Spelling.FILE_URL),
    ("file://localhost/C:/x/", System.WINDOWS, Spelling.FILE_URL),
    ("file://localhost/Users/odile.k/For%C3%AAt.wav", System.MACOS, Spelling.FILE_URL),
    ("file:/home/odile/a.wav", System.LINUX, Spelling.FILE_URL),
    ("file:///home/odile/Forêt la nuit.wav", System.LINUX, Spelling.FILE_URL),
    ("file://barn/spools/Voices/a.wav", System.WINDOWS, Spelling.FILE_URL),
    ("FILE:///C:/x", System.WINDOWS, Spelling.FILE_URL),
]


@pytest.mark.parametrize(("text", "system", "spelling"), TEXTS)
def test_a_writers_own_style_comes_back(text: str, system: System, spelling: Spelling) -> None:
    assert write_piece(read_path(text, system, spelling)) == text


@pytest.mark.parametrize(
    ("text", "old", "spelling", "root", "parts", "new", "expected"),
    [
        (
            "C:\\Users\\Odile\\Music\\",
            System.WINDOWS,
            Spelling.NATIVE,
            "/",
            ("Users", "odile.k", "Music"),
            System.MACOS,
            "/Users/odile.k/Music/",
        ),
        ("E:\\", System.WINDOWS, Spelling.NATIVE, "/", ("Volumes", "Spools"), System.MACOS, "/Volumes/Spools/"),
        ("/Volumes/Spools", System.MACOS, Spelling.NATIVE, "E:", (), System.WINDOWS, "E:\\"),
        ("/Volumes/Spools/a", System.MACOS, Spelling.SLASHES, "E:", ("a",), System.WINDOWS, "E:/a"),
        ("\\\\?\\C:\\x", System.WINDOWS, Spelling.NATIVE, "/", ("x",), System.LINUX, "/x"),
        ("\\\\?\\C:\\x", System.WINDOWS, Spelling.NATIVE, "D:", ("x",), System.WINDOWS, "\\\\?\\D:\\x"),
        (
            "file:///C:/My%20Sounds/a%2cb.wav",
            System.WINDOWS,
            Spelling.FILE_URL,
            "/",
            ("home", "My Sounds", "c,d e.wav"),
            System.LINUX,
            "file:///home/My%20Sounds/c%2cd%20e.wav",
        ),
        (
            "file://localhost/Users/o/a.wav",
            System.MACOS,
            Spelling.FILE_URL,
            "E:",
            ("Forêt", "a.wav"),
            System.WINDOWS,
            "file://localhost/E:/For%C3%AAt/a.wav",
        ),
        (
            "file:///home/odile/Forêt/a.wav",
            System.LINUX,
            Spelling.FILE_URL,
            "/",
            ("Hêtre gelé",),
            System.MACOS,
            "file:///Hêtre%20gelé",
        ),
        (
            "file:///C:/x",
            System.WINDOWS,
            Spelling.FILE_URL,
            "\\\\barn\\spools",
            ("x",),
            System.WINDOWS,
            "file://barn/spools/x",
        ),
    ],
)
def test_another_path_is_written_in_the_same_way(
    text: str, old: System, spelling: Spelling, root: str, parts: tuple[str, ...], new: System, expected: str
) -> None:
    assert write_piece(respell(read_path(text, old, spelling), root, parts, new)) == expected


@given(machine_paths(), machine_paths(), spellings)
@example(MachinePath(System.MACOS, "/", ("a%41",)), MachinePath(System.LINUX, "/", ("b%41", "a%41")), Spelling.FILE_URL)
def test_a_respelled_path_reads_as_the_new_path(old: MachinePath, new: MachinePath, spelling: Spelling) -> None:
    assume(new.system is System.WINDOWS or "\\" not in "".join(new.parts))
    piece = respell(read_path(write_piece(plain(old, spelling)), old.system, spelling), new.root, new.parts, new.system)
    assert read_path(write_piece(piece), new.system, spelling).path == new


@given(st.data(), systems, spellings)
def test_pieces_join_to_the_whole(data: st.DataObject, system: System, spelling: Spelling) -> None:
    path = data.draw(machine_paths(system).filter(lambda each: len(each.parts) >= 3))
    cut = data.draw(st.integers(1, len(path.parts) - 1))
    trail = data.draw(st.sampled_from(["", "/"]))
    outer = write_piece(plain(MachinePath(system, path.root, path.parts[:cut]), spelling)) + trail
    inner = write_piece(SpelledPiece(system, "", path.parts[cut:], plain(path, spelling).style))
    inner = inner.removeprefix("file://")
    assert read_inner(inner, system, spelling).parts == path.parts[cut:]
    assert read_path(join_pieces([outer, "", inner], system, spelling), system, spelling).path == path


# -- relative to a document ------------------------------------------------------------------------------------------

relatives = st.sampled_from([Spelling.RELATIVE, Spelling.RELATIVE_URL])


def seen_from(folder: MachinePath, path: MachinePath, spelling: Spelling) -> SpelledPiece:
    separator = path.system.separator if spelling is Spelling.RELATIVE else "/"
    return SpelledPiece(path.system, path.root, path.parts, Style(spelling, separator, base=folder))


@given(st.data(), systems, relatives)
def test_what_is_relative_reads_back_from_its_document(data: st.DataObject, system: System, spelling: Spelling) -> None:
    shared = data.draw(machine_paths(system))
    folder = shared.below(*data.draw(st.lists(names(system), max_size=2)))
    path = shared.below(*data.draw(st.lists(names(system), min_size=1, max_size=3)))
    assume(path.parts != folder.parts[: len(path.parts)])
    assume(system is not System.WINDOWS or "\\" not in "".join(path.parts))
    text = write_piece(seen_from(folder, path, spelling))
    assert read_path(text, system, spelling, folder).path == path


@pytest.mark.parametrize(
    ("text", "old", "folder", "path", "new", "new_folder", "new_path", "expected"),
    [
        ("R\\a.wav", System.WINDOWS, "C:\\M", "C:\\M\\R\\a.wav", System.MACOS, "/m", "/m/R/a.wav", "R/a.wav"),
        ("R/a.wav", System.WINDOWS, "C:\\M", "C:\\M\\R\\a.wav", System.LINUX, "/m", "/m/R/a.wav", "R/a.wav"),
        (
            "../Rain/a.wav",
            System.LINUX,
            "/m/lists",
            "/m/Rain/a.wav",
            System.WINDOWS,
            "C:\\l",
            "C:\\Rain\\a.wav",
            "../Rain/a.wav",
        ),
        ("./a b.wav", System.LINUX, "/m", "/m/a b.wav", System.MACOS, "/n/o", "/n/p/a b.wav", "../p/a b.wav"),
        ("a.wav", System.MACOS, "/m", "/m/a.wav", System.WINDOWS, "C:\\l", "E:\\a.wav", "E:\\a.wav"),
        ("C:\\x\\a.wav", System.WINDOWS, "C:\\M", "C:\\x\\a.wav", System.MACOS, "/m", "/y/a.wav", "/y/a.wav"),
    ],
)
def test_a_relative_path_stays_relative_where_that_can_say_it(
    text: str, old: System, folder: str, path: str, new: System, new_folder: str, new_path: str, expected: str
) -> None:
    piece = read_path(text, old, Spelling.RELATIVE, native(folder, old))
    assert piece.path == native(path, old)
    target = native(new_path, new)
    assert write_piece(respell(piece, target.root, target.parts, new, native(new_folder, new))) == expected


def native(text: str, system: System) -> MachinePath:
    return read_path(text, system, Spelling.NATIVE).path


@pytest.mark.parametrize(
    ("text", "path"),
    [
        ("My%20Rain/a.wav", "/lists/My Rain/a.wav"),
        ("../For%C3%AAt/a.wav", "/For\u00eat/a.wav"),
        ("file:///x/a%25.wav", "/x/a%.wav"),
        ("/x/a.wav", "/x/a.wav"),
        ("./1:2.wav", "/lists/1:2.wav"),
    ],
)
def test_uri_references_are_read_and_come_back(text: str, path: str) -> None:
    piece = read_path(text, System.LINUX, Spelling.RELATIVE_URL, native("/lists", System.LINUX))
    assert str(piece.path) == path
    assert write_piece(piece) == text


@pytest.mark.parametrize("text", ["https://barn/a.wav", "cdda://1", "\0", ""])
def test_what_is_no_file_is_no_relative_path(text: str) -> None:
    for spelling in (Spelling.RELATIVE, Spelling.RELATIVE_URL):
        with pytest.raises(PathError):
            read_path(text, System.LINUX, spelling, native("/lists", System.LINUX))


@pytest.mark.parametrize(
    ("text", "system", "spelling"),
    [
        ("", System.LINUX, Spelling.NATIVE),
        ("music/a.wav", System.LINUX, Spelling.NATIVE),
        ("C:music.wav", System.WINDOWS, Spelling.NATIVE),
        ("\\rooted.wav", System.WINDOWS, Spelling.NATIVE),
        ("/Users/a.wav", System.WINDOWS, Spelling.NATIVE),
        ("C:\\a\0b", System.WINDOWS, Spelling.NATIVE),
        ("https://barn/a.wav", System.LINUX, Spelling.FILE_URL),
        ("file://elsewhere/a.wav", System.MACOS, Spelling.FILE_URL),
        ("file:///Users/a.wav", System.WINDOWS, Spelling.FILE_URL),
        ("file:///home/a%2Fb", System.LINUX, Spelling.FILE_URL),
        ("file:///home/a%00b", System.LINUX, Spelling.FILE_URL),
        ("file:///C:/a%5Cb", System.WINDOWS, Spelling.FILE_URL),
    ],
)
def test_what_is_no_path_is_refused(text: str, system: System, spelling: Spelling) -> None:
    with pytest.raises(PathError):
        read_path(text, system, spelling)


@given(st.text(max_size=40), systems, spellings)
def test_any_text_is_read_or_refused(text: str, system: System, spelling: Spelling) -> None:
    try:
        piece = read_path(text, system, spelling)
    except PathError:
        return
    assert read_path(write_piece(piece), system, spelling).path == piece.path


@given(st.data(), systems)
def test_steps_up_and_nowhere_are_taken(data: st.DataObject, system: System) -> None:
    path = data.draw(machine_paths(system).filter(lambda each: bool(each.parts)))
    detour = data.draw(names(system))
    text = write_piece(plain(path.parent.below(detour, "..", ".", path.name), Spelling.NATIVE))
    assert read_path(text, system, Spelling.NATIVE).path == path
