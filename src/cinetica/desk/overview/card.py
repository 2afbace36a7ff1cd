"""One drill as a card: its stage with all paths, one or two curves over time, and the most relevant figures."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap

from cinetica.desk import look
from cinetica.desk.paint.canvas import Canvas
from cinetica.desk.paint.course import CourseLayer
from cinetica.desk.paint.curves import CurveOf, Curves, path_of
from cinetica.desk.paint.layer_cache import Layer, LayerCache
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.paint.off_course import deepest_followed, followed_span
from cinetica.desk.paint.signs import paint_verdict
from cinetica.desk.state.tune_run import TuneRun
from cinetica.model.study import Drill
from cinetica.model.world_size import world_size
from cinetica.reading.body import boxes_of
from cinetica.reading.channels import BY_COLUMN, moving
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.figure_changes import FigureChange
from cinetica.reading.targets import Verdict

CHANNELS = {"side": ("vx", "y"), "top": ("vx", "vy")}
# Lines of text for targets, and for figures that have moved, at the most.
MOST_TARGETS, MOST_MOVED = 3, 3
# Height of the stage and of a curve, in lines of text; and the size of the figures.
STAGE, CURVE = 6.5, 3.0
FIGURES = 9
MARGIN = 8


@dataclass(frozen=True)
class Content:
    """What a card shows. `flagged`: something differs from the baseline."""

    drill: Drill
    shown: tuple[TuneRun, ...]
    # One curve or two.
    columns: tuple[str, ...]
    before: tuple[TuneRun, ...] = ()
    verdicts: tuple[Verdict, ...] = ()
    moved: tuple[FigureChange, ...] = ()
    flagged: bool = False
    differs: bool = False
    units: DisplayUnits = OURS


@dataclass(frozen=True)
class Line:
    """A figure on the card: its rectangle, tune and measure."""

    rect: QRectF
    tune: str
    measure: str


def high_of(figures: int) -> int:
    """The height of a card with this many lines of figures, by the metrics of the text."""
    pictures, words = (STAGE + 2 * CURVE) * look.height(8), figures * look.height(FIGURES)
    return round(look.height(9, bold=True) + pictures + words + 5 * look.px(MARGIN) + look.px(4))


# The margin around all paths, in u, for a body of the usual size: left, towards +y, towards -y, right.
AROUND = (-0.4, -0.5, 0.4, 0.4)


def gutter(columns: Sequence[str]) -> int:
    """The width of the curves' names at the left."""
    return max(look.width(BY_COLUMN[column].short_label, 8) for column in columns) + look.px(MARGIN)


class Card:
    """Keeps its image until something that it shows changes."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.lines: list[Line] = []
        self._content: Content | None = None
        self._key: object = None
        self._picture: QPixmap | None = None
        self._cache = LayerCache()
        self._course = CourseLayer()
        self._paths, self._old_paths = Curves(path_of, over_time=False), Curves(path_of, wake=True, over_time=False)
        self._columns: tuple[str, ...] = ()
        self._curves: list[tuple[Curves, Curves]] = []

    def picture(
        self, content: Content, wide: int, high: int, figures: int, palette: look.Palette, ratio: float
    ) -> QPixmap:
        """The card as a pixmap of wide × high pixels, times the screen's device pixel ratio.

        What its lines of `figures` leave goes to the stage and the curves.
        """
        key = (wide, high, figures, id(palette), ratio, look.text_scale())
        if self._picture is None or self._key != key or self._content != content:
            self._key, self._content = key, content
            self._picture = self._painted(content, wide, high, figures, palette, ratio)
        return self._picture

    def _painted(
        self, content: Content, wide: int, high: int, figures: int, palette: look.Palette, ratio: float
    ) -> QPixmap:
        across, down = round(wide * ratio), round(high * ratio)
        areas = self._areas(content, wide, high - high_of(figures))
        mappings = [self._stage(content, areas[0]), *self._axes(content, areas[1:])]
        under = areas[-1].bottom() + look.px(MARGIN)
        layers = [
            Layer(self._ground_key(content, mappings), partial(self._draw_ground, content, wide, under, mappings)),
            Layer(None, partial(self._draw, content, mappings)),
        ]
        pixmap = QPixmap(across, down)
        pixmap.setDevicePixelRatio(ratio)
        with QPainter(pixmap) as painter:
            self._cache.paint(painter, QRectF(0, 0, wide, high), QColor(palette.paper), layers)
        return pixmap

    def _ground_key(self, content: Content, mappings: Sequence[Mapping]) -> object:
        """What title, course, axes and figures depend on: they stay while curves change within their scales."""
        self._course.show(content.drill.course, content.shown)
        shown = (
            content.drill.name,
            content.columns,
            content.verdicts,
            content.moved,
            content.flagged,
            content.differs,
            content.units,
        )
        return (*shown, self._course.key, *mappings)

    def _draw_ground(
        self, content: Content, wide: int, under: float, mappings: Sequence[Mapping], canvas: Canvas
    ) -> None:
        self._paint_grounds(canvas, content, wide, mappings, look.palette())
        self._paint_figures(canvas.painter, content, wide, under, look.palette())

    # What is where

    def _areas(self, content: Content, wide: int, more: int) -> list[QRectF]:
        """The stage and the curves, in pixels of the card; `more` height is divided among them.

        The stage also gets the space of curves that are left out.
        """
        line, margin = look.height(8), look.px(MARGIN)
        top = look.height(9, bold=True) + 2.0 * margin
        curve = CURVE * line + 0.25 * more
        curves, areas = [curve] * len(content.columns), []
        stage = STAGE * line + 0.5 * more + (2 - len(curves)) * (curve + look.px(3))
        for number, high in enumerate([stage, *curves]):
            left = margin + (gutter(content.columns) if number else 0)
            areas.append(QRectF(left, top, wide - margin - left, high))
            top += high + (margin if number == 0 else look.px(3))
        return areas

    @staticmethod
    def _stage(content: Content, area: QRectF) -> Mapping:
        """All paths with a margin, at equal scale."""
        whole = QRectF()
        deepest = deepest_followed(content.drill, content.shown)
        for one in (*content.shown, *content.before):
            (left, right), (low, high) = (followed_span(one, column, deepest) for column in ("x", "y"))
            ends = boxes_of(one.tune, np.array([left, right]), np.array([low, high]))
            whole = whole.united(QRectF(QPointF(ends[0, 0], ends[0, 1]), QPointF(ends[1, 2], ends[1, 3])))
        size = world_size(content.shown[0].tune if content.shown else None)
        whole = _on_grid(whole.adjusted(*(margin * size for margin in AROUND)))
        scale = min(area.width() / max(whole.width(), 1e-6), area.height() / max(whole.height(), 1e-6))
        left = area.center().x() - scale * whole.center().x()
        top = area.center().y() + scale * whole.center().y()
        view = QRectF(
            (area.left() - left) / scale, (top - area.bottom()) / scale, area.width() / scale, area.height() / scale
        )
        return Mapping(left, scale, top, -scale, view, area)

    @staticmethod
    def _axes(content: Content, areas: Sequence[QRectF]) -> list[Mapping]:
        """The curves, each with its own scale that includes 0, on one time axis."""
        every = (*content.shown, *content.before)
        deepest = deepest_followed(content.drill, content.shown)
        last = max((float(one.trace["time"][-1]) for one in every), default=1.0) or 1.0
        made = []
        for column, area in zip(content.columns, areas, strict=True):
            spans = [followed_span(one, column, deepest) for one in every]
            low, high = min([0.0, *(span[0] for span in spans)]), max([0.0, *(span[1] for span in spans)])
            low, high = (_rounded(low, high)) if high - low > 1e-9 else (low - 1.0, high + 1.0)
            across, down = area.width() / last, -(area.height() - 4) / (high - low)
            top = area.bottom() - 2 - down * low
            made.append(Mapping(area.left(), across, top, down, QRectF(0.0, low, last, high - low), area))
        return made

    # Painting

    def _paint_title(self, painter: QPainter, content: Content, wide: int, palette: look.Palette) -> None:
        margin = look.px(MARGIN)
        room = QRectF(margin, margin, wide - 2 * margin, look.height(9, bold=True))
        if content.flagged:
            painter.fillRect(QRectF(0, 0, look.px(4), look.height(9, bold=True) + 2 * margin), QColor(palette.warning))
            words, painter_font = "moved", look.font(8, bold=True)
            painter.setFont(painter_font)
            painter.setPen(QColor(palette.warning))
            painter.drawText(room, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
            room.setRight(room.right() - look.width(words, 8, bold=True) - margin)
        painter.setFont(look.font(9, bold=True))
        painter.setPen(QColor(palette.accent))
        name = painter.fontMetrics().elidedText(content.drill.name, Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, name)

    def _paint_grounds(
        self, canvas: Canvas, content: Content, wide: int, mappings: Sequence[Mapping], palette: look.Palette
    ) -> None:
        painter = canvas.painter
        self._paint_title(painter, content, wide, palette)
        painter.save()
        painter.setClipRect(mappings[0].area, Qt.ClipOperation.IntersectClip)
        self._course.draw(Canvas(painter, mappings[0].area), mappings[0], palette)
        painter.restore()
        for column, mapping in zip(content.columns, mappings[1:], strict=True):
            area = mapping.area
            painter.setPen(QPen(QColor(palette.grid_fine), 1))
            painter.drawRect(area)
            zero = round(mapping.y(0.0)) + 0.5
            painter.setPen(QPen(QColor(palette.grid), 1))
            painter.drawLine(QPointF(area.left(), zero), QPointF(area.right(), zero))
            painter.setFont(look.font(8))
            painter.setPen(QColor(palette.soft))
            channel = BY_COLUMN[column]
            beside = QRectF(look.px(MARGIN), area.top(), gutter(content.columns), area.height())
            words = f"{channel.short_label}\n{content.units.unit(channel.unit)}"
            painter.drawText(beside, Qt.AlignmentFlag.AlignTop, words)

    def _draw(self, content: Content, mappings: Sequence[Mapping], canvas: Canvas) -> None:
        """Draw paths and curves, with those of the baseline paler and below."""
        if self._columns != content.columns:
            self._columns = content.columns
            self._curves = [(Curves(_over_time(each)), Curves(_over_time(each), wake=True)) for each in content.columns]
        layers = [(self._paths, self._old_paths), *self._curves]
        for mapping, (now, old) in zip(mappings, layers, strict=True):
            old.show(content.before)
            now.show(content.shown)
            canvas.painter.save()
            canvas.painter.setClipRect(mapping.area, Qt.ClipOperation.IntersectClip)
            part = Canvas(canvas.painter, mapping.area)
            old.draw(part, mapping, look.palette())
            now.draw(part, mapping, look.palette())
            canvas.painter.restore()

    def _paint_figures(self, painter: QPainter, content: Content, wide: int, top: float, palette: look.Palette) -> None:
        """Paint targets first, the missed ones before the others; then the largest changes."""
        self.lines, margin, line = [], look.px(MARGIN), look.height(FIGURES)
        targets = sorted(content.verdicts, key=lambda each: (not each.missed, each.met))[:MOST_TARGETS]
        places = {one.tune.name: one.place for one in content.shown}
        for verdict in targets:
            room = QRectF(margin, top, wide - 2 * margin, line)
            if verdict.value is not None:
                color = look.color(palette.accent if verdict.met else palette.warning)
                middle = QPointF(room.left() + look.px(4), room.center().y())
                paint_verdict(painter, middle, look.px(3), color, met=verdict.met)
            place = places.get(verdict.tune, 0)
            self._paint_line(painter, room.adjusted(look.px(12), 0, 0, 0), place, verdict.short, palette)
            self.lines.append(Line(room, verdict.tune, verdict.target.measure))
            top += line
        for each in content.moved:
            room = QRectF(margin, top, wide - 2 * margin, line)
            words = _moved_words(each, content.units, baseline=content.differs)
            self._paint_line(painter, room, each.place, words, palette)
            self.lines.append(Line(room, each.tune, each.measure.id))
            top += line

    @staticmethod
    def _paint_line(painter: QPainter, room: QRectF, place: int, words: str, palette: look.Palette) -> None:
        letter = look.letter(place)
        painter.setFont(look.font(FIGURES, bold=True))
        painter.setPen(look.ink(palette, place))
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, letter)
        painter.setFont(look.font(FIGURES))
        painter.setPen(QColor(palette.ink))
        beside = room.adjusted(look.width("W", FIGURES, bold=True) + look.px(4), 0, 0, 0)
        shown = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(beside.width()))
        painter.drawText(beside, Qt.AlignmentFlag.AlignVCenter, shown)


def _on_grid(rect: QRectF) -> QRectF:
    """The rectangle grown to an eighth of its longer side, so that its scale stays during a small drag."""
    step = 2.0 ** math.floor(math.log2(max(rect.width(), rect.height(), 1e-6) / 8))
    left, top = math.floor(rect.left() / step) * step, math.floor(rect.top() / step) * step
    right, bottom = math.ceil(rect.right() / step) * step, math.ceil(rect.bottom() / step) * step
    return QRectF(left, top, right - left, bottom - top)


def _rounded(low: float, high: float) -> tuple[float, float]:
    step = 2.0 ** math.floor(math.log2((high - low) / 8))
    return math.floor(low / step) * step, math.ceil(high / step) * step


def shown_columns(columns: tuple[str, ...], runs: Sequence[TuneRun]) -> tuple[str, ...]:
    """The curves worth showing on a drill: those that stay 0 are left out, unless all do."""
    return tuple(moving(columns, [run.trace for run in runs])) or columns[:1]


def _moved_words(each: FigureChange, units: DisplayUnits, *, baseline: bool) -> str:
    unit = f" {units.unit(each.measure.unit)}".rstrip()
    was, now = (
        "not shown" if value is None else units.reading_text(each.measure, value) for value in (each.before, each.after)
    )
    if baseline:
        return f"{each.measure.label} {now}{unit}, reference {was}"
    if each.after is None:
        return f"{each.measure.label} {was}{unit} → {now}"
    return f"{each.measure.label} {was} → {now}{unit}"


def _over_time(column: str) -> CurveOf:
    return lambda shown: shown.trace.points("time", column)
