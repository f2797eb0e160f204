"""Take the pictures in docs/screenshots: each main command on the demo data, in a real terminal window.

Needs Xvfb, xterm, import (ImageMagick), Chromium and the DejaVu fonts; on Debian:
apt-get install xvfb xterm imagemagick chromium fonts-dejavu-core
"""

from __future__ import annotations

import os
import shlex
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from zesty_crate.demo import Demo, correct_guide, correct_sheet, first_guide

SHOTS = Path(__file__).parent / "screenshots"
SIZE = (1280, 800)
PROGRAM = Path(sys.executable).parent / "zesty"
CRATE = "carrier/Odile - paintloft"
TRAVEL = "carrier/Odile - handcart"
TO = ("--to", "cartshed/sheet.toml")
LAMP = "/Users/odile.k/Music/Wimblethorn Sounds/Lamp Lit.wav"
DECIDED = ("--decide", "newer", "--decide", f"{LAMP}=both")


@contextmanager
def display() -> Iterator[str]:
    """A screen that nobody sees."""
    reader, writer = os.pipe()
    screen = f"{SIZE[0]}x{SIZE[1]}x24"
    command = ["Xvfb", "-displayfd", str(writer), "-screen", "0", screen, "-nolisten", "tcp"]
    with subprocess.Popen(command, pass_fds=[writer], stderr=subprocess.DEVNULL) as server:
        number = os.read(reader, 16).decode().strip()
        try:
            yield f":{number}"
        finally:
            server.terminate()


def shoot(name: str, folder: Path, *arguments: str, points: int = 11, after_s: float = 60, alone: bool = False) -> None:
    """Run one zesty command in ``folder`` in a terminal; save the picture when it has ended, or after some seconds.

    ``alone`` is with nobody who could be asked.
    """
    shown = shlex.join(["zesty", *arguments])
    done = folder / ".done"
    script = folder / ".show"
    script.write_text(
        f"printf '\\033[4;{SIZE[1]};{SIZE[0]}t'; sleep 0.5; printf '\\033[?25l'\n"
        f"printf '\\033[1m$ %s\\033[0m\\n\\n' {shlex.quote(shown)}\n"
        f"{shlex.join([str(PROGRAM), *arguments])} {'< /dev/null' if alone else ''}\ntouch .done\nsleep 60\n"
    )
    with display() as screen:
        look = f"-fa 'DejaVu Sans Mono' -fs {points} -bg '#14171c' -fg '#d7dae0' +sb -u8 -geometry 80x24+0+0"
        more = "-xrm 'xterm*allowWindowOps: true' -xrm 'xterm*internalBorder: 10' -xrm 'xterm*borderWidth: 0'"
        command = [*shlex.split(f"xterm {look} {more} -e bash"), str(script)]
        environment = {**os.environ, "DISPLAY": screen, "TERM": "xterm-256color"}
        with subprocess.Popen(command, cwd=folder, env=environment, stderr=subprocess.DEVNULL) as window:
            for _ in range(int(after_s * 10)):
                if done.exists():
                    break
                time.sleep(0.1)
            time.sleep(0.5)
            target = SHOTS / f"{name}.png"
            subprocess.run(["import", "-window", "root", str(target)], env=environment, check=True)
            window.terminate()
    done.unlink(missing_ok=True)
    script.unlink()


def shoot_page(name: str, page: Path, size: tuple[int, int] = SIZE) -> None:
    """Draw a page in a browser, as wide and high as a screen, or as a phone in the middle of one."""
    with tempfile.TemporaryDirectory() as profile:
        shown = page
        if size != SIZE:  # no browser window is as narrow as a phone
            shown = page.with_name("phone.html")
            frame = f"width:{size[0]}px;height:{size[1]}px;border:0"
            shown.write_text(
                f'<body style="margin:0;background:#777"><iframe src="{page.name}" style="{frame}"></iframe>'
            )
        command = [
            "chromium",
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--hide-scrollbars",
            f"--user-data-dir={profile}",
            f"--window-size={max(500, size[0])},{size[1]}",
            f"--screenshot={SHOTS / name}.png",
            shown.absolute().as_uri(),
        ]
        subprocess.run(command, check=True, stderr=subprocess.DEVNULL)


def shoot_handing_over(bench: Path) -> None:
    """What is left to do, the report, and whether the old computer may go."""
    shoot("todo", bench, "todo", CRATE, *TO)
    page = bench / "report.html"
    subprocess.run([PROGRAM, "report", CRATE, *TO, "-o", page], cwd=bench, check=True, stdout=subprocess.DEVNULL)
    shoot_page("report", page)
    shoot_page("report-phone", page, (390, 800))
    tick = [PROGRAM, "todo", CRATE, "--done", "wimblethorn-1"]
    subprocess.run(tick, cwd=bench, check=True, stdout=subprocess.DEVNULL)
    shoot("retire", bench, "retire", CRATE, "--from", "paintloft/sheet.toml", "--no-second-copy")


def shoot_merging(bench: Path) -> None:
    """The travel computer's catalogs go into those that have moved; and are undone again."""
    for command in (("survey", TRAVEL, "--from", "handcart/sheet.toml", "--guides", "guides"), ("pack", TRAVEL)):
        subprocess.run([PROGRAM, *command], cwd=bench, check=True, stdout=subprocess.DEVNULL)
    shoot("merge-planned", bench, "plan", TRAVEL, *TO, "--decide", "merge", points=9)
    subprocess.run([PROGRAM, "plan", TRAVEL, *TO, "--values", "keep"], cwd=bench, check=True, stdout=subprocess.DEVNULL)
    subprocess.run([PROGRAM, "unpack", TRAVEL, *TO, "--yes"], cwd=bench, check=True, stdout=subprocess.DEVNULL)
    shoot("merged", bench, "relink", TRAVEL, *TO, "--yes")
    subprocess.run([PROGRAM, "undo", TRAVEL, *TO, "--yes"], cwd=bench, check=True, stdout=subprocess.DEVNULL)


def shoot_displaced(bench: Path) -> None:
    """Files of one computer that went elsewhere, found again from evidence."""
    disks = bench / "paintloft/disks"
    (disks / "e/Archive/2024").mkdir(parents=True)
    for old, new in (
        ("c/Users/Odile/Pictures/Backdrops", "Backdrops"),
        ("c/Users/Odile/Music/Wimblethorn Sounds/Creatures", "2024/Creatures"),
        ("e/Lanternfold/Sound Store", "Store"),
    ):
        shutil.move(disks / old, disks / "e/Archive" / new)
    at = ("--at", "paintloft/sheet.toml", "--guides", "guides", "--look-in", "E:\\Archive")
    shoot("relink-at", bench, "relink", *at, "--dry-run")


def shoot_guides(bench: Path) -> None:
    """Guides as they are written: mistakes in the text and mistakes that the data show, tried, and rehearsed."""
    at = ("--at", "paintloft/sheet.toml")
    first, second = bench / "first.toml", bench / "second.toml"
    text = (bench / "guides/wimblethorn.toml").read_text("utf-8")
    first.write_text(text.replace('key   = "sound_id"', 'keys  = "sound_id"').replace('"native"', '"nativ"'), "utf-8")
    second.write_text(
        text.replace('table = "sound"', 'table = "sounds"').replace("{own}/Presets", "C:/Presets"), "utf-8"
    )
    shoot("guide-lint", bench, "guide", "lint", first.name, second.name, *at)
    shoot("guide-try", bench, "guide", "try", "mothwick", *at, "--guides", "guides")
    shoot("guide-rehearse", bench, "guide", "rehearse", "guides/packs.toml", *at)
    first.unlink()
    second.unlink()


def main() -> None:
    """Take every picture, in the order of the work."""
    missing = [tool for tool in ("Xvfb", "xterm", "import", "chromium") if shutil.which(tool) is None]
    if missing:
        sys.exit(f"Not on this machine: {', '.join(missing)}. See the head of this file.")
    SHOTS.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as place:
        root = Path(place)
        subprocess.run([PROGRAM, "demo", "bench", "--lay-out"], cwd=root, check=True, stdout=subprocess.DEVNULL)
        bench = root / "bench"
        demo, survey = Demo(bench), ("survey", CRATE, "--from", "paintloft/sheet.toml", "--guides", "guides")
        first_guide(demo)  # with a document that is read in part, and a folder that nothing covers
        shoot("survey", bench, *survey, points=8)
        correct_guide(demo)
        shutil.rmtree(bench / CRATE)
        packs = ("--look-in", "C:\\Users\\Odile\\Documents\\Dapplegarth Packs", "-o", "guides/packs.toml")
        shoot("guide-draft", bench, "guide", "draft", "--at", "paintloft/sheet.toml", *packs)
        also = [PROGRAM, *survey, "--also", "E:\\Workshop"]
        subprocess.run(also, cwd=bench, check=True, stdout=subprocess.DEVNULL)
        shoot_guides(bench)
        shoot("pack", bench, "pack", CRATE, "--outside")
        shoot("plan", bench, "plan", CRATE, *TO)
        correct_sheet(demo)
        subprocess.run([PROGRAM, "plan", CRATE, *TO, *DECIDED], cwd=bench, check=True, stdout=subprocess.DEVNULL)
        shoot("unpack", bench, "unpack", CRATE, *TO, "--yes")
        shoot("relink", bench, "relink", CRATE, *TO, "--yes")
        shoot("check", bench, "check", CRATE, *TO, points=8)
        shoot_handing_over(bench)
        shoot_merging(bench)
        shoot("undo", bench, "undo", CRATE, *TO, "--yes")
        sounds = bench / "paintloft/disks/c/Users/Odile/Music/Wimblethorn Sounds"
        (sounds / "Lamp Lit.wav").write_bytes((sounds / "Curtain Rope.wav").read_bytes())
        (sounds / "Curtain, slowly.wav").write_bytes((sounds / "Curtain Rope.wav").read_bytes())
        shoot("compare", bench, "compare", CRATE, "--with", "paintloft/sheet.toml")
        shoot_displaced(bench)


if __name__ == "__main__":
    main()
