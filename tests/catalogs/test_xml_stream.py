"""Elements that are told one after the other are the same as those of the whole document, with the same places."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from support.told_paths import paths_of_records, paths_told
from zesty_crate.catalogs import CatalogError
from zesty_crate.catalogs.path_texts import path_texts
from zesty_crate.catalogs.text_file import decode_text
from zesty_crate.catalogs.xml_stream import XmlText
from zesty_crate.guides import HoldingPart

SHAPES = [  # which elements, where their paths are, and whether that is streamed
    ("//clip", "@file", True),
    ("//clip[@file]", "@file", True),
    ("/list/clip", "media/@src", True),
    ("/list/shelf/clip", "note", True),
    ("//n:clip", "@file", True),
    ("//clip[@kind='x'][@size]", "@file", True),
    ("/list/n:clip", "@path", True),
    ("//clip", "../@where", False),
    ("//clip[2]", "@file", False),
    ("//shelf//clip", "@file", False),
]
TEXTS = st.sampled_from(["E:\\rain.wav", "é &amp; &#x1F989;", "a &lt; b", "", "plain"])
CLIPS = st.builds(
    lambda name, file, inside: f"<{name}{file}>{inside}</{name.split()[0]}>",
    st.sampled_from(["clip", "n:clip", "other", 'clip file=""']),
    TEXTS.map(lambda text: f" kind='x' size=\"7\" n:file=\"y\" path='{text}'"),
    st.sampled_from(["", "<note>é <b/>rest</note>", "<media src='E:/é.wav'/>", "<!-- <clip> --><![CDATA[<clip>]]>"]),
)
INSIDE = st.lists(
    CLIPS.map(lambda clip: clip.replace("path=", "file=", 1) if ' file=""' not in clip else clip)
    | st.sampled_from(
        ["\n", "<!-- é <clip file='no'/> -->", "<?go <clip/> ?>", "<clip file='é'/>", "<x xmlns='y'><clip/></x>"]
    )
    | st.sampled_from(
        ["<clip kind='x' size='7' file='a\tb'/>", "<clip n:file='z' file = 'é'/>", "<shelf><clip file='5'/></shelf>"]
    )
    | st.lists(CLIPS, max_size=3).map(lambda some: f"<shelf where='D:\\'>{''.join(some)}</shelf>"),
    max_size=8,
)


def part_of(each: str, at: str, *others: str) -> HoldingPart:
    entries = [{"each": each, "path": [{"at": at}], "annotations": others}]
    known = {"id": "it", "kind": "catalog", "at": "{home}", "syntax": "xml", "namespaces": {"n": "urn:n"}}
    return HoldingPart.model_validate({**known, "entries": entries})


def document_of(text: str, part: HoldingPart) -> XmlText:
    return XmlText(decode_text(text.encode(), "it"), part, "it")


@given(inside=INSIDE)
@settings(max_examples=60, deadline=None)
@pytest.mark.parametrize("others", [("@size", "note"), ("@size",)])
@pytest.mark.parametrize(("each", "at", "is_streamed"), SHAPES)
def test_streamed_elements_are_those_of_the_document(
    each: str, at: str, is_streamed: bool, others: tuple[str, ...], inside: list[str]
) -> None:
    part, text = part_of(each, at, *others), f"<list xmlns:n='urn:n'>{''.join(inside)}</list>"
    document = document_of(text, part)
    told = list(paths_told(document, part.entries[0]))
    assert document.holds_all is not is_streamed
    assert told == list(paths_of_records(document_of(text, part), part.entries[0]))
    document = document_of(text, part)
    assert [record.text(at) or "" for record in document.told(part.entries[0])] == [
        found[0] if found else "" for found, _ in told
    ]
    assert document_of(text, part).is_empty is document.is_empty


@pytest.mark.parametrize("others", [("@size", "note"), ("@size",)])
def test_attributes_that_a_declaration_gives_are_read(others: tuple[str, ...]) -> None:
    part = part_of("//clip", "@file", *others)
    text = "<!DOCTYPE list [<!ATTLIST clip file CDATA '2'>]><list><clip file='1'/><clip/></list>"
    assert [record.text("@file") for record in document_of(text, part).told(part.entries[0])] == ["1", "2"]
    told = list(path_texts(document_of(text, part), part.entries[0]))
    assert [each and each[0] for each in told] == ["1", "2"]


@pytest.mark.parametrize("others", [("@size", "note"), ("@size",)])
@pytest.mark.parametrize("text", ["<list><clip file='1'/>", "<list><clip file='1' o:size='3'/></list>"])
def test_a_document_that_is_no_xml_is_refused(text: str, others: tuple[str, ...]) -> None:
    part = part_of("//clip", "@file", *others)
    with pytest.raises(CatalogError, match="cannot be read as XML"):
        list(document_of(text, part).told(part.entries[0]))
    with pytest.raises(CatalogError, match="cannot be read as XML"):
        list(path_texts(document_of(text, part), part.entries[0]))


def test_an_element_within_another_of_its_name_is_read_whole() -> None:
    part = part_of("//clip", "@file", "note")
    document = document_of("<list><clip file='1'><clip file='2'/></clip></list>", part)
    assert [each and each[0] for each in path_texts(document, part.entries[0])] == ["1", "2"]
    assert document.holds_all
