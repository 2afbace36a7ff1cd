import math
import re

import pytest

from cinetica.desk.sheet.cells import dragged, factor_of, figure_from_text, share_of_comfort, units_of, value_from_text
from cinetica.files.shipped import shipped_study
from cinetica.model.clock import Clock
from cinetica.model.conventions import Conventions, Per
from cinetica.model.quantity import Units
from cinetica.model.targets import range_from_text
from cinetica.model.tune import PARAMETERS, parameter_by_id
from cinetica.model.value_text import number_text, reading_text
from cinetica.reading.measures import MEASURES

SPEED, JUMPS, LAW = (parameter_by_id(id) for id in ("drive.top_speed", "jump.air_jumps", "drive.law"))
HEIGHT = next(measure for measure in MEASURES if measure.id == "jump_height")


@pytest.mark.parametrize(
    ("value", "text"), [(7.5, "7.5"), (0.0, "0"), (-0.00001, "0"), (12.3456789, "12.3457"), (2.5e7, "2.5e+07")]
)
def test_numbers_are_written_without_trailing_zeros(value, text):
    assert number_text(value) == text


@pytest.mark.parametrize(("value", "text"), [(0.12345, "0.123"), (1.239, "1.24"), (0.0, "0.00"), (123.45, "123.5")])
def test_figures_have_three_significant_digits(value, text):
    assert reading_text(value) == text


@pytest.mark.parametrize(
    ("value", "unit", "text"), [(9.0, "frames", "9"), (0.0, "ticks", "0"), (2.5, "ticks", "2.50"), (9.0, "u", "9.00")]
)
def test_counts_have_no_decimals(value, unit, text):
    assert reading_text(value, unit) == text


@pytest.mark.parametrize(("text", "wanted"), [("2,6", 2.6), (" 3 ", 3.0), ("1e1", 10.0)])
def test_a_wanted_figure_may_be_typed_with_a_point_or_a_comma(text, wanted):
    assert figure_from_text(HEIGHT, text, "u") == wanted


@pytest.mark.parametrize("text", ["", "high", "1,2,3", "nan", "--1"])
def test_a_wanted_figure_must_be_a_number(text):
    with pytest.raises(ValueError, match="type what jump height should be, in u"):
        figure_from_text(HEIGHT, text, "u")


def test_typed_values_have_the_type_of_their_parameter():
    assert value_from_text(SPEED, "6,5") == 6.5
    assert value_from_text(JUMPS, "2") == 2
    assert value_from_text(LAW, "Ease") == "ease"
    for parameter, text in ((JUMPS, "1.5"), (LAW, "float"), (SPEED, "fast")):
        with pytest.raises(ValueError, match="is not allowed here"):
            value_from_text(parameter, text)


UNITS = Units(pixel=1 / 32, frame=1 / 50, tick=1 / 100, width=0.5, height=1.0)


@pytest.mark.parametrize(
    ("id", "text", "wanted"),
    [
        ("drive.top_speed", "640 px/s", 20.0), ("drive.top_speed", "2*3", 6.0), ("drive.top_speed", "6 bodies/s", 3.0),
        ("jump.jump_speed", "6 bodies/s", 6.0), ("gravity.gravity", "1 px/f²", 78.125),
        ("jump.coyote", "6t", 0.06), ("jump.coyote", "100 ms", 0.1), ("drive.air_control", "80%", 0.8),
        ("drive.air_control", "4/5", 0.8), ("jump.air_jumps", "4/2", 2), ("drive.turn_rate", "3.14159265 rad/s", 180.0),
    ],
)  # fmt: skip
def test_a_number_may_be_typed_in_any_unit_of_its_kind(id, text, wanted):
    assert value_from_text(parameter_by_id(id), text, UNITS) == pytest.approx(wanted, rel=1e-6)


def test_a_share_per_tick_becomes_a_rate():
    rate = next(each for each in PARAMETERS if each.share == "exact")
    assert value_from_text(rate, "20%", UNITS) == pytest.approx(-100 * math.log(0.8))
    assert value_from_text(rate, "10/s", UNITS) == 10.0


@pytest.mark.parametrize(
    ("parameter", "text", "words"),
    [
        (SPEED, "600 px", "“600 px” is a length, but Top speed is a speed: type 7.5, 240 px/s or 4 px/f. It was not"),
        (SPEED, "20%", "“20%” is a share, but Top speed is a speed"),
        (SPEED, "6t", "“6t” is a time, but Top speed is a speed"),
        (JUMPS, "3/2", "is not allowed here: Air jumps is"),
        (SPEED, "6 parsecs", "“parsecs” in “6 parsecs” is not a known unit"),
    ],
)
def test_a_wrong_unit_is_refused_with_the_right_ones(parameter, text, words):
    with pytest.raises(ValueError, match=re.escape(words)):
        value_from_text(parameter, text, UNITS)


@pytest.mark.parametrize(
    ("text", "unit", "counted", "wanted"),
    [("2", "u", 1.0, 2.0), ("2", "heights", 1.5, 3.0), ("64 px", "heights", 1.5, 2)],
)
def test_a_wanted_figure_in_bodies_or_pixels_is_converted_to_units(text, unit, counted, wanted):
    assert figure_from_text(HEIGHT, text, unit, UNITS, counted) == wanted


def test_a_range_may_be_in_any_unit_of_the_figure():
    def in_units(name):
        return factor_of(HEIGHT, name, UNITS)

    assert range_from_text("64-96 px", "u", in_units) == (2.0, 3.0)
    assert range_from_text(">= 1.5 bodies", "u", in_units) == (1.5, None)
    assert factor_of(HEIGHT, "px", UNITS, counted=0.5) == 1 / 16
    for text in ("2-3 s", "2-3 parsecs"):
        with pytest.raises(ValueError, match="this figure is in u"):
            range_from_text(text, "u", in_units)


def test_a_wanted_figure_in_a_wrong_unit_is_refused():
    with pytest.raises(ValueError, match="Jump height is a length"):
        figure_from_text(HEIGHT, "3 u/s", "u", UNITS)


def test_pixels_and_frames_follow_the_game_and_ticks_the_clock():
    study = shipped_study("harbour")
    study = study.model_copy(update={"clock": Clock(tick_rate=50)})
    assert units_of(study, study.tune("Wren")).frame == 1 / 50
    game = study.model_copy(update={"conventions": Conventions(pixels_per_unit=16, rate=30, per=Per.FRAME)})
    found = units_of(game, game.tune("Wren"))
    assert (found.pixel, found.frame, found.tick, found.height) == (1 / 16, 1 / 30, 1 / 50, 1.6)


def test_a_drag_stops_at_the_hard_range_and_snaps_to_its_step():
    assert dragged(SPEED, 5.0, -1e9) == SPEED.low
    assert dragged(SPEED, 5.0, 1e9) == SPEED.high
    assert dragged(JUMPS, 1, 0.6) == 2
    assert share_of_comfort(SPEED, SPEED.comfort[1] * 9) == 1.0


def test_a_figure_without_a_unit_is_a_count():
    lost = next(measure for measure in MEASURES if measure.id == "lost_presses")
    assert lost.text(2.0) == "2"
    assert next(measure for measure in MEASURES if measure.id == "air_time").text(2.0) == "2.00"
