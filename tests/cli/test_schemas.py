"""What --json prints is what the published schemas say."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

import jsonschema
import pytest

from conftest import Zesty
from support.docs import DOCS, script
from support.moves import SmallMove


def test_the_published_schemas_are_of_this_version() -> None:
    made = script("make_schemas")
    for name, schema in made.schemas().items():
        published = (DOCS / "schemas" / f"{name}.schema.json").read_text(encoding="utf-8")
        assert published == made.text_of(schema), "run: make schemas"


def fits(output: str, name: str) -> None:
    schema = json.loads((DOCS / "schemas" / f"{name}.schema.json").read_text(encoding="utf-8"))
    jsonschema.validate(json.loads(output), schema)


def test_every_document_fits_its_schema(zesty: Zesty, tmp_path: Path) -> None:
    fits(zesty("demo", tmp_path / "all", "--lay-out", "--json").stdout, "demo")
    fits(zesty("sheet", "--json").stdout, "sheet")
    demo = SmallMove(tmp_path / "demo").demo
    crate = demo.carrier / "crate"
    to = ("--to", demo.new_sheet, "--json")
    fits(zesty("plan", crate, *to).stdout, "error")
    fits(zesty("survey", crate, "--from", demo.old_sheet, "--guides", demo.guides, "--json").stdout, "survey")
    fits(zesty("survey", crate, "--details", "wimblethorn/shelf", "--json").stdout, "survey-details")
    fits(zesty("survey", crate, "--details", "wimblethorn", "--json").stdout, "survey-details-program")
    fits(zesty("check", "--at", demo.old_sheet, "--guides", demo.guides, "--json").stdout, "check")
    fits(zesty("pack", crate, "--json").stdout, "pack")
    fits(zesty("compare", crate, "--with", demo.old_sheet, "--json").stdout, "compare")
    shutil.move(demo.old_sheet.parent / "disks/e/Lanternfold/Sound Store", demo.old_sheet.parent / "disks/e/Store")
    at = ("--at", demo.old_sheet, "--guides", demo.guides, "--look-in", "E:\\Store", "--keep-in", tmp_path, "--json")
    fits(zesty("relink", *at, "--dry-run").stdout, "relink-at")
    fits(zesty("relink", *at, "--yes").stdout, "relink-at")
    tried = ("wimblethorn", "--at", demo.old_sheet, "--guides", demo.guides, "--json")
    place = ("--look-in", "C:\\Users\\Odile\\AppData\\Roaming\\Wimblethorn")
    fits(zesty("guide", "draft", "--at", demo.old_sheet, *place, "--json").stdout, "guide-draft")
    fits(zesty("guide", "list", "--json").stdout, "guide-list")
    fits(zesty("guide", "show", "odf", "--json").stdout, "guide")
    fits(zesty("guide", "lint", *tried).stdout, "guide-lint")
    fits(zesty("guide", "try", *tried).stdout, "guide-try")
    fits(zesty("guide", "rehearse", *tried).stdout, "guide-rehearse")
    routine = ("--routine", tmp_path, "--from", demo.old_sheet, "--guides", demo.guides)
    fits(zesty("pack", *routine, "--keep", "2w", "--json").stdout, "pack-routine")
    fits(zesty("pack", crate, "--as-file", "--json").stdout, "pack-as-file")
    fits(zesty("pack", crate, "--verify-only", "--json").stdout, "pack-verify-only")
    fits(zesty("plan", crate, *to).stdout, "plan")
    fits(zesty("unpack", crate, "--dry-run", *to).stdout, "unpack")
    fits(zesty("unpack", crate, "--yes", *to).stdout, "unpack")
    fits(zesty("relink", crate, "--dry-run", *to).stdout, "relink")
    fits(zesty("relink", crate, "--yes", *to).stdout, "relink")
    fits(zesty("check", crate, *to).stdout, "check")
    fits(zesty("todo", crate, *to).stdout, "todo")
    fits(zesty("report", crate, *to, "--csv", tmp_path / "csv").stdout, "report")
    fits(zesty("retire", crate, "--from", demo.old_sheet, "--json").stdout, "retire")
    fits(zesty("move", crate, "--from", demo.old_sheet, "--dry-run", *to).stdout, "move")
    fits(zesty("undo", crate, "--dry-run", *to).stdout, "undo")
    fits(zesty("undo", crate, "--yes", *to).stdout, "undo")


def test_a_document_that_does_not_fit_is_noticed() -> None:
    with pytest.raises(jsonschema.ValidationError):
        fits('{"computer": "cartshed"}', "check")
