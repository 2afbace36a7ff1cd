"""Rescaling by a factor, or to a given length: a tune, all tunes, the study, or only its world."""

from __future__ import annotations

from PySide6.QtWidgets import QDialogButtonBox, QFormLayout, QHBoxLayout, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import Chooser, NumberBox, PlainLabel
from cinetica.model import rescaling
from cinetica.model.parameters import as_number
from cinetica.model.rescaling import MEANING, Scope
from cinetica.model.tune import Tune, parameter_by_id
from cinetica.model.value_text import number_text
from cinetica.reading.targets import rescaled_with_targets

PREVIEWED = ("body.height", "body.width", "drive.top_speed", "drive.acceleration", "jump.jump_speed", "gravity.gravity")
SMALLEST, LARGEST = 1e-4, 1e6


class RescaleDialog(Dialog):
    """Shows the result before it is applied in one edit, which can be undone."""

    def __init__(self, session: Session, tune: Tune, scope: Scope, window: QWidget) -> None:
        super().__init__("Rescale", window)
        self.close_when_removed(session, tunes=[tune.name])
        self.session, self.tune = session, tune
        self._linking = False
        self.scope = Chooser()
        for each in Scope:
            self.scope.addItem(f"{MEANING[each]}: {tune.name}" if each is Scope.TUNE else MEANING[each], each)
        self.scope.setCurrentIndex(self.scope.findData(scope))
        self.scope.setAccessibleName("What to rescale")
        self.scope.setMaximumWidth(64 * look.width("n"))
        self.factor = self._box("Factor")
        self.length = Chooser()
        for parameter in rescaling.lengths():
            if as_number(tune.get(parameter.id)) > 0 and tune.view in parameter.views:
                self.length.addItem(parameter.label, parameter.id)
        self.length.setCurrentIndex(self.length.findData("body.height"))
        self.length.setAccessibleName("Length to change")
        self.becomes = self._box("New length")
        self.becomes.setSuffix(f" {session.units.unit('u')}")
        self.now = PlainLabel()
        self.preview = PlainLabel()
        self.preview.setWordWrap(True)
        self.preview.setMinimumHeight(9 * look.height())
        self.message = PlainLabel()
        self.message.setObjectName("warning")
        self.message.setWordWrap(True)
        self._lay_out()
        self.factor.setValue(1.0)
        self.factor.valueChanged.connect(self._from_factor)
        self.becomes.valueChanged.connect(self._from_length)
        self.length.currentIndexChanged.connect(self._from_factor)
        self.scope.currentIndexChanged.connect(self._show_preview)
        self._from_factor()
        self.factor.setFocus()
        self.factor.selectAll()
        self.fit(72, 22)

    def _lay_out(self) -> None:
        lengths = QHBoxLayout()
        for widget in (self.length, self.now, self.becomes):
            lengths.addWidget(widget)
        form = QFormLayout()
        form.addRow("For", self.scope)
        form.addRow("Times", self.factor)
        form.addRow("Or", lengths)
        self.answers = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        self.answers.button(QDialogButtonBox.StandardButton.Ok).setText("&Change")
        self.answers.accepted.connect(self.change)
        self.answers.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addLayout(form)
        layout.addWidget(self.preview, 1)
        layout.addWidget(self.message)
        layout.addWidget(self.answers)

    @staticmethod
    def _box(name: str) -> NumberBox:
        box = NumberBox()
        box.setDecimals(6)
        box.setRange(SMALLEST, LARGEST)
        box.setAccessibleName(name)
        return box

    @property
    def _length(self) -> float:
        """The chosen length as it is shown."""
        return self.session.units.scale("u").shown(as_number(self.tune.get(self.length.currentData())))

    def _from_factor(self, *_: object) -> None:
        if not self._linking:
            self._linking = True
            self.now.setText(f"{number_text(self._length)} {self.session.units.unit('u')} becomes")
            self.becomes.setValue(self._length * self.factor.value())
            self._linking = False
        self._show_preview()

    def _from_length(self, *_: object) -> None:
        if not self._linking:
            self._linking = True
            self.factor.setValue(self.becomes.value() / self._length)
            self._linking = False
        self._show_preview()

    @property
    def chosen(self) -> Scope:
        """What to rescale."""
        return Scope(self.scope.currentData())

    def _show_preview(self, *_: object) -> None:
        """Say what would change, or why it is not possible."""
        scope, factor = self.chosen, self.factor.value()
        possible = True
        self.message.setText("")
        try:
            after = rescaled_with_targets(self.session.study, factor, scope, self.tune.name).tune(self.tune.name)
        except ValueError as error:
            possible, after = False, self.tune
            self.message.setText(str(error))
        self.answers.button(QDialogButtonBox.StandardButton.Ok).setEnabled(possible and factor != 1.0)
        lines = []
        for id in PREVIEWED:
            parameter = parameter_by_id(id)
            was, becomes = as_number(self.tune.get(id)), as_number(after.get(id))
            if parameter.matters(self.tune.view, self.tune.values()):
                stays = becomes == was
                units, values = self.session.units, self.tune.values()
                then, now = (units.text(parameter, value, values) for value in (was, becomes))
                change = then if stays else f"{then} → {now}"
                unit = units.parameter_unit(parameter)
                lines.append(f"{parameter.label}: {change} {unit}{', stays' if stays else ''}")
        self.preview.setText("\n".join([f"{self.tune.name}, among others:", *lines, "", self._about(scope)]))

    def _about(self, scope: Scope) -> str:
        agreed = any(drill.targets for drill in self.session.study.drills)
        stay = " Targets stay as they are: check which ones are missed afterwards." if agreed else ""
        if scope is Scope.WORLD:
            return f"The character keeps its numbers in a world of another size, so the feel changes.{stay}"
        words = "Times, shares and angles stay: every curve keeps its shape."
        pixels = self.session.study.conventions.pixels_per_unit
        if pixels != 1:
            words += f" Hand over still uses {pixels:g} pixels per unit: change that there."
        if scope in (Scope.TUNE, Scope.TUNES):
            words += f" The courses stay as they are.{stay}"
        elif agreed:
            words += " Targets for lengths and speeds are rescaled too."
        return words

    def change(self) -> None:
        """Rescale."""
        scope, factor = self.chosen, self.factor.value()
        name = f"Rescale {MEANING[scope].partition(':')[0]}"
        if self.session.alter(name, lambda study: rescaled_with_targets(study, factor, scope, self.tune.name)):
            self.session.message.emit(f"{name}: times {number_text(factor, 6)}.")
            self.accept()
