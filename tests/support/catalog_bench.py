"""One catalog of any syntax, to be read, rewritten and proven."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import closing
from pathlib import Path

from zesty_crate.catalogs import Change, ChangeList, Entry, Proof, Syntax, syntax_of
from zesty_crate.guides import HoldingPart
from zesty_crate.machines import Disk
from zesty_crate.paths import MachinePath, System

from .catalog_samples import Sample

DISK = Disk()
AT = MachinePath(System.LINUX, "/", ("home", "odile", "catalog"))


def list_of(path: Path, *changes: Change) -> ChangeList:
    """A change list."""
    listed = ChangeList(path)
    listed.add(changes)
    return listed


class Bench:
    """One catalog in a folder of its own."""

    def __init__(self, folder: Path, sample: Sample) -> None:
        self.path = folder / "catalog"
        self.scratch = folder / "scratch"
        self.scratch.mkdir()
        self.sample = sample
        self.part = HoldingPart.model_validate(sample.part)
        self.syntax: Syntax = syntax_of(self.part)
        self.part = HoldingPart.model_validate(sample.part)
        self.listed = ChangeList(folder / "changes")
        sample.make(self.path)

    def entries(self, path: Path | None = None) -> list[Entry]:
        opened = self.syntax.open(path or self.path, self.part, AT, DISK, self.scratch)
        with closing(opened) as catalog:
            first, again = list(catalog.entries()), list(catalog.entries())
        assert first == again
        return first

    def rewrite(self, source: Path, target: Path, changed: Callable[[str], str]) -> tuple[Path, Proof]:
        """A rewritten copy of ``source``, and the proof."""
        pieces = [piece for entry in self.entries(source) for piece in entry.pieces if piece]
        changes = [Change(p.cell, p.text, changed(p.text)) for p in pieces if changed(p.text) != p.text]
        self.listed = list_of(target.with_suffix(".changes"), *changes)
        self.syntax.rewrite(source, target, self.part, self.listed, DISK)
        return target, self.prove(source, target, self.listed)

    def prove(self, original: Path, rewritten: Path, listed: ChangeList) -> Proof:
        return self.syntax.prove(original, rewritten, self.part, listed, DISK)


def to_srv(text: str) -> str:
    return text.replace("/home", "/srv")
