"""The stage: the course, each tune's path and prints, the bodies at the frame cursor; its course can be edited."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, QPointF, QSize, Qt
from PySide6.QtGui import (
    QAction,
    QColor,
    QGuiApplication,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
)
from PySide6.QtWidgets import QLabel, QLineEdit, QMenu, QSizePolicy, QSpinBox, QStackedLayout, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed, keyed_tip
from cinetica.desk.compare.course_editor import GRIP, CourseEditor, SelectionItem
from cinetica.desk.compare.overlay import Comparing
from cinetica.desk.compare.start_editor import NUMBERS as NUMBERS_OF_START
from cinetica.desk.match.drawing import NAME as WANTED
from cinetica.desk.match.drawing import WantedEditor, WantedItem
from cinetica.desk.paint.bodies import Ghosts, Prints
from cinetica.desk.paint.course import CourseLayer
from cinetica.desk.paint.curves import Curves, path_of
from cinetica.desk.paint.grid import Grid
from cinetica.desk.paint.off_course import Fallen, deepest_followed
from cinetica.desk.paint.plot import PaperPlot
from cinetica.desk.paint.plot_layers import PlotLayers
from cinetica.desk.paint.signs import MARKS, paint_mark
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.widgets import Chooser, FoldingRow, NumberBox, OpensButton, ShortLabel, button, inset
from cinetica.model.courses import EFFECTS, GRID, KINDS, NUMBERS, PRESETS, zone_words
from cinetica.model.world_size import world_size

PRINT_EVERY = 6
# The margin around all paths, in u, for a body of the usual size: left, towards +y, towards -y, right.
MARGINS = (-0.5, -0.7, 0.5, 0.9)
# With this many tunes or more, bodies are printed only for the reference and the tune that was changed last.
MANY_TUNES = 3
STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


KNOWN = QKeySequence.StandardKey
HOW_TO_EDIT = "Drag to draw. Click to select; drag a grip to resize, with Alt to move. The middle button pans."
MORE_TO_EDIT = (
    "Page Up and Down select. Arrow keys move what is selected, with Shift they resize it. Copy, paste and duplicate"
    " work as elsewhere, Delete removes, Escape ends."
)


def _moves(event: QMouseEvent) -> bool:
    """Whether a drag moves a shape instead of drawing one."""
    return bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)


class StageView(PaperPlot):
    """The plot of the stage.

    While the course is edited, mouse and keys go to the editor; else the wheel zooms and a drag pans.
    """

    def __init__(self, editor: CourseEditor, wanted: WantedEditor) -> None:
        super().__init__(bottom=True)
        self.editor, self.wanted = editor, wanted
        self.setAccessibleName("Stage")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.keep_square()
        self.box.setMouseEnabled(x=True, y=True)

    def place_of(self, event: QMouseEvent) -> QPointF:
        """The place under the mouse, in u."""
        return QPointF(self.box.mapSceneToView(self.mapToScene(event.position().toPoint())))

    def reach(self) -> QPointF:
        """The size of the mouse's grip, in u."""
        rect = self.box.viewRect()
        return QPointF(
            GRIP * rect.width() / max(1.0, self.box.width()), GRIP * rect.height() / max(1.0, self.box.height())
        )

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self.wanted.on and not self.editor.on and event.button() == Qt.MouseButton.LeftButton:
            self._set_place(event)
        elif self.editor.on and event.button() == Qt.MouseButton.LeftButton:
            self.editor.press(self.place_of(event), self.reach(), moves=_moves(event))
        else:
            super().mousePressEvent(event)

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.wanted.on and not self.editor.on and event.buttons() & Qt.MouseButton.LeftButton:
            self._set_place(event)
        elif self.editor.on and event.buttons() & Qt.MouseButton.LeftButton:
            self.editor.move(self.place_of(event))
        elif self.editor.on and not event.buttons() & Qt.MouseButton.MiddleButton:
            found = self.editor.held_at(self.place_of(event), self.reach(), moves=_moves(event))
            handles = found[2] if found else ()
            across, up = (
                any(handle in ("left", "right") for handle in handles),
                any(handle in ("bottom", "top") for handle in handles),
            )
            shape = Qt.CursorShape.SizeAllCursor if found else Qt.CursorShape.CrossCursor
            self.setCursor(
                Qt.CursorShape.SizeHorCursor
                if across and not up
                else Qt.CursorShape.SizeVerCursor
                if up and not across
                else shape
            )
        else:
            self.setCursor(Qt.CursorShape.ArrowCursor)
            super().mouseMoveEvent(event)

    def _set_place(self, event: QMouseEvent) -> None:
        """Put the wanted path's point at the frame cursor under the mouse."""
        session, at = self.wanted.session, self.place_of(event)
        if not session.in_gesture:
            session.begin(WANTED)
        lift = (
            0.0 if session.reference is None or session.reference.view == "top" else session.reference.body.height / 2
        )
        frame = self.wanted.frame_at(session.time_at(session.cursor))
        self.wanted.set_place(frame, at.x(), at.y() - lift)

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.wanted.on and not self.editor.on and event.button() == Qt.MouseButton.LeftButton:
            self.wanted.session.end()
        elif self.editor.on and event.button() == Qt.MouseButton.LeftButton:
            self.editor.release()
        else:
            super().mouseReleaseEvent(event)

    @override
    def event(self, event: QEvent) -> bool:
        # While the course is edited the arrows move what is selected.
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and self.editor.on:
            on_selected = event.key() in STEPS or self._is_duplicate(event) or event.matches(KNOWN.Copy)
            ends = event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Escape)
            if ends or event.matches(KNOWN.Paste) or (on_selected and self.editor.has_selected):
                event.accept()
                return True
        return bool(super().event(event))

    @staticmethod
    def _is_duplicate(event: QKeyEvent) -> bool:
        return event.key() == Qt.Key.Key_D and bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        editor, key = self.editor, event.key()
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if editor.on and event.matches(KNOWN.Copy):
            QGuiApplication.clipboard().setText(editor.copy_text())
        elif editor.on and event.matches(KNOWN.Paste):
            editor.paste(QGuiApplication.clipboard().text())
        elif editor.on and self._is_duplicate(event):
            editor.duplicate()
        elif editor.on and key in STEPS and editor.has_selected:
            editor.nudge(*STEPS[Qt.Key(key)], resize=shift)
        elif editor.on and key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            editor.choose_next(1 if key == Qt.Key.Key_PageDown else -1)
        elif editor.on and key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            editor.remove()
        elif editor.on and key == Qt.Key.Key_Insert:
            middle = self.box.viewRect().center()
            editor.add_at(middle.x(), middle.y())
        elif not editor.on and self.wanted.on and key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.wanted.remove()
        elif editor.on and key == Qt.Key.Key_Escape:
            editor.turn(False)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self.zoom(0.8 if key == Qt.Key.Key_Plus else 1.25)
        elif not editor.on and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            rect = self.box.viewRect()
            self.box.translateBy(y=rect.height() * (0.1 if key == Qt.Key.Key_Up else -0.1))
        elif not editor.on and key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            rect = self.box.viewRect()
            self.box.translateBy(x=rect.width() * (0.1 if key == Qt.Key.Key_PageDown else -0.1))
        else:
            event.ignore()

    def zoom(self, factor: float) -> None:
        """Zoom by a factor."""
        self.box.scaleBy((factor, factor))


class EditRow(FoldingRow):
    """The controls for editing the course, in place of the stage's title."""

    def __init__(self, editor: CourseEditor) -> None:
        super().__init__("More", margins=(10, 8), spacing=6)
        self.editor = editor
        self.kind = Chooser()
        for kind, words in KINDS.items():
            self.kind.addItem(words, kind)
        self.kind.setAccessibleName("What a drag draws")
        self.kind.activated.connect(self._choose_kind)
        self.does = Chooser()
        for name in PRESETS:
            self.does.addItem(name, name)
        self.does.setAccessibleName("What a zone does")
        self.does.setPlaceholderText("as typed")
        self.does.activated.connect(lambda _: editor.choose_preset(self.does.currentData()))
        self.grid = NumberBox()
        self.grid.setDecimals(4)
        self.grid.setRange(0, 1000)
        self.grid.setSpecialValueText("off")
        self.grid.setAccessibleName("Grid that edges snap to")
        self.grid.valueChanged.connect(self._set_grid)
        editor.session.units_changed.connect(self._show_units)
        self._show_grid()
        self.exact = QLineEdit()
        self.exact.setAccessibleName("The numbers of the selected shape")
        self.exact.setPlaceholderText(NUMBERS["solids"])
        self.exact.setMinimumWidth(look.width("left bottom", 8) + look.px(18))
        self.exact.returnPressed.connect(self._type)
        done = button("Done", "", partial(editor.turn, False), size=8)
        keyed_tip(done, "Stop editing the course ({course} or Escape)")
        snap = QLabel("snap")
        self.kind.set_tip("What a drag draws")
        self.does.set_tip("What the zone does; numbers of your own are typed behind its sides")
        for each in (self.kind, self.does, snap, self.grid, self.exact, done):
            each.setFont(look.font(8))
            self.add(each)
        self.row.addStretch(1)

    def _choose_kind(self, _: int) -> None:
        self.editor.kind = self.kind.currentData()
        self.refresh()

    def _show_units(self) -> None:
        self._show_grid()
        self.refresh()

    def _show_grid(self) -> None:
        """Show the grid, which follows the size of the world until the user sets it."""
        scale = self.editor.session.units.scale("u")
        grid = scale.shown(self.editor.grid)
        self.grid.blockSignals(True)
        self.grid.setSuffix(f" {scale.unit}")
        if abs(grid - self.grid.value()) > 1e-4:
            self.grid.setSingleStep(grid or scale.shown(GRID))
            self.grid.setValue(grid)
        self.grid.blockSignals(False)

    def _set_grid(self, value: float) -> None:
        self.editor.grid = self.editor.session.units.scale("u").kept(value)

    def _type(self) -> None:
        try:
            self.editor.type_over(self.exact.text())
        except ValueError as error:
            self.editor.session.refused.emit(str(error))

    def refresh(self) -> None:
        """Show the selected shape, or the start."""
        selected, start = self.editor.selected, self.editor.start_chosen
        self.exact.setEnabled(start or selected is not None)
        kind, zone = selected[0] if selected else self.editor.kind, self.editor.zone
        self.does.setVisible(kind == "zones" and not start)
        self.does.setCurrentIndex(self.does.findData(zone_words(zone) if zone else self.editor.preset))
        if not self.exact.hasFocus():
            text = self.editor.start.text if start else self.editor.text_of(selected[1]) if selected else ""
            self.exact.setText(text)
        names, unit = NUMBERS_OF_START if start else NUMBERS[kind], self.editor.session.units.unit("u")
        self.exact.setPlaceholderText(names)
        lines = [f"Type {names}:", *EFFECTS] if kind == "zones" and not start else [f"Type {names}."]
        self.exact.setToolTip("\n".join([*lines, f"Lengths are in {unit}."]))


class Legend(QWidget):
    """A drawn legend of the marks on the paths, and the scale; what has no room is left out."""

    def __init__(self) -> None:
        super().__init__()
        self.scale = ""
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setToolTip(f"Marks on the paths: {', '.join(word for _, _, word in MARKS)}")
        self.setAccessibleName("Marks on the paths, and the scale")

    @override
    def sizeHint(self) -> QSize:
        return QSize(look.width(self.scale, 8) + 4, look.height(8))

    @override
    def minimumSizeHint(self) -> QSize:
        return QSize(0, look.height(8))

    def set_scale(self, scale: str) -> None:
        """Set the scale."""
        if scale != self.scale:
            self.scale = scale
            self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(look.font(8))
            soft, right, high = QColor(look.palette().soft), float(self.width()), self.height()
            words = look.width(self.scale, 8)
            if words <= right:
                painter.setPen(soft)
                painter.drawText(round(right) - words, 0, words, high, Qt.AlignmentFlag.AlignVCenter, self.scale)
            right -= words + look.px(18)
            size = look.px(8)
            needed = [size + 5 + look.width(word, 8) + look.px(12) for _, _, word in MARKS]
            x = right - sum(needed)
            if x < 0:
                return
            for (_, symbol, word), room in zip(MARKS, needed, strict=True):
                paint_mark(painter, QPointF(x + size / 2, high / 2), symbol, soft, QColor(look.palette().paper), size)
                painter.setPen(soft)
                painter.drawText(
                    round(x) + size + 5, 0, look.width(word, 8) + 2, high, Qt.AlignmentFlag.AlignVCenter, word
                )
                x += room


class Stage(QWidget):
    """Equal scale on both axes; the wheel zooms, a drag pans; it can be fitted, and its course edited."""

    def __init__(self, comparing: Comparing, wanted: WantedEditor) -> None:
        super().__init__()
        look.on_paper(self)
        self.comparing, self.session = comparing, comparing.session
        self.every, self.all_bodies = PRINT_EVERY, False
        self.arrows, self.cameras, self.postures = (True, True), True, True
        self.editor = CourseEditor(self.session, self)
        self.plot = StageView(self.editor, wanted)
        self.box = self.plot.box
        self.course, self.prints = CourseLayer(), Prints()
        self.paths = Curves(path_of, over_time=False)
        self.wakes = Curves(path_of, wake=True, over_time=False, under=self.paths)
        self.ghosts, self.fallen = Ghosts(), Fallen()
        self.layers = PlotLayers(
            self.box,
            [Grid(self.plot.scales, square=True), self.course],
            [self.wakes],
            [self.paths, self.prints],
            [self.ghosts, self.fallen],
        )
        self.selection = SelectionItem()
        self.box.addItem(self.selection, ignoreBounds=True)
        self.box.addItem(WantedItem(wanted), ignoreBounds=True)
        self.edit_row = EditRow(self.editor)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._rows())
        layout.addWidget(self.plot, 1)
        self.setMinimumHeight(self.top_row.sizeHint().height() + look.height(8) * 5)
        self._update_units()
        self._connect()

    def _connect(self) -> None:
        session = self.session
        session.units_changed.connect(self._update_units)
        session.traces_changed.connect(self.draw)
        session.wake_changed.connect(self.draw_wake)
        session.cursor_moved.connect(self.move_cursor)
        session.drill_changed.connect(self._new_drill)
        session.drill_edited.connect(self._show_course)
        self.comparing.changed.connect(self.move_cursor)
        self.editor.changed.connect(self._show_editing)
        self.box.sigRangeChanged.connect(self._update_scale)

    def _rows(self) -> QWidget:
        """The title with the choices, or the controls for editing, above the plot."""
        self.title = OpensButton("Stage")
        self.title.setObjectName("title")
        self.title.setFont(look.font(9, bold=True))
        self.title.setAccessibleName("Stage")
        self.title.setToolTip("Fit, arrows, and editing the course")
        self.title.setMenu(self._menu())
        about = ShortLabel("body every")
        about.set_tip("How often the body is drawn along its path; 0 for never")
        about.setObjectName("soft")
        about.setFont(look.font(8))
        self.every_box = QSpinBox()
        inset(self.every_box)
        self.every_box.setRange(0, 600)
        self.every_box.setValue(self.every)
        self.every_box.setSpecialValueText("none")
        self.every_box.setSuffix(" frames")
        self.every_box.setFont(look.font(8))
        self.every_box.setMinimumWidth(look.width("600 frames", 8) + look.px(24))
        self.every_box.setAccessibleName("How often the body is drawn along its path; 0 for never")
        self.every_box.setToolTip("How often the body is drawn along its path; 0 for never")
        self.every_box.valueChanged.connect(self.print_every)
        self.legend = Legend()
        self.top_row = FoldingRow("More", margins=(8, 12), spacing=6, air=2)
        for widget, stretch in ((self.title, 0), (about, 1), (self.every_box, 0), (self.legend, 8)):
            self.top_row.add(widget, stretch=stretch)
        rows = QWidget()
        self._either = QStackedLayout(rows)
        self._either.addWidget(self.top_row)
        self._either.addWidget(self.edit_row)
        rows.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        return rows

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        menu.addAction("Fit", self.fit)
        menu.addAction("Zoom in", partial(self.plot.zoom, 0.8))
        menu.addAction("Zoom out", partial(self.plot.zoom, 1.25))
        menu.addSeparator()
        for place, words in enumerate(("Velocity arrows", "Acceleration arrows")):
            action: QAction = menu.addAction(words)
            action.setCheckable(True)
            action.setChecked(True)
            action.toggled.connect(partial(self._show_arrows, place))
        bodies: QAction = menu.addAction("Bodies of every tune")
        bodies.setToolTip("From three tunes on, only the reference and the tune changed last show their bodies")
        bodies.setCheckable(True)
        bodies.toggled.connect(self._show_all_bodies)
        cameras: QAction = menu.addAction("Camera and its window")
        cameras.setCheckable(True)
        cameras.setChecked(True)
        cameras.toggled.connect(self._show_cameras)
        self.postures_action: QAction = menu.addAction("Postures")
        self.postures_action.setToolTip("Draw the pose in the box, or the box alone")
        self.postures_action.setCheckable(True)
        self.postures_action.setChecked(True)
        self.postures_action.toggled.connect(self._show_postures)
        menu.addSeparator()
        edit = menu.addAction("Edit the course", self.toggle_editing)
        menu.aboutToShow.connect(lambda: edit.setText(keyed("Edit the course ({course})")))
        return menu

    def _show_arrows(self, place: int, on: bool) -> None:
        self.arrows = (on, self.arrows[1]) if place == 0 else (self.arrows[0], on)
        self.move_cursor()

    def _show_cameras(self, on: bool) -> None:
        self.cameras = on
        self.move_cursor()

    def _show_postures(self, on: bool) -> None:
        self.postures = on
        self.move_cursor()

    def _show_all_bodies(self, on: bool) -> None:
        self.all_bodies = on
        self.draw()

    def _bodies_of(self, shown: list[TuneRun]) -> set[int] | None:
        """The places of the tunes whose bodies are printed; None for all."""
        if len(shown) < MANY_TUNES or self.all_bodies:
            return None
        reference = self.session.reference_shown
        touched = {each.place for each in shown if each.tune.name == self.session.touched}
        return touched | ({reference.place} if reference else set())

    def print_every(self, every: int) -> None:
        """Print the body every `every` frames; none with 0."""
        self.every = every
        self.draw()

    def toggle_editing(self) -> None:
        """Turn editing of the course on or off."""
        if self.session.drill is None:
            self.session.refused.emit("There is no drill to edit. Add one from the Drill menu.")
            return
        self.editor.turn(not self.editor.on)
        self.plot.setToolTip(f"{HOW_TO_EDIT}\n{MORE_TO_EDIT}" if self.editor.on else "")
        if self.editor.on:
            self.plot.setFocus()
            self.session.message.emit(HOW_TO_EDIT)

    def _show_editing(self) -> None:
        editor, drill = self.editor, self.session.drill
        self.selection.setVisible(editor.on)
        self._either.setCurrentWidget(self.edit_row if editor.on else self.top_row)
        if editor.on and drill is not None:
            self.selection.show_selection(
                editor.selected[1] if editor.selected else None,
                editor.start,
                self.session.units,
                chosen=editor.start_chosen,
            )
            self.layers.refresh()
            self.edit_row.refresh()

    def _show_course(self) -> None:
        if self._take_course():
            self.layers.refresh()

    def _take_course(self) -> bool:
        """Read the current course; returns whether it looks different."""
        before, drill = self.course.key, self.session.drill
        self.course.show(self.course.course if drill is None else drill.course, self.session.shown)
        return self.course.key != before

    def _new_drill(self) -> None:
        self._show_course()
        self.draw()
        self.fit()

    def fit(self) -> None:
        """Show all paths with a margin, and of a fall off the course only its beginning."""
        deepest = deepest_followed(self.session.drill, self.session.shown)
        bounds = self.prints.extent(deepest)
        if not bounds.isEmpty():
            size = world_size(self.session.reference)
            self.box.setRange(bounds.adjusted(*(side * size for side in MARGINS)), padding=0)

    def draw(self) -> None:
        """Draw the current traces."""
        shown = self.session.shown
        # Update all of them, even if one has already changed.
        prints = self.prints.show(shown, self.every, self._bodies_of(shown))
        changed = (self._take_course(), self.paths.show(shown), prints)
        self.fallen.show(shown, deepest_followed(self.session.drill, shown))
        self._update_scale()
        if any(changed):
            self.layers.refresh()
        self.draw_wake()
        self.move_cursor()

    def draw_wake(self) -> None:
        """Draw the wake."""
        if self.wakes.show(self.session.wake_shown):
            self.layers.refresh()

    def move_cursor(self, *_: object) -> None:
        """Draw the bodies at the frame cursor."""
        rows = [(shown, self.comparing.row(shown)) for shown in self.session.shown]
        if self.ghosts.show(rows, self.arrows, cameras=self.cameras, postures=self.postures):
            self.layers.refresh()

    def _update_scale(self, *_: object) -> None:
        pixels = self.box.width() / max(self.box.viewRect().width(), 1e-9)
        scale = self.session.units.scale("u")
        # The game's pixels are not those of the screen.
        size = f"1 u = {pixels:.0f} px"
        if scale.unit != "u":
            size = f"1 {scale.unit} = {pixels / scale.factor:.3g} on screen"
        self.legend.set_scale("  ".join(filter(None, (self.fallen.words(self.session.units.column("y")), size))))

    def _update_units(self) -> None:
        """Show the numbers in the units of the study."""
        self.plot.show_in(self.session.units.column("x"), self.session.units.column("y"))
        self.layers.refresh()
        self._update_scale()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit()
        self._update_scale()
