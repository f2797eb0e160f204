"""How the entries of one table are read: the query, and what its values are."""

from __future__ import annotations

from typing import Any, NamedTuple

from ..guides import EntriesPart, PiecePart
from .sqlite_trees import Tree


class Place(NamedTuple):
    """Where a piece of a path stands: a table and a column; the entry's own column that points there may be changed.

    With a ``tree`` it is as many pieces as the branch has rows.
    """

    part: PiecePart
    table: str
    column: str
    via: str = ""
    tree: Tree | None = None

    @property
    def is_in_a_form(self) -> bool:
        """Whether what the cell holds is not simply the text of the piece."""
        return bool(self.part.blob or self.part.match or self.part.separator or self.part.made_of)


class PlannedRow(NamedTuple):
    """One row of the query that reads an entries table. ``pieces`` are row numbers and texts, outermost piece first."""

    key: object
    remote: object
    size: object
    pieces: tuple[tuple[Any, object], ...]
    annotations: tuple[object, ...]
    known: tuple[object, ...]


class Plan(NamedTuple):
    """How the entries of one table are read; ``knows`` when there is more to an entry than its path and size."""

    part: EntriesPart
    prefix: str
    own_rows: str
    columns: str
    joined: str
    cells: list[Place]
    known: tuple[str, ...]
    knows: bool
    is_composed: bool  # there is more to its paths than the texts of its cells in their order
    tree: Tree | None  # when a path is a branch of a tree and a name, and nothing more is known
    lost: dict[int | str, str]  # rows that point to a piece which is not there, and what they say

    def named(self, values: tuple[Any, ...]) -> PlannedRow:
        """The values of one row by their names, in the order in which `SqliteCatalog` selects them."""
        key, remote, size, *rest = values
        after_pieces = 2 * len(self.cells)
        after_annotations = after_pieces + len(self.part.annotations)
        pieces = zip(rest[0:after_pieces:2], rest[1:after_pieces:2], strict=True)
        return PlannedRow(
            key,
            remote,
            size,
            tuple(pieces),
            tuple(rest[after_pieces:after_annotations]),
            tuple(rest[after_annotations:]),
        )

    def query_of_all(self, condition: str = "", more: str = "") -> str:
        """Every entry, in the order of its table; or those whose row number fulfils a ``condition``.

        With ``more`` there is one value more at the end.
        """
        columns = f"{self.columns}, {more}" if more else self.columns
        return f'SELECT {columns} {self.joined}{condition} ORDER BY own."own row"'

    @property
    def is_swept(self) -> bool:
        """Whether a path is the text of one cell, on which nothing else depends."""
        return not (len(self.cells) > 1 or self.is_composed or self.part.besides or self.part.remote_like)

    @property
    def is_plain(self) -> bool:
        """Whether no more is known of an entry than its path, its size and annotations, and its path is one text."""
        return not (len(self.cells) > 1 or self.is_composed or self.knows)

    @property
    def row_at(self) -> int:
        """Where the number of an entry's own row is among the values: that of its last piece."""
        return 3 + 2 * (len(self.cells) - 1)

    @property
    def query_of_one(self) -> str:
        """The entry in one row."""
        return f'SELECT {self.columns} {self.joined} WHERE own."own row" = ?'
