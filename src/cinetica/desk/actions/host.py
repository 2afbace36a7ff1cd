"""What actions work on: the window, as they see it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from cinetica.desk import look
    from cinetica.desk.actions.commands import Commands
    from cinetica.desk.compare.page import ComparePage
    from cinetica.desk.documents import Documents
    from cinetica.desk.export.exchange import Exchange
    from cinetica.desk.game_link import GameLink
    from cinetica.desk.sheet.panel import Sheet
    from cinetica.desk.side_windows import SideWindows
    from cinetica.desk.state.session import Session
    from cinetica.desk.state.study_runs import StudyRuns
    from cinetica.desk.survey.page import SurveyPage


class Host(Protocol):
    """A window; `window.Window` is one."""

    session: Session
    commands: Commands
    documents: Documents
    exchange: Exchange
    side_windows: SideWindows
    game: GameLink
    study_runs: StudyRuns

    @property
    def page(self) -> ComparePage:
        """The page Compare."""

    @property
    def survey(self) -> SurveyPage:
        """The page Survey."""

    @property
    def sheet(self) -> Sheet:
        """The sheet."""

    def show_match(self) -> None:
        """Show the panel that matches a curve."""

    def show_page(self, action: str) -> None:
        """Show a page."""

    def change_text_size(self, by: int) -> None:
        """Step to a larger or smaller text."""

    def set_look(self, palette: look.Palette) -> None:
        """Set the colours of all windows of this process."""

    def find_command(self) -> None:
        """Search for a command, and run it."""

    def new(self) -> None:
        """Ask for a template and show a new study."""

    def new_window(self) -> None:
        """Show the study in another window."""

    def open_preferences(self) -> None:
        """Show the preferences."""

    def show_about(self) -> None:
        """Show version and licence."""

    def show_help(self) -> None:
        """Show the guide."""

    def close(self) -> bool:
        """Close the window."""

    def quit(self) -> None:
        """Close all windows."""
