"""Computers: sheets that describe them, and the disks on which their files are from here."""

from .computer import Computer, Volume, computer_of
from .describe import read_sheet
from .disk import BOUNDLESS, Disk, database_faults, faults_in, require_readable
from .file_keys import FileKeys
from .files import WHOLE, Copied, Cut, DiskError, FileFacts, usual_mode
from .finder import Finder, Seen, Sight, require_in_reach, said_of
from .folders import make_folders, own_folder, working_folder
from .host import Host
from .installed import Installed, installed_in_registry, installed_on
from .listing import Contents
from .lock import BusyError, lock_of_computer, one_at_a_time
from .outside import Clock, Outside, Processes
from .parallel import BATCH_BYTES, BATCH_FILES, ENOUGH_FILES, SmallWork, beside, in_batches, in_parallel
from .sheet import Sheet, SheetPart, load_sheet
from .worker import Process, Worker, started

__all__ = [
    "BATCH_BYTES",
    "BATCH_FILES",
    "BOUNDLESS",
    "ENOUGH_FILES",
    "WHOLE",
    "BusyError",
    "Clock",
    "Computer",
    "Contents",
    "Copied",
    "Cut",
    "Disk",
    "DiskError",
    "FileFacts",
    "FileKeys",
    "Finder",
    "Host",
    "Installed",
    "Outside",
    "Process",
    "Processes",
    "Seen",
    "Sheet",
    "SheetPart",
    "Sight",
    "SmallWork",
    "Volume",
    "Worker",
    "beside",
    "computer_of",
    "database_faults",
    "faults_in",
    "in_batches",
    "in_parallel",
    "installed_in_registry",
    "installed_on",
    "load_sheet",
    "lock_of_computer",
    "make_folders",
    "one_at_a_time",
    "own_folder",
    "read_sheet",
    "require_in_reach",
    "require_readable",
    "said_of",
    "started",
    "usual_mode",
    "working_folder",
]
