"""Extended attributes of files and folders: color labels, tags and notes that people give them (xattr(7)).

Python knows them on Linux alone; elsewhere there are none. Those of the user are meant, by their names without the
``user.`` that Linux puts before them, and no others: what systems keep for themselves means nothing on another one.
"""

from __future__ import annotations

import errno
import os
from collections.abc import Mapping

_USERS = "user."
_LARGEST_BYTES = 1 << 20
_NONE_HERE = (errno.ENOTSUP, errno.EOPNOTSUPP, errno.ENODATA)


def read_attributes(path: str) -> dict[str, bytes]:
    """What a file or folder has; one that is larger than a mebibyte is no label, and left out. Raises `OSError`."""
    if not hasattr(os, "listxattr"):
        return {}
    try:
        names = [name for name in os.listxattr(path, follow_symlinks=False) if name.startswith(_USERS)]
        found = {name[len(_USERS) :]: os.getxattr(path, name, follow_symlinks=False) for name in names}
    except OSError as error:
        if error.errno in _NONE_HERE:  # the volume knows none, or it went while we looked
            return {}
        raise
    return {name: value for name, value in found.items() if len(value) <= _LARGEST_BYTES}


def write_attributes(path: str, attributes: Mapping[str, bytes]) -> bool:
    """Give them to a file or folder; False where its volume, or this system, cannot keep them. Raises `OSError`."""
    if not hasattr(os, "setxattr"):
        return not attributes
    try:
        for name, value in attributes.items():
            os.setxattr(path, _USERS + name, value, follow_symlinks=False)
    except OSError as error:
        if error.errno in (*_NONE_HERE, errno.ENOSPC, errno.E2BIG, errno.ERANGE):
            return False
        raise
    return True
