"""The catalogue of actions, the menus made from it, and the search for a command."""

from collections import Counter

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QApplication, QMessageBox, QToolButton

from cinetica import __version__
from cinetica.desk.actions.catalogue import ACTIONS, MENUS, RECENT, Action, Menu, menu_path
from cinetica.desk.dialogs.command_search import CommandSearch
from tests.desk.conftest import key

# The four pages and the separators between them.
MOST_ENTRIES = 14


def all_menus(entries=MENUS):
    for entry in entries:
        if isinstance(entry, Menu):
            yield entry
            yield from all_menus(entry.entries)


def test_keys_and_menu_labels_are_unique():
    keys = Counter(QKeySequence(each).toString() for action in ACTIONS.values() for each in action.keys)
    assert [each for each, count in keys.items() if count > 1] == []
    for menu in all_menus():
        labels = [entry.label for entry in menu.entries if isinstance(entry, Action)]
        assert len(labels) == len(set(labels)), menu.title


def test_menus_and_their_labels_are_short():
    for menu in all_menus():
        assert len([entry for entry in menu.entries if entry is not None]) <= MOST_ENTRIES, menu.title
    assert [action.label for action in ACTIONS.values() if len(action.label.split()) > 5] == []
    assert [action.id for action in ACTIONS.values() if not action.tip or action.tip[-1] == "."] == []


def test_header_menus_contain_the_declared_actions(window):
    buttons = {each.text(): each for each in window.header.findChildren(QToolButton) if each.menu() is not None}
    for declared in MENUS:
        texts = [action.text() for action in buttons[declared.title].menu().actions() if not action.isSeparator()]
        wanted = [entry for entry in declared.entries if entry is not None]
        assert len(texts) == len(wanted)
        for text, entry in zip(texts, wanted, strict=True):
            if isinstance(entry, Action) and entry.id not in ("undo", "redo"):
                assert text == entry.label
            elif isinstance(entry, Menu):
                assert text == entry.title
    study = buttons["&Study"].menu()
    tips = {action.text(): action.toolTip() for action in study.actions()}
    assert tips["Report…"] == ACTIONS["report"].sentence
    assert study.toolTipsVisible()
    assert RECENT.title in tips


@pytest.fixture
def search(window, qtbot):
    dialog = CommandSearch(window.actions_by_name, window)
    qtbot.addWidget(dialog)
    return dialog


def test_a_command_is_found_by_any_of_its_words_and_run(window, search, qtbot):
    qtbot.keyClicks(search.words, "note tune")
    listed = [search.list.item(row).text() for row in range(search.list.count())]
    assert any(text.startswith(menu_path("tune_note")) for text in listed)
    assert all("note" in text.lower() and "tune" in text.lower() for text in listed)
    search.words.clear()
    qtbot.keyClicks(search.words, "overview")
    qtbot.keyClick(search.words, Qt.Key.Key_Return)
    assert search.chosen is window.actions_by_name["overview"]


def test_arrow_keys_choose_a_command_and_an_empty_result_runs_none(search, qtbot):
    assert search.list.count() == len(ACTIONS)
    qtbot.keyClick(search.words, Qt.Key.Key_Down)
    assert search.list.currentRow() == 1
    qtbot.keyClicks(search.words, "zzz")
    assert search.list.count() == 0
    qtbot.keyClick(search.words, Qt.Key.Key_Return)
    assert search.chosen is None


def test_unavailable_commands_are_listed_last_and_cannot_be_run(window, qtbot):
    window.show_page("overview")
    dialog = CommandSearch(window.actions_by_name, window)
    qtbot.addWidget(dialog)
    qtbot.keyClicks(dialog.words, "explain this frame")
    qtbot.keyClick(dialog.words, Qt.Key.Key_Return)
    assert dialog.chosen is None
    dialog.words.clear()
    states = [bool(dialog.list.item(row).flags() & Qt.ItemFlag.ItemIsEnabled) for row in range(dialog.list.count())]
    assert states == sorted(states, reverse=True)
    assert not all(states)


def test_a_key_opens_the_search_and_the_chosen_command_runs(window, monkeypatch):
    monkeypatch.setattr(
        CommandSearch, "exec", lambda dialog: setattr(dialog, "chosen", window.actions_by_name["survey"])
    )
    key(window, Qt.Key.Key_F3)
    assert window.desk.shown is window.survey


def test_about_says_the_version(window, monkeypatch):
    messages = []
    monkeypatch.setattr(QMessageBox, "about", lambda _, title, text: messages.append((title, text)))
    window.actions_by_name["about"].trigger()
    assert messages[0][0] == "About Cinetica"
    assert __version__ in messages[0][1]


def test_the_study_is_renamed_from_its_menu_and_a_bad_name_is_refused(window, monkeypatch):
    monkeypatch.setattr(window.commands, "ask", lambda *_: "Quay couriers")
    window.actions_by_name["rename_study"].trigger()
    assert window.session.study.name == "Quay couriers"
    monkeypatch.setattr(window.commands, "ask", lambda *_: "  ")
    refused = []
    window.session.refused.connect(refused.append)
    window.actions_by_name["rename_study"].trigger()
    assert window.session.study.name == "Quay couriers"
    assert refused


def test_quit_closes_every_window_and_close_window_one(window, monkeypatch):
    closed = []
    monkeypatch.setattr(QApplication, "closeAllWindows", lambda: closed.append("all"))
    window.actions_by_name["quit"].trigger()
    assert closed == ["all"]
    assert window.isVisible()
    window.session.undo_stack.setClean()
    key(window, Qt.Key.Key_W, Qt.KeyboardModifier.ControlModifier)
    assert not window.isVisible()
