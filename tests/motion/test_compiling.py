"""The kernel as plain Python: watched, and run tick by tick."""

import numpy as np
import pytest

from cinetica.motion.compiling import compiled, copy_record, on_stack, watched_by
from cinetica.motion.records import STATE, empty_records
from cinetica.motion.simulate import before_tick
from cinetica.motion.step import tick, write
from tests.builders import make_drill, make_tune, run


@compiled
def doubled(x):
    return 2 * x


def test_a_watcher_sees_calls_and_may_replace_them():
    seen = []

    def watch(function, arguments):
        seen.append((function.__name__, arguments))
        return function(*arguments) + 1

    with watched_by(watch):
        assert doubled(4) == 9
    assert doubled(4) == 8
    assert seen == [("doubled", (4,))]


def test_a_watcher_is_removed_even_after_an_error():
    def watch(function, arguments):
        raise ValueError("seen")

    with pytest.raises(ValueError, match="seen"), watched_by(watch):
        doubled(1)
    assert doubled(1) == 2


def test_a_copy_on_the_stack_is_another_record():
    records = empty_records(STATE, 2)
    records[0].x = 3.0
    copy = on_stack(records[0])
    copy.x = 5.0
    assert records[0].x == 3.0
    copy_record(copy, records[1])
    assert records[1].x == 5.0


@pytest.mark.parametrize("row", [1, 2, 17, 40])
def test_a_tick_in_plain_python_gives_the_row_of_the_trace(row):
    trace = run(make_tune(input__latency=2), make_drill(length=60, right=[(3, 50)], jump=[(10, 18)]))
    moment = before_tick(trace, row)
    vx, vy = float(moment.s.vx), float(moment.s.vy)
    assert (vx, vy) == (trace["vx"][row - 1], trace["vy"][row - 1])
    tick(moment.s, moment.p, moment.hand, moment.ground, moment.dt)
    again = np.zeros(1, trace.rows.dtype).view(np.recarray)
    write(moment.s, again[0], trace["time"][row], moment.dt, vx, vy)
    for name in trace.rows.dtype.names:
        assert again[name][0] == trace[name][row], name
