"""Texts name the current keys, actions apply to the page shown, a double click renames, windows fit."""

import ast
import re
from pathlib import Path

import pytest
from PySide6.QtCore import QByteArray, QPoint, QRect, QSize, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

import cinetica.desk
from cinetica.desk import window_geometry
from cinetica.desk.actions.catalogue import ACTIONS, COMPARE, actions_of
from cinetica.desk.actions.commands import Commands
from cinetica.desk.actions.keys import help_text, keyed
from cinetica.desk.actions.shortcuts import DEFAULT_KEYS, set_keys
from cinetica.desk.sheet.model import FIRST_TUNE
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Settings
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from tests.desk.painted import settle


@pytest.fixture
def rebound(window):
    """Bind undo to F8 and explain to no key, and restore both afterwards."""
    set_keys("undo", window.actions_by_name["undo"], ("F8",))
    set_keys("explain", window.actions_by_name["explain"], ())
    yield window
    for name in ("undo", "explain"):
        set_keys(name, window.actions_by_name[name], DEFAULT_KEYS[name])


def test_texts_name_the_current_keys(rebound):
    messages = []
    rebound.session.message.connect(messages.append)
    rebound.commands.remove()
    assert "Undo (F8) brings it back" in messages[-1]
    assert "(E)" not in rebound.page.bar.explain.toolTip()
    assert "()" not in rebound.page.bar.explain.toolTip()
    assert "<b>F8</b>" in help_text()
    set_keys("explain", rebound.actions_by_name["explain"], ("F7",))
    assert "(F7)" in rebound.page.bar.explain.toolTip()


def test_names_are_not_mistaken_for_keys(window):
    assert (
        keyed("“{0}” is removed. Undo ({undo}) brings it back.", "{save} {1}")
        == "“{save} {1}” is removed. Undo (Ctrl+Z) brings it back."
    )


def test_no_text_hardcodes_a_key():
    """Every text template that names keys uses existing actions."""
    named = set()
    for path in Path(cinetica.desk.__file__).parent.rglob("*.py"):
        for call in ast.walk(ast.parse(path.read_text())):
            if isinstance(call, ast.Call) and getattr(call.func, "id", "") in ("keyed", "keyed_tip"):
                texts = [each.value for each in ast.walk(call) if isinstance(each, ast.Constant)]
                named.update(word for text in texts for word in re.findall(r"\{([a-z_]+)\}", str(text)))
    assert len(named) > 10
    assert named <= set(ACTIONS)


def test_keys_of_compare_do_nothing_on_play(window):
    page = window.page
    before = (
        page.comparing.anchor,
        page.comparing.differences,
        page.bar.explain.isChecked(),
        page.stage.editor.on,
        window.session.cursor,
    )
    window.show_page("play_page")
    settle()
    for key in (Qt.Key.Key_C, Qt.Key.Key_E, Qt.Key.Key_L, Qt.Key.Key_T, Qt.Key.Key_End, Qt.Key.Key_F):
        QTest.keyClick(window.sheet.view, key)
        QTest.keyClick(window, key)
    assert (
        page.comparing.anchor,
        page.comparing.differences,
        page.bar.explain.isChecked(),
        page.stage.editor.on,
        window.session.cursor,
    ) == before
    assert not any(window.actions_by_name[name].isEnabled() for name in actions_of(COMPARE))
    window.show_page("compare")
    assert all(window.actions_by_name[name].isEnabled() for name in actions_of(COMPARE))
    QTest.keyClick(window, Qt.Key.Key_L)
    assert page.comparing.anchor != before[0]


def test_a_double_click_on_a_name_renames_the_tune(window, monkeypatch):
    monkeypatch.setattr(Commands, "ask", lambda *_: "Heron")
    header = window.sheet.view.tune_header
    column = FIRST_TUNE + 1
    spot = QPoint(header.sectionViewportPosition(column) + header.sectionSize(column) // 2, header.height() // 2)
    QTest.mouseClick(header.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    QTest.mouseDClick(header.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    assert [tune.name for tune in window.session.study.tunes[:2]] == ["Wren", "Heron"]


class Screen:
    """A screen of another size than that of the tests."""

    def __init__(self, room: QRect) -> None:
        self.room = room

    def availableGeometry(self) -> QRect:
        return self.room

    geometry = availableGeometry


@pytest.mark.parametrize("size", [(1280, 800), (1366, 768), (1024, 700)])
def test_a_first_window_fits_its_screen_with_its_frame(qtbot, monkeypatch, size):
    room = QRect(0, 0, size[0], size[1] - 28)
    monkeypatch.setattr(window_geometry, "_screen_of", lambda _: Screen(room))
    window = Window(Session(shipped_study("harbour")))
    qtbot.addWidget(window, before_close_func=lambda window: window.session.undo_stack.setClean())
    assert window.isMaximized()
    frame = window.normalGeometry().size() + window_geometry.FRAME
    assert frame.width() <= room.width()
    assert frame.height() <= room.height()
    assert window.minimumSizeHint().width() <= size[0]
    assert window.minimumSizeHint().height() <= room.height() - window_geometry.FRAME.height()


def test_a_window_from_another_screen_is_moved_onto_this_one(qtbot, tmp_path):
    settings = Settings(tmp_path / "window.ini")
    first = Window(Session(shipped_study("harbour")), settings=settings)
    qtbot.addWidget(first, before_close_func=lambda window: window.session.undo_stack.setClean())
    first.resize(1700, 1000)
    first.move(5000, 4000)
    first.show()
    first.move(5000, 4000)
    geometry = first.saveGeometry()
    assert isinstance(geometry, QByteArray)
    first.close()
    second = Window(Session(shipped_study("harbour")), settings=settings)
    qtbot.addWidget(second, before_close_func=lambda window: window.session.undo_stack.setClean())
    second.restoreGeometry(geometry)
    second.move(5000, 4000)
    second.show()
    settle()
    QApplication.processEvents()
    # A window frame is measured in screen pixels, which Qt rounds at any scale but 1.
    slack = 0 if second.devicePixelRatio() == 1 else 4
    assert second.screen().availableGeometry().adjusted(0, 0, slack, slack).contains(second.frameGeometry())
    assert second.size() != QSize(0, 0)
