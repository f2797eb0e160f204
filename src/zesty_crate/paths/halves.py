"""Recorded paths in two halves: what names the folder, and a last name that says nothing about the rest."""

from __future__ import annotations

import re
from functools import lru_cache

from .piece import Spelling
from .systems import System

# What a URL's writer leaves bare elsewhere can be learned from other characters than these.
_TELLS_NOTHING = r"(?:[A-Za-z0-9._~-]|%[0-9A-F]{2})+"
_MAY_BE_VARIABLE = "$%~{}"
_NOT_UNICODE = "\ud800-\udfff"


@lru_cache
def halves_of(system: System, spelling: Spelling) -> re.Pattern[str]:
    """What a whole text matches, in two groups: up to and with the last separator, and the last name.

    That name may stand behind any other such text. Texts whose last name is missing, or means something to the whole,
    do not match.
    """
    backslash = not spelling.is_url and (system is System.WINDOWS or spelling is Spelling.RELATIVE_EITHER)
    separators = "/" + "\\\\" * backslash
    variable = _MAY_BE_VARIABLE * (spelling is Spelling.WITH_VARIABLES)
    name = _TELLS_NOTHING if spelling.is_url else f"[^{separators}{variable}{_NOT_UNICODE}]+"
    return re.compile(rf"(.*[{separators}])(?!\.\.?\Z)({name})", re.DOTALL)


def halves(text: str, system: System, spelling: Spelling) -> tuple[str, str] | None:
    """Both halves of a text; None where it has no such halves."""
    found = halves_of(system, spelling).fullmatch(text)
    return None if found is None else (found[1], found[2])
