"""Explain describes each drive law in exactly the ticks to which its words apply."""

import pytest

from cinetica.model.laws import Law
from cinetica.reading.explain import explain
from tests.builders import make_drill, make_tune, run

# Held for half a second, then released; or released for a moment and then held the other way.
RIGHT, TURN, UP = {"right": [(0, 30)]}, {"right": [(0, 30)], "left": [(30, 60)]}, {"up": [(0, 30)]}
BACK = UP | {"down": [(30, 60)]}
PUSHED, RELEASED = 5, 31
AIR = (0.0, 500.0)
SLOW = {"drive__acceleration": 20.0, "drive__friction": 10.0, "drive__top_speed": 50.0}


def words(law, view, keys, row, start=(0.0, 0.0), **values):
    """The words of the law in a row; a body that starts high up is in the air."""
    tune = make_tune(view, drive__law=law, **{**SLOW, **values})
    drill = make_drill(view=view, length=60, start=start, **keys)
    return next(line.words for line in explain(run(tune, drill), row) if line.rule == law.value)


WORDS = [
    (Law.INSTANT, "side", RIGHT, 1, AIR, {"drive__air_control": 0.5}, "by the share 0.5 of air control", True),
    (Law.INSTANT, "side", RIGHT, 1, AIR, {"drive__air_control": 1.0}, "air control", False),
    (Law.INSTANT, "side", RIGHT, 1, AIR, {"drive__air_control": 1.5}, "air control", False),
    (Law.INSTANT, "side", RIGHT, 1, (0.0, 0.0), {"drive__air_control": 0.5}, "air control", False),
    (Law.INSTANT, "top", UP, 1, (0.0, 0.0), {}, "× intent (0, 1.00)", True),
    (Law.RAMP, "side", RIGHT, PUSHED, (0.0, 0.0), {}, "acceleration 20", True),
    (Law.RAMP, "side", RIGHT, PUSHED, (0.0, 0.0), {}, "toward 50", True),
    (Law.RAMP, "side", RIGHT, PUSHED, (0.0, 0.0), {"drive__turn_acceleration": 90.0}, "turn acceleration", False),
    (Law.RAMP, "side", RIGHT, 1, (0.0, 0.0), {"drive__turn_acceleration": 90.0}, "turn acceleration", False),
    (Law.RAMP, "side", TURN, RELEASED, (0.0, 0.0), {"drive__turn_acceleration": 90.0}, "turn acceleration 90", True),
    (Law.RAMP, "side", TURN, RELEASED, (0.0, 0.0), {}, "turn acceleration", False),
    (Law.RAMP, "top", BACK, RELEASED, (0.0, 0.0), {"drive__turn_acceleration": 90.0}, "turn acceleration 90", True),
    (Law.RAMP, "side", RIGHT, RELEASED, (0.0, 0.0), {}, "friction 10", True),
    (Law.RAMP, "side", RIGHT, RELEASED, (0.0, 0.0), {}, "which is all there was", False),
    (Law.RAMP, "side", RIGHT, RELEASED, (0.0, 0.0), {"drive__friction": 5000.0}, "which is all there was", True),
    (Law.RAMP, "top", UP, RELEASED, (0.0, 0.0), {}, "which is all there was", False),
    (Law.RAMP, "top", UP, RELEASED, (0.0, 0.0), {"drive__friction": 5000.0}, "which is all there was", True),
    (Law.RAMP, "side", RIGHT, PUSHED, AIR, {"drive__air_control": 0.5}, "air control", True),
    (Law.RAMP, "side", RIGHT, PUSHED, (0.0, 0.0), {"drive__air_control": 0.5}, "air control", False),
    (Law.RAMP, "side", RIGHT, RELEASED, AIR, {"drive__air_friction": 0.5}, "air friction", True),
    (Law.RAMP, "side", RIGHT, RELEASED, (0.0, 0.0), {"drive__air_friction": 0.5}, "air friction", False),
    (Law.RAMP, "side", RIGHT | {"modifier": [(0, 30)]}, PUSHED, (0.0, 0.0), {"drive__modifier_speed": 0.5}, "modifier",
     True),
    (Law.RAMP, "side", RIGHT, PUSHED, (0.0, 0.0), {"drive__modifier_speed": 0.5}, "modifier", False),
    (Law.EASE, "side", RIGHT, PUSHED, (0.0, 0.0), {"drive__rate": 8.0}, "rate: 1 − e^(−8", True),
    (Law.EASE, "side", RIGHT, PUSHED, (0.0, 0.0), {"drive__rate": 8.0, "drive__form": "linear"}, "min(1, 8", True),
    (Law.EASE, "side", RIGHT, PUSHED, (0.0, 0.0), {"drive__rate": 8.0, "drive__form": "linear"}, "e^(", False),
    (Law.EASE, "side", RIGHT, PUSHED, (0.0, 0.0), {}, "of the way to 50", True),
    (Law.EASE, "side", RIGHT, PUSHED, (0.0, 0.0), {}, "stop rate", False),
    (Law.EASE, "side", RIGHT, RELEASED, (0.0, 0.0), {"drive__stop_rate": 4.0}, "stop rate: 1 − e^(−4", True),
    (Law.EASE, "side", RIGHT, RELEASED, (0.0, 0.0), {}, "of the way to 0", True),
    (Law.EASE, "side", RIGHT, RELEASED, AIR, {"drive__air_friction": 0.5}, "air friction", True),
    (Law.EASE, "side", RIGHT, PUSHED, AIR, {"drive__air_control": 0.5}, "air control", True),
    (Law.THROTTLE, "top", RIGHT, PUSHED, (0.0, 0.0), {}, "by 20", True),
    (Law.THROTTLE, "top", RIGHT, PUSHED, (0.0, 0.0), {}, "times the intent", True),
    (Law.THROTTLE, "top", RIGHT, RELEASED, (0.0, 0.0), {}, "friction 10", True),
    (Law.THROTTLE, "top", RIGHT, RELEASED, (0.0, 0.0), {"drive__release_stop": True}, "stops on release", True),
    (Law.THROTTLE, "top", RIGHT, RELEASED, (0.0, 0.0), {}, "stops on release", False),
    (Law.PUSH, "top", RIGHT, PUSHED, (0.0, 0.0), {}, "× intent", True),
    (Law.PUSH, "top", RIGHT, RELEASED, (0.0, 0.0), {}, "× intent", False),
    (Law.PUSH, "top", RIGHT, PUSHED, (0.0, 0.0), {"drive__drag": 3.0}, "drag 3", True),
    (Law.PUSH, "top", RIGHT, PUSHED, (0.0, 0.0), {"drive__drag": 0.0}, "drag", False),
    (Law.PUSH, "top", RIGHT, RELEASED, (0.0, 0.0), {}, "friction 10", True),
    (Law.PUSH, "top", RIGHT, PUSHED, (0.0, 0.0), {}, "friction", False),
    (Law.PUSH, "top", RIGHT, RELEASED, (0.0, 0.0), {"drive__release_stop": True}, "stops on release", True),
    (Law.PUSH, "top", RIGHT, RELEASED, (0.0, 0.0), {"drive__release_stop": True}, "friction", False),
    (Law.PUSH, "top", RIGHT, RELEASED, (0.0, 0.0), {"drive__friction_step": "after", "drive__drag": 3.0},
     "friction", False),
    (Law.PUSH, "top", RIGHT, 3, (0.0, 0.0), {"drive__top_speed": 0.9, "drive__drag": 0.0}, "capped at 0.9", True),
    (Law.PUSH, "top", RIGHT, PUSHED, (0.0, 0.0), {}, "capped", False),
    (Law.PUSH, "top", RIGHT, PUSHED, (0.0, 0.0), {"drive__cap_step": "before"}, "with the cap before the push", True),
    (Law.PUSH, "top", RIGHT, PUSHED, (0.0, 0.0), {}, "with the cap before", False),
    (Law.STEER, "top", UP, PUSHED, (0.0, 0.0), {}, "along it acceleration 20", True),
    (Law.STEER, "top", UP, RELEASED, (0.0, 0.0), {}, "along it friction 10", True),
    (Law.STEER, "top", UP, RELEASED, (0.0, 0.0), {"drive__grip": 7.0}, "across it grip 7", True),
    (Law.STEER, "top", UP, RELEASED, (0.0, 0.0), {"drive__cruise_speed": 3.0}, "toward the cruise speed 3", True),
    (Law.STEER, "top", UP, PUSHED, (0.0, 0.0), {"drive__cruise_speed": 3.0}, "cruise", False),
    (Law.STEER, "top", UP, RELEASED, (0.0, 0.0), {"drive__cruise_speed": 0.0}, "cruise", False),
    (Law.ARC, "top", UP, PUSHED, (0.0, 0.0), {}, "heading stays", False),
    (Law.ARC, "top", UP, PUSHED, (0.0, 0.0), {}, "along it acceleration 20", True),
    (Law.ARC, "top", UP, RELEASED, (0.0, 0.0), {}, "heading stays", True),
    (Law.ARC, "top", UP, RELEASED, (0.0, 0.0), {"drive__cruise_speed": 3.0}, "cruise", False),
]  # fmt: skip


@pytest.mark.parametrize(("law", "view", "keys", "row", "start", "values", "message", "there"), WORDS)
def test_each_law_describes_its_effect(law, view, keys, row, start, values, message, there):
    assert (message in words(law, view, keys, row, start, **values)) is there, words(
        law, view, keys, row, start, **values
    )
