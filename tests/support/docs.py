"""The scripts in docs/, as modules."""

from __future__ import annotations

import importlib.util
from pathlib import Path
from typing import Any

DOCS = Path(__file__).parents[2] / "docs"


def script(name: str) -> Any:
    """The script of this name."""
    spec = importlib.util.spec_from_file_location(name, DOCS / f"{name}.py")
    assert spec
    assert spec.loader
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module
