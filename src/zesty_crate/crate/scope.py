"""What of a survey is carried: everything, or what a person chose; and what is left is written down with its reason."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Iterator
from dataclasses import asdict, dataclass

from ..errors import ZestyError
from ..guides import Guide, HoldingKind
from ..machines import Computer
from ..machines.texts import restored, stored
from ..paths import PathError
from ..survey import PastLinks, State, SurveyStore, followed_links, leave

USUAL_CLASSES = ("original", "proxy")
TRAVELS = "its drive travels to the new computer"
IS_THERE = "the other computer has it as it is"
IS_OUTSIDE = "it is outside the programs' folders"
# Of a group and those in it, bound to its key and twice to its holding.
_INNER = """WITH RECURSIVE inner(key) AS (
    SELECT ? UNION SELECT g.key FROM grp AS g JOIN inner ON g.parent = inner.key WHERE g.holding = ?)"""
_ENTRIES_OF_GROUP = """FROM inner JOIN member AS m ON m.holding = ? AND m.grp = inner.key
    JOIN entry AS e ON e.holding = m.holding AND e.key = m.entry WHERE 1"""
# The files of each holding; a catalog in a folder of media belongs to both.
_OF_HOLDINGS = "SELECT id, holding FROM file UNION ALL SELECT id, holding FROM temp.catalog_file"
_CATALOG_FILES = """CREATE TEMP TABLE IF NOT EXISTS catalog_file AS
    SELECT f.id, d.holding FROM document AS d JOIN file AS f ON f.path = d.path WHERE d.holding <> f.holding"""
_CARRIED = "kind IN ('file', 'folder', 'link') AND role IN ('own', 'outside', 'cache')"


@dataclass(frozen=True, slots=True)
class Scope:
    """What of the survey is carried.

    ``outside``: also media that catalogs point to outside the programs' folders. ``only`` (programs or holdings by
    their ids), ``folders`` and ``groups`` choose; together they add up, and nothing chosen is everything. Of that,
    media of other ``classes`` is left, all media with ``metadata_only``, and what is machine-bound with
    ``leave_machine_settings``. Folders that no holding covers and that ``leave`` names, each with a reason, stay. With
    ``lacking_on``, another computer or a crate of it, what that has as it is stays, too.
    """

    outside: bool = False
    only: tuple[str, ...] = ()
    folders: tuple[str, ...] = ()
    groups: tuple[str, ...] = ()
    classes: tuple[str, ...] = USUAL_CLASSES
    metadata_only: bool = False
    leave_machine_settings: bool = False
    leave: tuple[str, ...] = ()
    lacking_on: str = ""

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


def choose(
    survey: SurveyStore, computer: Computer, guides: list[Guide], scope: Scope, there: Iterable[int] = ()
) -> None:
    """Write down everything that this scope leaves out, each with the reason; ``there`` are files by their numbers that
    the other computer has as they are.

    Raises `ZestyError` for a choice that the survey does not know, with what comes near.
    """
    chooser = _Chooser(survey, computer, guides)
    leave(survey, computer, scope.leave)
    survey.database.execute("DELETE FROM left_out")
    chooser.leave_out(chooser.on_travelling_drives(), TRAVELS)
    grouped, folders = [*chooser.groups(scope.groups)], [*chooser.folders(scope.folders)]
    if scope.only or scope.folders or scope.groups:
        chosen = [*chooser.only(scope.only), *folders, *grouped]
        chooser.leave_out(f"NOT ({' OR '.join(chosen)})", "it was not selected")
    tied = chooser.tied_to_machine() if scope.leave_machine_settings else []
    chooser.leave_out(_in("holding", tied), "its settings belong to this machine only")
    if scope.metadata_only:
        media = "role = 'outside' OR holding IN (SELECT id FROM holding WHERE kind = 'media')"
        documents = "path IN (SELECT path FROM document)"  # lists and projects in a media folder are no media
        chooser.leave_out(f"({media}) AND NOT {documents}", "only metadata was selected")
    for name in ("original", "proxy"):
        if name not in scope.classes:
            of_class = f"holding IN (SELECT id FROM holding WHERE kind = 'media' AND {_class_is(name)})"
            chooser.leave_out(f"role = 'own' AND {of_class}", f"its class is {name}")
    if "cache" not in scope.classes:
        chooser.leave_out("role = 'cache'", "its program creates it again")
    chooser.leave_files(there, IS_THERE)
    survey.set_about("groups-lack", [*chooser.lacking(scope.groups)])
    survey.set_about("chosen-groups", [*chooser.named(scope.groups)])
    if not scope.outside:
        named = [*grouped, *folders]  # a group brings its media from anywhere, and a folder all that is in it
        needed = f" AND NOT ({' OR '.join(named)})" if named else ""
        chooser.leave_out(f"role = 'outside'{needed}", IS_OUTSIDE)


def chosen_holdings(survey: SurveyStore) -> frozenset[str]:
    """The holdings of which something is in the scope that was chosen, or of which there is nothing to choose."""
    scope = survey.about("scope") or {}
    survey.database.execute(_CATALOG_FILES)  # looked for once: files have no index by path
    left = survey.database.execute(
        f"SELECT DISTINCT o.holding FROM left_out AS l JOIN file AS f ON f.id = l.file JOIN ({_OF_HOLDINGS}) AS o "
        "ON o.id = f.id WHERE f.role <> 'outside' AND l.why NOT IN (?, ?)",
        (TRAVELS, IS_THERE),
    )
    rest = (
        f"SELECT EXISTS (SELECT 1 FROM file JOIN ({_OF_HOLDINGS}) AS o USING (id) WHERE o.holding = ? AND {_CARRIED} "
        "AND role <> 'outside' AND kind = 'file' AND id NOT IN (SELECT file FROM left_out))"
    )
    without = {holding for (holding,) in list(left) if not survey.count(rest, (holding,))}
    with_files = {holding for (holding,) in survey.database.execute(f"SELECT DISTINCT holding FROM ({_OF_HOLDINGS})")}
    by_name = (r.id for r in survey.holdings() if r.kind == HoldingKind.REGISTRATIONS or r.id not in with_files)
    without |= {each for each in by_name if not merges(scope, each)}
    return frozenset(row.id for row in survey.holdings()) - without


def merges(scope: dict[str, object], holding: str) -> bool:
    """Whether what has no files, as registrations, is in a scope as the crate keeps it: all is, or it is named."""
    if not (scope.get("only") or scope.get("folders") or scope.get("groups")):
        return True
    only = scope.get("only")
    return isinstance(only, list) and any(name in (holding, holding.partition("/")[0]) for name in only)


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

    def leave_files(self, files: Iterable[int], why: str) -> None:
        """Leave out files by their numbers."""
        database = self._survey.database
        database.execute("CREATE TEMP TABLE there (file INTEGER PRIMARY KEY)")
        database.executemany("INSERT INTO there VALUES (?)", ((each,) for each in list(files)))
        self.leave_out("id IN (SELECT file FROM temp.there)", why)
        database.execute("DROP TABLE temp.there")

    def only(self, names: tuple[str, ...]) -> Iterator[str]:
        """Programs and holdings."""
        holdings = self._survey.holdings()
        for name in names:
            ids = [each.id for each in holdings if name in (each.id, each.guide)]
            if not ids:
                raise _unknown("program or holding", name, [n for each in holdings for n in (each.guide, each.id)])
            documents = f"path IN (SELECT path FROM document WHERE {_in('holding', ids)})"
            yield f"({_in('holding', ids)} OR {documents})"

    def folders(self, texts: tuple[str, ...]) -> Iterator[str]:
        """Folders of the old computer, with all that is in them, and what links in them lead to."""
        past = PastLinks(self._survey, self._computer, inside=True)
        for text in texts:
            try:
                path = self._computer.parse(text)
            except PathError as error:
                raise ZestyError(error.message, next_step="Name a folder as the old computer writes it.") from error
            key = self._computer.key(path)
            condition = _below([key, self._computer.key(past.of(path)), *self._targets_below(key)])
            if not self._survey.count(f"SELECT count(*) FROM file WHERE {condition}"):
                raise ZestyError(
                    f"The survey found nothing in {text}.", next_step="See zesty survey CRATE --details ID."
                )
            yield condition

    def _targets_below(self, key: str) -> Iterator[str]:
        """The keys of what links in a folder lead to; of the folder itself, where it is a link."""
        followed = ((each.at, self._computer.parse(each.leads_to)) for each in followed_links(self._survey))
        known = [(at, self._computer.key(target)) for at, target in followed]
        known += [(at, target) for _, at, _, target in self._survey.about("links") or ()]
        for at, target in known:
            if f"{self._computer.key(self._computer.parse(at))}/".startswith(f"{key}/"):
                yield target

    def groups(self, names: tuple[str, ...]) -> Iterator[str]:
        """Groups of catalogs: the catalog, and the media that the group's entries name, those of groups inside too."""
        for name in names:
            for holding, key in self._groups_named(name):
                yield _below(self._media_of(holding, key))
                yield self._catalog_of(holding, key)

    def named(self, names: tuple[str, ...]) -> Iterator[tuple[str, str]]:
        """The holding and the key of each group that is named."""
        for name in names:
            yield from self._groups_named(name)

    def _groups_named(self, text: str) -> list[tuple[str, str]]:
        """The groups of a name, in one document: a name that several have is written as ``NAME in DOCUMENT``."""
        query = "SELECT holding, key FROM grp WHERE name = ?"
        name, _, document = text.rpartition(" in ")
        found = [(holding, key) for holding, key in self._survey.database.execute(query, (stored(text),))]
        if not found and name:
            named = [(holding, key) for holding, key in self._survey.database.execute(query, (stored(name),))]
            found = [each for each in named if self._is_in(each, document)]
        if not found:
            rows = self._survey.database.execute("SELECT name FROM grp LIMIT 50000")
            raise _unknown("group", text, [restored(row[0]) for row in rows])
        documents = list(dict.fromkeys(path for each in found for path in self._documents_of(*each)))
        if len(documents) > 1:
            raise ZestyError(
                f"Several documents have a group named {text!r}.",
                details=documents,
                next_step=f"Write which one is meant: '{text} in {documents[0]}'.",
            )
        return found

    def _is_in(self, group: tuple[str, str], document: str) -> bool:
        paths = self._documents_of(*group)
        return any(document in (path, self._computer.parse(path).name) for path in paths)

    def lacking(self, names: tuple[str, ...]) -> Iterator[str]:
        """What entries of groups name and cannot bring, each with its state and reason."""
        for name in names:
            for holding, key in self._groups_named(name):
                told = f"SELECT DISTINCT e.recorded, e.state, e.why {_ENTRIES_OF_GROUP}"
                query = f"{_INNER} {told} AND e.state NOT IN (?, ?, ?)"
                fine = (State.FOUND, State.OUTSIDE, State.REMOTE)
                for recorded, state, why in self._survey.database.execute(query, (key, holding, holding, *fine)):
                    yield f"{name}: {restored(recorded)}: {state}: {restored(why)}"

    def on_travelling_drives(self) -> str:
        """What is on drives that go along themselves."""
        return _below([self._computer.key(each.anchor) for each in self._computer.volumes if each.travels])

    def tied_to_machine(self) -> list[str]:
        """The holdings whose guide says that they are of no use on another computer."""
        return [f"{guide.id}/{part.id}" for guide in self._guides for part in guide.part.holding if part.machine_bound]

    def _media_of(self, holding: str, group: str) -> list[str]:
        query = f"{_INNER} SELECT DISTINCT e.path_key {_ENTRIES_OF_GROUP} AND e.path_key <> ''"
        rows = self._survey.database.execute(query, (group, holding, holding))
        return [restored(row[0]) for row in rows]

    def _catalog_of(self, holding: str, group: str) -> str:
        paths = self._documents_of(holding, group)
        return _in("key", [self._computer.key(self._computer.parse(path)) for path in paths])

    def _documents_of(self, holding: str, group: str) -> list[str]:
        return [d.path for d in self._survey.documents() if d.holding == holding and group.startswith(d.prefix)]


def group_scope(survey: SurveyStore, holding: str) -> tuple[frozenset[str], frozenset[str]] | None:
    """The keys of the entries and groups of a holding that were chosen; None where no group alone was."""
    scope, chosen = survey.about("scope") or {}, survey.about("chosen-groups") or []
    if not chosen or scope.get("only") or scope.get("folders"):
        return None
    entries, groups = set[str](), set[str]()
    for of, key in chosen:
        if of == holding:
            inner = survey.database.execute(f"{_INNER} SELECT key FROM inner", (key, holding))
            groups |= {row[0] for row in inner}
            members = survey.database.execute(f"{_INNER} SELECT e.key {_ENTRIES_OF_GROUP}", (key, holding, holding))
            entries |= {row[0] for row in members}
    return frozenset(entries), frozenset(groups)


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
