"""Two catalogs of one program become one: nothing of either side is lost, and every count is proven."""

from .merging import Merged, can_merge, merge_and_prove
from .model import KeyMap, MergedTable, MergeReport, Rows, Taken, ValueConflict, Wishes
from .sides import OriginFiles, Sides

__all__ = [
    "KeyMap",
    "MergeReport",
    "Merged",
    "MergedTable",
    "OriginFiles",
    "Rows",
    "Sides",
    "Taken",
    "ValueConflict",
    "Wishes",
    "can_merge",
    "merge_and_prove",
]
