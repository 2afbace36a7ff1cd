"""Pictures that are painted once and laid down again for as long as all that they depend on stays the same."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPaintEngine, QPainter

# How many have asked that nothing be taken from a kept picture.
_anew = [0]


@contextmanager
def painted_anew() -> Iterator[None]:
    """While this lasts nothing is laid down from a kept picture: a test of truth compares with it."""
    _anew[0] += 1
    try:
        yield
    finally:
        _anew[0] -= 1


def anew() -> bool:
    """Whether everything is to be painted anew now."""
    return _anew[0] > 0


def whole_pixels(area: QRectF, ratio: float) -> tuple[int, int, int, int]:
    """Left, top, width and height of an area in whole pixels of the device, so that a picture lies on them and not
    between."""
    left, top = math.floor(area.left() * ratio + 1e-6), math.floor(area.top() * ratio + 1e-6)
    return left, top, math.ceil(area.right() * ratio - 1e-6) - left, math.ceil(area.bottom() * ratio - 1e-6) - top


def on_pixels(painter: QPainter) -> bool:
    """Whether it paints on a screen or an image; on all else (a printer, an SVG file) lines stay lines."""
    return painter.paintEngine().type() is _PIXELS


_PIXELS = QPaintEngine.Type.Raster


class Kept:
    """One picture, with the key that it was painted for."""

    def __init__(self) -> None:
        self._image: QImage | None = None
        self._key: object = None

    def lay(
        self, painter: QPainter, area: QRectF, ground: QColor, key: object, paint: Callable[[QPainter], None]
    ) -> None:
        """Fill `area`, in pixels of the painter without its transform, with `ground` and what `paint` draws on it."""
        painter.save()
        painter.resetTransform()
        if not on_pixels(painter):
            painter.setClipRect(area)
            painter.fillRect(area, ground)
            paint(painter)
        else:
            self._lay_kept(painter, area, ground, key, paint)
        painter.restore()

    def _lay_kept(
        self, painter: QPainter, area: QRectF, ground: QColor, key: object, paint: Callable[[QPainter], None]
    ) -> None:
        ratio = painter.device().devicePixelRatioF()
        left, top, wide, high = whole_pixels(area, ratio)
        if wide <= 0 or high <= 0:
            return
        whole = (key, left, top, wide, high, ratio, ground.rgb())
        if self._image is None or self._key != whole or anew():
            image = self._image
            if image is None or image.width() != wide or image.height() != high:
                image = QImage(wide, high, QImage.Format.Format_RGB32)
            image.fill(ground)
            on_image = QPainter(image)
            on_image.translate(-left, -top)
            on_image.scale(ratio, ratio)
            paint(on_image)
            on_image.end()
            self._image, self._key = image, whole
        where = QRectF(left / ratio, top / ratio, wide / ratio, high / ratio)
        painter.drawImage(where, self._image, QRectF(0, 0, wide, high))
