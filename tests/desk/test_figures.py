"""Figures in the sheet: hovering highlights their frames in the strips, and a click goes there."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tests.desk.painted import on_screen, settle


def spot(view, id: str, tune: str) -> QPoint:
    index = view.cell(id, tune)
    assert index.isValid(), id
    view.scrollTo(index)
    return view.visualRect(index).center()


def point_at(view, at: QPoint) -> None:
    port, nothing = view.viewport(), Qt.MouseButton.NoButton
    where = QPointF(port.mapToGlobal(at))
    QApplication.sendEvent(
        port,
        QMouseEvent(QMouseEvent.Type.MouseMove, QPointF(at), where, nothing, nothing, Qt.KeyboardModifier.NoModifier),
    )
    settle()


def test_hovering_a_figure_highlights_its_frames(window):
    figures, strip = window.sheet.figures, window.page.strips.strips[0]
    settle()
    before = on_screen(window)
    point_at(figures, spot(figures, "time_to_top_speed", "Wren"))
    place, start, end = strip.spots.band
    # Pressed at frame 5 of 60 per second; top speed comes 0.99·7.5/60 s later.
    assert (place, start) == (0, 5 / 60)
    assert end - 1 / 60 < 5 / 60 + 0.99 * 7.5 / 60 <= end
    view, ratio = strip.plot.viewport(), window.devicePixelRatio()
    left, top = (round(at * ratio) for at in view.mapTo(window, QPoint(0, 0)).toTuple())
    part = np.s_[top : top + round(view.height() * ratio), left : left + round(view.width() * ratio)]
    assert (on_screen(window)[part] != before[part]).any()
    QApplication.sendEvent(figures, QEvent(QEvent.Type.Leave))
    settle()
    assert strip.spots.band is None
    assert not (on_screen(window)[part] != before[part]).any()


def test_clicking_a_figure_goes_to_its_last_then_to_its_first_frame(window):
    figures = window.sheet.figures
    at = spot(figures, "stopping_time", "Bramble")
    shown = next(each for each in window.session.shown if each.tune.name == "Bramble")
    first, last = shown.readings["stopping_time"].rows
    QTest.mouseClick(figures.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert window.session.cursor == last
    QTest.mouseClick(figures.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert window.session.cursor == first


def test_with_lined_up_curves_the_cursor_goes_to_the_tunes_own_frame(window):
    window.session.choose_drill("Rooftop hop")
    window.page.comparing.set(anchor="landing")
    settle()
    figures = window.sheet.figures
    QTest.mouseClick(figures.viewport(), Qt.MouseButton.LeftButton, pos=spot(figures, "air_time", "Bramble"))
    shown = next(each for each in window.session.shown if each.tune.name == "Bramble")
    assert window.page.comparing.row(shown) == shown.readings["air_time"].rows[1]


def test_the_tooltip_of_a_figure_names_its_frames_or_why_it_is_absent(window):
    sheet = window.sheet.figures
    index = sheet.cell("stopping_time", "Wren")
    assert "Read from frames 80 to 87, 7 ticks." in index.data(Qt.ItemDataRole.ToolTipRole)
    # A speed belongs to a single frame.
    row = next(each for each in window.session.shown if each.tune.name == "Wren").readings["top_speed_reached"].rows[0]
    tip = sheet.cell("top_speed_reached", "Wren").data(Qt.ItemDataRole.ToolTipRole)
    assert f"Read from frame {row}." in tip
    slow = window.session.study.tune("Bramble").put("drive.friction", 0.0)
    window.session.alter("Slippery", lambda study: study.with_tune(slow, instead_of="Bramble"))
    settle()
    index = sheet.cell("stopping_time", "Bramble")
    assert index.data() == "–"
    assert "Absent: no run at 99% of top speed is released" in index.data(Qt.ItemDataRole.ToolTipRole)


def test_figures_are_reached_by_key(window):
    figures = window.sheet.figures
    figures.setFocus()
    rows = next(each for each in window.session.shown if each.tune.name == "Wren").readings["top_speed_reached"].rows
    figures.setCurrentIndex(figures.cell("top_speed_reached", "Wren"))
    # Nothing can be typed there: Enter alone goes there.
    QTest.keyClick(figures, Qt.Key.Key_Return)
    assert window.session.cursor == rows[1]
    figures.setCurrentIndex(figures.cell("stopping_time", "Wren"))
    QTest.keyClick(figures, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert window.session.cursor == 87


def test_highlighted_frames_follow_the_figure(window):
    figures, strip = window.sheet.figures, window.page.strips.strips[0]
    point_at(figures, spot(figures, "stopping_time", "Wren"))
    before = strip.spots.band
    slower = window.session.study.tune("Wren").put("drive.friction", 20.0)
    window.session.alter("Slower", lambda study: study.with_tune(slower, instead_of="Wren"))
    settle()
    # 7.425 u/s at 20 u/s² are 22.3 ticks from frame 80 on.
    assert strip.spots.band == pytest.approx((0, before[1], (80 + 23) / 60))


def test_no_row_disappears_during_a_drag(window):
    """A row that disappeared would move those below it; it stays, without a figure, until the drag is over."""
    session = window.session
    session.choose_drill("Rooftop hop")
    figures = window.sheet.figures.sheet
    shown = lambda: [row.id for group in figures.groups for row in group.rows]  # noqa: E731
    before, take = shown(), session.drill.take
    assert "jump_height" in before
    session.begin("Press of jump")
    session.set_take("Press of jump", take.model_copy(update={"keys": take.keys.model_copy(update={"jump": ()})}))
    settle()
    assert [id for id in shown() if id in before] == before
    row = next(row for group in figures.groups for row in group.rows if row.id == "jump_height")
    assert figures.text(row, 0) == "–"
    session.set_take("Press of jump", take)
    settle()
    assert set(before) <= set(shown())
    session.end()
    assert shown() == before
    session.set_take("No jump", take.model_copy(update={"keys": take.keys.model_copy(update={"jump": ()})}))
    assert "jump_height" not in shown()
