"""Navigation to where something is: the first missed target, a drill at a figure."""

from __future__ import annotations

from typing import TYPE_CHECKING

from cinetica.model.targets import HOW

if TYPE_CHECKING:
    from cinetica.desk.actions.host import Host


def to_missed(window: Host) -> None:
    """Show the first missed target: its drill, in Compare, at the frames of its figure."""
    verdict, message = window.study_runs.first_missed, window.session.message
    if verdict is None:
        words = window.study_runs.words
        message.emit(f"Targets: {words}." if words else f"No figure has a target yet: {HOW} on one.")
    else:
        to_drill(window, verdict.drill, verdict.tune, verdict.target.measure)
        message.emit(" ".join(verdict.words.split()))


def to_number(window: Host) -> None:
    """Propose a number for the missed target of the selected figure, or else the first."""
    window.study_runs.judge_now()
    verdict = window.sheet.figures.missed or window.study_runs.first_missed
    if verdict is None:
        window.session.message.emit("No target is missed.")
    else:
        window.commands.find_number(verdict)


def to_drill(window: Host, drill: str, tune: str = "", figure: str = "") -> None:
    """Show a drill in Compare, at the last frame of a tune's figure if one is given."""
    session = window.session
    session.choose_drill(drill)
    window.show_page("compare")
    shown = next((each for each in session.shown if each.tune.name == tune), None)
    if shown is not None and figure in shown.readings:
        session.set_cursor(shown.readings[figure].rows[1])
        session.light((tune, figure))


def to_survey(window: Host, number: str = "", tune: str = "") -> None:
    """Show the curve of a tune's number, or of the current cell of the sheet."""
    if not number:
        found = window.sheet.view.current_number
        if found is None:
            window.session.message.emit("Select a number in the sheet first: its curve is drawn.")
            return
        tune, number = found[0].name, found[1].id
    window.show_page("survey")
    window.survey.survey(number, tune)
