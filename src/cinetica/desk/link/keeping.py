"""Keeping a run of the linked game: a log on a drill, lined up with the tune that is live, and checked against it."""

from __future__ import annotations

from typing import NamedTuple

from cinetica.desk.link.game_connection import GameConnection
from cinetica.desk.state.session import Session
from cinetica.files.game_csv import Layout, fitted, from_start, logged
from cinetica.files.proof import check_log
from cinetica.files.reading import Refused
from cinetica.link.conventions import COLUMNS, csv_of
from cinetica.model.conventions import Per
from cinetica.model.editing import free_name, with_log
from cinetica.model.milestone import Logged
from cinetica.model.study import Drill, Study
from cinetica.model.text import visible
from cinetica.model.tune import Tune
from cinetica.motion.simulate import simulate

# How far a column may be from the tune's and still follow it, in u or in pixels: what a game that computes in floats
# rounds away is far less.
TOLERANCE = 1e-3


class Kept(NamedTuple):
    """A run as a log, and whether it follows the tune, in words."""

    log: Logged
    verdict: str


def kept_run(connection: GameConnection, session: Session) -> Kept:
    """The run of the game on the current drill; ValueError or Refused with a reason if there is none."""
    drill, tune, study = session.drill, connection.tune, session.study
    if drill is None or connection.link is None:
        raise ValueError("There is no drill, or no link, to keep a run of.")
    frames = connection.frames_on(drill)
    if len(frames) < 2:
        raise ValueError("The game has not run yet since its body was put at a start.")
    text, played = csv_of(frames), bool(frames[0].take)
    layout = _layout(study)
    if tune is not None and tune.view == drill.view and not played and connection.drill_name != drill.name:
        layout = _lined_up(text, layout, study, tune, drill)
    peer = connection.link.peer.name if connection.link.peer else "Game"
    name = free_name(f"{visible(peer)[:60]} on {drill.name}"[:90], [log.name for log in study.logs])
    log = logged(text, layout, name, drill.name)
    if tune is None or tune.view != drill.view:
        return Kept(log, "")
    scale = layout.pixels_per_unit
    checked = check_log(study, tune, drill, text, layout, TOLERANCE * max(1.0, scale))
    return Kept(log, checked.lines[0])


def keep_run(connection: GameConnection, session: Session) -> None:
    """Keep it in the study, and say whether it follows the tune."""
    try:
        kept = kept_run(connection, session)
    except (ValueError, Refused) as error:
        session.refused.emit(str(error))
        return
    if session.alter(f"Keep {kept.log.name}", lambda study: with_log(study, kept.log)):
        session.message.emit(f"“{kept.log.name}” is kept. {kept.verdict}".strip())


def _layout(study: Study) -> Layout:
    """How a run is written in the conventions of a study's game."""
    conventions = study.conventions
    return Layout(
        columns={name: COLUMNS.index(name) for name in ("time", "x", "y", "vx", "vy")},
        pixels_per_unit=conventions.pixels_per_unit, y_down=conventions.y_down,
        per_frame=conventions.per is Per.FRAME, rate=conventions.rate,
    )  # fmt: skip


def _lined_up(text: str, layout: Layout, study: Study, tune: Tune, drill: Drill) -> Layout:
    """The layout with the start and the offset that lay a free run over the tune's, if it is like it."""
    trace = simulate(tune, drill, study.clock)
    found = fitted(text, layout, trace["time"], trace["x"], trace["y"])
    if found.fit is None:
        return from_start(text, layout, drill.start)
    return found.layout
