"""Take stock: places, holdings, files, entries and their states; kept in SQLite."""

from .ahead import Ahead, Errand
from .attached import attach, attached
from .details import HoldingDetails, details_of
from .documents import Registry
from .entries import EntryTaker
from .judge import Judge, Judgement, beside_pattern
from .landmarks import file_to_open, first_file_of, name_landmarks
from .links import note_unregistered
from .model import (
    NEEDS_ATTENTION,
    HoldingReport,
    Landmark,
    Problem,
    ProgramReport,
    State,
    SurveyReport,
    Totals,
    Unregistered,
    VolumeReport,
    no_totals,
    summed,
)
from .rows import Carried, Document, EntryRow, FileRow, HoldingRow, entry_row, new_file
from .store import SurveyStore
from .summary import holding_reports, summarize, unregistered_in
from .tables import write_tables
from .take import Wishes, take_survey
from .walk import Walk

__all__ = [
    "NEEDS_ATTENTION",
    "Ahead",
    "Carried",
    "Document",
    "EntryRow",
    "EntryTaker",
    "Errand",
    "FileRow",
    "HoldingDetails",
    "HoldingReport",
    "HoldingRow",
    "Judge",
    "Judgement",
    "Landmark",
    "Problem",
    "ProgramReport",
    "Registry",
    "State",
    "SurveyReport",
    "SurveyStore",
    "Totals",
    "Unregistered",
    "VolumeReport",
    "Walk",
    "Wishes",
    "attach",
    "attached",
    "beside_pattern",
    "details_of",
    "entry_row",
    "file_to_open",
    "first_file_of",
    "holding_reports",
    "name_landmarks",
    "new_file",
    "no_totals",
    "note_unregistered",
    "summarize",
    "summed",
    "take_survey",
    "unregistered_in",
    "write_tables",
]
