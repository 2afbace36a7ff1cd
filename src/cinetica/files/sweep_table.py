"""The table of a sweep, written chunk by chunk: what is interrupted can go on where it was.

Beside the table lies FILE.progress for as long as it is not whole: which sweep it is, and how far it has come. A table
as Parquet is written in parts, in FILE.parts, which become one file at the end.
"""

from __future__ import annotations

import json
import os
import shutil
import time
from pathlib import Path
from typing import Any, BinaryIO, Protocol

import numpy as np
from numpy.typing import NDArray

from cinetica.files.reading import Refused
from cinetica.files.writing import write_atomically
from cinetica.reading.plan import Plan

# How far it has come is noted so often (s).
EVERY = 1.0
EXTRA = "install it with: pip install 'cinetica[sweep]'"


class Table(Protocol):
    """Where the rows of a sweep go, in their order."""

    # Combinations that are written already.
    done: int

    def add(self, end: int, figures: NDArray[np.float64]) -> None:
        """The rows from `done` up to `end`."""

    def finish(self) -> None:
        """It is whole."""

    def keep(self) -> None:
        """It is not whole: what is there stays."""


def lines(plan: Plan, first: int, end: int, figures: NDArray[np.float64]) -> str:
    """Rows as CSV; an empty cell where a figure does not show. Floats are written so that they read back as
    themselves."""
    numbers = [column.tolist() for column in plan.columns(first, end).values()]
    texts = [[_text(value) for value in column] for column in numbers]
    shown = [["" if value != value else repr(value) for value in column] for column in figures.T.tolist()]
    return "".join(",".join(row) + "\n" for row in zip(*texts, *shown, strict=True))


def _text(value: Any) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    return repr(value) if isinstance(value, float) else str(value)


class CsvTable:
    """A CSV file, or, without a path, lines that are put somewhere else."""

    def __init__(self, plan: Plan, path: Path, *, resume: bool) -> None:
        self.plan, self.path, self.done, self._noted_at = plan, path, 0, 0.0
        self._notes = path.with_name(path.name + ".progress")
        # A pipe or a device takes rows, and nothing lies beside it.
        self._is_file = path.is_file() or not path.exists()
        before = _noted(self._notes, plan) if resume and self._is_file else None
        self._file: BinaryIO
        if before is not None and path.exists() and path.stat().st_size >= before[1]:
            self.done = before[0]
            self._file = path.open("r+b")
            # What came after the last note may be half a row.
            self._file.truncate(before[1])
            self._file.seek(before[1])
        else:
            self._file = path.open("wb")
            self._write(",".join(plan.head) + "\n")
            self._note()

    def _write(self, text: str) -> None:
        """OSError with the path in it."""
        try:
            self._file.write(text.encode())
            self._file.flush()
        except OSError as error:
            raise OSError(error.errno, error.strerror, str(self.path)) from error

    def add(self, end: int, figures: NDArray[np.float64]) -> None:
        self._write(lines(self.plan, self.done, end, figures))
        self.done = end
        if time.monotonic() > self._noted_at + EVERY:
            self._note()

    def _note(self) -> None:
        if not self._is_file:
            return
        content = {"sweep": self.plan.signature, "done": self.done, "bytes": self._file.tell()}
        write_atomically(self._notes, json.dumps(content).encode())
        self._noted_at = time.monotonic()

    def finish(self) -> None:
        if self._is_file:
            os.fsync(self._file.fileno())
        self._file.close()
        self._notes.unlink(missing_ok=True)

    def keep(self) -> None:
        self._note()
        self._file.close()


class ParquetTable:
    """A Parquet file, by way of a file for each chunk. Refused where pyarrow is not installed."""

    def __init__(self, plan: Plan, path: Path, *, resume: bool) -> None:
        try:
            import pyarrow
            import pyarrow.parquet
        except ImportError:
            raise Refused([f"A table as Parquet needs pyarrow; {EXTRA}."]) from None
        self._arrow, self._parquet = pyarrow, pyarrow.parquet
        self.plan, self.path, self.done = plan, path, 0
        self._parts = path.with_name(path.name + ".parts")
        self._notes = path.with_name(path.name + ".progress")
        before = _noted(self._notes, plan) if resume else None
        if before is not None and self._parts.is_dir():
            self.done = before[0]
        else:
            shutil.rmtree(self._parts, ignore_errors=True)
            self._parts.mkdir()

    def add(self, end: int, figures: NDArray[np.float64]) -> None:
        numbers = {id: self._arrow.array(column.tolist()) for id, column in self.plan.columns(self.done, end).items()}
        shown = {
            id: self._arrow.array(column, mask=np.isnan(column))
            for id, column in zip(self.plan.measures, figures.T, strict=True)
        }
        part = self._parts / f"{end:016d}.parquet"
        self._parquet.write_table(self._arrow.table(numbers | shown), part)
        self.done = end
        content = {"sweep": self.plan.signature, "done": end, "bytes": 0}
        write_atomically(self._notes, json.dumps(content).encode())

    def finish(self) -> None:
        names = sorted(self._parts.glob("*.parquet"))
        half = self.path.with_name(self.path.name + ".half")
        with self._parquet.ParquetWriter(half, self._parquet.read_schema(names[0])) as writer:
            for name in names:
                if int(name.stem) <= self.done:
                    writer.write_table(self._parquet.read_table(name))
        half.replace(self.path)
        shutil.rmtree(self._parts, ignore_errors=True)
        self._notes.unlink(missing_ok=True)

    def keep(self) -> None:
        """The parts are there."""


def table_for(plan: Plan, path: Path, *, resume: bool) -> Table:
    """By the suffix of the path. OSError if it cannot be written; Refused if it is of no known kind."""
    if path.suffix.lower() == ".parquet":
        return ParquetTable(plan, path, resume=resume)
    if path.suffix.lower() in (".csv", ""):
        return CsvTable(plan, path, resume=resume)
    raise Refused([f"{path}: a table ends in .csv or .parquet."])


def _noted(notes: Path, plan: Plan) -> tuple[int, int] | None:
    """How far an interrupted sweep had come, and with how many bytes; None where there was none.

    Refused where it was another sweep.
    """
    try:
        read = json.loads(notes.read_bytes())
        done, size = int(read["done"]), int(read["bytes"])
        same = read["sweep"] == plan.signature
    except (OSError, ValueError, KeyError, TypeError):
        return None
    if not same:
        raise Refused([f"{notes.name} is of another sweep: run this one without --resume, or into another file."])
    return (done, size) if 0 <= done <= plan.count else None
