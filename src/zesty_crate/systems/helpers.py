"""Processes that lend a hand: how they are started, by Python itself or by a program that was frozen into one."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

AS_HELPER = "--as-helper"  # the first word of a frozen program that is to be one

# The folder of the package goes last, so that nothing in it hides a module of the standard library.
_FILES = "import sys; sys.path.append(sys.argv[1]); from systems.worker_program import serve; serve()"
_READING = "import sys; sys.path[:0] = sys.argv[1:2]; from zesty_crate.survey.prefetch import serve; serve()"
_PACKAGE = Path(__file__).parents[1]


def helper_command(work: str) -> list[str]:
    """What starts a helper for ``files`` (it lists, copies and names them) or for ``reading`` catalogs."""
    if getattr(sys, "frozen", False):
        return [sys.executable, AS_HELPER, work]
    if work == "files":
        return [sys.executable, "-I", "-S", "-c", _FILES, str(_PACKAGE)]
    return [sys.executable, "-P", "-c", _READING, str(_PACKAGE.parent)]


def serve_as(work: str) -> None:
    """Be a helper, in a frozen program."""
    _program_of(work)()


def _program_of(work: str) -> Callable[[], None]:
    if work == "files":
        from .worker_program import serve

        return serve
    from importlib import import_module

    serving: Callable[[], None] = import_module("zesty_crate.survey.prefetch").serve
    return serving
