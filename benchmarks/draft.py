"""Drafting guides for programs drawn at random: how many of their paths a draft finds, unedited, and what it takes.

python -m benchmarks.draft [--programs 200] [--first 0] [--show]

Shapes, names and contents are drawn (`drawn_programs.py`). A draft is good when its guide finds 95 % of the recorded
paths that exist, and nothing else.
"""

from __future__ import annotations

import argparse
import resource
import shutil
import tempfile
import time
from collections import Counter
from pathlib import Path

from zesty_crate.check import survey_aside
from zesty_crate.documents import parse_document
from zesty_crate.drafting import draft_guide
from zesty_crate.guides import Guide, WholeGuide
from zesty_crate.machines import Outside, read_sheet
from zesty_crate.machines.texts import restored

from .drawn_programs import Maker, Program


def found_by(text: str, program: Program, work: Path) -> set[str]:
    """The files that a guide's entries find."""
    outside = Outside()
    guide = Guide(parse_document(text, WholeGuide, "The draft"), text)
    sheet = read_sheet(program.sheet, outside.disk)
    with survey_aside(sheet, [guide], outside, work, before=True, may_be_empty=True) as store:
        query = "SELECT path FROM entry WHERE state IN ('found', 'outside', 'changed')"
        return {restored(path) for (path,) in store.database.execute(query)}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--programs", type=int, default=200)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--show", action="store_true", help="show every draft that is not good")
    args = parser.parse_args()
    good, seconds, bad = 0, 0.0, Counter[str]()
    for seed in range(args.first, args.first + args.programs):
        root = Path(tempfile.mkdtemp())
        try:
            program = Maker(root / "computer", seed).made()
            begun = time.perf_counter()
            outside = Outside()
            draft = draft_guide(read_sheet(program.sheet, outside.disk), [program.look_in], outside, root / "work")
            seconds += time.perf_counter() - begun
            found = found_by(draft.text, program, root / "work") if draft.text else set()
            share, wrong = len(found & program.truth) / len(program.truth), len(found - program.truth)
            is_good = share >= 0.95 and not wrong and not draft.mistakes
            good += is_good
            if not is_good:
                bad[program.shape] += 1
                print(f"{seed}: {program.shape}: {share:.0%} found, {wrong} wrong, {len(draft.mistakes)} mistakes")
                if args.show:
                    print(draft.text, *draft.mistakes, *draft.unexplained, sep="\n")
        except Exception as error:  # noqa: BLE001  a crash is a draft that is not good
            print(f"{seed}: {type(error).__name__}: {error}")
        finally:
            shutil.rmtree(root)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    share, each = good / args.programs, seconds / args.programs
    print(f"{good} of {args.programs} drafts are good ({share:.1%}); {each:.2f} s each, {peak} MB")


if __name__ == "__main__":
    main()
