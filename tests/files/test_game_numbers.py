"""Numbers of a game as numbers of a tune: by name, meaning and unit, and the conventions that they imply."""

import pytest

from cinetica.files.game_numbers import by_meaning, find_numbers, likely_conventions, likely_words
from cinetica.files.handover import numbers_text
from cinetica.files.reading import Refused
from cinetica.files.shipped import shipped_study
from cinetica.model.conventions import Conventions, Per

WREN = shipped_study("harbour").tune("Wren")
PIXELS = Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME, rate=50)


@pytest.mark.parametrize(
    ("name", "id"),
    [
        ("jumpVel", "jump.jump_speed"), ("JUMP_FORCE", "jump.jump_speed"), ("max_run", "drive.top_speed"),
        ("moveSpeed", "drive.top_speed"), ("walk_velocity", "drive.top_speed"), ("playerGravity", "gravity.gravity"),
        ("fallGravityMultiplier", "gravity.fall_factor"), ("maxFallSpeed", "gravity.terminal_speed"),
        ("coyoteTime", "jump.coyote"), ("jump_buffer_frames", "jump.buffer"), ("JumpCutMultiplier", "jump.cut_factor"),
        ("groundFriction", "drive.friction"), ("decel", "drive.friction"), ("extraJumps", "jump.air_jumps"),
        ("COLLIDER_WIDTH", "body.width"), ("climbSpeed", "climb.climb_speed"), ("topspeed", "drive.top_speed"),
        ("airControl", "drive.air_control"), ("maxXVel", "drive.top_speed"),
    ],
)  # fmt: skip
def test_names_are_matched_by_meaning(name, id):
    found = by_meaning(name)
    assert found is not None
    assert found.id == id


@pytest.mark.parametrize("name", ["lives", "hp", "jumpHeight", "gravity_scale", "airAccel", "jumpSound", "x", ""])
def test_unrelated_names_are_not_proposed(name):
    assert by_meaning(name) is None


@pytest.mark.parametrize("name", ["jumpBufferSpeed", "fall_gravity_max", "RUN_ACCELERATION_MAX"])
def test_ambiguous_names_are_not_proposed(name):
    assert by_meaning(name) is None


def test_similar_names_are_proposed_but_not_taken():
    found = find_numbers("jumpVel = 12\ntop_speed = 6\nlives = 3", Conventions())
    assert found.values == {"drive.top_speed": 6.0}
    proposed = found.entries[0]
    assert (proposed.parameter.id, proposed.value, proposed.sure) == ("jump.jump_speed", 12.0, False)
    assert found.unknown == ("lives",)


def test_texts_that_are_not_options_are_left_out():
    found = find_numbers('title = "Harbour"\nlaw = "ease"\ntop_speed = 6', Conventions())
    assert [each.assigned.name for each in found.entries] == ["law", "top_speed"]
    assert found.values["drive.law"] == "ease"


def test_the_name_of_the_tune_wins_over_other_names():
    found = find_numbers("maxSpeed = 9\ntop_speed = 6", Conventions())
    assert found.values == {"drive.top_speed": 6.0}
    assert found.entries[0].parameter is None


def test_a_stated_unit_wins_over_the_conventions():
    text = "top_speed = 300 // px/s\njump_speed = -12 // px/frame\ncoyote = 120 // ms\nair_control = 80 // %\n"
    found = find_numbers(text, PIXELS).values
    assert found["drive.top_speed"] == pytest.approx(300 / 32)
    assert found["jump.jump_speed"] == pytest.approx(12 * 50 / 32)
    assert found["jump.coyote"] == pytest.approx(0.12)
    assert found["drive.air_control"] == pytest.approx(0.8)
    # Without a unit they follow the conventions.
    assert find_numbers("top_speed = 4", PIXELS).values["drive.top_speed"] == pytest.approx(4 * 50 / 32)


def test_a_wrong_unit_is_a_clear_error():
    (found,) = find_numbers("top_speed = 300 // px", PIXELS).entries
    assert found.value is None
    assert found.fault == "300: px says a length, but Top speed is a speed"


@pytest.mark.parametrize(
    "game",
    [
        Conventions(pixels_per_unit=32, y_down=True),
        Conventions(pixels_per_unit=16, per=Per.FRAME),
        Conventions(pixels_per_unit=100, y_down=True, per=Per.FRAME),
        Conventions(y_down=True),
    ],
)
def test_conventions_are_inferred_from_size_and_sign(game):
    """Wren's numbers in the conventions of a game, without any units."""
    text = "\n".join(line.split("#")[0] for line in numbers_text(WREN, game, "toml").splitlines())
    likely = likely_conventions(find_numbers(text, Conventions()).entries, WREN, Conventions())
    assert likely is not None
    assert (likely.pixels_per_unit, likely.y_down, likely.per) == (game.pixels_per_unit, game.y_down, game.per)
    assert likely_words(likely).startswith("By size and sign these look like")
    # Under those conventions there is nothing to propose.
    assert likely_conventions(find_numbers(text, game).entries, WREN, game) is None


def test_of_equally_good_conventions_the_closest_is_proposed():
    """Gravity alone, 32 times as strong: neither its sign nor its units of time imply anything."""
    text = f"gravity = {32 * WREN.gravity.gravity}"
    likely = likely_conventions(find_numbers(text, Conventions()).entries, WREN, Conventions())
    assert (likely.pixels_per_unit, likely.y_down, likely.per) == (32, False, Per.SECOND)
    down = Conventions(y_down=True)
    text = f"top_speed = {32 * WREN.drive.top_speed}"
    likely = likely_conventions(find_numbers(text, down).entries, WREN, down)
    assert (likely.pixels_per_unit, likely.y_down, likely.per) == (32, True, Per.SECOND)


def test_a_text_that_is_too_long_is_refused_and_says_what_is_expected():
    with pytest.raises(Refused, match="larger than 256 KiB; a tune's numbers are a short text"):
        find_numbers("top_speed = 7.5\n" * 20_000, Conventions())


def test_numbers_like_those_of_the_tune_imply_no_conventions():
    text = "top_speed = 6\njump_speed = 12\ngravity = 50"
    assert likely_conventions(find_numbers(text, Conventions()).entries, WREN, Conventions()) is None
    assert likely_conventions((), WREN, Conventions()) is None


def test_longer_names_are_understood_and_shares_only_for_factors():
    found = find_numbers('{"jump": {"speed": 14}, "courier": {"maxSpeed": 300}}', Conventions()).entries
    assert [each.parameter and each.parameter.id for each in found] == ["jump.jump_speed", "drive.top_speed"]
    share, speed = find_numbers("air_control = 50 // %\ntop_speed = 50 // %\n", Conventions()).entries
    assert (share.value, share.fault) == (0.5, "")
    assert "Top speed is a speed" in speed.fault
