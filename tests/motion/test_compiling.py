"""The kernel as plain Python: watched, and gone through tick by tick."""

import os
import subprocess
import sys

import numpy as np
import pytest

from cinetica.motion import cache, native
from cinetica.motion.compiling import compiled, copy_record, on_stack, watched_by
from cinetica.motion.records import STATE, empty_records
from cinetica.motion.simulate import before_tick
from cinetica.motion.step import tick, write
from tests.builders import make_drill, make_tune, run


@compiled
def doubled(x):
    return 2 * x


def test_a_watcher_sees_calls_and_may_answer_for_them():
    seen = []

    def watch(function, arguments):
        seen.append((function.__name__, arguments))
        return function(*arguments) + 1

    with watched_by(watch):
        assert doubled(4) == 9
    assert doubled(4) == 8
    assert seen == [("doubled", (4,))]


def test_a_watcher_is_gone_even_after_an_error():
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
def test_a_tick_that_is_run_again_as_plain_python_gives_the_row_of_the_trace(row):
    trace = run(make_tune(input__latency=2), make_drill(length=60, right=[(3, 50)], jump=[(10, 18)]))
    moment = before_tick(trace, row)
    vx, vy = float(moment.s.vx), float(moment.s.vy)
    assert (vx, vy) == (trace["vx"][row - 1], trace["vy"][row - 1])
    tick(moment.s, moment.p, moment.hand, moment.ground, moment.dt)
    again = np.zeros(1, trace.rows.dtype).view(np.recarray)
    write(moment.s, again[0], trace["time"][row], moment.dt, vx, vy)
    for name in trace.rows.dtype.names:
        assert again[name][0] == trace[name][row], name


@pytest.mark.parametrize("damage", ["empty", "truncated", "garbage", "a byte"])
def test_a_damaged_kernel_in_the_cache_is_seen_before_it_is_called(tmp_path, monkeypatch, damage):
    whole = next(path for path in native.object_files() if path.exists()).read_bytes()
    kept = tmp_path / "run.o"
    monkeypatch.setattr(native, "object_files", lambda: [kept])
    kept.write_bytes(whole)
    assert native.is_ready()
    spoilt = {
        "empty": b"", "truncated": whole[: len(whole) // 2], "garbage": b"\x00garbage\n" * 999,
        "a byte": whole[:-9] + bytes([whole[-9] ^ 255]) + whole[-8:],
    }[damage]  # fmt: skip
    assert spoilt != whole
    kept.write_bytes(spoilt)
    assert not native.is_ready()


def test_where_nothing_can_be_kept_the_kernel_is_compiled_all_the_same_and_that_is_said(tmp_path):
    """In a process of its own, with no place that can be written, and the compiler's work put aside: it takes twenty seconds."""
    program = """
import pathlib
from cinetica.motion import native
native.object_files = lambda: [pathlib.Path("/proc/nowhere/run.o")]
print(native.keep(b"name\\ncode") == b"name\\ncode")
"""
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    assert done.stdout == "True\n"
    assert "cannot be kept" in done.stderr
    assert done.stderr.count("\n") == 1


def test_versions_that_take_turns_keep_theirs(tmp_path, monkeypatch):
    monkeypatch.setattr(cache, "cache_folder", lambda: tmp_path / "kernel-now")
    for number, name in enumerate(["now", *"abcdefgh"]):
        (tmp_path / f"kernel-{name}").mkdir()
        (tmp_path / f"kernel-{name}" / "run.o").write_bytes(b"")
        os.utime(tmp_path / f"kernel-{name}" / "run.o", (number, number))
    cache.remove_earlier()
    assert {path.name for path in tmp_path.iterdir()} == {"kernel-now", *(f"kernel-{name}" for name in "cdefgh")}
