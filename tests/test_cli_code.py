"""`cinetica code`: the step of a tune, from the command line."""

from functools import cache

import pytest
from click.testing import CliRunner

from cinetica.cli import main
from cinetica.codegen.languages import LANGUAGES, code_text, program_of
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import write_study

STUDY = shipped_study("harbour")


@pytest.fixture
def path(tmp_path):
    write_study(STUDY, tmp_path / "study.json")
    return str(tmp_path / "study.json")


def run(*arguments):
    return CliRunner().invoke(main, ["code", *arguments])


@cache
def program(whole):
    return program_of(STUDY, STUDY.tune("Otter"), whole=whole)


@pytest.mark.parametrize("language", LANGUAGES)
def test_it_prints_the_step_or_the_whole_tick(path, language):
    for whole, option in ((False, []), (True, ["--whole"])):
        result = run(path, "--tune", "Otter", "--language", language, *option)
        assert result.exit_code == 0
        assert result.stdout == code_text(program(whole), language)


def test_it_writes_a_file(path, tmp_path):
    out = tmp_path / "wren.h"
    assert run(path, "--tune", "Wren", "--language", "c", "-o", str(out)).exit_code == 0
    assert out.read_text().startswith("/* How Wren moves, as code.")


@pytest.mark.parametrize(
    ("arguments", "status", "message"),
    [
        (["--tune", "Nobody", "--language", "c"], 1, "Nobody"),
        (["--tune", "Wren", "--language", "cobol"], 2, "cobol"),
        (["--tune", "Wren"], 2, "--language"),
        (["--tune", "Wren", "--language", "c", "-o", "/nowhere/at/all.h"], 1, "/nowhere/at/all.h"),
    ],
)
def test_unsupported_requests_are_reported(path, arguments, status, message):
    result = run(path, *arguments)
    assert result.exit_code == status
    assert message in result.stderr
    assert "Traceback" not in result.output
