"""Any part of the page as a picture: PNG or SVG."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QPoint, QRect
from PySide6.QtGui import QImage, QImageWriter, QPainter
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import QWidget

from cinetica.files.atomic_write import write_atomically

# PNG pixels per screen pixel, so that it is sharp on paper, too.
SHARPER = 2


def svg_of(widget: QWidget, title: str) -> bytes:
    """The widget as SVG."""
    content = QByteArray()
    buffer = QBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    generator = QSvgGenerator()
    generator.setOutputDevice(buffer)
    generator.setSize(widget.size())
    generator.setViewBox(QRect(QPoint(0, 0), widget.size()))
    generator.setTitle(title)
    with QPainter(generator) as painter:
        widget.render(painter, QPoint(0, 0))
    buffer.close()
    return bytes(content.data())


def image_of(widget: QWidget, sharper: int = SHARPER) -> QImage:
    """The widget as an image, `sharper` times the resolution."""
    image = QImage(widget.size() * sharper, QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(sharper)
    with QPainter(image) as painter:
        widget.render(painter, QPoint(0, 0))
    return image


def png_of(widget: QWidget) -> bytes:
    """The widget as PNG."""
    content = QByteArray()
    buffer = QBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    QImageWriter(buffer, QByteArray(b"PNG")).write(image_of(widget))
    buffer.close()
    return bytes(content.data())


def save_picture(widget: QWidget, path: Path, title: str) -> None:
    """Save as SVG or PNG, by the suffix. OSError if it cannot be written, ValueError if nothing is visible."""
    if widget.width() <= 0 or widget.height() <= 0 or not widget.isVisible():
        raise ValueError("There is nothing to draw: this part of the window is folded. Open it first.")
    write_atomically(path, svg_of(widget, title) if path.suffix.lower() == ".svg" else png_of(widget))
