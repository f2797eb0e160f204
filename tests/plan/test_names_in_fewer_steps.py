"""Most files keep their names, which is seen in fewer steps; what comes of it is the same as when each is asked."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zesty_crate.machines import Computer
from zesty_crate.machines.computer import Volume
from zesty_crate.paths import FORMATS, Route, RouteMap, System
from zesty_crate.plan import names
from zesty_crate.plan.placements import Placements
from zesty_crate.survey import PathRow

OLD = Computer("old", System.LINUX, "odile", [], {})
NAMES = st.sampled_from(["rain.wav", "Rain.wav", "é.wav", "e\u0301.wav", "CON", "a?.wav", "x" * 90, "Reel", "reel"])
PATHS = st.lists(NAMES, min_size=1, max_size=3).map(lambda some: "/home/odile/Music/" + "/".join(some))
PLACES = st.sampled_from(["/home/odile/Music", "/home/odile/Music/Reel", "/home/odile/Music/rain.wav", "/home", "/"])


def new_computer(system: System, form: str) -> Computer:
    volume = Volume(
        Computer("new", system, "odile", [], {}).parse("C:\\" if system is System.WINDOWS else "/"),
        FORMATS[form],
        "",
        None,
    )
    return Computer("new", system, "odile", [volume], {})


NEWS = {
    "windows": (new_computer(System.WINDOWS, "ntfs"), ["C:\\Music", "C:\\", "C:\\Music\\reel"]),
    "macos": (new_computer(System.MACOS, "apfs"), ["/Users/odile/Music", "/", "/Volumes"]),
}


class Survey:
    """Some files and their folders, and nothing more."""

    def __init__(self, files: list[str]) -> None:
        self._files = sorted(set(files))

    def holdings(self) -> list[Any]:
        return []

    def files(self, _: str) -> list[Any]:
        return []

    def _rows(self, paths: list[str]) -> Iterator[PathRow]:
        return (PathRow(n, "", path, OLD.key(OLD.parse(path)), 1) for n, path in enumerate(paths))

    def paths(self, _: str) -> Iterator[PathRow]:
        folders = {path.rpartition("/")[0] for path in self._files}
        return self._rows(sorted(folders))

    def carried_paths(self) -> Iterator[PathRow]:
        return self._rows(self._files)


@given(files=st.lists(PATHS, max_size=8), starts=st.lists(PLACES, unique=True, max_size=3), data=st.data())
@settings(max_examples=80, deadline=None)
@pytest.mark.parametrize("there", NEWS)
def test_names_are_the_same_however_they_are_found(
    there: str, files: list[str], starts: list[str], data: st.DataObject
) -> None:
    new, places = NEWS[there]
    ends = [data.draw(st.sampled_from(places)) for _ in starts]
    routes = RouteMap([Route(OLD.parse(a), new.parse(b)) for a, b in zip(starts, ends, strict=True)], OLD.rules_for)
    kept = [Route(OLD.parse(each), new.parse(places[0]).below("kept.wav")) for each in files[:1]]

    def found() -> names.Names:
        survey: Any = Survey(files)
        return names.look_at_names(Placements(survey, OLD, routes), OLD, new, routes, kept)

    quickly = found()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("zesty_crate.plan.names._Namer._keeps_its_name", lambda *_: False)
        assert found() == quickly
