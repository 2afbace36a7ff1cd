"""Numbers as they are shown, in our units and in those of a game."""

import math
import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cinetica.desk.sheet.cells import dragged_in, value_from_text
from cinetica.files.shipped import shipped_study
from cinetica.model.conventions import Angle, Conventions, Per, Times, Turn, Zero
from cinetica.model.game_units import factor, unit_words
from cinetica.model.rescaling import SCALED_UNITS, Scope, resized
from cinetica.model.study import UnitSystem
from cinetica.model.targets import Target
from cinetica.model.tune import PARAMETERS, parameter_by_id
from cinetica.model.value_text import value_text
from cinetica.motion.simulate import simulate
from cinetica.reading.channels import CHANNELS
from cinetica.reading.display_units import OURS, DisplayUnits, display_units, game_units
from cinetica.reading.divergence import first_divergence
from cinetica.reading.explain import RULES, equation, explain
from cinetica.reading.measures import MEASURES
from cinetica.reading.reading_off import read_off
from cinetica.reading.targets import judge

STUDY = shipped_study("harbour")
WREN = STUDY.tune("Wren")
# 32 px per unit, y down, speeds per frame at 50, angles in radians clockwise from up.
GAME = Conventions(
    pixels_per_unit=32, y_down=True, per=Per.FRAME, rate=50, angle=Angle.RADIAN, zero=Zero.UP, turn=Turn.CLOCKWISE
)
UNITS = DisplayUnits(GAME)
BY_ID = {measure.id: measure for measure in MEASURES}

conventions = st.builds(
    Conventions, pixels_per_unit=st.sampled_from([1.0, 16.0, 32.0, 100.0, 0.5]), y_down=st.booleans(),
    per=st.sampled_from(Per), rate=st.sampled_from([24.0, 30.0, 50.0, 60.0, 144.0]), times=st.sampled_from(Times),
    angle=st.sampled_from(Angle), zero=st.sampled_from(Zero), turn=st.sampled_from(Turn),
)  # fmt: skip


@pytest.mark.parametrize(
    ("column", "kept", "shown", "unit"),
    [
        ("x", 2.0, 64.0, "px"), ("y", 2.0, -64.0, "px"), ("vx", 5.0, 3.2, "px/frame"), ("vy", 5.0, -3.2, "px/frame"),
        ("ay", -25.0, 0.32, "px/frame²"), ("speed", 5.0, 3.2, "px/frame"), ("facing", 90.0, 0.0, "rad"),
        ("facing", 0.0, math.pi / 2, "rad"), ("facing", -180.0, -math.pi / 2, "rad"),
        ("since_press", 0.1, 5.0, "frames"),
        ("overlap", 0.5, 16.0, "px"), ("bank", 90.0, -math.pi / 2, "rad"), ("tick", 7.0, 7.0, ""),
        ("input_y", 1.0, -1.0, ""), ("input_x", 1.0, 1.0, ""),
    ],
)  # fmt: skip
def test_a_column_has_the_scale_direction_and_zero_of_the_game(column, kept, shown, unit):
    scale = UNITS.column(column)
    assert scale.unit == unit
    assert scale.shown(kept) == pytest.approx(shown, abs=1e-12)
    assert OURS.column(column).shown(kept) == kept


def test_angles_on_an_axis_are_continuous_and_written_within_a_turn():
    scale = DisplayUnits(Conventions(zero=Zero.UP)).column("facing")
    assert scale.on_axis(-170.0) == -260.0
    assert scale.wrapped(-260.0) == 100.0 == scale.shown(-170.0)
    assert scale.kept(-260.0) == -170.0
    assert scale.span(-170.0, 170.0) == (-260.0, 80.0)


def test_zero_has_no_sign():
    for column in ("y", "vy", "input_y"):
        assert math.copysign(1.0, UNITS.column(column).shown(0.0)) == 1.0
    assert math.copysign(1.0, float(UNITS.value(parameter_by_id("jump.jump_speed"), 0.0))) == 1.0


@pytest.mark.parametrize(
    ("times", "unit", "shown", "words"),
    [
        (Times.AS_SPEEDS, "frames", 5.0, "5.00 frames"), (Times.SECOND, "s", 0.1, "0.100 s"),
        (Times.MILLISECOND, "ms", 100.0, "100 ms"), (Times.FRAME, "frames", 5.0, "5.00 frames"),
    ],
)  # fmt: skip
def test_times_are_in_units_of_the_game(times, unit, shown, words):
    game = GAME.model_copy(update={"times": times})
    assert unit_words("s", game) == unit
    assert factor("s", game) * 0.1 == pytest.approx(shown)
    assert DisplayUnits(game).time(0.1) == words
    # Speeds stay as they are.
    assert unit_words("u/s", game) == "px/frame"


def test_a_study_is_shown_in_its_own_units_or_the_games():
    assert display_units(STUDY) is OURS
    game = STUDY.model_copy(update={"conventions": GAME, "units": UnitSystem.GAME})
    assert display_units(game) == game_units(game) == UNITS
    assert display_units(game) is display_units(game)


@given(conventions, st.sampled_from([each for each in PARAMETERS if each.kind == "number"]), st.floats(0, 1))
@settings(max_examples=400, deadline=None)
def test_typed_values_read_back_to_the_last_digit(game, parameter, share):
    units, values = DisplayUnits(game), WREN.values()
    low, high = parameter.comfort
    kept = low + share * (high - low)
    # A rate that covers practically nothing of a gap cannot be typed as a share.
    if parameter.share and float(units.value(parameter, kept, values)) > 0.9999:
        return
    text = units.text(parameter, kept, values)
    typed = value_from_text(parameter, text, values=values, shown=units)
    assert units.text(parameter, typed, values) == text
    assert typed == pytest.approx(kept, rel=2e-3, abs=2e-3 * (high - low))


@given(conventions, st.sampled_from([each for each in PARAMETERS if each.kind == "number" and not each.share]),
       st.floats(0.1, 0.9), st.integers(-40, 40))  # fmt: skip
@settings(max_examples=300, deadline=None)
def test_dragging_right_never_decreases_and_ends_on_a_round_number(game, parameter, share, pixels):
    units = DisplayUnits(game)
    low, high = parameter.comfort
    start = low + share * (high - low)
    there = float(dragged_in(units, parameter, WREN, start, pixels))
    assert parameter.low <= there <= parameter.high
    if abs(pixels) >= 1:
        assert (there - start) * pixels >= -1e-9 * (high - low)
    shown = abs(float(units.value(parameter, there)))
    if parameter.low < there < parameter.high:
        assert float(f"{shown:.6g}") == pytest.approx(shown, rel=1e-9, abs=1e-12)


@pytest.mark.parametrize("text", ["-9.6", "9.6", "−9.6", "-480 px/s", "15 u/s", "-9.6 px/f"])
def test_an_upward_speed_may_be_typed_with_either_sign(text):
    speed = parameter_by_id("jump.jump_speed")
    from cinetica.model.quantity import Units  # The names of the units come from the study.

    typed = value_from_text(speed, text, Units(pixel=1 / 32, frame=1 / 50), shown=UNITS)
    assert typed == pytest.approx(15.0)


def test_limits_are_in_the_shown_units():
    speed, ours = UNITS.parameter(parameter_by_id("jump.jump_speed")), parameter_by_id("jump.jump_speed")
    assert speed.unit == "px/frame"
    assert (speed.low, speed.high) == (-ours.high * 0.64, 0.0)
    with pytest.raises(ValueError, match=r"from -64000 to 0 px/frame"):
        value_from_text(parameter_by_id("jump.jump_speed"), "fast", shown=UNITS)


def test_pixels_scale_the_whole_world():
    """Computed in another way: the study itself is rescaled and shown in our units."""
    pixels, large = DisplayUnits(Conventions(pixels_per_unit=32)), resized(STUDY, 32.0, Scope.STUDY)
    for drill in STUDY.drills:
        for tune in STUDY.tunes_for(drill):
            other = large.tune(tune.name)
            for parameter in PARAMETERS:
                if parameter.unit in SCALED_UNITS:
                    assert pixels.text(parameter, tune.get(parameter.id)) == value_text(
                        parameter, other.get(parameter.id)
                    )
            mine, its = simulate(tune, drill, STUDY.clock), simulate(other, large.drill(drill.name), large.clock)
            for channel in CHANNELS:
                shown = pixels.column(channel.column).shown(np.asarray(mine[channel.column], dtype=float))
                np.testing.assert_allclose(shown, its[channel.column], rtol=1e-9, atol=1e-7)
            found, there = read_off(mine, units=pixels), read_off(its)
            assert {id: each.value for id, each in found.items()} == pytest.approx(
                {id: each.value for id, each in there.items()}, rel=1e-6, abs=1e-6
            )


def test_targets_are_in_the_shown_units():
    drill = STUDY.drill("Rooftop hop")
    target = Target(measure="jump_height", low=1.0, high=2.0)
    trace = simulate(WREN, drill, STUDY.clock)
    (verdict,) = judge(drill.model_copy(update={"targets": (target,)}), WREN, read_off(trace), UNITS)
    assert verdict.wanted == "32…64 px"
    high = 32 * read_off(trace)["jump_height"].value
    assert verdict.why == f"{high:.4g} px, {high - 64:.3g} px too high"
    assert f"should be 32…64 px; {high:.4g} px" in verdict.words


NUMBER = r"−?\d+(?:\.\d+)?(?:e-?\d+)?"


def number(text):
    return float(text.replace("−", "-"))


def products(words):
    """The stated change of a velocity, and the result of the equation beside it."""
    change = re.search(rf"v[xy] ({NUMBER}) → ({NUMBER})", words)
    factors = re.search(rf"(?:acceleration|friction|gravity) ({NUMBER}) \S+((?: × [a-z ]*{NUMBER})+)", words)
    if change is None or factors is None or ("toward" in words and abs(number(change[1]) - number(change[2])) < 1e-9):
        return None
    return number(change[2]) - number(change[1]), math.prod(map(number, [factors[1], *re.findall(NUMBER, factors[2])]))


@pytest.mark.parametrize(
    "game",
    [
        Conventions(pixels_per_unit=100, y_down=True, per=Per.FRAME, rate=60),
        Conventions(pixels_per_unit=100, y_down=False, per=Per.FRAME, rate=60),
    ],
)
def test_every_equation_of_explain_adds_up(game):
    units, checked = DisplayUnits(game), 0
    drill = STUDY.drill("Rooftop hop")
    trace = simulate(WREN, drill, STUDY.clock)
    for row in range(1, len(trace)):
        for line in explain(trace, row, units):
            assert not re.search(r"\d u\b|u/s", line.words), line.words
            found = products(line.words)
            if line.rule == "weight" and found is not None:
                # Down is forward where y points down.
                sign = 1.0 if game.y_down else -1.0
                assert sign * found[0] == pytest.approx(found[1], abs=0.011), line.words
                checked += 1
            elif line.rule == "ramp" and found is not None and abs(found[0]) > 0.1:
                # The last step stops at its end.
                assert abs(found[0]) <= found[1] + 0.011, line.words
                checked += 1
    assert checked > 80


def test_a_launch_has_the_sign_of_its_curve():
    tune = WREN.put("jump.run_boost", 0.5)
    trace = simulate(tune, STUDY.drill("Rooftop hop"), STUDY.clock)
    words = [line.words for row in range(1, len(trace)) for line in explain(trace, row, UNITS) if line.rule == "launch"]
    pattern = rf"vy {NUMBER} → ({NUMBER}): launch, jump speed ({NUMBER}) − run boost ({NUMBER}) × ({NUMBER})"
    after, speed, boost, ran = map(number, re.search(pattern, words[0]).groups())
    assert after < 0
    assert after == pytest.approx(speed - boost * ran, abs=0.011)


def test_differences_are_in_the_shown_units():
    drill = STUDY.drill("Quay sprint")
    one, other = (simulate(STUDY.tune(name), drill, STUDY.clock) for name in ("Wren", "Bramble"))
    ours = first_divergence(one, other, 0.5, columns=("x",))
    game = first_divergence(one, other, 16.0, columns=("x",), units=UNITS)
    assert (game.row, game.values, game.cause_row) == (ours.row, ours.values, ours.cause_row)
    assert "u/s" in ours.reason
    assert "px/frame" in game.reason
    assert first_divergence(one, other, 0.5, columns=("x",), units=UNITS).row < ours.row


def test_no_text_contains_our_units():
    """These texts are shown in all units."""
    texts = [equation(rule) for rule in RULES] + [each.meaning for each in PARAMETERS]
    texts += [f"{each.meaning} {each.absent}" for each in MEASURES]
    assert not [words for words in texts if re.search(r"\bu\b|u/s", words)]
