"""Nodes of YAML texts, by PyYAML: in its form in C, which is ten times as fast, and refuses what is too deep."""

from __future__ import annotations

from typing import Any

import yaml
from yaml.nodes import CollectionNode, MappingNode, ScalarNode, SequenceNode
from yaml.nodes import Node as YamlNode

__all__ = [
    "CollectionNode",
    "MappingNode",
    "ScalarNode",
    "SequenceNode",
    "YamlNode",
    "documents_in",
    "kind_of",
    "places_of_names",
    "text_of",
]

_LOADER: Any = yaml.CSafeLoader if yaml.__with_libyaml__ else yaml.SafeLoader
_TEXT = "tag:yaml.org,2002:str"


def documents_in(text: str) -> list[YamlNode]:
    """The root of each document. Raises `ValueError` for what is no YAML."""
    try:
        return [each for each in yaml.compose_all(text, Loader=_LOADER) if each is not None]
    except yaml.YAMLError as error:
        raise ValueError(" ".join(str(error).split())) from error


def places_of_names(text: str) -> list[int]:
    """Where nodes get names (anchors), and where these stand for them (aliases)."""
    named = (yaml.AnchorToken, yaml.AliasToken)
    return [each.start_mark.index for each in yaml.scan(text, Loader=_LOADER) if isinstance(each, named)]


def text_of(raw: str) -> str | None:
    """What a scalar, alone or as the only member of a list, represents; None for what is no text."""
    node = _only_scalar(raw)
    return str(node.value) if node is not None and node.tag == _TEXT and node.style not in ("|", ">") else None


def kind_of(raw: str) -> str:
    """What a scalar that is no text is by itself, as its tag tells; empty for a text, and for what is no scalar."""
    node = _only_scalar(raw)
    return str(node.tag) if node is not None and node.tag != _TEXT else ""


def _only_scalar(raw: str) -> ScalarNode | None:
    try:
        found = documents_in(raw)
    except ValueError:
        return None
    node = found[0] if len(found) == 1 else None
    if isinstance(node, SequenceNode) and len(node.value) == 1:
        node = node.value[0]
    return node if isinstance(node, ScalarNode) else None
