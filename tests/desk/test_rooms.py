"""Widgets that reserve their space from the start, so that nothing moves under the mouse."""

import pytest
from PySide6.QtWidgets import QApplication

from cinetica.desk import look
from cinetica.desk.compare.page import STAGE_LINES
from cinetica.desk.widgets import LabelPair, ShortLabel
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.model.editing import with_new_tune
from cinetica.model.tune import parameter_by_id
from tests.desk.painted import layouts_of, settle


@pytest.fixture
def full(open_window) -> Window:
    """A window with six tunes, in which there is hardly space for all that stands below the stage."""
    study = shipped_study("harbour")
    for number in range(4):
        study = with_new_tune(study, study.tune("Wren").model_copy(update={"name": f"Wren {number}"}))
    window = open_window(study, size=(1280, 800))
    window.session.choose_drill("Rooftop hop")
    settle()
    settle()
    return window


def test_the_first_edit_causes_no_layout(full):
    session, header = full.session, full.header
    places = [header.study_name, header.unsaved, full.page.stage, full.page.transport.words]
    before = [each.geometry() for each in places]
    with layouts_of(QApplication.instance()) as asked:
        session.set_value(session.study.tune("Wren"), parameter_by_id("drive.top_speed"), 9.0)
        settle()
    assert header.unsaved.text()
    assert session.wake_words in full.page.transport.wake.text()
    assert not full.page.transport.wake.isHidden()
    # Its two labels are laid out, and nothing else.
    assert set(asked) <= {full.page.transport.words}
    assert [each.geometry() for each in places] == before


def leave_to_the_stage(window: Window, high: int) -> None:
    """Resize the window so that the stage has this height, with any font."""
    page = window.page
    below = page.charts.handleWidth() + page.bar.height() + page.below_stage.minimumSizeHint().height()
    window.resize(window.width(), window.height() + high - (page.charts.height() - below))
    settle()
    assert page.stage.height() == high


def liked() -> int:
    return look.height(9) * STAGE_LINES


def test_lanes_states_and_strips_get_space_before_the_stage(full):
    page = full.page
    high = (page.stage.minimumHeight() + liked()) // 2
    leave_to_the_stage(full, high)
    assert page.scroller.verticalScrollBar().maximum() == 0
    for _, tune in full.session.tunes[2:]:
        full.session.toggle(tune)
    settle()
    assert page.stage.height() > high
    full.session.choose_drill("Quay sprint")
    settle()
    assert page.scroller.verticalScrollBar().maximum() == 0


def test_a_longer_note_takes_space_from_the_stage(full):
    page, session = full.page, full.session
    leave_to_the_stage(full, liked())
    note = page.note.height()
    session.set_drill("Note", session.drill.model_copy(update={"note": "Look at the second hop. " * 8}))
    settle()
    grown = page.note.height() - note
    assert grown > 0
    assert page.stage.height() == liked() - grown
    assert page.scroller.verticalScrollBar().maximum() == 0


@pytest.mark.parametrize("wide", [0, 1, 60, 200, 330, 600])
@pytest.mark.parametrize("words", [("next", ""), ("next: A launches, frame 12", "pale"), ("next", "pale: " * 9)])
def test_two_labels_share_a_line_or_are_stacked(qtbot, wide, words):
    one, other = ShortLabel(words[0]), ShortLabel(words[1])
    pair = LabelPair(one, other, gap=10)
    qtbot.addWidget(pair)
    pair.resize(wide, pair.sizeHint().height())
    pair.show()
    pair.fit()
    asked = one.sizeHint().width(), other.sizeHint().width()
    beside = not words[1] or sum(asked) + 10 <= pair.width()
    first, second = one.geometry(), other.geometry()
    assert not (words[1] and first.intersects(second))
    assert other.isHidden() is not bool(words[1])
    assert pair.rect().contains(first)
    if not words[1]:
        assert first.width() == pair.width()
    elif beside:
        assert second.right() == pair.rect().right()
        assert second.left() - first.right() > 10
        assert first.width() >= asked[0]
        assert second.width() >= asked[1]
    else:
        assert first.width() == second.width() == pair.width()
        assert first.bottom() < second.top()
        assert pair.rect().contains(second)


def test_the_unsaved_dot_stays_visible_beside_a_shortened_name(window):
    header, session = window.header, window.session
    window.resize(760, 700)
    settle()
    session.edit("Name", session.study.model_copy(update={"name": "Harbour couriers of the second winter " * 3}))
    settle()
    assert header.study_name.width() < header.study_name.sizeHint().width()
    assert header.unsaved.text()
    assert header.unsaved.isVisible()
    assert header.unsaved.width() >= header.unsaved.sizeHint().width()
    assert "Ctrl+S" in header.unsaved.toolTip()
    session.undo()
    settle()
    assert not header.unsaved.text()
    assert not header.unsaved.toolTip()
