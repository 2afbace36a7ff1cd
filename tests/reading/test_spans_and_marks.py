import math

import numpy as np
import pytest

from cinetica.model.clock import Clock
from cinetica.model.tune import Tune, parameter_by_id
from cinetica.motion.records import MARKS, STATES
from cinetica.motion.simulate import simulate_all
from cinetica.reading import run_reader
from cinetica.reading.batch_readings import BatchReadings
from cinetica.reading.marks import Happening, happenings_at, marked_from
from cinetica.reading.probes import probe_curve, probes
from cinetica.reading.reading_off import read_off
from cinetica.reading.spans import grace_left, grace_spans, state_spans
from cinetica.reading.sweeps import run_and_read
from tests.builders import make_drill, make_tune, run

LEDGE = ((-10.0, -1.0, 0.0, 0.0),)


def test_states_cover_the_whole_take_without_gaps():
    trace = run(make_tune(), make_drill(length=90, jump=[(10, 40)]))
    spans = state_spans(trace)
    assert [span.word for span in spans] == ["ground", "rise", "fall", "ground"]
    assert spans[0].start == 0
    assert spans[-1].end == pytest.approx(1.5)
    assert all(a.end == b.start for a, b in zip(spans, spans[1:], strict=False))


def test_grace_lasts_its_time_or_until_it_is_used():
    unused = run(make_tune(jump__coyote=0.15), make_drill(length=60, start=(-1, 0), solids=LEDGE, right=[(0, 60)]))
    coyote = next(span for span in grace_spans(unused) if span.word == "coyote")
    assert coyote.end - coyote.start == pytest.approx(0.15)
    used = run(
        make_tune(jump__coyote=0.15),
        make_drill(length=60, start=(-1, 0), solids=LEDGE, right=[(0, 60)], jump=[(20, 40)]),
    )
    coyote = next(span for span in grace_spans(used) if span.word == "coyote")
    assert coyote.end == pytest.approx(20 / 60)


def test_events_are_listed_once_and_in_order():
    trace = run(
        make_tune(),
        make_drill(
            length=90, solids=((-10.0, -1.0, 10.0, 0.0), (2.0, 0.0, 3.0, 9.0)), right=[(0, 90)], jump=[(60, 80)]
        ),
    )
    marked = list(marked_from(trace.events.happened, 0))
    messages = [mark for _, mark in marked]
    assert messages.count("wall") == 1
    assert "leave" not in messages
    assert [row for row, _ in marked] == sorted(row for row, _ in marked)


def test_events_at_the_cursor_are_listed_by_tune_with_the_next_event():
    press, launch, leave, apex, cut, wall = (
        1 << MARKS.index(name) for name in ("press", "launch", "leave", "apex", "cut", "wall")
    )
    happened = [[(3, press | launch | leave), (9, apex)], [(3, press), (6, wall), (7, wall), (8, wall | cut)], []]
    here, following = happenings_at(happened, 3)
    assert here == [Happening(0, 3, "press"), Happening(0, 3, "launch"), Happening(1, 3, "press")]
    assert following == Happening(1, 6, "wall")
    # A body held against a wall hits it once, whichever row one begins at.
    assert happenings_at(happened, 6) == ([Happening(1, 6, "wall")], Happening(1, 8, "cut"))
    assert happenings_at(happened, 7) == ([], Happening(1, 8, "cut"))
    assert happenings_at(happened, 8) == ([Happening(1, 8, "cut")], Happening(0, 9, "apex"))
    assert happenings_at(happened, 9) == ([Happening(0, 9, "apex")], None)


def test_batch_figures_of_any_length_equal_single_figures():
    """Buffers are reused for shorter and longer runs."""
    drill = make_drill(length=90, solids=((-9.0, -1.0, 9.0, 0.0),), right=[(5, 60)], jump=[(10, 40), (70, 74)])
    tunes = [make_tune(jump__jump_speed=speed) for speed in (6.0, 9.0, 12.0)]
    for rate in (60, 75, 74, 30, 240, 61):
        traces = simulate_all(tunes, drill, Clock(tick_rate=rate))
        together = BatchReadings(traces)
        for place, trace in enumerate(traces):
            assert together.of(place) == read_off(trace)


def test_figures_without_the_compiler_are_the_same(monkeypatch):
    drill = make_drill(length=40, right=[(2, 30)], jump=[(5, 9)])
    columns = {"drive.top_speed": [5.0, 7.0], "jump.jump_speed": [6.0, 8.0]}
    compiled = run_and_read(make_tune(), drill, Clock(), columns)
    monkeypatch.setattr(run_reader, "_reader", lambda: run_reader._plainly)
    plain = run_and_read(make_tune(), drill, Clock(), columns)
    for id, figures in compiled.items():
        assert np.array_equal(plain[id], figures, equal_nan=True), id


def test_traces_of_a_batch_equal_single_traces():
    drill = make_drill(length=90, solids=((-9.0, -1.0, 9.0, 0.0),), right=[(5, 60)], jump=[(10, 40), (70, 74)])
    tunes = [make_tune(jump__jump_speed=speed) for speed in (6.0, 9.0, 12.0)]
    clock = run(tunes[0], drill).clock
    for trace in simulate_all(tunes, drill, clock):
        alone = run(trace.tune, drill)
        assert trace.is_as(alone)
        assert trace.events.happened == [(row, alone["marks"][row]) for row in range(len(alone)) if alone["marks"][row]]
        states = alone["state"]
        assert trace.events.turns == [
            (row, states[row]) for row in range(2, len(alone)) if states[row] != states[row - 1]
        ]
        assert list(trace.events.times) == list(alone["time"])
        assert not trace.is_as(run(make_tune(jump__jump_speed=6.5), drill))


@pytest.mark.parametrize("id", list(probes()))
@pytest.mark.parametrize("view", ["side", "top"])
def test_the_options_of_a_choice_draw_different_curves(id, view):
    parameter, tune = parameter_by_id(id), Tune(name="Wren", view=view)
    if view not in parameter.views:
        return
    curves = [probe_curve(tune, id, option.id) for option in parameter.choices(view)]
    assert all(len(across) == len(up) > 10 for across, up in curves)
    pairs = [(one, other) for number, one in enumerate(curves) for other in curves[:number]]
    assert not any(np.allclose(one, other) for one, other in pairs)


@pytest.mark.parametrize(
    ("state", "ground", "press", "vy", "left"),
    [
        ("fall", 0.04, math.inf, -1, {"coyote": 0.06}), ("fall", 0.04, math.inf, 0, {"coyote": 0.06}),
        ("rise", 0.04, math.inf, 1, {}), ("ground", 0.0, math.inf, 0, {}), ("fall", 0.2, math.inf, -1, {}),
        ("fall", 0.04, 0.03, -1, {"coyote": 0.06, "buffer": 0.17}), ("rise", 0.04, 0.2, 1, {"buffer": 0.0}),
        ("ground", 0.0, 0.03, 0, {}), ("fall", 0.5, 0.0, -1, {}), ("fall", 0.5, 0.3, -1, {}),
    ],
)  # fmt: skip
def test_the_grace_open_in_a_row(state, ground, press, vy, left):
    row = {"state": STATES.index(state), "since_ground": ground, "since_press": press, "vy": vy}
    found = dict(grace_left(make_tune(jump__coyote=0.1, jump__buffer=0.2), row))
    assert found == pytest.approx(left)
    assert not dict(grace_left(make_tune("top"), row))


def test_used_grace_says_how_much_was_left():
    drill = make_drill(length=60, start=(-1, 0), solids=LEDGE, right=[(0, 60)], jump=[(20, 40)])
    used = next(span for span in grace_spans(run(make_tune(jump__coyote=0.15), drill)) if span.word == "coyote")
    assert used.used
    assert used.left == pytest.approx(used.start + 0.15 - 20 / 60)
    lost = next(span for span in grace_spans(run(make_tune(jump__coyote=0.02), drill)) if span.word == "coyote")
    assert not lost.used
    assert lost.left == 0


def test_only_grace_spans_in_view_and_wide_enough_are_returned():
    trace = run(make_tune(jump__coyote=0.15), make_drill(length=60, start=(-1, 0), solids=LEDGE, right=[(0, 60)]))
    assert [span.word for span in grace_spans(trace)] == ["coyote"]
    assert grace_spans(trace, least=0.2) == []
    assert grace_spans(trace, view=(0.9, 1.0)) == []


def test_the_span_of_a_column_is_its_finite_range():
    trace = run(make_tune(), make_drill(length=90, jump=[(10, 40)]))
    assert trace.span("vy") == (trace["vy"].min(), trace["vy"].max())
    # The timer is infinite until the press; only finite values count.
    assert trace.span("since_press") == pytest.approx((1 / 60, 80 / 60))
