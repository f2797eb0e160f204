"""Values of JSON that are asked for their paths alone have the same places as when all is asked of them."""

from __future__ import annotations

import json

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from support.told_paths import paths_of_records, paths_told
from zesty_crate.catalogs.json_text import JsonText
from zesty_crate.catalogs.path_texts import path_texts
from zesty_crate.catalogs.text_file import decode_text
from zesty_crate.guides import EntriesPart, HoldingPart

NAMES = st.sampled_from(["file", 'a"file', "file\\", "clips", "é"])
SCALARS = st.sampled_from(["E:\\rain.wav", '"file": "x"', 'a"file', "é\n\\", "", 7, 2.5, True, None])
VALUES = st.recursive(SCALARS, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(NAMES, inner, max_size=3))
CLIPS = st.lists(st.dictionaries(NAMES, VALUES, max_size=3) | st.fixed_dictionaries({"file": SCALARS}), max_size=4)
DOCUMENTS = st.builds(json.dumps, CLIPS, ensure_ascii=st.booleans(), indent=st.sampled_from([None, 1]))


def opened(text: str, each: str) -> tuple[JsonText, EntriesPart]:
    entries = [{"each": each, "path": [{"at": "file"}], "annotations": ["clips"]}]
    known = {"id": "it", "kind": "catalog", "at": "{home}", "syntax": "json", "entries": entries}
    part = HoldingPart.model_validate(known)
    return JsonText(decode_text(text.encode(), "it"), part, "it"), part.entries[0]


@given(text=DOCUMENTS)
@example(text='[{"file": "a", "file": "b"}]')
@example(text='[{"file": "a"}, {"\\u0066ile": "b"}]')
@example(text='[{"x": "\\"file\\": ", "file" : "c"}, {"file": 7}, {}]')
@example(text='[{"file": "a"}, {"file": "a"}]')
@settings(max_examples=60, deadline=None)
@pytest.mark.parametrize("each", ["$[*]", "$.*", "$..clips[*]", "$[0, 0]", "$..*"])
def test_paths_have_the_same_places_when_nothing_else_is_asked(each: str, text: str) -> None:
    assert list(paths_told(*opened(text, each))) == list(paths_of_records(*opened(text, each)))


def test_a_large_list_is_told_by_its_members() -> None:
    names = [f"E:\\take {number}.wav" for number in range(50)]
    text = json.dumps({"clips": [{"file": name, "stars": 3} for name in names]})
    document, part = opened(text, "$.clips[*]")
    assert document.path_texts(part) is not None
    for told, name in zip(path_texts(document, part), names, strict=True):
        assert told is not None
        written, quoting, start, length = told
        assert (written, quoting) == (name, "json")
        assert json.loads(f'"{text[int(start) : int(start) + length]}"') == name
