"""The table of a sweep, written chunk by chunk, so that an interrupted sweep can be resumed.

Beside an unfinished table is FILE.progress: which sweep it is, how far it has come, and a digest of what is written. A
Parquet table is written in parts, in FILE.parts, which become one file at the end. Anything else under these names is
refused and left alone.
"""

from __future__ import annotations

import hashlib
import os
import re
import tempfile
import time
from pathlib import Path
from typing import Any, BinaryIO, Literal, Protocol

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from cinetica.files.atomic_write import mode_for, write_atomically
from cinetica.files.reading import Refused
from cinetica.reading.plan import Plan

# How often progress is saved, in s.
EVERY = 1.0
EXTRA = "install it with: pip install 'cinetica[sweep]'"
MOST_NOTES = 10_000
BLOCK = 1 << 20


class Progress(BaseModel):
    """The content of FILE.progress.

    `sweep`: the plan's signature. `done`: rows. `bytes` and `sha256`: of a CSV table.
    """

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)

    format: Literal["cinetica-sweep-progress"] = "cinetica-sweep-progress"
    sweep: str
    done: int = Field(ge=0)
    bytes: int = Field(ge=0)
    sha256: str

    @staticmethod
    def path_for(path: Path) -> Path:
        """The path of a table's progress file."""
        return path.with_name(path.name + ".progress")


def _progress_of(path: Path) -> Progress | None:
    """The progress of an interrupted sweep into this table; None if there is none.

    Raises Refused if the file is damaged, or somebody else's.
    """
    notes = Progress.path_for(path)
    if not (notes.exists() or notes.is_symlink()):
        return None
    try:
        if not notes.is_file() or notes.stat().st_size > MOST_NOTES:
            raise ValueError
        return Progress.model_validate_json(notes.read_bytes())
    except (OSError, ValueError, ValidationError):
        raise Refused([
            f"{notes.name} is damaged, or not of a sweep: move it away, or write into another file."
        ]) from None  # fmt: skip


def _to_resume(path: Path, plan: Plan) -> Progress | None:
    """The progress from which this plan continues; None if nothing has begun.

    Raises Refused if it belongs to another sweep, or the progress is missing.
    """
    notes = _progress_of(path)
    if notes is None and path.exists():
        raise Refused([
            f"{path.name} is there, but no {path.name}.progress: it is whole, or of something else."
            " Run without --resume to start over."
        ])  # fmt: skip
    if notes is not None and notes.sweep != plan.signature:
        raise Refused([
            f"{path.name}.progress is of another sweep: run this one without --resume, or into another file."
        ])  # fmt: skip
    return notes


def _altered(path: Path) -> Refused:
    return Refused([
        f"{path.name} is not as the interrupted sweep left it: run without --resume to start over."
    ])  # fmt: skip


class Table(Protocol):
    """Where the rows of a sweep go, in order."""

    # The number of combinations already written.
    done: int

    def add(self, end: int, figures: NDArray[np.float64]) -> None:
        """Add the rows from `done` up to `end`."""

    def finish(self) -> None:
        """Complete the table."""

    def keep(self) -> None:
        """Close an unfinished table, to be resumed later."""


def lines(plan: Plan, first: int, end: int, figures: NDArray[np.float64]) -> str:
    """Rows as CSV; an empty cell where a figure is absent. Floats read back exactly."""
    numbers = [column.tolist() for column in plan.written(first, end).values()]
    texts = [[_text(value) for value in column] for column in numbers]
    shown = [
        ["" if value != value else repr(value) for value in column]
        for column in plan.written_figures(figures).T.tolist()
    ]
    return "".join(",".join(row) + "\n" for row in zip(*texts, *shown, strict=True))


def _text(value: Any) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    return repr(value) if isinstance(value, float) else str(value)


class CsvTable:
    """A CSV file, or a pipe or device that takes rows."""

    def __init__(self, plan: Plan, path: Path, *, resume: bool) -> None:
        self.plan, self.path, self.done, self._noted_at = plan, path, 0, 0.0
        # No progress file is written for a pipe or a device.
        self._is_file = path.is_file() or not path.exists()
        self._digest = hashlib.sha256()
        self._size = 0
        before = None
        if self._is_file:
            before = _to_resume(path, plan) if resume else _progress_of(path)
        self._file: BinaryIO
        if resume and before is not None:
            self._check(before)
            self.done, self._size = before.done, before.bytes
            self._file = path.open("r+b")
            # Anything after the last saved progress may be half a row.
            self._file.truncate(before.bytes)
            self._file.seek(before.bytes)
        else:
            self._file = path.open("wb")
            self._write(",".join(plan.head) + "\n")
            self._note()

    def _check(self, before: Progress) -> None:
        """Check the file against the recorded digest; Refused if it differs."""
        left, rows = before.bytes, -1
        try:
            with self.path.open("rb") as file:
                while left and (block := file.read(min(left, BLOCK))):
                    self._digest.update(block)
                    rows += block.count(b"\n")
                    left -= len(block)
        except FileNotFoundError:
            raise _altered(self.path) from None
        if left or rows != before.done or rows > self.plan.count or self._digest.hexdigest() != before.sha256:
            raise _altered(self.path)

    def _write(self, text: str) -> None:
        """Write text; OSError with the path."""
        content = text.encode()
        try:
            self._file.write(content)
            self._file.flush()
        except OSError as error:
            raise OSError(error.errno, error.strerror, str(self.path)) from error
        self._digest.update(content)
        self._size += len(content)

    def add(self, end: int, figures: NDArray[np.float64]) -> None:
        """Write the rows, and the progress every few seconds."""
        self._write(lines(self.plan, self.done, end, figures))
        self.done = end
        if time.monotonic() > self._noted_at + EVERY:
            self._note()

    def _note(self) -> None:
        if self._is_file:
            _save(self.path, self.plan, self.done, self._size, self._digest.hexdigest())
            self._noted_at = time.monotonic()

    def finish(self) -> None:
        """Sync and close the file, and delete its progress."""
        if self._is_file:
            os.fsync(self._file.fileno())
        self._file.close()
        if self._is_file:
            Progress.path_for(self.path).unlink(missing_ok=True)

    def keep(self) -> None:
        """Write the progress and close the file."""
        self._note()
        self._file.close()


def _save(path: Path, plan: Plan, done: int, size: int, digest: str) -> None:
    progress = Progress(sweep=plan.signature, done=done, bytes=size, sha256=digest)
    write_atomically(Progress.path_for(path), progress.model_dump_json().encode())


class ParquetTable:
    """A Parquet file, written as a file for each chunk first. Refused if pyarrow is not installed."""

    PART = re.compile(r"[0-9]{16}\.parquet")

    def __init__(self, plan: Plan, path: Path, *, resume: bool) -> None:
        try:
            import pyarrow
            import pyarrow.parquet
        except ImportError:
            raise Refused([f"A table as Parquet needs pyarrow; {EXTRA}."]) from None
        self._arrow, self._parquet = pyarrow, pyarrow.parquet
        self.plan, self.path, self.done = plan, path, 0
        self._parts = path.with_name(path.name + ".parts")
        before = _to_resume(path, plan) if resume else _progress_of(path)
        if self._parts.is_symlink() or (self._parts.exists() and not self._ours(before)):
            raise Refused(
                [f"{self._parts.name} is there, and not of a sweep: move it away, or write into another file."]
            )
        if resume and before is not None:
            self._check(before)
            self.done = before.done
        else:
            self._remove_parts()
            self._note()
            self._parts.mkdir()

    def _ours(self, before: Progress | None) -> bool:
        """Whether the folder contains only the parts of an interrupted sweep."""
        if not self._parts.is_dir():
            return False
        names = [each.name for each in self._parts.iterdir()]
        return not names or (before is not None and all(self.PART.fullmatch(name) for name in names))

    def _check(self, before: Progress) -> None:
        """Check that the parts are whole, contiguous, and of this plan; Refused if not."""
        at = 0
        try:
            for part in sorted(self._parts.iterdir()):
                end = int(part.stem)
                if end > before.done:
                    # Written after the last saved progress.
                    part.unlink()
                    continue
                table = self._parquet.read_table(part)
                if end <= at or end > self.plan.count or table.column_names != list(self.plan.head):
                    raise _altered(self._parts)
                numbers = self.plan.written(at, end)
                if any(table.column(id).to_pylist() != column.tolist() for id, column in numbers.items()):
                    raise _altered(self._parts)
                at = end
        except (OSError, ValueError):
            raise _altered(self._parts) from None
        if at != before.done:
            raise _altered(self._parts)

    def add(self, end: int, figures: NDArray[np.float64]) -> None:
        """Write the rows as one part."""
        numbers = {id: self._arrow.array(column.tolist()) for id, column in self.plan.written(self.done, end).items()}
        shown = {
            id: self._arrow.array(column, mask=np.isnan(column))
            for id, column in zip(self.plan.measures, self.plan.written_figures(figures).T, strict=True)
        }
        part = self._parts / f"{end:016d}.parquet"
        self._parquet.write_table(self._arrow.table(numbers | shown), part)
        self.done = end
        self._note()

    def _note(self) -> None:
        _save(self.path, self.plan, self.done, 0, "")

    def finish(self) -> None:
        """Join the parts into one file."""
        names = sorted(self._parts.iterdir())
        descriptor, name = tempfile.mkstemp(dir=self.path.parent, prefix=f".{self.path.name[:40]}.")
        os.close(descriptor)
        whole = Path(name)
        try:
            with self._parquet.ParquetWriter(whole, self._parquet.read_schema(names[0])) as writer:
                for part in names:
                    writer.write_table(self._parquet.read_table(part))
            whole.chmod(mode_for(self.path))
            whole.replace(self.path)
        except BaseException:
            whole.unlink(missing_ok=True)
            raise
        self._remove_parts()
        Progress.path_for(self.path).unlink(missing_ok=True)

    def _remove_parts(self) -> None:
        """Delete the parts and their folder."""
        if self._parts.is_dir():
            for part in self._parts.iterdir():
                if self.PART.fullmatch(part.name):
                    part.unlink()
            self._parts.rmdir()

    def keep(self) -> None:
        """Keep the parts that have been written."""


def table_for(plan: Plan, path: Path, *, resume: bool) -> Table:
    """The table for the path's suffix. OSError if it cannot be written; Refused if the suffix is unknown."""
    if path.is_dir() or not path.name:
        raise Refused([f"{path}: a folder; give the name of a file."])
    if path.suffix.lower() == ".parquet":
        return ParquetTable(plan, path, resume=resume)
    if path.suffix.lower() in (".csv", ""):
        return CsvTable(plan, path, resume=resume)
    raise Refused([f"{path}: a table ends in .csv or .parquet."])
