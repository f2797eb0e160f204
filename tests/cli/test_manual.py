"""The manual page and the completions say what the program takes."""

from __future__ import annotations

import importlib.util
import shutil
import subprocess
from pathlib import Path
from typing import Any

import pytest

from conftest import Zesty
from zesty_crate.cli.main import COMMANDS

DOCS = Path(__file__).parents[2] / "docs"


def maker() -> Any:
    spec = importlib.util.spec_from_file_location("make_manual", DOCS / "make_manual.py")
    assert spec
    assert spec.loader
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def test_the_manual_page_is_of_this_version() -> None:
    assert (DOCS / "zesty.1").read_text(encoding="utf-8") == maker().page(), "run: make manual"


def test_every_command_is_completed(zesty: Zesty) -> None:
    script = zesty("completion", "bash").stdout
    assert all(name in script for name in COMMANDS)
    assert "--second-copy" in script


@pytest.mark.skipif(shutil.which("bash") is None, reason="bash is not here")
def test_a_shell_completes_with_it(zesty: Zesty) -> None:
    script = zesty("completion", "bash").stdout
    asked = 'COMP_WORDS=(zesty ret) COMP_CWORD=1; _shtab_zesty zesty ret zesty; echo "${COMPREPLY[@]}"'
    said = subprocess.run(["bash", "-c", f"{script}\n{asked}"], capture_output=True, text=True, check=False)
    assert said.stdout.split() == ["retire"], said.stderr
