"""The hand-over report: one page that stands alone, for the customer in plain words and for the technician in full."""

from .anonymous import anonymous
from .gather import Gathered, gather
from .page import as_page
from .paper import as_pdf, require_pdf
from .tables import write_csv

__all__ = [
    "Gathered",
    "anonymous",
    "as_page",
    "as_pdf",
    "gather",
    "require_pdf",
    "write_csv",
]
