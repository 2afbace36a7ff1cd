import pytest

from cinetica.desk.sheet.cells import dragged, share_of_comfort, value_from_text, wish_from_text
from cinetica.model.tune import parameter_by_id
from cinetica.model.value_text import number_text, reading_text
from cinetica.reading.measures import MEASURES

SPEED, JUMPS, LAW = (parameter_by_id(id) for id in ("drive.top_speed", "jump.air_jumps", "drive.law"))
HEIGHT = next(measure for measure in MEASURES if measure.id == "jump_height")


@pytest.mark.parametrize(
    ("value", "text"), [(7.5, "7.5"), (0.0, "0"), (-0.00001, "0"), (12.3456789, "12.3457"), (2.5e7, "2.5e+07")]
)
def test_numbers_are_written_without_idle_digits(value, text):
    assert number_text(value) == text


@pytest.mark.parametrize(("value", "text"), [(0.12345, "0.123"), (1.239, "1.24"), (0.0, "0.00"), (123.45, "123.5")])
def test_figures_have_three_digits_that_matter(value, text):
    assert reading_text(value) == text


@pytest.mark.parametrize(
    ("value", "unit", "text"), [(9.0, "frames", "9"), (0.0, "ticks", "0"), (2.5, "ticks", "2.50"), (9.0, "u", "9.00")]
)
def test_what_is_counted_has_no_decimals(value, unit, text):
    assert reading_text(value, unit) == text


@pytest.mark.parametrize(("text", "wanted"), [("2,6", 2.6), (" 3 ", 3.0), ("1e1", 10.0)])
def test_a_wish_is_a_number_with_point_or_comma(text, wanted):
    assert wish_from_text(HEIGHT, text, "u") == wanted


@pytest.mark.parametrize("text", ["", "high", "1,2,3", "nan", "--1"])
def test_what_is_no_number_is_no_wish(text):
    with pytest.raises(ValueError, match="type what jump height should be, in u"):
        wish_from_text(HEIGHT, text, "u")


def test_typed_values_have_the_type_of_their_parameter():
    assert value_from_text(SPEED, "6,5") == 6.5
    assert value_from_text(JUMPS, "2") == 2
    assert value_from_text(LAW, "Ease") == "ease"
    for parameter, text in ((JUMPS, "1.5"), (LAW, "float"), (SPEED, "fast")):
        with pytest.raises(ValueError, match="is not allowed here"):
            value_from_text(parameter, text)


def test_a_drag_ends_at_the_hard_range_and_keeps_to_its_grid():
    assert dragged(SPEED, 5.0, -1e9) == SPEED.low
    assert dragged(SPEED, 5.0, 1e9) == SPEED.high
    assert dragged(JUMPS, 1, 0.6) == 2
    assert share_of_comfort(SPEED, SPEED.comfort[1] * 9) == 1.0


def test_a_figure_without_a_unit_is_a_count():
    lost = next(measure for measure in MEASURES if measure.id == "lost_presses")
    assert lost.text(2.0) == "2"
    assert next(measure for measure in MEASURES if measure.id == "air_time").text(2.0) == "2.00"
