"""What no holding covers: the sum and the largest folders, or every folder, and what was not looked into."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from .layout import command_text
from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from ..crate import EarlierChoices
    from ..survey import SurveyReport, Uncovered, UncoveredDocument

_SHOWN = 8
_DOCUMENTS_SHOWN = 4
_ENOUGH_NAMED = 3  # a log names one or two by the way


def show_coverage(report: SurveyReport, terminal: Terminal, sheet: str) -> None:
    """The sum of what no holding covers, and the largest folders that a person has to decide about.

    ``sheet`` is the one of the computer, for the command that drafts a guide.
    """
    folders = [each for each in report.to_decide if not each.fault]
    faulty = [each for each in report.to_decide if each.fault]
    if not folders and not faulty:
        return
    terminal.say()
    terminal.heading(f"Not covered by any holding: {sum_said(folders)}")
    for each in folders[:_SHOWN]:
        terminal.say(f"  {folder_said(each)}")
    if len(folders) > _SHOWN:
        terminal.say(f"  and {count(len(folders) - _SHOWN, 'smaller folder')}; --details coverage lists all")
    if faulty:
        terminal.say(f"  and {count(len(faulty), 'folder')} that could not be looked into, such as {faulty[0].at}")
    documents = [each for each in report.uncovered_documents if each.found >= _ENOUGH_NAMED]
    if documents:
        terminal.say("  Documents among them that no guide reads, and that name files of this computer:")
        show_list(terminal, map(document_said, documents), shown=_DOCUMENTS_SHOWN)
    draft = command_text(("zesty", "guide", "draft", "--at", sheet, "--not-covered", "-o", "drafts"))
    terminal.say(f"  Programs without a guide among them? {draft} looks, and writes one for each.", hang=4)
    terminal.say("  To carry a folder, survey again with --again --also FOLDER, or with --also personal for documents,")
    terminal.say("  pictures, music, movies, desktop and downloads. To leave it, pack with --leave FOLDER=REASON.")


def show_all_coverage(report: SurveyReport, terminal: Terminal) -> None:
    """Every folder that no holding covers, decided or not, and what is left by rule."""
    terminal.heading(f"Not covered by any holding: {sum_said(report.uncovered)}")
    for title, some in (
        ("To decide", [each for each in report.to_decide if not each.fault]),
        ("Left by choice", [each for each in report.uncovered if each.left]),
        ("Little enough to need no decision", [e for e in report.uncovered if not e.is_open and not e.left]),
    ):
        _section(terminal, title, map(folder_said, some))
    _section(
        terminal,
        "Documents among them that name files of this computer",
        map(document_said, report.uncovered_documents),
    )
    if report.not_searched:
        terminal.say(
            f"  Not searched for such, as there are many of their ending: {count(report.not_searched, 'file')}."
        )
    faulty = [f"{each.at}: {each.fault}" for each in report.uncovered if each.fault]
    _section(terminal, "Could not be looked into", faulty)
    _section(terminal, "Not looked into: another file system, or this crate", report.not_looked_into)
    unplugged = [f"{each.anchor} {each.label}".rstrip() for each in report.unplugged]
    _section(terminal, "Not connected", unplugged)
    _section(terminal, "Left by rule: folders of the system and of programs", report.system_folders)


def show_earlier_choices(earlier: EarlierChoices, terminal: Terminal) -> None:
    """What was decided in an earlier crate, as the words to type again."""
    terminal.say(f"  In the crate {earlier.crate} you chose:")
    lines = [f"zesty survey --also '{each}'" for each in earlier.also]
    show_list(terminal, lines + [f"zesty pack --leave '{each}'" for each in earlier.leave])


def sum_said(folders: Iterable[Uncovered]) -> str:
    """Files, their size, and the folders that they are in."""
    from ..crate import readable_size

    some = [*folders]
    files, size = sum(each.files for each in some), sum(each.size_bytes for each in some)
    return f"{count(files, 'file')}, {readable_size(size)}, in {count(len(some), 'folder')}"


def document_said(document: UncoveredDocument) -> str:
    """A document in no holding, and what it names."""
    share = document.found * 100 // max(1, document.paths)
    return f"{document.at}: {count(document.paths, 'path')} near its beginning, {share} % lead to files"


def folder_said(folder: Uncovered) -> str:
    """One folder with what is in it."""
    from ..crate import readable_size

    kinds = ", ".join(f"{number:,} {ending or 'without an ending'}" for ending, number in folder.kinds)
    where = f"{folder.at}, right in it" if folder.is_split else folder.at
    left = f"; left: {folder.left}" if folder.left else ""
    return f"{where}: {count(folder.files, 'file')}, {readable_size(folder.size_bytes)} ({kinds}){left}"


def _section(terminal: Terminal, title: str, lines: Iterable[str]) -> None:
    listed = [*lines]
    if listed:
        terminal.say()
        terminal.say(title)
        show_list(terminal, listed, shown=len(listed), indent="  ")
