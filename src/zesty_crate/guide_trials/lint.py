"""All mistakes of a guide at once; with a computer at hand also those that only its data show."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from ..documents import DocumentError, KeyLines, parse_document
from ..guides import Guide, WholeGuide
from ..survey import State, Verdict
from .trial import TrialReport, TriedHolding

_LED_SOMEWHERE = (State.FOUND, State.OUTSIDE, State.CHANGED, State.REMOTE, State.UNPLUGGED)
_FIXED = re.compile(r"[A-Za-z]:[\\/]|[\\/]")
_OF_A_PERSON = re.compile(r"(?i:[a-z]:[\\/]users[\\/])|/(?:Users|home|root)/")
_LINE = re.compile(r"line (\d+): (.*)", re.DOTALL)


@dataclass(frozen=True, slots=True)
class Mistake:
    """Something in a guide that is wrong, or should be looked at; ``line`` is 0 where it concerns no single one."""

    line: int
    what: str
    remedy: str = ""


def lint(text: str) -> tuple[Mistake, ...]:
    """The mistakes of a guide's text, by their lines."""
    try:
        guide = Guide(parse_document(text, WholeGuide, "The guide"), text)
    except DocumentError as error:
        return tuple(_read(error))
    return tuple(sorted(_of_places(guide), key=lambda each: each.line))


def lint_on(guide: Guide, trial: TrialReport) -> tuple[Mistake, ...]:
    """What the data of a computer show."""
    lines = KeyLines(guide.text)
    numbers = {f"{guide.id}/{part.id}": at for at, part in enumerate(guide.part.holding)}
    found = [
        Mistake(lines.line_of(("holding", numbers[holding.report.id])), what, remedy)
        for holding in trial.holdings
        if holding.report.id in numbers
        for what, remedy in _of_data(holding)
    ]
    if trial.found_nothing:
        found.append(Mistake(0, f"Nothing of it is on {trial.computer}.", "Check its places."))
    return tuple(sorted(found, key=lambda each: each.line))


def _read(error: DocumentError) -> Iterator[Mistake]:
    for each in error.details or [error.message]:
        found = _LINE.match(each) or re.search(r"(?:at line )(\d+)(.*)", each)
        line = int(found.group(1)) if found else 0
        yield Mistake(line, _LINE.sub(r"\2", each) if error.details else each)


def _of_places(guide: Guide) -> Iterator[Mistake]:
    """Places that no other computer has."""
    lines = KeyLines(guide.text)
    for number, part in enumerate(guide.part.holding):
        if _FIXED.match(part.at):
            yield Mistake(
                lines.line_of(("holding", number, "at")),
                f"{part.at!r} is a folder of one computer alone: on a new one nothing says where it goes.",
                "Begin with a place, such as {app-data} or {music}, or name one in [places]; otherwise each move needs "
                "a route for it.",
            )
    for name, texts in guide.part.places.items():
        for system in ("windows", "macos", "linux"):
            text = getattr(texts, system)
            if text and _OF_A_PERSON.match(text):
                yield Mistake(
                    lines.line_of(("places", name)),
                    f"The place {name} is {text!r} on {system}, whoever the user is.",
                    "Begin with {home} or another usual place.",
                )


def _of_data(holding: TriedHolding) -> Iterator[tuple[str, str]]:
    """What a holding's documents show."""
    for each in holding.documents:
        if each.verdict is not Verdict.READ:
            yield f"{each.at}: {each.verdict.words}. {' '.join(each.reasons)}", ""
        if each.same_keys:
            yield (
                f"{each.at}: {each.same_keys:,} entries have a key that another one has too.",
                'Name a key that tells them apart, or leave "key" out.',
            )
        if each.stale:
            yield (
                f"{each.at}: {each.stale:,} entries keep something beside their path that was not so made of it.",
                'Check the steps of "copies".',
            )
        is_doubtful = each.verdict is Verdict.DOUBTFUL
        if each.totals["entries"] and not is_doubtful and not any(each.totals[state] for state in _LED_SOMEWHERE):
            first = each.examples[0]
            yield (
                f"{each.at}: none of its {each.totals['entries']:,} entries names a file that is there, such as "
                f"{first.recorded!r}{f' ({first.why})' if first.why else ''}.",
                "Check the pieces of the path, the spelling, and what relative paths start from.",
            )
