"""A short monkey test of the real window; `make monkey SECONDS=…` runs it for longer."""

import tempfile
from contextlib import ExitStack
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule, run_state_machine_as_test

from tests.desk.monkey import Monkey, at_the_window, at_windows, play
from tests.repetitions import TIMES

ACTS = sorted(name for name in dir(Monkey) if name.startswith("do_"))


@pytest.mark.thorough
def test_random_acts_in_three_windows_break_nothing(qapp, tmp_path):
    with at_windows(15, tmp_path, 3) as monkey:
        play(monkey, acts=40)
        assert len(monkey.windows.open_ones) > 1
        assert not monkey.faults


class Acts(RuleBasedStateMachine):
    """The same acts as rules of a state machine, so that a failure is shrunk to the few acts that it takes."""

    def __init__(self):
        super().__init__()
        self.open = ExitStack()
        folder = Path(self.open.enter_context(tempfile.TemporaryDirectory()))
        self.monkey = self.open.enter_context(at_the_window(0, folder))

    @rule(name=st.sampled_from(ACTS), seed=st.integers(0, 2**16))
    def act(self, name, seed):
        self.monkey.do(name, seed)

    @invariant()
    def the_study_reads_back(self):
        self.monkey.look()

    def teardown(self):
        with self.open:
            self.monkey.undo_all()
            assert not self.monkey.faults


@pytest.mark.thorough
def test_no_sequence_of_acts_breaks_anything(qapp):
    checks = [HealthCheck.too_slow, HealthCheck.data_too_large]
    few = settings(max_examples=3 * TIMES, stateful_step_count=15, deadline=None, suppress_health_check=checks)
    run_state_machine_as_test(Acts, settings=few)
