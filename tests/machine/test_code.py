"""Machine code is stored intact, for several versions, and a failure to store it is reported."""

import os
import subprocess
import sys
import threading
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from cinetica.machine import code
from cinetica.machine.cache import remove_earlier
from cinetica.machine.code import DEEPEST, MachineCode, _deep_enough, pointer
from cinetica.motion.native import RUN


@pytest.mark.parametrize("damage", ["empty", "truncated", "garbage", "a byte"])
def test_damaged_machine_code_in_the_cache_is_detected_before_it_is_called(tmp_path, monkeypatch, damage):
    whole = next(path for path in RUN.files() if path.exists()).read_bytes()
    kept = tmp_path / "run.o"
    monkeypatch.setattr(RUN, "files", lambda: [kept])
    monkeypatch.setattr(RUN, "_loaded", None)
    kept.write_bytes(whole)
    assert RUN.is_ready()
    spoilt = {
        "empty": b"", "truncated": whole[: len(whole) // 2], "garbage": b"\x00garbage\n" * 999,
        "a byte": whole[:-9] + bytes([whole[-9] ^ 255]) + whole[-8:],
    }[damage]  # fmt: skip
    assert spoilt != whole
    kept.write_bytes(spoilt)
    assert not RUN.is_ready()


@pytest.mark.parametrize("mode", [0o620, 0o602])
def test_machine_code_writable_by_others_is_not_run(tmp_path, monkeypatch, mode):
    kept = tmp_path / "run.o"
    kept.write_bytes(next(path for path in RUN.files() if path.exists()).read_bytes())
    monkeypatch.setattr(RUN, "files", lambda: [kept])
    monkeypatch.setattr(RUN, "_loaded", None)
    kept.chmod(0o600)
    assert RUN.is_ready()
    kept.chmod(mode)
    assert not RUN.is_ready()
    kept.chmod(0o600)
    monkeypatch.setattr(os, "getuid", lambda: 12345)
    assert not RUN.is_ready()


def test_of_two_processes_one_compiles_and_the_other_waits(tmp_path, monkeypatch):
    """Each has its own object, as in two processes; the compiler is replaced by a slow stub."""
    compiled = []
    monkeypatch.setattr(code, "cache_folder", lambda *_: tmp_path)

    def compile_it(self):
        compiled.append(self)
        # The other one has asked by now, and waits for the lock.
        asked.wait()
        return self.keep(b"name\ncode")

    monkeypatch.setattr(MachineCode, "make", compile_it)
    first, second = (MachineCode("kernel", "run", (), (), lambda: None) for _ in range(2))
    asked = threading.Event()
    with ThreadPoolExecutor(2) as pool:
        one = pool.submit(first.obtain)
        while not compiled:
            pass
        other = pool.submit(second.obtain)
        asked.set()
        assert one.result() == other.result() == b"name\ncode"
    assert compiled == [first]


def test_without_a_writable_cache_it_compiles_and_says_so():
    """In a separate process, with nowhere to write and a stub for the compiler, which would take 20 seconds."""
    program = """
import pathlib
from cinetica.motion.native import RUN
RUN.files = lambda: [pathlib.Path("/proc/nowhere/run.o")]
print(RUN.keep(b"name\\ncode") == b"name\\ncode")
"""
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    assert done.stdout == "True\n"
    assert "cannot be kept" in done.stderr
    assert done.stderr.count("\n") == 1


def test_alternating_versions_keep_their_caches(tmp_path):
    for number, name in enumerate(["now", *"abcdefgh"]):
        (tmp_path / f"kernel-{name}").mkdir()
        (tmp_path / f"kernel-{name}" / "run.o").write_bytes(b"")
        os.utime(tmp_path / f"kernel-{name}" / "run.o", (number, number))
    (tmp_path / "paint-other").mkdir()
    remove_earlier(tmp_path / "kernel-now")
    assert {path.name for path in tmp_path.iterdir()} == {
        "kernel-now",
        "paint-other",
        *(f"kernel-{name}" for name in "cdefgh"),
    }


def test_machine_code_of_one_file_calls_another_without_the_compiler():
    """The figures' machine code calls the kernel's; a start loads neither Numba nor its dependencies."""
    program = """
import sys
import cinetica
study = cinetica.shipped_study("harbour")
trace = cinetica.simulate(study.tune("Wren"), study.drill("Rooftop hop"), study.clock)
# Its time is asked of the kernel, which runs a tick in parts.
print(cinetica.read_off(trace, ["time_to_top_speed"])["time_to_top_speed"].value, "numba" in sys.modules)
"""
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    value, loads_the_compiler = done.stdout.split()
    # From 0 to 99% of 7.5 u/s at 60 u/s².
    assert float(value) == pytest.approx(0.99 * 7.5 / 60)
    assert loads_the_compiler == "False"


def test_compiled_code_refuses_non_contiguous_arrays():
    with pytest.raises(ValueError, match="contiguous"):
        pointer(np.zeros(9)[::2])
    assert pointer(np.zeros(9)[2:5]).value


def test_the_compiler_gets_a_higher_recursion_limit():
    """Figures call figures: compiled below a deep stack, as in a test or a window, they overflowed it."""
    before = sys.getrecursionlimit()
    with _deep_enough():
        assert sys.getrecursionlimit() >= DEEPEST
    assert sys.getrecursionlimit() == before
