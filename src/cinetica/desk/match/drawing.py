"""Drawing the wanted curve: points on the strips, and at the frame cursor on the stage."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.state.session import Session
from cinetica.model.drawing import CHANNELS, Channel, points_of, with_point, with_points, without_point
from cinetica.model.study import Drill

NAME = "Wanted curve"
# How near a press has to be to a point, in pixels, and how large a point is.
GRIP, POINT = 8.0, 4.0
# The pieces of a smooth curve between two points.
PIECES = 24


class WantedEditor(QObject):
    """The points of the wanted curve on the current drill. Frames are whole; values are in u and u/s."""

    changed = Signal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.on = False
        # The selected point: channel and frame; for the path on the stage, the channel x.
        self.selected: tuple[Channel, int] | None = None
        self._drags = False
        session.drill_changed.connect(self._forget)
        session.drill_edited.connect(self.changed)
        session.gesture_ended.connect(self._end_gesture)

    def turn(self, on: bool) -> None:
        """Turn drawing on or off."""
        self.on = on
        self.selected = None
        self.changed.emit()

    def _forget(self) -> None:
        self.selected = None
        self.changed.emit()

    def _end_gesture(self) -> None:
        self._drags = False

    @property
    def drill(self) -> Drill | None:
        """The current drill."""
        return self.session.drill

    def points(self, channel: str) -> tuple[tuple[int, float], ...]:
        """The points of a channel."""
        return points_of(self.drill, channel) if self.drill is not None else ()

    def frame_at(self, time: float) -> int:
        """The frame of the take nearest to a time, in s."""
        return round(time * self.drill.take.rate) if self.drill is not None else 0

    def time_of(self, frame: int) -> float:
        """The time of a frame, in s."""
        return frame / self.drill.take.rate if self.drill is not None else 0.0

    # On a strip

    def press(self, channel: Channel, time: float, value: float, reach: QPointF) -> None:
        """Grab the point near a position, or set a new one. `reach` is the tolerance, in s and in the unit."""
        near = [
            (abs(self.time_of(frame) - time) / max(reach.x(), 1e-12), frame)
            for frame, at in self.points(channel)
            if abs(self.time_of(frame) - time) <= reach.x() and abs(at - value) <= reach.y()
        ]
        self.session.begin(NAME)
        self._drags = True
        if near:
            self.selected = (channel, min(near)[1])
            self.changed.emit()
        else:
            self._set(channel, self.frame_at(time), value)

    def move(self, channel: Channel, time: float, value: float) -> None:
        """Move the grabbed point."""
        if self._drags and self.selected is not None and self.selected[0] == channel:
            self._set(channel, self.frame_at(time), value, instead_of=self.selected[1])

    def release(self) -> None:
        """Release the grabbed point."""
        if self._drags:
            self._drags = False
            self.session.end()

    def _set(self, channel: Channel, frame: int, value: float, *, instead_of: int | None = None) -> None:
        if self.drill is None:
            return
        frame = min(max(frame, 0), self.drill.take.length)
        self.session.set_drill(NAME, with_point(self.drill, channel, frame, value, instead_of=instead_of))
        self.selected = (channel, frame)
        self.session.message.emit(self._words(channel, frame, value))
        self.changed.emit()

    def _words(self, channel: str, frame: int, value: float) -> str:
        scale = self.session.units.column(channel)
        return f"Wanted {channel} at frame {frame}: {scale.shown(value):.4g} {scale.unit}".replace("-", "−")

    # On the stage

    def set_place(self, frame: int, x: float, y: float) -> None:
        """Set where the body should be in a frame: a point of the path."""
        if self.drill is not None:
            drill = with_point(with_point(self.drill, "x", frame, x), "y", frame, y)
            self.session.set_drill(NAME, drill, joins=self.session.in_gesture)
            self.selected = ("x", frame)
            self.changed.emit()

    # Keys

    def remove(self) -> None:
        """Remove the selected point; on the path, both x and height."""
        if self.drill is None or self.selected is None:
            return
        channel, frame = self.selected
        drill = without_point(self.drill, channel, frame)
        if channel in ("x", "y") and dict(self.points("x")).keys() & dict(self.points("y")).keys() & {frame}:
            drill = without_point(without_point(self.drill, "x", frame), "y", frame)
        self.selected = None
        self.session.set_drill(f"Remove a point of the {NAME.lower()}", drill)
        self.changed.emit()

    def nudge(self, frames: int, steps: float) -> None:
        """Move the selected point by frames, and by steps of a hundredth of what its channel shows."""
        if self.drill is None or self.selected is None:
            return
        channel, frame = self.selected
        points = dict(self.points(channel))
        if frame not in points:
            return
        size = max((abs(value) for value in points.values()), default=1.0) or 1.0
        value = points[frame] + steps * 0.01 * size
        to = min(max(frame + frames, 0), self.drill.take.length)
        self.session.set_drill(NAME, with_point(self.drill, channel, to, value, instead_of=frame), joins=True)
        self.selected = (channel, to)
        self.changed.emit()

    def clear(self) -> None:
        """Remove everything that is drawn."""
        if self.drill is not None and self.drill.wanted:
            drill = self.drill
            for channel in CHANNELS:
                drill = with_points(drill, channel, {})
            self.session.set_drill(f"Clear the {NAME.lower()}", drill)
            self.changed.emit()


def smooth(points: tuple[tuple[float, float], ...]) -> tuple[np.ndarray, np.ndarray]:
    """A smooth curve through points, as it is matched (SciPy's PCHIP); of a single one the point itself."""
    across, up = (np.array(each, dtype=float) for each in zip(*points, strict=True))
    if len(points) < 2:
        return across, up
    from scipy.interpolate import PchipInterpolator

    finely = np.concatenate(
        [np.linspace(a, b, PIECES, endpoint=False) for a, b in zip(across, across[1:], strict=False)]
    )
    finely = np.append(finely, across[-1])
    return finely, np.asarray(PchipInterpolator(across, up)(finely))


class WantedItem(pg.GraphicsObject):
    """The wanted curve in a plot, with its points: of a channel over time or, without one, the path on the stage."""

    def __init__(self, editor: WantedEditor, channel: str = "") -> None:
        super().__init__()
        self.editor, self.channel = editor, channel
        self.setZValue(30)
        editor.changed.connect(self.update)

    @override
    def boundingRect(self) -> QRectF:
        box = self.getViewBox()
        return QRectF() if box is None else QRectF(box.viewRect())

    def _line_and_points(self) -> tuple[list[QPointF], list[tuple[QPointF, bool]]]:
        """The smooth curve, and each point with whether it is selected."""
        editor = self.editor
        if self.channel:
            points = editor.points(self.channel)
            if not points:
                return [], []
            timed = tuple((editor.time_of(frame), value) for frame, value in points)
            x, y = smooth(timed)
            marked = [
                (QPointF(*at), editor.selected == (self.channel, frame))
                for at, (frame, _) in zip(timed, points, strict=True)
            ]
            return [QPointF(a, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)], marked
        across, up = dict(editor.points("x")), dict(editor.points("y"))
        frames = sorted(across.keys() & up.keys())
        if not frames:
            return [], []
        _, x = smooth(tuple((float(frame), across[frame]) for frame in frames))
        _, y = smooth(tuple((float(frame), up[frame]) for frame in frames))
        lift = self._lift
        marked = [(QPointF(across[frame], up[frame] + lift), editor.selected == ("x", frame)) for frame in frames]
        return [QPointF(a, b + lift) for a, b in zip(x.tolist(), y.tolist(), strict=True)], marked

    @property
    def _lift(self) -> float:
        """The offset from the feet to the middle of the body, where its path is drawn."""
        reference = self.editor.session.reference
        return 0.0 if reference is None or reference.view == "top" else reference.body.height / 2

    @override
    def paint(self, painter: QPainter, *_: object) -> None:
        line, points = self._line_and_points()
        if not line:
            return
        transform = painter.transform()
        painter.resetTransform()
        painter.setClipRect(transform.mapRect(self.boundingRect()), Qt.ClipOperation.IntersectClip)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        accent = QColor(look.palette().accent)
        pen = QPen(accent, 2.0, Qt.PenStyle.DotLine)
        painter.setPen(pen)
        painter.drawPolyline(QPolygonF([transform.map(point) for point in line]))
        painter.setPen(QPen(accent, 1.6))
        for point, chosen in points:
            painter.setBrush(accent if chosen else QColor(look.palette().paper))
            painter.drawEllipse(transform.map(point), POINT, POINT)


def as_channel(column: str) -> Channel | None:
    """The channel that a strip draws on; None if it cannot be drawn on."""
    return next((channel for channel in CHANNELS if channel == column), None)
