"""The screen shows what a fresh painting would show, whatever was done before."""

import random

import pytest
from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtGui import QCursor

from cinetica.desk import look
from cinetica.desk.application import start
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.model import takes
from cinetica.model.take import Press
from cinetica.model.tune import parameter_by_id
from cinetica.reading.alignment import ANCHORS
from cinetica.reading.channels import PRESETS
from tests.desk.conftest import Hand, drag, turn_wheel
from tests.desk.painted import anew, differing, on_screen, settle
from tests.repetitions import TIMES

NUMBERS = ("gravity.gravity", "jump.jump_speed", "drive.top_speed", "drive.friction", "body.height", "jump.coyote")


class Doing:
    """Random user actions, each through its widgets."""

    def __init__(self, window: Window, seed: int) -> None:
        self.window, self.random, self.hand = window, random.Random(seed), Hand(window)

    def step(self) -> str:
        name = self.random.choice([name for name in dir(self) if name.startswith("do_")])
        getattr(self, name)()
        settle()
        return name

    def do_drag_a_number(self) -> None:
        session = self.window.session
        tune = self.random.choice([tune for _, tune in session.tunes])
        id = self.random.choice(NUMBERS)
        if (
            not session.is_hidden(tune)
            and not tune.snapshot_of
            and self.window.sheet.view.cell(id, tune.name).isValid()
        ):
            self.hand.drag(id, tune.name, self.random.randint(-40, 40) or 5, release=False)
            settle()
            self.hand.release()

    def do_set_far(self) -> None:
        session = self.window.session
        tune = self.random.choice([tune for _, tune in session.tunes])
        session.set_value(tune, parameter_by_id("gravity.gravity"), self.random.choice([3.0, 18.0, 42.0, 90.0]))

    def do_drag_a_press(self) -> None:
        lanes = self.window.page.hands
        if lanes.isVisible() and "jump" in lanes.lanes:
            start = lanes.spot_of("jump", self.random.randint(5, 60))
            drag(lanes, start, start + QPoint(self.random.randint(-60, 60), 0))

    def do_alter_the_hands(self) -> None:
        take, start = self.window.session.drill.take, self.random.randint(0, 60)
        self.window.session.set_take("Hands", takes.with_press(take, "right", Press(start, start + 30)))

    def do_step(self) -> None:
        self.window.page.transport.step(self.random.choice([-10, -1, 1, 1, 10, 50]))

    def do_wheel(self) -> None:
        page = self.window.page
        port = self.random.choice(
            [page.stage.plot.viewport(), *(strip.plot.viewport() for strip in page.strips.strips), page.hands]
        )
        keys = self.random.choice([Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier])
        turn_wheel(port, 0, self.random.choice([-120, 120]), keys)

    def do_pan_the_stage(self) -> None:
        port = self.window.page.stage.plot.viewport()
        middle = port.rect().center()
        drag(port, middle, middle + QPoint(self.random.randint(-80, 80), self.random.randint(-40, 40)))

    def do_fit(self) -> None:
        self.window.page.fit()

    def do_resize(self) -> None:
        self.window.resize(self.random.randint(1024, 1500), self.random.randint(700, 950))

    def do_choose_a_drill(self) -> None:
        self.window.session.choose_drill(self.random.choice(self.window.session.study.drills).name)

    def do_look(self) -> None:
        self.window.set_look(self.random.choice([look.DAY, look.NIGHT]))

    def do_undo(self) -> None:
        self.window.session.undo_stack.undo()

    def do_compare(self) -> None:
        self.window.page.comparing.set(
            anchor=self.random.choice(ANCHORS), differences=self.random.random() < 0.3,
            drawing=self.random.choice(["lines", "steps", "points"]), shared_scale=self.random.random() < 0.3,
        )  # fmt: skip

    def do_hide(self) -> None:
        session = self.window.session
        session.toggle(self.random.choice([tune for _, tune in session.tunes]))

    def do_strips(self) -> None:
        self.window.page.show_preset(self.random.choice(list(PRESETS)))

    def do_edit_the_course(self) -> None:
        stage = self.window.page.stage
        stage.toggle_editing()
        if stage.editor.on:
            stage.editor.add_at(self.random.uniform(0, 6), self.random.uniform(0, 3))

    def do_prints(self) -> None:
        self.window.page.stage.every_box.setValue(self.random.choice([0, 3, 6, 12]))

    def do_clear_the_wake(self) -> None:
        self.window.session.clear_wake()


@pytest.mark.thorough
@pytest.mark.parametrize("seed", range(1, 3 * TIMES))
def test_the_screen_equals_a_fresh_painting(window, seed):
    doing, done = Doing(window, seed), []
    window.activateWindow()
    settle()
    for number in range(40):
        done.append(doing.step())
        assert differing(on_screen(window), anew(window)) == 0, f"step {number} of seed {seed}: {done[-6:]}"


def test_bodies_are_on_their_path_after_a_drag_out_of_the_stage(window, hand, qtbot):
    """Gravity from 42 down to 18: the path leaves the stage at the top."""
    window.session.choose_drill("Rooftop hop")
    settle()
    hand.drag("gravity.gravity", "Wren", -48, release=False)
    qtbot.waitUntil(lambda: not window.session._figures.isActive())
    settle()
    assert differing(on_screen(window), anew(window)) == 0
    hand.release()
    settle()
    assert differing(on_screen(window), anew(window)) == 0


def opened(qtbot, palette=look.DAY, drill="Quay sprint", scale=1.0) -> Window:
    """A window opened with a look, a text size and a drill."""
    look.set_text_scale(scale)
    # What is under the mouse is highlighted.
    QCursor.setPos(1900, 1070)
    window = Window(Session(shipped_study("harbour")), palette)
    qtbot.addWidget(window, before_close_func=lambda window: window.session.undo_stack.setClean())
    if scale != 1.0:
        window.set_text_size(scale)
    window.resize(1280, 800)
    window.show()
    start(window)
    window.session.choose_drill(drill)
    settle()
    window.sheet.view.setFocus()
    window.page.fit()
    settle()
    return window


@pytest.mark.thorough
@pytest.mark.parametrize(
    "way", [["night"], ["play_page", "night", "compare"], ["larger", "night", "smaller"], ["Stick sweep", "night"]]
)
def test_switching_to_night_equals_a_window_opened_at_night(qtbot, way):
    there = opened(qtbot, look.NIGHT, "Rooftop hop")
    expected = anew(there)
    there.set_look(look.DAY)
    there.hide()
    here = opened(qtbot, look.DAY, "Rooftop hop")
    for step in way:
        here.actions_by_name[step].trigger() if step in here.actions_by_name else here.session.choose_drill(step)
        settle()
    here.session.choose_drill("Rooftop hop")
    settle()
    here.sheet.view.setFocus()
    here.page.fit()
    settle()
    shown = on_screen(here)
    here.set_look(look.DAY)
    assert differing(shown, expected) == 0


def test_changing_the_text_size_equals_a_window_opened_with_it(qtbot):
    there = opened(qtbot, scale=1.3)
    expected = anew(there)
    there.hide()
    here = opened(qtbot)
    here.actions_by_name["larger"].trigger()
    settle()
    here.actions_by_name["larger"].trigger()
    settle()
    here.sheet.view.setFocus()
    here.page.fit()
    settle()
    shown = on_screen(here)
    here.set_text_size(1.0)
    assert differing(shown, expected) == 0


def test_axis_numbers_are_repainted_with_the_curves(window):
    painted = []

    class Watch(QObject):
        def eventFilter(self, _, event):
            if event.type() == QEvent.Type.Paint:
                painted.append(event.region().boundingRect())
            return False

    window.resize(1920, 1050)
    settle()
    settle()
    strip, watch = window.page.strips.strips[0], Watch()
    port, before = strip.plot.viewport(), strip.plot.box.viewRect()
    port.installEventFilter(watch)
    # Nobody runs there: the scale of velocities shrinks to its default.
    window.actions_by_name["new_drill"].trigger()
    settle()
    numbers, view = (
        strip.plot.mapFromScene(item.mapRectToScene(item.rect())).boundingRect().adjusted(2, 2, -2, -2)
        for item in (strip.plot.axes["left"], strip.plot.box)
    )
    port.removeEventFilter(watch)
    assert strip.plot.box.viewRect() != before
    # The numbers at the left together with the view beside them.
    assert painted[0].contains(numbers)
    assert painted[0].contains(view)
