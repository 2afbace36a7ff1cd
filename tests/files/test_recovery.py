"""Recovery files, and 200 crashes at random moments."""

import os
import random
import select
import signal
import stat
import time
from pathlib import Path

import pytest

from cinetica.files import recovery
from cinetica.files.atomic_write import backup_of
from cinetica.files.recovery import RecoveryFile, unsaved_studies
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import read_study, write_study
from tests.repetitions import TIMES

STUDY = shipped_study("harbour")


def generation(number: int):
    """The study after so many edits; the number can be read back from it."""
    return STUDY.with_tune(STUDY.tune("Wren").put("drive.top_speed", float(number)), instead_of="Wren")


def number_of(study) -> int:
    return int(study.tune("Wren").drive.top_speed)


def leave_behind(folder, study, origin=None):
    """What a crashed process leaves: its recovery file, and a lock that nobody holds."""
    mine = RecoveryFile(folder)
    mine.keep(study, origin)
    os.close(mine.lock)


def test_files_of_a_dead_process_are_found_with_their_origin(tmp_path):
    leave_behind(tmp_path, generation(3), tmp_path / "harbour.json")
    (left,) = unsaved_studies(tmp_path)
    assert left.study == generation(3)
    assert left.origin == tmp_path / "harbour.json"
    left.remove()
    assert list(tmp_path.iterdir()) == []


def test_files_of_a_running_process_are_not_offered(tmp_path):
    before = os.umask(0)
    mine = RecoveryFile(tmp_path)
    os.umask(before)
    mine.keep(STUDY, None)
    open_before = len(list(Path("/proc/self/fd").iterdir()))
    assert unsaved_studies(tmp_path) == []
    assert len(list(Path("/proc/self/fd").iterdir())) == open_before
    # Nobody else may read unsaved work.
    assert {stat.S_IMODE(path.stat().st_mode) for path in tmp_path.iterdir()} == {0o600}
    lock = mine.lock
    mine.close()
    assert list(tmp_path.iterdir()) == []
    assert not Path(f"/proc/self/fd/{lock}").exists()


def test_only_one_start_offers_a_file_and_later_keeps_it(tmp_path):
    leave_behind(tmp_path, STUDY)
    (left,) = unsaved_studies(tmp_path)
    assert unsaved_studies(tmp_path) == []
    left.leave()
    assert len(unsaved_studies(tmp_path)) == 1


def test_unreadable_recovery_files_are_left(tmp_path):
    newer = '{"format": "cinetica-recovery", "study": {"version": 9}}'
    for number, text in enumerate(('{"format": "other"}', "[" * 5000, "[1]", '{"format": "cinetica-recovery"}', newer)):
        (tmp_path / f"{number}.json").write_text(text)
    assert unsaved_studies(tmp_path) == []
    assert len(list(tmp_path.glob("*.json"))) == 5


def test_oversized_recovery_files_are_not_read(tmp_path, monkeypatch):
    leave_behind(tmp_path, STUDY)
    (path,) = tmp_path.glob("*.json")
    size = path.stat().st_size
    monkeypatch.setattr(recovery, "LARGEST", (size - 1) / 2)
    assert unsaved_studies(tmp_path) == []
    monkeypatch.setattr(recovery, "LARGEST", size / 2)
    assert len(unsaved_studies(tmp_path)) == 1


def test_empty_recovery_files_are_removed(tmp_path):
    (tmp_path / "dead.lock").write_text("")
    (tmp_path / ".dead.json.x1y2").write_text('{"half": ')
    assert unsaved_studies(tmp_path) == []
    assert list(tmp_path.iterdir()) == []


def _edit_until_killed(folder, report: int) -> None:
    """Edit, autosave and save as fast as possible, and report each step when it is done."""
    recovery = RecoveryFile(folder / "recovery")
    for number in range(1, 100_000):
        study = generation(number)
        recovery.keep(study, folder / "study.json")
        os.write(report, f"k{number}\n".encode())
        if number % 2:
            write_study(study, folder / "study.json")
            os.write(report, f"s{number}\n".encode())


def _kill_one(folder, after: float) -> dict[str, int]:
    """What a process had done when it was killed at a random moment."""
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        try:
            _edit_until_killed(folder, writing)
        finally:
            os._exit(1)
    os.close(writing)
    done = b""
    # From its first save on: before that there is nothing to lose.
    while b"s1\n" not in done:
        done += os.read(reading, 65536)
    end = time.monotonic() + after
    while (left := end - time.monotonic()) > 0:
        if select.select([reading], [], [], left)[0]:
            done += os.read(reading, 65536)
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    while more := os.read(reading, 65536):
        done += more
    os.close(reading)
    lines = done.decode().split()
    return {kind: max(int(line[1:]) for line in lines if line[0] == kind) for kind in "ks"}


@pytest.mark.thorough
def test_killing_the_process_leaves_whole_recovery_files(tmp_path):
    chance = random.Random(7)
    between = 0
    for number in range(60 * TIMES):
        folder = tmp_path / str(number)
        (folder / "recovery").mkdir(parents=True)
        done = _kill_one(folder, chance.uniform(0, 0.02))
        saved = number_of(read_study(folder / "study.json"))
        assert done["s"] <= saved <= done["s"] + 2
        if backup_of(folder / "study.json").exists():
            assert number_of(read_study(backup_of(folder / "study.json"))) <= saved
        (left,) = unsaved_studies(folder / "recovery")
        assert done["k"] <= number_of(left.study) <= done["k"] + 1
        between += number_of(left.study) != saved
        left.remove()
        assert unsaved_studies(folder / "recovery") == []
        assert not [each for each in (folder / "recovery").iterdir() if each.suffix == ".json"]
    # The moments were really random: some kills came between autosave and save.
    assert between > 3


def test_a_bad_entry_does_not_affect_others(tmp_path):
    mine = RecoveryFile(tmp_path)
    # A name that is not UTF-8.
    origin = tmp_path / os.fsdecode(b"caf\xe9/st\xfcdy.json")
    mine.keep(shipped_study("harbour"), origin)
    os.close(mine.lock)
    (tmp_path / "x.lock").mkdir()
    (tmp_path / "y.json").mkdir()
    (tmp_path / "z.json").write_text("[" * 100_000)
    found = unsaved_studies(tmp_path)
    assert [left.study.name for left in found] == [shipped_study("harbour").name]
    assert found[0].origin == origin
    found[0].leave()


def test_damaged_recovery_files_are_read_or_left(tmp_path):
    chance = random.Random(TIMES)
    leave_behind(tmp_path, generation(3), tmp_path / "harbour.json")
    (whole,) = (path.read_bytes() for path in tmp_path.glob("*.json"))
    for path in tmp_path.iterdir():
        path.unlink()
    for number in range(100 * TIMES):
        raw = bytearray(whole)
        for _ in range(chance.choice((1, 3, 30))):
            raw[chance.randrange(len(raw))] = chance.randrange(256)
        path = tmp_path / f"{number}.json"
        path.write_bytes(raw[: chance.choice((len(raw), chance.randrange(len(raw))))])
        for left in unsaved_studies(tmp_path):
            left.leave()
        # Unreadable files stay until somebody looks at them.
        assert path.exists()
        path.unlink()
