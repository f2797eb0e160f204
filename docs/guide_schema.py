"""The JSON Schema of guides, for editors that check and complete TOML: made from the types that read guides."""

from __future__ import annotations

import re
from typing import Any

from pydantic import AliasChoices

from zesty_crate.documents import Part
from zesty_crate.guides import WholeGuide

Schema = dict[str, Any]


def guide_schema() -> Schema:
    """The schema, with the names of tables as guides write them."""
    made = WholeGuide.model_json_schema()
    parts = {kind.__name__: kind for kind in _all_parts(Part)}
    for name, definition in made["$defs"].items():
        if name in parts:
            _allow_other_names(definition, parts[name])
    found: Schema = _plain(made)
    found["$defs"] = {_dashed(name): each for name, each in found["$defs"].items()}
    return {**found, "title": "A guide of Zesty Crate"}


def _all_parts(kind: type[Part]) -> list[type[Part]]:
    return [each for child in kind.__subclasses__() for each in (child, *_all_parts(child))]


def _allow_other_names(definition: Schema, part: type[Part]) -> None:
    """A key that has several names may be written by any of them, and by one only."""
    for field in part.model_fields.values():
        alias = field.validation_alias
        if isinstance(alias, AliasChoices):
            first, *others = map(str, alias.choices)
            if not others:
                continue
            definition["properties"].update(dict.fromkeys(others, definition["properties"][first]))
            if first in definition.get("required", ()):
                definition["required"].remove(first)
                definition["oneOf"] = [{"required": [name]} for name in (first, *others)]


def _plain(schema: Any) -> Any:
    """Without the names of our classes, and without null, which TOML has not."""
    if isinstance(schema, list):
        return [_plain(each) for each in schema]
    if not isinstance(schema, dict):
        return schema
    kept = {
        name: _plain(each)
        for name, each in schema.items()
        if not (name == "title" and isinstance(each, str)) and not (name == "default" and each is None)
    }
    if isinstance(kept.get("$ref"), str):
        kept["$ref"] = "#/$defs/" + _dashed(kept["$ref"].rsplit("/", 1)[1])
    choices = [each for each in kept.get("anyOf", []) if each != {"type": "null"}]
    if len(choices) == 1:
        del kept["anyOf"]
        kept = {**choices[0], **kept}
    return kept


def _dashed(name: str) -> str:
    return re.sub(r"(?<=[a-z])(?=[A-Z])", "-", name.removesuffix("Part")).lower()
