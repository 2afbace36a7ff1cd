"""The compiled rasteriser against coverage worked out by hand, and against a painter."""

import gc

import numpy as np
import pytest
from cinetica.desk.paint.board import Board
from cinetica.machine.points import Points
from hypothesis import example, given
from hypothesis import strategies as st
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from cinetica.desk import look
from cinetica.desk.paint.bodies import MOST_PRINTS, Printed
from cinetica.desk.paint.canvas import PIXELS, Mark, Pen, Sketch, Strokes, caption_width, draw_caption
from cinetica.desk.paint.signs import MARKS
from cinetica.desk.state.shown import Shown
from cinetica.motion.records import PRESS
from tests.builders import make_drill, make_tune, run

INK, PAPER = QColor(0, 0, 0), QColor(255, 255, 255)


def board(wide=60, high=40, ratio=1.0):
    made = Board(wide, high, ratio, 0, 0)
    made.fill(PAPER)
    return made


def inked(made) -> np.ndarray:
    """Of each pixel, how much is inked: 0 paper, 1 ink."""
    image = made if isinstance(made, QImage) else made.image
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return 1 - pixels[:, : image.width(), 0] / 255


def test_a_level_line_covers_its_width_and_leaves_the_rest(qapp):
    on = board()
    on.line(Points([10, 50], [20, 20]), PIXELS, INK, 2.0)
    ink = inked(on)
    assert ink[18:22, 30] == pytest.approx([0, 1, 1, 0])
    # Its ends are flat: half of a pixel's middle is beyond none of them.
    assert ink[19, 9:11] == pytest.approx([0, 1], abs=0.51)
    assert ink[:, :9].max() == ink[:, 52:].max() == 0


def test_a_line_between_pixels_is_shared_by_its_neighbours(qapp):
    on = board()
    on.line(Points([0, 60], [20.25, 20.25]), PIXELS, INK, 1.0)
    assert inked(on)[19:22, 30] == pytest.approx([0.25, 0.75, 0], abs=0.005)


@given(st.floats(0, 2 * np.pi), st.floats(1, 6))
@example(np.pi / 4, 1.0)
def test_a_line_is_as_wide_in_every_direction(angle, width):
    """What is inked of a long line is its length by its width, but for its ends and for the grid across it: at 45°
    pixels lie 0.7 apart, and the ramps at its two edges are met by 0.15 of a pixel more or less than they have."""
    on, reach = board(90, 90), 30
    dx, dy = np.cos(angle) * reach, np.sin(angle) * reach
    on.line(Points([45 - dx, 45 + dx], [45 - dy, 45 + dy]), PIXELS, INK, width)
    ends, across = width * width, 0.15 * 2 * reach
    assert inked(on).sum() == pytest.approx(2 * reach * width, abs=ends + across)


def test_a_curve_that_meets_itself_is_no_darker_there(qapp):
    on = board()
    half = QColor(128, 128, 128)
    on.line(Points([0, 60, 0], [20, 20, 20]), PIXELS, half, 2.0)
    assert set(np.unique(np.frombuffer(on.image.constBits(), np.uint8).reshape(40, 60, 4)[19, 5:55, 0])) == {128}


@pytest.mark.parametrize("hole", [np.nan, np.inf])
def test_a_line_is_broken_where_a_point_is_not_finite(qapp, hole):
    on = board()
    on.line(Points([0, 20, 30, 40, 60], [20, 20, hole, 20, 20]), PIXELS, INK, 2.0)
    assert inked(on)[19, 25:38].max() == 0
    assert inked(on)[19, [10, 50]] == pytest.approx([1, 1])


def test_dashes_stand_where_the_time_is_whatever_the_curve_does(qapp):
    """Moved up and down, and steeper before: over time the pattern stays at its columns."""
    flat, moved = board(), board()
    flat.line(Points(np.arange(0.0, 64, 4), np.full(16, 10.0)), PIXELS, INK, 2.0, (6, 4), anchored=True)
    heights = np.where(np.arange(16) < 8, 30.0 - 2 * np.arange(16), 14.0)
    moved.line(Points(np.arange(0.0, 64, 4), heights), PIXELS, INK, 2.0, (6, 4), anchored=True)
    assert (inked(flat)[9, 36:] > 0.5).tolist() == (inked(moved)[13, 36:] > 0.5).tolist()
    # On for 6, off for 4, from the beginning of time.
    assert (inked(flat)[9, :10] > 0.5).tolist() == [True] * 6 + [False] * 4


RUNS = st.lists(st.tuples(st.integers(1, 14), st.floats(-2, 2)), min_size=1, max_size=6)


@given(RUNS, st.floats(0.4, 3), st.sampled_from([(), (6.0, 4.0)]))
def test_points_on_a_straight_way_change_nothing_of_it(runs, step, dashes):
    """As many points as a run has ticks, or its corners alone."""
    whole, corners = board(), board()
    rises = [slope for count, slope in runs for _ in range(count)]
    x, y = np.arange(len(rises) + 1) * step, 20 + np.concatenate([[0], np.cumsum(rises)]) * step
    at = np.cumsum([0, *(count for count, _ in runs)])
    whole.line(Points(x, y), PIXELS, INK, 2.0, dashes, anchored=True)
    corners.line(Points(x[at], y[at]), PIXELS, INK, 2.0, dashes, anchored=True)
    assert inked(whole) == pytest.approx(inked(corners), abs=2.5 / 255)


@given(st.floats(0.2, 2), st.floats(-0.002, 0.002))
def test_a_curve_that_bends_by_less_than_a_shade_from_point_to_point_is_followed_all_the_way(step, bend):
    """In each column what is inked is inked around the curve."""
    on = board()
    x = np.arange(0, 60 + 2 * step, step)
    on.line(Points(x, 20 + bend * x * x), PIXELS, INK, 2.0)
    ink, columns = inked(on)[:, 2:-2], np.arange(2, 58) + 0.5
    middles = (ink * (np.arange(40) + 0.5)[:, None]).sum(axis=0) / ink.sum(axis=0)
    assert middles == pytest.approx(20 + bend * columns * columns, abs=0.035)


@pytest.mark.parametrize("slope", [0.0, 0.3, -0.65])
def test_dashes_over_time_are_as_long_across_on_a_slope(qapp, slope):
    on = board()
    x = np.arange(0.0, 64, 4)
    on.line(Points(x, 20 + slope * (x - 30)), PIXELS, INK, 2.0, (6, 4), anchored=True)
    assert (inked(on)[:, :60].max(axis=0) > 0.5).tolist() == ([True] * 6 + [False] * 4) * 6


@given(st.lists(st.tuples(st.floats(-1e12, 1e12), st.floats(-1e12, 1e12)), min_size=2, max_size=12), st.floats(0.1, 12))
def test_nothing_is_drawn_beyond_the_image_however_far_the_points_are(points, width):
    """The bytes behind the pixels stay as they were, and the room for covers is left empty."""
    x, y = map(list, zip(*points, strict=True))
    on = board(16, 12)
    on.line(Points(x, y), PIXELS, INK, width, (3, 2))
    assert not on.cover.any()
    assert (on.pixels >> 24 == 255).all()


@given(
    st.lists(st.floats(-60, 120) | st.floats(), min_size=8, max_size=8), st.booleans(),
    st.sampled_from([0, 5, -5]), st.floats(0.1, 8),
)  # fmt: skip
def test_nothing_is_drawn_beyond_the_part_that_is_given(qapp, places, rimmed, hatch, width):
    """Boxes, lines, marks and words, wherever they are: the image around the part stays as it was."""
    on, part = board(60, 40), QRectF(20, 10, 17, 13)
    outside = np.ones((40, 60), bool)
    outside[10:23, 20:37] = False
    with on.within(part):
        on.boxes(places, PIXELS, INK if rimmed else None, QColor(0, 0, 0, 90), hatch)
        on.line(Sketch(places[:4], places[4:]), PIXELS, INK, width, (3.0, 2.0))
        on.marks(look.shape(1, 9), Sketch(places[:4], places[4:]), PIXELS, INK, 1.0, INK)
        x, y = (min(max(-1e6, place), 1e6) if place == place else 0.0 for place in places[:2])
        on.word("W", x, y, 9, INK)
        on.figure("12", x, y, 9, INK)
    assert inked(on)[outside].max() == 0


def test_a_hatched_box_has_lines_and_no_more(qapp):
    """Of 6 pixels in a row one is inked, and one further to the left in the row below; the other hatching leans over
    to the other side."""
    for hatch, step in ((6, -1), (-6, 1)):
        on = board()
        on.boxes((10, 30, 46, 12), PIXELS, None, INK, hatch)
        ink = inked(on)
        assert ink[12:30, 10:46].sum() == pytest.approx(18 * 36 / 6)
        assert np.array_equal(ink[20, 16:40], ink[21, 16 + step : 40 + step])


def test_boxes_lie_on_whole_pixels_with_their_rim_inside(qapp):
    on = board()
    on.boxes(np.array([[9.6, 30.4, 20.4, 10.3]]), PIXELS, INK, QColor(0, 0, 0, 51))
    ink = inked(on)
    assert ink[10:30, 10:20][1:-1, 1:-1] == pytest.approx(np.full((18, 8), 0.2), abs=0.005)
    assert ink[[10, 29], 10:20].min() == ink[10:30, [10, 19]].min() == 1
    assert ink.sum() == pytest.approx(2 * 10 + 2 * 18 + 0.2 * 8 * 18, abs=0.5)


def test_prints_are_boxes_around_every_so_many_places(qapp):
    way = Points([10.0, 99.0, 30.0, 99.0, 55.0, 99.0], [40.0, 9.0, 30.0, 9.0, 25.0, 9.0])
    ours, theirs = board(), board()
    ours.prints(way, 2, 3, (-4.0, 6.0, 5.0, -7.0), PIXELS, INK, QColor(0, 0, 0, 51))
    around = [(x - 4.0, y + 6.0, x + 5.0, y - 7.0) for x, y in ((10.0, 40.0), (30.0, 30.0), (55.0, 25.0))]
    theirs.boxes(np.array(around), PIXELS, INK, QColor(0, 0, 0, 51))
    assert np.array_equal(inked(ours), inked(theirs))
    assert inked(ours).sum() > 0


def test_a_caption_is_as_wide_as_its_parts(qapp):
    on = board(240, 60)
    draw_caption(on, "x 12.50 of 7", 20, 30, 9, INK)
    columns = np.nonzero(inked(on).max(axis=0) > 0.3)[0]
    assert 20 <= columns.min() <= columns.max() <= 20 + caption_width("x 12.50 of 7", 9)
    assert columns.max() > 20 + 0.8 * caption_width("x 12.50 of 7", 9)


DRAWN = {
    "a line": lambda on: on.line(
        Points(np.linspace(5, 115, 40), 40 + 30 * np.sin(np.linspace(0, 6, 40))), PIXELS, INK, 2.0
    ),
    "a box": lambda on: on.boxes(
        np.array([[20.0, 70.0, 40.0, 50.0]]), PIXELS, QColor(200, 0, 0), QColor(0, 0, 200, 60)
    ),
    "prints": lambda on: on.prints(
        Points([30.0, 0.0, 60.0, 0.0, 90.0], [60.0, 0.0, 50.0, 0.0, 40.0]),
        2,
        3,
        (-8.0, 9.0, 8.0, -9.0),
        PIXELS,
        QColor(200, 0, 0),
        QColor(0, 0, 200, 60),
    ),
    "a caption": lambda on: draw_caption(on, "frames 3 – 12", 20, 40, 9, INK),
    "a mark": lambda on: on.marks(look.shape(2, 9), Points([60.0], [60.0]), PIXELS, QColor(0, 120, 0), 1.5, PAPER),
    "a hatched box": lambda on: on.boxes((20.0, 70.0, 90.0, 20.0), PIXELS, None, INK, 6),
    "a text": lambda on: on.text("rise", 40, 30, 9, INK),
    "a word": lambda on: on.word("A", 90, 20, 9, INK),
    "a figure": lambda on: on.figure("−12.50", 80, 70, 9, INK),
    "figures": lambda on: on.figures(
        [
            (
                "0.25",
                60,
                20,
            ),
            ("−3", 100, 50),
        ],
        9,
        INK,
    ),
    "the same text": lambda on: on.texts("fall", Sketch((10, 60), (20, 50)), 9, INK),
    "tints": lambda on: on.tints((20, 70, 40, 50, 0x2060A0, 200, 60, 40, 90, 20, 0xA02020, 90), PIXELS),
    "a stroke": lambda on: on.stroke(
        Points(np.linspace(5, 115, 40), 40 + 30 * np.sin(np.linspace(0, 6, 40))), PIXELS, Pen(INK, 2.0)
    ),
    "a stamp": lambda on: on.stamp(Sketch((30, 80), (20, 50)), PIXELS, Mark(look.shape(1, 9), INK, 1.5, PAPER)),
    # Dashes begin anew behind a break.
    "broken dashes": lambda on: on.line(
        Sketch((10, 37, np.nan, 60, 103), (20, 20, np.nan, 20, 20)), PIXELS, INK, 2.0, (6.0, 6.0)
    ),
}


@pytest.mark.parametrize("ratio", [1.0, 2.0])
@pytest.mark.parametrize("what", DRAWN)
def test_a_canvas_of_memory_and_a_painter_draw_the_same(qapp, ratio, what):
    """As much ink, in the same place within two pixels (text of memory stands on whole ones)."""
    on = board(round(120 * ratio), round(80 * ratio), ratio)
    image = QImage(on.image.size(), QImage.Format.Format_RGB32)
    image.fill(PAPER)
    painter = QPainter(image)
    painter.scale(ratio, ratio)
    for canvas in (on, Strokes(painter, QRectF(0, 0, 120, 80))):
        DRAWN[what](canvas)
    painter.end()
    ours, theirs = inked(on), inked(image)
    text = what in ("a word", "a figure", "figures", "a text", "the same text", "a caption")
    assert ours.sum() == pytest.approx(theirs.sum(), rel=0.2 if text else 0.03 if "hatched" in what else 0.01)
    for mine, other in zip(bounds(ours), bounds(theirs), strict=True):
        assert abs(mine - other) <= 2


@pytest.mark.parametrize("size", [7, 8, 9, 10, 11, 13])
@pytest.mark.parametrize("scale", [1.0, 1.3, 1.6])
@pytest.mark.parametrize("ratio", [1.0, 2.0])
def test_figures_stand_on_the_line_of_words(qapp, size, scale, ratio):
    """A 1 of either is the same pixels up and down."""
    look.set_text_scale(scale)
    try:
        for middle in (20, 20.5):
            word, figure = (board(round(60 * ratio), round(40 * ratio), ratio) for _ in range(2))
            word.text("1", 20, middle, size, INK)
            figure.figure("1", 40, middle, size, INK)
            assert bounds(inked(word))[:2] == bounds(inked(figure))[:2]
    finally:
        look.set_text_scale(1.0)


def bounds(ink) -> tuple[int, int, int, int]:
    rows, columns = np.nonzero(ink > 0.3)
    return rows.min(), rows.max(), columns.min(), columns.max()


def test_a_mark_lies_around_its_place_and_one_far_away_nowhere(qapp):
    on = board()
    on.marks(look.shape(1, 9), Sketch([30.0, 1e300], [20.0, 20.0]), PIXELS, INK, 1, INK)
    rows, columns = np.nonzero(inked(on) > 0.5)
    assert (rows.mean(), columns.mean()) == pytest.approx((19.5, 29.5), abs=0.6)


def test_what_is_noted_down_is_drawn_in_its_order_when_the_image_is_looked_at(qapp):
    """Points that are gone by then are drawn all the same; what is filled, or copied, forgets what was noted before."""
    on, other = board(), board()
    on.line(Points([0, 60], [20, 20]), PIXELS, INK, 4.0)
    on.boxes((20, 30, 40, 10), PIXELS, None, PAPER)
    gc.collect()
    assert inked(on)[20, [10, 30, 50]].tolist() == [1, 0, 1]
    on.line(Points([0, 60], [5, 5]), PIXELS, INK, 4.0)
    on.copy_of(other)
    assert inked(on).max() == 0
    other.line(Points([0, 60], [5, 5]), PIXELS, INK, 4.0)
    on.copy_of(other)
    assert inked(on)[5, 30] == 1
    on.fill(PAPER)
    assert inked(on).max() == 0


def across(on, row, wide=60):
    on.line(Points([0, wide], [row, row]), PIXELS, INK, 2.0)


def test_what_is_begun_is_drawn_beside_and_in_its_order(qapp):
    """One board begins with the picture of another; that goes on to change, and both are begun again and again."""
    under, over = board(), board()
    for row in range(4, 36, 4):
        across(under, row)
        over.copy_of(under)
        over.boxes((20, 40, 40, 0), PIXELS, None, PAPER)
        over.begin()
        across(under, row + 2)
        under.begin()
        expected = np.zeros(60)
        expected[:20] = expected[40:] = 1
        assert inked(over)[row - 1, 1:-1] == pytest.approx(expected[1:-1])
        assert inked(over)[row + 1].max() == 0
        assert inked(under)[row + 1, 1:-1].min() == 1


def test_a_board_that_is_let_go_of_while_it_is_drawn_leaves_nothing_behind(qapp):
    for _ in range(200):
        on = board(900, 300)
        for row in range(10, 290, 10):
            across(on, row, 900)
        on.begin()
        del on
    last = board()
    across(last, 20)
    last.begin()
    assert inked(last)[20, 30] == 1


def test_what_is_filled_while_it_is_drawn_is_filled_after_it(qapp):
    on = board(900, 300)
    for row in range(10, 290, 2):
        across(on, row, 900)
    on.begin()
    on.fill(PAPER)
    assert inked(on).max() == 0
    across(on, 20)
    on.lay(PAPER)
    assert inked(on).max() == 0


def test_the_same_text_at_several_places_is_that_text_at_each(qapp):
    one, each = board(200), board(200)
    one.texts("rise", Sketch((3.0, 60.4, 120.5), (20, 20, 20)), 9, INK)
    for left in (3.0, 60.4, 120.5):
        each.text("rise", left, 20, 9, INK)
    assert inked(one).max() > 0.5
    assert (inked(one) == inked(each)).all()


@pytest.mark.parametrize("ratio", [1.0, 2.0])
def test_a_text_begins_where_it_is_told_to(qapp, ratio):
    on = board(round(120 * ratio), round(40 * ratio), ratio)
    on.text("fall", 30, 20, 9, INK)
    rows, columns = np.nonzero(inked(on) > 0.3)
    assert columns.min() == pytest.approx(30 * ratio, abs=3 * ratio)
    assert columns.max() <= (30 + look.width("fall", 9) + 1) * ratio
    assert (rows.min() + rows.max()) / 2 == pytest.approx(20 * ratio, abs=4 * ratio)


@pytest.mark.parametrize("draw", ["text", "figure"])
def test_lines_of_text_that_lie_between_pixels_are_equally_far_apart(qapp, draw):
    """A row of 23 pixels has its middle on half a pixel."""
    on = board(60, 240)
    for row in range(10):
        getattr(on, draw)("10", 40.0, 11.5 + 23 * row, 9, INK)
    rows = np.nonzero(inked(on).max(axis=1) > 0.3)[0]
    tops = [row for row in rows if row - 1 not in rows]
    assert len(tops) == 10
    assert set(np.diff(tops)) == {23}


def test_of_many_marks_no_more_are_printed_than_can_be_told_apart():
    """A take of a minute in which jump is pressed all the time: every kind of mark is there, and each thinned."""
    presses = [(start, start + 2) for start in range(0, 3600, 4)]
    trace = run(make_tune(), make_drill(length=3600, jump=presses))
    marks = Printed(Shown(0, trace.tune, trace), 6).marks
    for _symbol, places in marks:
        assert 0 < len(places.x) == len(places.y) <= MOST_PRINTS
    symbols = {symbol for mark, symbol, _ in MARKS if (trace["marks"] & mark).any()}
    assert len(marks) == len(symbols)
    presses_drawn = next(places for symbol, places in marks if symbol == "o")
    assert set(presses_drawn.x) <= set(trace["x"][trace.rows_with(PRESS)])
