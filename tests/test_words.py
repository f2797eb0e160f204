"""One word for one thing: retired words are gone, and the tables of words are complete and the same in the docs."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from zesty_crate.guides.kinds import KINDS, HoldingKind
from zesty_crate.survey.states import STATES, State
from zesty_crate.survey.verdicts import RELINKED, VERDICTS, Relinked, Verdict

ROOT = Path(__file__).parents[1]
# Each retired word of docs/style.md, and phrases that had to be read twice.
RETIRED = [
    r"stand-?in\b",
    r"\bby[- ]hand\b",
    r"\bhandwork\b",
    r"\blandmarks?\b",
    r"\bplugged in\b",
    r"\bhas them again\b",
    r"\bits like\b",
    r"\bthat which\b",
    r"\breckon\b",
    r"\bhandfuls?\b",
    r"\bwish(es)?\b",
    r"\bclosed? in order\b",
    r"\bgoes along\b",
    r"\btake(n)? back\b",
    r"\bfor a person\b",
    r"\bis to lie\b",
    r"\bis known here\b",
    r"\bthrown away\b",
]
RETIRED_NAMES = re.compile(
    r"hand|helper|stand_?in|by_hand|handwork|landmark|wishes|there_before|followers|remembered|supplied|whys|halves|ahead"
)


def strings(path: Path) -> Iterator[tuple[int, str]]:
    """The texts of a module that may be shown: all but docstrings."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    docstrings = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef)
        and node.body
        and isinstance(node.body[0], ast.Expr)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docstrings:
            yield node.lineno, node.value


def texts() -> Iterator[tuple[str, str]]:
    for path in sorted((ROOT / "src").rglob("*.py")):
        yield from ((f"{path.relative_to(ROOT)}:{line}", text) for line, text in strings(path))
    pages = [
        ROOT / "README.md",
        ROOT / "CONTRIBUTING.md",
        ROOT / "CHANGELOG.md",
        ROOT / "ARCHITECTURE.md",
        *(ROOT / "docs").glob("*.md"),
        *(ROOT / "docs/schemas").iterdir(),
        ROOT / "docs/zesty.1",
        *(ROOT / "src").rglob("*.toml"),
        *(ROOT / "src").rglob("*.j2"),
    ]
    for page in pages:
        if page.name != "style.md":
            lines = page.read_text(encoding="utf-8").splitlines()
            yield from ((f"{page.relative_to(ROOT)}:{number}", line) for number, line in enumerate(lines, start=1))


def test_retired_words_do_not_occur_in_messages_docs_and_schemas() -> None:
    words = re.compile("|".join(RETIRED), re.IGNORECASE)
    found = [f"{where}: {text.strip()[:90]}" for where, text in texts() if words.search(text)]
    assert found == []


def test_modules_have_names_that_say_what_is_in_them() -> None:
    modules = [path.stem for path in (ROOT / "src").rglob("*.py")]
    assert [name for name in modules if RETIRED_NAMES.fullmatch(name)] == []


@pytest.mark.parametrize("table", [(State, STATES), (HoldingKind, KINDS), (Verdict, VERDICTS), (Relinked, RELINKED)])
def test_each_word_has_its_row(table: tuple[type[State], dict[State, object]]) -> None:
    words, rows = table
    assert list(rows) == list(words)


def test_the_docs_have_every_state_and_kind_as_the_tables_say() -> None:
    states, readme = ((ROOT / page).read_text(encoding="utf-8") for page in ("docs/states.md", "README.md"))
    guides = (ROOT / "docs/guides.md").read_text(encoding="utf-8")
    for state, row in STATES.items():
        assert f"| `{state}` | {row.when} | {row.remedy} |" in states
        assert f"| `{state}` | {row.when} |" in readme
    for verdict, told in VERDICTS.items():
        assert f"| `{verdict}` | {told.when} | {told.remedy or 'Nothing to do.'} |" in states
    for kind, about in KINDS.items():
        assert f"- `{kind}`: {about.meaning}" in guides
