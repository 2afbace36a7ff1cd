import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.files.reading import Refused
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import parse_study, read_study, schema, study_text, write_study

GOOD = {
    "format": "cinetica-study", "version": 1, "name": "Harbour couriers",
    "tunes": [{"name": "Wren", "view": "side", "drive": {"top_speed": 7.5}}],
    "drills": [{"name": "Quay sprint", "course": {"solids": [[-4, -1, 6, 0]]}, "take": {"keys": {"right": [[5, 90]]}}}],
}  # fmt: skip


def faults(**changed):
    with pytest.raises(Refused) as refused:
        parse_study(json.dumps({**GOOD, **changed}), "study.json")
    return refused.value.faults


def test_omitted_fields_have_their_defaults():
    study = parse_study(json.dumps(GOOD), "study.json")
    assert study.tune("Wren").drive.top_speed == 7.5
    assert study.tune("Wren").drive.acceleration == 50
    assert study.drill("Quay sprint").take.keys.right[0] == (5, 90)
    assert study.clock.tick_rate == 60


def test_each_field_has_a_line_of_its_own():
    lines = study_text(parse_study(json.dumps(GOOD), "study.json")).splitlines()
    assert lines[4:10] == [
        ' "tunes": [', "  {", '   "name":"Wren",', '   "drive":{"top_speed":7.5}', "  }", " ],"
    ]  # fmt: skip
    assert lines[12:16] == [
        '   "name":"Quay sprint",', '   "course":{"solids":[[-4.0,-1.0,6.0,0.0]]},',
        '   "take":{"keys":{"right":[[5,90]]}}', "  }",
    ]  # fmt: skip


def wren(**drive):
    return {"name": "Wren", "drive": drive}


def drill(**take):
    return {"name": "x", "take": take}


@pytest.mark.parametrize(
    ("changed", "place", "reason"),
    [
        ({"tunes": [wren(top_sped=8)]}, "tunes[0] (Wren).drive.top_sped", "did you mean top_speed"),
        ({"tunes": [wren(top_speed="fast")]}, "tunes[0] (Wren).drive.top_speed", "a number from 0 to"),
        ({"tunes": [wren(top_speed=1e300)]}, "tunes[0] (Wren).drive.top_speed", "a number from 0 to"),
        ({"tunes": [wren(top_speed="für")]}, "tunes[0] (Wren).drive.top_speed", '"für"'),
        ({"tunes": [wren(law="glide")]}, "tunes[0] (Wren).drive.law", "one of instant, ramp"),
        ({"tunes": [{"name": " "}]}, "tunes[0]", "name"),
        ({"tunes": [wren(), wren()]}, "tunes", "two of the same name"),
        ({"drills": [drill(keys={"right": [[9, 5]]})]}, "drills[0] (x).take.keys.right[0]", "from before to"),
        ({"drills": [drill(length=10**9)]}, "drills[0] (x).take.length", "less than or equal"),
        ({"drills": [{"name": "x", "course": {"solids": [[3, 0, 1, 1]]}}]}, "drills[0] (x).course.solids[0]",
         "left < right"),
        ({"clock": {"tick_rate": 0}}, "clock.tick_rate", "a number from 1 to"),
        ({"version": 2}, "study.json", "newer"),
        ({"format": "other"}, "format", "cinetica-study"),
        ({"name": 3}, "name", "string"),
    ],
)  # fmt: skip
def test_errors_are_reported_with_place_and_reason(changed, place, reason):
    lines = faults(**changed)
    assert any(place in line and reason in line for line in lines), lines


def test_every_error_has_its_line():
    tunes = [{"name": "Wren", "drive": {"top_speed": -1, "friction": "x"}, "jmp": {}}]
    assert len(faults(tunes=tunes)) == 3
    solids = [{"name": "Quay", "course": {"solids": [[0, 0, 1, 1], [0, 0, 1, "x"]]}}]
    assert "drills[0] (Quay).course.solids[1][3]: " in faults(drills=solids)[0]
    many = [{"name": f"t{number}", "drive": {"friction": -1}} for number in range(50)]
    assert faults(tunes=many)[-1].endswith("and 30 more faults")


@pytest.mark.parametrize(
    "content", [b"", b"{", b"[]", b"null", b"\xff\xfe", b'{"format": NaN}', b"[" * 100_000, b'{"a":' * 50_000]
)
def test_files_that_are_not_studies_are_refused(content):
    with pytest.raises(Refused) as refused:
        parse_study(content, "study.json")
    assert refused.value.faults[0].startswith("study.json: ")


@given(st.binary(max_size=60), st.integers(0, 400))
def test_damaged_studies_are_read_or_refused(noise, at):
    content = bytearray(json.dumps(GOOD).encode())
    content[at : at + len(noise)] = noise
    try:
        parse_study(bytes(content), "study.json")
    except Refused as refused:
        assert refused.faults


def test_nan_and_infinity_never_pass():
    for number in ("NaN", "Infinity", "-Infinity", "1e999"):
        text = json.dumps(GOOD).replace("7.5", number)
        with pytest.raises(Refused):
            parse_study(text, "study.json")


def test_a_study_comes_back_equal(tmp_path):
    study = shipped_study("harbour")
    path = tmp_path / "study.json"
    write_study(study, path)
    assert read_study(path) == study
    assert list(tmp_path.iterdir()) == [path]
    assert "air_jumps" not in study_text(study)


def test_a_failed_write_leaves_the_old_file(tmp_path, monkeypatch):
    path = tmp_path / "study.json"
    path.write_text("old")
    monkeypatch.setattr("os.fsync", lambda _: (_ for _ in ()).throw(OSError("disk full")))
    with pytest.raises(OSError, match="disk full"):
        write_study(shipped_study("harbour"), path)
    assert path.read_text() == "old"
    assert list(tmp_path.iterdir()) == [path]


def test_the_published_schema_is_the_one_in_use():
    from pathlib import Path

    published = json.loads((Path(__file__).parents[2] / "docs" / "study.schema.json").read_text())
    assert published == json.loads(json.dumps(schema()))


@pytest.mark.parametrize(("length", "shown"), [(58, f'"{"q" * 58}"'), (59, f'"{"q" * 56}...')])
def test_a_long_value_is_cut_in_the_message(length, shown):
    assert any(f" {shown} " in fault for fault in faults(clock="q" * length))
