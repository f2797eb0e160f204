"""Documents that were not simply read and relinked: each with its verdict, the reasons, and what to do."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby
from typing import TYPE_CHECKING

from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from ..check import CheckedDocument
    from ..survey import DocumentReport

_SHOWN = 12


def show_documents(terminal: Terminal, documents: Sequence[DocumentReport | CheckedDocument], of: int) -> None:
    """The documents that need attention, ``of`` so many; those of one holding with one verdict together."""
    if not documents:
        return
    terminal.say()
    terminal.heading(f"Documents that need attention: {len(documents):,} of {of:,}")
    for (_, words), group in groupby(documents, key=lambda each: (each.holding, verdict_said(each))):
        alike = list(group)
        terminal.say(f"  {words}: {alike[0].at}")
        for line in alike[0].said:
            terminal.say(f"    {line}")
        if len(alike) > 1:
            terminal.say(f"    and {count(len(alike) - 1, 'more document')} of this holding:")
            show_list(terminal, (each.at for each in alike[1:]), shown=_SHOWN)


def verdict_said(document: DocumentReport | CheckedDocument) -> str:
    """The verdict in words, with the number of records that were not read."""
    from ..survey import Verdict

    if document.verdict is Verdict.READ:
        return "not relinked"
    unread = f" ({count(document.unread, 'record')} not read)" if document.unread else ""
    return document.verdict.words + unread
