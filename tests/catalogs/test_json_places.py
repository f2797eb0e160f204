"""Values of JSON that are asked for their paths alone have the same places as when all is asked of them."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from zesty_crate.catalogs.json_text import JsonText
from zesty_crate.catalogs.text_file import decode_text
from zesty_crate.guides import HoldingPart

NAMES = st.sampled_from(["file", 'a"file', "file\\", "clips", "é"])
SCALARS = st.sampled_from(["E:\\rain.wav", '"file": "x"', 'a"file', "é\n\\", "", 7, 2.5, True, None])
VALUES = st.recursive(SCALARS, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(NAMES, inner, max_size=3))
CLIPS = st.lists(st.dictionaries(NAMES, VALUES, max_size=3) | st.fixed_dictionaries({"file": SCALARS}), max_size=4)
DOCUMENTS = st.builds(json.dumps, CLIPS, ensure_ascii=st.booleans(), indent=st.sampled_from([None, 1]))


def places(text: str, each: str, *, of_paths: bool) -> list[Any]:
    entries = [{"each": each, "path": [{"at": "file"}]}]
    known = {"id": "it", "kind": "catalog", "at": "{home}", "syntax": "json", "entries": entries}
    part = HoldingPart.model_validate(known)
    document = JsonText(decode_text(text.encode(), "it"), part, "it")
    records = document.select_paths(part.entries[0]) if of_paths else document.select(part.entries[0])
    return [(record.value("file"), record.text("clips")) for record in records]


@given(text=DOCUMENTS)
@example(text='[{"file": "a", "file": "b"}]')
@example(text='[{"file": "a"}, {"\\u0066ile": "b"}]')
@example(text='[{"x": "\\"file\\": ", "file" : "c"}, {"file": 7}, {}]')
@example(text='[{"file": "a"}, {"file": "a"}]')
@settings(max_examples=200, deadline=None)
@pytest.mark.parametrize("each", ["$[*]", "$.*", "$..clips[*]", "$[0, 0]", "$..*"])
def test_paths_have_the_same_places_when_nothing_else_is_asked(each: str, text: str) -> None:
    assert places(text, each, of_paths=True) == places(text, each, of_paths=False)


def test_a_large_list_is_told_by_its_members() -> None:
    text = json.dumps({"clips": [{"file": f"E:\\take {number}.wav", "stars": 3} for number in range(50)]})
    found = places(text, "$.clips[*]", of_paths=True)
    assert [each.text for each, _ in found] == [f"E:\\take {number}.wav" for number in range(50)]
    assert [json.loads(f'"{text[cell.row : cell.row + cell.length]}"') for (_, cell), _ in found] == [
        each.text for each, _ in found
    ]
