"""Play with real key events, the on-screen pad, and a simulated evdev pad."""

import os

import evdev
import numpy as np
import pytest
from evdev import AbsInfo, InputEvent, ecodes
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QFocusEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from cinetica.desk import look
from cinetica.desk.paint.layer_cache import without_paint_caches
from cinetica.desk.play.bindings import Bindings
from cinetica.desk.play.game import LONGEST_CATCH_UP
from cinetica.desk.play.keyboard import Keyboard
from cinetica.desk.play.pad import Pad, is_pad
from cinetica.desk.play.pads import Pads
from cinetica.desk.play.page import COMMANDS
from cinetica.model.tune import parameter_by_id
from cinetica.motion.records import COYOTE_LAUNCH, LAUNCH, TRACE
from cinetica.motion.simulate import simulate
from cinetica.reading.channels import BY_COLUMN
from tests.motion.test_live import same_bits

Key = Qt.Key


class Player:
    """The page, with a clock that only the test advances."""

    def __init__(self, window):
        self.window = window
        window.show_page("play_page")
        self.play = window.play
        self.play.timer.stop()
        self.play.pads.stop()
        self.time = 0.0
        self.play.clock = lambda: self.time
        self.play.game.resume(0.0)
        self.play.begin()

    def wait(self, ticks):
        """Let real time pass, in frames of one tick."""
        for _ in range(ticks):
            self.time += 1 / 60
            self.play.frame()

    def down(self, *keys):
        for key in keys:
            QTest.keyPress(self.play, key)

    def up(self, *keys):
        for key in keys:
            QTest.keyRelease(self.play, key)

    @property
    def trace(self):
        return self.play.game.live.trace(0)


@pytest.fixture
def player(window):
    window.session.choose_drill("Gutter's edge")
    return Player(window)


def test_walking_stopping_tapping_and_holding(player):
    player.down(Key.Key_Right)
    player.wait(9)
    assert player.trace["vx"][-1] == 7.5
    player.up(Key.Key_Right)
    player.wait(12)
    assert player.trace["vx"][-1] == 0
    heights = []
    for held in (3, 30):
        player.play.respawn()
        player.down(Key.Key_Space)
        player.wait(held)
        player.up(Key.Key_Space)
        player.wait(70)
        heights.append(player.trace["y"].max())
    assert 0 < heights[0] < 0.6 * heights[1]


def test_a_jump_late_off_a_ledge_is_in_coyote_time(player):
    player.down(Key.Key_D)
    while player.trace["since_ground"][-1] == 0:
        player.wait(1)
    player.wait(3)
    player.down(Key.Key_Space)
    player.wait(1)
    assert player.trace["marks"][-1] & COYOTE_LAUNCH
    assert "launch" in player.play.arena.words()


def test_a_recorded_take_replays_to_the_same_bits_and_goes_to_compare(player):
    window = player.window
    player.down(Key.Key_R)
    assert player.play.game.recording
    player.down(Key.Key_Right)
    player.wait(21)
    player.down(Key.Key_Space)
    player.wait(14)
    player.up(Key.Key_Space, Key.Key_Right)
    player.wait(120)
    live = np.array(player.trace)
    player.down(Key.Key_R)
    drill = window.session.drill
    assert drill.name == "Played take"
    assert window.desk.shown is window.page
    trace = simulate(window.session.study.tune("Wren"), drill, window.session.study.clock)
    assert same_bits(trace.rows.view(TRACE, np.ndarray), live[: len(trace)])
    # Half a second of rest at the end is kept.
    assert len(live) - len(trace) >= 30
    assert not trace["vx"][-30:].any()
    assert trace.rows_with(LAUNCH).size == 1
    window.session.undo_stack.undo()
    assert "Played take" not in [drill.name for drill in window.session.study.drills]


def test_the_last_ten_seconds_can_be_kept_afterwards(player):
    player.down(Key.Key_Right)
    player.wait(12)
    player.up(Key.Key_Right)
    player.wait(5)
    player.down(Key.Key_K)
    assert player.window.session.drill.name == "Played take"
    assert player.window.session.drill.take.keys.right == ((0, 12),)


def test_shadows_get_the_same_input_and_are_followed_in_turn(player):
    player.down(Key.Key_Right)
    player.wait(30)
    live = player.play.game.live
    assert [tune.name for tune in live.tunes] == ["Wren", "Bramble"]
    assert np.array_equal(live.trace(0)["input_x"], live.trace(1)["input_x"])
    assert live.trace(0)["x"][-1] > live.trace(1)["x"][-1]
    player.down(Key.Key_Tab)
    assert player.play.arena.followed == 1
    player.play.toggle_shadows()
    assert len(player.play.game.live.tunes) == 1


def test_numbers_change_while_the_character_moves(player):
    player.down(Key.Key_Right)
    player.wait(20)
    player.window.session.set_value(player.window.session.study.tune("Wren"), parameter_by_id("drive.top_speed"), 2.0)
    rows = player.play.game.live.rows
    player.wait(20)
    assert player.play.game.live.rows == rows + 20
    assert player.trace["vx"][-1] == 2.0


def test_slow_time_single_ticks_and_pause(player):
    player.play.next_speed()
    player.wait(20)
    assert player.play.game.live.rows == 11
    player.down(Key.Key_P)
    player.wait(20)
    assert player.play.game.live.rows == 11
    player.down(Key.Key_Right)
    player.down(Key.Key_Period)
    assert player.play.game.live.rows == 12
    assert player.trace["vx"][-1] == 1.0


def test_time_does_not_drift_and_a_stall_is_reported(player):
    for _ in range(3607):
        player.time += 1 / 60.1
        player.play.frame()
    assert player.play.game.live.rows - 1 == pytest.approx(player.time * 60, abs=1)
    assert player.play.game.dropped == 0
    player.time += LONGEST_CATCH_UP + 1
    player.play.frame()
    assert player.play.game.dropped == 60
    assert "60 ticks dropped" in player.play.honest.text()


def test_a_fall_off_the_course_returns_to_the_last_ground(player):
    live = player.play.game.live
    start = live.start
    drill = player.play.game.drill
    lone = drill.course.model_copy(update={"solids": drill.course.solids[:1]})
    player.play.game.drill = drill.model_copy(update={"course": lone})
    player.play.game.respawn()
    player.down(Key.Key_Right)
    player.wait(240)
    player.up(Key.Key_Right)
    player.wait(60)
    assert player.trace["y"][-1] == 0
    assert player.trace["x"][-1] == start[0]


@pytest.mark.parametrize("leave", ["focus", "page", "close"])
def test_keys_are_released_when_the_focus_is_lost(player, leave):
    player.down(Key.Key_Right, Key.Key_Space)
    player.play.pad.press("jump")
    assert player.play.hands().keys == {"right", "jump"}
    if leave == "focus":
        QApplication.sendEvent(player.play, QFocusEvent(QEvent.Type.FocusOut))
    elif leave == "page":
        player.window.show_page("compare")
    else:
        player.window.session.undo_stack.setClean()
        player.window.close()
    assert player.play.hands().keys == frozenset()


def test_input_latency_is_measured(player, qtbot):
    player.down(Key.Key_Right)
    player.play.arena.repaint()
    assert player.play.honest.text() == ""
    player.wait(2)
    player.play.arena.repaint()
    assert "key to picture 33 ms (2.0 frames)" in player.play.honest.text()


def test_the_pad_on_the_screen_moves_the_character_and_shows_the_intent(player, qtbot):
    player.down(Key.Key_V)
    view = player.play.pad.view
    qtbot.waitExposed(view)
    middle = QPoint(round(view.at(0, 0).x()), round(view.at(0, 0).y()))
    QTest.mousePress(
        view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(round(view.at(0.5, 0).x()), middle.y())
    )
    raw = view.raw[0]
    assert raw == pytest.approx(0.5, abs=0.02)
    tune = player.window.session.study.tune("Wren").input
    assert view.intent()[0] == pytest.approx((raw - tune.dead_zone) / (1 - tune.outer_zone - tune.dead_zone), abs=1e-3)
    player.wait(30)
    assert player.trace["vx"][-1] == pytest.approx(7.5 * view.intent()[0])
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle)
    assert view.raw == (0, 0)
    view.drift = (0.05, 0.0)
    assert view.intent() == (0.0, 0.0)
    player.wait(30)
    assert player.trace["vx"][-1] == 0


def test_dragging_a_number_keeps_the_keys_of_play(player, hand):
    player.play.setFocus()
    player.down(Key.Key_Right)
    hand.drag("drive.top_speed", "Wren", -20)
    assert player.play.hands().keys == {"right"}
    player.wait(20)
    assert player.trace["vx"][-1] == player.window.session.study.tune("Wren").drive.top_speed < 7.5


@pytest.mark.parametrize("change", ["nothing", "a size", "a look", "channels"])
def test_a_prepared_picture_is_discarded_when_it_is_out_of_date(player, change):
    player.down(Key.Key_Right)
    for _ in range(3):
        player.wait(5)
        if change == "a size":
            player.play.arena.resize(player.play.arena.width() - 7, player.play.arena.height() - 3)
        elif change == "a look":
            look.set_palette(look.NIGHT)
        elif change == "channels":
            player.play.rolling.show_channels([BY_COLUMN["speed"], BY_COLUMN["vy"]])
        try:
            for part in (player.play.arena, player.play.rolling):
                seen = part.grab().toImage()
                with without_paint_caches():
                    assert part.grab().toImage() == seen
        finally:
            look.set_palette(look.DAY)


def test_labels_beside_the_character_can_be_turned_off(player):
    with_words = player.play.arena.grab().toImage()
    player.down(Key.Key_I)
    assert player.play.arena.grab().toImage() != with_words


def test_play_uses_the_camera_of_the_tune_or_a_close_one(player):
    """Wren's camera looks ahead: running to the right she is left of the centre."""
    arena = player.play.arena

    def off_the_middle():
        player.play.grab()
        return arena._mapping.point(arena.position(0)).x() - arena.width() / 2

    player.window.session.choose_drill("Quay sprint")
    player.play.begin()
    player.down(Key.Key_Right)
    player.wait(70)
    away = off_the_middle()
    row = player.trace[-1]
    assert row["camera_x"] > row["x"] + 0.2
    assert away < -10
    player.down(Key.Key_C)
    assert not player.play.camera_action.isChecked()
    assert off_the_middle() == 0
    player.wait(18)
    assert off_the_middle() > 10
    player.down(Key.Key_C)
    assert off_the_middle() < -10


def test_the_yard_ships_for_both_views(player):
    for drill in ("Gutter's edge", "Channel turn"):
        player.window.session.choose_drill(drill)
        player.play.courses.setCurrentIndex(1)
        player.play.begin()
        assert player.play.game.drill.name.startswith("The yard")
        player.wait(5)
        assert player.trace["overlap"].max() == 0
        player.play.grab()


# Keys


def test_keys_are_rebound_and_conflicts_refused(window):
    keyboard, pads = Keyboard(), Pads(lambda: ([], []))
    dialog = Bindings(keyboard, pads, COMMANDS, window)
    dialog.show()
    dialog.wait_for("jump")
    QTest.keyClick(dialog, Key.Key_Left)
    assert "is already used for left" in dialog.message.text()
    QTest.keyClick(dialog, Key.Key_P)
    assert "belongs to the page" in dialog.message.text()
    dialog.bind(Key.Key_Meta.value)
    assert "the desktop" in dialog.message.text()
    QTest.keyClick(dialog, Key.Key_J)
    assert keyboard.press(Key.Key_J.value)
    assert keyboard.held == {"jump"}
    assert not keyboard.press(Key.Key_Space.value)
    dialog.reset()
    assert keyboard.bindings[Key.Key_Space.value] == "jump"


# A simulated pad


class SimulatedPad:
    """Sends the event codes of a real pad; its file descriptor is the reading end of a pipe."""

    name, path = "Simulated pad", "/dev/input/event99"

    def __init__(self, sticks=True):
        self.ends = os.pipe()
        self.waiting, self.gone, self.closed = [], False, False
        axis = AbsInfo(value=128, min=0, max=255, fuzz=0, flat=15, resolution=0)
        wide = AbsInfo(value=0, min=-32768, max=32767, fuzz=16, flat=128, resolution=0)
        hat = AbsInfo(value=0, min=-1, max=1, fuzz=0, flat=0, resolution=0)
        axes = (
            [(ecodes.ABS_X, axis), (ecodes.ABS_Y, axis), (ecodes.ABS_RX, wide), (ecodes.ABS_RY, wide)] if sticks else []
        )
        self._able = {
            ecodes.EV_KEY: [ecodes.BTN_SOUTH, ecodes.BTN_EAST, ecodes.BTN_TL],
            ecodes.EV_ABS: [*axes, (ecodes.ABS_HAT0X, hat)],
        }

    def capabilities(self):
        return self._able

    def fileno(self):
        return self.ends[0]

    def read(self):
        if self.gone:
            raise OSError(19, "No such device")
        events, self.waiting = self.waiting, []
        os.read(self.ends[0], len(events) or 1)
        return iter(events)

    def close(self):
        self.closed = True

    def send(self, kind, code, value):
        self.waiting.append(InputEvent(0, 0, kind, code, value))
        os.write(self.ends[1], b".")


def test_pad_events_become_input():
    pad = Pad(SimulatedPad())
    for kind, code, value in (
        (ecodes.EV_KEY, ecodes.BTN_SOUTH, 1), (ecodes.EV_ABS, ecodes.ABS_X, 255), (ecodes.EV_ABS, ecodes.ABS_Y, 0),
        (ecodes.EV_ABS, ecodes.ABS_RX, -32768), (ecodes.EV_ABS, ecodes.ABS_HAT0X, -1), (ecodes.EV_SYN,
        ecodes.SYN_REPORT, 0),
    ):  # fmt: skip
        pad.take(InputEvent(0, 0, kind, code, value))
    assert pad.held.keys == {"jump", "left"}
    assert pad.held.stick == (1.0, 1.0)
    assert pad.held.aim[0] == -1.0
    pad.take(InputEvent(0, 0, ecodes.EV_ABS, ecodes.ABS_X, 128 + 14))
    assert pad.held.stick[0] == 0.0
    pad.take(InputEvent(0, 0, ecodes.EV_ABS, ecodes.ABS_X, 128 + 40))
    assert pad.held.stick[0] == pytest.approx(40.5 / 127.5)
    pad.take(InputEvent(0, 0, ecodes.EV_KEY, ecodes.BTN_SOUTH, 0))
    assert pad.held.keys == {"left"}


def test_buttons_and_sticks_are_learnt_by_pressing_them():
    pad = Pad(SimulatedPad())
    pad.learning = "jump"
    assert "BTN_TL is jump now" in pad.take(InputEvent(0, 0, ecodes.EV_KEY, ecodes.BTN_TL, 1))
    pad.take(InputEvent(0, 0, ecodes.EV_KEY, ecodes.BTN_TL, 1))
    assert pad.held.keys == {"jump"}
    pad.learning = "stick"
    assert not pad.take(InputEvent(0, 0, ecodes.EV_ABS, ecodes.ABS_RX, 3000))
    assert "now the stick" in pad.take(InputEvent(0, 0, ecodes.EV_ABS, ecodes.ABS_RX, 32767))
    assert pad.held.stick[0] == 1.0


def test_a_pad_plays_and_lets_go_when_it_is_unplugged(player, qtbot):
    device, messages = SimulatedPad(), []
    pads = player.play.pads
    pads.find = lambda: ([device], [])
    pads.message.connect(messages.append)
    pads.look()
    assert messages == ["Pad: Simulated pad."]
    device.send(ecodes.EV_ABS, ecodes.ABS_X, 255)
    device.send(ecodes.EV_KEY, ecodes.BTN_SOUTH, 1)
    qtbot.waitUntil(lambda: player.play.hands().keys == {"jump"}, timeout=2000)
    player.play.toggle_pad()
    player.wait(9)
    assert player.play.pad.view.raw == (1.0, 0.0)
    assert player.trace["vx"][-1] > 5
    device.gone = True
    os.write(device.ends[1], b".")
    qtbot.waitUntil(lambda: pads.pad is None, timeout=2000)
    assert player.play.hands().keys == frozenset()
    assert player.play.hands().stick == (0, 0)
    assert "unplugged" in messages[-1]
    assert device.closed


@pytest.mark.parametrize(
    ("found", "closed", "words"),
    [
        (0, [], "No pad is connected"),
        (0, ["/dev/input/event3"], "group “input”"),
        (2, [], "2 pads are there; the first is used"),
    ],
)
def test_found_pads_are_described(found, closed, words):
    pads = Pads(lambda: ([SimulatedPad() for _ in range(found)], closed))
    pads.look()
    assert words in pads.words
    pads.stop()


@pytest.mark.parametrize(("closed", "words"), [([], "Space jumps"), (["/dev/input/event3"], "group “input”")])
def test_without_a_readable_pad_the_keys_or_a_remedy_are_shown(player, closed, words):
    play = player.play
    play.pads.find = lambda: ([], closed)
    for _ in range(2):
        play.hide()
        play.show()
        assert words in play.hint.text()


def test_a_pad_without_sticks_is_described_and_other_devices_are_none():
    pads = Pads(lambda: ([SimulatedPad(sticks=False)], []))
    pads.look()
    assert "no sticks" in pads.words
    pads.stop()

    class Mouse(SimulatedPad):
        def capabilities(self):
            return {ecodes.EV_KEY: [ecodes.BTN_LEFT], ecodes.EV_REL: [ecodes.REL_X]}

    assert not is_pad(Mouse())
    assert isinstance(evdev.ecodes.BTN_SOUTH, int)


def test_a_take_played_with_the_pad_on_the_screen_replays_to_the_same_bits(player, qtbot):
    player.down(Key.Key_V)
    player.down(Key.Key_R)
    view = player.play.pad.view
    for x in (0.3, 0.62, 0.9):
        view.push(x, 0.1)
        player.wait(8)
    player.play.pad.press("jump")
    player.wait(5)
    player.play.pad.release("jump")
    view.release_all()
    player.wait(100)
    live = np.array(player.trace)
    player.down(Key.Key_R)
    window = player.window
    trace = simulate(window.session.study.tune("Wren"), window.session.drill, window.session.study.clock)
    assert len(window.session.drill.take.stick) == 4
    assert same_bits(trace.rows.view(TRACE, np.ndarray), live[: len(trace)])


# Triggers


def pulled(pad, code, value):
    pad.take(InputEvent(0, 0, ecodes.EV_ABS, code, value))


def with_triggers(*codes, sticks=True):
    device = SimulatedPad(sticks)
    trigger = AbsInfo(value=0, min=0, max=255, fuzz=0, flat=0, resolution=0)
    device._able[ecodes.EV_ABS] += [(code, trigger) for code in codes]
    return device


def test_triggers_thrust_as_far_as_they_are_pulled():
    pad = Pad(with_triggers(ecodes.ABS_Z, ecodes.ABS_RZ))
    assert pad.thrust == 0
    pulled(pad, ecodes.ABS_RZ, 255)
    assert pad.thrust == 1
    pulled(pad, ecodes.ABS_Z, 51)
    assert pad.thrust == pytest.approx(0.8)
    assert pad.held.aim == (0, 0)
    pad.release_all()
    assert pad.thrust == 0


def test_the_axes_of_a_second_stick_are_not_triggers():
    device = with_triggers(ecodes.ABS_Z, ecodes.ABS_RZ)
    device._able[ecodes.EV_ABS] = [
        pair for pair in device._able[ecodes.EV_ABS] if pair[0] not in (ecodes.ABS_RX, ecodes.ABS_RY)
    ]
    pad = Pad(device)
    assert pad.aim == (ecodes.ABS_Z, ecodes.ABS_RZ)
    pulled(pad, ecodes.ABS_RZ, 255)
    assert pad.thrust == 0


def test_triggers_are_learnt_by_pulling_them():
    pad = Pad(with_triggers(ecodes.ABS_GAS, ecodes.ABS_BRAKE, ecodes.ABS_THROTTLE))
    pulled(pad, ecodes.ABS_BRAKE, 255)
    assert pad.thrust == -1
    pad.learning = "reverse"
    pulled(pad, ecodes.ABS_X, 255)
    assert pad.learning == "reverse"
    pulled(pad, ecodes.ABS_THROTTLE, 100)
    assert pad.learning == "reverse"
    pad.take(InputEvent(0, 0, ecodes.EV_ABS, ecodes.ABS_THROTTLE, 255))
    assert pad.learning == ""
    pulled(pad, ecodes.ABS_THROTTLE, 0)
    assert pad.thrust == 0


def test_only_bodies_with_thrust_take_triggers(player):
    play, window = player.play, player.window
    pads = play.pads
    device = with_triggers(ecodes.ABS_Z, ecodes.ABS_RZ)
    pads.find = lambda: ([device], [])
    pads.look()
    pulled(pads.pad, ecodes.ABS_RZ, 255)
    assert play.hands().stick == (0, 0)
    window.session.choose_drill("Channel turn")
    names = [tune.name for tune in play.game.live.tunes]
    while names[play.arena.followed] != "Punt":
        player.down(Key.Key_Tab)
    assert play.hands().stick == (0, 1.0)
    player.wait(30)
    assert play.game.live.trace(play.arena.followed)["speed"][-1] > 1
    pulled(pads.pad, ecodes.ABS_RZ, 0)
    pulled(pads.pad, ecodes.ABS_Z, 255)
    assert play.hands().stick == (0, -1.0)
    pads.stop()
