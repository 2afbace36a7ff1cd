"""A tune on the page, with all that is read off its trace."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from cinetica.model.tune import Tune
from cinetica.motion.simulate import Trace
from cinetica.reading.marks import marked_rows
from cinetica.reading.measures import Reading
from cinetica.reading.reading_off import read_off


@dataclass(frozen=True, eq=False)
class Shown:
    """A tune on the page: its place among those of its view, which gives letter and ink, and its trace."""

    place: int
    tune: Tune
    trace: Trace

    @cached_property
    def readings(self) -> dict[str, Reading]:
        """The figures, read off when they are first asked for: the curves do not wait for them."""
        return read_off(self.trace)

    @cached_property
    def marked(self) -> list[tuple[int, str]]:
        """Row and mark of all that happens."""
        return marked_rows(self.trace)
