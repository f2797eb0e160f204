"""The registry of a Windows computer: its real one, an export that represents it, or the hives of a mounted disk."""

from .hive import HiveError, blocks_of_hive
from .regfile import RegistryError, read_export, write_export
from .system import ExportedRegistry, SystemRegistry, WindowsRegistry, this_registry, windows_machine
from .tree import Block, Difference, Tree, Value, differences_of, shown_value, value_name, whole_name

__all__ = [
    "Block",
    "Difference",
    "ExportedRegistry",
    "HiveError",
    "RegistryError",
    "SystemRegistry",
    "Tree",
    "Value",
    "WindowsRegistry",
    "blocks_of_hive",
    "differences_of",
    "read_export",
    "shown_value",
    "this_registry",
    "value_name",
    "whole_name",
    "windows_machine",
    "write_export",
]
