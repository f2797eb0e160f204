"""Names that are not Unicode, in databases that hold nothing else."""

from __future__ import annotations


def stored(text: str) -> str | bytes:
    """A text as SQLite can hold it: names that are not Unicode as bytes."""
    if text.isascii():
        return text
    try:
        text.encode()
    except UnicodeEncodeError:
        return text.encode("utf-8", "surrogatepass")
    return text


def restored(value: str | bytes) -> str:
    """The text that `stored` was given."""
    return value.decode("utf-8", "surrogatepass") if isinstance(value, bytes) else value
