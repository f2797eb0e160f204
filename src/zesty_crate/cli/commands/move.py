"""``zesty move CRATE --from SHEET --to SHEET``"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path

from ..options import add_changing, add_crate, add_guides, add_merging, add_target, merging_words
from ..status import Status
from ..steps import run_steps
from ..terminal import Terminal


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
    parser.add_argument(
        "--decide",
        metavar="[WHAT=]CHOICE",
        action="append",
        default=[],
        help="what to do about files that are already on the new computer, as in zesty plan (may be repeated)",
    )
    add_merging(parser)
    add_changing(parser)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Run the remaining steps, each as its own command does; stop at the first that is blocked."""
    return run_steps(_commands(args), _again(args), terminal)


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
    yield ["plan", name, *to, *_decided(args)]
    if args.dry_run:
        yield ["unpack", name, *to, "--dry-run"]
        return
    yield ["unpack", name, *to, *yes]
    yield ["relink", name, *to, *yes]
    yield ["check", name, *to]
    yield ["todo", name, *to]
    yield ["report", name, *to]


def _decided(args: argparse.Namespace) -> list[str]:
    return [*(word for each in args.decide for word in ("--decide", each)), *merging_words(args)]


def _again(args: argparse.Namespace) -> list[str]:
    guides = [word for folder in args.guides for word in ("--guides", str(folder))]
    more = [*guides, *_decided(args), *(["--outside"] if args.outside else []), *(["--yes"] if args.yes else [])]
    return ["zesty", "move", str(args.crate), "--from", str(args.source), "--to", str(args.to), *more]
