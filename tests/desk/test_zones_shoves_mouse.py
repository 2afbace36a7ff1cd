"""Zones, shoves, mouse moves and dashes in the window: drawn, edited, recorded."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from cinetica.desk.play.bindings import Bindings
from cinetica.desk.play.keyboard import Keyboard
from cinetica.desk.play.mouse_look import MouseLook
from cinetica.desk.play.pads import Pads
from cinetica.model import courses
from cinetica.model.clock import Clock
from cinetica.model.course import Zone
from cinetica.model.tune import parameter_by_id
from cinetica.motion.live import Held, LiveRun
from cinetica.motion.records import DASH_END
from cinetica.motion.simulate import simulate
from tests.builders import FLOOR, make_drill, make_tune, marks_at
from tests.desk.conftest import drag, key

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(window):
    window.resize(1280, 800)
    window.session.choose_drill("Rooftop hop")
    return window


# Shoves and the mouse


def typed(hands, text):
    editor = hands._editor
    editor.setText(text)
    key(editor, Qt.Key.Key_Return)


def test_a_shove_is_dragged_typed_nudged_and_removed_in_its_lane(window):
    hands = window.page.hands
    hands.add_lane("shoves")
    QApplication.processEvents()
    assert hands.lanes[-2:] == ["shoves x", "shoves y"]
    spot = hands.spot_of("shoves x", 20.5)
    drag(hands, spot, QPoint(spot.x() + 4, spot.y() - 60))
    (shove,) = hands.take.shoves
    # The initial range of the lane.
    assert (shove.vx, shove.vy) == (10.0, 0.0)
    shown = window.session.shown[0].trace
    (row,) = shown.rows_with(1 << 15)
    assert "shove" in marks_at(shown, row)
    hands.editor.selected = ("shoves x", shove)
    hands.type_frames()
    typed(hands, "30 -4 12.5")
    assert hands.take.shoves == ((30, -4.0, 12.5),)
    key(hands, Qt.Key.Key_Left)
    assert hands.take.shoves == ((29, -4.0, 12.5),)
    key(hands, Qt.Key.Key_Delete)
    assert hands.take.shoves == ()


def test_shoves_are_typed_and_shown_in_game_units(window):
    session, hands = window.session, window.page.hands
    game = session.study.conventions.model_copy(update={"pixels_per_unit": 32.0, "y_down": True})
    session.edit("Conventions", session.study.model_copy(update={"conventions": game}))
    session.change_units()
    hands.add_lane("shoves")
    key(hands, Qt.Key.Key_Insert)
    hands.type_frames()
    typed(hands, "12 64 -96")
    assert hands.take.shoves == ((12, 2.0, 3.0),)


@pytest.mark.parametrize("text", ["12", "x y z", "9999 1 1", "3 1e9 0"])
def test_a_bad_shove_is_refused_with_a_reason(window, text):
    hands, refusals = window.page.hands, []
    window.session.refused.connect(refusals.append)
    hands.add_lane("shoves")
    key(hands, Qt.Key.Key_Insert)
    before = hands.take
    hands.type_frames()
    typed(hands, text)
    assert len(refusals) == 1
    assert hands.take is before


def test_mouse_moves_have_lanes(window):
    hands = window.page.hands
    hands.add_lane("mouse")
    key(hands, Qt.Key.Key_Insert)
    hands.type_frames()
    typed(hands, "7 120 -30")
    assert hands.take.mouse == ((7, 120.0, -30.0),)
    assert window.session.shown[0].trace["look_yaw"][8] == pytest.approx(12.0)


# Zones


def test_a_zone_is_drawn_typed_and_moved_like_a_solid(window):
    editor = window.page.stage.editor
    editor.turn(True)
    editor.kind = "zones"
    reach = QPointF(0.1, 0.1)
    editor.press(QPointF(2.0, 0.0), reach)
    editor.move(QPointF(6.0, 3.0))
    editor.release()
    (zone,) = editor.course.zones
    assert zone.box == (2, 0, 6, 3)
    assert courses.zone_words(zone) == "ice"
    editor.type_over("2 0 6 3 friction 0.5 push 30 -4 drag 2")
    (zone,) = editor.course.zones
    assert (zone.friction, zone.push, zone.drag, zone.acceleration) == (0.5, (30.0, -4.0), 2.0, 1.0)
    assert editor.text_of(zone) == "2 0 6 3 friction 0.5 drag 2 push 30 −4"
    # Its label has no number that would need a unit.
    assert courses.zone_name(zone) == "friction × 0.5, drag, push"
    editor.nudge(1, 0, resize=False)
    assert editor.course.zones[0].box.left == 2.25
    editor.nudge(0, 1, resize=True)
    assert editor.course.zones[0].box.top == 3.25
    editor.duplicate()
    assert len(editor.course.zones) == 2
    editor.remove()
    assert len(editor.course.zones) == 1


@pytest.mark.parametrize("text", ["2 0 6", "2 0 6 3 treacle", "2 0 6 3 push 1", "2 0 6 3 friction -1", "6 0 2 3 ice"])
def test_a_bad_zone_is_refused_with_a_reason(text):
    with pytest.raises(ValueError, match=r"\w+ \w+ \w+"):
        courses.zone_from_text(text)


def test_a_zone_survives_copy_and_paste_as_text():
    zone = Zone(box=(-1.0, 0.0, 2.5, 3.0), speed=0.5, gravity=0.25, drag=1.5, push=(-3.0, 0.5))
    text = f"{courses.numbers_text(zone)} {courses.zone_words(zone)}"
    assert courses.zone_from_text(text) == zone


def test_effects_of_zones_are_shown_in_game_units(window):
    session, editor, messages = window.session, window.page.stage.editor, []
    game = session.study.conventions.model_copy(update={"pixels_per_unit": 32.0, "y_down": True})
    session.edit("Conventions", session.study.model_copy(update={"conventions": game}))
    session.change_units()
    session.message.connect(messages.append)
    editor.turn(True)
    editor.kind = "zones"
    editor.press(QPointF(2.0, 0.0), QPointF(0.1, 0.1))
    editor.move(QPointF(6.0, 3.0))
    editor.release()
    editor.type_over("64 0 192 -96 push 320 -640")
    assert editor.course.zones[0].push == (10.0, 20.0)
    assert "push 320 −640" in messages[-1]


# Dashes in the lanes


def test_a_dash_in_play_is_recorded_and_reproduced():
    tune = make_tune(dash__speed=12.0)
    live = LiveRun([tune], make_drill(solids=[FLOOR]).course, (0.0, 0.0), 60.0)
    for tick in range(60):
        live.tick(Held(frozenset({"dash"} if 10 <= tick < 13 else ())))
    take = live.take(0, 60)
    assert take.keys.dash == ((10, 13),)
    drill = make_drill(length=60).model_copy(update={"take": take})
    assert simulate(tune, drill, Clock(tick_rate=60))["x"][-1] == live.trace(0)["x"][-1]


def test_a_take_does_not_begin_while_the_dash_cools_down():
    """At rest, but not as at a start: a press would do nothing."""
    tune = make_tune(dash__speed=12.0, dash__cooldown=1.0)
    live = LiveRun([tune], make_drill(solids=[FLOOR]).course, (0.0, 0.0), 60.0)
    for tick in range(200):
        live.tick(Held(frozenset({"dash"} if tick == 5 else ())))
    rests = live.rests()
    (ended,) = np.flatnonzero(live.trace(0)["marks"] & DASH_END)
    assert not rests[ended : ended + 60].any()
    assert rests[ended + 70]


def test_a_new_key_is_added_or_replaces_the_old_one(qtbot):
    keyboard = Keyboard()
    dialog = Bindings(keyboard, Pads(find=lambda: ([], [])), {})
    qtbot.addWidget(dialog)
    dialog.wait_for("dash")
    dialog.adds.setChecked(True)
    dialog.bind(Qt.Key.Key_Q.value)
    assert keyboard.words()["dash"] == "X/Q"
    dialog.wait_for("dash")
    dialog.adds.setChecked(False)
    dialog.bind(Qt.Key.Key_E.value)
    assert keyboard.words()["dash"] == "E"


def at_play(window):
    """The page, with a clock that only the test advances."""
    window.show_page("play_page")
    play = window.play
    play.timer.stop()
    play.pads.stop()
    play.clock = lambda: 0.0
    play.game.resume(0.0)
    play.begin()
    return play


def test_a_captured_mouse_turns_the_look_until_escape(window):
    play = at_play(window)
    QTest.keyPress(play, Qt.Key.Key_L)
    assert play.mouse.captured
    assert play.look_action.isChecked()
    play.mouse._at = QPoint(0, 0)
    play.mouse.eventFilter(play.arena, _moved_to(play.arena, QPoint(50, 0)))
    play.game.step()
    # 0.1° per count.
    assert play.game.live.trace(0)["look_yaw"][-1] == pytest.approx(5.0)
    play.game.pause()
    play.mouse.eventFilter(play.arena, _moved_to(play.arena, QPoint(400, 0)))
    play.frame()
    play.game.step()
    # While it is paused the mouse turns nothing.
    assert play.game.live.trace(0)["look_yaw"][-1] == pytest.approx(5.0)
    QTest.keyPress(play, Qt.Key.Key_Escape)
    assert not play.mouse.captured
    play.game.step()
    assert play.game.live.trace(0)["look_yaw"][-1] == pytest.approx(5.0)


def test_the_mouse_is_counted_while_it_is_captured(window, qtbot):
    look = MouseLook(window)
    look.capture(True)
    assert look.captured
    look._at = QPoint(100, 100)
    QTest.mouseMove(window, QPoint(300, 300))
    look.eventFilter(window, _moved_to(window, QPoint(130, 90)))
    assert look.taken() == (30.0, 10.0)
    assert look.taken() == (0.0, 0.0)
    look.capture(False)
    assert not look.captured


def _moved_to(window, at):
    inside = QPointF(window.rect().center())
    none = Qt.MouseButton.NoButton
    return QMouseEvent(QEvent.Type.MouseMove, inside, QPointF(at), none, none, Qt.KeyboardModifier.NoModifier)


def test_the_dash_key_works_and_is_shown_only_for_tunes_that_dash(window):
    play = at_play(window)
    assert "dashes" not in play._hint()
    session = window.session
    session.set_value(session.study.tune("Wren"), parameter_by_id("dash.speed"), 14.0)
    play.begin()
    assert "X dashes" in play._hint()
    QTest.keyPress(play, Qt.Key.Key_X)
    play.game.step()
    assert play.game.live.trace(0)["vx"][-1] == 14.0


# Starts in motion


def placed(editor, x, y, *, to=None, moves=False):
    """Press at a position and, with `to`, drag there."""
    editor.press(QPointF(x, y), QPointF(0.1, 0.1), moves=moves)
    if to is not None:
        editor.move(QPointF(*to))
    editor.release()


def test_velocity_and_heading_of_the_start_are_dragged_on_the_stage(window):
    editor, session = window.page.stage.editor, window.session
    editor.turn(True)
    x, y = session.drill.start
    placed(editor, x, y)
    assert editor.start_chosen
    # 0.15 s of the velocity are drawn: 0.6 u are 4 u/s.
    placed(editor, x, y, to=(x + 0.6, y + 0.9), moves=True)
    assert session.drill.start_velocity == pytest.approx((4.0, 6.0))
    assert session.drill.start == (x, y)
    assert session.shown[0].trace["vx"][0] == pytest.approx(4.0)
    tip = editor.start.tip()
    placed(editor, tip.x(), tip.y(), to=(x + 0.3, y))
    assert session.drill.start_velocity == pytest.approx((2.0, 0.0))
    ring = editor.start.ring()
    placed(editor, ring.x(), ring.y(), to=(x, y + 2.0))
    assert session.drill.start_heading == 90.0
    placed(editor, x, y, to=(x + 1.0, y))
    assert session.drill.start == (x + 1.0, y)
    for _ in range(4):
        assert session.undo_stack.undoText() == "Start of the drill"
        session.undo_stack.undo()
    assert (session.drill.start, session.drill.start_velocity, session.drill.start_heading) == ((x, y), (0, 0), 0)


def test_the_start_is_moved_by_keys_and_typed(window, messages):
    editor, session, row = window.page.stage.editor, window.session, window.page.stage.edit_row
    editor.turn(True)
    x, y = session.drill.start
    editor.choose_next(1)
    editor.choose_next(-1)
    assert editor.start_chosen
    editor.nudge(1, 0, resize=False)
    assert session.drill.start == (x + 0.25, y)
    editor.nudge(0, 1, resize=True)
    assert session.drill.start_velocity == (0.0, 0.5)
    assert row.exact.text() == f"{x + 0.25:g} {y:g} 0 0.5 0"
    editor.type_over("1 2 3 −4 450")
    assert (session.drill.start, session.drill.start_velocity) == ((1.0, 2.0), (3.0, -4.0))
    assert session.drill.start_heading == 90.0
    editor.type_over("5, 6")
    assert (session.drill.start, session.drill.start_velocity) == ((5.0, 6.0), (3.0, -4.0))
    for bad in ("1", "1 2 3", "here 2", "1e99 0", "0 0 1e9 0", "nan 0"):
        with pytest.raises(ValueError, match="start"):
            editor.type_over(bad)
    assert session.drill.start == (5.0, 6.0)


def test_the_start_is_typed_in_game_units(window):
    session, editor = window.session, window.page.stage.editor
    conventions = session.study.conventions.model_copy(update={"pixels_per_unit": 32.0, "y_down": True})
    session.alter("Conventions", lambda study: study.model_copy(update={"conventions": conventions}))
    session.change_units()
    editor.turn(True)
    placed(editor, *session.drill.start)
    editor.type_over("32 -64 96 -32")
    assert session.drill.start == (1.0, 2.0)
    assert session.drill.start_velocity == pytest.approx((3.0, 1.0))
    assert editor.start.text.startswith("32 -64 96 -32")
