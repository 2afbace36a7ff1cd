"""Unsaved work, kept in the state directory while it is edited, and found again after a crash.

A window owns one recovery file and holds a lock beside it. The kernel releases the lock when the process ends, however
it ends, so a recovery file with a free lock was left behind.
"""

from __future__ import annotations

import fcntl
import json
import os
import uuid
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from cinetica.files.atomic_write import write_atomically
from cinetica.files.reading import Refused
from cinetica.files.study_json import LARGEST, StudyText, parse_study
from cinetica.model.study import Study

FORMAT = "cinetica-recovery"


def _lock_beside(file: Path) -> Path:
    return file.with_suffix(".lock")


def _hold(lock: Path) -> int | None:
    """The lock's descriptor, or None if another process or window holds it."""
    descriptor = os.open(lock, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    try:
        fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(descriptor)
        return None
    return descriptor


class RecoveryFile:
    """The recovery file of one window."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / f"{uuid.uuid4().hex}.json"
        self.lock = _hold(_lock_beside(self.path))
        self._text = StudyText()

    def keep(self, study: Study, origin: Path | None) -> None:
        """Write the study as it is now, and the file it came from.

        Raises OSError if that fails; what was written before is then intact.
        """
        at = datetime.now().astimezone().isoformat(timespec="seconds")
        head = {"format": FORMAT, "version": 1, "at": at, "origin": str(origin) if origin else None}
        # In ASCII: a path may contain bytes that are not valid text.
        text = json.dumps(head)[:-1] + f', "study": {self._text.of(study)}}}\n'
        write_atomically(self.path, text.encode(), private=True)

    def forget(self) -> None:
        """Delete the recovery file: everything is saved."""
        self.path.unlink(missing_ok=True)

    def close(self) -> None:
        """Delete the recovery file and release the lock."""
        self.forget()
        _lock_beside(self.path).unlink(missing_ok=True)
        if self.lock is not None:
            os.close(self.lock)
            self.lock = None


@dataclass
class UnsavedStudy:
    """A study left by a crash, as it was `at` a moment, from the file `origin` if it was ever saved."""

    path: Path
    study: Study
    at: str
    origin: Path | None
    lock: int

    def remove(self) -> None:
        """Delete it: it has been opened or discarded."""
        self.path.unlink(missing_ok=True)
        _lock_beside(self.path).unlink(missing_ok=True)
        os.close(self.lock)

    def leave(self) -> None:
        """Leave it for the next start."""
        os.close(self.lock)


def unsaved_studies(folder: Path) -> list[UnsavedStudy]:
    """The studies that no running process owns, newest first; each is locked by us until removed or left."""
    found = []
    for path in folder.glob("*.json"):
        try:
            lock = _hold(_lock_beside(path))
        except OSError:
            # Something else is in place of its lock: leave this entry alone.
            continue
        if lock is None:
            continue
        try:
            found.append(_read(path, lock))
        except (OSError, ValueError, KeyError, RecursionError, Refused):
            # Not one of ours, or from a newer version: leave it.
            os.close(lock)
    for lock_path in folder.glob("*.lock"):
        if not lock_path.with_suffix(".json").exists():
            _sweep(lock_path)
    return sorted(found, key=lambda left: left.at, reverse=True)


def _sweep(lock_path: Path) -> None:
    """Delete what a crash left with nothing to recover: the lock, and an unfinished temporary file."""
    try:
        lock = _hold(lock_path)
    except OSError:
        return
    if lock is None:
        return
    for temporary in lock_path.parent.glob(f".{lock_path.stem}.json.*"):
        temporary.unlink(missing_ok=True)
    lock_path.unlink(missing_ok=True)
    os.close(lock)


def _read(path: Path, lock: int) -> UnsavedStudy:
    if path.stat().st_size > 2 * LARGEST:
        raise ValueError("larger than any recovery file")
    content: Any = json.loads(path.read_bytes())
    if not isinstance(content, dict) or content.get("format") != FORMAT:
        raise ValueError("not a recovery file")
    study = parse_study(json.dumps(content["study"]), str(path))
    origin = content.get("origin")
    return UnsavedStudy(
        path, study, str(content.get("at", "")), Path(origin) if isinstance(origin, str) else None, lock
    )
