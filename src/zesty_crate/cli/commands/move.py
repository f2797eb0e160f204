"""``zesty move CRATE --from SHEET --to SHEET``"""

from __future__ import annotations

import argparse
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from ..json_text import as_json
from ..layout import command_text
from ..options import add_changing, add_crate, add_guides, add_target
from ..status import Status
from ..terminal import Terminal

_STOPS = (Status.REFUSED, Status.HALFWAY, Status.FAULT)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    parser.add_argument(
        "--from",
        dest="source",
        metavar="SHEET",
        type=Path,
        required=True,
        help="the old computer's sheet, or this-computer",
    )
    add_target(parser)
    add_guides(parser)
    parser.add_argument(
        "--outside", action="store_true", help="also carry media outside the programs' folders that catalogs refer to"
    )
    add_changing(parser)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Run the remaining steps, each as its own command does; stop at the first that is blocked."""
    done: list[dict[str, object]] = []
    status = Status.DONE
    for command in _commands(args):
        if not terminal.json:
            terminal.say()
            terminal.heading(f"zesty {command_text(command)}")
        status, document = _run(command, terminal)
        done.append({"command": command[0], "status": int(status), "document": document})
        if status in _STOPS:
            break
    stopped = status in _STOPS
    if terminal.json:
        terminal.document({"steps": done, "stopped-at": done[-1]["command"] if stopped else None})
    elif stopped:
        terminal.next(*_again(args), why=f"Stopped at zesty {done[-1]['command']}. Clear the cause, then continue with")
    return status


def _commands(args: argparse.Namespace) -> Iterator[list[str]]:
    """The commands of a whole move, without those that are already done for this crate."""
    from ...crate import Crate
    from ...machines import Outside

    disk, crate, to = Outside().disk, Crate(args.crate), ["--to", str(args.to)]
    name, yes = str(args.crate), ["--yes"] if args.yes else []
    if disk.facts(crate.survey_path) is None:
        guides = [word for folder in args.guides for word in ("--guides", str(folder))]
        yield ["survey", name, "--from", str(args.source), *guides]
    if not crate.is_finished(disk):
        yield ["pack", name, *(["--outside"] if args.outside else [])]
    yield ["plan", name, *to]
    if args.dry_run:
        yield ["unpack", name, *to, "--dry-run"]
        return
    yield ["unpack", name, *to, *yes]
    yield ["relink", name, *to, *yes]
    yield ["check", name, *to]
    yield ["todo", name, *to]
    yield ["report", name, *to]


class _Kept(Terminal):
    """A terminal that keeps the JSON document of a step, to be shown with the others."""

    kept: object = None

    def document(self, content: Mapping[str, object]) -> None:
        """Keep it."""
        self.kept = as_json(content)

    def next(self, *command: str, why: str = "Next") -> None:
        """Show nothing: the next command runs anyway."""


def _run(command: list[str], terminal: Terminal) -> tuple[Status, Any]:
    from ..main import run_command

    own = _Kept(json=terminal.json, quiet=terminal.quiet)
    return Status(run_command(command, own)), own.kept


def _again(args: argparse.Namespace) -> list[str]:
    guides = [word for folder in args.guides for word in ("--guides", str(folder))]
    more = [*guides, *(["--outside"] if args.outside else []), *(["--yes"] if args.yes else [])]
    return ["zesty", "move", str(args.crate), "--from", str(args.source), "--to", str(args.to), *more]
