"""What catalogs may be inside of: ZIP, tar, gzip, zlib, base64, and values of other documents, nested as one likes."""

from .contained import ContainedSyntax
from .layers import Layer

__all__ = ["ContainedSyntax", "Layer"]
