"""Dropping through one-way solids, tick by tick."""

import pytest

from tests.builders import make_drill, make_tune, marks_at, rows_of, run

BOARD = (-2.0, 1.8, 2.0, 2.0)
FLOOR = (-9.0, -1.0, 9.0, 0.0)


def on_boards(oneway=(BOARD,), solids=(FLOOR,), **keys):
    return make_drill(solids=solids, oneway=oneway, start=(0.0, 2.0), length=60, **keys)


def test_holding_down_drops_through():
    tune = make_tune(contact__drop_through="down")
    trace = run(tune, on_boards(down=[(5, 60)]))
    assert rows_of(trace, "leave") == [6]
    assert trace["y"][-1] == 0
    assert trace["y"][5] == 2
    # It lands on the next platform, and drops through it in the next tick.
    both = run(tune, on_boards([BOARD, (-2, 0.8, 2, 1.0)], down=[(5, 60)]))
    landed = rows_of(both, "land")[0]
    assert both["y"][landed] == pytest.approx(1.0)
    assert rows_of(both, "leave")[1] == landed + 1


def test_down_and_jump_drop_through_and_use_the_press():
    tune = make_tune(contact__drop_through="down_jump", jump__air_jumps=1, jump__buffer=5)
    trace = run(tune, on_boards(down=[(5, 60)], jump=[(10, 14)]))
    assert marks_at(trace, 11) == ["press", "leave"]
    assert trace["y"][10] == 2
    assert trace["y"][-1] == 0
    assert not rows_of(trace, "launch") + rows_of(trace, "air_launch") + rows_of(trace, "lost_press")


def test_a_dropping_press_does_not_renew_an_older_one():
    """It falls 1.42 u in 16 ticks onto a platform, presses in the air and again on the platform.

    From there it is 0.7 u to the floor, 11 ticks: within the buffer of the second press, beyond that of the first.
    """
    tune = make_tune(contact__drop_through="down_jump", jump__buffer=0.2)
    drill = make_drill(
        solids=[FLOOR], oneway=[(-2.0, 0.5, 2.0, 0.7)], start=(0.0, 2.12), length=60, down=[(0, 60)],
        jump=[(14, 15), (16, 17)],
    )  # fmt: skip
    trace = run(tune, drill)
    assert "land" in marks_at(trace, 16)
    assert "leave" in marks_at(trace, 17)
    # Pressed in row 15; it is lost 0.2 s later, before the body lands.
    assert rows_of(trace, "lost_press") == [15 + 13]
    assert rows_of(trace, "land")[1] == 17 + 10
    assert not rows_of(trace, "launch")
    assert trace["since_press"][20] == pytest.approx(6 / 60)


@pytest.mark.parametrize("rule", ["none", "down", "down_jump"])
def test_solid_ground_does_not_drop_and_a_press_jumps(rule):
    tune = make_tune(contact__drop_through=rule)
    trace = run(tune, make_drill(down=[(0, 60)], jump=[(10, 30)]))
    assert rows_of(trace, "launch") == [11]
    assert trace["y"].min() == 0


@pytest.mark.parametrize("beside", [{"solids": (FLOOR, (0.2, 0.0, 3.0, 2.0))}, {"slopes": [(-1, 2, 1, 2)]}])
def test_a_body_also_standing_on_solid_ground_does_not_drop(beside):
    drill = make_drill(oneway=[BOARD], start=(0.0, 2.0), length=60, down=[(5, 60)], **({"solids": (FLOOR,)} | beside))
    trace = run(make_tune(contact__drop_through="down"), drill)
    assert set(trace["y"]) == {2.0}


def test_dropping_leaves_no_coyote_time_and_buffered_presses_wait():
    tune = make_tune(contact__drop_through="down", jump__coyote=1, jump__spend_grace=False, jump__buffer=5)
    trace = run(tune, on_boards(down=[(5, 7)], jump=[(8, 9)]))
    assert not rows_of(trace, "coyote_launch")
    assert rows_of(trace, "buffered_launch") == [rows_of(trace, "land")[0] + 1]


@pytest.mark.parametrize("integrator", ["velocity_first", "position_first", "midpoint"])
def test_a_platform_holds_again_after_it_was_left(integrator):
    """Dropped, then up again by an air jump while its head is still in the platform, over it and down onto it."""
    tune = make_tune(
        contact__drop_through="down", jump__air_jumps=1, jump__air_jump_speed=12, stepping__integrator=integrator
    )
    trace = run(tune, on_boards(down=[(5, 8)], jump=[(12, 40)]))
    assert trace["y"][12] < 2
    assert trace["y"].max() > 2.5
    assert trace["y"][-1] == 2
