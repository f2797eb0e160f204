"""Take stock: places, holdings, files, entries and their states; kept in SQLite."""

from .judge import Judge, Judgement
from .landmarks import name_landmarks
from .model import (
    NEEDS_ATTENTION,
    HoldingReport,
    Problem,
    State,
    SurveyReport,
    Totals,
    no_totals,
    summed,
)
from .store import Carried, Document, EntryRow, FileRow, SurveyStore
from .summary import summarize
from .take import Wishes, take_survey

__all__ = [
    "NEEDS_ATTENTION",
    "Carried",
    "Document",
    "EntryRow",
    "FileRow",
    "HoldingReport",
    "Judge",
    "Judgement",
    "Problem",
    "State",
    "SurveyReport",
    "SurveyStore",
    "Totals",
    "Wishes",
    "name_landmarks",
    "no_totals",
    "summarize",
    "summed",
    "take_survey",
]
