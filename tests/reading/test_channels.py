"""Channels, compared with the columns of a trace."""

from cinetica.motion.records import TRACE
from cinetica.motion.simulate import RECKONED
from cinetica.reading.channels import BY_COLUMN, CHANNELS, Phase, moving
from tests.builders import make_drill, make_tune, run


def test_every_column_of_a_trace_is_exactly_one_channel():
    # Stride cycles are for postures only.
    assert {*BY_COLUMN, "stride"} == {*TRACE.names, *RECKONED}
    assert len(BY_COLUMN) == len(CHANNELS) == len({channel.label for channel in CHANNELS})


def test_the_screen_position_is_position_minus_camera():
    trace = run(make_tune(), make_drill(length=60, right=[(5, 60)]))
    for channel in CHANNELS:
        assert len(trace[channel.column]) == len(trace)
    assert (trace["screen_x"] == trace["x"] - trace["camera_x"]).all()
    assert trace["x"][-1] > 1


def test_columns_of_zeros_count_as_unmoved():
    """One body runs to the right in top view, one goes up: each has a column of zeros, together only the bank."""
    right, up = (run(make_tune("top"), make_drill(view="top", **{key: [(0, 30)]})) for key in ("right", "up"))
    columns = ("vx", "vy", "bank")
    assert moving(columns, [right]) == ["vx"]
    assert moving(columns, [up]) == ["vy"]
    assert moving(columns, [right, up]) == ["vx", "vy"]


def test_a_phase_is_named_after_both_channels():
    assert Phase(BY_COLUMN["vx"], BY_COLUMN["y"]).label == "Height over velocity x"
