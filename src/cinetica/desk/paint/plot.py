"""A plot on the paper: pyqtgraph's view and axes, without its menu, buttons and frames."""

from __future__ import annotations

from typing import Protocol

import pyqtgraph as pg
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QRegion
from PySide6.QtWidgets import (
    QGraphicsGridLayout,
    QGraphicsItem,
    QGraphicsObject,
    QGraphicsScene,
    QGraphicsView,
    QGraphicsWidget,
    QSizePolicy,
)

from cinetica.desk import look
from cinetica.desk.paint.axes import PaperAxis, numbers_width
from cinetica.desk.paint.steps import across_step, up_step


class Alone(Protocol):
    """The paper of a plot, which can be painted without Qt's scene; see `Plate`."""

    def paint_alone(self, wanted: QRegion) -> bool: ...


class PaperPlot(pg.GraphicsView):
    """Numbers at the left, and with `bottom` below. Nothing is dragged in it until it is allowed.

    Of pyqtgraph it has view box and axes; `pg.PlotWidget` would make menus, titles and legends with each of them.
    """

    def __init__(self, *, bottom: bool = False) -> None:
        super().__init__(background=None)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.enableMouse(False)
        self.axes = {"left": PaperAxis("left")}
        self.axes["left"].setWidth(numbers_width())
        if bottom:
            self.axes["bottom"] = PaperAxis("bottom")
            self.axes["bottom"].setHeight(look.height(8) + 5)
        self.box = pg.ViewBox(enableMenu=False, defaultPadding=0)
        self.box.setMouseEnabled(x=False, y=False)
        self.box.disableAutoRange()
        self._lay_out()
        self.setAntialiasing(True)
        self.scene().setItemIndexMethod(QGraphicsScene.ItemIndexMethod.NoIndex)
        # What has changed, and no more: the paper is one item, and numbers that stay need not be laid down again.
        self.setViewportUpdateMode(QGraphicsView.ViewportUpdateMode.MinimalViewportUpdate)
        self.setFrameShape(self.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.plate: Alone | None = None
        # What lies over the paper.
        self.over: list[QGraphicsObject] = []
        self._dressed_in: look.Palette | None = None
        self._dress()

    def _lay_out(self) -> None:
        whole, grid = QGraphicsWidget(), QGraphicsGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        grid.addItem(self.box, 0, 1)
        for axis, place in zip(self.axes.values(), ((0, 0), (1, 1)), strict=False):
            axis.setZValue(0.5)
            axis.setFlag(QGraphicsItem.GraphicsItemFlag.ItemNegativeZStacksBehindParent)
            axis.linkToView(self.box)
            grid.addItem(axis, *place)
        grid.setRowStretchFactor(0, 100)
        grid.setColumnStretchFactor(1, 100)
        whole.setLayout(grid)
        self.setCentralItem(whole)

    def lay_over(self, item: QGraphicsObject) -> None:
        self.put(item)
        self.over.append(item)
        # Qt's view knows only of what it has painted itself that it is to go.
        item.visibleChanged.connect(self.viewport().update)

    def put(self, item: QGraphicsItem) -> None:
        """Into the view; how far it reaches says nothing of what is to be shown."""
        self.box.addItem(item, ignoreBounds=True)

    def paintEvent(self, event: QPaintEvent) -> None:
        bounds = event.rect()
        if bounds == self.viewport().rect() and QRegion(bounds).subtracted(event.region()).isEmpty():
            # Once all of it was wanted, Qt's view tells of no change of its items until it has been painted. This is
            # quick, and lies under what is painted now.
            super().paintEvent(QPaintEvent(QRegion()))
        if self.plate is None or not self.plate.paint_alone(event.region()):
            super().paintEvent(event)

    def paint_around(self, painter: QPainter, around: QRegion) -> None:
        """All that is seen here beside the paper: the numbers of the axes."""
        for part in around:  # type: ignore[attr-defined]
            painter.fillRect(part, look.color(look.worn().paper))
        for axis in self.axes.values():
            if axis.isVisible():
                painter.save()
                painter.setTransform(axis.deviceTransform(self.viewportTransform()))
                axis.paint(painter, None, None)
                painter.restore()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange:
            self._dress()

    def _dress(self) -> None:
        """pyqtgraph keeps colours of its own."""
        if self._dressed_in is not look.worn():
            self._dressed_in = look.worn()
            self.setBackground(look.worn().paper)
            for axis in self.axes.values():
                axis.dress()

    def keep_square(self) -> None:
        """One scale for both sides, and the same steps on both."""
        self.box.setAspectLocked(True)

        def steps() -> tuple[float, float]:
            view = self.box.viewRect()
            return across_step(view.width(), self.box.width()), up_step(view.height(), self.box.height())

        for axis in self.axes.values():
            axis.square = steps
