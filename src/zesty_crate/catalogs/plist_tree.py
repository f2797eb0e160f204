"""The syntax ``plist``: property lists in XML, written by splicing, and in binary, written value by value."""

from __future__ import annotations

import plistlib
from collections.abc import Container, Iterator
from pathlib import Path
from typing import Any
from xml.parsers import expat

from ..guides import HoldingPart
from ..machines import Disk
from ..paths import MachinePath
from .changes import ChangeList
from .json_tree import MEMBER, MEMBER_NAME, Placed, PlacedInteger, PlacedList, PlacedNumber, PlacedObject, Tree
from .model import Catalog, CatalogError, Cell, Proof
from .plist_forms import is_binary_plist, loaded, no_plist
from .quoting import QUOTINGS
from .spans import RecordName, Room
from .text_catalog import RecordCatalog
from .text_file import TextFile
from .text_syntax import TextSyntax
from .tree_spans import TextTree
from .xml_values import xml_values

_BINARY = "binary"
_PIECE = 1 << 18


class XmlPlist(TextTree):
    """A property list in XML."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:
        self._file = file
        self._text = file.text
        self._part = part
        self._title = title
        super().__init__()

    def _read(self) -> Tree:
        return self._with_places(())

    def _with_places(self, only: Container[str] | None) -> Tree:
        selectors = {each for part in self._part.entries for each in (*(p.at for p in part.path), *part.key_selectors)}
        return Tree(_Reader(self._file, self._title, only, with_names=only is None and MEMBER_NAME in selectors).root)

    def glue(self, between: str) -> str:
        """What stands between two values: white space as it is, else a new line."""
        return between if not between.strip() else "\n"

    def added(self, name: str, path: tuple[int, int], written: str) -> tuple[int, str] | None:
        """A member more, after that of the path."""
        if not MEMBER.fullmatch(name):
            return None
        return self._text.index(">", path[1]) + 1, f"<key>{name}</key>{written}"

    def _around(self, cell: Cell) -> tuple[int, int]:
        start = int(cell.row)
        return self._text.rindex("<", 0, start), self._text.index(">", start + cell.length) + 1

    def _name_before(self, start: int, name: str) -> RecordName:
        end = self._text.rindex("</", 0, start)
        begin = self._text.index(">", self._text.rindex("<key", 0, end)) + 1
        if QUOTINGS["xml-text"].decode(self._text[begin:end]) != name:
            raise CatalogError(f"The place of the key {name} in the property list is not known.")
        return RecordName(begin, end, "xml-text", name, name)

    def _inside(self, container: tuple[int, int]) -> Room:
        start, end = container
        name = self._text[start + 1 : start + 6].strip("> /")
        if self._text[end - 2] == "/":
            return Room(end - 2, end, ">", f"</{name}>")
        at = self._text.index(">", start) + 1
        return Room(at, at)


class _Reader:
    """Builds the tree from expat's events: plistlib knows no places."""

    def __init__(self, file: TextFile, title: str, only: Container[str] | None, *, with_names: bool) -> None:
        """Where it may be ``only`` members of some names whose places are known, lists and objects have none."""
        self._text = file.text
        self._title = title
        self._only = only
        self._with_names = with_names
        self._is_ascii = file.text.isascii()  # so that a byte is a character, and no bytes need be held
        self._source = b"" if self._is_ascii else file.text.encode("utf-8", "surrogatepass")
        self._stack: list[Any] = [[]]
        self._keys: list[str] = []
        self._known = dict[str, str]()  # keys, each held once
        self._words: list[str] = []
        self._start = self._seen = self._characters = 0
        self._opened: list[int] = []
        self._parser = expat.ParserCreate(encoding="utf-8")
        self._parser.buffer_text = True
        self._parser.StartElementHandler = self._begin
        self._parser.EndElementHandler = self._finish
        self._parser.CharacterDataHandler = self._words.append
        self._parser.EntityDeclHandler = self._entity
        try:
            for at in range(0, len(self._text), _PIECE) if self._is_ascii else ():
                self._parser.Parse(self._text[at : at + _PIECE].encode(), False)  # noqa: FBT003  expat takes no name
            self._parser.Parse(self._source, True)  # noqa: FBT003
        except (expat.ExpatError, ValueError, IndexError) as error:
            raise self._bad(str(error)) from error
        if len(self._stack) != 1 or not self._stack[0]:
            raise self._bad("it holds no value")
        self.root = self._stack[0][0]

    def _begin(self, name: str, _attributes: dict[str, str]) -> None:
        self._words.clear()
        if name in ("dict", "array"):
            made = self._container(name)
            self._add(made)
            self._stack.append(made)
        elif (name == "key" and self._with_names) or (name in ("string", "integer", "real") and self._is_placed()):
            self._start = self._text.index(">", self._position()) + 1

    def _is_placed(self) -> bool:
        """Whether the value that is read knows its place."""
        return self._only is None or (bool(self._keys) and self._keys[-1] in self._only)

    def _container(self, name: str) -> Any:
        if self._only is None:
            self._opened.append(self._position())
            return PlacedObject() if name == "dict" else PlacedList()
        return {} if name == "dict" else []

    def _finish(self, name: str) -> None:
        words = "".join(self._words)
        if name in ("dict", "array"):
            made = self._stack.pop()
            if self._only is None:
                made.span = self._span()
        elif name == "key":
            key = self._known.setdefault(words, words)
            self._keys.append(self._placed(words) if self._with_names else key)
        elif name == "string":
            self._add(self._placed(words) if self._is_placed() else words)
        elif name in ("integer", "real"):
            number = PlacedInteger(words, 0) if name == "integer" else PlacedNumber(words)
            self._add(self._number(number, words) if self._is_placed() else _bare(number))
        elif name in ("true", "false"):
            self._add(name == "true")
        elif name in ("data", "date"):
            self._add(words.strip())
        elif name != "plist":
            raise self._bad(f"<{name}> is not allowed there")
        self._words.clear()

    def _span(self) -> tuple[int, int]:
        start, ended = self._opened.pop(), self._position()
        tag = self._text.index(">", start) + 1
        is_whole = self._text[tag - 2] == "/"  # of a tag that is all there is, the parser tells another place
        return start, tag if is_whole else self._text.index(">", ended) + 1

    def _placed(self, words: str) -> str:
        end = self._position()
        raw = self._text[self._start : end]
        if QUOTINGS["xml-text"].decode(raw) != words or "<" in raw:
            return words
        return Placed.at(words, Cell("", "xml-text", self._start, end - self._start))

    def _number(self, value: PlacedInteger | PlacedNumber, words: str) -> PlacedInteger | PlacedNumber:
        value.cell = Cell("", "plain", self._start, len(words))
        return value

    def _add(self, value: Any) -> None:
        into = self._stack[-1]
        if isinstance(into, dict):
            into[self._keys.pop()] = value
        else:
            into.append(value)

    def _position(self) -> int:
        """The character at which the present tag begins."""
        at = self._parser.CurrentByteIndex
        if self._is_ascii:
            return at
        self._characters += len(self._source[self._seen : at].decode("utf-8", "surrogatepass"))
        self._seen = at
        return self._characters

    def _entity(self, *_: Any) -> None:
        raise self._bad("it declares entities, which a property list may not")

    def _bad(self, why: str) -> CatalogError:
        return no_plist(self._title, why)


def _bare(number: PlacedInteger | PlacedNumber) -> int | float:
    return int(number) if isinstance(number, PlacedInteger) else float(number)


class PlistSyntax:
    """Property lists of either form."""

    def __init__(self) -> None:
        self._xml = TextSyntax(XmlPlist, xml_values)

    def companions(self, path: Path, disk: Disk) -> list[Path]:
        """A property list has no files beside it."""
        return self._xml.companions(path, disk)

    def open(self, path: Path, part: HoldingPart, at: MachinePath, disk: Disk, scratch: Path) -> Catalog:
        """Read the property list."""
        if not is_binary_plist(path, disk):
            return self._xml.open(path, part, at, disk, scratch)
        return RecordCatalog(Tree(_with_places(_load(path, disk), "")), part, at)

    def copy_whole(self, path: Path, target: Path, disk: Disk) -> None:
        """Copy the property list."""
        self._xml.copy_whole(path, target, disk)

    def rewrite(self, original: Path, target: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> None:
        """Write a copy with the changes."""
        if not is_binary_plist(original, disk):
            self._xml.rewrite(original, target, part, changes, disk)
            return
        root = _load(original, disk)
        listed = list(changes)
        for change in listed:
            *outer, last = _steps(str(change.cell.row))
            into = root
            for step in outer:
                into = into[step]
            if into[last] != change.old:
                raise CatalogError(
                    "A value of the property list changed while it was rewritten.", next_step="Run the command again."
                )
            into[last] = change.new
        written = plistlib.dumps(root, fmt=plistlib.FMT_BINARY, sort_keys=False) if listed else None
        disk.write_bytes(target, disk.read_bytes(original) if written is None else written)

    def prove(self, original: Path, rewritten: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> Proof:
        """The same values of the same types in the same order, but for the listed ones."""
        if not is_binary_plist(original, disk):
            return self._xml.prove(original, rewritten, part, changes, disk)
        listed = {str(change.cell.row): change.new for change in changes}
        old, new = (dict(_flat(_load(path, disk), "")) for path in (original, rewritten))
        wanted = {place: ("str", listed[place]) if place in listed else value for place, value in old.items()}
        if list(wanted.items()) != list(new.items()):
            raise CatalogError(
                "The rewritten catalog differs from the original in more than its paths: another value differs. "
                "It was discarded.",
                next_step="The catalog was not changed. Please report this fault to the makers of Zesty Crate.",
            )
        return Proof(1, len(old), len(listed))


def _load(path: Path, disk: Disk) -> Any:
    return loaded(disk.read_bytes(path), str(path), plistlib.FMT_BINARY)


def _with_places(value: Any, place: str) -> Any:
    """The same tree, its texts knowing the path to them."""
    if isinstance(value, dict):
        return {key: _with_places(each, f"{place}/{_step(key)}") for key, each in value.items()}
    if isinstance(value, list):
        return [_with_places(each, f"{place}/{number}") for number, each in enumerate(value)]
    return Placed.at(value, Cell("", _BINARY, place)) if isinstance(value, str) else value


def _flat(value: Any, place: str) -> Iterator[tuple[str, tuple[str, object]]]:
    if isinstance(value, dict | list):
        pairs = value.items() if isinstance(value, dict) else enumerate(value)
        yield place, (type(value).__name__, len(value))
        for key, each in pairs:
            yield from _flat(each, f"{place}/{_step(key)}")
    else:
        yield place, (type(value).__name__, value)


def _step(key: object) -> str:
    """A key as one step of a place: numbers of lists bare, names marked."""
    return str(key) if isinstance(key, int) else "." + str(key).replace("~", "~0").replace("/", "~1")


def _steps(place: str) -> list[str | int]:
    return [
        step[1:].replace("~1", "/").replace("~0", "~") if step.startswith(".") else int(step)
        for step in place.split("/")[1:]
    ]
