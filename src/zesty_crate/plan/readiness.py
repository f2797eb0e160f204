"""Is each program on the new computer ready for its things: the right version, started once, closed now?"""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass

from ..guides import Guide, first_start, is_running
from ..machines import Computer, Finder, Outside, Sheet, Sight
from ..paths import MachinePath
from .document import Blocker


@dataclass(frozen=True, slots=True)
class Readiness:
    """The state of a program on the new computer.

    Versions are empty where the sheets do not tell. ``started`` and ``running`` are None where nothing tells. ``to_do``
    is what a person may have to do; what must be done first is a blocker. ``version_check`` is the step among them that
    confirms a version which no sheet tells.
    """

    guide: str
    title: str
    old_version: str
    new_version: str
    rule: str
    started: bool | None
    running: bool | None
    to_do: tuple[str, ...]
    version_check: str = ""


def look_at_programs(
    guides: Sequence[Guide],
    old_sheet: Sheet,
    new: Computer,
    new_sheet: Sheet,
    outside: Outside,
    is_ours: Callable[[MachinePath], bool],
) -> list[Readiness]:
    """Every program of which a guide or a sheet tells. What ``is_ours`` was made by this move and shows nothing."""
    finder = Finder(new, outside.disk)
    known = {**old_sheet.part.programs, **new_sheet.part.programs}
    return [
        _look_at(guide, old_sheet, finder, new_sheet, outside, is_ours)
        for guide in guides
        if guide.part.program is not None or guide.id in known
    ]


def _look_at(
    guide: Guide,
    old_sheet: Sheet,
    finder: Finder,
    new_sheet: Sheet,
    outside: Outside,
    is_ours: Callable[[MachinePath], bool],
) -> Readiness:
    part, new = guide.part.program, finder.computer
    old_version, new_version = _version(old_sheet, guide), _version(new_sheet, guide)
    place = first_start(guide, new, new_sheet)
    started = None if place is None else finder.find(place).sight is Sight.THERE and not is_ours(place)
    rule = part.versions if part else "any"
    to_do = []
    if guide.id not in new_sheet.part.programs and started is not True:
        to_do.append(f"Check that {guide.title} is installed on {new.name}; neither the sheet nor its folders show it.")
    elif started is False:
        to_do.append(f"Start {guide.title} once on {new.name} and quit it: its folders do not exist yet.")
    untold = [name for name, version in (("old", old_version), ("new", new_version)) if not version]
    version_check = ""
    if rule != "any" and untold:
        where = " and ".join(untold)
        missing = f"the sheet of the {where} computer does not state it"
        version_check = f"Check that the version of {guide.title} fits ({rule}): {missing}."
        to_do.append(version_check)
    running = is_running(guide, new_sheet, outside)
    steps = tuple(to_do)
    return Readiness(guide.id, guide.title, old_version, new_version, rule, started, running, steps, version_check)


def _version(sheet: Sheet, guide: Guide) -> str:
    program = sheet.part.programs.get(guide.id)
    return program.version if program else ""


def program_blockers(
    programs: Sequence[Readiness], new: Computer, new_sheet: Sheet, ticked: Collection[str]
) -> list[Blocker]:
    """What keeps the things of single programs from being placed, each with what clears it; others continue.

    ``ticked`` are the steps that a person has marked done.
    """
    close = "Quit it." if new_sheet.is_here else "Quit it, and set running = false in the sheet."
    blockers = [
        Blocker(each.title, f"{each.title} is running on {new.name}.", close, guide=each.guide)
        for each in programs
        if each.running
    ]
    for each in programs:
        if each.rule == "same" and each.version_check and each.version_check not in ticked:
            what = f"The version of {each.title} must be the same on both computers, and it is not known."
            clear = (
                f'Write it into the sheets ([programs.{each.guide}] version = "..."), or tick off with zesty todo: '
                f"{each.version_check}"
            )
            blockers.append(Blocker(each.title, what, clear, guide=each.guide))
        if each.old_version and each.new_version and not fits(each.old_version, each.new_version, each.rule):
            wanted = each.old_version if each.rule == "same" else f"{each.old_version} or newer"
            what = f"{each.title} is version {each.new_version} on {new.name}; the carried files need {wanted}."
            clear = f"Install {wanted} there, and correct the version in the sheet."
            blockers.append(Blocker(each.title, what, clear, guide=each.guide))
    return blockers


def fits(old: str, new: str, rule: str) -> bool:
    """Whether a version on the new computer meets a guide's rule: ``same``, ``same-or-newer`` or ``any``.

    Versions are compared number by number; what is missing at the end counts as 0, so that 3.2 is 3.2.0.
    """
    if rule == "any":
        return True
    return _numbers(new) == _numbers(old) if rule == "same" else _numbers(new) >= _numbers(old)


def _numbers(version: str) -> list[tuple[int, str]]:
    """A version as numbers with what follows each, without zeros at the end."""
    pieces = [(int(number), rest.strip(".-_ ").lower()) for number, rest in re.findall(r"(\d+)(\D*)", version)]
    while pieces and pieces[-1] == (0, ""):
        pieces.pop()
    return pieces
