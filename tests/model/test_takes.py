import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.model.take import Press, Push, Take
from cinetica.model.takes import (
    fitted,
    moved,
    press_from_text,
    presses_of,
    push_from_text,
    pushes_of,
    stick_at,
    with_length,
    with_press,
    with_push,
    without_press,
    without_push,
)  # fmt: skip
from tests.builders import takes

TAKE = Take(length=100)


def test_presses_are_added_replaced_and_removed():
    take = with_press(TAKE, "jump", Press(10, 20))
    take = with_press(take, "jump", Press(40, 50))
    assert presses_of(take, "jump") == ((10, 20), (40, 50))
    take = with_press(take, "jump", Press(60, 70), instead_of=Press(10, 20))
    assert presses_of(take, "jump") == ((40, 50), (60, 70))
    assert presses_of(without_press(take, "jump", Press(40, 50)), "jump") == ((60, 70),)
    assert presses_of(TAKE, "jump") == ()


def test_touching_presses_are_merged():
    take = with_press(with_press(TAKE, "left", Press(10, 20)), "left", Press(20, 30))
    assert presses_of(take, "left") == ((10, 30),)
    assert presses_of(with_press(take, "left", Press(5, 40)), "left") == ((5, 40),)


@given(takes(), st.sampled_from(["left", "jump"]), st.integers(-50, 200), st.integers(-50, 200))
def test_adding_a_press_keeps_all_held_frames(take, key, start, end):
    press = fitted(take, start, end)
    assert 0 <= press.start < press.end <= take.length

    def held(some):
        return {frame for one in presses_of(some, key) for frame in range(*one)}

    after = with_press(take, key, press)
    assert held(after) == held(take) | set(range(*press))
    spans = presses_of(after, key)
    assert all(a.end < b.start for a, b in zip(spans, spans[1:], strict=False))


@given(st.integers(0, 90), st.integers(1, 10), st.integers(-300, 300))
def test_a_moved_press_keeps_its_length_and_stays_inside(start, length, by):
    press = moved(TAKE, Press(start, start + length), by)
    assert press.end - press.start == length
    assert press.start >= 0
    assert press.end <= 100


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("5", "not a press"),
        ("x y", "not a press"),
        ("30 5", "would be empty"),
        ("7 7", "would be empty"),
        ("90 140", "outside the take"),
    ],
)
def test_a_bad_press_is_refused_with_a_reason(text, message):
    with pytest.raises(ValueError, match=message):
        press_from_text(TAKE, text)


def test_typed_presses_and_pushes():
    assert press_from_text(TAKE, " 5 – 30 ") == (5, 30)
    assert push_from_text(TAKE, "10 0,5 -1") == (10, 0.5, -1)
    for text, message in (
        ("10 0.5", "not a stick position"),
        ("10 2 0", "−1 to 1"),
        ("100 0 0", "outside"),
        ("a b c", "not a stick position"),
    ):
        with pytest.raises(ValueError, match=message):
            push_from_text(TAKE, text)


def test_pushes_replace_those_of_the_same_frame_and_are_clamped():
    take = with_push(with_push(TAKE, "stick", Push(10, 1, 0)), "stick", Push(10, 0.2, 5))
    assert pushes_of(take, "stick") == ((10, 0.2, 1.0),)
    take = with_push(take, "stick", Push(500, 0, 0))
    assert pushes_of(take, "stick")[-1].frame == 99
    assert stick_at(take, "stick", 9) == (0, 0)
    assert stick_at(take, "stick", 50) == (0.2, 1.0)
    assert pushes_of(without_push(take, "stick", Push(10, 0.2, 1.0)), "stick") == ((99, 0, 0),)


def test_input_beyond_a_shortened_take_comes_back():
    take = with_press(TAKE, "jump", Press(80, 90))
    shorter = with_length(take, 50)
    assert shorter.length == 50
    assert presses_of(with_length(shorter, 100), "jump") == ((80, 90),)
    with pytest.raises(ValueError, match="from 1 to"):
        with_length(take, 0)
