"""Matching in the window: choosing or drawing a curve, following the search, taking the result."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from cinetica.desk.match.panel import DRAWN, FITS, HIGH, LOW, NUMBER
from cinetica.files.study_json import parse_study, study_text
from cinetica.model.drawing import points_of
from cinetica.model.editing import with_log
from cinetica.model.milestone import Logged
from cinetica.motion.simulate import simulate
from tests.builders import make_drill, make_tune, run
from tests.desk.conftest import drag, key
from tests.reading.match.pictures import GROUND, SCALE, pictures_of

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(window):
    window.resize(1280, 800)
    window.session.choose_drill("Rooftop hop")
    return window


@pytest.fixture
def panel(window):
    window.show_match()
    return window.side_windows.match


def with_game(window):
    """A log of a Wren that jumps higher, on the current drill."""
    session = window.session
    tune = session.study.tune("Wren").put("jump.jump_speed", 16.0).put("drive.top_speed", 6.5)
    trace = simulate(tune, session.drill, session.study.clock)
    columns = {name: tuple(trace[name].tolist()) for name in ("time", "x", "y", "vx", "vy")}
    log = Logged(name="Game", drill=session.drill.name, **columns)
    session.alter("Log", lambda study: with_log(study, log))


def ticked(panel):
    return [parameter.id for parameter, _ in panel._ticked()]


def searched(panel):
    panel.toggle()
    panel.task.wait()
    assert panel.answer is not None
    assert panel.answer.estimates
    return panel.answer


# Drawing


def strip_of(window, column):
    return next(strip for strip in window.page.strips.strips if strip.channel.column == column)


def spot(strip, time, value):
    at = strip.plot.box.mapViewToScene(strip.plot.box.viewRect().center().__class__(time, value))
    return strip.plot.mapFromScene(at)


def test_points_are_set_dragged_and_removed_on_a_strip(window):
    wanted = window.page.wanted
    key(window, Qt.Key.Key_C, Qt.KeyboardModifier.ShiftModifier)
    assert wanted.on
    strip = strip_of(window, "y")
    port = strip.plot.viewport()
    for time, value in ((0.5, 0.0), (1.0, 2.0), (1.5, 1.0)):
        QTest.mouseClick(port, LEFT, pos=spot(strip, time, value))
    drill = window.session.drill
    assert [frame for frame, _ in points_of(drill, "y")] == [30, 60, 90]
    assert [value for _, value in points_of(drill, "y")] == pytest.approx([0.0, 2.0, 1.0], abs=0.06)
    # Dragging the middle one is one undo.
    drag(port, spot(strip, 1.0, 2.0), spot(strip, 1.1, 1.5))
    assert [frame for frame, _ in points_of(window.session.drill, "y")] == [30, 66, 90]
    assert window.session.undo_stack.undoText() == "Wanted curve"
    window.session.undo()
    assert [frame for frame, _ in points_of(window.session.drill, "y")] == [30, 60, 90]
    QTest.mouseClick(port, LEFT, pos=spot(strip, 0.5, 0.0))
    assert wanted.selected == ("y", 30)
    strip.plot.setFocus()
    QTest.keyClick(strip.plot, Qt.Key.Key_Right)
    assert [frame for frame, _ in points_of(window.session.drill, "y")] == [31, 60, 90]
    before = points_of(window.session.drill, "y")[0][1]
    QTest.keyClick(strip.plot, Qt.Key.Key_Up)
    assert points_of(window.session.drill, "y")[0][1] > before
    QTest.keyClick(strip.plot, Qt.Key.Key_Delete)
    assert [frame for frame, _ in points_of(window.session.drill, "y")] == [60, 90]
    # It is saved in the study.
    again = parse_study(study_text(window.session.study), "again")
    assert points_of(again.drill("Rooftop hop"), "y") == points_of(window.session.drill, "y")
    wanted.clear()
    assert not window.session.drill.wanted
    # Without drawing, a click moves the cursor again.
    wanted.turn(False)
    QTest.mouseClick(port, LEFT, pos=spot(strip, 1.0, 2.0))
    assert window.session.cursor == 60
    assert not window.session.drill.wanted


def test_a_path_is_drawn_on_the_stage_frame_by_frame(window):
    wanted, stage = window.page.wanted, window.page.stage
    wanted.turn(True)
    for frame, x, y in ((0, 0.0, 1.0), (30, 3.0, 1.5), (60, 6.0, 3.0)):
        window.session.set_cursor(frame)
        at = stage.plot.mapFromScene(stage.box.mapViewToScene(stage.box.viewRect().center().__class__(x, y)))
        QTest.mouseClick(stage.plot.viewport(), LEFT, pos=QPoint(at))
    drill = window.session.drill
    assert [frame for frame, _ in points_of(drill, "x")] == [0, 30, 60]
    assert [value for _, value in points_of(drill, "x")] == pytest.approx([0.0, 3.0, 6.0], abs=0.1)
    # The feet are half a body lower.
    half = window.session.reference.body.height / 2
    assert points_of(drill, "y")[2][1] == pytest.approx(3.0 - half, abs=0.1)
    stage.plot.setFocus()
    QTest.keyClick(stage.plot, Qt.Key.Key_Delete)
    assert len(points_of(window.session.drill, "x")) == len(points_of(window.session.drill, "y")) == 2
    window.grab()


# The panel


def test_matching_a_log_adds_a_tune(window, panel):
    with_game(window)
    panel.curve.setCurrentText("Game")
    panel.begins.setCurrentText("Wren")
    window.session.set_free(["jump.jump_speed", "drive.top_speed", "gravity.gravity"])
    assert set(ticked(panel)) == {"jump.jump_speed", "drive.top_speed", "gravity.gravity"}
    answer = searched(panel)
    assert answer.greatest < 1e-6
    assert "height: met" in panel.outcome.text()
    assert "off by" not in panel.outcome.text()
    best = [each for each in window.session.shown if each.tune.name == "Best so far"]
    assert len(best) == 1
    rows = {panel.numbers.item(row, NUMBER).text(): panel.numbers.item(row, FITS).text() for row in range(3)}
    assert rows["Jump speed"] == "16"
    panel.take.click()
    found = window.session.study.tune("Wren matched")
    assert found.jump.jump_speed == pytest.approx(16.0)
    assert window.session.study.tune("Wren").jump.jump_speed == 14.5
    assert not [each for each in window.session.shown if each.live]
    window.session.undo()
    assert "Wren matched" not in [tune.name for tune in window.session.study.tunes]


def test_a_lagging_log_is_matched_with_an_open_start(window, panel):
    with_game(window)
    log = window.session.logs[0]
    late = log.model_copy(update={name: (getattr(log, name)[0], *getattr(log, name)[:-1]) for name in ("x", "y")})
    late = late.model_copy(update={"name": "Late", "derived": ("vx", "vy")})
    window.session.alter("Log", lambda study: with_log(study, late))
    panel.curve.setCurrentText("Late")
    panel.curve.activated.emit(panel.curve.currentIndex())
    window.session.set_free(["jump.jump_speed", "drive.top_speed"])
    panel.open_start.setChecked(True)
    found = searched(panel)
    assert "the curve fits best 1 frame earlier" in panel.outcome.text()
    assert found.tune.jump.jump_speed == pytest.approx(16.0, abs=0.01)


@pytest.mark.thorough
def test_a_drawn_curve_is_matched(window, panel, monkeypatch):
    # No tune has this curve, so the search would use all of its time.
    monkeypatch.setattr("cinetica.desk.match.panel.SECONDS", 2.0)
    panel.draw.setChecked(True)
    assert window.page.wanted.on
    wren = window.session.shown[0].trace
    editor = window.page.wanted
    editor.session.begin("Draw")
    for row in range(0, 161, 8):
        editor._set("vx", row, float(wren["vx"][row]) * 0.8)
    editor.session.end()
    assert panel.curve.currentText() == DRAWN
    window.session.set_free(["drive.top_speed"])
    searched(panel)
    assert panel.answer.tune.drive.top_speed == pytest.approx(6.0, rel=0.02)
    gap = panel.answer.gaps["vx"]
    assert f"velocity x: off by {gap.greatest:.3g} u/s at most, at frame {round(60 * gap.time)}" in panel.outcome.text()
    panel.close()
    assert not panel.isVisible()
    assert not window.page.wanted.on


def test_numbers_are_chosen_automatically_and_marked_in_the_sheet(window, panel, messages):
    panel.curve.setCurrentText("Bramble")
    panel.choose_for_me()
    assert window.session.free
    assert set(ticked(panel)) == window.session.free
    window.session.set_free([])
    view = window.sheet.view
    view.setCurrentIndex(view.cell("drive.friction", "Wren"))
    window.sheet.free_current()
    assert window.session.free == {"drive.friction"}
    assert "Friction may move" in messages[-1]
    assert ticked(panel) == ["drive.friction"]
    window.sheet.free_current()
    assert not window.session.free
    view.setCurrentIndex(view.cell("drive.law", "Wren"))
    window.sheet.free_current()
    assert "Choose a number" in messages[-1]
    # A tick in the panel does the same.
    panel.numbers.item(0, NUMBER).setCheckState(Qt.CheckState.Checked)
    assert len(window.session.free) == 1


def test_bounds_are_typed_and_bad_ones_refused_with_a_reason(window, panel):
    panel.curve.setCurrentText("Bramble")
    window.session.set_free(["drive.top_speed"])
    panel.numbers.item(0, LOW).setText("6,5")
    panel.numbers.item(0, HIGH).setText("9")
    (free,) = panel.free_numbers()
    assert (free.low, free.high) == (6.5, 9.0)
    answer = searched(panel)
    assert "at its bound" in panel.numbers.item(0, FITS).text()
    assert answer.tune.drive.top_speed == pytest.approx(6.5)
    panel.numbers.item(0, HIGH).setText("fast")
    panel.toggle()
    assert "“fast”" in panel.outcome.text()
    window.session.set_free([])
    panel.toggle()
    assert "No number may move" in panel.outcome.text() or panel.task.asking
    panel.task.wait()
    assert "No number may move" in panel.outcome.text()


def test_a_stopped_search_keeps_its_best_result(window, panel, qtbot):
    with_game(window)
    panel.curve.setCurrentText("Game")
    # Without the two numbers that it would take.
    window.session.set_free(["drive.acceleration", "drive.friction", "gravity.gravity"])
    panel.toggle()
    assert panel.search.text() == "Stop"
    qtbot.waitUntil(lambda: panel.answer is not None, timeout=10_000)
    panel.search.click()
    panel.task.wait()
    assert panel.search.text() == "Search"
    assert panel.answer.estimates
    assert panel.take.isEnabled()


def test_found_presses_become_a_drill_with_the_tune(window, panel):
    with_game(window)
    session = window.session
    session.set_take("No hands", session.drill.take.model_copy(update={"keys": type(session.drill.take.keys)()}))
    panel.curve.setCurrentText("Game")
    panel._show_derived()
    assert panel.find_hands.isEnabled()
    panel.find_hands.setChecked(True)
    session.set_free(["jump.jump_speed", "drive.top_speed"])
    assert searched(panel).greatest < 0.05
    panel.take.click()
    derived = session.study.drill("Rooftop hop (derived)")
    assert derived.take.keys.jump
    assert "found from a log" in derived.note


def test_bounds_are_in_game_units_if_chosen(window, panel):
    session = window.session
    conventions = session.study.conventions.model_copy(update={"pixels_per_unit": 32.0})
    session.alter("Conventions", lambda study: study.model_copy(update={"conventions": conventions}))
    session.change_units()
    session.set_free(["drive.top_speed"])
    panel._fill_numbers()
    (free,) = panel.free_numbers()
    assert float(panel.numbers.item(0, HIGH).text()) == pytest.approx(32 * free.high)


def test_a_drill_without_tunes_or_curves_says_so(window, panel):
    window.session.choose_drill("Market diagonals")
    QApplication.processEvents()
    assert not panel.left_open["jump.short_hop"].isEnabled()
    panel.curve.clear()
    panel.toggle()
    assert "There is no curve to match" in panel.outcome.text()


# Pictures


@pytest.fixture
def reading(window):
    window.side_windows.show_pictures()
    return window.side_windows.pictures


def test_a_log_is_read_from_pictures_by_mouse_and_keyboard(window, reading, tmp_path):
    tune = make_tune(jump__jump_speed=12.0, gravity__gravity=40.0)
    trace = run(tune, make_drill(length=56, right=[(0, 56)], jump=[(8, 40)]))
    made, feet = pictures_of(trace, list(range(0, 56, 4)))
    paths = [tmp_path / f"{place}.png" for place in range(len(made))]
    for path, picture in zip(paths, made, strict=True):
        picture.save(path)
    reading.show_pictures(paths)
    reading.resize(700, 700)
    QApplication.processEvents()
    reading.rate.setValue(15.0)
    assert reading.where.text() == "frame 1 of 14, feet in 0"

    def click(x, y):
        QTest.mouseClick(reading.view, LEFT, pos=reading.view.on_screen((x, y)).toPoint())

    for place, (x, y) in enumerate(feet):
        click(x, y)
        assert reading.frame == place
        QTest.keyClick(reading.view, Qt.Key.Key_Right)
    assert len(reading.feet) == 14
    reading.make.click()
    assert "How large is a unit" in reading.message.text()
    reading.mode.setCurrentIndex(1)
    click(60, GROUND)
    click(60 + 3 * SCALE, GROUND)
    reading.length.setValue(3.0)
    reading.make.click()
    assert "Where is the ground" in reading.message.text()
    reading.mode.setCurrentIndex(2)
    click(100, GROUND)
    reading.make.click()
    (log,) = window.session.logs
    assert log.drill == "Rooftop hop"
    assert max(log.y) == pytest.approx(trace["y"].max(), rel=0.03)
    assert log.time[-1] == pytest.approx(52 / 60, abs=1e-6)
    # A key removes a point.
    reading.mode.setCurrentIndex(0)
    reading.go(-20)
    QTest.keyClick(reading.view, Qt.Key.Key_Delete)
    assert 0 not in reading.points
    reading.view.grab()


def test_points_are_proposed_and_corrected(window, reading, tmp_path):
    trace = run(make_tune(), make_drill(length=30, right=[(0, 30)]))
    made, feet = pictures_of(trace, list(range(0, 18, 3)))
    made[0].save(tmp_path / "run.gif", save_all=True, append_images=made[1:], duration=50)
    reading.show_pictures([tmp_path / "run.gif"])
    assert reading.rate.value() == 20.0
    reading.follow_button.click()
    assert "Click the feet" in reading.message.text()
    reading._click(feet[0][0], feet[0][1] - 48)
    reading.follow_button.click()
    assert "Followed through 5 frames" in reading.message.text()
    assert len(reading.points) == 6
    reading.go(4)
    assert reading.view.proposed
    reading._click(feet[4][0] + 5, feet[4][1] - 48)
    assert not reading.view.proposed
    assert reading.points[4][0] == feet[4][0] + 5


def test_pictures_that_cannot_be_read_are_explained(window, reading, tmp_path):
    bad = tmp_path / "bad.gif"
    bad.write_bytes(b"GIF89a")
    reading.show_pictures([bad])
    assert "cannot be read as a picture" in reading.message.text()
    assert reading.footage is None
