"""``zesty``: find the command, run it, and turn whatever happens into one clear message and an exit status."""

from __future__ import annotations

import argparse
import gc
import importlib
import io
import logging
import sys
from collections.abc import Iterable, Sequence, Set
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..version import __version__
from .status import Status

if TYPE_CHECKING:
    from .terminal import Terminal

_log = logging.getLogger(__name__)

# Large results have no reference cycles; collecting as often as Python does by default costs a tenth of the time.
_COLLECT_EVERY = (50_000, 20, 100)

# In the order of the work. Only the module of the command that runs is imported.
COMMANDS = {
    "demo": "create two made-up computers, and run a whole move between them",
    "sheet": "describe this computer, or a computer whose disk is mounted here",
    "survey": "take stock of the old computer, and start a new crate",
    "pack": "copy everything into the crate, and verify the copy",
    "plan": "compare both computers, propose where everything goes, and list what blocks the move",
    "unpack": "place everything on the new computer, as the plan says",
    "relink": "repair the recorded paths in catalogs, and prove that nothing else changed",
    "check": "confirm that every catalog entry finds its media",
    "todo": "list the manual steps in the order of the work, and tick them off",
    "report": "write the hand-over report: a page for the customer, and details for the technician",
    "retire": "say whether the old computer may be wiped, with the evidence; nothing is deleted",
    "merge": "merge carried catalogs into those of the new computer, with their media, and check the result",
    "move": "run all steps from survey to report; stop at the first that is blocked",
    "compare": "compare a crate with a computer or with another crate",
    "guide": "list and explain guides, find their mistakes, and try them on a computer without a crate",
    "undo": "undo the changes that a move made to the new computer",
    "completion": "print a shell completion script",
}


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; the exit status as in `Status`."""
    arguments = list(sys.argv[1:] if argv is None else argv)
    args = _parser(arguments).parse_args(arguments)
    if args.command is None:
        _parser([]).print_help()
        return Status.USAGE
    from .terminal import Terminal

    gc.set_threshold(*_COLLECT_EVERY)
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):  # what a console cannot show is escaped
            stream.reconfigure(errors="backslashreplace")
    return _run(args, Terminal(json=args.json, quiet=args.quiet), arguments)


def run_command(arguments: Sequence[str], terminal: Terminal) -> int:
    """Run one command on the terminal of another command; returns its exit status."""
    return _status_of(_parser(arguments).parse_args(arguments), terminal)


def _run(args: argparse.Namespace, terminal: Terminal, arguments: Sequence[str]) -> int:
    """Run the command while a log is kept, if one is asked for."""
    if not (args.verbose or args.log):
        return _status_of(args, terminal)
    from ..errors import ZestyError
    from .log import logging_to

    try:
        with logging_to(args.verbose, args.log, arguments):
            return _status_of(args, terminal)
    except ZestyError as error:  # the log itself
        terminal.fail(error)
        return Status.REFUSED


def _status_of(args: argparse.Namespace, terminal: Terminal) -> int:
    from ..errors import HalfwayError, ZestyError
    from .crate_files import open_crate_files
    from .lacking_room import TAKES_NOTHING, where_else

    try:
        open_crate_files(args, terminal)
        return int(_module(args.command).run(args, terminal))
    except HalfwayError as error:
        _log.warning("%s", error.message, exc_info=True)
        error.next_step += where_else(error, args)
        terminal.fail(error)
        return Status.HALFWAY
    except ZestyError as error:
        _log.warning("%s", error.message, exc_info=True)
        takes_nothing = getattr(error, "errno", None) in TAKES_NOTHING
        error.next_step += where_else(error, args)
        terminal.fail(error)
        return Status.HALFWAY if takes_nothing else Status.REFUSED
    except KeyboardInterrupt:
        terminal.fail(HalfwayError("Stopped.", next_step="Run the same command again to continue."))
        return Status.HALFWAY
    except OSError as error:
        if isinstance(error, BrokenPipeError) or (error.filename is None and error.errno in TAKES_NOTHING):
            raise  # of the output, which takes no message either
        return _fault(terminal)
    except Exception:  # noqa: BLE001  the last resort: a fault keeps its traceback and gets its own status
        return _fault(terminal)


def _fault(terminal: Terminal) -> int:
    _log.exception("a fault of the program")
    terminal.fault()
    return Status.FAULT


def whole_parser() -> argparse.ArgumentParser:
    """The parser with the arguments of every command: for the manual, and for shells."""
    return _parser_with(COMMANDS, full=frozenset(COMMANDS))


def _parser(arguments: Sequence[str]) -> argparse.ArgumentParser:
    """The parser. Only the command on the line gets its own arguments; where it comes first, no other is made."""
    named = next((each for each in arguments if not each.startswith("-")), "")
    full = frozenset({named} & COMMANDS.keys())
    return _parser_with(full & {*arguments[:1]} or COMMANDS, full=full)


def _parser_with(names: Iterable[str], *, full: Set[str]) -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="zesty",
        description="Move media libraries, catalogs and presets to a new computer, relink recorded paths, "
        "and confirm that every catalog entry finds its media.",
        epilog="Exit status: 0 all well; 1 done, something needs attention; 2 wrong usage; 3 refused, nothing changed; "
        "4 stopped half-way, run it again; 5 a fault of the program.",
    )
    parser.add_argument("--version", action="version", version=f"Zesty Crate {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", title="commands")
    for name in names:
        summary = COMMANDS[name]
        command = commands.add_parser(name, help=summary, description=summary[0].upper() + summary[1:] + ".")
        _add_common(command)
        if name in full:
            _module(name).add_arguments(command)
    return parser


def _add_common(command: argparse.ArgumentParser) -> None:
    """What every command has."""
    command.add_argument("--json", action="store_true", help="print one JSON document on standard output")
    command.add_argument("-q", "--quiet", action="store_true", help="show no progress and no next steps")
    command.add_argument(
        "-v", "--verbose", action="count", default=0, help="log each step on standard error; -vv logs more"
    )
    command.add_argument("--log", metavar="FILE", type=Path, help="append a full log to this file")


def _module(command: str) -> Any:
    return importlib.import_module(f".commands.{command}", __package__)
