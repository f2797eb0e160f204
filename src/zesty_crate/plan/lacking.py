"""What another computer has already, as it is: of two that are both in use, only what one lacks need be carried."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

from ..crate import Crate
from ..guides import Guide
from ..machines import Computer, Disk, FileFacts, Finder, Sheet, computer_of, read_sheet
from ..machines.moments import SAME_MOMENT_NS
from ..machines.texts import stored
from ..paths import MachinePath, RouteMap
from ..survey import SurveyStore
from .propose import propose_routes

_MEDIA = "kind = 'file' AND path NOT IN (SELECT path FROM document)"
_SAME = "SELECT 1 FROM file WHERE key = ? AND kind = 'file' AND size = ? AND abs(modified_ns - ?) <= ? LIMIT 1"

Has = Callable[[MachinePath, FileFacts], bool]


def files_there(survey: SurveyStore, old_sheet: Sheet, guides: list[Guide], other: Path, disk: Disk) -> Iterator[int]:
    """The surveyed files, by their numbers, that another computer has in their places with the same size and date.

    ``other`` is its sheet, or a crate of it. Catalogs and other documents are never among them: they hold work.
    """
    old = computer_of(old_sheet)
    crate = Crate(other)
    if disk.facts(crate.survey_path) is None:
        sheet = read_sheet(other, disk)
        yield from _alike(survey, old, old_sheet, guides, sheet, _on_disk(Finder(computer_of(sheet), disk)))
        return
    with closing(crate.open_survey(disk)) as store:
        sheet = crate.old_sheet(disk, store)
        yield from _alike(survey, old, old_sheet, guides, sheet, _in_survey(store, computer_of(sheet)))


def _alike(
    survey: SurveyStore, old: Computer, old_sheet: Sheet, guides: list[Guide], sheet: Sheet, has: Has
) -> Iterator[int]:
    proposed = propose_routes(guides, old, old_sheet, computer_of(sheet), sheet)
    routes = RouteMap(proposed, old.rules_for)
    for row in survey.files(_MEDIA):
        place = routes.translate(old.parse(row.path))
        if place is not None and has(place, row.facts):
            yield row.id


def _on_disk(finder: Finder) -> Has:
    def has(place: MachinePath, facts: FileFacts) -> bool:
        found = finder.find(place).facts
        return (
            found is not None
            and found.is_file
            and found.size_bytes == facts.size_bytes
            and abs(found.modified_ns - facts.modified_ns) <= SAME_MOMENT_NS
        )

    return has


def _in_survey(store: SurveyStore, computer: Computer) -> Has:
    def has(place: MachinePath, facts: FileFacts) -> bool:
        wanted = (stored(computer.key(place)), facts.size_bytes, facts.modified_ns, SAME_MOMENT_NS)
        return store.database.execute(_SAME, wanted).get is not None

    return has
