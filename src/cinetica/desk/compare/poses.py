"""The pose lanes: which animation each tune would show, with a mark at what is too short to be seen as one."""

from __future__ import annotations

from functools import cache

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainterPath
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.compare.overlay import Comparing
from cinetica.desk.compare.time_axis import TimeAxis
from cinetica.desk.compare.tune_lanes import Along, Run, TuneLanes
from cinetica.desk.paint.canvas import PIXELS, Canvas, Mark, Sketch
from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.reading.pose_steps import POSES
from cinetica.reading.poses import SHORTEST, pose_runs

_ALPHAS = {
    "idle": 20, "walk": 48, "run": 86, "rise": 120, "fall": 74, "land": 170, "climb": 150, "slide": 110, "wall": 98,
    "dash": 190,
}  # fmt: skip


class Poses(TuneLanes):
    """One lane for each tune, below the states."""

    TITLE, WORDS, ALPHAS = "Pose", POSES, [_ALPHAS[pose] for pose in POSES]

    def __init__(self, session: Session, axis: TimeAxis, comparing: Comparing) -> None:
        super().__init__(session, axis, comparing, "Poses of the tunes")

    @override
    def runs_of(self, shown: TuneRun) -> list[Run]:
        return [(run.pose, run.start, run.end) for run in pose_runs(shown.trace)]

    @override
    def lane_key(self, shown: TuneRun) -> tuple[object, ...]:
        return shown.place, shown.trace["time"].tobytes(), shown.trace["pose"].tobytes()

    @override
    def draw_lane(self, shown: TuneRun, top: int, along: Along, canvas: Canvas) -> None:
        self.draw_runs(canvas, shown, along, top, ())
        view, ink = self.view_of(shown), look.color(look.palette().ink)
        low, up, notches = top + along.lane - 1.5, top + 1.5, list[float]()
        for run in pose_runs(shown.trace):
            left, right = along.stretch(run.start - view[0], run.end - view[0])
            if run.short and right >= left:
                canvas.box((left, low, right + 1, up), PIXELS, None, ink)
                notches.append((left + right + 1) / 2)
        if notches:
            # From above: a narrow box has room for it, too.
            notch = Mark(_notch(look.px(3)), ink, 0.5, ink)
            canvas.marks(Sketch(notches, [up] * len(notches)), PIXELS, notch)

    @override
    def lane_words(self, shown: TuneRun, time: float) -> str:
        units = self.session.units
        for run in pose_runs(shown.trace):
            if run.start <= time <= run.end:
                words = f"{POSES[run.pose]}, {units.time(run.end - run.start)}"
                return f"{words}: shorter than {units.time(SHORTEST)}, hard to see" if run.short else words
        return ""


@cache
def _notch(size: int) -> QPainterPath:
    """A triangle that hangs from a point."""
    path = QPainterPath(QPointF(-size, 0))
    path.lineTo(size, 0)
    path.lineTo(0, 1.3 * size)
    path.closeSubpath()
    return path
