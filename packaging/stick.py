"""The start of the program that needs no Python: see `make stick`."""

from __future__ import annotations

import sys

from zesty_crate.cli.start import run

if __name__ == "__main__":
    sys.exit(run())
