from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from support.forked import Forked
from support.moves import SmallMove

# The program is started some thousand times: as where it is installed, its modules are compiled once.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
settings.register_profile("steady", deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True)
settings.load_profile("steady")

Zesty = Callable[..., subprocess.CompletedProcess[str]]


def installed(
    *arguments: str | Path, environment: Mapping[str, str] | None = None, encoding: str = "utf-8"
) -> subprocess.CompletedProcess[str]:
    """The installed script, started anew."""
    return subprocess.run(
        [str(Path(sys.executable).parent / "zesty"), *map(str, arguments)],
        capture_output=True,
        encoding=encoding,
        check=False,
        stdin=subprocess.DEVNULL,
        env={**os.environ, **(environment or {})},
    )


@pytest.fixture(scope="session")
def zesty() -> Iterator[Zesty]:
    """The installed program, each command a process of its own."""
    forked = Forked()

    def run(
        *arguments: str | Path,
        environment: Mapping[str, str] | None = None,
        encoding: str = "utf-8",
        kill_at: int | None = None,
    ) -> subprocess.CompletedProcess[str]:
        if kill_at is not None and not hasattr(os, "fork"):
            pytest.skip("no process can be forked here")
        if environment is None and encoding == "utf-8" and hasattr(os, "fork"):
            return forked.run([str(each) for each in arguments], kill_at)
        return installed(*arguments, environment=environment, encoding=encoding)

    yield run
    forked.close()


@pytest.fixture(scope="session")
def planned(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A small move that is packed and planned; copy it before use."""
    root = tmp_path_factory.mktemp("planned") / "demo"
    SmallMove(root).up_to_plan()
    return root


@pytest.fixture
def small(planned: Path, tmp_path: Path) -> SmallMove:
    """A small move that is packed and planned, for this test alone."""
    shutil.copytree(planned, tmp_path / "demo", symlinks=True)
    return SmallMove.at(tmp_path / "demo")
