"""Rules that few tunes use are folded away in the sheet until they matter or are searched for."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from cinetica.model.templates import TEMPLATES
from cinetica.model.tune import PARAMETERS, parameter_by_id
from tests.desk.conftest import key

RARE = {each.id for each in PARAMETERS if each.rare}


@pytest.fixture
def window(window):
    window.resize(1280, 800)
    window.session.choose_drill("Rooftop hop")
    return window


def shown(window):
    return {row.id for group in window.sheet.view.sheet.groups for row in group.rows}


def test_rare_rules_are_folded_into_one_counted_line(window):
    groups = window.sheet.view.sheet.groups
    assert not shown(window) & RARE
    edges = next(group for group in groups if group.title == "Edges")
    assert edges.more == 2
    place = window.sheet.view.sheet.index(window.sheet.view.sheet.row_of(groups.index(edges)), 0)
    assert "2 more" in window.sheet.view.sheet.data(place, Qt.ItemDataRole.ToolTipRole)


def test_a_key_unfolds_and_folds_the_rare_rules(window):
    key(window.sheet.view, Qt.Key.Key_U, Qt.KeyboardModifier.ShiftModifier)
    assert {"jump.spend_press", "jump.cut_repeat", "drive.friction_step", "input.view"} <= shown(window)
    # Rules that matter to no tune stay hidden.
    assert "drive.cruise_speed" not in shown(window)
    key(window.sheet.view, Qt.Key.Key_U, Qt.KeyboardModifier.ShiftModifier)
    assert not shown(window) & RARE


def test_a_click_on_the_line_unfolds_them(window):
    view = window.sheet.view
    groups = view.sheet.groups
    edges = next(place for place, group in enumerate(groups) if group.title == "Edges")
    view.grid.open_group_of("jump.buffer")
    index = view.sheet.index(view.sheet.row_of(edges), 0)
    view.scrollTo(index)
    middle = view.visualRect(index).center().y()
    QTest.mouseClick(view.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(view.viewport().width() - 14, middle))
    assert "jump.spend_press" in shown(window)
    assert view.grid.is_open(edges)


def test_search_finds_folded_rules(window):
    window.sheet.search.setText("spends press")
    assert shown(window) == {"jump.spend_press"}
    window.sheet.search.clear()
    assert not shown(window) & RARE


def test_a_rare_rule_in_use_is_shown(window):
    session = window.session
    session.set_value(session.study.tune("Bramble"), parameter_by_id("jump.cut_repeat"), "every")
    assert shown(window) & RARE == {"jump.cut_repeat"}
    session.undo()
    assert not shown(window) & RARE


def test_a_link_from_explain_unfolds_the_rule(window):
    window.sheet.show_number("drive.friction_step", "Wren")
    assert "drive.friction_step" in shown(window)


# A new study


def numbers(window):
    return {row.id for group in window.sheet.view.sheet.groups for row in group.rows if row.kind in ("number", "whole")}


@pytest.mark.parametrize("place", range(3))
def test_a_new_study_shows_the_ten_numbers_of_its_kind(window, place):
    window.session.load(TEMPLATES[place].make(), None)
    assert len(numbers(window)) == 10
    assert {"drive.top_speed", "drive.acceleration", "drive.friction"} < numbers(window)
    assert ("jump.jump_speed" in numbers(window)) == (place == 0)
    hands = next(group for group in window.sheet.view.sheet.groups if group.title == "Camera")
    assert hands.is_line
    assert hands.line_words == f"{hands.more} more"


def test_other_numbers_are_a_click_or_a_search_away_and_stay_once_set(window):
    window.session.load(TEMPLATES[0].make(), None)
    window.sheet.view.sheet.open_section("Camera")
    assert "camera.window_width" in numbers(window)
    window.sheet.search.setText("terminal")
    assert numbers(window) == {"gravity.terminal_speed"}
    window.sheet.search.clear()
    session = window.session
    session.set_value(session.study.tunes[0], parameter_by_id("gravity.terminal_speed"), 20.0)
    assert "gravity.terminal_speed" in numbers(window)
    assert "gravity.apex_speed" not in numbers(window)
    window.sheet.show_all_rules(True)
    assert {"gravity.apex_speed", "dash.speed"} < numbers(window)


def test_a_developed_study_shows_all_numbers_that_matter(window):
    study = TEMPLATES[0].make()
    tune = study.tunes[0].put("gravity.terminal_speed", 20.0)
    window.session.load(study.model_copy(update={"tunes": (tune,)}), None)
    assert "gravity.apex_speed" in numbers(window)
