"""Where compiled machine code is kept. Knows nothing of the compiler, so that a start need not load it."""

from __future__ import annotations

import hashlib
import os
import platform
import shutil
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


def remove_earlier() -> None:
    """Remove what earlier versions have left."""
    for other in cache_folder().parent.glob("kernel-*"):
        if other != cache_folder():
            shutil.rmtree(other, ignore_errors=True)
