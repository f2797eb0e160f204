"""Compare two computers, and write down what goes where before anything happens."""

from .arrangement import Arrangement
from .baseline import baseline, record_baseline
from .blockers import absent_parts, blockers_of_programs, current_blockers, programs_of
from .conflicts import Conflict, Version, date_of
from .decisions import Choice, Decision
from .differences import ComputerDifference
from .document import (
    Blocker,
    MergingChoices,
    PlanFile,
    PlannedConflict,
    PlannedRoute,
    ValueChoice,
    load_plan,
    read_plan,
)
from .earlier_moves import EarlierMoves
from .entry_folders import EntryFolders
from .inspect import is_same
from .installer_content import InstallerContent, installer_content
from .lacking import files_there
from .make import Baseline, PlanReport, make_plan
from .merge_records import MergeRecord, standing_record, write_record
from .merging import MergedFile, MergeErrand, merged_file
from .move import Move, open_move
from .options import PlanOptions, given_route
from .placements import Placement, Placements, main_of
from .propose import propose_routes
from .readiness import Readiness
from .registry_conflicts import RegistryConflict, decided_values, merged_branches, outcome_of
from .renamed_companions import renamed_companions
from .same_paths import SamePath, same_paths
from .value_table import read_value_table, write_value_table
from .work import CatalogContent, carried_content

__all__ = [
    "Arrangement",
    "Baseline",
    "Blocker",
    "CatalogContent",
    "Choice",
    "ComputerDifference",
    "Conflict",
    "Decision",
    "EarlierMoves",
    "EntryFolders",
    "InstallerContent",
    "MergeErrand",
    "MergeRecord",
    "MergedFile",
    "MergingChoices",
    "Move",
    "Placement",
    "Placements",
    "PlanFile",
    "PlanOptions",
    "PlanReport",
    "PlannedConflict",
    "PlannedRoute",
    "Readiness",
    "RegistryConflict",
    "SamePath",
    "ValueChoice",
    "Version",
    "absent_parts",
    "baseline",
    "blockers_of_programs",
    "carried_content",
    "current_blockers",
    "date_of",
    "decided_values",
    "files_there",
    "given_route",
    "installer_content",
    "is_same",
    "load_plan",
    "main_of",
    "make_plan",
    "merged_branches",
    "merged_file",
    "open_move",
    "outcome_of",
    "programs_of",
    "propose_routes",
    "read_plan",
    "read_value_table",
    "record_baseline",
    "renamed_companions",
    "same_paths",
    "standing_record",
    "write_record",
    "write_value_table",
]
