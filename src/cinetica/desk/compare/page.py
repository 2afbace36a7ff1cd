"""The page Compare."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QSizePolicy,
    QSplitter,
    QStackedLayout,
    QToolButton,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.actions.catalogue import COMPARE, actions_of
from cinetica.desk.actions.keys import keyed
from cinetica.desk.compare.bar import Bar
from cinetica.desk.compare.hands import Hands
from cinetica.desk.compare.overlay import Comparing
from cinetica.desk.compare.poses import Poses
from cinetica.desk.compare.stage import Stage
from cinetica.desk.compare.states import States
from cinetica.desk.compare.strips import Strips
from cinetica.desk.compare.time_axis import TimeAxis
from cinetica.desk.compare.time_axis_widget import Ruler
from cinetica.desk.compare.transport import Transport
from cinetica.desk.match.drawing import WantedEditor
from cinetica.desk.page import Page
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Kept, Setting, Store
from cinetica.desk.widgets import PlainLabel, plain_tip
from cinetica.model.study import Drill
from cinetica.reading.channels import BY_COLUMN, FIRST_PRESET, PHASES, PRESETS, Channel, Phase

if TYPE_CHECKING:
    from cinetica.desk.compare.explanation import Explaining
    from cinetica.desk.compare.frame_table import FrameTable

# The height of the stage where there is room for it, in lines of text.
STAGE_LINES = 15
PREPARING = "The curves appear here when the kernel is ready."


class ComparePage(Page):
    """Stage, bar, input, states, strips and transport."""

    GUIDE = "A jump by its height"

    OWN_ACTIONS = actions_of(COMPARE)
    # A number in the explanation was clicked: its id, and the name of the tune.
    number_chosen = Signal(str, str)

    comparing: Comparing
    wanted: WantedEditor
    stage: Stage
    bar: Bar
    hands: Hands
    strips: Strips
    transport: Transport
    below_stage: _Asking

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._own_stage_height = False
        self._view = self._drill_view()
        self.comparing = Comparing(session, self)
        self.axis = TimeAxis(session, self)
        self.wanted = WantedEditor(session, self)
        self.stage = Stage(self.comparing, self.wanted)
        self.bar = Bar(self.comparing, self.show_preset)
        self.hands = Hands(session, self.axis)
        self._preparing = False
        # The drill whose note is shown.
        self._noted_drill: Drill | None = None
        self.states = States(session, self.axis, self.comparing)
        self.poses = Poses(session, self.axis, self.comparing)
        self.poses.hide()
        self.ruler = Ruler(session, self.axis)
        self.strips = Strips(self.comparing, self.axis, self.ruler, PRESETS[FIRST_PRESET][self._view], self.wanted)
        self.transport = Transport(session, self.axis)
        self.note, self.notice = self._new_note(), self._new_notice()
        self.first_steps = _FirstSteps()
        self.first_steps.hide()
        self.first_steps.closed.connect(self._update_note)
        self._lay_out()
        self.bar.table.toggled.connect(self.show_table)
        self.bar.explain.toggled.connect(self.show_explanation)
        session.poses_switched.connect(self._show_poses)
        session.cursor_moved.connect(self._keep_in_view)
        session.drill_changed.connect(self._new_drill)
        session.drill_edited.connect(self._note_edit)
        session.traces_changed.connect(self._notice_nothing)
        # Once the layout has settled.
        self._later = QTimer(self, singleShot=True, interval=0)
        self._later.timeout.connect(self._fit_stage)
        for asking in (self.below_stage, self._charts_or_notice):
            asking.asked.connect(self._later.start)

    @staticmethod
    def _new_note() -> PlainLabel:
        note = PlainLabel()
        note.setWordWrap(True)
        note.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        note.setObjectName("soft")
        note.setFont(look.font(9))
        # Qt does not repaint parts of letters that extend into the margins.
        note.setMargin(4)
        note.setIndent(10)
        return note

    @staticmethod
    def _new_notice() -> PlainLabel:
        notice = PlainLabel()
        notice.setAlignment(Qt.AlignmentFlag.AlignCenter)
        look.on_paper(notice)
        notice.setFont(look.font(11))
        notice.setWordWrap(True)
        return notice

    def _lay_out(self) -> None:
        self._numbers = QWidget()
        self._charts_or_table = QStackedLayout(self._numbers)
        self._charts_or_table.addWidget(self.strips)
        self.below_stage = _Asking()
        look.on_paper(self.below_stage)
        self._column(self.below_stage, (self.hands, 0), (self.states, 0), (self.poses, 0), (self._numbers, 1))
        # If large text or many tunes leave too little room, hands, states and strips scroll.
        self.scroller = QScrollArea()
        self.scroller.setFrameShape(QFrame.Shape.NoFrame)
        self.scroller.setWidgetResizable(True)
        self.scroller.setWidget(self.below_stage)
        self.scroller.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.scroller.setMinimumHeight(look.height(8) * 3)
        below = QWidget()
        self._column(below, (self.bar, 0), (self.scroller, 1))
        self.charts = QSplitter(Qt.Orientation.Vertical)
        self.charts.setHandleWidth(1)
        self.charts.addWidget(self.stage)
        self.charts.addWidget(below)
        self.charts.setStretchFactor(1, 1)
        self.charts.setChildrenCollapsible(False)
        self.charts.splitterMoved.connect(self._stage_was_moved)
        self._charts_or_notice = _Asking()
        self._notices = QStackedLayout(self._charts_or_notice)
        self._notices.addWidget(self.charts)
        self._notices.addWidget(self.notice)
        self._column(self, (self.first_steps, 0), (self.note, 0), (self._charts_or_notice, 1), (self.transport, 0))

    def _column(self, into: QWidget, *widgets: tuple[QWidget, int]) -> None:
        layout = QVBoxLayout(into)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        for widget, stretch in widgets:
            layout.addWidget(widget, stretch)

    # Created when first shown: they would take 2% of the start.

    @cached_property
    def explaining(self) -> Explaining:
        """The panel of explanations, created on first use."""
        from cinetica.desk.compare.explanation import Explaining

        made = Explaining(self.comparing)
        made.hide()
        made.number_chosen.connect(self.number_chosen)
        self.charts.addWidget(made)
        return made

    @cached_property
    def table(self) -> FrameTable:
        """The frame table, created on first use."""
        from cinetica.desk.compare.frame_table import FrameTable

        made = FrameTable(self.comparing)
        self._charts_or_table.addWidget(made)
        return made

    # What is shown

    def _drill_view(self) -> str:
        return self.session.drill.view if self.session.drill else "side"

    @override
    def enter(self) -> None:
        self._later.start()

    @override
    def leave(self) -> None:
        self.transport.stop()

    def channels(self) -> list[Channel]:
        """The channels that the strips show over time."""
        return [strip.channel for strip in self.strips.strips]

    def show_preset(self, name: str) -> None:
        """Show the strips of a preset."""
        self.strips.show_channels(PRESETS[name][self._view])

    def show_table(self, on: bool) -> None:
        """Show the frame table, or the strips."""
        self._charts_or_table.setCurrentWidget(self.table if on else self.strips)
        if on:
            self.table.view.setFocus()

    def toggle_poses(self) -> None:
        """Show or hide the lanes and figures of the poses."""
        self.session.show_poses(not self.session.poses_shown)

    def _show_poses(self) -> None:
        on = self.session.poses_shown
        self.poses.setVisible(on)
        self.states.heads_readouts = not on
        self.states.update()

    def show_explanation(self, on: bool) -> None:
        """Show or hide the panel of explanations."""
        if not on and "explaining" not in vars(self):
            return
        self.explaining.setVisible(on)
        if on:
            self.explaining.refresh()
            self._fit_explanation()
            # Its text wraps again once it has its width.
            QTimer.singleShot(0, self, self._fit_explanation)

    def _fit_explanation(self) -> None:
        """Give the explanation the height that its words need, up to half of what is below the stage and itself."""
        stage, below, now = self.charts.sizes()
        high = max(min(self.explaining.needed(), (below + now) // 2), look.height(9) * 8)
        if high > now:
            self.charts.setSizes([stage, below + now - high, high])

    def find_divergence(self) -> None:
        """Explain where a tune diverges from the reference."""
        self.bar.explain.setChecked(True)
        self.explaining.find_divergence()
        # Explain the frame that the cursor has moved to.
        self.explaining.refresh()
        self._fit_explanation()
        QTimer.singleShot(0, self, self._fit_explanation)

    def _keep_in_view(self, row: int) -> None:
        self.axis.keep_in_view(self.session.time_at(row))

    def _stage_was_moved(self, *_: int) -> None:
        self._own_stage_height = True

    def _fit_stage(self) -> None:
        """Give the stage its preferred height, after input, states and strips have theirs.

        Once the user has moved the edge it stays there.
        """
        whole = self.charts.height()
        if self._own_stage_height or whole < 50:
            return
        below = self.charts.handleWidth() + self.bar.height() + self.below_stage.minimumSizeHint().height()
        high = max(min(look.height(9) * STAGE_LINES, whole - below), self.stage.minimumHeight())
        sizes = self.charts.sizes()
        if sizes[0] != high:
            rest = sizes[2] if len(sizes) > 2 else 0
            self.charts.setSizes([high, whole - high - rest, *sizes[2:]])

    def show_notice(self, text: str) -> None:
        """Show a notice instead of the charts; an empty one shows the charts."""
        if text != self.notice.text():
            self.notice.setText(text)
        self._notices.setCurrentIndex(1 if text else 0)

    def prepare(self) -> None:
        """Say that the kernel is being compiled, until the session starts."""
        self._preparing = True
        self._notice_nothing()

    def _notice_nothing(self) -> None:
        """If there is nothing to draw, say why and what to do."""
        drill, tunes = self.session.drill, self.session.tunes
        if drill is None:
            self.show_notice(
                keyed(
                    "This study has no drill yet.\nBegin a new study ({new}), open one ({open}), or add a drill from"
                    " the Drill menu."
                )
            )
        elif not tunes:
            words = (
                "No tune in this study is for the {0} view of “{1}”.\nAdd one from the Tune menu ({new_tune}), or"
                " choose another drill."
            )
            self.show_notice(keyed(words, drill.view, drill.name))
        elif not self.session.ready:
            self.show_notice(PREPARING if self._preparing else "")
        elif not self.session.shown:
            self.show_notice(
                "Every tune is hidden.\nPress a tune's number, or click its letter in the sheet, to show it again."
            )
        else:
            self.show_notice("")

    def _note_edit(self) -> None:
        """Update the note of the drill; most edits of a drill change only its input."""
        drill, noted = self.session.drill, self._noted_drill
        if drill is None or noted is None or noted.course is not drill.course or _words_of(noted) != _words_of(drill):
            self._update_note()

    def _update_note(self) -> None:
        drill = self._noted_drill = self.session.drill
        warning = _warning(self.session)
        words = [f"{drill.name}: {drill.note}" if drill and drill.note else "", warning]
        self.note.setText("  ".join(word for word in words if word))
        self.note.setToolTip(plain_tip(drill.note) if drill else "")
        self.note.setVisible(bool(self.note.text()) and self.first_steps.isHidden())

    def _new_drill(self) -> None:
        # The user's own choice of strips stays until a drill of the other view is chosen.
        view = self._drill_view()
        if view != self._view:
            self._view = view
            self.strips.show_channels(PRESETS[FIRST_PRESET][view])
        self._update_note()
        self.axis.fit()
        self._notice_nothing()

    def show_first_steps(self) -> None:
        """Show the first steps."""
        self.first_steps.refresh()
        self.first_steps.show()
        self._update_note()

    def fit(self) -> None:
        """Show everything."""
        self.axis.fit()
        self.stage.fit()

    def to_figure(self, name: str, first: int, last: int) -> None:
        """Move the frame cursor to the end of a figure or, if it is there, to its beginning."""
        shown = next((each for each in self.session.shown if each.tune.name == name and not each.trace.logged), None)
        if shown is not None:
            shift = self.comparing.shift(shown)
            self.session.set_cursor(first - shift if self.session.cursor == last - shift else last - shift)

    # What the user has set up, kept from one start to the next

    @override
    def keep(self, settings: Store) -> None:
        if self._own_stage_height:
            settings.set_state("splitter_charts", self.charts.saveState())
        settings.set(Kept.EXPLAIN, self.bar.explain.isChecked())
        settings.set(Kept.DRAWING, self.comparing.drawing)
        settings.set(Kept.SHARED_SCALE, self.comparing.shared_scale)
        settings.set(Kept.EVERY, self.stage.every)
        settings.set(Kept.POSES, self.session.poses_shown)
        settings.set(Kept.POSTURES, self.stage.postures)
        other = "top" if self._view == "side" else "side"
        here = [_strip_name(each) for each in self.strips.channels]
        settings.set(_strips_of(self._view), here)
        settings.set(_strips_of(other), settings.get(_strips_of(other)))
        settings.set(Kept.TABLE, self.bar.table.isChecked())

    @override
    def restore(self, settings: Store) -> None:
        height = settings.state("splitter_charts")
        self._own_stage_height = height is not None and self.charts.restoreState(height)
        self.bar.explain.setChecked(settings.get(Kept.EXPLAIN))
        self.comparing.set(drawing=settings.get(Kept.DRAWING), shared_scale=settings.get(Kept.SHARED_SCALE))
        self.stage.every_box.setValue(settings.get(Kept.EVERY))
        self.session.show_poses(settings.get(Kept.POSES))
        self.stage.postures_action.setChecked(settings.get(Kept.POSTURES))
        self.bar.table.setChecked(settings.get(Kept.TABLE))
        kept = settings.get(_strips_of(self._view))
        strips = [strip for name in kept if (strip := _strip_of(name)) is not None]
        if strips:
            self.strips.show_channels(strips)


class _Asking(QWidget):
    """A widget that reports that its content asks for another size, or that it was resized."""

    asked = Signal()

    @override
    def event(self, event: QEvent) -> bool:
        done = super().event(event)
        if event.type() in (QEvent.Type.LayoutRequest, QEvent.Type.Resize):
            self.asked.emit()
        return done


class _FirstSteps(QWidget):
    """The first steps, in three lines; they do not return once closed."""

    closed = Signal()

    def __init__(self) -> None:
        super().__init__()
        words = self._words = QLabel()
        self.refresh()
        words.setFont(look.font(10))
        words.setWordWrap(True)
        close = QToolButton()
        close.setText("Understood")
        close.setFont(look.font(9))
        close.clicked.connect(self.hide)
        close.clicked.connect(self.closed)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 14, 8)
        row.addWidget(words, 1)
        row.addWidget(close, 0, Qt.AlignmentFlag.AlignTop)
        look.on_paper(self)

    def refresh(self) -> None:
        """Show them with the current keys."""
        self._words.setText(keyed(
            "<b>1</b>  Drag a number of the sheet sideways: every curve follows, and stays pale as it was before.<br>"
            "<b>2</b>  Step frame by frame ({back}, {forward}): the readout at the right gives every tune's value on "
            "that frame, and the difference.<br>"
            "<b>3</b>  Play the character yourself ({play_page}), begin a study of your own ({new}), or open the "
            "guide, with jobs step by step and all keys ({help})."
        ))  # fmt: skip


def _strips_of(view: str) -> Setting[list[str]]:
    return Kept.STRIPS if view == "side" else Kept.STRIPS_ABOVE


def _strip_name(strip: Channel | Phase) -> str:
    return strip.column if isinstance(strip, Channel) else f"{strip.across.column}/{strip.up.column}"


def _strip_of(name: str) -> Channel | Phase | None:
    phases = {_strip_name(phase): phase for phase in PHASES}
    return phases.get(name) or BY_COLUMN.get(name)


def _words_of(drill: Drill) -> tuple[object, ...]:
    """The part of the note that does not depend on the course."""
    return drill.name, drill.note, drill.view, drill.start


def _warning(session: Session) -> str:
    """A remark on an unusual course, which can still be run."""
    drill = session.drill
    if drill is None:
        return ""
    if drill.view == "side" and not any(
        (drill.course.solids, drill.course.oneway, drill.course.climb, drill.course.slopes)
    ):
        return keyed(
            "There is no ground: the body falls for as long as the drill lasts. Edit the course ({course}) to add some."
        )
    inside = [look.letter(shown.place) for shown in session.shown if shown.trace["overlap"][0] > 0]
    if inside:
        return keyed(
            "The body of {0} starts inside a solid. Edit the course ({course}): drag the cross, or the solid.",
            ", ".join(inside),
        )
    return ""
