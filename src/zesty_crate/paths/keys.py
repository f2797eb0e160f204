"""Keys: two paths are the same file on a volume exactly when their keys are equal."""

from __future__ import annotations

import unicodedata
from functools import lru_cache

from .machine_path import MachinePath
from .systems import Folding, NameRules


def folded_name(name: str, folding: Folding) -> str:
    """The form of ``name`` in which a volume compares it.

    NTFS, exFAT and FAT compare through a table of single upper-case characters and know nothing of Unicode forms.
    APFS and HFS+ compare by canonical caseless matching (Unicode 3.13, D145).
    """
    if folding is Folding.EXACT or (name.isascii() and folding is Folding.CANONICAL):
        return name
    if folding is Folding.UPPERCASE:
        return name.upper() if name.isascii() else "".join(map(_upcased, name))
    if folding is Folding.CANONICAL:
        return unicodedata.normalize("NFD", name)
    return name.lower() if name.isascii() else _canonical_caseless(name)


name_key = lru_cache(maxsize=65536)(folded_name)  # names of folders come again and again


def path_key(path: MachinePath, rules: NameRules) -> str:
    """One text that represents ``path`` in look-ups; names in it are separated by ``/``."""
    root = path.root.upper() if path.root != "/" else ""
    return "/".join([root, *(name_key(part, rules.folding) for part in path.parts)])


def _upcased(character: str) -> str:
    upper = character.upper()
    if len(upper) != 1 or len(upper.lower()) != 1:
        return character
    return upper


def _canonical_caseless(name: str) -> str:
    folded = name
    # Twice, since folding may bring forth characters that decompose and fold again (U+0345 and its like).
    for _ in range(2):
        folded = unicodedata.normalize("NFD", unicodedata.normalize("NFD", folded).casefold())
    return folded
