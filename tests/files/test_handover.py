"""Numbers in the game's own conventions, and back: by hand, and for all formats and conventions."""

import ast
import csv
import io
import json
import math
import re
import runpy
import tokenize
import tomllib

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pycparser.c_parser import CParser

from cinetica.files.game_numbers import read_numbers, with_numbers
from cinetica.files.handover import FORMATS, Which, at_milestone, figures, numbers_text
from cinetica.files.reading import Refused
from cinetica.files.shipped import shipped_study
from cinetica.model import editing
from cinetica.model.conventions import Angle, Conventions, Per, Turn, Zero
from cinetica.model.game_units import ZEROS, factor, from_game, to_game, unit_words
from cinetica.model.tune import PARAMETERS, Tune, parameter_by_id
from cinetica.reading.display_units import column_to_game
from tests.repetitions import TIMES

STUDY = shipped_study("harbour")
WREN = STUDY.tune("Wren")
GAME = Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME, rate=60)
BY_HAND = {
    "drive.top_speed": (7.5, 7.5 * 32 / 60, "px/frame"),
    "drive.acceleration": (60.0, 60 * 32 / 3600, "px/frame²"),
    "gravity.gravity": (42.0, 42 * 32 / 3600, "px/frame²"),
    "jump.jump_speed": (14.5, -14.5 * 32 / 60, "px/frame"),
    "jump.coyote": (0.15, 9.0, "frames"),
    "jump.cut_factor": (0.45, 0.45, "factor"),
    "body.height": (1.6, 51.2, "px"),
}


@pytest.mark.parametrize("id", BY_HAND)
def test_32_pixels_y_down_per_frame_by_hand(id):
    ours, theirs, unit = BY_HAND[id]
    parameter = parameter_by_id(id)
    assert to_game(parameter, ours, GAME) == pytest.approx(theirs, rel=1e-14)
    assert unit_words(parameter.unit, GAME) == unit


def test_rates_and_angles_by_hand():
    radians = GAME.model_copy(update={"angle": Angle.RADIAN})
    assert to_game(parameter_by_id("drive.turn_rate"), 180.0, radians) == pytest.approx(math.pi / 60)
    assert to_game(parameter_by_id("drive.drag"), 12.0, GAME) == pytest.approx(0.2)
    assert unit_words("°/s", radians) == "rad/frame"
    assert unit_words("/s", GAME) == "1/frame"
    assert unit_words("/s", Conventions()) == "1/s"


def conventions():
    return st.builds(
        Conventions, pixels_per_unit=st.floats(0.01, 1000), y_down=st.booleans(), per=st.sampled_from(list(Per)),
        rate=st.floats(1, 1000),
        angle=st.sampled_from(list(Angle)), zero=st.sampled_from(list(Zero)), turn=st.sampled_from(list(Turn)),
        names=st.sampled_from([{}, {"drive.top_speed": "MaxRun",
        "jump.repeat": "again"}]),
    )  # fmt: skip


def tunes():
    def changed(values, base):
        for id, share in values.items():
            parameter = parameter_by_id(id)
            low, high = parameter.comfort
            base = base.put(id, low + share / 1e6 * (high - low))
        return base

    numbers = [parameter.id for parameter in PARAMETERS if parameter.kind == "number" and "side" in parameter.views]
    return st.builds(
        changed, st.dictionaries(st.sampled_from(numbers), st.integers(0, 10**6), max_size=8), st.just(WREN)
    )


def test_only_negative_numbers_are_noted_as_upward():
    slow = Tune(name="Wren", view="side").put("jump.jump_speed", 0.5)
    for y_down, message in ((False, False), (True, True)):
        found = {each.parameter.id: each.comment for each in figures(slow, Conventions(y_down=y_down))}
        assert ("Negative is up." in found["jump.jump_speed"]) is message
        assert "Negative is up." not in found["drive.top_speed"]


@pytest.mark.thorough
@pytest.mark.parametrize("format", FORMATS)
@settings(max_examples=40 * TIMES)
@given(tune=tunes(), game=conventions())
def test_every_format_reads_back_to_the_same_numbers(format, tune, game):
    text = numbers_text(tune, game, format)
    back = read_numbers(text, game)
    assert back.unknown == ()
    assert set(back.values) == {figure.parameter.id for figure in figures(tune, game)}
    for id, value in back.values.items():
        # 15 digits are printed: half a unit of the last one, plus the rounding of the conversions. A share close to 1
        # determines its rate poorly.
        share = parameter_by_id(id).share and game.per is Per.FRAME
        left = math.exp(-float(tune.get(id)) / game.rate) if share else 1.0
        ours = tune.get(id)
        near = 4e-15 / left * game.rate if share else 0
        assert value == (pytest.approx(ours, rel=6e-15, abs=near) if isinstance(value, float) else ours), id


def test_each_format_is_valid():
    toml = tomllib.loads(numbers_text(WREN, GAME, "toml"))
    assert toml["top_speed"] == pytest.approx(4.0)
    assert toml["jump_speed"] == pytest.approx(-14.5 * 32 / 60)
    content = json.loads(numbers_text(WREN, GAME, "json"))
    assert content["values"]["coyote"] == pytest.approx(9.0)
    assert content["units"]["coyote"] == "frames"
    assert "px/frame²" in numbers_text(WREN, GAME, "json")
    constants: dict = {}
    exec(numbers_text(WREN, GAME, "python"), constants)
    assert constants["top_speed"] == pytest.approx(4.0)
    assert constants["spend_grace"] is True
    assert "static const double top_speed = 4.0; /* px/frame:" in numbers_text(WREN, GAME, "c")
    assert "public static class Wren" in numbers_text(WREN, GAME, "csharp")
    assert '["repeat"] = "press"' in numbers_text(WREN, GAME, "lua")


def test_a_plain_table_has_columns_of_one_width():
    """Names left-aligned, values right-aligned, units left-aligned; columns begin at the same place."""
    tune = shipped_study("harbour").tune("Wren")
    rows = [line for line in numbers_text(tune, Conventions(), "table").splitlines()[2:] if line]
    listed = figures(tune, Conventions())
    assert len(rows) == len(listed)
    starts = {row.index(each.parameter.label, 20) for row, each in zip(rows, listed, strict=True)}
    assert len(starts) == 1
    name, value, unit = (max(len(text) for text in texts) for texts in zip(*(
        (each.name, row[len(each.name):].split()[0], each.unit) for row, each in zip(rows, listed, strict=True)
    ), strict=True))  # fmt: skip
    assert starts == {name + 2 + value + 2 + unit + 2}
    # Values end where the longest one does.
    assert not any(row[name + 2 + value - 1].isspace() for row in rows)


def test_game_names_are_used_everywhere():
    named = GAME.model_copy(update={"names": {"drive.top_speed": "MaxRun"}})
    for format in FORMATS:
        text = numbers_text(WREN, named, format)
        assert "MaxRun" in text
        assert read_numbers(text, named).values["drive.top_speed"] == pytest.approx(7.5)


@pytest.mark.parametrize(
    ("names", "reason"),
    [
        ({"drive.top_sped": "x"}, "not a number of a tune"),
        ({"drive.top_speed": "friction"}, "one name for two"),
        ({"drive.top_speed": "max speed"}, "pattern"),
    ],
)
def test_bad_names_are_refused(names, reason):
    with pytest.raises(ValueError, match=reason):
        Conventions(names=names)


def test_handwritten_lines_are_understood():
    text = (
        "local t = {\n top_speed = 3.5, -- px\n jump_speed = -7,\n}\nfriction = 0.5f;\nspend_grace = False\nhop = 3\n"
    )
    read = read_numbers(text, GAME)
    assert read.values["drive.top_speed"] == pytest.approx(3.5 * 60 / 32)
    assert read.values["jump.jump_speed"] == pytest.approx(7 * 60 / 32)
    assert read.values["drive.friction"] == pytest.approx(0.5 * 3600 / 32)
    assert read.values["jump.spend_grace"] is False
    assert read.unknown == ("hop",)


def test_invalid_values_are_refused_by_name():
    with pytest.raises(Refused, match='top_speed: "fast" is not allowed'):
        read_numbers('top_speed = "fast"', GAME)
    with pytest.raises(Refused, match="Top speed: -1"):
        with_numbers(Tune(name="x"), {"drive.top_speed": -1.0})
    with pytest.raises(Refused, match="no number"):
        read_numbers("hello", GAME)


# Injection through names

HOSTILE = st.one_of(
    st.text(min_size=1, max_size=60).filter(str.strip),
    st.sampled_from([
        "coding: unicode_escape \\nopen('x','w')\\n#", "*/ int main(void) { return 1; } /*", "a */",
        "]] os.execute('x') --[[", "\x00\x07", "a\u2028b\x85c",
        "*\\/", "??/", "class", "None", "int", "9 lives", "=1+1", "a\rb = 1", "/*", "vim: set modeline",
        "Ünïcode → “x”",
    ]),
)  # fmt: skip
GAME_NAMES = st.sampled_from(
    ["top_speed", "None", "class", "int", "def", "double", "string", "for", "end", "MaxRun", "Wren"]
)


def without_comments(code):
    """As the C preprocessor removes them."""
    return re.sub(r"/\*.*?\*/", " ", code, flags=re.DOTALL).replace(
        "#include <stdbool.h>", "typedef int bool; enum { true_ = 1 };"
    )


@pytest.mark.thorough
@settings(max_examples=50 * TIMES)
@given(HOSTILE, GAME_NAMES)
def test_hostile_names_are_escaped_in_every_language(name, game):
    tune = WREN.model_copy(update={"name": name})
    conventions = Conventions(names={"drive.top_speed": game})
    numbers = len(figures(tune, conventions))
    texts = {id: numbers_text(tune, conventions, id) for id in FORMATS}
    assert len(json.loads(texts["json"])["values"]) == numbers
    assert len(tomllib.loads(texts["toml"])) == numbers
    assert len(list(csv.reader(io.StringIO(texts["csv"])))) == numbers + 1
    encoding, _ = tokenize.detect_encoding(io.BytesIO(texts["python"].encode()).readline)
    assert encoding == "utf-8"
    tree = ast.parse(texts["python"].encode())
    assert len(tree.body) == numbers
    assert all(isinstance(line, ast.Assign) and isinstance(line.value, ast.Constant) for line in tree.body)
    declared = (
        CParser()
        .parse(without_comments(texts["c"]).replace("true", "1").replace("false", "0").replace("enum { 1_ = 1 };", ""))
        .ext
    )
    assert len([each for each in declared if type(each).__name__ == "Decl" and each.init is not None]) == numbers
    assert all(
        re.fullmatch(r"--.*|return \{|\}||  (\w+|\[\"\w+\"\]) = (\"\w*\"|[-\w.+]+), --.*", line)
        for line in texts["lua"].split("\n")
    )
    sharp = texts["csharp"].split("\n")
    assert all(
        re.fullmatch(r"//.*|public static class \w+|\{|\}||    public const \w+ \w+ = (\"\w*\"|[-\w.+]+); //.*", line)
        for line in sharp
    )
    written = next(line.split()[3] for line in sharp if line.startswith("public"))
    assert written not in [line.split()[3] for line in sharp if line.startswith("    public")]
    for id in FORMATS:
        assert read_numbers(texts[id], conventions).values["drive.top_speed"] == pytest.approx(7.5)


def test_importing_a_file_executes_nothing(tmp_path):
    path, trace = tmp_path / "numbers.py", tmp_path / "ran"
    tune = WREN.model_copy(update={"name": f"coding: unicode_escape \\nopen({str(trace)!r},'w')\\n#"})
    path.write_text(numbers_text(tune, Conventions(), "python"), encoding="utf-8")
    assert runpy.run_path(str(path))["top_speed"] == 7.5
    assert not trace.exists()


# Shares and facings


def test_per_frame_rates_are_shares_per_frame():
    rate = parameter_by_id("drive.rate")
    exact, linear = ({"drive.form": form} for form in ("exact", "linear"))
    assert to_game(rate, 12.0, GAME, exact) == pytest.approx(1 - math.exp(-0.2))
    assert to_game(rate, 12.0, GAME, linear) == pytest.approx(0.2)
    assert from_game(rate, 0.5, GAME, exact) == pytest.approx(60 * math.log(2))
    assert from_game(rate, 0.5, GAME, linear) == pytest.approx(30)
    eased = WREN.put("drive.law", "ease").put("drive.rate", 12.0).put("drive.form", "linear")
    assert "share/frame" in numbers_text(eased, GAME, "toml")
    assert read_numbers(numbers_text(eased, GAME, "json"), GAME).values["drive.rate"] == pytest.approx(12)


@given(st.floats(0, 600), st.floats(30, 1000), st.sampled_from(["exact", "linear"]))
def test_shares_are_read_back_as_rates(rate, frames, form):
    """As precisely as the last digits of a share close to 1 allow."""
    game = Conventions(per=Per.FRAME, rate=frames)
    values = {"drive.form": form}
    parameter = parameter_by_id("drive.rate")
    share = to_game(parameter, rate, game, values)
    back = from_game(parameter, share, game, values)
    left = math.exp(-rate / frames)
    assert abs(back - rate) <= 1e-12 * rate + (4e-16 / left) * frames + 1e-12
    assert to_game(parameter, back, game, values) == pytest.approx(share, rel=1e-14, abs=1e-15)


def test_an_impossible_share_is_refused_with_a_reason():
    for text, message in (("rate = 1.5", "infinite rate"), ("rate = -0.5", "cannot be negative")):
        with pytest.raises(Refused) as refused:
            read_numbers(text, GAME)
        assert message in refused.value.faults[0]
    # Everything, except the last digit.
    assert read_numbers("rate = 1.0", GAME).values["drive.rate"] > 2000


@pytest.mark.parametrize(
    ("zero", "turn", "y_down", "ours", "theirs"),
    [
        ("right", "axes", False, 90, 90), ("right", "axes", True, 90, -90), ("up", "clockwise", False, 90, 0),
        ("up", "clockwise", True, 0, 90), ("up", "clockwise", False, 180, -90),
        ("down", "counter_clockwise", True, 0, 90),
        ("left", "counter_clockwise", False, -90, 90), ("left", "clockwise", False, 0, 180),
    ],
)  # fmt: skip
def test_a_facing_from_the_zero_angle_of_the_game_by_hand(zero, turn, y_down, ours, theirs):
    game = Conventions(zero=Zero(zero), turn=Turn(turn), y_down=y_down)
    assert column_to_game("facing", float(ours), game) == theirs
    assert facing_from_game(float(theirs), game) == ours


def facing_from_game(angle, game):
    """In degrees as in our units, within (-180, 180]."""
    ours = angle / factor("°", game)
    return 180 - (180 - (-ours if game.turns_clockwise else ours) - ZEROS[game.zero]) % 360


@given(st.floats(-179.99, 180), conventions())
def test_a_facing_is_read_back(angle, game):
    there = column_to_game("facing", angle, game)
    assert -180.001 < there <= 180
    back = facing_from_game(there, game)
    assert min(abs(back - angle), 360 - abs(back - angle)) < 1e-9


def test_a_turned_view_uses_game_angles():
    yaw = parameter_by_id("input.view_yaw")
    assert to_game(yaw, 30.0, Conventions(turn=Turn.CLOCKWISE)) == -30
    assert from_game(yaw, -30.0, Conventions(turn=Turn.CLOCKWISE)) == 30


@pytest.mark.parametrize("form", FORMATS)
def test_no_format_contains_negative_zero(form):
    """A turned angle of 0 stays 0 in either direction of the game's angles."""
    text = numbers_text(Tune(name="Wren", view="top"), Conventions(turn=Turn.CLOCKWISE, y_down=True), form)
    assert not re.search(r"-0\.0\b", text)


def ids_of(which, tune=WREN, conventions=GAME, before=None):
    return [figure.parameter.id for figure in figures(tune, conventions, which, before)]


def test_only_changed_or_named_numbers_are_handed_over_on_request():
    matters = ids_of(Which.ALL)
    assert ids_of(Which.DIFFERENT) == [id for id in matters if WREN.get(id) != parameter_by_id(id).default]
    assert "jump.air_jumps" not in ids_of(Which.DIFFERENT)
    changed = WREN.put("gravity.gravity", 30.0).put("jump.buffer", 0.2)
    assert ids_of(Which.CHANGED, changed, before=WREN) == ["gravity.gravity", "jump.buffer"]
    assert ids_of(Which.CHANGED, WREN, before=WREN) == []
    assert ids_of(Which.CHANGED, WREN) == matters
    named = GAME.model_copy(update={"names": {"drive.top_speed": "MAX_RUN", "gravity.gravity": "G"}})
    assert ids_of(Which.NAMED, conventions=named) == ["drive.top_speed", "gravity.gravity"]


@pytest.mark.parametrize("format", FORMATS)
def test_an_empty_selection_gives_a_text_without_numbers(format):
    assert "top_speed" not in numbers_text(WREN, GAME, format, Which.NAMED)


def test_the_milestone_is_the_named_or_the_last():
    study = editing.with_milestone(STUDY, "first", "2026-11-01")
    study = study.with_tune(study.tune("Wren").put("gravity.gravity", 30.0), instead_of="Wren")
    study = editing.with_milestone(study, "second", "2026-11-02")
    assert at_milestone(study, study.tune("Wren")).gravity.gravity == 30.0
    assert at_milestone(study, study.tune("Wren"), "first").gravity.gravity == 42.0
    assert at_milestone(study, Tune(name="Later")) is None
    with pytest.raises(KeyError, match="no milestone called 'third'"):
        at_milestone(study, WREN, "third")
    with pytest.raises(KeyError, match="no milestone yet"):
        at_milestone(STUDY, WREN)


def test_code_without_delta_time_has_its_addition_per_frame_described():
    """42 u/s² at 32 px and 60 frames: 0.3733 px/frame each frame; per second 22.4 px/s each frame."""
    mixed = WREN.put("stepping.time_base", "mixed").put("stepping.reference_rate", 60.0)
    figure = next(each for each in figures(mixed, GAME) if each.parameter.id == "gravity.gravity")
    assert figure.comment.endswith("Such code adds 0.373333 px/frame in a frame, whatever its length.")
    by_second = next(
        each for each in figures(mixed, Conventions(pixels_per_unit=32)) if each.parameter.id == "gravity.gravity"
    )
    assert by_second.comment.endswith("Such code adds 22.4 px/s in a frame, whatever its length.")
    assert not any(each.per_frame for each in figures(WREN, GAME))
