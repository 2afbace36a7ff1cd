"""What a window shows, as pixels and as texts."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, QRect, QRectF
from PySide6.QtGui import (
    QColor,
    QFont,
    QFontMetrics,
    QFontMetricsF,
    QImage,
    QPaintDevice,
    QPaintEngine,
    QPainter,
    QRegion,
)
from PySide6.QtWidgets import (
    QAbstractItemView,
    QAbstractScrollArea,
    QApplication,
    QGraphicsView,
    QHeaderView,
    QLineEdit,
    QWidget,
)

from cinetica.desk.paint.layer_cache import without_paint_caches


def settle() -> None:
    """Process events until nothing is pending: layouts, repaints and zero timers."""
    for _ in range(6):
        QApplication.processEvents()


@contextmanager
def layouts_of(watched: QObject) -> Iterator[list[QObject]]:
    """The layout requests inside this context: of one widget, or of all widgets."""
    asked: list[QObject] = []

    class Watch(QObject):
        def eventFilter(self, of: QObject, event: QEvent) -> bool:
            if event.type() == QEvent.Type.LayoutRequest:
                asked.append(of)
            return False

    watch = Watch()
    watched.installEventFilter(watch)
    yield asked
    watched.removeEventFilter(watch)


def pixels_of(image: QImage) -> np.ndarray:
    """Rows × columns × (blue, green, red)."""
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    flat = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return flat[:, : image.width(), :3].copy()


def on_screen(window: QWidget) -> np.ndarray:
    """The current pixels of a window, without repainting it."""
    return pixels_of(window.screen().grabWindow(window.winId()).toImage())


def anew(window: QWidget) -> np.ndarray:
    """The pixels of a window after repainting everything, without cached images."""
    with without_paint_caches():
        for widget in (window, *window.findChildren(QWidget)):
            widget.update()
        for view in window.findChildren(QGraphicsView):
            view.scene().update()
            view.viewport().update()
        settle()
        return on_screen(window)


def differing(a: np.ndarray, b: np.ndarray) -> int:
    """The pixels that differ by more than rounding."""
    assert a.shape == b.shape
    if np.array_equal(a, b):
        return 0
    return int((np.abs(a.astype(int) - b).max(axis=2) > 2).sum())


@dataclass
class Word:
    """A text as it is drawn: its place in the window, the visible part, its font and its widget."""

    text: str
    rect: QRectF
    clip: QRectF
    font: QFont
    color: QColor
    widget: QWidget

    @property
    def seen(self) -> QRectF:
        return self.rect.intersected(self.clip)


class _Engine(QPaintEngine):
    """A paint engine that draws nothing and records every text."""

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
        # Only as high as its ink: the space that a font reserves above and below may be cut off.
        ink = QFontMetricsF(item.font()).tightBoundingRect(item.text())
        local = QRectF(at.x(), at.y() + ink.top(), item.width(), ink.height())
        rect = transform.mapRect(local)
        clip = QRectF(self.widget.visibleRegion().boundingRect())
        if painter.hasClipping():
            clip = clip.intersected(transform.mapRect(painter.clipBoundingRect()))
        corner = QPointF(self.widget.mapTo(self.widget.window(), QPoint(0, 0)))
        self.words.append(
            Word(
                item.text(),
                rect.translated(corner),
                clip.translated(corner),
                item.font(),
                painter.pen().color(),
                self.widget,
            )
        )

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
            names.PdmWidth: self.size.width(), names.PdmHeight: self.size.height(),
            names.PdmWidthMM: self.size.width() // 4,
            names.PdmHeightMM: self.size.height() // 4, names.PdmNumColors: 1 << 24, names.PdmDepth: 32,
            names.PdmDevicePixelRatio: 1,
            names.PdmDevicePixelRatioScaled: 65536,
        }  # fmt: skip
        return known.get(metric, 96)


def words_of(window: QWidget) -> list[Word]:
    """Every text that a window draws, by widget, visible or not."""
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


def luminance(color: tuple[int, int, int]) -> float:
    """Relative luminance of red, green and blue (WCAG 2)."""
    parts = [value / 255 for value in color]
    linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(a: tuple[int, int, int], b: tuple[int, int, int]) -> float:
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def contrast_of(word: Word, picture: np.ndarray) -> float:
    """The contrast of a text with the most frequent colour around it."""
    rect = word.seen.toRect().adjusted(-2, -2, 2, 2).intersected(QRect(0, 0, picture.shape[1], picture.shape[0]))
    under = picture[rect.top() : rect.bottom() + 1, rect.left() : rect.right() + 1].reshape(-1, 3)
    colors, counts = np.unique(under, axis=0, return_counts=True)
    blue, green, red = colors[counts.argmax()]
    return contrast((word.color.red(), word.color.green(), word.color.blue()), (red, green, blue))


def _scrolls(word: Word) -> tuple[bool, bool]:
    """Whether the part that is cut off can be scrolled to."""
    across = up = isinstance(word.widget, QLineEdit)
    widget = word.widget
    while widget is not None:
        if isinstance(widget, QAbstractScrollArea) and not isinstance(widget, QGraphicsView):
            across |= widget.horizontalScrollBar().maximum() > 0
            up |= widget.verticalScrollBar().maximum() > 0
        widget = widget.parentWidget()
    return across, up


def _tip(word: Word) -> str:
    widget = word.widget
    view = widget.parentWidget()
    if isinstance(view, QHeaderView):
        section = view.logicalIndexAt(widget.mapFrom(widget.window(), word.seen.center().toPoint()))
        return str(view.model().headerData(section, view.orientation(), 3) or "")
    if isinstance(view, QAbstractItemView) and widget is view.viewport():
        at = widget.mapFrom(widget.window(), word.seen.center().toPoint())
        index = view.indexAt(at)
        if index.isValid():
            return str(index.data(3) or "")
    while widget is not None:
        if widget.toolTip():
            return widget.toolTip()
        widget = widget.parentWidget()
    return ""


def _meant(word: Word) -> bool:
    """Whether an ellipsis belongs to the text and does not stand for omitted words."""
    texts = [getattr(word.widget, name, str)() for name in ("text", "placeholderText", "title")]
    return any(word.text.strip() in str(text).replace("&", "") for text in texts)


def faults_of(window: QWidget, words: list[Word] | None = None) -> list[str]:
    """What is wrong with the texts of a window: cut off, overlapping, elided without a tooltip, or in a wrong font."""
    words = words_of(window) if words is None else words
    faults = []
    for word in words:
        across, up = _scrolls(word)
        if word.clip.isEmpty() and (across or up):
            continue
        rect, clip = word.rect, word.clip.adjusted(-1.5, -1.5, 1.5, 1.5)
        if not across and (rect.left() < clip.left() or rect.right() > clip.right()):
            faults.append(
                f"cut at a side: “{word.text}” {rect.getRect()} in {word.clip.getRect()} of"
                f" {type(word.widget).__name__}"
            )
        elif not up and (rect.top() < clip.top() or rect.bottom() > clip.bottom()):
            faults.append(
                f"cut above or below: “{word.text}” {rect.getRect()} in {word.clip.getRect()} of"
                f" {type(word.widget).__name__}"
            )
        if "…" in word.text and word.seen.isValid() and not _meant(word) and not _tip(word):
            faults.append(f"shortened without a tooltip: “{word.text}” of {type(word.widget).__name__}")
        metrics = QFontMetrics(word.font)
        if missing := [letter for letter in word.text if not letter.isspace() and not metrics.inFontUcs4(ord(letter))]:
            faults.append(f"not in the font: {missing} of “{word.text}”")
    seen = [(word, word.seen.adjusted(1, 1, -1, -1)) for word in words if word.seen.isValid()]
    seen.sort(key=lambda pair: pair[1].left())
    for place, (word, rect) in enumerate(seen):
        for other, other_rect in seen[place + 1 :]:
            if other_rect.left() > rect.right():
                break
            if rect.intersects(other_rect) and not (
                len(word.text) == len(other.text) == 1 and word.widget is other.widget
            ):
                faults.append(
                    f"one over the other: “{word.text}” {rect.getRect()} and “{other.text}” {other_rect.getRect()}"
                )
    return faults
