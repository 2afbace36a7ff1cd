"""Every visible text is whole or elided with a tooltip, overlaps no other, and has enough contrast."""

from datetime import datetime
from types import SimpleNamespace

import pytest
from PySide6.QtCore import QPoint, QSize
from PySide6.QtWidgets import QComboBox, QDialogButtonBox, QMenu, QPushButton, QToolButton

from cinetica.desk import look
from cinetica.desk.application import start
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.dialogs.clock_panel import ClockPanel
from cinetica.desk.dialogs.copy_from_study import CopyFromStudy
from cinetica.desk.dialogs.crash_report import CrashDialog
from cinetica.desk.dialogs.guide import Guide
from cinetica.desk.dialogs.hand_over import HandOver
from cinetica.desk.dialogs.history import History
from cinetica.desk.dialogs.import_log import ImportLog
from cinetica.desk.dialogs.new_study import NewStudy
from cinetica.desk.dialogs.notes_and_targets import NotesAndTargets
from cinetica.desk.dialogs.preferences import Preferences
from cinetica.desk.dialogs.rates import Rates
from cinetica.desk.dialogs.recovery import RecoveryDialog
from cinetica.desk.header import MOST_MISSED, NO_TARGETS
from cinetica.desk.pages import PAGES
from cinetica.desk.play.bindings import Bindings
from cinetica.desk.sheet.choices import ChoicePopup
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.files.trace_csv import trace_text
from cinetica.model.clock import Clock, Mode
from cinetica.model.editing import with_milestone, with_new_tune
from cinetica.model.tune import PARAMETERS
from tests.desk.painted import contrast_of, faults_of, pixels_of, settle, words_of

SMALL, LARGE = (1024, 676), (1900, 1000)
THOROUGH = pytest.mark.thorough
LONG = "Wren after the storm, as the harbour master wants her"


def full_study():
    """Six tunes, one with a long name, and a drill with one."""
    study = shipped_study("harbour")
    for number in range(4):
        tune = (
            study.tune("Wren")
            .put("drive.top_speed", 1234.5 + number)
            .model_copy(update={"name": f"Wren {number}" if number else LONG})
        )
        study = with_new_tune(study, tune)
    drills = (
        study.drills[0],
        study.drills[2].model_copy(update={"name": "Rooftop hop between the chandler's and the net loft"}),
        *study.drills[3:],
    )
    return with_milestone(
        study.model_copy(update={"drills": drills, "name": "Harbour couriers of the second spring tide"}),
        LONG,
        "2026-03-01T10:00:00+00:00",
    )


@pytest.fixture
def opened(qtbot):
    """Opens windows with a text size and restores everything."""
    made = []

    def open_(scale: float, size: tuple[int, int], study=None) -> Window:
        window = Window(Session(study or full_study()))
        qtbot.addWidget(window, before_close_func=lambda window: window.session.undo_stack.setClean())
        window.set_text_size(scale)
        window.resize(*size)
        window.show()
        start(window)
        settle()
        made.append(window)
        return window

    yield open_
    for window in made:
        window.set_look(look.DAY)
        window.set_text_size(1.0)


def pages(window: Window):
    """Each state of the pages, by name."""
    session, page = window.session, window.page
    yield "Quay sprint"
    session.choose_drill(session.study.drills[1].name)
    session.set_cursor(47)
    session.begin("A number with a name that goes on and on")
    session.set_value(session.tunes[0][1], next(each for each in PARAMETERS if each.id == "gravity.gravity"), 18.0)
    session.end()
    page.comparing.set(anchor="landing", differences=True)
    yield "a long name, differences, the wake"
    page.comparing.set(differences=False)
    page.bar.explain.setChecked(True)
    page.find_divergence()
    yield "explain"
    page.bar.explain.setChecked(False)
    page.show_preset("Phase")
    yield "phases"
    page.bar.table.setChecked(True)
    yield "the frame table"
    page.bar.table.setChecked(False)
    page.show_preset("Velocity and position")
    page.stage.toggle_editing()
    yield "the course"
    page.stage.toggle_editing()
    page.show_first_steps()
    yield "first steps"
    page.first_steps.hide()
    window.show_page("play_page")
    window.play.game.pause()
    window.play.toggle_pad()
    yield "Play with the pad"
    window.play.toggle_pad()
    window.show_page("survey")
    window.survey.asked.figures = ["jump_height", "stopping_time", "press_to_velocity"]
    window.survey.asked.second = "air_time"
    window.survey.view_called("Windows").held.setChecked(True)
    for view in window.survey.views:
        window.survey.show_view(view.WORDS)
        view.task.wait()
        yield f"Survey, {view.WORDS}"
    window.show_page("compare")
    session.choose_drill("Stick sweep")
    yield "sticks"


@pytest.mark.parametrize(
    ("scale", "size"),
    [(1.0, SMALL), pytest.param(1.6, SMALL, marks=THOROUGH), pytest.param(1.6, LARGE, marks=THOROUGH)],
)
def test_texts_of_the_pages_fit(opened, size, scale):
    window = opened(scale, size)
    assert (window.width(), window.height()) == size
    faults = []
    for name in pages(window):
        settle()
        faults += [f"{name}: {fault}" for fault in faults_of(window)]
    assert not faults, "\n".join(dict.fromkeys(faults))


@pytest.mark.parametrize("scale", [1.0, 1.6])
def test_the_number_of_missed_targets_is_not_cut_off(opened, scale):
    header = opened(scale, LARGE).header
    folded = header.folded
    for words in (NO_TARGETS, MOST_MISSED, f"{MOST_MISSED}, 12 not shown", "1009 of 1200 missed", "all 1200 met"):
        header.show_targets(words)
        settle()
        assert header.targets.sizeHint().width() <= header.targets.width()
        assert header.folded == folded
        assert words in header.targets.toolTip() or words == NO_TARGETS


def dialogs(window: Window):
    """Every dialog and panel, shown."""
    session = window.session
    tune = session.tunes[0][1]
    found = [
        SimpleNamespace(
            study=session.study, at=datetime.now().astimezone().isoformat(), origin="otter/studies/harbour.json"
        )
    ] * 3
    yield NewStudy(window)
    hand_over = HandOver(session, tune, window)
    yield hand_over
    as_code = HandOver(session, tune, window)
    as_code.show_page("code")
    as_code.show()
    as_code.code.task.wait()
    yield as_code
    hand_over = HandOver(session, tune, window)
    hand_over.show_page("import")
    hand_over.pasted.setPlainText("top_speed = 9\nwhatever = 3")
    yield hand_over
    yield Rates(session, tune, window)
    yield Preferences(window.actions_by_name, False, 1.0, 2, window)
    yield History(session, window)
    yield NotesAndTargets(session, window.study_runs, lambda *_: None, window)
    yield CopyFromStudy(session, [], window)
    yield ImportLog(
        session,
        SimpleNamespace(name="quay-2026-03-01.csv", stem="quay-2026-03-01"),
        trace_text(session.shown[0].trace, session.units),
        window,
    )
    yield RecoveryDialog(found, window)
    yield CrashDialog("ValueError: what", "Traceback\n  line\n", [SimpleNamespace(name="a")], window)
    yield Bindings(window.play.keyboard, window.play.pads, {}, window)
    guide = Guide(window)
    yield guide
    guide = Guide(window)
    guide.to("All keys")
    yield guide
    for mode in Mode:
        session.set_clock(Clock(mode=mode), "Clock")
        yield ClockPanel(session, window)
    for parameter in PARAMETERS:
        if parameter.kind == "choice" and parameter.matters(tune.view, tune.values()):
            yield ChoicePopup(session, tune, parameter, window)


def pressed_by_return(dialog) -> str:
    """The default button, if Return would not accept a dialog that could be accepted."""
    accepting = [
        button
        for box in dialog.findChildren(QDialogButtonBox)
        for button in box.buttons()
        if box.buttonRole(button) == QDialogButtonBox.ButtonRole.AcceptRole
    ]
    pressed = [button for button in dialog.findChildren(QPushButton) if button.isDefault()]
    return pressed[0].text() if accepting and pressed and pressed[0] not in accepting else ""


@pytest.mark.parametrize(("scale", "palette"), [(1.0, look.DAY), pytest.param(1.6, look.NIGHT, marks=THOROUGH)])
def test_texts_of_dialogs_fit_and_contrast(opened, monkeypatch, scale, palette):
    # A small screen.
    monkeypatch.setattr(Dialog, "room", lambda _: QSize(1256, 744))
    window = opened(scale, (1280, 760))
    window.set_look(palette)
    faults = []
    for dialog in dialogs(window):
        dialog.show()
        settle()
        words = words_of(dialog)
        assert words, dialog
        name = f"{type(dialog).__name__} {dialog.windowTitle()}"
        if wrong := pressed_by_return(dialog):
            faults.append(f"{name}: Return presses {wrong}")
        if dialog.width() > 1280 or dialog.height() > 760:
            faults.append(f"{name}: larger than the screen: {dialog.size()}")
        picture = pixels_of(dialog.grab().toImage())
        faults += [f"{name}: {fault}" for fault in faults_of(dialog, words)]
        read = [word for word in words if word.seen.isValid() and word.widget.isEnabled()]
        faults += [
            f"{name}: pale: “{word.text}” in {word.color.name()}" for word in read if contrast_of(word, picture) < 4.5
        ]
        dialog.close()
        dialog.deleteLater()
    assert not faults, "\n".join(dict.fromkeys(faults))


@pytest.mark.parametrize(("scale", "palette"), [(1.0, look.DAY), pytest.param(1.6, look.NIGHT, marks=THOROUGH)])
def test_every_drop_down_list_and_menu_fits(opened, scale, palette):
    window = opened(scale, (1280, 760))
    window.set_look(palette)
    window.page.bar.explain.setChecked(True)
    settle()
    faults, seen = [], 0

    def look_at(popup, name: str) -> None:
        nonlocal seen
        settle()
        seen += 1
        words, picture = words_of(popup), pixels_of(popup.grab().toImage())
        assert words, name
        faults.extend(f"{name}: {fault}" for fault in faults_of(popup, words))
        faults.extend(
            f"{name}: pale: “{word.text}”" for word in words if word.seen.isValid() and contrast_of(word, picture) < 4.5
        )
        assert popup.screen().geometry().contains(popup.geometry()), name

    for entry in PAGES:
        window.show_page(entry.action)
        settle()
        for box in window.findChildren(QComboBox):
            if box.isVisible():
                box.showPopup()
                look_at(box.view().window(), box.accessibleName())
                box.hidePopup()
        for opener in window.findChildren(QToolButton):
            if opener.menu() is not None and opener.isVisible():
                menu = opener.menu()
                menu.popup(opener.mapToGlobal(QPoint(0, opener.height())))
                look_at(menu, opener.text())
                for sub in menu.findChildren(QMenu):
                    if sub.actions() and not sub.isEmpty():
                        sub.popup(QPoint(40, 40))
                        look_at(sub, sub.title())
                        sub.hide()
                menu.hide()
    assert seen > 20
    assert not faults, "\n".join(dict.fromkeys(faults))
