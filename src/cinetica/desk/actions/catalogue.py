"""Every action of the window, declared once: id, label, keys, place in the menus, page, and what it does.

Menus, shortcuts, tooltips, the guide's list of keys, the settings and the command search are made from this.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from cinetica.desk import look
from cinetica.desk.actions.navigation import to_missed, to_number, to_survey
from cinetica.model.rescaling import Scope

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from cinetica.desk.actions.host import Host

COMPARE = "compare"


@dataclass(frozen=True)
class Action:
    """One action.

    `label`: as in a menu, with “…” if a dialog follows. `tip`: what it does, in lower case, for tooltips and help.
    `run`: does it, in a window. `keys`: the first is the one shown. `page`: the only page where it applies; empty for
    all.
    """

    id: str
    label: str
    tip: str
    run: Callable[[Host], object]
    keys: tuple[str, ...] = ()
    page: str = ""

    @property
    def sentence(self) -> str:
        """What it does, capitalised."""
        return f"{self.tip[0].upper()}{self.tip[1:]}"


@dataclass(frozen=True)
class Again:
    """An action that is also in a second menu."""

    id: str


@dataclass(frozen=True)
class Menu:
    """A menu or submenu. `&` precedes the letter that opens it with Alt."""

    title: str
    entries: tuple[Action | Again | Menu | None, ...]


# Filled when it opens: the studies that were open last.
RECENT = Menu("Open recent", ())
LINE = None


def _page(id: str) -> Callable[[Host], object]:
    return lambda window: window.show_page(id)


def _picture(of: Callable[[Host], QWidget], name: str) -> Callable[[Host], object]:
    return lambda window: window.exchange.save_picture(of(window), name)


EXPORT_MENU = Menu(
    "Export",
    (
        Action("picture_page", "Picture of the page…", "save the whole page as a picture",
               _picture(lambda window: window.page, "page"), ("Ctrl+Alt+P",)),
        Action("picture_stage", "Picture of the stage…", "save the stage as a picture",
               _picture(lambda window: window.page.stage, "stage"), ("Ctrl+Alt+S",), COMPARE),
        Action("picture_strips", "Picture of the curves…", "save hands, states and curves as a picture",
               _picture(lambda window: window.page.below_stage, "curves"), ("Ctrl+Alt+C",), COMPARE),
        Action("picture_strip", "Picture of one curve…", "save one strip as a picture",
               lambda window: window.exchange.save_strip(window.page.strips), ("Ctrl+Alt+X",), COMPARE),
        LINE,
        Action("save_traces", "Traces as CSV…", "save the traces of this drill as CSV",
               lambda window: window.exchange.save_traces(), ("Ctrl+Alt+T",)),
        Action("save_measures", "Figures as CSV…", "save the figures of every drill as CSV",
               lambda window: window.exchange.save_measures(), ("Ctrl+Alt+M",)),
    ),
)  # fmt: skip
STUDY_MENU = Menu(
    "&Study",
    (
        Action("new", "New…", "begin a new study", lambda window: window.new(), ("Ctrl+N",)),
        Action("open", "Open…", "open a study", lambda window: window.documents.open(), ("Ctrl+O",)),
        RECENT,
        Action("save", "Save", "save the study", lambda window: window.documents.save(), ("Ctrl+S",)),
        Action("save_as", "Save as…", "save the study under another name",
               lambda window: window.documents.save_as(), ("Ctrl+Shift+S",)),
        LINE,
        Action("rename_study", "Rename…", "rename the study", lambda window: window.commands.rename_study()),
        Action("report", "Report…", "write a report: tunes side by side, curves and figures",
               lambda window: window.exchange.save_report(), ("Ctrl+P",)),
        EXPORT_MENU,
        LINE,
        Action("new_window", "New window", "show this study in another window, too: another page, drill or frame",
               lambda window: window.new_window(), ("Ctrl+Alt+N",)),
        Action("duplicate_study", "Duplicate study", "open a copy of this study, under another name",
               lambda window: window.documents.duplicate()),
        Action("close_window", "Close window", "close this window", lambda window: window.close(), ("Ctrl+W",)),
        Action("quit", "Quit", "close all windows", lambda window: window.quit(), ("Ctrl+Q",)),
    ),
)  # fmt: skip
FIND_MENU = Menu(
    "Find",
    (
        Action("find", "Find a number", "find a number in the sheet",
               lambda window: window.sheet.search.setFocus(), ("Ctrl+F",)),
        Action("differing", "Only differences", "show only the rows in which the tunes differ",
               lambda window: window.sheet.differing.toggle(), ("Ctrl+Shift+F",)),
        Action("sheet", "Go to the sheet", "put the focus into the sheet",
               lambda window: window.sheet.view.to_numbers(), ("S",)),
        Action("hands", "Go to the hands", "put the focus into the hands, to edit them by key",
               lambda window: window.page.hands.setFocus(), ("H",), COMPARE),
    ),
)  # fmt: skip
EDIT_MENU = Menu(
    "&Edit",
    (
        # The text and effect of these two depend on the undo list: see state/undo_actions.py.
        Action("undo", "Undo", "undo the last edit", lambda window: window.session.undo(), ("Ctrl+Z",)),
        Action("redo", "Redo", "redo the edit that was undone", lambda window: window.session.redo(),
               ("Ctrl+Shift+Z",)),
        Action("history", "History", "show the history: edits and milestones",
               lambda window: window.side_windows.show_history(), ("Ctrl+Y",)),
        Action("milestone", "Milestone…", "keep all tunes as they are, under a name",
               lambda window: window.commands.milestone(), ("Ctrl+M",)),
        LINE,
        Action("hold_against", "Compare with an earlier state…",
               "compare with the last save, a milestone, snapshots or a file, drawn pale",
               lambda window: window.commands.choose_baseline(), ("Ctrl+Shift+K",)),
        Action("clear_wake", "Clear the pale curves", "clear the pale curves of before",
               lambda window: window.session.clear_wake(), ("Escape",), COMPARE),
        LINE,
        Action("decided", "Notes and targets", "show notes, targets and milestones of the study",
               lambda window: window.side_windows.show_notes_and_targets(window.study_runs), ("Ctrl+Shift+A",)),
        Action("study_size", "Rescale the study…", "rescale the study, or only its world",
               lambda window: window.commands.rescale(Scope.STUDY, lambda: window.page.fit()), ("Ctrl+Shift+U",)),
        FIND_MENU,
        Action("settings", "Settings…", "change the look, autosave and keys",
               lambda window: window.open_preferences(), ("Ctrl+,",)),
    ),
)  # fmt: skip
TUNE_MENU = Menu(
    "&Tune",
    (
        Action("new_tune", "New tune", "add a new tune", lambda window: window.commands.new_tune(), ("Ctrl+T",)),
        Action("duplicate", "Duplicate", "duplicate the tune", lambda window: window.commands.duplicate(), ("Ctrl+D",)),
        Action("rename", "Rename…", "rename the tune", lambda window: window.commands.rename(), ("F2",)),
        Action("tune_note", "Note…", "write a note on the tune", lambda window: window.commands.edit_note(),
               ("Ctrl+I",)),
        Action("tune_size", "Rescale…", "rescale the tune",
               lambda window: window.commands.rescale(Scope.TUNE, lambda: window.page.fit()), ("Ctrl+U",)),
        LINE,
        Action("snapshot", "Snapshot", "keep a copy of the tune as it is now",
               lambda window: window.commands.snapshot(), ("Ctrl+B",)),
        Action("put_back", "Restore the snapshot", "put the snapshot back in place of the tune",
               lambda window: window.commands.put_back(), ("Ctrl+Shift+B",)),
        LINE,
        Action("reference", "Make it the reference", "make the tune the reference",
               lambda window: window.commands.make_reference(), ("Ctrl+R",)),
        Action("hide", "Show or hide", "show or hide the tune", lambda window: window.commands.hide(), ("Ctrl+H",)),
        Menu("Move", (
            Action("tune_left", "To the left", "move the tune to the left",
                   lambda window: window.commands.move(-1), ("Ctrl+Shift+Left",)),
            Action("tune_right", "To the right", "move the tune to the right",
                   lambda window: window.commands.move(1), ("Ctrl+Shift+Right",)),
        )),
        Menu("Match", (
            Action("match", "Match a curve…", "find the numbers that come closest to a curve",
                   lambda window: window.show_match(), ("Ctrl+Alt+A",)),
            Action("read_pictures", "Read off pictures…", "read a curve off pictures, frame by frame",
                   lambda window: window.side_windows.show_pictures(), ("Ctrl+Alt+I",)),
            Action("draw_wanted", "Draw the wanted curve", "draw the wanted curve on strips and stage, or stop drawing",
                   lambda window: window.page.wanted.turn(not window.page.wanted.on), ("Shift+C",), COMPARE),
            Action("free_number", "Let this number move", "let a search move the chosen number of the sheet, or not",
                   lambda window: window.sheet.free_current(), ("Ctrl+Alt+F",)),
        )),
        LINE,
        Action("take_from", "Copy from a study…", "copy tunes and drills from another study",
               lambda window: window.commands.copy_from_study(window.documents.recent()), ("Ctrl+Shift+T",)),
        Action("remove_tune", "Remove", "remove the tune", lambda window: window.commands.remove(), ("Ctrl+Delete",)),
    ),
)  # fmt: skip
DRILL_MENU = Menu(
    "&Drill",
    (
        Action("new_drill", "New, side view", "add a new drill, seen from the side",
               lambda window: window.commands.new_drill("side"), ("Ctrl+Shift+N",)),
        Action("new_drill_above", "New, top view", "add a new drill, seen from above",
               lambda window: window.commands.new_drill("top"), ("Ctrl+Shift+M",)),
        Action("copy_drill", "Duplicate", "duplicate the drill",
               lambda window: window.commands.copy_drill(), ("Ctrl+Shift+D",)),
        Action("rename_drill", "Rename…", "rename the drill",
               lambda window: window.commands.rename_drill(), ("Shift+F2",)),
        Action("drill_note", "Note…", "write a note on the drill",
               lambda window: window.commands.edit_drill_note(), ("Ctrl+Shift+I",)),
        Action("drill_length", "Length…", "change the length of the drill",
               lambda window: window.page.hands.ask_length(), ("Ctrl+L",), COMPARE),
        Action("course", "Edit the course", "edit the course on the stage",
               lambda window: window.page.stage.toggle_editing(), ("C",), COMPARE),
        LINE,
        Action("lay_over", "Overlay a second drill…", "overlay another drill: the reference under other hands",
               lambda window: window.commands.lay_over(), ("Ctrl+Shift+O",), COMPARE),
        Menu("Go to", (
            Action("previous_drill", "Previous drill", "go to the previous drill",
                   lambda window: window.commands.next_drill(-1), ("Ctrl+PgUp",)),
            Action("next_drill", "Next drill", "go to the next drill",
                   lambda window: window.commands.next_drill(1), ("Ctrl+PgDown",)),
        )),
        LINE,
        Again("take_from"),
        Action("remove_drill", "Remove", "remove the drill",
               lambda window: window.commands.remove_drill(), ("Ctrl+Shift+Delete",)),
    ),
)  # fmt: skip
TARGETS_MENU = Menu(
    "Targets",
    (
        Action("missed", "First missed target", "go to the first target that is missed", to_missed, ("Ctrl+J",)),
        Action("find_number", "Find a number for it…", "find a number that meets the missed target", to_number,
               ("Ctrl+Shift+J",)),
        Action("survey_this", "Survey this number", "show figures over the range of the chosen number", to_survey,
               ("Ctrl+Shift+Y",)),
    ),
)  # fmt: skip
LOOK_MENU = Menu(
    "Text and colours",
    (
        Action("night", "Day or night", "change between day and night colours",
               lambda window: window.set_look(look.DAY if look.palette() is look.NIGHT else look.NIGHT), ("F9",)),
        Action("larger", "Larger text", "make the text larger",
               lambda window: window.change_text_size(1), ("Ctrl++", "Ctrl+=")),
        Action("smaller", "Smaller text", "make the text smaller",
               lambda window: window.change_text_size(-1), ("Ctrl+-",)),
    ),
)  # fmt: skip
NUMBERS_MENU = Menu(
    "Numbers",
    (
        Action("units", "Units of the game", "show all numbers in the game's units, or in u and s",
               lambda window: window.session.change_units(), ("U",)),
        Action("all_rules", "All rules", "show rules that are off in the sheet, too, or only those in use",
               lambda window: window.sheet.show_all_rules(not window.sheet.all_rules), ("Shift+U",)),
        Action("in_bodies", "Figures in bodies", "show lengths in body heights and widths, or as they are",
               lambda window: window.sheet.show_in_bodies(not window.sheet.in_bodies), ("B",)),
    ),
)  # fmt: skip
PAGES_OF_VIEW = (
    Action("compare", "Compare", "curves of one drill, frame by frame", _page("compare"), ("F5",)),
    Action("overview", "Overview", "every drill at once", _page("overview"), ("F7",)),
    Action("survey", "Survey", "numbers over their range, windows of a press, reach", _page("survey"), ("F8",)),
    Action("play_page", "Play", "the character in your hands", _page("play_page"), ("F6",)),
)  # fmt: skip
VIEW_MENU = Menu(
    "&View",
    (
        *PAGES_OF_VIEW,
        LINE,
        Action("line_up", "Line up", "line the curves up on start, press, launch, apex or landing",
               lambda window: window.page.comparing.next_anchor(), ("L",), COMPARE),
        Action("difference", "Differences", "draw differences from the reference",
               lambda window: window.page.comparing.set(differences=not window.page.comparing.differences), ("D",),
               COMPARE),
        Action("part", "First difference", "go to the frame in which they first differ, and say why",
               lambda window: window.page.find_divergence(), ("W",), COMPARE),
        Action("explain", "Explain this frame", "explain this frame, rule by rule",
               lambda window: window.page.bar.explain.toggle(), ("E",), COMPARE),
        Action("table", "Frame table", "show the frame table or the curves",
               lambda window: window.page.bar.table.toggle(), ("T",), COMPARE),
        Action("poses", "Poses", "show the poses below the states, and their figures, or hide them",
               lambda window: window.page.toggle_poses(), ("Shift+P",), COMPARE),
        Action("fit", "Fit", "fit the stage and the time axis", lambda window: window.page.fit(), ("F",), COMPARE),
        LINE,
        TARGETS_MENU,
        NUMBERS_MENU,
        LOOK_MENU,
    ),
)  # fmt: skip
LINK_MENU = Menu(
    "Link",
    (
        Action("link", "Link to a game…", "show the link to a running game: its state, and what is asked of it",
               lambda window: window.game.show_panel(), ("Ctrl+Alt+G",)),
        Action("link_turn", "Open or close", "wait for a running game, or close the link",
               lambda window: window.game.turn(), ("Ctrl+Alt+L",)),
        LINE,
        Action("link_play", "Play the take there", "play the hands of this drill in the game, from the drill's start",
               lambda window: window.game.play(), ("Ctrl+Alt+R",)),
        Action("link_reset", "To the start", "put the body of the game at the start of this drill",
               lambda window: window.game.reset(), ("Ctrl+Alt+Home",)),
        Action("link_pause", "Pause or go on", "pause the game, or let it go on",
               lambda window: window.game.pause(), ("Ctrl+Alt+Space",)),
        Action("link_step", "One tick", "run one tick of the game",
               lambda window: window.game.step(), ("Ctrl+Alt+Right",)),
        Action("link_keep", "Keep its run", "keep what the game did as a log on this drill",
               lambda window: window.game.keep(), ("Ctrl+Alt+K",)),
    ),
)  # fmt: skip
GAME_MENU = Menu(
    "&Game",
    (
        Action("hand_over", "Hand over…", "hand the numbers over, in the game's conventions",
               lambda window: window.commands.hand_over("numbers"), ("Ctrl+E",)),
        Action("code", "As code…", "hand the step of the tune over as code, in the game's language",
               lambda window: window.commands.hand_over("code"), ("Ctrl+Alt+E",)),
        Action("proof", "Proof…", "write a proof for the programmer",
               lambda window: window.exchange.write_proof(window.commands.tune), ("Ctrl+Shift+E",)),
        LINE,
        Action("import_numbers", "Import numbers…", "take numbers back from the game",
               lambda window: window.commands.hand_over("import"), ("Ctrl+Shift+V",)),
        Action("import_log", "Import a log…", "lay a curve that the game has logged over ours",
               lambda window: window.exchange.import_log(), ("Ctrl+G",)),
        Action("remove_log", "Remove a log…", "remove a curve that came from the game",
               lambda window: window.exchange.remove_log(), ("Ctrl+Shift+G",)),
        LINE,
        LINK_MENU,
        Action("rates", "Other tick rates…", "compare the tune at 30, 60, 144 ticks/s and through a hitch",
               lambda window: window.commands.show_rates(), ("Ctrl+K",)),
    ),
)  # fmt: skip
HELP_MENU = Menu(
    "Hel&p",
    (
        Action("help", "Guide", "open the guide: jobs step by step, and all keys", lambda window: window.show_help(),
               ("F1",)),
        Action("find_command", "Find a command…", "find any command by its words",
               lambda window: window.find_command(), ("F3",)),
        Action("about", "About Cinetica", "show version and licence", lambda window: window.show_about()),
    ),
)  # fmt: skip
# The menus of the header.
MENUS = (STUDY_MENU, EDIT_MENU, TUNE_MENU, DRILL_MENU, VIEW_MENU, GAME_MENU, HELP_MENU)
# Not in a menu: the transport has buttons for them.
WITHOUT_MENU = (
    Action("back", "One frame back", "go one frame back", lambda window: window.page.transport.step(-1), ("Left",),
           COMPARE),
    Action("forward", "One frame forward", "go one frame forward", lambda window: window.page.transport.step(1),
           ("Right",), COMPARE),
    Action("back_ten", "Ten frames back", "go ten frames back", lambda window: window.page.transport.step(-10),
           ("Shift+Left",), COMPARE),
    Action("forward_ten", "Ten frames forward", "go ten frames forward",
           lambda window: window.page.transport.step(10), ("Shift+Right",), COMPARE),
    Action("start", "First frame", "go to the first frame", lambda window: window.session.set_cursor(0), ("Home",),
           COMPARE),
    Action("end", "Last frame", "go to the last frame",
           lambda window: window.session.set_cursor(window.session.last_row), ("End",), COMPARE),
    Action("previous_mark", "Previous event", "go to the previous event",
           lambda window: window.page.transport.to_mark(-1), ("[",), COMPARE),
    Action("next_mark", "Next event", "go to the next event", lambda window: window.page.transport.to_mark(1), ("]",),
           COMPARE),
    Action("play", "Play or stop", "play or stop the frames", lambda window: window.page.transport.toggle(),
           ("Space",), COMPARE),
    Action("loop", "Loop", "play again and again, or once", lambda window: window.page.transport.loop.toggle(),
           ("R",), COMPARE),
)  # fmt: skip


def _actions(entries: tuple[Action | Again | Menu | None, ...]) -> Iterator[Action]:
    for entry in entries:
        if isinstance(entry, Action):
            yield entry
        elif isinstance(entry, Menu):
            yield from _actions(entry.entries)


# All of them by id, those of the menus first.
ACTIONS = {action.id: action for action in (*_actions(MENUS), *WITHOUT_MENU)}


def actions_of(page: str) -> frozenset[str]:
    """The ids of the actions that apply only on this page."""
    return frozenset(action.id for action in ACTIONS.values() if action.page == page)


def _paths(entries: tuple[Action | Again | Menu | None, ...], above: str) -> Iterator[tuple[str, str]]:
    for entry in entries:
        if isinstance(entry, Action):
            yield entry.id, f"{above} › {entry.label}" if above else entry.label
        elif isinstance(entry, Menu):
            title = entry.title.replace("&", "")
            yield from _paths(entry.entries, f"{above} › {title}" if above else title)


_PATHS = dict((*_paths(MENUS, ""), *_paths(WITHOUT_MENU, "")))


def menu_path(id: str) -> str:
    """Where an action is, such as “Tune › Rename…”; just its label if it is in no menu."""
    return _PATHS[id]
