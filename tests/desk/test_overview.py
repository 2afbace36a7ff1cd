"""The page Overview and its targets: what a change does to every drill, and which targets it misses."""

import json

import pytest
from click.testing import CliRunner
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractItemView, QApplication, QMenu

from cinetica.cli import main
from cinetica.desk import look
from cinetica.desk.state import study_runs
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import read_study, study_text
from cinetica.model import editing
from cinetica.model.tune import parameter_by_id
from tests.desk.conftest import drag, key

GRAVITY = parameter_by_id("gravity.gravity")


@pytest.fixture
def overview(window, qtbot):
    qtbot.waitExposed(window)
    window.show_page("overview")
    return window.overview


def flags(overview):
    return {drill.name for drill in overview.drills if overview.cards.content_of(drill).flagged}


def measured(study, tmp_path, name):
    """All figures of the side drills, as the command line reads them."""
    path = tmp_path / name
    path.write_text(study_text(study))
    listed = json.loads(CliRunner().invoke(main, ["measure", str(path), "--json"]).output)["readings"]
    return {
        (each["drill"], each["tune"], id): figure["value"] for each in listed for id, figure in each["measures"].items()
    }


def test_a_card_for_every_drill_of_the_view(window, overview):
    names = [drill.name for drill in window.session.study.drills if drill.view == "side"]
    assert [drill.name for drill in overview.cards.drills] == names
    window.session.choose_drill("Market diagonals")
    assert {drill.view for drill in overview.cards.drills} == {"top"}


def test_as_many_cards_are_side_by_side_as_the_width_has_room_for(window, overview, qtbot):
    cards = overview.cards
    assert overview.columns.currentText() == "as fits"
    for wide in (700, 1280, 1900):
        window.resize(wide, 800)
        qtbot.waitUntil(lambda: cards.viewport().width() > 0)
        letters = cards.rect_of(0).width() / look.width("n", 9)
        assert cards.across == 1 or letters > 45
        assert cards.across == 4 or letters < 110
    wide_one = cards.across
    QTest.keyClick(cards, Qt.Key.Key_Plus)
    assert (cards.across, overview.columns.currentText()) == (wide_one - 1, f"{wide_one - 1} across")
    overview.columns.setCurrentIndex(0)
    overview.columns.activated.emit(0)
    assert cards.across == wide_one


def test_changing_gravity_flags_exactly_the_drills_whose_figures_changed(window, overview, tmp_path):
    before = measured(window.session.study, tmp_path, "before.json")
    assert flags(overview) == set()
    window.session.set_value(window.session.study.tune("Wren"), GRAVITY, 38.0)
    after = measured(window.session.study, tmp_path, "after.json")
    moved = {drill for drill, tune, id in before.keys() | after.keys()
             if before.get((drill, tune, id)) != after.get((drill, tune, id))}  # fmt: skip
    assert flags(overview) == moved
    assert "Rooftop hop" in moved
    assert "Quay sprint" not in moved
    for drill in overview.drills:
        for each in overview.cards.content_of(drill).moved if drill.name in moved else ():
            figure = (drill.name, each.tune, each.measure.id)
            assert (each.before, each.after) == (before.get(figure), after.get(figure))
    window.session.undo()
    assert flags(overview) == set()


def test_cards_follow_a_drag_and_say_how_many_moved(window, overview, hand, qtbot):
    picture = overview.cards.viewport().grab().toImage()
    hand.drag("gravity.gravity", "Wren", -20, release=False)
    assert "Rooftop hop" in flags(overview)
    assert overview.cards.viewport().grab().toImage() != picture
    hand.release()
    qtbot.waitUntil(lambda: f"{len(flags(overview))} moved since" in overview.summary.text())


@pytest.mark.parametrize("what", ["a number", "the clock"])
def test_earlier_runs_are_freed_during_a_continuous_drag(window, overview, what):
    """With a target, and runs of every drill after each move."""
    session, everywhere = window.session, window.study_runs
    session.choose_drill("Rooftop hop")
    agree(window, "jump_height", "2.5…2.7")

    def most(moves):
        kept = []
        for move in moves:
            if what == "the clock":
                session.set_clock(session.study.clock.model_copy(update={"tick_rate": 60.0 + move}), "Tick rate")
            else:
                session.set_value(session.study.tune("Wren"), GRAVITY, 36.0 + move)
            for drill in overview.drills:
                overview.cards.content_of(drill)
            kept.append(everywhere.kept)
        return max(kept)

    assert most(range(1, 4)) == most(range(4, 16))


def test_a_click_opens_the_drill_in_compare_at_the_figure(window, overview):
    window.session.set_value(window.session.study.tune("Wren"), GRAVITY, 38.0)
    cards = overview.cards
    for drill in cards.drills:
        cards.content_of(drill)
    place = next(number for number, drill in enumerate(cards.drills) if drill.name == "Rooftop hop")
    rect = cards.rect_of(place)
    cards.verticalScrollBar().setValue(rect.top())
    rect = cards.rect_of(place)
    cards.viewport().grab()
    card_lines = cards.card("Rooftop hop").lines
    QTest.mouseClick(
        cards.viewport(), Qt.MouseButton.LeftButton, pos=rect.topLeft() + card_lines[0].rect.center().toPoint()
    )
    assert window.desk.shown is window.page
    assert window.session.drill.name == "Rooftop hop"
    shown = next(each for each in window.session.shown if each.tune.name == card_lines[0].tune)
    assert window.session.cursor == shown.readings[card_lines[0].measure].rows[1]


def test_overview_works_from_the_keyboard(window, overview):
    cards = overview.cards
    assert QApplication.focusWidget() is cards
    QTest.keyClick(cards, Qt.Key.Key_Right)
    assert window.session.drill.name == "Turn on the jetty"
    QTest.keyClick(cards, Qt.Key.Key_Down)
    assert window.session.drill.name == cards.drills[3].name
    QTest.keyClick(cards, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert [drill.name for drill in window.session.study.drills][2:4] == ["Gutter's edge", "Rooftop hop"]
    QTest.keyClick(cards, Qt.Key.Key_Minus)
    assert cards.across == 3
    QTest.keyClick(cards, Qt.Key.Key_Plus)
    QTest.keyClick(cards, Qt.Key.Key_Plus)
    assert cards.across == 1
    QTest.keyClick(cards, Qt.Key.Key_Return)
    assert window.desk.shown is window.page


def test_a_card_is_dragged_to_another_place_and_undone(window, overview):
    cards, names = overview.cards, [drill.name for drill in overview.drills]
    first, second = cards.rect_of(0), cards.rect_of(1)
    drag(cards.viewport(), first.center(), second.center() + QPoint(second.width() // 4, 0))
    assert [drill.name for drill in overview.drills][:2] == [names[1], names[0]]
    window.session.undo()
    assert [drill.name for drill in overview.drills] == names


def test_compared_with_the_reference_a_milestone_a_snapshot_and_a_file(window, overview, tmp_path):
    session = window.session
    path = tmp_path / "old.json"
    path.write_text(study_text(session.study))
    session.alter("Milestone", lambda study: editing.with_milestone(study, "First", "now"))
    session.alter("Snapshot", lambda study: editing.with_snapshot(study, "Wren"))
    session.set_value(session.study.tune("Wren"), GRAVITY, 38.0)
    session.set_value(session.study.tune("Wren"), parameter_by_id("jump.coyote"), 0.14)
    moved = flags(overview)
    assert "Rooftop hop" not in moved, "the last edit alone"
    for chosen in ("milestone First", "snapshots"):
        overview.choose_baseline(chosen)
        assert "Rooftop hop" in flags(overview)
    window.commands.compare_with_file(path)
    assert "Rooftop hop" in flags(overview)
    overview.choose_baseline("reference")
    assert flags(overview) == set()
    content = overview.cards.content_of(next(drill for drill in overview.drills if drill.name == "Rooftop hop"))
    assert {each.tune for each in content.moved} <= {"Bramble", "Wren before"}


def test_a_file_that_is_not_a_study_is_refused_with_a_reason(window, overview, messages, tmp_path):
    path = tmp_path / "no.json"
    path.write_text("[]")
    window.commands.compare_with_file(path)
    window.commands.compare_with_file(tmp_path / "nowhere.json")
    assert "no.json" in messages[0]
    assert "nowhere.json" in messages[1]
    assert overview.baseline.chosen == "edit"


# Targets


def figure(window, id, tune="Wren"):
    return window.sheet.figures.cell(id, tune)


def agree(window, id, text, tune="Wren"):
    window.sheet.figures.type_into(figure(window, id, tune), text)
    window.study_runs.judge_now()


def test_the_menu_of_a_figure_says_what_a_target_looks_like(window, messages):
    window.session.choose_drill("Rooftop hop")
    index, table = figure(window, "jump_height"), window.sheet.figures
    place = table.visualRect(index).center()
    table.contextMenuEvent(QContextMenuEvent(QContextMenuEvent.Reason.Mouse, place, table.mapToGlobal(place)))
    menu = table.findChildren(QMenu)[-1]
    next(each for each in menu.actions() if each.text() == "Type a target…").trigger()
    assert table.state() == QAbstractItemView.State.EditingState
    example = messages[-1].partition("“")[2].partition("”")[0]
    menu.close()
    # Its own text can be typed.
    agree(window, "jump_height", example)
    assert window.session.drill.targets[0].low == 2.3


def test_a_target_is_typed_missed_met_undone_saved_and_opened_again(window, messages, tmp_path):
    session = window.session
    session.choose_drill("Rooftop hop")
    agree(window, "jump_height", "2.5…2.7")
    assert window.header.targets.text() == "1 of 1 missed"
    assert "0.117 u too low" in figure(window, "jump_height").data(Qt.ItemDataRole.ToolTipRole)
    assert "missed" in figure(window, "jump_height").data(Qt.ItemDataRole.AccessibleTextRole)
    session.set_value(session.study.tune("Wren"), GRAVITY, 38.5)
    window.study_runs.judge_now()
    assert window.header.targets.text() == "1 target met"
    path = tmp_path / "agreed.json"
    path.write_text(study_text(session.study))
    assert read_study(path).drill("Rooftop hop").targets == session.study.drill("Rooftop hop").targets
    session.undo()
    session.undo()
    window.study_runs.judge_now()
    assert session.study.drill("Rooftop hop").targets == ()
    assert window.header.targets.text() == "no targets"


def test_targets_checked_at_once_are_not_checked_again(window, qtbot, monkeypatch):
    """Even if that took longer than a slice of idle time."""
    monkeypatch.setattr(study_runs, "SLICE", 1e-5)
    window.session.choose_drill("Rooftop hop")
    agree(window, "jump_height", "2.5…2.7")
    agree(window, "jump_height", "1…2.7", "Bramble")
    with qtbot.assertNotEmitted(window.study_runs.judged, wait=50):
        pass
    assert len(window.study_runs.verdicts) == 2


def test_a_target_leaves_curves_and_wake_alone(window):
    window.session.choose_drill("Rooftop hop")
    before = list(window.session.shown)
    agree(window, "jump_height", "2.5…2.7")
    assert all(now is then for now, then in zip(window.session.shown, before, strict=True))
    assert window.session.wake_shown == []
    assert not window.page.transport.wake.isVisible()


def test_a_target_is_for_all_tunes_for_one_or_removed(window):
    window.session.choose_drill("Rooftop hop")
    agree(window, "air_time", ">= 0.5 all")
    (target,) = window.session.drill.targets
    assert target.tunes == ()
    agree(window, "air_time", "<= 0.6 s", "Bramble")
    assert {each.tunes for each in window.session.drill.targets} == {("Wren",), ("Bramble",)}
    agree(window, "air_time", "none")
    assert [each.tunes for each in window.session.drill.targets] == [("Bramble",)]
    figures = window.sheet.figures
    figures.setFocus()
    figures.setCurrentIndex(figure(window, "air_time", "Bramble"))
    QTest.keyClick(figures, Qt.Key.Key_Delete)
    assert window.session.drill.targets == ()


def test_bad_ranges_are_refused_and_change_nothing(window, messages):
    window.session.choose_drill("Rooftop hop")
    for id, text, words in (
        ("jump_height", "3…2", "wrong way round"),
        ("jump_height", "2…3 s", "in u"), ("air_time", "0.5", "for a target"),
        ("air_time", ">= soon", "not a range"),
    ):  # fmt: skip
        agree(window, id, text)
        assert words in messages[-1]
    assert window.session.drill.targets == ()
    assert window.session.undo_stack.count() == 0


def test_a_target_in_bodies_is_kept_in_units(window):
    window.session.choose_drill("Rooftop hop")
    key(window, Qt.Key.Key_B)
    agree(window, "jump_height", "1…2")
    assert (window.session.drill.targets[0].low, window.session.drill.targets[0].high) == (1.6, 3.2)


def test_the_header_leads_to_the_first_that_is_missed(window, overview):
    window.session.choose_drill("Rooftop hop")
    agree(window, "lowest_hop", "<= 1")
    window.session.choose_drill("Quay sprint")
    window.header.targets.click()
    assert window.session.drill.name == "Rooftop hop"
    assert window.desk.shown is window.page
    assert window.session.lit == ("Wren", "lowest_hop")


def test_a_figure_that_the_drill_never_shows_keeps_its_row_and_is_not_missed(window):
    from cinetica.model.targets import Target

    window.session.alter(
        "Target", lambda study: editing.with_target(study, "Quay sprint", Target(measure="jump_height", low=1.0))
    )
    window.study_runs.judge_now()
    assert window.header.targets.text() == "2 not shown"
    assert figure(window, "jump_height").data() == "–"
    assert "does not show it" in figure(window, "jump_height").data(Qt.ItemDataRole.ToolTipRole)


def test_a_target_on_every_drill_is_one_edit(window):
    window.session.choose_drill("Rooftop hop")
    agree(window, "jump_height", ">= 1 on every drill")
    with_it = [drill.name for drill in window.session.study.drills if drill.targets]
    assert "Rooftop hop" in with_it
    assert len(with_it) > 2
    assert "Quay sprint" not in with_it
    window.session.undo()
    assert not any(drill.targets for drill in window.session.study.drills)


def test_targets_stand_on_their_card(window, overview):
    window.session.choose_drill("Rooftop hop")
    agree(window, "jump_height", ">= 9")
    content = overview.cards.content_of(window.session.drill)
    assert [(each.tune, each.met) for each in content.verdicts] == [("Wren", False)]
    assert shipped_study("harbour").drill("Rooftop hop").targets == ()


def cell(window, id):
    return window.sheet.figures.visualRect(figure(window, id))


def test_a_range_is_dragged_out_of_a_figure_and_its_ends_are_moved(window):
    window.session.choose_drill("Rooftop hop")
    figures = window.sheet.figures
    figures.scrollTo(figure(window, "jump_height"))
    port, rect = figures.viewport(), cell(window, "jump_height")
    drag(port, rect.center(), rect.center() + QPoint(20, 0))
    (target,) = window.session.drill.targets
    assert (target.low, target.high, target.tunes) == (
        pytest.approx(1.98, abs=0.01),
        pytest.approx(2.78, abs=0.01),
        ("Wren",),
    )
    assert window.session.undo_stack.count() == 1
    right = rect.center() + QPoint(rect.width() // 4, 0)
    drag(port, right, right - QPoint(10, 0))
    assert window.session.drill.targets[0].high == pytest.approx(2.58, abs=0.01)
    assert window.session.drill.targets[0].low == target.low
    window.session.undo()
    assert window.session.drill.targets == (target,)


def test_find_a_number_for_a_missed_target_and_take_it(window, messages, monkeypatch):
    window.session.choose_drill("Rooftop hop")
    agree(window, "jump_height", "2.5…2.7")
    opened = []
    monkeypatch.setattr("cinetica.desk.actions.commands.run", opened.append)
    window.actions_by_name["find_number"].trigger()
    (dialog,) = opened
    count = window.session.undo_stack.count()
    assert dialog.list.count() >= 2
    dialog.list.setCurrentRow(1)
    assert "is then 2." in dialog.preview.text()
    assert window.session.undo_stack.count() == count, "nothing changes until it is taken"
    dialog.take()
    window.study_runs.judge_now()
    assert window.header.targets.text() == "1 target met"
    window.session.undo()
    window.study_runs.judge_now()
    assert window.header.targets.text() == "1 of 1 missed"
    agree(window, "jump_height", "none")
    window.actions_by_name["find_number"].trigger()
    assert messages[-1] == "No target is missed."


def test_the_chosen_baseline_is_pale_in_compare_until_it_is_cleared(window, monkeypatch):
    session = window.session
    session.choose_drill("Rooftop hop")
    session.alter("Milestone", lambda study: editing.with_milestone(study, "First", "now"))
    session.set_value(session.study.tune("Wren"), GRAVITY, 38.0)
    session.set_value(session.study.tune("Bramble"), GRAVITY, 30.0)
    assert [shown.tune.name for shown in session.wake_shown] == ["Bramble"]
    monkeypatch.setattr("cinetica.desk.actions.commands.QInputDialog.getItem", lambda *_: ("milestone “First”", True))
    window.commands.choose_baseline()
    held = {shown.tune.name: shown.tune.gravity.gravity for shown in session.wake_shown}
    assert held == {"Wren": 42, "Bramble": 38}
    assert "milestone “First”" in window.page.transport.wake.text()
    session.set_value(session.study.tune("Wren"), GRAVITY, 37.0)
    session.choose_drill("Early knock")
    assert {shown.tune.name for shown in session.wake_shown} == {"Wren", "Bramble"}
    key(window, Qt.Key.Key_Escape)
    assert session.wake_shown == []
    assert not session.baseline.is_fixed


def compare_with(window, monkeypatch, words):
    monkeypatch.setattr("cinetica.desk.actions.commands.QInputDialog.getItem", lambda *_: (words, True))
    window.actions_by_name["hold_against"].trigger()


def test_cleared_pale_curves_of_the_last_edit_can_be_shown_again(window, messages, monkeypatch):
    session = window.session
    session.choose_drill("Rooftop hop")
    session.set_value(session.study.tune("Wren"), GRAVITY, 38.0)
    key(window, Qt.Key.Key_Escape)
    assert session.wake_shown == []
    compare_with(window, monkeypatch, "the last edit")
    assert [(shown.tune.name, shown.tune.gravity.gravity) for shown in session.wake_shown] == [("Wren", 42)]
    assert messages[-1] == "Changed by the last edit: Wren: Gravity 42 → 38."


def test_the_study_is_compared_with_opening_and_with_its_last_save(window, messages, monkeypatch, tmp_path):
    session = window.session
    session.choose_drill("Rooftop hop")
    compare_with(window, monkeypatch, "opening")
    assert messages[-1] == "No number was changed since opening."
    session.set_value(session.study.tune("Wren"), GRAVITY, 38.0)
    session.set_value(session.study.tune("Wren"), GRAVITY, 36.0)
    compare_with(window, monkeypatch, "opening")
    assert messages[-1] == "Changed since opening: Wren: Gravity 42 → 36."
    assert {shown.tune.gravity.gravity for shown in session.wake_shown} == {42}
    assert window.page.transport.wake.text().startswith("pale: the study at opening")
    window.documents.file.write(tmp_path / "harbour.json")
    assert session.wake_shown == []
    assert window.page.transport.wake.text().startswith("pale: the study at the last save")
    session.set_value(session.study.tune("Wren"), GRAVITY, 35.0)
    compare_with(window, monkeypatch, "the last save")
    assert messages[-1] == "Changed since the last save: Wren: Gravity 36 → 35."
    for name in ("Wren", "Bramble"):
        session.set_values(
            "Much", [(name, parameter_by_id(id), 11.0) for id in ("drive.top_speed", "drive.acceleration")]
        )
    compare_with(window, monkeypatch, "the last save")
    assert messages[-1] == "2 tunes were changed since the last save. Overview says which figures moved."


def test_an_empty_study_is_explained_and_opens(window, overview):
    from cinetica.model.study import Study

    window.session.load(Study(format="cinetica-study", version=1, name="x"), None)
    assert overview.cards.drills == []
    overview.cards.viewport().grab()
    for pressed in (Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_End):
        QTest.keyClick(overview.cards, pressed)
    window.actions_by_name["find_number"].trigger()
    window.actions_by_name["missed"].trigger()
    window.commands.new_drill("side")
    assert [drill.name for drill in overview.cards.drills] == ["New drill"]
    overview.cards.viewport().grab()


def test_the_curves_are_the_usual_ones_or_those_of_compare(window, overview):
    cards = overview.cards
    by_name = {drill.name: drill for drill in cards.drills}
    assert cards.content_of(by_name["Rooftop hop"]).columns == ("vx", "y")
    # On level ground the height is constant: its space goes to the stage.
    assert cards.content_of(by_name["Quay sprint"]).columns == ("vx",)
    window.page.show_preset("Speed over time")
    picture = cards.viewport().grab().toImage()
    overview.curves.setCurrentIndex(1)
    overview.curves.activated.emit(1)
    assert cards.content_of(cards.drills[0]).columns == ("speed", "ax")
    assert cards.viewport().grab().toImage() != picture
