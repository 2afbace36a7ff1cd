"""Poses in the window: lanes, figures, drawn postures on the stage and in Play; and the direction of a view."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as some
from PySide6.QtCore import QPointF, Qt

from cinetica.desk.paint.posture import posture, reach_of
from cinetica.desk.paint.view_wedge import view_wedge
from cinetica.desk.state.settings import Kept, Remembered
from cinetica.model.targets import Target
from cinetica.model.tune import parameter_by_id
from cinetica.motion.live import Held, LiveRun
from cinetica.motion.records import LAUNCH
from cinetica.reading.pose_steps import POSES, RUN, WALK
from tests.builders import make_drill, make_tune, run
from tests.desk.conftest import key


@pytest.fixture
def window(window):
    window.resize(1280, 800)
    window.session.choose_drill("Rooftop hop")
    return window


def change(window, id, value):
    session = window.session
    session.set_value(session.study.tune("Wren"), parameter_by_id(id), value)


# Postures


def feet(tune, x, pose, cycles):
    """The two lowest points of the legs, which follow trunk and head."""
    half = tune.body.width / 2
    lines = posture(tune, (x - half, 0.0, x + half, tune.body.height), pose, cycles, 0.0)
    places = np.array([lines.x, lines.y])
    ends = np.flatnonzero(np.isnan(places[0])) - 1
    return places[:, ends[2:4]].T


@given(some.sampled_from([WALK, RUN]), some.floats(0.3, 1.4), some.floats(0, 3))
def test_a_standing_foot_does_not_slide(pose, stride, begun):
    """While a foot is on the ground the body moves past it by the stride length per cycle."""
    tune = make_tune(pose__stride_walk=stride, pose__stride_run=stride)
    # The stride is short enough for this body.
    assert reach_of(tune, pose) == stride / 4
    step = 0.01
    here, there = feet(tune, begun * stride, pose, begun), feet(tune, (begun + step) * stride, pose, begun + step)
    for place in (0, 1):
        if here[place][1] == there[place][1] == 0.0:
            assert there[place][0] == pytest.approx(here[place][0], abs=1e-9)
    # One of the two always stands.
    assert min(here[:, 1]) == pytest.approx(0.0, abs=1e-9)


@pytest.mark.parametrize("view", ["side", "top"])
@pytest.mark.parametrize("facing", [0.0, 180.0, 77.0])
def test_every_pose_stays_in_its_box(view, facing):
    tune = make_tune(view)
    wide, high = tune.body.width, tune.body.height
    for pose in range(len(POSES)):
        for cycles in np.arange(0, 1, 0.05):
            lines = posture(tune, (3.0, 1.0, 3.0 + wide, 1.0 + high), pose, float(cycles), facing)
            x, y = np.array(lines.x), np.array(lines.y)
            assert np.nanmin(x) >= 3.0 - 0.02
            assert np.nanmax(x) <= 3.0 + wide + 0.02
            assert np.nanmin(y) >= 1.0 - 0.02
            assert np.nanmax(y) <= 1.0 + high + 0.02


def test_the_figure_faces_as_the_body_does():
    tune, box = make_tune(), (-0.4, 0.0, 0.4, 1.8)
    right, left = (posture(tune, box, RUN, 0.1, facing) for facing in (0.0, 180.0))
    assert np.array(right.x) == pytest.approx(-np.array(left.x), nan_ok=True)
    assert np.array(right.y) == pytest.approx(np.array(left.y), nan_ok=True)


# The stage


def drawn_posture(window):
    return [ghost.drawn[-2] for ghost in window.page.stage.ghosts.bodies]


def test_the_stage_shows_the_pose_at_the_cursor_or_only_boxes(window):
    trace = window.session.shown[0].trace
    for row in (1, int(trace.rows_with(LAUNCH)[0])):
        window.session.set_cursor(row)
        assert drawn_posture(window)[0] == (trace["pose"][row], trace["stride"][row])
    window.page.stage.postures_action.trigger()
    assert drawn_posture(window) == [None, None]


# Lanes and figures


def test_a_key_shows_the_pose_lanes_and_their_tooltips(window):
    page = window.page
    assert not page.poses.isVisible()
    assert page.states.heads_readouts
    key(window, Qt.Key.Key_P, Qt.KeyboardModifier.ShiftModifier)
    assert page.poses.isVisible()
    assert not page.states.heads_readouts
    shown = window.session.shown[0]
    run_of = {POSES[each[0]]: each for each in page.poses.runs_of(shown)}
    middle = sum(run_of["rise"][1:]) / 2
    at = QPointF(page.axis.x(middle, page.poses.width()), page.poses.lane / 2)
    assert page.poses.words_at(at).startswith("Wren: rise, ")
    assert page.poses.words_at(QPointF(at.x(), -1)) == ""
    key(window, Qt.Key.Key_P, Qt.KeyboardModifier.ShiftModifier)
    assert not page.poses.isVisible()


def test_a_pose_that_is_too_short_is_reported(window):
    window.page.toggle_poses()
    change(window, "pose.land_time", 0.05)
    shown = window.session.shown[0]
    begin, end = next(each[1:] for each in window.page.poses.runs_of(shown) if POSES[each[0]] == "land")
    words = window.page.poses.lane_words(shown, (begin + end) / 2)
    assert words == "land, 0.050 s: shorter than 0.100 s, hard to see"


def figures_shown(window):
    return {row.id for group in window.sheet.figures.sheet.groups for row in group.rows}


def test_pose_figures_are_shown_with_the_lanes_or_a_target(window):
    assert not {"pose_changes", "rise_delay"} & figures_shown(window)
    window.page.toggle_poses()
    assert {"pose_changes", "shortest_pose", "rise_delay", "stride_rate"} <= figures_shown(window)
    window.page.toggle_poses()
    assert "pose_changes" not in figures_shown(window)
    drill = window.session.drill
    wanted = Target(measure="rise_delay", high=0.0)
    window.session.set_drill("Target", drill.model_copy(update={"targets": (wanted,)}))
    assert "rise_delay" in figures_shown(window)
    assert window.session.shown[0].readings["rise_delay"].value == 0


def test_the_chosen_display_is_remembered(window):
    kept = Remembered()
    window.page.toggle_poses()
    window.page.stage.postures_action.setChecked(False)
    window.page.keep(kept)
    assert (kept.get(Kept.POSES), kept.get(Kept.POSTURES)) == (True, False)
    window.page.toggle_poses()
    window.page.restore(kept)
    assert window.session.poses_shown
    assert not window.page.stage.postures


# The direction of a view


def test_the_wedge_points_where_forward_input_goes():
    """Forward is up, and turns to the right as the yaw grows."""
    tune = make_tune("top", input__view="look", drive__law="instant")
    live = LiveRun([tune], make_drill(view="top").course, (0.0, 0.0), 60.0)
    live.tick(Held(mouse=(300.0, 0.0)))
    for _ in range(3):
        live.tick(Held(frozenset({"up"})))
    before, after = live.trace(0)[-2], live.trace(0)[-1]
    gone = np.array([after["x"] - before["x"], after["y"] - before["y"]])
    wedge = view_wedge(tune, (-0.5, -0.5, 0.5, 0.5), float(after["look_yaw"]))
    middle = np.array([wedge.x[len(wedge.x) // 2], wedge.y[len(wedge.y) // 2]])
    assert gone @ middle == pytest.approx(np.linalg.norm(gone) * np.linalg.norm(middle))
    assert gone[0] > 0


def test_stage_and_play_show_the_wedge(window):
    change(window, "input.view", "look")
    assert [ghost.drawn[-1] for ghost in window.page.stage.ghosts.bodies] == [0.0, None]
    window.show_page("play_page")
    play = window.desk.shown
    play.begin()
    assert "looks ahead" in play.arena.words()


def test_play_shows_postures_or_boxes(window):
    window.show_page("play_page")
    play = window.desk.shown
    play.begin()
    for _ in range(20):
        play.game.live.tick(Held(frozenset({"right"})))
    pose = play.arena._pose_of(0)
    assert POSES[pose.pose] == "run"
    assert pose.cycles > 0
    play.respawn()
    assert POSES[play.arena._pose_of(0).pose] == "idle"
    play.setFocus()
    key(play, Qt.Key.Key_O)
    assert not play.arena.postures
    assert not play.postures_action.isChecked()


def test_a_trace_has_stride_cycles():
    assert run(make_tune(), make_drill(length=30, right=[(0, 30)]))["stride"][0] == 0.0
