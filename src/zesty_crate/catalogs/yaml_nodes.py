"""Nodes of YAML texts, by PyYAML: in its form in C, which is ten times as fast, and refuses what is too deep."""

from __future__ import annotations

from typing import Any

import yaml
from yaml.nodes import MappingNode, Node, ScalarNode, SequenceNode

__all__ = ["MappingNode", "Node", "ScalarNode", "SequenceNode", "documents_in", "text_of"]

_LOADER: Any = yaml.CSafeLoader if yaml.__with_libyaml__ else yaml.SafeLoader


def documents_in(text: str) -> list[Node]:
    """The root of each document. Raises `ValueError` for what is no YAML."""
    try:
        return [each for each in yaml.compose_all(text, Loader=_LOADER) if each is not None]
    except yaml.YAMLError as error:
        raise ValueError(" ".join(str(error).split())) from error


def text_of(raw: str) -> str | None:
    """What a scalar, alone or as the only member of a list, represents; None for what is no text."""
    try:
        found = documents_in(raw)
    except ValueError:
        return None
    node = found[0] if len(found) == 1 else None
    if isinstance(node, SequenceNode) and len(node.value) == 1:
        node = node.value[0]
    is_text = isinstance(node, ScalarNode) and node.tag == "tag:yaml.org,2002:str" and node.style not in ("|", ">")
    return str(node.value) if is_text and node is not None else None
