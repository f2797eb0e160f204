"""Take stock: places, holdings, files, entries and their states; kept in SQLite."""

from .details import HoldingDetails, details_of
from .documents import Registry
from .judge import Judge, Judgement
from .landmarks import name_landmarks
from .model import (
    NEEDS_ATTENTION,
    HoldingReport,
    Problem,
    ProgramReport,
    State,
    SurveyReport,
    Totals,
    VolumeReport,
    no_totals,
    summed,
)
from .rows import Carried, Document, EntryRow, FileRow
from .store import SurveyStore
from .summary import summarize
from .tables import write_tables
from .take import Wishes, take_survey

__all__ = [
    "NEEDS_ATTENTION",
    "Carried",
    "Document",
    "EntryRow",
    "FileRow",
    "HoldingDetails",
    "HoldingReport",
    "Judge",
    "Judgement",
    "Problem",
    "ProgramReport",
    "Registry",
    "State",
    "SurveyReport",
    "SurveyStore",
    "Totals",
    "VolumeReport",
    "Wishes",
    "details_of",
    "name_landmarks",
    "no_totals",
    "summarize",
    "summed",
    "take_survey",
    "write_tables",
]
