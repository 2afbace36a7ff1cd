"""Tunes, goal seek, strips, line-up, table, explanation, course, playback and looks in the real window."""

from html import unescape

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QGuiApplication, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from cinetica.desk import look
from cinetica.desk.state.settings import Kept, Settings
from cinetica.model.tune import parameter_by_id
from cinetica.reading.channels import PRESETS
from tests.desk.conftest import drag, key
from tests.desk.painted import pixels_of, settle

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def names(window):
    return [tune.name for _, tune in window.session.tunes]


def head_of(window, name):
    header = window.sheet.view.tune_header
    section = 2 + names(window).index(name)
    return header, QPoint(header.sectionViewportPosition(section) + 30, header.height() // 2)


# Tunes


def test_tunes_are_added_duplicated_renamed_moved_hidden_and_removed_by_key(window, hand, messages, monkeypatch):
    hand.spot("drive.top_speed", "Wren")
    window.sheet.view.go_to("drive.top_speed", "Wren")
    key(window, Qt.Key.Key_D, CTRL)
    assert names(window) == ["Wren", "Wren copy", "Bramble"]
    monkeypatch.setattr(window.commands, "ask", lambda *_, **__: " Wren the second ")
    window.sheet.view.go_to("drive.top_speed", "Wren copy")
    key(window, Qt.Key.Key_F2)
    assert names(window) == ["Wren", "Wren the second", "Bramble"]
    window.sheet.view.go_to("drive.top_speed", "Wren the second")
    key(window, Qt.Key.Key_Right, CTRL | SHIFT)
    assert names(window) == ["Wren", "Bramble", "Wren the second"]
    key(window, Qt.Key.Key_3)
    assert [shown.tune.name for shown in window.session.shown] == ["Wren", "Bramble"]
    monkeypatch.setattr(window.commands, "ask", lambda *_, **__: "  ")
    window.commands.rename()
    assert "needs a name" in messages[-1]
    key(window, Qt.Key.Key_Delete, CTRL)
    assert "Wren the second" not in names(window)
    window.session.undo_stack.undo()
    assert "Wren the second" in names(window)
    for _ in range(4):
        key(window, Qt.Key.Key_T, CTRL)
    assert len(names(window)) == 6
    assert "the most that can be told apart" in messages[-1]


def test_a_snapshot_is_kept_and_restored(window, hand, messages):
    window.sheet.view.go_to("gravity.gravity", "Wren")
    key(window, Qt.Key.Key_B, CTRL)
    assert names(window) == ["Wren", "Wren before", "Bramble"]
    gravity = hand.value("gravity.gravity", "Wren")
    hand.type("gravity.gravity", "Wren", "11")
    assert not window.session.set_value(
        window.session.study.tune("Wren before"), parameter_by_id("gravity.gravity"), 5.0
    )
    assert "is a snapshot" in messages[-1]
    window.sheet.view.go_to("gravity.gravity", "Wren")
    key(window, Qt.Key.Key_B, CTRL | SHIFT)
    assert hand.value("gravity.gravity", "Wren") == gravity


def test_a_click_on_a_name_makes_it_the_reference(window, qtbot):
    qtbot.waitExposed(window)
    window.session.set_cursor(60)
    header, spot = head_of(window, "Bramble")
    QTest.mouseClick(header.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    assert window.session.reference.name == "Bramble"
    assert window.page.strips.strips[0].readout.lines() == [(0, "+7.50", "+1.50"), (1, "+6.00", "")]
    sheet = window.sheet.view.sheet
    assert sheet.differs(parameter_by_id("drive.top_speed"), 0) == 1
    assert sheet.differs(parameter_by_id("drive.top_speed"), 1) == 0


def test_dragging_a_name_copies_a_value_or_a_group_or_moves_the_tune(window, hand, qtbot):
    qtbot.waitExposed(window)
    view = window.sheet.view
    header, spot = head_of(window, "Wren")
    cell = header.viewport().mapFromGlobal(view.viewport().mapToGlobal(hand.spot("drive.acceleration", "Bramble")))
    drag(header.viewport(), spot, cell)
    assert hand.value("drive.acceleration", "Bramble") == hand.value("drive.acceleration", "Wren")
    assert hand.value("drive.friction", "Bramble") != hand.value("drive.friction", "Wren")
    group = next(place for place, each in enumerate(view.sheet.groups) if each.title == "Air")
    rect = view.visualRect(view.sheet.index(view.sheet.row_of(group), 0))
    x = view.visualRect(view.cell("drive.acceleration", "Bramble")).center().x()
    drag(
        header.viewport(),
        spot,
        header.viewport().mapFromGlobal(view.viewport().mapToGlobal(QPoint(x, rect.center().y()))),
    )
    for id in ("gravity.gravity", "gravity.fall_factor", "drive.air_control"):
        assert hand.value(id, "Bramble") == hand.value(id, "Wren")
    drag(header.viewport(), spot, head_of(window, "Bramble")[1])
    assert names(window) == ["Bramble", "Wren"]


def test_a_typed_value_goes_to_every_selected_cell(window, hand):
    view = window.sheet.view
    view.go_to("drive.top_speed", "Wren")
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_A, CTRL)
    QTest.keyClicks(view, "4")
    editor = view.viewport().findChildren(type(window.sheet.search))[-1]
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()
    assert hand.value("drive.top_speed", "Wren") == hand.value("drive.top_speed", "Bramble") == 4
    assert window.session.undo_stack.count() == 1


def test_cells_are_copied_and_pasted_as_text(window, hand, messages):
    view = window.sheet.view
    view.setFocus()
    view.go_to("drive.top_speed", "Wren")
    QTest.keyClick(view, Qt.Key.Key_A, CTRL)
    QTest.keyClick(view, Qt.Key.Key_C, CTRL)
    assert QGuiApplication.clipboard().text() == "7.5\t6"
    QGuiApplication.clipboard().setText("5\t5.5\n33\t44\n")
    view.go_to("drive.top_speed", "Wren")
    QTest.keyClick(view, Qt.Key.Key_V, CTRL)
    assert [hand.value("drive.top_speed", name) for name in ("Wren", "Bramble")] == [5, 5.5]
    assert [hand.value("drive.acceleration", name) for name in ("Wren", "Bramble")] == [33, 44]
    QGuiApplication.clipboard().setText("6\tfast")
    view.go_to("drive.top_speed", "Wren")
    QTest.keyClick(view, Qt.Key.Key_V, CTRL)
    assert "Nothing was pasted" in messages[-1]
    assert hand.value("drive.top_speed", "Wren") == 5


# Goal seek


def test_typing_a_figure_moves_the_numbers_behind_it(window, messages):
    window.session.choose_drill("Rooftop hop")
    figures = window.sheet.figures
    index = figures.cell("jump_height", "Wren")
    figures.type_into(index, "3,5")
    assert "Gravity" in messages[-1]
    assert window.session.shown[0].readings["jump_height"].value == pytest.approx(3.5, rel=1e-3)
    assert window.session.undo_stack.undoText() == "Jump height of Wren"
    before = window.session.study
    for text, words in (("-1", "over 0"), ("high", "is not a number")):
        figures.type_into(figures.cell("jump_height", "Wren"), text)
        assert words in messages[-1]
    figures.type_into(figures.cell("stopping_time", "Bramble"), "900")
    assert "out of reach" in messages[-1]
    assert window.session.study is before


def test_a_wanted_figure_is_typed_from_the_keyboard(window):
    window.session.choose_drill("Rooftop hop")
    figures = window.sheet.figures
    figures.setFocus()
    figures.go_to("time_to_top_speed", "Wren")
    QTest.keyClicks(figures, "0")
    editor = figures.viewport().findChildren(type(window.sheet.search))[-1]
    QTest.keyClicks(editor, ".2")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()
    assert window.session.shown[0].readings["time_to_top_speed"].value == pytest.approx(0.2, rel=1e-3)


# Strips, line-up, difference, divergence


def test_presets_phases_and_the_order_of_strips(window):
    strips = window.page.strips
    for name, preset in PRESETS.items():
        window.page.show_preset(name)
        QApplication.processEvents()
        assert strips.channels == list(preset["side"])
    phase = strips.phases[0]
    shown = window.session.shown[0]
    window.session.set_cursor(40)
    assert phase.spots.spots[0] == (0, shown.trace["vx"][40], shown.trace["vy"][40])
    menu = strips.phases[0].title.menu()
    menu.aboutToShow.emit()
    next(action for action in menu.actions() if action.text() == "Move down").trigger()
    QApplication.processEvents()
    assert strips.channels[1:] == list(PRESETS["Phase"]["side"][:0:-1])


def test_scales_are_separate_or_shared(window):
    window.page.show_preset("Velocity and position")
    across, up, _ = window.page.strips.strips
    assert across.plot.box.viewRange()[1] != up.plot.box.viewRange()[1]
    QTest.mouseClick(window.page.bar.scale, Qt.MouseButton.LeftButton)
    assert across.plot.box.viewRange()[1] == up.plot.box.viewRange()[1]


@pytest.mark.parametrize("drawing", ["lines", "steps", "points"])
def test_samples_are_drawn_as_chosen(window, drawing):
    window.page.comparing.set(drawing=drawing)
    strip, shown = window.page.strips.strips[0], window.session.shown[0]
    window.page.axis.show(0.1, 0.3)
    settle()
    picture = pixels_of(strip.plot.grab().toImage())
    # Between two samples on the way to top speed: on the line between them, or held at the first.
    row = next(row for row in range(1, 30) if shown.trace["vx"][row + 1] > shown.trace["vx"][row] > 2)
    middle = (shown.trace["time"][row] + shown.trace["time"][row + 1]) / 2
    heights = {"lines": (shown.trace["vx"][row] + shown.trace["vx"][row + 1]) / 2, "steps": shown.trace["vx"][row]}
    spots = {
        name: strip.plot.mapFromScene(strip.plot.box.mapViewToScene(QPointF(middle, value)))
        for name, value in heights.items()
    }
    ink = np.array([0x9E, 0x4E, 0x1F])
    ratio = strip.plot.devicePixelRatio()
    pixels = {name: (round(spot.x() * ratio), round(spot.y() * ratio)) for name, spot in spots.items()}
    around = {name: picture[y - 1 : y + 2, x - 1 : x + 2] for name, (x, y) in pixels.items()}
    inked = {name: bool((np.abs(part.astype(int) - ink).max(axis=2) < 60).any()) for name, part in around.items()}
    assert inked == {"lines": drawing == "lines", "steps": drawing == "steps"}


def test_lining_up_shifts_the_other_tunes_and_the_readout(window):
    window.session.choose_drill("Gutter's edge")
    window.session.set_value(window.session.study.tune("Bramble"), parameter_by_id("jump.coyote"), 0.3)
    window.session.set_value(window.session.study.tune("Bramble"), parameter_by_id("input.latency"), 4)
    for _ in range(2):
        key(window, Qt.Key.Key_L)
    assert window.page.comparing.anchor == "launch"
    wren, bramble = window.session.shown
    rows = [int(shown.trace.rows_with(4)[0]) for shown in (wren, bramble)]
    assert rows[1] - rows[0] == 4
    window.session.set_cursor(rows[0])
    lines = window.page.strips.strips[1].readout.lines()
    assert lines[1][1] == f"{bramble.trace['vy'][rows[1]]:+.2f}".replace("-", "−")
    x, _ = window.page.comparing.over_time(bramble, "vy")
    assert x[rows[1]] == pytest.approx(wren.trace["time"][rows[0]])
    window.session.choose_drill("Quay sprint")
    assert "no launch, not lined up" in window.page.bar.warning.text()


def test_difference_draws_each_tune_minus_the_reference(window):
    key(window, Qt.Key.Key_D)
    wren, bramble = window.session.shown
    _, gap = window.page.comparing.over_time(bramble, "vx")
    assert np.allclose(gap, bramble.trace["vx"] - wren.trace["vx"])
    assert window.page.strips.strips[0].title.text().startswith("Δ")
    key(window, Qt.Key.Key_D)
    assert not window.page.strips.strips[0].title.text().startswith("Δ")


def test_a_key_jumps_to_the_first_difference_and_explains_it(window):
    window.session.choose_drill("Early knock")
    explaining = window.page.explaining
    explaining.channel.setCurrentIndex(explaining.channel.findData("y"))
    key(window, Qt.Key.Key_W)
    assert explaining.isVisible()
    wren, bramble = (shown.trace for shown in window.session.shown)
    row = window.session.cursor
    assert abs(wren["y"][row] - bramble["y"][row]) > 0.05
    assert np.all(np.abs(wren["y"][:row] - bramble["y"][:row]) <= 0.05)
    assert f"differ from frame {row} on" in explaining.parted.text()
    # Under the title of another frame it would be untrue.
    window.session.set_cursor(row + 5)
    explaining.refresh()
    assert explaining.title.text() == f"Frame {row + 5}"
    assert explaining.parted.text() == ""
    explaining.amount.setValue(1e5)
    explaining.find_divergence()
    assert "never differ by more than 100000" in explaining.parted.text()


def test_the_explanation_of_the_first_difference_gets_the_height_it_needs(window, qtbot):
    window.resize(1600, 1400)
    window.session.choose_drill("Rooftop hop")
    page = window.page
    page.bar.explain.setChecked(True)
    before = page.explaining.needed()
    page.find_divergence()
    qtbot.waitUntil(lambda: page.explaining.title.text() == f"Frame {window.session.cursor}")
    assert page.explaining.needed() > before
    qtbot.waitUntil(lambda: page.explaining.height() >= page.explaining.needed())


def test_the_tooltip_says_how_much_grace_was_left(window, qtbot):
    window.session.choose_drill("Gutter's edge")
    qtbot.waitExposed(window)
    states = window.page.states
    window_of = next(window_ for window_ in states.spans_of(window.session.shown[0])[1] if window_.word == "coyote")
    words = states.words_at(QPointF(states.at(window_of.start + 0.01), 5))
    # Wren's press comes in the eighth of nine ticks.
    assert "coyote time" in words
    assert "left of 0.150 s" in words


# Frame table, explanation


def test_the_frame_table_follows_moves_and_copies(window):
    key(window, Qt.Key.Key_T)
    table = window.page.table
    assert table.isVisible()
    window.session.set_cursor(40)
    assert table.view.currentIndex().row() == 40
    QTest.keyClick(table.view, Qt.Key.Key_Down)
    assert window.session.cursor == 41
    model = table.model
    headings = [model.heading(column) for column in range(model.columnCount())]
    column = headings.index("B − A\nVelocity x, u/s")
    wren, bramble = (shown.trace for shown in window.session.shown)
    assert float(model.text(41, column)) == pytest.approx(bramble["vx"][41] - wren["vx"][41], abs=1e-4)
    table.view.selectRow(3)
    table.copy()
    lines = QGuiApplication.clipboard().text().strip().split("\n")
    assert len(lines) == len(wren) + 1
    assert lines[0].split("\t")[:2] == ["frame", "time, s"]
    assert float(lines[42].split("\t")[column]) == pytest.approx(bramble["vx"][41] - wren["vx"][41], rel=1e-11)


def test_a_take_of_ten_minutes_scrolls_freely(window):
    take = window.session.drill.take.model_copy(update={"length": 36_000})
    window.session.set_take("Long", take)
    key(window, Qt.Key.Key_T)
    assert window.page.table.model.rowCount() == 36_001
    window.session.set_cursor(30_000)
    assert window.page.table.view.currentIndex().row() == 30_000
    assert window.page.table.view.rowAt(5) > 29_900


def test_explain_shows_the_frame_for_every_tune(window, qtbot):
    key(window, Qt.Key.Key_E)
    window.session.set_cursor(8)
    explaining = window.page.explaining
    qtbot.waitUntil(lambda: explaining.title.text() == "Frame 8")
    assert [column.isVisible() for column in explaining.columns] == [True, True]
    wren, bramble = explaining.columns
    # Side by side, below the charts.
    assert wren.mapTo(window, QPoint()).x() < bramble.mapTo(window, QPoint()).x()
    assert "vx +1 " in f"{wren.words[0]} ".replace(",", " ")
    assert any(words.startswith("vx 2.00 → 3.00: ramp, acceleration 60 u/s² × 1/60 s") for words in wren.words)
    assert "toward S·w by a·h" in wren.toPlainText()


def test_a_number_in_the_explanation_leads_to_its_cell(window, qtbot):
    key(window, Qt.Key.Key_E)
    window.session.set_cursor(8)
    column = window.page.explaining.columns[1]
    qtbot.waitUntil(lambda: "drive.acceleration" in column.toHtml())
    window.sheet.view.grid.set_open(1, False)
    column.anchorClicked.emit(QUrl("drive.acceleration"))
    view = window.sheet.view
    assert view.currentIndex() == view.cell("drive.acceleration", "Bramble")
    assert not view.isRowHidden(view.currentIndex().row())


def test_a_hidden_tune_is_not_explained(window, qtbot):
    key(window, Qt.Key.Key_E)
    window.session.toggle(window.session.study.tune("Bramble"))
    qtbot.waitUntil(lambda: [column.isVisible() for column in window.page.explaining.columns] == [True, False])


# The stage and its course


def at(stage, x, y):
    return stage.plot.mapFromScene(stage.box.mapViewToScene(QPointF(x, y)))


def test_a_course_is_edited_in_place_and_every_tune_reruns(window, qtbot, messages):
    window.session.choose_drill("Gutter's edge")
    qtbot.waitExposed(window)
    stage = window.page.stage
    key(window, Qt.Key.Key_C)
    assert stage.edit_row.isVisible()
    ledge = max(window.session.drill.course.solids, key=lambda solid: solid.left)
    traces = [shown.trace for shown in window.session.shown]
    edge = QPointF(ledge.left, (ledge.bottom + ledge.top) / 2)
    click(stage, edge.x(), -1.5)
    assert stage.editor.selected == ("solids", ledge)
    drag(stage.plot.viewport(), at(stage, edge.x(), -1.5), at(stage, edge.x() - 1.1, -1.5))
    moved = max(window.session.drill.course.solids, key=lambda solid: solid.left)
    assert moved.left == pytest.approx(ledge.left - 1, abs=0.26)
    assert moved.left * 4 == round(moved.left * 4)
    assert moved.right == ledge.right
    assert all(shown.trace is not old for shown, old in zip(window.session.shown, traces, strict=True))
    window.session.undo_stack.undo()
    assert ledge in window.session.drill.course.solids
    count = len(window.session.drill.course.solids)
    drag(stage.plot.viewport(), at(stage, 1, 2.1), at(stage, 2, 2.6))
    assert len(window.session.drill.course.solids) == count + 1
    stage.plot.setFocus()
    QTest.keyClick(stage.plot, Qt.Key.Key_Up)
    assert window.session.drill.course.solids[-1].bottom == pytest.approx(2.25 if at(stage, 1, 2.1) else 0, abs=0.26)
    QTest.keyClick(stage.plot, Qt.Key.Key_Delete)
    assert len(window.session.drill.course.solids) == count
    QTest.keyClick(stage.plot, Qt.Key.Key_Escape)
    assert not stage.editor.on


def click(stage, x, y):
    QTest.mouseClick(stage.plot.viewport(), Qt.MouseButton.LeftButton, pos=at(stage, x, y))


def test_a_drag_draws_anywhere_and_moves_with_alt(window, qtbot):
    qtbot.waitExposed(window)
    session, stage = window.session, window.page.stage
    key(window, Qt.Key.Key_C)
    floor = session.drill.course.solids[0]
    # From inside the floor to over it.
    drag(stage.plot.viewport(), at(stage, 4, -0.5), at(stage, 6, 1))
    assert session.drill.course.solids == (floor, (4, -0.5, 6, 1))
    # The new one is selected: Alt moves it by its inside, a grip resizes it.
    drag(stage.plot.viewport(), at(stage, 5, 0.5), at(stage, 6, 0.5), modifier=Qt.KeyboardModifier.AltModifier)
    assert session.drill.course.solids[1] == (5, -0.5, 7, 1)
    drag(stage.plot.viewport(), at(stage, 7, 0.25), at(stage, 8, 0.25))
    assert session.drill.course.solids[1] == (5, -0.5, 8, 1)
    click(stage, 2, 2.5)
    assert stage.editor.selected is None
    assert len(session.drill.course.solids) == 2


def test_shapes_are_copied_pasted_and_duplicated(window, qtbot, messages):
    qtbot.waitExposed(window)
    session, stage = window.session, window.page.stage
    key(window, Qt.Key.Key_C)
    stage.editor.kind = "oneway"
    drag(stage.plot.viewport(), at(stage, 1, 1), at(stage, 2, 1.5))
    tunes = len(session.study.tunes)
    for pressed in (Qt.Key.Key_C, Qt.Key.Key_V, Qt.Key.Key_D):
        QTest.keyClick(stage.plot, pressed, CTRL)
    assert len(session.study.tunes) == tunes
    assert session.drill.course.oneway == ((1, 1, 2, 1.5), (1.5, 1.5, 2.5, 2), (2, 2, 3, 2.5))
    QTest.keyClick(stage.plot, Qt.Key.Key_Backspace)
    assert len(session.drill.course.oneway) == 2
    QGuiApplication.clipboard().setText("not a shape")
    QTest.keyClick(stage.plot, Qt.Key.Key_V, CTRL)
    assert "type left, bottom" in messages[-1]
    for _ in range(4):
        session.undo()
    assert session.drill.course.oneway == ()


def test_the_middle_button_pans_while_a_course_is_edited(window, qtbot):
    qtbot.waitExposed(window)
    stage = window.page.stage
    key(window, Qt.Key.Key_C)
    port, before, middle = stage.plot.viewport(), stage.box.viewRect(), Qt.MouseButton.MiddleButton
    start = port.rect().center()
    QTest.mousePress(port, middle, pos=start)
    for x in (10, 30, 60):
        to = QPointF(start + QPoint(x, 0))
        none = Qt.KeyboardModifier.NoModifier
        sent = QMouseEvent(QEvent.Type.MouseMove, to, QPointF(port.mapToGlobal(to)), middle, middle, none)
        QApplication.sendEvent(port, sent)
    QTest.mouseRelease(port, middle, pos=start + QPoint(60, 0))
    assert stage.box.viewRect().left() < before.left()
    assert len(window.session.drill.course.solids) == 1


def test_rectangles_are_selected_added_and_typed_by_key(window, messages):
    stage = window.page.stage
    key(window, Qt.Key.Key_C)
    stage.plot.setFocus()
    stage.edit_row.kind.setCurrentIndex(2)
    stage.edit_row.kind.activated.emit(2)
    QTest.keyClick(stage.plot, Qt.Key.Key_Insert)
    assert len(window.session.drill.course.climb) == 1
    stage.edit_row.exact.setFocus()
    stage.edit_row.exact.setText("1 0 2 3")
    QTest.keyClick(stage.edit_row.exact, Qt.Key.Key_Return)
    assert window.session.drill.course.climb == ((1, 0, 2, 3),)
    stage.edit_row.exact.setText("2 0 1 3")
    QTest.keyClick(stage.edit_row.exact, Qt.Key.Key_Return)
    assert "left side left of its right side" in messages[-1]
    stage.plot.setFocus()
    # After the last shape comes the start, then the first shape.
    QTest.keyClick(stage.plot, Qt.Key.Key_PageDown)
    assert stage.editor.start_chosen
    QTest.keyClick(stage.plot, Qt.Key.Key_PageDown)
    assert stage.editor.selected is not None


def test_the_effects_of_a_zone_are_chosen_or_typed(window):
    stage, session = window.page.stage, window.session
    key(window, Qt.Key.Key_C)
    does = stage.edit_row.does
    assert does.isHidden()
    stage.edit_row.kind.setCurrentIndex(4)
    stage.edit_row.kind.activated.emit(4)
    assert does.isVisible()
    stage.plot.setFocus()
    QTest.keyClick(stage.plot, Qt.Key.Key_Insert)
    assert session.drill.course.zones[-1].friction == 0.1
    for name, push in (("wind", 15.0), ("belt", 90.0)):
        does.setCurrentIndex(does.findData(name))
        does.activated.emit(does.currentIndex())
        assert session.drill.course.zones[-1].push == (push, 0.0)
        assert session.drill.course.zones[-1].friction == 1.0
    # The next one does the same.
    QTest.keyClick(stage.plot, Qt.Key.Key_Insert)
    assert [zone.push[0] for zone in session.drill.course.zones] == [90.0, 90.0]
    stage.editor.type_over("1 0 2 3 drag 2")
    assert sorted(zone.drag for zone in session.drill.course.zones) == [0.0, 2.0]
    assert does.currentText() == ""
    session.undo()
    session.undo()
    assert len(session.drill.course.zones) == 1


def test_a_slope_is_drawn_and_its_end_dragged_onto_a_corner(window, qtbot, messages):
    window.session.choose_drill("Fish steps")
    qtbot.waitExposed(window)
    stage, session = window.page.stage, window.session
    key(window, Qt.Key.Key_C)
    first = session.drill.course.slopes[0]
    click(stage, first.x0, first.y0)
    drag(stage.plot.viewport(), at(stage, first.x0, first.y0), at(stage, first.x0 - 1, first.y0))
    changed = session.drill.course.slopes[0]
    assert changed == (2, 0, 7, 2)
    assert f"{changed.angle:.1f}°" in messages[-1]
    # Near the corner of the fish deck, and off the grid of 3 u.
    stage.editor.grid = 3
    drag(stage.plot.viewport(), at(stage, 7, 2), at(stage, 9.95, 1.97))
    assert session.drill.course.slopes[0] == (2, 0, 10, 2)
    session.undo_stack.undo()
    assert session.drill.course.slopes[0] == changed
    stage.editor.grid = 0.25
    stage.edit_row.kind.setCurrentIndex(3)
    stage.edit_row.kind.activated.emit(3)
    drag(stage.plot.viewport(), at(stage, 12.5, 4), at(stage, 14.5, 5))
    assert session.drill.course.slopes[-1].angle == pytest.approx(26.6, abs=8)
    stage.plot.setFocus()
    QTest.keyClick(stage.plot, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    stage.edit_row.exact.setText("12 4 14")
    QTest.keyClick(stage.edit_row.exact, Qt.Key.Key_Return)
    assert "x0, y0, x1 and y1" in messages[-1]
    QTest.keyClick(stage.plot, Qt.Key.Key_Delete)
    assert len(session.drill.course.slopes) == 3


def test_a_slope_names_the_tunes_that_slide_on_it(window):
    session, course = window.session, window.page.stage.course
    session.choose_drill("Fish steps")
    assert course.sliding == ("", "", "")
    limit = parameter_by_id("slope.max_slope")
    session.set_value(session.study.tune("Wren"), limit, 24.0)
    assert course.sliding == ("A", "", "")
    session.set_value(session.study.tune("Bramble"), limit, 10.0)
    assert course.sliding == ("–", "B", "B")


def test_unusual_courses_are_described_and_still_run(window):
    page, course = window.page, window.session.drill.course
    window.session.set_course("Nothing", course.model_copy(update={"solids": ()}))
    assert "no ground" in page.note.text()
    window.session.undo_stack.undo()
    window.session.set_drill("Inside", window.session.drill.model_copy(update={"start": (0.0, -0.4)}))
    assert "starts inside a solid" in page.note.text()
    assert len(window.session.shown[0].trace) == 121


def test_footprints_and_arrows_follow_their_settings(window):
    stage = window.page.stage
    stage.every_box.setValue(10)
    assert stage.prints.printed[0].count == 13
    stage.every_box.setValue(0)
    assert stage.prints.printed[0].count == 0
    window.session.set_cursor(8)
    with_arrows = stage.grab().toImage()
    arrows = [action for action in stage.title.menu().actions() if "arrows" in action.text()]
    for action in arrows:
        action.setChecked(False)
    QApplication.processEvents()
    assert stage.grab().toImage() != with_arrows


def test_with_many_tunes_the_reference_and_the_last_changed_show_bodies(window):
    session, stage = window.session, window.page.stage
    counts = lambda: [bool(each.count) for each in stage.prints.printed]  # noqa: E731
    assert counts() == [True, True]
    for _ in range(2):
        window.commands.duplicate()
    assert [tune.name for _, tune in session.tunes][2:] != []
    session.set_value(session.study.tune("Bramble"), parameter_by_id("gravity.gravity"), 30.0)
    names = [each.shown.tune.name for each in stage.prints.printed]
    assert dict(zip(names, counts(), strict=True)) == {name: name in ("Wren", "Bramble") for name in names}
    # All positions stay visible.
    assert stage.prints.extent().right() >= max(float(shown.trace["x"].max()) for shown in session.shown)
    every = next(action for action in stage.title.menu().actions() if action.text() == "Bodies of every tune")
    every.setChecked(True)
    assert all(counts())


# Playback, looks, remembered settings


def test_playback_can_loop(window, qtbot):
    transport = window.page.transport
    transport.speed = 12.0
    key(window, Qt.Key.Key_R)
    window.session.set_cursor(100)
    seen = []
    window.session.cursor_moved.connect(seen.append)
    key(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: any(later < earlier for earlier, later in zip(seen, seen[1:], strict=False)), timeout=5000)
    assert transport.play_button.text() == "Stop"
    key(window, Qt.Key.Key_Space)


def test_the_window_reopens_as_it_was_left(open_window, tmp_path):
    first = open_window(settings=Settings(tmp_path / "window.ini"))
    first.page.charts.setSizes([333, 222])
    first.page.charts.splitterMoved.emit(333, 1)
    first.page.show_preset("Phase")
    first.page.bar.explain.setChecked(True)
    first.sheet.view.grid.set_open(1, False)
    folded = set(first.sheet.view.grid.folded)
    first.set_look(look.NIGHT)
    first.page.stage.every_box.setValue(4)
    upper, lower = first.page.charts.sizes()[:2]
    first.close()
    second = open_window(settings=Settings(tmp_path / "window.ini"))
    again = second.page.charts.sizes()[:2]
    assert again[0] / sum(again) == pytest.approx(upper / (upper + lower), abs=0.1)
    assert second.page.strips.channels == list(PRESETS["Phase"]["side"])
    assert second.page.bar.explain.isChecked()
    assert second.sheet.view.grid.folded == folded
    assert look.palette() is look.NIGHT
    assert second.page.stage.every == 4
    second.set_look(look.DAY)


def test_unreadable_settings_are_ignored(tmp_path):
    (tmp_path / "window.ini").write_text('[General]\nexplain={\nevery="many"\nstrips=[1, 2]\n')
    settings = Settings(tmp_path / "window.ini")
    assert settings.get(Kept.EXPLAIN) is False
    assert settings.get(Kept.EVERY) == 6
    assert settings.get(Kept.STRIPS) == []


def test_everything_that_takes_the_focus_has_a_name(window):
    from PySide6.QtWidgets import QAbstractButton, QComboBox, QLineEdit

    for kind in (QAbstractButton, QComboBox, QLineEdit):
        for widget in window.findChildren(kind):
            if widget.focusPolicy() != Qt.FocusPolicy.NoFocus and widget.isVisible():
                text = widget.text() if hasattr(widget, "text") else ""
                assert widget.accessibleName() or text or widget.parent().accessibleName(), widget


def test_drills_are_made_copied_renamed_and_removed(window, monkeypatch):
    window.commands.copy_drill()
    assert window.session.drill.name == "Quay sprint copy"
    assert window.header.drills.currentText() == "Quay sprint copy"
    monkeypatch.setattr(window.commands, "ask", lambda *_, **__: "Long quay")
    window.commands.rename_drill()
    assert window.session.drill.name == "Long quay"
    window.session.undo_stack.undo()
    assert window.session.drill.name == "Quay sprint copy"
    window.commands.remove_drill()
    assert window.session.drill is not None
    window.commands.new_drill("top")
    assert window.session.drill.view == "top"
    assert [shown.tune.name for shown in window.session.shown] == ["Otter", "Punt"]
    for _ in range(len(window.session.study.drills)):
        window.commands.remove_drill()
    assert window.session.drill is None
    assert "no drill" in window.page.notice.text()
    window.commands.new_drill("side")
    assert window.page.notice.text() == ""


def test_a_group_is_copied_from_the_reference_by_key(window, hand):
    view = window.sheet.view
    view.setFocus()
    view.go_to("gravity.gravity", "Bramble")
    QTest.keyClick(view, Qt.Key.Key_G)
    assert hand.value("gravity.gravity", "Bramble") == hand.value("gravity.gravity", "Wren")
    assert hand.value("drive.air_control", "Bramble") == hand.value("drive.air_control", "Wren")
    assert hand.value("drive.top_speed", "Bramble") != hand.value("drive.top_speed", "Wren")
    view.go_to("gravity.gravity", "Wren")
    count = window.session.undo_stack.count()
    QTest.keyClick(view, Qt.Key.Key_G)
    assert window.session.undo_stack.count() == count


def test_delete_resets_every_selected_cell(window, hand):
    view = window.sheet.view
    view.setFocus()
    view.go_to("drive.top_speed", "Wren")
    QTest.keyClick(view, Qt.Key.Key_A, CTRL)
    QTest.keyClick(view, Qt.Key.Key_Delete)
    default = parameter_by_id("drive.top_speed").default
    assert hand.value("drive.top_speed", "Wren") == hand.value("drive.top_speed", "Bramble") == default
    window.session.undo_stack.undo()
    assert hand.value("drive.top_speed", "Wren") == 7.5


def test_the_stage_is_zoomed_and_moved_by_key(window):
    stage = window.page.stage
    stage.plot.setFocus()
    before = stage.box.viewRect()
    QTest.keyClick(stage.plot, Qt.Key.Key_Plus)
    zoomed = stage.box.viewRect()
    assert zoomed.width() == pytest.approx(0.8 * before.width(), rel=0.01)
    QTest.keyClick(stage.plot, Qt.Key.Key_PageDown)
    assert stage.box.viewRect().left() > zoomed.left()
    QTest.keyClick(stage.plot, Qt.Key.Key_Up)
    assert stage.box.viewRect().top() > zoomed.top()
    key(window, Qt.Key.Key_F)
    assert stage.box.viewRect().width() == pytest.approx(before.width(), rel=0.01)


def test_notes_on_tunes_and_drills(window, monkeypatch):
    monkeypatch.setattr(window.commands, "ask", lambda *_, **__: " Feels like wet rope. ")
    window.sheet.view.go_to("drive.top_speed", "Bramble")
    key(window, Qt.Key.Key_I, CTRL)
    assert window.session.study.tune("Bramble").note == "Feels like wet rope."
    key(window, Qt.Key.Key_I, CTRL | SHIFT)
    assert "Feels like wet rope." in window.page.note.text()
    monkeypatch.setattr(window.commands, "ask", lambda *_, **__: None)
    count = window.session.undo_stack.count()
    window.commands.edit_note()
    window.commands.rename_drill()
    assert window.session.undo_stack.count() == count


def test_the_help_names_every_key(window):
    from cinetica.desk.actions.catalogue import ACTIONS
    from cinetica.desk.actions.keys import help_text

    text = unescape(help_text())
    assert all(action.tip in text for action in ACTIONS.values())


def test_curves_that_an_edit_does_not_move_have_no_pale_copy(window):
    """Gravity changes heights and not the speed of a run on level ground, where dashes keep their gaps."""
    session, strips = window.session, {strip.channel.column: strip for strip in window.page.strips.strips}
    session.choose_drill("Rooftop hop")
    QApplication.processEvents()
    tune = session.tunes[0][1]
    assert session.set_value(tune, parameter_by_id("gravity.gravity"), 36.0)
    assert strips["y"].wakes.parts
    assert strips["vx"].wakes.drawn
    same = session.shown[0].trace["vx"].tobytes() == session.wake_shown[0].trace["vx"].tobytes()
    assert bool(strips["vx"].wakes.parts) is not same
    assert window.page.stage.wakes.parts
