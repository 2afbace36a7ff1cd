"""The page Overview: 30 drills and 6 tunes, a number dragged in the sheet, to the cards on the screen, and to all."""

from __future__ import annotations

from typing import NamedTuple

from benchmarks.drags import Taken, closed, number, opened, settle, study_of_six, timed
from cinetica.model.study import Study

DRILLS = 30


class Overviewed(NamedTuple):
    """Seconds: to open the page for the first time, and of each move of the drag."""

    first: float
    taken: Taken


def study_of_thirty() -> Study:
    study = study_of_six()
    side = [drill for drill in study.drills if drill.view == "side"]
    drills = [side[place % len(side)].model_copy(update={"name": f"Drill {place}"}) for place in range(DRILLS)]
    return study.model_copy(update={"drills": tuple(drills)})


def overviewed(count: int = 60) -> Overviewed:
    """Gravity, which moves most of the drills, at three cards across."""
    window = opened(study_of_thirty(), "Drill 2")
    first, _ = timed(lambda: window.show_page("overview"))
    window.overview.cards.set_across(3)
    settle()
    painted, complete = [], []
    for move in number(window, "gravity.gravity", count):
        shown, whole = timed(move)
        painted.append(shown)
        complete.append(whole)
    closed(window)
    return Overviewed(first, Taken(painted, complete))
