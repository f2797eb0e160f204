"""What helps where a carrier takes nothing of a move's records: how much room they need, and another place for them."""

from __future__ import annotations

import argparse
import errno
from pathlib import Path

from ..errors import ZestyError

TAKES_NOTHING = (errno.ENOSPC, errno.EROFS, getattr(errno, "EDQUOT", errno.ENOSPC))


def where_else(error: ZestyError, args: argparse.Namespace) -> str:
    """What to add to the next step of an error; nothing where it is not about the records of a move."""
    fault = error if hasattr(error, "errno") else error.__cause__
    crate, work = getattr(args, "crate", None), getattr(args, "work", None)
    if getattr(fault, "errno", None) not in TAKES_NOTHING or crate is None or "work" not in args:
        return ""
    if not Path(getattr(fault, "path", "")).absolute().is_relative_to(Path(work or crate).absolute()):
        return ""  # it is the new computer that has no room
    from ..crate import Crate, readable_size, records_bytes
    from ..machines import Disk

    try:
        needed = f" This move's records need up to {readable_size(records_bytes(Crate(crate), Disk()))}."
    except ZestyError:
        needed = ""
    return f"{needed} Or keep them elsewhere with --work DIR."
