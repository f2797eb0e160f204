"""The installed program, started once and forked for each command: imports take most of the time of a small command.

Each command is a process of its own, which runs the function that the installed script calls, with its own arguments,
folder and standard streams.
"""

from __future__ import annotations

import gc
import importlib
import io
import json
import os
import pkgutil
import signal
import subprocess
import sys
import tempfile
from importlib.metadata import entry_points
from pathlib import Path
from typing import Any

import zesty_crate
from support.outside import CHANGES
from zesty_crate.cli.main import whole_parser
from zesty_crate.guides import shipped_guides
from zesty_crate.machines import Disk


class Forked:
    """Starts the program when it is first needed, and forks it."""

    def __init__(self) -> None:
        self._server: subprocess.Popen[str] | None = None

    def run(self, arguments: list[str], kill_at: int | None = None) -> subprocess.CompletedProcess[str]:
        """One command. It is killed by the system before its change number ``kill_at`` to any disk."""
        if self._server is None:
            command = [sys.executable, "-m", "support.forked"]
            there = {**os.environ, "PYTHONPATH": os.pathsep.join([str(Path(__file__).parent.parent), *sys.path])}
            self._server = subprocess.Popen(
                command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, encoding="utf-8", env=there
            )
        assert self._server.stdin is not None and self._server.stdout is not None
        with tempfile.TemporaryDirectory() as folder:
            out, err = Path(folder, "out"), Path(folder, "err")
            ask = {"arguments": arguments, "folder": str(Path.cwd()), "out": str(out), "err": str(err), "kill": kill_at}
            self._server.stdin.write(json.dumps(ask) + "\n")
            self._server.stdin.flush()
            status = int(self._server.stdout.readline())
            said, noted = (each.read_text(encoding="utf-8") for each in (out, err))
        return subprocess.CompletedProcess(arguments, status, said, noted)

    def close(self) -> None:
        """End the program."""
        if self._server is not None:
            self._server.communicate()


def serve() -> None:
    """Fork for each command that is asked for, and tell its status."""
    (script,) = entry_points(group="console_scripts", name="zesty")
    program = script.load()
    for module in pkgutil.walk_packages(zesty_crate.__path__, "zesty_crate."):
        if not module.name.endswith(("__main__", "worker_program")):
            importlib.import_module(module.name)
    importlib.import_module("tomlkit")  # which only some commands need, and many of the tests'
    whole_parser()  # expressions are compiled once, as modules are
    shipped_guides()
    gc.collect()
    gc.freeze()  # what a child never collects it shares with this process
    for line in sys.stdin:
        ask = json.loads(line)
        child = os.fork()
        if child == 0:
            os._exit(_command(program, ask))
        _, status = os.waitpid(child, 0)
        print(os.waitstatus_to_exitcode(status), flush=True)


def _command(program: object, ask: dict[str, Any]) -> int:
    os.chdir(ask["folder"])
    if ask["kill"] is not None:
        _have_killed(ask["kill"])
    for number, name, flags in (
        (0, os.devnull, os.O_RDONLY),
        (1, ask["out"], os.O_WRONLY | os.O_CREAT),
        (2, ask["err"], os.O_WRONLY | os.O_CREAT),
    ):
        handle = os.open(name, flags, 0o600)
        os.dup2(handle, number)
        os.close(handle)
    sys.stdin = io.TextIOWrapper(io.BufferedReader(io.FileIO(0, "rb", closefd=False)), encoding="utf-8")
    sys.stdout, sys.stderr = (
        io.TextIOWrapper(
            io.BufferedWriter(io.FileIO(each, "wb", closefd=False)), encoding="utf-8", errors=errors, write_through=True
        )
        for each, errors in ((1, sys.stdout.errors), (2, "backslashreplace"))
    )
    sys.argv = ["zesty", *ask["arguments"]]
    try:
        status = program()  # type: ignore[operator]  # the function of the installed script
    except SystemExit as error:
        status = error.code
    except Exception:  # noqa: BLE001  as the interpreter does
        sys.excepthook(*sys.exc_info())
        status = 1
    sys.stdout.flush()
    sys.stderr.flush()
    return status if isinstance(status, int) else 0 if status is None else 1


def _have_killed(at: int) -> None:
    """Have this process killed before its change number ``at``, of whatever kind."""
    left = at

    def counted(name: str) -> Any:
        real = getattr(Disk, name)

        def change(self: Disk, *arguments: Any, **more: Any) -> Any:
            nonlocal left
            left -= 1
            if left <= 0:
                os.kill(os.getpid(), signal.SIGKILL)
            return real(self, *arguments, **more)

        return change

    for name in CHANGES:
        setattr(Disk, name, counted(name))


if __name__ == "__main__":
    serve()
