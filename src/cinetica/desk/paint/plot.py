"""A plot on the paper: pyqtgraph's view and axes, without its menu, buttons and frames."""

from __future__ import annotations

from typing import Protocol

import pyqtgraph as pg
from PySide6.QtCore import QEvent, QRect, Qt
from PySide6.QtGui import QPaintEvent
from PySide6.QtWidgets import QGraphicsItem, QGraphicsScene, QGraphicsView

from cinetica.desk import look
from cinetica.desk.paint.axes import PaperAxis, numbers_width
from cinetica.desk.paint.steps import across_step, up_step


class Alone(Protocol):
    """The paper of a plot, which can be painted without all else; see `Plate`."""

    def paint_alone(self, wanted: QRect) -> bool: ...


class PaperPlot(pg.PlotWidget):
    """Numbers at the left, and with `bottom` below. Nothing is dragged in it until it is allowed."""

    def __init__(self, *, bottom: bool = False) -> None:
        self._axes = {"left": PaperAxis("left"), "bottom": PaperAxis("bottom")}
        # Those that stay hidden, too: others would work out labels.
        hidden = {"top": PaperAxis("top"), "right": PaperAxis("right")}
        super().__init__(axisItems=self._axes | hidden, enableMenu=False)
        item = self.getPlotItem()
        for side in hidden:
            item.hideAxis(side)
        item.hideButtons()
        # It makes its menu all the same, and nobody owns that: it would outlive the window.
        item.ctrlMenu.setParent(self, item.ctrlMenu.windowFlags())
        item.layout.setContentsMargins(0, 0, 0, 0)
        item.layout.setSpacing(0)
        self._axes["left"].setWidth(numbers_width())
        if bottom:
            self._axes["bottom"].setHeight(look.height(8) + 5)
        else:
            item.hideAxis("bottom")
        self.box: pg.ViewBox = item.getViewBox()
        self.box.setMouseEnabled(x=False, y=False)
        self.box.setDefaultPadding(0)
        self.box.disableAutoRange()
        self.setAntialiasing(True)
        self.scene().setItemIndexMethod(QGraphicsScene.ItemIndexMethod.NoIndex)
        # What has changed, and no more: the paper is one item, and numbers that stay need not be laid down again.
        self.setViewportUpdateMode(QGraphicsView.ViewportUpdateMode.MinimalViewportUpdate)
        self.setFrameShape(self.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.plate: Alone | None = None
        # What lies over the paper.
        self.over: list[QGraphicsItem] = []
        self._dressed_in: look.Palette | None = None
        self._dress()

    def lay_over(self, item: QGraphicsItem) -> None:
        self.addItem(item, ignoreBounds=True)
        self.over.append(item)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.plate is None or not self.plate.paint_alone(event.rect()):
            super().paintEvent(event)

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange:
            self._dress()

    def _dress(self) -> None:
        """pyqtgraph keeps colours of its own."""
        if self._dressed_in is not look.worn():
            self._dressed_in = look.worn()
            self.setBackground(look.worn().paper)
            for axis in self._axes.values():
                axis.dress()

    def keep_square(self) -> None:
        """One scale for both sides, and the same steps on both."""
        self.box.setAspectLocked(True)

        def steps() -> tuple[float, float]:
            view = self.box.viewRect()
            return across_step(view.width(), self.box.width()), up_step(view.height(), self.box.height())

        for axis in self._axes.values():
            axis.square = steps
