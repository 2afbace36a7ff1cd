"""A monkey at the real window, for a short while; `make monkey SECONDS=…` lets it play for longer."""

import pytest

from tests.desk.monkey import at_the_window, at_windows, play


@pytest.mark.parametrize("seed", [11, 12])
def test_a_monkey_breaks_nothing(qapp, seed, tmp_path):
    with at_the_window(seed, tmp_path) as monkey:
        play(monkey, acts=40)
        assert len(monkey.done) > 8
        assert not monkey.faults


def test_a_monkey_at_three_windows_breaks_nothing(qapp, tmp_path):
    with at_windows(13, tmp_path, 3) as monkey:
        play(monkey, acts=40)
        assert len(monkey.windows.open_ones) > 1
        assert not monkey.faults
