"""What happened, for whoever looks for a fault: by the standard ``logging``, on standard error or into a file.

No file contents and no registry values are logged; paths, counts and decisions are.
"""

from __future__ import annotations

import logging
import platform
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from ..errors import ZestyError
from ..progress import Progress, Tell
from ..version import __version__

_ROOT = logging.getLogger("zesty_crate")
_log = logging.getLogger(__name__)


@contextmanager
def logging_to(verbose: int, file: Path | None, command: Sequence[str]) -> Iterator[None]:
    """Log while a command runs: to standard error with ``verbose`` (1: steps, 2: details), and all into a ``file``.

    Raises `ZestyError` when the file cannot be written.
    """
    handlers: list[logging.Handler] = []
    if verbose:
        handlers.append(logging.StreamHandler())
        handlers[0].setLevel(logging.INFO if verbose == 1 else logging.DEBUG)
        handlers[0].setFormatter(logging.Formatter("%(levelname).1s %(message)s"))
    if file is not None:
        try:
            handlers.append(logging.FileHandler(file, encoding="utf-8", errors="backslashreplace"))
        except OSError as error:
            why = error.strerror or str(error)
            raise ZestyError(f"The log {file} cannot be written: {why}.", next_step="Name another file.") from error
        handlers[-1].setFormatter(logging.Formatter("%(asctime)s %(levelname)-7s %(name)s: %(message)s"))
    _ROOT.setLevel(logging.DEBUG if handlers else logging.WARNING)
    _ROOT.propagate = False
    for handler in handlers:
        _ROOT.addHandler(handler)
    begun = time.monotonic()
    if handlers:
        python, system = platform.python_version(), platform.platform()
        _log.info("Zesty Crate %s on Python %s, %s", __version__, python, system)
        _log.info("zesty %s", " ".join(map(repr, command)))
    try:
        yield
    except BaseException as error:
        _log.debug("ended by %s", type(error).__name__, exc_info=True)
        raise
    finally:
        _log.info("ended after %.2f s", time.monotonic() - begun)
        for handler in handlers:
            _ROOT.removeHandler(handler)
            handler.close()


def logged(tell: Tell) -> Tell:
    """Log each stage of long work when it begins, and how far it came when the next one does; then pass it on."""
    if not _log.isEnabledFor(logging.INFO):
        return tell
    last: list[tuple[Progress, float]] = []

    def noted(moment: Progress) -> None:
        now = time.monotonic()
        if not last or last[0][0].stage != moment.stage:
            if last:
                before, since = last[0]
                _log.info(
                    "%s: %d files, %d bytes, %.2f s", before.stage, before.files_done, before.bytes_done, now - since
                )
            _log.info("%s", moment.stage)
            last[:] = [(moment, now)]
        last[0] = (moment, last[0][1])
        tell(moment)

    return noted
