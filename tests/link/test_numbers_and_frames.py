"""Numbers on their way to the game, and frames received from it."""

import random

from hypothesis import given
from hypothesis import strategies as some

from cinetica.link import frames as module
from cinetica.link.frames import LARGEST_GAP, Frame, Frames
from cinetica.link.numbers import AGAIN, Numbers
from cinetica.link.take_rows import BITS, rows_of, take_rows
from cinetica.model.take import KEYS, Keys, Press, Push, Take


def frame(number, row=None):
    return Frame(number, 0, number if row is None else row, number / 60, 1 / 60, 1.0 * number, 0.0, 0.0, 0.0, 1, 0)


def test_changes_are_sent_until_confirmed_and_nothing_else():
    numbers = Numbers()
    numbers.show("Wren", {"speed": 7.0, "law": "ramp"})
    sent = {name: arguments for name, arguments in numbers.due(0.0) if name == "tune"}
    assert sent["tune"][1:] == ("Wren", 2)
    assert list(numbers.due(AGAIN / 2)) == []
    again = list(numbers.due(AGAIN))
    assert [name for name, _ in again] == ["tune", "number", "number"]
    for _, arguments in again:
        numbers.confirm(arguments[0])
    assert numbers.is_settled
    numbers.show("Wren", {"speed": 8.0, "law": "ramp"})
    ((name, (count, which, value)),) = numbers.due(1.0)
    assert (name, which, value) == ("number", "speed", 8.0)
    # A late confirmation of an older value does not count.
    numbers.confirm(count - 1)
    assert not numbers.is_settled
    numbers.show("Wren", {"speed": 9.0, "law": "ramp"})
    numbers.confirm(count)
    assert not numbers.is_settled
    numbers.show("Wren", {"law": "ramp"})
    assert numbers.is_settled


def test_true_and_1_differ():
    numbers = Numbers()
    numbers.show("Wren", {"keeps": 1})
    for _, arguments in numbers.due(0.0):
        numbers.confirm(arguments[0])
    numbers.show("Wren", {"keeps": True})
    assert not numbers.is_settled


@given(some.integers(2, 60), some.integers(0, 10_000))
def test_frames_are_in_order_on_any_network(count, seed):
    chance = random.Random(seed)
    arriving = [number for number in range(1, count + 1) if number == 1 or chance.random() > 0.2]
    arriving += [number for number in arriving if chance.random() < 0.2]
    # The first one sets the beginning: what was sent before it does not matter.
    rest = arriving[1:]
    chance.shuffle(rest)
    frames = Frames()
    for number in [1, *rest]:
        frames.add(frame(number), 0.0)
    here = sorted(set(arriving))
    assert [each.number for each in frames.since(0)] == here
    assert frames.lost == here[-1] - len(here)
    assert frames.doubled == len(arriving) - len(here)
    missing = [number for number in range(1, here[-1]) if number not in here]
    assert frames.gaps(1, here[-1]) == missing
    assert all(frames.gaps(number, number) == [number] for number in missing)


def test_a_run_has_the_frames_since_its_start():
    frames = Frames()
    for number in range(1, 6):
        frames.add(frame(number), 0.0)
    for row in range(4):
        frames.add(frame(6 + row, row), 0.0)
    assert [each.row for each in frames.run()] == [0, 1, 2, 3]
    assert [each.row for each in frames.run(2)] == [0, 1]
    assert frames.last.begins == 6


def test_a_large_jump_of_the_frame_number_is_a_restart():
    frames = Frames()
    for number in (500_000, 500_001, 1, 2):
        frames.add(frame(number), 0.0)
    assert [each.number for each in frames.since(0)] == [1, 2]
    assert frames.lost == 0
    frames.add(frame(2 + LARGEST_GAP), 0.0)
    assert frames.lost == LARGEST_GAP - 1


def test_the_frame_rate_is_measured_over_the_last_second():
    frames = Frames()
    for number in range(1, 121):
        frames.add(frame(number), number / 60)
    assert frames.rate(2.0) == 61
    assert frames.rate(10.0) == 0


@given(
    some.integers(1, 60),
    some.dictionaries(some.sampled_from(KEYS), some.tuples(some.integers(0, 59), some.integers(1, 60))),
    some.dictionaries(some.integers(0, 59), some.tuples(some.floats(-1, 1), some.floats(-1, 1)), max_size=4),
)
def test_input_rows_contain_the_take(length, presses, pushes):
    keys = {key: (Press(start, start + long),) for key, (start, long) in presses.items()}
    take = Take(length=length, keys=Keys(**keys), stick=tuple(Push(at, *pushes[at]) for at in sorted(pushes)))
    rows = take_rows(take)
    assert rows[0].frame == 0
    for at in range(length):
        row = [each for each in rows if each.frame <= at][-1]
        held = {key for key, (start, long) in presses.items() if start <= at < start + long}
        assert {key for key, bit in BITS.items() if row.keys & bit} == held
        last = [pushes[each] for each in sorted(pushes) if each <= at]
        assert (row.x, row.y) == (last[-1] if last else (0.0, 0.0))


def test_a_take_lasts_as_long_at_another_rate():
    take = Take(rate=50, length=25)
    assert (rows_of(take, 50), rows_of(take, 60), rows_of(take, 144)) == (25, 30, 72)


def test_the_oldest_frames_are_dropped(monkeypatch):
    """Room for 800 frames, in tables that are doubled three times; the real one is filled in ten minutes."""
    assert module.MOST_FRAMES == 8 * module.FIRST_ROOM >= 10 * 60 * 240
    monkeypatch.setattr(module, "FIRST_ROOM", 100)
    monkeypatch.setattr(module, "MOST_FRAMES", 800)
    frames = Frames()
    for number in range(1, 802):
        frames.add(frame(number), 0.0)
    kept = frames.since(0)
    assert [each.number for each in kept] == list(range(81, 802))
    assert frames.lost == 0
    assert frames.received == 801
