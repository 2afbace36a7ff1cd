"""The kernel: compiled, uncompiled, against C, and over many tunes."""

from __future__ import annotations

import ctypes
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import numpy as np

from cinetica.model.clock import Clock
from cinetica.model.course import Course, Rectangle
from cinetica.model.take import Keys, Press, Take
from cinetica.model.tune import Tune
from cinetica.motion.clock import schedule
from cinetica.motion.native import bound, kernel
from cinetica.motion.records import STATE, TRACE, Start, empty_records, ground, tune_records
from cinetica.reading.run_reader import Runs, read_runs

COURSE = Course(solids=(Rectangle(-4, -1, 60, 0), Rectangle(20, 0, 21, 0.5), Rectangle(-6, -1, -4, 3)))
TUNE = Tune(name="Wren")
TUNES, SWEPT_TICKS = 10_000, 600
SLICE_FIELDS = [
    "half",
    "height",
    "top_speed",
    "acceleration",
    "friction",
    "turn_acceleration",
    "air_control",
    "air_friction",
    "gravity",
    "fall_factor",
    "terminal_speed",
    "jump_speed",
    "cut_factor",
    "buffer",
    "coyote",
]
SLICE_TUNE = np.dtype([(name, "f8") for name in SLICE_FIELDS] + [("cut_hops", "i4"), ("spend_grace", "i4")])
SLICE_HAND = np.dtype([(name, "u1") for name in ("left", "right", "up", "down", "jump", "pressed", "released")])
SLICE_ROW = np.dtype(
    [("tick", "i8")]
    + [
        (name, "f8")
        for name in [
            "time",
            "dt",
            "intent_x",
            "intent_y",
            "x",
            "y",
            "vx",
            "vy",
            "ax",
            "ay",
            "speed",
            "since_ground",
            "since_press",
        ]
    ]
    + [("jump", "i8"), ("state", "i8"), ("marks", "i8")]
)


def hands_for(ticks: int) -> Take:
    """Runs, turns and jumps all the way through."""
    spans = range(0, ticks - 120, 120)
    right = tuple(Press(at + 5, at + 60) for at in spans)
    left = tuple(Press(at + 60, at + 110) for at in spans)
    jump = tuple(Press(at + 30, at + 45) for at in spans)
    return Take(length=ticks, keys=Keys(right=right, left=left, jump=jump))


def best(run: Callable[[], object], times: int) -> float:
    """Shortest of several runs, in s: what the machine can do when nothing else disturbs it."""
    took = []
    for _ in range(times):
        begin = time.perf_counter()
        run()
        took.append(time.perf_counter() - begin)
    return min(took)


def in_turns(*runs: Callable[[], object], rounds: int) -> list[float]:
    """The shortest time of each, in s, run in turns so that all meet the same machine; a first round is dropped."""
    took = np.array([[best(run, 1) for run in runs] for _ in range(rounds + 1)])
    return [float(seconds) for seconds in took[1:].min(axis=0)]


def compiled(ticks: int) -> Callable[[], object]:
    """A run of the kernel, trace written; like the one in C it is called with all that it works on ready."""
    hands, dts, *_ = schedule(hands_for(ticks), Clock())
    states, rows = empty_records(STATE, 1), empty_records(TRACE, ticks + 1)
    run = bound(states, tune_records([TUNE]), ground(COURSE), 0.0, 0.0, hands, dts, rows)
    empty, state = np.zeros(1, STATE), states.view(STATE, np.ndarray)

    def run_all() -> None:
        state[:] = empty
        run(ticks + 1, 0)

    return run_all


def in_c(ticks: int) -> Callable[[], object]:
    """The same run of the slice's step in C, compiled now. Its trace must be ours, or the comparison means nothing."""
    with tempfile.TemporaryDirectory() as folder:
        library = Path(folder) / "slice.so"
        source = Path(__file__).with_name("slice_step.c")
        subprocess.run(["gcc", "-O3", "-shared", "-fPIC", "-o", library, source, "-lm"], check=True)
        run = ctypes.CDLL(str(library)).run
    hands, dts, *_ = schedule(hands_for(ticks), Clock())
    record, course = tune_records([TUNE]), ground(COURSE)
    tune, held, rows = np.zeros(1, SLICE_TUNE), np.zeros(ticks + 1, SLICE_HAND), np.zeros(ticks + 1, SLICE_ROW)
    for name in SLICE_TUNE.names:
        if name in record.dtype.names:
            tune[name] = record[name]
    tune["half"], tune["cut_hops"] = TUNE.body.width / 2, 1
    for name in SLICE_HAND.names:
        held[name] = hands[name]
    arrays = (tune, course.solids, held, dts, rows)
    pointers = [ctypes.c_void_p(array.ctypes.data) for array in arrays]
    zero = ctypes.c_double(0)

    def run_arrays() -> None:
        assert arrays  # They live as long as their addresses.
        run(
            pointers[0],
            pointers[1],
            len(course.solids),
            zero,
            zero,
            pointers[2],
            pointers[3],
            pointers[4],
            ctypes.c_long(ticks + 1),
        )

    run_arrays()
    ours = empty_records(TRACE, ticks + 1)
    kernel()(empty_records(STATE, 1), record, course, 0.0, 0.0, hands, dts, ours)
    for name in ("x", "y", "vx", "vy", "ax", "ay", "marks", "state"):
        if not np.allclose(rows[name], ours[name], atol=1e-9):
            raise AssertionError(f"the C step and the kernel differ in {name}")
    return run_arrays


def sweep(cores: int | None = None) -> Callable[[], object]:
    """A run of many tunes on so many cores, or all, with a figure read off each, as the program does it."""
    hands, dts, *_ = schedule(hands_for(SWEPT_TICKS), Clock())
    many, course = np.repeat(tune_records([TUNE]), TUNES).view(np.recarray), ground(COURSE)
    many["top_speed"] = np.linspace(3, 12, TUNES)
    runs = Runs(TUNES, many, course, Start(0.0, 0.0), "side", hands, dts, 0)
    return lambda: read_runs(runs, ("top_speed_reached",), threads=cores or 0)


class Rates(NamedTuple):
    """Seconds a tick."""

    compiled: float
    in_c: float
    on_all_cores: float
    on_one: float


def rates(ticks: int = 6000) -> Rates:
    single = in_turns(compiled(ticks), in_c(ticks), rounds=400)
    many = in_turns(sweep(), sweep(cores=1), rounds=80)
    return Rates(*(seconds / ticks for seconds in single), *(seconds / (TUNES * SWEPT_TICKS) for seconds in many))


def uncompiled(ticks: int = 600) -> float:
    """Seconds a tick of the same source as plain Python, in a process of its own."""
    code = f"from benchmarks.kernel import best, compiled; print(best(compiled({ticks}), 3))"
    out = subprocess.run(
        [sys.executable, "-c", code],
        env=os.environ | {"NUMBA_DISABLE_JIT": "1"},
        capture_output=True,
        text=True,
        check=True,
    )
    return float(out.stdout) / ticks


def first_compile() -> float:
    """Seconds from an empty cache to the first trace, in a process of its own."""
    with tempfile.TemporaryDirectory() as folder:
        begin = time.perf_counter()
        subprocess.run(
            [sys.executable, "-m", "cinetica.desk.warm"], env=os.environ | {"NUMBA_CACHE_DIR": folder}, check=True
        )
        return time.perf_counter() - begin
