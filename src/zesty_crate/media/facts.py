"""What a media file says about itself: how long it plays, or how large its picture is."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from ..systems.reached import reached

SOUNDS = frozenset({".wav", ".flac", ".mp3", ".aiff", ".aif", ".ogg", ".oga", ".opus", ".m4a", ".mp4", ".wma", ".ape"})
PICTURES = frozenset({".png", ".jpg", ".jpeg", ".tif", ".tiff", ".gif", ".bmp", ".webp", ".tga", ".ppm", ".ico"})


@dataclass(frozen=True, slots=True)
class MediaFacts:
    """``duration_s`` in seconds, ``dimensions`` as width and height in pixels; None for what it does not have."""

    duration_s: float | None = None
    dimensions: tuple[int, int] | None = None


NOTHING_TOLD = MediaFacts()


def media_facts(path: Path) -> MediaFacts:
    """Look into the head of a sound or picture. What is neither, or cannot be read, tells nothing."""
    path, ending = reached(path), path.suffix.lower()
    if ending in SOUNDS:
        return MediaFacts(duration_s=_duration(path))
    return MediaFacts(dimensions=_dimensions(path)) if ending in PICTURES else NOTHING_TOLD


def _duration(path: Path) -> float | None:
    import mutagen

    try:
        found = mutagen.File(path)
    except (mutagen.MutagenError, OSError, ValueError, ArithmeticError, LookupError):
        return None
    length = getattr(getattr(found, "info", None), "length", None)
    return float(length) if length else None


def _dimensions(path: Path) -> tuple[int, int] | None:
    from PIL import Image, UnidentifiedImageError

    try:
        with Image.open(path) as picture:
            return picture.size
    except (UnidentifiedImageError, OSError, ValueError, ArithmeticError, Image.DecompressionBombError):
        return None
