"""What operating systems do differently: one interface, one module a system, chosen once.

Nothing else of the program asks on which system it runs. It imports nothing else of ours, and at its start no more of
the standard library than it must: processes that lend a hand start with it alone.
"""

from .helpers import helper_command
from .model import CREATED, HIDDEN, OperatingSystem, is_open_elsewhere
from .this import this_system, windows_registry

__all__ = [
    "CREATED",
    "HIDDEN",
    "OperatingSystem",
    "helper_command",
    "is_open_elsewhere",
    "this_system",
    "windows_registry",
]
