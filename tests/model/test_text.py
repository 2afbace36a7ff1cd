"""Invisible characters are refused when typed, and shown as signs when a file contains them."""

import json

import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from cinetica.cli import main
from cinetica.files.reading import Refused
from cinetica.files.study_json import parse_study, study_text
from cinetica.model import editing
from cinetica.model.edit_validation import checked
from cinetica.model.study import Study
from cinetica.model.text import LONGEST_NAME, visible
from cinetica.model.tune import Tune

# Escape, bell, delete, a C1 control, a line separator, a right-to-left override, an isolate.
UNSEEN = ["\x1b", "\a", "\x7f", "\x9b", "\u2028", "\u202e", "\u2066"]
BASE = {"format": "cinetica-study", "version": 1, "name": "Harbour couriers"}


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("a\x1b[31mb", "a␛[31mb"),
        ("\x00\x7f", "␀␡"),
        ("\x9b\u202e", "␚␚"),
        ("tab\there", "tab␉here"),
        ("Ræs 東", "Ræs 東"),
    ],
)
def test_every_control_character_has_a_visible_sign(text, shown):
    assert visible(text) == shown


def test_a_note_keeps_its_lines_and_tabs():
    assert visible("one\n\ttwo\r", lines=True) == "one\n\ttwo␍"


@given(st.text())
def test_visible_text_stays_and_invisible_characters_are_replaced(text):
    shown = visible(text)
    assert visible(shown) == shown
    assert len(shown) == len(text)
    assert not any(each in shown for each in UNSEEN)
    assert all(after == before for before, after in zip(text, shown, strict=True) if before.isprintable())


@pytest.mark.parametrize("unseen", UNSEEN)
@pytest.mark.parametrize("field", ["name", "note"])
def test_typed_control_characters_are_refused_with_a_reason(unseen, field):
    with pytest.raises(ValidationError, match="cannot be seen"):
        Tune(**({"name": "Wren"} | {field: f"a{unseen}b"}))
    study = Study(**BASE, tunes=(Tune(name="Wren"),))
    change = editing.renamed_tune if field == "name" else editing.with_tune_note
    with pytest.raises(ValueError, match="cannot be seen; leave it out; nothing was changed") as error:
        checked(study, change(study, "Wren", f"a{unseen}b"))
    assert unseen not in str(error.value)
    with pytest.raises(ValueError, match="cannot be seen"):
        checked(study, editing.described(study, **{"name" if field == "name" else "notes": f"a{unseen}b"}))


@pytest.mark.parametrize("unseen", UNSEEN)
def test_a_file_with_control_characters_opens_with_signs_and_saves_the_same(unseen):
    name, sign = f"W{unseen}ren", visible(unseen)
    content = BASE | {
        "name": f"H{unseen}", "notes": f"first\nsecond{unseen}",
        "tunes": [{"name": name, "note": unseen}],
        "drills": [{"name": f"Q{unseen}", "targets": [{"measure": "jump_height", "low": 1, "tunes": [name]}]}],
    }  # fmt: skip
    study = parse_study(json.dumps(content), "x")
    assert (study.name, study.notes) == (f"H{sign}", f"first\nsecond{sign}")
    # References to it still work.
    assert study.drills[0].targets[0].tunes == (study.tunes[0].name,) == (f"W{sign}ren",)
    assert parse_study(study_text(study), "x") == study


@pytest.mark.parametrize("unseen", UNSEEN)
def test_control_characters_do_not_reach_the_terminal(unseen, tmp_path):
    path = tmp_path / "study.json"
    tune, drill = {"name": f"W{unseen}"}, {"name": f"D{unseen}", "take": {"length": 30, "keys": {"right": [[2, 20]]}}}
    path.write_text(json.dumps(BASE | {"tunes": [tune], "drills": [drill]}))
    asked = [
        ["measure"],
        ["targets"],
        ["measure", "--tune", f"X{unseen}"],
        ["trace", "--tune", f"X{unseen}", "--drill", "D"],
    ]
    for command, *more in asked:
        found = CliRunner().invoke(main, [command, str(path), *more])
        assert unseen not in found.output
    # An unknown key is quoted in its error.
    path.write_text(json.dumps(BASE | {f"k{unseen}": 1}))
    found = CliRunner().invoke(main, ["measure", str(path)])
    assert found.exit_code == 1
    assert unseen not in found.output
    assert visible(unseen) in found.output


def test_an_error_in_a_file_is_one_visible_line():
    with pytest.raises(Refused) as refused:
        parse_study(json.dumps(BASE | {"a\nb\x1b": 1}), "x\x1by")
    assert refused.value.faults == [line for line in refused.value.faults if line.isprintable()]


def test_a_note_may_have_several_lines_and_a_name_may_not():
    assert Tune(name="Wren", note="light\nand quick").note == "light\nand quick"
    with pytest.raises(ValidationError, match="cannot be seen"):
        Tune(name="Wren\nII")


def test_a_name_with_a_suffix_is_as_long_as_a_name_may_be():
    assert editing.named_after("q" * (LONGEST_NAME - 5), " copy") == "q" * (LONGEST_NAME - 5) + " copy"
    assert editing.named_after("q" * (LONGEST_NAME - 4), " copy") == "q" * (LONGEST_NAME - 6) + "… copy"
