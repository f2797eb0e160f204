"""Two catalogs of one program become one: nothing of either side is lost, and every count is proven."""

from .merging import Merged, can_merge, merge_and_prove
from .model import KeyMap, MergedTable, MergeOptions, MergeReport, Rows, Taken, ValueConflict
from .sides import OriginFiles, Sides

__all__ = [
    "KeyMap",
    "MergeOptions",
    "MergeReport",
    "Merged",
    "MergedTable",
    "OriginFiles",
    "Rows",
    "Sides",
    "Taken",
    "ValueConflict",
    "can_merge",
    "merge_and_prove",
]
