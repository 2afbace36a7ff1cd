"""The code that is handed over, in C, beside the kernel that it was made from."""

from __future__ import annotations

import ctypes
import subprocess
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import numpy as np

from benchmarks.kernel import COURSE, TUNE, best, compiled, hands_for, in_turns
from cinetica.codegen.languages import code_text
from cinetica.codegen.make import cut_program, whole_program
from cinetica.files.shipped import shipped_study
from cinetica.model.clock import Clock
from cinetica.model.conventions import Conventions
from cinetica.model.study import Drill
from cinetica.motion.clock import schedule
from cinetica.motion.native import kernel
from cinetica.motion.records import STATE, TRACE, empty_records, ground, tune_records

# Runs all ticks and keeps the whole state of each, as the kernel writes a row of the trace.
RUNNER = """
#include <string.h>
#include "wren.h"

long size_of_state(void) { return (long)sizeof(wren_state); }

void run(const wren_rectangle *solids, int count, const unsigned char *hands, const double *dts,
         wren_state *rows, long ticks) {
    wren_state all;
    wren_numbers tuned = wren_tuned;
    wren_input input;
    wren_course course = {{solids, count}};
    memset(&all, 0, sizeof all);
    memset(&input, 0, sizeof input);
    wren_begin(&all, &tuned, &course, 0.0, 0.0);
    rows[0] = all;
    for (long row = 1; row < ticks; row++) {
        const unsigned char *hand = hands + 7 * row;
        input.left = hand[0];
        input.right = hand[1];
        input.up = hand[2];
        input.down = hand[3];
        input.jump = hand[4];
        input.jump_pressed = hand[5];
        input.jump_released = hand[6];
        wren_step(&all, &tuned, &input, &course, dts[row]);
        rows[row] = all;
    }
}
"""
HANDS = ("left", "right", "up", "down", "jump", "pressed", "released")


def generated(ticks: int) -> Callable[[], object]:
    """A run of the tune's own code, compiled now. Its places must be the kernel's, or the comparison means nothing."""
    program = whole_program(TUNE, [Drill(name="run", course=COURSE)], Conventions())
    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / "wren.h").write_text(code_text(program, "c"))
        source, library = Path(folder) / "run.c", Path(folder) / "run.so"
        source.write_text(RUNNER)
        subprocess.run(["gcc", "-std=c99", "-O3", "-shared", "-fPIC", "-o", library, source, "-lm"], check=True)
        loaded = ctypes.CDLL(str(library))
    hands, dts, *_ = schedule(hands_for(ticks), Clock())
    course = ground(COURSE)
    held = np.stack([hands[name] for name in HANDS], axis=1).astype(np.uint8).copy()
    size = loaded.size_of_state()
    rows = np.zeros((ticks + 1, size), np.uint8)
    arrays = (course.solids, held, dts, rows)
    solids, hand, lengths, out = (ctypes.c_void_p(array.ctypes.data) for array in arrays)

    def run() -> None:
        assert arrays  # They live as long as their addresses.
        loaded.run(solids, len(course.solids), hand, lengths, out, ctypes.c_long(ticks + 1))

    run()
    ours = empty_records(TRACE, ticks + 1)
    kernel()(empty_records(STATE, 1), tune_records([TUNE]), course, 0.0, 0.0, hands, dts, ours)
    # x and y come first in the state.
    places = rows[:, :16].copy().view(np.float64)
    if not (np.array_equal(places[:, 0], ours["x"]) and np.array_equal(places[:, 1], ours["y"])):
        raise AssertionError("the code and the kernel differ")
    return run


class Times(NamedTuple):
    """Seconds a tick of both, and seconds to write the code of the demo's first tune: its step, and all of it."""

    kernel: float
    code: float
    step: float
    whole: float


def times(ticks: int = 6000) -> Times:
    ours, code = in_turns(compiled(ticks), generated(ticks), rounds=400)
    study = shipped_study("harbour")
    wren, drills = study.tunes[0], [drill for drill in study.drills if drill.view == "side"]
    step, whole = (
        best(lambda make=make: code_text(make(wren, drills, study.conventions), "c"), 5)  # type: ignore[misc]
        for make in (cut_program, whole_program)
    )
    return Times(ours / ticks, code / ticks, step, whole)


def rows() -> list[tuple[str, str, str]]:
    """The rows of docs/benchmarks.md."""
    found = times()
    return [
        ("a tick of the kernel, trace written", f"{found.kernel * 1e9:.0f} ns", ""),
        ("the same tune's own code in C, gcc -O3, its state written", f"{found.code * 1e9:.0f} ns", ""),
        ("the code over the kernel, in turns", f"{found.code / found.kernel:.2f}", "at most 1.2"),
        ("to write the cut step of Wren", f"{found.step * 1e3:.0f} ms", ""),
        ("to write the whole tick of Wren, with nets and slopes", f"{found.whole * 1e3:.0f} ms", ""),
    ]
