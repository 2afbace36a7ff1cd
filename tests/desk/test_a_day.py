"""A designer's day: ten jobs of docs/guide.md, done in the real window and checked by their numbers."""

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from cinetica.desk.dialogs.hand_over import HandOver
from cinetica.desk.dialogs.history import History
from cinetica.desk.dialogs.import_log import ImportLog
from cinetica.desk.dialogs.new_study import CHOICES, NewStudy
from cinetica.desk.dialogs.rates import Rates
from cinetica.files.game_numbers import read_numbers
from cinetica.model.conventions import Per
from cinetica.model.laws import Law
from cinetica.model.tune import parameter_by_id
from cinetica.motion.records import BUFFERED_LAUNCH, COYOTE_LAUNCH, LAND, LAUNCH
from tests.desk.conftest import Hand
from tests.desk.test_play import Player

EXAMPLES = Path(__file__).parents[2] / "examples"
CTRL, SHIFT, NONE = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.NoModifier,
)

pytestmark = pytest.mark.thorough
Key = Qt.Key


class Designer(Hand):
    """A designer at the window: presses keys, types into cells and reads figures."""

    def __init__(self, window, monkeypatch):
        super().__init__(window)
        self.session, self.patch = window.session, monkeypatch
        self.messages = []
        self.session.message.connect(self.messages.append)
        self.session.refused.connect(self.messages.append)

    def key(self, key, modifier=NONE):
        QTest.keyClick(self.window, key, modifier)
        QApplication.processEvents()

    def begin(self, name):
        """Press Ctrl+N and choose by name."""
        row = next(place for place, choice in enumerate(CHOICES) if choice.name.startswith(name))

        def choose(dialog):
            dialog.list.setCurrentRow(row)
            return NewStudy.DialogCode.Accepted

        self.patch.setattr(NewStudy, "exec", choose)
        self.session.undo_stack.setClean()
        self.session.path = None
        self.key(Key.Key_N, CTRL)

    def drill(self, name):
        """Press Ctrl+PgDown until the drill is shown."""
        for _ in self.session.study.drills:
            if self.session.drill.name == name:
                return
            self.key(Key.Key_PageDown, CTRL)
        assert self.session.drill.name == name

    def set(self, id, tune, text):
        if not self.view.cell(id, tune).isValid():
            # A new study does not show this number: its section says how many more there are.
            self.view.sheet.open_section(parameter_by_id(id).section)
        index = self.view.cell(id, tune)
        assert index.isValid(), f"{id} is not shown"
        self.view.setCurrentIndex(index)
        self.view.type_into(index, text)

    def seek(self, id, tune, text):
        """Type over a figure."""
        figures = self.window.sheet.figures
        index = figures.cell(id, tune)
        assert index.isValid(), f"{id} is not read off here"
        figures.type_into(index, text)

    def read(self, id, tune) -> float:
        """A figure as the sheet shows it."""
        return next(shown for shown in self.session.shown if shown.tune.name == tune).readings[id].value

    def in_column(self, tune):
        """Go to the column of a tune by key, so that menu commands apply to it."""
        self.view.setFocus()
        self.view.go_to("drive.top_speed", tune)

    def trace(self, name):
        return next(shown for shown in self.session.shown if shown.tune.name == name).trace


@pytest.fixture
def designer(window, monkeypatch):
    return Designer(window, monkeypatch)


def test_1_a_top_view_courier_runs_diagonals_at_straight_speed(designer):
    designer.begin("From above")
    designer.set("drive.top_speed", "Courier", "6")
    designer.seek("time_to_top_speed", "Courier", "0.25")
    designer.seek("stopping_distance", "Courier", "0.5")
    trace = designer.trace("Courier")
    # By hand: 99% of 6 u/s after 0.25 s of a constant ramp; v²/2a = 0.5 u on the ground, up to the length of a tick.
    assert designer.value("drive.acceleration", "Courier") == pytest.approx(0.99 * 6 / 0.25, rel=0.05)
    assert designer.value("drive.friction", "Courier") == pytest.approx(36 / (2 * 0.5), rel=0.12)
    assert designer.read("time_to_top_speed", "Courier") == pytest.approx(0.25, abs=1e-3)
    assert designer.read("stopping_distance", "Courier") == pytest.approx(0.5, abs=1e-3)
    assert designer.read("diagonal_ratio", "Courier") == pytest.approx(1, abs=1e-9)
    assert trace["speed"].max() == pytest.approx(6)
    designer.set("input.diagonal", "Courier", "free")
    assert designer.read("diagonal_ratio", "Courier") == pytest.approx(2**0.5)
    assert designer.session.wake_shown, "the curve as it was stays on the paper"
    designer.key(Key.Key_Z, CTRL)
    assert designer.read("diagonal_ratio", "Courier") == pytest.approx(1, abs=1e-9)


def test_2_compare_turning_with_ease_and_ramp(designer):
    designer.begin("From above")
    designer.set("drive.top_speed", "Courier", "6")
    designer.seek("time_to_top_speed", "Courier", "0.25")
    designer.in_column("Courier")
    designer.key(Key.Key_D, CTRL)
    designer.set("drive.law", "Courier copy", "ease")
    designer.seek("time_to_top_speed", "Courier copy", "0.25")
    assert designer.value("drive.law", "Courier copy") == Law.EASE
    assert designer.read("time_to_top_speed", "Courier copy") == pytest.approx(0.25, abs=2e-3)
    designer.drill("Turn round")
    ramp, blend = designer.trace("Courier"), designer.trace("Courier copy")
    turn = designer.session.drill.take.keys.left[0].start + 1
    # Ease starts fast and arrives late; the ramp covers the whole change at one rate.
    crossed = [int(np.argmax(trace["vx"][turn:] <= 0)) for trace in (ramp, blend)]
    assert crossed[1] < crossed[0]
    explaining = designer.window.page.explaining
    explaining.channel.setCurrentIndex(explaining.channel.findData("vx"))
    designer.session.set_cursor(turn)
    designer.key(Key.Key_W)
    assert explaining.parted.text()
    texts = [words for column in explaining.columns[:2] for words in column.words]
    assert any("ramp" in text for text in texts)
    assert any("ease" in text for text in texts)


def test_3_set_a_jump_by_height_and_time_and_a_hop_of_a_third(designer):
    designer.begin("From the side")
    designer.drill("Tap and hold")
    designer.seek("jump_height", "Courier", "2.6")
    designer.seek("time_to_apex", "Courier", "0.36")
    designer.set("gravity.fall_factor", "Courier", "1.5")
    designer.set("gravity.terminal_speed", "Courier", "18")
    designer.set("jump.short_hop", "Courier", "cut")
    designer.seek("lowest_hop", "Courier", f"{2.6 / 3:.3f}")
    assert designer.read("jump_height", "Courier") == pytest.approx(2.6, rel=1e-3)
    assert designer.read("time_to_apex", "Courier") == pytest.approx(0.36, rel=1e-2)
    assert designer.read("lowest_hop", "Courier") == pytest.approx(2.6 / 3, rel=1e-3)
    assert designer.trace("Courier")["vy"].min() >= -18
    # Tap and hold overlaid, aligned on their launches.
    designer.patch.setattr(designer.window.commands, "ask_one", lambda *_: "Tap")
    designer.key(Key.Key_O, CTRL | SHIFT)
    comparing = designer.window.page.comparing
    while comparing.anchor != "launch":
        designer.key(Key.Key_L)
    held, tapped = designer.session.shown
    assert tapped.tune.name == "Courier on Tap"
    rows = [int(shown.trace.rows_with(LAUNCH)[0]) for shown in (held, tapped)]
    assert comparing.shift(tapped) == rows[1] - rows[0]
    assert tapped.trace["y"].max() == pytest.approx(2.6 / 3, rel=2e-3)
    assert held.trace["y"].max() == pytest.approx(2.6, rel=1e-3)


def launches(designer, tune) -> int:
    return len(designer.trace(tune).rows_with(LAUNCH))


def test_4_find_how_late_and_how_early_a_press_works(designer):
    designer.begin("The demo")
    designer.drill("Gutter's edge")
    hands = designer.window.page.hands
    hands.setFocus()
    late = int(np.argmax(designer.trace("Wren")["state"] != 0))

    def moved_to(frame):
        take = designer.session.drill.take
        hands.lane_now, press = "jump", take.keys.jump[-1]
        keys = take.keys.model_copy(
            update={"jump": (*take.keys.jump[:-1], press._replace(start=frame, end=max(press.end, frame + 2)))}
        )
        designer.session.set_take("Press moved", take.model_copy(update={"keys": keys}), joins=True)

    def works_at(frame, tune, mark):
        moved_to(frame)
        return bool(len(designer.trace(tune).rows_with(mark)))

    # Frame f is read in row f + 1, whose tick begins f - (late - 1) ticks after the last row on the ground.
    latest = max(frame for frame in range(late, late + 20) if works_at(frame, "Wren", COYOTE_LAUNCH))
    assert latest - (late - 1) == pytest.approx(designer.value("jump.coyote", "Wren") * 60)
    designer.drill("Early knock")
    landed = int(designer.trace("Wren").rows_with(LAND)[0])
    # A press up to six ticks before landing still works: that is the buffer.
    earliest = min(frame for frame in range(landed - 12, landed) if works_at(frame, "Wren", BUFFERED_LAUNCH))
    assert landed - earliest == pytest.approx(designer.value("jump.buffer", "Wren") * 60)
    # Widened to six frames each, typed as frames, beside the original tune.
    designer.in_column("Bramble")
    designer.key(Key.Key_B, CTRL)
    designer.set("jump.coyote", "Bramble", "6 frames")
    designer.set("jump.buffer", "Bramble", "6f")
    assert designer.value("jump.coyote", "Bramble") == designer.value("jump.buffer", "Bramble") == pytest.approx(0.1)
    before, after = (designer.session.study.tune(name).values() for name in ("Bramble before", "Bramble"))
    assert {id for id in before if before[id] != after[id]} == {"jump.coyote", "jump.buffer"}
    # The window shows only this: Wren hidden, only rows that differ.
    designer.in_column("Bramble before")
    designer.key(Key.Key_R, CTRL)
    designer.in_column("Wren")
    designer.key(Key.Key_H, CTRL)
    designer.key(Key.Key_F, CTRL | SHIFT)
    sheet = designer.view.sheet
    differing = {
        row.id for group in sheet.groups for row in group.rows if sheet.differs(row, 1) or sheet.differs(row, 2)
    }
    assert {"jump.coyote", "jump.buffer"} <= differing


def test_5_explain_why_one_tune_jumps_twice_in_the_air(designer):
    designer.begin("Pitfalls")
    designer.drill("Second jump in the coyote time")
    trace = designer.trace("Second jump in the coyote time")
    second = int(trace.rows_with(LAUNCH)[1])
    while designer.session.cursor != second:
        before = designer.session.cursor
        designer.key(Key.Key_BracketRight)
        assert designer.session.cursor > before, "there is a mark at the second jump"
    designer.key(Key.Key_E)
    designer.window.page.explaining.refresh()
    words = [words for column in designer.window.page.explaining.columns for words in column.words]
    assert any("has not spent it" in text for text in words)
    designer.set("jump.spend_grace", "Second jump in the coyote time", "yes")
    assert launches(designer, "Second jump in the coyote time") == 1


def test_6_compare_30_and_144_ticks_per_second_and_a_hitch(designer, qtbot):
    designer.begin("Pitfalls")
    designer.drill("Blend by the tick")
    name = "Blend by the tick"
    dialog = Rates(designer.session, designer.session.study.tune(name), designer.window)
    qtbot.addWidget(dialog)
    assert [dialog.table.horizontalHeaderItem(column).text() for column in range(1, 5)] == [
        "30",
        "60",
        "144",
        "60, hitch of 80 ms",
    ]
    assert "It differs" in dialog.outcome.text()
    first = dialog.found.advice[0]
    assert (first.parameter.id, first.value) == ("drive.form", "exact")
    before = max(dialog.found.spread(id) for id in dialog.found.values)
    while dialog.found.advice:
        dialog.take(dialog.found.advice[0])
    assert designer.value("drive.form", name) == "exact"
    assert max(dialog.found.spread(id) for id in dialog.found.values) < before / 5
    designer.session.undo_stack.setIndex(0)
    assert designer.value("drive.form", name) == "linear"


def test_7_tune_a_drifting_pad_and_a_half_push(designer, qtbot):
    designer.begin("From above")
    player = Player(designer.window)
    play = player.play
    player.down(Key.Key_V)
    view = play.pad.view
    designer.set("input.dead_zone_shape", "Courier", "none")
    play.pad.drift.setValue(10)
    player.wait(60)
    assert play.game.live.trace(0)["speed"][-1] > 0, "the drift moves the courier"
    designer.set("input.dead_zone_shape", "Courier", "radial")
    designer.set("input.dead_zone", "Courier", "0.15")
    designer.set("input.dead_zone_rescale", "Courier", "no")
    designer.set("input.outer_zone", "Courier", "0.05")
    player.wait(60)
    assert view.raw == (0.1, 0.0)
    assert view.intent() == (0.0, 0.0)
    assert play.game.live.trace(0)["speed"][-1] == 0
    play.pad.drift.setValue(0)
    top = designer.value("drive.top_speed", "Courier")
    for push, share in ((0.5, 0.5), (1.0, 1.0)):
        view.push(push, 0.0)
        player.wait(90)
        assert play.game.live.trace(0)["speed"][-1] == pytest.approx(share * top, rel=1e-6)
    slowed = designer.value("drive.modifier_speed", "Courier")
    player.down(Key.Key_Shift)
    player.wait(90)
    assert play.game.live.trace(0)["speed"][-1] == pytest.approx(slowed * top, rel=1e-6)
    view.push(0.5, 0.0)
    player.wait(90)
    assert play.game.live.trace(0)["speed"][-1] == pytest.approx(0.5 * slowed * top, rel=1e-6)
    player.up(Key.Key_Shift)


def test_8_play_over_the_roofs_with_the_old_tune_as_a_shadow(designer):
    designer.begin("The demo")
    designer.drill("Rooftop hop")
    designer.in_column("Wren")
    designer.key(Key.Key_B, CTRL)
    designer.set("drive.top_speed", "Wren", "9")
    designer.in_column("Bramble")
    designer.key(Key.Key_H, CTRL)
    designer.in_column("Wren")
    player = Player(designer.window)
    player.play.toggle_recording()
    player.down(Key.Key_Right)
    player.wait(38)
    player.down(Key.Key_Space)
    player.wait(20)
    player.up(Key.Key_Space)
    player.wait(60)
    player.up(Key.Key_Right)
    player.wait(20)
    player.play.toggle_recording()
    assert designer.session.drill.name == "Played take"
    new, old = designer.trace("Wren"), designer.trace("Wren before")
    assert len(new.rows_with(LAUNCH)) == 1
    assert new["x"].max() > 8, "it is over the gap"
    # By hand: both ramp at 60 u/s² until the old one has its 7.5 u/s after 0.125 s; they differ one tick later.
    pressed = designer.session.drill.take.keys.right[0].start
    parted = int(np.argmax(np.abs(new["vx"] - old["vx"]) > 1e-9))
    assert parted == pressed + 8
    designer.key(Key.Key_W)
    assert f"differ from frame {parted} on" in designer.window.page.explaining.parted.text()
    assert designer.session.cursor == parted


def test_9_combine_an_earlier_jump_with_the_new_ground_numbers(designer, qtbot):
    designer.begin("The demo")
    history = History(designer.session, designer.window)
    qtbot.addWidget(history)
    history.name.setText("this morning")
    history.add()
    morning = designer.session.study.tune("Wren")
    designer.set("drive.top_speed", "Wren", "9")
    designer.set("jump.jump_speed", "Wren", "20")
    designer.set("jump.coyote", "Wren", "1f")
    history.milestones.topLevelItem(0).child(0).setSelected(True)
    history.restore_chosen()
    back = "Wren, this morning"
    designer.in_column(back)
    designer.key(Key.Key_R, CTRL)
    for id in ("jump.jump_speed", "jump.coyote"):
        designer.view.setFocus()
        designer.view.setCurrentIndex(designer.view.cell(id, "Wren"))
        QTest.keyClick(designer.view, Key.Key_G)
    now = designer.session.study.tune("Wren")
    assert now.jump == morning.jump
    assert now.drive.top_speed == 9
    designer.in_column(back)
    designer.key(Key.Key_Delete, CTRL)
    assert back not in [tune.name for tune in designer.session.study.tunes]


def test_10_hand_over_to_a_game_and_compare_its_log_with_the_tune(designer, qtbot, tmp_path):
    designer.begin("The demo")
    designer.drill("Rooftop hop")
    dialog = HandOver(designer.session, designer.session.study.tune("Wren"), designer.window)
    qtbot.addWidget(dialog)
    dialog.conventions.pixels.setValue(32)
    dialog.conventions.y_down.setChecked(True)
    dialog.conventions.per.setCurrentIndex(dialog.conventions.per.findData(Per.FRAME))
    numbers = read_numbers(dialog.text.toPlainText(), designer.session.study.conventions).values
    assert "top_speed = 4.0" in dialog.text.toPlainText()
    assert numbers["jump.jump_speed"] == pytest.approx(14.5)
    verdicts = {}
    for name in ("follows", "leaves"):
        path = EXAMPLES / f"rooftop-hop-{name}.csv"
        importing = ImportLog(designer.session, path, path.read_text(), designer.window)
        qtbot.addWidget(importing)
        assert (importing.offset_x.value(), importing.offset_y.value()) == (160, 448)
        importing.accept()
        verdicts[name] = designer.messages[-1]
    assert "follows Wren" in verdicts["follows"]
    assert "leaves Wren" in verdicts["leaves"]
    wren, good, bad = (shown.trace for shown in designer.session.shown if shown.tune.name != "Bramble")
    # It departs where Wren begins to fall, and exceeds half a pixel a little later.
    apex = int(np.argmax(wren["y"]))
    frame = int(verdicts["leaves"].split("at frame ")[1].split()[0])
    assert apex < frame < apex + 8
    assert np.abs(good["y"] - wren["y"][: len(good)]).max() < 1e-3
    assert np.abs(bad["y"] - wren["y"][: len(bad)]).max() > 0.1
