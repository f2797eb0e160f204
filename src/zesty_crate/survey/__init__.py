"""Take stock: places, holdings, files, entries and their states; kept in SQLite."""

from .attached import attach, attached
from .bases import based, bases_of
from .coverage import Uncovered, leave, uncovered_in
from .details import HoldingDetails, details_of
from .documents import FoundDocument, Registry
from .entries import EntryTaker
from .followed_links import PastLinks, followed_links
from .hostile import faults_of_survey, require_sound_rows
from .judge import Judge, Judgement, beside_pattern
from .judge_again import judge_again
from .links import note_unregistered
from .listing import ODD
from .model import (
    DocumentReport,
    HoldingReport,
    NotLookedAt,
    Problem,
    ProgramReport,
    SpotCheck,
    SurveyReport,
    Unregistered,
    VolumeReport,
    summed,
)
from .prefetch import Errand, Prefetch
from .problems import Problems
from .rows import OF_DOCUMENT, Carried, Document, EntryRow, FileRow, HoldingRow, PathRow, bounds_of, entry_row, new_file
from .spot_checks import file_to_open, first_file_of, name_spot_checks, why_not_seen
from .states import BY_WEIGHT, State, Totals, no_totals
from .stocktaking import holding_row, index_entries, list_files, note_not_looked_at, read_catalog
from .store import WERE_READ, SurveyStore, written
from .summary import holding_reports, not_looked_at_in, summarize, unregistered_in
from .tables import write_tables
from .take import SurveyOptions, take_survey
from .uncovered_documents import UncoveredDocument
from .verdicts import Relinked, Verdict
from .walk import Walk

__all__ = [
    "BY_WEIGHT",
    "ODD",
    "OF_DOCUMENT",
    "WERE_READ",
    "Carried",
    "Document",
    "DocumentReport",
    "EntryRow",
    "EntryTaker",
    "Errand",
    "FileRow",
    "FoundDocument",
    "HoldingDetails",
    "HoldingReport",
    "HoldingRow",
    "Judge",
    "Judgement",
    "NotLookedAt",
    "PastLinks",
    "PathRow",
    "Prefetch",
    "Problem",
    "Problems",
    "ProgramReport",
    "Registry",
    "Relinked",
    "SpotCheck",
    "State",
    "SurveyOptions",
    "SurveyReport",
    "SurveyStore",
    "Totals",
    "Uncovered",
    "UncoveredDocument",
    "Unregistered",
    "Verdict",
    "VolumeReport",
    "Walk",
    "attach",
    "attached",
    "based",
    "bases_of",
    "beside_pattern",
    "bounds_of",
    "details_of",
    "entry_row",
    "faults_of_survey",
    "file_to_open",
    "first_file_of",
    "followed_links",
    "holding_reports",
    "holding_row",
    "index_entries",
    "judge_again",
    "leave",
    "list_files",
    "name_spot_checks",
    "new_file",
    "no_totals",
    "not_looked_at_in",
    "note_not_looked_at",
    "note_unregistered",
    "read_catalog",
    "require_sound_rows",
    "summarize",
    "summed",
    "take_survey",
    "uncovered_in",
    "unregistered_in",
    "why_not_seen",
    "write_tables",
    "written",
]
