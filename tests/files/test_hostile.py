"""Damaged and hostile files are read or refused with a reason, and cause nothing else."""

import json
import random
from importlib import resources

import pytest

from cinetica.files import study_json
from cinetica.files.game_csv import Layout, guess, logged
from cinetica.files.game_numbers import read_numbers
from cinetica.files.reading import Refused, read_bytes
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import parse_study
from cinetica.model.conventions import Conventions
from cinetica.model.study import Study
from tests.repetitions import TIMES

TEXT = (resources.files("cinetica") / "data/harbour.json").read_text()
HEAD = '{"format":"cinetica-study","version":1,"name":"x"'
VALUES = (None, True, -1, 0, 1e308, 10**30, "", "x" * 1000, [], {}, [[[[]]]], {"a": {"b": []}}, "\ud800", -0.0, 2**63)


def read_or_refused(text) -> bool:
    """Whether it was read; each error of a refusal is one line, with its place."""
    try:
        study = parse_study(text, "damaged.json")
    except Refused as refused:
        assert refused.faults
        assert all(
            fault.startswith("damaged.json") and "\n" not in fault and len(fault) < 2000 for fault in refused.faults
        )
        return False
    assert isinstance(study, Study)
    return True


def _truncated(chance):
    return TEXT[: chance.randrange(len(TEXT))].encode()


def _flipped(chance):
    raw = bytearray(TEXT.encode())
    for _ in range(chance.choice((1, 1, 3, 30))):
        raw[chance.randrange(len(raw))] ^= 1 << chance.randrange(8)
    return bytes(raw)


def _wrong_types(chance):
    """Replace a value somewhere in the tree."""
    document = json.loads(TEXT)
    node = document
    while True:
        key = chance.choice(list(node) if isinstance(node, dict) else range(len(node)))
        if not isinstance(node[key], dict | list) or not node[key] or chance.random() < 0.2:
            node[key] = chance.choice(VALUES)
            return json.dumps(document).encode()
        node = node[key]


def _cut_and_pasted(chance):
    a, b = sorted(chance.randrange(len(TEXT)) for _ in range(2))
    return (TEXT[:b] + TEXT[a:]).encode()


@pytest.mark.parametrize("damage", [_truncated, _flipped, _wrong_types, _cut_and_pasted])
def test_500_of_each_kind_of_damage_are_read_or_refused(damage):
    chance = random.Random(f"{damage.__name__} {TIMES}")
    read = sum(read_or_refused(damage(chance)) for _ in range(500 * TIMES))
    assert read < 500 * TIMES


@pytest.mark.parametrize(
    ("text", "reason"),
    [
        ("[" * 1_000_000, "lists"),
        ('{"a":' * 1_000_000, "objects"),
        (HEAD + ',"drills":[{"name":"d","take":{"length":1000000000}}]}', "length"),
        (HEAD + ',"drills":[{"name":"d","take":{"stick":[' + "[]," * 299_000 + "[]]}}]}", "stick[0]"),
        (HEAD + ',"tunes":[' + "0," * 590_000 + "0]}", "faults"),
        (HEAD + "," + ",".join(f'"k{number}":0' for number in range(150_000)) + "}", "faults"),
        (HEAD + ',"tunes":[' + "[]," * 400_000 + "[]]}", "lists"),
        ('{"version":' + "9" * 1_000_000 + "}", "not JSON"),
        (b"\xff\xfe\x00\x01", "not JSON"),
        ("", "not JSON"),
    ],
)
def test_oversized_content_is_refused_with_a_reason(text, reason):
    with pytest.raises(Refused) as refused:
        parse_study(text, "hostile.json")
    assert reason in str(refused.value)


def test_a_file_too_large_is_refused_before_it_is_read(tmp_path):
    path = tmp_path / "large.json"
    with path.open("wb") as file:
        file.truncate(study_json.LARGEST + 1)
    with pytest.raises(Refused, match="larger than"):
        study_json.read_study(path)


def test_a_file_may_be_as_large_as_its_limit(tmp_path):
    path = tmp_path / "file"
    path.write_bytes(b"12345")
    assert read_bytes(path, 5, "split it") == b"12345"
    with pytest.raises(Refused, match="larger than 0 MiB; split it"):
        read_bytes(path, 4, "split it")
    path.write_bytes(bytes(3 * 2**20 + 1))
    with pytest.raises(Refused, match="larger than 3 MiB; split it"):
        read_bytes(path, 3 * 2**20, "split it")


def test_a_folder_and_a_missing_file_are_refused(tmp_path):
    for path in (tmp_path, tmp_path / "none.json"):
        with pytest.raises(Refused, match=str(path)):
            study_json.read_study(path)


def test_an_older_version_is_migrated_step_by_step(monkeypatch):
    def renamed(document):
        return {("name" if key == "title" else key): value for key, value in document.items()}

    monkeypatch.setitem(study_json.MIGRATIONS, -1, lambda document: document | {"title": document["heading"]})
    monkeypatch.setitem(
        study_json.MIGRATIONS,
        0,
        lambda document: {key: value for key, value in renamed(document).items() if key != "heading"},
    )
    study = parse_study('{"format": "cinetica-study", "version": -1, "heading": "Old"}', "x")
    assert (study.name, study.version) == ("Old", 1)
    with pytest.raises(Refused, match="name"):
        parse_study('{"format": "cinetica-study", "version": 0, "title": 3}', "x")


GAME = "frame,x,y,vx,vy\n" + "".join(f"{n},{n * 0.5:.2f},{-n},0.5,-1\n" for n in range(60))


def test_damaged_logs_are_read_or_refused():
    chance = random.Random(3)
    read = 0
    for _ in range(400 * TIMES):
        raw = bytearray(GAME.encode())
        for _ in range(chance.choice((1, 5, 40))):
            raw[chance.randrange(len(raw))] = chance.choice(b'",;\t\n\r0123456789.eE-+xyNaInf \x00\xff')
        text = bytes(raw[: chance.randrange(10, len(raw))]).decode("utf-8", errors="replace")
        try:
            layout = guess(text, Conventions())
            logged(text, layout, "log", "drill")
            read += 1
        except Refused as refused:
            assert refused.faults
        except ValueError as error:
            # The model refuses what the columns say.
            assert str(error)
    assert 0 < read < 400 * TIMES


NOTHING = (
    "",
    "\n\n",
    "a",
    '"',
    "1\n2\n3\n",
    "x,y\n",
    "x,y\n1,2\n",
    "x,y\nnan,1\n2,3\n",
    "x,y\n1e400,1\n2,3\n",
    "time,x\n0,1\n0,2\n",
    "," * 10000,
)


@pytest.mark.parametrize("text", NOTHING)
def test_empty_logs_are_refused(text):
    with pytest.raises(Refused):
        logged(text, guess(text, Conventions()), "log", "drill")


@pytest.mark.parametrize(
    ("text", "reason"),
    [("1," * 5_000_000, "a line of more"), (("1," * 300 + "1\n") * 12_000, "cells"), ("1,2\n" * 200_010, "rows")],
)
def test_oversized_logs_are_refused(text, reason):
    with pytest.raises(Refused, match=reason):
        logged(text, Layout(header=False, columns={"x": 0, "y": 1}), "log", "drill")


def test_nan_and_infinity_are_refused():
    chance = random.Random(5)
    for _ in range(200):
        text = "".join(chance.choice('top_speed=7.5\n"[]{},: \t#/') for _ in range(200))
        try:
            read_numbers(text, Conventions())
        except Refused as refused:
            assert refused.faults


def test_the_demo_studies_are_complete():
    assert shipped_study("harbour").tunes
    assert shipped_study("pitfalls").tunes
