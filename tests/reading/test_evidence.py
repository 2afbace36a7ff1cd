"""Pushes, turns, flights, apexes and landings, found in made-up rows."""

from types import SimpleNamespace

import numpy as np
import pytest

from cinetica.motion.records import AIR_LAUNCH, CLIMB_OFF, CLIMB_ON, LAND, LAUNCH, tune_records
from cinetica.reading.evidence import (
    apex_of,
    height_of,
    jumps_on,
    landing_speed_of,
    last_falling_row,
    next_flight,
    next_jump,
    next_run,
    note_pushes,
    off_net,
    touch_of,
    turn_after,
)
from tests.builders import make_tune


def facts(count=10, *, pushes=(), marks=None, side=True, logged=True, tune=None, **columns):
    """Facts of a run; a column that is not given is 0."""
    names = ("x", "y", "vx", "vy", "ay", "input_x", "input_y", "look_yaw", "ground_angle", "modifier_held")
    rows = [
        SimpleNamespace(
            marks=(marks or {}).get(row, 0), time=row * 0.1, dt=0.1, speed=abs(columns.get("vx", [0.0] * count)[row]),
            **{name: columns.get(name, [0.0] * count)[row] for name in names},
        )
        for row in range(count)
    ]  # fmt: skip
    pushed = [SimpleNamespace(x=x, y=y, tilt=0) for x, y in pushes] or [SimpleNamespace() for _ in range(count)]
    n = SimpleNamespace(count=count, side=side, logged=logged, slopes=0)
    hands = [SimpleNamespace(stick_x=0.0, stick_y=0.0) for _ in range(count)]
    return SimpleNamespace(n=n, rows=rows, pushes=pushed, hands=hands, tunes=tune_records([tune or make_tune()]))


def along(*pushes):
    return facts(len(pushes), pushes=[(x, 0.0) for x in pushes])


# Pushes


@pytest.mark.parametrize(
    ("pushes", "row", "run"),
    [
        # Row 0 is the start, which no tick has read.
        ((1, 1, 1, 0, 0), 0, (1, 2)), ((0, 0, 1, 1, 0, -1, -1, 0), 1, (2, 3)), ((0, 0, 1, 1, 0, -1, -1, 0), 3, (3, 3)),
        ((0, 0, 1, 1, 0, -1, -1, 0), 4, (5, 6)), ((0, 0, 1, 1, 0), 4, (0, 0)), ((0, 0, 0), 1, (0, 0)),
        # It ends where it is opposed, and at the end of the take.
        ((0, 1, 1, -1, -1), 1, (1, 2)), ((0, 0, 1, 0.5, 1), 1, (2, 4)),
    ],
)  # fmt: skip
def test_a_run_is_a_stretch_of_pushes_that_do_not_oppose_its_first(pushes, row, run):
    assert next_run(along(*pushes), row) == run


def test_a_right_angle_ends_a_run():
    assert next_run(facts(5, pushes=[(0, 0), (1, 0), (1, 1), (0.1, 1), (0, 1)]), 1) == (1, 3)


@pytest.mark.parametrize(
    ("pushes", "speeds", "turn"),
    [
        ((0, 1, 1, 1, -1, -1), (0, 3, 6, 6, 0, 0), (4, 5, 1.0)),
        # Not at 99% of top speed yet, no longer there, or in the same direction.
        ((0, 1, 1, 1, -1, -1), (0, 3, 5, 5.9, 0, 0), (0, 0, 0.0)),
        ((0, 1, 1, 1, 0, -1), (0, 3, 6, 6, 3, 0), (0, 0, 0.0)),
        ((0, 1, 1, 0, 1, 1), (0, 6, 6, 6, 6, 6), (0, 0, 0.0)),
        ((0, -1, -1, -1, 1, 1), (0, -3, -6, -6, 0, 0), (4, 5, -1.0)),
    ],
)
def test_a_turn_is_the_first_push_against_a_run_at_top_speed(pushes, speeds, turn):
    f = along(*pushes)
    f.tunes = tune_records([make_tune(drive__top_speed=6.0)])
    for row, speed in zip(f.rows, speeds, strict=True):
        row.vx, row.speed = float(speed), abs(float(speed))
    first, last, ux, uy = turn_after(f, 0)
    assert (first, last, ux, uy) == (*turn, 0.0)
    assert turn_after(f, 4)[0] == 0
    # In top view a push at a right angle is not a turn.
    f.n.side, f.pushes[4:] = False, [SimpleNamespace(x=0.0, y=1.0)] * 2
    assert turn_after(f, 0)[0] == 0


@pytest.mark.parametrize(
    ("x", "y", "modifier", "tilt"),
    [(1.0, 0.0, 0, 1), (1.0, 1.0, 0, 2), (0.0, -1.0, 0, 1), (0.9, 0.0, 0, 0), (0.5, 0.5, 0, 0), (1.0, 0.0, 1, 0),
     (0.95, 0.41, 0, 2), (0.95, 0.38, 0, 1), (0.0, 0.0, 0, 0)],
)  # fmt: skip
def test_a_full_push_is_straight_or_diagonal_by_the_nearer(x, y, modifier, tilt):
    f = facts(2, side=False, input_x=[0.0, x], input_y=[0.0, y], modifier_held=[0, modifier], tune=make_tune("top"))
    note_pushes(f)
    assert (f.pushes[0].x, f.pushes[0].y, f.pushes[0].tilt) == (0.0, 0.0, 0)
    assert f.pushes[1].tilt == tilt
    f.n.side = True
    note_pushes(f)
    assert (f.pushes[1].y, f.pushes[1].tilt) == (0.0, tilt if x else 0)


# Jumps


@pytest.mark.parametrize(
    ("marks", "row", "flight"),
    [
        ({2: LAUNCH, 5: LAND}, 0, (2, 5)), ({2: LAUNCH, 5: LAND}, 2, (0, 0)), ({2: LAUNCH}, 0, (0, 0)),
        ({2: LAUNCH | LAND, 5: LAND}, 0, (2, 2)), ({2: LAUNCH, 3: LAUNCH, 5: LAND}, 0, (3, 5)),
        ({2: LAUNCH, 3: CLIMB_ON, 5: LAUNCH, 9: LAND}, 0, (5, 9)), ({2: LAUNCH, 5: LAND | LAUNCH, 7: LAND}, 0, (5, 5)),
        ({9: LAUNCH | LAND}, 0, (9, 9)),
    ],
)  # fmt: skip
def test_a_flight_goes_from_a_launch_to_its_landing(marks, row, flight):
    assert next_flight(facts(marks=marks), row) == flight


def test_a_jump_begins_on_the_ground_and_has_none_in_the_air():
    f = facts(marks={1: LAUNCH | CLIMB_OFF, 2: LAND, 3: LAUNCH, 4: AIR_LAUNCH, 5: LAND, 7: LAUNCH, 9: LAND})
    assert next_jump(f, 0) == (7, 9)
    assert off_net(f, 1)
    assert not off_net(f, 3)
    assert jumps_on(f, 3, 5)
    assert jumps_on(f, 4, 4)
    assert not jumps_on(f, 7, 9)
    assert not jumps_on(f, 5, 9)


def test_height_and_apex_of_a_logged_jump():
    """Up by 1, 0.6 and 0.2 u, then down; the velocity is 0 in the middle of the fourth tick."""
    y = [2.0, 3.0, 3.6, 3.8, 3.8, 3.4, 2.0]
    f = facts(7, y=y, vy=[0.0, 8.0, 4.0, 2.0, -2.0, -6.0, 0.0])
    assert height_of(f, 1, 6) == pytest.approx(1.8)
    assert height_of(f, 1, 2) == pytest.approx(1.6)
    row, share = apex_of(f, 1, 6)
    assert (row, share) == (4, pytest.approx(0.5))
    assert apex_of(f, 1, 3) == (0, 0.0)


@pytest.mark.parametrize(
    ("vy", "row"),
    [
        # Faster and faster; interpolated from 10 u/s to the rest after the landing; slowed by drag, by less and less.
        ([-8.0, -9.0, -10.0, -11.0, 0.0], 3), ([-9.0, -10.0, -7.5, -5.0, -2.5, 0.0], 1), ([-9.0, -10.0, -2.0, 0.0], 1),
        ([-9.0, -10.0, -9.0, -8.2, -7.6, 0.0], 3), ([4.0, -2.0, 0.0], 1), ([-5.0, -5.0, 0.0], 1),
    ],
)  # fmt: skip
def test_the_fall_of_a_log_is_read_before_its_landing_changes_it(vy, row):
    ay = np.diff(vy, prepend=vy[0]) / 0.1
    assert last_falling_row(facts(len(vy), vy=vy, ay=ay.tolist()), len(vy) - 1) == row


def test_a_fall_that_was_interpolated_goes_on_to_the_ground():
    """At 4 u/s and 10 u/s² it falls 0.5 and 0.6 u in two ticks: 0.8 u are half of the second, at 5.5 u/s."""
    vy, y = [-3.0, -4.0, -2.0, 0.0], [1.4, 1.0, 0.5, 0.2]
    f = facts(4, y=y, vy=vy, ay=[-10.0, -10.0, 20.0, 20.0])
    assert (touch_of(f, 3), landing_speed_of(f, 3)) == pytest.approx((0.5, 5.5))
    # Where the ground is higher, it touched in the tick before.
    f.rows[3].y = 0.75
    assert (touch_of(f, 3), landing_speed_of(f, 3)) == pytest.approx((0.0, 4.5))


@pytest.mark.parametrize(("fell", "share"), [(-0.25, 0.5), (-0.5, 1.0), (-0.7, 1.0), (0.0, 0.0), (0.1, 0.0)])
def test_the_landing_of_a_logged_body_is_extrapolated(fell, share):
    """At 4 u/s down and 10 u/s² it falls 0.5 u in a tick of 0.1 s."""
    f = facts(3, y=[0.0, 1.0, 1.0 + fell], vy=[0.0, -4.0, 0.0], ay=[0.0, -10.0, 0.0])
    assert touch_of(f, 2) == pytest.approx(share)
    assert landing_speed_of(f, 2) == pytest.approx(4.0 + 10.0 * share * 0.1)
    f.rows[1].vy = f.rows[1].ay = 0.0
    assert touch_of(f, 2) == 1.0
