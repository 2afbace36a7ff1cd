"""History, settings, the log and the error dialog."""

import logging
import sys

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QCursor, QGuiApplication, QKeySequence, QTextCursor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog, QToolButton

from cinetica.desk import application, look
from cinetica.desk.application import Windows
from cinetica.desk.dialogs import crash_report
from cinetica.desk.dialogs.crash_report import CrashDialog, CrashHandler, save_copies
from cinetica.desk.dialogs.hand_over import HandOver
from cinetica.desk.dialogs.history import History
from cinetica.desk.dialogs.import_log import ImportLog
from cinetica.desk.dialogs.preferences import Preferences
from cinetica.desk.dialogs.rates import Rates
from cinetica.desk.dialogs.rescale import RescaleDialog
from cinetica.desk.preparation import Preparation, PreparationBar
from cinetica.desk.state.settings import Settings
from cinetica.desk.widgets import leaves
from cinetica.files.app_folders import log_file
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import read_study
from cinetica.model import editing
from cinetica.model.editing import with_tune_note
from cinetica.model.rescaling import Scope
from cinetica.model.tune import parameter_by_id
from cinetica.reading.reader import READER
from tests.desk.conftest import key

GRAVITY = parameter_by_id("gravity.gravity")


def set_gravity(window, value) -> None:
    window.session.set_value(window.session.study.tune("Wren"), GRAVITY, float(value))


def gravity(window) -> float:
    return window.session.study.tune("Wren").gravity.gravity


# History


@pytest.fixture
def history(window, qtbot):
    dialog = History(window.session, window)
    qtbot.addWidget(dialog)
    dialog.show()
    return dialog


def test_the_history_names_every_edit_and_goes_back_to_any(window, history):
    set_gravity(window, 30)
    window.commands.duplicate()
    window.commands.hide()
    window.session.set_clock(window.session.study.clock.model_copy(update={"tick_rate": 30.0}), "Tick rate")
    stack = window.session.undo_stack
    assert [stack.command(place).actionText() for place in range(stack.count())] == [
        "Gravity of Wren", "Duplicate Wren", "Tick rate",
    ]  # fmt: skip
    model = history.edits.model()
    assert [model.index(row, 0).data() for row in range(model.rowCount())] == [
        "As opened",
        "Gravity of Wren 42 → 30",
        "Duplicate Wren",
        "Tick rate 60 → 30",
    ]
    history.edits.setCurrentIndex(model.index(0, 0))
    assert gravity(window) == 42
    assert window.session.study == shipped_study("harbour")


def test_a_milestone_is_named_kept_and_restored(window, history):
    history.name.setText("before the gravity change")
    QTest.keyClick(history.name, Qt.Key.Key_Return)
    set_gravity(window, 20)
    item = history.milestones.topLevelItem(0).child(0)
    item.setSelected(True)
    assert history.chosen == ("before the gravity change", "Wren")
    QTest.mouseClick(history.back, Qt.MouseButton.LeftButton)
    study = window.session.study
    assert study.tune("Wren, before the gravity change").gravity.gravity == 42
    assert gravity(window) == 20
    assert [tune.name for _, tune in window.session.tunes][:2] == ["Wren", "Wren, before the gravity change"]


def test_milestones_are_renamed_and_removed_and_their_names_checked(window, history, monkeypatch):
    messages = []
    window.session.refused.connect(messages.append)
    for _ in range(2):
        history.name.setText("morning")
        history.add()
    assert "already a milestone" in messages[0]
    history.milestones.topLevelItem(0).setSelected(True)
    assert not history.back.isEnabled()
    monkeypatch.setattr("cinetica.desk.dialogs.history.QInputDialog.getText", lambda *_, **__: ("noon", True))
    history.rename_chosen()
    assert window.session.study.milestones[0].name == "noon"
    history.milestones.topLevelItem(0).setSelected(True)
    history.remove_chosen()
    assert window.session.study.milestones == ()
    assert "No milestones yet" in history.milestones.topLevelItem(0).text(0)


def test_a_milestone_by_key(window, monkeypatch):
    monkeypatch.setattr(window.commands, "ask", lambda *_, **__: "before lunch")
    window.actions_by_name["milestone"].trigger()
    assert window.session.study.milestones[0].name == "before lunch"
    monkeypatch.setattr(window.commands, "ask", lambda *_, **__: None)
    window.actions_by_name["milestone"].trigger()
    assert len(window.session.study.milestones) == 1


# Settings


def settled(window, qtbot) -> Preferences:
    dialog = Preferences(window.actions_by_name, False, 1.0, 2, window)
    dialog.look_changed = lambda night: window.set_look(look.NIGHT if night else look.DAY)
    dialog.scale_changed = window.set_text_size
    dialog.kept_after_changed = window.set_kept_after
    qtbot.addWidget(dialog)
    dialog.show()
    return dialog


def test_pale_curves_are_not_mentioned_while_a_drag_moves_no_curve(window):
    """Nobody jumps on the quay, so dragging gravity moves no curve until a drill with a jump is shown."""
    session = window.session
    wren = session.tunes[0][1]
    for drill, words in (("Quay sprint", ""), ("Rooftop hop", f"before “Gravity of {wren.name}”")):
        session.choose_drill(drill)
        session.begin(f"Gravity of {wren.name}")
        session.set_value(session.study.tune(wren.name), GRAVITY, session.study.tune(wren.name).gravity.gravity + 5)
        assert session.wake_words == words
        assert window.page.transport.wake.isHidden() is not bool(words)
        session.end()


def test_notes_are_one_edit_names_are_checked_and_rows_open_their_item(window, monkeypatch):
    session = window.session
    key(window, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    decided, before = window.side_windows.decided, session.study
    assert session.study is before
    edits = session.undo_stack.count()
    decided.notes.moveCursor(QTextCursor.MoveOperation.End)
    QTest.keyClicks(decided.notes, " Agreed in May.")
    assert session.study.notes == f"{before.notes} Agreed in May."
    assert session.undo_stack.count() == edits + 1
    session.undo()
    assert session.study.notes == decided.notes.toPlainText() == before.notes
    decided.name.setText("   ")
    decided.name.editingFinished.emit()
    assert decided.name.text() == session.study.name == before.name
    decided.name.setText("Quay 3")
    decided.name.editingFinished.emit()
    assert session.study.name == "Quay 3"
    monkeypatch.setattr(QInputDialog, "getMultiLineText", lambda *_, **__: ("Look at frame 9", True))
    for kind in ("tune", "drill"):
        row = next(child for _, child in leaves(decided.list) if child.data(0, Qt.ItemDataRole.UserRole)[0] == kind)
        decided.list.setCurrentItem(row)
        decided.open_chosen()
    assert session.study.tunes[0].note == session.study.drills[0].note == "Look at frame 9"


def test_opening_notes_changes_nothing(window):
    session = window.session
    session.alter("Notes", lambda study: study.model_copy(update={"notes": "One\r\ntwo\u00a0three\u2029four"}))
    before, edits = session.study, session.undo_stack.count()
    for _ in range(2):
        key(window, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        window.side_windows.decided.close()
    assert session.study is before
    assert session.undo_stack.count() == edits


def test_a_long_note_is_wrapped_and_shown_whole(window, qtbot):
    note = "Heavy, and slow to turn round. " * 20
    window.session.alter("Note", lambda study: with_tune_note(study, "Bramble", note))
    key(window, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    shown = window.side_windows.decided.list
    rows = {child.text(0): shown.visualItemRect(child).height() for _, child in leaves(shown)}
    line, words = shown.fontMetrics().height(), shown.fontMetrics().horizontalAdvance(note)
    assert rows["Bramble"] >= line * (words // shown.columnWidth(1))
    assert rows["Wren"] < 2 * line


def test_appearance_text_size_and_autosave_apply_at_once(window, qtbot):
    dialog = settled(window, qtbot)
    dialog.look.setCurrentIndex(1)
    dialog.look.activated.emit(1)
    assert look.palette() is look.NIGHT
    dialog.scale.setCurrentIndex(2)
    dialog.scale.activated.emit(2)
    assert window.text_scale == look.TEXT_SCALES[2]
    window.set_text_size(1.0)
    dialog.kept_after.setValue(4)
    assert window.documents.file.wait.interval() == 4000
    window.set_look(look.DAY)


@pytest.mark.parametrize("inside", [True, False])
def test_a_button_is_highlighted_after_its_menu_only_under_the_pointer(window, inside):
    opener = next(each for each in window.header.findChildren(QToolButton) if each.text() == "&Edit")
    opener.setAttribute(Qt.WidgetAttribute.WA_UnderMouse)
    opener.menu().popup(opener.mapToGlobal(opener.rect().bottomLeft()))
    place = opener.rect().center() if inside else opener.rect().bottomRight() * 3
    QCursor.setPos(opener.mapToGlobal(place))
    opener.menu().close()
    assert opener.underMouse() == inside


def test_a_window_opens_with_the_focus_in_the_sheet(window):
    """A focused menu looks selected, and arrow keys would move along the header."""
    window.activateWindow()
    assert window.focusWidget() is window.sheet.view
    QTest.keyClick(window.focusWidget(), Qt.Key.Key_Down)
    assert window.sheet.view.currentIndex().isValid()


def test_changing_the_text_size_keeps_the_focus_and_clears_highlights(window, qtbot):
    """The header is rebuilt: the focus returns to the same button, and none is highlighted."""
    window.activateWindow()
    QCursor.setPos(0, 0)
    menu = next(each for each in window.header.findChildren(QToolButton) if each.text() == "&Edit")
    menu.setFocus()
    for name in ("larger", "smaller"):
        # Qt leaves a button in this state if it is laid out under a resting mouse.
        button = next(each for each in window.header.findChildren(QToolButton) if each.text() == "Play")
        button.setAttribute(Qt.WidgetAttribute.WA_UnderMouse)
        window.actions_by_name[name].trigger()
        made = next(each for each in window.header.findChildren(QToolButton) if each.text() == "Play")
        assert made is not button
        made.setAttribute(Qt.WidgetAttribute.WA_UnderMouse)
        qtbot.waitUntil(lambda made=made: not made.underMouse())
        assert window.focusWidget().text() == "&Edit"


def test_a_key_is_changed_refused_if_taken_and_reset(window, qtbot):
    dialog = settled(window, qtbot)
    dialog.choose("night")
    dialog.edit.setKeySequence(QKeySequence("Ctrl+Alt+J"))
    dialog.take()
    assert window.actions_by_name["night"].shortcut().toString() == "Ctrl+Alt+J"
    dialog.edit.setKeySequence(QKeySequence("Ctrl+S"))
    dialog.take()
    assert "already means “save the study”" in dialog.message.text()
    assert window.actions_by_name["night"].shortcut().toString() == "Ctrl+Alt+J"
    dialog.edit.setKeySequence(QKeySequence("3"))
    dialog.take()
    assert "show or hide a tune" in dialog.message.text()
    dialog.reset_all()
    assert window.actions_by_name["night"].shortcut().toString() == "F9"


def test_changed_keys_survive_a_restart(open_window, qtbot, tmp_path):
    window = open_window(settings=Settings(tmp_path / "settings.ini"))
    dialog = settled(window, qtbot)
    dialog.choose("explain")
    dialog.set_keys(("Ctrl+Alt+J",))
    dialog.choose("loop")
    dialog.set_keys(())
    window.close()
    again = open_window(settings=Settings(tmp_path / "settings.ini"))
    assert again.actions_by_name["explain"].shortcut().toString() == "Ctrl+Alt+J"
    assert again.actions_by_name["loop"].shortcuts() == []
    again.close()


# Errors


def test_an_error_is_logged_and_reported_and_the_study_is_saved_as_a_copy(window, monkeypatch, qtbot):
    crash_report.start_log()
    shown = []
    monkeypatch.setattr(CrashDialog, "exec", lambda dialog: shown.append(dialog))
    set_gravity(window, 33)
    hook = CrashHandler(lambda: [window.session.study])
    try:
        raise RuntimeError("the jetty was removed")
    except RuntimeError as error:
        hook(type(error), error, error.__traceback__)
    (dialog,) = shown
    text = dialog.text.toPlainText()
    assert "the jetty was removed" in text
    assert "test_around.py" in text
    for handler in logging.getLogger("cinetica").handlers:
        handler.flush()
    assert "the jetty was removed" in log_file().read_text()
    aside = [
        path for path in (log_file().parent / "aside").iterdir() if read_study(path).tune("Wren").gravity.gravity == 33
    ]
    assert aside
    assert any(str(path) in label.text() for path in aside for label in dialog.findChildren(crash_report.PlainLabel))


def test_the_log_is_opened_with_its_first_line(monkeypatch, tmp_path):
    monkeypatch.setattr(crash_report, "qInstallMessageHandler", lambda handler: None)
    monkeypatch.setattr(crash_report, "log_file", lambda: tmp_path / "cinetica.log")
    monkeypatch.setattr(crash_report.log, "handlers", [])
    crash_report.start_log()
    assert not list(tmp_path.iterdir())
    for words in ("the quay", "the jetty"):
        crash_report.log.warning(words)
    lines = (tmp_path / "cinetica.log").read_text().splitlines()
    assert [line.rpartition(": ")[2] for line in lines] == ["the quay", "the jetty"]


def test_errors_go_to_the_terminal_if_no_log_can_be_written(monkeypatch, capsys):
    asked = []

    def nowhere():
        asked.append(None)
        raise PermissionError("no such place")

    monkeypatch.setattr(crash_report, "qInstallMessageHandler", lambda handler: None)
    monkeypatch.setattr(crash_report, "log_file", nowhere)
    monkeypatch.setattr(crash_report.log, "handlers", [])
    crash_report.start_log()
    for words in ("the quay", "the jetty"):
        crash_report.log.warning(words)
    crash_report.log.info("of no matter")
    # The file is asked for once, not for every line.
    assert len(asked) == 1
    assert capsys.readouterr().err == "the quay\nthe jetty\n"


def test_an_error_while_reporting_another_is_only_logged(monkeypatch, qapp):
    hook = CrashHandler(list)
    seen = []

    def exec_again(dialog):
        seen.append(dialog)
        hook(ValueError, ValueError("second"), None)

    monkeypatch.setattr(CrashDialog, "exec", exec_again)
    hook(ValueError, ValueError("first"), None)
    assert len(seen) == 1
    assert hook.dialog is None


def test_the_details_of_an_error_can_be_copied(qtbot, qapp):
    dialog = CrashDialog("ValueError: x", "details", [])
    qtbot.addWidget(dialog)
    copy = next(
        button for button in dialog.findChildren(crash_report.QDialogButtonBox)[0].buttons() if "Copy" in button.text()
    )
    copy.click()
    assert "details" in QGuiApplication.clipboard().text()


def test_ctrl_c_in_the_terminal_quits(monkeypatch, qapp):
    ended = []
    monkeypatch.setattr(sys, "__excepthook__", lambda *error: ended.append(error[0]))
    CrashHandler(list)(KeyboardInterrupt, KeyboardInterrupt(), None)
    assert ended == [KeyboardInterrupt]


def test_a_copy_that_cannot_be_saved_is_reported(monkeypatch, qtbot, qapp):
    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(crash_report, "write_atomically", full)
    assert save_copies([shipped_study("harbour")]) == []


def test_every_page_says_at_the_first_start_what_is_being_prepared(window, qtbot):
    preparation = Preparation(window)
    window.prepare(preparation)
    for page in ("overview", "survey", "play_page", "compare"):
        window.show_page(page)
        (bar,) = window.findChildren(PreparationBar)
        qtbot.waitUntil(bar.isVisible)
        assert "compiling the motion kernel" in bar.label.text()
        assert "Curves, figures and Play follow" in bar.label.text()
    # It is still there after the text size has changed.
    window.actions_by_name["larger"].trigger()
    qtbot.waitUntil(lambda: len(window.findChildren(PreparationBar)) == 1)
    window.actions_by_name["smaller"].trigger()
    ended = []
    preparation.finished.connect(lambda: ended.append(True))
    preparation._end()
    preparation._end()
    assert ended == [True]
    qtbot.waitUntil(lambda: not window.findChildren(PreparationBar))
    window.actions_by_name["larger"].trigger()
    assert not window.findChildren(PreparationBar)
    window.actions_by_name["smaller"].trigger()


def test_at_the_first_start_curves_appear_before_figures(qtbot, monkeypatch, tmp_path):
    ready = {"curves": False, "figures": False}
    monkeypatch.setattr(application, "is_ready", ready.get)
    monkeypatch.setattr(READER, "is_ready", lambda: ready["figures"])
    monkeypatch.setattr(READER, "load", lambda: None)
    monkeypatch.setattr(Preparation, "start", lambda _: None)
    window = Windows(Settings(tmp_path / "settings.ini")).open(shipped_study("harbour"), None)
    qtbot.addWidget(window)
    session, preparation = window.session, window.preparation
    session.choose_drill("Rooftop hop")
    assert not session.shown
    preparation.announce_curves()
    assert [len(each.trace) for each in session.shown] == [161, 161]
    figures = window.sheet.figures
    assert figures.cell("jump_height", "Wren").data() in (None, "–")
    assert "Read off, Overview and Survey follow" in preparation.words
    window.show_page("survey")
    ready["figures"] = True
    preparation._end()
    window.show_page("compare")
    assert figures.cell("jump_height", "Wren").data() == "2.38"


def test_the_compiling_process_reports_curves_and_then_figures_as_ready(window, qtbot):
    preparation, messages = Preparation(window), []
    preparation.curves_ready.connect(lambda: messages.append("curves"))
    preparation.finished.connect(lambda: messages.append("all"))
    with qtbot.waitSignal(preparation.finished, timeout=60_000):
        preparation.start()
    assert messages == ["curves", "all"]


@pytest.mark.parametrize(
    ("passed", "words", "share"), [(0, "a minute", 0), (40_000, "half a minute", 66), (90_000, "soon", 95)]
)
def test_the_progress_bar_stops_short_of_its_end_if_compiling_takes_longer(window, monkeypatch, passed, words, share):
    preparation = Preparation(window)
    monkeypatch.setattr(preparation, "_since", type("Since", (), {"elapsed": lambda _: passed})())
    bar = PreparationBar(preparation, window)
    assert words in bar.label.text()
    assert bar.bar.value() == pytest.approx(share, abs=1)


@pytest.mark.parametrize("gone", ["tune", "drill"])
def test_dialogs_close_when_their_subject_is_removed(window, qtbot, tmp_path, gone):
    """A study may be reloaded, because its file has changed, while a dialog is open."""
    session = window.session
    session.choose_drill("Rooftop hop")
    tune, refused = session.study.tune("Wren"), []
    session.refused.connect(refused.append)
    text = "t,x,y\n0,0,0\n0.1,0.2,0\n0.2,0.5,0\n0.3,0.9,0\n"
    dialogs = [
        ImportLog(session, tmp_path / "log.csv", text, window), Rates(session, tune, window),
    ]  # fmt: skip
    if gone == "tune":
        dialogs += [RescaleDialog(session, tune, Scope.TUNE, window), HandOver(session, tune, window)]
    for dialog in dialogs:
        dialog.show()
    study = session.study
    without = editing.without_tune(study, "Wren") if gone == "tune" else editing.without_drill(study, "Rooftop hop")
    session.edit("Gone", without)
    assert [dialog.isVisible() for dialog in dialogs] == [False] * len(dialogs)
    assert all("was closed: what it showed is gone" in words for words in refused)
    assert len(refused) == len(dialogs)
