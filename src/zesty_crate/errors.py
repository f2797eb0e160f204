"""The one family of errors that a user may meet. Anything else that escapes is a fault of the program."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager


class ZestyError(Exception):
    """Something has the wrong form, and nothing was changed because of it.

    ``message`` is a full sentence that names the thing, what was found and what was expected.
    ``next_step`` says what to do now. ``details`` are further lines, one for each place concerned.
    """

    def __init__(self, message: str, *, next_step: str = "", details: Sequence[str] = ()) -> None:
        super().__init__(message)
        self.message = message
        self.next_step = next_step
        self.details = tuple(details)


class HalfwayError(ZestyError):
    """Work stopped partway; what was done is recorded, and the same command continues from there."""


@contextmanager
def halfway() -> Iterator[None]:
    """Work that is recorded as it is done: whatever stops it in here stops it partway."""
    try:
        yield
    except HalfwayError:
        raise
    except ZestyError as error:
        raise HalfwayError(error.message, next_step=error.next_step, details=error.details) from error
