"""Milestones, logged curves, and what a new study begins with."""

import pytest

from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import parse_study, study_text
from cinetica.model import editing
from cinetica.model.milestone import Logged
from cinetica.model.templates import TEMPLATES
from cinetica.motion.simulate import simulate

STUDY = shipped_study("harbour")
AT = "2026-11-23T10:00:00+00:00"


def with_gravity(study, gravity):
    return study.with_tune(study.tune("Wren").put("gravity.gravity", gravity), instead_of="Wren")


def log(name="Game"):
    columns = dict.fromkeys(("time", "x", "y", "vx", "vy"), (0.0, 1.0, 2.0))
    return Logged(name=name, drill="Rooftop hop", **columns)


def test_a_tune_of_a_milestone_is_restored_beside_the_current_one():
    study = with_gravity(editing.with_milestone(STUDY, "before the gravity change", AT), 20.0)
    back = editing.with_restored_tune(study, "before the gravity change", "Wren")
    names = [tune.name for tune in back.tunes]
    assert names[:2] == ["Wren", "Wren, before the gravity change"]
    assert back.tune("Wren").gravity.gravity == 20
    assert back.tune(names[1]).gravity.gravity == 42


def test_a_removed_tune_is_restored():
    study = editing.without_tune(editing.with_milestone(STUDY, "morning", AT), "Wren")
    assert editing.with_restored_tune(study, "morning", "Wren").tunes[-1].name == "Wren, morning"


def test_names_of_milestones():
    study = editing.with_milestone(STUDY, "  morning ", AT)
    with pytest.raises(ValueError, match="already a milestone"):
        editing.with_milestone(study, "morning", AT)
    with pytest.raises(ValueError, match="needs a name"):
        editing.with_milestone(study, " ", AT)
    assert editing.renamed_milestone(study, "morning", "noon").milestones[0].name == "noon"
    assert editing.without_milestone(study, "morning") == STUDY
    with pytest.raises(ValueError, match="no tune to keep"):
        editing.with_milestone(TEMPLATES[-1].make(), "x", AT)


def test_a_log_belongs_to_its_drill():
    study = editing.with_log(editing.with_log(STUDY, log()), log())
    assert [each.name for each in study.logs] == ["Game", "Game 2"]
    assert editing.with_log(STUDY, log("Wren")).logs[0].name == "Wren 2"
    assert [each.drill for each in editing.renamed_drill(study, "Rooftop hop", "Roofs").logs] == ["Roofs", "Roofs"]
    assert editing.without_drill(study, "Rooftop hop").logs == ()
    assert [each.name for each in editing.without_log(study, "Game").logs] == ["Game 2"]
    with pytest.raises(KeyError):
        editing.with_log(editing.without_drill(STUDY, "Rooftop hop"), log())


def test_milestones_and_logs_are_saved_in_the_file():
    study = editing.with_log(editing.with_milestone(STUDY, "morning", AT), log())
    assert parse_study(study_text(study), "x") == study


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda template: template.name)
def test_every_template_can_be_saved_and_moves(template):
    study = template.make()
    assert parse_study(study_text(study), "x") == study
    for drill in study.drills:
        (tune,) = study.tunes_for(drill)
        trace = simulate(tune, drill, study.clock)
        moved = max(abs(trace["x"]).max(), abs(trace["y"]).max())
        assert moved > 1
        assert trace["overlap"].max() == 0
        if drill.view == "side":
            assert trace["y"][-1] >= -1, "it falls out of the course"
