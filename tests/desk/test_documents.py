"""Studies as documents, in the real window."""

import os
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QMenu, QMessageBox

from cinetica.desk import application, documents
from cinetica.desk.application import Windows, start
from cinetica.desk.dialogs.recovery import LATER, OPEN, THROW_AWAY, RecoveryDialog
from cinetica.desk.state.settings import Kept, Settings
from cinetica.desk.study_file import KEPT_AFTER
from cinetica.files.app_folders import recovery_folder
from cinetica.files.atomic_write import backup_of
from cinetica.files.recovery import RecoveryFile, unsaved_studies
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import read_study, write_study
from cinetica.model.templates import TEMPLATES
from cinetica.model.tune import parameter_by_id
from tests.desk.painted import settle

SPEED = parameter_by_id("drive.top_speed")
DEMO = shipped_study("harbour")


@pytest.fixture
def kept(open_window, tmp_path):
    """A window with autosave."""
    folder = tmp_path / "recovery"
    folder.mkdir()
    return open_window(settings=Settings(tmp_path / "settings.ini"), recovery=RecoveryFile(folder))


def set_speed(window, speed) -> None:
    session = window.session
    session.set_value(session.study.tune("Wren"), SPEED, float(speed))


def speed_of(study) -> float:
    return study.tune("Wren").drive.top_speed


def saved(window, path: Path) -> Path:
    window.session.path = path
    assert window.documents.save()
    return path


# Saving and opening


def test_saving_keeps_one_backup_and_clears_the_unsaved_mark(window, tmp_path):
    path = saved(window, tmp_path / "a.json")
    set_speed(window, 9)
    assert "•" in window.windowTitle()
    window.documents.save()
    assert "•" not in window.windowTitle()
    assert (speed_of(read_study(path)), speed_of(read_study(backup_of(path)))) == (9, 7.5)


def test_an_unused_window_takes_the_study_and_others_open_a_new_window(windows, tmp_path):
    write_study(DEMO, tmp_path / "a.json")
    first = windows.open(None, None)
    first.documents.open_file(tmp_path / "a.json")
    assert len(windows.open_ones) == 1
    set_speed(first, 9)
    first.documents.open_file(tmp_path / "a.json")
    assert len(windows.open_ones) == 2
    assert speed_of(windows.open_ones[1].session.study) == 7.5
    assert speed_of(first.session.study) == 9
    assert first.documents.modified


def test_a_copied_study_is_independent(windows):
    first = windows.open(DEMO, None)
    first.documents.duplicate()
    copy = windows.open_ones[1]
    set_speed(copy, 3)
    assert speed_of(first.session.study) == 7.5
    assert copy.session.study.name == f"{first.session.study.name} copy"


def two_windows(windows):
    """Two windows on the demo study; the second shows another page and drill."""
    first = windows.open(DEMO, None)
    start(first)
    first.new_window()
    second = windows.open_ones[1]
    start(second)
    second.session.choose_drill("Rooftop hop")
    second.show_page("overview")
    settle()
    return first, second


def test_two_windows_on_one_study_follow_each_other_in_a_drag(windows):
    first, second = two_windows(windows)
    assert first.session.drill.name == "Quay sprint"
    first.session.begin("A drag")
    set_speed(first, 3)
    assert speed_of(second.session.study) == 3
    assert second.session.shown[0].tune is first.session.shown[0].tune
    assert second.session.shown[0].trace.drill.name == "Rooftop hop"
    first.session.end()
    assert [stack.count() for stack in {first.session.undo_stack, second.session.undo_stack}] == [1]
    second.session.undo()
    assert speed_of(first.session.study) == 7.5
    assert first.session.wake_words == ""


def test_a_study_closes_with_its_last_window(windows, monkeypatch):
    first, second = two_windows(windows)
    set_speed(first, 3)
    asked = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: asked.append(box) or QMessageBox.StandardButton.Discard)
    first.close()
    assert asked == []
    assert second.documents.modified
    second.documents.file.keep().result()
    path = second.documents.file.recovery.path
    assert path.exists()
    second.session.undo()
    second.session.redo()
    assert speed_of(second.session.study) == 3
    second.close()
    assert len(asked) == 1
    assert not path.exists()


def test_only_one_of_two_windows_asks_about_a_changed_file(windows, tmp_path, monkeypatch):
    write_study(DEMO, tmp_path / "a.json")
    first = windows.open(DEMO, tmp_path / "a.json")
    first.new_window()
    second = windows.open_ones[1]
    asked = []
    for window in (first, second):
        monkeypatch.setattr(window.documents, "ask", lambda *_, window=window: asked.append(window) or 0)
    write_study(DEMO.model_copy(update={"name": "Other"}), tmp_path / "a.json")
    first.documents.file._report_changed()
    assert asked == [first]
    assert second.session.study.name == "Other"
    first.close()
    write_study(DEMO, tmp_path / "a.json")
    second.documents.file._report_changed()
    assert asked == [first, second]


def test_opening_another_study_resets_the_page(window):
    window.page.comparing.set(anchor="launch", differences=True)
    window.sheet.differing.setChecked(True)
    window.sheet.search.setText("gravity")
    window.session.message.emit("Something was done.")
    window.documents.load(shipped_study("pitfalls"), None)
    assert (window.page.comparing.anchor, window.page.comparing.differences) == ("start", False)
    assert not window.sheet.differing.isChecked()
    assert window.sheet.search.text() == ""
    assert "Something" not in window.sheet.foot.text()


def test_recent_files_are_listed_newest_first_without_missing_ones(windows, tmp_path):
    window = windows.open(None, None)
    for name in "abc":
        write_study(DEMO, tmp_path / f"{name}.json")
        window.documents.load(DEMO, tmp_path / f"{name}.json")
    (tmp_path / "b.json").unlink()
    menu = QMenu()
    window.documents.fill_recent(menu)
    assert [action.text().split("  ")[1] for action in menu.actions()] == ["c.json", "a.json"]
    assert [
        path.name for path in Windows(windows.settings).settings.get(Kept.RECENT) and window.documents.recent()
    ] == ["c.json", "a.json"]


def test_a_new_study_begins_with_what_was_chosen(windows, monkeypatch):
    window = windows.open(None, None)
    monkeypatch.setattr("cinetica.desk.dialogs.new_study.NewStudy.chosen", lambda _: TEMPLATES[1])
    window.actions_by_name["new"].trigger()
    assert len(windows.open_ones) == 1
    start(window)
    assert window.session.study.tunes[0].view == "top"
    assert window.session.shown[0].trace["x"].max() > 1


def drop(window, path: Path) -> None:
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path))])
    buttons, keys = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(QPointF(400, 400).toPoint(), Qt.DropAction.CopyAction, mime, buttons, keys)
    window.dragEnterEvent(enter)
    assert enter.isAccepted()
    window.dropEvent(QDropEvent(QPointF(400, 400), Qt.DropAction.CopyAction, mime, buttons, keys))


def test_a_study_is_dropped_on_the_window(windows, tmp_path):
    write_study(DEMO, tmp_path / "a.json")
    window = windows.open(None, None)
    drop(window, tmp_path / "a.json")
    assert window.session.study == DEMO
    assert window.session.path == tmp_path / "a.json"


def test_a_bad_file_is_refused_and_what_is_here_stays(window, tmp_path, monkeypatch):
    messages = []
    monkeypatch.setattr(window.documents, "warn", lambda _, text: messages.append(text))
    (tmp_path / "bad.json").write_text('{"format": "cinetica-study", "version": 7, "name": "x"}')
    drop(window, tmp_path / "bad.json")
    assert "newer Cinetica" in messages[0]
    assert window.session.study == DEMO


def test_closing_asks_once_and_can_be_cancelled(window, monkeypatch):
    set_speed(window, 9)
    answers = [QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Discard]
    monkeypatch.setattr("cinetica.desk.documents.run", lambda *_: answers.pop(0))
    assert not window.documents.may_leave()
    assert window.documents.may_leave()


# Changed by another program


def changed_outside(window, qtbot, monkeypatch, tmp_path, answer):
    path = saved(window, tmp_path / "a.json")
    asked = []
    monkeypatch.setattr(window.documents, "ask", lambda _, question, *choices: asked.append(question) or answer)
    write_study(DEMO.with_tune(DEMO.tune("Wren").put("drive.top_speed", 4.0), instead_of="Wren"), path)
    qtbot.waitUntil(lambda: bool(asked), timeout=20_000)
    return asked[0]


def test_a_change_on_disk_is_offered_and_loaded(window, qtbot, monkeypatch, tmp_path):
    question = changed_outside(window, qtbot, monkeypatch, tmp_path, 0)
    assert "changed by another program" in question
    assert speed_of(window.session.study) == 4
    assert not window.documents.modified


def test_declining_a_change_on_disk_leaves_the_study_unsaved(window, qtbot, monkeypatch, tmp_path):
    changed_outside(window, qtbot, monkeypatch, tmp_path, 1)
    assert speed_of(window.session.study) == 7.5
    assert window.documents.modified


def test_saving_over_an_unnoticed_change_asks(window, monkeypatch, tmp_path):
    path = saved(window, tmp_path / "a.json")
    window.documents.file.watcher.removePath(str(path))
    path.write_text("something else")
    set_speed(window, 9)
    monkeypatch.setattr(window.documents, "ask", lambda *_: 1)
    assert not window.documents.save()
    assert path.read_text() == "something else"
    monkeypatch.setattr(window.documents, "ask", lambda *_: 0)
    assert window.documents.save()
    assert backup_of(path).read_text() == "something else"


def test_a_missing_file_is_reported_and_written_again(window, qtbot, tmp_path):
    path = saved(window, tmp_path / "a.json")
    messages = []
    window.session.refused.connect(messages.append)
    path.unlink()
    qtbot.waitUntil(lambda: bool(messages), timeout=20_000)
    assert "is gone" in messages[0]
    assert window.documents.modified
    assert window.documents.save()
    assert read_study(path) == window.session.study


# Autosave and recovery


def test_an_edit_is_autosaved_and_the_copy_removed_after_saving(kept, tmp_path):
    documents = kept.documents
    set_speed(kept, 9)
    assert documents.file.wait.isActive()
    assert documents.file.wait.remainingTime() <= 1000 * KEPT_AFTER[1]
    documents.file.keep().result()
    assert documents.file.recovery.path.exists()
    saved(kept, tmp_path / "a.json")
    documents.file.writer.submit(lambda: None).result()
    assert not documents.file.recovery.path.exists()


def test_a_long_drag_does_not_delay_autosave(kept):
    """The first value starts the wait; those that follow do not start it again."""
    session, documents = kept.session, kept.documents
    session.begin("Top speed of Wren")
    set_speed(kept, 8)
    documents.file.wait.setInterval(60_000)
    before = documents.file.wait.remainingTime()
    for speed in range(9, 20):
        set_speed(kept, speed)
    assert documents.file.wait.remainingTime() <= before
    documents.file.keep().result()
    session.end()


def test_a_full_disk_is_reported_and_the_study_stays(kept, qtbot, monkeypatch):
    messages = []
    kept.session.refused.connect(messages.append)

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(kept.documents.file.recovery, "keep", full)
    set_speed(kept, 9)
    kept.documents.file.keep()
    qtbot.waitUntil(lambda: bool(messages))
    assert "No space left" in messages[0]
    assert speed_of(kept.session.study) == 9


def leave(name, speed, origin=None) -> None:

    mine = RecoveryFile(recovery_folder())
    study = DEMO.with_tune(DEMO.tune("Wren").put("drive.top_speed", float(speed)), instead_of="Wren")
    mine.keep(study.model_copy(update={"name": name}), origin)
    os.close(mine.lock)


@pytest.fixture
def crashed(tmp_path):
    for left in unsaved_studies(recovery_folder()):
        left.remove()
    leave("First", 9, tmp_path / "first.json")
    leave("Second", 10)
    yield
    for left in unsaved_studies(recovery_folder()):
        left.remove()


def answer_with(monkeypatch, answer, untick=()):
    def answered(dialog):
        for row in range(dialog.list.count()):
            if dialog.list.item(row).text().split("\n")[0] in untick:
                dialog.list.item(row).setCheckState(Qt.CheckState.Unchecked)
        dialog.answered(answer)

    monkeypatch.setattr(RecoveryDialog, "exec", answered)


def test_a_recovered_study_opens_as_unsaved_under_its_own_path(windows, crashed, monkeypatch, tmp_path):
    windows.open(None, None)
    answer_with(monkeypatch, OPEN)
    windows.offer_recovery()
    by_name = {window.session.study.name: window for window in windows.open_ones}
    assert set(by_name) == {"First", "Second"}
    assert all(window.documents.modified for window in by_name.values())
    assert by_name["First"].session.path == tmp_path / "first.json"
    assert speed_of(by_name["Second"].session.study) == 10
    # The window that has it now saves it again, so a second crash loses nothing either.
    assert all(window.documents.file.recovery.path.exists() for window in by_name.values())


def test_a_recovered_study_can_be_discarded_or_kept_for_later(windows, crashed, monkeypatch):
    windows.open(None, None)
    answer_with(monkeypatch, LATER)
    windows.offer_recovery()
    answer_with(monkeypatch, THROW_AWAY, untick=("Second",))
    windows.offer_recovery()
    assert [window.session.study.name for window in windows.open_ones] == ["Untitled study"]
    (left,) = unsaved_studies(recovery_folder())
    assert left.study.name == "Second"
    left.leave()


def test_the_recovery_dialog_lists_studies_and_times(qtbot, crashed):
    found = unsaved_studies(recovery_folder())
    dialog = RecoveryDialog(found)
    qtbot.addWidget(dialog)
    texts = [dialog.list.item(row).text() for row in range(2)]
    assert any("First" in text and "first.json" in text and "today at" in text for text in texts)
    assert any("never saved" in text for text in texts)
    for left in found:
        left.leave()


def test_the_first_start_shows_the_demo_and_a_hint(qtbot, monkeypatch, tmp_path):
    opened = []
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    monkeypatch.setattr(application.QApplication, "exec", lambda *_: 0)
    monkeypatch.setattr(application, "start_log", lambda: None)
    monkeypatch.setattr(application.CrashHandler, "install", lambda *_: None)
    monkeypatch.setattr(application.Windows, "offer_recovery", lambda windows: None)
    really = Windows.open
    monkeypatch.setattr(Windows, "open", lambda *arguments: opened.append(really(*arguments)) or opened[-1])
    for _ in range(2):
        application.run(None, None)
    first, second = opened
    assert first.session.study.name == "Harbour couriers"
    assert first.page.first_steps.isVisible()
    assert second.session.study.name == "Untitled study"
    assert not second.page.first_steps.isVisible()
    assert "Ctrl+N" in second.page.notice.text() or not second.session.ready
    for window in opened:
        window.close()


# Closing


def test_a_closed_window_schedules_no_autosave(windows, qtbot, monkeypatch):
    """Its undo list is cleared as it closes, which counts as a change."""
    stays, window = windows.open(DEMO, None), windows.open(DEMO, None)
    qtbot.waitUntil(lambda: bool(window.session.shown))
    window.session.set_value(window.session.tunes[0][1], parameter_by_id("gravity.gravity"), 30.0)
    monkeypatch.setattr(window.documents, "may_leave", lambda: True)
    documents = window.documents
    window.close()
    assert not documents.file.wait.isActive()
    assert stays.isVisible()


def test_a_failed_save_is_reported_and_the_window_stays_open(window, tmp_path, monkeypatch):
    """Closing continues only if the study was really saved."""
    warned = []
    monkeypatch.setattr(window.documents, "warn", lambda title, text: warned.append((title, text)))
    set_speed(window, 9)
    window.session.path = tmp_path / "no such folder" / "a.json"
    assert window.documents.save() is False
    assert warned[0][0] == "The study could not be saved"
    assert "nothing is lost" in warned[0][1]
    assert window.documents.modified
    monkeypatch.setattr(documents, "run", lambda _: QMessageBox.StandardButton.Save.value)
    assert not window.close()
    assert window.isVisible()
    assert len(warned) == 2
    window.session.path = tmp_path / "a.json"
    assert window.documents.may_leave()
    assert (tmp_path / "a.json").exists()
