"""Computers: sheets that describe them, and the disks on which their files are from here."""

from .computer import Computer, Volume, computer_of
from .disk import Clock, Copied, Disk, DiskError, FileFacts, Outside, make_folders, working_folder
from .finder import Finder, Seen, Sight
from .sheet import Sheet, load_sheet

__all__ = [
    "Clock",
    "Computer",
    "Copied",
    "Disk",
    "DiskError",
    "FileFacts",
    "Finder",
    "Outside",
    "Seen",
    "Sheet",
    "Sight",
    "Volume",
    "computer_of",
    "load_sheet",
    "make_folders",
    "working_folder",
]
