"""Where compiled machine code is kept. Does not import the compiler, so that a start need not load it."""

from __future__ import annotations

import hashlib
import os
import platform
import shutil
import stat
import tempfile
from functools import cache
from importlib.util import find_spec
from pathlib import Path

import llvmlite.binding as llvm
import platformdirs

# Versions and checkouts used in turn keep their caches.
KEPT = 6


@cache
def cache_folder(name: str, sources: tuple[Path, ...]) -> Path:
    """A folder named after everything that the machine code depends on: sources, compiler, Python and processor.

    Numba's own cache depends on the file of a function alone, not on the files of the functions that it calls, so an
    edit of one of those would leave stale code. Here an edit means a new folder.
    """
    root = os.environ.get("NUMBA_CACHE_DIR") or platformdirs.user_cache_dir("cinetica")
    digest = hashlib.sha256(_compiler_and_processor().encode())
    for source in sources:
        digest.update(source.read_bytes())
    return Path(root) / f"{name}-{digest.hexdigest()[:16]}"


@cache
def _compiler_and_processor() -> str:
    """What machine code depends on besides its sources: compiler versions and processor."""
    versions = f"{_version('numba')} {_version('llvmlite')} {platform.python_version()}"
    return f"{versions} {llvm.get_host_cpu_name()} {llvm.get_host_cpu_features().flatten()}"


def _version(package: str) -> str:
    """The text that gives a package's version, read without importing the package (40 ms)."""
    found = find_spec(package)
    try:
        return (Path(str(found.origin if found else "")).parent / "_version.py").read_text()
    except OSError:
        from importlib.metadata import version

        return version(package)


def is_ours(path: Path) -> bool:
    """Whether nobody else can have written a file; only then is its code run."""
    found = path.stat()
    return found.st_uid == os.getuid() and not found.st_mode & 0o022


def other_folder(folder: Path) -> Path | None:
    """A folder of our own for the machine code if the cache cannot be written, or None."""
    root = Path(tempfile.gettempdir()) / f"cinetica-{os.getuid()}"
    try:
        root.mkdir(mode=0o700, exist_ok=True)
        found = root.lstat()
    except OSError:
        return None
    # Machine code is only loaded from where nobody else can have put it.
    mine = stat.S_ISDIR(found.st_mode) and found.st_uid == os.getuid() and not found.st_mode & 0o077
    return root / folder.name if mine else None


def remove_earlier(folder: Path) -> None:
    """Remove what earlier versions left of the same machine code."""

    def age(other: Path) -> float:
        return max((path.stat().st_mtime for path in other.glob("*.o")), default=0.0)

    found = sorted(folder.parent.glob(f"{folder.name.rpartition('-')[0]}-*"), key=age, reverse=True)
    for other in found[KEPT:]:
        if other != folder:
            shutil.rmtree(other, ignore_errors=True)
