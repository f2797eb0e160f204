"""Many small documents: what was decided in one counts in another only where the same text means the same file."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import Trip

GUIDE = """[guide]
id = "lamps"
title = "Lamps"
language = 1
[[holding]]
id = "store"
kind = "media"
at = "{music}"
[[holding]]
id = "scenes"
kind = "presets"
sweep = ["*.scene"]
syntax = "xml"
relative-to = "WHERE"
[[holding.entries]]
each = "//sound"
path = [{ at = "@path" }]
spelling = "relative"
"""
# Both acts keep their sounds beside them; those of act two go elsewhere.
ACTS = ("One/a.scene", "Two/a.scene", "One/b.scene", "Two/b.scene")
ROUTES = (
    r"C:\Users\Odile\Music=/Users/odile/Music",
    r"C:\Users\Odile\Music\Two\Owls=/Users/odile/Birds",
)


@pytest.mark.parametrize("start", ["folder", "document"])
def test_the_same_text_in_two_folders_leads_to_two_places(tmp_path: Path, zesty: Zesty, start: str) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(GUIDE.replace("WHERE", start))
    music, up = trip.home / "Music", "" if start == "folder" else "..\\"
    for act in ("One", "Two"):
        (music / act / "Owls").mkdir(parents=True)
        for name in ("call.wav", "dusk.wav"):
            (music / act / "Owls" / name).write_bytes(f"{act} {name}".encode())
    for scene in ACTS:
        sounds = "".join(f'<sound path="{up}Owls\\{name}.wav"/>' for name in ("call", "dusk", "call"))
        (music / scene).write_text(f"<scene>{sounds}</scene>")
    assert trip.survey().returncode == 0
    assert trip.pack().returncode == 0
    assert trip.plan(*(each for route in ROUTES for each in ("--route", route))).returncode == 0
    assert trip.unpack().returncode == 0
    assert trip.relink().returncode == 0
    told = trip.check()
    assert told.returncode == 0, told.stdout
    new = trip.new_home / "Music"
    up = up.replace("\\", "/")
    for scene in ("a", "b"):
        one, two = ((new / act / f"{scene}.scene").read_text() for act in ("One", "Two"))
        for text, start in ((one, f"{up}Owls"), (two, f"{up}../../Birds")):
            assert [text.count(f'"{start}/{name}.wav"') for name in ("call", "dusk")] == [2, 1]
