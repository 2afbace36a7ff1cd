"""Measure everything and write docs/benchmarks.md."""

from __future__ import annotations

import os
import platform
import statistics
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path

from cinetica.libraries import has_display

if not has_display():
    # With a screen that windows fit on, at twice the scale, too: Qt's own is 800 × 800.
    os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={Path(__file__).with_name('screen.json')}"

from benchmarks import code, drags, files, kernel, link, match, overview, play, survey, window

Row = tuple[str, str, str]


def kernel_rows() -> list[Row]:
    ours, c, many, alone = kernel.rates()
    plain = kernel.uncompiled()
    return [
        ("compiled kernel, trace written", f"{ours * 1e9:.0f} ns a tick", ""),
        ("the slice's step in C, gcc -O3", f"{c * 1e9:.0f} ns a tick", ""),
        ("compiled over C", f"{ours / c:.1f}", "at most 2.0"),
        ("uncompiled over compiled", f"{plain / ours:.0f}", "at least 300"),
        ("10,000 tunes × 600 ticks, all cores", f"{1e-6 / many:.0f} million ticks/s", "at least 40"),
        ("all cores over one", f"{alone / many:.2f}", "at least 1.7"),
        ("first compile, empty cache", f"{kernel.first_compile():.1f} s", "under 25 s"),
    ]


def window_rows() -> list[Row]:
    dragged, (long, long_bare) = window.dragged(), window.long_take()
    start, (twice, twice_kind) = window.starts(), window.at_twice_the_scale()
    middle = statistics.median

    def drag(words: str, kinds: Sequence[str], goal: str) -> list[Row]:
        worst = dragged.worst(kinds)
        taken = dragged.taken[worst]
        return [
            (f"{words} (worst: {worst}), to all of it painted, median / worst of 200",
             f"{middle(taken.complete) * 1e3:.1f} / {max(taken.complete) * 1e3:.1f} ms", goal),
            ("the same, to the curves painted, median", f"{middle(taken.painted) * 1e3:.1f} ms", ""),
            ("the same over a bare pyqtgraph repaint of as many points, in turns", f"{dragged.ratio(worst):.2f}", ""),
        ]  # fmt: skip

    step = dragged.taken["a step of the cursor"].complete
    return [
        *drag("a number dragged, 6 tunes, Rooftop hop", drags.NUMBERS, "8.3 / 16.7 ms"),
        *drag("hands or course dragged, all 6 run again", window.HANDS, "16.7 ms"),
        *drag("a number of the clock typed", ["the tick rate"], "16.7 ms"),
        ("step of the cursor to painted, 6 tunes, median", f"{middle(step) * 1e3:.1f} ms", "5 ms"),
        (
            "a bare pyqtgraph repaint of as many points, median",
            f"{middle(dragged.bare['a step of the cursor']) * 1e3:.1f} ms",
            "",
        ),
        ("gravity dragged, 6 tunes, the longest of 2,000 moves", f"{window.many() * 1e3:.1f} ms", "25 ms"),
        (f"any drag at twice the scale (worst: {twice_kind}), median", f"{twice * 1e3:.1f} ms", "33 ms"),
        (
            "a number dragged, 6 tunes, 10 minutes at 120 ticks/s, to painted curves, median",
            f"{middle(long) * 1e3:.1f} ms",
            "16.7 ms",
        ),
        ("the same over a bare pyqtgraph repaint of as many points", f"{middle(long) / middle(long_bare):.2f}", ""),
        ("start to painted window with curves", f"{start['ours']:.2f} s", ""),
        ("the same over a bare Qt and pyqtgraph window", f"{start['ours'] / start['bare']:.2f}", "1.6"),
        (
            "the same less a bare window with NumPy and Numba",
            f"{start['ours'] - start['bare with NumPy and Numba']:+.2f} s",
            "",
        ),
        ("memory with the demo open", f"{window.memory():.0f} MB", "200 MB"),
    ]


def play_rows() -> list[Row]:
    played = play.played()
    work = sorted(played.work)
    return [
        (
            "Play, 1 tune and 3 shadows at 1280×800: work of a frame, median",
            f"{statistics.median(work) * 1e3:.1f} ms",
            "10 ms",
        ),
        ("the same, 99th percentile", f"{work[len(work) * 99 // 100] * 1e3:.1f} ms", "16.7 ms"),
        ("pictures a second", f"{played.rate:.1f}", "60"),
        ("simulated from wall time after 60 s", f"{played.drift:.3f} ticks", "under 1"),
        ("live tick of 4 tunes", f"{play.live_tick() * 1e6:.1f} µs", "at most 20 µs"),
    ]


def overview_rows() -> list[Row]:
    over = overview.overviewed()
    painted, complete = (sorted(times) for times in over.taken)
    return [
        ("Overview, 30 drills and 6 tunes: opened for the first time", f"{over.first * 1e3:.0f} ms", "150 ms"),
        ("gravity dragged, to the visible cards painted, median / worst of 60",
         f"{statistics.median(painted) * 1e3:.1f} / {painted[-1] * 1e3:.1f} ms", "33 ms"),
        ("the same, to all figures of all cards, median / worst",
         f"{statistics.median(complete) * 1e3:.1f} / {complete[-1] * 1e3:.1f} ms", "150 ms"),
    ]  # fmt: skip


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


def survey_rows() -> list[Row]:
    return survey.rows(1 / kernel.rates()[2])


# Each part runs in a process of its own, as a window does on a desk: the compiler that the kernel loads would
# be in the way of the collector and in the caches. The window goes first.
PARTS = {
    "window": window_rows, "play": play_rows, "overview": overview_rows, "survey": survey_rows, "files": file_rows,
    "kernel": kernel_rows, "link": link.rows, "match": match.rows, "code": code.rows,
}  # fmt: skip


def table(rows: Sequence[Sequence[str]]) -> list[str]:
    return [
        "| what | measured | wanted |", "|---|---|---|",
        *(f"| {what} | {measured} | {wanted} |" for what, measured, wanted in rows),
    ]  # fmt: skip


def everything() -> None:
    rows = []
    for part in PARTS:
        done = subprocess.run([sys.executable, "-m", "benchmarks", part], check=True, stdout=subprocess.PIPE, text=True)
        print(done.stdout, flush=True)
        rows += done.stdout.splitlines()[2:]
    screen = "a virtual X11 screen" if has_display() else "Qt's offscreen platform"
    lines = [
        "# Benchmarks", "",
        f"Made by `make bench` on {platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}, "
        f"{screen}.",
        "Kernel figures are the best of many runs, window figures medians unless they say otherwise.", "",
        *table([])[:2], *rows, "",
    ]  # fmt: skip
    Path("docs/benchmarks.md").write_text("\n".join(lines))


def main() -> None:
    """Measure everything and write docs/benchmarks.md; given the name of a part, measure that and print its table."""
    if len(sys.argv) > 1:
        print("\n".join(table(PARTS[sys.argv[1]]())))
    else:
        everything()


main()
