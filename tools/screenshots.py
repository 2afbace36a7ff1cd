"""Take the pictures in docs/screenshots/ of the demo studies on a real screen: `make screenshots`."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QPlainTextEdit

from cinetica.desk import look
from cinetica.desk.application import application, start
from cinetica.desk.dialogs.hand_over import HandOver
from cinetica.desk.dialogs.rates import Rates
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.model.conventions import Conventions, Per
from cinetica.model.editing import with_new_tune, with_snapshot, with_target
from cinetica.model.targets import Target
from cinetica.model.tune import parameter_by_id
from cinetica.stand_in.game import StandIn

ROOT = Path(__file__).parents[1]
FOLDER = ROOT / "docs" / "screenshots"


def opened(study: str, drill: str, cursor: int, palette: look.Palette = look.DAY) -> Window:
    window = Window(Session(shipped_study(study)), palette)
    window.show()
    QTest.qWaitForWindowExposed(window)
    start(window)
    window.session.choose_drill(drill)
    window.session.set_cursor(cursor)
    QTest.qWait(100)
    return window


def playing(drill: str) -> Window:
    """In the middle of a jump on the yard; time stands still, so that the picture is the same every time."""
    window = opened("harbour", drill, 0)
    window.show_page("play_page")
    play = window.play
    play.toggle_pause()
    play.courses.setCurrentIndex(1)
    play.begin()
    for key, ticks in ((Qt.Key.Key_Right, 34), (Qt.Key.Key_Space, 12)):
        play.keyboard.press(key.value)
        for _ in range(ticks):
            play.game.step()
    return window


def overview() -> Window:
    """With two targets, one of them missed, and gravity changed."""
    window = opened("harbour", "Rooftop hop", 66)
    session = window.session
    for target in (
        Target(measure="jump_height", low=2.3, high=2.5, tunes=("Wren",)), Target(measure="air_time", low=0.6),
    ):  # fmt: skip
        session.alter("Target", lambda study, target=target: with_target(study, "Rooftop hop", target))
    session.begin("Gravity of Wren")
    session.set_value(session.study.tune("Wren"), parameter_by_id("gravity.gravity"), 36.0)
    session.end()
    window.show_page("overview")
    window.study_runs.judge_now()
    window.overview.cards.set_across(2)
    return window


def shoot(name: str) -> None:
    """The whole screen as a person sees it, open lists and dialogs included."""
    QTest.qWait(300)
    QGuiApplication.primaryScreen().grabWindow(0).save(str(FOLDER / f"{name}.png"))


def keep(window: Window, name: str) -> None:
    shoot(name)
    window.session.undo_stack.setClean()
    window.close()


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    app = application()
    window = opened("harbour", "Gutter's edge", 30)
    keep(window, "compare-day")
    keep(opened("harbour", "Early knock", 57, look.NIGHT), "compare-night")
    window = opened("harbour", "Rooftop hop", 66)
    session = window.session
    session.begin("Gravity of Wren")
    session.set_value(session.study.tune("Wren"), parameter_by_id("gravity.gravity"), 30.0)
    keep(window, "compare-wake")
    keep(overview(), "overview")
    keep(opened("harbour", "Channel turn", 86), "from-above")
    window = opened("harbour", "Early knock", 40)
    window.page.explaining.channel.setCurrentIndex(window.page.explaining.channel.findData("y"))
    window.page.find_divergence()
    keep(window, "explain")
    window = opened("harbour", "Rooftop hop", 66)
    window.page.show_preset("Phase")
    window.page.comparing.set(anchor="launch")
    keep(window, "phases")
    window = opened("harbour", "Fish steps", 127)
    window.page.stage.toggle_editing()
    for _ in range(4):
        window.page.stage.editor.choose_next(1)
    keep(window, "course")
    window = opened("harbour", "Rooftop hop", 60)
    study = window.session.study
    for number, gravity in enumerate((30.0, 36.0, 48.0)):
        tune = (
            study.tune("Wren")
            .put("gravity.gravity", gravity)
            .model_copy(update={"name": f"Wren, {('light', 'lighter', 'heavy')[number]}"})
        )
        study = with_new_tune(study, tune, after="Wren")
    window.session.edit("Three more", with_snapshot(study, "Wren"))
    window.session.clear_wake()
    keep(window, "six-tunes")
    window = playing("Rooftop hop")
    keep(window, "play")
    window = playing("Market diagonals")
    window.set_look(look.NIGHT)
    window.play.toggle_recording()
    window.play.toggle_pad()
    for place in ((0.1, 0.02), (0.4, 0.3), (0.7, 0.5)):
        window.play.pad.view.push(*place)
    for _ in range(40):
        window.play.game.step()
    keep(window, "play-pad")
    surveys()
    hand_over()
    app.processEvents()


def surveys() -> None:
    """The five views of Survey, with four tunes and two targets."""
    window = opened("harbour", "Rooftop hop", 66)
    session = window.session
    for number, gravity in enumerate((30.0, 54.0)):
        tune = session.study.tune("Wren").put("gravity.gravity", gravity)
        named = tune.model_copy(update={"name": f"Wren, {('light', 'heavy')[number]}"})
        session.edit("One more", with_new_tune(session.study, named))
    for target in (
        Target(measure="jump_height", low=2.0, high=2.7, tunes=("Wren",)), Target(measure="air_time", high=0.62),
    ):  # fmt: skip
        session.alter("Target", lambda study, target=target: with_target(study, "Rooftop hop", target))
    window.show_page("survey")
    survey = window.survey
    survey.asked.figures = ["jump_height", "air_time"]
    for words in ("Curve", "Map", "Sensitivity", "Reach"):
        survey.show_view(words)
        survey.view.task.wait()
        shoot(f"survey-{words.lower()}")
    session.choose_drill("Gutter's edge")
    survey.show_view("Windows")
    survey.view.held.setChecked(True)
    survey.view.task.wait()
    keep(window, "survey-windows")


def linked() -> None:
    """The stand-in game in the middle of a take, with other numbers than the tune's."""
    window = opened("harbour", "Rooftop hop", 66)
    window.game.show_panel()
    window.game.turn()
    game = StandIn(port=window.game.connection.port)
    connection = window.game.connection

    def until(is_so: Callable[[], bool]) -> None:
        while not is_so():
            game.link.receive()
            QTest.qWait(5)

    until(
        lambda: (
            connection.linked
            and connection.link is not None
            and connection.link.is_settled
            and bool(connection.unknown_words)
        )
    )
    game.set_number("gravity", 36.0)
    window.game.play()
    until(lambda: game.take_number > 0)
    for _ in range(118):
        game.tick()
    QTest.qWait(200)
    panel = window.findChild(QDialog)
    panel.move(window.x() + window.width() - panel.width() - 24, window.y() + 250)
    shoot("link")
    window.session.undo_stack.setClean()
    window.close()
    game.close()


def show_line(text: QPlainTextEdit, words: str) -> None:
    """Scroll to the line that has these words, a few lines under the top."""
    lines = text.toPlainText().splitlines()
    text.verticalScrollBar().setValue(next(place for place, line in enumerate(lines) if words in line) - 12)


def hand_over() -> None:
    """The game's conventions, a running game beside the tunes, and a tune on other machines."""
    window = opened("harbour", "Rooftop hop", 74)
    session = window.session
    session.edit(
        "Conventions of the game",
        session.study.model_copy(update={"conventions": Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME)}),
    )
    dialog = HandOver(session, session.study.tune("Wren"), window)
    dialog.show()
    dialog.show_page("code")
    dialog.code.languages.setCurrentText("Python")
    dialog.code.task.wait()
    show_line(dialog.code.text, "# Jump buffer")
    shoot("hand-over")
    dialog.close()
    session.undo_stack.setClean()
    window.close()
    linked()
    window = opened("pitfalls", "Blend by the tick", 10)
    rates = Rates(window.session, window.session.study.tune("Blend by the tick"), window)
    rates.show()
    shoot("rates")
    rates.close()
    window.close()


main()
