"""The page Survey through the real window, and `cinetica sweep`: what a hand that drags a number waits for."""

from __future__ import annotations

import socket
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from benchmarks.drags import closed, number, opened, settle, study_of_six, timed
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import study_text

# Of each view: the drill, and the number that is dragged, such that everything is asked anew.
VIEWS = {
    "Curve": ("Rooftop hop", "jump.run_boost"), "Map": ("Rooftop hop", "jump.run_boost"),
    "Windows": ("Gutter's edge", "gravity.gravity"), "Reach": ("Rooftop hop", "gravity.gravity"),
}  # fmt: skip
SWEPT = ("--vary", "gravity.gravity=20:60:1000", "--vary", "jump.jump_speed=10:16:1000", "--measure", "jump_height")
RUNS, TICKS = 1_000_000, 160


def dragged(words: str, count: int = 60) -> list[float]:
    """Seconds of each move of a drag in the sheet, until everything it caused is done; the view is asked each time."""
    drill, id = VIEWS[words]
    window: Window = opened(study_of_six(), drill)
    window.show_page("survey")
    window.survey.show_view(words)
    view = window.survey.view
    view.task.wait()
    settle()
    taken = []
    for move in number(window, id, count):

        def act(move=move) -> None:
            move()
            # The fine picture of a hand at rest is none of it.
            while view.task.asking:
                settle()
                # Else this loop would keep Python's lock from the work beside it, as no event loop does.
                time.sleep(0.0005)

        taken.append(timed(act)[1])
    closed(window)
    return taken


class Swept(NamedTuple):
    """`rate`: ticks a second of the whole program on all cores, and on a cluster of two workers here; `memory`: MB."""

    rate: float
    memory: float
    cluster: float


def swept() -> Swept:
    with tempfile.TemporaryDirectory() as folder:
        study = Path(folder) / "study.json"
        study.write_text(study_text(shipped_study("harbour")))

        def run(*more: str) -> tuple[float, float]:
            asked = [sys.executable, "-m", "cinetica", "sweep", str(study), "--tune", "Wren", "--drill", "Rooftop hop",
                     *SWEPT, "-o", str(Path(folder) / "table.csv"), *more]  # fmt: skip
            begun = time.perf_counter()
            started = subprocess.Popen(asked, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            most = 0.0
            while started.poll() is None:
                most = max(most, _most_memory(started.pid))
                time.sleep(0.1)
            assert started.returncode == 0
            return RUNS * TICKS / (time.perf_counter() - begun), most

        rate, memory = run()
        with _cluster() as address:
            cluster, _ = run("--scheduler", address)
    return Swept(rate, memory, cluster)


def _most_memory(process: int) -> float:
    """The most that a process has had in memory, in MB; its `ru_maxrss` has that of who started it, too."""
    try:
        lines = Path(f"/proc/{process}/status").read_text().splitlines()
    except OSError:
        return 0.0
    return next((int(line.split()[1]) / 1024 for line in lines if line.startswith("VmHWM")), 0.0)


@contextmanager
def _cluster() -> Iterator[str]:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    address = f"tcp://127.0.0.1:{port}"
    dask = [sys.executable, "-m", "distributed.cli.dask_scheduler"]
    worker = [sys.executable, "-m", "distributed.cli.dask_worker"]
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    started = [
        subprocess.Popen([*dask, "--host", "127.0.0.1", "--port", str(port), "--no-dashboard"], **quiet),
        subprocess.Popen([*worker, address, "--nthreads", "1", "--nworkers", "2", "--no-dashboard"], **quiet),
    ]
    try:
        from distributed import Client

        with Client(address, timeout=30, set_as_default=False) as client:
            client.wait_for_workers(2, timeout=30)
        yield address
    finally:
        for each in started:
            each.terminate()
            each.wait()


def rows(kernel_rate: float) -> list[tuple[str, str, str]]:
    """`kernel_rate`: ticks a second of the kernel alone on all cores, without traces, in the same run."""
    goals = {"Curve": "16.7 ms", "Map": "33 ms", "Windows": "33 ms", "Reach": "100 ms"}
    words = {
        "Curve": "Survey, curve of 200 × 6 tunes", "Map": "Survey, map of 50 × 50",
        "Windows": "Survey, 61 shifts × 6 tunes × 5 clocks", "Reach": "Survey, reach of 6 tunes",
    }  # fmt: skip
    listed = []
    for name, goal in goals.items():
        taken = dragged(name)
        shown = f"{statistics.median(taken) * 1e3:.1f} / {max(taken) * 1e3:.1f} ms"
        listed.append((f"{words[name]}, redrawn while a number is dragged, median / worst of 60", shown, goal))
    found = swept()
    return [
        *listed,
        ("cinetica sweep, 10⁶ runs × 160 ticks, one figure, with its start and its file",
         f"{found.rate * 1e-6:.1f} million ticks/s", ""),
        ("the same over the kernel without traces, in this run", f"{found.rate / kernel_rate:.2f}", "0.7"),
        ("the same: memory", f"{found.memory:.0f} MB", "under 400 MB"),
        ("the same through a Dask scheduler with two workers here, over the one before",
         f"{found.cluster / found.rate:.2f}", "0.7"),
    ]  # fmt: skip
