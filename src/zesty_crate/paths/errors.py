"""The error of this package."""

from __future__ import annotations

from ..errors import ZestyError


class PathError(ZestyError):
    """A text that was expected to be a path of some computer cannot be read as one."""


class UnclearPathError(PathError):
    """A text that holds more than one path, so that none of them can be rewritten alone."""
