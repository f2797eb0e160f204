"""Write what is installed beside the program, from its own arguments.

The manual page docs/zesty.1 in the man macros (groff_man(7)), and in docs/completion/ the names that shells complete.
"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path

import shtab

from zesty_crate import __version__
from zesty_crate.cli.main import COMMANDS, whole_parser

PAGE = Path(__file__).parent / "zesty.1"
COMPLETION = Path(__file__).parent / "completion"
STATUS = (
    ("0", "done, all well"),
    ("1", "done, but something needs attention: an entry is missing, changed or unclear"),
    ("2", "wrong usage"),
    ("3", "refused or blocked; nothing was changed"),
    ("4", "interrupted or failed half-way; run the same command again to continue"),
    ("5", "a fault of the program"),
)
FILES = (
    ("CRATE/zesty/", "the survey, the sheet, the guides, and manual-steps.csv with the manual steps"),
    ("CRATE/moves/NAME/", "for each new computer: plan.toml, journal.db, the last check, and report/"),
    ("~/.config/zesty-crate/guides/", "your own guides, on Linux; the equivalent folder on other systems"),
)


def text(words: str) -> str:
    """Words as roff has them."""
    return words.replace("\\", "\\e").replace("-", "\\-").replace("%%", "%").lstrip(".'")


def page() -> str:
    """The whole page."""
    return "\n".join(lines()) + "\n"


def lines() -> Iterator[str]:
    parser = whole_parser()
    yield f'.TH ZESTY 1 "" "Zesty Crate {__version__}" "User Commands"'
    yield from (".SH NAME", "zesty \\- move creative libraries to a new computer, relink and confirm them")
    yield from (".SH SYNOPSIS", ".B zesty", ".I COMMAND", "[arguments]")
    yield from (".SH DESCRIPTION", text(parser.description or ""), "Commands are listed in the order of the work.")
    yield ".SH COMMANDS"
    actions = next(each for each in parser._actions if isinstance(each, argparse._SubParsersAction))
    for name, command in actions.choices.items():
        yield from (f".SS zesty {name}", text(COMMANDS[name][0].upper() + COMMANDS[name][1:]) + ".")
        for action in command._actions:
            if not isinstance(action, argparse._HelpAction):
                yield from (".TP", f".B {text(head(action))}", text(action.help or ""))
    yield ".SH EXIT STATUS"
    for number, said in STATUS:
        yield from (".TP", f".B {number}", text(said))
    yield ".SH FILES"
    for path, said in FILES:
        yield from (".TP", f".I {text(path)}", text(said))


def head(action: argparse.Action) -> str:
    """How an argument is written."""
    value = action.metavar or ("|".join(map(str, action.choices)) if action.choices else action.dest.upper())
    shown = value if isinstance(value, str) else " ".join(value)
    names = ", ".join(action.option_strings)
    return shown if not names else names if action.nargs == 0 else f"{names} {shown}"


def completions() -> dict[str, str]:
    """What shells complete, by the names of the files."""
    return {f"zesty.{shell}": shtab.complete(whole_parser(), shell=shell).rstrip() + "\n" for shell in ("bash", "zsh")}


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8")
    COMPLETION.mkdir(exist_ok=True)
    for name, script in completions().items():
        (COMPLETION / name).write_text(script, encoding="utf-8")
