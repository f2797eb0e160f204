"""Each recipe of the documentation is run on data of its shape: all is found, and goes to all systems and back."""

from __future__ import annotations

import gzip
import io
import json
import re
import sqlite3
import zipfile
import zlib
from collections.abc import Callable
from contextlib import closing
from html import escape
from pathlib import Path
from typing import get_args

import pytest

from conftest import Zesty
from support.docs import DOCS
from support.trip import Trip, document
from zesty_crate.guides.model import Syntaxes

HEAD = '[guide]\nid = "recipe"\ntitle = "Recipe"\nlanguage = 1\n'
PAGE = (DOCS / "guides.md").read_text("utf-8")
EXAMPLES = PAGE.split("## One example for each syntax")[1].split("\n## ")[0]
WORKED = re.findall(r"```(sql|xml|html|json|text|ini|reg|turtle)\n(.*?)```\n\n```toml\n(.*?)```", EXAMPLES, re.DOTALL)
SECTION = PAGE.split("## Recipes for the shapes of catalogs")[1].split("\n## ")[0]
RECIPES = {re.search(r'id *= "(.*?)"', each)[1]: each for each in re.findall(r"```toml\n(.*?)```", SECTION, re.DOTALL)}  # type: ignore[index]
Files = list[str]


def database(path: Path, script: str, *rows: tuple[str, tuple[object, ...]]) -> None:
    with closing(sqlite3.connect(path)) as made:
        made.executescript(script)
        for insert, values in rows:
            made.execute(f"INSERT INTO {insert} VALUES ({', '.join('?' * len(values))})", values)
        made.commit()


def tree(files: Files, music: Path) -> None:
    names = ["C:", "Users", "Odile", "Music", "Lamps"]
    folders = [("folder", (number, number - 1, name)) for number, name in enumerate(names, 1)]
    sounds = [("sound", (number, 5, file.rpartition("\\")[2])) for number, file in enumerate(files)]
    script = "CREATE TABLE folder (id INTEGER PRIMARY KEY, within, name); CREATE TABLE sound (id, folder_id, file);"
    database(music / "tree.db", script, *folders, *sounds)


def volumes(files: Files, music: Path) -> None:
    names = ["Users", "Odile", "Music", "Lamps"]
    folders = [
        ("folder", (number, number - 1, name, 7 if number == 1 else None)) for number, name in enumerate(names, 1)
    ]
    sounds = [("sound", (n, 4, *file.rpartition("\\")[2].rsplit(".", 1))) for n, file in enumerate(files)]
    script = (
        "CREATE TABLE volume (volume_id INTEGER PRIMARY KEY, label); CREATE TABLE sound (id, folder_id, stem, ending);"
        "CREATE TABLE folder (id INTEGER PRIMARY KEY, within, name, volume_id);"
    )
    database(music / "volumes.db", script, ("volume", (7, "LOFT")), *folders, *sounds)


def project(files: Files, music: Path) -> None:
    sounds = "".join(f'<sound id="{number}" file="{escape(file)}"/>' for number, file in enumerate(files))
    (music / "dusk.scene").write_bytes(gzip.compress(f"<scene>{sounds}</scene>".encode()))


def clips(files: Files) -> bytes:
    return json.dumps({"sounds": [{"id": file, "file": file} for file in files]}).encode()


def pages(files: Files, music: Path) -> None:
    with zipfile.ZipFile(music / "pages.zip", "w") as archive:
        for number, file in enumerate(files):
            archive.writestr(f"pages/{number}.json", clips([file]))
        archive.writestr("about.json", "{}")


def column(files: Files, music: Path) -> None:
    rows = [("scene", (number, zlib.compress(clips([file])))) for number, file in enumerate(files)]
    database(music / "column.db", "CREATE TABLE scene (id INTEGER PRIMARY KEY, data BLOB);", *rows)


def listed(files: Files, music: Path) -> None:
    folders = [f"{file}.d" for file in files]
    for each in folders:
        (music / "Lamps" / each.rpartition("\\")[2]).mkdir()
    (music / "list.ini").write_text(f"[search]\nfolders={';'.join(folders)}\nmode=1\n")


def desk(files: Files, music: Path) -> None:
    lines = [f"recent.{number}={file}".replace("\\", "\\\\") for number, file in enumerate(files)]
    (music / "desk.properties").write_text("\n".join([*lines, "size = 100"]))


def cues(files: Files, music: Path) -> None:
    made = io.StringIO("# Dusk\ncues:\n")
    made.seek(0, io.SEEK_END)
    made.writelines(f"- title: {number}\n  file: {file}\n" for number, file in enumerate(files))
    (music / "cues.yaml").write_text(made.getvalue())


def shaped(files: Files, music: Path, name: str, shape: Callable[[str], object]) -> None:
    sounds = [{"id": number, "file": shape(file)} for number, file in enumerate(files)]
    (music / f"{name}.json").write_text(json.dumps({"sounds": sounds}))


def speeds(files: Files, music: Path) -> None:
    shaped(files, music, "speeds", "x1.5:{}".format)


def colons(files: Files, music: Path) -> None:
    shaped(files, music, "colons", lambda file: file.replace("C:", "Loft").replace("\\", ":"))


def names(files: Files, music: Path) -> None:
    shaped(files, music, "names", lambda file: file.split("\\"))


def members(files: Files, music: Path) -> None:
    sounds = {file.replace("\\", "/"): {"stars": number} for number, file in enumerate(files)}
    (music / "members.json").write_text(json.dumps({"sounds": sounds}))


def copies(files: Files, music: Path) -> None:
    rows = []
    for number, file in enumerate(files):
        lowered, name = file.replace("\\", "/").lower(), file.rpartition("\\")[2]
        rows.append(("sound", (number, file, lowered, name, zlib.crc32(file.lower().encode("utf-16-le")), b"book")))
    script = "CREATE TABLE sound (id INTEGER PRIMARY KEY, file, lowered, name, 'check' INTEGER, bookmark BLOB);"
    database(music / "copies.db", script, *rows)


def library(files: Files, music: Path) -> None:
    shaped(files, music, "library", lambda file: "Lamps\\" + file.rpartition("\\")[2])
    (music / "library.ini").write_text("[paths]\nlibrary=C:\\Users\\Odile\\Music\ncolor=red\n")


def store(files: Files, music: Path) -> None:
    rows = []
    for number, file in enumerate(files):
        digest = f"{number:02x}cdef"
        (music / "Lamps" / digest[:2]).mkdir()
        (music / "Lamps" / file.rpartition("\\")[2]).rename(music / "Lamps" / digest[:2] / f"{digest[2:]}.wav")
        rows.append(("sound", (number, digest, "wav")))
    database(music / "store.db", "CREATE TABLE sound (id INTEGER PRIMARY KEY, digest, kind);", *rows)


def chunks(files: Files, music: Path) -> None:
    def chunk(tag: bytes, payload: bytes) -> bytes:
        return tag + len(payload).to_bytes(4, "little") + payload + b"\0" * (len(payload) % 2)

    clips = b""
    for number, file in enumerate(files):
        inner = chunk(b"id  ", f"{number}".encode("utf-16-le")) + chunk(b"file", f"{file}\0".encode("utf-16-le"))
        clips += chunk(b"LIST", b"clip" + inner)
    (music / "chunks.shadow").write_bytes(chunk(b"RIFF", b"SHDW" + chunk(b"data", b"odd") + clips))


def pairs(files: Files, music: Path) -> None:
    for file in files:
        (music / "Lamps" / f"{file.rpartition(chr(92))[2]}.peaks").write_text("peaks")
    shaped(files, music, "pairs", str)


MAKERS: dict[str, Callable[[Files, Path], None]] = {
    "tree": tree,
    "volumes": volumes,
    "project": project,
    "pages": pages,
    "column": column,
    "list": listed,
    "desk": desk,
    "cues": cues,
    "speeds": speeds,
    "colons": colons,
    "names": names,
    "members": members,
    "copies": copies,
    "library": library,
    "store": store,
    "pairs": pairs,
    "chunks": chunks,
}


def test_every_recipe_has_data() -> None:
    assert set(RECIPES) == set(MAKERS)


@pytest.mark.parametrize("name", MAKERS)
def test_a_recipe_finds_everything_and_it_goes_there_and_back(tmp_path: Path, zesty: Zesty, name: str) -> None:
    trip = Trip(tmp_path, zesty)
    trip.old.write_text(trip.old.read_text().replace('mount = "loft"', 'mount = "loft"\nlabel = "Loft"'))
    files = [trip.sound(each) for each in ("owl.wav", "bat & moth.wav", "lamp.lit.wav")]
    MAKERS[name](files, trip.home / "Music")
    trip.guide(HEAD + RECIPES[name], "recipe")
    where = ("recipe", "--at", trip.old, "--guides", trip.guides, "--json")
    tried = document(trip.run("guide", "try", *where))
    mine = [holding for holding in tried["holdings"] if holding["report"]["id"] == f"recipe/{name}"]
    totals = [each["totals"] for holding in mine for each in holding["documents"]]
    assert [(each["found"] + each["outside"], each["entries"]) for each in totals] == [(3, 3)]
    rehearsed = document(trip.run("guide", "rehearse", *where))
    assert not [move["fault"] for each in rehearsed["documents"] for move in each["moves"] if move["fault"]]
    moves = [move for each in rehearsed["documents"] for move in each["moves"] if name in each["holding"]]
    assert [(each["entries"], each["fault"]) for each in moves] == [(3, "")] * 3


@pytest.mark.parametrize(("kind", "content", "holding"), WORKED, ids=[kind for kind, *_ in WORKED])
def test_a_worked_example_reads_its_document(
    tmp_path: Path, zesty: Zesty, kind: str, content: str, holding: str
) -> None:
    trip = Trip(tmp_path, zesty)
    trip.sound("owl.wav")
    trip.sound("owl.png")
    at = trip.home / "Music" / holding.split("{music}/")[1].split('"')[0]
    if kind == "sql":
        database(at, content)
    else:
        at.write_bytes(content.encode("utf-16" if kind == "reg" else "utf-8"))
    trip.guide(HEAD + holding, "recipe")
    where = ("recipe", "--at", trip.old, "--guides", trip.guides, "--json")
    tried = document(trip.run("guide", "try", *where))
    (totals,) = [each["totals"] for found in tried["holdings"] for each in found["documents"]]
    assert (totals["found"] + totals["outside"], totals["entries"]) == (1, 1)
    assert trip.run("guide", "rehearse", *where).returncode == 0
    assert trip.run("guide", "lint", "recipe", "--guides", trip.guides).returncode == 0


def test_there_is_an_example_for_each_syntax() -> None:
    syntaxes = {found for *_, each in WORKED for found in re.findall(r'syntax *= "(.*?)"', each)}
    alike = {"yaml", "toml", "plist", "json-lines", "properties", "tagged"}
    assert syntaxes | alike == set(get_args(Syntaxes))
