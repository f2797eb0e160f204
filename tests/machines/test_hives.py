"""Hives and exports as other software reads and writes them: hive tools, and another implementation of the registry."""

from __future__ import annotations

import os
import shutil
import struct
import subprocess
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.hives import Key, hive
from zesty_crate.machines.registry import Block, RegistryError, Tree, Value, blocks_of_hive, read_export, write_export

HIVE_TOOL, WINE = shutil.which("hivexregedit"), shutil.which("wine")
BRANCH = "HKEY_CURRENT_USER\\Software"
KEYS: Key = {
    "Software": {
        "Théière": {"Märchen": "C:\\é", "": "the default", "bytes": "looks like text".encode("utf-16-le")},
        "Lamps": {"Folder": 'D:\\"Night" \\', "Number": 7, "Inner": {"Deep": {"x": ""}}},
        "Old": {"Gone": {"a": "b"}},
    }
}


def text(words: str, kind: int = 1) -> Value:
    return Value(kind, f"{words}\0".encode("utf-16-le"))


CHANGES = [
    Block(f"{BRANCH}\\New", removed=False, values=(("Folder", text("/Volumes/Spools/\u00e9")), ("", text("mine")))),
    Block(f"{BRANCH}\\New\\Deep", removed=False, values=(("many", Value(7, "a\0b\0\0".encode("utf-16-le"))),)),
    Block(f"{BRANCH}\\Lamps", removed=False, values=(("Number", None), ("Folder", text("%HOME%\\x", 2)))),
    Block(f"{BRANCH}\\Lamps", removed=False, values=(("raw", Value(3, bytes(range(60)))),)),
    Block(f"{BRANCH}\\Lamps", removed=False, values=(("word", Value(4, struct.pack("<I", 5))),)),
    Block(f"{BRANCH}\\Old", removed=True, values=()),
]


def read(path: Path) -> Tree:
    return Tree(blocks_of_hive(path, path.name, BRANCH))


def test_names_and_bytes_of_a_hive_are_read_as_they_are(tmp_path: Path) -> None:
    path = tmp_path / "NTUSER.DAT"
    path.write_bytes(hive(KEYS))
    found = {block.key: dict(block.values) for block in blocks_of_hive(path, path.name, BRANCH)}
    assert found[f"{BRANCH}\\Théière"] == {
        "Märchen": text("C:\\é"),
        "": text("the default"),
        "bytes": Value(3, "looks like text".encode("utf-16-le")),
    }
    assert found[f"{BRANCH}\\Lamps"]["Number"] == Value(4, struct.pack("<I", 7))


@given(st.data())
def test_a_damaged_hive_is_refused_or_read_and_nothing_else(data: st.DataObject) -> None:
    import tempfile

    content = bytearray(hive(KEYS))
    used = len(content.rstrip(b"\0"))
    for _ in range(data.draw(st.integers(1, 6))):
        content[data.draw(st.integers(0, used - 1))] = data.draw(st.integers(0, 255))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "NTUSER.DAT"
        path.write_bytes(content[: data.draw(st.integers(0, len(content)))])
        try:
            list(blocks_of_hive(path, path.name, ""))
        except RegistryError as error:
            assert "cannot be read as a hive" in error.message


# -- hive tools --------------------------------------------------------------------------------------------------------


def hive_tool(*arguments: object) -> bytes:
    said = subprocess.run([str(HIVE_TOOL), *map(str, arguments)], capture_output=True, check=False)
    assert said.returncode == 0, said.stderr
    return said.stdout


def merged_by_tool(path: Path, blocks: list[Block]) -> None:
    """The tool takes exports a byte a character, with the line ends of Linux."""
    export = path.with_suffix(".reg")
    export.write_text(write_export(blocks).decode("utf-16").replace("\r\n", "\n"), encoding="latin-1", newline="\n")
    hive_tool("--merge", "--prefix", "HKEY_CURRENT_USER", "--encoding", "UTF-16LE", path, export)


@pytest.mark.skipif(HIVE_TOOL is None, reason="no hive tools here (Debian: libwin-hivex-perl)")
def test_hive_tools_read_the_same(tmp_path: Path) -> None:
    path = tmp_path / "NTUSER.DAT"
    path.write_bytes(hive(KEYS))
    export = hive_tool("--export", "--prefix", "HKEY_CURRENT_USER", path, "\\Software").decode("latin-1")
    assert Tree(read_export(export.encode("utf-16"), "theirs")) == read(path)


@pytest.mark.skipif(HIVE_TOOL is None, reason="no hive tools here (Debian: libwin-hivex-perl)")
def test_hive_tools_merge_our_exports_as_we_do(tmp_path: Path) -> None:
    path = tmp_path / "NTUSER.DAT"
    path.write_bytes(hive(KEYS))
    ours = read(path)
    ours.merge(CHANGES)
    merged_by_tool(path, CHANGES)
    assert read(path) == ours


# -- another implementation of the registry ----------------------------------------------------------------------------


@pytest.mark.skipif(WINE is None, reason="wine is not here")
@pytest.mark.skipif("ZESTY_KILLS" not in os.environ, reason="it takes a minute; make faults runs it")
def test_another_registry_imports_and_exports_the_same(tmp_path: Path) -> None:
    given = {**os.environ, "WINEPREFIX": str(tmp_path / "prefix"), "WINEDEBUG": "-all", "DISPLAY": ""}

    def asked(*words: str) -> subprocess.CompletedProcess[bytes]:
        command = [str(WINE), *words]
        return subprocess.run(command, env=given, capture_output=True, check=False, cwd=tmp_path, timeout=300)

    def wine(*words: str) -> None:
        said = subprocess.run(
            [str(WINE), *words], env=given, capture_output=True, check=False, cwd=tmp_path, timeout=300
        )
        assert said.returncode == 0, said.stderr

    before = [
        Block(f"{BRANCH}\\Old\\Gone", removed=False, values=(("a", text("b")),)),
        Block(f"{BRANCH}\\Lamps", removed=False, values=(("Number", Value(4, b"\7\0\0\0")),)),
    ]
    tree = Tree(before)
    tree.merge(CHANGES)
    for name, blocks in (("before", before), ("changes", CHANGES)):
        (tmp_path / f"{name}.reg").write_bytes(write_export(blocks))
        wine("reg", "import", f"{name}.reg")
    for key in ("New", "Lamps"):
        wine("reg", "export", f"HKCU\\Software\\{key}", f"{key}.reg", "/y")
        theirs = read_export((tmp_path / f"{key}.reg").read_bytes(), key)
        assert Tree(theirs) == Tree(tree.branch(f"{BRANCH}\\{key}"))
    said = subprocess.run(
        [str(WINE), "reg", "query", "HKCU\\Software\\Old"], env=given, capture_output=True, check=False
    )
    assert said.returncode != 0
