"""What stays open beside the window: the guide, and the history."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QDialog, QWidget

from cinetica.desk import look
from cinetica.desk.state.session import Session

if TYPE_CHECKING:
    from cinetica.desk.dialogs.guide import Guide


class Beside:
    """Each is imported and made when it is first asked for: a start does not wait for it."""

    def __init__(self, session: Session, window: QWidget) -> None:
        self._session, self._window = session, window
        self.history: QDialog | None = None
        self.guide: Guide | None = None

    def show_history(self) -> None:
        from cinetica.desk.dialogs.history import History

        if self.history is None:
            self.history = History(self._session, self._window)
        _show(self.history)

    def show_guide(self, job: str) -> None:
        """At the job in whose title these words stand."""
        from cinetica.desk.dialogs.guide import Guide

        if self.guide is None or self.guide.text_scale != look.text_scale():
            self.guide = Guide(self._window)
        self.guide.to(job)
        _show(self.guide)

    def close(self) -> None:
        for dialog in (self.history, self.guide):
            if dialog is not None:
                dialog.close()


def _show(dialog: QDialog) -> None:
    dialog.show()
    dialog.raise_()
