"""What no holding covers: counted while the computer is walked, and summed up by the folders that are nearest the top.

A folder *is split* where the place of a holding is in it, and where a system keeps folders of different owners (a
volume, the folder of all homes, a home, its folders of settings). Every other folder is told as one.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace

from ..errors import ZestyError
from ..machines import Computer, Contents
from ..machines.system_folders import is_system_file
from ..machines.texts import restored, stored
from ..paths import MachinePath, PathError
from .store import SurveyStore
from .uncovered_documents import Candidates

_SPLIT_PLACES = ("home", "app-data", "app-data-local", "config", "shared-data")
_LEVELS = 3  # below the folder that is told, so that what is in it can be left by itself
_FEW_FILES, _FEW_BYTES = 5, 20_000
_ENDINGS_TOLD = 4
_LEFT = "left-folders"


@dataclass(frozen=True, slots=True)
class Uncovered:
    """A folder that no holding covers; of one that ``is_split``, only the files right in it. Sizes in bytes.

    ``kinds`` are the most frequent endings, with how many files have one. ``fault`` says why it cannot be looked into.
    ``left`` is the reason for which a person leaves it.
    """

    at: str
    is_split: bool
    files: int
    size_bytes: int
    kinds: tuple[tuple[str, int], ...]
    fault: str = ""
    left: str = ""

    @property
    def is_open(self) -> bool:
        """Whether a person has to decide about it: a few small files are not worth asking."""
        is_little = self.files < _FEW_FILES and self.size_bytes < _FEW_BYTES and not self.fault
        return not is_little and not self.left


class Coverage:
    """Counts what belongs to no holding, while a computer is walked."""

    def __init__(self, computer: Computer, store: SurveyStore) -> None:
        self._computer = computer
        self._store = store
        self._split = _split_places(computer)
        self.candidates = Candidates()
        self._left_out: list[str] = []

    def leave_out(self, path: MachinePath) -> None:
        """A folder turned out to be somebody's after all, with all below it."""
        self._left_out.append(self._computer.key(path))
        self.candidates.leave_out(path)

    def note_faulty(self, path: MachinePath, fault: str) -> None:
        """A folder in nobody's place that cannot be listed."""
        self._store.add_uncovered(str(path), self._computer.key(path), 0, 0, {}, fault)

    def note(self, path: MachinePath, contents: Contents, covered: Sequence[bool], *, is_split: bool) -> None:
        """What is right in a folder that is in nobody's place; ``covered`` tells what is somebody's all the same.

        It ``is_split`` when it holds the place of a holding.
        """
        key = self._computer.key(path)
        if is_split:
            self._note_split(key)
        files, size, kinds = 0, 0, Counter[str]()
        for name, facts, is_covered in zip(contents.names, contents.told, covered, strict=True):
            if is_covered or facts[0] in ("folder", "link") or is_system_file(name):
                continue
            files += 1
            ending = _ending(name)
            kinds[ending] += 1
            if facts[0] == "file":
                size += facts[1]
                self.candidates.note(path, name, facts[1], ending)
        if files:
            self._store.add_uncovered(str(path), key, files, size, kinds, "")

    def sum_up(self) -> None:
        """Keep for each folder that is told what is in it, by those that are a few levels below."""
        sums: dict[str, _Sum] = {}
        outside = self._outside_by_folder()
        for path, key, files, size, kinds, fault in self._store.uncovered_as_noted():
            if any(key == each or key.startswith(each + "/") for each in self._left_out):
                continue
            top, kept = self._cut(key, is_fault=bool(fault))
            entry = sums.get(kept + fault)
            if entry is None:
                whole = self._computer.parse(path)
                kept_text, top_text = (str(_above(whole, key.count("/") - each.count("/"))) for each in (kept, top))
                entry = sums[kept + fault] = _Sum(kept, kept_text, top_text, top in self._split, fault)
            entry.files += files
            entry.size_bytes += size
            entry.kinds.update(kinds)
            for size, ending in outside.get(key, ()):
                entry.files -= 1
                entry.size_bytes -= size
                entry.kinds[ending] -= 1
        self._store.set_uncovered(each.row() for each in sums.values() if each.files or each.fault)

    def _outside_by_folder(self) -> dict[str, list[tuple[int, str]]]:
        """Sizes and endings of the media that catalogs refer to outside all holdings, which are known."""
        known: dict[str, list[tuple[int, str]]] = {}
        for row in self._store.files("role = 'outside' AND kind = 'file'"):
            folder, _, name = row.key.rpartition("/")
            known.setdefault(folder, []).append((row.size_bytes, _ending(name)))
        return known

    def _note_split(self, key: str) -> None:
        while key not in self._split:
            self._split.add(key)
            key = key.rpartition("/")[0]

    def _cut(self, key: str, *, is_fault: bool) -> tuple[str, str]:
        """The folder by which this one is told, and the one by which it is kept."""
        if key in self._split:
            return key, key
        parts = key.split("/")
        above = len(parts) - 1
        while above and "/".join(parts[:above]) not in self._split:
            above -= 1
        top = "/".join(parts[: above + 1])
        return (key, key) if is_fault else (top, "/".join(parts[: above + 1 + _LEVELS]))


@dataclass(slots=True)
class _Sum:
    key: str
    path: str
    told: str
    is_split: bool
    fault: str
    files: int = 0
    size_bytes: int = 0
    kinds: Counter[str] = field(default_factory=Counter)

    def row(self) -> tuple[object, ...]:
        """The row of the survey."""
        kinds = json.dumps(dict((+self.kinds).most_common()))
        texts = stored(self.path), stored(self.key), stored(self.told)
        return (*texts, self.is_split, self.files, self.size_bytes, kinds, self.fault)


def leave(store: SurveyStore, computer: Computer, texts: Iterable[str]) -> None:
    """Write down that folders stay where they are: each as ``FOLDER=REASON``, ``rest`` for all that is undecided.

    Raises `ZestyError` for a text without a reason, and for a folder of which nothing is uncovered.
    """
    chosen: list[tuple[str, str]] = []
    store.set_about(_LEFT, chosen)
    for text in texts:
        folder, _, why = (part.strip() for part in text.rpartition("="))
        if not folder or not why:
            raise ZestyError(
                f"{text!r} gives no reason to leave a folder.",
                next_step="Write it like 'FOLDER=REASON', with the folder as its computer writes it; or 'rest=REASON'.",
            )
        if folder == "rest":
            chosen += [(computer.key(computer.parse(each.at)), why) for each in uncovered_in(store) if each.is_open]
        else:
            chosen.append((_key_of(store, computer, folder), why))
        store.set_about(_LEFT, chosen)


def _key_of(store: SurveyStore, computer: Computer, folder: str) -> str:
    try:
        key = computer.key(computer.parse(folder))
    except PathError as error:
        raise ZestyError(error.message, next_step="Name a folder as the old computer writes it.") from error
    keys = [restored(row[0]) for row in store.database.execute("SELECT key FROM uncovered")]
    if not any(each == key or each.startswith(key + "/") for each in keys):
        raise ZestyError(
            f"The survey has no uncovered files in {folder}.",
            next_step="zesty survey CRATE --details coverage lists the folders.",
        )
    return key


def uncovered_in(store: SurveyStore) -> tuple[Uncovered, ...]:
    """The folders that no holding covers, the largest first."""
    reasons = [(top, why) for top, why in store.about(_LEFT) or ()]
    sums: dict[tuple[str, str], Uncovered] = {}
    counts: dict[tuple[str, str], Counter[str]] = {}
    rows = store.database.execute("SELECT told, is_split, key, files, size, kinds, fault FROM uncovered ORDER BY path")
    for told, is_split, stored_key, files, size, kinds, fault in rows:
        key = restored(stored_key)
        why = next((why for top, why in reasons if key == top or key.startswith(top + "/")), "")
        of = restored(told), why
        known = sums.get(of, Uncovered(of[0], bool(is_split), 0, 0, (), fault, why))
        sums[of] = replace(known, files=known.files + files, size_bytes=known.size_bytes + size)
        counts.setdefault(of, Counter()).update(json.loads(kinds))
    told_kinds = {of: tuple(count.most_common(_ENDINGS_TOLD)) for of, count in counts.items()}
    everything = (replace(each, kinds=told_kinds[of]) for of, each in sums.items())
    return tuple(sorted(everything, key=lambda each: (-each.size_bytes, -each.files, each.at)))


def _split_places(computer: Computer) -> set[str]:
    split = {computer.key(volume.anchor) for volume in computer.volumes}
    for name in _SPLIT_PLACES:
        place = computer.place(name)
        split |= {computer.key(_above(place, levels)) for levels in range(len(place.parts) + 1)}
    return split


def _ending(name: str) -> str:
    stem, dot, ending = name.rpartition(".")
    return (dot + ending).lower() if stem and len(ending) <= 8 else ""


def _above(path: MachinePath, levels: int) -> MachinePath:
    return path._replace(parts=path.parts[: len(path.parts) - levels])
