"""One tick run again under observation: every rule of the kernel that was called, and what it changed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.model.laws import Law
from cinetica.motion import (
    camera,
    climb,
    contact,
    dash,
    displacement,
    drive,
    dropping,
    facing,
    gravity,
    intent,
    jump,
    shoves,
    slopes,
    step,
    walls,
    zones,
)
from cinetica.motion.compiling import copy_of, watched_by
from cinetica.motion.simulate import Trace, before_tick
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.phrases import Phrases

Change = NDArray[np.float64]
# The function of each law has the law's name.
LAW_RULES = tuple(getattr(drive, law.value) for law in Law)
# The functions of the kernel whose calls are recorded, in the order of a tick.
RULES: dict[str, Callable[..., Any]] = {
    rule.__name__: rule
    for rule in (
        zones.feel_zones, shoves.shove, intent.intend, shoves.stun, dropping.drop, jump.arm, jump.arm_with_timers,
        climb.climb, dash.dash, jump.launch, walls.jump_off_wall, jump.jump_in_air, jump.shorten, jump.cut_again,
        drive.on_slope, *LAW_RULES, drive.drive, gravity.weight, gravity.fall, zones.push_and_drag, walls.slide_down,
        step.travel,
        slopes.pace, contact.step_up, slopes.climb_to, contact.slip, slopes.feel_lines, slopes.snap,
        drive.late_friction, dash.end_dash, slopes.seen, contact.show_late, displacement.move,
        facing.face_and_look, camera.follow,
    )
}  # fmt: skip


@dataclass(frozen=True)
class Call:
    """A call of a rule during the tick: its arguments and result, and the state before and after it."""

    rule: str
    arguments: tuple[Any, ...]
    result: Any
    before: Any
    after: Any

    @property
    def change(self) -> Change:
        """The change of vx, vy, x and y."""
        return np.array([float(self.after[name]) - float(self.before[name]) for name in ("vx", "vy", "x", "y")])


class Tick:
    """One tick that was run under observation."""

    def __init__(self, trace: Trace, row: int, units: DisplayUnits = OURS) -> None:
        """Run the tick that ends in `row`; `units` are those of the explanation."""
        self.say = Phrases(units)
        moment = before_tick(trace, row)
        self.trace, self.s, self.p, self.dt, self.hand = trace, moment.s, moment.p, moment.dt, moment.hand
        # The length of the tick for the drive and gravity, and for the displacement.
        self.h = 1.0 / self.p.reference_rate if self.p.time_base in (step.PER_FRAME, step.MIXED) else self.dt
        self.moves_for = self.dt if self.p.time_base == step.MIXED else self.h
        self.top_view = bool(self.p.top_view)
        self.calls: list[Call] = []
        self.began = copy_of(self.s)
        with watched_by(self._watch):
            step.tick(self.s, self.p, moment.hand, moment.ground, moment.dt)

    def _watch(self, function: Callable[..., Any], arguments: tuple[Any, ...]) -> Any:
        if function.__name__ not in RULES:
            return function(*arguments)
        before = copy_of(self.s)
        result = function(*arguments)
        self.calls.append(Call(function.__name__, arguments, result, before, copy_of(self.s)))
        return result

    def calls_of(self, *rules: str) -> list[Call]:
        """The calls of these rules."""
        return [call for call in self.calls if call.rule in rules]

    @property
    def airborne(self) -> bool:
        """Whether the body is in the air after the impulses."""
        return not self.began.grounded or bool(self.s.launched)

    @property
    def tick_words(self) -> str:
        """The length of the tick for the drive and gravity, in words."""
        words = self.say.duration(self.h)
        return f"{words} of the reference rate" if self.p.time_base == step.MIXED else words
