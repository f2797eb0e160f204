"""A draft as the text of a guide: TOML in the manner of those that ship, with the evidence in comments."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

_BARE = re.compile(r"[A-Za-z0-9_-]+")
_WIDEST = 110


@dataclass(slots=True)
class Block:
    """A table of a guide: its name in brackets, keys with values, what is said above it, and behind its keys.

    ``commented`` writes all of it as comments, for a person to look at.
    """

    name: str
    keys: dict[str, object] = field(default_factory=dict)
    above: list[str] = field(default_factory=list)
    behind: dict[str, str] = field(default_factory=dict)
    below: list[str] = field(default_factory=list)
    commented: bool = False


def written(blocks: Iterable[Block], head: Sequence[str]) -> str:
    """The whole text."""
    parts = ["\n".join(f"# {line}".rstrip() for line in head)] if head else []
    parts += ["\n".join(_lines(each)) for each in blocks]
    return "\n\n".join(part for part in parts if part) + "\n"


def _lines(block: Block) -> Iterable[str]:
    for line in block.above:
        yield f"# {line}".rstrip()
    start = "# " if block.commented else ""
    if block.name:
        yield f"{start}{block.name}"
    width = max(map(len, map(_key, block.keys)), default=0)
    for key, value in block.keys.items():
        line = f"{_key(key):<{width}} = {toml(value)}"
        told = f"   # {block.behind[key]}" if key in block.behind else ""
        if len(line) > _WIDEST and isinstance(value, list):
            yield f"{start}{_key(key):<{width}} = [{told}"
            yield from (f"{start}  {toml(each)}," for each in value)
            yield f"{start}]"
        else:
            yield f"{start}{line}{told}"
    for line in block.below:
        yield f"# {line}".rstrip()


def _key(key: str) -> str:
    return key if _BARE.fullmatch(key) else toml(key)


def toml(value: object) -> str:
    """A value in TOML, on one line."""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int):
        return str(value)
    if isinstance(value, Mapping):
        inner = ", ".join(f"{_key(str(key))} = {toml(each)}" for key, each in value.items())
        return f"{{ {inner} }}" if inner else "{}"
    if isinstance(value, list | tuple):
        return f"[{', '.join(map(toml, value))}]"
    return _text(str(value))


def _text(text: str) -> str:
    if ("\\" in text or '"' in text) and "'" not in text and text.isprintable():
        return f"'{text}'"
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    return '"' + "".join(each if each.isprintable() else f"\\u{ord(each):04x}" for each in escaped) + '"'
