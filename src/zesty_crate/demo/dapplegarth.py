"""Dapplegarth Gallery, a made-up program for stencils: packs of pictures, with tags that go by a folder's name."""

from __future__ import annotations

from collections.abc import Iterator

from .picture import backdrop

_FOLDER = "disks/c/Users/Odile/Documents/Dapplegarth Packs"
_PACKS: dict[str, tuple[str, ...]] = {
    "Moths": ("Hawk", "Ermine", "Ghost", "Magpie moth", "Old lady", "Emperor"),
    "Geese": ("Walking", "Landing", "Asleep", "Honking", "From below"),
    "Lamps": ("Storm lamp", "Miner's lamp", "Paper lamp", "Lamp, broken"),
    "Windows & Doors": ("Half door", "Round window", "Shutter", "Cat flap"),
    "Arbres": ("Hêtre", "Saule", "Pommier", "Tilleul"),
    "Hands": ("Open", "Pointing", "Holding a thread", "Fist"),
}
_TAGS = {
    "Moths": "insects, night; Odile",
    "Geese": "birds",
    "Lamps": "light, props",
    "Arbres": "forêt; décor",
    "Hands": "puppeteers",
    "Windows & Doors": "set",
    "Stars (lent to Bertille)": "sky",
}
_EXTERNAL = "C:\\Users\\Odile\\Desktop\\Marsh reeds.png"


def files() -> Iterator[tuple[str, bytes]]:
    """Every pack with its stencils, the tags, and the one picture that a pack links to from outside."""
    number = 500
    for pack, stencils in _PACKS.items():
        lines = ["[pack]", f"title = {pack}", "made = Odile", ""]
        for stencil in stencils:
            number += 1
            yield f"{_FOLDER}/{pack}/{stencil}.png", backdrop(number, 24, 24)
            lines += [f"[stencil {stencil}]", f"picture = {stencil}.png", f"mark = {number % 4}", ""]
        if pack == "Geese":
            lines += ["[stencil Reeds]", f"picture = {_EXTERNAL}", "mark = 5", ""]
        yield f"{_FOLDER}/{pack}/{pack}.stencils", "\r\n".join(lines).encode("utf-16")
    yield "disks/c/Users/Odile/Desktop/Marsh reeds.png", backdrop(900, 48, 24)
    tags = [line for pack, words in _TAGS.items() for line in (f"[{pack}]", f"tags = {words}", "")]
    yield f"{_FOLDER}/tags.ini", "\r\n".join(tags).encode()
