"""``zesty guide draft``"""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import Path
from time import monotonic
from typing import TYPE_CHECKING

from .draft_screen import show_draft
from .json_text import fields_of
from .status import Status
from .terminal import Terminal
from .wording import show_not_looked_at

if TYPE_CHECKING:
    from ..drafting import Draft
    from ..machines import Outside


def add_draft_options(parser: argparse.ArgumentParser) -> None:
    """What only drafts have."""
    parser.add_argument(
        "--look-in",
        metavar="PATH",
        action="append",
        default=[],
        help="draft: a folder, a document or a branch of the registry, as that computer writes it; may be repeated",
    )
    parser.add_argument(
        "--not-covered",
        action="store_true",
        help="draft: every folder with documents that name files and that no guide covers; one guide each, into the "
        "folder of -o",
    )
    parser.add_argument(
        "-o", "--output", metavar="FILE", type=Path, help="draft: write the guide there; otherwise it is printed"
    )
    parser.add_argument(
        "--limit-time", metavar="MINUTES", type=float, help="draft: look at no more documents after so many minutes"
    )


def draft(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Write guides for places of a computer."""
    from ..drafting import drafter, places_not_covered
    from ..guide_trials import known_guides
    from ..machines import Outside, read_sheet

    _require_whole(args)
    outside = Outside()
    sheet = read_sheet(args.at, outside.disk)
    known = [guide for each, guide in known_guides(args.guides, outside.disk) if not each.hidden_by]
    with terminal.progress() as tell, drafter(sheet, outside, _aside(), tell, known) as made:
        places = [args.look_in] if args.look_in else list(places_not_covered(made, outside, _aside()))
        begun = monotonic()

        def minutes_left() -> float | None:
            return None if args.limit_time is None else max(0.0, args.limit_time - (monotonic() - begun) / 60)

        drafts = [made.draft(each, minutes_left(), only_unknown=args.not_covered) for each in places]
        unseen = made.not_looked_at(args.look_in)
    if args.not_covered:
        drafts = list(_with_own_ids(each for each in drafts if each.entries or each.unexplained or each.stopped))
    written = [(each, _kept(each, args, outside)) for each in drafts]
    if terminal.json:
        terminal.document({"drafts": [fields_of(each) for each in drafts], "not-looked-at": unseen})
    else:
        for each, path in written:
            show_draft(each, path, str(args.at), terminal)
        if not drafts:
            terminal.tell(
                "Nothing was found that records paths and that no guide covers: there is nothing to draft. "
                "Of very many files of one ending only some were read."
            )
        show_not_looked_at(terminal, unseen, {})
    if not any(each.text for each in drafts):
        return Status.REFUSED
    is_well = not unseen and all(each.tries_well and not each.unexplained and not each.stopped for each in drafts)
    return Status.DONE if is_well else Status.ATTENTION


def _require_whole(args: argparse.Namespace) -> None:
    from ..errors import ZestyError

    if args.at is None or bool(args.look_in) == args.not_covered:
        args.wrong("zesty guide draft needs --at SHEET, and either --look-in PATH or --not-covered")
    if args.guide:
        args.wrong("zesty guide draft takes no guide: name places with --look-in PATH")
    if args.not_covered and args.output is None:
        args.wrong("zesty guide draft --not-covered needs -o FOLDER for the guides")
    if args.output is not None and args.output.exists():
        raise ZestyError(f"{args.output} is there already.", next_step="Name a file that is not there yet.")


def _with_own_ids(drafts: Iterable[Draft]) -> Iterator[Draft]:
    """Guides of different ids, since they go into one folder."""
    taken: Counter[str] = Counter()
    for each in drafts:
        taken[each.id] += 1
        number = taken[each.id]
        yield each if number == 1 else each.renamed(f"{each.id}-{number}")


def _kept(made: Draft, args: argparse.Namespace, outside: Outside) -> Path | None:
    """Where a draft was written; None where it is printed."""
    if args.output is None or not made.text:
        return None
    path: Path = args.output
    if args.not_covered:
        outside.disk.make_folder(path) if not path.exists() else None
        path = path / f"{made.id}.toml"
    outside.disk.write_text(path, made.text)
    return path


def _aside() -> Path:
    import platformdirs

    return platformdirs.user_cache_path("zesty-crate")
