"""Sort orders that only a program knows. An index that is kept in one must stay in it, or the program loses rows.

The order is not guessed: the rows of the index have it already, so an order counts as known only when every row of
every such index is where that order would put it.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Callable
from itertools import pairwise

import apsw

from .model import CatalogError
from .sqlite_file import BUILT_IN_COLLATIONS, Order, quoted

_FOLDS: dict[str, Callable[[str], str]] = {
    "BINARY": str,
    "NOCASE": lambda text: "".join(c.lower() if c.isascii() else c for c in text),
    "RTRIM": lambda text: text.rstrip(" "),
    "casefold": str.casefold,
    "upper": str.upper,
    "casefold-nfd": lambda text: unicodedata.normalize("NFD", text).casefold(),
    "casefold-nfc": lambda text: unicodedata.normalize("NFC", text).casefold(),
}

_Row = tuple[object, ...]
_INDEX_KEYS = "SELECT name, desc, upper(coll), coll FROM pragma_index_xinfo(?) WHERE key ORDER BY seqno"


def match_collations(connection: apsw.Connection, touched: set[tuple[str, str]]) -> None:
    """Answer each unknown collation with the order that its indexes are really in, for the columns to be written.

    ``touched`` holds (table, column) in lower case. Raises `CatalogError` when no known order fits an index.
    """
    indexes = list(connection.execute("SELECT tbl_name, name FROM main.sqlite_schema WHERE type = 'index'"))
    for table, index in indexes:
        keys = list(connection.execute(_INDEX_KEYS, (index,)))
        unknown = {coll for _, _, upper, coll in keys if upper not in BUILT_IN_COLLATIONS}
        if unknown and any((table.lower(), str(name).lower()) in touched for name, _, _, _ in keys):
            _settle_index(connection, table, index, keys, unknown)


def _settle_index(
    connection: apsw.Connection, table: str, index: str, keys: list[tuple[str, int, str, str]], unknown: set[str]
) -> None:
    if len(unknown) == 1 and all(name for name, _, _, _ in keys):
        name = next(iter(unknown))
        for fold in _FOLDS.values():
            if _in_order(connection, table, index, keys, fold):
                connection.create_collation(name, _order(fold))
                return
    raise CatalogError(
        f"The index {index!r} is sorted by {', '.join(sorted(unknown))}, an order that only the program knows, "
        "and a path in it would have to change.",
        next_step="Change these paths in the program itself. The catalog was not changed.",
    )


def _in_order(
    connection: apsw.Connection,
    table: str,
    index: str,
    keys: list[tuple[str, int, str, str]],
    fold: Callable[[str], str],
) -> bool:
    """Whether the rows, read in the order of the index itself, are sorted by ``fold``."""
    columns = ", ".join(quoted(name) for name, _, _, _ in keys)
    order = ", ".join(f"{quoted(name)} COLLATE {quoted(coll)}{' DESC' if desc else ''}" for name, desc, _, coll in keys)
    rows = connection.execute(f"SELECT {columns} FROM {quoted(table)} INDEXED BY {quoted(index)} ORDER BY {order}")
    return all(_compare(one, other, keys, fold) <= 0 for one, other in pairwise(rows))


def _compare(one: _Row, other: _Row, keys: list[tuple[str, int, str, str]], fold: Callable[[str], str]) -> int:
    for mine, theirs, (_, desc, upper, _) in zip(one, other, keys, strict=True):
        chosen = _FOLDS[upper] if upper in BUILT_IN_COLLATIONS else fold
        left, right = _sortable(mine, chosen), _sortable(theirs, chosen)
        if left != right:
            sign = -1 if left < right else 1
            return -sign if desc else sign
    return 0


def _sortable(value: object, fold: Callable[[str], str]) -> tuple[int, object]:
    """SQLite's order of types: nothing, numbers, text, bytes (sqlite.org/datatype3.html, section 4.1)."""
    if value is None:
        return 0, 0
    if isinstance(value, int | float):
        return 1, value
    return (2, fold(value)) if isinstance(value, str) else (3, value)


def _order(fold: Callable[[str], str]) -> Order:
    def compare(one: str, other: str) -> int:
        left, right = fold(one), fold(other)
        return (left > right) - (left < right)

    return compare
