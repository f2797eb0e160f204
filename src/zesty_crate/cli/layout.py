"""Text laid out in lines: wrapping, tables, commands to copy. Pure; widths are in terminal cells."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from ..systems import this_system

_HANG = 2
_GAP = "  "
_NARROWEST = 12  # a text column is not made narrower than this


def printable(text: str) -> str:
    """The text with everything escaped that a terminal would obey or could not show: control characters and the like.

    >>> printable("a\\x1b[31mb")
    'a\\\\x1b[31mb'
    """
    if text.isprintable():
        return text
    return "".join(c if c.isprintable() else c.encode("unicode_escape").decode("ascii") for c in text)


def cells(text: str) -> int:
    """How many cells of a terminal a text takes."""
    if text.isascii():
        return len(text)
    from rich.cells import cell_len

    return cell_len(text)


def wrapped(text: str, width: int | None, hang: int = _HANG) -> list[str]:
    """One line of text as lines of at most ``width`` cells; the second and later ones are indented by ``hang`` more.

    Lines break between words, and inside a word only if it alone is too long, then after a path separator if there is
    one. Without a ``width`` the text stays on one line.
    """
    if width is None or cells(text) <= width:
        return [text]
    indent = " " * (len(text) - len(text.lstrip(" ")))
    further = indent + " " * hang
    lines, line = [], indent
    for word in re.findall(r"[^ ]+ *", text.strip(" ")):
        if line.strip() and cells(line) + cells(word.rstrip()) > width:
            lines.append(line.rstrip())
            line = further
        while cells(line) + cells(word.rstrip()) > width and width > len(further) + _HANG:
            cut = _cut(word, width - cells(line))
            lines.append(line + word[:cut])
            word, line = word[cut:], further
        line += word
    return [*lines, line.rstrip()] if line.strip() else lines


def _cut(word: str, room: int) -> int:
    """Where to break a word that is too long for ``room`` cells: after its last separator, or where the room ends."""
    fit = next((n for n in range(1, len(word) + 1) if cells(word[:n]) > room), len(word) + 1) - 1
    after_separator = max(word.rfind("/", 0, fit), word.rfind("\\", 0, fit)) + 1
    return after_separator if after_separator > fit // 2 else max(fit, 1)


def command_text(words: Sequence[str]) -> str:
    """A command as a person types it in this system's shell, each word quoted where it must be."""
    return " ".join(this_system().quoted(each) for each in words)


def command_lines(words: Sequence[str], width: int | None, indent: int = 4) -> list[str]:
    """A command as lines of at most ``width`` cells that a shell takes as one; no word is ever broken."""
    goes_on = this_system().line_goes_on
    lines: list[str] = []
    for word in map(this_system().quoted, words):
        if lines and (width is None or cells(lines[-1]) + 1 + cells(word) + len(goes_on) <= width):
            lines[-1] += f" {word}"
        else:
            lines.append(" " * indent * bool(lines) + word)
    return [line + goes_on for line in lines[:-1]] + lines[-1:]


def table_lines(
    columns: Sequence[str], rows: Sequence[Sequence[str]], numbers: int, width: int | None
) -> tuple[list[str], list[str]]:
    """The lines of a table's head, and of its rows; the last ``numbers`` columns are aligned right.

    Heads take as many lines as they have words, rather than make a column wider. Where the whole is wider than
    ``width``, the widest text columns get narrower and their cells are wrapped.
    """
    shown = [[printable(cell) for cell in row] for row in rows]
    widths = [max([*(cells(row[n]) for row in shown), *map(cells, columns[n].split(" "))]) for n in range(len(columns))]
    if width is not None:
        _narrow(widths, len(columns) - numbers, width)
    is_number = [n >= len(columns) - numbers for n in range(len(columns))]
    head = list(_row_lines(columns, widths, is_number, hang=0))
    return head, [line for row in shown for line in _row_lines(row, widths, is_number, hang=1)]


def _narrow(widths: list[int], texts: int, width: int) -> None:
    while texts and sum(widths) + len(_GAP) * (len(widths) - 1) > width:
        widest = max(range(texts), key=lambda n: widths[n])
        if widths[widest] <= _NARROWEST:
            return
        widths[widest] -= 1


def _row_lines(row: Sequence[str], widths: Sequence[int], is_number: Sequence[bool], *, hang: int) -> Iterator[str]:
    parts = [wrapped(cell, width, hang) for cell, width in zip(row, widths, strict=True)]
    for n in range(max(map(len, parts), default=0)):
        texts = [part[n] if n < len(part) else "" for part in parts]
        padded = (_padded(*each) for each in zip(texts, widths, is_number, strict=True))
        yield _GAP.join(padded).rstrip()


def _padded(text: str, width: int, is_number: bool) -> str:
    blank = " " * max(0, width - cells(text))
    return blank + text if is_number else text + blank
