"""Both ends of the connection on loopback, driven without waiting for real time."""

import pytest

from cinetica.files.shipped import shipped_study
from cinetica.link.desk_link import DeskLink
from cinetica.stand_in.game import StandIn


class Clock:
    """A clock in seconds that advances only on request."""

    def __init__(self):
        self.now = 100.0

    def __call__(self):
        return self.now


def free_port():
    link = DeskLink(0)
    link.open()
    port = link.port
    link.close()
    return port


@pytest.fixture
def clock():
    return Clock()


@pytest.fixture
def desk(clock):
    link = DeskLink(0, name="Harbour couriers", clock=clock)
    link.open()
    yield link
    link.close()


@pytest.fixture
def games(desk):
    """Makes stand-in games that connect to the desk, and closes them."""
    made = []

    def make():
        game = StandIn(port=desk.port)
        made.append(game)
        return game

    yield make
    for game in made:
        game.close()


@pytest.fixture
def game(games):
    return games()


@pytest.fixture(scope="session")
def harbour():
    return shipped_study("harbour")


def talk(desk, game, until, rounds=400, step=0.06):
    """Let both ends communicate until a condition holds, advancing the desk's clock; returns the desk's events."""
    events = []
    for _ in range(rounds):
        # Whatever either end repeats is due in every round.
        game.link.said_hello = -10.0
        for change in game.link.unconfirmed.values():
            change[3] = -10.0
        game.link.receive()
        events += desk.receive() + desk.tick()
        if until():
            return events
        desk._clock.now += step
    raise AssertionError("it did not come about")
