import pytest
from PySide6.QtCore import QModelIndex, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit

from cinetica.desk.sheet.cells import drag_step, dragged, value_from_text
from cinetica.desk.sheet.choices import ChoicePopup
from cinetica.desk.sheet.panel import HINT
from cinetica.model.laws import LAWS
from cinetica.model.tune import PARAMETERS, parameter_by_id
from cinetica.model.value_text import value_text
from tests.desk.conftest import key, turn_wheel
from tests.desk.painted import anew, differing, on_screen, settle

SPEED = "drive.top_speed"


def test_a_drag_changes_the_number_and_the_curve_live(window, hand):
    before = window.session.shown[0].trace["vx"].max()
    hand.drag(SPEED, "Wren", 20, release=False)
    assert hand.value(SPEED, "Wren") == pytest.approx(7.5 + 20 * 0.1)
    assert window.session.shown[0].trace["vx"].max() == pytest.approx(before + 2)
    curve = window.page.strips.strips[0].curves.drawn[0]
    assert curve.y.max() >= 9.5
    hand.release()


def test_the_pale_curve_shows_the_start_of_the_drag(window, hand):
    was = window.session.shown[0]
    hand.drag(SPEED, "Wren", 25)
    assert window.session.wake_shown == [was]
    assert [curve.place for curve in window.page.strips.strips[0].wakes.drawn] == [0]
    assert "Top speed of Wren" in window.page.transport.wake.text()
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert window.session.wake_shown == []
    assert window.page.strips.strips[0].wakes.drawn == []


def test_shift_is_fine_and_ctrl_is_coarse(hand):
    hand.drag(SPEED, "Wren", 10, modifier=Qt.KeyboardModifier.ShiftModifier)
    assert hand.value(SPEED, "Wren") == pytest.approx(7.6)
    hand.drag(SPEED, "Wren", 4, modifier=Qt.KeyboardModifier.ControlModifier)
    assert hand.value(SPEED, "Wren") == pytest.approx(11.6)


def test_a_drag_goes_past_the_comfortable_range_but_not_the_hard_one(window, hand):
    hand.drag(SPEED, "Wren", -300)
    assert hand.value(SPEED, "Wren") == 0
    hand.drag(SPEED, "Bramble", 250, release=False)
    assert hand.value(SPEED, "Bramble") == pytest.approx(31)
    assert "past the comfortable 0 to 20" in window.sheet.foot.text()
    hand.release()


def test_undo_and_redo_name_the_edit_and_a_drag_is_one(window, hand):
    hand.drag(SPEED, "Wren", 12)
    hand.type("drive.friction", "Bramble", "33")
    assert window.session.undo_stack.undoText() == "Friction of Bramble"
    assert window.actions_by_name["undo"].text() == "Undo Friction of Bramble"
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert hand.value("drive.friction", "Bramble") == 18
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert hand.value(SPEED, "Wren") == 7.5
    assert not window.session.undo_stack.canUndo()
    shift_ctrl = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    QTest.keyClick(window, Qt.Key.Key_Z, shift_ctrl)
    assert hand.value(SPEED, "Wren") == pytest.approx(8.7)


def test_typing_sets_a_number_with_point_or_comma(hand):
    hand.type(SPEED, "Wren", "9.25")
    assert hand.value(SPEED, "Wren") == 9.25
    hand.type(SPEED, "Wren", "8,5")
    assert hand.value(SPEED, "Wren") == 8.5


@pytest.mark.parametrize("text", ["-3", "1e9", "0x", "1e999", "9..1", "-"])
def test_an_invalid_value_is_refused_with_the_allowed_range(window, hand, text):
    hand.type(SPEED, "Wren", text)
    assert hand.value(SPEED, "Wren") == 7.5
    words = window.sheet.foot.text()
    assert "a number from 0 to 100000 u/s" in words
    assert "was not changed" in words
    assert not window.session.undo_stack.canUndo()


def test_a_double_click_resets_to_the_default(window, hand):
    QTest.mouseDClick(hand.view.viewport(), Qt.MouseButton.LeftButton, pos=hand.spot(SPEED, "Wren"))
    assert hand.value(SPEED, "Wren") == 7


def test_wheel_and_keys_step_the_current_number_as_one_edit(window, hand):
    spot = hand.spot(SPEED, "Wren")
    QTest.mouseClick(hand.view.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    for _ in range(3):
        turn_wheel(hand.view.viewport(), 0, 120, at=spot)
    assert hand.value(SPEED, "Wren") == pytest.approx(7.8)
    QTest.keyClick(hand.view, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert hand.value(SPEED, "Wren") == pytest.approx(7.9)
    window.session.undo_stack.undo()
    assert hand.value(SPEED, "Wren") == 7.5
    QTest.keyClick(hand.view, Qt.Key.Key_Delete)
    assert hand.value(SPEED, "Wren") == 7


def test_rows_without_effect_are_folded(window, hand):
    assert hand.view.cell("jump.cut_factor", "Wren").isValid()
    assert not hand.view.cell("jump.cap_speed", "Wren").isValid()
    session = window.session
    for name in ("Wren", "Bramble"):
        session.set_value(session.study.tune(name), parameter_by_id("jump.short_hop"), "cap")
    assert not hand.view.cell("jump.cut_factor", "Wren").isValid()
    assert hand.view.cell("jump.cap_speed", "Wren").isValid()


def test_a_choice_is_picked_from_a_list_with_explanations(window, hand):
    QTest.mouseClick(hand.view.viewport(), Qt.MouseButton.LeftButton, pos=hand.spot("drive.law", "Wren"))
    popup = hand.view.findChild(ChoicePopup)
    assert popup.list.count() == sum("side" in about.views for about in LAWS.values())
    assert "straight lines" in popup.list.item(1).text()
    assert not popup.list.item(1).icon().isNull()
    QTest.keyClick(popup.list, Qt.Key.Key_Down)
    QTest.keyClick(popup.list, Qt.Key.Key_Return)
    assert hand.value("drive.law", "Wren") == "ease"


def test_a_click_toggles_a_switch(window, hand):
    QTest.mouseClick(hand.view.viewport(), Qt.MouseButton.LeftButton, pos=hand.spot("jump.launch_gravity", "Wren"))
    assert hand.value("jump.launch_gravity", "Wren") is False


def test_search_and_differing_rows(window, hand):
    window.sheet.search.setText("coyote")
    assert [row.id for group in hand.view.sheet.groups for row in group.rows] == ["jump.coyote", "jump.coyote_float"]
    window.sheet.search.clear()
    window.sheet.differing.setChecked(True)
    rows = {row.id for group in hand.view.sheet.groups for row in group.rows}
    assert "drive.top_speed" in rows
    assert "jump.cut_factor" not in rows


def test_figures_follow_a_drag(window, hand):
    model = window.sheet.figures.sheet
    top = next(row for row in model.groups[0].rows if row.id == "top_speed_reached")
    assert [model.text(top, column) for column in (0, 1)] == ["7.50", "6.00"]
    hand.drag(SPEED, "Wren", 10)
    assert model.text(top, 0) == "8.50"


@pytest.mark.parametrize("parameter", [p for p in PARAMETERS if p.kind in ("number", "whole")], ids=lambda p: p.id)
def test_drags_stay_in_the_hard_range_and_their_texts_read_back(parameter):
    assert (
        50 <= (parameter.comfort[1] - parameter.comfort[0]) / drag_step(parameter) <= 601 or parameter.kind == "whole"
    )
    for steps in (-1e9, -7, 0, 7, 1e9):
        value = dragged(parameter, parameter.default, steps)
        assert parameter.low <= value <= parameter.high
        if abs(value) < 1e6:
            assert value_from_text(parameter, value_text(parameter, value)) == pytest.approx(value, abs=1e-4)


def test_the_tooltip_has_the_sentence_the_ticks_and_the_equation(window):
    from PySide6.QtCore import Qt

    from cinetica.model.tune import PARAMETERS
    from cinetica.reading.explain import RULES, rule_of

    view = window.sheet.view
    tip = view.cell("jump.coyote", "Wren").data(Qt.ItemDataRole.ToolTipRole)
    assert "0.15 s is 9 ticks at 60 per second" in tip
    tip = view.cell("drive.friction", "Wren").data(Qt.ItemDataRole.ToolTipRole)
    assert "How fast speed falls" in tip
    assert "toward 0 by friction·h" in tip
    # Every number that acts in a tick belongs to an existing rule.
    for parameter in PARAMETERS:
        rule = rule_of(parameter.id, "steer")
        assert rule in RULES or parameter.group in ("body", "pose")


def test_search_leads_to_a_number_by_key(window):
    """Ctrl+F, a word, Enter: what is typed next is the value."""
    view = window.sheet.view
    key(window, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(window.sheet.search, "ground snap")
    QTest.keyClick(window.sheet.search, Qt.Key.Key_Return)
    assert view.currentIndex() == view.cell("slope.ground_snap", "Wren")
    assert view.hasFocus()
    QTest.keyClicks(view, "0")
    QTest.keyClick(view.viewport().findChildren(QLineEdit)[-1], Qt.Key.Key_Return)
    QApplication.processEvents()
    assert window.session.study.tune("Wren").slope.ground_snap == 0
    window.sheet.search.clear()
    view.setCurrentIndex(QModelIndex())
    key(window, Qt.Key.Key_S)
    assert view.sheet.tune_at(view.currentIndex()).name == "Wren"


def test_tab_goes_through_tunes_and_rows_and_leaves_at_the_end(window):
    view = window.sheet.view
    view.setFocus()
    view.setCurrentIndex(view.cell("drive.top_speed", "Wren"))
    QTest.keyClick(view, Qt.Key.Key_Tab)
    assert view.currentIndex() == view.cell("drive.top_speed", "Bramble")
    QTest.keyClick(view, Qt.Key.Key_Tab)
    assert view.currentIndex() == view.cell("drive.acceleration", "Wren")
    for _ in range(2):
        QTest.keyClick(view, Qt.Key.Key_Backtab)
    assert view.currentIndex() == view.cell("drive.top_speed", "Wren")
    window.sheet.search.setText("ground snap")
    view.setFocus()
    view.setCurrentIndex(view.cell("slope.ground_snap", "Bramble"))
    QTest.keyClick(view, Qt.Key.Key_Tab)
    assert not view.hasFocus()


@pytest.mark.thorough
def test_after_any_change_the_table_equals_a_fresh_painting(window):
    """Cells that change twice, partly visible rows, groups that open and close, a search, a hidden tune."""
    session, view, figures = window.session, window.sheet.view, window.sheet.figures
    session.choose_drill("Rooftop hop")
    gravity = parameter_by_id("gravity.gravity")

    def is_true() -> bool:
        settle()
        return differing(on_screen(window), anew(window)) == 0

    for step in (
        lambda: session.set_value(session.study.tune("Wren"), gravity, 51.0),
        lambda: (session.choose_reference(session.study.tune("Bramble")), session.undo_stack.undo()),
        lambda: view.verticalScrollBar().setValue(37),
        lambda: session.set_value(session.study.tune("Bramble"), gravity, 20.0),
        lambda: figures.verticalScrollBar().setValue(11),
        lambda: view.grid.set_open(1, False),
        lambda: session.set_value(session.study.tune("Bramble"), gravity, 21.0),
        lambda: view.grid.set_open(0, True),
        lambda: view.selectAll(),
        lambda: session.set_value(session.study.tune("Wren"), gravity, 42.0),
        lambda: session.toggle(session.study.tune("Bramble")),
        lambda: view.sheet.filter("speed", differing_only=False),
        lambda: session.set_value(session.study.tune("Wren"), parameter_by_id("drive.top_speed"), 3.5),
        lambda: view.sheet.filter("", differing_only=True),
    ):
        step()
        assert is_true()


def test_only_changed_figures_are_repainted(window):
    session, words = window.session, []
    figures = window.sheet.figures.sheet
    figures.dataChanged.connect(lambda first, last, _: words.append((first.row(), last.row())))
    reads = lambda: [  # noqa: E731
        [figures.cell(0, row, column)[0] for column in range(2)] for row in range(len(figures.groups[0].rows))
    ]
    before = reads()
    for by, other in ((1e-9, False), (0.5, True)):
        speed = session.study.tune("Wren").get(SPEED)
        session.set_value(session.study.tune("Wren"), parameter_by_id(SPEED), speed + by)
        assert bool(words) == other == (reads() != before)


def test_a_refusal_disappears_with_the_next_edit_or_after_a_while(window, qtbot, monkeypatch):
    session, foot = window.session, window.sheet.foot
    session.refused.emit("That is not possible.")
    assert foot.objectName() == "warning"
    session.set_value(session.tunes[0][1], parameter_by_id("gravity.gravity"), 33.0)
    assert foot.objectName() == "soft"
    session.refused.emit("That is not possible.")
    window.sheet._refusal_read.timeout.emit()
    assert foot.objectName() == "soft"
    assert foot.text() == HINT


@pytest.mark.parametrize("modifier", [Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.AltModifier])
def test_a_digit_types_into_a_cell_and_with_alt_hides_the_tune(window, modifier):
    view, tune = window.sheet.view, window.session.tunes[0][1]
    view.setFocus()
    view.setCurrentIndex(view.cell("gravity.gravity", tune.name))
    QTest.keyClick(view, Qt.Key.Key_1, modifier)
    typed = bool([each for each in view.viewport().findChildren(QLineEdit) if each.isVisible()])
    assert window.session.is_hidden(tune) is (modifier == Qt.KeyboardModifier.AltModifier)
    assert typed is (modifier == Qt.KeyboardModifier.NoModifier)
