"""Keeping what has been painted: layers that stay the same are painted once and laid down again as one pixmap."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import NamedTuple

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPaintEngine, QPainter, QPixmap

from cinetica.desk import look
from cinetica.desk.paint.canvas import Canvas

# How many callers have asked for everything to be painted anew.
_anew = [0]


@contextmanager
def painted_anew() -> Iterator[None]:
    """Take nothing from a cache while this lasts; tests compare the screen with what is painted so."""
    _anew[0] += 1
    try:
        yield
    finally:
        _anew[0] -= 1


def can_cache(painter: QPainter) -> bool:
    """Whether it paints pixels; a printer, a PDF or an SVG file gets lines."""
    return painter.paintEngine().type() is QPaintEngine.Type.Raster and not _anew[0]


class Layer(NamedTuple):
    """Something to draw. Layers with equal keys look the same; one whose key is None is drawn anew every time."""

    key: object
    draw: Callable[[Canvas], None]


class LayerCache:
    """Paints layers over each other on a ground, and keeps the lowest ones on a pixmap.

    A layer joins the pixmap once it has stayed the same from one time to the next, and all below it have. So while one
    tune is dragged the curves of the others are a pixmap, and its own are painted.
    """

    def __init__(self) -> None:
        self._pixmap: QPixmap | None = None
        # What the pixmap depends on beside its layers; the keys of the layers on it; all keys of the last time.
        self._about: object = None
        self._kept: list[object] = []
        self._last: list[object] = []

    def paint(self, painter: QPainter, area: QRectF, ground: QColor, layers: Sequence[Layer]) -> None:
        """Paint `area`, in pixels of the painter without its transform, which is left out of account."""
        painter.save()
        painter.resetTransform()
        painter.setClipRect(
            area, Qt.ClipOperation.IntersectClip if painter.hasClipping() else Qt.ClipOperation.ReplaceClip
        )
        canvas = Canvas(painter, area)
        if can_cache(painter):
            kept = self._lay_kept(painter, area, ground, layers)
        else:
            kept = 0
            painter.fillRect(area, ground)
        for layer in layers[kept:]:
            layer.draw(canvas)
        painter.restore()

    def _lay_kept(self, painter: QPainter, area: QRectF, ground: QColor, layers: Sequence[Layer]) -> int:
        """Lay down the pixmap; how many layers are on it."""
        ratio = painter.device().devicePixelRatioF()
        left, top, wide, high = whole_pixels(area, ratio)
        if wide <= 0 or high <= 0:
            return 0
        about = (left, top, wide, high, ratio, ground.rgb(), look.worn(), look.text_scale())
        now = [layer.key for layer in layers]
        if about != self._about:
            self._about, self._pixmap, self._kept, self._last = about, None, [], []
        same = _alike(now, self._last)
        if _alike(now, self._kept) < len(self._kept):
            self._kept, self._pixmap = [], None
        if self._pixmap is None:
            self._pixmap = QPixmap(wide, high)
            self._pixmap.fill(ground)
        if same > len(self._kept):
            with QPainter(self._pixmap) as below:
                below.translate(-left, -top)
                below.scale(ratio, ratio)
                canvas = Canvas(below, area)
                for layer in layers[len(self._kept) : same]:
                    layer.draw(canvas)
            self._kept = now[:same]
        self._last = now
        painter.drawPixmap(
            QRectF(left / ratio, top / ratio, wide / ratio, high / ratio), self._pixmap, QRectF(self._pixmap.rect())
        )
        return len(self._kept)


def _alike(one: Sequence[object], other: Sequence[object]) -> int:
    """How many keys at the beginning are equal."""
    count = 0
    for mine, its in zip(one, other, strict=False):
        if mine is None or not (mine is its or mine == its):
            break
        count += 1
    return count


def whole_pixels(area: QRectF, ratio: float) -> tuple[int, int, int, int]:
    """Left, top, width and height of an area in whole pixels of the device, so that a pixmap lies on them and not
    between."""
    left, top = math.floor(area.left() * ratio + 1e-6), math.floor(area.top() * ratio + 1e-6)
    return left, top, math.ceil(area.right() * ratio - 1e-6) - left, math.ceil(area.bottom() * ratio - 1e-6) - top
