"""Reading a file that may contain anything."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from cinetica.model.text import visible


class Refused(Exception):
    """A file or value that is not accepted; `faults` has one plain line for each reason."""

    def __init__(self, faults: Iterable[str]) -> None:
        # They may quote the file.
        self.faults = [visible(fault) for fault in faults]
        super().__init__("\n".join(self.faults))


def read_bytes(path: Path, most: int, advice: str) -> bytes:
    """The content of a file; Refused if it cannot be read or is larger than `most` bytes."""
    try:
        if path.exists() and not path.is_file():
            raise Refused([f"{path}: {'a folder' if path.is_dir() else 'not a regular file'}; give the name of a file"])
        if path.stat().st_size > most:
            raise Refused([f"{path}: larger than {most // 2**20} MiB; {advice}"])
        return path.read_bytes()
    except OSError as error:
        raise Refused([f"{path}: {error.strerror}"]) from error
