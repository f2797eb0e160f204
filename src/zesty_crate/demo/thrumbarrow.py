"""Thrumbarrow, a made-up sampler: SFZ instruments, each registered in the system's registry under a name of its own."""

from __future__ import annotations

from collections.abc import Iterator

from .sound import tone

_FOLDER = "disks/e/Lanternfold/Instruments"
_RECORDED = "E:\\Lanternfold\\Instruments"
_INSTRUMENTS: dict[str, tuple[str, ...]] = {
    "Paper Harmonium": ("C2", "G2", "C3", "G3", "C4", "G4", "breath"),
    "Marsh Drums": ("low", "low, wet", "rim", "shell", "frog"),
    "Tin Whistle Choir": ("D5", "F#5", "A5", "D6"),
    "Hurdy-gurdy (borrowed)": ("drone", "trompette", "crank"),
}
_BRANCH = "HKEY_CURRENT_USER\\Software\\Thrumbarrow\\Instruments"
_UNREGISTERED = "Hurdy-gurdy (borrowed)"
_GONE = "Barn Organ"


def files() -> Iterator[tuple[str, bytes]]:
    """Every instrument with its samples."""
    number = 400
    for name, samples in _INSTRUMENTS.items():
        for sample in samples:
            number += 1
            yield f"{_FOLDER}/{name}/Samples/{sample}.wav", tone(number)
        yield f"{_FOLDER}/{name}/{name}.sfz", _sfz(name, samples).encode()
    yield f"{_FOLDER}/Marsh Drums/hands.inc", b"<region> sample=frog.wav key=50 // added later\n"
    yield "disks/c/Users/Odile/AppData/Roaming/Thrumbarrow/thrumbarrow.plist", _SETTINGS


def registry() -> bytes:
    """The export of the registry: one instrument is registered whose folder is gone, and one folder is not."""
    lines = ["Windows Registry Editor Version 5.00", ""]
    for name in (*_INSTRUMENTS, _GONE):
        if name != _UNREGISTERED:
            folder = f"{_RECORDED}\\{name}".replace("\\", "\\\\")
            lines += [
                f"[{_BRANCH}\\{name}]",
                f'"Title"="{name}"',
                f'"Folder"="{folder}"',
                '"Voices"=dword:00000010',
                "",
            ]
    lines += ["[HKEY_CURRENT_USER\\Software\\Thrumbarrow\\Desk]", '"Keys"=hex:01,02,\\', "  03,04", ""]
    return b"\xff\xfe" + "\r\n".join(lines).encode("utf-16-le")


def registry_of_tentwagon() -> bytes:
    """What a second new computer has in its registry: one instrument, with another number of voices."""
    lines = ["Windows Registry Editor Version 5.00", "", f"[{_BRANCH}\\Marsh Drums]"]
    lines += ['"Title"="Marsh Drums"', '"Voices"=dword:00000020', ""]
    return b"\xff\xfe" + "\r\n".join(lines).encode("utf-16-le")


def _sfz(name: str, samples: tuple[str, ...]) -> str:
    lines = [f"// {name}, recorded in the barn", "<control> default_path=Samples\\", "<global> ampeg_release=0.4"]
    lines += [f"<region> sample={sample}.wav key={48 + 2 * step}" for step, sample in enumerate(samples)]
    if name == "Marsh Drums":
        lines.append('#include "hands.inc"')
    lines.append("<region> sample=*silence key=120")
    return "\r\n".join([*lines, ""])


_SETTINGS = b"""<?xml version="1.0" encoding="UTF-8"?>
<plist version="1.0"><dict><key>Output</key><string>Lantern Box 4</string>
<key>Last folder</key><string>E:\\Lanternfold\\Instruments\\Marsh Drums</string></dict></plist>
"""
