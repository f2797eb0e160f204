"""Another text in the same place and manner: it reads back, and what stays is written as it was."""

from __future__ import annotations

import csv
import io
import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from zesty_crate.catalogs import CatalogError
from zesty_crate.catalogs.bytes_quoting import BYTES_QUOTINGS
from zesty_crate.catalogs.quoting import QUOTINGS
from zesty_crate.catalogs.quoting_units import requoted

_TEXTS = st.text(st.characters(blacklist_categories=["Cs", "Cc"]), max_size=20)
_OTHERS = {"registry-hex", "registry-hex-wide", "json-names", *(each.name for each in BYTES_QUOTINGS)}
_OF_ANY_TEXT = sorted(set(QUOTINGS) - _OTHERS)
_CONTENT = st.lists(
    st.builds("<![CDATA[{}]]>".format, _TEXTS.filter(lambda text: "]" not in text))
    | st.builds("<!--{}-->".format, _TEXTS.filter(lambda text: "-" not in text))
    | _TEXTS.map(lambda text: QUOTINGS["xml-text"].rewrite("", text)),
    max_size=5,
).map("".join)


@given(st.sampled_from(_OF_ANY_TEXT), _TEXTS, _TEXTS, _TEXTS)
def test_a_rewritten_text_reads_back(name: str, kept: str, old: str, new: str) -> None:
    quoting = QUOTINGS[name]
    try:
        raw = quoting.rewrite("", kept + old)
        again = quoting.rewrite(raw, kept + new)
    except CatalogError:
        assert name in ("plain", "unescaped", "csv-bare", "ini-quoted", "registry")
        return
    assert quoting.decode(raw) == kept + old
    assert quoting.decode(again) == kept + new


_NAMED = st.builds(
    "{}{}{}".format,
    _TEXTS,
    st.sampled_from(["/", "\\", "\\\\", '\\"']),
    st.sampled_from(["a.wav", "é.wav", '"', "&", ""]),
)


@given(st.sampled_from(_OF_ANY_TEXT), _NAMED, _NAMED, _NAMED, st.booleans())
def test_what_is_remembered_of_a_folder_writes_the_same(name: str, old: str, new: str, other: str, as_is: bool) -> None:
    """``as_is`` takes a text for one that is written already, whatever it represents."""
    quoting = QUOTINGS[name]
    try:
        raw = old if as_is else quoting.rewrite("", old)
        expected = quoting.rewrite(raw, new)
    except (CatalogError, LookupError, ValueError):  # no such text is in a document of the syntax
        return
    assert requoted(quoting, raw, quoting.decode(raw), new) == expected
    if quoting.decode(raw) != other:
        assert requoted(quoting, raw, other, new) is None


@given(st.lists(_TEXTS.filter(lambda name: name and "/" not in name and "\\" not in name), min_size=1), st.booleans())
def test_a_list_of_names_is_read_and_written(names: list[str], is_closed: bool) -> None:
    quoting, root = QUOTINGS["json-names"], "/" if is_closed else ""
    raw = json.dumps([root, "some", "where"], indent=1)
    path = "/" + "/".join(names)
    assert json.loads(quoting.rewrite(raw, path)) == [root, *names]
    assert quoting.decode(quoting.rewrite(raw, path)) == path
    on_windows = quoting.rewrite(raw, "C:" + path)
    assert json.loads(on_windows) == ["C:\\" if is_closed else "C:", *names]
    assert quoting.rewrite(on_windows, "/some/where") == raw


@pytest.mark.parametrize(
    ("name", "raw", "new", "expected"),
    [
        ("xml-double", "/old/a&#38;b &#x27;c&apos;", "/new/a&b 'c'", "/new/a&#38;b &#x27;c&apos;"),
        ("xml-single", "/old/x", "/it's <&\" >/x", '/it&apos;s &lt;&amp;" >/x'),
        ("xml-text", "/old/&amp;/x", "/n\"'/&/x", "/n\"'/&amp;/x"),
        ("json", r"\/old\/caf\u00e9", "/néw/café", r"\/n\u00e9w\/caf\u00e9"),
        ("json", "/old/café", '/n"\\/café', '/n\\"\\\\/café'),
        ("json", r"/\u0041ld/\uD83E\uDD89", "/Ald/new/\U0001f989", r"/\u0041ld/new/\uD83E\uDD89"),
        ("csv-quoted", 'say ""no""/old', 'say "no"/"new"', 'say ""no""/""new""'),
        ("registry", r"C:\\old\\a", r"D:\new\a", r"D:\\new\\a"),
        ("registry-hex", "hex(2):61,00", "b", "hex(2):62,00"),
    ],
)
def test_what_stays_keeps_its_own_escapes(name: str, raw: str, new: str, expected: str) -> None:
    assert QUOTINGS[name].rewrite(raw, new) == expected


@pytest.mark.parametrize(
    ("name", "new"),
    [("plain", "a\nb"), ("csv-bare", "a,b"), ("ini-quoted", 'a"b'), ("xml-double", "a\x01b"), ("registry-hex", "雨")],
)
def test_what_cannot_stand_there_is_refused(name: str, new: str) -> None:
    raw = "hex(2):00" if name == "registry-hex" else ""
    with pytest.raises(CatalogError, match="cannot hold"):
        QUOTINGS[name].rewrite(raw, new)


@given(_CONTENT, _TEXTS, st.booleans())
def test_the_whole_content_of_an_element_keeps_what_is_no_text(raw: str, new: str, keeps: bool) -> None:
    quoting = QUOTINGS["xml-content"]
    wanted = quoting.decode(raw)[:5] + new if keeps else new
    written = quoting.rewrite(raw, wanted)
    assert quoting.decode(written) == wanted
    element = etree.fromstring(f"<a>{written}</a>".encode())
    assert "".join([element.text or "", *(child.tail or "" for child in element)]) == wanted
    assert len(element) == raw.count("<!--")


@given(_TEXTS)
def test_other_readers_agree(text: str) -> None:
    attribute = f'<a b="{QUOTINGS["xml-double"].rewrite("", text)}">{QUOTINGS["xml-text"].rewrite("", text)}</a>'
    element = etree.fromstring(attribute)
    assert element.get("b") == text
    assert (element.text or "") == text
    assert json.loads(f'"{QUOTINGS["json"].rewrite("", text)}"') == text
    assert next(csv.reader(io.StringIO(f'"{QUOTINGS["csv-quoted"].rewrite("", text)}"\n'))) == [text]
