"""What a link of the old computer says on the new one."""

from __future__ import annotations

import posixpath

from ..paths import MachinePath, PathError, RouteMap, Spelling, read_path


def link_text(link: MachinePath, target: str, new: MachinePath | None, routes: RouteMap) -> str | None:
    """The text of a link that said ``target`` and is at ``new`` now.

    None when it is not made: what it leads to takes its place itself, or goes nowhere that the new system could name.
    A relative text stays relative, and one that still leads there stays as it is.
    """
    try:
        old_target = read_path(target, link.system, Spelling.RELATIVE, link.parent).path
    except PathError:
        old_target = None
    new_target = None if old_target is None else routes.translate(old_target)
    if new is None or old_target is None or new_target is None:
        return target if new is None or new.system is link.system else None
    if new_target == new:
        return None
    is_relative = _is_relative(target, link)
    if is_relative and new.system is link.system and _steps(old_target, link) == _steps(new_target, new):
        return target
    steps = _steps(new_target, new) if is_relative else None
    return str(new_target) if steps is None else new.system.separator.join(steps)


def _is_relative(target: str, link: MachinePath) -> bool:
    try:
        read_path(target, link.system, Spelling.NATIVE)
    except PathError:
        return True
    return False


def _steps(target: MachinePath, link: MachinePath) -> tuple[str, ...] | None:
    """The way from the folder of a link to its target, by names; None from one drive to another."""
    if target.root != link.root:
        return None
    return tuple(posixpath.relpath("/" + "/".join(target.parts), "/" + "/".join(link.parent.parts)).split("/"))
