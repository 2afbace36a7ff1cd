"""Cinetica: tune how a game character moves and compare the curves frame by frame.

For scripts and notebooks (docs/scripting.md):

    import cinetica
    study = cinetica.read_study("harbour.json")
    trace = cinetica.simulate(study.tune("Wren"), study.drill("Rooftop hop"), study.clock)
    trace["vy"]                 # NumPy array, u/s, one entry for each row
    cinetica.read_off(trace)    # figures by id
    cinetica.explain(trace, 47) # the rules that acted in the tick that ends in row 47
    cinetica.sweep(tune, drill, study.clock, {"jump.jump_speed": [12, 13, 14]})
    cinetica.match(tune, drill, study.clock, cinetica.from_log(log), ["jump.jump_speed", "gravity.gravity"])

Each name is imported on first use.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

__version__ = "0.3.0"

if TYPE_CHECKING:
    from cinetica.files.game_numbers import read_numbers
    from cinetica.files.handover import numbers_text
    from cinetica.files.shipped import shipped_study
    from cinetica.files.study_json import read_study, write_study
    from cinetica.model.clock import Clock, Hitch, Mode, Read
    from cinetica.model.conventions import Conventions
    from cinetica.model.course import Course, Rectangle, Slope
    from cinetica.model.study import Drill, Study
    from cinetica.model.take import Keys, Press, Push, Take
    from cinetica.model.targets import Target
    from cinetica.model.tune import Tune
    from cinetica.motion.simulate import Trace, simulate
    from cinetica.reading.alignment import difference
    from cinetica.reading.display_units import DisplayUnits, game_units
    from cinetica.reading.explain import explain
    from cinetica.reading.match.search import match
    from cinetica.reading.match.wanted import from_log, from_path, from_points, from_trace
    from cinetica.reading.reading_off import read_off
    from cinetica.reading.sweeps import sweep

_HOMES = {
    "files.game_numbers": ("read_numbers",),
    "files.handover": ("numbers_text",),
    "files.shipped": ("shipped_study",),
    "files.study_json": ("read_study", "write_study"),
    "model.clock": ("Clock", "Hitch", "Mode", "Read"),
    "model.conventions": ("Conventions",),
    "model.course": ("Course", "Rectangle", "Slope"),
    "model.study": ("Drill", "Study"),
    "model.take": ("Keys", "Press", "Push", "Take"),
    "model.targets": ("Target",),
    "model.tune": ("Tune",),
    "motion.simulate": ("Trace", "simulate"),
    "reading.alignment": ("difference",),
    "reading.display_units": ("DisplayUnits", "game_units"),
    "reading.explain": ("explain",),
    "reading.match.search": ("match",),
    "reading.match.wanted": ("from_log", "from_path", "from_points", "from_trace"),
    "reading.reading_off": ("read_off",),
    "reading.sweeps": ("sweep",),
}
_HOME_OF = {name: module for module, names in _HOMES.items() for name in names}
__all__ = [
    "Clock", "Conventions", "Course", "DisplayUnits", "Drill", "Hitch", "Keys", "Mode", "Press", "Push", "Read",
    "Rectangle", "Slope", "Study", "Take", "Target", "Trace", "Tune", "__version__", "difference", "explain",
    "from_log", "from_path", "from_points", "from_trace", "game_units", "match", "numbers_text", "read_numbers",
    "read_off", "read_study", "shipped_study", "simulate", "sweep", "write_study",
]  # fmt: skip


def __getattr__(name: str) -> Any:
    if name not in _HOME_OF:
        raise AttributeError(f"module 'cinetica' has no attribute {name!r}; there are: {', '.join(__all__)}")
    # A trace computes further columns from its rows once the channels are declared.
    import_module("cinetica.reading.channels")
    return getattr(import_module(f"cinetica.{_HOME_OF[name]}"), name)


def __dir__() -> list[str]:
    return __all__
