"""A monkey at the real window, for a short while; `make monkey SECONDS=…` lets it play for longer."""

import pytest

from tests.desk.monkey import at_the_window, play


@pytest.mark.parametrize("seed", [11, 12])
def test_a_monkey_breaks_nothing(qapp, seed, tmp_path):
    with at_the_window(seed, tmp_path) as monkey:
        play(monkey, acts=40)
        assert len(monkey.done) > 8
        assert not monkey.faults
