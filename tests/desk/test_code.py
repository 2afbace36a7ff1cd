"""The page *As code* of *Hand over*, in the real window."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from cinetica.codegen.languages import LANGUAGES, code_text, program_of
from cinetica.desk import look
from cinetica.desk.dialogs import code_page
from cinetica.desk.dialogs.hand_over import HandOver
from cinetica.model.conventions import Conventions, Per

# Programs by study, tune and part, since writing one takes most of a second. Keeping the study keeps its id unique.
PROGRAMS = {}


def program(study, tune, *, whole):
    key = (id(study), tune.name, whole)
    if key not in PROGRAMS:
        PROGRAMS[key] = study, program_of(study, tune, whole=whole)
    return PROGRAMS[key][1]


@pytest.fixture
def page(window, qtbot, monkeypatch):
    monkeypatch.setattr(code_page, "program_of", program)
    dialog = HandOver(window.session, window.session.study.tune("Wren"), window)
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.show_page("code")
    dialog.code.task.wait()
    return dialog.code


def wanted(window, tune="Wren", language="c", *, whole=False):
    study = window.session.study
    return code_text(program(study, study.tune(tune), whole=whole), language)


def test_every_language_is_shown_and_copied(window, page):
    for id, language in LANGUAGES.items():
        page.languages.setCurrentText(language.name)
        assert page.text.toPlainText() == wanted(window, language=id)
        page.copy()
        assert QGuiApplication.clipboard().text() == wanted(window, language=id)
    assert page.tunes.currentText() == "Wren"


def test_the_part_and_the_tune_are_chosen(window, page):
    page.tunes.setCurrentText("Otter")
    page.task.wait()
    assert page.text.toPlainText() == wanted(window, "Otter")
    page.parts.setCurrentIndex(1)
    page.task.wait()
    assert page.text.toPlainText() == wanted(window, "Otter", whole=True)


def test_both_code_pages_share_the_chosen_tune(window, page):
    dialog = page.window()
    dialog.tunes.setCurrentText("Bramble")
    page.task.wait()
    assert page.text.toPlainText() == wanted(window, "Bramble")
    page.tunes.setCurrentText("Wren")
    assert dialog.tunes.currentText() == "Wren"
    assert "gravity = 42.0" in dialog.text.toPlainText()


def test_conventions_change_the_code_at_once(window, page):
    page.window().conventions.pixels.setValue(32)
    page.task.wait()
    assert window.session.study.conventions.pixels_per_unit == 32
    assert ".top_speed = 240.0," in page.text.toPlainText()
    page.window().conventions.per.setCurrentIndex(page.window().conventions.per.findData(Per.FRAME))
    page.task.wait()
    assert ".top_speed = 4.0," in page.text.toPlainText()
    window.session.undo_stack.undo()
    page.task.wait()
    assert window.session.study.conventions == Conventions()
    assert page.text.toPlainText() == wanted(window)


def test_the_code_follows_a_changed_number(window, page):
    session = window.session
    from cinetica.model.tune import parameter_by_id

    session.set_value(session.study.tune("Wren"), parameter_by_id("gravity.gravity"), 30.5)
    page.task.wait()
    assert ".gravity = 30.5," in page.text.toPlainText()


def test_the_code_is_saved_in_a_file_named_like_the_tune(window, page, monkeypatch, tmp_path):
    page.languages.setCurrentText("Python")
    asked = []

    def ask(_, title, start, filter):
        asked.append((title, start, filter))
        return str(tmp_path / "hers.py"), filter

    monkeypatch.setattr(QFileDialog, "getSaveFileName", ask)
    page.save_button.click()
    assert (tmp_path / "hers.py").read_text() == wanted(window, language="python")
    assert asked[0][1].endswith("wren.py")
    assert asked[0][2] == "Python (*.py)"
    assert page.window().outcome.text() == f"Saved in {tmp_path / 'hers.py'}."
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "no/where.py"), ""))
    page.save_button.click()
    assert "Choose another place" in page.window().outcome.text()


def colors(page, line):
    """The coloured ranges of a line, by its number."""
    block = page.text.document().findBlockByNumber(line)
    return {
        block.text()[part.start : part.start + part.length]: part.format.foreground().color().name()
        for part in block.layout().formats()
    }


def test_the_syntax_is_coloured_in_every_language(window, page):
    palette = look.palette()
    for language, keyword in (("C99", "static"), ("C#", "public"), ("Lua 5.4", "local"), ("Python", "def"),
                              ("JavaScript", "function")):  # fmt: skip
        page.languages.setCurrentText(language)
        lines = page.text.toPlainText().splitlines()
        first = next(place for place, line in enumerate(lines) if keyword in line.split())
        assert look.color(palette.accent).name() in colors(page, first).values(), language
        number = next(place for place, line in enumerate(lines) if "14.5" in line and "jump" in line.lower())
        assert colors(page, number)["14.5"] == look.color(palette.inks[0]).name()
    assert look.color(palette.soft).name() in colors(page, 0).values()


def test_the_page_works_from_the_keyboard(window, page):
    page.tunes.setFocus()
    QTest.keyClick(page.tunes, Qt.Key.Key_Tab)
    assert page.languages.hasFocus()
    QTest.keyClick(page.languages, Qt.Key.Key_Down)
    assert page.text.toPlainText() == wanted(window, language="csharp")
    QTest.keyClick(page.languages, Qt.Key.Key_Tab)
    assert page.parts.hasFocus()
    page.copy_button.setFocus()
    QTest.keyClick(page.copy_button, Qt.Key.Key_Space)
    assert QGuiApplication.clipboard().text() == wanted(window, language="csharp")


@pytest.mark.parametrize(
    ("action", "page"), [("hand_over", "To the game"), ("code", "As code"), ("import_numbers", "From the game")]
)
def test_each_action_opens_its_page(window, monkeypatch, action, page):
    shown = []
    monkeypatch.setattr(
        HandOver, "exec", lambda dialog: shown.append(dialog.directions.tabText(dialog.directions.currentIndex())) or 0
    )
    window.actions_by_name[action].trigger()
    assert shown == [page]


def test_opening_the_page_writes_its_code(window, qtbot):
    dialog = HandOver(window.session, window.session.study.tune("Wren"), window)
    qtbot.addWidget(dialog)
    dialog.show_page("code")
    dialog.show()
    dialog.code.task.wait()
    assert dialog.code.text.toPlainText() == wanted(window)
