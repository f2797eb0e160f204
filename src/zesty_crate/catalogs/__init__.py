"""Documents that hold recorded paths: one module a syntax, all behind the same protocol."""

from .changes import ChangeList
from .copies import renewed
from .known import NOTHING_KNOWN, Known, Numbered, moment
from .model import (
    Addition,
    BranchedCatalog,
    BriefCatalog,
    BriefTable,
    Catalog,
    CatalogError,
    Cell,
    Change,
    Entry,
    Group,
    GrowingCatalog,
    InBranch,
    NewText,
    Pointer,
    Proof,
    StoredPiece,
    SweptCatalog,
    Syntax,
    base_of,
)
from .plist_forms import as_json, as_xml, from_json, is_binary_plist
from .reading import Reading, is_one_name
from .search_indexes import in_step, indexes_over, rebuild
from .spans import RecordName, Splice
from .sqlite_file import open_immutable, open_readonly, open_writable, quoted, reading_condition
from .syntaxes import contained_syntax, syntax_of
from .text_records import PlacedRecord, TextRecords, text_file_of, text_records

__all__ = [
    "NOTHING_KNOWN",
    "Addition",
    "BranchedCatalog",
    "BriefCatalog",
    "BriefTable",
    "Catalog",
    "CatalogError",
    "Cell",
    "Change",
    "ChangeList",
    "Entry",
    "Group",
    "GrowingCatalog",
    "InBranch",
    "Known",
    "NewText",
    "Numbered",
    "PlacedRecord",
    "Pointer",
    "Proof",
    "Reading",
    "RecordName",
    "Splice",
    "StoredPiece",
    "SweptCatalog",
    "Syntax",
    "TextRecords",
    "as_json",
    "as_xml",
    "base_of",
    "contained_syntax",
    "from_json",
    "in_step",
    "indexes_over",
    "is_binary_plist",
    "is_one_name",
    "moment",
    "open_immutable",
    "open_readonly",
    "open_writable",
    "quoted",
    "reading_condition",
    "rebuild",
    "renewed",
    "syntax_of",
    "text_file_of",
    "text_records",
]
