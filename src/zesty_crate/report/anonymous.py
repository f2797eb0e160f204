"""The same report without the names of users and the serial numbers of their disks, for sending it to somebody else."""

from __future__ import annotations

import copy
import dataclasses
import re
from collections.abc import Callable, Iterable
from enum import Enum
from typing import Any

from pydantic import BaseModel

from ..plan import Move
from ..survey import Problems
from .gather import Gathered

_USER, _SERIAL = "user", "0000"
_SHORTEST = 2  # letters of a name: a shorter one is in every word


def anonymous(gathered: Gathered, move: Move) -> Gathered:
    """Everything in it but for those names and numbers, and the pictures, which show what is a person's own."""
    volumes = [*move.old.volumes, *move.new.volumes]
    users = {computer.user for computer in (move.old, move.new)}
    users |= {computer.place("home").name for computer in (move.old, move.new)}
    serials = {text for each in volumes for text in (each.serial, each.uuid) if text}
    said = _replacer({**dict.fromkeys(users, _USER), **dict.fromkeys(serials, _SERIAL)})
    told: Gathered = _told(dataclasses.replace(gathered, thumbnails=()), said)
    return told


def _replacer(words: dict[str, str]) -> Callable[[str], str]:
    """What puts others in the place of whole words, whatever their case."""
    known = {word.casefold(): other for word, other in words.items() if len(word) >= _SHORTEST}
    if not known:
        return lambda text: text
    pattern = re.compile(_any_of(known), re.IGNORECASE)
    return lambda text: pattern.sub(lambda found: known.get(found[0].casefold(), _USER), text)


def _any_of(words: Iterable[str]) -> str:
    listed = "|".join(re.escape(each) for each in sorted(words, key=len, reverse=True))
    return rf"(?<![^\W_])(?:{listed})(?![^\W_])"


def _told(value: Any, said: Callable[[str], str]) -> Any:
    """A value with every text in it changed."""
    if isinstance(value, Enum) or value is None or isinstance(value, bool | int | float | bytes):
        return value
    if isinstance(value, str):
        return said(value)
    if isinstance(value, dict):
        return {_told(key, said): _told(each, said) for key, each in value.items()}
    if isinstance(value, tuple) and hasattr(value, "_fields"):
        return type(value)(*(_told(each, said) for each in value))
    if isinstance(value, tuple | list | set | frozenset | Problems):
        return type(value)(_told(each, said) for each in value)
    if isinstance(value, BaseModel):
        return value.model_copy(update={name: _told(getattr(value, name), said) for name in type(value).model_fields})
    if dataclasses.is_dataclass(value):
        changed = copy.copy(value)
        for field in dataclasses.fields(value):
            object.__setattr__(changed, field.name, _told(getattr(value, field.name), said))
        return changed
    return value
