"""Templates for a new study: a character, and drills that show what is usually tuned first."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from cinetica.model.course import Course, Rectangle
from cinetica.model.laws import Law
from cinetica.model.study import Drill, Study
from cinetica.model.take import Keys, Press, Take
from cinetica.model.tune import Drive, Facing, FacingRule, Tune

FLOOR = Rectangle(-20.0, -1.0, 40.0, 0.0)


class Template(NamedTuple):
    """A template: its name, what it is for, and the function that creates the study."""

    name: str
    meaning: str
    make: Callable[[], Study]


def _study(name: str, *drills: Drill, tune: Tune | None) -> Study:
    return Study.new(name, tunes=(tune,) if tune else (), drills=drills)


def _side() -> Study:
    floor = Course(solids=(FLOOR,))
    roof = Course(solids=(Rectangle(-6.0, -4.0, 5.0, 0.0), Rectangle(9.0, -4.0, 40.0, -1.0)))
    run = Keys(right=(Press(10, 80),))
    turn = Keys(right=(Press(10, 60),), left=(Press(60, 110),))
    hops = Keys(jump=(Press(10, 50), Press(90, 93)))
    edge = Keys(right=(Press(5, 110),), jump=(Press(58, 75),))
    return _study(
        "New study, from the side",
        Drill(
            name="Start and stop",
            note="How soon is it at top speed, and how far does it slide?",
            course=floor,
            take=Take(length=120, keys=run),
        ),
        Drill(
            name="Turn round",
            note="From full speed straight into the other direction.",
            course=floor,
            take=Take(length=140, keys=turn),
        ),
        Drill(
            name="Tap and hold",
            note="A jump that is held to the end, then a tap.",
            course=floor,
            take=Take(length=150, keys=hops),
        ),
        Drill(
            name="Tap",
            note="The tap alone: overlay it on the hold (Drill menu).",
            course=floor,
            take=Take(length=150, keys=Keys(jump=(Press(10, 13),))),
        ),
        Drill(
            name="Off the roof",
            note="A jump close to the edge: move the press to either side of it.",
            course=roof,
            take=Take(length=150, keys=edge),
        ),
        tune=Tune(name="Courier", note="What every number is at first."),
    )


def _above() -> Study:
    quays = Keys(right=(Press(10, 60), Press(100, 150)), up=(Press(100, 150),))
    turn = Keys(right=(Press(10, 60),), left=(Press(60, 110),))
    return _study(
        "New study, from above",
        Drill(
            name="Straight and diagonal",
            note="First straight on, then both keys: is the diagonal as fast?",
            view="top",
            take=Take(length=190, keys=quays),
        ),
        Drill(
            name="Turn round",
            note="From full speed straight into the other direction.",
            view="top",
            take=Take(length=140, keys=turn),
        ),
        tune=Tune(
            name="Courier", view="top", note="What every number is at first.", facing=Facing(facing=FacingRule.DIRECT)
        ),
    )


def _steered() -> Study:
    bends = Keys(up=(Press(5, 190),), right=(Press(50, 85), Press(130, 165)), left=(Press(90, 125),))
    stop = Keys(up=(Press(5, 80),), down=(Press(100, 170),))
    return _study(
        "New study, steered",
        Drill(
            name="Three bends",
            note="Thrust all the way, and turn right, left, right.",
            view="top",
            take=Take(length=220, keys=bends),
        ),
        Drill(
            name="Thrust and back off", note="Ahead, let go, then astern.", view="top", take=Take(length=200, keys=stop)
        ),
        tune=Tune(name="Barge", view="top", note="Turns its heading and thrusts along it.", drive=Drive(law=Law.STEER)),
    )


TEMPLATES = (
    Template("From the side", "Running and jumping, with gravity: five drills.", _side),
    Template("From above", "Walking in all directions, without gravity: two drills on open ground.", _above),
    Template("Steered, from above", "Turn the heading and thrust along it: two drills on open water.", _steered),
    Template("Empty", "No tune and no drill.", lambda: _study("New study", tune=None)),
)
