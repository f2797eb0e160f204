"""The reverse of a check: media that no catalog knows, registrations without content."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ..guides import Guide, SiblingPart
from ..machines.texts import restored, stored
from ..plan import Move
from ..survey import EntryRow, State, SurveyStore, beside_pattern
from .model import UnknownMedia, WithoutContent

_UNKNOWN = """
SELECT f.holding, f.path, f.key FROM unnamed AS u JOIN file AS f ON f.id = u.file ORDER BY f.holding, f.path
"""
_KNOWN_INSIDE = "SELECT path FROM entry WHERE path_key >= ?1 || '/' AND path_key < ?1 || '0'"
_REGISTRATIONS = f"""
holding IN (SELECT id FROM holding WHERE kind = 'registrations')
AND state IN ('{State.MISSING}', '{State.MISSING_BEFORE}')
"""


def media_without_entry(store: SurveyStore, guides: Sequence[Guide]) -> Iterator[UnknownMedia]:
    """Media that no catalog knows, on one computer."""
    patterns = _patterns(guides)
    for holding, path, key in store.database.execute(_UNKNOWN):
        if not _belongs_beside(store, restored(path), restored(key), patterns):
            yield UnknownMedia(holding, restored(path), before=False)


def unknown_media(store: SurveyStore, move: Move) -> Iterator[UnknownMedia]:
    """Media of the new computer that no catalog knows, and whether none did on the old one."""
    before = {row[2] for row in move.survey.database.execute(_UNKNOWN)}
    query = "SELECT x.old_key FROM file AS f JOIN expected AS x ON x.key = f.key WHERE f.path = ? LIMIT 1"
    for each in media_without_entry(store, move.guides):
        old_key = store.database.execute(query, (stored(each.at),)).get if before else None
        yield UnknownMedia(each.holding, each.at, before=old_key in before)


def registrations_without_content(store: SurveyStore, move: Move | None = None) -> Iterator[WithoutContent]:
    """Registrations whose content is not there, and of a move, whether it was not there before."""
    for row in store.entries(_REGISTRATIONS):
        before = move.survey.entry(row.holding, row.key) if move else None
        gone = row.state is State.MISSING_BEFORE or (before is not None and before.state is State.MISSING_BEFORE)
        yield WithoutContent(row.holding, _name_of(row), row.path or row.recorded, gone)


def _name_of(row: EntryRow) -> str:
    return row.name or row.recorded


def _patterns(guides: Sequence[Guide]) -> tuple[SiblingPart, ...]:
    """The patterns of names that belong beside media."""
    parts = (part for guide in guides for holding in guide.part.holding for part in holding.entries)
    return tuple({pattern: None for part in parts for pattern in part.beside})


def _belongs_beside(store: SurveyStore, path: str, key: str, patterns: tuple[SiblingPart, ...]) -> bool:
    """Whether a file belongs beside one that an entry knows."""
    if not patterns:
        return False
    known = store.database.execute(_KNOWN_INSIDE, (key.rpartition("/")[0],))
    names = (_last(restored(row[0])) for row in known)
    return any(beside_pattern(each, patterns).fullmatch(_last(path)) for each in names)


def _last(path: str) -> str:
    return path.replace("\\", "/").rpartition("/")[2]
