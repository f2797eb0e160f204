"""A crate: one folder that holds everything about one move, and what state it is in."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..documents import parse_document
from ..errors import ZestyError
from ..guides import Guide, WholeGuide
from ..machines import Disk, Sheet
from ..machines.sheet import SheetPart
from ..survey import SurveyStore
from .bag import (
    PAYLOAD_MANIFEST,
    TAG_MANIFEST,
    DamagedCrate,
    check_declaration,
    read_manifest,
    write_manifest,
)

FORMAT = 3
ANEW = "anew"  # the folder of records that are about to take the place of those that are there


@dataclass(frozen=True, slots=True)
class Crate:
    """The places inside one crate."""

    root: Path

    @property
    def name(self) -> str:
        """The crate's name, for people."""
        return self.root.absolute().name

    @property
    def own(self) -> Path:
        """The folder of the crate's own records."""
        return self.root / "zesty"

    @property
    def lock_path(self) -> Path:
        """The file that who fills it holds a lock on."""
        return self.own / "lock"

    @property
    def survey_path(self) -> Path:
        """The survey."""
        return self.own / "survey.db"

    @property
    def about_path(self) -> Path:
        """What this is, in JSON."""
        return self.own / "about.json"

    @property
    def incoming_by_worker(self) -> Path:
        """Where another process does the same: one folder would have them wait for each other."""
        return self.own / "incoming-by-worker"

    @property
    def incoming(self) -> Path:
        """The folder in which files are written before they are whole."""
        return self.own / "incoming"

    @property
    def data(self) -> Path:
        """The payload."""
        return self.root / "data"

    @property
    def guides_folder(self) -> Path:
        """The guides that the survey was made with."""
        return self.own / "guides"

    @property
    def manual_steps_path(self) -> Path:
        """What only a person can do, and their ticks."""
        return self.own / "manual-steps.csv"

    @property
    def registry_folder(self) -> Path:
        """What stood in the old computer's registry, branch by branch."""
        return self.own / "registry"

    def export_path(self, holding: str) -> Path:
        """The export of the branch of a holding."""
        return self.registry_folder / f"{holding.replace('/', ' ')}.reg"

    def move_folder(self, computer: str) -> Path:
        """What concerns the move to one new computer: its plan, its journal, what was set aside."""
        return self.root / "moves" / computer

    def is_finished(self, disk: Disk) -> bool:
        """Whether packing came to its end."""
        return disk.facts(self.root / TAG_MANIFEST) is not None

    def open_survey(self, disk: Disk, *, writable: bool = False) -> SurveyStore:
        """The survey in the crate. Raises `ZestyError` when there is none."""
        if disk.facts(self.survey_path) is None:
            is_there = disk.facts(self.root) is not None
            raise ZestyError(
                f"{self.root} is not a crate: {'it has no zesty/survey.db' if is_there else 'it does not exist'}.",
                next_step="Name a crate, or create one with zesty survey CRATE --from SHEET.",
            )
        return SurveyStore.open(self.survey_path, writable=writable)

    def old_sheet(self, disk: Disk, survey: SurveyStore) -> Sheet:
        """The sheet of the old computer, with its mounts where they were at the survey."""
        text = disk.read_text(self.own / "sheet.toml")
        part = parse_document(text, SheetPart, f"The sheet in {self.name}")
        return Sheet(part, text, Path(str(survey.about("sheet_folder"))))

    def guides(self, disk: Disk) -> list[Guide]:
        """The guides in the crate."""
        texts = [disk.read_text(self.guides_folder / name) for name in disk.names(self.guides_folder)]
        return [Guide(parse_document(text, WholeGuide, f"A guide in {self.name}"), text) for text in texts]

    def names_of_own(self, disk: Disk) -> list[str]:
        """The guide files and the exports of the registry in the crate, as a manifest names them."""
        return [
            f"zesty/{folder.name}/{name}"
            for folder in (self.guides_folder, self.registry_folder)
            if disk.facts(folder) is not None
            for name in disk.names(folder)
        ]

    def about(self, disk: Disk) -> dict[str, Any]:
        """``about.json``. Raises `DamagedCrate` when its format is not known here."""
        path = self.about_path
        try:
            about = json.loads(disk.read_text(path))
            found = about["format"]
        except (ValueError, TypeError, KeyError) as error:
            raise DamagedCrate(f"{path} cannot be read: {error}.", next_step="Use another copy.") from error
        if found != FORMAT:
            raise DamagedCrate(
                f"{self.root} is a crate of format {found}; this version reads format {FORMAT}.",
                next_step="Use the version of Zesty Crate that wrote it.",
            )
        return dict(about)


def open_finished(root: Path, disk: Disk) -> Crate:
    """A crate that was packed to its end, its own records checked against the tag manifest.

    Raises `ZestyError` when it is no crate or unfinished, and `DamagedCrate` when its records are not what was written.
    """
    crate = Crate(root)
    if disk.facts(crate.survey_path) is None and disk.facts(crate.about_path) is not None:
        part = crate.about(disk).get("part")
        raise ZestyError(
            f"{root} is part {part} of a crate, and has only what belongs to itself: its carrier was small beside the "
            "crate's records.",
            next_step="Name the crate's first part, and this one with --part.",
        )
    crate.open_survey(disk).close()
    return open_part(root, disk)


def open_part(root: Path, disk: Disk) -> Crate:
    """The same for a part, which may have nothing but what belongs to itself."""
    crate = Crate(root)
    if disk.facts(crate.about_path) is None:
        crate.open_survey(disk).close()
    if not crate.is_finished(disk) and disk.facts(root / PAYLOAD_MANIFEST) is None:
        raise ZestyError(
            f"{root} is unfinished: it has no {PAYLOAD_MANIFEST} and no {TAG_MANIFEST}.",
            next_step=f'Run zesty pack "{root}" first; it continues where it stopped.',
        )
    check_declaration(disk, root)
    rows = dict(read_manifest(disk, root / TAG_MANIFEST))
    next(read_manifest(disk, root / PAYLOAD_MANIFEST), None)  # it is there; whoever reads the payload reads all of it
    faults = [f"{name}: {fault}" for name, digest in rows.items() if (fault := _tag_fault(disk, root / name, digest))]
    missing = [name for name in _tag_files(crate, disk) if name not in rows]
    missing += [name for name in crate.names_of_own(disk) if name not in rows]
    faults += [f"{name}: not in the tag manifest" for name in missing]
    if faults and disk.facts(crate.own / ANEW) is not None:
        raise ZestyError(
            f"{root} was about to be judged anew, and that was broken off.",
            next_step="Run zesty survey --again on it once more; it goes on where it stopped.",
        )
    if faults:
        raise DamagedCrate(
            f"{root} is damaged: its records were changed after writing.",
            details=faults,
            next_step="Use another copy of the crate, or pack it again from the old computer.",
        )
    return crate


def write_tag_manifest(crate: Crate, disk: Disk) -> None:
    """Write the tag manifest, with which a crate is finished."""
    names = sorted([*_tag_files(crate, disk), *crate.names_of_own(disk)])
    rows = [(name, disk.digest(crate.root / name).sha512) for name in names]
    write_manifest(disk, crate.root / TAG_MANIFEST, rows)


_OF_A_PART = ("bagit.txt", "bag-info.txt", PAYLOAD_MANIFEST, "zesty/about.json")
_OF_A_CRATE = ("zesty/survey.db", "zesty/sheet.toml")


def _tag_files(crate: Crate, disk: Disk) -> tuple[str, ...]:
    return (*_OF_A_PART, *_OF_A_CRATE) if crate.about(disk).get("records", True) else _OF_A_PART


def _tag_fault(disk: Disk, path: Path, digest: str) -> str:
    facts = disk.facts(path)
    if facts is None or not facts.is_file:
        return "not there"
    return "" if disk.digest(path).sha512 == digest else "content differs from what was written"
