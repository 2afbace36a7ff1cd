"""The pages of the window, in order, one entry each. A new page is one folder and one entry here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from cinetica.desk.actions.catalogue import ACTIONS
from cinetica.desk.compare.page import ComparePage
from cinetica.desk.page import Page

if TYPE_CHECKING:
    from cinetica.desk.workspace import Workspace


@dataclass(frozen=True)
class Entry:
    """One page.

    `action`: the id of the action that shows it (`actions/catalogue.py`); `make` is called when it is first shown.
    """

    action: str
    make: Callable[[Workspace], Page]

    @property
    def words(self) -> str:
        """The label of its button."""
        return ACTIONS[self.action].label

    @property
    def meaning(self) -> str:
        """What the page contains."""
        return ACTIONS[self.action].tip


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
    Entry("compare", lambda desk: ComparePage(desk.session)),
    Entry("overview", _overview),
    Entry("survey", _survey),
    Entry("play_page", _play),
)
