"""What of a survey is carried: everything, or what a person chose; and what is left is written down with its reason."""

from __future__ import annotations

import difflib
from collections.abc import Iterator
from dataclasses import asdict, dataclass

from ..errors import ZestyError
from ..guides import Guide
from ..machines import Computer
from ..machines.texts import restored, stored
from ..paths import PathError
from ..survey import SurveyStore, leave

USUAL_CLASSES = ("original", "proxy")
TRAVELS = "its drive travels to the new computer"
_CARRIED = "kind IN ('file', 'folder', 'link') AND role IN ('own', 'outside', 'cache')"


@dataclass(frozen=True, slots=True)
class Scope:
    """What of the survey is carried.

    ``outside``: also media that catalogs point to outside the programs' folders. ``only`` (programs or holdings by
    their ids), ``folders`` and ``groups`` choose; together they add up, and nothing chosen is everything. Of that,
    media of other ``classes`` is left, all media with ``metadata_only``, and what is machine-bound with
    ``leave_machine_settings``. Folders that no holding covers and that ``leave`` names, each with a reason, stay.
    """

    outside: bool = False
    only: tuple[str, ...] = ()
    folders: tuple[str, ...] = ()
    groups: tuple[str, ...] = ()
    classes: tuple[str, ...] = USUAL_CLASSES
    metadata_only: bool = False
    leave_machine_settings: bool = False
    leave: tuple[str, ...] = ()

    @property
    def condition(self) -> str:
        """The scope as a condition on the survey's files, once `choose` has written down what is left out."""
        return f"{_CARRIED} AND id NOT IN (SELECT file FROM left_out)"

    def as_document(self) -> dict[str, object]:
        """The scope as the crate keeps it."""
        return {name.replace("_", "-"): list(v) if isinstance(v, tuple) else v for name, v in asdict(self).items()}

    def difference(self, begun: dict[str, object]) -> str:
        """The first choice in which a scope differs from one that was begun with; empty when they are the same."""
        mine = self.as_document()
        return next((f"--{name}" for name in mine if mine[name] != begun.get(name)), "")


def choose(survey: SurveyStore, computer: Computer, guides: list[Guide], scope: Scope) -> None:
    """Write down everything that this scope leaves out, each with the reason.

    Raises `ZestyError` for a choice that the survey does not know, with what comes near.
    """
    chooser = _Chooser(survey, computer, guides)
    leave(survey, computer, scope.leave)
    survey.database.execute("DELETE FROM left_out")
    chooser.leave_out(chooser.on_travelling_drives(), TRAVELS)
    if scope.only or scope.folders or scope.groups:
        chosen = [*chooser.only(scope.only), *chooser.folders(scope.folders), *chooser.groups(scope.groups)]
        chooser.leave_out(f"NOT ({' OR '.join(chosen)})", "it was not selected")
    tied = chooser.tied_to_machine() if scope.leave_machine_settings else []
    chooser.leave_out(_in("holding", tied), "its settings belong to this machine only")
    if scope.metadata_only:
        media = "role = 'outside' OR holding IN (SELECT id FROM holding WHERE kind = 'media')"
        chooser.leave_out(media, "only metadata was selected")
    for name in ("original", "proxy"):
        if name not in scope.classes:
            of_class = f"holding IN (SELECT id FROM holding WHERE kind = 'media' AND {_class_is(name)})"
            chooser.leave_out(f"role = 'own' AND {of_class}", f"its class is {name}")
    if "cache" not in scope.classes:
        chooser.leave_out("role = 'cache'", "its program creates it again")
    if not scope.outside:
        chooser.leave_out("role = 'outside'", "it is outside the programs' folders")


class _Chooser:
    """Turns choices into conditions on the survey's files."""

    def __init__(self, survey: SurveyStore, computer: Computer, guides: list[Guide]) -> None:
        self._survey = survey
        self._computer = computer
        self._guides = guides

    def leave_out(self, condition: str, why: str) -> None:
        """Leave out what meets a condition and is not left out yet."""
        self._survey.database.execute(
            f"INSERT OR IGNORE INTO left_out SELECT id, ? FROM file WHERE {_CARRIED} AND ({condition})", (why,)
        )

    def only(self, names: tuple[str, ...]) -> Iterator[str]:
        """Programs and holdings."""
        holdings = self._survey.holdings()
        for name in names:
            ids = [each.id for each in holdings if name in (each.id, each.guide)]
            if not ids:
                raise _unknown("program or holding", name, [n for each in holdings for n in (each.guide, each.id)])
            yield _in("holding", ids)

    def folders(self, texts: tuple[str, ...]) -> Iterator[str]:
        """Folders of the old computer, with all that is in them."""
        for text in texts:
            try:
                key = self._computer.key(self._computer.parse(text))
            except PathError as error:
                raise ZestyError(error.message, next_step="Name a folder as the old computer writes it.") from error
            condition = _below([key])
            if not self._survey.count(f"SELECT count(*) FROM file WHERE {condition}"):
                raise ZestyError(
                    f"The survey found nothing in {text}.", next_step="See zesty survey CRATE --details ID."
                )
            yield condition

    def groups(self, names: tuple[str, ...]) -> Iterator[str]:
        """Groups of catalogs: the catalog, and the media that the group's entries name, those of groups inside too."""
        for name in names:
            query = "SELECT holding, key FROM grp WHERE name = ?"
            found = [(holding, key) for holding, key in self._survey.database.execute(query, (stored(name),))]
            if not found:
                rows = self._survey.database.execute("SELECT name FROM grp LIMIT 50000")
                raise _unknown("group", name, [restored(row[0]) for row in rows])
            for holding, key in found:
                yield _below(self._media_of(holding, key))
                yield self._catalog_of(holding, key)

    def on_travelling_drives(self) -> str:
        """What is on drives that go along themselves."""
        return _below([self._computer.key(each.anchor) for each in self._computer.volumes if each.travels])

    def tied_to_machine(self) -> list[str]:
        """The holdings whose guide says that they are of no use on another computer."""
        return [f"{guide.id}/{part.id}" for guide in self._guides for part in guide.part.holding if part.machine_bound]

    def _media_of(self, holding: str, group: str) -> list[str]:
        query = """
            WITH RECURSIVE inner(key) AS (
                SELECT ? UNION SELECT g.key FROM grp AS g JOIN inner ON g.parent = inner.key WHERE g.holding = ?)
            SELECT DISTINCT e.path_key FROM inner JOIN member AS m ON m.holding = ? AND m.grp = inner.key
            JOIN entry AS e ON e.holding = m.holding AND e.key = m.entry WHERE e.path_key <> ''"""
        rows = self._survey.database.execute(query, (group, holding, holding))
        return [restored(row[0]) for row in rows]

    def _catalog_of(self, holding: str, group: str) -> str:
        documents = [d for d in self._survey.documents() if d.holding == holding and group.startswith(d.prefix)]
        keys = [self._computer.key(self._computer.parse(document.path)) for document in documents]
        return _in("key", keys)


def _class_is(name: str) -> str:
    """Media without a class of its own counts as original."""
    return f"(class = '{name}' OR class = '')" if name == "original" else f"class = '{name}'"


def _in(column: str, values: list[str]) -> str:
    return f"{column} IN ({', '.join(map(_literal, values))})" if values else "0"


def _below(keys: list[str]) -> str:
    """Files with one of these keys, or in a folder with one of them."""
    if not keys:
        return "0"
    inside = " OR ".join(f"substr(key, 1, {len(key) + 1}) = {_literal(key + '/')}" for key in keys)
    return f"({_in('key', keys)} OR {inside})"


def _literal(text: str) -> str:
    """A text in SQL; a name that is not Unicode as the bytes it is kept as."""
    value = stored(text)
    return f"x'{value.hex()}'" if isinstance(value, bytes) else "'" + value.replace("'", "''") + "'"


def _unknown(what: str, name: str, known: list[str]) -> ZestyError:
    near = difflib.get_close_matches(name, list(dict.fromkeys(known)), n=1)
    few = ", ".join(list(dict.fromkeys(known))[:12]) or "none"
    hint = f'Did you mean "{near[0]}"?' if near else f"There are {few}."
    return ZestyError(f"The survey knows no {what} {name!r}.", next_step=hint)
