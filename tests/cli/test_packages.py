"""What is built of the project is whole: the wheel and the source archive, installed without a network."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import sysconfig
import tarfile
import venv
import zipfile
from pathlib import Path

import pytest

from support.docs import DOCS
from zesty_crate import __version__

ROOT = DOCS.parent
NAME = f"zesty_crate-{__version__}"


def run(*command: object, **given: str) -> str:
    said = subprocess.run(
        [str(each) for each in command],
        cwd=ROOT,
        env={**os.environ, "PIP_NO_INDEX": "1", "PIP_DISABLE_PIP_VERSION_CHECK": "1", **given},
        capture_output=True,
        text=True,
        check=False,
    )
    assert said.returncode == 0, said.stdout + said.stderr
    return said.stdout


@pytest.fixture(scope="module")
def built(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("dist")
    run(sys.executable, "-m", "hatchling", "build", "-d", folder)
    return folder


def test_a_fresh_environment_runs_what_the_wheel_holds(built: Path, tmp_path: Path) -> None:
    venv.create(tmp_path / "fresh")
    scripts = tmp_path / "fresh" / ("Scripts" if os.name == "nt" else "bin")
    run(sys.executable, "-m", "pip", "--python", scripts / "python", "install", "-q", "--no-deps", *built.glob("*.whl"))
    own = Path(run(scripts / "python", "-c", "import sysconfig; print(sysconfig.get_path('purelib'))").strip())
    # What it depends on is taken from where the tests run: there is no network to fetch it by.
    (own / "depends.pth").write_text(sysconfig.get_path("purelib") + "\n")
    assert (own / "zesty_crate/py.typed").is_file()
    program = scripts / "zesty"
    assert __version__ in run(program, "--version")
    listed = json.loads(run(program, "guide", "list", "--json"))
    assert len(listed["guides"]) > 15
    share = tmp_path / "fresh/share"
    assert (share / "man/man1/zesty.1").read_bytes() == (DOCS / "zesty.1").read_bytes()
    assert "_shtab_zesty" in (share / "bash-completion/completions/zesty").read_text()
    assert "#compdef zesty" in (share / "zsh/site-functions/_zesty").read_text()


def test_the_source_archive_builds_the_same_wheel(built: Path, tmp_path: Path) -> None:
    with tarfile.open(built / f"{NAME}.tar.gz") as archive:
        archive.extractall(tmp_path, filter="data")
    subprocess.run(
        [sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", str(tmp_path / "again")],
        cwd=tmp_path / NAME,
        check=True,
        capture_output=True,
    )
    (again,) = (tmp_path / "again").glob("*.whl")
    (first,) = built.glob("*.whl")
    with zipfile.ZipFile(first) as one, zipfile.ZipFile(again) as other:
        assert {each.filename: each.CRC for each in one.infolist()} == {
            each.filename: each.CRC for each in other.infolist()
        }


def test_completions_are_of_this_version() -> None:
    from support.docs import script

    for name, text in script("make_manual").completions().items():
        assert (DOCS / "completion" / name).read_text(encoding="utf-8") == text, "run: make manual"
