import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from cinetica.model.clock import CLOCK_PARAMETERS
from cinetica.model.laws import Law
from cinetica.model.parameters import SECTIONS
from cinetica.model.tune import PARAMETERS, Tune, parameter_by_id

NUMBERS = [parameter for parameter in PARAMETERS if parameter.kind in ("number", "whole")]


@pytest.mark.parametrize("parameter", [*PARAMETERS, *CLOCK_PARAMETERS], ids=lambda parameter: parameter.id)
def test_a_declaration_is_whole(parameter):
    assert parameter.label
    assert parameter.meaning.endswith(".")
    assert parameter.section in SECTIONS
    if parameter.kind in ("number", "whole"):
        low, high = parameter.comfort
        assert parameter.low <= low < high <= parameter.high
        assert parameter.low <= parameter.default <= parameter.high
    if parameter.kind == "choice":
        assert parameter.default in {option.id for option in parameter.options}
        assert all(option.meaning.endswith(".") for option in parameter.options)
    for when in parameter.when:
        assert when.id in {other.id for other in (*PARAMETERS, *CLOCK_PARAMETERS)}


def test_ids_and_keys_are_unique():
    assert (
        len({parameter.id for parameter in PARAMETERS})
        == len({parameter.name for parameter in PARAMETERS})
        == len(PARAMETERS)
    )


@pytest.mark.parametrize("value", [math.nan, math.inf, -math.inf, 1e300, "8", True, None, [1]])
@pytest.mark.parametrize("id", ["drive.top_speed", "jump.air_jumps", "body.width"])
def test_numbers_out_of_range_are_refused(id, value):
    with pytest.raises(ValidationError):
        Tune(name="Wren").put(id, value)


@given(st.sampled_from(NUMBERS), st.floats(0, 1))
def test_every_value_in_the_hard_range_is_accepted_and_read_back(parameter, share):
    value = parameter.low + share * (parameter.high - parameter.low)
    value = round(value) if parameter.kind == "whole" else value
    assert Tune(name="Wren").put(parameter.id, value).get(parameter.id) == value


@pytest.mark.parametrize("parameter", NUMBERS, ids=lambda parameter: parameter.id)
def test_just_outside_the_hard_range_is_refused(parameter):
    for value in (parameter.low - 1, parameter.high + 1):
        with pytest.raises(ValidationError):
            Tune(name="Wren").put(parameter.id, value)


def test_steer_is_for_the_top_view_only():
    assert Tune(name="Punt", view="top").put("drive.law", "steer").drive.law is Law.STEER
    with pytest.raises(ValueError, match="steer"):
        Tune(name="Wren").put("drive.law", "steer")
    with pytest.raises(ValueError, match=r"drive\.law: steer does not go with the view 'side'"):
        Tune.model_validate({"name": "Wren", "drive": {"law": "steer"}})


def test_setting_a_value_leaves_the_original():
    wren = Tune(name="Wren")
    fast = wren.put("drive.top_speed", 9)
    before, after = wren.values(), fast.values()
    assert {id for id in before if before[id] != after[id]} == {"drive.top_speed"}
    assert wren.drive.top_speed == 7


def test_a_parameter_matters_under_its_choices():
    tune = Tune(name="Wren")
    cut, apex = parameter_by_id("jump.cut_factor"), parameter_by_id("gravity.apex_factor")
    assert cut.matters("side", tune.values())
    assert not cut.matters("top", tune.values())
    assert not cut.matters("side", tune.put("jump.short_hop", "none").values())
    assert not apex.matters("side", tune.values())
    assert apex.matters("side", tune.put("gravity.apex_speed", 1).values())
