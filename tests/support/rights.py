"""Commands by somebody who may not read or write everything, as root may."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from support.carriers import ran
from zesty_crate.machines import Disk

_RIGHTS = "-dac_override,-dac_read_search"  # those by which root may read and write everything


def held(*arguments: str | Path) -> subprocess.CompletedProcess[str]:
    """A command by somebody who has no more rights than the files say."""
    rights = ["setpriv", f"--bounding-set={_RIGHTS}", f"--inh-caps={_RIGHTS}"] if Disk().may_write(Path("/")) else []
    if not ran(*rights, "true"):
        pytest.skip("nothing here takes from root what it may")
    program = Path(sys.executable).with_name("zesty")
    return subprocess.run([*rights, program, *arguments], capture_output=True, text=True, check=False)


@contextmanager
def closed(*places: Path, reading: bool = True) -> Iterator[None]:
    """Meanwhile nobody may write these, nor read them."""
    before = [(each, each.stat().st_mode) for each in places]
    for each, mode in before:
        each.chmod(0 if not reading else 0o555 if each.is_dir() else mode & 0o444)
    try:
        yield
    finally:
        for each, mode in before:
            each.chmod(mode)


def in_one_line(said: str) -> str:
    return " ".join(said.split())
