"""The page Compare, put together."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QLabel, QSizePolicy, QSplitter, QStackedLayout, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.compare.lanes import Lanes, Ruler
from cinetica.desk.compare.stage import Stage
from cinetica.desk.compare.strips import Strips
from cinetica.desk.compare.time_axis import TimeAxis
from cinetica.desk.compare.transport import Transport
from cinetica.desk.session import Session
from cinetica.desk.sheet import Sheet
from cinetica.reading.channels import BY_COLUMN, FIRST_SHOWN, Channel

SHEET_WIDTH = 344


class ComparePage(QWidget):
    """The sheet on the left; stage, lanes, strips and transport on the right."""

    def __init__(self, session: Session, palette: look.Palette) -> None:
        super().__init__()
        self.session = session
        self._own_sheet_width = False
        self._view = session.drill.view if session.drill else "side"
        self.axis = TimeAxis(session)
        self.sheet = Sheet(session, palette)
        self.stage = Stage(session, palette)
        self.lanes = Lanes(session, self.axis, palette)
        self.strips = Strips(session, self.axis, palette, self._first_channels())
        self.ruler = Ruler(session, self.axis, palette)
        self.transport = Transport(session, self.axis)
        self.note = QLabel()
        self.note.setWordWrap(True)
        self.note.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.note.setObjectName("soft")
        self.note.setFont(look.font(9))
        self.note.setContentsMargins(14, 4, 14, 4)
        self.notice = QLabel()
        self.notice.setAlignment(Qt.AlignmentFlag.AlignCenter)
        look.on_paper(self.notice)
        self.notice.setFont(look.font(11))
        self.notice.setWordWrap(True)
        self._lay_out()
        session.cursor_moved.connect(lambda row: self.axis.keep_in_view(session.time_at(row)))
        session.drill_changed.connect(self._new_drill)
        session.traces_changed.connect(self._notice_nothing)

    def _lay_out(self) -> None:
        below = QWidget()
        look.on_paper(below)
        stack = QVBoxLayout(below)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(0)
        for widget, stretch in ((self.lanes, 0), (self.strips, 1), (self.ruler, 0)):
            stack.addWidget(widget, stretch)
        charts = QSplitter(Qt.Orientation.Vertical)
        charts.setHandleWidth(1)
        charts.addWidget(self.stage)
        charts.addWidget(below)
        charts.setSizes([230, 460])
        charts.setStretchFactor(1, 1)
        right = QWidget()
        column = QVBoxLayout(right)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.note)
        upper = QWidget()
        self._upper = QStackedLayout(upper)
        self._upper.addWidget(charts)
        self._upper.addWidget(self.notice)
        column.addWidget(upper, 1)
        column.addWidget(self.transport)
        halves = self._halves = QSplitter(Qt.Orientation.Horizontal)
        halves.setHandleWidth(1)
        halves.addWidget(self.sheet)
        halves.addWidget(right)
        halves.splitterMoved.connect(self._sheet_was_moved)
        halves.setStretchFactor(1, 1)
        halves.setCollapsible(0, False)
        halves.setCollapsible(1, False)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(halves)

    def _first_channels(self) -> list[Channel]:
        drill = self.session.drill
        return [BY_COLUMN[column] for column in FIRST_SHOWN[drill.view if drill else "side"]]

    def _sheet_was_moved(self, *_: int) -> None:
        self._own_sheet_width = True

    def _fit_sheet(self) -> None:
        """As wide as its tunes need, but never more than two fifths, until the person moves the edge."""
        if not self._own_sheet_width:
            width = min(max(SHEET_WIDTH, self.sheet.wanted_width), max(SHEET_WIDTH, self.width() * 2 // 5))
            self._halves.setSizes([width, max(1, self.width() - width)])

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_sheet()

    def say(self, text: str) -> None:
        """Show a notice instead of the charts; an empty one shows the charts."""
        self.notice.setText(text)
        self._upper.setCurrentIndex(1 if text else 0)

    def _notice_nothing(self) -> None:
        """Where there is nothing to draw, say why and what to do."""
        drill, tunes = self.session.drill, self.session.tunes
        if drill is None:
            self.say("This study has no drill yet.\nOpen a study from the menu Study, or start with `cinetica demo`.")
        elif not tunes:
            self.say(f"No tune in this study is for the {drill.view} view of “{drill.name}”.\nChoose another drill above.")
        elif not self.session.shown:
            self.say("Every tune is hidden.\nClick a tune's name in the sheet, or press its number, to show it again.")
        else:
            self.say("")

    def _new_drill(self) -> None:
        drill = self.session.drill
        self.note.setText(f"{drill.name}: {drill.note}" if drill and drill.note else "")
        self.note.setToolTip(drill.note if drill else "")
        self.note.setVisible(bool(self.note.text()))
        # The person's own choice of strips stays until a drill of the other view comes.
        view = self.session.drill.view if self.session.drill else "side"
        if view != self._view:
            self._view = view
            self.strips.show_channels(self._first_channels())
        self._fit_sheet()
        self.axis.fit()
        self._notice_nothing()

    def fit(self) -> None:
        self.axis.fit()
        self.stage.fit()

    def set_look(self, palette: look.Palette) -> None:
        for part in (self.sheet, self.stage, self.lanes, self.strips, self.ruler):
            part.set_look(palette)
