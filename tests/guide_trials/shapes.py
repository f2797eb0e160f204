"""Catalogs of shapes that nobody prepared: drawn schemas and nestings, and a reader of each that is not the product's.

The reader knows the shape because it drew it: it puts a path together from rows by its own few lines.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from hypothesis import strategies as st

from support.containers import BASE64, COLUMN, GZIP, TAR, ZIP, ZLIB, Container
from zesty_crate.paths import System

_NAMES = st.text(st.characters(categories=["L", "N"], include_characters=" _-'&é"), min_size=1, max_size=6).filter(
    lambda name: name == name.strip() and name.isprintable()
)
FORMS: dict[str, dict[str, Any]] = {
    "": {},
    "speed": {"match": r"^x[\d.]+\|(.+)$"},
    "bars": {"separator": "|"},
}
FOLDERS = ("Users/Odile/Music/Lamps", "Users/Odile/Pictures")


@dataclass(frozen=True)
class Shape:
    """How a database keeps its paths: the first pieces, and what the last one holds."""

    beginning: str  # "whole", "root" (a table of library folders), "volume" (a table of volumes)
    folders: str  # "own" (a column of the entry), "table" (a row for each folder), "tree", "none" (all in one column)
    is_named: bool  # volumes are known by their labels, and not by where they are
    has_stem: bool  # the last name is kept as a stem and an extension
    is_chained: bool  # a folder points to its volume, and not the entry
    slash: str
    blob: str  # the encoding of last pieces that are kept as bytes; empty for texts
    containers: tuple[Container, ...]
    may_add: bool = False  # new folders may get rows
    form: str = ""  # how the last piece is kept: "speed" (with more before it), "bars" (between its names)

    @property
    def guide(self) -> dict[str, Any]:
        """The holding."""
        path: list[dict[str, Any]] = []
        via = "folder.place" if self.is_chained else "place"
        if self.beginning != "whole":
            holds = {"holds": "anchor"} if self.beginning == "volume" else {}
            path.append({"table": "place", "via": via, "at": "label", **holds})
        if self.folders == "tree":
            more = {"may-add": True} if self.may_add else {}
            path.append({"table": "folder", "via": "folder", "parent": "around", "at": "label", **more})
        elif self.folders == "table":
            path.append({"table": "folder", "via": "folder", "at": "label"})
        elif self.folders == "own":
            path.append({"at": "inner"})
        names = [{"at": "name", "holds": "stem"}, {"at": "ending", "holds": "extension"}]
        path += (
            names
            if self.has_stem
            else [{"at": "name", **({"blob": self.blob} if self.blob else {}), **FORMS[self.form]}]
        )
        spelling = "from-volume" if self.is_named else "slashes" if self.slash == "/" else "native"
        entries = {"table": "entry", "key": "id", "path": path, "spelling": spelling}
        inside = [each.inside for each in self.containers]
        return {
            "id": "c",
            "kind": "catalog",
            "at": "{home}/c",
            "syntax": "sqlite",
            "inside": inside,
            "entries": [entries],
        }


@dataclass
class Made:
    """A database with what it means: for each entry the volume and the names from its root."""

    shape: Shape
    labels: dict[str, str]  # of each volume
    files: list[tuple[str, tuple[str, ...]]]
    places: dict[str, int] = field(default_factory=dict)
    folders: dict[tuple[str, tuple[str, ...]], int] = field(default_factory=dict)

    def write(self, path: Path, root_of: dict[str, str]) -> None:
        """Write the database; ``root_of`` each volume is its native beginning."""
        inner = path.with_name(f"{path.name}.inner")
        with closing(sqlite3.connect(inner)) as database:
            database.executescript(
                "CREATE TABLE place (id INTEGER PRIMARY KEY, label); CREATE TABLE other (text);"
                "CREATE TABLE folder (id INTEGER PRIMARY KEY, around, place, label);"
                "CREATE TABLE entry (id INTEGER PRIMARY KEY, place, folder, inner, name, ending);"
                "INSERT INTO other VALUES ('C:/Users/Odile/Music/Lamps/x.wav')"
            )
            for number, (volume, names) in enumerate(self.files, start=1):
                self._add(database, number, volume, names, root_of[volume])
            database.commit()
        content = inner.read_bytes()
        for each in reversed(self.shape.containers):
            content = each.wrap(content)
        path.write_bytes(content)
        inner.unlink()

    def _add(self, database: sqlite3.Connection, number: int, volume: str, names: tuple[str, ...], root: str) -> None:
        shape, slash = self.shape, self.shape.slash
        *within, name = names
        beginning = self.labels[volume] if shape.is_named else root
        if shape.beginning == "root":
            beginning, within = slash.join([root, *within[:2]]), within[2:]
        place = None if shape.beginning == "whole" else self._place(database, beginning)
        above = [beginning] if shape.beginning == "whole" else []
        folder = inner = None
        if shape.folders == "tree":
            for depth in range(len(within) + len(above)):
                label = [*above, *within][depth]
                folder = self._folder(database, volume, tuple([*above, *within][: depth + 1]), label, folder, place)
        elif shape.folders == "table":
            text = slash.join([*above, *within])
            folder = self._folder(database, volume, (text,), text, None, place)
        else:
            inner = slash.join([*above, *within])
        if shape.folders == "none":
            name, inner = slash.join([*above, *names]), None
        name = {"speed": f"x{number}.5|{name}", "bars": name.replace("/", "|").replace("\\", "|")}.get(shape.form, name)
        stem, dot, ending = name.rpartition(".") if shape.has_stem else (name, "", "")
        stem, ending = (stem, ending) if dot else (name, "")
        zeros = "\0" * (number % 3)
        kept = (stem + zeros).encode(shape.blob) if shape.blob and not shape.has_stem else stem
        row = (number, None if shape.is_chained else place, folder, inner, kept, ending)
        database.execute("INSERT INTO entry VALUES (?, ?, ?, ?, ?, ?)", row)

    def _place(self, database: sqlite3.Connection, label: str) -> int:
        if label not in self.places:
            self.places[label] = len(self.places) + 1
            database.execute("INSERT INTO place VALUES (?, ?)", (self.places[label], label))
        return self.places[label]

    def _folder(
        self,
        database: sqlite3.Connection,
        volume: str,
        key: tuple[str, ...],
        label: str,
        around: int | None,
        place: int | None,
    ) -> int:
        known = volume, (str(place), *key)
        if known not in self.folders:
            self.folders[known] = len(self.folders) + 1
            row = (self.folders[known], around, place if self.shape.is_chained else None, label)
            database.execute("INSERT INTO folder VALUES (?, ?, ?, ?)", row)
        return self.folders[known]

    def read(self, path: Path, root_of_label: dict[str, str], system: System) -> Iterator[tuple[int, str]]:
        """Each entry's key and native path, by the rows of a database."""
        content = path.read_bytes()
        for each in self.shape.containers:
            content = each.taken_out(content)
        with closing(sqlite3.connect(":memory:")) as database:
            database.deserialize(content)
            assert database.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
            assert database.execute("SELECT * FROM other").fetchall() == [("C:/Users/Odile/Music/Lamps/x.wav",)]
            folders = {row[0]: row[1:] for row in database.execute("SELECT * FROM folder")}
            places = dict(database.execute("SELECT * FROM place"))
            for key, place, folder, inner, stem, ending in database.execute("SELECT * FROM entry").fetchall():
                name = stem.decode(self.shape.blob).rstrip("\0") if isinstance(stem, bytes) else stem
                if self.shape.form:
                    name = name.partition("|")[2] if self.shape.form == "speed" else name.replace("|", "/")
                texts = [f"{name}.{ending}" if ending else name, inner or ""]
                while folder is not None:
                    around, own_place, label = folders[folder]
                    texts.append(label)
                    place, folder = own_place or place, around
                if self.shape.is_named and place is None:
                    texts[-1] = root_of_label[texts[-1]]
                if place is not None:
                    texts.append(root_of_label[places[place]] if self.shape.is_named else places[place])
                whole = "/".join(text.replace("\\", "/").rstrip("/") for text in reversed(texts) if text)
                yield key, whole.replace("/", system.separator).replace(system.separator * 2, system.separator)


@st.composite
def shapes(draw: st.DrawFn, system: System) -> Shape:
    """Any shape that a program might have chosen."""
    beginning = draw(st.sampled_from(["whole", "root", "volume"]))
    folders = draw(st.sampled_from(["own", "table", "tree", *(["none"] if beginning == "whole" else [])]))
    containers = draw(st.sampled_from([(), (), (GZIP,), (ZIP,), (COLUMN, ZLIB), (TAR,), (BASE64,), (GZIP, ZIP)]))
    is_plain_tree = beginning == "whole" and folders == "tree"
    has_stem = folders != "none" and draw(st.booleans())
    forms = [""] if has_stem else ["", "speed", "bars"] if folders == "none" else ["", "speed"]
    return Shape(
        beginning,
        folders,
        is_named=(beginning == "volume" or is_plain_tree) and draw(st.booleans()),
        has_stem=has_stem,
        is_chained=beginning != "whole" and folders != "own" and draw(st.booleans()),
        slash=draw(st.sampled_from(["/", system.separator])),
        blob=draw(st.sampled_from(["", "", "utf-8", "utf-16-le"])),
        containers=containers,
        may_add=is_plain_tree and not has_stem and not containers and draw(st.booleans()),
        form=draw(st.sampled_from(forms)),
    )


@st.composite
def catalogs(draw: st.DrawFn, system: System, volumes: dict[str, str]) -> Made:
    """A catalog of such a shape, with files on these volumes, by their labels."""
    shape = draw(shapes(system))
    folders = st.lists(_NAMES, max_size=3).map(tuple)
    files = st.tuples(
        st.sampled_from(sorted(volumes)),
        st.tuples(st.sampled_from(FOLDERS), folders, _NAMES, st.sampled_from([".wav", "", ".tar.gz"])).map(
            lambda drawn: (*drawn[0].split("/"), *drawn[1], drawn[2] + drawn[3])
        ),
    )
    return Made(shape, volumes, draw(st.lists(files, min_size=1, max_size=8)))
