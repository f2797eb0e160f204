"""The scripts in docs/, as modules."""

from __future__ import annotations

import importlib.util
import re
import sys
from pathlib import Path
from typing import Any

DOCS = Path(__file__).parents[2] / "docs"


def script(name: str) -> Any:
    """The script of this name."""
    if str(DOCS) not in sys.path:  # as when Python runs one of them
        sys.path.append(str(DOCS))
    spec = importlib.util.spec_from_file_location(name, DOCS / f"{name}.py")
    assert spec
    assert spec.loader
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def merging_recipes() -> list[str]:
    """The pieces of each of the two guides that the recipes for merging make up: of a database, and of a text."""
    section = (DOCS / "guides.md").read_text("utf-8").split("## Recipes for merging")[1].partition("\n## ")[0]
    halves = section.split("The same for texts")
    return ["".join(re.findall(r"```toml\n(.*?)```", half, re.DOTALL)) for half in halves]
