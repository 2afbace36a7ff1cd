"""Probes: short drills on which each value of a choice shows its effect, for a small curve."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.course import Course, Rectangle, Slope
from cinetica.model.parameters import Value
from cinetica.model.study import Drill
from cinetica.model.take import Keys, Press, Push, Take
from cinetica.model.tune import Tune
from cinetica.motion.simulate import simulate

FLOOR = Rectangle(-50, -1, 50, 0)


@dataclass(frozen=True)
class Probe:
    """What to run, and which columns to plot; the `first` values make the effect visible."""

    drills: dict[str, Drill]
    across: str
    up: str
    first: tuple[tuple[str, Value], ...] = ()
    tick_rate: float = 60


def _drills(keys: Keys, *, stick: tuple[Push, ...] = (), aim: tuple[Push, ...] = (), length: int = 60,
            solids: tuple[Rectangle, ...] = (FLOOR,), climb: tuple[Rectangle, ...] = (),
            oneway: tuple[Rectangle, ...] = (), slopes: tuple[Slope, ...] = (), start: tuple[float,
            float] = (0, 0)) -> dict[str, Drill]:  # fmt: skip
    take = Take(length=length, keys=keys, stick=stick, aim=aim)
    course = Course(solids=solids, oneway=oneway, climb=climb, slopes=slopes)
    return {
        "side": Drill(name="probe", view="side", start=start, course=course, take=take),
        "top": Drill(
            name="probe", view="top", course=Course(solids=tuple(s for s in solids if s is not FLOOR)), take=take
        ),
    }


@cache
def probes() -> dict[str, Probe]:
    """The probe of each choice that has one, by id. Built on first use, to keep the start fast."""
    return {
        **_of_input(),
        **_of_driving(),
        **_of_jumping(),
        **_of_contact(),
        **_of_dashes(),
        **_of_looks_and_steps(),
        **_of_camera(),
    }


RUN = Keys(right=(Press(4, 32),))
HOLD = Keys(jump=(Press(4, 50),))
AROUND = np.linspace(0, 2 * np.pi, 60)


def _of_input() -> dict[str, Probe]:
    both = Keys(right=(Press(4, 44),), left=(Press(18, 32),))
    # Around the square of half deflection, then around that of full deflection.
    squares = tuple(
        Push(
            frame + 60 * turn,
            size * max(-1.0, min(1.0, 1.42 * float(np.cos(angle)))),
            size * max(-1.0, min(1.0, 1.42 * float(np.sin(angle)))),
        )
        for turn, size in enumerate((0.5, 1.0))
        for frame, angle in enumerate(AROUND)
    )
    out = tuple(Push(frame, frame / 59, frame / 118) for frame in range(60))
    no_zone, rim = (("input.dead_zone_shape", "none"),), _drills(Keys(), stick=squares, length=120)
    return {
        "input.opposed": Probe(_drills(both), "time", "intent_x"),
        "input.dead_zone_shape": Probe(_drills(Keys(), stick=out), "input_x", "intent_y"),
        "input.diagonal": Probe(rim, "intent_x", "intent_y", no_zone),
        "input.axis_ratio_order": Probe(rim, "intent_x", "intent_y", (("input.axis_ratio", 0.5), *no_zone)),
        "input.view": Probe(_drills(Keys(up=(Press(0, 60),)), aim=(Push(0, 1, 0),)), "intent_x", "intent_y"),
    }


def _of_driving() -> dict[str, Probe]:
    back = Keys(right=(Press(4, 30),), left=(Press(30, 50),), up=(Press(4, 30),))
    eased = (("drive.law", "arc"), ("drive.turn_ease", 8), ("drive.turn_rate", 720))
    run_and_turn = Keys(right=(Press(4, 30),), up=(Press(22, 50),))
    return {
        "drive.law": Probe(_drills(back, length=70), "time", "vx", (("drive.drag", 4), ("drive.acceleration", 40))),
        "drive.axes": Probe(_drills(run_and_turn), "vx", "vy"),
        "drive.form": Probe(_drills(RUN, length=40), "time", "vx", (("drive.law", "ease"),), tick_rate=30),
        "drive.friction_step": Probe(_drills(RUN, length=50), "time", "x", tick_rate=20),
        "drive.cap_step": Probe(
            _drills(RUN, length=40), "time", "vx", (("drive.law", "push"), ("drive.acceleration", 40)), tick_rate=30
        ),
        "drive.turn_form": Probe(_drills(Keys(up=(Press(4, 50),))), "time", "facing", eased, tick_rate=20),
        "drive.turn_blend": Probe(
            _drills(Keys(left=(Press(4, 60),), up=(Press(4, 60),))), "time", "facing", eased, tick_rate=60
        ),
    }


def _of_jumping() -> dict[str, Probe]:
    tap, early = Keys(jump=(Press(4, 10),)), Keys(jump=(Press(1, 3),))
    climbing = Keys(up=(Press(0, 90),), jump=(Press(6, 30),))
    return {
        "jump.short_hop": Probe(_drills(tap), "time", "y"),
        "jump.buffered_release": Probe(_drills(early, start=(0, 0.05)), "time", "y"),
        "climb.hold": Probe(_drills(climbing, climb=(Rectangle(-3, 2.2, 3, 9),), length=70), "time", "y"),
        "jump.repeat": Probe(_drills(HOLD, length=90), "time", "y"),
        "jump.cut_repeat": Probe(
            _drills(Keys(jump=(Press(4, 10), Press(14, 18))), length=110), "time", "y", (("gravity.gravity", 15),)
        ),
    }


def _of_contact() -> dict[str, Probe]:
    wall = (FLOOR, Rectangle(1.2, 0, 1.4, 6))
    beam = (FLOOR, Rectangle(-3, 2.2, 3, 2.6))
    fast = (("drive.top_speed", 66), ("drive.law", "instant"))
    board = (Rectangle(-3, 0.8, 3, 1.0),)
    down = Keys(down=(Press(8, 50),), jump=(Press(24, 26),))
    ramp = (Slope(0.4, 0, 4.4, 3.4),)
    against = Keys(right=(Press(2, 60),), up=(Press(8, 60),), jump=(Press(8, 30),))
    return {
        "contact.sweep": Probe(_drills(Keys(right=(Press(2, 30),)), solids=wall, length=12), "time", "x", fast),
        "contact.wall": Probe(_drills(against, solids=wall), "time", "y"),
        "contact.head_bump": Probe(_drills(HOLD, solids=beam), "time", "y"),
        "contact.drop_through": Probe(_drills(down, oneway=board, start=(0, 1.0)), "time", "y"),
        "slope.slope_pace": Probe(_drills(RUN, slopes=ramp, length=40), "time", "vx", (("slope.max_slope", 50),)),
    }


def _of_dashes() -> dict[str, Probe]:
    dashes, tapped = (("dash.speed", 20),), Keys(right=(Press(4, 6), Press(12, 14)), dash=(Press(20, 21),))
    aslant = tuple(Push(0, x, y) for x, y in ((-0.8, 0.5),))
    return {
        "dash.aim": Probe(_drills(Keys(dash=(Press(4, 5),)), stick=aslant, length=20), "x", "y", dashes),
        "dash.exit": Probe(_drills(Keys(dash=(Press(4, 5),)), length=40), "time", "vx", dashes),
        "dash.trigger": Probe(_drills(tapped, length=50), "time", "vx", dashes),
    }


def _of_looks_and_steps() -> dict[str, Probe]:
    half_circle = tuple(
        Push(frame, float(np.cos(angle / 2)), float(np.sin(angle / 2))) for frame, angle in enumerate(AROUND)
    )
    turning = (("facing.facing_speed", 150), ("facing.facing_rate", 6), ("facing.sectors", 8))
    aims = _drills(Keys(), aim=(Push(10, -1, 0.2), Push(35, 0, 0)), length=50)
    up = Keys(jump=(Press(4, 50),), up=(Press(4, 10),))
    return {
        "facing.facing": Probe(_drills(Keys(), stick=half_circle), "time", "facing", turning),
        "facing.aim": Probe(aims, "time", "facing", (("facing.facing", "direct"),)),
        "facing.after_release": Probe(
            _drills(Keys(left=(Press(4, 24),))), "time", "facing", (("facing.facing", "constant"), *turning[:1])
        ),
        "facing.aim_release": Probe(
            _drills(Keys(right=(Press(45, 60),)), aim=(Push(10, -1, 0.2), Push(30, 0, 0))),
            "time",
            "facing",
            (("facing.facing", "direct"), ("facing.aim", "aim_stick"), ("facing.keep_last", False)),
        ),
        "stepping.integrator": Probe(_drills(up, length=20), "time", "y", tick_rate=30),
        "stepping.time_base": Probe(_drills(RUN), "time", "x", tick_rate=30),
    }


def _of_camera() -> dict[str, Probe]:
    hop = Keys(jump=(Press(4, 12), Press(50, 60)))
    stairs = (FLOOR, Rectangle(-3, 0, 3, 1))
    slow = (("camera.follow_rate", 20), ("camera.follow_speed", 4))
    return {
        "camera.follow": Probe(_drills(RUN), "time", "camera_x", slow),
        "camera.follow_form": Probe(
            _drills(RUN, length=40), "time", "camera_x", (("camera.follow", "ease"), *slow), tick_rate=20
        ),
        "camera.follow_height": Probe(_drills(hop, solids=stairs, start=(0, 1), length=90), "time", "camera_y"),
    }


def probe_curve(tune: Tune, id: str, value: Value) -> tuple[NDArray[np.float64], NDArray[np.float64]] | None:
    """The curve (across, up) of a tune with this value on the choice's probe; None if it has none."""
    probe = probes().get(id)
    if probe is None:
        return None
    for first, setting in (*probe.first, (id, value)):
        tune = tune.put(first, setting)
    trace = simulate(tune, probe.drills[tune.view], Clock(tick_rate=probe.tick_rate))
    return np.array(trace[probe.across], dtype=float), np.array(trace[probe.up], dtype=float)
