"""Recorded paths in two halves: what names the folder, and a last name that says nothing about the rest."""

from __future__ import annotations

import re

from .piece import Spelling
from .systems import System

# What a URL's writer leaves bare elsewhere can be learned from other characters than these.
_TELLS_NOTHING = re.compile(r"(?:[A-Za-z0-9._~-]|%[0-9A-F]{2})+")
_MAY_BE_VARIABLE = re.compile(r"[$%~{}]")
_URLS = frozenset(each for each in Spelling if each.is_url)


def halves(text: str, system: System, spelling: Spelling) -> tuple[str, str] | None:
    """The text up to and with the last separator, and the last name, which may stand behind any other such text.

    None where the last name is missing, or means something to the whole.
    """
    cut = text.rfind("/") + 1
    url = spelling in _URLS
    if not url and (system is System.WINDOWS or spelling is Spelling.RELATIVE_EITHER):
        cut = text.rfind("\\", cut) + 1 or cut
    name = text[cut:]
    if not cut or name in ("", ".", "..") or not (name.isascii() or _is_unicode(name)):
        return None
    if url and not _TELLS_NOTHING.fullmatch(name):
        return None
    if spelling is Spelling.WITH_VARIABLES and _MAY_BE_VARIABLE.search(name):
        return None
    return text[:cut], name


def _is_unicode(name: str) -> bool:
    try:
        name.encode()
    except UnicodeEncodeError:
        return False
    return True
