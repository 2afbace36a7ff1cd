"""A cache of painted layers: unchanged layers are painted once, then drawn as one pixmap."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import NamedTuple

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPaintEngine, QPainter, QPixmap

from cinetica.desk import look
from cinetica.desk.paint.canvas import Canvas

# How often callers have asked for everything to be repainted.
_anew = [0]


@contextmanager
def without_paint_caches() -> Iterator[None]:
    """Bypass all caches inside this context; tests compare the screen with that."""
    _anew[0] += 1
    try:
        yield
    finally:
        _anew[0] -= 1


# Left, top, width and height in pixels of a device.
Rect = tuple[int, int, int, int]


class Layer(NamedTuple):
    """Something to draw. Layers with equal keys look the same; one whose key is None is drawn every time."""

    key: object
    draw: Callable[[Canvas], None]


class LayerCache:
    """Paints layers above each other on a background, and keeps the lowest ones on a pixmap.

    A layer joins the pixmap once it, and all layers below it, did not change between two paints. So while one tune is
    dragged the other curves are a pixmap, and only its own are painted.
    """

    def __init__(self) -> None:
        self._pixmap: QPixmap | None = None
        # What the pixmap depends on besides its layers; the keys of the layers on it; all keys of the last paint.
        self._about: object = None
        self._kept: list[object] = []
        self._last: list[object] = []

    def paint(self, painter: QPainter, area: QRectF, ground: QColor, layers: Sequence[Layer]) -> None:
        """Paint `area`, in pixels of the painter without its transform, which is ignored.

        On a screen everything is painted through a pixmap, cached or not: Qt clips a line slightly differently at a
        different position.
        """
        ratio = painter.device().devicePixelRatioF()
        rect = whole_pixels(area, ratio)
        if rect[2] <= 0 or rect[3] <= 0:
            return
        where = QRectF(*(side / ratio for side in rect))
        painter.save()
        try:
            painter.resetTransform()
            if painter.paintEngine().type() is QPaintEngine.Type.Raster:
                pixmap, kept = self._kept_on(rect, ratio, ground, area, layers)
                if kept < len(layers):
                    pixmap = pixmap.copy()
                    _draw(pixmap, rect, ratio, area, layers[kept:])
                painter.drawPixmap(where, pixmap, QRectF(pixmap.rect()))
            else:
                # To a printer, a PDF or an SVG file lines stay lines.
                within = Qt.ClipOperation.IntersectClip if painter.hasClipping() else Qt.ClipOperation.ReplaceClip
                painter.setClipRect(where, within)
                painter.fillRect(where, ground)
                canvas = Canvas(painter, area)
                for layer in layers:
                    layer.draw(canvas)
        finally:
            painter.restore()

    def _kept_on(
        self, rect: Rect, ratio: float, ground: QColor, area: QRectF, layers: Sequence[Layer]
    ) -> tuple[QPixmap, int]:
        """The pixmap with the layers that can be kept, and how many they are."""
        about = (rect, ratio, ground.rgb(), look.palette(), look.text_scale())
        if about != self._about or _anew[0]:
            self._about, self._pixmap, self._kept, self._last = about, None, [], []
        now = [layer.key for layer in layers]
        same = _alike(now, self._last)
        if _alike(now, self._kept) < len(self._kept):
            self._kept, self._pixmap = [], None
        if self._pixmap is None:
            self._pixmap = QPixmap(rect[2], rect[3])
            self._pixmap.fill(ground)
        if same > len(self._kept):
            _draw(self._pixmap, rect, ratio, area, layers[len(self._kept) : same])
            self._kept = now[:same]
        self._last = now
        return self._pixmap, len(self._kept)


def _draw(pixmap: QPixmap, rect: Rect, ratio: float, area: QRectF, layers: Sequence[Layer]) -> None:
    """Draw layers on the pixmap of a part of a device."""
    with QPainter(pixmap) as painter:
        painter.translate(-rect[0], -rect[1])
        painter.scale(ratio, ratio)
        canvas = Canvas(painter, area)
        for layer in layers:
            layer.draw(canvas)


def _alike(one: Sequence[object], other: Sequence[object]) -> int:
    """The number of equal keys at the beginning."""
    count = 0
    for mine, its in zip(one, other, strict=False):
        if mine is None or not (mine is its or mine == its):
            break
        count += 1
    return count


def whole_pixels(area: QRectF, ratio: float) -> tuple[int, int, int, int]:
    """Left, top, width and height of an area in whole device pixels, so that a pixmap is not resampled."""
    left, top = math.floor(area.left() * ratio + 1e-6), math.floor(area.top() * ratio + 1e-6)
    return left, top, math.ceil(area.right() * ratio - 1e-6) - left, math.ceil(area.bottom() * ratio - 1e-6) - top
