"""XML, HTML and binary records as tables: elements of one path are records, with attributes and texts as fields."""

from __future__ import annotations

from collections import Counter
from typing import Any

from ..catalogs import CatalogError
from ..catalogs.text_file import TextFile
from ..guides import HoldingPart
from ..paths import MachinePath
from .namespaces import Prefixes
from .record_layouts import records_of
from .tables import Located, Table, new_identity

_FLAT = 3  # levels of elements in a record that are part of it
_MOST_NAMES = 80  # by which elements in another are told apart
_OUTER = 2  # levels around it whose attributes may complete a path


def read_elements(syntax: str, content: bytes, text: str, encoding: str, at: MachinePath) -> list[Table]:
    """The tables in a document. Raises `ValueError` for one that cannot be read."""
    try:
        root = _root(syntax, content, text, encoding)
    except CatalogError as error:
        raise ValueError(error.message) from error
    reader = _Reader(root, at)
    reader.read(root)
    for table in reader.tables.values() if syntax == "tagged" else ():
        table.records = records_of(content)
    return [each.finish() for each in reader.tables.values()]


def _root(syntax: str, content: bytes, text: str, encoding: str) -> Any:
    from ..catalogs.html_tree import HtmlDocument
    from ..catalogs.tagged import TaggedDocument
    from ..catalogs.xml_tree import XmlDocument

    entries = [{"each": "*", "path": [{"at": "."}]}]  # which no guide is without
    made: dict[str, Any] = {"id": "it", "kind": "catalog", "at": "{home}", "syntax": syntax, "entries": entries}
    if syntax == "tagged":
        made |= {"records": records_of(content), "encoding": encoding or "utf-8"}
        text = content.decode("latin-1")
    reader = {"html": HtmlDocument, "tagged": TaggedDocument}.get(syntax, XmlDocument)
    return reader(TextFile(text.lstrip("\ufeff"), "utf-8", b""), HoldingPart.model_validate(made), "it").root


class _Reader:
    def __init__(self, root: Any, at: MachinePath) -> None:
        self.tables: dict[str, Table] = {}
        self._at = at
        self._prefixes = Prefixes()
        self._single = _single_children(root)
        self._named = _named_children(root, self._single)
        self._identity = new_identity()
        self._held = list(root.iter())  # so that each keeps its one identity
        self._numbers: dict[Any, int] = {}

    def read(self, root: Any) -> None:
        """Note all elements, each as a record of the elements of its path."""
        pending: list[tuple[Any, tuple[str, ...]]] = [(root, (self._tag(root),))]
        while pending:
            element, path = pending.pop()
            self._numbers[element] = new_identity()
            table = self.tables.setdefault("/".join(path), Table("/" + "/".join(path), path=path))
            outside: list[tuple[str, Any]] = []
            outer, up = element.getparent(), ".."
            for _ in range(_OUTER):
                if outer is not None:
                    outside += [(f"{up}/@{self._name(name)}", value) for name, value in outer.attrib.items()]
                    outer, up = outer.getparent(), f"../{up}"
            fields = list(self._fields(element, "", 0))
            parent = element.getparent()
            table.add(
                self._at,
                [*fields, *outside],
                outside=[each for each, _ in outside],
                identity=self._numbers[element],
                parent=0 if parent is None else self._numbers[parent],
            )
            table.namespaces = self._prefixes.namespaces
            inner = [each for each in element if isinstance(each.tag, str)]
            pending += [(each, (*path, self._tag(each))) for each in reversed(inner)]

    def _fields(self, element: Any, before: str, depth: int) -> Any:
        for name, value in element.attrib.items():
            yield f"{before}@{self._name(name)}", Located.at(value, self._identity, id(element), name)
        inner = [each for each in element if isinstance(each.tag, str)]
        text = "".join(element.itertext()).strip() if not inner else ""
        if text:
            yield before.rstrip("/") or ".", Located.at(text, self._identity, id(element))
        elif not inner and before and not element.attrib:
            yield before.rstrip("/"), None
        for each in inner if depth < _FLAT else ():
            if (element.tag, each.tag) in self._single:
                yield from self._fields(each, f"{before}{self._tag(each)}/", depth + 1)
            elif name := self._named.get((element.tag, each.tag)):
                told = each.get(name)
                if "'" not in told:
                    step = f"{self._tag(each)}[@{self._name(name)}='{told}']/"
                    yield from self._fields(each, f"{before}{step}", depth + 1)

    def _tag(self, element: Any) -> str:
        return self._name(element.tag)

    def _name(self, name: str) -> str:
        if not name.startswith("{"):
            return name
        space, _, local = name[1:].partition("}")
        if space == "http://www.w3.org/XML/1998/namespace":
            return f"xml:{local}"
        return f"{self._prefixes.of(space)}:{local}"


def _named_children(root: Any, single: set[tuple[Any, Any]]) -> dict[tuple[Any, Any], str]:
    """Which elements in another are told apart by an attribute, as a property is by its name; and by which."""
    candidates: dict[tuple[Any, Any], set[str]] = {}
    names: dict[tuple[Any, Any], set[str]] = {}
    for element in root.iter():
        inner = [each for each in element if isinstance(each.tag, str) and (element.tag, each.tag) not in single]
        for tag in {each.tag for each in inner}:
            some = [each for each in inner if each.tag == tag]
            telling = {name for name in some[0].attrib if len({each.get(name) for each in some}) == len(some)}
            telling = {name for name in telling if all(each.get(name) for each in some)}
            pair = (element.tag, tag)
            candidates[pair] = candidates.get(pair, telling) & telling
            for name in candidates[pair]:
                names.setdefault((pair, name), set()).update(each.get(name) for each in some)
    found = {}
    for pair, telling in candidates.items():
        few = sorted(name for name in telling if len(names[pair, name]) <= _MOST_NAMES)
        wordy = [name for name in few if all(not text.isdecimal() for text in names[pair, name])]
        if wordy:
            found[pair] = wordy[0]
    return found


def _single_children(root: Any) -> set[tuple[Any, Any]]:
    """Which elements are never twice in another, by their tags."""
    several = set()
    seen = set()
    for element in root.iter():
        if isinstance(element.tag, str):
            counted = Counter(each.tag for each in element if isinstance(each.tag, str))
            seen |= {(element.tag, tag) for tag in counted}
            several |= {(element.tag, tag) for tag, number in counted.items() if number > 1}
    return seen - several
