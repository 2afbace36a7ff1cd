"""Drawn curves in the sheet, and sections that are not in use."""

import pytest
from PySide6.QtCore import QPointF, Qt

from cinetica.desk.sheet.curve_editor import CurveEditor
from cinetica.model.tune import parameter_by_id
from tests.desk.conftest import key

CURVE = parameter_by_id("drive.acceleration_curve")


@pytest.fixture
def window(window):
    window.resize(1280, 800)
    window.session.choose_drill("Quay sprint")
    return window


@pytest.fixture
def editor(window, qtbot):
    made = CurveEditor(window.session, window.session.study.tune("Wren"), CURVE, window)
    made.show()
    qtbot.waitExposed(made)
    return made


def points_of(window, name="Wren"):
    return window.session.study.tune(name).drive.acceleration_curve


def test_dragging_a_point_updates_the_trace_and_is_one_undo(window, editor):
    session, before = window.session, window.session.shown[0].trace["vx"].copy()
    count = session.undo_stack.count()
    handle = editor._handles[1]
    for y in (0.9, 0.7, 0.5):
        handle.setPos(1.0, y)
    assert points_of(window)[1].y == 0.5
    assert session.shown[0].trace["vx"][10] < before[10]
    handle.sigPositionChangeFinished.emit(handle)
    assert session.undo_stack.count() == count + 1
    session.undo()
    assert points_of(window) == CURVE.default
    assert editor.text.text() == "0 1, 1 1"


def test_a_point_stops_at_its_neighbour(window, editor):
    editor._handles[0].setPos(3.0, 1.0)
    first, second = points_of(window)
    assert first.x == pytest.approx(0.999)
    assert second.x == 1.0


def test_points_are_added_marked_moved_and_removed_from_the_keyboard(window, editor):
    editor.plot.setFocus()
    key(editor, Qt.Key.Key_Insert)
    assert points_of(window) == ((0, 1), (0.5, 1), (1, 1))
    assert editor.marked == 1
    key(editor, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    key(editor, Qt.Key.Key_Right)
    assert points_of(window)[1] == pytest.approx((0.51, 0.9))
    key(editor, Qt.Key.Key_Delete)
    assert points_of(window) == ((0, 1), (1, 1))
    key(editor, Qt.Key.Key_Delete)
    assert points_of(window) == ((0, 1), (1, 1))
    assert "at least" in editor.message.text()


def test_typed_points_are_accepted_or_refused_with_a_reason(window, editor):
    editor.text.setFocus()
    for typed, messages in (("0 1, 0.5", "without its y"), ("a b", "not a curve"), ("1 1, 0 1", "points")):
        editor.text.selectAll()
        editor.text.insert(typed)
        key(editor.text, Qt.Key.Key_Return)
        assert points_of(window) == CURVE.default
        assert messages in editor.message.text()
    editor.text.selectAll()
    editor.text.insert("0 2; 0.5 1.5; 1 0.25")
    key(editor.text, Qt.Key.Key_Return)
    assert points_of(window) == ((0, 2), (0.5, 1.5), (1, 0.25))


def test_it_is_copied_from_another_tune(window):
    session = window.session
    session.set_value(session.study.tune("Bramble"), CURVE, ((0.0, 0.5), (1.0, 2.0)))
    editor = CurveEditor(session, session.study.tune("Wren"), CURVE, window)
    place = editor.others.findData("Bramble")
    editor.others.setCurrentIndex(place)
    editor.others.activated.emit(place)
    assert points_of(window) == ((0.0, 0.5), (1.0, 2.0))


def test_a_curve_has_at_most_twelve_points(window, editor):
    for _ in range(12):
        editor.add_in_widest()
    assert len(points_of(window)) == 12
    assert "at most 12" in editor.message.text()


def test_the_axes_show_every_point(editor):
    editor.put(((0.0, 1.0), (4.0, 9.0)))
    (left, right), (low, high) = editor.plot.viewRange()
    assert left <= 0 <= 4 <= right
    assert low <= 0 <= 9 <= high
    assert editor._inside(QPointF(-3, 5000)) == (0.0, 1000.0)


def titles(window):
    return [group.title for group in window.sheet.view.sheet.groups]


def test_a_section_that_is_off_is_one_line_and_a_key_opens_it(window):
    view = window.sheet.view
    place = titles(window).index("Dash")
    group = view.sheet.groups[place]
    assert group.is_line
    index = view.sheet.index(view.sheet.row_of(place), 0)
    assert view.sheet.data(index, Qt.ItemDataRole.AccessibleTextRole) == "Dash: off"
    view.setCurrentIndex(index)
    key(view, Qt.Key.Key_Return)
    shown = view.sheet.groups[titles(window).index("Dash")]
    assert [row.id for row in shown.rows] == ["dash.speed"]
    session = window.session
    session.set_value(session.study.tune("Wren"), parameter_by_id("dash.speed"), 20.0)
    shown = view.sheet.groups[titles(window).index("Dash")]
    assert "dash.cooldown" in [row.id for row in shown.rows]


def test_a_curve_is_a_picture_in_its_cell_and_a_key_opens_it(window):
    window.sheet.show_all_rules(True)
    window.sheet.show_number(CURVE.id, "Wren")
    view = window.sheet.view
    assert view.sheet.row_at(view.currentIndex()).id == CURVE.id
    key(view, Qt.Key.Key_Return)
    (opened,) = window.findChildren(CurveEditor)
    assert opened.isVisible()
    assert opened.windowTitle() == "Acceleration curve of Wren"


def test_an_undo_in_the_middle_of_a_drag_ends_it(window, editor):
    session, handle = window.session, editor._handles[1]
    handle.setPos(1.0, 0.6)
    session.undo()
    handle.setPos(1.0, 0.4)
    handle.sigPositionChangeFinished.emit(handle)
    assert points_of(window) == CURVE.default
    handle = editor._handles[1]
    handle.setPos(1.0, 0.5)
    handle.sigPositionChangeFinished.emit(handle)
    assert points_of(window)[1].y == 0.5


def test_a_second_click_raises_the_open_editor(window):
    window.sheet.show_all_rules(True)
    window.sheet.show_number(CURVE.id, "Wren")
    for _ in range(2):
        key(window.sheet.view, Qt.Key.Key_Return)
    assert len(window.findChildren(CurveEditor)) == 1
