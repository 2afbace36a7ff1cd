"""What a canvas paints, against coverage worked out by hand; dashes; cached layers."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QBuffer, QByteArray, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QPainter
from PySide6.QtSvg import QSvgGenerator

from cinetica.desk import look
from cinetica.desk.compare.tune_lanes import longest_in_each
from cinetica.desk.paint.bodies import MOST_PRINTS, Printed, move_apart
from cinetica.desk.paint.canvas import PIXELS, Canvas, Mark, Pen, Sketch, caption_width
from cinetica.desk.paint.layer_cache import Layer, LayerCache, without_paint_caches
from cinetica.desk.paint.lines import corners, cut_into_dashes
from cinetica.desk.paint.signs import MARKS
from cinetica.desk.state.tune_run import TuneRun
from cinetica.motion.polyline import Points
from cinetica.motion.records import PRESS
from tests.builders import make_drill, make_tune, run

INK, PAPER = QColor(0, 0, 0), QColor(255, 255, 255)
HALF = QColor(128, 128, 128)


def inked(draw, wide=60, high=40, ratio=1.0) -> np.ndarray:
    """How much `draw` inks each pixel of an image: 0 paper, 1 ink."""
    image = QImage(round(wide * ratio), round(high * ratio), QImage.Format.Format_RGB32)
    image.fill(PAPER)
    with QPainter(image) as painter:
        painter.scale(ratio, ratio)
        draw(Canvas(painter, QRectF(0, 0, wide, high)))
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return 1 - pixels[:, : image.width(), 0] / 255


def points(x, y) -> Points:
    return Points(np.array(x, dtype=float), np.array(y, dtype=float))


def curve(x, y, width=2.0, dashes=(), *, color=INK, anchored=False):
    return lambda on: on.curve(points(x, y), PIXELS, Pen(color, width, dashes, anchored))


def bounds(ink) -> tuple[int, int, int, int]:
    rows, columns = np.nonzero(ink > 0.3)
    return rows.min(), rows.max(), columns.min(), columns.max()


# Curves


def test_a_level_curve_covers_exactly_its_width(qapp):
    ink = inked(curve([10, 50], [20, 20]))
    assert ink[17:23, 30] == pytest.approx([0, 0, 1, 1, 0, 0])
    # Its caps reach half a width beyond its ends.
    assert ink[19, [8, 9, 50, 51]] == pytest.approx([0, 1, 1, 0])


def test_a_curve_between_pixels_is_shared_by_its_neighbours(qapp):
    ink = inked(curve([0, 60], [20.25, 20.25], 1.0))
    assert ink[18:22, 30] == pytest.approx([0, 0.25, 0.75, 0], abs=0.02)


@given(st.floats(0, 2 * math.pi), st.floats(1.5, 6))
def test_a_curve_is_as_wide_in_every_direction(qapp, angle, width):
    """The ink of a long line is length times width, plus a cap of half a width at both ends."""
    dx, dy = math.cos(angle) * 30, math.sin(angle) * 30
    ink = inked(curve([45 - dx, 45 + dx], [45 - dy, 45 + dy], width), 90, 90)
    assert ink.sum() == pytest.approx((60 + width) * width, rel=0.04)


def test_a_curve_of_many_points_is_as_dark_as_one_of_two_points(qapp):
    """Neither seams between its pieces nor darker spots at their joints."""
    x = np.linspace(5, 55, 37)
    for y in (np.full(37, 20.0), np.full(37, 20.3), 5 + 0.6 * x):
        assert inked(curve(x, y)) == pytest.approx(inked(curve(x[[0, -1]], y[[0, -1]])), abs=0.01)
    there_and_back = inked(curve([0, 60, 0], [20, 20, 20], color=HALF))
    assert there_and_back[19, 5:55] == pytest.approx(np.full(50, 127 / 255))


@pytest.mark.parametrize("hole", [math.nan, math.inf])
@pytest.mark.parametrize("way", ["curve", "stroke"])
def test_a_line_is_broken_where_a_point_is_not_finite(qapp, hole, way):
    there = points([0, 20, 30, 40, 60], [20, 20, hole, 20, 20])
    ink = inked(lambda on: getattr(on, way)(there, PIXELS, Pen(INK, 2.0)))
    assert ink[19, 25:36].max() == 0
    assert ink[19, [10, 50]] == pytest.approx([1, 1])


@given(st.lists(st.tuples(st.floats(), st.floats()), min_size=2, max_size=12), st.sampled_from([(), (3.0, 2.0)]))
def test_whatever_the_points_are_something_can_be_drawn(qapp, where, dashes):
    """Far away, not a number, all the same: the next curve is drawn all the same."""
    x, y = zip(*where, strict=True)
    order = np.sort(np.nan_to_num(np.array(x), posinf=0, neginf=0))

    def draw(on):
        on.curve(points(x, y), PIXELS, Pen(HALF, 2.0, dashes))
        on.curve(points(order, y), PIXELS, Pen(HALF, 2.0, dashes, True))
        on.stroke(points(x, y), PIXELS, Pen(HALF, 2.0, dashes))
        on.marks(points(x, y), PIXELS, Mark(look.shape(0, 5), HALF, 1.0, HALF))
        on.boxes(np.column_stack([x, y, x, y]), PIXELS, HALF, HALF)
        on.curve(points([10, 50], [20, 20]), PIXELS, Pen(INK, 2.0))

    assert inked(draw)[19, 12:48].min() == 1


# Corners and dashes


def line(x, y) -> np.ndarray:
    return np.array(x, dtype=float) + 1j * np.array(y, dtype=float)


@given(st.lists(st.tuples(st.integers(1, 20), st.floats(-3, 3)), min_size=1, max_size=8), st.floats(0.1, 5))
def test_a_polyline_is_reduced_to_its_corners(stretches, step):
    rises = [slope for count, slope in stretches for _ in range(count)]
    x, y = np.arange(len(rises) + 1) * step, np.concatenate([[0], np.cumsum(rises)]) * step
    few = corners(line(x, y))
    assert len(few) <= len(stretches) + 1
    assert (few[0], few[-1]) == (x[0] + 1j * y[0], x[-1] + 1j * y[-1])
    assert np.interp(x, few.real, few.imag) == pytest.approx(y, abs=1e-4)


STEP = st.sampled_from([0, 1, 1j, -1, -1j, 1 + 1j, 2 - 1j])


@given(st.lists(st.tuples(STEP, st.integers(1, 3), st.sampled_from([1e-3, 0.3, 40.0])), min_size=1, max_size=12))
def test_a_line_that_pauses_before_a_turn_keeps_its_corner(stretches):
    steps = [step * size for step, count, size in stretches for _ in range(count)]
    path = np.concatenate([[0], np.cumsum(steps)])
    moving = [step for step in steps if step]
    expected = 1 + sum(abs(a / abs(a) - b / abs(b)) > 1e-3 for a, b in pairwise(moving)) if moving else 0
    few = corners(path)
    # A line without length is reduced to a point, or to both ends.
    assert len(few) == expected + 1 if moving else len(few) <= 2
    assert (few[0], few[-1]) == (path[0], path[-1])


def test_a_path_that_pauses_before_a_wall_keeps_its_corner():
    assert corners(line([0, 5, 10, 10, 10, 10, 10], [0, 0, 0, 0, 0, 4, 9])).tolist() == [0, 10, 10 + 9j]


def test_a_line_that_turns_back_keeps_its_corner():
    assert corners(line([0, 1, 2, 1, 0], np.zeros(5))).tolist() == [0, 2, 0]
    assert len(corners(np.exp(1j * np.linspace(0, 2 * np.pi, 60)))) == 60
    assert len(corners(line([1, 2], [3, 4]))) == 2


def on_at(pieces, x) -> np.ndarray:
    """Whether there is a dash at each x."""
    return np.array([any(first.real <= at <= last.real for first, last in pieces) for at in x])


def test_dashes_over_time_depend_on_time_alone():
    """On for 6, off for 4, from the origin; shifted up and down, and on a slope."""
    x = np.arange(0.0, 64, 4)
    expected = (np.arange(0.5, 60) % 10) < 6
    for y in (np.full(16, 10.0), np.full(16, 23.0), 0.3 * x, 30 - 0.6 * x):
        found = cut_into_dashes(line(x, y), (6, 4), origin=0.0)
        assert on_at(found, np.arange(0.5, 60)).tolist() == expected.tolist()
    later = cut_into_dashes(line(x, np.zeros(16)), (6, 4), origin=-3.0)
    assert on_at(later, np.arange(0.5, 57)).tolist() == ((np.arange(3.5, 60) % 10) < 6).tolist()


def test_a_steep_stretch_does_not_shift_the_dashes_after_it():
    """A vertical jump takes whole periods, so it is dashed along its length and what follows does not move."""
    pieces = cut_into_dashes(line([0, 22, 24, 60], [50, 50, 10, 10]), (6, 4), origin=0.0)
    assert on_at(pieces, np.arange(25.5, 60)).tolist() == ((np.arange(25.5, 60) % 10) < 6).tolist()
    steep = pieces[(pieces[:, 0].real >= 22) & (pieces[:, 1].real <= 24)]
    # 40 pixels up in four periods: about six tenths are on, in four dashes.
    assert len(steep) >= 4
    assert np.abs((steep[:, 1] - steep[:, 0]).imag).sum() == pytest.approx(24, abs=4)


@given(
    st.lists(st.tuples(st.floats(0.1, 20), st.floats(-30, 30)), min_size=1, max_size=12),
    st.sampled_from([(6.0, 4.0), (8.0, 3.0, 2.0, 3.0), (1.0, 2.0)]),
)
def test_dashes_by_length_cover_their_share_of_it_and_lie_on_the_line(steps, dashes):
    x, y = (np.concatenate([[0.0], np.cumsum(each)]) for each in zip(*steps, strict=True))
    pieces = cut_into_dashes(line(x, y), dashes)
    length, period = np.hypot(np.diff(x), np.diff(y)).sum(), sum(dashes)
    lit, covered = sum(dashes[::2]), np.abs(pieces[:, 1] - pieces[:, 0]).sum()
    assert lit * (length // period) - 1e-6 <= covered <= lit * (length // period + 1) + 1e-6
    assert np.interp(pieces.real, x, y) == pytest.approx(pieces.imag, abs=1e-6)


def test_a_dash_with_its_caps_is_as_long_as_it_is_given(qapp):
    ink = inked(curve([0, 60], [20, 20], 2.0, (6, 4), anchored=True))
    assert (ink[19, 10:50] > 0.5).tolist() == [True] * 6 + [False] * 4 + [True] * 6 + [False] * 4 + (
        [True] * 6 + [False] * 4 + [True] * 6 + [False] * 4
    )


def test_dashes_no_longer_than_their_caps_are_dots():
    pieces = cut_into_dashes(line([0, 40], [0, 0]), (2, 4), cap=3.0)
    assert len(pieces) == 7
    assert (pieces[:, 1].real > pieces[:, 0].real).all()


def test_a_line_with_too_many_dashes_is_solid():
    x = np.arange(60.0)
    assert len(cut_into_dashes(line(x, 1e4 * (x % 2)), (2, 2))) == 59
    assert len(cut_into_dashes(line(x, 10 * (x % 2)), (2, 2))) > 59


# Boxes


def test_boxes_lie_on_whole_pixels_with_the_outline_inside(qapp):
    washed = QColor(0, 0, 0, 51)
    box = (9.6, 30.4, 20.4, 10.3)
    one = inked(lambda on: on.box(box, PIXELS, washed, INK))
    assert one[11:29, 11:19] == pytest.approx(np.full((18, 8), 0.2), abs=0.005)
    assert one[[10, 29], 10:20].min() == one[10:30, [10, 19]].min() == 1
    assert one.sum() == pytest.approx(2 * 10 + 2 * 18 + 0.2 * 8 * 18, abs=0.5)
    # Many at once look like each alone.
    assert inked(lambda on: on.boxes(np.array([box]), PIXELS, washed, INK)) == pytest.approx(one, abs=0.005)
    assert inked(lambda on: on.boxes([box], PIXELS, washed, INK)) == pytest.approx(one, abs=0.005)


@pytest.mark.parametrize("ratio", [1.0, 2.0])
def test_an_outline_is_a_pixel_wide_at_any_scale(qapp, ratio):
    for draw in (
        lambda on: on.box((10, 30, 20, 10), PIXELS, None, INK),
        lambda on: on.boxes(np.array([[10.0, 30, 20, 10]]), PIXELS, None, INK),
    ):
        assert inked(draw, ratio=ratio).sum() == pytest.approx((2 * 10 + 2 * 18) * ratio * ratio)


def test_boxes_without_area_are_left_out(qapp):
    nothing = np.array([[10.0, 20, 10.2, 10], [math.nan, 20, 30, 10], [1e300, 20, math.inf, 10], [70, 20, 80, 10]])
    assert inked(lambda on: on.boxes(nothing, PIXELS, INK, INK)).max() == 0
    assert inked(lambda on: on.boxes([tuple(box) for box in nothing.tolist()], PIXELS, INK)).max() == 0


def test_a_hatched_box_is_hatched_one_way_or_the_other(qapp):
    rising, falling = (
        inked(lambda on, style=style: on.box((10, 34, 42, 10), PIXELS, QBrush(INK, style)))
        for style in (Qt.BrushStyle.BDiagPattern, Qt.BrushStyle.FDiagPattern)
    )
    for ink, step in ((rising, -1), (falling, 1)):
        assert 0 < ink.sum() < 0.5 * 24 * 32
        assert np.array_equal(ink[20, 16:36], ink[21, 16 + step : 36 + step])
        assert ink[:, :10].max() == ink[:, 42:].max() == 0


def test_footprints_are_boxes_at_regular_intervals(qapp):
    way, washed = points([10, 99, 30, 99, 55, 99], [40, 9, 30, 9, 25, 9]), QColor(0, 0, 0, 51)
    prints = inked(lambda on: on.prints(way, 2, 3, (-4.0, 6.0, 5.0, -7.0), PIXELS, INK, washed))
    around = [(x - 4.0, y + 6.0, x + 5.0, y - 7.0) for x, y in ((10.0, 40.0), (30.0, 30.0), (55.0, 25.0))]
    assert prints == pytest.approx(inked(lambda on: on.boxes(np.array(around), PIXELS, washed, INK)))
    assert prints.sum() > 0


@pytest.mark.parametrize("box", [(20, 30, 20.3, 10), (10, 20.3, 30, 20)])
def test_a_box_without_width_or_height_has_no_outline(qapp, box):
    assert inked(lambda on: on.box(box, PIXELS, INK, INK)).sum() == 0


def test_sharp_and_smooth_edges_take_turns(qapp):
    """A box behind a curve, and a curve behind a box, look as they do alone."""
    thin, box = curve([0, 60], [20.25, 20.25], 1.0), (lambda on: on.box((5.5, 9, 30.5, 2), PIXELS, INK))
    both = inked(lambda on: (thin(on), box(on), thin(on)))
    assert both[1:10] == pytest.approx(inked(box)[1:10])
    assert both[15:25] == pytest.approx(inked(thin)[15:25], abs=0.3)
    assert set(np.unique(inked(box))) == {0.0, 1.0}


# Marks and text


def test_a_mark_is_centred_and_one_far_outside_is_left_out(qapp):
    mark = Mark(look.shape(1, 9), INK, 1, INK)
    ink = inked(lambda on: on.marks(Sketch([30.0, 1e300], [20.0, 20.0]), PIXELS, mark))
    rows, columns = np.nonzero(ink > 0.5)
    assert (rows.mean(), columns.mean()) == pytest.approx((19.5, 29.5), abs=0.6)


@pytest.mark.parametrize("size", [7, 8, 9, 10, 11, 13])
@pytest.mark.parametrize("scale", [1.0, 1.3, 1.6])
@pytest.mark.parametrize("ratio", [1.0, 2.0])
def test_digits_stand_on_the_baseline_of_the_text(qapp, size, scale, ratio):
    """The digit 1 has the same rows in both."""
    look.set_text_scale(scale)
    try:
        for middle in (20, 20.5):
            word = inked(lambda on, middle=middle: on.text("1", 20, middle, size, INK), ratio=ratio)
            figure = inked(lambda on, middle=middle: on.figure("1", 40, middle, size, INK), ratio=ratio)
            assert bounds(word)[:2] == bounds(figure)[:2]
    finally:
        look.set_text_scale(1.0)


@pytest.mark.parametrize("ratio", [1.0, 2.0])
def test_texts_align_left_and_figures_right(qapp, ratio):
    text = inked(lambda on: on.text("fall", 30, 20, 9, INK), 120, 40, ratio)
    top, bottom, left, right = bounds(text)
    assert left == pytest.approx(30 * ratio, abs=3 * ratio)
    assert right <= (30 + look.width("fall", 9) + 1) * ratio
    assert (top + bottom) / 2 == pytest.approx(20 * ratio, abs=4 * ratio)
    figure = inked(lambda on: on.figure("−12.50", 80, 20, 9, INK), 120, 40, ratio)
    assert bounds(figure)[3] == pytest.approx(80 * ratio, abs=2 * ratio)
    word = inked(lambda on: on.word("A", 60, 20, 9, INK), 120, 40, ratio)
    assert sum(bounds(word)[2:]) / 2 == pytest.approx(60 * ratio, abs=2 * ratio)


def test_figures_of_equal_length_align_at_the_right(qapp):
    assert (
        len({bounds(inked(lambda on, text=text: on.figure(text, 55, 20, 9, INK)))[3] for text in ("8.88", "0.08")}) == 1
    )
    assert caption_width("11.11", 9) == caption_width("88.88", 9)


@pytest.mark.parametrize("draw", ["text", "figure"])
def test_lines_of_text_between_pixels_are_evenly_spaced(qapp, draw):
    """The middle of a row of 23 pixels is on half a pixel."""

    def lines(on):
        for row in range(10):
            getattr(on, draw)("10", 40.0, 11.5 + 23 * row, 9, INK)

    rows = np.nonzero(inked(lines, 60, 240).max(axis=1) > 0.3)[0]
    tops = [row for row in rows if row - 1 not in rows]
    assert len(tops) == 10
    assert set(np.diff(tops)) <= {22, 23, 24}
    assert tops[-1] - tops[0] == pytest.approx(9 * 23, abs=1)


def test_marks_that_would_overlap_are_thinned():
    """In a minute of constant jumping every kind of mark occurs, and each is thinned."""
    presses = [(start, start + 2) for start in range(0, 3600, 4)]
    trace = run(make_tune(), make_drill(length=3600, jump=presses))
    marks = Printed(TuneRun(0, trace.tune, trace), 6).marks
    for _symbol, places in marks:
        assert 0 < len(places.x) == len(places.y) <= MOST_PRINTS
    symbols = {symbol for mark, symbol, _ in MARKS if (trace["marks"] & mark).any()}
    assert len(marks) == len(symbols)
    presses_drawn = next(places for symbol, places in marks if symbol == "o")
    assert set(presses_drawn.x) <= set(trace["x"][trace.rows_with(PRESS)])


@given(st.lists(st.tuples(st.floats(0, 60), st.floats(0, 30)), max_size=7))
def test_letters_of_overlapping_bodies_stand_side_by_side_in_order(places):
    wanted = [QRectF(x, y, 9, 12) for x, y in places]
    spots = [QRectF(spot) for spot in wanted]
    move_apart(spots)
    for at, (spot, before) in enumerate(zip(spots, wanted, strict=True)):
        others = spots[:at] + spots[at + 1 :]
        assert not any(spot.intersects(other) for other in others)
        assert (spot.top(), spot.size()) == (before.top(), before.size())
        # A letter that moves stops at another one.
        assert spot.left() == before.left() or any(spot.left() == other.right() for other in others)
        if not any(before.intersects(other) for other in others):
            assert spot.left() == before.left()


def test_the_first_of_two_overlapping_letters_stays_in_place():
    spots = [QRectF(5, 0, 9, 12), QRectF(5, 1, 9, 12), QRectF(5, 40, 9, 12)]
    move_apart(spots)
    assert [spot.left() for spot in spots] == [5, 14, 5]


def test_changing_a_shared_colour_affects_nobody_else():
    mine = look.ink(look.DAY, 0)
    mine.setAlpha(3)
    assert look.ink(look.DAY, 0).alpha() == 255
    look.color("#102030").setRed(200)
    assert look.color("#102030").red() == 0x10


# Layers


class Drawn:
    """Layers that record when they are drawn: one for each letter, with a key that can be changed."""

    def __init__(self, letters: str) -> None:
        self.cache, self.keys, self.drawn = LayerCache(), dict.fromkeys(letters, 0), []

    def paint(self, layers: str, ratio: float = 1.0) -> tuple[str, np.ndarray]:
        """What was drawn for it, and the resulting picture."""
        self.drawn.clear()
        image = QImage(round(60 * ratio), round(40 * ratio), QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(ratio)
        with QPainter(image) as painter:
            self.cache.paint(painter, QRectF(0, 0, 60, 40), PAPER, [self.layer(letter) for letter in layers])
        pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
        return "".join(self.drawn), pixels[:, : image.width()].copy()

    def layer(self, letter: str) -> Layer:
        def draw(on: Canvas) -> None:
            self.drawn.append(letter)
            place = 6 * (ord(letter) - ord("a"))
            shade = QColor(40 * self.keys[letter] % 250, 90, 120) if self.keys[letter] is not None else INK
            on.box((place, 40, place + 9, 0), PIXELS, shade)

        key = self.keys[letter]
        return Layer(None if key is None else (letter, key), draw)


def test_unchanged_layers_are_drawn_once_from_the_bottom_up(qapp):
    layers = Drawn("abc")
    assert layers.paint("abc")[0] == "abc"
    # They have not changed since the last time: they are painted into the pixmap once.
    assert layers.paint("abc")[0] == "abc"
    assert layers.paint("abc")[0] == ""
    layers.keys["c"] += 1
    assert layers.paint("abc")[0] == "abc"
    layers.keys["c"] += 1
    # While one is dragged, those below it are drawn as a pixmap.
    assert layers.paint("abc")[0] == "c"


def test_a_layer_without_a_key_is_drawn_every_time(qapp):
    layers = Drawn("ab")
    layers.keys["b"] = None
    for _ in range(2):
        layers.paint("ab")
    assert layers.paint("ab")[0] == "b"


def test_another_theme_text_size_or_scale_repaints(qapp):
    layers = Drawn("a")
    for change, undo in (
        (lambda: look.set_palette(look.NIGHT), lambda: look.set_palette(look.DAY)),
        (lambda: look.set_text_scale(1.3), lambda: look.set_text_scale(1.0)),
    ):
        for _ in range(2):
            layers.paint("a")
        change()
        try:
            assert layers.paint("a")[0] == "a"
        finally:
            undo()
    assert layers.paint("a", ratio=2.0)[0] == "a"


def test_an_exception_while_painting_closes_the_painter(qapp):
    layers, image = Drawn("a"), QImage(60, 40, QImage.Format.Format_RGB32)

    def fail(_):
        raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError), QPainter(image) as painter:
        layers.cache.paint(painter, QRectF(0, 0, 60, 40), PAPER, [Layer(1, fail)])
    assert not image.paintingActive()
    assert layers.paint("a")[0] == "a"


@given(
    st.lists(
        st.tuples(st.sampled_from("abcd"), st.integers(0, 2), st.sampled_from(["abcd", "abd", "acbd", "a"])),
        max_size=25,
    ),
    st.sampled_from([1.0, 1.25, 2.0]),
)
def test_the_cached_picture_equals_a_fresh_one(qapp, changes, ratio):
    layers = Drawn("abcd")
    for letter, key, order in changes:
        layers.keys[letter] = key
        shown = layers.paint(order, ratio)[1]
        with without_paint_caches():
            assert np.array_equal(shown, layers.paint(order, ratio)[1])


def test_an_svg_has_lines_and_no_pixels(qapp):
    layers, content = Drawn("ab"), QByteArray()
    buffer = QBuffer(content)
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    for _ in range(3):
        layers.paint("ab")
    generator = QSvgGenerator()
    generator.setOutputDevice(buffer)
    generator.setSize(QSize(60, 40))
    with QPainter(generator) as painter:
        wave = Layer(1, curve(range(20), [20 + 5 * math.sin(x) for x in range(20)]))
        layers.cache.paint(painter, QRectF(0, 0, 60, 40), PAPER, [layers.layer("a"), layers.layer("b"), wave])
    text = bytes(content).decode()
    assert "<image" not in text
    assert text.count("<polyline") + text.count("<path") >= 19


@given(
    st.lists(st.tuples(st.integers(0, 2), st.sampled_from([0.0, 0.1, 0.4]), st.floats(0.02, 0.9)), max_size=30),
    st.sampled_from([0.5, 1.0, 1.7]),
)
def test_the_longest_span_in_a_pixel_gives_its_colour(stretches, pixel):
    """Except where two spans are equally long, or half a pixel is covered: there rounding decides."""
    runs, at = [], 0.0
    for code, gap, long in stretches:
        runs.append((code, at + gap, at + gap + long))
        at += gap + long
    found = {place: code for code, place in longest_in_each(runs, pixel)}
    for place in range(int(at / pixel) + 1):
        within = [0.0, 0.0, 0.0]
        for code, start, end in runs:
            within[code] += max(0.0, min(end, (place + 1) * pixel) - max(start, place * pixel))
        full, second, first = sum(within), *sorted(within)[1:]
        if abs(full - 0.5 * pixel) > 1e-9 and first - second > 1e-9:
            assert found.get(place) == (within.index(first) if full > 0.5 * pixel else None)
