"""Studies as files: saving, autosaving, opening, and the time and memory of the worst hostile files."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.drags import study_of_six
from benchmarks.kernel import best
from cinetica.files.recovery import RecoveryFile
from cinetica.files.study_json import StudyText, write_study
from cinetica.model.study import Drill, Study
from cinetica.model.take import Push, Take

OPENED = """
import sys, time
from pathlib import Path
from cinetica.desk.application import application, start
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
app = application()
window = Window(Session())
window.show()
start(window)
app.processEvents()
begin = time.perf_counter()
window.documents.open_file(Path(sys.argv[1]))
app.processEvents()
assert window.session.shown
print(time.perf_counter() - begin)
"""
READ = """
import sys, time
from pathlib import Path
from cinetica.files.reading import Refused
from cinetica.files.study_json import read_study
begin = time.perf_counter()
try:
    read_study(Path(sys.argv[1]))
except Refused:
    pass
took = time.perf_counter() - begin
# Not getrusage: that counts what the process was before it became this one.
peak = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM"))
print(took, int(peak.split()[1]) / 1024)
"""
HEAD = '{"format":"cinetica-study","version":1,"name":"x"'
HOSTILE = {
    "named values": HEAD + "," + ",".join(f'"k{number}":0' for number in range(199_000)) + "}",
    "values of the wrong type": HEAD + ',"tunes":[' + "0," * 590_000 + "0]}",
    "empty lists": HEAD + ',"drills":[{"name":"d","take":{"stick":[' + "[]," * 299_000 + "[]]}}]}",
    "pushes": (
        HEAD + ',"drills":[{"name":"d","take":{"length":1000000,"stick":[' + "[0,1,1]," * 199_000 + "[0,1,1]]}}]}"
    ),
    "hitches": HEAD + ',"clock":{"hitches":[' + "[1,-1]," * 199_000 + "[1,1]]}}",
    "one long string": HEAD + ',"notes":"' + "x" * (15 * 2**20) + '"}',
    "a deep tree": '{"a":' * 99_000,
}


def large_study() -> Study:
    """6 tunes, 30 drills, and a take of 10 minutes in which the stick never rests."""
    study = study_of_six()
    pushes = tuple(Push(frame, (frame * 37 % 1000) / 1000, (frame * 91 % 1000) / 1000 - 0.5) for frame in range(36_000))
    long = Drill(name="Long", take=Take(length=36_000, stick=pushes), course=study.drills[0].course)
    others = tuple(study.drills[0].model_copy(update={"name": f"Drill {number}"}) for number in range(29))
    return study.model_copy(update={"drills": (*others, long)})


def saved() -> tuple[float, float, float]:
    """Seconds of the first save, of the next one, and of keeping it against a crash after an edit."""
    study = large_study()
    changed = study.with_tune(study.tunes[0].put("drive.top_speed", 5.0), instead_of=study.tunes[0].name)
    with tempfile.TemporaryDirectory() as folder:
        path, text = Path(folder) / "study.json", StudyText()
        first = best(lambda: write_study(study, path), 5)
        write_study(study, path, text=text)
        again = best(lambda: write_study(changed, path, text=text), 5)
        recovery = RecoveryFile(Path(folder))
        recovery.keep(study, None)
        kept = best(lambda: recovery.keep(changed, path), 5)
        recovery.close()
    return first, again, kept


def opened() -> float:
    """Seconds from an empty window to the large study on its page."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "study.json"
        write_study(large_study(), path)
        return min(float(_run(OPENED, path)) for _ in range(3))


def _run(code: str, path: Path) -> str:
    return subprocess.run([sys.executable, "-c", code, str(path)], capture_output=True, text=True, check=True).stdout


def hostile() -> tuple[float, float]:
    """Seconds and MB of the worst of them, each in a process of its own."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "hostile.json"
        worst = (0.0, 0.0)
        for text in HOSTILE.values():
            path.write_text(text)
            seconds, memory = map(float, _run(READ, path).split())
            worst = max(worst[0], seconds), max(worst[1], memory)
    return worst


if __name__ == "__main__":
    begin = time.perf_counter()
    print(json.dumps({"saved": saved(), "opened": opened(), "hostile": hostile(), "took": time.perf_counter() - begin}))
