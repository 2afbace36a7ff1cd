"""The page Survey by mouse and keyboard, compared with single runs."""

import csv
import io
import json
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import pytest
from click.testing import CliRunner
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from cinetica.cli import main
from cinetica.desk import background_task, look
from cinetica.desk.background_task import BackgroundTask, once
from cinetica.desk.state.settings import Remembered
from cinetica.desk.survey.ground_reach import HEADS as TURN_HEADS
from cinetica.files.report import EVERYTHING
from cinetica.files.study_json import study_text
from cinetica.model import editing
from cinetica.model.targets import Target
from cinetica.model.tune import parameter_by_id
from cinetica.motion.simulate import simulate
from cinetica.reading.reading_off import read_off
from cinetica.reading.survey.ground_reach import turns
from cinetica.reading.survey.reach import RUNNING
from tests.desk.conftest import drag, key
from tests.desk.painted import words_of

GRAVITY, SPEED = parameter_by_id("gravity.gravity"), parameter_by_id("jump.jump_speed")


@pytest.fixture
def survey(window, qtbot):
    qtbot.waitExposed(window)
    window.resize(1280, 800)
    window.session.choose_drill("Rooftop hop")
    window.show_page("survey")
    return window.survey


def view(survey, words):
    survey.show_view(words)
    shown = survey.view
    shown.task.wait()
    QApplication.processEvents()
    assert shown.result is not None, shown.why_not
    return shown


def height(window, **values):
    """The jump height of Wren on the drill, as the command line measures a study with these numbers."""
    study = window.session.study
    tune = study.tune("Wren")
    for id, value in values.items():
        tune = tune.put(id.replace("__", "."), value)
    tunes = tuple(tune if each.name == "Wren" else each for each in study.tunes)
    with TemporaryDirectory() as folder:
        path = Path(folder) / "study.json"
        path.write_text(study_text(study.model_copy(update={"tunes": tunes})))
        messages = CliRunner().invoke(main, ["measure", str(path), "--drill", "Rooftop hop", "--json"]).output
    read = next(each for each in json.loads(messages)["readings"] if each["tune"] == "Wren")
    return read["measures"]["jump_height"]["value"]


# Curve


def test_a_curve_equals_the_sweep_of_the_command_line(window, survey):
    curve = view(survey, "Curve")
    assert curve.parameter is GRAVITY
    assert curve.ids == ["jump_height"]
    found = curve.result
    assert [tune.name for _, tune, _ in found.values] == ["Wren", "Bramble"]
    for place in (60, 120, 199):
        expected = height(window, gravity__gravity=float(found.at[place]))
        assert found.values[0][2]["jump_height"][place] == expected


def test_dragging_the_letter_changes_the_number(window, survey):
    curve = view(survey, "Curve")
    scales = curve.scales_of(0)
    (_, tune, at), _ = curve._dots(0, "jump_height", scales)
    assert at.x() == pytest.approx(scales.x(tune.gravity.gravity))
    assert at.y() == pytest.approx(scales.y(height(window)))
    to = QPoint(round(scales.x(60.0)), round(at.y()))
    drag(curve, at.toPoint(), to)
    assert window.session.study.tune("Wren").gravity.gravity == pytest.approx(60, abs=0.5)
    assert window.session.undo_stack.count() == 1
    window.session.undo()
    assert window.session.study.tune("Wren").gravity.gravity == 42


def test_a_curve_follows_a_drag_in_the_sheet(window, survey, hand):
    curve = view(survey, "Curve")
    before = curve.result.values[0][2]["jump_height"].copy()
    hand.drag("jump.jump_speed", "Wren", 20, release=False)
    curve.task.wait()
    assert (curve.result.values[0][2]["jump_height"][50:] > before[50:]).all()
    hand.release()


def test_keys_choose_a_tune_and_move_its_number(window, survey):
    curve = view(survey, "Curve")
    curve.setFocus()
    key(curve, Qt.Key.Key_Down)
    assert survey.asked.tune == "Bramble"
    key(curve, Qt.Key.Key_Right)
    assert window.session.study.tune("Bramble").gravity.gravity == pytest.approx(38 + 1.2)
    key(curve, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
    assert window.session.study.tune("Bramble").gravity.gravity == pytest.approx(38 + 1.2 - 6.0)


def test_a_right_click_on_a_number_surveys_it(window, survey):
    window.show_page("compare")
    window.sheet.view.survey_wanted.emit("jump.jump_speed", "Bramble")
    assert window.desk.shown is survey
    assert survey.view.WORDS == "Curve"
    assert survey.view.parameter is SPEED
    assert survey.view.tune[1].name == "Bramble"


def test_the_chosen_number_of_the_sheet_is_surveyed_by_key(window, survey, messages):
    window.show_page("compare")
    window.sheet.view.setCurrentIndex(window.sheet.view.cell("jump.coyote", "Wren"))
    window.actions_by_name["survey_this"].trigger()
    assert survey.view.parameter.id == "jump.coyote"
    window.show_page("compare")
    window.sheet.view.setCurrentIndex(window.sheet.view.cell("drive.law", "Wren"))
    window.actions_by_name["survey_this"].trigger()
    assert "Select a number in the sheet first" in messages[-1]


def test_a_range_outside_the_hard_one_is_refused_and_the_old_one_stays(window, survey, messages):
    curve = view(survey, "Curve")
    curve.range.low.setValue(-5)
    curve.range.low.editingFinished.emit()
    assert "a number from 0" in messages[-1]
    assert curve.range.low.value() == 0
    curve.range.low.setValue(20)
    curve.range.low.editingFinished.emit()
    curve.task.wait()
    assert (curve.result.at[0], curve.result.at[-1]) == (20, 120)


def test_the_range_of_a_whole_number_goes_from_one_to_another(window, survey, messages):
    survey.survey("input.latency")
    curve = view(survey, "Curve")
    survey.view.set_range(curve.parameter, 0.2, 3.4)
    curve.task.wait()
    assert curve.result.at.tolist() == [0, 1, 2, 3]
    survey.view.set_range(curve.parameter, 0.6, 0.8)
    assert "a whole number from 0" in messages[-1]
    curve.grab()


def test_figures_are_stacked_and_an_absent_one_says_why(window, survey, messages):
    curve = view(survey, "Curve")
    for id in ("air_time", "net_jump_height", "stopping_time"):
        curve.figures._choose(id, True)
    curve.task.wait()
    assert curve.ids == ["jump_height", "air_time", "net_jump_height", "stopping_time"]
    assert np.isnan(curve.result.values[0][2]["net_jump_height"]).all()
    curve.figures._choose("turn_time", True)
    assert "room for 4" in messages[-1]
    curve.figures._choose("jump_height", False)
    assert "jump_height" not in curve.ids


def test_the_question_is_remembered_for_the_next_start(window, survey):
    curve = view(survey, "Curve")
    survey.asked.figures = ["air_time"]
    survey.survey("jump.jump_speed")
    store = Remembered()
    survey.keep(store)
    survey.asked.figures, survey.asked.number = [], ""
    survey.restore(store)
    assert (curve.ids, curve.parameter) == (["air_time"], SPEED)


# Map


def test_a_map_equals_the_sweep_and_is_refined_at_rest(window, survey):
    found = view(survey, "Map").result
    assert (found.x, found.y) == (GRAVITY, SPEED)
    assert found.figures["jump_height"].shape == (200, 200)
    for row, column in ((120, 60), (150, 150)):
        expected = height(window, gravity__gravity=float(found.across[column]), jump__jump_speed=float(found.up[row]))
        assert found.figures["jump_height"][row, column] == expected


def test_a_click_and_a_drag_on_the_map_set_both_numbers(window, survey):
    page = view(survey, "Map")
    scales = page.scales
    at = scales.point(80.0, 20.0).toPoint()
    QTest.mouseClick(page, Qt.MouseButton.LeftButton, pos=at)
    wren = window.session.study.tune("Wren")
    assert wren.gravity.gravity == pytest.approx(80, abs=0.3)
    assert wren.jump.jump_speed == pytest.approx(20, abs=0.1)
    bramble = window.session.study.tune("Bramble")
    begin = scales.point(bramble.gravity.gravity, bramble.jump.jump_speed).toPoint()
    drag(page, begin, scales.point(50.0, 10.0).toPoint())
    bramble = window.session.study.tune("Bramble")
    assert bramble.gravity.gravity == pytest.approx(50, abs=0.3)
    assert bramble.jump.jump_speed == pytest.approx(10, abs=0.1)
    assert survey.asked.tune == "Bramble"
    window.session.undo()
    window.session.undo()
    assert window.session.study.tune("Wren").gravity.gravity == 42


def test_dragging_the_letter_over_its_map_computes_nothing(window, survey):
    page = view(survey, "Map")
    before = page.result
    window.session.set_value(window.session.study.tune("Wren"), GRAVITY, 50.0)
    assert page.result is before
    window.session.set_value(window.session.study.tune("Wren"), parameter_by_id("jump.run_boost"), 0.3)
    page.task.wait()
    assert page.result is not before


def test_keys_move_on_the_map_and_its_values_are_shown(window, survey):
    page = view(survey, "Map")
    page.setFocus()
    key(page, Qt.Key.Key_Up)
    key(page, Qt.Key.Key_Right)
    wren = window.session.study.tune("Wren")
    assert (wren.gravity.gravity, wren.jump.jump_speed) == (pytest.approx(43.2), pytest.approx(14.8))
    page._show_values(page.scales.point(42.0, 14.5))
    assert "Jump height 2.3" in survey.status.text()


def test_the_area_that_meets_all_targets_is_hatched(window, survey):
    session = window.session
    bare = view(survey, "Map").grab().toImage()
    drill = session.drill.model_copy(update={"targets": (Target(measure="jump_height", low=2.0, high=3.0),)})
    session.alter("Target", lambda study: study.model_copy(update={
        "drills": tuple(drill if each.name == drill.name else each for each in study.drills)}))  # fmt: skip
    page = view(survey, "Map")
    page.task.wait()
    assert page.result.allowed.any()
    assert page.grab().toImage() != bare
    assert any(word.text == "the target of Wren is met" for word in words_of(window))


def test_hovering_the_map_names_the_missed_target_and_its_distance(window, survey, messages):
    session = window.session
    target = Target(measure="jump_height", low=2.0, high=3.0)
    session.alter("Target", lambda study: editing.with_target(study, session.drill.name, target))
    page, messages = view(survey, "Map"), []
    page.status.connect(messages.append)
    page.task.wait()
    heights = page.result.figures["jump_height"]
    for row, column in ((0, 0), (len(page.result.up) - 1, 0), (0, len(page.result.across) - 1)):
        at = page.scales.point(float(page.result.across[column]), float(page.result.up[row]))
        page._show_values(QPointF(min(max(at.x(), page.scales.room.left() + 1), page.scales.room.right() - 1),
                           min(max(at.y(), page.scales.room.top() + 1), page.scales.room.bottom() - 1)))  # fmt: skip
        height = heights[row, column]
        if 2.0 <= height <= 3.0:
            assert messages[-1].endswith("All targets met")
        elif np.isnan(height):
            assert messages[-1].endswith("Missed: Jump height is not shown")
        else:
            assert f"too {'high' if height > 3 else 'low'}" in messages[-1]
    assert len(set(messages)) > 1


# Windows


def test_the_lanes_show_the_outcome_of_the_press(window, survey):
    window.session.choose_drill("Gutter's edge")
    page = view(survey, "Windows")
    (_, wren, by_clock), (_, _, other) = page.result.lanes
    assert wren.name == "Wren"
    assert list(by_clock) == ["60", "30", "144", "50 in 60", "hitch"]
    assert [each.frames for each in by_clock["60"].stretches if each.outcome == "coyote"] == [9]
    assert [each.frames for each in other["60"].stretches if each.outcome == "coyote"] == [1]
    assert page.words_of(by_clock["60"]) == "−22 to 0: 23 frames, 383 ms"
    assert page.words_of(other["60"]) == "not on its own frame"
    # The letter of a tune stands at its first lane alone.
    painted = [word.text for word in words_of(window) if word.widget is page]
    assert painted[painted.index("A") + 1] == painted[painted.index("B") + 1] == "60/s"
    assert (painted.count("A"), painted.count("B")) == (1, 1)


def test_the_edge_of_coyote_time_is_dragged(window, survey):
    window.session.choose_drill("Gutter's edge")
    page = view(survey, "Windows")
    rect = next(page._rows()).rect
    edge = QPoint(round(rect.left() + 31 * page._cell), round(rect.center().y()))
    drag(page, edge, edge + QPoint(round(3 * page._cell), 0))
    assert window.session.study.tune("Wren").jump.coyote == pytest.approx(12 / 60, abs=1e-4)
    page.task.wait()
    lane = page.result.lanes[0][2]["60"]
    assert [each.frames for each in lane.stretches if each.outcome == "coyote"] == [12]
    assert window.session.undo_stack.count() == 1


def test_windows_with_a_goal_a_scattered_press_and_longer_holds(window, survey):
    window.session.choose_drill("Gutter's edge")
    page = view(survey, "Windows")
    everywhere = page.result.shares[0]
    page._choose_goal("2")
    page.task.wait()
    assert page.result.shares[0] < everywhere
    page.scatter.setValue(0)
    page.task.wait()
    assert page.result.shares[0] == 1.0
    page.held.setChecked(True)
    page.task.wait()
    assert len(page.result.grid) == 40
    key(page, Qt.Key.Key_Right)
    assert window.session.study.tune("Wren").jump.coyote == pytest.approx(10 / 60, abs=1e-4)


def test_without_a_press_the_page_says_what_to_do(window, survey):
    window.session.choose_drill("Market diagonals")
    survey.show_view("Windows")
    assert "nothing jumps" in survey.view.why_not


@pytest.mark.thorough
def test_a_figure_of_reach_is_surveyed_and_gets_a_target(window, survey, messages, monkeypatch):
    window.session.choose_drill("Rooftop hop")
    survey.asked.figures = ["widest_gap"]
    page = view(survey, "Curve")
    assert not page.why_not
    page = view(survey, "Sensitivity")
    page = view(survey, "Reach")
    gap = page.result.reaches[RUNNING].gaps
    level = next(each for each in gap if each.level == 0.0)
    actions = {action.text(): action for action in page.target.menu().actions()}
    assert list(actions) == ["Widest gap…", "Widest gap to spare…", "Highest step…", "Highest step to spare…"]
    for text, refusal in (("wide", "not a range"), ("7-6", "wrong way round")):
        monkeypatch.setattr(page, "ask_range", lambda _, text=text: text)
        actions["Widest gap…"].trigger()
        assert refusal in messages[-1]
    monkeypatch.setattr(page, "ask_range", lambda _: "")
    actions["Widest gap…"].trigger()
    assert window.session.drill.targets == ()
    monkeypatch.setattr(page, "ask_range", lambda _: f">= {level.widest + 1:.2f}")
    actions["Widest gap…"].trigger()
    assert "Widest gap of Wren should be" in messages[-1]
    cell = window.sheet.figures.cell("widest_gap", "Wren")
    assert cell.data() == f"{level.widest:.2f}"
    assert window.sheet.figures.sheet.verdict_at(cell).missed
    assert "same on every drill" in cell.data(Qt.ItemDataRole.ToolTipRole)
    window.session.undo()
    assert not window.sheet.figures.cell("widest_gap", "Wren").isValid()


def test_in_top_view_reach_shows_distances_and_turning_space(window, survey):
    window.session.choose_drill("Market diagonals")
    page = view(survey, "Reach")
    assert not page.why_not
    rows = page.rows
    assert [rows.horizontalHeaderItem(column).text() for column in range(6)] == list(TURN_HEADS)
    turn = turns(window.session.study.tune("Otter"), window.session.study.clock)[-1]
    assert [rows.item(rows.rowCount() - 1, column).text() for column in (0, 3, 4)] == [
        "180°", f"{turn.time:.3f}", f"{turn.ahead:.3g}",
    ]  # fmt: skip
    page.grab()
    scales = page.result.scales(page._area)
    messages = []
    page.status.connect(messages.append)
    nothing, plain = Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier
    for far in (1.0, 7.0):
        at = scales.point(far, 0.0)
        # The real mouse may be anywhere, so the event is sent to the page itself.
        page.mouseMoveEvent(QMouseEvent(QEvent.Type.MouseMove, at, page.mapToGlobal(at), nothing, nothing, plain))
    assert "A standing and running" in messages[0]
    assert "A not" in messages[-1]
    head, listed = page.table()
    assert len(listed) == 5
    assert "room ahead u" in head
    # Back in side view the gaps are shown again.
    window.session.choose_drill("Rooftop hop")
    view(survey, "Reach")
    assert rows.horizontalHeaderItem(0).text() == "Height"


def test_frames_that_work_are_among_the_figures(window):
    window.session.choose_drill("Gutter's edge")
    wren = next(each for each in window.session.shown if each.tune.name == "Wren")
    assert wren.readings["frames_that_work"].value == 23
    assert "frames_that_work" not in next(each for each in window.session.shown if each.tune.name == "Bramble").readings


# Reach and sensitivity


def test_the_table_of_reach_is_shown_and_saved(window, survey, tmp_path, monkeypatch):
    page = view(survey, "Reach")
    rows = {page.rows.item(row, 0).text(): row for row in range(page.rows.rowCount())}
    assert page.rows.item(rows["0"], 3).text() == f"{page.result.reaches['running'].gaps[12].widest:.2f}"
    # One step is out of reach, and it is the highest one asked for.
    cells = [page.rows.item(row, 3).text() for row in range(page.rows.rowCount())]
    assert cells[0] == "–"
    assert "–" not in cells[1:]
    monkeypatch.setattr(window.exchange, "ask_where", lambda *_: tmp_path / "reach.csv")
    survey.numbers_wanted.emit()
    lines = list(csv.reader(io.StringIO((tmp_path / "reach.csv").read_text())))
    assert lines[0][2] == "difference in height u"
    assert "highest step u" in [line[0] for line in lines]
    page.over.setChecked(True)
    assert page._anchor() == pytest.approx(tuple(window.session.drill.start), abs=0.2)


def test_sensitivities_are_sorted_and_open_their_curve(window, survey):
    page = view(survey, "Sensitivity")
    assert [each.parameter.id for each in page.result.sensitivities.order[:2]] == ["jump.jump_speed", "gravity.gravity"]
    # Run boost is 0: a step would switch it on.
    assert "jump.run_boost" in {each.parameter.id for each in page.result.sensitivities.off}
    page.setFocus()
    key(page, Qt.Key.Key_Down)
    key(page, Qt.Key.Key_Return)
    assert survey.view.WORDS == "Curve"
    assert survey.view.parameter.id == "gravity.gravity"


# Exports and slow tasks


@pytest.mark.thorough
@pytest.mark.parametrize("palette", [look.DAY, look.NIGHT], ids=["day", "night"])
def test_each_view_exports_a_picture_and_numbers(window, survey, tmp_path, monkeypatch, palette):
    window.set_look(palette)
    for shown in survey.views:
        view(survey, shown.WORDS)
        for name in ("a.png", "a.svg"):
            monkeypatch.setattr(window.exchange, "ask_where", lambda *_, name=name: tmp_path / name)
            survey.picture_wanted.emit()
            assert (tmp_path / name).stat().st_size > 1000
            (tmp_path / name).unlink()
        monkeypatch.setattr(window.exchange, "ask_where", lambda *_: tmp_path / "a.csv")
        survey.numbers_wanted.emit()
        assert len(list(csv.reader((tmp_path / "a.csv").open()))) > 3
    window.set_look(look.DAY)


@pytest.mark.thorough
def test_each_view_can_be_in_the_report(window, survey, tmp_path, monkeypatch, messages):
    for shown in survey.views:
        view(survey, shown.WORDS)
        survey.report_wanted.emit()
        assert "Added to the report" in messages[-1]
    study = window.session.study
    window.exchange.write_report(study, tmp_path / "report.html", [study.drill("Rooftop hop")], EVERYTHING, "A4")
    page = (tmp_path / "report.html").read_text()
    for shown in survey.views:
        assert f"{shown.WORDS}: Rooftop hop" in page
    assert page.count("data:image/svg+xml;base64,") == len(survey.views)


def test_stale_results_are_never_shown(qtbot):
    task, results = BackgroundTask(), []
    task.result.connect(results.append)
    # As if it had taken long before.
    task._took = 1.0

    def steps(name):
        def go():
            for number in range(3):
                yield (number + 1) / 3, f"{name}{number}" if number == 2 else None

        return go

    task.ask(steps("old"))
    task.ask(steps("new"))
    task.wait()
    assert results == ["new2"]
    task._took = 1.0
    task.ask(steps("left"))
    task.stop()
    qtbot.wait(30)
    assert results == ["new2"]


def test_waiting_for_the_fine_result_skips_the_pause(qtbot, monkeypatch):
    """The pause is an hour here, and begins while the rough result is still being computed."""
    monkeypatch.setattr(background_task, "RESTING", 3_600_000)
    polls, sleep = iter(range(2_000)), background_task.time.sleep
    monkeypatch.setattr(background_task.time, "sleep", lambda seconds: sleep(seconds + 0.0 * next(polls)))
    task, results = BackgroundTask(), []
    task.result.connect(results.append)
    for took, rough in ((1.0, "rough"), (0.0, "quick")):
        task._took = took
        task.ask(once(lambda rough=rough: rough), once(lambda: "fine"))
        task.wait()
    assert results == ["rough", "fine", "quick", "fine"]


def test_an_error_of_the_task_is_shown_instead(qtbot):
    task, messages = BackgroundTask(), []
    task.failed.connect(messages.append)

    def steps():
        raise ValueError("no")
        yield 1.0, None

    for took in (0.0, 1.0):
        task._took = took
        task.ask(steps)
        task.wait()
    assert messages == ["no", "no"]


def test_an_unexpected_error_is_reported_and_logged_and_work_continues(qtbot, caplog):
    task, messages, results = BackgroundTask(), [], []
    task.failed.connect(messages.append)
    task.result.connect(results.append)

    def steps():
        yield 0.5, None
        raise IndexError("out of bounds")

    for took in (0.0, 1.0):
        task._took = took
        task.ask(steps)
        task.wait()
    assert len(messages) == 2
    assert messages[0] == messages[1]
    assert "IndexError: out of bounds" in messages[0]
    assert [record.exc_info[0] for record in caplog.records] == [IndexError, IndexError]
    task.ask(lambda: iter([(1.0, "there")]))
    task.wait()
    assert results == ["there"]


def test_a_study_without_tunes_or_drills_says_what_to_do(window, survey):
    window.session.toggle(window.session.study.tune("Wren"))
    window.session.toggle(window.session.study.tune("Bramble"))
    for each in survey.views:
        survey.show_view(each.WORDS)
        assert "no tune" in survey.view.why_not


def test_snapshots_are_not_moved(window, survey, messages):
    window.commands.snapshot()
    curve = view(survey, "Curve")
    name = next(tune.name for _, tune in curve.tunes if tune.snapshot_of)
    survey.asked.tune = name
    curve.setFocus()
    key(curve, Qt.Key.Key_Right)
    assert read_off(simulate(window.session.study.tune(name), window.session.drill, window.session.study.clock))[
        "jump_height"
    ].value == pytest.approx(height(window))
    assert messages


@pytest.mark.thorough
def test_the_painted_result_belongs_to_its_question(window, survey):
    """Between a change and its result each view shows what it has."""
    for words in ("Curve", "Map", "Windows", "Reach", "Sensitivity"):
        shown = view(survey, words)
        shown.task.ask = lambda *_: None
        for drill in ("Quay sprint", "Market diagonals", "Fish steps", "Rooftop hop"):
            survey.asked.figures = ["turn_time", "diagonal_ratio"]
            survey.asked.second = "stopping_time"
            window.session.choose_drill(drill)
            shown.grab()
        survey.asked.figures, survey.asked.second = [], ""
        del shown.task.ask


def test_a_rebuilt_page_ignores_results_of_the_old_one(window, survey, qtbot):
    view(survey, "Reach").over.setChecked(True)
    window.set_text_size(1.15)
    try:
        assert window.survey is not survey
        window.session.set_cursor(5)
        window.session.set_value(window.session.study.tune("Wren"), GRAVITY, 50.0)
        qtbot.wait(20)
        window.session.set_cursor(9)
    finally:
        window.set_text_size(1.0)
