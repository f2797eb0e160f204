"""Turtle as tables: subjects of one type are records, and so is each use of a predicate."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

from ..catalogs import CatalogError
from ..catalogs.text_file import TextFile
from ..guides import HoldingPart
from ..paths import MachinePath
from .namespaces import Prefixes
from .tables import Located, Table, new_identity

_TYPE = "http://www.w3.org/1999/02/22-rdf-syntax-ns#type"
_SPLIT = re.compile(r"(.*[#/:])([^#/:\s]+)", re.DOTALL)

Statement = tuple[str, Any]


def read_turtle(text: str, at: MachinePath) -> list[Table]:
    """The tables in a document. Raises `ValueError` for one that cannot be read."""
    from ..catalogs.turtle import TurtleDocument

    entries = [{"each": "a a:a", "path": [{"at": "object"}]}]  # which no guide is without
    made = {"id": "it", "kind": "catalog", "at": "{home}", "syntax": "turtle", "entries": entries}
    try:
        document = TurtleDocument(TextFile(text.lstrip("\ufeff"), "utf-8", b""), HoldingPart.model_validate(made), "it")
    except CatalogError as error:
        raise ValueError(error.message) from error
    reader = _Reader(document, at)
    for subject, statements in document.statements.items():
        reader.note(subject, statements)
    return reader.finished()


class _Reader:
    def __init__(self, document: Any, at: MachinePath) -> None:
        self._document = document
        self._at = at
        self._identity = new_identity()
        self._prefixes = Prefixes()
        self._of_types: dict[str, Table] = {}
        self._of_uses: dict[str, Table] = {}
        # What statements are about stands in several places of a document, so no guide can have it rewritten.
        self._about = Table("statements", more={"unwritable": ""})

    def note(self, subject: str, statements: list[Statement]) -> None:
        """Have a subject be a record of each of its types, and each of its statements one of its predicate."""
        is_named = any(self._name(subject))
        fields = {
            name: self._value(node) for predicate, node in reversed(statements) if (name := self._name(predicate))
        }
        fields = dict(reversed(fields.items()))
        if is_named and not subject.startswith("file:"):
            fields = {"subject": subject, **fields}
        elif is_named:
            self._about.add(self._at, [("subject", subject)])
        for predicate, node in statements:
            name = self._name(predicate)
            if predicate == _TYPE:
                kind = self._name(self._said(node))
                self._add(self._of_types, f"a {kind}", fields.items() if kind else ())
            elif name:
                others = ((each, value) for each, value in fields.items() if each != name)
                self._add(self._of_uses, name, [*others, ("object", self._value(node))])

    def _add(self, tables: dict[str, Table], each: str, fields: Iterable[tuple[str, Any]]) -> None:
        told = list(fields)
        if told:
            tables.setdefault(each, Table(each)).add(self._at, told)

    def finished(self) -> list[Table]:
        """All tables; of two that say the same, that of a type comes first."""
        found = [*self._of_types.values(), *self._of_uses.values(), self._about]
        for each in found:
            each.namespaces = self._prefixes.namespaces
        return [each.finish() for each in found if each.at]

    def _name(self, iri: str) -> str:
        """A predicate or a type as a guide has it; empty for one without a name, and for the type of a subject."""
        found = _SPLIT.fullmatch(iri)
        return f"{self._prefixes.of(found[1])}:{found[2]}" if found and iri != _TYPE else ""

    def _said(self, node: Any) -> str:
        return str(self._document.found(node).text)

    def _value(self, node: Any) -> Any:
        """What an object says; None for one that has no name, and is a subject itself."""
        found = self._document.found(node)
        if found.cell is not None:
            return Located.at(found.text, self._identity, found.cell.row)
        value = node.toPython()
        is_subject = type(node).__name__ == "BNode"
        return None if is_subject else int(value) if isinstance(value, bool | int) else str(node)
