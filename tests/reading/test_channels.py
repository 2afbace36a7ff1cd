"""Channels against the trace that they are columns of."""

from cinetica.motion.records import TRACE
from cinetica.motion.simulate import DIFFERENCES
from cinetica.reading.channels import BY_COLUMN, CHANNELS


def test_every_column_of_a_trace_is_a_channel_and_none_is_twice():
    assert set(BY_COLUMN) == {*TRACE.names, *DIFFERENCES}
    assert len(BY_COLUMN) == len(CHANNELS) == len({channel.label for channel in CHANNELS})
