"""What Lanternfold, a travelling shadow theatre, has: sounds, lists and presets. All of it is made up."""

from __future__ import annotations

import unicodedata
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Sound:
    """One record of the demo catalog. ``on_disk`` is the file's true name, empty when there is no file."""

    place: str
    folder: str
    file: str
    on_disk: str
    origin: str = "file"
    stars: int | None = None
    note: str | None = None


HOUSE = "house"  # on the system volume, below the user's music
STORE = "store"  # on the drive with the label Spools
DESKTOP = "desktop"
STICK = "stick"  # on a volume that is not connected

_HOUSE: dict[str, tuple[str, ...]] = {
    "": ("Lamp Lit", "House Lights Down", "Curtain Rope"),
    "Weather": ("Wind in the Eaves", "Far Thunder", "Near Thunder", "Snow Hush", "Fog Horn"),
    r"Weather\Rain": ("Rain on Canvas", "Rain 80% Softer", "Rain on a Tin Roof", "Drizzle, one minute"),
    "Creatures": ("Owl Hoot", "Dragon's Yawn", "Fox at Dusk", "Moth Wings", "Toad Choir", "Crow and Magpie"),
    "Doors and Floors": ("Cellar Door", "Stage Trap", "Third Stair", "Gate Latch", "Cart Wheel on Gravel"),
    "Forêt": ("Forêt la nuit", "Hêtre qui grince", "Ruisseau gelé", "Pas dans la neige"),
}
_STORE: dict[str, tuple[str, ...]] = {
    "Overtures": ("Overture for Two Lamps", "Overture, slow", "Entr'acte", "March of the Paper Geese"),
    r"Overtures\Sketches": ("Geese, bars 1-8", "Geese, bars 9-16", "Lamps (no drums)"),
    "Voices": ("Narrator, opening", "Narrator, closing", "The Miller's Laugh", "Crowd & Hawkers", "Whisper #1"),
    "Machinery": ("Winch", "Pulley", "Music Box Winding", "Clockwork Bird", "Shadow Wheel"),
    "Théière": ("Théière qui siffle", "Tasse posée", "Cuillère"),
    "Market": ("Bell of the Fish Stall", "Barrel Roll", "Coins", "Carousel", "Dog under the Table"),
    "Rain": ("Rain for the Finale", "Rain for the Finale (long)"),
}
_STARS = (5, None, 3, 4, None, 2, 5)
_NOTES = (None, "fade over 3 s", None, None, "Odile's favourite", None, "too loud in small halls", None, None)


def sounds() -> list[Sound]:
    """Every record of the demo catalog, in its order. Names on the store drive are in decomposed Unicode."""
    house = [(HOUSE, folder, f"{name}.wav") for folder, names in _HOUSE.items() for name in names]
    store = [
        (STORE, unicodedata.normalize("NFD", folder), unicodedata.normalize("NFD", f"{name}.wav"))
        for folder, names in _STORE.items()
        for name in names
    ]
    rows = [
        Sound(place, folder, _recorded(file), file, "file", _STARS[n % 7], _NOTES[n % 9])
        for n, (place, folder, file) in enumerate(house + store)
    ]
    return [
        *rows,
        Sound(HOUSE, "Weather", "Gale of the Old Season.wav", "", stars=4, note="lost with the old laptop?"),
        Sound(STORE, "Voices", "Narrator, draft.wav", ""),
        Sound("", "", "harbour-at-dawn", "", origin="stream", stars=3),
        Sound(DESKTOP, "", "Try this bell.wav", "Try this bell.wav", note="from the festival"),
        Sound(STICK, "", "Festival Fanfare.wav", "", stars=5),
    ]


def _recorded(file: str) -> str:
    """The name as the catalog has it: one was renamed in capitals by hand since."""
    return "OWL HOOT.wav" if file == "Owl Hoot.wav" else file


LISTS: tuple[tuple[str, str, tuple[str, ...]], ...] = (
    (
        "The Paper Geese",
        "",
        (
            "Lamp Lit",
            "March of the Paper Geese",
            "Geese, bars 1-8",
            "Crow and Magpie",
            "Overture, slow",
            "Curtain Rope",
        ),
    ),
    (
        "The Miller and the Moth",
        "",
        (
            "Overture for Two Lamps",
            "Narrator, opening",
            "Moth Wings",
            "The Miller's Laugh",
            "Rain 80% Softer",
            "Try this bell",
            "Narrator, closing",
        ),
    ),
    ("Storm scene", "The Miller and the Moth", ("Wind in the Eaves", "Near Thunder", "Rain for the Finale")),
)

PRESETS: dict[str, str] = {
    "Small Hall.wsp": "reverb = 0.2\nlow-cut = 120\n",
    "Barn.wsp": "reverb = 0.6\nlow-cut = 60\n",
    "Market Square (open air).wsp": "reverb = 0.0\nlow-cut = 150\n",
    "Odile/Whisper.wsp": "gain = 6\ngate = -50\n",
    "Odile/Théâtre de papier.wsp": "reverb = 0.4\nwarmth = 3\n",
    "Factory/Plain.wsp": "reverb = 0.0\n",
    "Factory/Large Hall.wsp": "reverb = 0.8\n",
}

# A list for the evening, relative to its own place and absolute in turn, as a player on Windows leaves it.
STORM_LIST = """#EXTM3U\r
#EXTINF:1,Wind in the Eaves\r
..\\Wimblethorn Sounds\\Weather\\Wind in the Eaves.wav\r
#EXTINF:1,Rain\r
..\\Wimblethorn Sounds\\Weather\\Rain\\Rain 80% Softer.wav\r
C:\\Users\\Odile\\Music\\Wimblethorn Sounds\\Creatures\\Dragon's Yawn.wav\r
E:\\Lanternfold\\Sound Store\\Market\\Barrel Roll.wav\r
"""
OPENING_LIST = """<?xml version="1.0" encoding="UTF-8"?>
<playlist version="1" xmlns="http://xspf.org/ns/0/">
  <title>Opening night</title>
  <trackList>
    <track><location>file:///C:/Users/Odile/Music/Wimblethorn%20Sounds/Lamp%20Lit.wav</location></track>
    <track><location>file:///C:/Users/Odile/Music/Wimblethorn%20Sounds/Creatures/Moth%20Wings.wav</location></track>
    <track><location>file:///E:/Lanternfold/Sound%20Store/Voices/Crowd%20&amp;%20Hawkers.wav</location></track>
    <track><location>file:///E:/Lanternfold/Sound%20Store/Voices/Whisper%20%231.wav</location></track>
  </trackList>
</playlist>
"""
