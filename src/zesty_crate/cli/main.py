"""``zesty``: find the command, run it, and turn whatever happens into one clear message and an exit status."""

from __future__ import annotations

import argparse
import gc
import importlib
import sys
from collections.abc import Sequence, Set
from typing import TYPE_CHECKING, Any

from .. import __version__
from .status import Status

if TYPE_CHECKING:
    from .terminal import Terminal

# Rows by the hundred thousand hold no circles; to look for some as often as Python does would cost a tenth of the time.
_COLLECT_EVERY = (50_000, 20, 100)

# In the order of the work. A command's module is imported only when it is the one that is run.
COMMANDS = {
    "demo": "lay out two made-up computers, and take them through a whole move",
    "sheet": "describe this computer, or a mounted disk",
    "survey": "take stock of the old computer into a new crate",
    "pack": "fill the crate, and read it back",
    "plan": "compare both computers, propose what goes where, name what is in the way",
    "unpack": "put everything in its place on the new computer",
    "relink": "repair the recorded paths in the catalogs that were unpacked",
    "check": "confirm that every catalog entry finds its media",
    "todo": "list what only a person can do, in the order of the work, and tick it off",
    "report": "write the hand-over report: a page for the customer, and everything for the technician",
    "retire": "say whether the old computer may be wiped, with the evidence; deletes nothing",
    "move": "all of these steps in one go, up to the first that cannot go on",
    "compare": "say what is only here, only there, or differs, between a crate and a computer or another crate",
    "undo": "take back what was done to the new computer",
    "completion": "print what makes a shell complete these commands",
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
    return _run(args, Terminal(json=args.json))


def run_command(arguments: Sequence[str], terminal: Terminal) -> int:
    """Run one command on a terminal of another one's; its exit status."""
    return _run(_parser(arguments).parse_args(arguments), terminal)


def _run(args: argparse.Namespace, terminal: Terminal) -> int:
    from ..errors import HalfwayError, ZestyError

    try:
        return int(_module(args.command).run(args, terminal))
    except HalfwayError as error:
        terminal.fail(error)
        return Status.HALFWAY
    except ZestyError as error:
        terminal.fail(error)
        return Status.REFUSED
    except KeyboardInterrupt:
        terminal.fail(HalfwayError("Stopped.", next_step="Run the same command again; it goes on where it stopped."))
        return Status.HALFWAY
    except BrokenPipeError:
        sys.stderr.close()  # whoever read the output has gone, and nobody is left to tell
        return Status.HALFWAY
    except Exception:  # noqa: BLE001  the last resort: a fault keeps its traceback and gets its own status
        terminal.fault()
        raise SystemExit(Status.FAULT) from None


def whole_parser() -> argparse.ArgumentParser:
    """The parser with the arguments of every command: for the manual, and for shells."""
    return _parser_with(frozenset(COMMANDS))


def _parser(arguments: Sequence[str]) -> argparse.ArgumentParser:
    """The parser; only the command that is named on the line gets its own arguments."""
    named = next((each for each in arguments if not each.startswith("-")), None)
    return _parser_with(frozenset({named or ""} & set(COMMANDS)))


def _parser_with(full: Set[str]) -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="zesty",
        description="Move media libraries, catalogs and presets to a new computer, relink recorded paths, "
        "and confirm that every catalog entry finds its media.",
        epilog="Exit status: 0 all well; 1 done, something needs attention; 2 wrong usage; 3 refused, nothing changed; "
        "4 stopped half-way, run it again; 5 a fault of the program.",
    )
    parser.add_argument("--version", action="version", version=f"Zesty Crate {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", title="commands")
    for name, summary in COMMANDS.items():
        command = commands.add_parser(name, help=summary, description=summary[0].upper() + summary[1:] + ".")
        command.add_argument("--json", action="store_true", help="print one JSON document and nothing else")
        if name in full:
            _module(name).add_arguments(command)
    return parser


def _module(command: str) -> Any:
    return importlib.import_module(f".commands.{command}", __package__)
