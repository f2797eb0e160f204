"""``zesty merge CRATE --to SHEET``"""

from __future__ import annotations

import argparse
from collections.abc import Iterator

from ..options import add_changing, add_crate, add_merging, add_target, merging_words, target_of
from ..status import Status
from ..steps import run_steps
from ..terminal import Terminal


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    add_target(parser)
    parser.add_argument(
        "--only",
        metavar="NAME",
        action="append",
        default=[],
        help="merge only this program, holding or catalog, by id or by its path on the new computer (may be repeated)",
    )
    add_merging(parser)
    add_changing(parser)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Plan the merge, place the media, write the merged catalogs and check them; stop at the first that is blocked."""
    return run_steps(_commands(args), _again(args), terminal)


def _commands(args: argparse.Namespace) -> Iterator[list[str]]:
    name, to = str(args.crate), target_of(args)
    yes = ["--yes"] if args.yes else []
    yield ["plan", name, *to, *_decided(args), *merging_words(args)]
    if args.dry_run:
        return
    yield ["unpack", name, *to, *yes]
    yield ["relink", name, *to, *(word for each in args.only for word in ("--only", each)), *yes]
    yield ["check", name, *to]


def _decided(args: argparse.Namespace) -> list[str]:
    subjects = [f"{each}=merge" for each in args.only] or ["merge"]
    return [word for each in subjects for word in ("--decide", each)]


def _again(args: argparse.Namespace) -> list[str]:
    only = [word for each in args.only for word in ("--only", each)]
    return ["zesty", "merge", str(args.crate), *target_of(args), *only, *merging_words(args)]
