"""Computers: sheets that describe them, and the disks on which their files are from here."""

from .computer import Computer, Volume, computer_of
from .disk import Disk, database_faults
from .files import WHOLE, Copied, Cut, DiskError, FileFacts
from .finder import Finder, Seen, Sight
from .folders import make_folders, own_folder, working_folder
from .hand import Hand, Process, started
from .helper import SMALL_BYTES, Order, receive, send
from .listing import Contents
from .outside import Clock, Outside, Processes
from .sheet import Sheet, load_sheet
from .side_by_side import Light, beside, in_batches, side_by_side

__all__ = [
    "SMALL_BYTES",
    "WHOLE",
    "Clock",
    "Computer",
    "Contents",
    "Copied",
    "Cut",
    "Disk",
    "DiskError",
    "FileFacts",
    "Finder",
    "Hand",
    "Light",
    "Order",
    "Outside",
    "Process",
    "Processes",
    "Seen",
    "Sheet",
    "Sight",
    "Volume",
    "beside",
    "computer_of",
    "database_faults",
    "in_batches",
    "load_sheet",
    "make_folders",
    "own_folder",
    "receive",
    "send",
    "side_by_side",
    "started",
    "working_folder",
]
