"""The base class of the views of Survey, each of which evaluates many runs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed
from cinetica.desk.background_task import BackgroundTask
from cinetica.desk.state.session import Session
from cinetica.desk.survey.chart import short_number
from cinetica.desk.widgets import plain_tip
from cinetica.model.parameters import Parameter, as_number
from cinetica.model.study import Drill
from cinetica.model.tune import PARAMETERS, Tune
from cinetica.model.world_size import sized
from cinetica.reading.display_units import ParameterScale
from cinetica.reading.measures import MEASURES, Measure

Table = tuple[tuple[str, ...], Sequence[tuple[str, ...]]]
# What a drill is about: the first of these figures that it shows; with the two numbers to survey at first.
TELLING: dict[str, tuple[str, ...]] = {
    "jump_height": ("gravity.gravity", "jump.jump_speed"), "turn_time": ("drive.acceleration", "drive.top_speed"),
    "stopping_distance": ("drive.friction", "drive.top_speed"), "diagonal_ratio": ("drive.top_speed",),
    "top_speed_reached": ("drive.top_speed", "drive.acceleration"),
}  # fmt: skip
NO_TUNE = (
    "There is no tune on this drill to survey. Add one from the Tune menu, or choose another drill. The guide ({help}) "
    "tells how."
)
BY_ID = {measure.id: measure for measure in MEASURES}


@dataclass
class Asked:
    """What all views are asked for: two numbers, figures, and a tune by its name.

    Without a choice it is what the drill is about (`View.ids`, `number_called`), and the comfortable range of a number.
    """

    number: str = ""
    other: str = ""
    figures: list[str] = field(default_factory=list)
    second: str = ""
    tune: str = ""
    ranges: dict[str, tuple[float, float]] = field(default_factory=dict)


class View(QWidget):
    """A view of Survey. `status` is emitted with what is under the mouse, `changed` when the request has changed."""

    status = Signal(str)
    changed = Signal()
    WORDS = ""
    TIP = ""
    # Part of the title of its section in the guide.
    GUIDE = ""
    # The colour of the palette behind it.
    GROUND = "sheet"

    def __init__(self, session: Session, asked: Asked) -> None:
        super().__init__()
        self.session, self.asked = session, asked
        self.task = BackgroundTask(self)
        self.task.result.connect(self._take)
        self.task.failed.connect(self._fail)
        self.task.progressed.connect(self._show_progress)
        self.result: Any = None
        self.why_not = ""
        self._key: tuple[Any, ...] | None = None
        self.entered = False
        self.cut: list[str] = []
        self._held: Any = None
        session.gesture_ended.connect(self._end_gesture)
        self._numbers: tuple[list[Tune], list[Parameter]] = ([], [])
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(self.TIP)
        self.setMinimumSize(look.px(200), look.px(160))

    # Defined by each view

    def controls(self) -> list[QWidget]:
        """The controls above the view, from left to right."""
        return []

    def rows_of_controls(self) -> list[list[QWidget]]:
        """The controls in rows, from the top."""
        return [self.controls()]

    def refresh_controls(self) -> None:
        """Update the controls."""

    def key(self) -> tuple[Any, ...]:
        """All that the result depends on; objects are compared by identity, not content."""
        raise NotImplementedError

    def ask(self) -> None:
        """Begin the work."""
        raise NotImplementedError

    def paint(self, painter: QPainter) -> None:
        """Paint the result, which may be of an earlier request."""
        raise NotImplementedError

    def table(self) -> Table:
        """What is shown, as rows of text with headings."""
        raise NotImplementedError

    # What is shown

    def renew(self) -> None:
        """Ask again if something has changed."""
        if not self.entered or not self.session.reads:
            return
        self.refresh_controls()
        key = self.key()
        if self.drill is None or not self.tunes:
            self._fail(keyed(NO_TUNE))
        elif self._key is None or not _same(key, self._key):
            self._key = key
            self.ask()
        self.update()

    def leave(self) -> None:
        """Abandon the work: the view is hidden."""
        self.entered = False
        self.task.stop()
        self._key = None

    def _take(self, result: Any) -> None:
        self.result, self.why_not = result, ""
        self.update()

    def _fail(self, why: str) -> None:
        self.result, self.why_not, self._key = None, why, None
        self.update()

    def _show_progress(self, share: float) -> None:
        self.status.emit("" if share >= 1.0 else f"{100 * share:.0f}% of the runs")

    @override
    def event(self, event: QEvent) -> bool:
        """Let the tooltip show what was elided in the last paint."""
        if event.type() == QEvent.Type.Paint:
            self.cut = []
            done = super().event(event)
            tip = plain_tip("\n".join(self.cut))
            if tip != self.toolTip():
                self.setToolTip(tip)
            return done
        return super().event(event)

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), QColor(getattr(look.palette(), self.GROUND)))
            if self.result is not None:
                self.paint(painter)
            elif self.why_not:
                painter.setFont(look.font(11))
                painter.setPen(QColor(look.palette().ink))
                flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
                painter.drawText(self.rect().adjusted(20, 20, -20, -20), flags, self.why_not)

    @property
    def drill(self) -> Drill | None:
        """The current drill."""
        return self.session.drill

    @property
    def tunes(self) -> list[tuple[int, Tune]]:
        """The visible tunes, each with its place."""
        return [(place, tune) for place, tune in self.session.tunes if not self.session.is_hidden(tune)]

    @property
    def tune(self) -> tuple[int, Tune] | None:
        """The chosen tune, or else the reference."""
        tunes, reference = self.tunes, self.session.reference
        chosen = next((each for each in tunes if each[1].name == self.asked.tune), None)
        return chosen or next((each for each in tunes if each[1] is reference), tunes[0] if tunes else None)

    @property
    def numbers(self) -> list[Parameter]:
        """The numbers that matter to at least one tune."""
        tunes = [tune for _, tune in self.tunes]
        kept = self._numbers
        if len(kept[0]) != len(tunes) or any(one is not other for one, other in zip(kept[0], tunes, strict=True)):
            values = [(tune, tune.values()) for tune in tunes]
            kept = self._numbers = (tunes, [
                each for each in PARAMETERS
                if each.kind in ("number", "whole") and any(each.matters(tune.view, known) for tune, known in values)
            ])  # fmt: skip
        return kept[1]

    @property
    def measures(self) -> list[Measure]:
        """The measures of the drill's view."""
        view = self.drill.view if self.drill else "side"
        return [measure for measure in MEASURES if view in measure.views]

    @property
    def ids(self) -> list[str]:
        """The chosen figures that this view has, or else the first of `TELLING` that the drill shows."""
        known = [measure.id for measure in self.measures]
        chosen = [id for id in self.asked.figures if id in known]
        shown = {id for each in self.session.shown for id in each.readings}
        return chosen or [next((id for id in TELLING if id in shown), known[0])]

    @property
    def id(self) -> str:
        """The first of the chosen figures."""
        return self.ids[0]

    def number_called(self, id: str, *, other: bool = False) -> Parameter | None:
        """A number by its id, or else one that affects the figure; `other`: a second one."""
        numbers = {each.id: each for each in self.numbers}
        usual = [each for each in (*TELLING.get(self.id, ()), *numbers) if each in numbers]
        return numbers.get(id) or (numbers[usual[min(int(other), len(usual) - 1)]] if usual else None)

    def range_of(self, parameter: Parameter) -> tuple[float, float]:
        """The chosen range or the comfortable one, widened to the current values."""
        asked = self.asked.ranges.get(parameter.id)
        if asked is not None:
            return asked
        values = [as_number(tune.get(parameter.id)) for _, tune in self.tunes]
        comforts = [sized(parameter, tune).comfort for _, tune in self.tunes] or [parameter.comfort]
        return min(*(low for low, _ in comforts), *values), max(*(high for _, high in comforts), *values)

    def scale_of(self, parameter: Parameter) -> ParameterScale:
        """How a parameter's values are shown, for the chosen tune."""
        return ParameterScale(self.session.units, parameter, self.tune[1].values() if self.tune else {})

    def label_of(self, parameter: Parameter) -> str:
        """A parameter with the unit that is shown."""
        unit = self.session.units.parameter_unit(parameter)
        return f"{parameter.label} in {unit}" if unit else parameter.label

    def titled(self, measure: Measure) -> str:
        """A measure with the unit that is shown."""
        unit = self.session.units.unit(measure.unit)
        return f"{measure.label} in {unit}" if unit else measure.label

    def formatted(self, measure: Measure, value: float) -> str:
        """A figure in a sentence, with its unit."""
        scale = self.session.units.scale(measure.unit)
        return f"{short_number(scale.shown(value))} {scale.unit}".rstrip()

    def number_words(self, parameter: Parameter, value: float) -> str:
        """A parameter's value in a sentence, with its unit."""
        scale = self.scale_of(parameter)
        return f"{short_number(scale.on_axis(value))} {scale.unit}".rstrip()

    def set_range(self, parameter: Parameter, low: float, high: float) -> None:
        """Choose a range; one beyond the limits is refused. Whole numbers range between whole numbers."""
        if parameter.kind == "whole":
            low, high = float(round(low)), float(round(high))
        if not parameter.low <= low < high <= parameter.high:
            scale = self.scale_of(parameter)
            allowed = self.session.units.parameter(parameter, scale.values).allowed
            ends = f"{scale.on_axis(low):g} to {scale.on_axis(high):g}"
            words = f"{parameter.label} is {allowed}, and a range goes from less to more"
            self.session.refused.emit(f"{words}: {ends} is not possible.")
            self.refresh_controls()
            return
        self.asked.ranges[parameter.id] = (low, high)
        self.changed.emit()

    # What is being dragged: a tune by its name, or something of the view's own

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._held = None
            self.session.end()

    def _end_gesture(self) -> None:
        """End the drag: its edit was ended elsewhere."""
        self._held = None

    @override
    def leaveEvent(self, event: QEvent) -> None:
        self.status.emit("")

    def drag_numbers(self, tune: Tune, changes: list[tuple[Parameter, float]]) -> None:
        """Set numbers of a tune, in the edit in progress or in a new one."""
        now = self.session.study.tune(tune.name)
        self.session.set_values(f"{' and '.join(each.label for each, _ in changes)} of {tune.name}",
                                [(now.name, each, _typed(each, value)) for each, value in changes])  # fmt: skip


def _typed(parameter: Parameter, value: float) -> float | int:
    return round(value) if parameter.kind == "whole" else value


def _same(one: tuple[Any, ...], other: tuple[Any, ...]) -> bool:
    return len(one) == len(other) and all(
        a is b or (isinstance(a, str | float | int | tuple | bool) and a == b) for a, b in zip(one, other, strict=True)
    )
