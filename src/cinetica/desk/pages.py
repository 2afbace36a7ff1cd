"""The pages of the window, in order, one entry each. A new page is one folder and one entry here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from cinetica.desk.actions.catalogue import ACTIONS
from cinetica.desk.compare.page import ComparePage
from cinetica.desk.page import Page, PageContext


@dataclass(frozen=True)
class Entry:
    """One page.

    `action`: the id of the action that shows it (`actions/catalogue.py`); `make` is called when it is first shown.
    """

    action: str
    make: Callable[[PageContext], Page]

    @property
    def words(self) -> str:
        """The label of its button."""
        return ACTIONS[self.action].label

    @property
    def meaning(self) -> str:
        """What the page contains."""
        return ACTIONS[self.action].tip


def _play(context: PageContext) -> Page:
    # Imported on first use, to keep the start fast.
    from cinetica.desk.play.page import PlayPage

    return PlayPage(context.session, channels=context.channels)


def _overview(context: PageContext) -> Page:
    from cinetica.desk.overview.page import OverviewPage

    return OverviewPage(context.session, context.study_runs, context.channels)


def _survey(context: PageContext) -> Page:
    from cinetica.desk.survey.page import SurveyPage

    return SurveyPage(context.session)


PAGES = (
    Entry("compare", lambda context: ComparePage(context.session)),
    Entry("overview", _overview),
    Entry("survey", _survey),
    Entry("play_page", _play),
)
