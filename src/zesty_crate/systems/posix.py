"""What Linux and macOS have in common (POSIX.1-2017)."""

from __future__ import annotations

import contextlib
import errno
import os
import sys
from collections.abc import Mapping
from urllib.parse import quote

from .model import AnyPath, OperatingSystem

_CANNOT = (errno.ENOSYS, errno.EINVAL, errno.ENOTSUP, errno.EOPNOTSUPP, errno.EPERM, errno.EXDEV, errno.EMLINK)
_LEAST_BLOCK_BYTES = 512

if sys.platform != "win32":
    import fcntl

    class Posix(OperatingSystem):
        """Systems of this family, and those of it that are not known by themselves."""

        name = "posix"

        def database_uri(self, path: str) -> str:
            """As it is, with what is special in a URI escaped."""
            return "file:" + quote(path, errors="surrogateescape")

        def person(self, user: str | None = None) -> tuple[str, str] | None:
            """By sudo's own variable, and the list of users."""
            name = user or (os.environ.get("SUDO_USER", "") if os.geteuid() == 0 else "")
            if name in ("", "root"):
                return None
            import pwd

            try:
                known = pwd.getpwnam(name)
            except KeyError:
                return None
            return known.pw_name, known.pw_dir

        def is_mount_point(self, folder: AnyPath) -> bool:
            """Whether it is on another device than the folder around it."""
            return os.path.ismount(folder)

        def block_bytes(self, folder: AnyPath) -> int:
            """The fragment size."""
            return max(os.statvfs(folder).f_frsize, _LEAST_BLOCK_BYTES)

        def rename_to_free_name(self, source: AnyPath, target: AnyPath) -> None:
            """By the system's own call; where a file system lacks it, by a second name; and where that is lacking, too,
            after a look.
            """
            if self._renamed(source, target):
                return
            try:
                os.link(source, target, follow_symlinks=False)
            except FileExistsError:
                raise
            except OSError as error:  # a folder, or FAT, which knows no second names
                if error.errno not in _CANNOT:
                    raise
                if os.path.lexists(target):
                    raise FileExistsError(errno.EEXIST, os.strerror(errno.EEXIST), str(target)) from None
                os.rename(source, target)
            else:
                os.unlink(source)

        def _renamed(self, source: AnyPath, target: AnyPath) -> bool:  # noqa: ARG002
            """Rename by a call that never replaces; False where there is none for this volume."""
            return False

        def replace(self, source: AnyPath, target: AnyPath) -> None:
            """As the system does it."""
            os.replace(source, target)

        def remove(self, path: AnyPath) -> None:
            """As the system does it."""
            os.unlink(path)

        def give_to_owner_of(self, model: AnyPath, path: AnyPath) -> None:
            """Only an administrator can, and has to."""
            if os.geteuid() != 0:
                return
            owner, own = os.stat(model), os.lstat(path)
            if (owner.st_uid, owner.st_gid) != (own.st_uid, own.st_gid):
                os.lchown(path, owner.st_uid, owner.st_gid)

        def flush(self, handle: int) -> None:
            """fsync(2)."""
            os.fsync(handle)

        def flush_at(self, path: AnyPath) -> None:
            """A folder is opened as a file is."""
            handle = os.open(path, os.O_RDONLY)
            try:
                self.flush(handle)
            finally:
                os.close(handle)

        def flush_volume(self, folder: AnyPath) -> None:  # noqa: ARG002
            """All volumes (sync(2))."""
            os.sync()

        def attributes(self, path: AnyPath) -> dict[str, bytes]:  # noqa: ARG002
            """Each system has its own, or none."""
            return {}

        def set_attributes(self, path: AnyPath, attributes: Mapping[str, bytes]) -> bool:  # noqa: ARG002
            """Each system has its own, or none."""
            return not attributes

        def lock(self, handle: int) -> None:
            """flock(2), which ends with the process."""
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)

        def let_go(self, path: AnyPath, handle: int) -> None:
            """Removed while it is still locked."""
            with contextlib.suppress(OSError):
                os.unlink(path)
            os.close(handle)

        def quoted(self, word: str) -> str:
            """As a POSIX shell takes it."""
            import shlex

            return shlex.quote(word)
