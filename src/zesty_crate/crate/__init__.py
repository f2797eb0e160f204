"""Crates: folders that are valid bags by RFC 8493, filled, read back, and trusted only after a look."""

from .bag import DamagedCrate
from .carriers import Targets, records_bytes
from .contents import PLUG_IN, Bag, Contents, find_contents
from .crate import Crate, open_finished, open_part
from .create import create_crate, name_of_owner, proposed_name
from .delta import Since
from .distribution import Sum
from .earlier_choices import EarlierChoices, earlier_choices
from .filling import Left
from .judge_anew import judge_anew
from .manual_steps import (
    WHENS,
    RequestedStep,
    Step,
    guide_steps,
    keep_steps,
    kept_steps,
    open_gates,
    require_done,
    seats_of,
    with_ids,
)
from .naming import volume_folders
from .one_file import CrateFile, CrateFiles, is_crate_file, open_one_file, parts_here, tarfile_of, write_one_file
from .pack import PackedPart, PackReport, pack
from .records import LeftOut, readable_size
from .removing import remove_crate, remove_remains
from .room import PartRoom, Room
from .routine import KeepRule, RoutineReport, run_routine
from .scope import IS_OUTSIDE, USUAL_CLASSES, Scope, chosen_holdings, group_scope, merges
from .verify import Verified, verify
from .watch import Watch

__all__ = [
    "IS_OUTSIDE",
    "PLUG_IN",
    "USUAL_CLASSES",
    "WHENS",
    "Bag",
    "Contents",
    "Crate",
    "CrateFile",
    "CrateFiles",
    "DamagedCrate",
    "EarlierChoices",
    "KeepRule",
    "Left",
    "LeftOut",
    "PackReport",
    "PackedPart",
    "PartRoom",
    "RequestedStep",
    "Room",
    "RoutineReport",
    "Scope",
    "Since",
    "Step",
    "Sum",
    "Targets",
    "Verified",
    "Watch",
    "chosen_holdings",
    "create_crate",
    "earlier_choices",
    "find_contents",
    "group_scope",
    "guide_steps",
    "is_crate_file",
    "judge_anew",
    "keep_steps",
    "kept_steps",
    "merges",
    "name_of_owner",
    "open_finished",
    "open_gates",
    "open_one_file",
    "open_part",
    "pack",
    "parts_here",
    "proposed_name",
    "readable_size",
    "records_bytes",
    "remove_crate",
    "remove_remains",
    "require_done",
    "run_routine",
    "seats_of",
    "tarfile_of",
    "verify",
    "volume_folders",
    "with_ids",
    "write_one_file",
]
