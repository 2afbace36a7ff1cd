"""The cards of all drills of the view, in order; those in view are painted first."""

from __future__ import annotations

import time
from collections.abc import Callable

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractScrollArea, QApplication, QFrame
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed
from cinetica.desk.overview.card import MOST_MOVED, MOST_TARGETS, Card, Content, high_of
from cinetica.desk.overview.contents import Contents
from cinetica.desk.state.baseline import Baseline
from cinetica.desk.state.study_runs import SLICE, StudyRuns
from cinetica.model.study import Drill

GAP = 10
AS_FITS, MOST_ACROSS = 0, 4
# The usual width of a card, in letters.
USUAL_LETTERS = 52
# How many times their usual height cards become at most.
TALLEST = 2


class Cards(QAbstractScrollArea):
    """`chosen`: the current card. `opened`: emitted with a drill, a tune and a figure."""

    chosen = Signal(str)
    opened = Signal(str, str, str)
    # A drill was dragged, or moved by key: its name, and the place that it goes to among those of the view.
    shifted = Signal(str, int)
    # How many drills have moved, of how many; emitted once all have been checked.
    counted = Signal(int, int)
    # The number of cards side by side.
    across_changed = Signal(int)

    def __init__(self, study_runs: StudyRuns, baseline: Baseline) -> None:
        super().__init__()
        self.study_runs = study_runs
        # The number of cards side by side; 0: as many as the width has room for.
        self.wanted_across = AS_FITS
        self.drills: list[Drill] = []
        self.place = 0
        self._cards: dict[str, Card] = {}
        self.contents = Contents(study_runs, baseline)
        self._press: tuple[QPoint, int] | None = None
        self._goes_to: int | None = None
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Drills")
        self.viewport().setMouseTracking(True)
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._check_the_rest)

    # What is shown

    def show_drills(self, drills: list[Drill], chosen: str) -> None:
        """Show these drills."""
        self.drills = drills
        names = [drill.name for drill in drills]
        self._cards = {name: self._cards.get(name) or Card(name) for name in names}
        self.place = names.index(chosen) if chosen in names else min(self.place, max(0, len(names) - 1))
        self.renew()

    def renew(self) -> None:
        """Update: something may have changed."""
        self.contents.renew()
        self._fit()
        self.viewport().update()
        self._rest.start(0)

    def content_of(self, drill: Drill) -> Content:
        """What the card of a drill shows."""
        return self.contents.of(drill)

    def card(self, name: str) -> Card:
        """The card of a drill."""
        return self._cards[name]

    def _check_the_rest(self) -> None:
        """Read the remaining figures, first of the cards in view, a few at a time."""
        until, seen = time.perf_counter() + SLICE, self.viewport().rect()
        order = sorted(range(len(self.drills)), key=lambda place: not self.rect_of(place).intersects(seen))
        for place in order:
            if self.contents.is_known(self.drills[place]):
                continue
            if time.perf_counter() > until:
                self._rest.start(0)
                return
            self.content_of(self.drills[place])
            self.viewport().update(self.rect_of(place))
        self.study_runs.of_use = [
            (each.trace.drill, each.tune) for drill in self.drills for each in self.content_of(drill).before
        ]
        self.study_runs.forget()
        self.counted.emit(sum(self.content_of(drill).flagged for drill in self.drills), len(self.drills))

    # Where the cards are

    @property
    def across(self) -> int:
        """The number of columns."""
        if self.wanted_across != AS_FITS:
            return self.wanted_across
        return min(max(1, self.viewport().width() // (USUAL_LETTERS * look.width("n", 9))), MOST_ACROSS)

    def set_across(self, across: int) -> None:
        """Set the number of columns, or `AS_FITS`."""
        self.wanted_across = min(max(across, AS_FITS), MOST_ACROSS)
        self._fit()
        self._show_place()
        self.viewport().update()
        self.across_changed.emit(self.wanted_across)

    def _figures_of(self, drill: Drill) -> int:
        """Lines for figures on a card. They do not depend on what has moved: no picture jumps during a drag."""
        tunes = len(self.study_runs.tunes_of(drill))
        return MOST_MOVED + min(len(drill.targets) * max(1, tunes), MOST_TARGETS)

    @property
    def _size(self) -> tuple[int, int]:
        gap = look.px(GAP)
        rows = max(1, -(-len(self.drills) // self.across))
        # Few drills have the whole page to themselves.
        room = (self.viewport().height() - gap * (rows + 1)) // rows
        least = high_of(max((self._figures_of(drill) for drill in self.drills), default=MOST_MOVED))
        high = max(least, min(room, TALLEST * least))
        return max(40, (self.viewport().width() - gap * (self.across + 1)) // self.across), high

    def rect_of(self, place: int) -> QRect:
        """A card's rectangle, in pixels of the viewport."""
        gap, (wide, high) = look.px(GAP), self._size
        row, column = divmod(place, self.across)
        top = gap + row * (high + gap) - self.verticalScrollBar().value()
        return QRect(gap + column * (wide + gap), top, wide, high)

    def place_at(self, at: QPoint) -> int | None:
        """The card at a point; None if there is none."""
        return next((place for place in range(len(self.drills)) if self.rect_of(place).contains(at)), None)

    def _fit(self) -> None:
        rows = -(-len(self.drills) // self.across)
        gap, high = look.px(GAP), self._size[1]
        bar = self.verticalScrollBar()
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(high // 4)
        bar.setRange(0, max(0, rows * (high + gap) + gap - self.viewport().height()))

    def _show_place(self) -> None:
        rect, bar = self.rect_of(self.place), self.verticalScrollBar()
        gap = look.px(GAP)
        if rect.top() < gap:
            bar.setValue(bar.value() + rect.top() - gap)
        elif rect.bottom() > self.viewport().height() - gap:
            bar.setValue(bar.value() + rect.bottom() - self.viewport().height() + gap)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    # Painting

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self.viewport()) as painter:
            look.fill_ground(painter, QRectF(event.rect()), look.color(look.palette().sheet))
            ratio = self.viewport().devicePixelRatioF()
            for place, drill in enumerate(self.drills):
                rect = self.rect_of(place)
                if not rect.intersects(event.rect()):
                    continue
                card = self._cards[drill.name]
                image = card.picture(
                    self.contents.quick(drill),
                    rect.width(),
                    rect.height(),
                    self._figures_of(drill),
                    look.palette(),
                    ratio,
                )
                painter.drawPixmap(QRectF(rect), image, QRectF(image.rect()))
                chosen = place == self.place
                painter.setPen(
                    QPen(QColor(look.palette().accent if chosen else look.palette().grid), 2 if chosen else 1)
                )
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(rect.adjusted(0, 0, -1, -1))
            if self._goes_to is not None:
                self._paint_goal(painter, self._goes_to)
            if not self.drills:
                painter.setFont(look.font(11))
                painter.setPen(QColor(look.palette().ink))
                words = keyed(
                    "There is no drill of this view yet. Add one from the Drill menu. The guide ({help}) tells how."
                )
                painter.drawText(self.viewport().rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)

    def _paint_goal(self, painter: QPainter, place: int) -> None:
        """Paint a bar where a dragged card would go."""
        last = place >= len(self.drills)
        rect = self.rect_of(min(place, len(self.drills) - 1))
        x = (rect.right() + look.px(GAP) / 2) if last else (rect.left() - look.px(GAP) / 2)
        painter.setPen(QPen(QColor(look.palette().accent), look.px(4)))
        painter.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom()))

    # Mouse and keys

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = self.place_at(event.position().toPoint())
        if event.button() == Qt.MouseButton.LeftButton and place is not None:
            self._press = (event.position().toPoint(), place)

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        self.viewport().setCursor(
            Qt.CursorShape.PointingHandCursor if self.place_at(at) is not None else Qt.CursorShape.ArrowCursor
        )
        if self._press is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        far = (at - self._press[0]).manhattanLength() >= QApplication.startDragDistance()
        if far or self._goes_to is not None:
            place = self.place_at(at)
            if place is not None:
                self._goes_to = place + (at.x() > self.rect_of(place).center().x())
            self.viewport().update()

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        press, goes_to = self._press, self._goes_to
        self._press = self._goes_to = None
        self.viewport().update()
        if press is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if goes_to is not None:
            self._shift(press[1], goes_to - (goes_to > press[1]))
        elif press[1] < len(self.drills):
            self._open(press[1], event.position().toPoint())

    def _shift(self, place: int, to: int) -> None:
        if place != to and 0 <= to < len(self.drills):
            self.shifted.emit(self.drills[place].name, to)

    def _open(self, place: int, at: QPoint | None = None) -> None:
        """Open the drill in Compare, at the figure under the mouse, or the first on the card."""
        drill, rect = self.drills[place], self.rect_of(place)
        lines = self._cards[drill.name].lines
        under = at is not None and next(
            (line for line in lines if line.rect.contains(QPointF(at - rect.topLeft()))), None
        )
        line = under or (lines[0] if lines else None)
        self.opened.emit(drill.name, line.tune if line else "", line.measure if line else "")

    def _choose(self, place: int) -> None:
        if self.drills:
            self.place = min(max(place, 0), len(self.drills) - 1)
            self._show_place()
            self.viewport().update()
            self.chosen.emit(self.drills[self.place].name)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -self.across, Qt.Key.Key_Down: self.across,
        }  # fmt: skip
        ends = {Qt.Key.Key_Home: 0, Qt.Key.Key_End: len(self.drills) - 1}
        key = Qt.Key(event.key())
        act: Callable[[], object] | None = None
        if key in steps:
            to = self.place + steps[key]
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                act = lambda: self._shift(self.place, to)  # noqa: E731
            else:
                act = lambda: self._choose(to) if 0 <= to < len(self.drills) else None  # noqa: E731
        elif key in ends:
            act = lambda: self._choose(ends[key])  # noqa: E731
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.drills:
            act = lambda: self._open(self.place)  # noqa: E731
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            step = 1 if key == Qt.Key.Key_Minus else -1
            act = lambda: self.set_across(max(1, self.across + step))  # noqa: E731
        if act is None:
            super().keyPressEvent(event)
        else:
            act()
