"""Which guides count here, and where each comes from."""

from __future__ import annotations

import difflib
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from ..documents import parse_document
from ..errors import ZestyError
from ..guides import Guide, WholeGuide, load_guides, shipped_guides
from ..machines import Disk


@dataclass(frozen=True, slots=True)
class KnownGuide:
    """A guide, and where it is from: a folder, or the program itself. One with ``hidden_by`` does not count."""

    id: str
    title: str
    source: str
    holdings: int
    hidden_by: str = ""


def known_guides(folders: Sequence[Path], disk: Disk) -> list[tuple[KnownGuide, Guide]]:
    """Guides in the folders, in the user's configuration folder, and those that ship; of one id the first counts."""
    own = platformdirs.user_config_path("zesty-crate") / "guides"
    places = [*folders, *([own] if disk.facts(own) else [])]
    found = [(str(folder), guide) for folder in places for guide in load_guides([folder], disk)]
    found += [("ships with Zesty Crate", guide) for guide in shipped_guides()]
    counting: dict[str, str] = {}
    known = []
    for source, guide in found:
        hidden_by = counting.get(guide.id, "")
        counting.setdefault(guide.id, source)
        known.append((KnownGuide(guide.id, guide.title, source, len(guide.part.holding), hidden_by), guide))
    return sorted(known, key=lambda each: (each[0].id, each[0].hidden_by != ""))


def guide_named(name: str, folders: Sequence[Path], disk: Disk) -> Guide:
    """The guide in a file, or the one of an id that counts here.

    Raises `DocumentError` for one with mistakes, and `ZestyError` where there is none, with what comes near.
    """
    path = Path(name)
    facts = disk.facts(path)
    if facts is not None and facts.is_file:
        text = disk.read_text(path)
        return Guide(parse_document(text, WholeGuide, f"The guide {path}"), text)
    known = {each.id: guide for each, guide in reversed(known_guides(folders, disk)) if not each.hidden_by}
    if name not in known:
        near = difflib.get_close_matches(name, known, n=1)
        hint = f'Did you mean "{near[0]}"?' if near else "List them with zesty guide list."
        raise ZestyError(
            f"There is no guide {name}: no such file, and no guide that counts here has this id.", next_step=hint
        )
    return known[name]
