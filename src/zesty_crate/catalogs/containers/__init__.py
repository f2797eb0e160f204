"""What catalogs may be inside of: ZIP, tar, gzip, zlib, base64, and values of other documents, nested as one likes."""

from .contained import ContainedSyntax
from .layers import Layer
from .streams import Base64, Gzip, Zlib
from .tar_members import TarMembers
from .values import ColumnValues, TextValues
from .zip_members import ZipMembers

__all__ = [
    "Base64",
    "ColumnValues",
    "ContainedSyntax",
    "Gzip",
    "Layer",
    "TarMembers",
    "TextValues",
    "ZipMembers",
    "Zlib",
]
