"""The program's entry. Whatever stops it, a signal or an output that takes nothing, ends in one sentence."""

from __future__ import annotations

import _thread
import contextlib
import os
import signal
import sys
import threading
import time
from types import FrameType

_STOPPED = 4  # as `Status.HALFWAY`, which is not imported here: the first moments count, too
_STOPS = ("SIGINT", "SIGTERM", "SIGHUP", "SIGBREAK")
_AS_HELPER = "--as-helper"  # as in `systems.helpers`, which is not imported here either
_SOON_S = 0.05
_AGAIN_S = 2.0  # a signal soon after another one comes from impatience, and must not disturb what is put in order

_last = [0.0]
_told: list[bool] = []


def run() -> int:
    """Run the program with the arguments of its process; the exit status as in `Status`."""
    if getattr(sys, "frozen", False) and sys.argv[1:2] == [_AS_HELPER]:  # it has no Python to start helpers with
        from ..systems.helpers import serve_as

        serve_as(sys.argv[2])
        return 0
    stops = [number for name in _STOPS if (number := getattr(signal, name, None)) is not None]
    stops = [each for each in stops if signal.getsignal(each) is not signal.SIG_IGN]  # as under nohup
    for each in stops:
        signal.signal(each, _stop)
    sys.unraisablehook = _not_lost
    try:
        from .main import main

        status = main()
    except SystemExit as ended:  # of the usage
        status = ended.code if isinstance(ended.code, int) else 0
    except OSError as error:
        _tell_of_output(error)
        status = _STOPPED
    except KeyboardInterrupt:
        _tell("zesty: Stopped. Run the same command again to continue.\n")
        status = _STOPPED
    for each in stops:  # all is done, and there is nothing to stop any more
        signal.signal(each, signal.SIG_IGN)
    return status if _is_written() else _STOPPED


def _stop(number: int, frame: FrameType | None) -> None:
    del number, frame
    before, _last[0] = _last[0], time.monotonic()
    if not before or _last[0] - before > _AGAIN_S:
        raise KeyboardInterrupt


def _not_lost(unraisable: sys.UnraisableHookArgs) -> None:
    """A stop that came where Python can raise nothing, as in a callback, comes again at once."""
    if issubclass(unraisable.exc_type, KeyboardInterrupt):
        _last[0] = 0.0
        threading.Timer(_SOON_S, _thread.interrupt_main).start()
    else:
        sys.__unraisablehook__(unraisable)


def _is_written() -> bool:
    """Whether all output has reached whoever asked for it; what cannot be written is let go of without a word more."""
    try:
        sys.stdout.flush()
    except (OSError, ValueError) as error:
        _tell_of_output(error)
        with contextlib.suppress(OSError, ValueError):
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return False
    return True


def _tell_of_output(error: Exception) -> None:
    """Say that the output takes nothing, unless whoever read it has gone, so that nobody is left to tell."""
    if isinstance(error, OSError) and not isinstance(error, BrokenPipeError) and not _told:
        _told.append(True)
        _tell(f"zesty: The output could not be written: {error.strerror}. Run the command again with another one.\n")


def _tell(text: str) -> None:
    with contextlib.suppress(OSError, ValueError):
        sys.stderr.write(text)
        sys.stderr.flush()
