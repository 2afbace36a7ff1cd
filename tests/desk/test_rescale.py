"""Rescaling through the dialog; figures in bodies; rates typed as shares."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialogButtonBox

from cinetica.desk.dialogs.rescale import RescaleDialog
from cinetica.model.rescaling import Scope
from cinetica.model.tune import parameter_by_id
from tests.desk.conftest import key


@pytest.fixture
def dialog(window, qtbot):
    made = RescaleDialog(window.session, window.session.study.tune("Wren"), Scope.STUDY, window)
    qtbot.addWidget(made)
    made.show()
    return made


def typed(box, text):
    box.setFocus()
    box.selectAll()
    QTest.keyClicks(box, text)
    QTest.keyClick(box, Qt.Key.Key_Tab)


def test_rescaled_by_a_factor_or_to_a_wanted_length(window, dialog):
    change = dialog.answers.button(QDialogButtonBox.StandardButton.Ok)
    assert not change.isEnabled()
    typed(dialog.factor, "2")
    assert dialog.becomes.value() == pytest.approx(3.2)
    typed(dialog.becomes, "51.2")
    assert dialog.factor.value() == pytest.approx(32)
    assert "Top speed: 7.5 → 240 u/s" in dialog.preview.text()
    change.click()
    study = window.session.study
    assert study.tune("Wren").body.height == pytest.approx(51.2)
    assert study.drill("Rooftop hop").course.solids[0].right == pytest.approx(192)
    window.session.undo()
    assert window.session.study.tune("Wren").body.height == 1.6


def test_rescaling_only_the_world_keeps_the_numbers(window, dialog):
    dialog.scope.setCurrentIndex(dialog.scope.findData(Scope.WORLD))
    typed(dialog.factor, "2")
    assert "7.5 u/s, stays" in dialog.preview.text()
    dialog.change()
    assert window.session.study.tune("Wren").drive.top_speed == 7.5
    assert window.session.study.tune("Bramble").body.height == pytest.approx(3.4)


def test_values_out_of_range_are_listed_and_disable_the_button(dialog):
    typed(dialog.factor, "100000")
    assert "Body width of Wren would be 80000 u" in dialog.message.text()
    assert not dialog.answers.button(QDialogButtonBox.StandardButton.Ok).isEnabled()


@pytest.mark.parametrize(("keys", "scope"), [(Qt.Key.Key_U, Scope.TUNE), ((Qt.Key.Key_U, True), Scope.STUDY)])
def test_both_menus_open_it_for_their_own_subject(window, monkeypatch, keys, scope):
    opened = []
    monkeypatch.setattr("cinetica.desk.actions.commands.run", lambda dialog: opened.append(dialog.chosen) or 0)
    code, shift = keys if isinstance(keys, tuple) else (keys, False)
    modifiers = Qt.KeyboardModifier.ControlModifier
    QTest.keyClick(window, code, modifiers | Qt.KeyboardModifier.ShiftModifier if shift else modifiers)
    QApplication.processEvents()
    assert opened == [scope]


def test_figures_are_shown_and_typed_in_bodies(window, qtbot):
    window.session.choose_drill("Rooftop hop")
    figures = window.sheet.figures
    before = float(figures.cell("jump_height", "Wren").data())
    key(window, Qt.Key.Key_B)
    height = figures.cell("jump_height", "Wren")
    assert float(height.data()) == pytest.approx(before / 1.6, abs=0.006)
    assert figures.cell("jump_height", "Wren").siblingAtColumn(1).data() == "heights"
    assert figures.cell("jump_distance", "Wren").siblingAtColumn(1).data() == "widths"
    assert figures.cell("air_time", "Wren").siblingAtColumn(1).data() == "s"
    figures.type_into(height, "2")
    QApplication.processEvents()
    assert float(figures.cell("jump_height", "Wren").data()) == pytest.approx(2, abs=0.01)
    figures.type_into(figures.cell("jump_height", "Wren"), "high")
    assert "in heights" in window.sheet.foot.text()
    key(window, Qt.Key.Key_B)
    assert float(figures.cell("jump_height", "Wren").data()) == pytest.approx(3.2, abs=0.02)


def test_a_rate_is_typed_as_a_share_per_tick(window):
    session, view = window.session, window.sheet.view
    wren = session.study.tune("Wren")
    session.set_value(wren, parameter_by_id("drive.law"), "ease")
    rate = view.cell("drive.rate", "Wren")
    view.type_into(rate, "20%")
    assert session.study.tune("Wren").drive.rate == pytest.approx(13.3886131)
    assert "20% of the gap in a tick at 60 per second" in rate.data(Qt.ItemDataRole.ToolTipRole)
    session.set_value(session.study.tune("Wren"), parameter_by_id("drive.form"), "linear")
    view.type_into(view.cell("drive.rate", "Wren"), "20%")
    assert session.study.tune("Wren").drive.rate == pytest.approx(12)
    session.set_value(session.study.tune("Wren"), parameter_by_id("drive.form"), "exact")
    view.type_into(view.cell("drive.rate", "Wren"), "100%")
    assert "infinite rate" in window.sheet.foot.text()
    assert session.study.tune("Wren").drive.rate == pytest.approx(12)
