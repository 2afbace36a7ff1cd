"""Which number, changed as little as possible, meets a missed target without missing another."""

import pytest

from cinetica.model.study import Study
from cinetica.model.targets import Target
from cinetica.reading.target_search import solve
from cinetica.reading.targets import verdicts
from tests.builders import make_drill, make_tune

pytestmark = pytest.mark.thorough


def study_with(*targets, **numbers):
    drill = make_drill(length=120, right=[(5, 60)], jump=[(70, 110)]).model_copy(update={"targets": targets})
    return Study(format="cinetica-study", version=1, name="x", tunes=(make_tune(**numbers),), drills=(drill,))


def missed(study):
    return next(verdict for verdict in verdicts(study) if not verdict.met)


def test_the_smallest_change_is_first_and_each_one_meets_the_target():
    """14 u/s under 40 u/s² rises 2.333 u; v²/2g - v/120 = 2.5 takes 14.5 u/s, or about 37.4 u/s²."""
    study = study_with(Target(measure="jump_height", low=2.5, high=2.7))
    proposals = solve(study, missed(study))
    assert {"jump.jump_speed", "gravity.gravity"} <= {each.parameter.id for each in proposals}
    assert [each.size for each in proposals] == sorted(each.size for each in proposals)
    for each in proposals:
        tune = study.tunes[0].put(each.parameter.id, each.after)
        assert not [v for v in verdicts(study.with_tune(tune, instead_of="Wren")) if not v.met]
        assert each.after != each.before
        assert 2.5 <= each.value <= 2.7
    speed = next(each for each in proposals if each.parameter.id == "jump.jump_speed")
    assert speed.after == pytest.approx(14.5, abs=0.05)
    assert speed.size == pytest.approx((speed.after - 14) / 14)
    # With as few digits as possible.
    assert [each.after for each in proposals] == [float(f"{each.after:.3g}") for each in proposals]
    assert study.tunes[0].get("jump.jump_speed") == 14


def test_proposals_do_not_miss_other_targets():
    both = study_with(
        Target(measure="jump_height", low=2.5, high=2.7), Target(measure="time_to_apex", low=0.34, high=0.352)
    )
    alone = {each.parameter.id for each in solve(study_with(both.drills[0].targets[0]), missed(both))}
    kept = {each.parameter.id for each in solve(both, missed(both))}
    assert "gravity.gravity" in alone
    assert "gravity.gravity" not in kept


def test_other_changed_figures_are_listed():
    study = study_with(Target(measure="jump_height", low=2.5))
    speed = next(each for each in solve(study, missed(study)) if each.parameter.id == "jump.jump_speed")
    assert {each.measure.id for _, each in speed.also} & {"air_time", "time_to_apex", "jump_distance", "highest_hop"}


def test_unsolvable_targets_are_explained():
    out_of_reach = study_with(Target(measure="turn_time", low=1.0))
    assert solve(out_of_reach, missed(out_of_reach)) == []
    unknown = study_with(Target(measure="nothing", low=1.0))
    with pytest.raises(ValueError, match="no figure called nothing"):
        solve(unknown, missed(unknown))
    met = study_with(Target(measure="jump_height", low=1.0))
    with pytest.raises(ValueError, match="is met"):
        solve(met, verdicts(met)[0])
