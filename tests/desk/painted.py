"""What a window shows, as pixels and as words, for tests that look at it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPoint, QPointF, QRect, QRectF
from PySide6.QtGui import QFont, QImage, QPaintDevice, QPaintEngine, QPainter, QRegion
from PySide6.QtWidgets import QApplication, QGraphicsView, QWidget

from cinetica.desk.paint.kept import painted_anew


def settle() -> None:
    """Until nothing waits any more: layouts, paintings and timers of no time."""
    for _ in range(6):
        QApplication.processEvents()


def pixels_of(image: QImage) -> np.ndarray:
    """Rows × columns × (blue, green, red)."""
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    flat = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return flat[:, : image.width(), :3].astype(int)


def on_screen(window: QWidget) -> np.ndarray:
    """What the screen shows of a window now, without painting anything for it."""
    return pixels_of(window.screen().grabWindow(window.winId()).toImage())


def anew(window: QWidget) -> np.ndarray:
    """The same after everything has been painted once more, from no kept picture."""
    with painted_anew():
        for widget in (window, *window.findChildren(QWidget)):
            widget.update()
        for view in window.findChildren(QGraphicsView):
            view.scene().update()
            view.viewport().update()
        settle()
        return on_screen(window)


def differing(a: np.ndarray, b: np.ndarray) -> int:
    """Pixels that differ by more than rounding."""
    assert a.shape == b.shape
    return int((np.abs(a - b).max(axis=2) > 2).sum())


@dataclass
class Word:
    """A text as it is drawn: where in the window, what is left of it, in which font, by which widget."""

    text: str
    rect: QRectF
    clip: QRectF
    font: QFont
    widget: QWidget

    @property
    def seen(self) -> QRectF:
        return self.rect.intersected(self.clip)


class _Engine(QPaintEngine):
    """It draws nothing and notes every text."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(QPaintEngine.PaintEngineFeature.AllFeatures)
        self.widget, self.words = widget, []

    def begin(self, device: QPaintDevice) -> bool:
        return True

    def end(self) -> bool:
        return True

    def type(self) -> QPaintEngine.Type:
        return QPaintEngine.Type.User

    def drawTextItem(self, at: QPointF, item) -> None:
        if not item.text().strip():
            return
        painter = self.painter()
        transform = painter.combinedTransform()
        local = QRectF(at.x(), at.y() - item.ascent(), item.width(), item.ascent() + item.descent())
        rect = transform.mapRect(local)
        clip = QRectF(self.widget.visibleRegion().boundingRect())
        if painter.hasClipping():
            clip = clip.intersected(transform.mapRect(painter.clipBoundingRect()))
        corner = QPointF(self.widget.mapTo(self.widget.window(), QPoint(0, 0)))
        self.words.append(Word(item.text(), rect.translated(corner), clip.translated(corner), item.font(), self.widget))

    def _nothing(self, *_: object) -> None:
        pass

    updateState = drawPixmap = drawImage = drawPath = drawRects = drawLines = _nothing
    drawPolygon = drawEllipse = drawPoints = drawTiledPixmap = _nothing


class _Device(QPaintDevice):
    def __init__(self, widget: QWidget) -> None:
        super().__init__()
        self.size, self.engine = widget.size(), _Engine(widget)

    def paintEngine(self) -> QPaintEngine:
        return self.engine

    def metric(self, metric: QPaintDevice.PaintDeviceMetric) -> int:
        names = QPaintDevice.PaintDeviceMetric
        known = {
            names.PdmWidth: self.size.width(), names.PdmHeight: self.size.height(), names.PdmWidthMM: self.size.width() // 4,
            names.PdmHeightMM: self.size.height() // 4, names.PdmNumColors: 1 << 24, names.PdmDepth: 32, names.PdmDevicePixelRatio: 1,
            names.PdmDevicePixelRatioScaled: 65536,
        }  # fmt: skip
        return known.get(metric, 96)


def words_of(window: QWidget) -> list[Word]:
    """Every text that a window draws, widget by widget, whether all of it can be seen or not."""
    words = []
    for widget in (window, *window.findChildren(QWidget)):
        if widget.window() is not window or not widget.isVisible() or widget.visibleRegion().isEmpty():
            continue
        device = _Device(widget)
        painter = QPainter(device)
        widget.render(painter, QPoint(0, 0), QRegion(QRect(QPoint(0, 0), widget.size())), QWidget.RenderFlag.IgnoreMask)
        painter.end()
        words += device.engine.words
    return words
