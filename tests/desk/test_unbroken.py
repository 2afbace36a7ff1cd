"""What an attack on the window has found stays mended: edits that could not be read again, undo in a drag, numbers in other languages."""

import gc

import pytest
from PySide6.QtCore import QLocale, QObject, QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from cinetica.desk.hand_over import HandOver
from cinetica.desk.rates import Rates
from cinetica.desk.widgets import NumberBox, number_of
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import parse_study, read_study, study_text
from cinetica.model import editing
from cinetica.model.tune import parameter_by_id
from tests.desk.painted import settle

GRAVITY = parameter_by_id("gravity.gravity")


def test_a_remedy_can_be_taken_undone_and_taken_again(window):
    window.session.load(shipped_study("pitfalls"), None)
    window.session.choose_drill("Blend by the tick")
    tune = window.session.study.tune("Blend by the tick")
    rates = Rates(window.session, tune, window)
    rates.show()
    for _ in range(6):
        before = window.session.study
        assert rates.buttons[0].isVisible()
        QTest.mouseClick(rates.buttons[0], Qt.MouseButton.LeftButton)
        assert window.session.study != before
        window.session.undo()
        QApplication.processEvents()
        assert window.session.study == before
    rates.close()


@pytest.mark.parametrize("letters", [150, 196, 200])
def test_whatever_is_made_of_a_long_name_can_be_read_again(window, letters):
    session, name = window.session, "W" * letters
    assert session.alter("Rename", lambda study: editing.renamed_tune(study, "Wren", name))
    for _ in range(2):
        session.alter("Duplicate", lambda study: editing.duplicated(study, name))
    session.alter("Snapshot", lambda study: editing.with_snapshot(study, name))
    session.alter("Milestone", lambda study: editing.with_milestone(study, "m" * letters, "2026-03-01T10:00:00+00:00"))
    session.alter("Back", lambda study: editing.brought_back(study, "m" * letters, name))
    drill = session.study.drills[0].name
    session.alter("Rename drill", lambda study: editing.renamed_drill(study, drill, "d" * letters))
    for _ in range(3):
        session.alter("Copy", lambda study: editing.duplicated_drill(study, "d" * letters))
    assert len(session.study.tunes) >= 6
    assert parse_study(study_text(session.study).encode(), "study") == session.study


def test_what_could_not_be_read_again_is_refused_and_changes_nothing(window):
    before, said = window.session.study, []
    window.session.refused.connect(said.append)
    tune = before.tune("Wren")
    long = tune.model_copy(update={"name": "x" * 300})
    assert not window.session.alter("Too long", lambda study: study.with_tune(long, instead_of="Wren"))
    assert not window.session.alter("Twice", lambda study: study.model_copy(update={"tunes": (*study.tunes, tune)}))
    window.session.edit("Too long", before.with_tune(long, instead_of="Wren"))
    assert window.session.study is before
    assert len(said) == 3
    assert "name" in said[0]


def test_undo_in_the_middle_of_a_drag_ends_it_and_takes_it_back(window, hand):
    opened = window.session.study
    hand.drag("gravity.gravity", "Wren", 20)
    hand.drag("drive.top_speed", "Wren", 20, release=False)
    window.actions_by_name["undo"].trigger()
    assert hand.value("drive.top_speed", "Wren") == 7.5
    # The mouse is still down: what it does now moves nothing.
    port = hand.view.viewport()
    QTest.mouseMove(port, hand.spot("drive.top_speed", "Wren") + QPoint(50, 0))
    hand.release()
    assert hand.value("drive.top_speed", "Wren") == 7.5
    while window.session.undo_stack.canUndo():
        window.session.undo()
    assert window.session.study == opened
    window.session.redo()
    assert hand.value("gravity.gravity", "Wren") != 42.0


def test_undo_in_the_middle_of_a_press_ends_it(window):
    window.session.choose_drill("Rooftop hop")
    settle()
    opened, lanes = window.session.study, window.page.hands
    start = lanes.spot_of("jump", 60)
    QTest.mousePress(lanes, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    for moved in (10, 20, 40):
        QTest.mouseMove(lanes, start + QPoint(moved, 0))
        settle()
    window.session.undo()
    QTest.mouseRelease(lanes, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start + QPoint(50, 0))
    while window.session.undo_stack.canUndo():
        window.session.undo()
    assert window.session.study == opened


NUMBERS = {"32.5": 32.5, "32,5": 32.5, "−3": -3.0, "1e3": 1000.0, ".5": 0.5, "1.000,5": None, "": None, "٣": None, "nan": None}


@pytest.mark.parametrize(("text", "number"), NUMBERS.items())
def test_full_stop_and_comma_are_both_a_decimal_mark(text, number):
    assert number_of(text) == number


@pytest.mark.parametrize("language", ["de_DE", "fr_FR", "tr_TR", "ar_EG", "C"])
def test_what_a_box_shows_reads_back_as_itself_on_every_desktop(qtbot, language):
    usual = QLocale()
    QLocale.setDefault(QLocale(language))
    try:
        box = NumberBox()
        qtbot.addWidget(box)
        box.setDecimals(6)
        box.setRange(1e-6, 1e6)
        box.setSuffix(" u")
        box.show()
        for typed, expected in (("32.5", 32.5), ("32,5", 32.5), ("1234.25", 1234.25)):
            box.lineEdit().selectAll()
            QTest.keyClicks(box.lineEdit(), typed)
            QTest.keyClick(box.lineEdit(), Qt.Key.Key_Return)
            assert box.value() == expected
            box.clearFocus()
            box.interpretText()
            assert box.value() == expected
    finally:
        QLocale.setDefault(usual)


def alive(kind):
    gc.collect()
    return sum(isinstance(each, kind) for each in gc.get_objects())


def test_dialogs_and_sizes_of_text_leave_nothing_behind(window, monkeypatch):
    monkeypatch.setattr(HandOver, "exec", lambda _: 0)
    window.actions_by_name["hand_over"].trigger()
    settle()
    QApplication.sendPostedEvents(None, 52)
    widgets, objects = len(window.findChildren(QWidget)), len(window.findChildren(QObject))
    for _ in range(5):
        window.actions_by_name["hand_over"].trigger()
        settle()
        QApplication.sendPostedEvents(None, 52)
    assert alive(HandOver) == 0
    assert len(window.findChildren(QWidget)) == widgets
    assert len(window.findChildren(QObject)) == objects
    from cinetica.desk.compare.comparing import Comparing

    before = alive(Comparing)
    for scale in (1.3, 1.0, 1.3, 1.0):
        window.set_text_size(scale)
        settle()
        QApplication.sendPostedEvents(None, 52)
    assert alive(Comparing) == before


def test_a_save_that_could_not_be_opened_again_leaves_the_old_file(tmp_path, monkeypatch):
    from cinetica.files import study_json

    path = tmp_path / "study.json"
    study = shipped_study("harbour")
    study_json.write_study(study, path)
    broken = study.model_copy(update={"name": "x" * 300})
    with pytest.raises(OSError, match="read again"):
        study_json.write_study(broken, path)
    assert read_study(path) == study
