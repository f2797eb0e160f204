"""Odile's travel computer: a small catalog of its own, from a week on the road, that goes into the new one."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from urllib.parse import quote

from .catalog import Shelves, new_shelf
from .picture import backdrop
from .sound import tone

SHEET = """# Odile's travel computer, with a week of work on the road.
[computer]
name   = "handcart"
system = "linux"
user   = "odile"

[[volume]]
anchor = "/"
mount  = "disks/system"
label  = "Handcart"
format = "ext4"

[programs.wimblethorn]
version = "3.2.1"

[programs.mothwick]
version = "1.8"
"""
HOME = "disks/system/home/odile"
SHELF = f"{HOME}/.config/wimblethorn/shelf.db"
KNOWN = "Weather/Near Thunder.wav"  # which she has at home, too, and rated on both
_PLACE = ("Handcart", "home", "odile", "Music", "Wimblethorn Sounds")
# Folder, file name, stars, note; sounds that are not known at home have tones of their own.
_ROAD = (
    ("Weather", "Near Thunder.wav", 4, "louder outdoors"),
    ("Road", "Ferry Horn.wav", 4, None),
    ("Road", "Market Crowd, Tuesday.wav", None, "cut the dog at 0:07"),
    ("Road", "Gravel Yard.wav", 5, None),
)
_BACKDROPS = f"{HOME}/Pictures/Backdrops/On the road"
_CLOTHS = ("Ferry landing", "Yard with carts")


def files(known: bytes) -> Iterator[tuple[str, bytes]]:
    """Every file but the catalog; ``known`` is the sound that she has at home, too."""
    for number, (folder, name, _, _) in enumerate(_ROAD):
        yield (
            f"{HOME}/Music/Wimblethorn Sounds/{folder}/{name}",
            known if f"{folder}/{name}" == KNOWN else tone(80 + number),
        )
    for number, name in enumerate(_CLOTHS):
        yield f"{_BACKDROPS}/{name}.png", backdrop(300 + number)
    yield f"{HOME}/.config/mothwick/cloths.xml", _cloths().encode()


def _cloths() -> str:
    """The catalog of backdrops: two of them, for a scene of a show."""
    url = f"file:///{_BACKDROPS.removeprefix('disks/system/')}/"
    cloths = "".join(
        f'  <cloth id="{number}" stars="{number + 2}"><picture href="{url}{quote(name)}.png"/></cloth>\n'
        for number, name in enumerate(_CLOTHS, start=1)
    ).replace("Backdrops/On the road", "Backdrops/On%20the%20road")
    uses = "".join(f'<use cloth="{number}"/>' for number, _ in enumerate(_CLOTHS, start=1))
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n<cloths version="4" xmlns="urn:mothwick:cloths">\n'
        f'{cloths}  <show id="Ferry Tales" title="Ferry Tales">\n'
        f'    <scene id="Ferry Tales/Landing" title="Landing">{uses}</scene>\n  </show>\n</cloths>\n'
    )


def write_shelf(path: Path, known: bytes) -> None:
    """Write the catalog, with one list."""
    sizes = {name.rpartition("/")[2]: len(content) for name, content in files(known)}
    with new_shelf(path) as database:
        shelves = Shelves(database)
        for number, (folder, name, stars, note) in enumerate(_ROAD, start=1):
            row = (number, name.removesuffix(".wav"), shelves.number_of((*_PLACE, folder)), name, sizes[name], "file")
            database.execute("INSERT INTO sound VALUES (?, ?, ?, ?, ?, ?, ?, ?)", (*row, stars, note))
        database.execute("INSERT INTO list VALUES (1, 'On the road', NULL)")
        database.executemany("INSERT INTO list_item VALUES (1, ?, ?)", ((place, place) for place in (2, 1, 4)))
