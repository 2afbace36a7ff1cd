import pytest

from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import parse_study, write_study
from cinetica.model import editing
from cinetica.model.tune import parameter_by_id

STUDY = shipped_study("harbour")


def names(study):
    return [tune.name for tune in study.tunes]


def test_a_duplicate_follows_its_tune_under_a_free_name():
    study = editing.duplicated(editing.duplicated(STUDY, "Wren"), "Wren")
    assert names(study)[:3] == ["Wren", "Wren copy 2", "Wren copy"]
    assert study.tune("Wren copy").values() == study.tune("Wren").values()


def test_at_most_six_tunes_of_one_view():
    study = STUDY
    for _ in range(4):
        study = editing.new_tune(study, "side")
    with pytest.raises(ValueError, match="the most that can be told apart"):
        editing.new_tune(study, "side")
    assert len(editing.new_tune(study, "top").tunes) == len(study.tunes) + 1


def test_restoring_a_snapshot_keeps_the_name():
    gravity = parameter_by_id("gravity.gravity")
    study = editing.with_snapshot(STUDY, "Wren")
    changed = study.with_tune(study.tune("Wren").put(gravity.id, 11.0), instead_of="Wren")
    changed = editing.with_tune_note(editing.renamed_tune(changed, "Wren", "Wren II"), "Wren II", " mine ")
    back = editing.restore_snapshot(changed, "Wren before")
    assert back.tune("Wren II").get(gravity.id) == STUDY.tune("Wren").get(gravity.id)
    assert back.tune("Wren II").note == "mine"
    with pytest.raises(ValueError, match="not a snapshot"):
        editing.restore_snapshot(changed, "Bramble")
    with pytest.raises(ValueError, match="is gone"):
        editing.restore_snapshot(editing.without_tune(changed, "Wren II"), "Wren before")


def test_a_snapshot_is_kept_in_the_file(tmp_path):
    study = editing.with_snapshot(STUDY, "Wren")
    write_study(study, tmp_path / "study.json")
    assert parse_study((tmp_path / "study.json").read_text(), "study.json") == study


def test_a_tune_moves_among_those_of_its_view():
    assert names(editing.moved_tune(STUDY, "Wren", 1)) == ["Bramble", "Wren", *names(STUDY)[2:]]
    assert editing.moved_tune(STUDY, "Wren", -3) == STUDY
    assert names(editing.moved_tune(STUDY, "Otter", 9))[-1] == "Otter"


@pytest.mark.parametrize(
    ("name", "message"),
    [("", "needs a name"), ("  ", "needs a name"), ("Bramble", "already a tune"), ("x" * 300, "not a valid name")],
)
def test_a_bad_name_is_refused_with_a_reason(name, message):
    with pytest.raises(ValueError, match=message):
        editing.renamed_tune(STUDY, "Wren", name)


def test_a_group_of_values_is_copied():
    jump = [parameter_by_id(id) for id in ("jump.jump_speed", "jump.coyote")]
    study = editing.with_copied_values(STUDY, "Wren", "Bramble", jump)
    for parameter in jump:
        assert study.tune("Bramble").get(parameter.id) == STUDY.tune("Wren").get(parameter.id)
    assert study.tune("Bramble").drive == STUDY.tune("Bramble").drive


def test_drills_are_made_copied_renamed_and_removed():
    study = editing.duplicated_drill(STUDY, "Rooftop hop")
    assert [drill.name for drill in study.drills][3] == "Rooftop hop copy"
    study = editing.renamed_drill(study, "Rooftop hop copy", "Long hop")
    assert study.drill("Long hop").take == STUDY.drill("Rooftop hop").take
    with pytest.raises(ValueError, match="already a drill"):
        editing.renamed_drill(study, "Long hop", "Rooftop hop")
    assert editing.without_drill(study, "Long hop") == STUDY
    new = editing.with_new_drill(STUDY, "side").drills[-1]
    assert new.take.length == 120
    assert new.course.solids
