"""A plot on the paper: pyqtgraph's view box and axes, without menus, buttons and frames."""

from __future__ import annotations

import pyqtgraph as pg
from PySide6.QtCore import QEvent, QRect, QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import (
    QGraphicsGridLayout,
    QGraphicsItem,
    QGraphicsScene,
    QGraphicsView,
    QGraphicsWidget,
    QSizePolicy,
)
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.paint.axes import PaperAxis, numbers_width
from cinetica.desk.paint.steps import AxisScales, across_step, up_step
from cinetica.reading.display_units import Scale

# Between a view and its axes, in pixels.
GAP = 1


class PaperPlot(pg.GraphicsView):
    """Numbers at the left and, with `bottom`, below. Panning and zooming are off until enabled.

    It uses pyqtgraph's view box and axes; `pg.PlotWidget` would create menus, titles and legends with each of them.
    """

    def __init__(self, *, bottom: bool = False) -> None:
        super().__init__(background=None)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.enableMouse(False)
        self.scales = AxisScales()
        self.axes = {"left": PaperAxis("left", self.scales)}
        self.set_numbers_width(numbers_width())
        if bottom:
            self.axes["bottom"] = PaperAxis("bottom", self.scales)
            self.axes["bottom"].setHeight(look.height(8) + 5 - GAP)
        self.box = pg.ViewBox(enableMenu=False, defaultPadding=0)
        self.box.setMouseEnabled(x=False, y=False)
        self.box.disableAutoRange()
        self._lay_out()
        self.setAntialiasing(True)
        self.scene().setItemIndexMethod(QGraphicsScene.ItemIndexMethod.NoIndex)
        # Repaint only what has changed: the axes’ numbers usually have not.
        self.setViewportUpdateMode(QGraphicsView.ViewportUpdateMode.MinimalViewportUpdate)
        self.setOptimizationFlag(QGraphicsView.OptimizationFlag.DontAdjustForAntialiasing)
        # pyqtgraph caches the background as a pixmap, which is a pixel short if the screen scale is not a whole number.
        self.setCacheMode(QGraphicsView.CacheModeFlag.CacheNone)
        self.setFrameShape(self.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._applied: look.Palette | None = None
        self._apply_palette()

    def set_numbers_width(self, width: int) -> None:
        """Set where the view begins, in pixels from the left edge."""
        self.axes["left"].setWidth(width - GAP)

    def _lay_out(self) -> None:
        whole, grid = QGraphicsWidget(), QGraphicsGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        # A pixel apart, so that an axis need not be painted with the view beside it.
        grid.setSpacing(GAP)
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

    @override
    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange:
            self._apply_palette()

    @override
    def drawBackground(self, painter: QPainter, rect: QRectF | QRect) -> None:
        look.fill_ground(painter, QRectF(rect), look.color(look.palette().paper))

    def _apply_palette(self) -> None:
        """Apply the current colours, since pyqtgraph keeps its own."""
        if self._applied is not look.palette():
            self._applied = look.palette()
            self.setBackground(look.palette().paper)
            for axis in self.axes.values():
                axis.apply_palette()

    def show_in(self, across: Scale, up: Scale) -> None:
        """Set how the numbers of both sides are shown."""
        self.scales.across, self.scales.up = across, up
        for axis in self.axes.values():
            axis.redraw()

    def keep_square(self) -> None:
        """Lock both axes to one scale, with the same steps on both."""
        self.box.setAspectLocked(True)

        def steps() -> tuple[float, float]:
            """The steps across and up."""
            view = self.box.viewRect()
            wide, high = self.scales.lengths(view)
            return across_step(wide, self.box.width()), up_step(high, self.box.height())

        for axis in self.axes.values():
            axis.square = steps
