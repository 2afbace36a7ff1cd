"""Reading a curve from pictures: frame by frame, the feet are clicked or tracked, and become a log of the drill."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFileDialog, QFormLayout, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import Chooser, PlainLabel, in_a_row, number_box, push_button
from cinetica.model.editing import free_name, with_log
from cinetica.reading.match.footage import Footage, Point, follow, log_of, read_footage, scale_of

PICTURES = "Pictures (*.png *.gif *.apng *.webp *.jpg *.jpeg)"
FEET, SCALE, GROUND = "feet", "scale", "ground"
MODES = {FEET: "the feet", SCALE: "a known length", GROUND: "the ground"}
HOW = {
    FEET: "Click the feet, or another point of the body; ← and → go on, Delete removes the point of this frame.",
    SCALE: "Click both ends of something whose length you know.",
    GROUND: "Click where that point is while the body stands on the ground.",
}


class PictureView(QWidget):
    """One picture, as large as there is room, with the points that are set. Places are pixels of the picture."""

    clicked = Signal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self.image: QImage | None = None
        # Points by kind: the neighbours, this point, the ends of the length, and the height of the ground.
        self.others: list[Point] = []
        self.now: Point | None = None
        self.proposed = False
        self.ends: list[Point] = []
        self.ground: float | None = None
        self.setMinimumSize(look.px(320), look.px(200))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Picture")

    @property
    def _fitted(self) -> tuple[float, QPointF]:
        """The scale (screen pixels a picture pixel) and the corner of the picture on screen."""
        assert self.image is not None
        scale = min(self.width() / self.image.width(), self.height() / self.image.height())
        wide, high = self.image.width() * scale, self.image.height() * scale
        return scale, QPointF((self.width() - wide) / 2, (self.height() - high) / 2)

    def on_screen(self, point: Point) -> QPointF:
        """The screen position of a point of the picture."""
        scale, corner = self._fitted
        return corner + QPointF(point[0] * scale, point[1] * scale)

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.image is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        scale, corner = self._fitted
        at = (event.position() - corner) / scale
        if 0 <= at.x() <= self.image.width() and 0 <= at.y() <= self.image.height():
            self.clicked.emit(at.x(), at.y())

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), QColor(look.palette().paper))
            if self.image is None:
                painter.setPen(QColor(look.palette().soft))
                words = "Open pictures: PNG files, or an animated PNG or GIF."
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
                return
            scale, corner = self._fitted
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            size = QRectF(corner.x(), corner.y(), self.image.width() * scale, self.image.height() * scale)
            painter.drawImage(size, self.image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_points(painter, corner, scale)

    def _paint_points(self, painter: QPainter, corner: QPointF, scale: float) -> None:
        assert self.image is not None
        accent, warm = QColor(look.palette().accent), look.ink(look.palette(), 1)
        painter.setPen(QPen(accent, 1.2))
        for other in self.others:
            painter.drawEllipse(self.on_screen(other), 2.5, 2.5)
        if self.ground is not None:
            y = corner.y() + self.ground * scale
            painter.setPen(QPen(warm, 1.4, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(corner.x(), y), QPointF(corner.x() + self.image.width() * scale, y))
        painter.setPen(QPen(warm, 1.6))
        if len(self.ends) == 2:
            painter.drawLine(self.on_screen(self.ends[0]), self.on_screen(self.ends[1]))
        for end in self.ends:
            painter.drawRect(QRectF(self.on_screen(end).x() - 3, self.on_screen(end).y() - 3, 6, 6))
        if self.now is not None:
            at = self.on_screen(self.now)
            style = Qt.PenStyle.DotLine if self.proposed else Qt.PenStyle.SolidLine
            painter.setPen(QPen(accent, 2.2, style))
            painter.drawEllipse(at, 6, 6)
            painter.drawLine(at - QPointF(10, 0), at + QPointF(10, 0))
            painter.drawLine(at - QPointF(0, 10), at + QPointF(0, 10))


class ReadPictures(Dialog):
    """The dialog, which stays open beside the window."""

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__("Read off pictures", window)
        self.session = session
        self.footage: Footage | None = None
        self.frame = 0
        # The feet that were clicked, and those that were only tracked.
        self.feet: dict[int, Point] = {}
        self.proposed: dict[int, Point] = {}
        self.view = PictureView()
        self.view.clicked.connect(self._click)
        self.mode = Chooser()
        for mode, words in MODES.items():
            self.mode.addItem(words, mode)
        self.mode.setAccessibleName("What a click sets")
        self.mode.activated.connect(lambda _: self._show_frame())
        self.rate = number_box(1, 10_000, 60.0, "Pictures a second")
        self.length = number_box(0.001, 10_000, 1.0, "Known length")
        self.length.setSuffix(f" {session.units.unit('u')}")
        self.where = PlainLabel()
        self.message = PlainLabel()
        self.message.setWordWrap(True)
        self.message.setMinimumHeight(2 * look.height(10))
        self.back, self.forward = push_button("Back", lambda: self.go(-1)), push_button("Forward", lambda: self.go(1))
        self.follow_button = push_button("Follow", self.follow)
        self.follow_button.setToolTip("Propose the feet in the frames that follow, from what is around this point")
        self.make = push_button("Make a log", self.make_log, main=True)
        self._lay_out()
        self._show_frame()
        self.fit(100, 36)

    def _lay_out(self) -> None:
        form = QFormLayout()
        form.addRow("Pictures a second", self.rate)
        form.addRow("A click sets", self.mode)
        form.addRow("Known length", self.length)
        column = QVBoxLayout(self)
        column.addWidget(self.view, 1)
        column.addLayout(in_a_row(push_button("Open…", self.open_pictures), self.back, self.forward, self.where))
        column.addLayout(form)
        column.addLayout(in_a_row(self.follow_button, self.make))
        column.addWidget(self.message)

    # Pictures

    def open_pictures(self) -> None:
        """Ask for the pictures, and show them."""
        chosen, _ = QFileDialog.getOpenFileNames(self, "Pictures in order, or an animation", "", PICTURES)
        if chosen:
            self.show_pictures([Path(each) for each in chosen])

    def show_pictures(self, paths: list[Path]) -> None:
        """Show these pictures; what was set on others is forgotten."""
        try:
            self.footage = read_footage(paths)
        except ValueError as error:
            self.message.setText(str(error))
            return
        self.frame, self.feet, self.proposed = 0, {}, {}
        self.view.ends, self.view.ground = [], None
        self.rate.setValue(self.footage.rate)
        self.mode.setCurrentIndex(0)
        self._show_frame()
        self.view.setFocus()

    def go(self, by: int) -> None:
        """Go to another frame."""
        if self.footage is not None:
            self.frame = min(max(self.frame + by, 0), len(self.footage.pictures) - 1)
            self._show_frame()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.go(1 if event.key() == Qt.Key.Key_Right else -1)
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.feet.pop(self.frame, None)
            self.proposed.pop(self.frame, None)
            self._show_frame()
        else:
            super().keyPressEvent(event)

    # Points

    def _click(self, x: float, y: float) -> None:
        match self.mode.currentData():
            case "feet":
                self.feet[self.frame] = (x, y)
                self.proposed.pop(self.frame, None)
            case "scale":
                self.view.ends = [*self.view.ends, (x, y)] if len(self.view.ends) < 2 else [(x, y)]
            case "ground":
                self.view.ground = y
        self._show_frame()

    def follow(self) -> None:
        """Propose the feet in the frames after this one, up to the next that was clicked."""
        here = self.feet.get(self.frame) or self.proposed.get(self.frame)
        if self.footage is None or here is None:
            self.message.setText("Click the feet in this frame first.")
            return
        later = [frame for frame in sorted(self.feet) if frame > self.frame]
        end = later[0] - 1 if later else len(self.footage.pictures) - 1
        found = follow(self.footage, self.frame, here, end)
        self.proposed |= {frame: point for frame, point in found.items() if frame not in self.feet}
        self._show_frame()
        lost = end - max(found, default=self.frame)
        words = f"Followed through {len(found)} frames." if found else "It is not found in the next frame."
        self.message.setText(words if not lost or not found else f"{words} Then it is lost: click it there.")

    @property
    def points(self) -> dict[int, Point]:
        """The feet in every frame in which they are known."""
        return self.proposed | self.feet

    def _show_frame(self) -> None:
        footage = self.footage
        for each in (self.back, self.forward, self.follow_button, self.make):
            each.setEnabled(footage is not None)
        mode = self.mode.currentData()
        if footage is None:
            self.where.setText("")
            return
        picture = footage.pictures[self.frame]
        high, wide = picture.shape[:2]
        self.view.image = QImage(picture.tobytes(), wide, high, 3 * wide, QImage.Format.Format_RGB888).copy()
        points = self.points
        self.view.now, self.view.proposed = points.get(self.frame), self.frame in self.proposed
        self.view.others = [point for frame, point in points.items() if frame != self.frame]
        self.view.update()
        self.where.setText(f"frame {self.frame + 1} of {len(footage.pictures)}, feet in {len(points)}")
        self.message.setText(HOW[mode])

    # The log

    def make_log(self) -> None:
        """Make a log of the current drill from the feet."""
        session, footage, drill = self.session, self.footage, self.session.drill
        if footage is None or drill is None:
            return
        try:
            if len(self.view.ends) < 2:
                raise ValueError("How large is a unit? Choose “a known length” and click both of its ends.")
            if self.view.ground is None:
                raise ValueError("Where is the ground? Choose “the ground” and click it.")
            length = session.units.scale("u").kept(self.length.value())
            scale = scale_of(self.view.ends[0], self.view.ends[1], length)
            rated = Footage(footage.pictures, self.rate.value())
            name = free_name("Pictures", [log.name for log in session.study.logs])
            log = log_of(rated, self.points, scale, self.view.ground, name, drill.name, drill.start)
        except ValueError as error:
            self.message.setText(str(error))
            return
        if session.alter(f"Read {name} off", lambda study: with_log(study, log)):
            self.message.setText(f"“{name}” is a log of {drill.name} now, with {len(log.time)} frames.")
