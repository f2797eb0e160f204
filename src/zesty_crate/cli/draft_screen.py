"""What `zesty guide draft` shows."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from .guide_screen import show_mistakes
from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from ..drafting import Draft
    from ..guide_trials import TrialReport

_SHOWN_LEFT = 12
_SHOWN_DOCUMENTS = 8


def show_draft(draft: Draft, path: Path | None, sheet: str, terminal: Terminal) -> None:
    """What a draft found, how it tries, and what is left; the guide itself where it is in no file."""
    terminal.say(f"{draft.id}: {count(draft.documents, 'document')} looked at, {draft.names:,} names on the computer")
    for title, number in draft.known:
        terminal.say(f"  {count(number, 'document')} left to a guide that is there: {title}")
    if not draft.text:
        terminal.say("Nothing was found that records paths, or that a guide could tell of.")
    _show_entries(draft, terminal)
    if draft.trial is not None:
        _show_tried(draft.trial, terminal)
    if draft.mistakes:
        show_mistakes({str(path or "the draft"): draft.mistakes}, terminal)
    _show_left(draft, terminal)
    if not draft.text:
        return
    if path is None:
        terminal.say()
        for line in draft.text.splitlines():
            terminal.say(line)
        return
    terminal.say()
    terminal.say(f"The draft is in {path}. Read it: a draft is never used by itself.")
    terminal.next("zesty", "guide", "try", str(path), "--at", sheet)


def _show_entries(draft: Draft, terminal: Terminal) -> None:
    rows = [
        (each.holding, each.selected or "every row", each.path, each.spelling, f"{each.found:,} of {each.looked_at:,}")
        for each in draft.entries
    ]
    if rows:
        terminal.say()
        terminal.table(("holding", "records", "path", "spelling", "exist"), rows)


def _show_tried(trial: TrialReport, terminal: Terminal) -> None:
    terminal.say()
    terminal.heading("Tried")
    for document in trial.documents[:_SHOWN_DOCUMENTS]:
        states = ", ".join(
            f"{number:,} {state}" for state, number in document.totals.items() if number and state != "entries"
        )
        entries = count(document.totals["entries"], "entry", "entries")
        terminal.say(f"  {document.at}: {document.verdict.words}; {entries}{f': {states}' if states else ''}")
    if len(trial.documents) > _SHOWN_DOCUMENTS:
        terminal.say(f"  and {count(len(trial.documents) - _SHOWN_DOCUMENTS, 'document')} more")
    others = [each for each in trial.holdings if not each.documents and each.report.present]
    for each in others[:_SHOWN_DOCUMENTS]:
        name, files = each.report.id.rpartition("/")[2], count(each.report.files, "file")
        terminal.say(f"  {each.report.kind} {name}: {files}, at {each.report.at}")


def _show_left(draft: Draft, terminal: Terminal) -> None:
    if draft.stopped:
        terminal.say("The time was up before all documents were looked at.")
    if not draft.unexplained:
        return
    terminal.say()
    terminal.heading(f"Not explained: {count(len(draft.unexplained), 'thing')}")
    told = [
        f"{each.at}: {each.what}{f', such as {each.samples[0]}' if each.samples else ''}" for each in draft.unexplained
    ]
    show_list(terminal, told[:_SHOWN_LEFT])
    if len(told) > _SHOWN_LEFT:
        terminal.say(f"  and {len(told) - _SHOWN_LEFT} more; the draft and --json list all")
