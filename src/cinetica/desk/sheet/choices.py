"""The list of a choice: each value says what it does and shows it as a small curve."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetrics, QGuiApplication, QIcon, QPainter, QPainterPath, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QFrame, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.state.session import Session
from cinetica.model.parameters import Option, Parameter
from cinetica.model.tune import Tune

PICTURE = QSize(84, 38)
Curve = tuple[NDArray[np.float64], NDArray[np.float64]]


class ChoicePopup(QFrame):
    """Arrow keys or mouse select, Enter or a click applies, Escape cancels."""

    def __init__(self, session: Session, tune: Tune, parameter: Parameter, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        palette = look.palette()
        self.session, self.tune, self.parameter = session, tune, parameter
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setStyleSheet(f"ChoicePopup {{ background: {palette.paper}; border: 1px solid {palette.earth_edge}; }}"
                           f"QListWidget {{ background: {palette.paper}; border: none; outline: none; }}"
                           f"QListWidget::item {{ padding: 4px 8px; }}"
                           f"QListWidget::item:selected {{ background: {palette.differs};"
                           f" color: {palette.ink}; }}")  # fmt: skip
        self.list = QListWidget()
        self.list.setAccessibleName(parameter.label)
        self.list.setFont(look.font(9))
        self.list.setIconSize(PICTURE)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        options = parameter.choices(tune.view)
        # Its drills are validated when loaded, and a start need not wait for that.
        from cinetica.reading.probes import probe_curve

        curves = [probe_curve(tune, parameter.id, option.id) for option in options]
        for option, picture in zip(options, pictures(curves, palette), strict=True):
            self.list.addItem(self._item(option, picture))
        self.list.setCurrentRow([option.id for option in options].index(str(tune.get(parameter.id))))
        self.list.itemActivated.connect(self._take)
        self.list.itemClicked.connect(self._take)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(1, 1, 1, 1)
        layout.addWidget(self.list)
        metrics = QFontMetrics(look.font(9))
        widest = max(metrics.horizontalAdvance(option.meaning) for option in options)
        room = (QGuiApplication.primaryScreen().availableGeometry().size() * 0.9).boundedTo(QSize(look.px(720), 10_000))
        high = self.list.sizeHintForRow(0) * len(options) + 10
        self.setFixedSize(QSize(widest + PICTURE.width() + 48, high).boundedTo(room))

    def _item(self, option: Option, picture: QPixmap | None) -> QListWidgetItem:
        item = QListWidgetItem(f"{option.id.replace('_', ' ')}\n{option.meaning}")
        item.setData(Qt.ItemDataRole.UserRole, option.id)
        item.setToolTip(option.meaning)
        if picture is not None:
            icon = QIcon(picture)
            icon.addPixmap(picture, QIcon.Mode.Selected)
            item.setIcon(icon)
        return item

    def open_at(self, corner: QPoint) -> None:
        """Show the list at a point."""
        screen = QGuiApplication.screenAt(corner) or QGuiApplication.primaryScreen()
        room = screen.availableGeometry()
        self.move(min(corner.x(), room.right() - self.width()), min(corner.y(), room.bottom() - self.height()))
        self.show()
        self.list.setFocus()

    def _take(self, item: QListWidgetItem) -> None:
        self.close()
        self.session.set_value(
            self.session.study.tune(self.tune.name), self.parameter, item.data(Qt.ItemDataRole.UserRole)
        )


def pictures(curves: list[Curve | None], palette: look.Palette) -> list[QPixmap | None]:
    """The curves of all values at one common scale, so that they can be compared."""
    drawn = [curve for curve in curves if curve is not None]
    if not drawn:
        return [None] * len(curves)
    bounds = QRectF()
    for across, up in drawn:
        low = QPointF(float(across.min()), float(up.min()))
        high = QPointF(float(across.max()), float(up.max()))
        bounds = bounds.united(QRectF(low, high + QPointF(1e-6, 1e-6)))
    return [None if curve is None else _picture(curve, bounds, palette) for curve in curves]


def _picture(curve: Curve, bounds: QRectF, palette: look.Palette) -> QPixmap:
    ratio = 2.0
    pixmap = QPixmap(PICTURE * ratio)
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(QColor(palette.paper))
    with QPainter(pixmap) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QColor(palette.grid))
        painter.drawRect(QRectF(0.5, 0.5, PICTURE.width() - 1, PICTURE.height() - 1))
        wide, high = (PICTURE.width() - 8) / bounds.width(), (PICTURE.height() - 8) / bounds.height()
        path = QPainterPath()
        for number, (across, up) in enumerate(zip(*curve, strict=True)):
            x, y = 4 + (across - bounds.left()) * wide, PICTURE.height() - 4 - (up - bounds.top()) * high
            path.lineTo(x, y) if number else path.moveTo(x, y)
        painter.setPen(look.ink_pen(palette, 0, 1.6))
        painter.drawPath(path)
    return pixmap
