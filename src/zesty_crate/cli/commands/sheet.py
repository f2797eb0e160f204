"""``zesty sheet``"""

from __future__ import annotations

import argparse
from pathlib import Path

from ..options import add_guides
from ..status import Status
from ..terminal import Terminal


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    parser.add_argument(
        "--mounted",
        metavar="DIR",
        type=Path,
        action="extend",
        nargs="+",
        default=[],
        help="describe the computer whose disks are mounted here, the one with its system first",
    )
    parser.add_argument("--user", help="which user to describe, if there are several")
    add_guides(parser)
    parser.add_argument("-o", dest="output", metavar="FILE", type=Path, help="write the sheet into this new file")


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Describe this computer, or a mounted one."""
    from ...documents import parse_document
    from ...errors import ZestyError
    from ...guides import find_guides, program_tables
    from ...machines import Disk, Outside, Sheet, SheetPart
    from ...machines.describe import this_computer
    from ...machines.host import Host
    from ...machines.mounted import mounted_computer, partitions

    disk = Disk()
    if args.mounted:
        text = mounted_computer(args.mounted, args.user, disk, partitions())
        sheet = Sheet(parse_document(text, SheetPart, "The new sheet"), text, Path.cwd())
    else:
        sheet = this_computer(Host(args.user), Path.cwd())
    programs = program_tables(sheet, find_guides(args.guides, disk), Outside())
    text = f"{sheet.text.rstrip()}\n\n{programs}" if programs else sheet.text
    if args.output is not None:
        if disk.facts(args.output) is not None:
            raise ZestyError(f"{args.output} already exists and is not overwritten.", next_step="Name a new file.")
        disk.write_text(args.output, text)
    if terminal.json:
        terminal.document({"sheet": text, "file": args.output and str(args.output)})
    elif args.output is None:
        print(text.rstrip())
    else:
        terminal.say(f"The sheet is in {args.output}. Read it, and verify everything marked as a guess.")
    return Status.DONE
