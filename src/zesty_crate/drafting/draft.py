"""A guide from evidence: in which order a place is looked at, and how the draft is written and tried."""

from __future__ import annotations

import fnmatch
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from time import monotonic

from ..documents import DocumentError, parse_document
from ..errors import ZestyError
from ..guide_trials import Mistake, TrialReport, lint, lint_on, try_guide
from ..guides import Guide, WholeGuide
from ..machines import Computer, Finder, Outside, Sheet, computer_of, own_folder, require_in_reach
from ..paths import MachinePath, PathError, System
from ..progress import Progress, Tell, silent
from ..survey import NotLookedAt, State
from ..survey.told_by import is_told
from .documents import Collected, Kind, Place, collect, opened_copy, read_otherwise
from .drafted import Drafted
from .explain import Entries, entries_of
from .folders import draft_media, draft_rest
from .holdings import draft_documents, note_settings
from .manners import Judge
from .model import Draft, Unexplained
from .names import Names
from .nested import Opened, nested_kinds
from .opaque import unexplained_in
from .places import Templates
from .registry import is_branch, kinds_in_registry
from .write import Block, written

_MOST_UNEXPLAINED = 40
_CONTRADICTED = 0.1  # of the entries, to take back what they contradict
_PERSON = (
    "What only people can know. Take the marks away where it applies.",
    "[program]",
    'processes   = ["name.exe"]            # the names of its processes',
    'versions    = "same-or-newer"         # same, same-or-newer or any, on the new computer',
    "seats       = 2                       # licence seats, if any",
    "",
    "[[manual-step]]",
    'when = "before-retire"',
    'do   = "Give back the seat on the old computer."',
)


def draft_guide(
    sheet: Sheet,
    look_in: Sequence[str],
    outside: Outside,
    folder: Path,
    tell: Tell = silent,
    minutes: float | None = None,
    known: Sequence[Guide] = (),
) -> Draft:
    """Look at places of a computer, and write a guide for what is there. ``folder`` is for working copies.

    ``look_in`` are folders, documents and branches of the registry as the computer writes them. After so many
    ``minutes`` no more documents are looked at. Raises `ZestyError` for a place that is not there.
    """
    with drafter(sheet, outside, folder, tell, known) as made:
        return made.draft(look_in, minutes)


@contextmanager
def drafter(
    sheet: Sheet, outside: Outside, folder: Path, tell: Tell = silent, known: Sequence[Guide] = ()
) -> Iterator[Drafter]:
    """What knows all names of a computer, and drafts guides for places on it.

    Documents for which guides that are ``known`` sweep are theirs.
    """
    computer = computer_of(sheet)
    finder = Finder(computer, outside.disk)
    with own_folder(outside, folder, "draft") as work, ExitStack() as stack:
        names = Names(computer, finder, work / "names.db")
        stack.callback(outside.disk.remove, work / "names.db")
        stack.callback(names.close)
        names.gather(outside.disk.mount_points() if sheet.is_here else (), tell)
        yield Drafter(sheet, outside, folder, work, Judge(computer, finder, names), tell, known)


@dataclass(frozen=True, slots=True)
class Drafter:
    """One computer, of which all names are known."""

    sheet: Sheet
    outside: Outside
    folder: Path
    work: Path
    judge: Judge
    tell: Tell
    known: Sequence[Guide]

    def not_looked_at(self, look_in: Sequence[str]) -> tuple[NotLookedAt, ...]:
        """The folders in some places that could not be looked into; on the whole computer where none is named."""
        computer = self.judge.computer
        places = [computer.key(_place(each, computer, self.judge.finder)) for each in look_in if not is_branch(each)]
        inside = tuple(f"{key.rstrip('/')}/" for key in places)
        denied = ((path, f"{computer.key(path).rstrip('/')}/", why) for path, why in self.judge.names.denied)
        return tuple(NotLookedAt(str(path), why) for path, key, why in denied if key.startswith(inside) or not look_in)

    def draft(self, look_in: Sequence[str], minutes: float | None = None, *, only_unknown: bool = False) -> Draft:
        """A guide for what is in some places. Raises `ZestyError`.

        A document that is named itself is looked into even if a guide knows it. With ``only_unknown`` it is not, and
        there is a guide only for what records paths.
        """
        judge, disk = self.judge, self.outside.disk
        until = None if minutes is None else monotonic() + minutes * 60
        branches = [each for each in look_in if is_branch(each)]
        places = [_place(each, judge.computer, judge.finder) for each in look_in if not is_branch(each)]
        with ExitStack() as stack:
            files = list(_files(places, judge.names, judge.finder))
            named = () if only_unknown else places
            known = _known_already([each for each in files if each.path not in named], self.known)
            collected = collect([e for e in files if e.path not in known], disk, self.work, stack, self.tell)
            collected.kinds += kinds_in_registry(branches, self.sheet, judge.finder, self.outside, self.work)
            opened = partial(opened_copy, disk=disk, scratch=self.work, stack=stack)
            kinds, is_stopped = _explained(collected, judge, opened, self.tell, until)
            made = self._written(
                look_in, places, files, collected, kinds, is_stopped=is_stopped, needs_entries=only_unknown
            )
            return replace(made, known=tuple(sorted(Counter(known.values()).items())))

    def _written(
        self,
        look_in: Sequence[str],
        places: Sequence[MachinePath],
        files: Sequence[Place],
        collected: Collected,
        kinds: Sequence[tuple[Kind, list[Entries]]],
        *,
        is_stopped: bool,
        needs_entries: bool,
    ) -> Draft:
        judge = self.judge
        templates = Templates(judge.computer, _own_places(places, judge))
        drafted = Drafted()
        note_settings(kinds, drafted, judge)
        draft_documents([each for each in kinds if each[1]], drafted, templates, judge, self.outside.disk)
        own = [each for each in places if not _is_file(each, judge)]
        draft_media(drafted, templates, own)
        draft_rest(drafted, templates, files, own, judge, self.outside.disk)
        left = tuple(unexplained_in(collected, kinds, judge)[:_MOST_UNEXPLAINED])
        identifier = _id_of(look_in, self.sheet)
        counts = judge.names.files, sum(max(1, len(each.files)) for each in collected.kinds)
        if not drafted.blocks or (needs_entries and not drafted.entries):
            return Draft(identifier, "", *counts, (), left, (), None, is_stopped)
        text = _text(identifier, look_in, judge, templates, drafted, left)
        mistakes, trial = _tried(self.sheet, text, self.outside, self.folder, self.tell)
        if trial is not None and _without_contradicted(drafted, trial):
            text = _text(identifier, look_in, judge, templates, drafted, left)
            mistakes, trial = _tried(self.sheet, text, self.outside, self.folder, self.tell)
        if trial is not None:
            _note_trial(drafted, trial)
            text = _text(identifier, look_in, judge, templates, drafted, left)
        return Draft(identifier, text, *counts, tuple(drafted.entries), left, mistakes, trial, is_stopped)


def _place(text: str, computer: Computer, finder: Finder) -> MachinePath:
    try:
        path = computer.parse(text)
    except PathError as error:
        raise ZestyError(
            f"{text!r} is not a path of {computer.name}: {error.message}",
            next_step=f"Write the folder or document as on {computer.name} ({computer.system}).",
        ) from error
    seen = finder.follow(finder.find(path))
    require_in_reach(seen, computer)
    if seen.facts is None:
        raise ZestyError(
            f"There is no {text} on {computer.name}.", next_step="Name a folder or a document that is there."
        )
    return seen.path


def _files(places: Sequence[MachinePath], names: Names, finder: Finder) -> Iterator[Place]:
    known = set()
    for place in places:
        seen = finder.find(place)
        is_file = seen.facts is not None and seen.facts.is_file
        for path in [place] if is_file else [path for path, is_file in names.below(place) if is_file]:
            real = finder.find(path).real
            if real is not None and path not in known:
                known.add(path)
                yield Place(path, real)


def _known_already(files: Sequence[Place], guides: Sequence[Guide]) -> dict[MachinePath, str]:
    """The documents that a guide finds wherever they are, with its title."""
    sweeps = [
        (re.compile(fnmatch.translate(pattern), re.IGNORECASE), part, guide.title)
        for guide in guides
        for part in guide.part.holding
        for pattern in part.sweep
        if part.entries
    ]
    found: dict[MachinePath, str] = {}
    for each in files:
        for pattern, part, title in sweeps:
            if pattern.match(each.path.name) and (part.told_by is None or is_told(part.told_by, each.real)):
                found[each.path] = title
    return found


def _explained(
    collected: Collected, judge: Judge, opened: Opened, tell: Tell, until: float | None
) -> tuple[list[tuple[Kind, list[Entries]]], bool]:
    """Every kind of document with its entries, and what is inside their values; and whether time was up before."""
    found: list[tuple[Kind, list[Entries]]] = []
    pending = list(collected.kinds)
    while pending:
        if until is not None and monotonic() > until:
            return found, True
        kind = pending.pop(0)
        tell(Progress("looking for paths", len(found) + 1, len(found) + 1 + len(pending)))
        entries = entries_of(kind, judge)
        if not entries and (other := read_otherwise(kind)) is not None:
            kind, entries = other, entries_of(other, judge)
        found.append((kind, entries))
        pending += nested_kinds(kind, judge.computer, opened)
    return found, False


def _own_places(places: Sequence[MachinePath], judge: Judge) -> dict[str, MachinePath]:
    bare = Templates(judge.computer, {})
    folders = [each for each in places if not _is_file(each, judge) and not bare.is_shared_place(each)]
    folders = [each for each in folders if not bare.is_a_place(each)]
    return {"own" if number == 1 else f"own-{number}": each for number, each in enumerate(folders, start=1)}


def _is_file(path: MachinePath, judge: Judge) -> bool:
    facts = judge.finder.find(path).facts
    return facts is not None and facts.is_file


def _id_of(look_in: Sequence[str], sheet: Sheet) -> str:
    slug = re.sub(r"[^a-z0-9]+", "-", _title_of(look_in).lower()).strip("-") or "draft"
    slug = slug if slug[0].isalpha() else f"draft-{slug}"
    return f"{slug}-draft" if slug in sheet.part.programs else slug  # whose places are those of another guide


def _title_of(look_in: Sequence[str]) -> str:
    last = re.split(r"[\\/]", look_in[0].rstrip("\\/"))[-1]
    return last.partition(".")[0] or last


def _text(
    identifier: str,
    look_in: Sequence[str],
    judge: Judge,
    templates: Templates,
    drafted: Drafted,
    left: Sequence[Unexplained],
) -> str:
    computer = judge.computer
    head = [
        f"A draft from what is on {computer.name} ({computer.system}), in {', '.join(look_in)}.",
        "Comments say what it rests on. Read it, give it its name, and try it again after each change.",
    ]
    blocks = [Block("[guide]", {"id": identifier, "title": _title_of(look_in), "language": 1})]
    own = templates.own_places() | drafted.places
    if own:
        others = " and ".join(str(each) for each in System if each is not computer.system)
        told = f"On {computer.system} it is so; for {others} these are proposals, which nobody has looked at."
        blocks.append(Block("[places]", dict(own), [told]))
    blocks += drafted.blocks
    if left:
        lines = ["Not explained, and for you to look at:"]
        for each in left:
            lines.append(f"  {each.at}: {each.what}")
            lines += [f"    {sample}" for sample in each.samples[:2]]
        blocks.append(Block("", {}, lines))
    blocks.append(Block("", {}, [_PERSON[0], *(f"  {line}" if line else "" for line in _PERSON[1:])]))
    return written(blocks, head)


def _without_contradicted(drafted: Drafted, trial: TrialReport) -> bool:
    """Take back what the trial contradicts: sizes, dates and digests that many files do not have. Whether any was."""
    contradicted = set()
    for holding in trial.holdings:
        totals = [document.totals for document in holding.documents]
        entries, changed = (sum(each[state] for each in totals) for state in ("entries", State.CHANGED))
        if changed > entries * _CONTRADICTED:
            contradicted.add(holding.report.id.rpartition("/")[2])
    is_in, taken = False, False
    for block in drafted.blocks:
        if block.name == "[[holding]]":
            is_in = block.keys.get("id") in contradicted
        elif is_in and block.name == "[[holding.entries]]":
            for key in ("size", "modified", "content"):
                taken |= block.keys.pop(key, None) is not None
    return taken


def _note_trial(drafted: Drafted, trial: TrialReport) -> None:
    """Say above each holding what its guide finds."""
    by_id = {each.report.id.rpartition("/")[2]: each for each in trial.holdings}
    for block in drafted.blocks:
        holding = by_id.get(str(block.keys.get("id")))
        if holding is None or not holding.documents or block.name != "[[holding]]":
            continue
        totals: Counter[str] = Counter()
        for document in holding.documents:
            totals.update({str(state): number for state, number in document.totals.items() if number})
        entries = totals.pop("entries", 0)
        states = ", ".join(f"{number:,} {state}" for state, number in totals.items())
        documents = f" in {len(holding.documents):,} documents" if len(holding.documents) > 1 else ""
        block.above.append(f"Tried: {entries:,} entries{documents}{f'; {states}' if states else ''}")


def _tried(
    sheet: Sheet, text: str, outside: Outside, folder: Path, tell: Tell
) -> tuple[tuple[Mistake, ...], TrialReport | None]:
    mistakes = lint(text)
    try:
        guide = Guide(parse_document(text, WholeGuide, "The draft"), text)
    except DocumentError:
        return mistakes, None
    trial = try_guide(sheet, guide, outside, folder, tell)
    return (*mistakes, *lint_on(guide, trial)), trial
