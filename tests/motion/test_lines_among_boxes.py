"""Lines among boxes: no tick ends with the feet below a line or the box in a solid (docs/model.md, section 8)."""

import random

import numpy as np
import pytest

from cinetica.model.course import Course, Rectangle, Slope
from cinetica.model.tune import Tune
from tests.builders import make_drill, make_tune, rows_of, run
from tests.motion.test_against_reference import clock_of, compare, random_drill
from tests.motion.test_step import random_tune
from tests.repetitions import TIMES

# A hundred times the kernel's slack: ten values are compared here, each rounded.
NEAR = 1e-7


def lines_among_boxes(chance):
    """A floor, some boxes, and lines among them, also steep ones at the edge of the floor."""
    floor = Rectangle(-6, -1, chance.uniform(1, 8), 0)
    boxes, lines = [floor], []
    for _ in range(chance.randint(0, 5)):
        left, bottom = chance.uniform(-5, 6), chance.uniform(-0.5, 4)
        boxes.append(Rectangle(left, bottom, left + chance.uniform(0.2, 3), bottom + chance.uniform(0.1, 2)))
    for _ in range(chance.randint(1, 5)):
        x = chance.choice([floor.right + chance.uniform(-0.6, 0.6), *(chance.uniform(-6, 6) for _ in range(3))])
        y = chance.choice([0.0, 0.0, -1.0, chance.uniform(-1, 2)])
        steep = chance.random() < 0.4
        across = chance.uniform(0.3, 1.2 if steep else 4.0)
        rise = chance.choice([-1, 1]) * chance.uniform(1, 4) if steep else chance.uniform(-2, 2)
        lines.append(Slope(x, y, x + across, y + rise))
    return Course(solids=tuple(boxes), slopes=tuple(lines))


def random_case(seed):
    """A tune with contact, a drill, and a clock."""
    chance = random.Random(seed)
    tune = random_tune("side", chance) if chance.random() < 0.5 else Tune(name="Wren")
    tune = tune.put("contact.sweep", chance.choice(["swept", "stepped"]))
    # Late contact is shown inside the obstacle.
    tune = tune.put("contact.late", False)
    start = (chance.uniform(-5, 5), chance.choice([0.0, chance.uniform(0, 5)]))
    changed = {"course": lines_among_boxes(chance), "start": start}
    return tune, random_drill(chance, "side").model_copy(update=changed), clock_of(seed)


def heights(line, x):
    """The line's height at each x, constant beyond its ends."""
    return np.interp(x, [line.x0, line.x1], [line.y0, line.y1])


def rows_under_a_line(drill, trace):
    x, y, found = trace["x"], trace["y"], []
    for line in drill.course.slopes:
        high = heights(line, x)
        was_over, within = y[:-1] >= high[:-1] - 1e-9, (x >= line.x0) & (x <= line.x1)
        found += (np.flatnonzero(was_over & within[1:] & (y[1:] < high[1:] - NEAR)) + 1).tolist()
    return found


def rows_in_a_solid(tune, drill, trace):
    """Rows in which the box is in a solid that it was outside of.

    On a line the box begins half its width times the line's slope above the feet.
    """
    x, y, half = trace["x"], trace["y"], tune.body.width / 2
    slope = np.abs(np.tan(np.radians(trace["ground_angle"])))
    lift = half * np.maximum(slope, np.concatenate([[0.0], slope[:-1]]))

    def inside(box, raised):
        beside = (x + half > box.left + NEAR) & (x - half < box.right - NEAR)
        return beside & (y + tune.body.height > box.bottom + NEAR) & (y + raised < box.top - NEAR)

    return [
        row
        for box in drill.course.solids
        for row in (np.flatnonzero(~inside(box, 0.0)[:-1] & inside(box, lift)[1:]) + 1).tolist()
    ]


@pytest.mark.parametrize("block", range(10))
def test_feet_stay_above_lines_and_the_box_outside_solids(block):
    for seed in range(block * 60 * TIMES, (block + 1) * 60 * TIMES):
        tune, drill, clock = random_case(seed)
        trace = run(tune, drill, **clock.model_dump())
        assert not rows_under_a_line(drill, trace), seed
        assert not rows_in_a_solid(tune, drill, trace), seed


@pytest.mark.parametrize(
    "seed", [*range(20), 31, 87, 128, 275, 431, 520, 788, 848, 881, 909, 1112, 1246, 1571, 1682, 2003, 2039, 15_624]
)
def test_the_reference_agrees_among_boxes(seed):
    compare(*random_case(seed))


@pytest.mark.parametrize("sweep", ["swept", "stepped"])
def test_a_walk_off_a_floor_does_not_pass_a_steep_line(sweep):
    """The line rises from the floor, or from just beyond its edge: 76 degrees, far too steep to walk on."""
    for hundredths in range(-20, 60):
        foot = hundredths / 100
        drill = make_drill(
            solids=[(-9, -1, 0, 0)], slopes=[(foot, -1, foot + 1, 3)], start=(-2, 0), length=120, right=[(0, 120)]
        )
        trace = run(make_tune(contact__sweep=sweep), drill)
        assert not rows_under_a_line(drill, trace), foot
        assert not trace["overlap"].any(), foot
        # If the line is reached above the floor, at most half a width from its edge, the floor still supports the body.
        if foot + 0.25 < make_tune().body.width / 2 - 1e-6:
            assert trace["y"][-1] == 0.0, foot
            assert trace["x"][-1] == pytest.approx(foot + 0.25), foot
            assert set(trace["state"]) == {0}


def test_a_landing_by_the_probe_alone_shows_no_fall():
    drill = make_drill(solids=(), slopes=[(-5, 0, 5, 0.5)], start=(0, 2), length=60)
    trace = run(make_tune(contact__ground_probe=0.2), drill)
    (landing,) = rows_of(trace, "land")
    assert trace["y"][landing] > 0.25 + 1e-3
    assert trace["vy"][landing - 1] < -1
    assert trace["vy"][landing] == 0.0
