import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.files.study_json import parse_study
from cinetica.model.clock import Clock, Mode
from cinetica.model.take import KEYS, Keys, Press, Push, Take
from cinetica.motion.clock import hands_without_jump, schedule
from cinetica.motion.simulate import simulate
from tests.builders import make_drill, make_tune, rows_of, run


def take(*jumps, length=60):
    return Take(length=length, keys=Keys(jump=tuple(Press(*press) for press in jumps)))


def clock(**settings):
    document = {"format": "cinetica-study", "version": 1, "name": "x", "clock": settings}
    return parse_study(json.dumps(document), "test").clock


@pytest.mark.parametrize(
    ("rate", "length"), [*((rate, 90) for rate in (30, 50, 59.94, 60, 120, 144, 1000)), (30, 1), (60, 1)]
)
def test_a_locked_clock_covers_the_take(rate, length):
    hands, dts, frames, *_ = schedule(take(length=length), Clock(tick_rate=rate))
    ticks = len(dts) - 1
    assert ticks == int(np.ceil(length / 60 * rate - 1e-6))
    assert frames[0] == -1
    assert list(frames[1:]) == [int(k / rate * 60 + 1e-6) for k in range(ticks)]


def test_a_variable_clock_is_seeded_and_capped():
    jittery = clock(mode="variable", jitter=0.5, seed=7)
    one, again = schedule(take(), jittery).dts, schedule(take(), clock(mode="variable", jitter=0.5, seed=7)).dts
    assert np.array_equal(one, again)
    assert not np.array_equal(one[:20], schedule(take(), clock(mode="variable", jitter=0.5, seed=8)).dts[:20])
    assert (np.abs(one[1:] * 60 - 1) <= 0.5 + 1e-9).all()


def test_input_continues_during_a_hitch():
    hands, dts, frames, *_ = schedule(take((30, 40)), clock(mode="variable", hitches=[[0.25, 0.2]], max_dt=0.1))
    assert dts.max() == 0.1
    late = int(np.argmax(dts))
    assert frames[late] == 15
    # The next frame began 13 frames later: its own sixtieth and the 0.2 s of the hitch.
    assert frames[late + 1] == 15 + 13


@pytest.mark.parametrize(("tick_rate", "frame_rate", "ran"), [(120, 60, [2] * 60), (30, 60, [0, 1] * 30)])
def test_fixed_ticks_run_as_frame_time_accumulates(tick_rate, frame_rate, ran):
    hands, dts, frames, *_ = schedule(take(), clock(mode="fixed", tick_rate=tick_rate, frame_rate=frame_rate))
    assert [int(np.count_nonzero(frames == frame)) for frame in range(60)] == ran
    assert dts[1:] == pytest.approx(1 / tick_rate)


def test_presses_read_per_tick_are_lost_or_count_twice():
    slow = {"mode": "fixed", "tick_rate": 30, "frame_rate": 60}
    fast = {"mode": "fixed", "tick_rate": 120, "frame_rate": 60}
    # A press that begins in frame 10: with slow ticks that frame runs none.
    presses = take((10, 20))
    assert np.count_nonzero(schedule(presses, clock(**slow)).hands["pressed"]) == 1
    assert np.count_nonzero(schedule(presses, clock(**slow, read="tick")).hands["pressed"]) == 0
    assert np.count_nonzero(schedule(presses, clock(**fast)).hands["pressed"]) == 1
    assert np.count_nonzero(schedule(presses, clock(**fast, read="tick")).hands["pressed"]) == 2


def test_a_doubled_press_spends_the_air_jump_too():
    drill = make_drill(length=40, jump=[(10, 30)])
    fast = {"mode": "fixed", "tick_rate": 120, "frame_rate": 60}
    tune = make_tune(jump__air_jumps=1)
    assert rows_of(simulate(tune, drill, clock(**fast)), "air_launch") == []
    doubled = simulate(tune, drill, clock(**fast, read="tick"))
    assert rows_of(doubled, "launch")[0] + 1 == rows_of(doubled, "air_launch")[0]


def test_too_many_ticks_are_refused():
    with pytest.raises(ValueError, match="ticks"):
        schedule(Take(length=1_000_000, rate=1), Clock(tick_rate=1000))


@given(jitter=st.floats(0, 0.9), rate=st.floats(10, 200), seed=st.integers(0, 99))
def test_fixed_ticks_lose_no_time(jitter, rate, seed):
    fixed = clock(mode="fixed", tick_rate=60, frame_rate=rate, jitter=jitter, seed=seed, max_dt=10)
    free = clock(mode="variable", frame_rate=rate, jitter=jitter, seed=seed, max_dt=10)
    ticks, frames = schedule(take(length=120), fixed).dts.sum(), schedule(take(length=120), free).dts.sum()
    assert -1e-6 <= frames - ticks < 1 / 60 + 1e-6


def test_values_per_frame_run_faster_at_a_higher_rate():
    forgot = make_tune(stepping__time_base="frames", drive__law="instant", drive__top_speed=6)
    drill = make_drill(length=60, right=[(0, 60)])
    assert run(forgot, drill, 60)["x"][-1] == pytest.approx(6)
    assert run(forgot, drill, 120)["x"][-1] == pytest.approx(12)
    assert run(forgot, drill, 120)["time"][-1] == pytest.approx(1)


presses = st.lists(
    st.builds(lambda start, long: Press(start, start + long), st.integers(0, 50), st.integers(1, 30)), max_size=4
)
pushes = st.lists(
    st.builds(Push, st.integers(0, 60), st.sampled_from([-1.0, -0.5, 0.0, 0.25, 1.0]), st.floats(-1, 1)), max_size=5
)


@given(
    keys=st.fixed_dictionaries(dict.fromkeys(KEYS, presses)), stick=pushes, aim=pushes,
    clock=st.builds(Clock, mode=st.sampled_from([Mode.LOCKED, Mode.VARIABLE]), tick_rate=st.floats(20, 90),
                    frame_rate=st.floats(20, 90), jitter=st.floats(0, 0.5)),
)  # fmt: skip
def test_every_row_has_the_input_of_its_frame(keys, stick, aim, clock):
    take = Take(rate=60, length=40, keys=Keys(**{key: tuple(each) for key, each in keys.items()}),
                stick=tuple(stick), aim=tuple(aim))  # fmt: skip
    hands, dts, frames, *_ = schedule(take, clock)
    plain = hands_without_jump(take, clock)
    assert (frames[0], dts[0], len(hands), len(plain)) == (-1, 0, len(frames), len(frames))
    assert not hands[:1].view(np.uint8).any()
    before = False
    for row, frame in enumerate(frames.tolist()[1:], 1):
        held = {key: any(start <= frame < end for start, end in keys[key]) for key in KEYS}
        at = {}
        for name, way in (("stick", stick), ("aim", aim)):
            # Of several that begin at once the last one counts.
            last = max((push.frame for push in way if push.frame <= frame), default=None)
            now = [push for push in way if push.frame == last]
            at |= {f"{name}_x": now[-1].x if now else 0.0, f"{name}_y": now[-1].y if now else 0.0}
        jumps = {"pressed": held["jump"] and not before, "released": before and not held["jump"]}
        bits = sum(1 << place for place, key in enumerate(KEYS) if held[key])
        bits |= (1 << len(KEYS)) * any(at.values())
        for name, value in {**held, **at, **jumps, "held": bits}.items():
            assert hands[row][name] == value
        for name, value in {**held, **at, "jump": False, "pressed": False, "released": False}.items():
            assert plain[row][name] == value
        assert plain[row]["held"] == bits & ~(1 << KEYS.index("jump"))
        before = held["jump"]
