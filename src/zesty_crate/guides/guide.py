"""Guides ready for use: found, loaded, and laid over one computer."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from dataclasses import dataclass
from importlib import resources
from pathlib import Path

import pathspec

from ..documents import parse_document
from ..errors import ZestyError
from ..machines import Computer, Disk, Outside, Sheet
from ..paths import MachinePath, System, name_key
from .kinds import HoldingKind
from .model import HoldingPart, WholeGuide

_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Guide:
    """A guide that was read: its content, and the text it was read from."""

    part: WholeGuide
    text: str

    @property
    def id(self) -> str:
        """The guide's short name."""
        return self.part.guide.id

    @property
    def title(self) -> str:
        """The program's or format's full name."""
        return self.part.guide.title


@dataclass(frozen=True, slots=True)
class Holding:
    """One holding of a guide, at its place on one computer."""

    id: str  # "guide/holding"
    guide: Guide
    part: HoldingPart
    at: MachinePath | None  # None when it is swept for, or kept in the registry
    within: tuple[MachinePath, ...] = ()  # the folders in which it is swept for; empty for anywhere

    @property
    def kind(self) -> str:
        """What it is: media, catalog, presets, cache, ..."""
        return self.part.kind

    @property
    def has_several(self) -> bool:
        """Whether it is found as any number of things, and not as the one that is at its place."""
        return self.at is None or is_pattern(self.at.name)

    @property
    def where(self) -> str:
        """Where it was looked for."""
        return self.part.branch or " ".join(self.part.sweep) or str(self.at)

    @property
    def title(self) -> str:
        """What a person calls it: a guide's only holding by the guide's own title."""
        if not self.part.title and len(self.guide.part.holding) == 1:
            return self.guide.title
        return f"{self.guide.title}: {self.part.title or self.part.id}"


def is_pattern(name: str) -> bool:
    """Whether a name has wildcards, as a shell has them."""
    return any(mark in name for mark in "*?[")


def load_guides(folders: Sequence[Path], disk: Disk) -> list[Guide]:
    """All guides in ``folders``; of guides with one id, the one in the earlier folder counts.

    Raises `ZestyError` when a folder is not there, and `DocumentError` for a guide with mistakes.
    """
    guides: dict[str, Guide] = {}
    for folder in folders:
        facts = disk.facts(folder)
        if facts is None or facts.kind != "folder":
            raise ZestyError(f"The guides folder {folder} does not exist.", next_step="Name a folder of .toml guides.")
        for name in disk.names(folder):
            if name.endswith(".toml") and not name.startswith("."):
                text = disk.read_text(folder / name)
                guide = Guide(parse_document(text, WholeGuide, f"The guide {folder / name}"), text)
                guides.setdefault(guide.id, guide)
    return sorted(guides.values(), key=lambda guide: guide.id)


def shipped_guides() -> list[Guide]:
    """The guides for open formats that come with the program, in the same language as anybody's own."""
    folder = resources.files(__package__).joinpath("library")
    texts = {each.name: each.read_text(encoding="utf-8") for each in folder.iterdir() if each.name.endswith(".toml")}
    return [Guide(parse_document(text, WholeGuide, f"The guide {name}"), text) for name, text in sorted(texts.items())]


def find_guides(folders: Sequence[Path], disk: Disk) -> list[Guide]:
    """The guides in ``folders``, then in the user's configuration folder, then those that ship.

    Of several guides with one id, the first counts. Raises what `load_guides` raises.
    """
    import platformdirs

    own = platformdirs.user_config_path("zesty-crate") / "guides"
    found = load_guides([*folders, *([own] if disk.facts(own) else [])], disk)
    taken = {guide.id for guide in found}
    _log.info("guides of yours: %s", ", ".join(sorted(taken)) or "none")
    return found + [guide for guide in shipped_guides() if guide.id not in taken]


def holdings_on(guide: Guide, computer: Computer, sheet: Sheet) -> list[Holding]:
    """The guide's holdings at their places on one computer; those whose place this system lacks are left out.

    The sheet's ``[programs.ID] places`` overrule the guide's own places.
    """
    own = _own_places(guide, computer, sheet)
    return [
        Holding(
            f"{guide.id}/{part.id}",
            guide,
            _with_its_base(part, computer, own),
            computer.expand(part.at, own) if part.at else None,
            tuple(computer.expand(each, own) for each in part.within if not _missing_places(guide, each, own)),
        )
        for part in (*guide.part.holding, *_installer(guide))
        if not _missing_places(guide, f"{part.at}{part.relative_to.place}", own)
        and (not part.branch or computer.system is System.WINDOWS)
    ]


def first_start(guide: Guide, computer: Computer, sheet: Sheet) -> MachinePath | None:
    """The place that exists on a computer once the program has been started there."""
    place = guide.part.program.first_start if guide.part.program else None
    own = _own_places(guide, computer, sheet)
    return None if place is None or _missing_places(guide, place, own) else computer.expand(place, own)


def is_running(guide: Guide, sheet: Sheet, outside: Outside) -> bool | None:
    """Whether the program runs now, as its sheet or the processes of this computer say; None if neither does."""
    program = sheet.part.programs.get(guide.id)
    said = program.running if program else None
    names = {name.casefold() for name in guide.part.program.processes} if guide.part.program else set()
    if said or not (sheet.is_here and names):
        return said
    return not names.isdisjoint(name.casefold() for name in outside.processes.names())


def places_on(guide: Guide, computer: Computer, sheet: Sheet) -> dict[str, MachinePath]:
    """The guide's own places on one computer."""
    own = _own_places(guide, computer, sheet)
    return {name: computer.expand("{" + name + "}", own) for name in own}


class FactoryPatterns:
    """Which files of a holding came with the program: patterns as in a .gitignore file, by the volume's own case."""

    def __init__(self, holding: Holding, at: MachinePath, computer: Computer) -> None:
        self._computer = computer
        self._key = computer.key(at)
        self._folding = computer.rules_for(at).folding
        self._depth = len(at.parts)
        patterns = [name_key(pattern, self._folding) for pattern in holding.part.factory]
        self._spec = pathspec.GitIgnoreSpec.from_lines(patterns)

    def holds(self, path: MachinePath) -> bool:
        """Whether ``path``, wherever it is, is factory content of this holding."""
        return self._computer.key(path).startswith(self._key + "/") and self.match(path)

    def match(self, path: MachinePath) -> bool:
        """Whether ``path``, which is in the holding, is factory content."""
        below = path.parts[self._depth :]
        return self._spec.match_file("/".join(name_key(part, self._folding) for part in below))


def _own_places(guide: Guide, computer: Computer, sheet: Sheet) -> dict[str, str]:
    program = sheet.part.programs.get(guide.id)
    overruled = dict(program.places) if program else {}
    unknown = sorted(set(overruled) - set(guide.part.places))
    if unknown:
        raise ZestyError(
            f"The sheet of {computer.name} names a place {unknown[0]!r} of {guide.title}, which the guide lacks.",
            next_step=f"Its places are {', '.join(sorted(guide.part.places)) or 'none'}.",
        )
    usual = {name: getattr(texts, computer.system.value) for name, texts in guide.part.places.items()}
    return {name: text for name, text in {**usual, **overruled}.items() if text}


def _with_its_base(part: HoldingPart, computer: Computer, own: dict[str, str]) -> HoldingPart:
    """A holding whose relative paths start from a place knows that place."""
    place = part.relative_to.place
    return part.based_on(computer.expand(place, own)) if place else part


def _missing_places(guide: Guide, template: str, own: dict[str, str]) -> list[str]:
    return [name for name in guide.part.places if name not in own and "{" + name + "}" in template]


def _installer(guide: Guide) -> list[HoldingPart]:
    """The installer that a guide mentions, as a holding like any other."""
    at = guide.part.program.installer if guide.part.program else None
    return [HoldingPart(id="installer", kind=HoldingKind.INSTALLER, title="installer", at=at)] if at else []
