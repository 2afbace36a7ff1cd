"""Killing the real window during edits."""

import os
import random
import signal
import subprocess
import sys

import pytest

from cinetica.files.recovery import unsaved_studies
from tests.repetitions import TIMES

# Edits every 20 ms, saves a copy one second after the first edit, and prints the number of each.
EDITS = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from cinetica.files.shipped import shipped_study
from cinetica.desk.application import Windows, application
from cinetica.desk.state.settings import Settings
from cinetica.model.tune import parameter_by_id
app = application()
windows = Windows(Settings(Path(sys.argv[1]) / "settings.ini"))
window = windows.open(shipped_study("harbour"), None)
window.documents.file.set_kept_after(1)
count = 0
def edit():
    global count
    count += 1
    window.session.set_value(window.session.study.tune("Wren"), parameter_by_id("gravity.gravity"), float(count))
    print(count, flush=True)
timer = QTimer()
timer.timeout.connect(edit)
timer.start(20)
app.exec()
"""


@pytest.mark.thorough
@pytest.mark.parametrize("seed", range(TIMES))
def test_a_killed_window_loses_seconds_at_most(seed, tmp_path):
    folders = {f"XDG_{kind}_HOME": str(tmp_path / kind.lower()) for kind in ("STATE", "CONFIG")}
    process = subprocess.Popen(
        [sys.executable, "-c", EDITS, str(tmp_path)], env=os.environ | folders, stdout=subprocess.PIPE, text=True
    )
    assert process.stdout is not None
    done = 0
    for _ in range(random.Random(seed).randrange(150, 200)):
        done = int(process.stdout.readline())
    process.send_signal(signal.SIGKILL)
    process.wait()
    (left,) = unsaved_studies(tmp_path / "state" / "cinetica" / "recovery")
    kept = left.study.tune("Wren").gravity.gravity
    # An edit takes at least 20 ms: only edits of the last two and a half seconds may be lost.
    assert done - 125 <= kept <= done + 5
    left.remove()
