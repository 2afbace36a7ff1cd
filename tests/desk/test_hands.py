"""The input lanes, edited in the real window by mouse and keyboard."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit

from cinetica.model import takes as edits
from cinetica.model.take import Press
from tests.desk.conftest import drag, turn_wheel

NONE, SHIFT, ALT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier


@pytest.fixture
def hands(window, qtbot):
    window.session.choose_drill("Rooftop hop")
    window.session.set_take("One jump", edits.with_presses(window.session.drill.take, "jump", [Press(50, 78)]))
    window.session.undo_stack.clear()
    qtbot.waitExposed(window)
    QApplication.processEvents()
    window.page.hands.setFocus()
    return window.page.hands


def presses(hands, key="jump"):
    return [tuple(press) for press in edits.presses_of(hands.take, key)]


def typed(hands, text):
    editor = hands.findChildren(QLineEdit)[-1]
    editor.setText(text)
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()


def test_a_drag_on_an_empty_lane_adds_a_press_and_reruns_all_tunes(hands, window):
    before = presses(hands)
    traces = [shown.trace for shown in window.session.shown]
    start, to = hands.spot_of("jump", 100.5), hands.spot_of("jump", 112)
    QTest.mousePress(hands, Qt.MouseButton.LeftButton, NONE, start)
    drag(hands, start, to, release=False)
    assert "100 – 112" in hands.readout
    QTest.mouseRelease(hands, Qt.MouseButton.LeftButton, NONE, to)
    assert presses(hands) == [*before, (100, 112)]
    assert all(shown.trace is not old for shown, old in zip(window.session.shown, traces, strict=True))
    window.session.undo_stack.undo()
    assert presses(hands) == before


def test_ends_and_middle_are_dragged(hands):
    ((start, end),) = presses(hands)
    right_end = hands.spot_of("jump", end) - QPoint(1, 0)
    drag(hands, right_end, hands.spot_of("jump", end + 9) - QPoint(1, 0))
    assert presses(hands) == [(start, end + 9)]
    middle = hands.spot_of("jump", (start + end) / 2)
    drag(hands, middle, middle + (hands.spot_of("jump", 20) - hands.spot_of("jump", 0)))
    assert presses(hands) == [(start + 20, end + 29)]
    left_end = hands.spot_of("jump", start + 20) + QPoint(1, 0)
    drag(hands, left_end, hands.spot_of("jump", start + 24) + QPoint(1, 0))
    assert presses(hands) == [(start + 24, end + 29)]


def test_a_press_dragged_past_the_take_stops_at_its_end_and_says_so(hands):
    ((start, end),) = presses(hands)
    spot = hands.spot_of("jump", end) - QPoint(1, 0)
    drag(hands, spot, QPoint(hands.width() + 300, spot.y()), release=False)
    assert presses(hands) == [(start, hands.take.length)]
    assert f"the take has {hands.take.length} frames" in hands.readout
    QTest.mouseRelease(hands, Qt.MouseButton.LeftButton, NONE, spot)


def test_a_press_never_shrinks_to_nothing(hands):
    ((start, end),) = presses(hands)
    spot = hands.spot_of("jump", end) - QPoint(1, 0)
    drag(hands, spot, hands.spot_of("jump", start - 20))
    assert presses(hands) == [(start, start + 1)]


def test_a_click_moves_the_cursor_and_edits_nothing(hands, window):
    before = presses(hands)
    QTest.mouseClick(hands, Qt.MouseButton.LeftButton, pos=hands.spot_of("jump", 100))
    assert presses(hands) == before
    assert window.session.cursor == pytest.approx(100, abs=1)


def test_keys_nudge_lengthen_remove_and_add(hands, window):
    ((start, end),) = presses(hands)
    for _ in range(len(hands.lanes)):
        if hands.lanes[hands.editor.current] == "jump":
            break
        QTest.keyClick(hands, Qt.Key.Key_Down)
    QTest.keyClick(hands, Qt.Key.Key_PageDown)
    QTest.keyClick(hands, Qt.Key.Key_Right)
    QTest.keyClick(hands, Qt.Key.Key_Right)
    assert presses(hands) == [(start + 2, end + 2)]
    QTest.keyClick(hands, Qt.Key.Key_Left, SHIFT)
    QTest.keyClick(hands, Qt.Key.Key_Right, ALT)
    assert presses(hands) == [(start + 3, end + 1)]
    assert window.session.cursor == 0
    QTest.keyClick(hands, Qt.Key.Key_Delete)
    assert presses(hands) == []
    assert "jump" in hands.lanes
    window.session.set_cursor(31)
    QTest.keyClick(hands, Qt.Key.Key_Insert)
    assert presses(hands) == [(31, 37)]
    assert window.session.undo_stack.count() == 3


def test_a_double_click_types_exact_frames_and_refuses_nonsense(hands, window):
    messages = []
    window.session.refused.connect(messages.append)
    ((start, end),) = presses(hands)
    QTest.mouseDClick(hands, Qt.MouseButton.LeftButton, pos=hands.spot_of("jump", (start + end) / 2))
    for text, words in (("7 7", "would be empty"), ("7 99999", "outside the take"), ("soon", "not a press")):
        typed(hands, text)
        assert words in messages[-1]
        assert presses(hands) == [(start, end)]
    typed(hands, "40 64")
    assert presses(hands) == [(40, 64)]


def test_lanes_are_added_and_removed_and_the_length_is_set(hands, window):
    hands.add_lane("left")
    assert "left" in hands.lanes
    drag(hands, hands.spot_of("left", 3.5), hands.spot_of("left", 9))
    assert presses(hands, "left") == [(3, 9)]
    hands.remove_lane("left")
    assert "left" not in hands.lanes
    window.session.undo_stack.undo()
    assert presses(hands, "left") == [(3, 9)]
    hands.ask_length()
    typed(hands, "200")
    assert hands.take.length == 200
    assert len(window.session.shown[0].trace) == 201
    hands.ask_length()
    typed(hands, "0")
    assert hands.take.length == 200


def test_stick_lanes_are_step_curves_that_are_edited(window, qtbot):
    window.session.choose_drill("Market diagonals")
    hands = window.page.hands
    qtbot.waitExposed(window)
    hands.add_lane("stick")
    QApplication.processEvents()
    assert {"stick x", "stick y"} <= set(hands.lanes)
    spot = hands.spot_of("stick x", 10.5)
    drag(hands, spot, QPoint(spot.x() + 4, spot.y() - 60))
    (push,) = edits.pushes_of(hands.take, "stick")
    assert push.x == 1.0
    assert push.y == 0.0
    frame = push.frame
    at = QPoint(round(hands.at(frame / 60)), hands.spot_of("stick y", frame).y())
    drag(hands, at, QPoint(at.x() + round(hands.at(20 / 60) - hands.at(0)), at.y() + 60))
    (push,) = edits.pushes_of(hands.take, "stick")
    assert (push.frame, push.x, push.y) == (frame + 20, 1.0, -1.0)
    QTest.mouseDClick(
        hands, Qt.MouseButton.LeftButton, pos=QPoint(round(hands.at(push.frame / 60)), hands.spot_of("stick x", 0).y())
    )
    typed(hands, "5 0.5 0.25")
    assert edits.pushes_of(hands.take, "stick") == ((5, 0.5, 0.25),)
    assert window.session.shown[0].trace["input_x"][7] == 0.5
    QTest.keyClick(hands, Qt.Key.Key_Delete)
    assert edits.pushes_of(hands.take, "stick") == ()


@pytest.mark.parametrize(("x", "y"), [(0, 120), (120, 0)])
def test_a_wheel_zooms_about_the_mouse_and_with_shift_pans_back(hands, window, x, y):
    """Some mice turn sideways, as does Alt: that counts as well."""
    axis = window.page.axis
    axis.fit()
    start, end = axis.start, axis.end
    turn_wheel(hands, x, y)
    assert axis.end - axis.start == pytest.approx(0.85 * (end - start))
    assert axis.start > start
    assert axis.end < end
    # With space on either side.
    for _ in range(3):
        turn_wheel(hands, x, y)
    start, end = axis.start, axis.end
    turn_wheel(hands, x, y, SHIFT)
    assert axis.start == pytest.approx(start - 0.1 * (end - start))
    assert axis.end - axis.start == pytest.approx(end - start)
    turn_wheel(hands, -x, -y, SHIFT)
    assert (axis.start, axis.end) == pytest.approx((start, end))
