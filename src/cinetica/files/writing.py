"""Writing a file so that a crash leaves the old one or the new one, never half of either."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path


def write_atomically(path: Path, content: bytes) -> None:
    """Write beside the file, sync, rename over it. OSError if that cannot be done; the old file then stands."""
    descriptor, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    try:
        with os.fdopen(descriptor, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        Path(temporary).chmod(0o644)
        Path(temporary).replace(path)
    except BaseException:
        Path(temporary).unlink(missing_ok=True)
        raise
