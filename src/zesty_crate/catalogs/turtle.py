"""The syntax ``turtle`` (RDF 1.1 Turtle): subjects by type or by predicate, objects that are IRIs or texts.

rdflib reads the grammar; the places come from a trick: each IRI and each text is given to it as a number, by which the
one that is there is found again.
"""

from __future__ import annotations

import logging
import re
from collections.abc import Iterator
from typing import Any

from ..guides import EntriesPart, HoldingPart
from .model import CatalogError, Cell, Found
from .quoting import QUOTINGS
from .records import Record
from .text_file import TextFile

_TOKEN = re.compile(
    r"""(?P<directive>(?:@prefix|PREFIX)\s+[^\s:]*:\s*<[^>]*>|(?:@base|BASE)\s+<[^>]*>)
      |(?P<long>\"{3}(?:"{0,2}(?:[^"\\]|\\.))*\"{3}|'{3}(?:'{0,2}(?:[^'\\]|\\.))*'{3})
      |(?P<string>"(?:[^"\\\r\n]|\\.)*"|'(?:[^'\\\r\n]|\\.)*')
      |<(?P<iri>(?:[^\x00-\x20<>"{}|^`\\]|\\u[0-9A-Fa-f]{4}|\\U[0-9A-Fa-f]{8})*)>
      |(?P<comment>\#[^\r\n]*)""",
    re.VERBOSE | re.DOTALL | re.IGNORECASE,
)
_NUMBER = "zesty:"
_TYPE = "http://www.w3.org/1999/02/22-rdf-syntax-ns#type"

Statement = tuple[str, Any]


class Subject(Record):
    """A subject, seen from one of its uses; selectors are predicates, ``subject`` and ``object``."""

    __slots__ = ("_document", "_object", "_subject")

    def __init__(self, document: TurtleDocument, subject: str, seen: Any) -> None:
        self._document = document
        self._subject = subject
        self._object = seen

    def value(self, selector: str) -> Found | None:
        """The subject itself, the object of the use, or the first object by a predicate."""
        if selector == "subject":
            return Found(self._subject, None)
        if selector == "object":
            return self._document.found(self._object)
        wanted = self._document.iri(selector)
        statements = self._document.statements[self._subject]
        return next((self._document.found(node) for predicate, node in statements if predicate == wanted), None)


class TurtleDocument:
    """A Turtle text with the place of each IRI and text."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:
        self._text = file.text
        self._title = title
        self._namespaces = part.namespaces
        self._places: list[Cell] = []
        self.statements: dict[str, list[Statement]] = {}
        numbered = _TOKEN.sub(self._numbered, file.text)
        for subject, predicate, node in self._parsed(numbered):
            self.statements.setdefault(self._said(subject), []).append((self._said(predicate), node))
        if not self.statements:
            raise self._bad("it is empty")

    @property
    def is_empty(self) -> bool:
        """Never: a document without statements is refused."""
        return False

    def select(self, part: EntriesPart) -> Iterator[Subject]:
        """Subjects of a type (``a lv2:Plugin``), or each use of a predicate (``lv2:binary``)."""
        words = part.each.split()
        by_type = words[0] == "a" and len(words) == 2
        wanted = self.iri(words[-1])
        for subject, statements in self.statements.items():
            for predicate, node in statements:
                if (predicate == _TYPE and self._said(node) == wanted) if by_type else predicate == wanted:
                    yield Subject(self, subject, node)

    def found(self, node: Any) -> Found:
        """What a node says, with its place where it has one."""
        number = _number_of(node)
        return Found(self._said(node), None if number is None else self._places[number])

    def iri(self, name: str) -> str:
        """A name with a prefix of the guide's namespaces, as an IRI."""
        prefix, colon, local = name.partition(":")
        if not colon or prefix not in self._namespaces:
            raise CatalogError(
                f"The guide selects {name!r} from {self._title}, and its namespaces have no such prefix.",
                next_step=f"Known prefixes are {', '.join(self._namespaces) or 'none'}.",
            )
        return self._namespaces[prefix] + local

    def _numbered(self, match: re.Match[str]) -> str:
        if match.group("directive"):
            if match.group("directive").lstrip("@")[:4].lower() == "base":
                raise self._bad("it sets its own base, so its references are not relative to the document")
            return match.group()
        if match.group("comment") is not None:
            return ""
        name, quoting, marks = next(
            (name, quoting, marks)
            for name, quoting, marks in (("iri", "turtle-iri", 1), ("string", "turtle-string", 1), ("long", "", 3))
            if match.group(name) is not None
        )
        if not quoting:
            return match.group()
        whole = name == "iri"
        start, end = match.span(name)
        start, end = (start, end) if whole else (start + marks, end - marks)
        self._places.append(Cell("", quoting, start, end - start))
        number = f"{_NUMBER}{len(self._places) - 1}"
        return f"<{number}>" if whole else f'"{number}"'

    def _said(self, node: Any) -> str:
        number = _number_of(node)
        if number is None:
            return str(node)
        cell = self._places[number]
        start = int(cell.row)
        return QUOTINGS[cell.column].decode(self._text[start : start + cell.length])

    def _parsed(self, text: str) -> list[tuple[Any, Any, Any]]:
        """All statements, in the order of the document."""
        import rdflib  # heavy, and needed for this syntax only

        logging.getLogger("rdflib").setLevel(logging.CRITICAL)  # what is wrong with a text is told once, by an error

        listed: list[tuple[Any, Any, Any]] = []

        class Ordered(rdflib.Graph):
            def add(self, triple: tuple[Any, Any, Any]) -> Ordered:
                listed.append(triple)
                return self

        try:
            Ordered().parse(data=text, format="turtle", publicID="file:///document")
        except Exception as error:
            raise self._bad(str(error).splitlines()[0] if str(error) else type(error).__name__) from error
        return listed

    def _bad(self, why: str) -> CatalogError:
        return CatalogError(
            f"The catalog {self._title} cannot be read as Turtle: {why}.",
            next_step="It may be damaged; open it in its program on the old computer.",
        )


def _number_of(node: Any) -> int | None:
    text = str(node)
    return int(text[len(_NUMBER) :]) if text.startswith(_NUMBER) and text[len(_NUMBER) :].isdigit() else None
