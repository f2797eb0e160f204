"""Catalogs of drawn shapes are drafted, and an independent reader agrees with what the guide finds."""

from __future__ import annotations

import os
import shutil
import tempfile
from pathlib import Path

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from guide_trials.shapes import FOLDERS, Made, shapes
from zesty_crate.check import survey_aside
from zesty_crate.documents import parse_document
from zesty_crate.drafting import draft_guide
from zesty_crate.guide_trials import rehearse
from zesty_crate.guides import Guide, WholeGuide
from zesty_crate.machines import Outside, load_sheet
from zesty_crate.machines.texts import restored
from zesty_crate.paths import System

EXAMPLES = int(os.environ.get("ZESTY_DRAFTS", "8"))
LABELS = {"first": "Loft", "second": "Spools & Co"}
ROOTS = {
    System.WINDOWS: {"first": "C:", "second": "E:"},
    System.MACOS: {"first": "/", "second": "/Volumes/Spools & Co"},
    System.LINUX: {"first": "/", "second": "/media/odile/Spools & Co"},
}
OWN = {
    System.WINDOWS: "Users/odile/AppData/Roaming/Lamps",
    System.MACOS: "Users/odile/Library/Application Support/Lamps",
    System.LINUX: "home/odile/.config/lamps",
}
_WORDS = st.text("abdeghiklmnoprstuvw é&'-", min_size=4, max_size=9).filter(lambda name: name == name.strip(" -"))
_FILES = st.lists(
    st.tuples(st.sampled_from(sorted(LABELS)), st.sampled_from(FOLDERS), st.lists(_WORDS, max_size=2), _WORDS),
    min_size=10,
    max_size=16,
    unique_by=lambda file: file[3].casefold(),
)


@given(st.data(), st.sampled_from(System))
@settings(max_examples=EXAMPLES, suppress_health_check=[HealthCheck.too_slow], deadline=None)
def test_a_draft_says_what_the_program_means(data: st.DataObject, system: System) -> None:
    files = [
        (volume, (*top.split("/"), *folders, f"{name}.{'wav' if number % 3 else 'tar.gz'}"))
        for number, (volume, top, folders, name) in enumerate(data.draw(_FILES))
    ]
    made = Made(data.draw(shapes(system)), LABELS, files)
    root = Path(tempfile.mkdtemp())
    try:
        drafted_and_read(root, system, made)
    finally:
        shutil.rmtree(root)


def drafted_and_read(root: Path, system: System, made: Made) -> None:
    head = f'[computer]\nname = "loft"\nsystem = "{system}"\nuser = "odile"\n'
    for volume, anchor in ROOTS[system].items():
        head += f'[[volume]]\nanchor = "{anchor}"\nmount = "{volume}"\nlabel = "{LABELS[volume]}"\n'
    (root / "sheet.toml").write_text(head)
    (root / "second").mkdir()
    for volume, names in made.files:
        real = root.joinpath(volume, *names)
        real.parent.mkdir(parents=True, exist_ok=True)
        real.write_bytes(names[-1].encode())
    document = root / "first" / OWN[system] / "takes.lamp"
    document.parent.mkdir(parents=True)
    made.write(document, ROOTS[system])
    outside = Outside()
    sheet = load_sheet(root / "sheet.toml", outside.disk)
    at = ROOTS[system]["first"].rstrip("/") + "/" + OWN[system]
    draft = draft_guide(sheet, [at.replace("/", system.separator)], outside, root / "work")
    assert draft.text, made.shape
    mistakes = [each for each in draft.mistakes if "whoever the user is" not in each.what]  # of the folders drawn here
    assert not mistakes, (made.shape, draft.text, mistakes)
    guide = Guide(parse_document(draft.text, WholeGuide, "The draft"), draft.text)
    with survey_aside(sheet, [guide], outside, root / "work", before=True) as store:
        query = "SELECT path FROM entry WHERE state IN ('found', 'outside')"
        found = {restored(path) for (path,) in store.database.execute(query)}
    labels = {LABELS[volume]: anchor for volume, anchor in ROOTS[system].items()}
    meant = {path for _, path in made.read(document, labels, system)}
    assert found == meant, (made.shape, draft.text)
    rehearsed = rehearse(sheet, guide, outside, root / "work")
    faults = [move.fault for each in rehearsed.documents for move in each.moves if move.fault]
    assert not [fault for fault in faults if "cannot" not in fault], faults
