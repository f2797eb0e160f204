"""The manual page and the completions say what the program takes."""

from __future__ import annotations

import shutil
import subprocess

import pytest

from conftest import Zesty
from support.docs import DOCS, script
from zesty_crate.cli.main import COMMANDS


def test_the_manual_page_is_of_this_version() -> None:
    assert (DOCS / "zesty.1").read_text(encoding="utf-8") == script("make_manual").page(), "run: make manual"


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
