"""Every figure of random takes, made as people make them, against its definition."""

import random

import pytest

from cinetica.model.clock import Clock, Hitch, Mode
from cinetica.motion.simulate import simulate
from cinetica.reading.measures import MEASURES
from cinetica.reading.reading_off import read_off
from tests.builders import make_drill, make_tune
from tests.reading.oracle import Oracle
from tests.repetitions import TIMES

TIMES_READ = {measure.id for measure in MEASURES if measure.unit == "s"}
CLOCKS = (
    Clock(), Clock(tick_rate=30), Clock(tick_rate=50), Clock(tick_rate=144), Clock(mode=Mode.VARIABLE, frame_rate=75),
    Clock(mode=Mode.FIXED, tick_rate=50, frame_rate=60), Clock(mode=Mode.VARIABLE, frame_rate=60, hitches=(Hitch(0.6,
    0.05),)),
)  # fmt: skip


def some_take(chance, view):
    """Runs with taps first, keys not released together, turns with and without a gap, and unfinished jumps."""
    keys = {key: [] for key in ("left", "right", "up", "down", "jump", "modifier")}
    at, length = chance.randint(1, 12), 260
    pairs = [("left", "right")] if view == "side" else [("left", "right"), ("down", "up")]
    while at < length - 30:
        way = chance.choice(chance.choice(pairs))
        held = chance.choice([2, 3, 30, 45, 60])
        keys[way].append((at, at + held))
        if view == "top" and chance.random() < 0.4:
            other = chance.choice([each for pair in pairs for each in pair if way not in pair])
            keys[other].append((at + chance.randint(-1, 2), at + held + chance.randint(-2, 2)))
        at += held + chance.choice([-3, -1, 0, 0, 1, 2, 25, 60])
    for start in range(chance.randint(5, 40), length, chance.randint(45, 80)):
        keys["jump"].append((start, start + chance.choice([2, 6, 20, 40])))
    if chance.random() < 0.2:
        keys["modifier"].append((chance.randrange(length - 40), length))
    return length, {key: merged(presses, length) for key, presses in keys.items()}


def merged(presses, length):
    held = [False] * (length + 1)
    for start, end in presses:
        for frame in range(max(0, start), min(length, end)):
            held[frame] = True
    edges = [frame for frame in range(length + 1) if held[frame] != (frame > 0 and held[frame - 1])]
    return list(zip(edges[::2], edges[1::2], strict=True))


def some_tune(chance, view):
    tune = make_tune(
        view, drive__law=chance.choice(["ramp", "ramp", "ease", "push", "throttle", "instant"]),
        drive__top_speed=chance.choice([5, 7, 7.5]),
        drive__acceleration=chance.uniform(20, 120), drive__friction=chance.uniform(20, 120),
        drive__rate=chance.uniform(5, 30),
        drive__stop_rate=chance.uniform(5, 30), drive__drag=chance.choice([0, 0, 2]),
        drive__form=chance.choice(["exact", "linear"]),
        drive__turn_acceleration=chance.choice([0, 90]), input__key_attack=chance.choice([0, 0, 0.1, 0.25]),
        input__key_release=chance.choice([0, 0, 0.1, 0.3]),
        input__latency=chance.choice([0, 0, 3]), input__diagonal=chance.choice(["free", "limited"]),
        stepping__integrator=chance.choice(INTEGRATORS),
        stepping__time_base=chance.choice(["seconds", "seconds", "frames"]),
    )  # fmt: skip
    if view == "side":
        for id, values in (
            ("gravity.gravity", [25, 40, 60]), ("gravity.fall_factor", [1, 1.5]), ("gravity.terminal_speed", [0, 12]),
            ("gravity.apex_speed", [0, 3]),
            ("gravity.apex_factor", [1, 0.5]), ("jump.jump_speed", [9, 12, 15]), ("jump.short_hop", ["none", "cut",
            "cap", "heavy", "sustain"]),
            ("jump.air_jumps", [0, 0, 1]), ("drive.air_control", [1, 0.5]), ("jump.launch_gravity", [True, False]),
            ("contact.head_bump", ["stop", "keep"]),
        ):  # fmt: skip
            tune = tune.put(id, chance.choice(values))
    return tune


INTEGRATORS = ("velocity_first", "position_first", "midpoint")
FLOOR = (-1e4, -1.0, 1e4, 0.0)
BEAM = (-1e4, 2.4, 1e4, 2.8)


@pytest.mark.parametrize("seed", range(24 * TIMES))
def test_figures_follow_their_definitions(seed):
    chance = random.Random(seed)
    view = ("side", "side", "top")[seed % 3]
    length, keys = some_take(chance, view)
    solids = (FLOOR, *((BEAM,) if chance.random() < 0.2 else ())) if view == "side" else ()
    drill = make_drill(view=view, length=length, solids=solids, **keys)
    tune, clock = some_tune(chance, view), chance.choice(CLOCKS)
    defined = Oracle(tune, drill, clock).figures()
    read = {id: reading.value for id, reading in read_off(simulate(tune, drill, clock)).items()}
    about = [id for id in (
        "time_to_top_speed", "stopping_time", "stopping_distance", "turn_time", "turn_overshoot", "jump_height",
        "time_to_apex", "air_time", "jump_distance",
        "landing_speed", "lowest_hop", "highest_hop", "air_jump_height", "net_jump_height",
    ) if id in {measure.id for measure in MEASURES}]  # fmt: skip
    tick = 1 / (clock.frame_rate if clock.mode is Mode.VARIABLE else clock.tick_rate)
    for id in about:
        assert (id in read) == (id in defined), (id, read.get(id), defined.get(id))
        if id in defined:
            # A hundredth of a tick, a thousandth of a length.
            near = 0.01 * tick if id in TIMES_READ else 1e-3 * max(0.05, abs(defined[id]))
            assert read[id] == pytest.approx(defined[id], abs=near), id
