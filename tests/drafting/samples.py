"""What programs keep, each in another shape, and what a draft must say of it: keys of the guide, with their values."""

from __future__ import annotations

import gzip
import hashlib
import json
import plistlib
import sqlite3
import zlib
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path, PureWindowsPath
from typing import Any, Literal

FOLDERS = ("Rain & Wind", "Bells/Small", "Bells")
NAMES = (
    "drip.wav",
    "gutter é.wav",
    "owl.wav",
    "Lamp 1.wav",
    "Lamp 2.wav",
    "far bell.mid",
    "near.wav",
    "thaw.wav",
    "hush.wav",
    "gate.wav",
    "reed.wav",
    "moss.wav",
)
HOME = "C:\\Users\\Odile"
MUSIC = f"{HOME}\\Music\\Lamps"
ROWS = [
    (number, f"{MUSIC}\\{FOLDERS[number % 3]}\\{name}".replace("/", "\\"))
    for number, name in enumerate(NAMES, start=11)
]
Told = dict[str, Any]


@dataclass(frozen=True)
class Sample:
    """How a program writes its documents into a folder; what a draft must say of the entries, and of their holding."""

    write: Callable[[Path], None]
    entries: Told
    holding: Told


def content_of(path: str) -> bytes:
    """What is in a media file."""
    return f"content of {path}".encode() * 3


def _records() -> list[dict[str, Any]]:
    return [{"n": number, "file": path, "stars": number % 4} for number, path in ROWS]


def _writes(name: str, content: Callable[[], bytes | str]) -> Callable[[Path], None]:
    def write(folder: Path) -> None:
        made = content()
        (folder / name).write_bytes(made if isinstance(made, bytes) else made.encode())

    return write


def _json(**more: Callable[[str], Any]) -> str:
    return json.dumps(
        {"takes": [each | {k: v(each["file"]) for k, v in more.items()} for each in _records()]}, indent=1
    )


def _database(name: str, script: Callable[[sqlite3.Connection], None]) -> Callable[[Path], None]:
    def write(folder: Path) -> None:
        with closing(sqlite3.connect(folder / name)) as database, database:
            script(database)

    return write


def _tree(database: sqlite3.Connection) -> None:
    """Folders within folders, of which the outermost names the drive."""
    database.execute("CREATE TABLE place (id INTEGER PRIMARY KEY, up INTEGER REFERENCES place, label)")
    database.execute("CREATE TABLE take (id INTEGER PRIMARY KEY, at INTEGER REFERENCES place, stem, kind, note)")
    known: dict[tuple[str, ...], int] = {}
    for number, path in ROWS:
        *folders, name = path.split("\\")
        up = None
        for depth in range(1, len(folders) + 1):
            key = tuple(folders[:depth])
            if key not in known:
                known[key] = len(known) + 1
                database.execute("INSERT INTO place VALUES (?, ?, ?)", (known[key], up, folders[depth - 1]))
            up = known[key]
        stem, _, ending = name.rpartition(".")
        database.execute("INSERT INTO take VALUES (?, ?, ?, ?, ?)", (number, up, stem, ending, None))


def _chain(database: sqlite3.Connection) -> None:
    """A folder in a table, which names its volume in another."""
    database.execute("CREATE TABLE disk (disk_id INTEGER PRIMARY KEY, label)")
    database.execute("CREATE TABLE folder (folder_id INTEGER PRIMARY KEY, disk_id, below)")
    database.execute("CREATE TABLE take (id INTEGER PRIMARY KEY, folder_id, name)")
    database.execute("INSERT INTO disk VALUES (1, 'C:')")
    folders = sorted({str(PureWindowsPath(path).parent)[3:] for _, path in ROWS})
    database.executemany("INSERT INTO folder VALUES (?, 1, ?)", enumerate(folders, start=1))
    for number, path in ROWS:
        folder = folders.index(str(PureWindowsPath(path).parent)[3:]) + 1
        database.execute("INSERT INTO take VALUES (?, ?, ?)", (number, folder, PureWindowsPath(path).name))


def _besides(database: sqlite3.Connection) -> None:
    """Bytes as paths, what is made of them, a pointer, and lists with their members in order."""
    database.execute("CREATE TABLE take (id INTEGER PRIMARY KEY, uuid, file, small, sum, mark, size, stars)")
    database.execute("CREATE TABLE shelf (shelf_id INTEGER PRIMARY KEY, title)")
    database.execute("CREATE TABLE on_shelf (shelf_id REFERENCES shelf, take REFERENCES take, place)")
    for number, path in ROWS:
        sum_of, mark = hashlib.md5(path.encode()).hexdigest(), b"\1\2" + path.encode("utf-16-le") + b"\3"
        uuid = f"{number:08x}-1111-2222-3333-{number:012x}"
        row = number, uuid, path, path.lower(), sum_of, mark, len(content_of(path)), number % 3
        database.execute("INSERT INTO take VALUES (?, ?, ?, ?, ?, ?, ?, ?)", row)
    database.executemany("INSERT INTO shelf VALUES (?, ?)", [(1, "Dusk"), (2, "Dawn at the mill")])
    database.executemany("INSERT INTO on_shelf VALUES (?, ?, ?)", [(1, 11, 1), (1, 13, 2), (2, 13, 1), (2, 12, 2)])


def _within(database: sqlite3.Connection) -> None:
    """A document in each row, compressed."""
    database.execute("CREATE TABLE scene (id INTEGER PRIMARY KEY, data)")
    for start in range(0, len(ROWS), 3):
        takes = [{"file": path} for _, path in ROWS[start : start + 3]]
        database.execute(
            "INSERT INTO scene VALUES (?, ?)", (start, zlib.compress(json.dumps({"takes": takes}).encode()))
        )


def _projects(folder: Path) -> None:
    """Three databases of one program, the second with most takes."""
    parts = (ROWS[:2], ROWS[2:9], ROWS[9:])
    for number, some in enumerate(parts):

        def script(database: sqlite3.Connection, some: list[tuple[int, str]] = some) -> None:
            database.execute("CREATE TABLE take (id INTEGER PRIMARY KEY, file TEXT, stars INTEGER)")
            database.executemany("INSERT INTO take VALUES (?, ?, ?)", ((n, path, n % 3) for n, path in some))

        _database(f"scene {number}.lampdb", script)(folder)


def _xml() -> str:
    shelves = []
    for folder in FOLDERS:
        whole = f"{MUSIC}\\{folder}".replace("/", "\\")
        names = [(n, PureWindowsPath(path).name) for n, path in ROWS if str(PureWindowsPath(path).parent) == whole]
        takes = "".join(f'<take id="{n}"><name>{name}</name></take>' for n, name in names)
        shelves.append(f'<shelf where="{whole.replace("&", "&amp;")}">{takes}</shelf>')
    lists = (
        '<list name="Dusk"><of take="11"/><of take="14"/></list><list name="Dawn"><of take="12"/><of take="13"/></list>'
    )
    return f"<lamps>{''.join(shelves)}{lists}</lamps>"


def _properties() -> str:
    """Each path in a property of a take, and in a list of all files."""
    takes = "".join(
        f'<take id="{n}"><property name="file">{path.replace("&", "&amp;")}</property>'
        f'<property name="mood">{n % 3}</property></take>'
        for n, path in ROWS
    )
    files = "".join(f'<file at="{path.replace("&", "&amp;")}"/>' for _, path in ROWS)
    return f"<cut>{takes}<all>{files}</all></cut>"


def _lines() -> str:
    """A folder holds for the names that follow."""
    lines = ["# takes"]
    for folder in FOLDERS:
        whole = f"{MUSIC}\\{folder}".replace("/", "\\")
        lines.append(f"folder {whole}")
        lines += [f"take {PureWindowsPath(p).name}" for _, p in ROWS if str(PureWindowsPath(p).parent) == whole]
    return "\r\n".join(lines)


def _riff(encoding: str = "utf-8", outer: bytes = b"RIFF", order: Literal["little", "big"] = "little") -> bytes:
    def chunk(tag: bytes, payload: bytes) -> bytes:
        return tag + len(payload).to_bytes(4, order) + payload + b"\0" * (len(payload) % 2)

    clips = b"".join(chunk(b"LIST", b"clip" + chunk(b"file", path.encode(encoding))) for _, path in ROWS)
    return chunk(outer, b"LAMP" + clips)


def _own_records() -> bytes:
    """Records of a program's own layout, behind a head; two bytes, the largest first, count a whole record."""

    def record(tag: bytes, payload: bytes) -> bytes:
        return tag + (len(payload) + 6).to_bytes(2, "big") + payload

    takes = (
        record(b"TAKE", record(b"PATH", path.encode()) + record(b"STAR", bytes([n % 4]) * (n % 3 + 1)))
        for n, path in ROWS
    )
    return b"\0\1LAMPS\0" + record(b"HEAD", b"\0\3") + b"".join(takes)


def _turtle() -> str:
    about = (
        f"<urn:take:{n}> a l:Take ; l:stars {n % 4} ; l:file <{PureWindowsPath(path).as_uri()}> .\n" for n, path in ROWS
    )
    return f"@prefix l: <urn:lamps:desk#> .\n{''.join(about)}"


def _turtle_lists() -> str:
    """Texts, several by one predicate, of what has no name."""
    texts = [json.dumps(path, ensure_ascii=False) for _, path in ROWS]  # which Turtle quotes likewise
    scenes = (f"<urn:scene:{n}> l:in [ l:file {' , '.join(texts[n::2])} ] .\n" for n in range(2))
    return f"@prefix l: <http://lamps.example/ns/desk#> .\n{''.join(scenes)}"


def _presets(folder: Path) -> None:
    for number, path in ROWS:
        (folder / f"look {number}.look").write_text(f"[look]\nname=Look {number}\npicture={path}\n", "cp1252")


def _by_a_setting(folder: Path) -> None:
    """Paths relative to a folder that a setting names."""
    (folder / "desk.ini").write_text(f"[paths]\nlibrary={MUSIC}\nother={HOME}\\Music\n")
    takes = [{"n": number, "file": path.removeprefix(f"{MUSIC}\\")} for number, path in ROWS]
    (folder / "takes.json").write_text(json.dumps({"takes": takes}))


def _in_a_store(folder: Path) -> None:
    """Files by their digests, in folders of the first two characters."""
    takes = []
    for number, path in ROWS:
        name, (_, _, ending) = hashlib.sha1(path.encode()).hexdigest(), path.rpartition(".")
        takes.append({"n": number, "sum": name, "kind": ending})
        (folder / "Objects" / name[:2]).mkdir(parents=True, exist_ok=True)
        (folder / "Objects" / name[:2] / f"{name[2:]}.{ending}").write_bytes(content_of(path))
    (folder / "takes.json").write_text(json.dumps({"takes": takes}))


def _plain(**path: Any) -> Told:
    return {"each": "$.takes[*]", "path": [{"at": "file", **path}], "annotations": ["stars"]}


SAMPLES = {
    "JSON": Sample(_writes("takes.json", _json), _plain() | {"key": "n"}, {"syntax": "json"}),
    "names one by one": Sample(
        _writes("takes.json", lambda: _json(file=lambda path: path.split("\\"))),
        _plain(holds="names") | {"spelling": "slashes"},
        {"syntax": "json"},
    ),
    "names of members": Sample(
        _writes("takes.json", lambda: json.dumps({path: {"stars": n % 3} for n, path in ROWS})),
        {"each": "$.*", "path": [{"at": "member-name()"}]},
        {"syntax": "json"},
    ),
    "more around it": Sample(
        _writes("takes.json", lambda: _json(file=lambda path: f"x1.5:{path}")),
        _plain(match=r"^x[\d.]+:(.+)$"),
        {"syntax": "json"},
    ),
    "another separator": Sample(
        _writes("takes.json", lambda: _json(file=lambda path: path.replace("\\", "|"))),
        _plain(separator="|"),
        {"syntax": "json"},
    ),
    "file URLs in XML": Sample(
        _writes(
            "takes.xml",
            lambda: gzip.compress(
                "".join(
                    ("<t>", *(f"<take><u>{PureWindowsPath(path).as_uri()}</u></take>" for _, path in ROWS), "</t>")
                ).encode()
            ),
        ),
        {"each": "/t/take/u", "path": [{"at": "."}], "spelling": "file-url"},
        {"syntax": "xml", "inside": "gzip"},
    ),
    "a folder around it": Sample(
        _writes("takes.xml", _xml),
        {"each": "/lamps/shelf/take", "key": "@id", "path": [{"at": "../@where"}, {"at": "name"}]},
        {"syntax": "xml"},
    ),
    "properties by their names, and the same paths elsewhere": Sample(
        _writes("takes.xml", _properties),
        {"each": "/cut/take", "key": "@id", "path": [{"at": "property[@name='file']"}]},
        {"syntax": "xml"},
    ),
    "a folder that holds for lines": Sample(
        _writes("takes.txt", _lines),
        {"path": [{"at": "carried2"}, {"at": "path"}]},
        {"syntax": "lines", "carry": [r"\s*folder\s+(?P<carried2>.+?)\s*"]},
    ),
    "a tree": Sample(
        _database("takes.db", _tree),
        {
            "table": "take",
            "key": "id",
            "path": [
                {"table": "place", "via": "at", "column": "label", "parent": "up"},
                {"column": "stem", "holds": "stem"},
                {"column": "kind", "holds": "extension"},
            ],
        },
        {"syntax": "sqlite"},
    ),
    "a chain": Sample(
        _database("takes.db", _chain),
        {
            "path": [
                {"table": "disk", "via": "folder.disk_id", "column": "label"},
                {"table": "folder", "via": "folder_id", "column": "below"},
                {"column": "name"},
            ]
        },
        {"syntax": "sqlite"},
    ),
    "what is beside a path": Sample(
        _database("takes.db", _besides),
        {
            "key": "id",
            "path": [{"column": "file"}],
            "size": "size",
            "copies": [{"at": "small", "as": "lower"}, {"at": "sum", "as": "md5"}],
            "pointers": [{"at": "mark"}],
            "annotations": ["stars"],
            "identity": ["uuid"],
        },
        {
            "syntax": "sqlite",
            "groups": [
                {
                    "table": "shelf",
                    "key": "shelf_id",
                    "name": "title",
                    "members": {"table": "on_shelf", "group": "shelf_id", "entry": "take", "order": "place"},
                }
            ],
        },
    ),
    "databases of one schema": Sample(
        _projects,
        {"table": "take", "key": "id", "path": [{"column": "file"}], "annotations": ["stars"]},
        {"kind": "catalog", "at": "{own}/*.lampdb", "syntax": "sqlite"},
    ),
    "documents in a column": Sample(
        _database("scenes.db", _within),
        {"each": "$.takes[*]", "path": [{"at": "file"}]},
        {"syntax": "json", "inside": [{"syntax": "sqlite", "table": "scene", "key": "id", "column": "data"}, "zlib"]},
    ),
    "binary records": Sample(
        _writes("takes.lamp", _riff),
        {"each": "/file/RIFF/LIST", "path": [{"at": "file"}]},
        {"syntax": "tagged", "records": "riff"},
    ),
    "binary records in wide characters": Sample(
        _writes("takes.lamp", lambda: _riff("utf-16-le")),
        {"each": "/file/RIFF/LIST", "path": [{"at": "file"}]},
        {"syntax": "tagged", "records": "riff", "encoding": "utf-16-le"},
    ),
    "binary records, the largest byte first": Sample(
        _writes("takes.lamp", lambda: _riff(outer=b"FORM", order="big")),
        {"each": "/file/FORM/LIST", "path": [{"at": "file"}]},
        {"syntax": "tagged", "records": "iff"},
    ),
    "binary records of a layout of their own": Sample(
        _writes("takes.lampdesk", _own_records),
        {"each": "/file/TAKE", "path": [{"at": "PATH"}]},
        {
            "syntax": "tagged",
            "records": {"length": "u16-be", "counts": "record", "start": 8, "nested": {"TAKE": 0}},
        },
    ),
    "files named by a value": Sample(
        _in_a_store,
        {"key": "n", "path": [{"made-of": "{sum[0:2]}/{sum[2:]}.{kind}"}], "spelling": "relative"},
        {"syntax": "json", "relative-to": "{own}/Objects"},
    ),
    "statements": Sample(
        _writes("takes.ttl", _turtle),
        {
            "each": "a desk:Take",
            "key": "subject",
            "path": [{"at": "desk:file"}],
            "spelling": "file-url",
            "annotations": ["desk:stars"],
        },
        {"syntax": "turtle", "namespaces": {"desk": "urn:lamps:desk#"}},
    ),
    "statements without names": Sample(
        _writes("takes.ttl", _turtle_lists),
        {"each": "desk:file", "path": [{"at": "object"}]},
        {"syntax": "turtle", "namespaces": {"desk": "http://lamps.example/ns/desk#"}},
    ),
    "presets": Sample(
        _presets,
        {"each": "look", "path": [{"at": "picture"}], "annotations": ["name"]},
        {"kind": "presets", "at": "{own}/*.look", "syntax": "ini", "encoding": ["utf-8", "cp1252"]},
    ),
    "a base that a setting names": Sample(
        _by_a_setting,
        {"each": "$.takes[*]", "path": [{"at": "file"}], "spelling": "relative"},
        {"syntax": "json", "relative-to": {"holding": "desk", "key": "library"}},
    ),
    "several in one value": Sample(
        _writes("desk.ini", lambda: f"[search]\nin={';'.join(path for _, path in ROWS)}\n"),
        {"each": "(?P<path>[^;]+)", "path": [{"at": "path"}]},
        {"syntax": "lines", "anywhere": True, "inside": {"syntax": "ini", "each": "search", "at": "in"}},
    ),
    "a property list": Sample(
        _writes("takes.plist", lambda: plistlib.dumps({"takes": _records()}, fmt=plistlib.FMT_BINARY)),
        _plain(),
        {"syntax": "plist"},
    ),
    "columns": Sample(
        _writes(
            "takes.csv",
            lambda: (
                "n,folder,name,stars\n"
                + "".join(f"{n},{PureWindowsPath(p).parent},{PureWindowsPath(p).name},{n % 3}\n" for n, p in ROWS)
            ),
        ),
        {"key": "n", "path": [{"at": "folder"}, {"at": "name"}], "annotations": ["stars"]},
        {"syntax": "delimited"},
    ),
}
