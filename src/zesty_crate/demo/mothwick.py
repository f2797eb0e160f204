"""Mothwick Cloths, a made-up catalog of painted backdrops: XML with file URLs, shows with scenes, words, stars."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from urllib.parse import quote
from xml.sax.saxutils import escape, quoteattr

from .picture import backdrop

_SHOWS: dict[str, dict[str, tuple[str, ...]]] = {
    "The Paper Geese": {
        "Marsh": ("Reeds at dawn", "Reeds, no moon", "Flooded path", "The heron's post", "Mist & will-o'-wisps"),
        "Farmyard": ("Gate with crows", "Pond", "Barn, lit from inside", "Haycart", "Dovecote #2", "Rain barrel"),
        "Sky": ("Geese leaving", "Geese coming home", "First snow", "Nine lamps", "Storm 100%", "After the storm"),
    },
    "The Miller and the Moth": {
        "Mill": ("Mill race", "Mill at night", "Millstones", "Sack loft", "Wheel, still", "Wheel, turning"),
        "Village": ("Market square", "Bäckergasse", "Bell tower", "Well", "Washing lines", "Théâtre de papier"),
        "Moth's dream": ("Lamp country", "Lamp country, far", "Wing, near", "Wing, nearer", "Dust", "Ash"),
    },
    "Cuckoo Weather": {
        "Forêt": ("Hêtres", "Clairière", "Ruisseau gelé", "La souche", "Neige bleue", "Chemin creux"),
        "Harbour": ("Quay", "Quay with nets", "Fog bank", "Lighthouse", "Two masts", "Ebb"),
        "Attic": ("Trunk", "Skylight", "Rocking horse", "Spider's corner", "Ladder", "Mirror"),
    },
}
_SPARE = ("Plain dusk", "Plain dawn", "Plain night", "Checker floor", "Red curtain", "Red curtain, torn", "Shadow grid")
_LOST = ("Sketches/Weir (lost).png", "Sketches/Old proscenium.png", "Market/Puppet stall.png")
_HIRED = ("https://hire.example/cloths/palace", "https://hire.example/cloths/sea-bed")
_WORDS = (None, "reeds, dawn", None, "repaint the left edge", None, None, "Bertille's best", None)
FOLDER = "disks/c/Users/Odile/Pictures/Backdrops"
_URL = "file:///C:/Users/Odile/Pictures/Backdrops/"
_OWN = "disks/c/Users/Odile/AppData/Roaming/Mothwick"
_FACTORY = "disks/c/ProgramData/Mothwick/Swatches"


@dataclass(frozen=True, slots=True)
class Cloth:
    """One backdrop: its file below the folder of backdrops, empty for one that is hired, and where it is used."""

    file: str
    scene: str
    content: bytes | None
    hired: str = ""


def cloths() -> list[Cloth]:
    """Every entry of the catalog, in its order: two sizes of each painted one, spares, lost ones, hired ones."""
    found: list[Cloth] = []
    for show, scenes in _SHOWS.items():
        for scene, names in scenes.items():
            for name in names:
                number = len(found)
                found.append(Cloth(f"{show}/{scene}/{name}.png", f"{show}/{scene}", backdrop(number)))
                found.append(Cloth(f"{show}/{scene}/{name} (wide).png", f"{show}/{scene}", backdrop(number, 72, 30)))
    found += [Cloth(f"Spare/{name}.png", "", backdrop(200 + n)) for n, name in enumerate(_SPARE)]
    # The same cloth, scanned once and saved twice.
    found.append(Cloth("Spare/Copy of Plain dusk.png", "", backdrop(200)))
    found += [Cloth(name, "", None) for name in _LOST]
    return found + [Cloth("", "", None, address) for address in _HIRED]


def files() -> Iterator[tuple[str, bytes]]:
    """Every file of the program on the old computer."""
    yield from ((f"{FOLDER}/{each.file}", each.content) for each in cloths() if each.content)
    yield f"{_OWN}/cloths.xml", catalog().encode()
    yield f"{_OWN}/Layouts/Two rows.layout", b"rows = 2\ncaption = title stars\n"
    yield f"{_OWN}/Layouts/Odile's wall.layout", b"rows = 5\ncaption = none\nground = black\n"
    for number, name in enumerate(("Oak ash", "Bone white", "Lamp black")):
        yield f"{_FACTORY}/{name}.png", backdrop(300 + number, 16, 16)
    for number in range(20):
        yield f"disks/c/Users/Odile/AppData/Local/Mothwick/Small/{number:03d}.png", backdrop(number, 8, 5)


def catalog() -> str:
    """The catalog as the program writes it, with a comment that a careless replacement would hit."""
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f"<!-- moved here from {_URL} in an editor, 2023 -->",
        '<cloths version="4" xmlns="urn:mothwick:cloths">',
    ]
    listed = list(enumerate(cloths(), start=1))
    lines += [_cloth(number, each) for number, each in listed]
    for show, scenes in _SHOWS.items():
        lines.append(f"  <show id={quoteattr(show)} title={quoteattr(show)}>")
        for scene in scenes:
            uses = "".join(f'<use cloth="{n}"/>' for n, each in listed if each.scene == f"{show}/{scene}")
            lines.append(f'    <scene id="{escape(show)}/{escape(scene)}" title={quoteattr(scene)}>{uses}</scene>')
        lines.append("  </show>")
    return "\n".join([*lines, "</cloths>", ""])


def _cloth(number: int, cloth: Cloth) -> str:
    words = _WORDS[number % len(_WORDS)]
    said = f"<words>{escape(words)}</words>" if words and not cloth.hired else ""
    if cloth.hired:
        return f'  <cloth id="{number}" stars="3"><picture href="{cloth.hired}"/></cloth>'
    href = escape(_URL + quote(cloth.file, safe="/()',&!"))
    about = ""
    if cloth.content:
        about = f' bytes="{len(cloth.content)}" sha1="{hashlib.sha1(cloth.content, usedforsecurity=False).hexdigest()}"'
    return f'  <cloth id="{number}" stars="{number * 7 % 6}"><picture href="{href}"{about}/>{said}</cloth>'
