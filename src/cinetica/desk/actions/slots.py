"""What each action does."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from cinetica.desk import look
from cinetica.desk.actions.navigation import to_missed, to_number, to_survey
from cinetica.desk.pages import PAGES
from cinetica.model.rescaling import Scope

if TYPE_CHECKING:
    from cinetica.desk.window import Window


Slots = dict[str, Callable[[], object]]


def slots_of(window: Window) -> Slots:
    """What each action of `keys.KEYS` does. The page is looked up when it is done: it changes with the size of text."""
    return {**_of_compare(window), **_of_tunes_and_drills(window), **_of_window(window)}


def _of_compare(window: Window) -> Slots:
    session = window.session
    return {
        "back": lambda: window.page.transport.step(-1),
        "forward": lambda: window.page.transport.step(1),
        "back_ten": lambda: window.page.transport.step(-10),
        "forward_ten": lambda: window.page.transport.step(10),
        "start": lambda: session.set_cursor(0),
        "end": lambda: session.set_cursor(session.last_row),
        "previous_mark": lambda: window.page.transport.to_mark(-1),
        "next_mark": lambda: window.page.transport.to_mark(1),
        "play": lambda: window.page.transport.toggle(),
        "loop": lambda: window.page.transport.loop.toggle(),
        "fit": lambda: window.page.fit(),
        "line_up": lambda: window.page.comparing.next_anchor(),
        "difference": lambda: window.page.comparing.set(differences=not window.page.comparing.differences),
        "part": lambda: window.page.find_divergence(),
        "explain": lambda: window.page.bar.explain.toggle(),
        "table": lambda: window.page.bar.table.toggle(),
        "rates": window.commands.show_rates,
        "course": lambda: window.page.stage.toggle_editing(),
        "hands": lambda: window.page.hands.setFocus(),
        "sheet": lambda: window.sheet.view.to_numbers(),
        "find": lambda: window.sheet.search.setFocus(),
        "in_bodies": lambda: window.sheet.tell_in_bodies(not window.sheet.in_bodies),
        "differing": lambda: window.sheet.differing.toggle(),
        "hold_against": window.commands.hold_against,
        "clear_wake": session.clear_wake,
    }


def _of_tunes_and_drills(window: Window) -> Slots:
    commands = window.commands
    return {
        "new_tune": commands.new_tune, "duplicate": commands.duplicate, "rename": commands.rename,
        "tune_note": commands.edit_note,
        "snapshot": commands.snapshot, "put_back": commands.put_back, "reference": commands.make_reference,
        "hide": commands.hide,
        "tune_left": partial(commands.move, -1), "tune_right": partial(commands.move, 1),
        "remove_tune": commands.remove,
        "tune_size": partial(commands.another_size, Scope.TUNE, lambda: window.page.fit()),
        "study_size": partial(commands.another_size, Scope.STUDY, lambda: window.page.fit()),
        "new_drill": partial(commands.new_drill, "side"), "new_drill_above": partial(commands.new_drill, "top"),
        "copy_drill": commands.copy_drill, "rename_drill": commands.rename_drill,
        "drill_note": commands.edit_drill_note,
        "remove_drill": commands.remove_drill, "previous_drill": partial(commands.next_drill, -1),
        "next_drill": partial(commands.next_drill, 1),
        "lay_over": commands.lay_over,
        "take_from": lambda: commands.take_from(window.documents.recent()),
        "drill_length": lambda: window.page.hands.ask_length(),
    }  # fmt: skip


def _of_window(window: Window) -> Slots:
    return {
        **{entry.action: partial(window.show_page, entry.action) for entry in PAGES},
        "missed": partial(to_missed, window), "find_number": partial(to_number, window),
        "survey_this": partial(to_survey, window),
        "new": window.new, "new_window": window.new_window, "open": window.documents.open,
        "save": window.documents.save,
        "save_as": window.documents.save_as,
        "report": window.exchange.save_report, "save_traces": window.exchange.save_traces,
        "save_measures": window.exchange.save_measures,
        "picture_page": lambda: window.exchange.save_picture(window.page, "page"),
        "picture_stage": lambda: window.exchange.save_picture(window.page.stage, "stage"),
        "picture_strips": lambda: window.exchange.save_picture(window.page.below_stage, "curves"),
        "picture_strip": lambda: window.exchange.save_strip(window.page.strips),
        "history": window.side_windows.show_history,
        "decided": lambda: window.side_windows.show_decided(window.study_runs), "milestone": window.commands.milestone,
        "hand_over": partial(window.commands.hand_over, 0),
        "import_numbers": partial(window.commands.hand_over, 1),
        "proof": lambda: window.exchange.write_proof(window.commands.tune),
        "import_log": window.exchange.import_log, "remove_log": window.exchange.remove_log,
        "settings": window.open_preferences,
        "night": lambda: window.set_look(look.DAY if look.worn() is look.NIGHT else look.NIGHT),
        "larger": partial(window.change_text_size, 1), "smaller": partial(window.change_text_size, -1),
        "help": window.show_help, "quit": window.close,
    }  # fmt: skip
