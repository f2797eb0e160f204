"""Matching one by one: on generated cases, how often it is right, and what its confidence is worth.

python -m benchmarks.matching [--cases 10000] [--fit]

In each of many small worlds a customer has lost files in all the ways that happen: moved, renamed, copied, edited, cut
short, recorded again, exchanged, converted, gone. What a catalog knows of them differs, too. With ``--fit`` the weights
of the clues are found anew, on other worlds than those of the table.
"""

from __future__ import annotations

import argparse
import gc
import math
import random
import time
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from scipy.optimize import minimize

from zesty_crate.media import NOTHING_TOLD, MediaFacts
from zesty_crate.paths import MachinePath, System
from zesty_crate.relink import clues as weights
from zesty_crate.relink.clues import Clue, Lost, clues_of
from zesty_crate.relink.matching import ACCEPTED, Matcher

WORDS = "rain lamp owl bell geese harp dusk moth crane fog drum gate reed tide lantern paper shadow wolf".split()  # noqa: SIM905
SECOND_NS = 10**9
PER_WORLD = 40


@dataclass(frozen=True)
class File:
    """A file of a world; equal ``content`` is equal content."""

    path: str
    size: int
    modified_ns: int
    content: int
    duration_s: float


class World:
    """One computer after an accident."""

    def __init__(self, seed: int) -> None:
        self.random = random.Random(seed)
        self.contents = 0
        self.lost: list[Lost] = []
        self.truth: list[int] = []
        self.files: dict[str, File] = {}
        while len(self.lost) < PER_WORLD:
            self._accident()
        for _ in range(20 * PER_WORLD):
            self._put(self._fresh(self._folder()))

    def _folder(self) -> str:
        return "/".join(["", "mnt", *(self.random.choice(WORDS).title() for _ in range(self.random.randint(1, 3)))])

    def _name(self) -> str:
        words = " ".join(self.random.choice(WORDS).title() for _ in range(self.random.randint(1, 3)))
        return words + self.random.choice(["", f" {self.random.randint(1, 30)}", f" take {self.random.randint(1, 9)}"])

    def _fresh(self, folder: str, name: str = "") -> File:
        """A file with a content of its own. Some sizes are round, as those of fixed-length recordings are."""
        self.contents += 1
        fixed = self.random.random() < 0.15
        size = 4_194_348 if fixed else int(math.exp(self.random.uniform(math.log(300), math.log(40_000_000))))
        return File(f"{folder}/{name or self._name()}.wav", size, self._moment(), self.contents, size / 192_000)

    def _moment(self) -> int:
        return self.random.randrange(1_500_000_000, 1_790_000_000) * SECOND_NS

    def _put(self, file: File) -> None:
        self.files.setdefault(file.path, file)

    def _lose(self, file: File) -> None:
        """Note a file as lost, with as much of it as some catalog would know."""
        chance = self.random.random
        self.lost.append(
            Lost(
                machine_path(file.path.replace("/mnt", "/home/odile")),
                file.size if chance() < 0.85 else None,
                f"sha1:{file.content}" if chance() < 0.2 else "",
                file.modified_ns if chance() < 0.5 else None,
                MediaFacts(duration_s=round(file.duration_s, 1)) if chance() < 0.3 else NOTHING_TOLD,
            )
        )
        self.truth.append(file.content)

    def _accident(self) -> None:
        file = self._fresh(self._folder())
        kinds = [
            self._moved,
            self._renamed,
            self._namesake,
            self._edited,
            self._takes,
            self._cut_short,
            self._exchanged,
            self._converted,
            self._gone,
            self._copied,
        ]
        self.random.choices(kinds, [30, 14, 8, 8, 6, 6, 4, 6, 10, 8])[0](file)

    def _elsewhere(self, file: File) -> File:
        """The same file in another folder, or in one that was renamed; its date shifted by a zone from time to time."""
        folder, name = file.path.rsplit("/", 1)
        kept = folder.rsplit("/", 1)[1] if self.random.random() < 0.5 else self.random.choice(WORDS)
        shift = self.random.choice([0, 0, 0, 0, 3600, 7200]) * SECOND_NS
        moved = self._folder() + "/" + kept
        return replace(file, path=f"{moved}/{name}", modified_ns=file.modified_ns + shift)

    def _moved(self, file: File) -> None:
        self._lose(file)
        self._put(self._elsewhere(file))

    def _renamed(self, file: File) -> None:
        self._lose(file)
        there = self._elsewhere(file)
        folder, name = there.path.rsplit("/", 1)
        stem = name.removesuffix(".wav")
        forms = [
            f"{stem} (1)",
            f"{stem} - Copy",
            stem.replace(" ", "_"),
            stem.lower(),
            f"{stem} final",
            self._name(),
            stem.replace("e", "é", 1),
        ]
        self._put(replace(there, path=f"{folder}/{self.random.choice(forms)}.wav"))

    def _namesake(self, file: File) -> None:
        """Another recording of the same name, from time to time of the same size."""
        self._lose(file)
        name = file.path.rsplit("/", 1)[1].removesuffix(".wav")
        other = self._fresh(self._folder(), name + self.random.choice(["", "", " (1)"]))
        self._put(replace(other, size=file.size) if self.random.random() < 0.15 else other)

    def _edited(self, file: File) -> None:
        """Only a later version is there, in a folder of the same name; from time to time it is as long as before."""
        self._lose(file)
        self.contents += 1
        size = file.size if self.random.random() < 0.4 else file.size + self.random.randrange(1000)
        later = file.modified_ns + self.random.randrange(1000, 10**7) * SECOND_NS
        self._put(replace(self._elsewhere(file), size=size, modified_ns=later, content=self.contents))

    def _takes(self, _: File) -> None:
        """Numbered takes of one length, recorded one after the other. Some are there and some are gone."""
        folder, goal = self._folder(), self._folder()
        name, start = self._name().split(" take")[0], self._moment()
        length, form = self.random.choice([None, 2_880_044]), self.random.choice(["{} {:02d}", "{} ({})"])
        for number in range(1, self.random.randint(3, 6)):
            made = self._fresh(folder, form.format(name, number))
            take = replace(made, size=length or made.size, modified_ns=start + number * 60 * SECOND_NS)
            take = replace(take, duration_s=take.size / 192_000)
            if self.random.random() < 0.7:
                self._lose(take)
            if self.random.random() < 0.7:
                self._put(replace(take, path=take.path.replace(folder, goal)))

    def _cut_short(self, file: File) -> None:
        self._lose(file)
        self.contents += 1
        size = self.random.randrange(file.size)
        self._put(replace(self._elsewhere(file), size=size, content=self.contents, duration_s=size / 192_000))

    def _exchanged(self, file: File) -> None:
        """Two files have exchanged their names, in one folder; from time to time they are of one size."""
        other = self._fresh(file.path.rsplit("/", 1)[0])
        if self.random.random() < 0.3:
            other = replace(other, size=file.size, duration_s=file.duration_s)
        folder = self._folder()
        for mine, theirs in ((file, other), (other, file)):
            self._lose(mine)
            self._put(replace(theirs, path=f"{folder}/{mine.path.rsplit('/', 1)[1]}"))

    def _converted(self, file: File) -> None:
        self._lose(file)
        self.contents += 1
        there = self._elsewhere(file)
        self._put(
            replace(there, path=there.path.replace(".wav", ".flac"), size=file.size * 6 // 10, content=self.contents)
        )

    def _gone(self, file: File) -> None:
        self._lose(file)

    def _copied(self, file: File) -> None:
        """The same file twice: either is right."""
        self._lose(file)
        self._put(self._elsewhere(file))
        self._put(self._elsewhere(file))

    def content_of(self, path: MachinePath, method: str) -> str:
        """What a look into the file tells."""
        return f"{method}:{self.files[str(path)].content}"

    def media_of(self, path: MachinePath) -> MediaFacts:
        """The same for its length."""
        return MediaFacts(duration_s=self.files[str(path)].duration_s)

    def matcher(self) -> Matcher:
        """A matcher that has seen every file."""
        matcher = Matcher(self.lost)
        for file in self.files.values():
            matcher.see(machine_path(file.path), file.size, file.modified_ns)
        return matcher


def machine_path(text: str) -> MachinePath:
    """A path of a made-up computer."""
    return MachinePath(System.LINUX, "/", tuple(text.strip("/").split("/")))


def fitted(worlds: list[World]) -> dict[str, float]:
    """The weights under which what is true is likeliest: a conditional logit with a small ridge."""
    names = list(Clue)
    cases: list[tuple[np.ndarray, int]] = []
    for world in worlds:
        matcher = world.matcher()
        for lost, truth in zip(world.lost, world.truth, strict=True):
            rows, right = [np.zeros(len(names) + 1)], 0
            by_content: set[int] = set()
            for here in matcher._possible(lost):
                content = world.files[str(here.path)].content
                if content in by_content:
                    continue
                by_content.add(content)
                clues = clues_of(lost, here, world.content_of, world.media_of)
                rows.append(np.array([1.0, *(each in clues for each in names)]))
                right = len(rows) - 1 if content == truth else right
            cases.append((np.array(rows), right))

    def loss(weight: np.ndarray) -> tuple[float, np.ndarray]:
        total, slope = 0.05 * float(weight @ weight), 0.1 * weight
        for rows, right in cases:
            scores = rows @ weight
            chances = np.exp(scores - scores.max())
            chances /= chances.sum()
            total -= float(np.log(chances[right] + 1e-300))
            slope = slope + chances @ rows - rows[right]
        return total, slope

    found = minimize(loss, np.zeros(len(names) + 1), jac=True, method="L-BFGS-B").x
    return {"NOTHING_SAID": round(float(found[0]), 2)} | {
        each.name: round(float(value), 2) for each, value in zip(names, found[1:], strict=True)
    }


def outcomes(worlds: list[World]) -> Iterator[tuple[float, bool, bool]]:
    """For each lost file: the best confidence, whether that candidate is right, and whether any right one is there."""
    for world in worlds:
        there = {file.content for file in world.files.values()}
        for each, truth in zip(world.matcher().match(world.content_of, world.media_of, 0.0), world.truth, strict=True):
            if each.choice is None:
                yield 0.0, False, truth in there
            else:
                yield each.choice.confidence, world.files[str(each.choice.path)].content == truth, truth in there


def _accepted(world: World) -> Iterator[bool]:
    for each, truth in zip(world.matcher().match(world.content_of, world.media_of), world.truth, strict=True):
        if each.choice is not None:
            yield world.files[str(each.choice.path)].content == truth


def large(lost_files: int, files: int) -> None:
    """Match files of a large library that were renamed and went to other folders."""
    random.seed(7)
    paths = [f"/old/Reel {number // 100:05d}/Take {number:06d}.wav" for number in range(lost_files)]
    sizes = [random.randrange(10**4, 10**7) for _ in paths]
    dates = [random.randrange(10**18, 2 * 10**18) for _ in paths]
    start = time.perf_counter()
    known = zip(paths, sizes, dates, strict=True)
    matcher = Matcher(Lost(machine_path(path), size, modified_ns=date) for path, size, date in known)
    for number, (size, date) in enumerate(zip(sizes, dates, strict=True)):
        matcher.see(machine_path(f"/mnt/box/Kept {number % 977}/Take {number:06d} of it.wav"), size, date)
    for number in range(files - lost_files):
        matcher.see(machine_path(f"/mnt/box/Else {number // 1000}/x{number % 77_777}.wav"), 10**7 + number, 10**18)
    matched = matcher.match(lambda *_: "", lambda _: NOTHING_TOLD)
    seconds = time.perf_counter() - start
    chosen = [(number, each.choice) for number, each in enumerate(matched) if each.choice is not None]
    wrong = sum(f"Take {number:06d} " not in choice.path.name for number, choice in chosen)
    print(f"{lost_files:>8,} lost among {files:>9,}: {seconds:6.1f} s, {len(chosen):,} matched, {wrong} of them wrong")


def main() -> None:
    """Print the tables."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--cases", type=int, default=10_000)
    parser.add_argument("--fit", action="store_true")
    parser.add_argument("--large", nargs=2, type=int, metavar=("LOST", "FILES"), help="match so many among so many")
    args = parser.parse_args()
    if args.large:
        gc.set_threshold(50_000, 20, 100)  # as the program does
        large(*args.large)
        return
    if args.fit:
        found = fitted([World(1_000_000 + seed) for seed in range(250)])
        weights.NOTHING_SAID = found.pop("NOTHING_SAID")
        print("NOTHING_SAID =", weights.NOTHING_SAID)
        for name, value in found.items():
            print(f"    Clue.{name}: {value},")
            weights.WEIGHTS[Clue[name]] = value
    count = args.cases // PER_WORLD
    results = list(outcomes([World(seed) for seed in range(count)]))
    present = sum(there for _, _, there in results)
    print(f"{len(results):,} lost files, {present:,} of them there")
    print("from confidence   matched   wrong   precision   recall")
    for limit in (0.5, 0.8, 0.9, 0.95, ACCEPTED, 0.99, 0.995):
        taken = [right for confidence, right, _ in results if confidence >= limit]
        precision = sum(taken) / max(1, len(taken))
        print(f"{limit:15.3f} {len(taken):9,} {taken.count(False):7,} {precision:11.4f} {sum(taken) / present:8.3f}")
    accepted = [right for seed in range(count) for right in _accepted(World(seed))]
    print(f"accepted unasked: {len(accepted):,}, {accepted.count(False):,} of them wrong")
    print("confidence      matched   right of them")
    edges = [0.01, 0.1, 0.3, 0.5, 0.7, 0.9, 0.95, 0.98, 1.01]
    for low, high in pairwise(edges):
        inside = [right for confidence, right, _ in results if low <= confidence < high]
        print(f"{low:.2f} to {min(high, 1):.2f} {len(inside):9,} {sum(inside) / max(1, len(inside)):11.3f}")


if __name__ == "__main__":
    main()
