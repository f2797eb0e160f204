"""Texts of drawn shapes, nested at random, go to each system and back, and an independent reader agrees."""

from __future__ import annotations

import json
import shutil
import tempfile
from collections.abc import Callable
from html import escape
from pathlib import Path
from typing import Any, NamedTuple

import yaml
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from lxml import etree, html

from guide_trials.shapes import FOLDERS
from guide_trials.test_drawn_shapes import EXAMPLES, LABELS, NEW_ROOTS, ROOTS, SYSTEMS, computer, whole
from support.containers import ATTRIBUTE, BASE64, COLUMN, GZIP, TAR, ZIP, ZLIB, Container
from zesty_crate.guide_trials.invented import Routed
from zesty_crate.guides import HoldingPart
from zesty_crate.machines import Disk
from zesty_crate.paths import MachinePath, Route, Spelling, System, read_path
from zesty_crate.split_paths import CarriedCatalog, relinked_copy

_NAMES = st.text(st.characters(categories=["L", "N"], include_characters=" _-'&é%#"), min_size=1, max_size=6).filter(
    lambda name: name == name.strip() and name.isprintable()
)


class Kind(NamedTuple):
    """A syntax: how values are written into a document, how other software reads them, and what a guide says."""

    guide: dict[str, Any]
    at: str
    write: Callable[[list[str]], str]
    read: Callable[[str], list[str]]


def _clips(values: list[str]) -> dict[str, Any]:
    return {"clips": [{"file": each} for each in values]}


def _files(read: Any) -> list[str]:
    return [each["file"] for each in read["clips"]]


def _members(values: list[str]) -> str:
    return json.dumps({"clips": {each: number for number, each in enumerate(values)}})


def _xml(values: list[str]) -> str:
    written = (f"<!-- {n} --><![CDATA[{each}]]>" if n % 2 else escape(each) for n, each in enumerate(values))
    clips = "".join(f"<c>{each}</c>" for each in written)
    return f"<list other='C:/Users/Odile/Music/Lamps/x.wav'>{clips}</list>"


def _read_xml(text: str) -> list[str]:
    return [str(each.xpath("string()")) for each in etree.fromstring(text.encode()).iter("c")]


def _page(values: list[str]) -> str:
    return "<!DOCTYPE html><p>" + "<p>".join(f'<img src="{escape(each)}" alt=x>' for each in values)


def _read_page(text: str) -> list[str]:
    return [each.get("src", "") for each in html.document_fromstring(text).iter("img")]


def _lines(values: list[str]) -> str:
    return "".join(f"clip={each}\n" for each in values)


def _read_lines(text: str) -> list[str]:
    return [each[5:] for each in text.splitlines()]


_LISTED = {"each": "$.clips[*]"}
KINDS = {
    "json": Kind(_LISTED, "file", lambda values: json.dumps(_clips(values)), lambda text: _files(json.loads(text))),
    "yaml": Kind(_LISTED, "file", lambda v: yaml.safe_dump(_clips(v)), lambda text: _files(yaml.safe_load(text))),
    "members": Kind({"each": "$.clips.*"}, "member-name()", _members, lambda text: list(json.loads(text)["clips"])),
    "xml": Kind({"each": "//c"}, ".", _xml, _read_xml),
    "html": Kind({"each": "//img"}, "@src", _page, _read_page),
    "lines": Kind({"each": "clip=(?P<file>.*)"}, "file", _lines, _read_lines),
}
FORMS: dict[str, tuple[dict[str, Any], Callable[[str], str]]] = {
    "plain": ({}, str),
    "within": ({"match": r"^x[\d.]+:(.+)\?loop$"}, lambda path: f"x1.5:{path}?loop"),
    "separated": ({"separator": "|:"}, lambda path: path.replace("\\", "/").replace("/", "|:")),
}
CONTAINERS = [(), (), (GZIP,), (ZIP,), (COLUMN, ZLIB), (TAR,), (BASE64,), (ATTRIBUTE, BASE64), (GZIP, ZIP)]


@given(st.data(), SYSTEMS, SYSTEMS, st.sampled_from(sorted(KINDS)), st.sampled_from(sorted(FORMS)))
@settings(max_examples=EXAMPLES, suppress_health_check=[HealthCheck.too_slow], deadline=None)
def test_any_text_goes_there_and_back(data: st.DataObject, old: System, new: System, kind: str, form: str) -> None:
    files = st.tuples(st.sampled_from(sorted(LABELS)), st.sampled_from(FOLDERS), st.lists(_NAMES, max_size=2), _NAMES)
    drawn = data.draw(st.lists(files, min_size=1, max_size=6))
    named = ((volume, (*outer.split("/"), *inner, f"{name}.wav")) for volume, outer, inner, name in drawn)
    paths = list(dict.fromkeys(named))
    containers = data.draw(st.sampled_from(CONTAINERS))
    folder = Path(tempfile.mkdtemp())
    try:
        _go(folder, (old, new), KINDS[kind], FORMS[form], containers, paths, "json" if kind == "members" else kind)
    finally:
        shutil.rmtree(folder)


def _go(
    folder: Path,
    systems: tuple[System, System],
    kind: Kind,
    form: tuple[dict[str, Any], Callable[[str], str]],
    containers: tuple[Container, ...],
    paths: list[tuple[str, tuple[str, ...]]],
    syntax: str,
) -> None:
    old, new = computer("old", systems[0], ROOTS[systems[0]]), computer("new", systems[1], NEW_ROOTS[systems[1]])
    more, written = form
    spelling = "slashes" if "separator" in more else "native"
    entries = {**kind.guide, "path": [{"at": kind.at, **more}], "spelling": spelling}
    inside = [each.inside for each in containers]
    part = HoldingPart.model_validate(
        {"id": "c", "kind": "catalog", "at": "{home}/c", "syntax": syntax, "inside": inside, "entries": [entries]}
    )
    at_home = [written(whole(systems[0], ROOTS[systems[0]][volume], names)) for volume, names in paths]
    away = [written(whole(systems[1], NEW_ROOTS[systems[1]][volume], names)) for volume, names in paths]
    content = kind.write(at_home).encode()
    for each in reversed(containers):
        content = each.wrap(content)
    original = folder / "catalog"
    original.write_bytes(content)
    roots = ((ROOTS[systems[0]][each], NEW_ROOTS[systems[1]][each]) for each in ("first", "second"))
    routes = [Route(_path(systems[0], a), _path(systems[1], b)) for a, b in roots]
    there, back = Routed.of_routes(routes, old), Routed.of_routes([Route(r.new, r.old) for r in routes], new)
    for name in ("there", "back"):
        (folder / name).mkdir()
    at, place, disk = old.expand("{home}").below("c"), new.expand("{home}").below("c"), Disk()
    went = relinked_copy(CarriedCatalog(part, original, at, place, (old, new)), there, folder / "there", disk)
    came = relinked_copy(CarriedCatalog(part, went, place, at, (new, old)), back, folder / "back", disk)
    for file, expected in ((original, at_home), (went, away), (came, at_home)):
        taken = file.read_bytes()
        for each in containers:
            taken = each.taken_out(taken)
        assert kind.read(taken.decode()) == expected


def _path(system: System, text: str) -> MachinePath:
    return read_path(text, system, Spelling.NATIVE).path
