"""Media files themselves: what they say about themselves in their heads, and whether they open to their end."""

from .facts import NOTHING_TOLD, MediaFacts, media_facts
from .opening import Opened, open_file, open_within

__all__ = [
    "NOTHING_TOLD",
    "MediaFacts",
    "Opened",
    "media_facts",
    "open_file",
    "open_within",
]
