"""Logs from games: how they are laid out is guessed, and the curve is in our own units."""

import numpy as np
import pytest

from cinetica.files.game_csv import Layout, guess, logged, with_likely_units
from cinetica.files.reading import Refused
from cinetica.model.conventions import Conventions, Per

PIXELS = Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME, rate=60)
# 3 u/s along x and 6 u/s up, in the game's own numbers: 1.6 px and -3.2 px a frame.
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
def test_the_layout_is_guessed_and_the_curve_is_ours(variety):
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


@pytest.mark.parametrize(("pixels", "sign", "per"), [(1, 1, 1), (32, -1, 60), (16, 1, 60), (100, -1, 1)])
def test_units_are_those_in_which_the_log_is_as_large_as_ours(pixels, sign, per):
    """The same jump, in another game's numbers: scale, direction and velocities are all told by their size."""
    time = np.arange(60) / 60
    x, y = 6 * time, 6 * time - 9 * time**2
    rows = zip(
        pixels * x,
        sign * pixels * y,
        pixels / per * np.full(60, 6.0),
        sign * pixels / per * (6 - 18 * time),
        strict=True,
    )
    text = "frame,x,y,vx,vy\n" + "".join(
        f"{n},{','.join(f'{value:.5f}' for value in row)}\n" for n, row in enumerate(rows)
    )
    layout = with_likely_units(text, guess(text, Conventions()), 1.1 * x, 0.9 * y)
    assert (layout.pixels_per_unit, layout.y_down, layout.per_frame) == (pixels, sign < 0, per == 60)


def test_a_log_that_is_like_nothing_keeps_its_guess():
    text = "frame,x,y\n0,0,0\n1,7000,1\n"
    layout = guess(text, Conventions())
    assert with_likely_units(text, layout, np.array([0.0, 1.0]), np.array([0.0, 0.0])) == layout
    assert with_likely_units("frame,x\n0,a\n1,b\n", layout, np.zeros(2), np.zeros(2)) == layout


def test_a_missing_axis_stays_at_0_and_is_said():
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
def test_faults_name_the_row(text, reason):
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
