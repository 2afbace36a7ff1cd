"""A second day of the designer and the level designer: jobs of docs/guide.md, done in the real window."""

import csv
import math

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog

from cinetica.desk.widgets import leaves
from cinetica.files.study_json import read_study
from cinetica.model.rescaling import Scope, resized
from cinetica.motion.records import LEAVE
from cinetica.reading.target_search import solve
from tests.desk.conftest import drag, key
from tests.desk.test_a_day import Designer

pytestmark = pytest.mark.thorough

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
Key = Qt.Key
USER = Qt.ItemDataRole.UserRole


class LevelDesigner(Designer):
    """A designer who also uses the page Survey."""

    def survey(self, words):
        self.key(Key.Key_F8)
        page = self.window.survey
        page.show_view(words)
        page.view.task.wait()
        QApplication.processEvents()
        assert page.view.result is not None, page.view.why_not
        return page.view

    def compare(self):
        self.key(Key.Key_F5)

    def target(self, id, tune, text):
        """Type a range over a figure."""
        self.seek(id, tune, text)

    def guard(self):
        """The heavy guard: 4.5 u/s, stops within 0.4 u, jumps 1.4 u, never over 14 u/s, a tap gives half."""
        self.begin("From the side")
        self.set("drive.top_speed", "Courier", "4.5")
        self.drill("Start and stop")
        self.seek("stopping_distance", "Courier", "0.38")
        self.drill("Tap and hold")
        self.seek("jump_height", "Courier", "1.4")
        self.set("gravity.terminal_speed", "Courier", "14")
        self.seek("lowest_hop", "Courier", "0.7")
        self.session.alter("A name", lambda study: _renamed(study, "Courier", "Guard"))


def _renamed(study, old, new):
    tunes = tuple(each.model_copy(update={"name": new}) if each.name == old else each for each in study.tunes)
    return study.model_copy(update={"tunes": tunes})


@pytest.fixture
def designer(window, monkeypatch):
    return LevelDesigner(window, monkeypatch)


def test_1_set_targets_for_a_heavy_guard_and_meet_them_with_the_smallest_change(designer):
    designer.guard()
    assert designer.read("jump_height", "Guard") == pytest.approx(1.4, rel=1e-3)
    assert designer.read("lowest_hop", "Guard") == pytest.approx(0.7, rel=1e-3)
    designer.target("jump_height", "Guard", ">= 1.35")
    designer.target("lowest_hop", "Guard", "0.6…0.8")
    designer.drill("Start and stop")
    assert designer.read("stopping_distance", "Guard") <= 0.4
    designer.target("stopping_distance", "Guard", "<= 0.4")
    everywhere = designer.window.study_runs
    everywhere.judge_now()
    assert everywhere.first_missed is None
    gravity = designer.value("gravity.gravity", "Guard")
    designer.set("gravity.gravity", "Guard", f"{gravity * 1.2:.3f}")
    everywhere.judge_now()
    missed = everywhere.first_missed
    assert missed.target.measure == "jump_height"
    # By hand: at the same speed, 1.2 times the gravity turns 1.4 u into 1.4 / 1.2 u.
    assert missed.value == pytest.approx(1.4 / 1.2, rel=0.03)
    designer.key(Key.Key_J, CTRL)
    assert designer.session.drill.name == "Tap and hold"
    best, *_ = solve(designer.session.study, missed)
    assert best.value >= 1.35
    designer.set(best.parameter.id, "Guard", repr(best.after))
    everywhere.judge_now()
    assert everywhere.first_missed is None


def test_2_copy_the_widest_gap_and_the_highest_step_as_a_table(designer, tmp_path):
    window = designer.window
    reach = designer.survey("Reach")
    window.survey.asked.tune = "Bramble"
    window.survey.view.changed.emit()
    reach.task.wait()
    designer.patch.setattr(window.exchange, "ask_where", lambda *_: tmp_path / "reach.csv")
    window.survey.numbers_wanted.emit()
    rows = list(csv.reader((tmp_path / "reach.csv").open()))
    by_level = {(row[1], row[2]): row for row in rows[1:] if row[0] == "Bramble"}
    flat = by_level["running", "0"]
    # By hand: air time times top speed.
    assert float(flat[5]) == pytest.approx(6 * float(flat[6]), rel=0.03)
    # Between edges add a body's width, two ticks of coyote time, and the rest of a tick at the end.
    width = designer.session.study.tune("Bramble").body.width
    assert float(flat[5]) + width < float(flat[3]) < float(flat[5]) + width + 3 * 6 / 60 + 0.01
    # Three frames earlier costs three frames of distance; held three frames less than the rise takes, the jump is
    # a little lower, too.
    assert float(flat[3]) - 0.9 < float(flat[4]) < float(flat[3]) - 3 * 6 / 60 + 0.01
    assert by_level["running", max((level for _, level in by_level), key=float)][3] == ""
    steps = [row for row in rows if row[0] == "highest step u"]
    tune = designer.session.study.tune("Bramble")
    speed = tune.jump.jump_speed + tune.jump.run_boost * 6
    highest = max(float(row[3]) for row in steps)
    assert highest == pytest.approx(speed**2 / (2 * tune.gravity.gravity), rel=0.08)


def test_3_make_the_ledge_fair_and_change_nothing_else(designer):
    designer.drill("Gutter's edge")
    windows = designer.survey("Windows")
    found = {tune.name: by_clock for _, tune, by_clock in windows.result.lanes}
    for clock in ("60", "30", "144"):
        assert found["Bramble"][clock].window() is None, "too late by the press of the take, at every rate"
        assert found["Wren"][clock].window() is not None
    share = windows.result.shares[1]
    assert share < 0.5
    rect = next(row.rect for row in windows._rows() if (row.tune.name, row.clock) == ("Bramble", "60"))
    edge = QPoint(round(rect.left() + (30 - 1) * windows._cell), round(rect.center().y()))
    drag(windows, edge, edge + QPoint(round(5 * windows._cell), 0))
    windows.task.wait()
    assert designer.value("jump.coyote", "Bramble") == pytest.approx(6 / 60, abs=1e-4)
    assert windows.result.lanes[1][2]["30"].window() is not None
    assert windows.result.shares[1] > share + 0.2
    designer.key(Key.Key_F7)
    overview = designer.window.overview
    moved = {drill.name for drill in overview.drills if overview.cards.content_of(drill).flagged}
    assert moved == {"Gutter's edge"}


def test_4_find_the_two_numbers_that_matter_and_values_that_meet_two_targets(designer):
    designer.drill("Turn on the jetty")
    designer.target("turn_time", "Wren", "0.3…0.34")
    designer.target("turn_overshoot", "Wren", "<= 0.55")
    weight = designer.survey("Sensitivity")
    assert weight.result.sensitivities.measure.id == "turn_time"
    heaviest = [each.parameter.id for each in weight.result.sensitivities.order if each.share is not None][:2]
    assert set(heaviest) == {"drive.acceleration", "drive.top_speed"}
    # Half a turn by a ramp takes 2 v / a: 1% of either number is 1% of the time.
    for each in weight.result.sensitivities.order:
        if each.parameter.id in heaviest:
            assert abs(each.share) == pytest.approx(0.01, rel=0.05)
    chart = designer.survey("Map")
    assert {chart.result.x.id, chart.result.y.id} == set(heaviest)
    assert len(chart._letters(chart.scales)) == 2
    rows, columns = np.nonzero(chart.result.allowed)
    middle = len(rows) // 2
    at = chart.scales.point(float(chart.result.across[columns[middle]]), float(chart.result.up[rows[middle]]))
    QTest.mouseClick(chart, Qt.MouseButton.LeftButton, pos=at.toPoint())
    designer.window.study_runs.judge_now()
    assert designer.window.study_runs.first_missed is None
    assert 0.3 <= designer.read("turn_time", "Wren") <= 0.34


def test_5_stop_the_body_from_hopping_down_a_ramp(designer):
    designer.drill("Fish steps")
    name = designer.session.tunes[0][1].name
    designer.set("slope.ground_snap", name, "0")
    trace = designer.trace(name)
    hops = len(trace.rows_with(LEAVE))
    assert hops > 1
    row = int(trace.rows_with(LEAVE)[0])
    designer.session.set_cursor(row)
    designer.key(Key.Key_E)
    designer.window.page.explaining.refresh()
    messages = " ".join(words for column in designer.window.page.explaining.columns for words in column.words)
    assert "leaves the slope" in messages
    assert "ground snap is 0 u" in messages
    designer.set("slope.ground_snap", name, "0.25")
    assert len(designer.trace(name).rows_with(LEAVE)) < hops


def test_6_compare_three_cameras_at_walking_and_full_speed(designer):
    designer.drill("Quay sprint")
    for number, (follow, ahead) in enumerate((("ease", "0"), ("ease", "0.4"), ("constant", "0.4"))):
        designer.in_column("Wren")
        designer.key(Key.Key_D, CTRL)
        name = designer.session.tunes[1][1].name
        designer.set("camera.follow", name, follow)
        designer.set("camera.look_ahead", name, ahead)
        new = f"Wren {number}"
        designer.session.alter("A name", lambda study, old=name, new=new: _renamed(study, old, new))
    far = [designer.read("camera_distance", f"Wren {number}") for number in range(3)]
    # An ease that covers the share k of the gap per tick lags a steady run by (1 - k) / k ticks; one that looks 0.4 s
    # ahead leads by 3 u less that lag; either may be off by half of its window.
    k = 1 - math.exp(-float(designer.value("camera.follow_rate", "Wren 0")) / 60)
    lag = 7.5 / 60 * (1 - k) / k
    waits = float(designer.value("camera.window_width", "Wren 0")) / 2
    assert far[0] == pytest.approx(lag + waits, rel=0.05)
    assert far[1] == pytest.approx(3.0 - lag - waits, rel=0.05)


def test_7_double_the_size_of_the_guard(designer):
    designer.guard()
    before = designer.trace("Guard")
    height = designer.read("jump_height", "Guard")
    air = designer.read("time_to_apex", "Guard")
    study = resized(designer.session.study, 2.0, Scope.STUDY)
    designer.session.edit("Twice the size", study)
    assert designer.read("jump_height", "Guard") == pytest.approx(2 * height)
    assert designer.read("time_to_apex", "Guard") == pytest.approx(air)
    after = designer.trace("Guard")
    assert after["y"] == pytest.approx(2 * before["y"], abs=1e-9)
    key(designer.window, Key.Key_Z, CTRL)
    assert designer.read("jump_height", "Guard") == pytest.approx(height)


def test_8_somebody_else_reads_the_decisions_later(designer, tmp_path):
    designer.guard()
    designer.target("jump_height", "Guard", ">= 1.35")
    note = "Heavy: stops late, jumps low. Agreed with the harbour team."
    designer.patch.setattr(QInputDialog, "getMultiLineText", lambda *_, **__: (note, True))
    designer.patch.setattr(QInputDialog, "getText", lambda *_, **__: ("First guard", True))
    designer.key(Key.Key_I, CTRL)
    designer.key(Key.Key_M, CTRL)
    designer.key(Key.Key_A, CTRL | SHIFT)
    QTest.keyClicks(designer.window.side_windows.decided.notes, "Guard for quay 3.")
    designer.window.side_windows.decided.close()
    designer.window.activateWindow()
    QApplication.processEvents()
    gravity = designer.value("gravity.gravity", "Guard")
    designer.set("gravity.gravity", "Guard", "40")
    path = tmp_path / "guard.json"
    designer.patch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(path), ""))
    designer.key(Key.Key_S, CTRL)
    assert path.exists()

    # Somebody else opens the study.
    window = designer.window
    window.documents.open_file(path)
    window.study_runs.judge_now()
    assert window.study_runs.words == "1 of 1 missed"
    designer.key(Key.Key_A, CTRL | SHIFT)
    decided = window.side_windows.decided
    assert decided.notes.toPlainText() == read_study(path).notes == "Guard for quay 3."
    messages = {child.data(0, USER): child.text(1) for _, child in leaves(decided.list)}
    assert messages["tune", "Guard"] == note
    target = messages["target", "Tap and hold", "Guard", "jump_height"]
    assert target.startswith("Jump height should be ≥ 1.35 u; ")
    assert target.endswith("u too low")
    assert messages["milestone", ""] == f"Guard: Gravity {gravity:g} → 40."
    # Go to the missed target.
    designer.drill("Start and stop")
    row = next(child for _, child in leaves(decided.list) if child.data(0, USER)[0] == "target")
    decided.list.setCurrentItem(row)
    decided.go_to_chosen()
    assert designer.session.drill.name == "Tap and hold"
    assert designer.session.lit == ("Guard", "jump_height")
