"""A computer that does not run: its disks are mounted here, and say what it is."""

from .partitions import Partition, partitions
from .sheet import mounted_computer

__all__ = ["Partition", "mounted_computer", "partitions"]
