"""Mistakes in guides are told in the words of TOML; and editors that know the schema accept every guide that we do."""

from __future__ import annotations

import copy
import json
import re
import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import jsonschema
import tomlkit

import zesty_crate.demo
from conftest import Zesty
from support.docs import DOCS
from zesty_crate.documents import DocumentError, parse_document
from zesty_crate.guides import WholeGuide, shipped_guides

DEMO = Path(zesty_crate.demo.__file__).parent / "guides"
GUIDES = {
    **{guide.id: guide.text for guide in shipped_guides()},
    **{file.stem: file.read_text("utf-8") for file in sorted(DEMO.glob("*.toml"))},
}
WRONG: list[Any] = [1, "", [], {}, True, [1], {"x": 1}]
OF_OURS = re.compile(
    r"\b(\w+Part|[Tt]uple|dictionary|instance|validation|valid \w+|Input|None|interpret|str|int|bool)\b"
)


def places(data: object, at: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    for step, value in data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ():
        yield (*at, step)
        yield from places(value, (*at, step))


def changed(data: Any, at: tuple[Any, ...], value: object) -> Any:
    made = copy.deepcopy(data)
    inner = made
    for step in at[:-1]:
        inner = inner[step]
    inner[at[-1]] = value
    return made


def only_holding(data: Any, number: int) -> Any:
    return {"guide": data["guide"], "holding": [data["holding"][number]]}


def each_kind_of_place() -> Iterator[tuple[Any, tuple[Any, ...]]]:
    """A guide with each key that any of them has, and where it has it."""
    known = set()
    for text in GUIDES.values():
        data = tomllib.loads(text)
        for at in places(data):
            kind = tuple(step if isinstance(step, str) else 0 for step in at)
            if kind not in known and at[0] != "places":
                known.add(kind)
                yield (only_holding(data, at[1]), (at[0], 0, *at[2:])) if at[0] == "holding" and at[1:] else (data, at)


def test_no_mistake_is_told_in_words_of_ours() -> None:
    for data, at in each_kind_of_place():
        for wrong in WRONG:
            try:
                parse_document(tomlkit.dumps(changed(data, at, wrong)), WholeGuide, "The guide")
            except DocumentError as error:
                for told in error.details:
                    said = told.split("expected: ")[-1]
                    assert not OF_OURS.search(said), told


def test_the_schema_for_editors_knows_every_key_and_no_other() -> None:
    schema = json.loads((DOCS / "schemas/guide.schema.json").read_text("utf-8"))
    knows = jsonschema.Draft202012Validator(schema).is_valid
    for name, text in GUIDES.items():
        assert knows(tomllib.loads(text)), name
    for data, at in each_kind_of_place():
        if isinstance(at[-1], str) and at[-2:-1] != ("namespaces",):
            assert not knows(changed(data, (*at[:-1], "no-such-key"), 1)), at


def test_the_mistakes_of_a_guide_in_words(zesty: Zesty, tmp_path: Path) -> None:
    guide = tmp_path / "lamps.toml"
    guide.write_text(
        '[guide]\nid = "Lamps!"\ntitle = 1\nlanguage = 1\n[[holding]]\nid = "scenes"\nkind = "catalog"\n'
        'at = "{music}"\nsyntax = "xml"\n[[holding.entries]]\neach = "//sound"\npath = []\nfoldr = true\n'
    )
    told = " ".join(zesty("guide", "lint", guide).stdout.split())
    for said in (
        "line 2: guide.id is 'Lamps!'; expected: an id of small letters, digits and dashes, such as \"lamps\".",
        'line 3: guide.title is 1; expected: a text in quotes, such as "text".',
        "line 12: holding.1.entries.1.path has the wrong form; expected: a list of at least 1.",
        'line 13: holding.1.entries.1.foldr is not a known key; did you mean "folder"?',
    ):
        assert said in told
