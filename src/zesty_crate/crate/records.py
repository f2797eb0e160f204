"""Everything of a part but its payload: what it is, its manifests, and the records of the whole crate."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass

from ..machines import Disk, Outside, make_folders
from ..survey import SurveyStore
from ..version import __version__
from .bag import DECLARATION, PAYLOAD_MANIFEST, TAG_MANIFEST, write_bag_info, write_manifest
from .carriers import Carrier, series_of
from .crate import FORMAT, Crate, write_tag_manifest
from .filling import IN_BAG
from .scope import TRAVELS, Scope

# What was asked to be left; caches and media outside the programs' folders stay by default, and are told elsewhere.
_LEFT_OUT = """
SELECT l.why, count(*), sum(f.size) FROM left_out AS l JOIN file AS f ON f.id = l.file
WHERE f.kind = 'file' AND (f.role = 'own' OR l.why = ?) GROUP BY l.why ORDER BY l.why
"""


@dataclass(frozen=True, slots=True)
class LeftOut:
    """What the scope leaves out for one reason. Sizes in bytes."""

    why: str
    files: int
    size_bytes: int


def left_out(survey: SurveyStore) -> tuple[LeftOut, ...]:
    """What the scope leaves out, by reasons."""
    return tuple(LeftOut(*row) for row in survey.database.execute(_LEFT_OUT, (TRAVELS,)))


def held(survey: SurveyStore, bag: int) -> tuple[int, int]:
    """How many payload files a bag holds, and their bytes."""
    query = f"SELECT count(*), coalesce(sum(size), 0) FROM ({IN_BAG})"
    files, size = next(iter(survey.database.execute(query, (bag,))))
    return files, size


class Records:
    """Writes the records of parts. ``parts`` is how many there are, or None while nobody knows."""

    def __init__(self, crate: Crate, survey: SurveyStore, scope: Scope, outside: Outside) -> None:
        self._crate = crate
        self._survey = survey
        self._scope = scope
        self._disk: Disk = outside.disk
        self._now = outside.clock.now()

    def begin(self, carrier: Carrier) -> None:
        """Have a part known for what it is while it is unfinished."""
        for copy in carrier.copies:
            if copy.root != self._crate.root and self._disk.facts(copy.about_path) is None:
                make_folders(self._disk, copy.own)
                self._write_about(copy, carrier, None, 0, 0)

    def write(self, carrier: Carrier, parts: int | None) -> None:
        """Write all of a part but the tag manifest, with which it is finished."""
        files, size = held(self._survey, carrier.bag)
        for copy in carrier.copies:
            self._disk.remove(copy.root / TAG_MANIFEST)
            if copy.root != self._crate.root and carrier.has_all_records:
                self._copy_records(copy)
            self._disk.write_text(copy.root / "bagit.txt", DECLARATION)
            self._write_about(copy, carrier, parts, files, size)
            write_bag_info(self._disk, copy.root / "bag-info.txt", self._fields(carrier.bag, parts, files, size))
            rows = self._survey.database.execute(IN_BAG, (carrier.bag,))
            write_manifest(self._disk, copy.root / PAYLOAD_MANIFEST, ((payload, sha512) for payload, sha512, _ in rows))

    def finish(self, carrier: Carrier) -> None:
        """Write the tag manifests of a part and its copy."""
        for copy in reversed(carrier.copies):  # the first is what a later run knows it is done by
            write_tag_manifest(copy, self._disk)

    def _copy_records(self, part: Crate) -> None:
        """Have the whole crate's own records in a part, so that any one of them describes all."""
        disk, own = self._disk, self._crate
        make_folders(disk, part.guides_folder)
        for name in disk.names(own.guides_folder):
            disk.write_text(part.guides_folder / name, disk.read_text(own.guides_folder / name))
        disk.write_text(part.own / "sheet.toml", disk.read_text(own.own / "sheet.toml"))
        beside = part.own / "survey.db.part"
        disk.remove(beside)
        disk.remove(part.survey_path)  # there may be no room for both; the part is unfinished meanwhile
        facts = disk.facts(own.survey_path)
        if facts is not None:
            disk.copy(own.survey_path, beside, facts)
        disk.rename(beside, part.survey_path)

    def _write_about(self, part: Crate, carrier: Carrier, parts: int | None, files: int, size: int) -> None:
        survey = self._survey
        about = {
            "format": FORMAT,
            "software": f"Zesty Crate {__version__}",
            "series": series_of(survey),
            "part": carrier.bag,
            "parts": parts,
            "records": carrier.has_all_records,
            "computer": {
                "name": survey.about("computer"),
                "system": survey.about("system"),
                "user": survey.about("user"),
            },
            "surveyed": survey.about("taken"),
            "packed": self._now.isoformat(),
            "builds-on": survey.about("since"),
            "scope": self._scope.as_document(),
            "left-out": [asdict(each) for each in left_out(survey)],
            "second-copy": survey.about("second-copy"),
            "files": files,
            "bytes": size,
        }
        self._disk.write_text(part.about_path, json.dumps(about, indent=2, ensure_ascii=False) + "\n")

    def _fields(self, bag: int, parts: int | None, files: int, size: int) -> list[tuple[str, str]]:
        computer, user = self._survey.about("computer"), self._survey.about("user")
        fields = [
            ("Bagging-Date", self._now.date().isoformat()),
            ("Payload-Oxum", f"{size}.{files}"),
            ("Bag-Size", readable_size(size)),
            ("External-Description", f"What {user} needs from the computer {computer}, taken with Zesty Crate"),
            ("Bag-Software-Agent", f"Zesty Crate {__version__}"),
        ]
        if parts != 1:
            fields += [
                ("Bag-Group-Identifier", series_of(self._survey)),
                ("Bag-Count", f"{bag} of {parts or '?'}"),
            ]
        return fields


def readable_size(size_bytes: int) -> str:
    """A size for people, in decimal units as drives are sold."""
    size, unit = float(size_bytes), "B"
    for unit in ("B", "kB", "MB", "GB", "TB"):
        if size < 1000 or unit == "TB":
            break
        size /= 1000
    return f"{size:.0f} {unit}" if unit == "B" else f"{size:.1f} {unit}"
