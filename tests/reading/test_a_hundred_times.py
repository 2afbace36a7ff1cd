"""Figures at the game's tick rate against the same run at a hundred times that rate.

The takes are as people make them: gaps and overlaps of keys, sticks held half-way, slopes, walls and steps. A run at a
finer rate is another run: an event within a tick may come a tick earlier. Larger differences are errors of reading,
except for a few ties: a press in the very tick of a landing, a step that is just reached.
"""

import math
import random

import pytest

from cinetica.model.clock import Clock
from cinetica.motion.simulate import simulate
from cinetica.reading.measures import MEASURES
from cinetica.reading.reading_off import read_off
from tests.builders import make_drill, make_tune
from tests.repetitions import TIMES

pytestmark = pytest.mark.thorough

TICK, FINE = 60, 6000
TOP_SPEED = 7.0
UNITS = {measure.id: measure.unit for measure in MEASURES}
# Averages over a tick, and counts, differ at another rate.
LEFT_OUT = {"peak_acceleration", *(id for id, unit in UNITS.items() if unit in ("ticks", "frames", ""))}
FLOOR = (-200, -1, 200, 0)


def people(chance, length):
    """Keys that alternate with gaps and overlaps, or a stick; and jumps now and then."""
    keys, at, side = {"left": [], "right": []}, chance.randint(3, 15), chance.choice(["left", "right"])
    while at < length - 20:
        end = min(at + chance.choice([chance.randint(2, 10), chance.randint(20, 70), chance.randint(20, 70)]), length)
        if not keys[side] or keys[side][-1][1] < at:
            keys[side].append((at, end))
        at = end + chance.choice([0, 0, 0, -3, -2, -1, 1, 2, 5, chance.randint(6, 40)])
        side = {"left": "right", "right": "left"}[side] if chance.random() < 0.6 else side
    if chance.random() < 0.25:
        frames = range(0, length - 10, chance.randint(8, 60))
        keys = {"stick": [(frame, chance.choice([0, 0.5, 1, -1, -0.6, 1]), 0.0) for frame in frames]}
    jumps, at = [], chance.randint(5, 60)
    while at < length - 15 and chance.random() < 0.75:
        end = min(at + chance.choice([2, 4, 8, 20, 40]), length)
        jumps.append((at, end))
        at = end + chance.randint(5, 50)
    return {**keys, "jump": jumps}


def somewhere(chance):
    """Level ground, a long slope, ground between a step and a wall, or a ramp up to a roof."""
    kind, rise = chance.randrange(4), math.tan(math.radians(chance.choice([10, 20, 30, -15, -30])))
    if kind == 0:
        return {"solids": [FLOOR]}
    if kind == 1:
        return {"solids": [], "slopes": [(-200, -200 * rise, 200, 200 * rise)]}
    if kind == 2:
        step, wall = chance.uniform(3, 8), chance.uniform(-9, -4)
        return {"solids": [FLOOR, (step, 0, 40, chance.uniform(0.3, 1.5)), (-40, 0, wall, chance.uniform(0.5, 4))]}
    foot, rise = chance.uniform(2, 6), abs(rise)
    return {"solids": [FLOOR, (foot + 6, -1, 200, 6 * rise)], "slopes": [(foot, 0, foot + 6, 6 * rise)]}


def some_tune(chance):
    """Laws without changes within a tick: one gravity, constant acceleration, the parabola of `midpoint`."""
    return make_tune(
        stepping__integrator="midpoint", gravity__fall_factor=1.0, gravity__apex_factor=1.0,
        drive__top_speed=TOP_SPEED, jump__short_hop=chance.choice(["none", "cut"]),
        jump__air_jumps=chance.randint(0, 1), slope__slope_pace=chance.choice(["along", "level"]),
    )  # fmt: skip


def differences(seed):
    """How many figures the two runs show, and those that differ by more than a tick, its distance or 1%."""
    chance = random.Random(seed)
    length = chance.randint(120, 240)
    drill, tune = make_drill(length=length, **people(chance, length), **somewhere(chance)), some_tune(chance)
    coarse, fine = (read_off(simulate(tune, drill, Clock(tick_rate=rate))) for rate in (TICK, FINE))
    shown, apart = sorted((set(coarse) | set(fine)) - LEFT_OUT), []
    for id in shown:
        if id not in coarse or id not in fine:
            apart.append((seed, id, id in coarse, id in fine))
            continue
        one, other = coarse[id].value, fine[id].value
        tick = {"s": 1 / TICK, "u": TOP_SPEED / TICK, "u/s": 0.0}[UNITS[id]]
        # Within a tick the speed of a jump changes by gravity times the tick.
        tick = tune.gravity.gravity / TICK if id == "landing_speed" else tick
        if abs(one - other) > max(tick, 0.01 * abs(other)) + 1e-6:
            apart.append((seed, id, one, other))
    return len(shown), apart


@pytest.mark.parametrize("block", range(4))
def test_figures_agree_with_a_hundred_times_the_tick_rate(block):
    found = [differences(seed) for seed in range(block * 40 * TIMES, (block + 1) * 40 * TIMES)]
    apart = [each for _, some in found for each in some]
    assert len(apart) <= sum(count for count, _ in found) / 100, apart
