"""Take stock: places, holdings, files, entries and their states; kept in SQLite."""

from .judge import Judge, Judgement
from .model import NEEDS_ATTENTION, HoldingReport, Problem, State, SurveyReport, Totals, no_totals, summed
from .store import Carried, Document, EntryRow, FileRow, SurveyStore
from .summary import summarize
from .take import take_survey

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
    "no_totals",
    "summarize",
    "summed",
    "take_survey",
]
