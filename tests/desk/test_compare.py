import pytest
from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from cinetica.desk import look
from cinetica.desk.actions.catalogue import ACTIONS
from cinetica.desk.application import start
from cinetica.desk.compare.strips import MOST_STRIPS
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.model import takes
from cinetica.model.study import Study
from cinetica.model.take import Press
from cinetica.reading.body import box_of
from cinetica.reading.channels import CHANNELS
from tests.desk.conftest import key
from tests.desk.painted import contrast, layouts_of, settle


def test_keys_step_the_frame_cursor(window):
    shift = Qt.KeyboardModifier.ShiftModifier
    for pressed, modifier, frame in (
        (Qt.Key.Key_Right, Qt.KeyboardModifier.NoModifier, 1), (Qt.Key.Key_Right, shift, 11), (Qt.Key.Key_Left,
        Qt.KeyboardModifier.NoModifier, 10),
        (Qt.Key.Key_Left, shift, 0), (Qt.Key.Key_Left, Qt.KeyboardModifier.NoModifier, 0), (Qt.Key.Key_End,
        Qt.KeyboardModifier.NoModifier, 120),
        (Qt.Key.Key_Right, Qt.KeyboardModifier.NoModifier, 120), (Qt.Key.Key_Home, Qt.KeyboardModifier.NoModifier, 0),
    ):  # fmt: skip
        key(window, pressed, modifier)
        assert window.session.cursor == frame


def test_brackets_go_from_mark_to_mark(window):
    window.session.choose_drill("Rooftop hop")
    key(window, Qt.Key.Key_BracketRight)
    assert window.session.cursor == 51
    assert "launches" in window.page.transport.next.text()
    key(window, Qt.Key.Key_BracketRight)
    key(window, Qt.Key.Key_BracketLeft)
    assert window.session.cursor == 51


def test_a_step_causes_no_new_layout_and_its_labels_stand_side_by_side(window, qtbot):
    transport = window.page.transport
    with qtbot.waitSignal(window.session.figures_changed):
        window.session.choose_drill("Rooftop hop")
    for _ in range(10):
        key(window, Qt.Key.Key_Right)
        QApplication.processEvents()
    with layouts_of(QApplication.instance()) as asked:
        key(window, Qt.Key.Key_Right)
        QApplication.processEvents()
    assert transport.place.text().startswith("frame 11 ")
    assert not asked
    transport.place.setText("frame 99999   999.999 s")
    QApplication.processEvents()
    assert transport.place.fontMetrics().horizontalAdvance(transport.place.text()) <= transport.place.width()
    assert transport.place.geometry().right() < transport.words.geometry().left()


def test_the_readout_shows_values_and_differences_at_the_cursor(window):
    window.session.set_cursor(60)
    lines = window.page.strips.strips[0].readout.lines()
    assert lines == [(0, "+7.50", ""), (1, "+6.00", "−1.50")]


def test_a_click_in_a_strip_moves_the_cursor_to_that_time(window, qtbot):
    qtbot.waitExposed(window)
    strip = window.page.strips.strips[1]
    x = round(window.page.axis.x(1.0, strip.width()))
    spot = strip.plot.viewport().mapFrom(strip, QPoint(x, 30))
    QTest.mouseClick(strip.plot.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    assert window.session.cursor == pytest.approx(60, abs=1)
    states = window.page.states
    QTest.mouseClick(states, Qt.MouseButton.LeftButton, pos=QPoint(round(window.page.axis.x(0.5, states.width())), 5))
    assert window.session.cursor == pytest.approx(30, abs=1)


def test_lanes_and_strips_are_aligned_by_frame(window, qtbot):
    qtbot.waitExposed(window)
    for name in ("Quay sprint", "Gutter's edge"):
        window.session.choose_drill(name)
        settle()
        for strip in (each for each in window.page.strips.strips if not each.is_folded):
            for time in (0.1, 0.7, 1.3):
                in_plot = strip.plot.mapFromScene(strip.plot.box.mapViewToScene(QPointF(time, 0)))
                in_strip = strip.plot.viewport().mapTo(strip, in_plot).x()
                assert in_strip == pytest.approx(window.page.axis.x(time, window.page.states.width()), abs=1.5)


def test_strips_without_motion_collapse_to_a_line(window):
    session, strips = window.session, window.page.strips
    assert [strip.is_folded for strip in strips.strips] == [False, True, True]
    folded, shown = strips.strips[1], strips.strips[0]
    settle()
    assert folded.height() < shown.height() / 3
    QTest.mouseClick(folded.flat, Qt.MouseButton.LeftButton)
    settle()
    assert folded.plot.isVisible()
    assert strips.strips[2].is_folded
    # A jump unfolds the other one, and a drill without a jump folds both.
    take = session.drill.take
    session.set_take("Hands", takes.with_press(take, "jump", Press(20, 30)))
    assert not any(strip.is_folded for strip in strips.strips)
    session.undo()
    session.choose_drill("Rooftop hop")
    assert not any(strip.is_folded for strip in strips.strips)
    session.choose_drill("Quay sprint")
    assert [strip.is_folded for strip in strips.strips] == [False, True, True]


def test_the_drill_chooser_lists_all_drills_and_switches_the_page(window):
    assert [window.header.drills.itemText(row) for row in range(5)] == [
        drill.name for drill in window.session.study.drills[:5]
    ]
    window.header.drills.setCurrentIndex(2)
    window.header.drills.activated.emit(2)
    assert window.session.drill.name == "Rooftop hop"
    assert window.page.hands.lanes == ["right", "jump"]
    assert window.page.stage.course.course.solids == window.session.drill.course.solids


def test_digit_keys_hide_and_show_tunes_and_an_empty_page_is_explained(window):
    key(window, Qt.Key.Key_1)
    assert [shown.tune.name for shown in window.session.shown] == ["Bramble"]
    key(window, Qt.Key.Key_2)
    assert window.session.shown == []
    assert "hidden" in window.page.notice.text()
    key(window, Qt.Key.Key_1)
    assert window.page.notice.text() == ""


def test_playback_stops_at_the_end(window, qtbot):
    window.page.transport.speed = 8.0
    key(window, Qt.Key.Key_Space)
    qtbot.waitUntil(
        lambda: window.session.cursor == 120 and window.page.transport.play_button.text() == "Play", timeout=5000
    )


def test_zoom_pan_and_fit(window):
    axis = window.page.axis
    whole = (axis.start, axis.end)
    axis.zoom(0.25, 1.0)
    assert axis.end - axis.start == pytest.approx((whole[1] - whole[0]) / 4)
    axis.pan(10)
    assert axis.end <= whole[1] + 1e-9
    window.session.set_cursor(1)
    assert axis.start <= window.session.time_at(1) <= axis.end
    key(window, Qt.Key.Key_F)
    assert (axis.start, axis.end) == whole


def test_night_and_day_apply_to_all_windows(window, qtbot):
    other = Window(Session(shipped_study("pitfalls")))
    qtbot.addWidget(other)
    other.show()
    for palette in (look.NIGHT, look.DAY):
        key(window, Qt.Key.Key_F9)
        QApplication.processEvents()
        assert look.palette() is palette
        for each in (window, other):
            assert palette.sheet in each.styleSheet()
            corner = each.page.stage.plot.grab().toImage().pixelColor(2, 2)
            assert corner == QColor(palette.paper)


@pytest.mark.parametrize("palette", [look.DAY, look.NIGHT], ids=lambda palette: palette.name)
def test_text_contrasts_with_its_background(palette):
    def ratio(one, other):
        return contrast(*(QColor(each).getRgb()[:3] for each in (one, other)))

    for ground in (palette.paper, palette.sheet):
        for text in (palette.ink, palette.soft, palette.accent, palette.warning, *palette.inks):
            assert ratio(text, ground) >= 4.5 - (0.35 if text in palette.inks else 0), (text, ground)
    assert ratio(palette.frame_text, palette.frame) >= 4.5
    assert ratio(palette.frame_soft, palette.frame) >= 4.5


def test_no_two_tunes_rely_on_colour_alone():
    assert len(set(look.DASHES)) == 6
    shapes = [look.shape(place, 10) for place in range(6)]
    assert all(a != b for number, a in enumerate(shapes) for b in shapes[:number])


def test_every_key_of_the_help_does_something(window):
    assert set(ACTIONS) == set(window.actions_by_name)
    shortcuts = [shortcut.toString() for action in window.actions() for shortcut in action.shortcuts()]
    assert len(shortcuts) == len(set(shortcuts))


def test_a_study_without_drills_or_tunes_is_explained(window):
    window.session.load(Study(format="cinetica-study", version=1, name="Empty"), None)
    assert "no drill" in window.page.notice.text()
    assert window.session.cursor == 0


def test_the_clock_panel_changes_the_clock(window):
    from cinetica.desk.dialogs.clock_panel import ClockPanel

    panel = ClockPanel(window.session, window)
    line = panel.fields["clock.tick_rate"]
    line.setText("120")
    line.editingFinished.emit()
    assert window.session.study.clock.tick_rate == 120
    assert len(window.session.shown[0].trace) == 241
    assert "120 ticks/s" in window.header.clock.text()
    line.setText("fast")
    line.editingFinished.emit()
    assert "Tick rate is a number from 1 to 10000" in panel.message.text()
    assert window.session.study.clock.tick_rate == 120
    window.session.undo_stack.undo()
    assert window.session.study.clock.tick_rate == 60


def test_the_digits_of_the_clock_do_not_shift_the_header(window):
    header, clock, chip = window.header, window.session.study.clock, window.header.clock
    seen, place = header.grab(chip.geometry()).toImage(), chip.geometry()
    for rate, moves in ((62.0, False), (61.0, False), (75.0, False), (120.0, True), (60.0, True)):
        with layouts_of(header) as asked:
            window.session.set_clock(clock.model_copy(update={"tick_rate": rate}), "Tick rate of the clock")
            settle()
        assert f"{rate:g} ticks/s" in chip.text()
        assert bool(asked) == moves
        assert chip.width() >= chip.sizeHint().width()
        assert (header.grab(chip.geometry()).toImage() == seen) == (rate == 60.0)
    assert chip.geometry() == place


def test_the_stage_shows_the_course_of_its_curves(window):
    """At once: the picture begun with the new curves must not be drawn a second time."""
    session, stage, met = window.session, window.page.stage, []
    session.choose_drill("Rooftop hop")

    def meet():
        met.append(stage.course.course is session.drill.course)

    session.traces_changed.connect(meet)
    course = session.drill.course
    lower = course.model_copy(update={"solids": (*course.solids[:-1], course.solids[-1]._replace(top=0.0))})
    session.set_course("Edge of a solid", lower)
    session.undo()
    session.traces_changed.disconnect(meet)
    assert met == [True, True]


def test_the_clock_panel_shows_what_matters_in_its_mode(window):
    from cinetica.desk.dialogs.clock_panel import ClockPanel

    panel = ClockPanel(window.session, window)
    assert "clock.jitter" not in panel.fields
    mode = panel.fields["clock.mode"]
    mode.setCurrentIndex(2)
    mode.activated.emit(2)
    QApplication.processEvents()
    assert {"clock.jitter", "clock.read", "clock.hitches"} <= set(panel.fields)
    hitches = panel.fields["clock.hitches"]
    hitches.setText("0.5 0.2; 1.1 0,05")
    hitches.editingFinished.emit()
    assert window.session.study.clock.hitches == ((0.5, 0.2), (1.1, 0.05))
    hitches.setText("now and then")
    hitches.editingFinished.emit()
    assert "pairs" in panel.message.text()


def test_a_drill_named_like_a_tune_shows_that_tune_and_the_reference(window):
    window.session.load(shipped_study("pitfalls"), None)
    for name in ("Stuck to the wall", "Facing falls back"):
        window.session.choose_drill(name)
        shown = window.session.shown
        assert [each.tune.name for each in shown] == [window.session.reference.name, name]
        assert look.style(shown[0].place) != look.style(shown[1].place)
        assert name in window.page.note.text()


def test_the_view_from_above_has_its_own_strips_and_walls(window):
    window.session.choose_drill("Channel turn")
    assert [strip.channel.column for strip in window.page.strips.strips] == ["vx", "vy", "facing"]
    assert [each.tune.name for each in window.session.shown] == ["Otter", "Punt"]
    left, bottom, right, top = box_of(window.session.shown[0].tune, 0, 0)
    assert (left, bottom) == (-right, -top)


def test_strips_show_any_channel_are_added_and_removed(window, qtbot):
    strips = window.page.strips

    def pick(place, *words):
        menu = strips.strips[place].title.menu()
        # It is filled whenever it opens, without duplicates.
        for _ in range(2):
            menu.aboutToShow.emit()
        entries = [action.text() for action in menu.actions() if not action.isSeparator()]
        adding = ["Add a strip below", "Add a phase below"]
        assert entries == ["Show instead", *adding, "Move up", "Move down", "Remove this strip"]
        for word in words[:-1]:
            menu = next(action.menu() for action in menu.actions() if action.text() == word)
        next(action for action in menu.actions() if action.text() == words[-1]).trigger()
        QApplication.processEvents()

    pick(0, "Show instead", "Acceleration x")
    pick(2, "Add a strip below", "Since press")
    pick(1, "Remove this strip")
    assert [strip.channel.column for strip in strips.strips] == ["ax", "y", "since_press"]
    window.session.choose_drill("Rooftop hop")
    assert [strip.channel.column for strip in strips.strips] == ["ax", "y", "since_press"]
    window.session.set_cursor(10)
    assert strips.strips[2].readout.lines()[0][1] == "–"
    for channel in CHANNELS:
        strips.show_channels([channel])
        QApplication.processEvents()
        assert strips.strips[0].readout.lines()
    for count in (MOST_STRIPS - 1, MOST_STRIPS):
        strips.show_channels(CHANNELS[:count])
        menu = strips.strips[0].title.menu()
        menu.aboutToShow.emit()
        assert {action.isEnabled() for action in menu.actions()[1:3]} == {count < MOST_STRIPS}


def test_until_the_kernel_is_compiled_every_drill_says_so(qtbot):
    window = Window(Session(shipped_study("harbour")))
    qtbot.addWidget(window)
    window.page.prepare()
    window.session.choose_drill("Rooftop hop")
    assert "when the kernel is ready" in window.page.notice.text()
    start(window)
    assert window.page.notice.text() == ""


def test_lanes_are_repainted_with_the_take_and_not_with_the_course(window):
    session, hands, painted = window.session, window.page.hands, []

    class Watch(QObject):
        def eventFilter(self, _, event):
            if event.type() == QEvent.Type.Paint:
                painted.append(event)
            return False

    watch = Watch()
    settle()
    hands.installEventFilter(watch)
    course = session.drill.course
    session.set_course(
        "Course",
        course.model_copy(
            update={"solids": (*course.solids[1:], course.solids[0]._replace(top=course.solids[0].top - 0.25))}
        ),
    )
    settle()
    assert not painted
    take = session.drill.take
    session.set_take("Press", take.model_copy(update={"length": take.length + 5}))
    settle()
    assert painted
    hands.removeEventFilter(watch)


def test_the_clock_shows_the_focus(window):
    chip = window.header.clock
    window.sheet.view.setFocus()
    without = chip.grab().toImage()
    chip.setFocus()
    within = chip.grab().toImage()
    rows = [y for y in range(within.height())
            if any(within.pixel(x, y) != without.pixel(x, y) for x in range(within.width()))]  # fmt: skip
    # A line of three pixels at the bottom.
    high = 3 * within.devicePixelRatio()
    assert rows == list(range(rows[0], within.height()))
    assert abs(len(rows) - high) < 1
