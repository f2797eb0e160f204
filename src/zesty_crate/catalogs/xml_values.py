"""All values of an XML document in their order, by a parser that holds none of it: what the proof compares."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any
from xml.parsers import expat

from .model import CatalogError
from .text_file import TextFile, Value

_PIECE = 1 << 18


def xml_values(file: TextFile, title: str) -> Iterator[Value]:
    """Of each start tag its attributes, its name and the text before it, and each text before an end tag.

    Raises `CatalogError` where it is no XML.
    """
    found: list[Value] = []
    text: list[str] = []

    def start(name: str, attributes: list[str]) -> None:
        attributes += name, "".join(text)
        found.append(attributes)
        text.clear()

    def end(_name: str) -> None:
        found.append("".join(text))
        text.clear()

    parser: Any = expat.ParserCreate(encoding="utf-8")
    parser.ordered_attributes = True
    parser.buffer_text = True
    parser.StartElementHandler, parser.EndElementHandler = start, end
    parser.CharacterDataHandler = text.append
    try:
        for at in range(0, len(file.text), _PIECE):
            parser.Parse(file.text[at : at + _PIECE].encode("utf-8", "surrogatepass"), False)  # noqa: FBT003
            yield from found
            found.clear()
        parser.Parse(b"", True)  # noqa: FBT003
    except expat.ExpatError as error:
        raise CatalogError(
            f"The catalog {title} cannot be read as XML: {error}.",
            next_step="It may be damaged; open it in its program on the old computer.",
        ) from error
    yield from found
