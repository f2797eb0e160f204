"""The syntax ``yaml`` (YAML 1.1, and of 1.2 what is written alike), selected by JSONPath.

PyYAML composes the nodes and tells where each begins and ends; the values are made from these. A node that aliases
repeat is one value. Nothing is constructed by a tag.
"""

from __future__ import annotations

from typing import Any

from ..guides import HoldingPart
from .json_tree import Placed, Tree
from .model import CatalogError, Cell
from .text_file import TextFile
from .yaml_nodes import MappingNode, Node, ScalarNode, SequenceNode, documents_in

_MOST_VALUES = 5_000_000  # with all that aliases repeat
_BLOCKS = ("|", ">")
_TAG = "tag:yaml.org,2002:"


def read_yaml(file: TextFile, part: HoldingPart, title: str) -> Tree:  # noqa: ARG001  one form for every reader
    """The values of a document; of several in one file, a list. Raises `CatalogError`."""
    try:
        values = [_Values(title).of(each) for each in documents_in(file.text)]
    except ValueError as error:
        raise CatalogError(
            f"The catalog {title} is not YAML: {error}.", next_step="It may be damaged; open it in its program."
        ) from error
    except RecursionError as error:
        raise CatalogError(f"The catalog {title} is nested too deeply.") from error
    if not values or not isinstance(values[0], dict | list):
        raise CatalogError(
            f"The catalog {title} is not YAML with keys or lists.",
            next_step="It may be damaged; open it in its program.",
        )
    return Tree(values[0] if len(values) == 1 else values)


class _Values:
    """Makes values of nodes, each once."""

    def __init__(self, title: str) -> None:
        self._title = title
        self._made: dict[int, tuple[Any, int]] = {}
        self._within: set[int] = set()

    def of(self, node: Node) -> Any:
        """The value of a node and all below it."""
        return self._value(node)[0]

    def _value(self, node: Node) -> tuple[Any, int]:
        """A value, and how many there are in it."""
        known = self._made.get(id(node))
        if known is None:
            if id(node) in self._within:
                raise CatalogError(f"The catalog {self._title} holds a value that contains itself.")
            self._within.add(id(node))
            known = self._made[id(node)] = self._new(node)
            self._within.discard(id(node))
            if known[1] > _MOST_VALUES:
                raise CatalogError(f"The catalog {self._title} repeats its values more than {_MOST_VALUES:,} times.")
        return known

    def _new(self, node: Node) -> tuple[Any, int]:
        if isinstance(node, MappingNode):
            found: dict[str, Any] = {}
            size = 1
            for key, inner in node.value:
                value, more = self._value(inner)
                found[_name(key)] = value
                size += more
            return found, size
        if isinstance(node, SequenceNode):
            values = [self._value(each) for each in node.value]
            return [value for value, _ in values], 1 + sum(more for _, more in values)
        if not isinstance(node, ScalarNode):
            raise CatalogError(f"The catalog {self._title} holds a node of no known kind.")
        return _scalar(node), 1


def _name(key: Node) -> str:
    name = _scalar(key) if isinstance(key, ScalarNode) else ""
    return name if isinstance(name, Placed) else str(key.value) if isinstance(key, ScalarNode) else ""


def _scalar(node: ScalarNode) -> Any:
    text, kind = str(node.value), str(node.tag).removeprefix(_TAG)
    if kind == "str" and node.style not in _BLOCKS:
        start, end = node.start_mark.index, node.end_mark.index
        return Placed.at(text, Cell("", "yaml", start, end - start)) if end > start else text
    if kind == "null":
        return None
    if kind == "bool":
        return text.lower() == "true"
    return text
