"""Arguments that several commands have, and their values. Imports stay inside functions: usage errors are quick."""

from __future__ import annotations

import argparse
import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ..plan import Move


def add_crate(parser: argparse.ArgumentParser) -> None:
    """The crate, first argument of all that work on one."""
    parser.add_argument("crate", metavar="CRATE", type=Path, help="the crate: a folder on the carrier, or one file")


def add_target(parser: argparse.ArgumentParser) -> None:
    """The new computer."""
    parser.add_argument(
        "--to", metavar="SHEET", type=Path, required=True, help="the new computer's sheet, or this-computer"
    )
    add_work(parser)


def add_work(parser: argparse.ArgumentParser) -> None:
    """Where a move's own records are."""
    parser.add_argument(
        "--work",
        metavar="DIR",
        type=Path,
        help="keep this move's own records (plan, journal, what is replaced) in this folder, for a carrier that is "
        "full or read-only; name it with every command of the move",
    )


def add_into(parser: argparse.ArgumentParser) -> None:
    """A folder in which to inspect the result first."""
    parser.add_argument(
        "--into",
        metavar="DIR",
        type=Path,
        help="use this folder in place of the new computer, to inspect the result first",
    )


def target_of(args: argparse.Namespace) -> list[str]:
    """The arguments that name the new computer, for the command that comes next."""
    named = ["--to", str(args.to)]
    for option in ("into", "work"):
        if (folder := getattr(args, option, None)) is not None:
            named += [f"--{option}", str(folder)]
    return named


def add_parts(parser: argparse.ArgumentParser) -> None:
    """Where the other parts of a crate are."""
    parser.add_argument(
        "--part",
        metavar="DIR",
        type=Path,
        action="append",
        default=[],
        help="a folder with another part of the crate, or with an earlier crate that it needs (may be repeated)",
    )


def add_guides(parser: argparse.ArgumentParser) -> None:
    """Where a technician's own guides are."""
    parser.add_argument(
        "--guides", metavar="DIR", type=Path, action="append", default=[], help="a folder of guides (may be repeated)"
    )


def add_changing(parser: argparse.ArgumentParser) -> None:
    """What every command has that changes a computer."""
    parser.add_argument("--dry-run", action="store_true", help="show what would change, and change nothing")
    parser.add_argument("--yes", action="store_true", help="do not ask")


def add_merging(parser: argparse.ArgumentParser) -> None:
    """How catalogs are merged."""
    parser.add_argument(
        "--values",
        metavar="CHOICE",
        choices=("keep", "bring-in", "newer"),
        help="what to do about values that two merged catalogs have differently: keep the ones there, bring-in the "
        "carried ones, or newer by the program's own date of change",
    )
    parser.add_argument(
        "--decisions",
        metavar="FILE.csv",
        type=Path,
        help="a table of such values; written if it does not exist, otherwise read with your choices",
    )
    parser.add_argument(
        "--without",
        metavar="TABLE",
        action="append",
        default=[],
        help="merge without the carried rows of this table, which nothing explains (may be repeated)",
    )


def merging_words(args: argparse.Namespace) -> list[str]:
    """The same as words, for a command that another one runs."""
    words = ["--values", args.values] if args.values else []
    words += ["--decisions", str(args.decisions)] if args.decisions else []
    return words + [word for each in args.without for word in ("--without", each)]


_UNITS = {
    "": 1,
    "B": 1,
    "KB": 10**3,
    "MB": 10**6,
    "GB": 10**9,
    "TB": 10**12,
    "KIB": 1 << 10,
    "MIB": 1 << 20,
    "GIB": 1 << 30,
    "TIB": 1 << 40,
}


def size(text: str) -> int:
    """A size in bytes, from a text such as 30GB or 4GiB. Raises `argparse.ArgumentTypeError` for any other text."""
    match = re.fullmatch(r"(\d+(?:\.\d+)?)\s*([A-Za-z]*)", text.strip())
    unit = _UNITS.get(match.group(2).upper()) if match else None
    if match is None or unit is None:
        raise argparse.ArgumentTypeError(f"{text!r} is not a size; write it like 30GB or 4GiB")
    return int(float(match.group(1)) * unit)


@contextmanager
def opened_move(args: argparse.Namespace) -> Iterator[Move]:
    """Open the finished crate and the new computer that the arguments name."""
    from ..crate import open_finished
    from ..machines import Outside, read_sheet
    from ..plan import open_move

    outside = Outside()
    sheet = read_sheet(args.to, outside.disk)
    folders = (getattr(args, name, None) for name in ("into", "work"))
    move = open_move(open_finished(args.crate, outside.disk), sheet, outside, getattr(args, "part", ()), *folders)
    try:
        yield move
    finally:
        move.survey.close()
