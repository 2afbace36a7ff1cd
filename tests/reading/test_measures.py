import math

import pytest

from cinetica.model.course import Zone
from cinetica.reading.measures import MEASURES
from cinetica.reading.reading_off import read_off
from tests.builders import make_drill, make_tune, run


def figures(tune, drill, rate=60):
    return read_off(run(tune, drill, rate))


SPRINT = make_drill(length=120, right=[(5, 60)])


def test_times_move_smoothly_while_a_number_is_dragged():
    times = [
        figures(make_tune(drive__acceleration=40 + step / 10), SPRINT)["time_to_top_speed"].value for step in range(200)
    ]
    falls = [a - b for a, b in zip(times, times[1:], strict=False)]
    assert all(0 < fall < 0.001 for fall in falls)


def test_tap_and_hold_in_one_take():
    read = figures(make_tune(jump__cut_factor=0.5), make_drill(length=160, jump=[(0, 40), (80, 84)]))
    assert read["lowest_hop"].value < read["highest_hop"].value == read["jump_height"].value


@pytest.mark.parametrize("latency", [0, 3])
def test_ticks_from_press_to_motion(latency):
    read = figures(make_tune(input__latency=latency), SPRINT)
    assert read["press_to_velocity"].value == read["press_to_position"].value == latency
    late = figures(make_tune(input__latency=latency, stepping__integrator="position_first"), SPRINT)
    assert late["press_to_position"].value == latency + 1


def test_a_fall_is_no_response_to_input():
    """A press in the air answers to nothing; a push changes vx in the tick that reads it, three ticks late."""
    high = {"start": (0.0, 9.0), "solids": (), "length": 40}
    delays = ("press_to_velocity", "press_to_position")
    assert not {*delays} & {*figures(make_tune(), make_drill(jump=[(5, 9)], **high))}
    read = figures(make_tune(input__latency=3), make_drill(right=[(5, 40)], **high))
    assert [read[id][:2] for id in delays] == [(3, (8, 9))] * 2


def test_spare_grace_and_lost_presses():
    ledge = make_drill(length=60, start=(-1, 0), solids=((-10.0, -1.0, 0.0, 0.0),), right=[(0, 60)], jump=[(20, 40)])
    read = figures(make_tune(jump__coyote=0.2), ledge)
    assert 0 < read["coyote_spare"].value < 0.2
    assert read["lost_presses"][:2] == (0, (0, 60))
    # Pressed in row 21; the buffer of 0.1 s ends with the sixth tick after it.
    assert figures(make_tune(jump__coyote=0.0), ledge)["lost_presses"][:2] == (1, (28, 28))
    landing = make_drill(length=60, start=(0, 0.5), jump=[(7, 30)])
    assert 0 <= figures(make_tune(), landing)["buffer_spare"].value < 0.1


def test_overlap_is_read_where_there_is_one():
    """At 0.125 u per tick the body, 1 u wide, covers all of a wall of 0.5 u from row 16 to row 20."""
    through = make_drill(length=60, solids=((2.0, -1.0, 2.5, 1.0),), view="top", right=[(0, 60)])
    tune = make_tune("top", contact__sweep="none", drive__law="instant", drive__top_speed=7.5, body__width=1.0)
    assert figures(tune, through)["deepest_overlap"][:2] == (0.5, (16, 16))
    assert "deepest_overlap" not in figures(make_tune("top"), through)


def test_the_camera_is_read_off_where_it_leaves_the_body():
    """At rest the gap shrinks by e^(-8t): to 1% of itself in ln 100/8 s, which is 35 ticks."""
    eased = {"camera__follow": "ease", "camera__follow_rate": 8, "drive__law": "instant"}
    read = figures(make_tune(**eased), make_drill(length=200, right=[(0, 60)]))
    lag = 7 / 60 * math.exp(-8 / 60) / (1 - math.exp(-8 / 60))
    assert read["camera_distance"].value == pytest.approx(lag, rel=1e-3)
    assert read["camera_rest"].ticks == math.ceil(60 * math.log(100) / 8)
    assert not {"camera_distance", "camera_rest"} & set(figures(make_tune(), SPRINT))
    # Cut off while the camera still moves.
    assert "camera_rest" not in figures(make_tune(**eased), make_drill(length=75, right=[(0, 60)]))


def test_a_take_without_input_has_no_figures():
    assert figures(make_tune(), make_drill()) == {}


def in_a_zone(drill):
    zones = (Zone(box=(0.0, 0.0, 9.0, 3.0), friction=0.1),)
    return drill.model_copy(update={"course": drill.course.model_copy(update={"zones": zones})})


def test_every_measure_is_shown_by_some_drill():
    shown = set()
    for tune, drill in (
        (make_tune(), make_drill(length=200, right=[(0, 40)], left=[(40, 80)], jump=[(100, 130), (142, 150)])),
        (
            make_tune(),
            make_drill(length=60, start=(-1, 0), solids=((-10.0, -1.0, 0.0, 0.0),), right=[(0, 60)], jump=[(18, 40)]),
        ),
        (make_tune(), make_drill(length=60, start=(0, 0.5), jump=[(7, 30)])),
        (
            make_tune("top", contact__sweep="none"),
            make_drill(view="top", solids=((2.0, -1.0, 2.5, 1.0),), right=[(0, 60)], up=[(40, 60)]),
        ),
        (make_tune(jump__air_jumps=1), make_drill(length=120, jump=[(5, 20), (25, 40)])),
        (make_tune(camera__follow="ease"), make_drill(length=200, right=[(0, 40)])),
        (
            make_tune(),
            make_drill(length=120, start=(0, 1), climb=((-1.0, 0.5, 1.0, 8.0),), up=[(2, 12)], jump=[(20, 60)]),
        ),
        (
            make_tune(wall__slide_speed=3, wall__jump_speed=12, dash__speed=12),
            make_drill(length=90, solids=((0.4, -50.0, 2.0, 50.0),), right=[(0, 30)], jump=[(20, 30)], dash=[(60, 62)]),
        ),
        (make_tune(), in_a_zone(make_drill(length=20, right=[(0, 20)]))),
    ):
        shown |= set(figures(tune, drill))
    on_request = [measure.id for measure in MEASURES if measure.on_request]
    shown |= set(read_off(run(make_tune(), make_drill(length=90, right=[(0, 60)], jump=[(20, 30)])), on_request))
    assert shown == {measure.id for measure in MEASURES}


# By hand: 60 u/s² give 1 u/s per tick, so 6 u/s are reached in the sixth. A jump at 12 u/s under 30 u/s² has
# 12 - k/2 u/s after k ticks: 0 after 24, at 2.3 u, and it lands after 47, at 11.5 u/s.
LINEAR = {"drive__top_speed": 6.0, "drive__acceleration": 60.0, "drive__friction": 60.0, "drive__law": "ramp"}
BALLISTIC = {"jump__jump_speed": 12.0, "gravity__gravity": 30.0}
STARTS = {"time_to_top_speed": (0.099, (0, 6), 6), "top_speed_reached": (6.0, (6, 6), None),
          "peak_acceleration": (60.0, (0, 1), None)}  # fmt: skip


@pytest.mark.parametrize(
    ("view", "values", "takes", "found"),
    [
        ("side", BALLISTIC, {"right": [(0, 100)], "jump": [(30, 90)], "length": 130}, {
            "stopping_time": (0.099, (100, 106), 6), "stopping_distance": (0.25, (100, 106), None),
            "jump_height": (2.3, (30, 77), None), "time_to_apex": (0.4, (30, 54), 24),
            "air_time": (47 / 60, (30, 77), 47), "jump_distance": (4.7, (30, 77), None),
            "landing_speed": (11.5, (76, 77), None), "highest_hop": (2.3, (30, 77), None),
            "press_to_velocity": (0.0, (0, 1), 0), "press_to_position": (0.0, (0, 1), 0),
        }),
        # 11.94 s/60 to -5.94 u/s, with 0.25 u of overshoot on the way.
        ("side", {}, {"right": [(0, 40)], "left": [(40, 80)], "length": 100}, {
            "turn_time": (0.199, (40, 52), 12), "turn_overshoot": (0.25, (40, 46), None),
            "stopping_time": (0.099, (80, 86), 6),
        }),
        ("side", {"dash__speed": 20.0, "dash__time": 0.1}, {"right": [(0, 60)], "dash": [(20, 22)], "length": 90}, {
            "top_speed_reached": (20.0, (21, 21), None), "peak_acceleration": (840.0, (20, 21), None),
            "dash_way": (2.0, (20, 26), None), "dash_duration": (0.1, (20, 26), 6),
        }),
        ("top", {}, {"right": [(0, 60)], "up": [(30, 60)], "length": 90}, {
            "straight_speed": (6.0, (6, 7), None), "diagonal_speed": (6.0, (35, 36), None),
            "diagonal_ratio": (1.0, (6, 36), None), "stopping_time": (0.099, (60, 66), 6),
        }),
    ],
)  # fmt: skip
def test_figures_with_their_rows_and_ticks_by_hand(view, values, takes, found):
    read = read_off(run(make_tune(view, **LINEAR, **values), make_drill(view=view, **takes)))
    for id, (value, rows, ticks) in (STARTS | found).items():
        assert (id, read[id].value, read[id].rows, read[id].ticks) == (id, pytest.approx(value, abs=1e-6), rows, ticks)


def test_a_jump_out_of_a_camera_that_stays_is_as_far_from_it_as_it_is_high():
    roof = make_drill(solids=[(-9, 0, 9, 5)], start=(0.0, 5.0), jump=[(10, 60)], length=70)
    still = {"camera__window_width": 50.0, "camera__window_height": 50.0}
    read = read_off(run(make_tune(**BALLISTIC, **still), roof))
    assert (read["camera_distance"].value, read["camera_distance"].rows) == (pytest.approx(2.3), (33, 33))
