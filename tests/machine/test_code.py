"""Machine code is kept whole, for several versions, and where nothing can be kept that is said."""

import os
import subprocess
import sys

import pytest
from cinetica.machine.loader import linked

from cinetica.machine.cache import remove_earlier
from cinetica.machine.code import NEVER_CALLED
from cinetica.motion.native import RUN


@pytest.mark.parametrize("damage", ["empty", "truncated", "garbage", "a byte"])
def test_damaged_machine_code_in_the_cache_is_seen_before_it_is_called(tmp_path, monkeypatch, damage):
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


def test_where_nothing_can_be_kept_it_is_compiled_all_the_same_and_that_is_said():
    """In a process of its own, with no place that can be written, and the compiler's work put aside: it takes twenty
    seconds."""
    program = """
import pathlib
from cinetica.machine.code import NEVER_CALLED
from cinetica.machine.loader import linked
from cinetica.motion.native import RUN
RUN.files = lambda: [pathlib.Path("/proc/nowhere/run.o")]
print(RUN.keep(b"name\\ncode") == b"name\\ncode")
"""
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    assert done.stdout == "True\n"
    assert "cannot be kept" in done.stderr
    assert done.stderr.count("\n") == 1


def test_versions_that_take_turns_keep_theirs(tmp_path):
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


def test_code_is_linked_here_as_llvm_links_it():
    """The same machine code, loaded both ways, runs a study to the same bits; the first way without LLVM in the
    process."""
    program = """
import sys
from cinetica.files.shipped import shipped_study
from cinetica.machine import code
from cinetica.motion.simulate import simulate
if sys.argv[1] == "llvm":
    code.linked = lambda *_: None
study = shipped_study("harbour")
for drill in study.drills:
    for tune in study.tunes_for(drill):
        sys.stdout.buffer.write(simulate(tune, drill, study.clock).rows.tobytes())
assert ("llvmlite" in sys.modules) == (sys.argv[1] == "llvm")
"""
    ours, theirs = (
        subprocess.run([sys.executable, "-c", program, way], capture_output=True, check=True).stdout
        for way in ("ours", "llvm")
    )
    assert len(ours) > 10_000
    assert ours == theirs


@pytest.mark.parametrize(
    "spoil", [lambda code: code.replace(b"sincos\0", b"nosuch\0"), lambda code: code[:0x3C] + b"\1\0" + code[0x3E:]]
)
def test_what_cannot_be_linked_here_is_left_to_llvm(spoil):
    content = next(path for path in RUN.files() if path.exists()).read_bytes().partition(b"\n")[2]
    name, _, code = content.partition(b"\n")
    assert linked(spoil(code), name.decode(), NEVER_CALLED) is None
