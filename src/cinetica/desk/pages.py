"""The pages of the window, in their order: one entry each. A new page is one folder and one entry here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from cinetica.desk.actions.keys import KEYS
from cinetica.desk.compare.page import ComparePage
from cinetica.desk.page import Page

if TYPE_CHECKING:
    from cinetica.desk.workspace import Workspace


@dataclass(frozen=True)
class Entry:
    """`action`: the one that shows the page (`actions/keys.py`); `words`: those of its button; `make` is called when it
    is first shown."""

    action: str
    words: str
    make: Callable[[Workspace], Page]

    @property
    def meaning(self) -> str:
        """What the action says of itself."""
        words = next(meaning for name, _, meaning in KEYS if name == self.action)
        return f"{words[0].upper()}{words[1:]}"


def _play(desk: Workspace) -> Page:
    # What the first picture does not need is loaded when it is asked for.
    from cinetica.desk.play.page import PlayPage

    return PlayPage(desk.session, channels=desk.compare.channels)


def _overview(desk: Workspace) -> Page:
    from cinetica.desk.overview.page import OverviewPage

    return OverviewPage(desk.session, desk.study_runs, desk.compare.channels)


def _survey(desk: Workspace) -> Page:
    from cinetica.desk.survey.page import SurveyPage

    return SurveyPage(desk.session)


PAGES = (
    Entry("compare", "Compare", lambda desk: ComparePage(desk.session)),
    Entry("overview", "Overview", _overview),
    Entry("survey", "Survey", _survey),
    Entry("play_page", "Play", _play),
)
