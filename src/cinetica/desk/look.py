"""The look of everything: the paper, the inks, and the style sheet made from them."""

from __future__ import annotations

import math
from dataclasses import asdict
from functools import cache, lru_cache
from pathlib import Path
from string import Template

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QFont,
    QFontDatabase,
    QFontInfo,
    QFontMetrics,
    QFontMetricsF,
    QPainter,
    QPainterPath,
    QPalette,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QWidget

from cinetica.palette import DASHES, DAY, LETTERS, LOG_PLACE, NIGHT, OVER_PLACE, Palette, letter, style

__all__ = ["DASHES", "DAY", "LETTERS", "LOG_PLACE", "NIGHT", "OVER_PLACE", "Palette", "letter", "style"]

DATA = Path(__file__).parents[1] / "data"


def color(name: str, alpha: int = 255) -> QColor:
    """A new colour object that the caller may change; `alpha` is out of 255."""
    return QColor(_color(name, alpha))


@cache
def _color(name: str, alpha: int) -> QColor:
    made = QColor(name)
    made.setAlpha(alpha)
    return made


def ink(palette: Palette, place: int, alpha: int = 255) -> QColor:
    """The colour of the tune at this place; see `color`."""
    return color(palette.inks[style(place)], alpha)


def ink_pen(palette: Palette, place: int, width: float = 2.0, alpha: int = 255) -> QPen:
    """The pen that draws the tune at this place everywhere."""
    pen = QPen(ink(palette, place, alpha), width)
    pen.setCosmetic(True)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    dashes = DASHES[style(place)]
    if dashes:
        pen.setDashPattern(list(dashes))
    return pen


def mixed(color: QColor, ground: QColor, share: float) -> QColor:
    """A colour blended with its background: `share` of it, the rest background."""
    pairs = ((color.redF(), ground.redF()), (color.greenF(), ground.greenF()), (color.blueF(), ground.blueF()))
    return QColor.fromRgbF(*(share * a + (1 - share) * b for a, b in pairs))


@cache
def dashes(place: int, width: float) -> tuple[float, ...]:
    """Alternating lengths on and off of the line, `width` wide, of the tune at this place."""
    return tuple(width * length for length in DASHES[style(place)])


@cache
def shape(place: int, size: float) -> QPainterPath:
    """The marker of the tune at this place, around the origin: circle, square, triangle, diamond, bar, hexagon."""
    path, r = QPainterPath(), size / 2
    corners = {1: (4, 45), 2: (3, -90), 3: (4, 0), 5: (6, 0)}
    kind = style(place)
    if kind == 0:
        path.addEllipse(QPointF(0, 0), r, r)
    elif kind == 4:
        path.addRect(QRectF(-r, -r / 2, size, r))
    else:
        count, turn = corners[kind]
        points = [
            QPointF(math.cos(math.radians(turn + n * 360 / count)), math.sin(math.radians(turn + n * 360 / count)))
            * r
            * 1.15
            for n in range(count)
        ]
        path.addPolygon(QPolygonF([*points, points[0]]))
    return path


@cache
def _families() -> list[str]:
    """Inter if it is installed, else the system's sans serif, since its default may be a serif.

    The last family has the few signs that some of them lack.
    """
    number = QFontDatabase.addApplicationFont(str(DATA / "signs.ttf"))
    signs = QFontDatabase.applicationFontFamilies(number) if number >= 0 else []
    if "Inter" in QFontDatabase.families():
        return ["Inter", *signs]
    sans = QFont("Sans Serif")
    sans.setStyleHint(QFont.StyleHint.SansSerif)
    # Ask for it by its own name: family aliases are tried only after every installed family.
    return [QFontInfo(sans).family(), *signs]


_palette = [DAY]


def set_palette(palette: Palette) -> None:
    """Set the palette of all windows; see `Window.set_look`."""
    _palette[0] = palette


def palette() -> Palette:
    """The palette of all windows. Caches of images include it in their key."""
    return _palette[0]


# The sizes of text to choose from, relative to the usual size.
TEXT_SCALES = (1.0, 1.15, 1.3, 1.45, 1.6)
_scale = [TEXT_SCALES[0]]


def set_text_scale(scale: float) -> None:
    """Set the text scale of everything created from now on."""
    _scale[0] = scale
    for cached in (font, _metrics, advance, height):
        cached.cache_clear()


def text_scale() -> float:
    """The text scale."""
    return _scale[0]


def px(pixels: float) -> int:
    """A length that grows with the text, such as a margin. Room for text is measured instead; see `width`."""
    return round(pixels * _scale[0])


@cache
def font(size: int = 10, *, bold: bool = False) -> QFont:
    """The font of the program, with digits of equal width."""
    made = QFont(_families())
    made.setStyleHint(QFont.StyleHint.SansSerif)
    made.setPixelSize(px(size + 3))
    made.setFeature(QFont.Tag("tnum"), 1)
    if bold:
        made.setWeight(QFont.Weight.DemiBold)
    return made


def fixed_font() -> QFont:
    """A monospaced font, for code."""
    made = QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont)
    made.setPixelSize(px(12))
    return made


@cache
def _metrics(size: int, bold: bool) -> QFontMetricsF:
    return QFontMetricsF(font(size, bold=bold))


@lru_cache(4096)
def advance(text: str, size: int = 10, *, bold: bool = False) -> float:
    """The width of a text in pixels."""
    return _metrics(size, bold).horizontalAdvance(text)


def width(text: str, size: int = 10, *, bold: bool = False) -> int:
    """The width of a text in pixels, rounded up."""
    return math.ceil(advance(text, size, bold=bold))


def shortened(text: str, size: int, room: float) -> str:
    """A text, elided with dots if it does not fit."""
    if advance(text, size) <= room:
        return text
    return QFontMetrics(font(size)).elidedText(text, Qt.TextElideMode.ElideRight, max(0, round(room)))


def baseline(middle: float, size: int = 10, *, bold: bool = False) -> int:
    """The baseline, on a whole pixel, of a line of text with its middle here."""
    metrics = _metrics(size, bold)
    return round(middle + (metrics.ascent() - metrics.descent()) / 2)


@cache
def height(size: int = 10, *, bold: bool = False) -> int:
    """The height of a line of text in pixels, rounded up."""
    return math.ceil(_metrics(size, bold).height())


def qt_palette(p: Palette) -> QPalette:
    """The colours of what Qt's own style draws."""
    made = QPalette()
    for role, color in (
        (QPalette.ColorRole.Window, p.sheet), (QPalette.ColorRole.Base, p.paper), (QPalette.ColorRole.AlternateBase,
        p.sheet),
        (QPalette.ColorRole.Button, p.sheet), (QPalette.ColorRole.WindowText, p.ink), (QPalette.ColorRole.Text, p.ink),
        (QPalette.ColorRole.ButtonText, p.ink), (QPalette.ColorRole.PlaceholderText, p.soft),
        (QPalette.ColorRole.ToolTipBase, p.paper), (QPalette.ColorRole.ToolTipText, p.ink),
        (QPalette.ColorRole.Highlight, p.accent), (QPalette.ColorRole.HighlightedText, p.paper),
        (QPalette.ColorRole.Mid, p.grid), (QPalette.ColorRole.Dark, p.soft),
    ):  # fmt: skip
        made.setColor(role, QColor(color))
    return made


def on_paper(widget: QWidget) -> None:
    """Give a widget the colour of the paper. Being opaque, it saves Qt from painting what is under it."""
    _fill(widget, QPalette.ColorRole.Base)


def on_sheet(widget: QWidget) -> None:
    """The same with the colour of the sheet."""
    _fill(widget, QPalette.ColorRole.Window)


def _fill(widget: QWidget, role: QPalette.ColorRole) -> None:
    widget.setBackgroundRole(role)
    widget.setAutoFillBackground(True)


def fill_ground(painter: QPainter, rect: QRectF, ground: QColor) -> None:
    """Fill a rectangle and the pixels at its edges that it covers in part.

    At a scale of 1.25 a widget's edge may lie inside a pixel of the screen. An opaque widget that fills just itself
    leaves such a pixel unpainted; the painter's clip keeps the rest of the wider rectangle out.
    """
    painter.fillRect(rect.adjusted(-1, -1, 1, 1), ground)


def style_sheet(p: Palette) -> str:
    """The style sheet of a window, `data/window.qss`, in the colours of a palette."""
    return Template((DATA / "window.qss").read_text()).substitute(asdict(p), data=DATA.as_posix())
