"""How the functions of this package are compiled, and where the machine code is kept.

Numba keys its cache on the file of the function alone, not on the files of the functions that it
calls: an edit of `drive.py` would leave a stale `run` behind. So the cache lies in a folder named
after the content of the whole package; an edit anywhere in it means a new folder.
`NUMBA_DISABLE_JIT=1` runs the same source as plain Python.
"""

from __future__ import annotations

import hashlib
import os
import platform
from pathlib import Path

import numba
import platformdirs

# Slack with which boundaries compare, so that "0.1 s at 60 per second" is 6 ticks and not 5.
SLACK = 1e-9


def _fingerprint() -> str:
    here = Path(__file__).parent
    digest = hashlib.sha256(f"{numba.__version__} {platform.python_version()}".encode())
    for source in sorted([*here.glob("*.py"), *here.parent.glob("model/*.py")]):
        digest.update(source.read_bytes())
    return digest.hexdigest()[:16]


def cache_folder() -> Path:
    """Where the compiled kernel of exactly this source is kept."""
    return Path(platformdirs.user_cache_dir("cinetica")) / f"kernel-{_fingerprint()}"


if "NUMBA_CACHE_DIR" not in os.environ:
    numba.config.CACHE_DIR = str(cache_folder())

compiled = numba.njit(cache=True, error_model="numpy", _nrt=False, forceinline=True)
compiled_parallel = numba.njit(cache=True, error_model="numpy", parallel=True)
each_in_parallel = numba.prange
