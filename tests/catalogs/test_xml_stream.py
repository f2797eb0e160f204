"""Elements that are told one after the other are the same as those of the whole document, with the same places."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zesty_crate.catalogs.text_file import decode_text
from zesty_crate.catalogs.xml_stream import XmlText
from zesty_crate.guides import HoldingPart

SHAPES = [  # which elements, where their paths are, and whether that is streamed
    ("//clip", "@file", True),
    ("//clip[@file]", "@file", True),
    ("/list/clip", "media/@src", True),
    ("/list/shelf/clip", "note", True),
    ("//n:clip", "@file", True),
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
    | st.sampled_from(["\n", "<!-- é <clip file='no'/> -->", "<?go <clip/> ?>", "<clip file='é'/>"])
    | st.lists(CLIPS, max_size=3).map(lambda some: f"<shelf where='D:\\'>{''.join(some)}</shelf>"),
    max_size=8,
)


@given(inside=INSIDE)
@settings(max_examples=120, deadline=None)
@pytest.mark.parametrize(("each", "at", "is_streamed"), SHAPES)
def test_streamed_elements_are_those_of_the_document(each: str, at: str, is_streamed: bool, inside: list[str]) -> None:
    text = f"<list xmlns:n='urn:n'>{''.join(inside)}</list>"
    entries = [{"each": each, "path": [{"at": at}], "annotations": ["@size", "note"]}]
    part = HoldingPart.model_validate(
        {
            "id": "it",
            "kind": "catalog",
            "at": "{home}",
            "syntax": "xml",
            "namespaces": {"n": "urn:n"},
            "entries": entries,
        }
    )
    told = []
    for paths_only in (False, True):
        document = XmlText(decode_text(text.encode(), "it"), part, "it")
        records = document.select_paths(part.entries[0]) if paths_only else document.select(part.entries[0])
        told.append([(record.value(at), record.text("@size"), record.text("note")) for record in records])
        assert document.holds_all is not (paths_only and is_streamed)
    assert told[0] == told[1]


def test_an_element_within_another_of_its_name_is_read_whole() -> None:
    text = "<list><clip file='1'><clip file='2'/></clip></list>"
    part = HoldingPart.model_validate(
        {
            "id": "it",
            "kind": "catalog",
            "at": "{home}",
            "syntax": "xml",
            "entries": [{"each": "//clip", "path": [{"at": "@file"}]}],
        }
    )
    document = XmlText(decode_text(text.encode(), "it"), part, "it")
    found = [record.value("@file") for record in document.select_paths(part.entries[0])]
    assert [each.text for each in found if each is not None] == ["1", "2"]
    assert document.holds_all
