"""Figures of walls, dashes, zones and stun, against sums worked out by hand."""

import pytest

from cinetica.model.course import Zone
from cinetica.model.take import Shove
from cinetica.reading.reading_off import read_off
from tests.builders import FLOOR, make_drill, make_tune, run

WALL = (0.4, -50.0, 2.0, 50.0)


def figures(tune, drill):
    return {id: reading.value for id, reading in read_off(run(tune, drill)).items()}


def test_height_and_distance_of_a_wall_jump():
    """12 u/s against 40 u/s²: in ticks of 1/60 s it rises 12²/80 - 12/120 u. It goes back at 6 u/s after 0.1 s."""
    tune = make_tune(wall__jump_speed=12.0, wall__jump_away=6.0, wall__lock=0.1, gravity__gravity=40.0,
                     drive__law="instant", drive__top_speed=6.0, jump__short_hop="none")  # fmt: skip
    found = figures(tune, make_drill(length=30, solids=[WALL], right=[(0, 30)], jump=[(2, 20)]))
    assert found["wall_jump_height"] == pytest.approx(12**2 / 80 - 12 / 120)
    assert found["wall_jump_way"] == pytest.approx(0.6)
    assert found["time_off_control"] == pytest.approx(0.1)


def test_speed_of_a_slide():
    tune = make_tune(wall__slide_speed=3.0)
    assert figures(tune, make_drill(length=40, solids=[WALL], right=[(0, 40)]))["slide_speed_reached"] == 3.0


def test_distance_and_time_of_a_dash():
    tune = make_tune(dash__speed=12.0, dash__time=0.1, drive__friction=0.0)
    found = figures(tune, make_drill(length=40, dash=[(3, 4)]))
    assert found["dash_way"] == pytest.approx(1.2)
    assert found["dash_duration"] == pytest.approx(0.1)
    blocked = figures(tune, make_drill(length=40, solids=[FLOOR, (0.9, 0, 3, 3)], dash=[(3, 4)]))
    # The wall is 0.5 u away, and ends the dash in the third tick.
    assert blocked["dash_way"] == pytest.approx(0.4)


def test_stun_is_time_without_control():
    drill = make_drill(length=60)
    drill = drill.model_copy(update={"take": drill.take.model_copy(update={"shoves": (Shove(5, 1.0, 0.0),)})})
    assert figures(make_tune(drive__stun=0.25), drill)["time_off_control"] == pytest.approx(0.25)
    assert "time_off_control" not in figures(make_tune(), drill)


def test_the_distance_in_a_zone_counts_ticks_that_begin_in_it():
    """From 1 to 3, for a body of 0.8: inside while x is between 0.6 and 3.4, at 0.1 u per tick."""
    drill = make_drill(length=60, right=[(0, 60)])
    zoned = drill.model_copy(
        update={"course": drill.course.model_copy(update={"zones": (Zone(box=(1.0, 0.0, 3.0, 2.0), friction=0.5),)})}
    )
    tune = make_tune(drive__law="instant", drive__top_speed=6.0)
    assert figures(tune, zoned)["zone_way"] == pytest.approx(2.7)
    assert "zone_way" not in figures(tune, drill)


def test_absent_without_walls_dashes_shoves_and_zones():
    ours = {"wall_jump_height", "wall_jump_way", "slide_speed_reached", "dash_way", "dash_duration", "zone_way"}
    assert not ours & figures(make_tune(), make_drill(length=60, right=[(0, 30)], jump=[(10, 30)])).keys()
