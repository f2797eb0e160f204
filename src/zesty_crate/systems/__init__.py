"""What operating systems do differently: one interface, one module a system, chosen once.

Nothing else of the program asks on which system it runs. It imports nothing else of ours, and at its start no more of
the standard library than it must: processes that lend a hand start with it alone.
"""

from .model import HIDDEN, OperatingSystem, is_open_elsewhere
from .this import this_system, windows_registry
from .worker_program import SMALL_BYTES, Order, receive, send

__all__ = [
    "HIDDEN",
    "SMALL_BYTES",
    "OperatingSystem",
    "Order",
    "is_open_elsewhere",
    "receive",
    "send",
    "this_system",
    "windows_registry",
]
