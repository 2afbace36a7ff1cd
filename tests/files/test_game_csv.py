"""Logs from games: the layout is guessed, and the curve is converted to our units."""

from dataclasses import replace

import numpy as np
import pytest

from cinetica.files import game_csv
from cinetica.files.game_csv import LONGEST_LINE, Layout, fitted, from_start, guess, logged, read_columns
from cinetica.files.reading import Refused
from cinetica.model.conventions import Conventions, Per
from cinetica.reading import log_fit

PIXELS = Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME, rate=60)
# 3 u/s along x and 6 u/s up, in the game's numbers: 1.6 px and -3.2 px per frame.
ROWS = [(n, n / 60, 100 + 1.6 * n, 50 - 3.2 * n, 1.6, -3.2) for n in range(40)]


def text_of(columns, names, *, delimiter=",", comma=False, header=True):
    cells = [
        [f"{row[column]:.6f}".replace(".", ",") if comma else f"{row[column]:.6f}" for column in columns]
        for row in ROWS
    ]
    lines = ([names] if header else []) + cells
    return "\n".join(delimiter.join(line) for line in lines) + "\n"


VARIETIES = {
    "plain": (
        text_of((0, 2, 3, 4, 5), ["frame", "x", "y", "vx", "vy"]),
        {"frame": 0, "x": 1, "y": 2, "vx": 3, "vy": 4},
    ),
    "names of another kind": (text_of((1, 2, 3), ["Time (s)", "Pos X", "Position.Y"]), {"time": 0, "x": 1, "y": 2}),
    "semicolons and commas": (
        text_of((0, 2, 3), ["Frame", "X", "Y"], delimiter=";", comma=True),
        {"frame": 0, "x": 1, "y": 2},
    ),
    "tabs": (text_of((1, 2, 3, 5), ["t", "x", "y", "vel_y"], delimiter="\t"), {"time": 0, "x": 1, "y": 2, "vy": 3}),
    "no names, time first": (text_of((1, 2, 3), [], header=False), {"time": 0, "x": 1, "y": 2}),
    "no names, frame first": (
        text_of((0, 2, 3, 4, 5), [], header=False),
        {"frame": 0, "x": 1, "y": 2, "vx": 3, "vy": 4},
    ),
    "spaces and a comment": (
        "# log of the yard\n" + text_of((0, 2, 3), ["n", "x", "y"], delimiter="  "),
        {"frame": 0, "x": 1, "y": 2},
    ),
    "columns nobody asked for": (text_of((0, 0, 2, 3), ["frame", "lives", "x", "y"]), {"frame": 0, "x": 2, "y": 3}),
}


@pytest.mark.parametrize("variety", VARIETIES)
def test_the_guessed_layout_gives_our_curve(variety):
    text, columns = VARIETIES[variety]
    layout = guess(text, PIXELS)
    assert layout.columns == columns
    log = logged(text, Layout(**{**layout.__dict__, "offset": (100.0, 50.0)}), "log", "drill")
    assert log.time[30] - log.time[0] == pytest.approx(0.5, abs=1e-6)
    assert log.x[30] == pytest.approx(1.5, abs=1e-5)
    assert log.y[30] == pytest.approx(3.0, abs=1e-5)
    assert log.vx[30] == pytest.approx(3.0, abs=1e-4)
    assert log.vy[30] == pytest.approx(6.0, abs=1e-3)
    assert set(log.derived) == {f"v{axis}" for axis in "xy" if f"v{axis}" not in columns}


def jump(time):
    """A run at 6 u/s from 0.2 s on, with a jump at 0.4 s: 6 u/s up, 18 u/s² down; by hand."""
    air = np.clip(time - 0.4, 0, 2 / 3)
    return 6 * np.maximum(time - 0.2, 0), 6 * air - 9 * air**2


OURS = np.arange(90) / 60


@pytest.mark.parametrize(("pixels", "sign", "per"), [(1, 1, 1), (32, -1, 60), (16, 1, 60), (100, -1, 1)])
def test_units_are_guessed_by_the_size_of_the_motion(pixels, sign, per):
    """The same jump, from x = 3, in a game's numbers: scale, direction and velocities are inferred from their size."""
    x, y = jump(OURS)
    x += 3
    vx, vy = np.gradient(x, OURS), np.gradient(y, OURS)
    rows = zip(7 + pixels * x, sign * pixels * y, pixels / per * vx, sign * pixels / per * vy, strict=True)
    text = "frame,x,y,vx,vy\n" + "".join(
        f"{n},{','.join(f'{value:.5f}' for value in row)}\n" for n, row in enumerate(rows)
    )
    layout = fitted(text, guess(text, Conventions()), OURS, 3 + 1.1 * (x - 3), 0.9 * y).layout
    assert (layout.pixels_per_unit, layout.y_down, layout.per_frame) == (pixels, sign < 0, per == 60)
    assert (layout.offset, layout.start) == ((7, 0), 0)


def test_the_start_of_a_long_log_is_found_by_fft(monkeypatch):
    """A log that begins a second late, correlated directly and by FFT as a long one is."""
    frames = np.arange(0, 200)
    x, y = jump((frames - 60) / 60)
    text = "frame,x,y\n" + "".join(f"{k},{a:.6f},{b:.6f}\n" for k, a, b in zip(frames, x, y, strict=True))
    starts = []
    for most in (log_fit.MOST_PRODUCTS, 0):
        monkeypatch.setattr(log_fit, "MOST_PRODUCTS", most)
        starts.append(fitted(text, guess(text, Conventions()), OURS, *jump(OURS)).layout.start)
    assert starts == pytest.approx([60.0, 60.0], abs=1e-6)


def test_an_axis_that_is_not_logged_has_no_offset():
    x, y = jump(OURS)
    text = "t,y\n" + "".join(f"{t:.6f},{20 * up + 50:.6f}\n" for t, up in zip(OURS, y, strict=True))
    assert fitted(text, guess(text, Conventions()), OURS, x, y).layout.offset == pytest.approx((0, 50))
    # On an axis on which nothing moves, the scale of the other one counts.
    text = "t,x,y\n" + "".join(f"{t:.6f},{20 * across:.6f},90\n" for t, across in zip(OURS, x, strict=True))
    assert fitted(text, guess(text, Conventions()), OURS, x, np.full(90, 2.0)).layout.offset == pytest.approx((0, 50))


@pytest.mark.parametrize("rate", [50, 60, 144])
@pytest.mark.parametrize(
    ("lag", "pixels"), [(0.0, 32), (1200.0, 32), (1201.5, 37.5), (-2.0, 16), (4.25, 100)]
)  # fmt: skip
def test_the_start_of_the_drill_is_found_between_frames(rate, lag, pixels):
    """The game had run for a while, counts from any frame and lags by a constant; its frames are as long as ours."""
    frames = np.arange(max(0, np.floor(lag) - 10), lag + 1.4 * rate)
    x, y = jump((frames - lag) / rate)
    text = "FrameNo;PosXpx;PosYpx\n" + "".join(
        f"{frame:.0f};{100 + pixels * across:.6f};{200 - pixels * up:.6f}\n"
        for frame, across, up in zip(frames, x, y, strict=True)
    )
    mine, his = jump(OURS)
    found = fitted(text, guess(text, Conventions()), OURS, mine, his, rates=(144, 50, 30))
    layout = found.layout
    assert layout.rate == rate
    assert layout.start == pytest.approx(lag, abs=0.01)
    assert (layout.pixels_per_unit, layout.y_down) == (pytest.approx(pixels, rel=1e-3), True)
    assert layout.offset == pytest.approx((100, 200), abs=0.1)
    log = logged(text, layout, "log", "drill")
    assert log.time[0] == 0
    expected = jump(np.array(log.time))
    # A missing row, at the start, lies on the line between its neighbours.
    assert np.array(log.x)[1:] == pytest.approx(expected[0][1:], abs=0.01)
    assert np.array(log.y)[1:] == pytest.approx(expected[1][1:], abs=0.01)


def test_reversed_numbers_are_another_movement():
    """A log of a run to the left is recognised as one; a fall is not a jump."""
    x, y = jump(OURS)
    text = "t,x,y\n" + "".join(f"{t:.6f},{-a:.6f},{b:.6f}\n" for t, a, b in zip(OURS, x, y, strict=True))
    found = fitted(text, guess(text, Conventions()), OURS, x, y)
    assert found.fit is not None
    assert found.fit.x_mirrored


@pytest.mark.parametrize(
    ("heading", "columns", "unit", "per_frame"),
    [
        ("FrameNo,PosXpx,PosYpx", {"frame": 0, "x": 1, "y": 2}, "s", False),
        ("time_ms,x_px,y_px", {"time": 0, "x": 1, "y": 2}, "ms", False),
        ("Elapsed (s),player.position.x,player.position.y", {"time": 0, "x": 1, "y": 2}, "s", False),
        ("tick,velX [px/frame],playerX", {"frame": 0, "vx": 1, "x": 2}, "s", True),
        ("t,speed_y_px_per_s,yPos", {"time": 0, "vy": 1, "y": 2}, "s", False),
        ("ms,lives,pos_y", {"time": 0, "y": 2}, "ms", False),
        ("x,vx,xVelocity", {"x": 0, "vx": 1}, "s", False),
    ],
)
def test_columns_are_recognised_by_their_names(heading, columns, unit, per_frame):
    text = heading + "\n" + "".join(f"{n * 0.5},{n},{2 * n}\n" for n in range(5))
    layout = guess(text, Conventions())
    assert (layout.columns, layout.time_unit, layout.per_frame) == (columns, unit, per_frame)


@pytest.mark.parametrize(
    ("step", "columns", "unit"),
    [(1 / 60, {"time": 0, "x": 1}, "s"), (16.67, {"time": 0, "x": 1}, "ms"), (16667, {"time": 0, "x": 1}, "µs"),
     (1, {"frame": 0, "x": 1}, "s")],
)  # fmt: skip
def test_the_unit_of_time_follows_from_its_steps(step, columns, unit):
    text = "t,x\n" + "".join(f"{n * step},{n}\n" for n in range(9))
    layout = guess(text, Conventions())
    assert (layout.columns, layout.time_unit) == (columns, unit)
    assert logged(text, layout, "log", "drill").time[-1] == pytest.approx(8 / 60, rel=1e-3)
    assert guess("t,x\n5,1\n", Conventions()).columns == {"time": 0, "x": 1}
    assert guess("t,x\n0,1\n1,2\n", Conventions()).columns == {"frame": 0, "x": 1}


def test_an_unrecognised_log_keeps_its_guess():
    text = "frame,x,y\n0,0,0\n1,7000,1\n"
    layout, (x, y) = guess(text, Conventions()), jump(OURS)
    assert fitted(text, layout, OURS, np.zeros(90), np.zeros(90)).layout == layout
    assert fitted(text, layout, OURS, x, y).layout == layout
    assert fitted("frame,x\n0,a\n1,b\n", layout, OURS, x, y).layout == layout
    noise = np.random.default_rng(5).normal(size=(90, 2))
    text = "frame,x,y\n" + "".join(f"{n},{a:.5f},{b:.5f}\n" for n, (a, b) in enumerate(noise))
    assert fitted(text, guess(text, Conventions()), OURS, x, y).fit is None


def test_rows_before_the_start_are_cut_off_between_two_frames():
    text = "frame,x\n10,0\n11,6\n12,12\n"
    log = logged(text, replace(guess(text, Conventions()), start=10.5), "log", "drill")
    assert log.time == (0, pytest.approx(0.5 / 60), pytest.approx(1.5 / 60))
    assert log.x == (3, 6, 12)
    with pytest.raises(Refused, match="ends before the drill starts"):
        logged(text, replace(guess(text, Conventions()), start=12), "log", "drill")
    later = logged(text, replace(guess(text, Conventions()), start=8), "log", "drill")
    assert (later.time[0], later.x[:2]) == (0, (0, 0))


def test_a_missing_axis_stays_at_0_and_is_reported():
    log = logged("frame,y\n0,1\n1,2\n", guess("frame,y\n0,1\n1,2\n", Conventions()), "log", "drill")
    assert log.x == (0.0, 0.0)
    assert log.derived == ("x", "vx", "vy")
    assert log.vy == (0.0, 60.0)


def test_corrections_by_hand():
    text = "a;b;c\n1;2;3\n4;5;6\n"
    layout = Layout(delimiter=";").with_column("x", 2).with_column("y", 0)
    log = logged(text, layout, "log", "drill")
    assert (log.x, log.y) == ((3.0, 6.0), (1.0, 4.0))
    assert layout.with_column("vx", 2).columns == {"y": 0, "vx": 2}
    assert layout.with_column("x", None).columns == {"y": 0}


@pytest.mark.parametrize(
    ("text", "reason"),
    [
        ("frame,x\n0,1\n1,oops\n", "row 3: x is “oops”"), ("frame,x\n0,1\n0,2\n", "row 3: the frame does not grow"),
        ("frame,speed\n0,1\n1,1\n", "named as x or y"),
        ("frame,x\n0,1\n1\n", "row 3"),
    ],
)  # fmt: skip
def test_errors_name_the_row(text, reason):
    with pytest.raises(Refused, match=reason):
        logged(text, guess(text, Conventions()), "log", "drill")


@pytest.mark.parametrize("pixels", [0.0, -1.0, 1e-320, 1e-9, float("nan")])
def test_a_unit_without_pixels_is_refused(pixels):
    with pytest.raises(Refused, match="pixels in a unit must be more than 0"):
        logged(
            "t,x,y\n0,1,2\n0.1,2,3\n",
            Layout(pixels_per_unit=pixels, columns={"time": 0, "x": 1, "y": 2}),
            "log",
            "drill",
        )


def test_lines_up_to_the_limit_are_read():
    padding = " " * (LONGEST_LINE - len("0,1\n"))
    rows = f"frame,x\n0,1{padding}\n1,2\n"
    assert max(map(len, rows.splitlines(keepends=True))) == LONGEST_LINE
    assert logged(rows, guess(rows, Conventions()), "log", "drill").x == (1, 2)
    with pytest.raises(Refused, match=f"a line of more than {LONGEST_LINE}"):
        guess(rows.replace("0,1", "0,11"), Conventions())


def test_a_log_shorter_than_a_tick_keeps_its_layout():
    x = np.linspace(0, 3, len(OURS))
    for text in ("time,x,y\n0,0,0\n0.001,1,1\n0.002,2,1\n", "time,x,y\n0,0,0\n"):
        layout = Layout(columns={"time": 0, "x": 1, "y": 2})
        assert fitted(text, layout, OURS, x, np.zeros(len(OURS))).fit is None


@pytest.mark.parametrize(("y_down", "offset"), [(False, (4.0, 52.0)), (True, (4.0, -12.0))])
def test_the_start_row_is_placed_at_the_start_of_the_drill(y_down, offset):
    """At frame 7 the game has (100, 20) px, where the drill starts at (3, -1) u of 32 px."""
    text = "frame,x,y\n6,0,0\n7,100,20\n8,300,60\n"
    at = replace(guess(text, Conventions(pixels_per_unit=32, y_down=y_down)), start=7.0)
    layout = from_start(text, at, (3.0, -1.0))
    assert layout.offset == offset
    log = logged(text, layout, "log", "drill")
    assert (log.x[0], log.y[0]) == (3.0, -1.0)
    alone = "frame,x\n0,100\n1,300\n"
    assert from_start(alone, guess(alone, Conventions()), (3.0, 1.0)).offset == (97.0, 0.0)
    assert from_start("frame,x\n0,a\n", at, (3.0, 1.0)) == at


def test_a_table_has_the_same_cells_in_most_rows():
    rows = "0;1;2\n1;2;3\n"
    assert guess("frame;x;y\n" + rows, Conventions()).columns == {"frame": 0, "x": 1, "y": 2}
    assert guess("0.5;1\n1.5;2\n2.5;3\n", Conventions()).delimiter == ";"
    with pytest.raises(Refused, match="not a table of numbers"):
        guess(rows + "1;2\n1;2;3;4\n1\n", Conventions())
    with pytest.raises(Refused, match="empty"):
        guess("\n# nothing\n", Conventions())


def test_every_kind_of_fault_is_listed_with_its_row_and_cell():
    rows = [
        "0,1,1",
        *(f"{n},{'q' * 50},{'z' if n == 3 else 2}" for n in range(1, 8)),
        "8,,1e12",
        "9,1,-1e12",
        "10,1,2e12",
    ]
    columns = {"frame": 0, "x": 1, "y": 2}
    with pytest.raises(Refused) as refused:
        read_columns("\n".join(rows), Layout(header=False, columns=columns))
    # Five errors per column are enough to show what is wrong; exactly 10¹² is still a number.
    assert refused.value.faults == [
        *(f"row {n}: x is “{'q' * 40}”, which is not a number" for n in range(2, 7)),
        "row 4: y is “z”, which is not a number",
        "row 11: y is “2e12”, which is not a number",
    ]
    five = dict(zip(("frame", "x", "y", "vx", "vy"), range(5), strict=True))
    with pytest.raises(Refused) as refused:
        read_columns("a,b,c,d,e\n" * 6, Layout(header=False, columns=five))
    assert len(refused.value.faults) == 20
    for header, row in ((False, 3), (True, 4)):
        text = ("frame,x\n" if header else "") + "0,1\n2,2\n2,3\n"
        with pytest.raises(Refused, match=f"row {row}: the frame does not grow"):
            read_columns(text, Layout(header=header, columns={"frame": 0, "x": 1}))


@pytest.mark.parametrize(
    ("first", "start"), [("0", 0.0), ("0.025", 0.0), ("0.0251", 0.0251), ("-0.0251", -0.0251), ("-0.02", 0.0)]
)
def test_a_log_starting_within_a_frame_of_0_starts_with_the_drill(first, start):
    assert guess(f"time,x\n{first},1\n0.5,2\n0.6,3\n", Conventions()).start == start


@pytest.mark.parametrize(
    ("rows", "columns"),
    [
        ("0 1\n1 2\n2 4\n", {"frame": 0, "x": 1}),
        ("0 1\n0.5 2\n1 4\n", {"time": 0, "x": 1}),
        # A column whose steps vary by less than half their mean is a clock; others are positions.
        ("0 1\n0.8 2\n2 4\n", {"time": 0, "x": 1}),
        ("0 1\n0.75 2\n2 4\n", {"x": 0, "y": 1}),
        ("0 1\n0 2\n0 4\n", {"x": 0, "y": 1}),
        ("5 1 7 7 7\n4 2 8 8 8\n", {"x": 0, "y": 1, "vx": 2, "vy": 3}),
    ],
)
def test_unnamed_columns_are_time_then_positions_and_velocities(rows, columns):
    assert guess(rows, Conventions()).columns == columns


def test_a_velocity_along_a_constant_position_says_nothing():
    (_, y), n = jump(OURS), np.arange(len(OURS))
    text = "frame,x,y,vx,vy\n" + "".join(
        f"{a},2,{b:.6f},5,{c:.6f}\n" for a, b, c in zip(n, y, np.gradient(y), strict=True)
    )
    still = np.full(len(OURS), 2.0)
    assert fitted(text, guess(text, Conventions()), OURS, still, y).layout.per_frame is True


@pytest.mark.parametrize(
    ("vx", "per_frame"), [(6.0, False), (0.1, True), (6.0 / 60**0.5 * 1.01, False), (6.0 / 60**0.5 * 0.99, True)]
)
def test_velocities_are_per_frame_if_closer_to_the_steps_between_rows(vx, per_frame):
    """A run at 6 u/s; at 60 frames per second the geometric mean of the two units is 6/√60."""
    (x, y), n = jump(OURS), np.arange(len(OURS))
    text = "frame,x,y,vx\n" + "".join(f"{a},{b:.6f},{c:.6f},{vx:.6f}\n" for a, b, c in zip(n, x, y, strict=True))
    found = fitted(text, guess(text, Conventions()), OURS, x, y)
    assert found.layout.per_frame is per_frame


@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
def test_all_line_endings_are_read(end):
    text = end.join(["frame,x", "0,1", "", "# the harbour", "1,2", ""])
    assert logged(text, guess(text, Conventions()), "log", "drill").x == (1, 2)


def test_a_quote_that_never_closes_is_refused_with_its_row():
    with pytest.raises(Refused, match="row 2: field larger than"):
        game_csv.rows_of("frame,x\n" + '0,"1\n' + "2,3\n" * 40_000, ",")


def test_rows_and_cells_of_a_log_are_limited(monkeypatch):
    monkeypatch.setattr(game_csv, "MOST_LOGGED", 3)
    assert len(game_csv.rows_of("frame,x\n0,1\n1,2\n2,3\n", ",")) == 4
    with pytest.raises(Refused, match="more than 3 rows"):
        game_csv.rows_of("frame,x\n0,1\n1,2\n2,3\n3,4\n", ",")
    monkeypatch.setattr(game_csv, "MOST_CELLS", 8)
    with pytest.raises(Refused, match="or 8 cells"):
        game_csv.rows_of("frame,x\n0,1\n1,2\n2,3,4\n", ",")
