"""Exports of a registry: read, written, merged with exact semantics; and the two registries that can be changed."""

from __future__ import annotations

import struct
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.hives import hive
from support.winreg import FakeWinreg
from zesty_crate.machines import Disk
from zesty_crate.machines.registry import (
    Block,
    ExportedRegistry,
    RegistryError,
    SystemRegistry,
    Tree,
    Value,
    WindowsRegistry,
    blocks_of_hive,
    read_export,
    write_export,
)

ROOT = "HKEY_CURRENT_USER\\Software\\Thrumbarrow"
OTHER = "HKEY_CURRENT_USER\\Software\\Other"


def text(words: str) -> Value:
    return Value(1, (words + "\0").encode("utf-16-le"))


def values(*pairs: tuple[str, Value | None]) -> tuple[tuple[str, Value | None], ...]:
    return pairs


HERE = (
    Block(ROOT, removed=False, values=values(("", text("mine")), ("Keys", Value(3, b"\1\2")))),
    Block(f"{ROOT}\\Old", removed=False, values=values(("Folder", text("D:\\Old")))),
    Block(f"{ROOT}\\Old\\Inner", removed=False, values=()),
    Block(OTHER, removed=False, values=values(("Number", Value(4, struct.pack("<I", 7))))),
)
COMES = (
    Block(f"{ROOT}\\New", removed=False, values=values(("Folder", Value(2, "%HOME%\0".encode("utf-16-le"))))),
    Block(ROOT.lower(), removed=False, values=values(("keys", Value(3, b"\3")), ("Gone", None), ("", None))),
    Block(f"{ROOT}\\Old", removed=True, values=()),
)
THEN = {
    ROOT: {"KEYS": ("keys", Value(3, b"\3"))},
    f"{ROOT}\\New": {"FOLDER": ("Folder", Value(2, "%HOME%\0".encode("utf-16-le")))},
    OTHER: {"NUMBER": ("Number", Value(4, struct.pack("<I", 7)))},
}


@pytest.fixture(params=["proxy", "winreg"])
def registry(request: pytest.FixtureRequest, tmp_path: Path) -> SystemRegistry:
    """Either registry, with something in it."""
    if request.param == "winreg":
        made: SystemRegistry = WindowsRegistry(FakeWinreg())
        made.merge(HERE)
        return made
    (tmp_path / "registry.reg").write_bytes(write_export(HERE))
    return ExportedRegistry(tmp_path / "registry.reg", Disk())


def branches(registry: SystemRegistry, *keys: str) -> dict[str, dict[str, tuple[str, Value | None]]]:
    return {
        block.key: {name.upper(): (name, value) for name, value in block.values}
        for key in keys
        for block in registry.branch(key)
    }


def test_merging_creates_replaces_and_removes_and_keeps_all_else(registry: SystemRegistry) -> None:
    registry.merge(COMES)
    assert branches(registry, ROOT, OTHER) == THEN
    registry.merge(COMES)
    assert branches(registry, ROOT, OTHER) == THEN


def test_a_branch_is_restored_and_nothing_else(registry: SystemRegistry) -> None:
    before, saved = branches(registry, ROOT), registry.saved(ROOT)
    registry.merge(COMES)
    registry.merge([Block(OTHER, removed=False, values=values(("Since", text("written meanwhile"))))])
    registry.restore(ROOT, saved)
    assert branches(registry, ROOT) == before
    assert branches(registry, OTHER)[OTHER]["SINCE"] == ("Since", text("written meanwhile"))


def test_a_branch_that_was_not_there_is_gone_again(registry: SystemRegistry) -> None:
    key = "HKEY_LOCAL_MACHINE\\SOFTWARE\\Lanternfold"
    saved = registry.saved(key)
    registry.merge([Block(f"{key}\\Looks", removed=False, values=())])
    assert registry.branch(key)
    registry.restore(key, saved)
    assert registry.branch(key) == []


def test_a_stand_in_is_restored_to_the_byte(tmp_path: Path) -> None:
    path = tmp_path / "registry.reg"
    path.write_bytes(b"REGEDIT4\n\n; a remark\n[" + ROOT.encode() + b']\n"a"="b"\n')
    before, registry = path.read_bytes(), ExportedRegistry(path, Disk())
    saved = registry.saved(ROOT)
    registry.merge(COMES)
    assert path.read_bytes() != before
    registry.restore(ROOT, saved)
    assert path.read_bytes() == before


def test_what_may_not_be_opened_is_an_error_and_not_nothing() -> None:
    fake = FakeWinreg()
    registry = WindowsRegistry(fake)
    registry.merge(HERE)
    fake.denied.add(ROOT.upper())
    for attempt in (lambda: registry.branch(ROOT), lambda: registry.merge(COMES)):
        with pytest.raises(RegistryError, match="cannot be opened or changed: Access is denied"):
            attempt()
    with pytest.raises(RegistryError, match="is not a root"):
        registry.branch("HKEY_NOWHERE\\Software")


names = st.text(st.characters(blacklist_categories=["Cs", "Cc"], blacklist_characters="[]\\"), min_size=1, max_size=8)
datas = st.one_of(
    st.builds(text, st.text(st.characters(blacklist_categories=["Cs"]), max_size=12)),
    st.builds(Value, st.integers(0, 12), st.binary(max_size=80)),
)
keys = st.lists(names.filter(lambda name: name == name.strip()), min_size=1, max_size=3).map("\\".join)
blocks = st.lists(
    st.builds(
        Block,
        keys.map(lambda name: f"HKEY_CURRENT_USER\\{name}"),
        st.booleans(),
        st.lists(st.tuples(names, st.one_of(st.none(), datas)), max_size=3).map(tuple),
    ).map(lambda block: block._replace(values=()) if block.removed else block),
    max_size=5,
)


@given(blocks)
def test_an_export_says_what_was_written(written: list[Block]) -> None:
    assert read_export(write_export(written), "it") == written


@given(blocks, blocks)
def test_merging_what_a_tree_says_makes_the_same_tree(here: list[Block], comes: list[Block]) -> None:
    tree = Tree([*here, *comes])
    assert Tree(tree.blocks()) == tree
    merged = Tree(here)
    merged.merge(comes)
    assert merged == tree


def test_both_forms_and_every_type_are_read() -> None:
    lines = [
        "REGEDIT4",
        "",
        f"[{ROOT}]",
        '@="a \\"quoted\\" word, C:\\\\x"',
        '"n"=dword:0000000a',
        '"b"=hex:01,02,\\',
        "  03",
        '"e"=hex(2):25,00',
        '"gone"=-',
        "",
        f"[-{ROOT}\\Old]",
        "",
    ]
    narrow = read_export("\r\n".join(lines).encode("cp1252"), "it")
    assert narrow[0].values == (
        ("", text('a "quoted" word, C:\\x')),
        ("n", Value(4, b"\x0a\0\0\0")),
        ("b", Value(3, b"\1\2\3")),
        ("e", Value(2, "%\0".encode("utf-16-le"))),
        ("gone", None),
    )
    assert narrow[1] == Block(f"{ROOT}\\Old", removed=True, values=())
    assert Tree([Block("HKCU\\Software\\X", removed=False, values=())]).branch("HKEY_CURRENT_USER\\software\\x")


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"nonsense", "line 1 is 'nonsense'"),
        (b"", "line 1 is ''"),
        (b'REGEDIT4\n"a"="b"\n', "line 2"),
        (b"REGEDIT4\n[HKEY_CURRENT_USER\\X]\na=b\n", "line 3 is 'a=b'"),
        (b'REGEDIT4\n[HKEY_CURRENT_USER\\X]\n"a"=hex:zz\n', "line 3"),
        (b'REGEDIT4\n[HKEY_CURRENT_USER\\X]\n"a"=hex:01,\\\n', None),
    ],
)
def test_what_is_no_export_is_refused_by_line(content: bytes, said: str | None) -> None:
    if said is None:
        assert read_export(content, "it")[0].values == (("a", Value(3, b"\1")),)
        return
    with pytest.raises(RegistryError) as raised:
        read_export(content, "it")
    assert said in raised.value.message


@given(st.binary(max_size=200))
def test_any_bytes_are_an_export_or_refused(content: bytes) -> None:
    for mark in (b"", b"REGEDIT4\n", b"\xff\xfe" + "Windows Registry Editor Version 5.00\r\n".encode("utf-16-le")):
        try:
            read_export(mark + content, "it")
        except RegistryError:
            continue


def test_a_hive_is_read_with_its_types(tmp_path: Path) -> None:
    path = tmp_path / "NTUSER.DAT"
    path.write_bytes(hive({"Software": {"Thrumbarrow": {"Title": "Barn Organ", "Voices": 16}}}))
    (block,) = blocks_of_hive(path, path.name, ROOT)
    assert (block.key, dict(block.values)) == (ROOT, {"Title": text("Barn Organ"), "Voices": Value(4, b"\x10\0\0\0")})
