"""A tune that falls off the course: plots follow it a little, and say how far it went."""

import numpy as np
import pytest

from cinetica.desk.paint.off_course import deepest_followed, followed_span
from cinetica.desk.state.tune_run import TuneRun
from cinetica.model.course import Course, Rectangle
from tests.builders import make_drill, make_tune, run
from tests.desk.painted import settle

TUNE = make_tune()


def shown(drill):
    trace = run(TUNE, drill)
    return TuneRun(0, TUNE, trace, dict)


def falling(**more):
    """Off a floor that ends at 2, for two seconds."""
    return make_drill(solids=[(-9, -1, 2, 0)], length=150, right=[(0, 150)], **more)


def test_a_fall_is_followed_to_three_bodies_below_the_lowest_ground():
    drill = falling(slopes=[(-8, 0, -4, -2)])
    one = shown(drill)
    deepest = deepest_followed(drill, [one])
    assert deepest == pytest.approx(-2 - 3 * TUNE.body.height)
    low, high = followed_span(one, "y", deepest)
    assert (low, high) == (pytest.approx(deepest, abs=0.5), 0.0)
    assert low >= deepest
    # Sideways only as far as the edge.
    still = np.asarray(one.trace["x"])[np.asarray(one.trace["y"]) >= deepest]
    assert followed_span(one, "x", deepest) == (0.0, still.max())
    # A speed is not a position.
    assert followed_span(one, "vy", deepest) == one.trace.span("vy")


def test_bodies_on_the_course_and_in_top_view_are_always_followed():
    drill = make_drill(length=60, right=[(0, 60)], jump=[(10, 30)])
    one = shown(drill)
    for column in ("x", "y", "vy"):
        assert followed_span(one, column, deepest_followed(drill, [one])) == one.trace.span(column)
    assert deepest_followed(make_drill(view="top"), [one]) == -np.inf
    assert deepest_followed(None, [one]) == -np.inf


def test_stage_and_height_fit_the_motion_near_the_course_and_an_arrow_points_at_the_rest(window, qtbot):
    session = window.session
    session.choose_drill("Quay sprint")
    session.set_course("Short quay", Course(solids=(Rectangle(-9, -1, 1, 0),)))
    settle()
    stage = window.page.stage
    stage.fit()
    lowest = min(one.trace.span("y")[0] for one in session.shown)
    assert lowest < -20
    # If all of the fall were shown, the course would be a line of pixels: the view stays at the quay.
    assert stage.box.viewRect().height() < 20
    assert {place for place, _, _ in stage.fallen.fallen} == {one.place for one in session.shown}
    assert min(low for _, _, low in stage.fallen.fallen) == lowest
    assert f"A, B fall to −{-lowest:.0f} u" in stage.legend.scale
    height = next(strip for strip in window.page.strips._all if strip.channel.column == "y")
    low, _ = height.span(window.page.strips._now)
    assert -12 < low < 0
    session.undo()
    settle()
    assert stage.fallen.fallen == []
