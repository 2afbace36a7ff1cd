"""Start the stand-in game as a program of its own."""

from __future__ import annotations

import sys

from PySide6.QtCore import QProcess

# What the stand-in can run at, in ticks per second.
SLOWEST, FASTEST = 10.0, 1000.0


def start_stand_in(port: int, tick_rate: float, *more: str) -> int:
    """Start the stand-in on a port of this machine; `more` are options of its command. Returns its process id.

    Raises OSError if it cannot be started.
    """
    rate = min(max(tick_rate, SLOWEST), FASTEST)
    arguments = ["-m", "cinetica", "stand-in", "--port", str(port), "--tick-rate", f"{rate:g}", *more]
    started, number = QProcess.startDetached(sys.executable, arguments)
    if not started:
        raise OSError(f"The stand-in game could not be started: {sys.executable} does not run.")
    return number
