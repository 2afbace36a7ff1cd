import numpy as np
import pytest

from cinetica.model.tune import Tune, parameter_by_id
from cinetica.reading.marks import happenings, marked_rows
from cinetica.reading.probes import probe_curve, probes
from cinetica.reading.spans import grace_spans, state_spans
from tests.builders import make_drill, make_tune, run

LEDGE = ((-10.0, -1.0, 0.0, 0.0),)


def test_states_cover_the_whole_take_without_gaps():
    trace = run(make_tune(), make_drill(length=90, jump=[(10, 40)]))
    spans = state_spans(trace)
    assert [span.word for span in spans] == ["ground", "rise", "fall", "ground"]
    assert spans[0].start == 0
    assert spans[-1].end == pytest.approx(1.5)
    assert all(a.end == b.start for a, b in zip(spans, spans[1:], strict=False))


def test_grace_is_as_long_as_the_number_or_until_it_is_used():
    unused = run(make_tune(jump__coyote=0.15), make_drill(length=60, start=(-1, 0), solids=LEDGE, right=[(0, 60)]))
    coyote = next(span for span in grace_spans(unused) if span.word == "coyote")
    assert coyote.end - coyote.start == pytest.approx(0.15)
    used = run(
        make_tune(jump__coyote=0.15),
        make_drill(length=60, start=(-1, 0), solids=LEDGE, right=[(0, 60)], jump=[(20, 40)]),
    )
    coyote = next(span for span in grace_spans(used) if span.word == "coyote")
    assert coyote.end == pytest.approx(20 / 60)


def test_what_happens_is_told_once_and_in_order():
    trace = run(
        make_tune(),
        make_drill(
            length=90, solids=((-10.0, -1.0, 10.0, 0.0), (2.0, 0.0, 3.0, 9.0)), right=[(0, 90)], jump=[(60, 80)]
        ),
    )
    told = [happening.mark for happening in happenings([marked_rows(trace)])]
    assert told.count("wall") == 1
    assert "leave" not in told
    rows = [happening.row for happening in happenings([marked_rows(trace)] * 2)]
    assert rows == sorted(rows)


@pytest.mark.parametrize("id", list(probes()))
@pytest.mark.parametrize("view", ["side", "top"])
def test_the_drawn_curves_tell_the_values_of_a_choice_apart(id, view):
    parameter, tune = parameter_by_id(id), Tune(name="Wren", view=view)
    if view not in parameter.views:
        return
    curves = [probe_curve(tune, id, option.id) for option in parameter.choices(view)]
    assert all(len(across) == len(up) > 10 for across, up in curves)
    pairs = [(one, other) for number, one in enumerate(curves) for other in curves[:number]]
    assert not any(np.allclose(one, other) for one, other in pairs)


def test_grace_that_was_used_says_what_was_left():
    drill = make_drill(length=60, start=(-1, 0), solids=LEDGE, right=[(0, 60)], jump=[(20, 40)])
    used = next(span for span in grace_spans(run(make_tune(jump__coyote=0.15), drill)) if span.word == "coyote")
    assert used.used
    assert used.left == pytest.approx(used.start + 0.15 - 20 / 60)
    lost = next(span for span in grace_spans(run(make_tune(jump__coyote=0.02), drill)) if span.word == "coyote")
    assert not lost.used
    assert lost.left == 0


def test_only_the_windows_in_view_and_wide_enough_are_looked_for():
    trace = run(make_tune(jump__coyote=0.15), make_drill(length=60, start=(-1, 0), solids=LEDGE, right=[(0, 60)]))
    assert [span.word for span in grace_spans(trace)] == ["coyote"]
    assert grace_spans(trace, least=0.2) == []
    assert grace_spans(trace, view=(0.9, 1.0)) == []


def test_a_trace_knows_the_span_of_its_columns():
    trace = run(make_tune(), make_drill(length=90, jump=[(10, 40)]))
    assert trace.span("vy") == (trace["vy"].min(), trace["vy"].max())
    # The timer is infinite until the press; only what is finite counts.
    assert trace.span("since_press") == pytest.approx((1 / 60, 80 / 60))
