"""The figures of documents, read from Matplotlib's own objects before they become SVG."""

import pytest
from matplotlib.colors import to_rgba
from matplotlib.lines import Line2D

from cinetica.files import figures
from cinetica.files.figures import curves_svg, panels_svg, stage_height, stage_svg
from cinetica.model.conventions import Conventions, Times
from cinetica.model.course import Zone
from cinetica.palette import DAY
from cinetica.reading.display_units import DisplayUnits
from tests.builders import make_drill, make_tune, rows_of, run

HOP = make_drill(right=[(0, 60)], jump=[(10, 40)], length=100)
RECTANGLE = 5


@pytest.fixture(autouse=True)
def kept(monkeypatch):
    """Functions that would return SVG return the figure."""
    monkeypatch.setattr(figures, "_svg", lambda figure, title: figure)


def stage(drill=HOP, *tunes, units=figures.OURS):
    return stage_svg(drill, [run(tune, drill) for tune in tunes or (make_tune(),)], units=units).axes[0]


def curves(drill=HOP, *tunes, columns=(), **how):
    """The axes of the lanes, of the states, and of each strip."""
    return curves_svg(drill, [run(tune, drill) for tune in tunes or (make_tune(),)], columns, **how).axes


def named(axes):
    return [label.get_text() for label in axes.get_yticklabels()]


def bars(axes):
    """Start, end, lower and upper edge of each bar."""
    boxes = [path.get_extents() for each in axes.collections for path in each.get_paths()]
    return [(box.x0, box.x1, box.y0, box.y1) for box in boxes]


# Lanes and states


def test_used_keys_and_stick_axes_have_lanes_from_the_top_down():
    lanes, *_ = curves(make_drill(jump=[(6, 30)], right=[(0, 12)], stick=[(5, 0.5, -1.0)], length=60))
    assert named(lanes) == ["right", "jump", "stick x", "stick y"]
    assert lanes.get_ylim() == (3.5, -0.5)
    assert bars(lanes) == [pytest.approx((0.0, 0.2, -0.3, 0.3)), pytest.approx((0.1, 0.5, 0.7, 1.3))]
    assert not any(spine.get_visible() for spine in lanes.spines.values())


def test_lanes_states_and_strips_stand_below_each_other_in_points():
    """Of two lanes, one tune and two strips of 50 points; 4 are between lanes and states, and a title above a strip."""
    lanes, states, first, second = curves(columns=("vx", "y"), strip=50.0)
    figure = lanes.figure
    above = figures.TOP + 3 * figures.LANE + 4
    high = above + 2 * (figures.TITLE + 50) + figures.BOTTOM
    assert figure.get_size_inches() * 72 == pytest.approx([figures.WIDTH, high])
    tops = [high * (1 - axes.get_position().y1) for axes in (lanes, states, first, second)]
    assert tops == pytest.approx([
        figures.TOP, figures.TOP + 2 * figures.LANE + 4, above + figures.TITLE, above + 2 * figures.TITLE + 50,
    ])  # fmt: skip
    heights = [high * axes.get_position().height for axes in (lanes, states, first, second)]
    assert heights == pytest.approx([2 * figures.LANE, figures.LANE, 50, 50])
    assert not any(line.get_visible() for line in lanes.get_xgridlines())
    game = DisplayUnits(Conventions(times=Times.FRAME, rate=60))
    *_, last = curves(columns=("vx",), units=game)
    ticks = zip(last.get_xticks(), last.get_xticklabels(), strict=True)
    assert {label.get_text(): round(at * 60) for at, label in ticks} == {f"{n}": n for n in range(0, 101, 20)}


def test_a_press_ends_with_the_take():
    lanes, *_ = curves(make_drill(jump=[(30, 90)], length=60))
    assert bars(lanes) == [pytest.approx((0.5, 1.0, -0.3, 0.3))]


def test_a_stick_is_a_step_curve_about_its_lane_and_up_is_up():
    lanes, *_ = curves(make_drill(stick=[(30, -1.0, 0.5), (15, 1.0, 0.0)], length=60))
    across, up = ([line.get_xdata(), line.get_ydata()] for line in lanes.lines)
    assert across[0] == pytest.approx([0.0, 0.25, 0.5, 1.0])
    assert across[1] == pytest.approx([0.0, -0.4, 0.4, 0.4])
    assert up[1] == pytest.approx([1.0, 1.0, 0.8, 0.8])


def test_unused_lanes_take_no_space():
    lanes, *_ = curves(make_drill(length=30))
    assert named(lanes) == []
    assert lanes.get_ylim() == (0.5, -0.5)
    assert lanes.get_position().height * lanes.figure.get_figheight() * 72 == pytest.approx(figures.LANE)


def test_states_are_bars_in_the_colour_of_their_tune_labelled_if_wide_enough():
    drill, low = make_drill(jump=[(12, 40)], length=120), make_tune(jump__jump_speed=2.0, gravity__gravity=40.0)
    trace = run(drill=drill)
    launch, land = (float(trace["time"][rows_of(trace, mark)[0]]) for mark in ("launch", "land"))
    _, states, *_ = curves(drill, make_tune(), low)
    first = [bar for bar in bars(states) if bar[2:] == pytest.approx((-0.42, 0.42))]
    assert first[0][0] == 0.0
    assert first[-1][1] == pytest.approx(2.0)
    assert [bar[0] for bar in first[1:]] == pytest.approx([bar[1] for bar in first[:-1]]), "without gaps"
    # A state is that in which a tick ends, so a span begins one tick before its first row.
    assert first[1][0] == pytest.approx(launch, abs=1 / 60 + 1e-9)
    assert first[-1][0] == pytest.approx(land, abs=1 / 60 + 1e-9)
    # No span of the lower tune's hop of 0.1 s lasts 6% of 2 s.
    words = [(text.get_text(), text.get_position()) for text in states.texts]
    assert [(word, at[1]) for word, at in words] == [
        ("ground", 0), ("rise", 0), ("fall", 0), ("ground", 0), ("ground", 1), ("ground", 1),
    ]  # fmt: skip
    assert [at[0] for _, at in words[:4]] == pytest.approx([bar[0] + 0.004 * 2.0 for bar in first])
    assert [text.get_clip_on() for text in states.texts] == [True] * 6
    assert named(states) == ["A", "B"]
    assert [label.get_color() for label in states.get_yticklabels()] == list(DAY.inks[:2])


# Strips


def test_a_strip_has_its_title_a_line_at_0_and_numbers_only_below_the_last():
    _, _, speed, height = curves(columns=["vx", "y"])
    assert [axes.get_title(loc="left") for axes in (speed, height)] == ["Velocity x, u/s", "Height, u"]
    assert speed.lines[0].get_ydata() == [0.0, 0.0]
    assert (speed.get_xlabel(), height.get_xlabel()) == ("", "time, s")
    assert height.get_xlim() == pytest.approx((0.0, 100 / 60))
    shown = [axes.xaxis.get_tick_params()["labelbottom"] for axes in (speed, height)]
    assert shown == [False, True]


def test_letters_stand_at_the_ends_of_curves_without_overlap():
    faster = make_tune(drive__top_speed=20.0)
    drill = make_drill(right=[(0, 60)], length=60)
    *_, strip = curves(drill, make_tune(), make_tune(), faster, columns=["x"], strip=100.0)
    ends = {text.get_text(): text.xy[1] for text in strip.texts}
    low, high = strip.get_ylim()
    last = float(run(drill=drill)["x"][-1])
    assert sorted(ends) == ["A", "B", "C"]
    assert ends["A"] == pytest.approx(last)
    assert ends["B"] == pytest.approx(last + (high - low) * 1.1 * 10.0 / 100.0)
    assert ends["C"] == pytest.approx(float(run(faster, drill)["x"][-1]))
    assert [text.get_color() for text in strip.texts] == [
        DAY.inks["ABC".index(text.get_text())] for text in strip.texts
    ]


def test_the_first_tune_is_drawn_on_top():
    *_, strip = curves(HOP, make_tune(), make_tune(drive__top_speed=20.0), columns=["vx"])
    assert [line.get_color() for line in strip.lines[1:]] == [DAY.inks[1], DAY.inks[0]]


def test_axes_are_numbered_in_the_units_of_the_game():
    """At 32 px per unit a strip up to 4 u has round numbers of pixels, at whole units."""
    units = DisplayUnits(Conventions(pixels_per_unit=32, y_down=True))
    *_, strip = curves(columns=["y"], units=units)
    assert strip.get_title(loc="left") == "Height, px"
    assert not any(spine.get_visible() for spine in strip.spines.values())
    for axes in (strip, stage(units=units)):
        texts = named(axes)
        numbers = [float(text.replace("−", "-")) for text in texts]
        assert len(numbers) > 2
        assert "−0" not in texts
        assert [number % 10 for number in numbers] == [0.0] * len(numbers)
        assert [-32.0 * at for at in axes.get_yticks()] == pytest.approx(numbers)


# The stage


def test_the_stage_shows_all_positions_with_a_margin():
    drill = make_drill(right=[(0, 60)], length=60)
    tune = make_tune(body__width=0.6, body__height=1.6)
    reached = float(run(tune, drill)["x"][-1])
    axes = stage(drill, tune)
    (left, right), (bottom, top) = axes.get_xlim(), axes.get_ylim()
    assert (left + right) / 2 == pytest.approx(reached / 2)
    assert bottom == pytest.approx(-0.6)
    # At least 90 pt, with the same scale on both axes.
    unit = (720 - 56 - 24) / (reached + 0.6 + 2 * 0.5)
    assert right - left == pytest.approx((720 - 56 - 24) / unit)
    assert top == pytest.approx(-0.6 + max(90.0, unit * (1.6 + 2 * 0.6)) / unit)
    assert axes.get_xlabel() == "x and y in u"


@pytest.mark.parametrize(("length", "highest", "height"), [(2, 220.0, 220.0), (900, 220.0, 90.0)])
def test_a_stage_is_neither_too_high_nor_too_low(length, highest, height):
    drill = make_drill(right=[(0, length)], length=length)
    assert stage_height([run(drill=drill)], highest) == height


def test_each_part_of_a_course_has_its_style():
    drill = make_drill(
        oneway=[(2, 1, 4, 1.25)], climb=[(5, 0, 6, 3)], slopes=[(8, 0, 12, 1), (14, 0, 15, 6)], length=30
    )  # fmt: skip
    zone = Zone(box=(-4, 0, -2, 3), acceleration=0.5)
    drill = drill.model_copy(update={"course": drill.course.model_copy(update={"zones": (zone,)})})
    axes = stage(drill)
    looks = {
        (patch.get_x(), patch.get_y(), patch.get_width(), patch.get_height()): patch
        for patch in axes.patches
        if len(patch.get_path().vertices) == RECTANGLE
    }
    assert set(looks) == {(-4, 0, 2, 3), (5, 0, 1, 3), (-1000, -1, 2000, 1), (2, 1, 2, 0.25)}
    assert looks[5, 0, 1, 3].get_facecolor()[3] == 0.0
    assert looks[5, 0, 1, 3].get_linestyle() == (0, (2, 3)) or looks[5, 0, 1, 3].get_linestyle() == "--"
    assert looks[-1000, -1, 2000, 1].get_facecolor() == to_rgba(DAY.earth)
    assert looks[-4, 0, 2, 3].get_alpha() == pytest.approx(0.12)
    lines = {tuple(map(float, line.get_xdata())): line for line in axes.lines if len(line.get_xdata()) == 2}
    assert list(lines[2.0, 4.0].get_ydata()) == [1.25, 1.25]
    assert list(lines[8.0, 12.0].get_ydata()) == [0.0, 1.0]
    # A slope of 14 degrees can be walked on, one of 80 cannot.
    assert (lines[8.0, 12.0].get_linestyle(), lines[14.0, 15.0].get_linestyle()) == ("-", "--")
    (name,) = (text for text in axes.texts if text.get_text().strip() not in "A")
    assert name.get_text() == " acceleration × 0.5"
    assert name.get_position() == (-4, 3)
    assert name.get_clip_on()


def test_a_slope_is_drawn_steep_only_if_it_is_for_every_tune():
    drill = make_drill(slopes=[(8, 0, 9, 2)], length=30)
    climber = make_tune(slope__max_slope=75.0)
    for tunes, look in (((make_tune(), climber), "-"), ((make_tune(), make_tune()), "--")):
        (slope,) = (line for line in stage(drill, *tunes).lines if list(line.get_xdata()) == [8, 9])
        assert slope.get_linestyle() == look


@pytest.mark.parametrize(("rows", "every"), [(599, 6), (600, 12), (1201, 18)])
def test_the_body_is_drawn_every_few_frames_and_less_often_in_a_long_take(rows, every):
    tune = make_tune(body__width=0.6, body__height=1.6)
    axes = stage(make_drill(right=[(0, 30)], length=rows - 1), tune)
    prints = [path.get_extents() for path in axes.collections[0].get_paths()]
    assert len(prints) == -(-rows // every)
    assert (prints[0].x0, prints[0].x1, prints[0].y0, prints[0].y1) == pytest.approx((-0.3, 0.3, 0.0, 1.6))


def test_a_path_follows_the_centre_of_the_body_and_ends_with_its_letter():
    # It moves right and up until the end.
    drill = make_drill(right=[(0, 60)], jump=[(50, 60)], length=60)
    trace = run(make_tune(body__height=1.6), drill)
    axes = stage(drill, make_tune(body__height=1.6))
    (path,) = (line for line in axes.lines if len(line.get_xdata()) == len(trace))
    assert list(path.get_ydata()) == pytest.approx((trace["y"] + 0.8).tolist())
    (letter,) = axes.texts
    assert (letter.get_text(), letter.xy) == ("A", pytest.approx((float(trace["x"][-1]), float(trace["y"][-1]) + 0.8)))
    assert letter.get_color() == DAY.inks[0]


def test_in_top_view_the_path_follows_the_position():
    drill = make_drill(view="top", right=[(0, 30)], up=[(0, 30)], length=60)
    tune = make_tune("top")
    trace = run(tune, drill)
    (path,) = (line for line in stage(drill, tune).lines if len(line.get_xdata()) == len(trace))
    assert list(path.get_ydata()) == pytest.approx(trace["y"].tolist())


def test_marks_are_at_the_feet_in_their_shapes():
    trace = run(drill=HOP)
    shapes = {line.get_marker(): line for line in stage().lines if line.get_linestyle() == "None"}
    assert set(shapes) == {"o", "^", "|", "s"}
    for shape, mark in zip("o^|s", ("press", "launch", "apex", "land"), strict=True):
        rows = rows_of(trace, mark)
        assert list(shapes[shape].get_xdata()) == pytest.approx([float(trace["x"][row]) for row in rows])
        assert list(shapes[shape].get_ydata()) == pytest.approx([float(trace["y"][row]) for row in rows])


def test_of_each_mark_the_first_40_are_drawn():
    drill = make_drill(jump=[(each, each + 1) for each in range(0, 100, 2)], length=100)
    (presses,) = (line for line in stage(drill).lines if line.get_marker() == "o")
    assert len(presses.get_xdata()) == 40


# Legend and panels


def test_the_legend_has_each_letter_line_and_name_in_four_columns_at_most():
    tunes = [make_tune().model_copy(update={"name": f"Tune {number}"}) for number in range(6)]
    legend = stage(HOP, *tunes).figure.legends[0]
    assert [text.get_text() for text in legend.texts] == [f"{'ABCDEF'[each]}  Tune {each}" for each in range(6)]
    assert [line.get_color() for line in legend.get_lines()] == list(DAY.inks[:6])
    assert legend._ncols == 4
    assert stage().figure.legends[0]._ncols == 1


def test_panels_are_sized_by_their_number_and_have_no_numbers():
    figure = panels_svg("What it changes", {"one": ([0, 1], [0, 2]), "two": ([0, 1], [0, 1])})
    assert tuple(figure.get_size_inches() * 72) == pytest.approx((2 * 164.0, 104.0))
    assert [axes.get_title(loc="left") for axes in figure.axes] == ["one", "two"]
    assert [list(axes.lines[0].get_ydata()) for axes in figure.axes] == [[0, 2], [0, 1]]
    assert [list(axes.get_xticks()) + list(axes.get_yticks()) for axes in figure.axes] == [[], []]
    assert figure.axes[0].get_ylim() == figure.axes[1].get_ylim()
    assert isinstance(figure.axes[0].lines[0], Line2D)
