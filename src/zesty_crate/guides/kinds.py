"""The kinds of holding: one table. A new kind is a word and a line here; guides, unpacking and docs follow."""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple


class HoldingKind(StrEnum):
    """What a program keeps, in the order in which kinds are placed on the new computer.

    Folders of the person and media come first, and registrations last, so that nothing refers to a file that is not
    there yet.
    """

    PERSONAL = "personal"
    MEDIA = "media"
    INSTALLER = "installer"
    COMPANIONS = "companions"
    PROJECT = "project"
    CATALOG = "catalog"
    PRESETS = "presets"
    SETTINGS = "settings"
    CONTENT_PACK = "content-pack"
    REGISTRATIONS = "registrations"
    CACHE = "cache"

    @property
    def has_entries(self) -> bool:
        """Whether its documents record paths, so that a guide may give them a syntax and entries."""
        return KINDS[self].has_entries


class KindRow(NamedTuple):
    """What is known of a kind."""

    meaning: str
    has_entries: bool = False


KINDS = {
    HoldingKind.PERSONAL: KindRow("folders of the person that belong to no program"),
    HoldingKind.MEDIA: KindRow("sounds, pictures, video, models, fonts"),
    HoldingKind.INSTALLER: KindRow("installers of the versions in use"),
    HoldingKind.COMPANIONS: KindRow(
        "analysis results, markers, artwork: small files that take long to create again", has_entries=True
    ),
    HoldingKind.PROJECT: KindRow("documents of the person that refer to media", has_entries=True),
    HoldingKind.CATALOG: KindRow("the program's record of its media, with the person's annotations", has_entries=True),
    HoldingKind.PRESETS: KindRow("effects, layouts, brushes, profiles", has_entries=True),
    HoldingKind.SETTINGS: KindRow("preferences and device settings", has_entries=True),
    HoldingKind.CONTENT_PACK: KindRow("folders of content that came as a pack", has_entries=True),
    HoldingKind.REGISTRATIONS: KindRow("the records by which a program knows its packs and plugins", has_entries=True),
    HoldingKind.CACHE: KindRow("files that the program creates again: counted, and not carried"),
}
