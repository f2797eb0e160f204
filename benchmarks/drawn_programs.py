"""Programs drawn at random: a computer with media, and one program's catalog in some shape, with the truth about it."""

from __future__ import annotations

import base64
import gzip
import io
import json
import plistlib
import random
import sqlite3
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import quote
from xml.sax.saxutils import escape, quoteattr

import yaml

SYLLABLES = "ba ce di fo gu hal kin lor mer nis pol rav sil tam ver wex yor zan".split()  # noqa: SIM905
ENDINGS = ("wav", "flac", "png", "mov", "tif", "obj", "mid", "dat")
WRITERS = ("sqlite", "json", "json-lines", "xml", "ini", "csv", "tsv", "yaml", "plist", "bplist", "lines", "properties")
ROOTS = {"windows": ("C:", "D:"), "macos": ("/", "/Volumes/Spool"), "linux": ("/", "/mnt/spool")}
COLUMNS = (
    "id", "path", "folder", "ending", "table", "other", "parent", "label", "key", "volume", "title", "stars", "when",
    "kind", "digest", "size", "group", "pair", "place",
)  # fmt: skip
FORMATS = {"windows": "ntfs", "macos": "apfs", "linux": "ext4"}
HOMES = {"windows": "Users/odile", "macos": "Users/odile", "linux": "home/odile"}
OWN = {
    "windows": "Users/odile/AppData/Roaming",
    "macos": "Users/odile/Library/Application Support",
    "linux": "home/odile/.config",
}


@dataclass
class Program:
    """What was made, and what is true: the paths that its catalog records and that exist."""

    sheet: Path
    look_in: str
    document: str
    shape: str
    truth: set[str] = field(default_factory=set)


class Maker:
    """Makes one computer with one program in a folder."""

    def __init__(self, root: Path, seed: int) -> None:
        self.random = random.Random(seed)
        self.root = root
        self.system = self.random.choice(sorted(ROOTS))
        self.slash = "\\" if self.system == "windows" else "/"
        self.label = self.word().title()
        self.names: set[str] = set()

    # -- words ----------------------------------------------------------------------------------------------------

    def word(self) -> str:
        """A word that nobody has used before."""
        return "".join(self.random.choice(SYLLABLES) for _ in range(self.random.randint(2, 3)))

    def identifier(self) -> str:
        """A name of a column or an element, in the manner of some programmer."""
        while True:
            words = [self.word() for _ in range(self.random.randint(1, 2))]
            style = self.random.randrange(3)
            made = (
                "_".join(words)
                if style == 0
                else words[0] + "".join(w.title() for w in words[1:])
                if style == 1
                else "".join(words)
            )
            if made not in self.names:
                self.names.add(made)
                return made

    def name(self) -> str:
        """The name of a file or folder."""
        words = [self.word() for _ in range(self.random.randint(1, 3))]
        text = self.random.choice((" ", "_", "-")).join(words)
        if self.random.random() < 0.15:
            text += self.random.choice((" é", " & co", " (2)", "'s", " ü"))
        return text.title() if self.random.random() < 0.5 else text

    # -- the computer ---------------------------------------------------------------------------------------------

    def native(self, volume: int, names: tuple[str, ...]) -> str:
        """A path as the computer writes it."""
        anchor = ROOTS[self.system][volume]
        return (anchor.rstrip("/") + "/" + "/".join(names)).replace("/", self.slash)

    def real(self, volume: int, names: tuple[str, ...]) -> Path:
        """Where it is from here."""
        return self.root.joinpath(f"disk{volume}", *names)

    def made(self) -> Program:
        """The computer with its program."""
        rng = self.random
        volumes = "".join(
            f'[[volume]]\nanchor = {json.dumps(anchor)}\nmount = "disk{number}"\nlabel = "{label}"\n'
            f'format = "{FORMATS[self.system]}"\n'
            for number, (anchor, label) in enumerate(zip(ROOTS[self.system], ("Main", self.label), strict=True))
        )
        sheet = self.root / "sheet.toml"
        self.root.mkdir(parents=True)
        head = f'[computer]\nname = "drawn"\nsystem = "{self.system}"\nuser = "odile"\n'
        sheet.write_text(head + volumes, "utf-8")
        program = self.word().title()
        own = (*OWN[self.system].split("/"), program)
        places = [(0, (*HOMES[self.system].split("/"), "Music", self.name())), (1, (self.name(),))]
        files = list(self.media(rng.sample(places, rng.randint(1, 2))))
        self.noise(own)
        shape = Shape(self, files, own)
        document, truth = shape.write()
        return Program(sheet, self.native(0, own), document, shape.told, truth)

    def media(self, places: list[tuple[int, tuple[str, ...]]]) -> Iterator[tuple[int, tuple[str, ...]]]:
        """Files in folders of folders."""
        rng = self.random
        folders = []
        for volume, top in places:
            folders.append((volume, top))
            for _ in range(rng.randint(1, 6)):
                around = rng.choice([each for each in folders if each[0] == volume])
                folders.append((volume, (*around[1], self.name())))
        for _ in range(rng.randint(12, 120)):
            volume, folder = rng.choice(folders)
            names = (*folder, f"{self.name()}.{rng.choice(ENDINGS)}")
            self.put(volume, names, rng.randbytes(rng.randint(10, 400)))
            yield volume, names

    def noise(self, own: tuple[str, ...]) -> None:
        """Files that nobody records."""
        rng = self.random
        for _ in range(rng.randint(5, 40)):
            folder = rng.choice(
                [(*HOMES[self.system].split("/"), "Documents"), own, (*HOMES[self.system].split("/"), "Pictures")]
            )
            self.put(
                0,
                (*folder, f"{self.name()}.{rng.choice(('txt', 'png', 'bak', 'tmp'))}"),
                b"\x89PNG" + rng.randbytes(30),
            )

    def put(self, volume: int, names: tuple[str, ...], content: bytes) -> None:
        """Write a file."""
        path = self.real(volume, names)
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content)


class Shape:
    """How a catalog keeps its paths, drawn at random; writes it, and knows the truth."""

    def __init__(self, maker: Maker, files: list[tuple[int, tuple[str, ...]]], own: tuple[str, ...]) -> None:
        self.maker, self.own = maker, own
        rng = self.rng = maker.random
        self.files = rng.sample(files, max(8, len(files) * 9 // 10))
        self.missing = {number for number in range(len(self.files)) if rng.random() < rng.choice((0, 0, 0.1))}
        self.writer = rng.choice(("sqlite",) * 8 + WRITERS)
        self.spelling = rng.choice(("native", "native", "slashes", "url", "root", "labelled", "tilde", "document"))
        if self.spelling == "root" and len({volume for volume, _ in self.files}) > 1:
            self.spelling = "native"
        self.split = (
            rng.choice(("one", "one", "two", "table", "tree", "chain"))
            if self.writer == "sqlite"
            else rng.choice(("one", "one", "one", "two"))
        )
        if self.spelling == "document" and (self.split in ("tree", "chain") or len({v for v, _ in self.files} - {0})):
            self.spelling = "native"
        if self.spelling == "tilde" and (
            self.split != "one" or any(v for v, _ in self.files) or maker.system == "windows"
        ):
            self.spelling = "native"
        if self.spelling == "url" and self.split in ("tree", "chain", "table", "two"):
            self.spelling = "native"
        if self.split == "tree" and self.spelling not in ("native", "labelled"):
            self.spelling = "native"
        if self.split == "chain":
            self.spelling = rng.choice(("native", "labelled"))
        self.container = rng.choice(("", "", "", "", "gzip", "zlib", "zip", "base64"))
        if self.writer in ("lines", "properties"):
            self.container, self.split = "", "one"
        self.has_stem = (
            self.split in ("two", "table", "tree", "chain") and rng.random() < 0.25 and self.writer == "sqlite"
        )
        self.blob = self.writer == "sqlite" and not self.has_stem and rng.random() < 0.1
        self.has_wrapping = (
            self.split == "one" and self.writer not in ("lines",) and not self.blob and rng.random() < 0.12
        )
        self.wrapped = rng.choice(("{n}|{path}|x", "s{n}:{path}", "{path};{n}")) if self.has_wrapping else "{path}"
        self.columns = {key: maker.identifier() for key in COLUMNS}

    @property
    def told(self) -> str:
        """The shape in words."""
        more = [
            name
            for name, is_so in (("stem", self.has_stem), ("blob", self.blob), (self.wrapped, self.has_wrapping))
            if is_so
        ]
        parts = (self.maker.system, self.writer, self.split, self.spelling, self.container, *more)
        return " ".join(part for part in parts if part)

    def path(self, volume: int, names: tuple[str, ...]) -> str:
        """A whole path as the catalog writes it."""
        maker = self.maker
        native = maker.native(volume, names)
        if self.spelling == "slashes":
            return native.replace("\\", "/")
        if self.spelling == "url":
            drive = (
                f"/{ROOTS[maker.system][volume]}"
                if maker.system == "windows"
                else ROOTS[maker.system][volume].rstrip("/")
            )
            return "file://" + drive + "/" + "/".join(quote(each) for each in names)
        if self.spelling == "labelled":
            return maker.slash.join((self.label(volume), *names))
        if self.spelling == "tilde":
            return "~/" + "/".join(names[len(HOMES[maker.system].split("/")) :])
        if self.spelling == "root":
            return maker.slash.join(names[self.depth_of_root :])
        if self.spelling == "document":
            shared = 0
            while shared < len(self.own) and names[shared] == self.own[shared]:
                shared += 1
            return maker.slash.join((*[".."] * (len(self.own) - shared), *names[shared:]))
        return native

    @property
    def depth_of_root(self) -> int:
        """How many names all files share."""
        first = self.files[0][1]
        depth = min(len(names) for _, names in self.files) - 1
        while any(names[:depth] != first[:depth] for _, names in self.files):
            depth -= 1
        return depth

    def label(self, volume: int) -> str:
        """The name of a volume."""
        return ("Main", self.maker.label)[volume]

    def rows(self) -> list[dict[str, Any]]:
        """The records, in columns with names that say nothing."""
        columns, rng, found = self.columns, self.rng, []
        for number, (volume, names) in enumerate(self.files):
            if number in self.missing:
                names = (*names[:-1], f"gone {number} {names[-1]}")
            *folder, last = names
            row: dict[str, Any] = {columns["id"]: number + 100}
            path = self.path(volume, names)
            if self.split == "one":
                row[columns["path"]] = self.wrapped.format(path=path, n=number % 7)
            else:
                cut = max(path.rfind("/"), path.rfind("\\"), 0)
                row[columns["folder"]] = (
                    path[: cut + rng.choice((0, 1)) * (cut > 0)] if self.split == "two" else (volume, tuple(folder))
                )
                stem, dot, ending = last.rpartition(".")
                row[columns["path"]] = stem if self.has_stem and dot else last
                if self.has_stem:
                    row[columns["ending"]] = ending
            row[columns["title"]] = self.maker.name()
            row[columns["stars"]] = rng.choice((None, 1, 2, 3, 5))
            row[columns["kind"]] = rng.choice(("a", "b", names[-2] if rng.random() < 0.3 else "c"))
            row[columns["when"]] = 1_700_000_000 + rng.randrange(10**7)
            row[columns["digest"]] = rng.randbytes(8).hex()
            found.append(row)
        return found

    def write(self) -> tuple[str, set[str]]:
        """Write the catalog. Its path, and all recorded paths that exist."""
        rows = self.rows()
        name = f"{self.maker.word()}.{self.maker.word()[:4]}"
        content = WRITING.get(self.writer, _sqlite)(self, rows)
        content = CONTAINERS[self.container](content)
        self.maker.put(0, (*self.own, name), content)
        there = {self.maker.native(v, names) for n, (v, names) in enumerate(self.files) if n not in self.missing}
        return self.maker.native(0, (*self.own, name)), there


def _zipped(content: bytes) -> bytes:
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("inner/data", content)
        archive.writestr("readme.txt", "nothing")
    return made.getvalue()


CONTAINERS: dict[str, Callable[[bytes], bytes]] = {
    "": bytes,
    "gzip": lambda content: gzip.compress(content, mtime=0),
    "zlib": zlib.compress,
    "zip": _zipped,
    "base64": base64.encodebytes,
}


def _sqlite(shape: Shape, rows: list[dict[str, Any]]) -> bytes:
    """Tables, with folders in one of their own where the shape has them so."""
    c, maker = shape.columns, shape.maker
    path = shape.maker.root / "made.db"
    folders: dict[Any, int] = {}
    with closing(sqlite3.connect(path)) as database:
        for row in rows:
            if shape.blob:
                row[c["path"]] = str(row[c["path"]]).encode("utf-16-le") + b"\0\0"
            if shape.split in ("table", "tree", "chain"):
                row[c["folder"]] = _folder_row(shape, database, folders, *row[c["folder"]])
        names = list(rows[0])
        database.execute(f"CREATE TABLE {c['table']} ({names[0]} INTEGER PRIMARY KEY, {', '.join(names[1:])})")
        marks = ", ".join("?" * len(names))
        database.executemany(
            f"INSERT INTO {c['table']} VALUES ({marks})", [tuple(row[n] for n in names) for row in rows]
        )
        database.execute(f"CREATE TABLE {c['group']} ({c['key']} INTEGER PRIMARY KEY, {c['title']})")
        database.execute(f"CREATE TABLE {c['pair']} ({c['key']}, {c['id']}, {c['place']})")
        for number in range(1, 4):
            database.execute(f"INSERT INTO {c['group']} VALUES (?, ?)", (number, maker.name()))
            for place, row in enumerate(maker.random.sample(rows, 5)):
                database.execute(f"INSERT INTO {c['pair']} VALUES (?, ?, ?)", (number, row[c["id"]], place))
        database.commit()
    content = path.read_bytes()
    path.unlink()
    return content


def _folder_row(
    shape: Shape, database: sqlite3.Connection, folders: dict[Any, int], volume: int, names: tuple[str, ...]
) -> int:
    c = shape.columns
    if not folders:
        database.execute(
            f"CREATE TABLE {c['other']} ({c['folder']} INTEGER PRIMARY KEY, {c['parent']}, {c['label']}, {c['volume']})"
        )
        if shape.split == "chain":
            database.execute(f"CREATE TABLE v{c['volume']} ({c['volume']} INTEGER PRIMARY KEY, {c['label']})")
            for number, label in enumerate(
                ROOTS[shape.maker.system] if shape.spelling == "native" else ("Main", shape.maker.label)
            ):
                database.execute(f"INSERT INTO v{c['volume']} VALUES (?, ?)", (number + 1, label))

    def added(key: Any, parent: int | None, label: str, of: int | None) -> int:
        if key not in folders:
            folders[key] = len(folders) + 1
            database.execute(f"INSERT INTO {c['other']} VALUES (?, ?, ?, ?)", (folders[key], parent, label, of))
        return folders[key]

    if shape.split == "table":
        whole = shape.path(volume, (*names, "x"))
        return added((volume, names), None, whole[: max(whole.rfind("/"), whole.rfind("\\"))], None)
    if shape.split == "chain":
        return added((volume, names), None, shape.maker.slash.join(names), volume + 1)
    first = shape.label(volume) if shape.spelling == "labelled" else ROOTS[shape.maker.system][volume]
    number = added((volume,), None, first, None)
    for depth in range(len(names)):
        number = added((volume, names[: depth + 1]), number, names[depth], None)
    return number


def _plain(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return [{key: value for key, value in row.items() if value is not None} for row in rows]


def _xml(shape: Shape, rows: list[dict[str, Any]]) -> bytes:
    c, lines = shape.columns, [f"<{shape.columns['table']}>"]
    for row in _plain(rows):
        attributes = "".join(f" {key}={quoteattr(str(value))}" for key, value in row.items() if key != c["path"])
        inner = f"<{c['path']}>{escape(str(row[c['path']]))}</{c['path']}>"
        lines.append(f"<{c['other']}{attributes}>{inner}</{c['other']}>")
    return "\n".join([*lines, f"</{c['table']}>"]).encode()


def _ini(shape: Shape, rows: list[dict[str, Any]]) -> bytes:
    parts = [
        f"[{shape.columns['table']} {number}]\n" + "\n".join(f"{key}={value}" for key, value in row.items()) + "\n"
        for number, row in enumerate(_plain(rows))
    ]
    return "\n".join(parts).encode()


def _csv(shape: Shape, rows: list[dict[str, Any]], mark: str = ",") -> bytes:  # noqa: ARG001
    def cell(value: Any) -> str:
        text = "" if value is None else str(value)
        return '"' + text.replace('"', '""') + '"' if mark in text or '"' in text else text

    lines = [mark.join(rows[0]), *(mark.join(map(cell, row.values())) for row in rows)]
    return ("\n".join(lines) + "\n").encode()


def _lines(shape: Shape, rows: list[dict[str, Any]]) -> bytes:
    word = shape.rng.choice(("", f"{shape.columns['other']} ", f"{shape.columns['other']}="))
    lines = [f"# {shape.columns['table']}"]
    for row in rows:
        lines += [word + str(row[shape.columns["path"]]), f"{shape.columns['title']}: {row[shape.columns['title']]}"]
    return ("\n".join(lines) + "\n").encode()


def _properties(shape: Shape, rows: list[dict[str, Any]]) -> bytes:
    c = shape.columns
    lines = []
    for number, row in enumerate(rows):
        path = (
            str(row[c["path"]]).replace("\\", "\\\\").replace(":", "\\:").encode("ascii", "backslashreplace").decode()
        )
        lines += [
            f"{c['path']}.{number}={path.replace(chr(92) + 'x', chr(92) + 'u00')}",
            f"{c['stars']}.{number}={row[c['stars']] or 0}",
        ]
    return ("\n".join(lines) + "\n").encode()


def _nested(shape: Shape, rows: list[dict[str, Any]]) -> dict[str, Any]:
    c = shape.columns
    made = [
        {**row, c["other"]: {c["path"]: row.pop(c["path"])}} if shape.rng.random() < 0 else row for row in _plain(rows)
    ]
    return {
        c["kind"]: 3,
        c["table"]: made,
        c["group"]: [{c["title"]: shape.maker.name(), c["pair"]: [row[c["id"]] for row in rows[:4]]}],
    }


WRITING: dict[str, Callable[[Shape, list[dict[str, Any]]], bytes]] = {
    "sqlite": _sqlite,
    "json": lambda shape, rows: json.dumps(_nested(shape, rows), indent=shape.rng.choice((None, 1))).encode(),
    "json-lines": lambda _, rows: "\n".join(json.dumps(row) for row in _plain(rows)).encode(),
    "xml": _xml,
    "ini": _ini,
    "csv": _csv,
    "tsv": lambda shape, rows: _csv(shape, rows, "\t"),
    "yaml": lambda shape, rows: yaml.safe_dump(_nested(shape, rows), allow_unicode=True, width=10**6).encode(),
    "plist": lambda shape, rows: plistlib.dumps(_nested(shape, rows)),
    "bplist": lambda shape, rows: plistlib.dumps(_nested(shape, rows), fmt=plistlib.FMT_BINARY),
    "lines": _lines,
    "properties": _properties,
}
