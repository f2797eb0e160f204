"""Two catalogs of one program become one: nothing of either side is lost, and every count is proven."""

from .model import KeyMap, MergedTable, MergeReport, Taken, ValueConflict, Wishes
from .sqlite_merge import OriginFiles, SqliteMerged, SqliteSides, merge_sqlite
from .sqlite_proof import prove_sqlite

__all__ = [
    "KeyMap",
    "MergeReport",
    "MergedTable",
    "OriginFiles",
    "SqliteMerged",
    "SqliteSides",
    "Taken",
    "ValueConflict",
    "Wishes",
    "merge_sqlite",
    "prove_sqlite",
]
