"""Real processes over loopback: the stand-in game, the examples, independent OSC programs, and a bad network."""

import csv
import re
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import write_study
from cinetica.link import listen
from cinetica.link.conventions import values_of
from cinetica.link.desk_link import DeskLink, LinkState
from cinetica.link.take_rows import take_rows
from cinetica.model.conventions import Conventions
from cinetica.motion.simulate import simulate
from tests.link.conftest import free_port
from tests.link.relay import Relay

pytestmark = pytest.mark.thorough

ROOT = Path(__file__).parents[2]
STAND_IN = [sys.executable, "-m", "cinetica", "stand-in", "--headless", "--seconds", "120", "--port"]


@pytest.fixture
def started():
    """Starts programs, and kills those that remain."""
    running = []

    def start(*command, **options):
        process = subprocess.Popen(list(map(str, command)), **options)
        running.append(process)
        return process

    yield start
    for process in running:
        process.kill()
        process.wait()


@pytest.fixture
def connection(harbour):
    with listen(harbour, port=0) as opened:
        yield opened


@pytest.fixture(scope="module")
def game_in_c(tmp_path_factory):
    made = tmp_path_factory.mktemp("c") / "link_game"
    strict = ["-std=c99", "-O2", "-Wall", "-Wextra", "-Werror", "-pedantic"]
    subprocess.run(["gcc", *strict, "-o", str(made), str(ROOT / "examples/link_game.c")], check=True)
    return made


def follows(connection, drill, tune):
    log, study = connection.play(drill), connection.study
    trace = simulate(study.tune(tune), study.drill(drill), study.clock)
    assert len(log.x) == len(trace)
    return all(
        getattr(log, column) == pytest.approx(trace[column].tolist(), abs=1e-6) for column in ("x", "y", "vx", "vy")
    )


def test_a_game_in_c_follows_the_tune(connection, started, game_in_c):
    started(game_in_c, connection.link.port, 60)
    assert connection.wait() == "Game in C"
    connection.send("Bramble")
    assert follows(connection, "Quay sprint", "Bramble")


def test_a_game_in_javascript_follows_the_tune(connection, started):
    started("node", ROOT / "examples/link_game.mjs", connection.link.port, 60)
    assert connection.wait() == "Game in JavaScript"
    connection.send("Bramble")
    assert follows(connection, "Quay sprint", "Bramble")


def test_a_killed_game_and_a_killed_desk_come_back(harbour, started):
    with listen(harbour, port=0) as connection:
        game = started(*STAND_IN, connection.link.port)
        connection.wait()
        connection.send("Wren")
        game.send_signal(signal.SIGKILL)
        game.wait()
        started(*STAND_IN, connection.link.port)
        first = connection.link.peer.run
        assert connection.run(20, lambda: connection.link.peer is not None and connection.link.peer.run != first)
        assert connection.run(5, lambda: connection.link.is_settled)
        port = connection.link.port
        # As if it had been killed: no goodbye.
        connection.link._socket.close()
        connection.link._socket = None
    with listen(harbour, port=port) as again:
        assert again.wait() == "Stand-in"
        again.send("Wren")


def test_on_a_bad_network_the_numbers_arrive_and_gaps_are_reported(harbour, started):
    """A tenth of all datagrams is lost, duplicated or delayed, in both directions."""
    link = DeskLink(0, name="Harbour couriers")
    link.open()
    relay = Relay(link.port, seed=11)
    started(*STAND_IN, relay.port)
    with listen(harbour, port=0) as connection:
        connection.link.close()
        connection.link = link
        connection.wait()
        tune = harbour.tune("Wren")
        for step in range(40):
            dragged = tune.put("drive.top_speed", 5.0 + step / 10)
            connection.study = harbour.with_tune(dragged, instead_of="Wren")
            link.show("Wren", values(connection))
            connection.run(0.02)
        connection.send("Wren", seconds=20)
        connection.reset("Quay sprint", seconds=20)
        take = harbour.drill("Quay sprint").take
        link.play(take_rows(take), take.rate, take.length)
        assert connection.run(20, lambda: link.is_settled)
        # The body in the game runs as fast as the last number says.
        assert connection.run(20, lambda: link.frames.last.vx == pytest.approx(8.9))
        connection.run(0.3)
        relay.close()
    frames = link.frames
    assert link.numbers.values["top_speed"] == pytest.approx(8.9)
    assert min(relay.lost, relay.doubled, relay.delayed) > 0
    assert frames.lost > 0
    assert frames.gaps(0, frames.last.number)
    assert frames.received + frames.lost == frames.last.number - frames.since(0)[0].number + 1
    assert link.refusals.bad == 0


def values(connection):
    return values_of(connection.study.tune("Wren"), connection.study.conventions)


# Independent programs


def test_an_independent_program_says_hello_and_changes_a_number(started):
    link = DeskLink(0)
    link.open()
    try:
        # Each call uses a new port, so everything is in the hello.
        subprocess.run(
            ["oscsend", "127.0.0.1", str(link.port), "/cinetica/hello", "isdi", "1", "By hand", "60.0", "7"], check=True
        )
        until(lambda: link.receive() and link.state is LinkState.LINKED)
        assert (link.peer.name, link.peer.tick_rate) == ("By hand", 60.0)
    finally:
        link.close()


def test_an_independent_program_reads_what_the_desk_sends(started, harbour):
    link = DeskLink(0, name="Harbour couriers")
    link.open()
    try:
        link.show("Wren", {"top_speed": 7.5, "law": "ramp", "spend_press": True})
        subprocess.run(
            ["oscsend", "127.0.0.1", str(link.port), "/cinetica/hello", "isdi", "1", "G", "60.0", "7"], check=True
        )
        until(lambda: link.receive() and link.peer is not None)
        dump = started("oscdump", "-L", link.peer.address[1], stdout=subprocess.PIPE, text=True)
        wanted = [
            r'/cinetica/tune isi \d+ "Wren" 3',
            r'/cinetica/number isd \d+ "top_speed" 7\.5',
            r'/cinetica/number iss \d+ "law" "ramp"',
            r'/cinetica/number isT \d+ "spend_press"',
            r"/cinetica/ping i \d+",
        ]
        lines = []
        printed = threading.Event()

        def read():
            for line in dump.stdout:
                lines.append(line)
                printed.set()

        threading.Thread(target=read, daemon=True).start()

        def all_is_heard():
            link.peer.heard = time.monotonic()
            # Unconfirmed numbers are repeated, so it receives all of them.
            link.tick()
            printed.wait(0.05)
            printed.clear()
            text = "".join(lines)
            return all(re.search(pattern, text) for pattern in wanted)

        until(all_is_heard, seconds=20)
    finally:
        link.close()


def until(is_so, seconds=10):
    end = time.monotonic() + seconds
    while not is_so():
        assert time.monotonic() < end, "it did not come about"


# The command line


def command(*arguments, **options):
    return subprocess.run(
        [sys.executable, "-m", "cinetica", *map(str, arguments)], capture_output=True, text=True, check=False, **options
    )


def test_a_take_run_by_the_stand_in_is_recorded_and_follows_the_tune(tmp_path, started):
    study, port, out = ROOT / "src/cinetica/data/harbour.json", free_port(), tmp_path / "run.csv"
    started(*STAND_IN, port)
    sent = command("link", "send", study, "--tune", "Wren", "--port", port)
    assert sent.returncode == 0, sent.stderr
    assert "Stand-in has 14 numbers of Wren." in sent.stdout
    recorded = command("link", "record", study, "--tune", "Wren", "--drill", "Quay sprint", "-o", out, "--port", port)
    assert recorded.returncode == 0, recorded.stderr
    assert "121 frames, 0 lost" in recorded.stderr
    checked = command("check", study, "--tune", "Wren", "--drill", "Quay sprint", out, "--tolerance", "1e-6")
    assert checked.returncode == 0, checked.stdout + checked.stderr
    assert "follows" in checked.stdout


def test_a_stand_in_in_pixels_per_frame_with_y_down_follows(tmp_path, started):
    study, port, out = tmp_path / "pixels.json", free_port(), tmp_path / "run.csv"
    harbour = shipped_study("harbour")
    game = Conventions(pixels_per_unit=32, y_down=True, per="frame", times="millisecond", rate=50)
    write_study(harbour.model_copy(update={"conventions": game}), study)
    counts = ("--pixels-per-unit", "32", "--y-down", "--per", "frame", "--times", "millisecond", "--frame-rate", "50")
    started(*STAND_IN, port, *counts)
    recorded = command("link", "record", study, "--tune", "Wren", "--drill", "Rooftop hop", "-o", out, "--port", port)
    assert recorded.returncode == 0, recorded.stderr
    rows = list(csv.DictReader(out.open()))
    # On the roofs, so y is negative in pixels that point down; the top speed is 7.5 · 32 / 50.
    assert min(float(row["y"]) for row in rows) == pytest.approx(-32 * 2.38, abs=1)
    assert max(float(row["vx"]) for row in rows) == pytest.approx(4.8)
    checked = command("check", study, "--tune", "Wren", "--drill", "Rooftop hop", out, "--tolerance", "1e-4")
    assert checked.returncode == 0, checked.stdout + checked.stderr


def test_errors_are_one_plain_line():
    study, port = ROOT / "src/cinetica/data/harbour.json", free_port()
    nobody = command("link", "send", study, "--tune", "Wren", "--port", port, "--wait", "0.1")
    assert (nobody.returncode, nobody.stderr) == (1, f"no game has said hello on port {port} in 0.1 s\n")
    unknown = command("link", "send", study, "--tune", "Gull", "--port", port)
    assert unknown.returncode == 1
    assert "Gull" in unknown.stderr
    taken = DeskLink(port)
    taken.open()
    busy = command("link", "record", study, "--port", port)
    taken.close()
    assert busy.returncode == 1
    assert f"port {port}:" in busy.stderr
