"""The system that the program runs on. Here alone it is asked which one that is."""

from __future__ import annotations

import sys
from functools import cache
from types import ModuleType

from .model import OperatingSystem


@cache
def this_system() -> OperatingSystem:
    """The system that the program runs on; one of no name that is known does what all of POSIX do."""
    if sys.platform == "win32":
        from .windows import Windows
        from .windows_calls import RealWindowsCalls

        return Windows(RealWindowsCalls())
    if sys.platform == "darwin":
        from .macos import MacOs
        from .macos_calls import RealMacCalls

        return MacOs(RealMacCalls())
    if sys.platform == "linux":
        from .linux import Linux

        return Linux()
    from . import posix

    other: OperatingSystem = getattr(posix, "Posix")()  # noqa: B009  on Windows, types are checked without it
    return other


def windows_registry() -> ModuleType | None:
    """The standard library's module ``winreg``; None where there is no registry."""
    if sys.platform == "win32":
        import winreg

        return winreg
    return None
