"""`cinetica sweep`: rows equal single runs, interrupted sweeps resume, clusters agree, errors are one line."""

import csv
import io
import json
import os
import signal
import socket
from pathlib import Path

import pytest
from click.testing import CliRunner
from pyarrow import parquet

from cinetica.cli import cluster as clusters
from cinetica.cli import main, sweeping
from cinetica.files import sweep_table
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import study_text
from cinetica.motion.simulate import simulate
from cinetica.reading import plan as plans
from cinetica.reading.measures import MEASURES
from cinetica.reading.plan import parsed, plan, unpacked
from cinetica.reading.reading_off import read_off

HARBOUR = shipped_study("harbour")
HOP = HARBOUR.drill("Rooftop hop")


@pytest.fixture
def study(tmp_path):
    path = tmp_path / "harbour.json"
    path.write_text(study_text(HARBOUR))
    return path


@pytest.fixture
def small_chunks(monkeypatch):
    monkeypatch.setattr(plans, "CHUNK", 7)


def run(study, *more, tune="Wren", drill="Rooftop hop", **options):
    asked = ["sweep", str(study), "--tune", tune, "--drill", drill, *map(str, more)]
    return CliRunner().invoke(main, asked, **options)


VARY = ("--vary", "gravity.gravity=20:60:5", "--vary", "jump.jump_speed=10,12.5,16", "--vary", "drive.law=ramp,ease")


def test_each_row_equals_a_study_with_those_numbers(study, small_chunks):
    rows = list(csv.DictReader(io.StringIO(run(study, *VARY).stdout)))
    assert len(rows) == 30
    for row in rows[::4]:
        tune = HARBOUR.tune("Wren")
        for id in ("gravity.gravity", "jump.jump_speed"):
            tune = tune.put(id, float(row[id]))
        tune = tune.put("drive.law", row["drive.law"])
        alone = {id: reading.value for id, reading in read_off(simulate(tune, HOP, HARBOUR.clock)).items()}
        shown = {id: float(text) for id, text in row.items() if text and "." not in id}
        assert shown == alone


def test_the_last_number_varies_fastest_and_a_file_equals_the_output(study, tmp_path, small_chunks):
    out = tmp_path / "table.csv"
    printed = run(study, *VARY, "--measure", "jump_height")
    assert run(study, *VARY, "--measure", "jump_height", "-o", out).exit_code == 0
    assert out.read_text() == printed.stdout
    rows = list(csv.reader(out.open()))
    assert rows[0] == ["gravity.gravity", "jump.jump_speed", "drive.law", "jump_height"]
    assert [row[2] for row in rows[1:5]] == ["ramp", "ease", "ramp", "ease"]
    assert not out.with_name("table.csv.progress").exists()


@pytest.mark.parametrize("suffix", [".csv", ".parquet"])
def test_an_interrupted_sweep_resumes(study, tmp_path, monkeypatch, small_chunks, suffix):
    whole, broken = tmp_path / f"whole{suffix}", tmp_path / f"broken{suffix}"
    assert run(study, *VARY, "-o", whole).exit_code == 0
    real, calls = sweeping._on_all_cores, []

    def interrupted(planned, parts):
        for found in real(planned, parts):
            calls.append(found[0])
            if len(calls) == 3:
                raise KeyboardInterrupt
            yield found

    monkeypatch.setattr(sweeping, "_on_all_cores", interrupted)
    first = run(study, *VARY, "-o", broken)
    assert first.exit_code == 1
    assert "Interrupted after 14 of 30 rows" in first.stderr
    assert "--resume" in first.stderr
    monkeypatch.setattr(sweeping, "_on_all_cores", real)
    other = run(study, *VARY, "--measure", "jump_height", "-o", broken, "--resume")
    assert other.exit_code == 1
    assert "is of another sweep" in other.stderr
    if suffix == ".csv":
        # Half a row left by a crash.
        with broken.open("a") as file:
            file.write("20.0,10")
    assert run(study, *VARY, "-o", broken, "--resume").exit_code == 0
    assert _read(broken) == _read(whole)
    assert sorted(path.name for path in tmp_path.iterdir()) == sorted(["harbour.json", whole.name, broken.name])


@pytest.mark.parametrize("suffix", [".csv", ".parquet"])
def test_a_sweep_killed_before_its_first_row_resumes(study, tmp_path, small_chunks, monkeypatch, suffix):
    """A sweep that replaces an interrupted one, and is neither finished nor saved, as a killed process leaves it."""
    out = tmp_path / f"table{suffix}"
    interrupt(monkeypatch, study, out)
    with monkeypatch.context() as patched:
        for table in (sweep_table.CsvTable, sweep_table.ParquetTable):
            patched.setattr(table, "keep", lambda _: None)
        interrupt(patched, study, out, after=0)
    assert run(study, *VARY, "-o", out, "--resume").exit_code == 0
    assert run(study, *VARY, "-o", whole := tmp_path / f"whole{suffix}").exit_code == 0
    assert _read(out) == _read(whole)
    assert sorted(path.name for path in tmp_path.iterdir()) == ["harbour.json", out.name, whole.name]


def interrupt(monkeypatch, study, out, after=2):
    """A sweep into `out` that was interrupted after so many chunks."""
    real = sweeping._on_all_cores

    def interrupted(planned, parts):
        for count, found in enumerate(real(planned, parts)):
            if count == after:
                raise KeyboardInterrupt
            yield found

    with monkeypatch.context() as patched:
        patched.setattr(sweeping, "_on_all_cores", interrupted)
        assert "Interrupted" in run(study, *VARY, "-o", out).stderr


def one_line(found):
    assert found.exit_code == 1
    assert len(found.stderr.strip().splitlines()) == 1, found.stderr
    return found.stderr


SPOILED = [{"done": 10**9}, {"done": -1}, {"done": "1e999"}, {"format": "notes"}, {"more": 1}]
OF_CSV = [{"bytes": 0}, {"bytes": 37}, {"bytes": 10**9}, {"done": 0}, {"done": 7}, {"sha256": "0"}]


@pytest.mark.parametrize(
    ("suffix", "spoiled"), [(".csv", each) for each in SPOILED + OF_CSV] + [(".parquet", each) for each in SPOILED]
)
def test_damaged_progress_is_refused_with_a_reason(study, tmp_path, monkeypatch, small_chunks, suffix, spoiled):
    out = tmp_path / f"table{suffix}"
    interrupt(monkeypatch, study, out)
    notes = out.with_name(out.name + ".progress")
    notes.write_text(json.dumps(json.loads(notes.read_text()) | spoiled).replace('"1e999"', "1e999"))
    before = _everything(tmp_path)
    output = one_line(run(study, *VARY, "-o", out, "--resume"))
    assert "is damaged" in output or "is not as the interrupted sweep left it" in output
    assert _everything(tmp_path) == before


def test_a_progress_file_that_is_too_large_is_not_read(study, tmp_path, monkeypatch, small_chunks):
    """Although its content would be valid."""
    out = tmp_path / "table.csv"
    interrupt(monkeypatch, study, out)
    notes = out.with_name("table.csv.progress")
    notes.write_text(notes.read_text() + " " * sweep_table.MOST_NOTES)
    assert "is damaged, or not of a sweep" in one_line(run(study, *VARY, "-o", out, "--resume"))


def _everything(folder):
    return {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


@pytest.mark.parametrize("content", [b"", b"{}", b"my notes", b"[" * 5000 + b"]" * 5000, b"\xff\xfe"])
@pytest.mark.parametrize("suffix", [".csv", ".parquet"])
@pytest.mark.parametrize("more", [(), ("--resume",)])
def test_files_of_others_are_kept(study, tmp_path, content, suffix, more):
    out = tmp_path / f"table{suffix}"
    out.with_name(out.name + ".progress").write_bytes(content)
    assert "is damaged, or not of a sweep" in one_line(run(study, *VARY, "-o", out, *more))
    assert out.with_name(out.name + ".progress").read_bytes() == content
    assert not out.exists()


@pytest.mark.parametrize("more", [(), ("--resume",)])
def test_a_foreign_folder_of_parts_is_kept(study, tmp_path, more):
    out = tmp_path / "table.parquet"
    parts = out.with_name("table.parquet.parts")
    parts.mkdir()
    (parts / "0000000000000007.parquet").write_bytes(b"mine")
    assert "table.parquet.parts is there, and not of a sweep" in one_line(run(study, *VARY, "-o", out, *more))
    assert (parts / "0000000000000007.parquet").read_bytes() == b"mine"


def test_a_file_in_place_of_the_parts_is_kept(study, tmp_path):
    mine = tmp_path / "table.parquet.parts"
    mine.write_bytes(b"mine")
    assert "is there, and not of a sweep" in one_line(run(study, *VARY, "-o", tmp_path / "table.parquet"))
    assert mine.read_bytes() == b"mine"


def test_a_foreign_file_among_the_parts_is_kept(study, tmp_path, monkeypatch, small_chunks):
    out = tmp_path / "table.parquet"
    interrupt(monkeypatch, study, out)
    mine = out.with_name("table.parquet.parts") / "notes.txt"
    mine.write_bytes(b"mine")
    for more in ((), ("--resume",)):
        assert "not of a sweep" in one_line(run(study, *VARY, "-o", out, *more))
    assert mine.read_bytes() == b"mine"


@pytest.mark.parametrize("spoil", ["value", "head", "gone", "shorter"])
def test_changed_rows_are_not_resumed_from(study, tmp_path, monkeypatch, small_chunks, spoil):
    out = tmp_path / "table.csv"
    interrupt(monkeypatch, study, out)
    text = out.read_text()
    changed = {"value": text.replace("20.0,10.0", "21.0,10.0", 1), "head": text.replace("gravity", "Gravity", 1),
               "shorter": text[:-20]}  # fmt: skip
    if spoil == "gone":
        out.unlink()
    else:
        out.write_text(changed[spoil])
    assert "is not as the interrupted sweep left it" in one_line(run(study, *VARY, "-o", out, "--resume"))
    # Without it, it is written again.
    assert run(study, *VARY, "-o", out).exit_code == 0
    assert out.read_text().count("\n") == 31


@pytest.mark.parametrize("spoil", ["other rows", "not parquet", "gone", "another column"])
def test_changed_parts_are_not_resumed_from(study, tmp_path, monkeypatch, small_chunks, spoil):
    out = tmp_path / "table.parquet"
    interrupt(monkeypatch, study, out)
    first, second = sorted(out.with_name("table.parquet.parts").iterdir())
    if spoil == "gone":
        first.unlink()
    elif spoil == "another column":
        table = parquet.read_table(first)
        parquet.write_table(table.append_column("more", table.column(0)), first)
    else:
        first.write_bytes(second.read_bytes() if spoil == "other rows" else b"PAR1")
    assert "is not as the interrupted sweep left it" in one_line(run(study, *VARY, "-o", out, "--resume"))


def test_a_part_newer_than_the_progress_is_written_again(study, tmp_path, monkeypatch, small_chunks):
    """It may be damaged: nothing says that it was finished."""
    whole, out = tmp_path / "whole.parquet", tmp_path / "table.parquet"
    assert run(study, *VARY, "-o", whole).exit_code == 0
    interrupt(monkeypatch, study, out)
    (out.with_name("table.parquet.parts") / "0000000000000021.parquet").write_bytes(b"PAR1")
    assert run(study, *VARY, "-o", out, "--resume").exit_code == 0
    assert _read(out) == _read(whole)


def test_resuming_does_not_overwrite_a_complete_table(study, tmp_path):
    out = tmp_path / "table.csv"
    assert run(study, *VARY, "-o", out).exit_code == 0
    before = out.read_bytes()
    assert "it is whole, or of something else" in one_line(run(study, *VARY, "-o", out, "--resume"))
    assert out.read_bytes() == before


@pytest.mark.parametrize("where", [".", "..", "/", "folder.parquet"])
def test_a_folder_is_refused_as_a_table(study, tmp_path, monkeypatch, where):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "folder.parquet").mkdir()
    assert "a folder; give the name of a file" in one_line(run(study, *VARY, "-o", where))


def _read(path):
    if path.suffix == ".csv":
        return path.read_text()
    import pyarrow.parquet

    return pyarrow.parquet.read_table(path).to_pylist()


@pytest.mark.parametrize("suffix", [".csv", ".parquet"])
def test_resuming_without_progress_starts(study, tmp_path, suffix):
    out = tmp_path / f"table{suffix}"
    assert run(study, "--vary", "gravity.gravity=20,60", "-o", out, "--resume").exit_code == 0
    assert len(_read(out)) > 0


@pytest.mark.parametrize("suffix", [".csv", ".parquet"])
def test_a_table_has_the_usual_permissions_and_no_file_stays_open(study, tmp_path, suffix):
    out, plain = tmp_path / f"table{suffix}", tmp_path / "plain"
    plain.write_text("")
    asked = ("--vary", "gravity.gravity=20,60", "--measure", "jump_height")
    run(study, *asked, "-o", tmp_path / f"first{suffix}")
    open_before = len(list(Path("/proc/self/fd").iterdir()))
    assert run(study, *asked, "-o", out).exit_code == 0
    assert len(list(Path("/proc/self/fd").iterdir())) == open_before
    assert out.stat().st_mode == plain.stat().st_mode


def test_a_table_that_cannot_be_completed_leaves_its_parts(study, tmp_path, monkeypatch):
    def full(_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(sweep_table, "mode_for", full)
    assert "No space left" in one_line(run(study, "--vary", "gravity.gravity=20,60", "-o", tmp_path / "a.parquet"))
    assert {path.name for path in tmp_path.iterdir()} == {"harbour.json", "a.parquet.parts", "a.parquet.progress"}


def test_parquet_has_numbers_and_gaps(study, tmp_path):
    out = tmp_path / "table.parquet"
    asked = ("--vary", "gravity.gravity=20,60", "--measure", "jump_height", "--measure", "net_jump_height")
    assert run(study, *asked, "-o", out).exit_code == 0
    rows = _read(out)
    tune = HARBOUR.tune("Wren").put("gravity.gravity", 60)
    height = read_off(simulate(tune, HOP, HARBOUR.clock))["jump_height"].value
    assert rows[1] == {"gravity.gravity": 60.0, "jump_height": height, "net_jump_height": None}


@pytest.mark.parametrize(
    ("more", "output"),
    [
        ((), "Nothing is varied"),
        (("--vary", "gravity.gravity"), "does not say what to vary"),
        (("--vary", "gravity.gravitas=1:2:3"), "gravity.gravity"),
        (("--vary", "gravity.gravity=1:2"), "is not a range"),
        (("--vary", "gravity.gravity=a:2:3"), "is not a range"),
        (("--vary", "gravity.gravity=1:2:3:lin"), "is not a range"),
        (("--vary", "gravity.gravity=1:nan:3"), "is not a range"),
        (("--vary", "gravity.gravity=-5:2:3"), "a number from 0"),
        (("--vary", "gravity.gravity=5,x"), "x” is not"),
        (("--vary", "gravity.gravity=0:2:3:log"), "must be above 0"),
        (("--vary", "gravity.gravity=1:2:1"), "One value cannot go"),
        (("--vary", "gravity.gravity=1:2:0"), "from 1 to"),
        (("--vary", "drive.law=ramp,moon"), "moon is not"),
        (("--vary", "jump.spend_grace=yes"), "true or false"),
        (("--vary", "gravity.gravity=1:2:3", "--vary", "gravity.gravity=1:2:3"), "varied twice"),
        (("--vary", "gravity.gravity=1:2:3", "--measure", "jump_heigth"), "jump_height"),
        (("--vary", "gravity.gravity=1:2:3", "--resume"), "into which file"),
        (("--vary", "gravity.gravity=1:2:3", "-o", "table.docx"), "ends in .csv or .parquet"),
        (("--vary", "gravity.gravity=1:2:3", "-o", "/nowhere/at/all.csv"), "No such file"),
        (("--vary", "gravity.gravity=1:2:1000000", "--vary", "jump.jump_speed=1:2:1000000"), "1,000,000,000,000 comb"),
    ],
)
def test_bad_input_is_one_plain_line(study, more, output):
    found = run(study, *more)
    assert found.exit_code == 1
    assert output in found.stderr
    assert len(found.stderr.strip().splitlines()) == 1
    assert found.stdout == ""


def test_a_bad_value_leaves_no_table(study, tmp_path):
    found = run(study, "--vary", "gravity.gravity=20,-5", "-o", tmp_path / "table.csv")
    assert "gravity.gravity is a number from 0" in one_line(found)
    assert not (tmp_path / "table.csv").exists()


def test_logarithmic_ranges_and_whole_numbers():
    assert parsed("gravity.gravity=1:100:3:log", "side")[1] == pytest.approx((1, 10, 100))
    assert parsed("gravity.gravity=10:0.1:3:log", "side")[1] == pytest.approx((10, 1, 0.1))
    assert parsed("jump.air_jumps=0:4:9", "side") == ("jump.air_jumps", (0, 1, 2, 3, 4))
    assert parsed("jump.spend_grace=true,false", "side")[1] == (True, False)
    assert parsed("gravity.gravity=7:7:1", "side")[1] == (7.0,)


def test_a_plan_is_the_same_after_unpacking():
    made = plan(HARBOUR.tune("Wren"), HOP, HARBOUR.clock, ["gravity.gravity=20:60:5", "drive.law=ramp,ease"], [])
    other = unpacked(made.packed())
    assert (other.run(0, 10) == made.run(0, 10)).sum() > 50
    assert other.signature == made.signature
    changed = plan(HARBOUR.tune("Wren"), HOP, HARBOUR.clock, ["gravity.gravity=20:60:6"], [])
    assert changed.signature != made.signature


@pytest.mark.parametrize(
    ("view", "tune", "drill"), [("side", "Wren", "Rooftop hop"), ("top", "Otter", "Market diagonals")]
)
def test_a_plan_without_measures_has_all_of_its_view(view, tune, drill):
    made = plan(HARBOUR.tune(tune), HARBOUR.drill(drill), HARBOUR.clock, ["drive.top_speed=2,3"], [])
    assert set(made.measures) == {each.id for each in MEASURES if view in each.views if not each.on_request}
    assert ("jump_height" in made.measures) is (view == "side")
    assert "pose_changes" not in made.measures


def test_a_long_sweep_asks_first(study, monkeypatch):
    monkeypatch.setattr(sweeping, "LONG", 0.0)
    assert "Say --yes" in run(study, "--vary", "gravity.gravity=20,30").stderr
    found = run(study, "--vary", "gravity.gravity=20,30", "--yes")
    assert found.exit_code == 0
    assert found.stdout.count("\n") == 3


def test_missing_extras_are_named(study, monkeypatch, tmp_path):
    import builtins

    real = builtins.__import__

    def without(name, *arguments, **options):
        if name.split(".")[0] in ("pyarrow", "distributed"):
            raise ImportError(name)
        return real(name, *arguments, **options)

    monkeypatch.setattr(builtins, "__import__", without)
    for more in (("-o", tmp_path / "a.parquet"), ("--scheduler", "tcp://127.0.0.1:9")):
        found = run(study, "--vary", "gravity.gravity=20,30", *more)
        assert found.exit_code == 1
        assert sweep_table.EXTRA in found.stderr


def test_a_missing_scheduler_is_one_line(study, monkeypatch):
    monkeypatch.setattr(clusters, "TIMEOUT", 0.3)
    found = run(study, "--vary", "gravity.gravity=20,30", "--scheduler", "tcp://127.0.0.1:9")
    assert found.exit_code == 1
    assert "There is no scheduler at tcp://127.0.0.1:9" in found.stderr
    assert found.stdout == ""


def test_a_silent_scheduler_is_one_line(study, monkeypatch):
    monkeypatch.setattr(clusters, "TIMEOUT", 0.3)
    with socket.create_server(("127.0.0.1", 0)) as silent:
        port = silent.getsockname()[1]
        found = run(study, "--vary", "gravity.gravity=20,30", "--scheduler", f"tcp://127.0.0.1:{port}")
    assert found.exit_code == 1
    assert f"There is no scheduler at tcp://127.0.0.1:{port}: no answer" in found.stderr
    assert found.stdout == ""


@pytest.fixture(scope="module")
def two_workers():
    import dask
    from distributed import LocalCluster

    # A killed worker is asked for its results for this long instead of half a minute.
    with (
        dask.config.set({"distributed.comm.timeouts.connect": "2s"}),
        LocalCluster(
            n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None, host="127.0.0.1", silence_logs=50
        ) as cluster,
    ):
        yield cluster


@pytest.mark.thorough
def test_a_cluster_gives_the_same_after_all_workers_are_killed(study, tmp_path, two_workers, monkeypatch):
    monkeypatch.setattr(plans, "CHUNK", 512)
    asked = ("--vary", "gravity.gravity=20:60:100", "--vary", "jump.jump_speed=10:16:80", "--measure", "jump_height")
    here, there = tmp_path / "here.csv", tmp_path / "there.csv"
    assert run(study, *asked, "-o", here).exit_code == 0
    victims = [worker.process.pid for worker in two_workers.workers.values()]
    real, killed = clusters.Cluster.result, []

    def result(self, future):
        found = real(self, future)
        while victims:
            killed.append(victims.pop())
            os.kill(killed[-1], signal.SIGKILL)
        return found

    monkeypatch.setattr(clusters.Cluster, "result", result)
    found = run(study, *asked, "-o", there, "--scheduler", two_workers.scheduler_address)
    assert found.exit_code == 0, found.stderr
    assert len(killed) == 2
    assert there.read_bytes() == here.read_bytes()


def test_another_version_on_the_workers_is_named(study, two_workers, monkeypatch):
    monkeypatch.setattr(clusters, "__version__", "9.9.9")
    found = run(study, "--vary", "gravity.gravity=20,30", "--scheduler", two_workers.scheduler_address)
    assert found.exit_code == 1
    assert "This is Cinetica 9.9.9" in found.stderr
