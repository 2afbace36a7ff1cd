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


def _drill(name: str, note: str, take: Take, course: Course | None = None) -> Drill:
    """A drill from the side on a course, or from above on open ground."""
    if course is None:
        return Drill(name=name, note=note, view="top", take=take)
    return Drill(name=name, note=note, course=course, take=take)


def _side() -> Study:
    floor = Course(solids=(FLOOR,))
    roof = Course(solids=(Rectangle(-6.0, -4.0, 5.0, 0.0), Rectangle(9.0, -4.0, 40.0, -1.0)))
    run = Take(length=120, keys=Keys(right=(Press(10, 80),)))
    turn = Take(length=140, keys=Keys(right=(Press(10, 60),), left=(Press(60, 110),)))
    hops = Take(length=150, keys=Keys(jump=(Press(10, 50), Press(90, 93))))
    tap = Take(length=150, keys=Keys(jump=(Press(10, 13),)))
    edge = Take(length=150, keys=Keys(right=(Press(5, 110),), jump=(Press(58, 75),)))
    return _study(
        "New study, from the side",
        _drill("Start and stop", "How soon is it at top speed, and how far does it slide?", run, floor),
        _drill("Turn round", "From full speed straight into the other direction.", turn, floor),
        _drill("Tap and hold", "A jump that is held to the end, then a tap.", hops, floor),
        _drill("Tap", "The tap alone: overlay it on the hold (Drill menu).", tap, floor),
        _drill("Off the roof", "A jump close to the edge: move the press to either side of it.", edge, roof),
        tune=Tune(name="Courier", note="What every number is at first."),
    )


def _above() -> Study:
    quays = Take(length=190, keys=Keys(right=(Press(10, 60), Press(100, 150)), up=(Press(100, 150),)))
    turn = Take(length=140, keys=Keys(right=(Press(10, 60),), left=(Press(60, 110),)))
    return _study(
        "New study, from above",
        _drill("Straight and diagonal", "First straight on, then both keys: is the diagonal as fast?", quays),
        _drill("Turn round", "From full speed straight into the other direction.", turn),
        tune=Tune(
            name="Courier", view="top", note="What every number is at first.", facing=Facing(facing=FacingRule.DIRECT)
        ),
    )


def _steered() -> Study:
    bends = Keys(up=(Press(5, 190),), right=(Press(50, 85), Press(130, 165)), left=(Press(90, 125),))
    stop = Keys(up=(Press(5, 80),), down=(Press(100, 170),))
    return _study(
        "New study, steered",
        _drill("Three bends", "Thrust all the way, and turn right, left, right.", Take(length=220, keys=bends)),
        _drill("Thrust and back off", "Ahead, let go, then astern.", Take(length=200, keys=stop)),
        tune=Tune(name="Barge", view="top", note="Turns its heading and thrusts along it.", drive=Drive(law=Law.STEER)),
    )


TEMPLATES = (
    Template("From the side", "Running and jumping, with gravity: five drills.", _side),
    Template("From above", "Walking in all directions, without gravity: two drills on open ground.", _above),
    Template("Steered, from above", "Turn the heading and thrust along it: two drills on open water.", _steered),
    Template("Empty", "No tune and no drill.", lambda: _study("New study", tune=None)),
)
