"""Judge the survey of a packed crate anew by corrected guides, without the old computer and without packing twice.

The new records are made in a folder of their own, whole, and then take the place of the old ones; when that is broken
off, the next run goes on with it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import closing
from pathlib import Path
from typing import Any

from ..errors import ZestyError
from ..guides import Guide, holdings_on
from ..machines import Computer, Disk, Outside, Sheet, computer_of, make_folders, one_at_a_time, working_folder
from ..machines.texts import stored
from ..progress import Tell
from ..survey import SurveyReport, SurveyStore, judge_again, summarize, written
from .contents import Contents, find_contents
from .crate import ANEW, Crate, open_finished, write_tag_manifest

# What of a holding says how a document is read; all else says what is carried.
_READING = frozenset(
    "syntax inside encoding comment delimiter namespaces carry anywhere includes relative_to records escapes entries "  # noqa: SIM905
    "groups attached lookups references counters may_have_none title warning registers".split()
)
_CARRIED = "SELECT c.payload, c.bag FROM carried AS c JOIN file AS f ON f.id = c.file WHERE f.key = ? LIMIT 1"
_MAKING = "anew.part"


def judge_anew(
    root: Path, guides: Sequence[Guide], parts: Sequence[Path], outside: Outside, tell: Tell
) -> tuple[SurveyReport, tuple[str, ...]]:
    """Judge anew by those of the ``guides`` that the crate has with another text; the report, and their ids.

    Raises `ZestyError` where there is none, or where one would have other files carried.
    """
    disk, crate = outside.disk, Crate(root)
    with one_at_a_time(crate.lock_path, str(root), "zesty survey", outside):
        was_broken_off = _put_in_place(crate, disk)
        open_finished(root, disk)
        before = {each.id: each for each in crate.guides(disk)}
        corrected = [each for each in guides if each.id in before and before[each.id].text != each.text]
        if not corrected and not was_broken_off:
            raise ZestyError(
                f"{root} is packed, and none of its guides has another text now.",
                next_step=f"Name the folder of the corrected guides with --guides. Its guides are {', '.join(before)}.",
            )
        for each in corrected:
            _require_same_files(before[each.id], each)
        if corrected:
            _make(crate, [before[each] for each in before], corrected, parts, disk, tell)
            _put_in_place(crate, disk)
    with closing(crate.open_survey(disk)) as store:
        return summarize(store), tuple(each.id for each in corrected)


def _make(
    crate: Crate,
    before: Sequence[Guide],
    corrected: Sequence[Guide],
    parts: Sequence[Path],
    disk: Disk,
    tell: Tell,
) -> None:
    """Make the new records in a folder of their own."""
    making, ids = crate.own / _MAKING, {each.id for each in corrected}
    _remove(making, disk)
    make_folders(disk, making / "guides")
    facts = disk.facts(crate.survey_path)
    if facts is not None:
        disk.copy(crate.survey_path, making / "survey.db", facts)
    for each in corrected:
        disk.write_text(making / "guides" / f"{each.id}.toml", each.text)
    now = [*(guide for guide in before if guide.id not in ids), *corrected]
    with written(SurveyStore.open(making / "survey.db", writable=True)) as store:
        sheet, contents = crate.old_sheet(disk, store), find_contents(crate, store, disk, parts)
        store.database.execute("BEGIN")
        with working_folder(disk, crate.own / "scratch") as scratch:
            _judge(store, now, ids, sheet, contents, disk, scratch, tell)
    disk.flush(making / "survey.db")
    disk.rename(making, crate.own / ANEW)


def _judge(
    store: SurveyStore,
    guides: Sequence[Guide],
    corrected: set[str],
    sheet: Sheet,
    contents: Contents,
    disk: Disk,
    scratch: Path,
    tell: Tell,
) -> None:
    old = computer_of(sheet)
    holdings = [each for guide in guides for each in holdings_on(guide, old, sheet)]
    changed = {each.id: each for each in holdings if each.guide.id in corrected}

    def content_of(holding: str, path: str) -> Path | None:
        if changed[holding].part.branch:
            export = contents.crate.export_path(holding)
            return export if disk.facts(export) is not None else None
        return _content(store, old, contents, path, disk, scratch)

    with working_folder(disk, scratch / "reading") as reading:
        judge_again(store, old, holdings, changed, content_of, disk, reading, tell)


def _content(
    store: SurveyStore, old: Computer, contents: Contents, path: str, disk: Disk, scratch: Path
) -> Path | None:
    """Where the carried content of a document is; put together of its segments where it was cut."""
    row = next(iter(store.database.execute(_CARRIED, (stored(old.key(old.parse(path))),))), None)
    if row is None:
        return None
    payload, bag = str(row[0]), int(row[1])
    if bag:
        return contents.file_of(f"{bag}:{payload}") if bag in contents.roots else None
    file = next(store.files("key = ?", (stored(old.key(old.parse(path))),)))
    whole = scratch / "whole" / str(file.id)
    make_folders(disk, whole.parent)
    disk.join(contents.files_of(f"{bag}:{payload}"), whole, file.facts)
    return whole


def _require_same_files(before: Guide, after: Guide) -> None:
    """Raise `ZestyError` where a guide says otherwise than before what is carried."""
    old, new = dict(_carrying(before)), dict(_carrying(after))
    if old != new:
        names = sorted(name for name in {*old, *new} if old.get(name) != new.get(name))
        raise ZestyError(
            f"The guide {after.id} says otherwise than before which files are carried ({', '.join(names)}), and they "
            "are packed already.",
            next_step="Take a new survey of the old computer, or change only how documents are read.",
        )


def _carrying(guide: Guide) -> Iterator[tuple[str, Any]]:
    """What of a guide decides which files are carried, by what a person calls it."""
    yield "places", guide.part.places
    yield "installer", guide.part.program.installer if guide.part.program else None
    for each in guide.part.holding:
        yield (
            f"the holding {each.id}",
            {name: getattr(each, name) for name in type(each).model_fields if name not in _READING},
        )


def _put_in_place(crate: Crate, disk: Disk) -> bool:
    """Have new records that are whole in the place of the old ones, step by step; whether there were any."""
    anew = crate.own / ANEW
    if disk.facts(anew) is None:
        return False
    for name in disk.names(anew / "guides") if disk.facts(anew / "guides") is not None else ():
        disk.write_text(crate.guides_folder / name, disk.read_text(anew / "guides" / name))
    facts, beside = disk.facts(anew / "survey.db"), crate.own / "survey.db.part"
    if facts is not None:
        disk.remove(beside)
        disk.copy(anew / "survey.db", beside, facts)
        disk.rename(beside, crate.survey_path)
    write_tag_manifest(crate, disk)
    _remove(anew, disk)
    return True


def _remove(folder: Path, disk: Disk) -> None:
    """Remove a folder of ours with all in it."""
    for inner in (folder / "guides", folder):
        if disk.facts(inner) is not None:
            for name in disk.names(inner):
                disk.remove(inner / name)
            disk.remove_folder(inner)
