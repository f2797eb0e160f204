"""Build the program as a folder that runs without Python, for the system that this runs on: dist/zesty.

python -m pip install -r requirements/run.txt -r requirements/stick.txt
python packaging/build_stick.py

A single archive of Python files would not do: half of what the program needs (SQLite, lxml, NumPy) is compiled, and
Python imports that from real files alone.
"""

from __future__ import annotations

from pathlib import Path

import PyInstaller.__main__

ROOT = Path(__file__).resolve().parent.parent
# What is imported by a name that only running finds, and what is read beside the code.
SUBMODULES = ("zesty_crate", "rdflib", "apsw")
DATA = ("zesty_crate", "jsonpath_rfc9535")
DRAWN_BY = ("matplotlib.backends.backend_svg", "matplotlib.backends.backend_agg")


def main() -> None:
    """Build it."""
    PyInstaller.__main__.run(
        [
            *("--noconfirm", "--clean", "--onedir", "--log-level", "WARN", "--name", "zesty"),
            *("--distpath", str(ROOT / "dist"), "--workpath", str(ROOT / "build"), "--specpath", str(ROOT / "build")),
            *("--paths", str(ROOT / "src"), "--copy-metadata", "rdflib"),
            *(word for each in SUBMODULES for word in ("--collect-submodules", each)),
            *(word for each in DATA for word in ("--collect-data", each)),
            *(word for each in DRAWN_BY for word in ("--hidden-import", each)),
            str(ROOT / "packaging/stick.py"),
        ]
    )


if __name__ == "__main__":
    main()
