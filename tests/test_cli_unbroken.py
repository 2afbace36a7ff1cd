"""Every command with every kind of input and output: exit status 0, 1 or 2, and plain lines."""

import os
import shlex
import signal
import socket
import subprocess
import sys
from pathlib import Path

import pytest
from click.testing import CliRunner

from cinetica.cli import main
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import write_study
from tests.builders import full_device

ON_QUAY = "--tune Wren --drill 'Quay sprint'"
COMMANDS = {
    name: shlex.split(command)
    for name, command in {
        "trace": f"trace {{in}} {ON_QUAY} -o {{out}}",
        "numbers": "numbers {in} --tune Wren -o {out}",
        "report": "report {in} --drill 'Quay sprint' -o {out}",
        "report.pdf": "report {in} --drill 'Quay sprint' -o {out}.pdf",
        "proof": "proof {in} --tune Otter -o {out}",
        "demo": "demo harbour -o {out}",
        "measure": "measure {in} --drill 'Quay sprint'",
        "check": f"check {{in}} {{log}} {ON_QUAY}",
        "sweep": f"sweep {{in}} {ON_QUAY} --vary gravity.gravity=20,30 -o {{out}}",
        "open": "{in}",
    }.items()
}
WRITES = [name for name, arguments in COMMANDS.items() if any("{out}" in part for part in arguments)]
PRINTS = ["trace", "numbers", "measure", "check", "sweep", "help"]


@pytest.fixture
def places(tmp_path):
    """Things that are not files, in the place of a file, by name."""
    write_study(shipped_study("harbour"), tmp_path / "study.json")
    (tmp_path / "folder.json").mkdir()
    (tmp_path / "loop.json").symlink_to(tmp_path / "loop.json")
    os.mkfifo(tmp_path / "pipe.json")
    (tmp_path / "empty.json").touch()
    (tmp_path / "words.json").write_text("hello\n")
    (tmp_path / "deep.json").write_text("[" * 200_000)
    (tmp_path / "long-number.json").write_text('{"name": ' + "9" * 10_000 + "}")
    (tmp_path / "bytes.json").write_bytes(b"\xff\xfe\x00")
    (tmp_path / "dangling.json").symlink_to(tmp_path / "nowhere.json")
    with socket.socket(socket.AF_UNIX) as door:
        door.bind(str(tmp_path / "socket.json"))
    full = full_device(tmp_path)
    odd = {path.stem: path for path in tmp_path.iterdir() if path.stem != "study"}
    return odd | {
        "missing": tmp_path / "missing.json",
        "zero": Path("/dev/zero"),
        "full": full,
        "under a file": tmp_path / "study.json/x",
    }


def call(name, **given):
    arguments = COMMANDS[name]
    return CliRunner().invoke(main, [part.format(**given) for part in arguments])


def is_plain(result):
    """No traceback; one readable line for each reason."""
    assert result.exit_code in (0, 1, 2), result.output
    assert result.exception is None or isinstance(result.exception, SystemExit), result.exception
    assert "Traceback" not in result.output
    if result.exit_code == 1:
        assert 1 <= len(result.output.strip().splitlines()) <= 3
        assert all(len(line) < 600 for line in result.output.splitlines())


@pytest.mark.parametrize("name", [name for name in COMMANDS if name != "demo"])
def test_files_that_are_not_studies_are_refused_plainly(name, places, tmp_path):
    for what, path in places.items():
        result = call(name, **{"in": path, "out": tmp_path / "made", "log": tmp_path / "study.json"})
        is_plain(result)
        assert result.exit_code == 1, what
        assert str(path) in result.output, (what, result.output)
        assert not (tmp_path / "made").exists()


def test_files_that_are_not_logs_are_refused_plainly(places, tmp_path):
    for what, path in places.items():
        result = call("check", **{"in": tmp_path / "study.json", "log": path})
        is_plain(result)
        assert result.exit_code == 1, what
        assert str(path) in result.output, (what, result.output)


@pytest.mark.thorough
@pytest.mark.parametrize("name", WRITES)
def test_an_unwritable_place_is_named(name, places, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    for what in ("under a file", "loop", "folder", "full"):
        if (what in ("full", "loop") and name == "report.pdf") or (
            what == "folder" and name in ("report.pdf", "proof", "demo")
        ):
            # A name with .pdf appended is another file; a folder is valid output.
            continue
        result = call(name, **{"in": tmp_path / "study.json", "out": places[what]})
        is_plain(result)
        assert result.exit_code == 1, (what, result.output)
        assert str(places[what]) in result.output, (what, result.output)
    assert (tmp_path / "study.json").stat().st_size > 1000
    assert not [path for path in tmp_path.iterdir() if path.name.startswith(".")]


@pytest.mark.parametrize(
    "setting",
    [
        "drive.top_speed=" + "[" * 100_000,
        "clock.tick_rate=" + "9" * 5000,
        "drive.top_speed=NaN",
        "clock.hitches=[[[[1]]]]",
        "drive.law={}",
        "=1",
        "jump.coyote=1e999",
        'clock.mode="\\ud800"',
    ],
    ids=lambda setting: setting[:20],
)
def test_odd_settings_are_refused_in_one_line(setting, tmp_path, places):
    result = CliRunner().invoke(
        main, ["trace", str(tmp_path / "study.json"), "--tune", "Wren", "--drill", "Quay sprint", "--set", setting]
    )
    is_plain(result)
    assert result.exit_code == 1
    assert "--set" in result.output


def started(arguments, **options):
    environment = {name: value for name, value in os.environ.items() if name not in ("DISPLAY", "WAYLAND_DISPLAY")}
    return subprocess.Popen([sys.executable, *arguments], env=environment, stderr=subprocess.PIPE, text=True, **options)


CLOSED = "import os, sys; os.close(1); os.execv(sys.executable, [sys.executable, '-m', 'cinetica', *sys.argv[1:]])"


@pytest.mark.thorough
@pytest.mark.parametrize("name", PRINTS)
def test_full_and_closed_standard_output(name, tmp_path):
    study = shipped_study("harbour")
    # Starting the program takes most of the time, so all three start at once.
    write_study(study.model_copy(update={"drills": (study.drill("Quay sprint"),)}), tmp_path / "study.json")
    (tmp_path / "log.csv").write_text(
        CliRunner()
        .invoke(main, ["trace", str(tmp_path / "study.json"), "--tune", "Wren", "--drill", "Quay sprint"])
        .output
    )
    given = {"in": tmp_path / "study.json", "log": tmp_path / "log.csv"}
    arguments = (
        ["--help"]
        if name == "help"
        else [part.format(**given) for part in COMMANDS[name] if "out" not in part and part != "-o"]
    )
    reader, writer = os.pipe()
    os.close(reader)
    with Path("/dev/full").open("w") as full:
        on_full = started(["-m", "cinetica", *arguments], stdout=full)
    unread = started(["-m", "cinetica", *arguments], stdout=writer)
    os.close(writer)
    closed = None if name == "help" else started(["-c", CLOSED, *arguments])
    _, output = on_full.communicate(timeout=60)
    assert (on_full.returncode, output.strip()) == (1, "standard output: No space left on device")
    _, output = unread.communicate(timeout=60)
    assert unread.returncode == 1
    assert "Traceback" not in output
    assert len(output.splitlines()) <= 1
    if closed is not None:
        _, output = closed.communicate(timeout=60)
        assert (closed.returncode, output.strip()) == (1, "standard output: Bad file descriptor")


def test_help_is_there_without_docstrings(tmp_path):
    process = started(["-OO", "-m", "cinetica", "--help"], stdout=subprocess.PIPE)
    output, _ = process.communicate(timeout=60)
    assert "`cinetica [STUDY]` opens the window." in output
    for command in main.commands.values():
        assert command.hidden or command.get_short_help_str(40)[:25] in output


def test_an_interrupted_report_leaves_no_partial_file(tmp_path):
    write_study(shipped_study("harbour"), tmp_path / "study.json")
    program = f"""
import os, signal
from cinetica.files import report
# As in a terminal: whoever runs the tests in the background ignores it.
signal.signal(signal.SIGINT, signal.default_int_handler)
really = report.report_html
def interrupted(*arguments):
    os.kill(os.getpid(), signal.{signal.SIGINT.name})
    return really(*arguments)
report.report_html = interrupted
from cinetica.__main__ import main
import sys
sys.argv = ["cinetica", "report", "study.json", "-o", "sheet.pdf"]
main()
"""
    process = started(["-c", program], cwd=tmp_path)
    _, output = process.communicate(timeout=60)
    assert (process.returncode, output.strip()) == (1, "Aborted!")
    assert [path.name for path in tmp_path.iterdir()] == ["study.json"]
