"""Faults found by attacking the window: edits that cannot be read again, undo during a drag, other locales."""

import gc
import sys

import pytest
from PySide6.QtCore import QLocale, QObject, QPoint, Qt
from PySide6.QtGui import QTextDocument
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox, QWidget

from cinetica.desk.dialogs.hand_over import HandOver
from cinetica.desk.dialogs.rates import Rates
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
def test_files_made_from_long_names_can_be_read_again(window, letters):
    session, name = window.session, "W" * letters
    assert session.alter("Rename", lambda study: editing.renamed_tune(study, "Wren", name))
    for _ in range(2):
        session.alter("Duplicate", lambda study: editing.duplicated(study, name))
    session.alter("Snapshot", lambda study: editing.with_snapshot(study, name))
    session.alter("Milestone", lambda study: editing.with_milestone(study, "m" * letters, "2026-03-01T10:00:00+00:00"))
    session.alter("Back", lambda study: editing.with_restored_tune(study, "m" * letters, name))
    drill = session.study.drills[0].name
    session.alter("Rename drill", lambda study: editing.renamed_drill(study, drill, "d" * letters))
    for _ in range(3):
        session.alter("Copy", lambda study: editing.duplicated_drill(study, "d" * letters))
    assert len(session.study.tunes) >= 6
    assert parse_study(study_text(session.study).encode(), "study") == session.study


def test_edits_that_could_not_be_read_again_are_refused(window):
    before, messages = window.session.study, []
    window.session.refused.connect(messages.append)
    tune = before.tune("Wren")
    long = tune.model_copy(update={"name": "x" * 300})
    assert not window.session.alter("Too long", lambda study: study.with_tune(long, instead_of="Wren"))
    assert not window.session.alter("Twice", lambda study: study.model_copy(update={"tunes": (*study.tunes, tune)}))
    window.session.edit("Too long", before.with_tune(long, instead_of="Wren"))
    assert window.session.study is before
    assert len(messages) == 3
    assert "name" in messages[0]


def test_undo_during_a_drag_ends_and_reverts_it(window, hand):
    opened = window.session.study
    hand.drag("gravity.gravity", "Wren", 20)
    hand.drag("drive.top_speed", "Wren", 20, release=False)
    window.actions_by_name["undo"].trigger()
    assert hand.value("drive.top_speed", "Wren") == 7.5
    # The button is still pressed: moving the mouse changes nothing.
    port = hand.view.viewport()
    QTest.mouseMove(port, hand.spot("drive.top_speed", "Wren") + QPoint(50, 0))
    hand.release()
    assert hand.value("drive.top_speed", "Wren") == 7.5
    while window.session.undo_stack.canUndo():
        window.session.undo()
    assert window.session.study == opened
    window.session.redo()
    assert hand.value("gravity.gravity", "Wren") != 42.0


def test_undo_while_a_press_is_dragged_ends_the_drag(window):
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


NUMBERS = {
    "32.5": 32.5,
    "32,5": 32.5,
    "−3": -3.0,
    "1e3": 1000.0,
    ".5": 0.5,
    "1.000,5": None,
    "": None,
    "٣": None,
    "nan": None,
}


@pytest.mark.parametrize(("text", "number"), NUMBERS.items())
def test_full_stop_and_comma_are_both_a_decimal_mark(text, number):
    assert number_of(text) == number


@pytest.mark.parametrize("language", ["de_DE", "fr_FR", "tr_TR", "ar_EG", "C"])
def test_spin_boxes_read_back_their_text_in_every_locale(qtbot, language):
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
    return sum(issubclass(type(each), kind) for each in gc.get_objects())


@pytest.mark.thorough
def test_dialogs_and_text_sizes_leak_no_objects(window, monkeypatch):
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
    from cinetica.desk.compare.overlay import Comparing

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


# User text and names


def test_html_in_names_is_shown_as_typed(window):
    name = "<b>Wren</b> <img src=x>"
    session = window.session
    assert session.alter("Rename", lambda study: editing.renamed_tune(study, "Wren", name))
    drill = session.drill
    session.set_drill("Note", drill.model_copy(update={"note": "<h1>Loud</h1>"}))
    session.edit("Name", session.study.model_copy(update={"name": "<i>Harbour</i>"}))
    settle()
    assert window.page.note.textFormat() == Qt.TextFormat.PlainText
    head = window.sheet.view.sheet.headerData(2, Qt.Orientation.Horizontal, 3)
    tips = [window.page.note.toolTip(), window.header.study_name.toolTip(), window.header.drills.toolTip(), head]
    for tip, typed in zip(tips, ["<h1>Loud</h1>", "<i>Harbour</i>", "<h1>Loud</h1>", name], strict=True):
        read = QTextDocument()
        read.setHtml(tip)
        assert typed in read.toPlainText()
    box = window.documents.box(QMessageBox.Icon.Question, "?", name)
    assert box.textFormat() == Qt.TextFormat.PlainText
    box.deleteLater()


def chosen_in_the_dialog(monkeypatch, path):
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))


def test_a_name_without_its_ending_asks_before_overwriting(window, monkeypatch, tmp_path):
    there = tmp_path / "quay.json"
    there.write_text("precious")
    asked, answers = [], [1, 0]
    monkeypatch.setattr(
        window.documents, "ask", lambda title, question, *choices: asked.append(question) or answers.pop(0)
    )
    chosen_in_the_dialog(monkeypatch, tmp_path / "quay")
    assert not window.documents.save_as()
    assert there.read_text() == "precious"
    assert window.documents.save_as()
    assert read_study(there) == window.session.study
    assert (tmp_path / "quay.json~").read_text() == "precious"
    assert len(asked) == 2
    assert "quay.json already exists" in asked[0]


@pytest.mark.parametrize("letters", ["w" * 300, "ü" * 140, "w" * 250])
def test_a_name_too_long_for_the_folder_is_reported_and_a_shorter_one_offered(window, monkeypatch, tmp_path, letters):
    asked, answers = [], [1, 0]
    monkeypatch.setattr(
        window.documents, "ask", lambda title, question, *choices: asked.append(question) or answers.pop(0)
    )
    chosen_in_the_dialog(monkeypatch, tmp_path / f"{letters}.json")
    assert not window.documents.save_as()
    assert list(tmp_path.iterdir()) == []
    assert window.documents.save_as()
    # Saving again keeps the earlier version.
    window.session.set_value(window.session.study.tunes[0], GRAVITY, 41.0)
    assert window.documents.save()
    names = sorted(path.name for path in tmp_path.iterdir())
    assert len(names) == 2
    assert names[1] == f"{names[0]}~"
    assert letters.startswith(names[0].removesuffix(".json"))
    assert read_study(tmp_path / names[0]) == window.session.study
    assert "too long for this folder" in asked[0]


def test_a_folded_part_is_not_exported(window, tmp_path, monkeypatch):
    messages = []
    window.session.refused.connect(messages.append)
    monkeypatch.setattr(window.exchange, "ask_where", lambda *_: tmp_path / "a.png")
    window.page.bar.explain.setChecked(True)
    settle()
    window.page.stage.setFixedHeight(0)
    settle()
    window.exchange.save_picture(window.page.stage, "stage")
    assert "is folded" in messages[0]
    assert list(tmp_path.iterdir()) == []


def test_the_frame_cursor_can_move_while_a_tune_is_removed(window):
    window.session.choose_drill("Rooftop hop")
    messages = []
    # The first listener moves the cursor before the marks have been read again.
    window.session.study_changed.connect(
        lambda: (window.session.set_cursor(20), messages.append(window.page.transport.next.text()))
    )
    for name in [tune.name for tune in window.session.study.tunes if tune.view == "side"]:
        window.session.alter("Remove", lambda study, name=name: editing.without_tune(study, name))
        settle()
    assert messages
    assert window.page.transport.next.text() == ""


def test_play_opens_where_pads_cannot_be_read(window, monkeypatch):
    monkeypatch.setitem(sys.modules, "evdev", None)
    monkeypatch.delitem(sys.modules, "cinetica.desk.play.pad", raising=False)
    monkeypatch.setattr(window.play.pads, "find", None)
    window.show_page("play_page")
    assert "Game pads cannot be read here" in window.play.pads.words
