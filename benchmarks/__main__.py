"""Measure everything and write docs/benchmarks.md."""

from __future__ import annotations

import os
import platform
import statistics
from pathlib import Path

from cinetica.libraries import has_display

if not has_display():
    os.environ["QT_QPA_PLATFORM"] = "offscreen"

from benchmarks import files, kernel, play, window
from cinetica.files.shipped import shipped_study

Row = tuple[str, str, str]


def kernel_rows() -> list[Row]:
    ours, c, many, alone = kernel.rates()
    plain = kernel.uncompiled()
    return [
        ("compiled kernel, trace written", f"{ours * 1e9:.0f} ns a tick", ""),
        ("the slice's step in C, gcc -O3", f"{c * 1e9:.0f} ns a tick", ""),
        ("compiled over C", f"{ours / c:.1f}", "at most 4"),
        ("uncompiled over compiled", f"{plain / ours:.0f}", "at least 300"),
        ("10,000 tunes × 600 ticks, all cores", f"{1e-6 / many:.0f} million ticks/s", "at least 40"),
        ("all cores over one", f"{alone / many:.2f}", "at least 1.7"),
        ("first compile, empty cache", f"{kernel.first_compile():.1f} s", "under 25 s"),
    ]


def window_rows() -> list[Row]:
    two, six = window.drags(shipped_study("harbour")), window.drags(window.study_of_six())
    long = window.drags(window.study_of_six(), 30, ticks=72_000)
    start = window.starts()
    middle = statistics.median
    return [
        ("changed number to painted curves, 2 tunes, longest demo drill, median", f"{middle(two.changed) * 1e3:.1f} ms", "at most 16.7 ms"),
        ("the same, 6 tunes, median of 200", f"{middle(six.changed) * 1e3:.1f} ms", "at most 16.7 ms"),
        ("the same, 6 tunes, worst of 200", f"{max(six.changed) * 1e3:.1f} ms", "at most 33 ms"),
        ("the same, 6 tunes, with all figures, states and marks, median", f"{middle(six.complete) * 1e3:.1f} ms", ""),
        ("6 tunes over a bare pyqtgraph repaint of as many points", f"{middle(six.changed) / middle(six.bare):.2f}", "at most 2"),
        ("step of the cursor to painted, 6 tunes, median", f"{middle(six.stepped) * 1e3:.1f} ms", "at most 8 ms"),
        ("the step over a bare pyqtgraph repaint of as many points", f"{middle(six.stepped) / middle(six.bare):.2f}", ""),
        ("changed number to painted curves, 6 tunes, 10 minutes at 120 ticks/s, median", f"{middle(long.changed) * 1e3:.1f} ms", "at most 50 ms"),
        ("the same over a bare pyqtgraph repaint of as many points", f"{middle(long.changed) / middle(long.bare):.2f}", ""),
        ("start to painted window with curves", f"{start['ours']:.2f} s", ""),
        ("the same over a bare Qt and pyqtgraph window", f"{start['ours'] / start['bare']:.2f}", "at most 2.5"),
        ("the same less a bare window with NumPy and Numba", f"{start['ours'] - start['bare with NumPy and Numba']:+.2f} s", "under 0.5 s"),
    ]


def play_rows() -> list[Row]:
    played = play.played()
    work = sorted(played.work)
    return [
        ("Play, 1 tune and 3 shadows at 1280×800: work of a frame, median", f"{statistics.median(work) * 1e3:.1f} ms", "at most 8 ms"),
        ("the same, 99th percentile", f"{work[len(work) * 99 // 100] * 1e3:.1f} ms", "at most 16 ms"),
        ("pictures a second", f"{played.rate:.1f}", "60"),
        ("simulated from wall time after 60 s", f"{played.drift:.3f} ticks", "under 1"),
        ("live tick of 4 tunes", f"{play.live_tick() * 1e6:.1f} µs", "at most 20 µs"),
    ]


def file_rows() -> list[Row]:
    first, again, kept = files.saved()
    seconds, memory = files.hostile()
    what = "6 tunes, 30 drills, a 10-minute take"
    return [
        (f"{what}: saved for the first time", f"{first * 1e3:.0f} ms", "at most 100 ms"),
        ("the same after an edit", f"{again * 1e3:.0f} ms", "at most 100 ms"),
        ("the same kept against a crash after an edit, beside the window", f"{kept * 1e3:.0f} ms", ""),
        ("the same opened in an empty window, to painted curves", f"{files.opened():.2f} s", "at most 0.5 s"),
        ("the worst of the hostile files refused or read: time", f"{seconds:.2f} s", "at most 2 s"),
        ("the same: memory of the whole process", f"{memory:.0f} MB", "under 500 MB"),
    ]


def main() -> None:
    rows = kernel_rows() + window_rows() + play_rows() + file_rows()
    screen = "a virtual X11 screen" if has_display() else "Qt's offscreen platform"
    lines = [
        "# Benchmarks", "",
        f"Made by `make bench` on {platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}, {screen}.",
        "Kernel figures are the best of many runs, window figures medians unless they say otherwise.", "",
        "| what | measured | wanted |", "|---|---|---|",
        *(f"| {what} | {measured} | {wanted} |" for what, measured, wanted in rows), "",
    ]  # fmt: skip
    Path("docs/benchmarks.md").write_text("\n".join(lines))
    print("\n".join(lines))


main()
