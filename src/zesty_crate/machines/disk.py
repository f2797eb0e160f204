"""The outside: every look at a disk and every change goes through `Disk`, so that a test can hand over another."""

from __future__ import annotations

import contextlib
import errno
import hashlib
import io
import os
import shutil
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, TextIO

from ..errors import ZestyError
from ..paths import format_named
from ..systems import OperatingSystem, this_system
from ..systems.worker_program import SMALL_BYTES
from .copying import copy_small, copy_through, date, digest_small, named
from .files import WHOLE, AnyPath, Copied, Cut, DiskError, FileFacts, Moved, facts_of, opened, pump
from .listing import Contents, contents_below, contents_of
from .parallel import beside
from .worker import Worker, a_worker

if TYPE_CHECKING:
    from hashlib import _Hash as Hash

    import apsw


BOUNDLESS = 1 << 62


class Disk:
    """The real disk. Errors arise as `DiskError`, naming the file; a thing that is not there is no error to look at."""

    @property
    def system(self) -> OperatingSystem:
        """The system that the disk is at, which does some things in its own way."""
        return this_system()

    def _at(self, path: AnyPath) -> Path:
        """Where a path is, in a form that this system takes."""
        reached = self.system.reach(path)
        return reached if isinstance(reached, Path) else Path(reached)

    # -- looking ------------------------------------------------------------------------------------------------

    def facts(self, path: AnyPath) -> FileFacts | None:
        """What is at ``path``, or None when nothing is."""
        try:
            return facts_of(os.lstat(self.system.reach(path)), str(path))
        except (FileNotFoundError, NotADirectoryError):
            return None
        except OSError as error:
            raise DiskError("Looking at", path, error) from error

    def names(self, folder: Path) -> list[str]:
        """The names in a folder, sorted."""
        with named("Listing", folder):
            return sorted(each.name for each in self._at(folder).iterdir())

    def scan(self, folder: Path) -> Contents:
        """What is in a folder."""
        return contents_of(folder)

    def scan_below(self, top: Path, skipped: frozenset[str] = frozenset()) -> Iterator[Contents | DiskError]:
        """The same for a folder and every one below it, outer ones first and in the order of their names.

        Links are not followed, and folders that are ``skipped`` are not listed. What may not be listed is told by its
        error.
        """
        return contents_below(top, self.scan, skipped=skipped)

    def mount_points(self) -> frozenset[Path]:
        """Where file systems of all kinds are mounted on this computer."""
        import psutil  # heavy, and asked for only where a sheet describes this very computer

        return frozenset(Path(part.mountpoint) for part in psutil.disk_partitions(all=True))

    def identity(self, path: Path) -> tuple[int, int]:
        """What tells a file from every other one, under whatever name: its volume's number and its own."""
        with named("Looking at", path):
            found = self._at(path).stat()
        return found.st_dev, found.st_ino

    def read_bytes(self, path: Path) -> bytes:
        """A whole small file."""
        with named("Reading", path), io.FileIO(self.system.reach(path)) as stream:
            return stream.readall()

    def read_start(self, path: Path, size_bytes: int) -> bytes:
        """The first bytes of a file."""
        with named("Reading", path), self._at(path).open("rb") as stream:
            return stream.read(size_bytes)

    def read_lines(self, path: Path) -> Iterator[str]:
        """The lines of a text in UTF-8, one at a time, without their ends."""
        try:
            with named("Reading", path), self._at(path).open(encoding="utf-8-sig") as stream:
                for line in stream:
                    yield line.rstrip("\n")
        except UnicodeDecodeError as error:
            raise ZestyError(f"{path} is not UTF-8 text: {error}.", next_step="Save it as UTF-8.") from error

    def read_text(self, path: Path) -> str:
        """A whole small text in UTF-8; a byte-order mark is left out."""
        try:
            return self.read_bytes(path).decode("utf-8-sig")
        except UnicodeDecodeError as error:
            raise ZestyError(f"{path} is not UTF-8 text: {error}.", next_step="Save it as UTF-8.") from error

    def digest(self, path: AnyPath, *, from_drive: bool = False, moved: Moved | None = None) -> Copied:
        """Read a file through and say its SHA-512 and size; ``from_drive`` and not from memory, where one may ask."""
        if moved is None and (small := digest_small(path, from_drive=from_drive)):
            return small
        with named("Reading", path), io.FileIO(self._at(path)) as source:
            if from_drive:
                self.system.forget(source.fileno())
            return pump(source, path, (), os.fstat(source.fileno()).st_size, None, moved)

    @contextlib.contextmanager
    def digested(self, path: Path) -> Iterator[Callable[[], str]]:
        """Digest a file, a large one while the body does something else; what to ask for the SHA-512."""
        facts = self.facts(path)
        if facts is not None and (small := digest_small(path, from_drive=False)):
            yield lambda: small.sha512
            return
        with beside(lambda: self.digest(path).sha512) as digest:
            yield digest

    def digest_by(self, path: Path, method: str, *, ends_only: int = 0) -> str:
        """The digest of a file by another method; with ``ends_only`` of so many bytes at its beginning and its end."""
        digest = hashlib.new(method, usedforsecurity=False)
        with named("Reading", path), self._at(path).open("rb") as source:
            if not ends_only:
                return hashlib.file_digest(source, lambda: digest).hexdigest()
            digest.update(source.read(ends_only))
            source.seek(-min(ends_only, source.seek(0, os.SEEK_END)), os.SEEK_END)
            digest.update(source.read(ends_only))
        return digest.hexdigest()

    def attributes(self, path: AnyPath) -> dict[str, bytes]:
        """The extended attributes that a person gave to a file or folder; nothing where there are none."""
        with named("Reading the extended attributes of", path):
            return self.system.attributes(str(path))

    def has_access_list(self, folder: AnyPath) -> bool:
        """Whether a folder says who may do what beyond its permissions and what it inherits."""
        return self.system.has_access_list(str(folder))

    def free_bytes(self, folder: Path) -> int:
        """Room left for a user on the volume of ``folder``; `BOUNDLESS` where its driver does not tell."""
        with named("Asking for free room at", folder):
            usage = shutil.disk_usage(folder)
        return usage.free if usage.total else BOUNDLESS

    def may_write(self, folder: Path) -> bool:
        """Whether this user may make files in a folder."""
        return os.access(folder, os.W_OK)

    def format_of(self, folder: Path) -> str:
        """The format of the volume that holds a folder, by our name for it; empty when it is not known."""
        import psutil  # heavy, and asked for once

        place = folder.absolute()
        mounts = {Path(part.mountpoint): part.fstype for part in psutil.disk_partitions(all=True)}
        holding = [mount for mount in mounts if mount == place or mount in place.parents]
        return format_named(mounts[max(holding, key=lambda mount: len(mount.parts))]) if holding else ""

    def block_bytes(self, folder: Path) -> int:
        """What room on the volume of ``folder`` is given out in; the least that a file takes."""
        with named("Asking for free room at", folder):
            return self.system.block_bytes(folder)

    def room_of_volume(self, mount: Path) -> tuple[int, int] | None:
        """Size and free room in bytes of the volume that is mounted here; None when it is only a folder of another."""
        with named("Asking for free room at", mount):
            if not self.system.is_mount_point(mount):
                return None
            usage = shutil.disk_usage(mount)
        return usage.total, usage.free

    @property
    def is_shared(self) -> bool:
        """Whether another process may do what this one does; not on a disk that wants to see all that happens on it."""
        return type(self) is Disk

    def worker(self) -> contextlib.AbstractContextManager[Worker | None]:
        """A process that takes orders for small files; none where it may not."""
        return a_worker() if self.is_shared else contextlib.nullcontext()

    # -- changing -----------------------------------------------------------------------------------------------

    def make_folder(self, folder: Path) -> None:
        """Make one folder; its parent must be there."""
        with named("Making the folder", folder):
            self._at(folder).mkdir()

    def copy(
        self,
        source: AnyPath,
        target: AnyPath,
        facts: FileFacts,
        *,
        settled: bool = True,
        second: AnyPath | None = None,
        cut: Cut = WHOLE,
        running: Hash | None = None,
        moved: Moved | None = None,
    ) -> Copied:
        """Copy content into the new file ``target``, and into a ``second``, with the date of ``facts``.

        It is on the disk afterwards; unless ``settled``, only after the next `flush_all`. Of the source's own facts,
        those at the end of reading are told.
        """
        is_plain = second is None and cut is WHOLE and running is None and moved is None
        if (
            is_plain
            and facts.size_bytes <= SMALL_BYTES
            and (copied := copy_small(source, target, facts, settled=settled))
        ):
            return copied
        targets = [target] if second is None else [target, second]
        return copy_through(source, targets, facts, settled=settled, cut=cut, running=running, moved=moved)

    def join(self, sources: Sequence[AnyPath], target: AnyPath, facts: FileFacts) -> Copied:
        """Copy several files into one new file, one after the other, with the date of ``facts``; it is on the disk."""
        digest, size = hashlib.sha512(), 0
        with opened("Writing", target, "xb") as writer, named("Writing", target):
            for source in sources:
                with opened("Reading", source, "rb") as reader:
                    size += pump(reader, source, [writer], os.fstat(reader.fileno()).st_size, digest).size_bytes
            date(target, writer, facts, settled=True)
        return Copied(digest.hexdigest(), size, facts)

    @contextlib.contextmanager
    def new_file(self, target: Path) -> Iterator[io.FileIO]:
        """A new file to write to, piece by piece; it is on the disk afterwards."""
        with opened("Writing", target, "xb") as writer, named("Writing", target):
            yield writer
            self.system.flush(writer.fileno())

    def append(self, writer: io.FileIO, source: AnyPath, *, running: Hash, moved: Moved) -> Copied:
        """Copy a whole file to where a new one is written to, and let a digest of that run on."""
        with opened("Reading", source, "rb") as reader:
            return pump(reader, source, [writer], os.fstat(reader.fileno()).st_size, running, moved)

    def write_text(self, target: Path, text: str | Iterable[str]) -> None:
        """Write a text, or pieces of one, whole: beside its place, onto the disk, then into its place."""
        part = target.with_name(f".{target.name}.part")
        with named("Writing", target):
            with self._at(part).open("w", encoding="utf-8", newline="\n") as writer:
                writer.writelines([text] if isinstance(text, str) else text)
                writer.flush()
                self.system.flush(writer.fileno())
            self.system.replace(part, target)
        self.flush(target.parent)

    @contextlib.contextmanager
    def new_text(self, target: Path) -> Iterator[TextIO]:
        """A new text file to write to, for other programs: in UTF-8 with a mark, by which spreadsheets know it."""
        with named("Writing", target), self._at(target).open("x", encoding="utf-8-sig", newline="") as stream:
            yield stream

    def write_bytes(self, target: Path, content: bytes) -> None:
        """Write a file that nobody relies on yet, such as a working copy; `flush` has it on the disk."""
        with named("Writing", target):
            self._at(target).write_bytes(content)

    def make_link(self, path: Path, target: str) -> None:
        """Make a symbolic link with exactly this target text."""
        with named("Making the link", path):
            self._at(path).symlink_to(target)

    def link(self, source: AnyPath, target: AnyPath) -> None:
        """Give a file a second name on its volume. Raises `DiskError` where the volume cannot."""
        with named("Linking", target):
            os.link(self.system.reach(source), self.system.reach(target))

    def rename(self, source: AnyPath, target: AnyPath) -> None:
        """Put ``source`` in the place of ``target`` in one step; what was there is replaced."""
        with named("Renaming", source):
            self.system.replace(source, target)

    def rename_to_free_name(self, source: AnyPath, target: AnyPath) -> None:
        """Rename in one step. Raises `DiskError`, and changes nothing, when something is at the ``target``."""
        with named("Renaming", source):
            self.system.rename_to_free_name(source, target)

    def remove(self, path: AnyPath) -> None:
        """Remove a file or a link; nothing there is no error."""
        with named("Removing", path), contextlib.suppress(FileNotFoundError):
            self.system.remove(path)

    def remove_folder(self, folder: Path) -> None:
        """Remove an empty folder."""
        with named("Removing the folder", folder):
            self._at(folder).rmdir()

    def is_same(self, one: Path, other: Path) -> bool:
        """Whether two paths lead to one file, by whatever names and mounts."""
        with named("Looking at", one):
            return self._at(one).samefile(self._at(other))

    def own_as(self, path: AnyPath, model: AnyPath) -> None:
        """Give a file, folder or link to the owner of another one; only an administrator can, and has to."""
        with named("Setting the owner of", path):
            self.system.give_to_owner_of(str(model), str(path))

    def set_facts(self, path: AnyPath, facts: FileFacts) -> None:
        """Give a file or folder the date and permissions of ``facts``."""
        with named("Setting the date of", path):
            place = self._at(path)
            os.utime(place, ns=(facts.modified_ns, facts.modified_ns))
            place.chmod(facts.mode)  # last: of what is read-only some systems change no more

    def attributes_kept(self, attributes: Mapping[str, bytes]) -> dict[str, bytes]:
        """Those that files of this system can have at all."""
        return self.system.kept(attributes)

    def set_attributes(self, path: AnyPath, attributes: Mapping[str, bytes]) -> bool:
        """Give extended attributes to a file or folder; False where its volume cannot keep them."""
        with named("Setting extended attributes of", path):
            return self.system.set_attributes(str(path), attributes)

    def flush(self, path: Path) -> None:
        """Have a file's content, or a folder's names, on the disk itself before going on."""
        with named("Flushing", path):
            self.system.flush_at(path)

    def flush_all(self, folder: Path) -> None:
        """Have all that was written on the volume of ``folder`` on the disk itself before going on."""
        with named("Flushing", folder):
            self.system.flush_volume(folder)

    def commit(self, database: apsw.Connection) -> None:
        """End a transaction, so that it counts as one change to the outside."""
        with database_faults(database):
            database.execute("COMMIT")

    @contextlib.contextmanager
    def one_change(self, database: apsw.Connection) -> Iterator[None]:
        """What is written meanwhile is one change to the outside: all of it is there, or after an error none of it."""
        try:
            with database_faults(database):
                database.execute("BEGIN")
                yield
            self.commit(database)
        except BaseException:
            if database.in_transaction:
                database.execute("ROLLBACK")
            raise


@contextlib.contextmanager
def database_faults(database: apsw.Connection) -> Iterator[None]:
    """What the disk does to a database arises as `DiskError`; what was begun is rolled back."""
    import apsw

    try:
        with faults_in(database.filename):
            yield
    except DiskError as error:
        if isinstance(error.__cause__, apsw.Error) and database.in_transaction:
            database.execute("ROLLBACK")
        raise


@contextlib.contextmanager
def faults_in(place: AnyPath) -> Iterator[None]:
    """What the disk does to any database in ``place``, a file or a folder of working copies, arises as `DiskError`."""
    import apsw

    codes = {
        apsw.FullError: errno.ENOSPC,
        apsw.IOError: errno.EIO,
        apsw.ReadOnlyError: errno.EROFS,
        apsw.CantOpenError: errno.EROFS,
    }
    try:
        yield
    except tuple(codes) as error:
        code = codes[type(error)]
        if isinstance(error, apsw.ReadOnlyError | apsw.CantOpenError):  # SQLite does not tell why
            code = _refused_with(Path(place)) or code
        raise DiskError("Writing", place, OSError(code, os.strerror(code))) from error


def require_readable(path: Path) -> None:
    """See that a file may be read, where a database could not be. Raises `DiskError`: SQLite does not tell why."""
    with named("Reading", path), path.open("rb"):
        pass


def _refused_with(place: Path) -> int | None:
    """What the disk itself gives as the reason when a file or folder is to be written; None when it lets us."""
    import tempfile

    try:
        if place.is_file():
            os.close(os.open(place, os.O_RDWR))
        with tempfile.TemporaryFile(dir=place if place.is_dir() else place.parent):
            return None
    except OSError as error:
        return error.errno
