"""A picture of a log beside the tune that it is compared with, before it is imported."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPen
from PySide6.QtWidgets import QGridLayout, QWidget

from cinetica.desk import look
from cinetica.desk.paint.plot import PaperPlot
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.survey.chart import padded
from cinetica.desk.widgets import PlainLabel
from cinetica.model.milestone import Logged
from cinetica.reading.display_units import DisplayUnits
from cinetica.reading.log_fit import Numbers


class LogPreview(QWidget):
    """x and y over time: the tune in its ink, the log dotted on top of it."""

    def __init__(self, units: DisplayUnits) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        self.plots, self._curves = {}, {}
        for column, axis in enumerate("xy"):
            plot = self.plots[axis] = PaperPlot(bottom=True)
            plot.setMinimumHeight(look.height(8) * 6)
            plot.setAccessibleName(f"{axis} over time: the tune, and the log dotted")
            curves = self._curves[axis] = tuple(pg.PlotDataItem(autoDownsample=True, clipToView=True) for _ in range(2))
            for curve in curves:
                plot.box.addItem(curve)
            across, up = units.scale("s"), units.column(axis)
            plot.show_in(across, up)
            grid.addWidget(PlainLabel(f"{axis} ({up.unit}) over time ({across.unit})"), 0, column)
            grid.addWidget(plot, 1, column)

    def show_log(self, log: Logged | None, tune: TuneRun | None) -> None:
        """Draw a log and a run of the tune; either may be missing."""
        palette = look.palette()
        for axis, plot in self.plots.items():
            lines = []
            if tune is not None:
                lines.append((tune.trace["time"], tune.trace[axis], look.ink_pen(palette, tune.place, 3.0, 130)))
            if log is not None:
                lines.append(
                    (
                        np.array(log.time),
                        np.array(getattr(log, axis)),
                        QPen(look.color(palette.ink), 2.0, Qt.PenStyle.DotLine),
                    )
                )
            for curve in self._curves[axis]:
                curve.clear()
            for curve, (time, values, pen) in zip(self._curves[axis], lines, strict=False):
                pen.setCosmetic(True)
                curve.setData(time, values, pen=pen)
            if lines:
                left, right = padded(min(line[0][0] for line in lines), max(line[0][-1] for line in lines))
                low, high = padded(min(line[1].min() for line in lines), max(line[1].max() for line in lines))
                plot.box.setRange(QRectF(left, low, right - left, high - low), padding=0)

    def curves(self, axis: str) -> list[tuple[Numbers, Numbers]]:
        """The curves that are drawn of an axis, as times in s and positions in u: the tune's, then the log's."""
        return [curve.getOriginalDataset() for curve in self._curves[axis]]
