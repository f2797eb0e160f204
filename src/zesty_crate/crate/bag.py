"""Bags by RFC 8493 (BagIt 1.0): tag files and manifests, written and read with suspicion."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from pathlib import Path

from ..errors import ZestyError
from ..machines import Disk, DiskError
from ..paths import FORMATS, name_fault
from .naming import PLAIN_NAME, carrier_key

DECLARATION = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n"
PAYLOAD_MANIFEST = "manifest-sha512.txt"
TAG_MANIFEST = "tagmanifest-sha512.txt"

_LINE = re.compile(r"([0-9A-Fa-f]{128})[ \t]+(\S.*)")


class DamagedCrate(ZestyError):  # noqa: N818  a damaged crate is what it is
    """A crate is not what its manifests say; ``details`` has a line for each file concerned."""


def write_manifest(disk: Disk, path: Path, rows: Iterable[tuple[str, str]]) -> None:
    """Write a manifest of (name, digest) rows; names use ``/`` (RFC 8493, 2.1.3)."""
    disk.write_text(path, (f"{digest}  {_percent_encoded(name)}\n" for name, digest in rows))


def read_manifest(disk: Disk, path: Path) -> Iterator[tuple[str, str]]:
    """The names in a manifest with their digests in lower case.

    Raises `DamagedCrate` for a line or a name that must not be.
    """
    if disk.facts(path) is None:
        raise DamagedCrate(
            f"{path.parent} has no {path.name}, so its files cannot be verified.",
            next_step="If packing was interrupted, run zesty pack again. Otherwise use another copy of the crate.",
        )
    keys: set[int] = set()  # hashes: names that meet by chance are too rare to count, and a million take little room
    for number, line in enumerate(disk.read_lines(path), start=1):
        match = _LINE.fullmatch(line)
        if not match:
            raise DamagedCrate(f"Line {number} of {path} is not a digest and a name: {line[:80]!r}.", next_step=_OTHER)
        name = _percent_decoded(match.group(2))
        if fault := fault_of_name(name):
            raise DamagedCrate(f"Line {number} of {path} names {name!r}, {fault}.", next_step=_REFUSED)
        if (key := hash(carrier_key(name))) in keys:  # what some computer would take for one file is listed once
            raise DamagedCrate(f"Line {number} of {path} names {name!r} a second time.", next_step=_OTHER)
        keys.add(key)
        yield name, match.group(1).lower()


def write_bag_info(disk: Disk, path: Path, fields: Iterable[tuple[str, str]]) -> None:
    """Write ``bag-info.txt`` (RFC 8493, 2.2.2)."""
    disk.write_text(path, "".join(f"{label}: {value}\n" for label, value in fields))


def read_bag_info(disk: Disk, path: Path) -> dict[str, str]:
    """The fields of ``bag-info.txt``; of a label that is repeated, the last."""
    fields: dict[str, str] = {}
    label = ""
    for line in disk.read_text(path).splitlines():
        if line[:1] in (" ", "\t") and label:
            fields[label] += " " + line.strip()
        elif ":" in line:
            label, value = (part.strip() for part in line.split(":", 1))
            fields[label] = value
    return fields


def check_declaration(disk: Disk, root: Path) -> None:
    """Raise `DamagedCrate` unless ``bagit.txt`` declares a version that is known here."""
    path = root / "bagit.txt"
    if disk.facts(path) is None:
        raise DamagedCrate(f"{root} is not a packed crate: it has no bagit.txt.", next_step="Run zesty pack first.")
    fields = read_bag_info(disk, path)
    version, encoding = fields.get("BagIt-Version"), fields.get("Tag-File-Character-Encoding")
    if version not in ("1.0", "0.97") or encoding != "UTF-8":
        raise DamagedCrate(
            f"{path} declares BagIt {version} in {encoding}; expected BagIt 1.0 in UTF-8.", next_step=_OTHER
        )


def payload_files(disk: Disk, folder: Path, prefix: str) -> Iterator[tuple[str, int]]:
    """Every file below a folder: its name in the bag and its size. Links count as files, with no size."""
    for name, facts in disk.scan(folder).items():
        if isinstance(facts, DiskError):
            raise facts
        if facts.kind == "folder":
            yield from payload_files(disk, folder / name, f"{prefix}{name}/")
        else:
            yield f"{prefix}{name}", facts.size_bytes if facts.is_file else -1


def _percent_encoded(name: str) -> str:
    return name.replace("%", "%25").replace("\r", "%0D").replace("\n", "%0A")


def _percent_decoded(name: str) -> str:
    return name if "%" not in name else re.sub("%(0[AaDd]|25)", lambda match: chr(int(match.group(1), 16)), name)


def fault_of_name(name: str) -> str:
    """Why a name must not be in a manifest. Names come by folders, so each folder is looked at once."""
    if name.startswith(("/", "~")) or name[1:2] == ":" or "\\" in name:
        return "which is not a valid name inside the crate"
    folder, slash, last = name.rpartition("/")
    if (folder_fault := _folder_fault(folder)) if slash else "":
        return folder_fault
    return _part_fault(last)


@lru_cache(maxsize=4096)
def _folder_fault(folder: str) -> str:
    parts = folder.split("/")
    if any(part in _LEADING_OUT for part in parts):
        return _LEADS_OUT
    return next((fault for part in parts if (fault := _part_fault(part))), "")


def _part_fault(part: str) -> str:
    if len(part) < _SHORT_NAME and PLAIN_NAME.fullmatch(part):  # nearly all are
        return ""
    if part in _LEADING_OUT:
        return _LEADS_OUT
    fault = name_fault(part, FORMATS["exfat"])
    return f"which not every system can write: {fault}" if fault else ""


_SHORT_NAME = 200
_LEADING_OUT, _LEADS_OUT = ("", ".", ".."), "which could lead out of the crate"


_OTHER = "Use another copy of the crate."
_REFUSED = "Nothing was read from it. Somebody may have tampered with this crate; use another copy."
