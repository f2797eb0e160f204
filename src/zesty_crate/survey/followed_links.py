"""Links to folders: a person takes what a link leads to for a part of the folder that the link is in, and so do we."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from ..machines import Computer, Finder, Seen
from ..paths import MachinePath
from .listing import Owner
from .store import SurveyStore


@dataclass(frozen=True, slots=True)
class FollowedLink:
    """A link by which files of a holding are reached, and the folder that it leads to, as the computer writes them.

    It is ``inside`` when the link is in a holding, and so is carried itself.
    """

    at: str
    leads_to: str
    inside: bool


class FollowedLinks:
    """The links that one walk follows: each folder once, however many links lead to it."""

    def __init__(self, computer: Computer, finder: Finder) -> None:
        self._computer = computer
        self._finder = finder
        self._noted: list[tuple[Owner, Seen]] = []
        self.tops: list[MachinePath] = []  # folders outside all holdings to which links in holdings lead
        self._found: dict[str, FollowedLink] = {}

    @property
    def found(self) -> tuple[FollowedLink, ...]:
        """All that were followed, in the order of their discovery."""
        return tuple(self._found.values())

    def note_on_the_way(self, path: MachinePath) -> None:
        """Note the links by which the place of a holding is reached."""
        for link, target in self._finder.links_on_the_way(path):
            if target.facts is not None:
                self._add(link, target, inside=False)

    def note(self, owner: Owner, link: Seen) -> None:
        """Note a link in a holding; what is a cache's is not worth following."""
        if owner.role != "cache":
            self._noted.append((owner, link))

    def to_follow(self, places: Iterable[str]) -> Iterator[tuple[Owner, Seen]]:
        """The folders to go through, with their owners; what is found there may be noted meanwhile.

        A folder in a holding is gone through already. One that holds a holding's place, as a home does, is none of
        this holding's: such a link is only told.
        """
        while self._noted:
            owner, link = self._noted.pop(0)
            target = self._finder.follow(link)
            if target.facts is None or target.facts.kind != "folder" or target.is_anchor:
                continue
            key, walked = self._computer.key(target.path), [*places, *map(self._computer.key, self.tops)]
            is_around = any(each.startswith(key + "/") for each in (*walked, self._computer.key(link.path)))
            if is_around:
                continue
            self._add(link, target, inside=True)
            if not any(key == each or key.startswith(each + "/") for each in walked):
                self.tops.append(target.path)
                yield owner, target

    def _add(self, link: Seen, target: Seen, *, inside: bool) -> None:
        key = self._computer.key(link.path)
        self._found.setdefault(key, FollowedLink(str(link.path), str(target.path), inside))


def followed_links(store: SurveyStore) -> tuple[FollowedLink, ...]:
    """The links that a survey followed."""
    return tuple(FollowedLink(*each) for each in store.about("followed-links") or ())


class PastLinks:
    """Where files are that are reached by links which are not carried themselves, or by all with ``inside``."""

    def __init__(self, store: SurveyStore, old: Computer, *, inside: bool = False) -> None:
        links = [each for each in followed_links(store) if inside or not each.inside]
        self._links = [(old.key(at := old.parse(each.at)), at, old.parse(each.leads_to)) for each in links]
        self._old = old

    @property
    def places(self) -> list[MachinePath]:
        """Where the links are."""
        return [at for _, at, _ in self._links]

    def of(self, path: MachinePath) -> MachinePath:
        """The same path, past all such links; itself where there are none on the way."""
        for key, at, leads_to in self._links:
            own = self._old.key(path)
            if own == key or own.startswith(key + "/"):
                path = leads_to.below(*path.parts[len(at.parts) :])
        return path
