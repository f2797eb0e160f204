"""Catalogs that are merged in another form than that of their files: inside a ZIP, and binary property lists."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from ..catalogs import as_json, as_xml, contained_syntax, from_json, is_binary_plist
from ..machines import Disk
from .sides import Sides

Put = Callable[[Path], None]  # puts a merged file of another form into the target


@dataclass(frozen=True, slots=True)
class OtherForm:
    """Sides whose files have another form, and what brings the ``target`` of these into the one that is wanted.

    ``left_out`` is what else the carried file holds.
    """

    sides: Sides
    put: Put
    left_out: tuple[str, ...] = ()


def in_other_form(sides: Sides, disk: Disk, scratch: Path) -> OtherForm | None:
    """The same catalogs in the form in which they can be merged; None where they are in such a one already."""
    if sides.part.inside:
        return _taken_out(sides, disk, scratch)
    if sides.part.syntax == "plist":
        return _one_kind_of_plist(sides, disk, scratch)
    return None


def _taken_out(sides: Sides, disk: Disk, scratch: Path) -> OtherForm:
    """What is inside each file as a file."""
    part, syntax = sides.part, contained_syntax(sides.part)

    def taken(path: Path, name: str) -> Path:
        syntax.take_out(path, scratch / name, disk)
        return scratch / name

    def put(merged: Path) -> None:
        syntax.put_back(sides.target, merged, disk)

    inner = replace(_each(sides, taken), part=part.model_copy(update={"inside": ()}))
    more = syntax.names(sides.carried, disk) - syntax.names(sides.there, disk)
    return OtherForm(inner, put, tuple(sorted(more)))


def _one_kind_of_plist(sides: Sides, disk: Disk, scratch: Path) -> OtherForm | None:
    """All in XML if the one there is; else all in JSON, since nothing in a binary one has a place of its own."""
    if not is_binary_plist(sides.there, disk):
        if not any(is_binary_plist(path, disk) for path in _others(sides)):
            return None

        def in_xml(path: Path, name: str) -> Path:
            if not is_binary_plist(path, disk):
                return path
            disk.write_bytes(scratch / name, as_xml(disk.read_bytes(path)))
            return scratch / name

        return OtherForm(_each(sides, in_xml), lambda _: None)

    def told(path: Path, name: str) -> Path:
        disk.write_bytes(scratch / name, as_json(disk.read_bytes(path), str(path)).encode())
        return scratch / name

    def put(merged: Path) -> None:
        disk.write_bytes(sides.target, from_json(disk.read_bytes(merged).decode()))

    part = sides.part.model_copy(update={"syntax": "json", "encoding": ()})
    return OtherForm(replace(_each(sides, told), part=part), put)


def _others(sides: Sides) -> tuple[Path, ...]:
    origin = sides.origin
    return (sides.carried, *((origin.carried, origin.left) if origin else ()))


def _each(sides: Sides, changed: Callable[[Path, str], Path]) -> Sides:
    """The sides with each file in another form."""
    origin = sides.origin and replace(
        sides.origin,
        carried=changed(sides.origin.carried, "form-of-origin"),
        left=changed(sides.origin.left, "form-left"),
    )
    return replace(
        sides,
        there=changed(sides.there, "form-there"),
        target=changed(sides.target, "form-target"),
        carried=changed(sides.carried, "form-carried"),
        origin=origin,
    )
