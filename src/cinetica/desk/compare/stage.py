"""The stage: the course, each tune's path and prints, the bodies at the frame cursor; edited in place when asked for."""

from __future__ import annotations

from functools import partial

import pyqtgraph as pg
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QAction, QColor, QKeyEvent, QMouseEvent, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QDoubleSpinBox,
    QFrame,
    QGraphicsScene,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QSpinBox,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from cinetica.desk import look
from cinetica.desk.compare.bodies import GhostItem, PrintsItem
from cinetica.desk.compare.comparing import Comparing, Curve
from cinetica.desk.compare.course_editor import GRIP, CourseEditor, SelectionItem
from cinetica.desk.compare.course_item import CourseItem
from cinetica.desk.compare.curve import Curves
from cinetica.desk.compare.paper import PaperGrid
from cinetica.desk.session import Shown
from cinetica.model.courses import KINDS

PRINT_EVERY = 6
STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
NARROW = 520


class StageView(pg.PlotWidget):
    """The plot. While the course is edited, the mouse and the keys are the editor's; else the wheel zooms and a drag pans."""

    def __init__(self, editor: CourseEditor, palette: look.Palette) -> None:
        super().__init__(background=palette.paper)
        self.editor = editor
        self.setFrameShape(self.Shape.NoFrame)
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Stage")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        item = self.getPlotItem()
        item.hideButtons()
        item.setMenuEnabled(False)
        item.getAxis("left").setWidth(look.px(30))
        item.getAxis("bottom").setHeight(look.px(20))
        item.layout.setContentsMargins(0, 0, 0, 0)
        for name in ("left", "bottom"):
            item.getAxis(name).setCacheMode(pg.AxisItem.CacheMode.DeviceCoordinateCache)
        self.box: pg.ViewBox = item.getViewBox()
        self.box.setAspectLocked(True)
        self.box.setDefaultPadding(0)
        self.scene().setItemIndexMethod(QGraphicsScene.ItemIndexMethod.NoIndex)

    def place_of(self, event: QMouseEvent) -> QPointF:
        return QPointF(self.box.mapSceneToView(self.mapToScene(event.position().toPoint())))

    def reach(self) -> QPointF:
        """The grip of the mouse, in u."""
        rect = self.box.viewRect()
        return QPointF(GRIP * rect.width() / max(1.0, self.box.width()), GRIP * rect.height() / max(1.0, self.box.height()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self.editor.on and event.button() == Qt.MouseButton.LeftButton:
            self.editor.press(self.place_of(event), self.reach())
        else:
            super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.editor.on and event.buttons() & Qt.MouseButton.LeftButton:
            self.editor.move(self.place_of(event))
        elif self.editor.on:
            found = self.editor.found(self.place_of(event), self.reach())
            sides = found[2] if found else ()
            across, up = any(side in ("left", "right") for side in sides), any(side in ("bottom", "top") for side in sides)
            shape = Qt.CursorShape.SizeAllCursor if found else Qt.CursorShape.CrossCursor
            self.setCursor(Qt.CursorShape.SizeHorCursor if across and not up else Qt.CursorShape.SizeVerCursor if up and not across else shape)
        else:
            self.setCursor(Qt.CursorShape.ArrowCursor)
            super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.editor.on and event.button() == Qt.MouseButton.LeftButton:
            self.editor.release()
        else:
            super().mouseReleaseEvent(event)

    def event(self, event: QEvent) -> bool:
        # While the course is edited the arrows move what is selected.
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and self.editor.on:
            if (event.key() in STEPS and self.editor.selected is not None) or event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Escape):
                event.accept()
                return True
        return bool(super().event(event))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        editor, key = self.editor, event.key()
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if editor.on and key in STEPS and editor.selected is not None:
            editor.nudge(*STEPS[Qt.Key(key)], resize=shift)
        elif editor.on and key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            editor.choose_next(1 if key == Qt.Key.Key_PageDown else -1)
        elif editor.on and key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            editor.remove()
        elif editor.on and key == Qt.Key.Key_Insert:
            middle = self.box.viewRect().center()
            editor.add_at(middle.x(), middle.y())
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
        self.box.scaleBy((factor, factor))


class EditBar(QFrame):
    """What is needed while the course is edited, over the stage."""

    def __init__(self, editor: CourseEditor, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self.setObjectName("bar")
        self.setAutoFillBackground(True)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 2, 10, 2)
        row.setSpacing(6)
        self.kind = QComboBox()
        for kind, words in KINDS.items():
            self.kind.addItem(words, kind)
        self.kind.setAccessibleName("What a drag on empty ground adds")
        self.kind.activated.connect(self._choose_kind)
        self.grid = QDoubleSpinBox()
        self.grid.setRange(0, 10)
        self.grid.setSingleStep(0.25)
        self.grid.setValue(editor.grid)
        self.grid.setSuffix(" u")
        self.grid.setSpecialValueText("off")
        self.grid.setAccessibleName("Grid that edges snap to")
        self.grid.valueChanged.connect(self._set_grid)
        self.exact = QLineEdit()
        self.exact.setAccessibleName("Left, bottom, right and top of the selected rectangle")
        self.exact.setPlaceholderText("left bottom right top")
        self.exact.setToolTip("Type left, bottom, right and top of the selected rectangle, in u")
        self.exact.setFixedWidth(look.px(132))
        self.exact.returnPressed.connect(self._type)
        done = QToolButton()
        done.setText("Done")
        done.setToolTip("End the edit of the course (C or Escape)")
        done.clicked.connect(partial(editor.turn, False))
        for each in (self._label("Drag edges or middles; on empty ground add a"), self.kind, self._label("snap"), self.grid, self.exact, done):
            each.setFont(look.font(8))
            row.addWidget(each)
        self.hide()

    def _label(self, text: str) -> QLabel:
        return QLabel(text)

    def _choose_kind(self, _: int) -> None:
        self.editor.kind = self.kind.currentData()

    def _set_grid(self, value: float) -> None:
        self.editor.grid = value

    def _type(self) -> None:
        try:
            self.editor.type_over(self.exact.text())
        except ValueError as error:
            self.editor.session.refused.emit(str(error))

    def say(self) -> None:
        selected = self.editor.selected
        self.exact.setEnabled(selected is not None)
        if not self.exact.hasFocus():
            self.exact.setText(" ".join(f"{value:g}" for value in selected[1]) if selected else "")


class Stage(QWidget):
    """Equal scale on both axes; the wheel zooms, a drag pans, F fits, C edits the course."""

    def __init__(self, comparing: Comparing, palette: look.Palette) -> None:
        super().__init__()
        look.on_paper(self)
        self.comparing, self.session, self.look = comparing, comparing.session, palette
        self.every = PRINT_EVERY
        self.arrows = (True, True)
        self.editor = CourseEditor(self.session)
        self.plot = StageView(self.editor, palette)
        self.box = self.plot.box
        self.grid = PaperGrid(self.box, palette, square=True)
        self.course = CourseItem(palette)
        self.selection = SelectionItem()
        for thing in (self.grid, self.course, self.selection):
            self.plot.addItem(thing, ignoreBounds=True)
        self.prints: list[PrintsItem] = []
        self.ghosts: list[GhostItem] = []
        self.paths = Curves(self.plot, self._path, over_time=False)
        self.wakes = Curves(self.plot, self._path, wake=True, over_time=False)
        self._add_labels()
        self.edit_bar = EditBar(self.editor, self)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.plot)
        self.set_look(palette)
        session = self.session
        session.traces_changed.connect(self.draw)
        session.wake_changed.connect(self.draw_wake)
        session.cursor_moved.connect(self.move_cursor)
        session.drill_changed.connect(self._new_drill)
        session.drill_edited.connect(self._show_course)
        comparing.changed.connect(self.move_cursor)
        self.editor.changed.connect(self._show_editing)
        self.box.sigRangeChanged.connect(self._say_scale)

    def _add_labels(self) -> None:
        self.title = QToolButton(self.plot)
        self.title.setObjectName("title")
        self.title.setText("Stage ▾")
        self.title.setFont(look.font(9, bold=True))
        self.title.setAccessibleName("Stage")
        self.title.setToolTip("Fit, arrows, and the edit of the course")
        self.title.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.title.move(look.px(34), 4)
        self.title.setMenu(self._menu())
        self.about = QLabel("print every", self.plot)
        self.scale = QLabel("", self.plot)
        for label in (self.about, self.scale):
            label.setObjectName("soft")
            label.setFont(look.font(8))
        self.about.move(look.px(40), look.px(29))
        self.every_box = QSpinBox(self.plot)
        self.every_box.setRange(0, 600)
        self.every_box.setValue(self.every)
        self.every_box.setSpecialValueText("none")
        self.every_box.setSuffix(" frames")
        self.every_box.setFont(look.font(8))
        self.every_box.setAccessibleName("A print of the body every so many frames")
        self.every_box.valueChanged.connect(self.print_every)
        self.every_box.setGeometry(look.px(98), look.px(26), look.px(66), look.px(20))

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        menu.addAction("Fit (F)", self.fit)
        menu.addAction("Zoom in (+)", partial(self.plot.zoom, 0.8))
        menu.addAction("Zoom out (−)", partial(self.plot.zoom, 1.25))
        menu.addSeparator()
        for place, words in enumerate(("Velocity arrows", "Acceleration arrows")):
            action: QAction = menu.addAction(words)
            action.setCheckable(True)
            action.setChecked(True)
            action.toggled.connect(partial(self._show_arrows, place))
        menu.addSeparator()
        menu.addAction("Edit the course (C)", self.toggle_editing)
        return menu

    def _show_arrows(self, place: int, on: bool) -> None:
        self.arrows = (on, self.arrows[1]) if place == 0 else (self.arrows[0], on)
        self.move_cursor()

    def print_every(self, every: int) -> None:
        """A print of the body every so many frames; none with 0."""
        self.every = every
        self.draw()

    def toggle_editing(self) -> None:
        if self.session.drill is None:
            self.session.refused.emit("There is no drill whose course could be edited. Add one from the menu Drill.")
            return
        self.editor.turn(not self.editor.on)
        if self.editor.on:
            self.plot.setFocus()

    def _show_editing(self) -> None:
        editor, drill = self.editor, self.session.drill
        self.selection.setVisible(editor.on)
        self.edit_bar.setVisible(editor.on)
        self.scale.setVisible(not editor.on)
        if editor.on and drill is not None:
            self.selection.show_selection(self.look, editor.selected[1] if editor.selected else None, drill.start)
            self.edit_bar.say()
            self.edit_bar.adjustSize()
            self.edit_bar.move(self.width() - self.edit_bar.width() - 8, 4)
            self.edit_bar.raise_()

    def set_look(self, palette: look.Palette) -> None:
        self.look = self.grid.look = self.course.look = palette
        self.plot.setBackground(palette.paper)
        for name in ("left", "bottom"):
            axis = self.plot.getPlotItem().getAxis(name)
            axis.setPen(pg.mkPen(None))
            axis.setTickPen(pg.mkPen(None))
            axis.setTextPen(QColor(palette.soft))
            axis.setStyle(tickLength=0, tickTextOffset=4, tickFont=look.font(8))
        self.course.update()
        self.draw()

    def _show_course(self) -> None:
        drill = self.session.drill
        if drill is not None:
            self.course.show_course(drill.course)

    def _new_drill(self) -> None:
        self._show_course()
        self.draw()
        self.fit()

    def fit(self) -> None:
        """Show all paths with a little room."""
        bounds = QRectF()
        for prints in self.prints:
            if prints.isVisible():
                bounds = bounds.united(prints.extent)
        if not bounds.isEmpty():
            self.box.setRange(bounds.adjusted(-0.5, -0.7, 0.5, 0.9), padding=0)

    def draw(self) -> None:
        shown = self.session.shown
        self.paths.show(shown, self.look)
        self.draw_wake()
        while len(self.prints) < len(shown):
            for items, item in ((self.prints, PrintsItem()), (self.ghosts, GhostItem())):
                items.append(item)
                self.plot.addItem(item, ignoreBounds=True)
        for prints, one in zip(self.prints, shown, strict=False):
            prints.show_trace(one, self.look, self.every)
        for number, (prints, ghost) in enumerate(zip(self.prints, self.ghosts, strict=True)):
            prints.setVisible(number < len(shown))
            ghost.setVisible(number < len(shown))
        self.move_cursor()

    def draw_wake(self) -> None:
        self.wakes.show(self.session.wake_shown, self.look)

    @staticmethod
    def _path(shown: Shown) -> Curve:
        """The way of the middle of the body."""
        middle = shown.tune.body.height / 2 if shown.tune.view == "side" else 0.0
        return shown.trace["x"], shown.trace["y"] + middle

    def move_cursor(self, *_: object) -> None:
        for ghost, shown in zip(self.ghosts, self.session.shown, strict=False):
            ghost.show_at(shown, self.comparing.row(shown), self.look, self.arrows)

    def _say_scale(self, *_: object) -> None:
        pixels = self.box.width() / max(self.box.viewRect().width(), 1e-9)
        # Beside the explanation the stage is narrow: what the marks mean makes room for them.
        marks = "○ press   △ launch   ❘ apex   □ land   × press lost        " if self.plot.width() > look.px(NARROW) else ""
        self.scale.setText(f"{marks}1 u = {pixels:.0f} px")
        for label in (self.title, self.about, self.scale):
            label.adjustSize()
        self.scale.move(self.plot.width() - self.scale.width() - 12, 6)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit()
        self._say_scale()
        self._show_editing()
