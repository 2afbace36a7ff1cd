"""The desk's end of the connection, with a stand-in game at the other end."""

import random
import socket

import pytest

from cinetica.link.conventions import csv_of, logged_run, number_from, solids_of, start_of, values_of
from cinetica.link.desk_link import SILENCE, Changed, DeskLink, Linked, LinkState, Lost, Marked
from cinetica.link.frames import Frame
from cinetica.link.messages import FROM_DESK, FROM_GAME, LARGEST, decode, encode
from cinetica.link.take_rows import take_rows
from cinetica.model.conventions import Conventions, Per
from cinetica.motion.simulate import simulate
from tests.link.conftest import talk


def linked(desk, game):
    return talk(desk, game, lambda: desk.state is LinkState.LINKED and game.link.linked)


def played(desk, game, study, tune, drill):
    """Run the take of a drill in the game, as fast as possible; returns the frames."""
    chosen = study.drill(drill)
    desk.show(tune, values_of(study.tune(tune), study.conventions))
    desk.reset(start_of(study, chosen), solids_of(study, chosen))
    number = desk.play(take_rows(chosen.take), chosen.take.rate, chosen.take.length)
    talk(desk, game, lambda: desk.is_settled)
    while game.take_number == number:
        game.tick()
        desk.receive()
    desk.receive()
    return desk.frames.run()


class Stranger:
    """A stranger with a socket."""

    def __init__(self, desk):
        self.socket = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        self.socket.settimeout(5)
        self.desk = ("127.0.0.1", desk.port)

    def say(self, name, *arguments):
        self.socket.sendto(encode(FROM_GAME[name], *arguments), self.desk)

    def heard(self):
        return decode(self.socket.recv(2048), FROM_DESK)[0]


@pytest.fixture
def stranger(desk):
    made = Stranger(desk)
    yield made
    made.socket.close()


def test_a_hello_connects_and_numbers_follow(desk, game, harbour):
    desk.show("Wren", values_of(harbour.tune("Wren"), harbour.conventions))
    assert desk.state is LinkState.WAITING
    events = linked(desk, game)
    assert Linked("Stand-in") in events
    talk(desk, game, lambda: desk.is_settled)
    assert game.link.tune == "Wren"
    assert game.link.desk_name == "Harbour couriers"
    assert game.numbers["top_speed"] == 7.5
    assert game.numbers["cut_factor"] == harbour.tune("Wren").jump.cut_factor
    # Numbers unknown to the game are named, and not waited for.
    talk(desk, game, lambda: desk.peer.known is not None)
    assert "corner_slip" in desk.unknown
    assert "top_speed" not in desk.unknown


def test_the_last_value_of_a_drag_arrives(desk, game, harbour):
    linked(desk, game)
    values = values_of(harbour.tune("Wren"), harbour.conventions)
    for step in range(50):
        desk.show("Wren", values | {"top_speed": 5.0 + step / 10})
        if step % 7 == 0:
            game.link.receive()
            desk.receive()
    talk(desk, game, lambda: desk.is_settled)
    assert game.numbers["top_speed"] == 9.9


@pytest.mark.parametrize("drill", ["Quay sprint", "Turn on the jetty", "Rooftop hop", "Gutter's edge", "Early knock"])
def test_a_take_run_in_the_game_follows_the_tune(desk, game, harbour, drill):
    linked(desk, game)
    frames = played(desk, game, harbour, "Wren", drill)
    log = logged_run(frames, harbour, harbour.drill(drill), "Stand-in")
    trace = simulate(harbour.tune("Wren"), harbour.drill(drill), harbour.clock)
    assert len(log.x) == len(trace)
    for column in ("x", "y", "vx", "vy"):
        assert getattr(log, column) == pytest.approx(trace[column].tolist(), abs=1e-9)
    assert log.time == pytest.approx(trace["time"].tolist())


def test_in_the_conventions_of_the_game_it_is_the_same_curve(desk, game, harbour):
    """A game that counts in pixels per second with y up has numbers and a body 32 times as large."""
    conventions = Conventions(pixels_per_unit=32.0)
    study = harbour.model_copy(update={"conventions": conventions})
    linked(desk, game)
    drill = study.drill("Rooftop hop")
    frames = played(desk, game, study, "Wren", "Rooftop hop")
    assert game.numbers["top_speed"] == 240.0
    assert game.body.solids[0][2] == 32 * harbour.drill("Rooftop hop").course.solids[0].right
    trace = simulate(harbour.tune("Wren"), drill, harbour.clock)
    assert frames[60].x == pytest.approx(32 * trace["x"][60])
    log = logged_run(frames, study, drill, "Stand-in")
    assert log.y == pytest.approx(trace["y"].tolist(), abs=1e-6)


def test_starts_and_velocities_use_the_axes_of_the_game(harbour):
    conventions = Conventions(pixels_per_unit=16.0, y_down=True, per=Per.FRAME, rate=60)
    study = harbour.model_copy(update={"conventions": conventions})
    drill = harbour.drill("Rooftop hop").model_copy(
        update={"start": (1.0, 2.0), "start_velocity": (6.0, 3.0), "start_heading": 90.0}
    )
    assert start_of(study, drill) == pytest.approx((16.0, -32.0, 1.6, -0.8, -90.0))
    left, bottom, right, top = solids_of(study, drill)[0]
    assert (left, right) == (16 * drill.course.solids[0].left, 16 * drill.course.solids[0].right)
    assert bottom > top


def test_pause_and_single_ticks_are_executed_once(desk, game):
    linked(desk, game)
    game.tick()
    desk.pause(True)
    desk.step(3)
    talk(desk, game, lambda: desk.is_settled)
    assert (game.row, game.paused) == (4, True)
    # A lost confirmation: the request comes again, and only its answer is sent.
    before = game.link.last_request
    game.link.take("step", [before, 3])
    assert game.row == 4
    desk.pause(False)
    talk(desk, game, lambda: desk.is_settled)
    assert not game.paused


def test_a_number_changed_in_the_game_arrives_once_with_its_author(desk, game, harbour):
    linked(desk, game)
    game.change("top_speed", 9.25)
    events = talk(desk, game, lambda: not game.link.unconfirmed)
    assert [event for event in events if isinstance(event, Changed)] == [Changed("top_speed", 9.25, "Stand-in")]
    parameter, changed = number_from(events[-1], harbour.tune("Wren"), harbour.conventions)
    assert (parameter.id, changed.drive.top_speed) == ("drive.top_speed", 9.25)
    # The same message again changes nothing.
    game.link.send("changed", "isds", 1, "top_speed", 4.0, "Stand-in")
    assert not [event for event in talk(desk, game, lambda: True) if isinstance(event, Changed)]


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("top_speed", -3.0),
        ("top_speed", "fast"),
        ("top_speed", 1e9),
        ("law", "flying"),
        ("air_jumps", 1.5),
        ("no", 1.0),
    ],
)
def test_invalid_changes_from_the_game_are_refused_with_a_reason(harbour, name, value):
    with pytest.raises(ValueError, match="Stand-in"):
        number_from(Changed(name, value, "Stand-in"), harbour.tune("Wren"), harbour.conventions)


def test_marks_and_the_round_trip_time_arrive(desk, game):
    linked(desk, game)
    game.held.add("jump")
    game.tick()
    events = talk(desk, game, lambda: desk.round_trip is not None)
    assert Marked(game.link.frame, "launch") in events
    assert 0 <= desk.round_trip < SILENCE


def test_only_the_connected_game_is_heard(desk, game, stranger):
    stranger.say("pong", 1)
    desk.receive()
    assert (desk.state, desk.refusals.foreign) == (LinkState.WAITING, 1)
    linked(desk, game)
    stranger.say("hello", 1, "Other", 60.0, 77)
    stranger.say("changed", 1, "top_speed", 1.0, "Other")
    stranger.say("bye")
    talk(desk, game, lambda: True)
    assert desk.peer.name == "Stand-in"
    assert desk.refusals.foreign == 4


def test_after_silence_any_game_may_connect(desk, game, games, clock):
    linked(desk, game)
    clock.now += SILENCE + 0.1
    assert desk.tick() == [Lost("Stand-in")]
    other = games()
    other.name = "Other"
    assert Linked("Other") in linked(desk, other)
    other.close()
    talk(desk, game, lambda: desk.peer is not None and desk.peer.name == "Stand-in")


def test_a_restarted_game_or_desk_gets_everything_again(desk, game, games, harbour, clock):
    values = values_of(harbour.tune("Wren"), harbour.conventions)
    desk.show("Wren", values)
    linked(desk, game)
    desk.pause(True)
    talk(desk, game, lambda: desk.is_settled)
    assert desk.paused
    game.close()
    again = games()
    linked(desk, again)
    talk(desk, again, lambda: desk.is_settled)
    assert not desk.paused
    assert again.numbers["top_speed"] == 7.5
    port = desk.port
    desk.close()
    fresh = DeskLink(port, name="Harbour couriers", clock=clock)
    fresh.open()
    fresh.show("Bramble", values_of(harbour.tune("Bramble"), harbour.conventions))
    talk(fresh, again, lambda: fresh.state is LinkState.LINKED and fresh.is_settled)
    assert again.numbers["top_speed"] == 6.0
    fresh.close()


def test_another_version_is_refused(desk, stranger):
    stranger.say("hello", 2, "Future", 60.0, 5)
    desk.receive()
    assert desk.state is LinkState.WAITING
    assert desk.version_refused == 2


def test_garbage_and_floods_are_only_counted(desk, game, stranger, clock):
    linked(desk, game)
    chance = random.Random(3)
    for _ in range(500):
        stranger.socket.sendto(chance.randbytes(chance.randrange(1, 200)), stranger.desk)
    desk.receive()
    assert desk.refusals.bad == 500
    desk._budget = 10.0
    for _ in range(50):
        stranger.socket.sendto(b"x", stranger.desk)
    desk.receive()
    assert desk.refusals.flooded == 40
    clock.now += 0.1
    talk(desk, game, lambda: True)
    assert desk.state is LinkState.LINKED


def test_the_number_of_remembered_names_is_limited(desk, game):
    linked(desk, game)
    for first in range(0, 4000, 20):
        desk._handlers["knows"](desk, [first, 4000, *(f"n{first + k}" for k in range(20))], 0.0)
    assert len(desk.peer.names) <= 2000
    assert desk.peer.known is None


def test_a_bye_ends_the_link_and_a_closing_desk_sends_one(desk, game):
    linked(desk, game)
    desk.close()
    game.link.receive()
    assert not game.link.linked
    assert desk.state is LinkState.OFF


def test_requests_before_a_game_connects_are_not_sent(desk):
    desk.pause(True)
    desk.reset((0, 0, 0, 0, 0))
    assert desk.is_settled


def test_all_numbers_are_sent_again_on_request(desk, stranger):
    desk.show("Wren", {"speed": 7.0})
    stranger.say("hello", 1, "Game", 60.0, 9)
    desk.receive()
    answers = [stranger.heard() for _ in range(3)]
    assert [name for name, _ in answers] == ["hello", "tune", "number"]
    for _, arguments in answers[1:]:
        stranger.say("got", arguments[0])
    desk.receive()
    assert desk.is_settled
    stranger.say("ask")
    desk.receive()
    assert [stranger.heard()[0] for _ in range(2)] == ["tune", "number"]


def test_a_port_in_use_is_an_error(desk):
    with pytest.raises(OSError, match="in use"):
        DeskLink(desk.port).open()


def test_a_run_is_written_as_an_importable_log(desk, game, harbour):
    linked(desk, game)
    frames = played(desk, game, harbour, "Wren", "Quay sprint")
    lines = csv_of(frames).splitlines()
    assert lines[0] == "frame,time,x,y,vx,vy,grounded,keys"
    assert lines[1] == "0,0.0,0.0,0.0,0.0,0.0,1,"
    assert lines[30].endswith(",1,right")
    assert len(lines) == len(frames) + 1


@pytest.mark.parametrize(
    ("given", "kept"),
    [
        ((5.0, 5.016, 5.048), (0.0, 0.016, 0.048)),
        # A clock that stands still or runs backward is useless: the lengths of the ticks are used instead.
        ((5.0, 5.0, 5.02), (0.0, 0.01, 0.03)),
        ((5.0, 4.9, 5.02), (0.0, 0.01, 0.03)),
    ],
)
def test_a_run_uses_the_times_of_the_game_if_they_increase(harbour, given, kept):
    ticks = (0.5, 0.01, 0.02)
    frames = [Frame(n, 0, n, given[n], ticks[n], 0.0, 0.0, 0.0, 0.0, 1, 0) for n in range(3)]
    log = logged_run(frames, harbour, harbour.drill("Quay sprint"), "Run")
    assert log.time == pytest.approx(kept, abs=1e-12)
    assert len(logged_run(frames[:2], harbour, harbour.drill("Quay sprint"), "Run").time) == 2
    with pytest.raises(ValueError, match="fewer than two frames"):
        logged_run(frames[:1], harbour, harbour.drill("Quay sprint"), "Run")


def test_requests_are_sent_one_after_the_other(desk, stranger):
    stranger.say("hello", 1, "Game", 60.0, 5)
    desk.receive()
    assert stranger.heard()[0] == "hello"
    desk.pause(True)
    desk.step(3)
    assert stranger.heard() == ("pause", [1, 1])
    stranger.say("done", 1)
    desk.receive()
    desk.tick()
    assert ("step", [2, 3]) in (stranger.heard(), stranger.heard())


@pytest.mark.parametrize("comes", ["back", "anew"])
def test_requests_to_a_lost_game_are_not_sent_to_the_next(desk, stranger, clock, comes):
    stranger.say("hello", 1, "Game", 60.0, 5)
    desk.receive()
    desk.pause(True)
    if comes == "back":
        clock.now += 2 * SILENCE
        assert desk.tick() == [Lost("Game")]
    stranger.say("hello", 1, "Game", 60.0, 6)
    desk.receive()
    assert desk.is_settled


def test_a_datagram_of_maximum_size_is_read_whole(desk, stranger):
    stranger.say("hello", 1, "Game", 60.0, 5)
    names = ["n" * 59] * 20 + ["m" * 59, "last" * 21]
    assert len(encode(FROM_GAME["knows"], 0, 22, *names)) == LARGEST
    stranger.say("knows", 0, 22, *names)
    desk.receive()
    assert desk.peer.known == frozenset(names)
    stranger.socket.sendto(b"/cinetica/" + b"x" * LARGEST, stranger.desk)
    desk.receive()
    assert desk.refusals.bad == 1
