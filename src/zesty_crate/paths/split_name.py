"""Recorded paths in two halves: what names the folder, and a last name that says nothing about the rest."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import lru_cache

from .piece import Spelling
from .systems import System

Halves = tuple[str, str]

# What a URL's writer leaves bare elsewhere can be learned from other characters than these.
_TELLS_NOTHING = re.compile(r"[A-Za-z0-9._~-]*+(?:%[0-9A-F]{2}[A-Za-z0-9._~-]*+)*+")
_NO_VARIABLE = re.compile("[^$%~{}\ud800-\udfff]+")
_NO_NAMES = ("", ".", "..")


def split_name(text: str, system: System, spelling: Spelling) -> Halves | None:
    """The text up to and with the last separator, and the last name, which may stand behind any other such text.

    None where the last name is missing, or means something to the whole.
    """
    return name_splitter(system, spelling)(text)


@lru_cache
def name_splitter(system: System, spelling: Spelling) -> Callable[[str], Halves | None]:
    """The same for many texts of one spelling. (One pattern for all of it would take three times as long.)"""
    backslash = not spelling.is_url and (system is System.WINDOWS or spelling is Spelling.RELATIVE_EITHER)
    says_nothing: Callable[[str], object] = (
        _TELLS_NOTHING.fullmatch
        if spelling.is_url
        else _NO_VARIABLE.fullmatch
        if spelling is Spelling.WITH_VARIABLES
        else _is_unicode
    )

    def apart(text: str) -> Halves | None:
        cut = text.rfind("/") + 1
        if backslash and (other := text.rfind("\\") + 1) > cut:
            cut = other
        name = text[cut:]
        return (text[:cut], name) if cut and name not in _NO_NAMES and says_nothing(name) else None

    return apart


def _is_unicode(name: str) -> bool:
    if name.isascii():
        return True
    try:
        name.encode()
    except UnicodeEncodeError:
        return False
    return True
