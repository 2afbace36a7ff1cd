"""From the units of a plot to pixels."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QTransform

Values = TypeVar("Values", float, NDArray[np.float64])


@dataclass(frozen=True)
class Mapping:
    """x in pixels is `left + across * x`, y is `top + down * y`.

    `view` is what is in view, in units, `area` the same in pixels.
    """

    left: float
    across: float
    top: float
    down: float
    view: QRectF
    area: QRectF

    @classmethod
    def of(cls, transform: QTransform, view: QRectF) -> Mapping:
        """The mapping of a transform."""
        return cls(
            transform.dx(), transform.m11(), transform.dy(), transform.m22(), QRectF(view), transform.mapRect(view)
        )

    def x(self, values: Values) -> Values:
        """x in pixels."""
        return self.left + self.across * values

    def y(self, values: Values) -> Values:
        """y in pixels."""
        return self.top + self.down * values

    def point(self, at: QPointF) -> QPointF:
        """A point in pixels."""
        return QPointF(self.x(at.x()), self.y(at.y()))

    def rect(self, rect: QRectF) -> QRectF:
        """A rectangle in pixels."""
        return QRectF(self.point(rect.topLeft()), self.point(rect.bottomRight())).normalized()

    @cached_property
    def across_view(self) -> tuple[float, float]:
        """Left and right of what is in view."""
        return self.view.left(), self.view.right()

    @property
    def pixel(self) -> tuple[float, float]:
        """The size of a pixel in units."""
        return 1 / max(abs(self.across), 1e-12), 1 / max(abs(self.down), 1e-12)
