"""Where compiled machine code is kept. Knows nothing of the compiler, so that a start need not load it."""

from __future__ import annotations

import hashlib
import os
import platform
import shutil
import stat
import tempfile
from functools import cache
from importlib.metadata import version
from pathlib import Path

import llvmlite.binding as llvm
import platformdirs


@cache
def cache_folder() -> Path:
    """A folder named after all that the machine code depends on: this source, the compiler, Python, and the processor.

    Numba's own cache is keyed on the file of a function alone, not on the files of the functions that
    it calls: an edit of `drive.py` would leave a stale `run` behind. Here an edit means a new folder.
    """
    root = os.environ.get("NUMBA_CACHE_DIR") or platformdirs.user_cache_dir("cinetica")
    here = Path(__file__).parent
    processor = f"{llvm.get_host_cpu_name()} {llvm.get_host_cpu_features().flatten()}"
    digest = hashlib.sha256(f"{version('numba')} {version('llvmlite')} {platform.python_version()} {processor}".encode())
    for source in sorted([*here.glob("*.py"), *here.parent.glob("model/*.py")]):
        digest.update(source.read_bytes())
    return Path(root) / f"kernel-{digest.hexdigest()[:16]}"


# Versions and checkouts that take turns keep theirs.
KEPT = 6


def other_folder() -> Path | None:
    """Where the machine code goes when the cache cannot be written: a folder that is nobody else's, or None."""
    folder = Path(tempfile.gettempdir()) / f"cinetica-{os.getuid()}"
    try:
        folder.mkdir(mode=0o700, exist_ok=True)
        found = folder.lstat()
    except OSError:
        return None
    # Machine code is only taken from where nobody else can have put it.
    mine = stat.S_ISDIR(found.st_mode) and found.st_uid == os.getuid() and not found.st_mode & 0o077
    return folder / cache_folder().name if mine else None


def remove_earlier() -> None:
    """Remove what versions have left that are no longer used."""

    def age(folder: Path) -> float:
        try:
            return (folder / "run.o").stat().st_mtime
        except OSError:
            return 0.0

    found = sorted(cache_folder().parent.glob("kernel-*"), key=age, reverse=True)
    for other in found[KEPT:]:
        if other != cache_folder():
            shutil.rmtree(other, ignore_errors=True)
