"""Start the stand-in game as a program of its own."""

from __future__ import annotations

import sys

from PySide6.QtCore import QProcess

from cinetica.model.study import Study

# What the stand-in can run at, in ticks per second.
SLOWEST, FASTEST = 10.0, 1000.0


def start_stand_in(port: int, study: Study, *more: str) -> int:
    """Start the stand-in on a port of this machine, at the study's tick rate and in its game's conventions.

    `more` are options of its command. Returns its process id; raises OSError if it cannot be started.
    """
    game, rate = study.conventions, min(max(study.clock.tick_rate, SLOWEST), FASTEST)
    options = {
        "port": port, "tick-rate": f"{rate:.12g}", "pixels-per-unit": f"{game.pixels_per_unit:.12g}", "per": game.per,
        "times": game.time_unit, "frame-rate": f"{game.rate:.12g}",
    }  # fmt: skip
    arguments = ["-m", "cinetica", "stand-in", *(f"--{name}={value}" for name, value in options.items())]
    arguments += ["--y-down"] * game.y_down + list(more)
    started, number = QProcess.startDetached(sys.executable, arguments)
    if not started:
        raise OSError(f"The stand-in game could not be started: {sys.executable} does not run.")
    return number
