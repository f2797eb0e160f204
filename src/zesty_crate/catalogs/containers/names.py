"""Members that a guide means, by a name that may have wildcards."""

from __future__ import annotations

import re
from collections.abc import Sequence

from .layers import unreadable


def matching(pattern: str, names: Sequence[str], title: str, kind: str) -> list[str]:
    """The names that a pattern means: ``*`` stands for any characters but ``/``, ``**`` for any, and ``?`` for one.

    Raises `CatalogError` where there is none, or where one name is there twice.
    """
    wild = {"**": ".*", "*": "[^/]*", "?": "[^/]"}
    wanted = re.compile("".join(wild.get(each, re.escape(each)) for each in re.split(r"(\*\*|\*|\?)", pattern)))
    found = [name for name in names if wanted.fullmatch(name)]
    if len(set(found)) < len(found) or not found:
        number = f"{len(found)} members {pattern}" if len(found) > 1 else f"no member {pattern}"
        near = ", ".join(names[:8]) or "nothing"
        raise unreadable(title, f"a {kind}", f"it has {number}; it holds {near}")
    return found
