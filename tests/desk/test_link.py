"""The link in the window: numbers sent to a game, its run as a curve, and its changes."""

import os
import signal

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from cinetica.desk.link.game_connection import connection_of
from cinetica.desk.link.stand_in_process import start_stand_in
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
from cinetica.link.desk_link import DeskLink, LinkState
from cinetica.link.take_rows import rows_of
from cinetica.model.tune import parameter_by_id
from cinetica.palette import letter
from cinetica.stand_in.game import StandIn
from tests.desk.conftest import key
from tests.desk.painted import pixels_of
from tests.link.conftest import free_port

CTRL_ALT = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier


@pytest.fixture
def window(window):
    window.resize(1280, 800)
    window.session.choose_drill("Quay sprint")
    window.game.connection.port = free_port()
    return window


class Other:
    """A stand-in game in this process, which runs at the given speed."""

    def __init__(self, window, qtbot):
        self.window, self.qtbot = window, qtbot
        self.game = StandIn(port=window.game.connection.port)

    def until(self, is_so):
        def tried():
            self.game.link.receive()
            return bool(is_so())

        self.qtbot.waitUntil(tried, timeout=10_000)

    def link(self):
        connection = self.window.game.connection
        self.until(lambda: connection.linked and self.game.link.linked and connection.link.is_settled)

    def play(self):
        """Let it run the take that the desk has asked for, at once."""
        self.until(lambda: self.game.take_number > 0)
        number = self.game.take_number
        while self.game.take_number == number:
            self.game.tick()
        link = self.window.game.connection.link
        self.until(lambda: link.frames.last is not None and link.frames.last.number == self.game.link.frame)


@pytest.fixture
def other(window, qtbot):
    made = Other(window, qtbot)
    yield made
    made.game.close()


def live(window):
    return [each for each in window.session.shown if each.live]


def change(window, id, value, tune="Wren"):
    session = window.session
    session.set_value(session.study.tune(tune), parameter_by_id(id), value)


def open_panel(window):
    window.game.show_panel()
    return window.game._panel


def test_the_panel_starts_the_stand_in_and_it_connects(window, qtbot, monkeypatch):
    """Without a window, for lack of a screen; otherwise as if the button had been clicked."""
    panel = open_panel(window)
    monkeypatch.setattr(
        "cinetica.desk.link.panel.start_stand_in",
        lambda port, study: started.append(start_stand_in(port, study, "--headless", "--seconds", "60")),
    )
    started = []
    panel.stand_in.click()
    try:
        qtbot.waitUntil(lambda: window.game.connection.linked, timeout=30_000)
        assert not panel.stand_in.isEnabled()
        assert window.header.game.accessibleName() == "Game: linked"
    finally:
        os.kill(started[0], signal.SIGTERM)


def test_a_stand_in_that_cannot_be_started_is_reported(window, messages, monkeypatch):
    monkeypatch.setattr("sys.executable", "/nowhere/python")
    open_panel(window).stand_in.click()
    assert messages[-1] == "The stand-in game could not be started: /nowhere/python does not run."


def test_the_header_shows_the_link_state_and_a_key_opens_the_link(window, other, messages):
    assert window.header.game.accessibleName() == "Game: off"
    key(window, Qt.Key.Key_L, CTRL_ALT)
    assert window.header.game.accessibleName() == "Game: waiting"
    assert "Waiting for a game on port" in messages[-1]
    other.link()
    assert window.header.game.accessibleName() == "Game: linked"
    assert "Stand-in is linked." in messages
    other.until(lambda: "there and back" in window.header.game.toolTip())
    assert "none lost" in window.header.game.toolTip()
    key(window, Qt.Key.Key_L, CTRL_ALT)
    assert window.header.game.accessibleName() == "Game: off"
    other.game.link.receive()
    assert not other.game.link.linked


def test_the_header_does_not_move_with_the_state(window, other):
    places = [(each.geometry(), each.isVisible()) for each in window.header.findChildren(type(window.header.game))]
    window.game.turn()
    other.link()
    QApplication.processEvents()
    now = [(each.geometry(), each.isVisible()) for each in window.header.findChildren(type(window.header.game))]
    assert now == places


def test_the_details_in_the_panel_begin_at_the_top(window):
    details = open_panel(window).details
    details.setText("One line")
    pixels = pixels_of(details.grab().toImage())
    inked = np.flatnonzero((pixels != pixels[-1, -1]).any(axis=(1, 2)))
    assert inked.size
    assert inked.max() < details.height() / 2


def test_numbers_are_sent_during_a_drag_and_on_undo(window, other, hand):
    window.game.turn()
    other.link()
    assert other.game.numbers["top_speed"] == 7.5
    hand.drag("drive.top_speed", "Wren", 30, release=False)
    dragged = window.session.study.tune("Wren").drive.top_speed
    assert dragged > 7.5
    other.until(lambda: other.game.numbers["top_speed"] == dragged)
    hand.release()
    window.session.undo()
    other.until(lambda: other.game.numbers["top_speed"] == 7.5)
    # Another tune becomes the live one.
    window.game.connection.choose("Bramble")
    other.until(lambda: other.game.numbers["top_speed"] == 6.0)
    other.until(lambda: window.game.connection.link.is_settled)
    # Changes of the others are not sent.
    change(window, "drive.top_speed", 9.0)
    assert window.game.connection.link.is_settled
    assert other.game.numbers["top_speed"] == 6.0


def test_a_run_in_the_game_is_a_live_curve_that_can_be_kept(window, other, messages):
    window.game.turn()
    other.link()
    assert not live(window)
    key(window, Qt.Key.Key_R, CTRL_ALT)
    other.play()
    other.until(lambda: live(window) and len(live(window)[0].trace) == 121)
    (run,) = live(window)
    wren = window.session.shown[0].trace
    assert run.trace["x"].tolist() == pytest.approx(wren["x"].tolist(), abs=1e-9)
    assert run.trace.logged
    # It is not a column of the sheet, which would come and go.
    columns = window.sheet.figures.sheet.tunes
    assert [tune.name for _, tune in columns] == ["Wren", "Bramble"]
    key(window, Qt.Key.Key_K, CTRL_ALT)
    (log,) = window.session.study.logs
    assert (log.name, log.drill) == ("Stand-in on Quay sprint", "Quay sprint")
    assert "follows" in messages[-1]
    assert [tune.name for _, tune in window.sheet.figures.sheet.tunes][-1] == log.name
    # On another drill it is not shown.
    window.session.choose_drill("Rooftop hop")
    assert not live(window)
    window.session.undo()
    assert not window.session.study.logs


def test_a_run_with_other_numbers_differs_and_the_first_row_is_named(window, other, messages):
    window.game.turn()
    other.link()
    other.game.set_number("acceleration", 20.0)
    window.game.play()
    other.play()
    window.game.keep()
    assert "leaves Wren on Quay sprint at frame 6" in messages[-1]
    assert "vx" in messages[-1]


def test_a_free_run_is_lined_up_before_the_comparison(window, other, messages):
    """Played by hand in the game, half a second late, from another position than the desk's start."""
    window.game.turn()
    other.link()
    game, take = other.game, window.session.drill.take
    game.body.put(3.0, 0.0)
    game.row = 0
    game.link.send_frame(0, 0, 1 / 60, ())
    right = take.keys.right[0]
    for tick in range(take.length - 30):
        game.held = {"right"} if right.start <= tick < right.end else set()
        game.tick()
    other.until(lambda: window.game.connection.link.frames.received >= take.length - 30)
    window.game.keep()
    assert "follows" in messages[-1]


def test_a_number_changed_in_the_game_is_one_edit_with_its_author(window, other, messages):
    window.game.turn()
    other.link()
    other.game.change("top_speed", 9.25)
    other.until(lambda: window.session.study.tune("Wren").drive.top_speed == 9.25)
    stack = window.session.undo_stack
    assert stack.undoText() == "Top speed of Wren, by Stand-in"
    window.session.undo()
    assert window.session.study.tune("Wren").drive.top_speed == 7.5
    # The game is told as well.
    other.until(lambda: other.game.numbers["top_speed"] == 7.5)
    other.game.change("top_speed", -5.0)
    other.until(lambda: "Stand-in set top_speed" in messages[-1])
    assert window.session.study.tune("Wren").drive.top_speed == 7.5


def test_a_change_from_the_game_waits_for_the_end_of_a_drag(window, other):
    window.game.turn()
    other.link()
    session = window.session
    session.begin("Drag")
    change(window, "drive.friction", 33.0)
    other.game.change("gravity", 50.0)
    other.until(lambda: bool(window.game.connection._waiting))
    assert session.study.tune("Wren").gravity.gravity == 42.0
    session.end()
    assert session.study.tune("Wren").gravity.gravity == 50.0
    session.undo()
    assert session.study.tune("Wren").drive.friction == 33.0
    session.undo()
    assert session.study.tune("Wren").drive.friction == 70.0


def test_numbers_unknown_to_the_game_are_named(window, other):
    window.game.turn()
    other.link()
    connection = window.game.connection
    other.until(lambda: bool(connection.unknown_words))
    assert "corner_slip" in connection.unknown_words
    assert "top_speed" not in connection.unknown_words
    panel = open_panel(window)
    assert "corner_slip" in panel.details.text()


def test_every_control_of_the_panel_works(window, other):
    panel = open_panel(window)
    assert panel.state.text() == "Off"
    assert not panel.play.isEnabled()
    panel.turn.click()
    assert panel.state.text() == "Waiting for a game"
    other.link()
    assert panel.state.text() == "Linked"
    assert panel.tunes.currentText() == "Wren"
    panel.reset.click()
    other.until(lambda: other.game.row == 0 and window.game.connection.link.is_settled)
    panel.pause.click()
    other.until(lambda: other.game.paused)
    assert panel.pause.text() == "Go on"
    panel.step.click()
    other.until(lambda: other.game.row == 1)
    panel.play.click()
    other.play()
    other.game.link.send("mark", "is", other.game.link.frame, "land")
    other.until(lambda: "Last event: land" in panel.details.text())
    panel.refresh()
    panel.keep.click()
    assert len(window.session.study.logs) == 1
    panel.tunes.setCurrentText("Bramble")
    panel.tunes.activated.emit(1)
    assert window.game.connection.tune_name == "Bramble"
    panel.turn.click()
    assert panel.state.text() == "Off"


def test_without_a_game_no_request_is_sent_and_that_is_reported(window, messages):
    for act in (window.game.play, window.game.reset):
        act()
        assert messages[-1] == "No game is linked."
    window.game.pause()
    window.game.step()
    window.game.keep()
    assert "no link" in messages[-1]


def test_a_port_in_use_is_explained(window, messages):
    taken = DeskLink(window.game.connection.port)
    taken.open()
    window.game.turn()
    assert window.game.connection.state is LinkState.OFF
    assert "cannot be used" in messages[-1]
    taken.close()


def test_a_game_that_disconnects_and_reconnects_is_reported(window, other, messages, qtbot):
    window.game.turn()
    other.link()
    other.game.close()
    qtbot.waitUntil(lambda: "is gone" in messages[-1], timeout=5000)
    again = Other(window, qtbot)
    again.link()
    assert messages[-1] == "Stand-in is linked."
    again.game.close()


def test_windows_of_one_study_share_the_link_and_the_last_closes_it(window, other):
    second = Window(Session(beside=window.session), beside=window)
    second.session.start()
    connection = window.game.connection
    assert second.game.connection is connection
    second.session.choose_drill("Quay sprint")
    second.game.turn()
    other.link()
    assert window.header.game.accessibleName() == "Game: linked"
    window.game.play()
    other.play()
    other.until(lambda: live(window) and live(second))
    second.close()
    assert connection.linked
    change(window, "drive.top_speed", 8.0)
    other.until(lambda: other.game.numbers["top_speed"] == 8.0)
    window.game.close()
    assert connection.state is LinkState.OFF


def test_opening_another_study_sends_its_numbers(window, other):
    window.game.turn()
    other.link()
    study = window.session.study
    wren = study.tune("Wren").put("drive.top_speed", 5.5)
    window.session.load(study.with_tune(wren, instead_of="Wren"), None)
    other.until(lambda: other.game.numbers["top_speed"] == 5.5)


def test_the_game_follows_play(window, other):
    window.game.turn()
    other.link()
    window.show_page("play_page")
    play = window.desk.shown
    play.begin()
    play.game.live.tick(play.hands())
    other.game.held = {"right"}
    for _ in range(40):
        other.game.tick()
    other.until(lambda: window.game.connection.link.frames.received >= 40)
    recent = play.rolling.linked(4.0)
    assert recent.tick_rate == 60
    assert recent.columns["vx"][-1] == pytest.approx(7.5)
    assert recent.columns["speed"].max() == pytest.approx(7.5)
    play.rolling.grab()
    assert play.rolling._recent is not None


def test_the_live_run_has_a_letter_of_its_own_everywhere(window, other, monkeypatch):
    window.game.turn()
    other.link()
    window.game.play()
    other.play()
    other.until(lambda: live(window))
    window.show_page("play_page")
    rolling, session = window.desk.shown.rolling, window.session
    window.desk.shown.begin()
    window.desk.shown.game.live.tick(window.desk.shown.hands())
    letters, painted = [], set()
    monkeypatch.setattr("cinetica.desk.play.rolling.look.letter", lambda place: painted.add(place) or letter(place))
    for _ in range(2):
        places = {run.place: run.live for run in session.shown}
        assert len(places) == len(session.shown)
        assert places[rolling.linked_place()]
        assert session.runs.best_place not in places
        letters.append(letter(rolling.linked_place()))
        painted.clear()
        rolling.grab()
        assert painted == {0, 1, rolling.linked_place()}
        window.game.keep()
    assert letters == ["X", "Y"]


def test_no_message_blocks_the_window(window, other, qtbot):
    window.game.turn()
    other.link()
    sock = other.game.link.socket
    for datagram in (b"", b"\0" * 500, b"#bundle\0" + b"\xff" * 40, b"/cinetica/frame\0,i\0\0\0\0\0\1", b"/cinetica/x"):
        for _ in range(200):
            sock.sendto(datagram, other.game.link.desk)
    connection = window.game.connection
    qtbot.waitUntil(lambda: connection.link.refusals.bad >= 1000, timeout=5000)
    assert connection.linked
    assert "1000 messages were not taken" in connection.details


def test_the_live_run_is_no_longer_than_the_drill(window, other):
    window.game.turn()
    other.link()
    for _ in range(400):
        other.game.tick()
    other.until(lambda: window.game.connection.link.frames.received >= 400)
    drill = window.session.drill
    assert len(window.game.connection.frames_on(drill)) <= rows_of(drill.take, 60) + 1
    assert connection_of(window.session.document) is window.game.connection
