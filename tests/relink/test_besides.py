"""What a catalog keeps beside a path: copies and digests follow it, pointers are told, what is not understood stays."""

from __future__ import annotations

import gzip
import hashlib
import sqlite3
import zlib
from contextlib import closing
from pathlib import Path
from urllib.parse import quote

import pytest

from conftest import Zesty
from support.trip import HEAD, Trip

GUIDE = (
    HEAD
    + """at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [{ at = "path" }]
copies = [
  { at = "lowered", as = ["slashes", "lower"] },
  { at = "folder", as = "folder" },
  { at = "url", as = "file-url" },
  { at = "crc", as = ["lower", "crc32", "signed-number"], encoding = "utf-16-le" },
  { at = "md5", as = ["md5", "upper"] },
  { at = "sha", as = ["slashes", "sha1"] },
]
pointers = [{ at = "bookmark", empty = true }, { at = "alias" }]
"""
)
COLUMNS = "id INTEGER PRIMARY KEY, path, lowered, folder, url, crc INTEGER, md5 TEXT, sha BLOB, bookmark BLOB, alias"


def unpacked(at: Path, inside: str) -> Path:
    """The database, taken out of what it is inside."""
    if inside:
        at.with_suffix(".out").write_bytes(gzip.decompress(at.read_bytes()))
    return at.with_suffix(".out") if inside else at


@pytest.mark.parametrize("inside", ["", "gzip"])
def test_what_is_made_of_a_path_is_made_anew_and_what_was_not_is_left(
    tmp_path: Path, zesty: Zesty, inside: str
) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(
        GUIDE.replace('syntax = "sqlite"', f'syntax = "sqlite"\ninside = "{inside}"' if inside else 'syntax = "sqlite"')
    )
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    with closing(sqlite3.connect(at)) as made:
        made.execute(f"CREATE TABLE sound ({COLUMNS})")
        for name in ("owl's é.wav", "bat.wav"):
            path = trip.sound(name)
            slashed = path.replace("\\", "/")
            crc = int.from_bytes(zlib.crc32(path.lower().encode("utf-16-le")).to_bytes(4, "big"), "big", signed=True)
            beside = (slashed.lower(), path[: -len(name) - 1], "file:///" + quote(slashed, safe="/:'"), crc)
            digests = (hashlib.md5(path.encode()).hexdigest().upper(), hashlib.sha1(slashed.encode()).digest())
            row = (path, *beside, *digests, b"\x01book", "alias data")
            made.execute(f"INSERT INTO sound VALUES (NULL, {', '.join('?' * 9)})", row)
        made.execute("UPDATE sound SET lowered = 'something else' WHERE id = 2")
        made.commit()
    if inside:
        at.write_bytes(gzip.compress(at.read_bytes()))
    tried = trip.run("guide", "try", "lamps", "--at", trip.old, "--guides", trip.guides)
    assert tried.returncode == 1
    assert "1 entry keeps something beside the path that was not made of it" in tried.stdout
    assert trip.moved().returncode in (0, 1)
    with closing(sqlite3.connect(unpacked(trip.new_database, inside))) as database:
        first, second = database.execute("SELECT * FROM sound ORDER BY id")
    path = "/Users/odile/Music/Lamps/owl's é.wav"
    crc = int.from_bytes(zlib.crc32(path.lower().encode("utf-16-le")).to_bytes(4, "big"), "big", signed=True)
    digests = (hashlib.md5(path.encode()).hexdigest().upper(), hashlib.sha1(path.encode()).digest())
    url = "file:///" + quote(path[1:], safe="/'")
    assert first == (1, path, path.lower(), path.rpartition("/")[0], url, crc, *digests, None, "alias data")
    assert second[1:3] == ("/Users/odile/Music/Lamps/bat.wav", "something else")
    said = trip.run("relink", trip.crate, "--to", trip.new, "--yes").stdout
    todo = trip.run("todo", trip.crate, "--to", trip.new).stdout
    assert "2 of them have a pointer to the old file" in " ".join(todo.split())
    assert trip.undo().returncode == 0, said
