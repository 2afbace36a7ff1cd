"""Edits of the sheet's cells: typed, pasted, copied between tunes, dragged. Knows no widget."""

from __future__ import annotations

from collections.abc import Sequence

from cinetica.desk.sheet.cells import dragged_in, factor_of, figure_from_text, units_of, value_from_text
from cinetica.desk.sheet.model import Index, SheetModel
from cinetica.desk.state.session import Session
from cinetica.model import editing
from cinetica.model.parameters import Parameter, Value, as_number
from cinetica.model.targets import HOW, Target, range_from_text, split_all, split_everywhere
from cinetica.model.tune import Tune
from cinetica.reading.measures import Measure
from cinetica.reading.targets import Verdict, with_target_on_every_drill

# A parameter of a tune.
Cell = tuple[Tune, Parameter]


class CellEditor:
    """Turns actions on cells into edits of the study; impossible ones are refused with a reason."""

    def __init__(self, session: Session, model: SheetModel) -> None:
        self.session, self._model = session, model

    # Typing

    def type_into(self, index: Index, text: str, selected: Sequence[Index]) -> None:
        """Set what was typed into a cell in all selected cells of its row; for a figure it is the wanted value."""
        row, tune = self._model.row_at(index), self._model.tune_at(index)
        if row is None or tune is None:
            return
        try:
            if isinstance(row, Measure):
                self._type_figure(row, tune, text, whole_row=len({each.column() for each in selected}) > 1)
                return
            tunes = [each for each, parameter in self.cells(selected) if parameter is row]
            if len(tunes) <= 1:
                self.session.set_value(tune, row, self._value(row, text, tune))
            else:
                changes = [(each.name, row, self._value(row, text, each)) for each in tunes]
                self.session.set_values(f"{row.label} of {len(tunes)} tunes", changes)
        except ValueError as error:
            self.session.refused.emit(str(error))

    def _type_figure(self, measure: Measure, tune: Tune, text: str, *, whole_row: bool) -> None:
        if self._set_target(measure, tune, text, whole_row=whole_row):
            return
        counted, units = self._model.counted_in(measure, tune), units_of(self.session.study, tune)
        self.session.seek(tune, measure.id, figure_from_text(measure, text, self._model.unit(measure), units, counted))

    def _value(self, parameter: Parameter, text: str, tune: Tune) -> Value:
        """The typed value: units are those of the study, shares in the tune's own form."""
        return value_from_text(parameter, text, units_of(self.session.study, tune), tune.values(), self.session.units)

    def cells(self, indexes: Sequence[Index]) -> list[Cell]:
        """The numbers at these indexes that can be edited, from the top left."""
        ordered = sorted(indexes, key=lambda index: (index.row(), index.column()))
        return [found for index in ordered if (found := self._model.cell_at(index)) is not None]

    # Targets

    def _set_target(self, measure: Measure, tune: Tune, text: str, *, whole_row: bool) -> bool:
        """Set a typed range, or “none”, as the target of a figure; False if it is neither.

        It is for the cell's tune, or for all of the view with a trailing “all” or if the whole row is selected. With a
        trailing “on every drill” it is set on all drills that show the figure.
        """
        drill = self.session.drill
        bare, everywhere = split_everywhere(text)
        bare, for_all = split_all(bare)
        body = self._model.counted_in(measure, tune)
        if drill is None:
            return False
        for_all = for_all or whole_row
        names = () if for_all else (tune.name,)
        if bare.lower() in ("none", "no target"):
            return self.session.alter(
                f"No target for {measure.label.lower()}",
                lambda study: editing.without_target(study, drill.name, measure.id, names),
            ) or True  # fmt: skip
        units = units_of(self.session.study, tune)
        ends = range_from_text(
            bare, self._model.unit(measure), lambda name: factor_of(measure, name, units, counted=body)
        )
        if ends is None:
            if measure.seekable:
                return False
            raise ValueError(
                f"{measure.label} depends on several numbers, so it cannot be set directly; for a target, {HOW}."
            )
        low, high = (None if end is None else end * body for end in ends)
        target = Target(measure=measure.id, low=low, high=high, tunes=names)
        if everywhere:
            self.spread_target(target)
        elif self.session.alter(
            f"Target for {measure.label.lower()}", lambda study: editing.with_target(study, drill.name, target)
        ):
            whose = "every tune" if for_all else tune.name
            words = self.session.units.target_words(target, measure)
            self.session.message.emit(f"{measure.label} of {whose} should be {words}.")
        return True

    def spread_target(self, target: Target) -> None:
        """Set a target on every drill of the view that shows its figure."""
        drill = self.session.drill
        if drill is None:
            return
        self.session.alter("Target on every drill", lambda study: with_target_on_every_drill(study, drill.view, target))
        count = sum(target in each.targets for each in self.session.study.drills)
        self.session.message.emit(
            f"The target is now set on {count} drill{'s' if count != 1 else ''} that show the figure."
        )

    def remove_target(self, verdict: Verdict) -> None:
        """Remove the target of a verdict, for its tune."""
        self.session.alter(
            f"No target for {verdict.label.lower()}",
            lambda study: editing.without_target(study, verdict.drill, verdict.target.measure, (verdict.tune,)),
        )

    # Between tunes

    def copy_group(self, source: str, target: str, place: int) -> str:
        """Copy all values of a group from one tune to another; returns what was done, empty if it was refused."""
        group = self._model.groups[place]
        return self.copy_values(source, target, group.title, [row for row in group.rows if isinstance(row, Parameter)])

    def copy_values(self, source: str, target: str, what: str, parameters: list[Parameter]) -> str:
        """Copy values from one tune to another; returns what was done, empty if it was refused."""
        done = self.session.alter(
            f"{what} of {source} to {target}",
            lambda study: editing.with_copied_values(study, source, target, parameters),
        )
        return f"{what} of {source} copied to {target}." if done else ""

    def drop(self, source: str, target: str, index: Index) -> str:
        """Copy the value of a cell, or the group at a group's row; returns what was done."""
        row = self._model.row_at(index)
        if isinstance(row, Parameter):
            return self.copy_values(source, target, row.label, [row])
        place = self._model.place_at(index)
        return self.copy_group(source, target, place[0]) if row is None and place is not None else ""

    # Text

    def text_of(self, indexes: Sequence[Index]) -> str:
        """The cells as text: rows are lines, tunes are separated by tabs."""
        rows, columns = {index.row() for index in indexes}, {index.column() for index in indexes}
        texts = {(index.row(), index.column()): self._model.edit_text(index) for index in indexes}
        return "\n".join("\t".join(texts.get((row, column), "") for column in sorted(columns)) for row in sorted(rows))

    def paste(self, texts: Sequence[tuple[Index, str]]) -> str:
        """Set each cell to its text, or none if one is refused; returns what was done."""
        try:
            changes = []
            for index, text in texts:
                found = self._model.cell_at(index)
                if found is None:
                    raise ValueError(f"No cell can take “{text}”.")
                changes.append((found[0].name, found[1], self._value(found[1], text, found[0])))
        except ValueError as error:
            self.session.refused.emit(f"{error} Nothing was pasted.")
            return ""
        values = f"{len(changes)} value{'s' if len(changes) != 1 else ''}"
        return f"Pasted {values}." if changes and self.session.set_values(f"Paste {values}", changes) else ""

    # Numbers

    def to_default(self, cells: Sequence[Cell]) -> None:
        """Reset numbers to their defaults."""
        if len(cells) == 1:
            tune, parameter = cells[0]
            self.session.set_value(self.session.study.tune(tune.name), parameter, parameter.default)
        elif cells:
            changes = [(tune.name, parameter, parameter.default) for tune, parameter in cells]
            self.session.set_values(f"{len(cells)} values to defaults", changes)

    def nudge(self, tune: Tune, parameter: Parameter, steps: float) -> None:
        """Change a number; successive steps on one cell are one entry of the undo list."""
        if parameter.kind == "whole" and abs(steps) < 1:
            steps = 1 if steps > 0 else -1
        value = dragged_in(self.session.units, parameter, tune, as_number(tune.get(parameter.id)), steps)
        self.session.set_value(tune, parameter, value, joins=True)
