"""Open a file as its kind asks for, and go through it to its end: not merely that it is there, but that it is whole.

Sounds by their containers and mutagen, pictures decoded by Pillow, video by its container, texts by their syntax.
"""

from __future__ import annotations

import json
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import BinaryIO

from ..systems import this_system
from ..systems.reached import reached
from .containers import ContainerError, avi_duration_s, chunks, matroska_duration_s, mp4_duration_s
from .facts import PICTURES, media_facts
from .frames import check_flac_end, check_mp3_end

_AT_ONCE_BYTES = 1 << 20
_HEAD_BYTES = 512
_SOUND_CHUNKS = {"data", "SSND"}


@dataclass(frozen=True, slots=True)
class Opened:
    """What opening a file came to. ``fault`` is empty when it opened. Durations in seconds, dimensions in pixels.

    ``what`` it is: sound, picture, video, ...; a mere file when its form is not known, and it was only read to its end.
    It is empty when nothing was opened.
    """

    what: str = ""
    fault: str = ""
    slow: bool = False
    duration_s: float | None = None
    dimensions: tuple[int, int] | None = None


def open_within(path: Path, limit_s: float) -> Opened:
    """Open a file, and stop waiting for it after so many seconds: one on a slow drive is slow, and not broken."""
    outcome: list[Opened] = []
    # A thread that hangs in the system cannot be stopped; as a daemon it does not keep the program from ending.
    worker = threading.Thread(target=lambda: outcome.append(open_file(path)), daemon=True)
    worker.start()
    worker.join(limit_s)
    return outcome[0] if outcome else Opened(slow=True)


def open_file(path: Path) -> Opened:
    """Open a file by its ending, or by how it begins. Never raises for what the file is."""
    path = reached(path)
    try:
        with path.open("rb") as stream:
            head = stream.read(_HEAD_BYTES)
        what, opener = _opener_for(path.suffix.lower(), head)
        try:
            return replace(opener(path), what=what)
        except ContainerError as error:
            return Opened(what, str(error))
    except OSError as error:
        return Opened(fault=f"it cannot be read: {error.strerror}")


def _opener_for(ending: str, head: bytes) -> tuple[str, Callable[[Path], Opened]]:
    if ending in _BY_ENDING:
        return _BY_ENDING[ending]
    start = head.removeprefix(b"\xef\xbb\xbf").lstrip()
    return next((found for magic, found in _BY_HEAD if start.startswith(magic)), ("file", _read_through))


def _sound_in_chunks(path: Path) -> Opened:
    with path.open("rb") as stream:
        _, found = chunks(stream)
        if not any(each.name in _SOUND_CHUNKS for each in found):
            raise ContainerError("it contains no sound")
    _read_through(path)
    return _with_duration(path)


def _sound_in_pages(path: Path) -> Opened:
    """Ogg (RFC 3533): every page, to the last."""
    from mutagen import MutagenError
    from mutagen.ogg import OggPage

    last = False
    with path.open("rb") as stream:
        try:
            while True:
                last = OggPage(stream).last
        except EOFError:
            pass
        except (MutagenError, ValueError) as error:
            raise ContainerError(f"its pages are damaged: {error}") from error
    if not last:
        raise ContainerError("it is truncated: its last page is missing")
    return _with_duration(path)


def _sound(path: Path) -> Opened:
    _read_through(path)
    return _with_duration(path)


def _flac(path: Path) -> Opened:
    import mutagen
    from mutagen.flac import FLAC

    try:
        info = FLAC(path).info
    except (mutagen.MutagenError, ValueError) as error:
        raise ContainerError(str(error)) from error
    with path.open("rb") as stream:
        first_frame = sum(_flac_blocks(stream))
    _read_through(path)
    check_flac_end(path, first_frame, info.total_samples, info.max_blocksize)
    return Opened(duration_s=float(info.length))


def _mp3(path: Path) -> Opened:
    _read_through(path)
    return Opened(duration_s=check_mp3_end(path))


def _flac_blocks(stream: BinaryIO) -> list[int]:
    """The sizes of the mark at the beginning and of all blocks before the first frame (RFC 9639, 8.1)."""
    sizes, last = [len(stream.read(4))], False
    while not last:
        head = stream.read(4)
        if len(head) < 4:
            raise ContainerError("it is truncated")
        last, size = bool(head[0] & 0x80), int.from_bytes(head[1:])
        stream.seek(size, 1)
        sizes.append(4 + size)
    return sizes


def _with_duration(path: Path) -> Opened:
    length = media_facts(path).duration_s
    if length is None:
        raise ContainerError("it does not state its duration")
    return Opened(duration_s=length)


@contextmanager
def _cut_ones_refused() -> Iterator[None]:
    """Pillow as it is by itself: what lays out PDF has it take half a picture for a whole one, in the whole process."""
    from PIL import ImageFile

    wished, ImageFile.LOAD_TRUNCATED_IMAGES = ImageFile.LOAD_TRUNCATED_IMAGES, False
    try:
        yield
    finally:
        ImageFile.LOAD_TRUNCATED_IMAGES = wished


def _picture(path: Path) -> Opened:
    from PIL import Image, UnidentifiedImageError

    try:
        with _cut_ones_refused(), Image.open(path) as picture:
            picture.load()
            return Opened(dimensions=picture.size)
    except UnidentifiedImageError as error:
        raise ContainerError("it is not a picture of a known format") from error
    except (OSError, ValueError, SyntaxError, ArithmeticError, Image.DecompressionBombError) as error:
        raise ContainerError(f"it cannot be decoded: {error}") from error


def _video(duration_of: Callable[[Path], float | None]) -> Callable[[Path], Opened]:
    return lambda path: Opened(duration_s=duration_of(path))


def _xml(path: Path, *, root: str = "") -> Opened:
    from lxml import etree

    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False)
    try:
        found = etree.QName(etree.parse(path, parser).getroot()).localname
    except etree.XMLSyntaxError as error:
        raise ContainerError(f"it is not XML: {error}") from error
    if root and found != root:
        raise ContainerError(f"it begins with {found!r} where {root!r} was expected")
    return Opened()


def _json(path: Path, *, needs: str = "") -> Opened:
    try:
        content = json.loads(path.read_bytes())
    except (ValueError, RecursionError) as error:
        raise ContainerError(f"it is not JSON: {error}") from error
    if needs and not (isinstance(content, dict) and needs in content):
        raise ContainerError(f"it has no {needs}")
    return Opened()


def _sfz(path: Path) -> Opened:
    """An instrument has regions (sfzformat.com, "Headers")."""
    if b"<region>" not in path.read_bytes():
        raise ContainerError("it has no <region>")
    return Opened()


def _plist(path: Path) -> Opened:
    import plistlib

    try:
        with path.open("rb") as stream:
            plistlib.load(stream)
    except Exception as error:
        raise ContainerError(f"it is not a property list: {error}") from error
    return Opened()


def _database(path: Path) -> Opened:
    import apsw

    try:
        uri = this_system().database_uri(str(path.absolute())) + "?mode=ro&immutable=1"
        database = apsw.Connection(uri, flags=apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI)
        said = database.execute("PRAGMA quick_check(1)").get
        database.close()
    except apsw.Error as error:
        raise ContainerError(f"it is not a complete database: {error}") from error
    if said != "ok":
        raise ContainerError(f"it is not a complete database: {said}")
    return Opened()


def _zip(path: Path) -> Opened:
    import zipfile
    import zlib

    try:
        with zipfile.ZipFile(path) as archive:
            bad = archive.testzip()
    except (zipfile.BadZipFile, zlib.error, EOFError, ValueError, NotImplementedError, RuntimeError) as error:
        raise ContainerError(f"it is not a complete ZIP: {error}") from error
    if bad:
        raise ContainerError(f"{bad} in it is damaged")
    return Opened()


def _read_through(path: Path) -> Opened:
    with path.open("rb") as stream:
        while stream.read(_AT_ONCE_BYTES):
            pass
    return Opened()


_BY_ENDING: dict[str, tuple[str, Callable[[Path], Opened]]] = {
    **dict.fromkeys(PICTURES, ("picture", _picture)),
    **dict.fromkeys((".wav", ".aif", ".aiff"), ("sound", _sound_in_chunks)),
    **dict.fromkeys((".ogg", ".oga", ".opus"), ("sound", _sound_in_pages)),
    **dict.fromkeys((".wma", ".ape"), ("sound", _sound)),
    ".flac": ("sound", _flac),
    ".mp3": ("sound", _mp3),
    ".m4a": ("sound", _video(mp4_duration_s)),
    **dict.fromkeys((".mp4", ".m4v", ".mov"), ("video", _video(mp4_duration_s))),
    ".avi": ("video", _video(avi_duration_s)),
    **dict.fromkeys((".mkv", ".webm"), ("video", _video(matroska_duration_s))),
    ".svg": ("drawing", lambda path: _xml(path, root="svg")),
    ".otio": ("timeline", lambda path: _json(path, needs="OTIO_SCHEMA")),
    ".sfz": ("instrument", _sfz),
    ".plist": ("property list", _plist),
    ".json": ("text in JSON", _json),
}
_BY_HEAD: tuple[tuple[bytes, tuple[str, Callable[[Path], Opened]]], ...] = (
    (b"SQLite format 3\0", ("database", _database)),
    (b"PK\x03\x04", ("ZIP archive", _zip)),
    (b"bplist", ("property list", _plist)),
    (b"<?xml", ("text in XML", _xml)),
)
