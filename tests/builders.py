"""Short ways to make tunes, drills and traces in tests."""

from __future__ import annotations

import os
import stat
from pathlib import Path
from typing import Any

from hypothesis import strategies as st

from cinetica.model.clock import Clock
from cinetica.model.course import Course, Rectangle, Slope
from cinetica.model.study import Drill, Study
from cinetica.model.take import Keys, Press, Push, Take
from cinetica.model.tune import Tune
from cinetica.motion.records import MARKS
from cinetica.motion.simulate import Trace, mark_names, simulate

FLOOR = (-1000.0, -1.0, 1000.0, 0.0)


def full_device(folder: Path) -> Path:
    """A device that is always full: one of our own where that is allowed, since root could replace the system's."""
    own = folder / "full"
    try:
        os.mknod(own, stat.S_IFCHR | 0o666, os.makedev(1, 7))
        own.open("wb").close()
    except OSError:
        own.unlink(missing_ok=True)
        return Path("/dev/full")
    return own


def make_tune(view: str = "side", **values: Any) -> Tune:
    """A tune with some values by id, with the dot written as two underscores: `drive__top_speed=8`."""
    tune = Tune(name="Wren", view=view)  # type: ignore[arg-type]
    for id, value in values.items():
        tune = tune.put(id.replace("__", "."), value)
    return tune


def make_drill(
    *,
    view: str = "side",
    length: int = 60,
    rate: float = 60,
    solids: Any = (FLOOR,),
    oneway: Any = (),
    climb: Any = (),
    slopes: Any = (),
    start: tuple[float, float] = (0.0, 0.0),
    stick: Any = (),
    aim: Any = (),
    **keys: Any,
) -> Drill:
    """A drill; keys are lists of (from, to): `right=[(0, 30)]`."""
    course = Course(
        solids=tuple(Rectangle(*r) for r in solids) if view == "side" or solids != (FLOOR,) else (),
        oneway=tuple(Rectangle(*r) for r in oneway),
        climb=tuple(Rectangle(*r) for r in climb),
        slopes=tuple(Slope(*ends) for ends in slopes),
    )
    held = {key: tuple(Press(*press) for press in presses) for key, presses in keys.items()}
    take = Take(
        rate=rate,
        length=length,
        keys=Keys(**held),
        stick=tuple(Push(*p) for p in stick),
        aim=tuple(Push(*p) for p in aim),
    )
    return Drill(name="Quay sprint", view=view, start=start, course=course, take=take)  # type: ignore[arg-type]


def tunes_of_interest(study: Study, drill: Drill) -> list[Tune]:
    """The tunes that a drill is made for: in the pitfalls the sound one and the mistaken one, else all of its view."""
    tunes = study.tunes_for(drill)
    own = [tune for tune in tunes if tune.name == drill.name]
    return [tunes[0], *own] if own else list(tunes)


def run(tune: Tune | None = None, drill: Drill | None = None, tick_rate: float = 60, **clock: Any) -> Trace:
    return simulate(tune or make_tune(), drill or make_drill(), Clock(tick_rate=tick_rate, **clock))


def rows_of(trace: Trace, mark: str) -> list[int]:
    return [int(row) for row in trace.rows_with(1 << MARKS.index(mark))]


def marks_at(trace: Trace, row: int) -> list[str]:
    return mark_names(int(trace["marks"][row]))


@st.composite
def presses(draw: st.DrawFn, length: int) -> tuple[Press, ...]:
    edges = sorted(draw(st.sets(st.integers(0, length), max_size=6)))
    return tuple(Press(a, b) for a, b in zip(edges[::2], edges[1::2], strict=False))


@st.composite
def takes(draw: st.DrawFn, length: int = 60, *, sticks: bool = True) -> Take:
    """Random takes."""
    keys = Keys(**{key: draw(presses(length)) for key in Keys.model_fields})
    deflection = st.floats(-1, 1, allow_nan=False)
    push = st.builds(Push, st.integers(0, length), deflection, deflection)
    pushes = st.lists(push, max_size=4).map(tuple) if sticks else st.just(())
    return Take(length=length, keys=keys, stick=draw(pushes), aim=draw(pushes))
