"""The window in game units: every page and dialog, typed, dragged and read back."""

import math
import re

import numpy as np
import pytest
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from cinetica.desk.application import start
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.dialogs.find_number import FindNumber
from cinetica.desk.dialogs.guide import Guide
from cinetica.desk.dialogs.hand_over import HandOver
from cinetica.desk.dialogs.rescale import RescaleDialog
from cinetica.desk.sheet.widths import unit_width
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.model.conventions import Angle, Conventions, Per, Times
from cinetica.model.course import Rectangle
from cinetica.model.editing import with_target
from cinetica.model.rescaling import Scope
from cinetica.model.study import UnitSystem
from cinetica.model.targets import Target
from cinetica.model.tune import parameter_by_id
from cinetica.reading.display_units import OURS
from cinetica.reading.target_search import solve
from tests.desk.conftest import key
from tests.desk.painted import faults_of, settle, words_of
from tests.desk.test_words import LARGE, SMALL, dialogs, full_study, pages

GAME = Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME, rate=50, times=Times.FRAME)
# Our units in a text.
OUR_UNIT = re.compile(r"(?:^|[\d\s(, ])u(?:/s²?)?(?:$|[\s,;.:)])")


def in_game(study=None):
    return (study or shipped_study("harbour")).model_copy(update={"conventions": GAME, "units": UnitSystem.GAME})


@pytest.fixture
def opened(open_window):
    def open_(study, size=(1280, 800)):
        window = open_window(study, size=size)
        settle()
        return window

    return open_


@pytest.fixture
def window(opened):
    window = opened(in_game())
    window.session.choose_drill("Rooftop hop")
    return window


@pytest.mark.thorough
@pytest.mark.parametrize("size", [SMALL, LARGE])
def test_no_page_shows_our_units_or_cut_off_words(opened, size):
    window = opened(in_game(full_study()), size)
    faults = []
    for name in pages(window):
        settle()
        words = words_of(window)
        faults += [f"{name}: {fault}" for fault in faults_of(window, words)]
        faults += [f"{name}: {word.text}" for word in words if OUR_UNIT.search(word.text)]
    assert not faults, "\n".join(dict.fromkeys(faults))


@pytest.mark.thorough
def test_no_dialog_shows_our_units(opened, monkeypatch):
    monkeypatch.setattr(Dialog, "room", lambda _: QSize(1256, 744))
    window = opened(in_game())
    session, faults = window.session, []
    study = with_target(session.study, "Rooftop hop", Target(measure="jump_height", low=1.0, high=2.0, tunes=("Wren",)))
    session.edit("Target", study)
    window.study_runs.judge_now()
    (missed,) = window.study_runs.verdicts
    more = [
        FindNumber(session, missed, solve(session.study, missed), window),
        RescaleDialog(session, session.study.tune("Wren"), Scope.TUNE, window),
    ]
    for dialog in (*dialogs(window), *more):
        dialog.show()
        settle()
        # The guide and the conventions dialog name both kinds of units, and user text stays as
        # it is.
        if not isinstance(dialog, Guide | HandOver):
            written = " ".join(drill.note for drill in session.study.drills)
            ours = [word.text for word in words_of(dialog) if OUR_UNIT.search(word.text)]
            faults += [f"{type(dialog).__name__}: {text}" for text in ours if text.strip() not in written]
        dialog.close()
    assert not faults, "\n".join(faults)


def test_the_units_switch_is_in_the_header_saved_and_undoable(opened):
    window = opened(shipped_study("harbour").model_copy(update={"conventions": GAME}))
    session, messages = window.session, []
    session.message.connect(messages.append)
    assert window.header.units.text() == "u"
    QTest.mouseClick(window.header.units, Qt.MouseButton.LeftButton)
    assert session.study.units is UnitSystem.GAME
    assert window.header.units.text() == "px"
    assert "32 pixels per unit, y down, per frame at 50 per second" in window.header.units.toolTip()
    assert "as the game counts them" in messages[-1]
    session.undo()
    assert session.units is OURS
    assert window.header.units.text() == "u"
    key(window.sheet.view, Qt.Key.Key_U)
    assert session.study.units is UnitSystem.GAME


def cell(window, id, tune="Wren"):
    return window.sheet.view.grid.cell(id, tune)


def test_the_sheet_shows_and_takes_the_games_numbers(window):
    view, session = window.sheet.view, window.session
    sheet = view.sheet
    wren = session.study.tune("Wren")
    assert sheet.edit_text(cell(window, "drive.top_speed")) == f"{wren.drive.top_speed * 0.64:g}"
    assert sheet.edit_text(cell(window, "jump.jump_speed")) == f"{-wren.jump.jump_speed * 0.64:g}"
    assert sheet.edit_text(cell(window, "jump.coyote")) == f"{wren.jump.coyote * 50:g}"
    for id, text, kept in (
        ("drive.top_speed", "3.3", 3.3 / 0.64), ("jump.jump_speed", "-9.6", 15.0), ("jump.jump_speed", "9.6", 15.0),
        ("jump.coyote", "6", 0.12), ("jump.coyote", "100 ms", 0.1), ("gravity.gravity", "0.512", 40.0),
        ("drive.top_speed", "2*1.6", 5.0), ("drive.top_speed", "160 px/s", 5.0), ("body.height", "32", 1.0),
    ):  # fmt: skip
        view.type_into(cell(window, id), text)
        assert session.study.tune("Wren").get(id) == pytest.approx(kept, rel=1e-12), (id, text)
    assert sheet.edit_text(cell(window, "drive.top_speed")) == "3.2"
    assert session.undo_stack.undoText() == "Body height of Wren"
    # The history stays true when the units change.
    session.change_units()
    messages = session.undo_stack.command(session.undo_stack.count() - 2).text()
    assert messages.startswith("Body height of Wren ")
    assert messages.endswith("px → 32 px")
    session.change_units()
    messages = []
    session.refused.connect(messages.append)
    view.type_into(cell(window, "drive.top_speed"), "fast")
    assert "0 to 64000 px/frame" in messages[-1].replace("-0 ", "0 ")
    assert "px/frame²" in {sheet.unit(row) for group in sheet.groups for row in group.rows}


def test_a_drag_moves_in_round_game_units(window):
    view, session = window.sheet.view, window.session
    index = cell(window, "drive.top_speed")
    view.scrollTo(index)
    messages = []
    view.hovered.connect(messages.append)
    at = view.visualRect(index).center()
    QTest.mousePress(view.viewport(), Qt.MouseButton.LeftButton, pos=at)
    for by in (5, 12, 20):
        point = at.__class__(at.x() + by, at.y())
        QTest.mouseMove(view.viewport(), point)
    QTest.mouseRelease(view.viewport(), Qt.MouseButton.LeftButton, pos=point)
    shown = session.study.tune("Wren").drive.top_speed * 0.64
    assert shown > 4.8
    assert shown == pytest.approx(round(shown, 3), abs=1e-9)


def test_targets_and_wanted_figures_are_typed_in_pixels(window):
    figures, session = window.sheet.figures, window.session
    index = figures.grid.cell("jump_height", "Wren")
    height = next(run for run in session.shown if run.tune.name == "Wren").readings["jump_height"].value
    assert figures.sheet.text(figures.sheet.row_at(index), 0) == f"{height * 32:.2f}"
    figures.type_into(index, "70-80")
    (target,) = session.drill.targets
    assert (target.low, target.high) == pytest.approx((70 / 32, 80 / 32))
    messages = []
    session.message.connect(messages.append)
    figures.type_into(figures.grid.cell("jump_height", "Wren"), "96")
    there = next(run for run in session.shown if run.tune.name == "Wren").readings["jump_height"].value
    assert there == pytest.approx(3.0, rel=1e-3)
    assert "Jump height of Wren is 96 px" in messages[-1]
    assert "px/frame²" in messages[-1]


def test_switching_units_changes_numbers_and_not_curves(opened):
    """The picture is the same except for its numbers, since the world is the same."""
    pictures = []
    for units in UnitSystem:
        window = opened(in_game().model_copy(update={"units": units}))
        window.session.choose_drill("Rooftop hop")
        window.session.set_cursor(40)
        settle()
        strip = window.page.strips.strips[1]
        pictures.append((strip.plot.box.viewRect(), strip.unit.text(), strip.readout.lines()[0][1],
                         window.page.stage.box.viewRect()))  # fmt: skip
        window.hide()
    (_, unit, messages, stage), (_, game_unit, game_said, game_stage) = pictures
    assert (unit, game_unit) == ("u/s", "px/frame")
    # A wider units column makes the stage a little narrower.
    assert (stage.top(), stage.bottom()) == (game_stage.top(), game_stage.bottom())
    up = float(messages.replace("−", "-"))
    assert float(game_said.replace("−", "-")) == pytest.approx(-up * 0.64, abs=0.011)


def test_axis_numbers_are_round_in_game_units_and_in_the_right_places(window):
    stage = window.page.stage.plot
    axis, view = stage.axes["left"], window.page.stage.box.viewRect()
    ((step, places),) = axis.tickValues(view.top(), view.bottom(), stage.box.height())
    shown = [float(text.replace("−", "-")) for text in axis.tickStrings(places, 1.0, step)]
    assert shown == pytest.approx([-32 * place for place in places])
    assert all(abs(number / step - round(number / step)) < 1e-6 for number in shown)
    assert all(view.top() - 1e-6 <= place <= view.bottom() + 1e-6 for place in places)
    assert len(shown) >= 2


def test_a_shape_is_typed_in_pixels_with_y_down(window):
    session, editor = window.session, window.page.stage.editor
    window.page.stage.toggle_editing()
    editor.choose_next(1)
    kind = editor.selected[0]
    editor.type_over("32 0 96 -16")
    assert editor.selected == (kind, Rectangle(1.0, 0.0, 3.0, 0.5))
    assert window.page.stage.edit_row.exact.text() == "32 0 96 -16"
    assert Rectangle(1.0, 0.0, 3.0, 0.5) in session.drill.course.solids
    with pytest.raises(ValueError, match="bottom below its top"):
        editor.type_over("32 -16 96 0")


def test_the_angle_of_a_slope_is_in_game_units(opened):
    game = GAME.model_copy(update={"angle": Angle.RADIAN})
    window = opened(in_game().model_copy(update={"conventions": game}))
    drill = next(each for each in window.session.study.drills if each.course.slopes)
    window.session.choose_drill(drill.name)
    window.page.stage.toggle_editing()
    editor, messages = window.page.stage.editor, []
    window.session.message.connect(messages.append)
    slope = drill.course.slopes[0]
    while editor.selected is None or editor.selected[1] != slope:
        editor.choose_next(1)
    wanted = f"{-math.radians(slope.angle):.3f} rad".replace("-", "−")
    assert messages[-1].endswith(wanted)
    assert window.page.stage.selection._angle == wanted


def test_the_frame_table_copies_game_units(window):
    window.page.bar.table.setChecked(True)
    settle()
    table = window.page.table
    table.copy()
    head, *lines = QGuiApplication.clipboard().text().splitlines()
    assert head.split("\t")[1:3] == ["time, frames", "A Velocity x, px/frame"]
    run = window.session.reference_shown
    row = lines[30].split("\t")
    assert float(row[1]) == pytest.approx(run.trace["time"][30] * 50)
    assert float(row[2]) == pytest.approx(run.trace["vx"][30] * 0.64)


def test_survey_copies_game_units(window):
    window.show_page("survey")
    survey = window.survey
    survey.asked.number, survey.asked.figures = "jump.jump_speed", ["jump_height"]
    survey.show_view("Curve")
    view = survey.view
    view.task.wait()
    QApplication.processEvents()
    head, rows = view.table()
    assert head[:2] == ("jump.jump_speed px/frame", "Wren: jump_height px")
    speeds = np.array([float(row[0]) for row in rows])
    assert speeds.max() <= 0
    assert (view.range.low.value(), view.range.high.value()) == pytest.approx((speeds.min(), speeds.max()))
    # A range typed with the larger speed first is the same range.
    view.range.low.setValue(-12.8)
    view.range.high.setValue(-6.4)
    view.range._set()
    assert view.range_of(parameter_by_id("jump.jump_speed")) == pytest.approx((10.0, 20.0))


def test_a_second_window_follows_the_units_switch(opened):
    one = opened(in_game())
    other = Window(Session(beside=one.session))
    other.show()
    start(other)
    assert other.header.units.text() == "px"
    other.session.change_units()
    assert one.header.units.text() == "u"
    one.session.undo_stack.setClean()
    other.close()


def test_the_column_of_units_is_as_wide_as_the_longest(window):
    assert unit_width(window.session.units) > unit_width(OURS)
