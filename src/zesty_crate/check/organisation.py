"""Whether a catalog is organised as before: groups, nesting, order and annotations, by digest and then by name."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator

from ..machines.texts import restored
from ..survey import OF_DOCUMENT, Document, SurveyStore, bounds_of
from .model import Organisation

_GROUPS = f"SELECT key, name, parent FROM {{side}}grp WHERE {OF_DOCUMENT.format('key')}"
_MEMBERS = f"SELECT grp, position, entry FROM {{side}}member WHERE {OF_DOCUMENT.format('grp')}"
# Only of what was carried: what a person adds later is organised as they like.
_ANNOTATIONS = f"""
SELECT entry, name, value FROM {{side}}annotation WHERE {OF_DOCUMENT.format("entry")}
AND EXISTS (SELECT 1 FROM old.entry AS e WHERE e.holding = ?1 AND e.key = annotation.entry)
"""
_NEW_ENTRIES = f"""
SELECT count(*) FROM main.entry AS e WHERE {OF_DOCUMENT.format("key")}
AND NOT EXISTS (SELECT 1 FROM old.entry AS o WHERE o.holding = e.holding AND o.key = e.key)
"""
_MOST_NAMED = 1_000  # differences of each kind; more of them are a catalog of its own


def compare_organisation(store: SurveyStore, document: Document, title: str) -> Organisation:
    """Compare one catalog with itself as it was; the old survey is attached to ``store`` as ``old``."""
    before, now = (_digest(store, document, side) for side in ("old.", "main."))
    differences = () if before == now else tuple(_Differences(store, document).all())
    new = store.count(_NEW_ENTRIES, bounds_of(document))
    return Organisation(document.holding, title, document.path, before, now, new, differences)


def _digest(store: SurveyStore, document: Document, side: str) -> str:
    """SHA-256 over the groups, members and annotations of one side, in an order that does not depend on the catalog."""
    digest = hashlib.sha256()
    for query in (_GROUPS, _MEMBERS, _ANNOTATIONS):
        for row in store.database.execute(f"{query.format(side=side)} ORDER BY 1, 2, 3", bounds_of(document)):
            digest.update(repr(row).encode("utf-8", "surrogatepass"))
        digest.update(b"\0")
    return digest.hexdigest()


class _Differences:
    """Names what is organised otherwise."""

    def __init__(self, store: SurveyStore, document: Document) -> None:
        self._store = store
        self._document = document

    def all(self) -> Iterator[str]:
        """Every difference in words: groups first, then what is in them, then annotations."""
        for key, *_ in self._only(_GROUPS, "old."):
            there = self._group("main.", key)
            became = f"is {self._named('main.', key)} now" if there else "is not there"
            yield f"the group {self._named('old.', key)} {became}"
        was = {row[0] for row in self._only(_GROUPS, "old.")}
        for key, name, _ in self._only(_GROUPS, "main."):
            if key not in was:
                yield f"the group {restored(name)} was not there"
        for group in dict.fromkeys(row[0] for side in ("old.", "main.") for row in self._only(_MEMBERS, side)):
            if self._group("old.", group) and self._group("main.", group):
                yield self._of_members(group)
        changed = {row[:2]: row[2] for row in self._only(_ANNOTATIONS, "main.")}
        for entry, name, value in self._only(_ANNOTATIONS, "old."):
            now: str | None = changed.pop((entry, name), None)
            yield f"{name} of {self._entry(entry)} was {_shown(value)}, and is {_shown(now)}"
        for (entry, name), value in changed.items():
            yield f"{name} of {self._entry(entry)} was nothing, and is {_shown(value)}"

    def _of_members(self, group: str) -> str:
        query = "SELECT entry FROM {}member WHERE holding = ? AND grp = ? ORDER BY position"
        bindings = (self._document.holding, group)
        was, now = (
            [row[0] for row in self._store.database.execute(query.format(side), bindings)] for side in ("old.", "main.")
        )
        name = self._named("old.", group)
        if sorted(was) == sorted(now):
            return f"the order in the group {name} is different"
        gone, new = len(set(was) - set(now)), len(set(now) - set(was))
        return f"the group {name} had {len(was)} entries and now has {len(now)}: {gone} are gone, {new} are new"

    def _only(self, query: str, side: str) -> list[tuple[str, str, str]]:
        """The rows that only one side has."""
        other = "main." if side == "old." else "old."
        both = f"{query.format(side=side)} EXCEPT {query.format(side=other)} LIMIT {_MOST_NAMED}"
        return list(self._store.database.execute(both, bounds_of(self._document)))

    def _group(self, side: str, key: str) -> tuple[str, str] | None:
        query = f"SELECT name, parent FROM {side}grp WHERE holding = ? AND key = ?"
        return next(iter(self._store.database.execute(query, (self._document.holding, key))), None)

    def _named(self, side: str, key: str) -> str:
        """A group with those around it."""
        names, known = [], set()
        while (found := self._group(side, key)) is not None and key not in known:
            known.add(key)
            names.append(restored(found[0]))
            key = found[1]
        return " / ".join(reversed(names))

    def _entry(self, key: str) -> str:
        query = "SELECT name, recorded FROM old.entry WHERE holding = ? AND key = ?"
        row = next(iter(self._store.database.execute(query, (self._document.holding, key))), ("", key))
        return restored(row[0]) or restored(row[1])


def _shown(value: str | bytes | None) -> str:
    return "nothing" if value is None or value == "" else repr(restored(value) if isinstance(value, bytes) else value)
