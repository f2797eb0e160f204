"""Whether an access list says more than what a folder inherits ([MS-DTYP] 2.4.4 to 2.4.6).

NTFS keeps it as a security descriptor, which Windows tells, and Linux as an attribute of a mounted disk.
"""

from __future__ import annotations

import struct

_INHERITED = 0x10  # INHERITED_ACE
_HAS_LIST = 0x0004  # SE_DACL_PRESENT
_OWN_LIST = 0x1000  # SE_DACL_PROTECTED: it takes nothing from the folder around it


def has_own_entries(descriptor: bytes) -> bool:
    """Whether a descriptor in self-relative form lists anything that is not inherited. What is broken lists nothing."""
    if len(descriptor) < 20:
        return False
    control, place = struct.unpack_from("<2xH12xI", descriptor)
    if not control & _HAS_LIST or not 20 <= place <= len(descriptor) - 8:
        return False
    if control & _OWN_LIST:
        return True
    size, number = struct.unpack_from("<2xHH", descriptor, place)
    at, end = place + 8, min(place + size, len(descriptor))
    for _ in range(number):
        if at + 4 > end:
            return False
        flags, length = struct.unpack_from("<xBH", descriptor, at)
        if not flags & _INHERITED:
            return True
        if length < 4:
            return False
        at += length
    return False
