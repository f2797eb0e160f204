"""Folders that a person names, as a guide of their own: each a holding, so that every later step knows them."""

from __future__ import annotations

import glob
import re
from collections.abc import Iterator, Sequence

from ..documents import Line, parse_document, table_text
from ..errors import ZestyError
from ..machines import Computer, Finder, Sight, require_in_reach
from ..paths import MachinePath, PathError
from .guide import Guide
from .kinds import HoldingKind
from .model import WholeGuide

ALSO = "also"
PERSONAL = ("documents", "pictures", "music", "movies", "desktop", "downloads")


def also_guide(texts: Sequence[str], computer: Computer, finder: Finder) -> Guide:
    """A guide with a holding for each folder; ``personal`` is short for the person's usual places that are there.

    Raises `ZestyError` for what is no folder of the computer.
    """
    tables = [table_text("guide", [Line("id", ALSO), Line("title", "Named folders"), Line("language", 1)])]
    ids: set[str] = set()
    for path in _folders(texts, computer, finder):
        name = _free_id(path, ids)
        at = _in_a_place(path, computer)
        if at is None:
            at = "{" + name + "}"
            place = table_text(name, [Line(computer.system.value, str(path))])
            tables.insert(1, place.replace(f"[{name}]", f"[places.{name}]", 1))
        lines = [Line("id", name), Line("kind", HoldingKind.PERSONAL), Line("at", at), Line("title", str(path))]
        tables.append(table_text("holding", lines, is_item=True))
    whole = "\n".join(tables)
    return Guide(parse_document(whole, WholeGuide, "The guide of named folders"), whole)


def _folders(texts: Sequence[str], computer: Computer, finder: Finder) -> Iterator[MachinePath]:
    seen: set[str] = set()
    for text in texts:
        paths = [computer.place(name) for name in PERSONAL] if text == "personal" else [_parsed(text, computer)]
        for path in paths:
            found = finder.find(path)
            if found.facts is None or found.facts.kind != "folder":
                if text == "personal" and found.sight is not Sight.DENIED:
                    continue
                require_in_reach(found, computer)
                raise ZestyError(
                    f"There is no folder {text} on {computer.name}.",
                    next_step='Name a folder as that computer writes it, or "personal".',
                )
            if (key := computer.key(found.path)) not in seen:
                seen.add(key)
                yield found.path


def _parsed(text: str, computer: Computer) -> MachinePath:
    try:
        return computer.parse(text)
    except PathError as error:
        raise ZestyError(error.message, next_step='Name a folder as that computer writes it, or "personal".') from error


def _in_a_place(path: MachinePath, computer: Computer) -> str | None:
    """The folder as a template of the deepest usual place that holds it; None when none does."""
    places = sorted(
        ((name, computer.place(name)) for name in (*PERSONAL, "home")), key=lambda each: -len(each[1].parts)
    )
    key = computer.key(path)
    for name, place in places:
        top = computer.key(place)
        if key == top or key.startswith(top + "/"):
            below = path.parts[len(place.parts) :]
            return "/".join(["{" + name + "}", *below[:-1], *(glob.escape(each) for each in below[-1:])])
    return None


def _free_id(path: MachinePath, taken: set[str]) -> str:
    """An id after the folder's name, another for each."""
    stem = re.sub(r"[^a-z0-9]+", "-", path.name.lower()).strip("-") or "folder"
    name = next(each for each in (stem, *(f"{stem}-{n}" for n in range(2, len(taken) + 3))) if each not in taken)
    taken.add(name)
    return name
