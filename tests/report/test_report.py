"""The hand-over report: whole, self-contained, readable without a script, and drawn by a real browser."""

from __future__ import annotations

import csv
import itertools
import re
import shutil
import subprocess
from html.parser import HTMLParser
from pathlib import Path

import pytest
from lxml import html
from PIL import Image

from conftest import Zesty
from support.moves import SmallMove
from support.trip import SQLITE, Trip
from zesty_crate.errors import ZestyError
from zesty_crate.report import as_pdf, require_pdf

CHROMIUM = shutil.which("chromium")


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    return Trip(tmp_path, zesty)


@pytest.fixture(scope="module")
def page(planned: Path, tmp_path_factory: pytest.TempPathFactory, zesty: Zesty) -> Path:
    root = tmp_path_factory.mktemp("report") / "demo"
    shutil.copytree(planned, root, symlinks=True)
    move = SmallMove.at(root)
    move.unpack()
    move.relink()
    odd = next((move.new_disks / "system").rglob("Lamp Lit.wav"))
    odd.with_name("<b>Try & see.wav").write_bytes(b"odd name")
    move.check()
    target = root / "page.html"
    made = zesty("report", move.crate.root, "--to", move.demo.new_sheet, "-o", target, "--csv", root / "csv")
    assert made.returncode == 0, made.stderr
    return target


PAPER = """<!doctype html><html lang="en"><title>From paintloft to cartshed</title><style>
:root { --bar-1: #123456; } @media print { :root { --ink: #000; --bar-1: #d02060; } }</style>
<h1>From paintloft to cartshed</h1><img src="file:///etc/hostname" alt="no">
<svg viewBox="0 0 10 10" width="10cm"><rect width="10" height="10" style="fill: var(--bar-1)"/></svg>"""


def test_a_pdf_has_the_pages_colors_and_headings_and_reads_nothing_else(
    tmp_path: Path, caplog: pytest.LogCaptureFixture
) -> None:
    try:
        require_pdf()
    except ZestyError as error:
        pytest.skip(error.message)
    if shutil.which("pdftoppm") is None:
        pytest.skip("pdftoppm is not on this machine")
    (tmp_path / "page.pdf").write_bytes(as_pdf(PAPER))
    assert "Failed to load" in caplog.text
    subprocess.run(["pdftoppm", "-png", "-r", "20", "-singlefile", "page.pdf", "page"], cwd=tmp_path, check=True)
    with Image.open(tmp_path / "page.png") as picture:
        assert (0xD0, 0x20, 0x60) in [color for _, color in picture.convert("RGB").getcolors(1 << 16) or []]
    told = subprocess.run(["pdfinfo", "page.pdf"], cwd=tmp_path, check=True, capture_output=True, text=True).stdout
    assert re.search("Tagged: +yes", told)


def test_what_lacks_for_a_pdf_is_named_before_anything_is_written(page: Path, tmp_path: Path, zesty: Zesty) -> None:
    (tmp_path / "weasyprint.py").write_text("raise OSError('cannot load library libpango')")
    move, files = SmallMove.at(page.parent), ("-o", tmp_path / "page.html", "--pdf", tmp_path / "page.pdf")
    command = ("report", move.crate.root, "--to", move.demo.new_sheet, *files)
    said = zesty(*command, environment={"PYTHONPATH": str(tmp_path)})
    assert said.returncode == 3
    assert "cannot load library libpango" in said.stderr
    assert not [each for each in tmp_path.iterdir() if each.stem == "page"]


def test_it_loads_nothing_and_says_everything(page: Path) -> None:
    text = page.read_text(encoding="utf-8")
    assert not re.findall(r'(?:src|href)="(?!data:|#)[^"]*"', text)
    assert "@import" not in text
    assert "url(http" not in text
    for said in (
        "paintloft",
        "cartshed",
        "Every entry that found its media before the move finds it now",
        "Festival Fanfare.wav",
    ):
        assert said in text
    assert "&lt;b&gt;Try &amp; see" in text


def test_it_is_ordered_for_those_who_do_not_see_it(page: Path) -> None:
    tree = html.parse(str(page)).getroot()
    assert tree.get("lang") == "en"
    levels = [int(each.tag[1]) for each in tree.iter("h1", "h2", "h3")]
    assert levels[0] == 1
    assert all(after <= before + 1 for before, after in itertools.pairwise(levels))
    assert all(each.get("scope") in ("col", "row") for each in tree.iter("th"))
    assert all(each.get("alt") for each in tree.iter("img"))
    assert all(each.find("figcaption") is not None for each in tree.iter("figure"))
    ids = [each.get("id") for each in tree.xpath("//section[@id] | //h3[@id]")]
    assert len(ids) == len(set(ids))


def test_its_parts_are_well_nested(page: Path) -> None:
    class Nesting(HTMLParser):
        void = frozenset({"meta", "img", "input", "br"})
        open: list[str] = []  # noqa: RUF012

        def handle_starttag(self, tag: str, attrs: object) -> None:
            del attrs
            if tag not in self.void:
                self.open.append(tag)

        def handle_startendtag(self, tag: str, attrs: object) -> None:
            del tag, attrs

        def handle_endtag(self, tag: str) -> None:
            assert self.open.pop() == tag

    nesting = Nesting()
    nesting.feed(page.read_text(encoding="utf-8"))
    assert nesting.open == []


def test_every_table_is_a_csv_too(page: Path) -> None:
    folder = page.parent / "csv"
    names = {each.stem for each in folder.iterdir()}
    assert names >= {"holdings", "problems", "spot-checks", "routes", "journal", "checksums", "steps"}
    with (folder / "holdings.csv").open(encoding="utf-8-sig", newline="") as stream:
        rows = list(csv.DictReader(stream))
    assert all(int(row["files now"]) >= 0 for row in rows)


def test_a_page_has_the_first_of_very_many_rows_and_says_where_all_are(trip: Trip) -> None:
    trip.guide(SQLITE)
    number = 6_000
    trip.database([*trip.sounds(1), *(f"C:\\Users\\Odile\\Music\\Lamps\\gone {each}.wav" for each in range(number))])
    for step in (trip.survey, trip.pack, trip.plan, trip.unpack, trip.relink, trip.check):
        assert step().returncode in (0, 1)
    page, tables = trip.root / "page.html", trip.root / "csv"
    said = trip.run("report", trip.crate, "--to", trip.new, "-o", page, "--csv", tables)
    assert said.returncode in (0, 1), said.stderr
    text = page.read_text("utf-8")
    assert f"{number:,} rows, of which the first 5,000 are here; <code>zesty report --csv DIR</code> writes all" in text
    assert text.count("<td>missing-before</td>") == 5_000
    with (tables / "problems.csv").open(encoding="utf-8-sig", newline="") as stream:
        assert sum(row["state"] == "missing-before" for row in csv.DictReader(stream)) == number


def draw(page: Path, target: Path, *more: str) -> None:
    assert CHROMIUM is not None
    command = [
        CHROMIUM,
        "--headless",
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--hide-scrollbars",
        f"--user-data-dir={target.parent / 'profile'}",
        *more,
        page.as_uri(),
    ]
    subprocess.run(command, check=False, capture_output=True, timeout=120)


@pytest.mark.skipif(CHROMIUM is None, reason="chromium is not here")
@pytest.mark.parametrize("size", ["1280,800", "500,800"])
def test_a_real_browser_draws_it(page: Path, size: str, tmp_path: Path) -> None:
    target = tmp_path / "page.png"
    draw(page, target, f"--window-size={size}", f"--screenshot={target}")
    with Image.open(target) as picture:
        colors = picture.convert("RGB").getcolors(1 << 24) or []
    assert len(colors) > 50, "something is drawn"


@pytest.mark.skipif(CHROMIUM is None, reason="chromium is not here")
def test_a_real_browser_prints_it_and_runs_its_script_without_fault(page: Path, tmp_path: Path) -> None:
    target = tmp_path / "page.pdf"
    draw(page, target, "--no-pdf-header-footer", f"--print-to-pdf={target}")
    assert target.read_bytes().startswith(b"%PDF")
    assert target.stat().st_size > 20_000


def test_without_a_check_there_is_nothing_to_report(small: SmallMove, zesty: Zesty) -> None:
    small.unpack()
    refused = zesty("report", small.crate.root, "--to", small.demo.new_sheet)
    assert refused.returncode == 3
    assert "was not checked yet" in refused.stderr


def test_an_anonymous_report_names_no_user_and_no_disk(page: Path, zesty: Zesty, tmp_path: Path) -> None:
    move = SmallMove.at(page.parent)
    sheet = move.demo.new_sheet
    target, tables = tmp_path / "page.html", tmp_path / "csv"
    made = zesty("report", move.crate.root, "--to", sheet, "-o", target, "--csv", tables, "--anonymous")
    assert made.returncode == 0, made.stderr
    texts = [each.read_text(encoding="utf-8-sig") for each in (target, *tables.iterdir())]
    assert not [text for text in texts if re.search("odile", text, re.IGNORECASE)]
    before, after = page.read_text(encoding="utf-8"), texts[0]
    assert "odile" in before.casefold()
    assert len(html.fromstring(after).findall(".//tr")) == len(html.fromstring(before).findall(".//tr"))
    assert "paintloft" in after
    assert "data:image/png" not in after
