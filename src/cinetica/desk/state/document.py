"""The document: the study that is edited, and the edit in progress. Knows no Qt; sessions observe it."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple, Protocol

from cinetica.model.edit_validation import checked
from cinetica.model.study import Study

EMPTY = Study.model_construct(format="cinetica-study", version=1, name="Untitled study")


class Edit(NamedTuple):
    """A finished edit: its name, the study before and after it, and whether it may join the previous edit."""

    name: str
    before: Study
    after: Study
    joins: bool


class Observer(Protocol):
    """Something that is notified of changes to a document."""

    def edit_begun(self, name: str, *, joins: bool) -> None:
        """An edit begins, which may join the previous one; the study is still as before."""

    def study_replaced(self, before: Study) -> None:
        """The study is another one: by an edit, an undo or a redo."""

    def edit_ended(self, edit: Edit | None, *, curves_first: bool) -> None:
        """An edit has ended; None if it changed nothing. `curves_first`: see `Document.end`."""

    def study_loaded(self) -> None:
        """Another study has been loaded."""


class Document:
    """A study with its path.

    Every change goes through `begin`, any number of `show`, and `end`; a drag is one edit, from press to release.
    """

    def __init__(self, study: Study | None = None, path: Path | None = None) -> None:
        self.study, self.path = study or EMPTY, path
        # The study before the last edit, or the one in progress.
        self.before_edit: Study | None = None
        # The study as it was last saved, or else loaded.
        self.saved, self.was_saved = self.study, False
        self._edit: tuple[str, Study] | None = None
        self._observers: list[Observer] = []
        # Those that do not keep the document open.
        self._followers: list[Observer] = []

    def observe(self, observer: Observer, *, follows: bool = False) -> None:
        """Add an observer; with `follows` it does not keep the document open."""
        self._observers.append(observer)
        if follows:
            self._followers.append(observer)

    def forget(self, observer: Observer) -> None:
        """Remove an observer."""
        self._observers.remove(observer)
        if observer in self._followers:
            self._followers.remove(observer)

    @property
    def is_left(self) -> bool:
        """Whether nobody keeps the document open: only followers are left, such as the undo list."""
        return len(self._observers) <= len(self._followers)

    @property
    def is_editing(self) -> bool:
        """Whether an edit is in progress."""
        return self._edit is not None

    def accepts(self, after: Study) -> Study:
        """Return the study after an edit; ValueError if it could not be read again from a file."""
        return checked(self.study, after)

    def begin(self, name: str, *, joins: bool = False) -> None:
        """Begin an edit, ending one in progress."""
        self.end()
        self._edit = (name, self.study)
        self.before_edit = self.study
        for observer in tuple(self._observers):
            observer.edit_begun(name, joins=joins)

    def show(self, study: Study) -> None:
        """Replace the study, within an edit or by undo and redo."""
        if study is self.study:
            return
        before, self.study = self.study, study
        for observer in tuple(self._observers):
            observer.study_replaced(before)

    def end(self, *, joins: bool = False, curves_first: bool = False) -> None:
        """End the edit in progress.

        `joins`: it may become part of the previous edit of the same name. `curves_first`: slow figures are read after
        the curves are painted.
        """
        if self._edit is None:
            return
        name, before = self._edit
        self._edit = None
        edit = None if before == self.study else Edit(name, before, self.study, joins)
        for observer in tuple(self._observers):
            observer.edit_ended(edit, curves_first=curves_first)

    def note_saved(self) -> None:
        """Remember that the study is saved as it is now."""
        self.saved, self.was_saved = self.study, True

    def load(self, study: Study, path: Path | None) -> None:
        """Replace everything with another study."""
        self.study, self.path, self.before_edit = study, path, None
        self.saved, self.was_saved = study, False
        for observer in tuple(self._observers):
            observer.study_loaded()
