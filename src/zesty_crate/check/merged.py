"""Merged catalogs in a check: carried records under the keys that they had, and what they must still say."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from ..guides import HoldingPart
from ..machines.texts import restored, stored
from ..plan import Arrangement, MergeRecord, Move
from ..survey import OF_DOCUMENT, Document, SurveyStore, bounds_of
from .model import Organisation


def _of(alias: str, column: str) -> str:
    """`OF_DOCUMENT` where several tables have a holding."""
    return f"{alias}.{OF_DOCUMENT.format(f'{alias}.{column}')}"


_KEYED = (("entry", "key"), ("annotation", "entry"), ("member", "entry"), ("belongs", "entry"), ("spot_check", "entry"))
_BY_PATH = f"SELECT key, path_key FROM entry WHERE {OF_DOCUMENT.format('key')}"
_OLD_BY_PATH = f"SELECT key, path FROM entry WHERE {OF_DOCUMENT.format('key')}"
_GROUPED = (("grp", "key"), ("grp", "parent"), ("member", "grp"))
_LOST_GROUPS = f"""
SELECT g.key, g.name FROM old.grp AS g WHERE {_of("g", "key")}
AND NOT EXISTS (SELECT 1 FROM main.grp AS n WHERE n.holding = g.holding AND n.key = g.key)
"""
_LOST_MEMBERS = f"""
SELECT m.grp, m.entry, g.name FROM old.member AS m JOIN old.grp AS g ON g.holding = m.holding AND g.key = m.grp
WHERE {_of("m", "grp")} AND EXISTS (
    SELECT 1 FROM old.entry AS e WHERE e.holding = m.holding AND e.key = m.entry)
AND NOT EXISTS (
    SELECT 1 FROM main.member AS n WHERE n.holding = m.holding AND n.grp = m.grp AND n.entry = m.entry)
"""
_CHANGED = f"""
SELECT a.entry, a.name, a.value, n.value, e.recorded FROM old.annotation AS a
JOIN old.entry AS e ON e.holding = a.holding AND e.key = a.entry
LEFT JOIN main.annotation AS n ON n.holding = a.holding AND n.entry = a.entry AND n.name = a.name
WHERE {_of("a", "entry")} AND a.value IS NOT n.value
"""


def there_prefix(document: Document) -> str:
    """What the keys of records begin with that were on the new computer already: no carried one has such a key."""
    return f"there {document.id}:"


def rename_keys(store: SurveyStore, document: Document, record: MergeRecord) -> None:
    """Have the records of a merged catalog under the keys of the carried ones; all others are those that were there."""
    store.flush()
    prefix = document.prefix
    for tables, keys in ((_KEYED, record.keys.entries), (_GROUPED, record.keys.groups)):
        _rename(store, document, tables, {f"{prefix}{new}": f"{prefix}{old}" for old, new in keys.items()})


def keep_keys(store: SurveyStore, document: Document, part: HoldingPart, move: Move, arrangement: Arrangement) -> None:
    """Have the entries of a relinked catalog under the keys that they had, where a key is the path itself."""
    if not any(set(each.key_selectors) & {piece.at for piece in each.path} for each in part.entries):
        return
    store.flush()
    now = {path_key: key for key, path_key in store.database.execute(_BY_PATH, bounds_of(document))}
    keys = dict[str, str]()
    for key, path in move.survey.database.execute(_OLD_BY_PATH, bounds_of(document)):
        place = arrangement.routes.translate(move.old.parse(restored(path))) if path else None
        if place is not None and (new := now.get(stored(move.new.key(place)))) is not None:
            keys[new] = key
    _rename(store, document, _KEYED, keys, others="")


def _rename(
    store: SurveyStore,
    document: Document,
    tables: tuple[tuple[str, str], ...],
    keys: Mapping[str, str],
    others: str | None = None,
) -> None:
    database, there = store.database, there_prefix(document) if others is None else others
    database.execute("CREATE TEMP TABLE keymap (new TEXT PRIMARY KEY, old TEXT) WITHOUT ROWID")
    database.executemany("INSERT INTO keymap VALUES (?, ?)", keys.items())
    for table, column in tables:
        bounds = OF_DOCUMENT.format(column)
        database.execute(
            f"UPDATE {table} SET {column} = coalesce((SELECT old FROM keymap WHERE new = {column}), ?4 || {column}) "
            f"WHERE {bounds} AND {column} <> '' AND {column} NOT LIKE 'there %:%'",
            (*bounds_of(document), there),
        )
    database.execute("DROP TABLE keymap")


def merged_organisation(
    store: SurveyStore, document: Document, title: str, record: MergeRecord, new_entries: int
) -> Organisation:
    """Whether a merged catalog still has all groups, members and annotations that came, but for what was decided."""
    differences = tuple(_differences(store, document, record))
    before = f"{len(record.keys.entries)} entries, {len(record.keys.groups)} groups carried"
    return Organisation(
        document.holding, title, document.path, before, "" if differences else before, new_entries, differences
    )


def _differences(store: SurveyStore, document: Document, record: MergeRecord) -> Iterator[str]:
    bounds, cut = bounds_of(document), len(document.prefix)
    for key, name in store.database.execute(_LOST_GROUPS, bounds):
        if key[cut:] in record.keys.groups:
            yield f"the group {restored(name)} is not there"
    for key, entry, name in store.database.execute(_LOST_MEMBERS, bounds):
        if key[cut:] in record.keys.groups and entry[cut:] in record.keys.entries:
            yield f"the group {restored(name)} lacks an entry that came: {entry}"
    for entry, name, value, now, recorded in store.database.execute(_CHANGED, bounds):
        if entry[cut:] in record.keys.entries and (entry[cut:], name) not in record.keys.stays:
            yield f"{name} of {restored(recorded)} was {_shown(value)}, and is {_shown(now)}"


def _shown(value: object) -> str:
    return "nothing" if value in (None, "") else repr(value)
