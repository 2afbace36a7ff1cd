"""Postures: a few lines that show a pose within the body's box, from the side or from above.

A posture is drawn in shares of the body: from the side x is forward (-0.5 to 0.5 of its width) and y up from the feet
(0 to 1 of its height); from above x is forward and y to the left, both as shares of its shorter side.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from cinetica.desk.paint.canvas import Box, Sketch
from cinetica.model.tune import Tune
from cinetica.reading.pose_steps import POSES, RUN, WALK

Place = tuple[float, float]
HEAD, HEAD_CORNERS = 0.1, 10
# A foot reaches no farther than this from the middle.
FARTHEST_FOOT = 0.46
# In pixels.
WIDEST = 2.4
# How high a foot is lifted, and how far the trunk leans forward.
LIFT = {WALK: 0.08, RUN: 0.24}
LEAN = {WALK: 0.03, RUN: 0.12}


@dataclass(frozen=True)
class _Still:
    """A posture without a stride: hip and neck, then knee and foot of each leg, elbow and hand of each arm."""

    hip: Place
    neck: Place
    legs: tuple[tuple[Place, Place], tuple[Place, Place]]
    arms: tuple[tuple[Place, Place], tuple[Place, Place]]


_STILL = {
    "idle": _Still(
        (0, 0.46), (0.02, 0.77), (((0.08, 0.23), (0.07, 0)), ((-0.05, 0.23), (-0.1, 0))),
        (((0.1, 0.6), (0.12, 0.42)), ((-0.09, 0.6), (-0.07, 0.42))),
    ),
    "rise": _Still(
        (-0.03, 0.47), (0.06, 0.76), (((0.22, 0.42), (0.14, 0.2)), ((-0.12, 0.25), (-0.24, 0.04))),
        (((0.22, 0.82), (0.34, 0.95)), ((-0.13, 0.64), (-0.2, 0.46))),
    ),
    "fall": _Still(
        (0, 0.48), (0, 0.78), (((0.15, 0.3), (0.1, 0.06)), ((-0.1, 0.28), (-0.2, 0.08))),
        (((0.24, 0.78), (0.42, 0.9)), ((-0.24, 0.78), (-0.42, 0.9))),
    ),
    "land": _Still(
        (-0.12, 0.3), (0.1, 0.56), (((0.2, 0.26), (0.1, 0)), ((0.04, 0.24), (-0.14, 0))),
        (((0.24, 0.4), (0.4, 0.34)), ((-0.08, 0.36), (-0.26, 0.32))),
    ),
    "climb": _Still(
        (0, 0.42), (0.04, 0.72), (((0.2, 0.36), (0.12, 0.14)), ((0.06, 0.22), (-0.06, 0))),
        (((0.2, 0.84), (0.16, 1)), ((0.12, 0.56), (0.26, 0.7))),
    ),
    "slide": _Still(
        (-0.14, 0.2), (-0.24, 0.52), (((0.12, 0.2), (0.4, 0.04)), ((0.1, 0.1), (0.3, 0))),
        (((-0.34, 0.34), (-0.42, 0.16)), ((-0.04, 0.44), (0.14, 0.52))),
    ),
    "wall": _Still(
        (0.1, 0.42), (0.16, 0.72), (((0.34, 0.36), (0.46, 0.2)), ((0.3, 0.18), (0.46, 0.02))),
        (((0.34, 0.8), (0.47, 0.9)), ((0, 0.56), (-0.12, 0.42))),
    ),
    "dash": _Still(
        (-0.1, 0.46), (0.22, 0.62), (((-0.26, 0.36), (-0.46, 0.34)), ((-0.22, 0.26), (-0.4, 0.16))),
        (((0.02, 0.48), (-0.16, 0.54)), ((0.08, 0.44), (-0.06, 0.38))),
    ),
}  # fmt: skip


def foot_at(cycles: float, reach: float, lift: float) -> Place:
    """Where a foot is after this many cycles of its stride, from under the hip: `reach` to both sides, `lift` high.

    In the first half of a cycle it stands: it goes back as fast as the body goes forward.
    """
    share = cycles % 1.0
    if share < 0.5:
        return reach * (1.0 - 4.0 * share), 0.0
    swing = 2.0 * share - 1.0
    return reach * (2.0 * swing - 1.0), lift * math.sin(math.pi * swing)


def reach_of(tune: Tune, pose: int) -> float:
    """How far a foot reaches to both sides in a walk or a run, in u, so that it does not slide while it stands.

    It stands for half of the stride. Where the stride is too long for the body it reaches as far as it can, and slides.
    """
    stride = tune.pose.stride_run if pose == RUN else tune.pose.stride_walk
    return min(stride / 4.0, FARTHEST_FOOT * tune.body.width)


def posture(tune: Tune, box: Box, pose: int, cycles: float, facing: float) -> Sketch:
    """The lines of a pose in a body's box, in u: `cycles` of its stride so far, `facing` in degrees."""
    left, bottom, right, top = box
    wide, high = right - left, top - bottom
    if tune.view == "top":
        size, turn = min(wide, high), math.radians(facing)
        cos, sin = math.cos(turn) * size, math.sin(turn) * size
        x, y = (left + right) / 2, (bottom + top) / 2
        lines = _from_above(pose, cycles, reach_of(tune, pose) / size)
        return _joined(
            [[(x + fore * cos - aside * sin, y + fore * sin + aside * cos) for fore, aside in line] for line in lines]
        )
    forward = -wide if math.cos(math.radians(facing)) < 0 else wide
    lines = _from_the_side(pose, cycles, reach_of(tune, pose) / wide, wide / high)
    return _joined([[((left + right) / 2 + forward * fore, bottom + high * up) for fore, up in line] for line in lines])


def line_width(high: float) -> float:
    """The width of the lines in a body that is this many pixels high."""
    return min(WIDEST, max(1.2, high / 26.0))


def _joined(lines: Sequence[Sequence[Place]]) -> Sketch:
    """Lines as one sketch, with a break between them."""
    x: list[float] = []
    y: list[float] = []
    for line in lines:
        x += [*(place[0] for place in line), math.nan]
        y += [*(place[1] for place in line), math.nan]
    return Sketch(x[:-1], y[:-1])


def _from_the_side(pose: int, cycles: float, reach: float, shape: float) -> list[list[Place]]:
    """Trunk, head, legs and arms; `shape` is the box's width over its height."""
    still = _STILL.get(POSES[pose]) or _stride(pose, cycles, reach)
    hip, neck = still.hip, still.neck
    # The head goes on from the trunk, and is round in u.
    way = math.hypot(neck[0] - hip[0], neck[1] - hip[1])
    middle = tuple(end + (end - start) / way * 1.15 * HEAD for start, end in zip(hip, neck, strict=True))
    around = [
        (middle[0] + HEAD / max(shape, 1.0) * math.cos(turn), middle[1] + HEAD * min(shape, 1.0) * math.sin(turn))
        for turn in (2 * math.pi * k / HEAD_CORNERS for k in range(HEAD_CORNERS + 1))
    ]
    shoulder = (hip[0] + 0.9 * (neck[0] - hip[0]), hip[1] + 0.9 * (neck[1] - hip[1]))
    limbs: list[list[Place]] = [[hip, *leg] for leg in still.legs] + [[shoulder, *arm] for arm in still.arms]
    return [[hip, neck], around, *limbs]


def _stride(pose: int, cycles: float, reach: float) -> _Still:
    """The posture within a stride: arms swing against the legs."""
    lift, lean = LIFT[pose], LEAN[pose]
    hip = (0.0, 0.46 + 0.02 * math.cos(4 * math.pi * cycles))
    neck = (hip[0] + lean, hip[1] + 0.31)
    legs: list[Any] = []
    arms: list[Any] = []
    for after in (0.0, 0.5):
        x, y = foot_at(cycles + after, reach, lift)
        # The knee is in front of the line from hip to foot, more where the foot is up.
        knee = (hip[0] + (x - hip[0]) / 2 + 0.06 + 0.5 * y, (hip[1] + y) / 2 + 0.15 * y)
        legs.append((knee, (x, y)))
        swing = -0.5 * x
        elbow = (neck[0] + 0.8 * swing - 0.04, neck[1] - 0.18)
        # In front the forearm is raised, behind it hangs.
        arms.append((elbow, (elbow[0] + 0.08 + lean / 2, elbow[1] + lean - 0.08 + 0.2 * swing)))
    return _Still(hip, neck, (legs[0], legs[1]), (arms[0], arms[1]))


def _from_above(pose: int, cycles: float, reach: float) -> list[list[Place]]:
    """Head, shoulders with the arms, and the feet of a stride, one to each side."""
    word = POSES[pose]
    head = [
        (0.14 * math.cos(turn), 0.14 * math.sin(turn))
        for turn in (2 * math.pi * k / HEAD_CORNERS for k in range(HEAD_CORNERS + 1))
    ]
    swing = foot_at(cycles, min(reach, 0.4), 0.0)[0] if pose in (WALK, RUN) else 0.0
    hands = -0.3 if word == "dash" else 0.05
    arms = [(hands + 0.5 * swing, -0.36), (0.0, -0.27), (0.0, 0.27), (hands - 0.5 * swing, 0.36)]
    if word == "dash":
        return [head, arms, [(-0.2, -0.1), (-0.46, -0.12)], [(-0.2, 0.1), (-0.46, 0.12)]]
    feet = [[(step - 0.09, aside), (step + 0.09, aside)] for step, aside in ((swing, 0.16), (-swing, -0.16))]
    return [head, arms, *feet]
