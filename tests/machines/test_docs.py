"""The examples in the documentation are what they say."""

from __future__ import annotations

import re
from pathlib import Path

from zesty_crate.documents import parse_document
from zesty_crate.guides import WholeGuide
from zesty_crate.machines.sheet import SheetPart

ROOT = Path(__file__).parents[2]


def example(page: str) -> str:
    found, *_ = re.findall(r"```toml\n(.*?)```", (ROOT / "docs" / page).read_text(encoding="utf-8"), re.DOTALL)
    return str(found)


def test_the_sheet_in_the_docs_is_one() -> None:
    assert parse_document(example("sheets.md"), SheetPart, "x").computer.name == "paintloft"


def test_the_guide_in_the_docs_is_the_demos() -> None:
    text = example("guides.md")
    assert text == (ROOT / "src/zesty_crate/demo/guides/wimblethorn.toml").read_text(encoding="utf-8")
    assert parse_document(text, WholeGuide, "x").guide.id == "wimblethorn"


def test_every_picture_is_linked_from_the_readme() -> None:
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    for picture in (ROOT / "docs" / "screenshots").iterdir():
        assert f"docs/screenshots/{picture.name}" in readme
