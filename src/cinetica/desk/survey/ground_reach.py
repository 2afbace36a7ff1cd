"""What Reach shows in top view: outlines of how far a tune gets in a given time, and the room that its turns need."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from cinetica.desk import look
from cinetica.desk.survey.chart import Scales, paint_scales, path_of, room_in
from cinetica.model.clock import Clock
from cinetica.model.tune import Tune
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.run_reader import on_all_cores
from cinetica.reading.survey.ground_reach import MOMENTS, Spread, Turn, spread, turns
from cinetica.reading.survey.reach import RUNNING, STARTS

HEADS = ("Turn", "Stand", "Run", "Time", "Ahead", "Aside")
TIPS = (
    "By how many degrees the direction changes, at full speed",
    "How far it gets in that direction in 1 s from standing, in {u}",
    "How far it gets in that direction in 1 s from running straight on, in {u}",
    "How long the turn takes until it runs in the new direction as fast as it then gets, in {s}",
    "How far it still goes in the old direction meanwhile, in {u}",
    "How far it swings out sideways meanwhile, in {u}",
)
# How strongly the outlines of earlier moments are drawn, of 255.
STRENGTHS = (110, 170, 255)


@dataclass(frozen=True, eq=False)
class FoundAbove:
    """Outlines for each tune (with its place), standing and running, and the turns of the chosen tune."""

    outlines: list[tuple[int, Tune, dict[str, Spread]]]
    tune: Tune
    turns: list[Turn]
    units: DisplayUnits = OURS

    def _formatted(self, value: float | None, unit: str = "u") -> str:
        return "–" if value is None else self.units.figure(value, unit)

    def cells(self) -> list[tuple[str, ...]]:
        """The rows of the table."""
        return [
            (
                f"{each.angle}°",
                self._formatted(each.stands),
                self._formatted(each.runs),
                self._formatted(each.time, "s"),
                self._formatted(each.ahead),
                self._formatted(each.aside),
            )
            for each in self.turns
        ]

    @property
    def words(self) -> str:
        """What the outlines and the table say in a sentence."""
        quarter, half = self.turns[2], self.turns[-1]
        words = [f"{self.tune.name}: in 1 s it gets {self.units.figure_words(self.turns[0].stands, 'u')} from standing"]
        for turn, name in ((quarter, "a turn by 90°"), (half, "turning back")):
            takes = "is not over in 6 s" if turn.time is None else f"takes {self.units.figure_words(turn.time, 's')}"
            room = self.units.figure_words(turn.ahead, "u")
            words.append(f"{name} at full speed {takes} and {room} of room ahead")
        return "; ".join(words) + "."

    def scales(self, area: QRectF) -> Scales:
        """Everything that is drawn, with one unit as long across as up."""
        last = [each.places[-1] for _, _, both in self.outlines for each in both.values()]
        paths = [each.path for each in self.turns]
        x = np.concatenate([each[0] for each in (*last, *paths)])
        y = np.concatenate([each[1] for each in (*last, *paths)])
        room = room_in(area)
        unit = min(room.width() / max(1e-6, np.ptp(x) * 1.15), room.height() / max(1e-6, np.ptp(y) * 1.15))
        across, up = room.width() / unit / 2, room.height() / unit / 2
        middle_x, middle_y = (float(each.max() + each.min()) / 2 for each in (x, y))
        return Scales(room, middle_x - across, middle_x + across, middle_y - up, middle_y + up,
                      self.units.column("x"), self.units.column("y"))  # fmt: skip

    def paint(self, painter: QPainter, area: QRectF, cut: list[str]) -> None:
        """Paint the outlines of every tune, and the turns of the chosen one."""
        scales = self.scales(area)
        moments = ", ".join(f"{moment:g}" for moment in MOMENTS)
        title = f"Reached in {moments} s: thin from standing, thick from a run"
        paint_scales(painter, scales, look.palette(), title, self.units.unit("u"), cut)
        painter.save()
        painter.setClipRect(scales.room)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for place, tune, both in self.outlines:
            chosen = tune is self.tune
            for start, each in both.items():
                # Of the other tunes the last moment is enough.
                shown = list(zip(each.places, STRENGTHS, strict=True))[0 if chosen else -1 :]
                for (x, y), strength in shown:
                    painter.setPen(look.ink_pen(look.palette(), place, 2.4 if start == RUNNING else 1.0, strength))
                    painter.drawPolygon(
                        QPolygonF([scales.point(*at) for at in zip(x.tolist(), y.tolist(), strict=True)])
                    )
            if chosen:
                self._paint_turns(painter, scales, place)
        painter.setPen(QPen(QColor(look.palette().ink), 1))
        middle = scales.point(0.0, 0.0)
        for across, up in ((5, 0), (0, 5)):
            painter.drawLine(middle - QPointF(across, up), middle + QPointF(across, up))
        painter.restore()

    def _paint_turns(self, painter: QPainter, scales: Scales, place: int) -> None:
        pen = QPen(look.ink(look.palette(), place), 1.4, Qt.PenStyle.DotLine)
        painter.setFont(look.font(8))
        for turn in self.turns[1:]:
            painter.setPen(pen)
            painter.drawPath(path_of(scales, *turn.path))
            painter.setPen(QColor(look.palette().soft))
            end = scales.point(float(turn.path[0][-1]), float(turn.path[1][-1]))
            painter.drawText(end + QPointF(4, -3), f"{turn.angle}°")

    def words_at(self, area: QRectF, at: QPointF) -> str:
        """What is at a point: how far away it is, and which tunes get there in the last moment."""
        scales = self.scales(area)
        if not scales.room.contains(at):
            return ""
        x, y = scales.x_of(at.x()), scales.y_of(at.y())
        words = []
        for place, _, both in self.outlines:
            there = [start for start, each in both.items() if _is_inside(each.places[-1], x, y)]
            words.append(f"{look.letter(place)} {' and '.join(there) or 'not'}")
        far = self.units.figure_words(float(np.hypot(x, y)), "u")
        return f"{far} away; in {MOMENTS[-1]:g} s gets that far: {', '.join(words)}"


def _is_inside(outline: tuple[Any, Any], x: float, y: float) -> bool:
    points = QPolygonF([QPointF(*each) for each in zip(outline[0].tolist(), outline[1].tolist(), strict=True)])
    return points.containsPoint(QPointF(x, y), Qt.FillRule.WindingFill)


def find(
    tunes: Sequence[tuple[int, Tune]], chosen: Tune, clock: Clock, units: DisplayUnits
) -> Iterator[tuple[float, FoundAbove | None]]:
    """Run the outlines of every tune, then the turns of the chosen one."""
    asked = [(tune, start) for _, tune in tunes for start in STARTS]
    drawn = on_all_cores(lambda each: spread(each[0], clock, each[1]), asked)
    yield 0.7, None
    both = [dict(zip(STARTS, drawn[at : at + len(STARTS)], strict=True)) for at in range(0, len(drawn), len(STARTS))]
    listed = [(place, tune, each) for (place, tune), each in zip(tunes, both, strict=True)]
    yield 1.0, FoundAbove(listed, chosen, turns(chosen, clock), units)
