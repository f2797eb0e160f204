"""``zesty completion SHELL``"""

from __future__ import annotations

import argparse

from ..status import Status
from ..terminal import Terminal

_HINTS = {
    "bash": 'add  eval "$(zesty completion bash)"  to ~/.bashrc',
    "zsh": "write it into a file _zesty in a folder of $fpath",
}


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    hints = "; ".join(f"{shell}: {hint}" for shell, hint in _HINTS.items())
    parser.add_argument("shell", choices=sorted(_HINTS), help=hints)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Print the script."""
    import shtab

    from ..main import whole_parser

    script = shtab.complete(whole_parser(), shell=args.shell)
    if terminal.json:
        terminal.document({"shell": args.shell, "script": script})
    else:
        print(script)
    return Status.DONE
