"""Targets: ranges as they are typed, saved, renamed and copied."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import parse_study, study_text
from cinetica.model import editing
from cinetica.model.targets import Target, range_from_text, range_words, split_all, split_everywhere

STUDY = shipped_study("harbour")
HOP = "Rooftop hop"


@pytest.mark.parametrize(
    ("text", "ends"),
    [
        ("2.5…2.7", (2.5, 2.7)), ("2.5-2.7", (2.5, 2.7)), ("2.5 - 2.7 u", (2.5, 2.7)),
        ("-2 - -1.5", (-2.0, -1.5)), ("1e-2-0.5", (0.01, 0.5)),
        ("2.5..2.7", (2.5, 2.7)), ("2.5 ... 2.7 u", (2.5, 2.7)), ("2,5 – 2,7", (2.5, 2.7)),
        ("2.5 to 2.7", (2.5, 2.7)), (">= 2.5", (2.5, None)), ("> 2.5 u", (2.5, None)), ("≥2.5", (2.5, None)),
        ("<= 3", (None, 3.0)), ("≤ 3", (None, 3.0)), ("2.6 ± 0.1", (2.5, 2.7)), ("2.6 +- 0.1", (2.5, 2.7)),
        ("−2…−1", (-2.0, -1.0)), ("-2…3", (-2.0, 3.0)),
    ],
)  # fmt: skip
def test_a_range_is_understood(text, ends):
    found = range_from_text(text, "u")
    assert found == tuple(end if end is None else pytest.approx(end) for end in ends)


@pytest.mark.parametrize("text", ["2.5", "high", "", "-3", "1e-3"])
def test_texts_that_are_not_ranges_are_passed_on(text):
    assert range_from_text(text, "u") is None


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("2.7…2.5", "wrong way round"), ("2.5…2.7 s", "is in s; this figure is in u"), (">= high", "not a range"),
        ("2…3…4", "not a range"), ("2.6 ± -0.1", "wrong way round"), (">= 1e999", "too large"),
    ],
)  # fmt: skip
def test_invalid_ranges_are_refused_with_a_reason(text, message):
    with pytest.raises(ValueError, match=message):
        range_from_text(text, "u")


def test_a_range_may_end_with_for_all():
    assert split_all("2.5…2.7 all") == ("2.5…2.7", True)
    assert split_all("none for all") == ("none", True)
    assert split_all(">= 2") == (">= 2", False)
    assert split_everywhere("2…3 on every drill") == split_everywhere("2…3, everywhere") == ("2…3", True)
    assert split_everywhere("2…3 all") == ("2…3 all", False)


ends = st.one_of(st.none(), st.integers(-(10**6), 10**6).map(lambda whole: whole / 1000))


@given(ends, ends)
def test_a_shown_range_can_be_typed(low, high):
    if (low is None and high is None) or (low is not None and high is not None and low >= high):
        return
    assert range_from_text(range_words(low, high)) == (low, high)


@given(st.floats(-100, 100), st.floats(0, 10), st.floats(-200, 200))
def test_a_value_misses_by_its_distance_from_the_range(low, wide, value):
    target = Target(measure="jump_height", low=low, high=low + wide)
    missing = target.misses_by(value)
    if missing:
        assert abs(value - missing - (low if missing < 0 else low + wide)) < 1e-9
    else:
        assert low - 1e-6 <= value <= low + wide + 1e-6
    assert target.misses_by(low) == 0 == target.misses_by(low + wide)


def test_a_target_without_an_end_or_upside_down_is_refused():
    for content in (
        {"measure": "jump_height"},
        {"measure": "jump_height", "low": 3, "high": 2},
        {"measure": "9", "low": 1},
    ):
        with pytest.raises(ValidationError):
            Target(**content)


def with_targets(*targets):
    study = STUDY
    for target in targets:
        study = editing.with_target(study, HOP, target)
    return study


def test_a_study_keeps_its_targets():
    study = with_targets(
        Target(measure="jump_height", low=2.5, high=2.7, tunes=("Wren",)), Target(measure="air_time", low=0.5)
    )
    text = study_text(study)
    assert '{"measure":"jump_height","low":2.5,"high":2.7,"tunes":["Wren"]}' in text
    assert parse_study(text, "x") == study


def test_a_target_replaces_earlier_ones_of_its_tunes():
    one, other = Target(measure="jump_height", low=2.0), Target(measure="jump_height", low=3.0, tunes=("Wren",))
    study = with_targets(one, other)
    assert study.drill(HOP).targets == (one.model_copy(update={"tunes": ("Bramble",)}), other)
    assert with_targets(other, one).drill(HOP).targets == (one,)
    assert editing.without_target(study, HOP, "jump_height", ("Wren",)).drill(HOP).targets[0].tunes == ("Bramble",)
    assert editing.without_target(study, HOP, "jump_height").drill(HOP).targets == ()
    assert editing.without_target(study, HOP, "air_time") == study


def test_targets_follow_renamed_tunes_and_are_copied_with_a_drill():
    study = with_targets(Target(measure="jump_height", low=2.0, tunes=("Wren", "Bramble")))
    renamed = editing.renamed_tune(study, "Wren", "Swift")
    assert renamed.drill(HOP).targets[0].tunes == ("Swift", "Bramble")
    assert editing.without_tune(renamed, "Swift").drill(HOP).targets[0].tunes == ("Bramble",)
    assert editing.without_tune(editing.without_tune(renamed, "Swift"), "Bramble").drill(HOP).targets == ()
    assert editing.duplicated_drill(study, HOP).drill(f"{HOP} copy").targets == study.drill(HOP).targets


def test_drills_move_among_those_of_their_view():
    names = [drill.name for drill in editing.moved_drill(STUDY, "Fish steps", 0).drills]
    assert names[0] == "Fish steps"
    assert names[10:] == [drill.name for drill in STUDY.drills][10:]
    last = editing.moved_drill(STUDY, "Quay sprint", 99)
    assert [drill.name for drill in last.drills if drill.view == "side"][-1] == "Quay sprint"
