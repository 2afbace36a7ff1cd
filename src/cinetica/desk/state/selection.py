"""The part of a document that is shown: the drill, its tunes, the reference, and what is hidden. Without Qt."""

from __future__ import annotations

from cinetica.desk.state.document import Document
from cinetica.model.milestone import Logged
from cinetica.model.study import Drill, Study
from cinetica.model.tune import Tune

# Found once per study: with the study, the drill, its tunes with their places, the reference, and the names by which
# drill and reference were found.
_Found = tuple[Study, Drill | None, list[tuple[int, Tune]], Tune | None, str, str]


class Selection:
    """The choices of one window; they follow the study's names."""

    def __init__(self, document: Document) -> None:
        self.document = document
        self._cached: _Found | None = None
        self.reset()

    def reset(self) -> None:
        """Begin with the first drill of the study, with nothing hidden or overlaid."""
        drills = self.document.study.drills
        self.drill_name, self.overlay = drills[0].name if drills else "", ""
        self._reference = ""
        self._hidden: set[str] = set()
        # What was hidden before a drill that hides tunes by itself.
        self._hidden_before: set[str] | None = None
        self._hide_others()

    @property
    def _found(self) -> _Found:
        found, study = self._cached, self.document.study
        if found is None or not (
            found[0] is study and found[4] is self.drill_name and found[5] is self._reference
        ):  # fmt: skip
            drill = next((drill for drill in study.drills if drill.name == self.drill_name), None)
            tunes = list(enumerate(tune for tune in study.tunes if drill is None or tune.view == drill.view))
            first = tunes[0][1] if tunes else None
            reference = next((tune for _, tune in tunes if tune.name == self._reference), first)
            found = self._cached = (study, drill, tunes, reference, self.drill_name, self._reference)
        return found

    @property
    def drill(self) -> Drill | None:
        """The current drill."""
        return self._found[1]

    @property
    def tunes(self) -> list[tuple[int, Tune]]:
        """The tunes that can run on the drill, each with its place among those of its view."""
        return self._found[2]

    @property
    def reference(self) -> Tune | None:
        """The tune that the others are compared with: the one chosen, or the first."""
        return self._found[3]

    @property
    def logs(self) -> list[Logged]:
        """The game logs of this drill."""
        return [log for log in self.document.study.logs if log.drill == self.drill_name]

    def is_hidden(self, name: str) -> bool:
        """Whether the tune or log of this name is hidden."""
        return name in self._hidden

    def toggle(self, name: str) -> None:
        """Hide a tune or log, or show it again."""
        self._hidden ^= {name}

    def choose_reference(self, name: str) -> None:
        """Make a tune the reference, and show it."""
        self._reference = name
        self._hidden.discard(name)

    def choose_drill(self, name: str) -> None:
        """Make a drill the current one."""
        self.drill_name = name
        self._hide_others()

    def keep_drill(self, before: Study, drill: Drill | None) -> bool:
        """Choose another drill if the current one is gone; returns whether that was necessary.

        It was renamed, removed or not yet there again. The drill at its place is the next best.
        """
        drills = self.document.study.drills
        if self.drill is not None or not drills:
            return False
        place = next((place for place, other in enumerate(before.drills) if other is drill), 0)
        self.drill_name = drills[min(place, len(drills) - 1)].name
        return True

    def _hide_others(self) -> None:
        """On a drill named after a tune, show only that tune and the reference.

        On any other drill, what the user has hidden stays hidden.
        """
        names = [tune.name for _, tune in self.tunes]
        if self.drill_name in names:
            self._hidden_before = self._hidden if self._hidden_before is None else self._hidden_before
            self._reference = names[0]
            self._hidden = {name for name in names[1:] if name != self.drill_name}
        elif self._hidden_before is not None:
            self._hidden, self._hidden_before = self._hidden_before, None
