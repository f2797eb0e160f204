"""The trailer and the light, of two made-up programs that are known only in part.

Hobbinreel, an editor, keeps OpenTimelineIO; Dimlanthorn Looks has changed the place of its presets once.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from .picture import backdrop

_FOLDER = "disks/c/Users/Odile/Videos/Trailer"
_URL = "file:///C:/Users/Odile/Videos/Trailer/"
_SHOTS = {"lamp lit": 24, "moth walk": 18, "geese over": 12}
_SOUNDS = ("Lamp%20Lit.wav", "Creatures/Moth%20Wings.wav", "Weather/Snow%20Hush.wav")
_LOOKS = {
    "Documents/Dimlanthorn/Looks": ("Dusk", "Storm", "Moth's dream", "Curtain call"),
    "AppData/Roaming/Dimlanthorn/Looks": ("Dusk", "Harbour fog", "Attic", "Blackout, slow", "Odile/Candle"),
}


def files() -> Iterator[tuple[str, bytes]]:
    """Shots in two sizes, the timelines, what the editor keeps besides, and the looks."""
    for number, (shot, frames) in enumerate(_SHOTS.items(), start=10):
        for frame in range(1, frames + 1):
            name = f"{shot}/{shot}.{frame:04d}.png"
            yield f"{_FOLDER}/Originals/{name}", backdrop(100 * number + frame, 64, 36)
            yield f"{_FOLDER}/Light/{name}", backdrop(100 * number + frame, 16, 9)
    for name, folder in (("Trailer", "Originals"), ("Trailer, light", "Light")):
        yield f"{_FOLDER}/{name}.otio", json.dumps(_timeline(name, folder), indent=4).encode()
    home = "disks/c/Users/Odile"
    yield f"{_FOLDER}/Originals/Curtain.png", backdrop(990, 64, 36)
    yield f"{home}/AppData/Roaming/Hobbinreel/shots.json", json.dumps({"shots": list(_shots())}, indent=2).encode()
    yield f"{home}/AppData/Roaming/Hobbinreel/Layouts/Cart table.layout", b"bins = left\nviewer = top\n"
    yield "disks/c/ProgramData/Hobbinreel/monitors.ini", b"[monitor 1]\nname = Workbench\nprofile = none\n"
    for place, looks in _LOOKS.items():
        for number, look in enumerate(looks):
            text = f"look = {look}\nlamps = {3 + number}\nwarmth = {number * 11 % 100}\n"
            yield f"{home}/{place}/{look}.look", text.encode()
    yield "disks/c/ProgramData/Dimlanthorn/desk.json", b'{"desk": "Dimlanthorn 12", "universe": 1}\n'
    yield f"{home}/Downloads/Bertille's blue.look", b"look = Bertille's blue\nlamps = 2\nwarmth = 4\n"


def _shots() -> Iterator[dict[str, object]]:
    """The editor's own list: sequences by a name with a field for the number, and one picture that is none."""
    folder = "C:\\Users\\Odile\\Videos\\Trailer\\Originals"
    for shot, frames in _SHOTS.items():
        yield {"path": f"{folder}\\{shot}\\{shot}.%04d.png", "from": 1, "to": frames, "note": "keep"}
    yield {"path": f"{folder}\\Curtain.png", "still": True, "note": "for the end"}


def _timeline(name: str, folder: str) -> dict[str, Any]:
    pictures = [_clip(shot, _sequence(shot, folder, frames), frames) for shot, frames in _SHOTS.items()]
    pictures.append(_clip("end card", {"OTIO_SCHEMA": "MissingReference.1", "metadata": {}}, 12))
    music = "file:///C:/Users/Odile/Music/Wimblethorn%20Sounds/"
    heard = [
        _clip(
            url.rpartition("/")[2],
            {"OTIO_SCHEMA": "ExternalReference.1", "metadata": {}, "target_url": music + url},
            24,
        )
        for url in _SOUNDS
    ]
    tracks = [
        {"OTIO_SCHEMA": "Track.1", "name": track, "kind": kind, "metadata": {}, "children": clips}
        for track, kind, clips in (("pictures", "Video", pictures), ("sounds", "Audio", heard))
    ]
    stack = {"OTIO_SCHEMA": "Stack.1", "name": "tracks", "metadata": {}, "children": tracks}
    return {"OTIO_SCHEMA": "Timeline.1", "name": name, "metadata": {}, "tracks": stack}


def _clip(name: str, media: dict[str, Any], frames: int) -> dict[str, Any]:
    span = _span(frames)
    return {"OTIO_SCHEMA": "Clip.1", "name": name, "metadata": {}, "source_range": span, "media_reference": media}


def _sequence(shot: str, folder: str, frames: int) -> dict[str, Any]:
    return {
        "OTIO_SCHEMA": "ImageSequenceReference.1",
        "metadata": {},
        "name": "",
        "available_range": _span(frames),
        "target_url_base": f"{_URL}{folder}/{shot.replace(' ', '%20')}/",
        "name_prefix": f"{shot}.",
        "name_suffix": ".png",
        "start_frame": 1,
        "frame_step": 1,
        "rate": 12.0,
        "frame_zero_padding": 4,
        "missing_frame_policy": "error",
    }


def _span(frames: int) -> dict[str, Any]:
    zero, length = ({"OTIO_SCHEMA": "RationalTime.1", "rate": 12.0, "value": float(value)} for value in (0, frames))
    return {"OTIO_SCHEMA": "TimeRange.1", "start_time": zero, "duration": length}
