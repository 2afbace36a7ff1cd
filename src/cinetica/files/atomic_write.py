"""Writing a file so that a crash leaves the old or the new one, never half of either."""

from __future__ import annotations

import contextlib
import errno
import os
import stat
import tempfile
from pathlib import Path


def backup_of(path: Path) -> Path:
    """The path of the backup, which is the file as it was before the last save."""
    return path.with_name(f"{path.name}~")


def write_atomically(path: Path, content: bytes, *, backup: bool = False, private: bool = False) -> None:
    """Write a temporary file, sync it, and rename it over `path`.

    Raises OSError if that fails; the old file is then intact. With `backup` the old file is kept under another name;
    with `private` nobody else may read the new one. A symbolic link is followed, and what is not a regular file (a
    pipe, a device) is written to, not replaced.
    """
    try:
        _check_link(path)
        _write(path.resolve(), content, backup, private)
    except RuntimeError as error:
        # A link that leads to itself, as Python 3.11 and 3.12 report it.
        raise OSError(errno.ELOOP, os.strerror(errno.ELOOP), str(path)) from error
    except OSError as error:
        # The user knows the file, not the temporary one that is renamed to it.
        if error.errno is not None:
            error.filename, error.filename2 = str(path), None
        raise


def _check_link(path: Path) -> None:
    """Raise OSError for a link made by somebody else in a folder that everybody may write to.

    It could lead anywhere. The kernel refuses to follow such a link (proc(5), protected_symlinks), but not to read
    where it leads.
    """
    if not path.is_symlink():
        return
    folder, owner = path.parent.stat(), path.lstat().st_uid
    if folder.st_mode & stat.S_ISVTX and folder.st_mode & stat.S_IWOTH and owner not in (os.geteuid(), folder.st_uid):
        raise PermissionError(errno.EACCES, "a link made by somebody else", str(path))


def _write(path: Path, content: bytes, backup: bool, private: bool) -> None:
    if path.exists() and not path.is_file():
        with path.open("wb") as file:
            file.write(content)
        return
    descriptor, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name[:40]}.")
    temporary = Path(name)
    try:
        with os.fdopen(descriptor, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        temporary.chmod(0o600 if private else mode_for(path))
        _keep_group(path, temporary)
        if backup and path.exists():
            _keep_as_backup(path)
        temporary.replace(path)
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise
    _sync_folder(path.parent)


def _keep_group(path: Path, temporary: Path) -> None:
    """Give the new file the group of the old one, if there is one and the user may do so."""
    with contextlib.suppress(OSError):
        if path.stat().st_gid != temporary.stat().st_gid:
            mode = temporary.stat().st_mode & 0o777
            os.chown(temporary, -1, path.stat().st_gid)
            temporary.chmod(mode)


def mode_for(path: Path) -> int:
    """The mode of the old file, or the default mode of new files."""
    if path.exists():
        return path.stat().st_mode & 0o777
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask


def _keep_as_backup(path: Path) -> None:
    """Link the old content under a second name, then rename that to the backup: both exist at every moment."""
    # In a folder of our own, where nobody else can have put anything.
    with tempfile.TemporaryDirectory(dir=path.parent, prefix=f".{path.name[:40]}.") as folder:
        second = Path(folder) / "old"
        try:
            os.link(path, second)
        except OSError:
            # The file system has no links, as on a memory stick.
            second.write_bytes(path.read_bytes())
            second.chmod(path.stat().st_mode & 0o777)
        second.replace(backup_of(path))


def _sync_folder(folder: Path) -> None:
    """Make sure that the rename itself reaches the disk."""
    descriptor = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)
