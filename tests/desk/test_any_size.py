"""A rescaled study looks and works the same: pictures, drags, ranges, grids and Play."""

import numpy as np
import pytest
from PySide6.QtCore import QRectF, Qt

from cinetica.desk.overview.card import Card
from cinetica.desk.play.arena import Arena
from cinetica.desk.sheet.cells import dragged, share_of_comfort
from cinetica.files.shipped import shipped_study
from cinetica.model.rescaling import Scope, resized
from cinetica.model.tune import PARAMETERS, parameter_by_id
from cinetica.model.value_text import reading_text
from cinetica.model.world_size import sized, world_size
from cinetica.reading.survey.reach import outline
from tests.desk.conftest import key, turn_wheel

SIZES = (32.0, 100.0, 0.01)
STUDY = shipped_study("harbour")


@pytest.fixture
def opened(open_window):
    def open_at(factor):
        window = open_window(STUDY if factor == 1.0 else resized(STUDY, factor, Scope.STUDY), size=(1280, 800))
        window.session.choose_drill("Rooftop hop")
        window.session.set_cursor(58)
        return window

    return open_at


def pixels(widget):
    image = widget.grab().toImage()
    return np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine()).copy()


@pytest.mark.parametrize("factor", SIZES)
def test_numbers_keep_their_place_in_the_range_and_drags_their_reach(factor):
    wren = STUDY.tune("Wren")
    other = resized(STUDY, factor, Scope.STUDY).tune("Wren")
    assert world_size(other) == pytest.approx(factor)
    for parameter in (each for each in PARAMETERS if each.kind == "number" and each.matters("side", wren.values())):
        own, its = sized(parameter, wren), sized(parameter, other)
        value, scaled = float(wren.get(parameter.id)), float(other.get(parameter.id))
        assert share_of_comfort(its, scaled) == pytest.approx(share_of_comfort(own, value), abs=1e-6)
        # Drags move in round steps, which may differ by a factor of up to 1.6.
        moved = float(dragged(own, value, 40)) - value
        moved_there = (float(dragged(its, scaled, 40)) - scaled) / (scaled / value if value else 1.0)
        if moved and value and moved_there:
            assert 0.62 < moved_there / moved < 1.6, parameter.id


@pytest.mark.thorough
@pytest.mark.parametrize("factor", SIZES)
def test_the_stage_shows_the_same_part_of_the_world(opened, factor):
    one, other = opened(1.0), opened(factor)
    mine, its = (each.page.stage.box.viewRect() for each in (one, other))
    for side in ("left", "right", "top", "bottom"):
        assert getattr(its, side)() == pytest.approx(getattr(mine, side)() * factor, rel=1e-6)
    assert other.page.stage.plot.editor.grid == pytest.approx(0.25 * factor)
    other.page.bar.explain.setChecked(True)
    assert other.page.explaining.amount.value() == pytest.approx(0.05 * factor)


def test_play_is_painted_the_same_pixel_for_pixel(opened, monkeypatch):
    """A power of two scales every number exactly; only the round steps of the grid differ."""
    monkeypatch.setattr(Arena, "_draw_grid", lambda *_: None)
    pictures = []
    for factor in (1.0, 32.0):
        window = opened(factor)
        window.show_page("play_page")
        window.play.game.pause()
        window.play.arena.centre()
        pictures.append(pixels(window.play.arena))
        window.hide()
    assert np.array_equal(*pictures)
    assert len(np.unique(pictures[0])) > 20


def test_wheel_and_keys_zoom_and_one_key_fits_the_course(opened):
    window = opened(32.0)
    window.show_page("play_page")
    play, arena = window.play, window.play.arena
    play.game.pause()
    usual = arena._scale
    key(play, Qt.Key.Key_Plus)
    assert arena._scale == pytest.approx(usual * 1.25)
    key(play, Qt.Key.Key_Minus)
    assert arena._scale == pytest.approx(usual)
    turn_wheel(arena, 0, -240)
    assert arena._scale == pytest.approx(usual / 1.25**2)
    key(play, Qt.Key.Key_F)
    arena.grab()
    view = arena._mapping.view
    boxes = play.game.drill.course.solids
    assert view.left() < min(box.left for box in boxes)
    assert view.right() > max(box.right for box in boxes)
    assert view.top() < min(box.bottom for box in boxes)
    assert view.bottom() > max(box.top for box in boxes)
    key(play, Qt.Key.Key_F)
    assert arena._scale == pytest.approx(usual)
    for _ in range(60):
        arena.zoom_by(-1)
    assert arena._scale > 0


def test_the_yard_is_as_large_as_the_character(opened):
    window = opened(32.0)
    window.show_page("play_page")
    window.play.courses.setCurrentIndex(1)
    window.play.begin()
    yard = next(each for each in shipped_study("yard").drills if each.view == "side")
    assert window.play.game.drill.course.solids[0].right == pytest.approx(yard.course.solids[0].right * 32)


@pytest.mark.parametrize(
    ("value", "unit", "text"),
    [(0.0238, "u", "0.0238"), (0.00342, "u", "0.00342"), (0.05, "s", "0.050"), (0, "u", "0.00")],
)
def test_figures_of_a_small_world_have_three_digits(value, unit, text):
    assert reading_text(value, unit) == text


def test_readouts_of_a_small_world_have_four_decimals(opened):
    window = opened(0.01)
    lines = window.page.strips.strips[0].readout.lines()
    assert lines[0][1] == "+0.0750"
    assert opened(1.0).page.strips.strips[0].readout.lines()[0][1] == "+7.50"


def test_a_body_may_be_a_thousandth_of_a_unit():
    assert parameter_by_id("body.width").low == 0.001


@pytest.mark.parametrize("factor", SIZES)
@pytest.mark.parametrize("start", ["standing", "running"])
def test_a_jump_reaches_the_same_places_of_the_world(factor, start):
    """The cliff is as deep as a body can fall: nothing passes below it, however small the world is."""
    mine, its = (
        np.array(outline(study.tune("Wren"), study.clock, start).hull)
        for study in (STUDY, resized(STUDY, factor, Scope.STUDY))
    )
    assert its == pytest.approx(mine * factor, rel=1e-5, abs=1e-5 * factor)
    assert (mine[mine[:, 1] < 0, 0] >= 0).all()


@pytest.mark.thorough
@pytest.mark.parametrize("factor", SIZES)
def test_all_pages_show_the_same_part_of_the_world(opened, factor):
    ends = []
    for size in (1.0, factor):
        window = opened(size)
        window.show_page("overview")
        card = window.overview.cards
        content = card.content_of(window.session.drill)
        stage = Card._stage(content, QRectF(0, 0, 300, 200)).view
        window.show_page("survey")
        shown = [stage.top() / size, stage.height() / size]
        for words in ("Curve", "Reach"):
            window.survey.show_view(words)
            view = window.survey.view
            view.task.wait()
            scales = view.scales_of(0) if words == "Curve" else view._scales()
            of_x = 1.0 if words == "Curve" and view.result.number.unit not in ("u", "u/s", "u/s²") else size
            shown += [scales.left / of_x, scales.right / of_x, scales.bottom / size, scales.top / size]
        ends.append(shown)
        window.hide()
    # The smallest step of a card's grid is a power of two.
    assert ends[1][:2] == pytest.approx(ends[0][:2], rel=0.35)
    # A body of nearly the usual size counts as usual: Wren is 1.06 times as high. Reach uses round steps.
    assert ends[1][2:] == pytest.approx(ends[0][2:], rel=0.28, abs=0.1)
