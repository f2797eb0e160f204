"""Gorsebell Running Order, a made-up cue program: projects in compressed JSON, with sequences of cues inside."""

from __future__ import annotations

import gzip
import json
from collections.abc import Iterator, Sequence

from .content import HOUSE, STORE, Sound

_FOLDER = "disks/c/Users/Odile/Documents/Gorsebell"
_ACTS = ("Doors", "First half", "Second half", "Curtain")
_SHOWS = ("The Paper Geese", "The Miller and the Moth", "Cuckoo Weather")
_CUES = 44
PLUGINS = ("Barn Reverb.plug", "Lantern Echo.plug")


def files(sounds: Sequence[Sound]) -> Iterator[tuple[str, bytes]]:
    """The projects, and the settings of the desk."""
    usable = [each for each in sounds if each.on_disk and each.place in (HOUSE, STORE)]
    for number, show in enumerate(_SHOWS):
        chosen = [usable[(number * 17 + step * 5) % len(usable)] for step in range(_CUES)]
        yield f"{_FOLDER}/{show}.running", gzip.compress(_project(show, chosen, number).encode(), 6, mtime=0)
    desk = "[desk]\noutput = Lantern Box 4\nlast = C:\\Users\\Odile\\Documents\\Gorsebell\\Cuckoo Weather.running\n"
    yield "disks/c/Users/Odile/AppData/Roaming/Gorsebell/desk.ini", desk.encode()
    for plugin in PLUGINS:
        yield f"disks/c/ProgramData/Gorsebell/Plugins/{plugin}", plugin.encode() * 20
    yield "disks/c/ProgramData/Gorsebell/outputs.ini", b"[Lantern Box 4]\nchannels = 4\ndelay = 12\n"


def _project(show: str, sounds: Sequence[Sound], number: int) -> str:
    cues = [
        {"id": f"q{n}", "name": sound.file.removesuffix(".wav"), "sound": _recorded(sound, n), "level": -3 * (n % 4)}
        | ({"note": "wait for the laugh"} if n % 7 == 0 else {})
        for n, sound in enumerate(sounds, start=1)
    ]
    cues.append({"id": "q99", "name": "Spoken by Bertille", "sound": "", "level": 0})
    share = len(sounds) // len(_ACTS)
    sequences = [
        {"id": f"s{act}", "title": title, "cues": [cue["id"] for cue in cues[act * share : (act + 1) * share]]}
        for act, title in enumerate(_ACTS)
    ]
    project = {"format": 3, "title": show, "night": number + 1, "cues": cues, "sequences": sequences}
    return json.dumps(project, indent=1, ensure_ascii=number != 1) + "\n"


def _recorded(sound: Sound, number: int) -> str:
    """Most cues are relative to their project; those on another drive, and what was dragged in, are absolute."""
    folder = "".join(f"{name}\\" for name in filter(None, sound.folder.split("\\")))
    if sound.place == STORE:
        return f"E:\\Lanternfold\\Sound Store\\{folder}{sound.file}"
    below = f"Music\\Wimblethorn Sounds\\{folder}{sound.file}"
    return f"C:\\Users\\Odile\\{below}" if number % 5 == 0 else f"..\\..\\{below}"
