"""A session without a window: its state after each act, and its signals."""

import itertools
from types import SimpleNamespace

import pytest

from cinetica.desk.state import session as session_module
from cinetica.desk.state import study_runs
from cinetica.desk.state.baseline import EDIT, REFERENCE, SAVED, SNAPSHOTS
from cinetica.desk.state.document import Document
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Kept, Remembered, Settings
from cinetica.desk.state.study_runs import StudyRuns
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.state.undo_actions import RedoAction, UndoAction
from cinetica.desk.state.undo_list import UndoList
from cinetica.files.shipped import shipped_study
from cinetica.model import editing
from cinetica.model.clock import Clock
from cinetica.model.course import Course, Rectangle
from cinetica.model.milestone import Logged
from cinetica.model.study import Study
from cinetica.model.targets import Target
from cinetica.model.tune import Tune, parameter_by_id
from cinetica.motion.simulate import simulate
from cinetica.palette import LOG_PLACE, OVER_PLACE
from tests.builders import make_drill

SIGNALS = (
    "loaded", "study_changed", "units_changed", "drill_changed", "drill_edited", "traces_changed", "figures_changed",
    "poses_switched", "free_changed", "wake_changed", "lit_changed", "cursor_moved", "shown_changed",
    "reference_changed", "gesture_ended", "refused", "message",
)  # fmt: skip
TOP_SPEED = parameter_by_id("drive.top_speed")


def study():
    """Three tunes from the side and one from above, with three drills."""
    tunes = [Tune(name=name, view="side") for name in ("Wren", "Bramble", "Otter")]
    sprint = make_drill(right=[(0, 40)], jump=[(20, 30)], length=60).model_copy(update={"name": "Sprint"})
    return Study.new(
        "Harbour",
        tunes=(*tunes, Tune(name="Barge", view="top")),
        drills=(
            sprint,
            sprint.model_copy(update={"name": "Stroll", "take": sprint.take.model_copy(update={"length": 30})}),
            make_drill(view="top", right=[(0, 40)], length=60).model_copy(update={"name": "Quay"}),
        ),
    )


@pytest.fixture
def session(qapp):
    session = Session(study())
    session.start()
    return session


@pytest.fixture
def heard(session):
    """The names of the signals sent by the session, in order."""
    return listened(session)


def listened(session):
    names = []
    for name in SIGNALS:
        getattr(session, name).connect(lambda *_, name=name: names.append(name))
    return names


def names_shown(session):
    return [each.tune.name for each in session.shown]


def faster(session, name="Wren", speed=9.0, **how):
    return session.set_value(session.study.tune(name), TOP_SPEED, speed, **how)


def log_of(session, name="Log", drill="Sprint"):
    """The log of a game that runs the first tune."""
    trace = simulate(session.study.tunes[0], session.study.drill(drill), session.study.clock)
    columns = {column: tuple(trace[column].tolist()) for column in ("time", "x", "y", "vx", "vy")}
    return Logged(name=name, drill=drill, **columns)


# Starting


def test_nothing_runs_before_start_and_everything_after(qapp):
    session = Session(study())
    heard = listened(session)
    faster(session)
    assert session.shown == []
    assert "study_changed" in heard
    assert "traces_changed" not in heard
    heard.clear()
    session.start()
    assert names_shown(session) == ["Wren", "Bramble", "Otter"]
    assert (session.ready, session.reads) == (True, True)
    assert sorted(heard) == ["drill_changed", "figures_changed", "traces_changed"]


def test_figures_may_follow_the_curves(qapp):
    session = Session(study())
    session.start(figures=False)
    assert session.ready
    assert not session.reads
    heard = listened(session)
    session.start_figures()
    assert session.reads
    assert sorted(heard) == ["drill_changed", "figures_changed", "study_changed", "traces_changed"]


def test_loading_another_study_resets_the_session(session, heard):
    session.set_cursor(7)
    session.choose_drill("Stroll")
    heard.clear()
    session.load(shipped_study("harbour"), None)
    assert session.drill is session.study.drills[0]
    assert session.cursor == 0
    assert {"loaded", "units_changed", "study_changed", "traces_changed", "drill_changed", "cursor_moved"} <= set(heard)
    assert session.undo_stack.count() == 0


def test_loading_a_study_during_a_drag_discards_the_drag(session, heard):
    session.begin("Top speed")
    faster(session, speed=9.0)
    other = study()
    session.load(other, None)
    assert not session.in_gesture
    assert "gesture_ended" in heard
    session.end()
    assert session.study is other
    assert (session.undo_stack.count(), session.wake_shown) == (0, [])


# The state of the page


def test_choosing_another_drill_shows_it_and_the_same_one_changes_nothing(session, heard):
    faster(session)
    heard.clear()
    session.choose_drill("Sprint")
    assert heard == []
    session.choose_drill("Quay")
    assert names_shown(session) == ["Barge"]
    assert heard == ["wake_changed", "drill_changed", "traces_changed", "figures_changed"]
    assert session.wake_shown == []


def test_the_cursor_stays_within_the_longest_trace(session, heard):
    assert session.last_row == 60
    session.set_cursor(-1)
    assert heard == []
    session.set_cursor(200)
    session.set_cursor(60)
    assert (session.cursor, heard) == (60, ["cursor_moved"])
    session.choose_drill("Stroll")
    assert (session.cursor, session.last_row) == (30, 30)
    session.choose_drill("Sprint")
    session.set_cursor(60)
    heard.clear()
    session.set_take("Shorter", session.drill.take.model_copy(update={"length": 45}))
    assert session.cursor == 45
    assert heard.count("cursor_moved") == 1
    session.set_cursor(0)
    assert session.cursor == 0


def test_the_time_is_that_of_the_rows(session):
    assert session.time_at(30) == pytest.approx(0.5)
    assert session.time_at(400) == pytest.approx(1.0)
    for tune in session.study.tunes:
        session.toggle(tune)
    assert session.time_at(30) == 0.0


def test_a_hidden_tune_is_not_run_until_it_is_shown_again(session, heard):
    bramble = session.study.tune("Bramble")
    session.toggle(bramble)
    assert session.is_hidden(bramble)
    assert names_shown(session) == ["Wren", "Otter"]
    assert [each.place for each in session.shown] == [0, 2]
    assert heard == ["traces_changed", "figures_changed", "shown_changed"]
    heard.clear()
    session.choose_reference(bramble)
    assert heard == ["reference_changed", "traces_changed", "figures_changed"]
    assert names_shown(session) == ["Wren", "Bramble", "Otter"]
    assert session.reference is bramble
    assert session.reference_shown.tune is bramble
    session.toggle(bramble)
    assert session.reference_shown.tune.name == "Wren"


def test_the_reference_on_another_drill_is_overlaid_until_removed(session, heard):
    session.choose_reference(session.study.tune("Otter"))
    heard.clear()
    session.lay_over("Stroll")
    over = session.shown[-1]
    assert (over.place, over.tune.name, len(over.trace)) == (OVER_PLACE, "Otter on Stroll", 31)
    assert heard == ["traces_changed", "figures_changed", "shown_changed"]
    session.set_free(["drive.top_speed"])
    session.toggle(session.study.tune("Wren"))
    assert session.shown[-1] is over
    session.set_clock(Clock(tick_rate=30), "Clock")
    assert len(session.shown[-1].trace) == 16
    # Of another view, or onto itself, it cannot be overlaid.
    for name in ("Quay", "Sprint", "Nowhere", ""):
        session.lay_over(name)
        assert all(each.place != OVER_PLACE for each in session.shown), name


def test_a_drill_named_like_a_tune_shows_it_and_the_first_only(session):
    own = session.study.drill("Stroll").model_copy(update={"name": "Otter"})
    session.edit("Drill", session.study.model_copy(update={"drills": (*session.study.drills, own)}))
    session.toggle(session.study.tune("Wren"))
    session.choose_drill("Otter")
    assert names_shown(session) == ["Wren", "Otter"]
    session.choose_drill("Stroll")
    assert names_shown(session) == ["Bramble", "Otter"]


def test_numbers_are_free_until_some_are_marked(session, heard):
    session.set_free(["drive.top_speed", "jump.coyote"])
    session.set_free(["jump.coyote", "drive.top_speed"])
    assert heard == ["free_changed"]
    session.set_free([])
    assert (session.free, heard) == (frozenset(), ["free_changed"] * 2)


def test_poses_can_be_shown(session, heard):
    session.show_poses(False)
    assert heard == []
    session.show_poses(True)
    assert session.poses_shown
    assert heard == ["poses_switched", "figures_changed"]


def test_a_figure_highlights_its_rows(session, heard):
    session.light(("Wren", "top_speed_reached"))
    session.light(("Wren", "top_speed_reached"))
    assert heard == ["lit_changed"]
    shown, first, last = session.highlighted_rows
    assert (shown, 0 <= first <= last <= 60) == (session.shown[0], True)
    for nothing in (("Nobody", "top_speed_reached"), ("Wren", "no_such_figure"), None):
        session.light(nothing)
        assert session.highlighted_rows is None, nothing
    assert heard == ["lit_changed"] * 4


# Runs


def test_a_run_is_reused_while_its_input_is_unchanged(session):
    before = list(session.shown)
    faster(session, "Bramble")
    assert [one is other for one, other in zip(before, session.shown, strict=True)] == [True, False, True]
    kept = list(session.shown)
    session.alter("Note", lambda study: editing.with_drill_note(study, "Sprint", "Along the quay"))
    assert all(one is other for one, other in zip(kept, session.shown, strict=True))
    session.set_course("Course", Course(solids=(*session.drill.course.solids, Rectangle(50.0, 0.0, 51.0, 1.0))))
    assert not any(one is other for one, other in zip(kept, session.shown, strict=True))
    kept = list(session.shown)
    session.set_clock(Clock(tick_rate=144), "Clock")
    assert not any(one is other for one, other in zip(kept, session.shown, strict=True))


@pytest.mark.parametrize("change", [{"start": (0.0, 2.0)}, {"start_velocity": (3.0, 0.0)}])
def test_another_start_causes_another_run(session, change):
    before = list(session.shown)
    session.set_drill("Start", session.drill.model_copy(update=change))
    assert not any(one is other for one, other in zip(before, session.shown, strict=True))


def test_a_figure_on_request_is_read_for_its_target(session):
    before = list(session.shown)
    session.alter("Target", lambda study: editing.with_target(study, "Sprint", Target(measure="distance", low=1.0)))
    assert all(one is other for one, other in zip(before, session.shown, strict=True))
    assert not any("rise_delay" in each.readings for each in session.shown)
    session.alter("Target", lambda study: editing.with_target(study, "Sprint", Target(measure="rise_delay", low=1.0)))
    assert all("rise_delay" in each.readings for each in session.shown)


def test_logs_are_shown_with_the_tunes_in_three_alternating_colours(session):
    for number in range(4):
        session.alter("Log", lambda study, number=number: editing.with_log(study, log_of(session, f"Log {number}")))
    session.alter("Log", lambda study: editing.with_log(study, log_of(session, "Elsewhere", "Stroll")))
    logs = session.shown[3:]
    assert [each.tune.name for each in logs] == ["Log 0", "Log 1", "Log 2", "Log 3"]
    assert [each.place - LOG_PLACE for each in logs] == [0, 1, 2, 0]
    assert (session.runs.live_place - LOG_PLACE, session.runs.best_place - LOG_PLACE) == (1, 2)
    session.toggle(session.study.tune("Wren"))
    assert all(one is other for one, other in zip(logs, session.shown[2:], strict=True))
    session.set_clock(Clock(tick_rate=30), "Clock")
    assert not any(one is other for one, other in zip(logs, session.shown[2:], strict=True))
    logs = session.shown[2:]
    session.selection.toggle("Log 1")
    session.runs.update()
    assert [each.tune.name for each in session.shown[2:]] == ["Log 0", "Log 2", "Log 3"]
    session.choose_drill("Stroll")
    assert session.shown[-1].tune.name == "Elsewhere"


def test_the_run_of_the_game_is_shown_with_the_tunes(session, heard):
    logs = [log_of(session, "Game")]
    session.follow_game(lambda drill: logs[-1] if drill.name == "Sprint" else None)
    live = session.shown[-1]
    assert (live.live, live.tune.name, live.place) == (True, "Game", LOG_PLACE)
    assert live.tune.body == session.reference.body
    assert heard == ["traces_changed", "figures_changed"]
    session.show_game()
    assert session.shown[-1] is live
    logs.append(log_of(session, "Game").model_copy(update={"vx": (1.0,) * 61}))
    session.show_game()
    assert session.shown[-1] is not live
    assert heard.count("traces_changed") == 3
    session.choose_drill("Stroll")
    assert len(session.shown) == 3


def test_the_best_tune_of_a_search_is_shown_on_its_drill(session, heard):
    best = TuneRun(session.runs.best_place, Tune(name="Best", view="side"), session.shown[0].trace)
    session.show_best(best)
    session.show_best(best)
    assert session.shown[-1] is best
    assert heard.count("traces_changed") == 1
    session.choose_drill("Stroll")
    assert best not in session.shown
    session.choose_drill("Sprint")
    session.show_best(None)
    assert best not in session.shown


# Edits


def test_a_drag_is_one_entry_and_its_start_stays_pale(session, heard):
    before = list(session.shown)
    session.begin("Top speed")
    assert session.in_gesture
    for speed in (7.0, 8.0, 9.0):
        faster(session, speed=speed)
    assert session.wake_shown == [before[0]]
    assert session.wake_words == "before “Top speed”"
    session.end()
    assert not session.in_gesture
    assert session.undo_stack.count() == 1
    assert session.wake_shown == [before[0]]
    assert heard.count("study_changed") == 3
    session.toggle(session.study.tune("Wren"))
    assert session.wake_shown == []


def slow_figures(session, monkeypatch, seconds):
    """A test clock on which reading figures takes so long that the session has noticed."""
    ticks = itertools.count(0.0, seconds)
    monkeypatch.setattr(session_module.time, "perf_counter", lambda: next(ticks))
    for _ in range(3):
        session.show_game()


def test_slow_figures_wait_for_the_end_of_the_drag(session, heard, monkeypatch):
    slow_figures(session, monkeypatch, 0.02)
    heard.clear()
    session.begin("Top speed")
    faster(session, speed=8.0)
    faster(session, speed=9.0)
    assert (heard.count("traces_changed"), heard.count("figures_changed")) == (2, 0)
    session.end()
    assert heard.count("figures_changed") == 1


@pytest.mark.parametrize("seconds", [0.008, 0.02])
def test_figures_are_read_when_the_drag_pauses(session, monkeypatch, qtbot, seconds):
    slow_figures(session, monkeypatch, seconds)
    session.begin("Top speed")
    with qtbot.waitSignal(session.figures_changed):
        faster(session, speed=8.0)
    assert session.in_gesture


def test_fast_figures_are_read_with_the_curves(session, heard, monkeypatch):
    slow_figures(session, monkeypatch, 0.004)
    heard.clear()
    session.begin("Top speed")
    faster(session, speed=8.0)
    assert heard[-2:] == ["traces_changed", "figures_changed"]


def test_a_drag_that_ends_where_it_began_is_no_edit(session):
    session.begin("Top speed")
    faster(session, speed=9.0)
    faster(session, speed=session.document.before_edit.tune("Wren").get("drive.top_speed"))
    session.end()
    assert (session.undo_stack.count(), session.wake_shown, session.wake_words) == (0, [], "")


def test_an_edit_that_moves_no_curve_has_no_pale_curve(session):
    faster(session)
    session.alter("Note", lambda study: editing.with_tune_note(study, "Wren", "The first"))
    assert (session.wake_words, session.wake_shown) == ("", [])
    faster(session, speed=10.0)
    session.alter("Rename", lambda study: editing.renamed_tune(study, "Wren", "Petrel"))
    assert (session.undo_stack.count(), session.wake_words, session.wake_shown) == (4, "", [])


def test_joined_edits_have_one_pale_curve_and_one_entry(session):
    before = session.shown[0]
    for speed in (7.0, 8.0, 9.0):
        faster(session, speed=speed, joins=True)
    assert (session.undo_stack.count(), session.wake_shown) == (1, [before])
    # The history gives the first and the last value.
    assert session.undo_stack.text(0).endswith(f"{before.tune.get('drive.top_speed'):g} → 9")
    middle = session.shown[1]
    faster(session, "Bramble", joins=True)
    assert (session.undo_stack.count(), session.wake_shown) == (2, [middle])
    session.undo()
    session.undo()
    assert session.study.tune("Wren").get("drive.top_speed") == before.tune.get("drive.top_speed")


def test_a_take_too_long_for_the_clock_is_reported_and_can_be_undone(session):
    """20,000 s at 60 ticks per second are more than a million."""
    refused, before = [], session.shown
    session.refused.connect(refused.append)
    session.set_take("Take", make_drill(length=100_000, rate=5).take)
    assert len(refused) == 1
    assert "20000 s under this clock are more than 1000000 ticks" in refused[0]
    session.undo()
    assert [len(each.trace) for each in session.shown] == [len(each.trace) for each in before]


def test_seeking_a_figure_changes_its_numbers_or_is_refused(session):
    messages, refused = [], []
    session.message.connect(messages.append)
    session.refused.connect(refused.append)
    session.set_take("Take", make_drill(jump=[(10, 60)], length=120).take)
    wren = session.study.tune("Wren")
    assert session.seek(wren, "jump_height", 2.5) is True
    assert session.shown[0].readings["jump_height"].value == pytest.approx(2.5, abs=1e-6)
    assert session.undo_stack.undoText() == "Jump height of Wren"
    assert messages
    assert session.seek(session.study.tune("Wren"), "jump_height", -1.0) is False
    assert len(refused) == 1
    session.alter("Keep", lambda study: editing.with_snapshot(study, "Wren"))
    snapshot = next(each for each in session.study.tunes if each.snapshot_of)
    assert session.seek(snapshot, "jump_height", 2.0) is False
    assert "snapshot" in refused[-1]


def test_undo_and_redo_name_the_edit_and_end_a_drag(session, heard):
    messages = []
    session.message.connect(messages.append)
    session.undo()
    session.redo()
    assert messages == []
    faster(session)
    session.begin("Again")
    faster(session, speed=10.0)
    heard.clear()
    session.undo()
    assert heard[0] == "gesture_ended"
    assert session.study.tune("Wren").get("drive.top_speed") == 9.0
    session.undo()
    session.redo()
    assert messages == ["Undone: Again.", f"Undone: {TOP_SPEED.label} of Wren.", f"Redone: {TOP_SPEED.label} of Wren."]


def test_undo_and_redo_are_enabled_and_named(session):
    undo, redo = UndoAction(session, session), RedoAction(session, session)
    assert (undo.isEnabled(), redo.isEnabled(), undo.text(), redo.text()) == (False, False, "Undo", "Redo")
    session.begin("Drag & drop")
    assert undo.isEnabled()
    faster(session, speed=9.0)
    session.end()
    assert (undo.text(), undo.isEnabled(), redo.isEnabled()) == ("Undo Drag && drop", True, False)
    # Created later, they have the same state.
    assert (UndoAction(session, session).text(), UndoAction(session, session).isEnabled()) == (undo.text(), True)
    undo.trigger()
    assert session.study.tune("Wren").get("drive.top_speed") != 9.0
    assert (redo.text(), redo.isEnabled(), undo.isEnabled()) == ("Redo Drag && drop", True, False)
    assert (RedoAction(session, session).text(), RedoAction(session, session).isEnabled()) == (redo.text(), True)
    redo.trigger()
    assert session.study.tune("Wren").get("drive.top_speed") == 9.0
    assert (redo.isEnabled(), undo.isEnabled()) == (False, True)


def test_a_restored_drill_is_shown_and_a_renamed_one_stays(session, heard):
    session.alter("Remove", lambda study: editing.without_drill(study, "Sprint"))
    assert session.drill.name == "Stroll"
    assert heard.count("drill_changed") == 1
    session.choose_drill("Quay")
    session.undo()
    assert session.drill.name == "Sprint"
    session.choose_drill("Stroll")
    session.alter("Rename", lambda study: editing.renamed_drill(study, "Stroll", "Walk"))
    assert session.drill.name == "Walk"
    session.choose_drill("Quay")
    session.undo()
    assert session.drill.name == "Quay"


def test_impossible_edits_are_refused_and_change_nothing(session, heard):
    before = session.study
    assert not session.alter("Rename", lambda study: editing.renamed_tune(study, "Wren", "Otter"))
    assert (session.study, heard) == (before, ["refused"])
    session.edit("Same", session.study.model_copy())
    assert (session.undo_stack.count(), heard) == (0, ["refused"])


def test_changes_of_drills_and_tunes_are_signalled_separately(session, heard):
    faster(session)
    assert (session.touched, "drill_edited" in heard) == ("Wren", False)
    session.set_take("Take", session.drill.take.model_copy(update={"length": 50}))
    assert (session.touched, heard.count("drill_edited")) == ("Wren", 1)


def test_a_document_is_abandoned_when_only_followers_remain(qapp):
    document = Document(study())
    one, other = Session(beside=SimpleNamespace(document=document, undo_stack=UndoList(document))), UndoList(document)
    assert not document.is_left
    document.forget(other)
    assert not document.is_left
    document.forget(one)
    assert document.is_left


def test_a_second_session_sees_every_edit_and_keeps_its_own_page(session, heard):
    other = Session(beside=session)
    other.start()
    other.choose_drill("Stroll")
    faster(other)
    assert session.study is other.study
    assert (session.drill.name, other.drill.name) == ("Sprint", "Stroll")
    assert session.shown[0].tune is other.shown[0].tune
    assert "traces_changed" in heard
    other.close()
    session.undo()
    assert session.undo_stack.count() == 1
    session.close()
    assert session.undo_stack.count() == 0


# Baselines


def test_a_tune_is_compared_with_the_chosen_baseline(session):
    baseline, wren = session.baseline, session.study.tune("Wren")
    session.alter("Keep", lambda study: editing.with_milestone(study, "Monday", "2026-11-30"))
    session.alter("Keep", lambda study: editing.with_snapshot(study, "Wren"))
    faster(session, speed=9.0)
    now = session.study.tune("Wren")
    assert baseline.of(now).get("drive.top_speed") == wren.get("drive.top_speed")
    for chosen, found in (
        (SAVED, wren), ("milestone Monday", wren), (EDIT, session.document.before_edit.tune("Wren")),
        (SNAPSHOTS, next(each for each in session.study.tunes if each.snapshot_of == "Wren")),
        ("milestone Sunday", None), ("file", None),
    ):  # fmt: skip
        session.hold(chosen)
        assert baseline.of(now) == found, chosen
    session.hold(REFERENCE)
    assert baseline.is_reference
    assert baseline.of(session.study.tune("Bramble")) is now
    assert baseline.of(now) is None
    session.choose_reference(session.study.tune("Otter"))
    assert baseline.of(now) is session.study.tune("Otter")
    # A tune of another view is compared with the first of its own.
    assert baseline.of(session.study.tune("Barge")) is None


def test_the_last_save_is_the_opened_study_until_the_first_save(session, heard):
    session.hold(SAVED)
    assert session.baseline.is_fixed
    assert (session.baseline.words, session.baseline.state_words) == ("opening", "the study at opening")
    faster(session)
    assert [each.tune for each in session.wake_shown] == [session.document.saved.tune("Wren")]
    heard.clear()
    session.document.note_saved()
    session.undo_stack.setClean()
    assert session.baseline.words == "the last save"
    assert (session.wake_shown, heard) == ([], ["wake_changed"])
    session.clear_wake()
    assert not session.baseline.is_fixed
    faster(session, speed=10.0)
    heard.clear()
    session.document.note_saved()
    session.undo_stack.setClean()
    assert heard == []


# Every tune on every drill


@pytest.fixture
def everywhere(session):
    """Runs of a study with targets for the top speed: of two tunes on one drill, and of all on another."""
    runs = StudyRuns(session)
    fast = Target(measure="top_speed_reached", low=9.0, tunes=("Wren", "Otter"))
    session.alter("Target", lambda study: editing.with_target(study, "Sprint", fast))
    session.alter(
        "Target", lambda study: editing.with_target(study, "Stroll", Target(measure="top_speed_reached", low=1.0))
    )
    return runs


def test_targets_are_checked_after_a_pause_and_misses_reported(session, everywhere, qtbot):
    assert everywhere.words == ""
    with qtbot.waitSignal(everywhere.judged):
        pass
    verdicts = [(each.drill, each.tune, each.met) for each in everywhere.verdicts]
    assert [each[:2] for each in verdicts] == [
        ("Sprint", "Wren"), ("Sprint", "Otter"), ("Stroll", "Wren"), ("Stroll", "Bramble"), ("Stroll", "Otter"),
    ]  # fmt: skip
    assert [each[2] for each in verdicts] == [False, False, True, True, True]
    assert everywhere.first_missed is everywhere.verdicts[0]
    assert everywhere.words == "2 of 5 missed"
    with qtbot.waitSignal(everywhere.judged):
        faster(session, speed=12.0)
    assert everywhere.words == "1 of 5 missed"


def test_checking_continues_between_events_until_done(everywhere, qtbot, monkeypatch):
    """A clock on which the time is up after each run."""
    ticks = itertools.cycle([0.0, 0.0, 1.0])
    monkeypatch.setattr(study_runs.time, "perf_counter", lambda: next(ticks))
    with qtbot.waitSignal(everywhere.judged):
        pass
    assert len(everywhere.verdicts) == 5


def test_without_targets_nothing_is_checked(session, everywhere):
    everywhere.judge_now()
    assert everywhere.words
    heard = []
    everywhere.judged.connect(lambda: heard.append("judged"))
    session.alter(
        "Target", lambda study: editing.without_target(study, "Sprint", "top_speed_reached", ("Wren", "Otter"))
    )
    session.alter("Target", lambda study: editing.without_target(study, "Stroll", "top_speed_reached"))
    everywhere.judge_now()
    assert (everywhere.words, everywhere.first_missed, everywhere.verdicts) == ("", None, [])
    assert heard


def test_runs_are_cached_while_they_are_used(session, everywhere):
    stroll, wren, otter = (session.study.drill("Stroll"), *map(session.study.tune, ("Wren", "Otter")))
    kept = everywhere.on(stroll, wren, 0)
    assert everywhere.on(stroll, wren, 0) is kept
    assert everywhere.on(stroll, wren, 1).place == 1
    kept = everywhere.on(stroll, wren, 0)
    assert everywhere.on(stroll, otter, 2) is not kept
    everywhere.of_use = [(stroll, wren)]
    faster(session)
    faster(session, "Otter")
    assert everywhere.on(stroll, wren, 0) is kept
    everywhere.of_use = []
    everywhere.forget()
    assert everywhere.kept == 0
    everywhere.on(stroll, session.study.tune("Bramble"), 1)
    everywhere.forget()
    assert everywhere.kept == 1
    session.set_clock(Clock(tick_rate=30), "Clock")
    assert everywhere.kept == 0


def test_shown_tunes_have_places_and_hidden_ones_none(session, everywhere):
    session.toggle(session.study.tune("Bramble"))
    listed = everywhere.tunes_of(session.study.drill("Stroll"))
    assert [(place, tune.name) for place, tune in listed] == [(0, "Wren"), (2, "Otter")]
    assert [tune.name for _, tune in everywhere.tunes_of(session.study.drill("Quay"))] == ["Barge"]


def test_a_closed_window_checks_no_targets(session, everywhere, qtbot):
    everywhere.stop()
    with qtbot.assertNotEmitted(everywhere.judged, wait=200):
        everywhere.judge_now()
    assert everywhere.verdicts == []


# Settings


@pytest.mark.parametrize(
    ("setting", "good", "bad"),
    [
        (Kept.TEXT_SCALE, (1, 1.6, 2), (0.9, 2.1, "1", None, True)),
        (Kept.KEPT_AFTER, (1, 4), (0, 5, 2.0, True)),
        (Kept.ACROSS, (0, 4), (-1, 5)),
        (Kept.NIGHT, (True, False), (0, 1, "yes")),
        (Kept.RECENT, ([], ["a.json"]), ("a.json", [1], {})),
        (Kept.FOLDED, (None, [], ["Jump"]), ("Jump", [None])),
        (Kept.DRAWING, ("lines", "points"), ("dots", "")),
    ],
)
def test_an_invalid_setting_falls_back_to_its_default(tmp_path, setting, good, bad):
    store = Settings(tmp_path / "window.ini")
    for value in good:
        store.set(setting, value)
        assert store.get(setting) == value
        assert setting.fits(value)
    for value in bad:
        store.set(setting, value)
        assert store.get(setting) == setting.default
        assert not setting.fits(value)


def test_unsaved_settings_of_a_window_win_over_the_file(tmp_path):
    behind = Settings(tmp_path / "window.ini")
    behind.set(Kept.EVERY, 12)
    remembered = Remembered(behind)
    assert (remembered.get(Kept.EVERY), Remembered().get(Kept.EVERY)) == (12, 6)
    remembered.set(Kept.EVERY, 20)
    assert (remembered.get(Kept.EVERY), behind.get(Kept.EVERY)) == (20, 12)
