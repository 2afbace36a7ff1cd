"""How everything looks: the paper, the inks, and the style sheet made from them."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPainterPath, QPalette, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

# The arrow of what opens.
OPENS = (Path(__file__).parents[1] / "data" / "opens.svg").as_posix()
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
# What is no tune comes behind all tunes: the reference on another drill is W, curves from the game are X, Y, Z.
OVER_PLACE, LOG_PLACE = 22, 23


@dataclass(frozen=True)
class Palette:
    """Colours of one look. Text has a contrast of at least 4.5 to 1 on `paper` and on `sheet`."""

    name: str
    paper: str
    sheet: str
    grid_fine: str
    grid: str
    ink: str
    soft: str
    frame: str
    frame_text: str
    frame_soft: str
    accent: str
    earth: str
    earth_edge: str
    differs: str
    warning: str
    inks: tuple[str, ...]


DAY = Palette(
    name="day", paper="#FBF8F1", sheet="#F4EEE1", grid_fine="#ECE4D3", grid="#DACFB8", ink="#2B2A27", soft="#6B6356",
    frame="#153A40", frame_text="#F4EEE1", frame_soft="#A9BFBD", accent="#0F6B63", earth="#DACFB8", earth_edge="#8A7F69",
    differs="#FFF1CC", warning="#A3260B",
    inks=("#1F4E9E", "#C2410C", "#4D7C0F", "#7E3794", "#A16207", "#475569"),
)  # fmt: skip
NIGHT = Palette(
    name="night", paper="#14201F", sheet="#192827", grid_fine="#1E2E2D", grid="#2A3F3D", ink="#E9E2D2", soft="#94A09A",
    frame="#0B1516", frame_text="#E9E2D2", frame_soft="#94A09A", accent="#4FB8AC", earth="#2A3A37", earth_edge="#5B716C",
    differs="#3A301B", warning="#FF9B80",
    inks=("#86AEFF", "#FF8F5C", "#A3D15B", "#D59AEC", "#E3B455", "#A9B8CC"),
)  # fmt: skip

# A tune is told by letter, ink, dash pattern and marker shape, so that no two rely on colour alone.
DASHES: tuple[tuple[float, ...], ...] = ((), (6, 3), (1.5, 2.5), (7, 2.5, 1.5, 2.5), (12, 4), (3, 2))


def style(place: int) -> int:
    """Which of the six styles the tune at this place of the study has. From the seventh on they come again, but never
    that of the first, which is the one that the others are held against."""
    if place >= OVER_PLACE:
        return 5
    return place if place < 6 else 1 + (place - 1) % 5


def letter(place: int) -> str:
    return LETTERS[place % len(LETTERS)]


def ink(palette: Palette, place: int) -> QColor:
    return QColor(palette.inks[style(place)])


def ink_pen(palette: Palette, place: int, width: float = 2.0, alpha: int = 255) -> QPen:
    """The pen with which the tune at this place of the study is drawn everywhere."""
    color = ink(palette, place)
    color.setAlpha(alpha)
    pen = QPen(color, width)
    pen.setCosmetic(True)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    dashes = DASHES[style(place)]
    if dashes:
        pen.setDashPattern(list(dashes))
    return pen


def mixed(color: QColor, ground: QColor, share: float) -> QColor:
    """A colour thinned on its ground: `share` of it, the rest the ground."""
    pairs = ((color.redF(), ground.redF()), (color.greenF(), ground.greenF()), (color.blueF(), ground.blueF()))
    return QColor.fromRgbF(*(share * a + (1 - share) * b for a, b in pairs))


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
        points = [QPointF(math.cos(math.radians(turn + n * 360 / count)), math.sin(math.radians(turn + n * 360 / count))) * r * 1.15 for n in range(count)]
        path.addPolygon(QPolygonF([*points, points[0]]))
    return path


@cache
def _family() -> str:
    return "Inter" if "Inter" in QFontDatabase.families() else ""


# How much larger than usual all text is, in the steps that the person can choose.
TEXT_SCALES = (1.0, 1.15, 1.3, 1.5)
_scale = [TEXT_SCALES[0]]


def set_text_scale(scale: float) -> None:
    """For all that is made from now on."""
    _scale[0] = scale
    font.cache_clear()


def px(pixels: float) -> int:
    """A length that has to grow with the text."""
    return round(pixels * _scale[0])


@cache
def font(size: int = 10, *, bold: bool = False) -> QFont:
    """Inter where it is installed, else the system's sans; figures of equal width."""
    family = _family()
    made = QFont(family) if family else QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont)
    made.setPixelSize(px(size + 3))
    made.setFeature(QFont.Tag("tnum"), 1)
    if bold:
        made.setWeight(QFont.Weight.DemiBold)
    return made


def qt_palette(p: Palette) -> QPalette:
    """The colours for what Qt's own style draws."""
    made = QPalette()
    for role, color in (
        (QPalette.ColorRole.Window, p.sheet), (QPalette.ColorRole.Base, p.paper), (QPalette.ColorRole.AlternateBase, p.sheet),
        (QPalette.ColorRole.Button, p.sheet), (QPalette.ColorRole.WindowText, p.ink), (QPalette.ColorRole.Text, p.ink),
        (QPalette.ColorRole.ButtonText, p.ink), (QPalette.ColorRole.PlaceholderText, p.soft),
        (QPalette.ColorRole.ToolTipBase, p.paper), (QPalette.ColorRole.ToolTipText, p.ink),
        (QPalette.ColorRole.Highlight, p.accent), (QPalette.ColorRole.HighlightedText, p.paper),
        (QPalette.ColorRole.Mid, p.grid), (QPalette.ColorRole.Dark, p.soft),
    ):  # fmt: skip
        made.setColor(role, QColor(color))
    return made


def on_paper(widget: QWidget) -> None:
    """Give a widget the ground of the paper. Known to be opaque, it spares Qt from painting all that lies under it."""
    _fill(widget, QPalette.ColorRole.Base)


def on_sheet(widget: QWidget) -> None:
    """The same with the ground of the sheet."""
    _fill(widget, QPalette.ColorRole.Window)


def _fill(widget: QWidget, role: QPalette.ColorRole) -> None:
    widget.setBackgroundRole(role)
    widget.setAutoFillBackground(True)


def style_sheet(p: Palette) -> str:
    return f"""
    QMainWindow, QDialog, QMessageBox {{ background: {p.sheet}; }}
    QToolTip {{ color: {p.ink}; background: {p.paper}; border: 1px solid {p.grid}; padding: 4px; }}
    #header {{ background: {p.frame}; }}
    #header QLabel, #header QToolButton, #header QComboBox {{ color: {p.frame_text}; }}
    #header QToolButton {{ border: none; padding: 6px 10px; }}
    #header QToolButton:hover, #header QComboBox:hover {{ background: rgba(255,255,255,28); }}
    #header QToolButton:focus, #header QComboBox:focus {{ outline: none; border-bottom: 2px solid {p.frame_soft}; }}
    #header QToolButton::menu-indicator {{ image: none; }}
    #header QToolButton:checked {{ border-bottom: 3px solid #E0A040; font-weight: 600; }}
    #header QComboBox {{ background: transparent; border: none; padding: 5px 8px; }}
    #header QComboBox::drop-down {{ border: none; width: 0; }}
    #header #quiet {{ color: {p.frame_soft}; }}
    QMenu, QComboBox QAbstractItemView {{ background: {p.paper}; border: 1px solid {p.grid}; padding: 3px; }}
    QMenu::item {{ padding: 5px 22px 5px 14px; }}
    QMenu::item:selected, QComboBox QAbstractItemView::item:selected {{ background: {p.differs}; color: {p.ink}; }}
    QMenu::item:disabled {{ color: {p.soft}; }}
    QMenu::separator {{ height: 1px; background: {p.grid}; margin: 3px 8px; }}
    #transport {{ background: {p.sheet}; border-top: 1px solid {p.grid}; }}
    #transport QToolButton {{ border: none; padding: 4px 6px; border-radius: 3px; }}
    #transport QToolButton:hover, #foot QToolButton:hover {{ background: {p.grid_fine}; }}
    #bar {{ background: {p.sheet}; border-top: 1px solid {p.grid}; border-bottom: 1px solid {p.grid}; }}
    #bar QToolButton {{ border: none; padding: 3px 6px; border-radius: 3px; }}
    #bar QToolButton:hover {{ background: {p.grid_fine}; }}
    #bar QToolButton:checked {{ color: {p.accent}; font-weight: 600; background: {p.grid_fine}; }}
    #bar QToolButton:focus {{ border: 1px solid {p.accent}; }}
    #bar QToolButton::menu-indicator, #transport QToolButton::menu-indicator {{ image: none; }}
    QTreeWidget, QTableView {{ background: {p.paper}; color: {p.ink}; }}
    QTreeWidget::item {{ padding: 1px 0; }}
    QTreeWidget::item:selected, QTableView::item:selected {{ background: {p.differs}; color: {p.ink}; }}
    QTableView QHeaderView::section {{ background: {p.sheet}; border: none; border-bottom: 1px solid {p.grid}; padding: 2px 6px; }}
    QSpinBox, QDoubleSpinBox {{ padding: 0 2px; }}
    QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{ width: 0; border: none; }}
    QSpinBox QLineEdit, QDoubleSpinBox QLineEdit {{ padding: 0 2px; border: none; background: transparent; }}
    QTreeView QLineEdit {{ padding: 0 2px; }}
    #transport QToolButton:checked {{ color: {p.accent}; font-weight: 600; }}
    #transport QToolButton:focus, #foot QToolButton:focus {{ border: 1px solid {p.accent}; }}
    QLineEdit, QSpinBox, QDoubleSpinBox, QPlainTextEdit, QTextBrowser {{ background: {p.paper}; border: 1px solid {p.grid}; border-radius: 3px;
        padding: 3px 6px; selection-background-color: {p.accent}; selection-color: {p.paper}; }}
    QLineEdit:focus, QSpinBox:focus, QDoubleSpinBox:focus {{ border-color: {p.accent}; }}
    QDialog QComboBox {{ background: {p.paper}; border: 1px solid {p.grid}; border-radius: 3px; padding: 3px 6px; }}
    QDialog QComboBox::drop-down {{ border: none; width: 20px; }}
    QDialog QComboBox::down-arrow {{ image: url({OPENS}); width: 10px; height: 6px; }}
    QDialogButtonBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
    QTableWidget {{ gridline-color: {p.grid_fine}; border: 1px solid {p.grid}; }}
    QDialog QListView, QDialog QTreeView {{ border: 1px solid {p.grid}; }}
    QTabWidget::pane {{ border: 1px solid {p.grid}; border-radius: 3px; background: {p.sheet}; }}
    QTabBar::tab {{ background: {p.sheet}; border: 1px solid {p.grid}; border-bottom: none; padding: 5px 12px; }}
    QTabBar::tab:selected {{ background: {p.paper}; color: {p.accent}; }}
    QCheckBox {{ spacing: 6px; }}
    QCheckBox::indicator {{ width: 12px; height: 12px; border: 1px solid {p.soft}; border-radius: 2px; background: {p.paper}; }}
    QCheckBox::indicator:checked {{ background: {p.accent}; border-color: {p.accent}; }}
    QCheckBox:focus {{ color: {p.accent}; }}
    QPushButton {{ background: {p.paper}; border: 1px solid {p.grid}; border-radius: 3px; padding: 5px 14px; }}
    QPushButton:focus, QPushButton:hover {{ border-color: {p.accent}; }}
    QScrollBar:vertical {{ background: transparent; width: 9px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 9px; margin: 0; }}
    QScrollBar::handle {{ background: {p.grid}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QSplitter::handle {{ background: {p.grid}; }}
    QSplitter#stack::handle:vertical {{ background: {p.paper}; border-top: 1px solid {p.grid}; }}
    QSplitter#stack::handle:hover {{ background: {p.grid}; }}
    #title {{ color: {p.accent}; font-weight: 600; }}
    QToolButton#title {{ background: {p.paper}; }}
    QToolButton#title {{ border: none; padding: 2px 4px; }}
    QToolButton#title:hover, QToolButton#title:focus {{ background: {p.grid_fine}; }}
    QToolButton#title::menu-indicator {{ image: none; }}
    #soft {{ color: {p.soft}; }}
    #warning {{ color: {p.warning}; font-weight: 600; }}
    """
