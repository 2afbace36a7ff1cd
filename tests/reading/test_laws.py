"""All drive laws × views × Explain × recipe × goal seek: a law that was forgotten somewhere fails here."""

import pytest

from cinetica.files.recipe import recipe
from cinetica.model.clock import Clock
from cinetica.model.conventions import Conventions
from cinetica.model.laws import LAWS, Law
from cinetica.model.tune import PARAMETERS, Drive
from cinetica.reading.explain import equation, explain
from cinetica.reading.goal_seek import GoalOutOfReach, seek
from cinetica.reading.laws import LAW_WORDS
from tests.builders import make_drill, make_tune, run

CASES = [(law, view) for law, about in LAWS.items() for view in about.views]


def tune_under(law, view):
    numbers = {"drive__drag": 1.0} if law is Law.PUSH else {"drive__bank_angle": 20} if LAWS[law].heading else {}
    return make_tune(view=view, drive__law=law.value, **numbers)


def drill_in(view):
    """To the right, back, and nothing; in top view also upward (thrust, under laws with a heading)."""
    up = [(2, 40)] if view == "top" else []
    return make_drill(view=view, length=90, right=[(2, 30)], left=[(30, 45)], up=up)


def test_every_law_is_declared_and_has_words():
    assert set(LAWS) == set(LAW_WORDS) == set(Law)
    keys = set(Drive.model_fields)
    for about in LAWS.values():
        assert set(about.numbers) <= keys
        assert {about.starting, about.stopping} - {""} <= set(about.numbers)


@pytest.mark.parametrize(("law", "view"), CASES)
def test_explain_names_the_law_that_acts_and_its_equation(law, view):
    trace = run(tune_under(law, view), drill_in(view))
    lines = [line for row in (3, 4) for line in explain(trace, row)]
    acting = {line.rule for line in lines} & {law.value for law in Law}
    assert acting == {law.value}
    assert len(equation(law.value)) > 10


@pytest.mark.parametrize(("law", "view"), CASES)
def test_no_two_laws_move_alike(law, view):
    """A law that is not dispatched to would run as another one, and leave the same trace."""
    mine = run(tune_under(law, view), drill_in(view))
    for other in LAWS:
        if other is not law and view in LAWS[other].views:
            theirs = run(tune_under(other, view), drill_in(view))
            assert abs(mine["vx"] - theirs["vx"]).max() > 1e-3, other


@pytest.mark.parametrize(("law", "view"), CASES)
def test_the_recipe_names_every_number_that_matters_under_the_law(law, view):
    tune = tune_under(law, view)
    for number, key in enumerate(LAWS[law].numbers):
        parameter = next(each for each in PARAMETERS if each.id == f"drive.{key}")
        if parameter.kind == "number" and key not in ("air_friction", "bank_angle", "turn_acceleration"):
            tune = tune.put(parameter.id, 3.0 + number / 8)
    steps = recipe(tune, [drill_in(view)], Clock(), Conventions())
    text = "\n".join(rule for step in steps for rule in step.rules)
    for number, key in enumerate(LAWS[law].numbers):
        if tune.get(f"drive.{key}") == 3.0 + number / 8 and key != "turn_acceleration":
            assert f"{3.0 + number / 8:g}" in text, key


@pytest.mark.parametrize(("law", "view"), CASES)
@pytest.mark.parametrize("figure", ["time_to_top_speed", "stopping_time"])
def test_goal_seek_moves_the_declared_number_or_says_why_not(law, view, figure):
    number = LAWS[law].starting if figure == "time_to_top_speed" else LAWS[law].stopping
    drill = make_drill(view=view, length=240, **{"up" if LAWS[law].heading else "right": [(2, 150)]})
    if not number:
        with pytest.raises(GoalOutOfReach, match="there is no number behind"):
            seek(tune_under(law, view), drill, Clock(), figure, 0.3)
        return
    granted = seek(tune_under(law, view), drill, Clock(), figure, 0.3)
    assert [parameter.key for parameter, _, _ in granted.moved] == [number]
