"""The kernel against the plain reference, on random studies of the whole model."""

import random

import pytest

from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import parse_study
from cinetica.model.clock import Clock
from cinetica.model.course import Course, Rectangle, Slope, Zone
from cinetica.model.take import Moved, Shove
from cinetica.model.tune import PARAMETERS, Tune
from cinetica.motion.records import STATES, TRACE
from cinetica.motion.simulate import simulate
from tests.builders import make_drill, marks_at, tunes_of_interest
from tests.motion.test_step import random_tune
from tests.reference import run_reference


def more(seeds):
    """Seeds for `make thorough`."""
    return [pytest.param(seed, marks=pytest.mark.thorough) for seed in seeds]


def compare(tune, drill, clock):
    trace, rows = simulate(tune, drill, clock), run_reference(tune, drill, clock)
    assert len(trace) == len(rows)
    for number, row in enumerate(rows):
        for column in TRACE.names:
            ours = trace[column][number]
            if column == "marks":
                assert set(marks_at(trace, number)) == row["marks"], (number, column)
            elif column == "state":
                assert STATES[ours] == row["state"], (number, column)
            else:
                apart = 0.0 if ours == row[column] else abs(ours - row[column])
                if column == "facing":
                    # -180° and 180° are one direction, and rounding decides between them.
                    apart = min(apart, abs(apart - 360))
                assert apart <= 1e-7, (number, column, ours, row[column])


def random_presses(chance, length):
    edges = sorted(chance.sample(range(length), 2 * chance.randint(0, 4)))
    return list(zip(edges[::2], edges[1::2], strict=True))


def random_drill(chance, view):
    length = chance.randint(40, 120)
    keys = {key: random_presses(chance, length) for key in ("left", "right", "up", "down", "jump", "modifier", "dash")}
    sticks = {
        name: [
            (chance.randrange(length), chance.uniform(-1, 1), chance.uniform(-1, 1))
            for _ in range(chance.choice([0, 0, 3]))
        ]
        for name in ("stick", "aim")
    }

    def boxes(count, floor):
        made = [Rectangle(-6, -1, chance.uniform(1, 8), 0)] if floor else []
        for _ in range(count):
            left, bottom = chance.uniform(-5, 6), chance.uniform(-0.5, 4)
            box = Rectangle(left, bottom, left + chance.uniform(0.2, 3), bottom + chance.uniform(0.1, 2))
            if not (box.left < 1 and box.right > -1 and box.bottom < 2.2):
                made.append(box)
        return tuple(made)

    course = Course(
        solids=boxes(3, view == "side"),
        oneway=boxes(2, False),
        climb=tuple(Rectangle(x, 0, x + 2, 5) for x in [chance.uniform(-3, 3)]),
        slopes=random_slopes(chance) if view == "side" else (),
    )
    drill = make_drill(view=view, length=length, **keys, **sticks).model_copy(update={"course": course})
    return with_zones_and_walls(drill, chance)


def with_zones_and_walls(drill, chance):
    """A start in motion, a mouse, shoves and zones, in some of the studies."""
    if chance.random() < 0.3:
        velocity = (chance.uniform(-8, 8), chance.choice([0.0, chance.uniform(-8, 8)]))
        drill = drill.model_copy(update={"start_velocity": velocity, "start_heading": chance.uniform(-360, 360)})
    if chance.random() < 0.3:
        length = drill.take.length
        mouse = tuple(
            Moved(chance.randrange(length), float(chance.randint(-9, 9)), float(chance.randint(-9, 9)))
            for _ in range(chance.randint(1, 20))
        )
        drill = drill.model_copy(update={"take": drill.take.model_copy(update={"mouse": mouse})})
    if chance.random() < 0.4:
        shoves = tuple(
            Shove(chance.randrange(drill.take.length), chance.uniform(-9, 9), chance.uniform(-4, 12))
            for _ in range(chance.randint(1, 4))
        )
        drill = drill.model_copy(update={"take": drill.take.model_copy(update={"shoves": shoves})})
    if chance.random() < 0.4:
        zones = tuple(random_zone(chance) for _ in range(chance.randint(1, 3)))
        drill = drill.model_copy(update={"course": drill.course.model_copy(update={"zones": zones})})
    return drill


def random_zone(chance):
    """Ice, mud, water, wind."""
    left, bottom = chance.uniform(-6, 5), chance.uniform(-1, 3)
    factors = {
        name: chance.choice([1.0, chance.uniform(0, 2)]) for name in ("speed", "acceleration", "friction", "gravity")
    }
    return Zone(
        box=(left, bottom, left + chance.uniform(0.5, 6), bottom + chance.uniform(0.5, 4)),
        drag=chance.choice([0.0, chance.uniform(0, 5)]),
        push=chance.choice([(0.0, 0.0), (chance.uniform(-20, 20), chance.uniform(-10, 60))]),
        **factors,
    )


def random_slopes(chance):
    """No slopes, some anywhere, or some that continue each other from the floor, as a course has them."""
    kind = chance.randrange(3)
    if kind == 0:
        return ()
    if kind == 1:
        starts = [(chance.uniform(-6, 6), chance.uniform(-0.5, 2)) for _ in range(chance.randint(1, 4))]
        return tuple(Slope(x, y, x + chance.uniform(0.3, 4), y + chance.uniform(-2, 2)) for x, y in starts)
    x, y, made = chance.uniform(-4, 3), chance.choice([0.0, 0.0, 0.5]), []
    for _ in range(chance.randint(1, 4)):
        to = (round(x + chance.uniform(0.4, 3), 1), max(0.0, round(y + chance.uniform(-1.5, 1.5), 1)))
        if to[0] > x:
            made.append(Slope(x, y, *to))
        x, y = to
    return tuple(made)


CLOCKS = (
    '{"tick_rate": 30}', '{"tick_rate": 50}', "{}", '{"tick_rate": 120}', '{"tick_rate": 144}',
    '{"mode": "variable", "frame_rate": 75}',
    '{"mode": "variable", "frame_rate": 50, "hitches": [[0.3, 0.15], [0.9, 0.04]]}',
    '{"mode": "fixed", "tick_rate": 50, "frame_rate": 60}',
    '{"mode": "fixed", "tick_rate": 90, "frame_rate": 40, "read": "tick"}',
    '{"mode": "fixed", "frame_rate": 60, "hitches": [[0.5, 0.3]], "max_dt": 0.08}',
    '{"hands": "after"}', '{"mode": "fixed", "tick_rate": 50, "frame_rate": 60, "hands": "after"}',
    '{"mode": "fixed", "tick_rate": 90, "frame_rate": 40, "read": "tick", "hands": "after"}',
)  # fmt: skip


def clock_of(seed):
    return parse_study(
        f'{{"format": "cinetica-study", "version": 1, "name": "x", "clock": {CLOCKS[seed % len(CLOCKS)]}}}', "x"
    ).clock


@pytest.mark.parametrize("seed", [*range(120), *more(range(120, 240))])
def test_random_studies_agree(seed):
    chance = random.Random(seed)
    view = ("side", "top")[seed % 2]
    compare(random_tune(view, chance), random_drill(chance, view), clock_of(seed))


# The last five of them turn at right angles, or exactly reach a wall.
@pytest.mark.parametrize(
    "seed", [*range(10_000, 10_075), *more(range(10_075, 10_150)), 10_519, 16_007, 200_401, 203_379, 206_303]
)
def test_mostly_default_studies_agree(seed):
    """Zeros, ones and round numbers meet, which random values seldom do."""
    chance = random.Random(seed)
    view = ("side", "top")[seed % 2]
    drawn, tune = random_tune(view, chance), Tune(name="Wren", view=view)
    share = chance.random()
    for parameter, value in zip(PARAMETERS, drawn.values().values(), strict=True):
        if chance.random() < share:
            tune = tune.put(parameter.id, value)
    compare(tune, random_drill(chance, view), clock_of(seed))


@pytest.mark.parametrize("name", ["harbour", "pitfalls"])
def test_every_demo_drill_agrees(name):
    study = shipped_study(name)
    for drill in study.drills:
        for tune in tunes_of_interest(study, drill):
            compare(tune, drill, study.clock)
            compare(tune, drill, Clock(tick_rate=120))
