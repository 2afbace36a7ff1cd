"""The figures of docs/model.md for rules that are numbers, not choices: a run without the rule beside one with it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from cinetica.files.figures import panels_svg
from cinetica.model.clock import Clock
from cinetica.model.course import Course, Rectangle, Zone
from cinetica.model.parameters import Value
from cinetica.model.study import Drill
from cinetica.model.take import Keys, Moved, Press, Push, Shove, Take
from cinetica.model.tune import Tune
from cinetica.motion.simulate import simulate

FLOOR = Rectangle(-20, -1, 40, 0)
STAIRS = tuple(Rectangle(1 + step, 0, 12, 0.3 + 0.3 * step) for step in range(4))
WALL = Rectangle(1.4, 0, 2, 20)
BOARD = Rectangle(-3, 0, 1, 0.2)
RIGHT = Keys(right=(Press(4, 60),))
AT_WALL = Keys(right=(Press(0, 90),), jump=(Press(14, 30), Press(50, 70)))


@dataclass(frozen=True)
class RuleFigure:
    """What is plotted over what, and each panel's values over those of all; a drill's parts may differ, too."""

    title: str
    up: str
    panels: Mapping[str, Mapping[str, Value]]
    keys: Keys = RIGHT
    across: str = "time"
    first: Mapping[str, Value] = field(default_factory=dict)
    solids: tuple[Rectangle, ...] = (FLOOR,)
    climb: tuple[Rectangle, ...] = ()
    zones: Mapping[str, Zone] = field(default_factory=dict)
    length: int = 60
    start: tuple[float, float] = (0.0, 0.0)
    velocity: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    shoves: tuple[Shove, ...] = ()
    mouse: tuple[Moved, ...] = ()
    stick: tuple[Push, ...] = ()
    view: str = "side"
    tick_rate: float = 60

    def svg(self) -> str:
        """The figure."""
        return panels_svg(self.title, {name: self.curve(name) for name in self.panels}) + "\n"

    def curve(self, name: str) -> Any:
        """The curve of a panel: across, and up."""
        tune = Tune(name="Wren", view=self.view)  # type: ignore[arg-type]
        for id, value in {**self.first, **self.panels[name]}.items():
            tune = tune.put(id, value)
        zones = (self.zones[name],) if name in self.zones else ()
        solids = self.solids if self.view == "side" else ()
        take = Take(length=self.length, keys=self.keys, shoves=self.shoves, mouse=self.mouse, stick=self.stick)
        drill = Drill(
            name="rule", view=self.view, start=self.start, start_velocity=self.velocity.get(name, (0.0, 0.0)),
            course=Course(solids=solids, climb=self.climb, zones=zones), take=take,
        )  # type: ignore[arg-type]  # fmt: skip
        trace = simulate(tune, drill, Clock(tick_rate=self.tick_rate))
        return np.array(trace[self.across], dtype=float), np.array(trace[self.up], dtype=float)


RULE_FIGURES = {
    "start_velocity": RuleFigure(
        "A start in motion", "y", {"at rest": {}, "9 u/s up": {}}, keys=Keys(), velocity={"9 u/s up": (0.0, 9.0)},
    ),
    "jump.spend_press": RuleFigure(
        "A press that is used up, and one that is not", "y",
        {"used up": {}, "not used up": {"jump.spend_press": False}},
        first={"jump.jump_speed": 4.0, "jump.buffer": 0.5}, keys=Keys(jump=(Press(4, 60),)),
    ),
    "jump.stale_timer": RuleFigure(
        "The timer of an old press loses a new one", "y", {"one press": {}, "stale": {"jump.stale_timer": True}},
        first={"jump.buffer": 0.15}, keys=Keys(jump=(Press(2, 4), Press(9, 20))), start=(0.0, 1.6), length=50,
    ),
    "climb.jump_float": RuleFigure(
        "A float after the jump off a net", "y", {"0 s": {}, "0.15 s": {"climb.jump_float": 0.15}},
        keys=Keys(up=(Press(0, 24),), jump=(Press(24, 50),)), climb=(Rectangle(-2, 0.5, 2, 6),), length=80,
    ),
    "drive.cruise_speed": RuleFigure(
        "A speed that is kept without thrust", "speed", {"0 u/s": {}, "3 u/s": {"drive.cruise_speed": 3.0}},
        first={"drive.law": "steer", "drive.friction": 8.0}, keys=Keys(up=(Press(20, 70),)), view="top", length=160,
    ),
    "drive.acceleration_curve": RuleFigure(
        "A drawn acceleration", "vx", {
            "even": {}, "slow at first": {"drive.acceleration_curve": ((0.0, 0.2), (1.0, 2.0))},
            "fast at first": {"drive.acceleration_curve": ((0.0, 2.0), (1.0, 0.2))},
        },
        first={"drive.acceleration": 20.0},
    ),
    "input.response": RuleFigure(
        "A drawn response of the stick", "intent_x",
        {"straight": {}, "gentle, then steep": {"input.response": ((0.0, 0.0), (0.6, 0.2), (1.0, 1.0))}},
        first={"input.dead_zone_shape": "none"}, keys=Keys(), across="input_x",
        stick=tuple(Push(frame, frame / 59, 0.0) for frame in range(60)),
    ),
    "contact.step_height": RuleFigure(
        "Stairs", "y", {"0 u": {}, "0.35 u": {"contact.step_height": 0.35}}, across="x", solids=(FLOOR, *STAIRS),
        first={"drive.top_speed": 5.0},
    ),
    "contact.probe_width": RuleFigure(
        "State over the edge of a board: as wide as the body, and a narrow probe", "state",
        {"0.8 u": {}, "0.2 u": {"contact.probe_width": 0.2}}, solids=(BOARD, Rectangle(-9, -4, 9, -3)),
        start=(0.0, 0.2), first={"drive.top_speed": 2.0, "jump.coyote": 0.0},
    ),
    "contact.probe_rising": RuleFigure(
        "A probe that grounds while rising", "y", {"false": {}, "true": {"contact.probe_rising": True}},
        first={"contact.ground_probe": 0.5}, keys=Keys(jump=(Press(4, 6), Press(7, 30))), length=90,
    ),
    "contact.late": RuleFigure(
        "A landing, and one that is shown late", "y", {"false": {}, "true": {"contact.late": True}},
        keys=Keys(), start=(0.0, 1.2), length=40, tick_rate=20,
    ),
    "contact.pixel": RuleFigure(
        "A landing on whole pixels", "y", {"0 u": {}, "0.25 u": {"contact.pixel": 0.25}}, keys=Keys(),
        start=(0.0, 1.4), length=40,
    ),
    "zones": RuleFigure(
        "Ice, mud and wind", "x", {"none": {}, "ice": {}, "mud": {}, "wind": {}}, keys=Keys(right=(Press(4, 30),)),
        zones={
            "ice": Zone(box=(-9, 0, 30, 4), acceleration=0.2, friction=0.05),
            "mud": Zone(box=(-9, 0, 30, 4), speed=0.4), "wind": Zone(box=(-9, 0, 30, 4), push=(12.0, 0.0)),
        },
    ),
    "shoves": RuleFigure(
        "A shove, and stun after it", "vx", {"0 s": {}, "0.25 s": {"drive.stun": 0.25}}, shoves=(Shove(20, -14, 0),),
    ),
    "wall.slide_speed": RuleFigure(
        "Down a wall", "y", {"0 u/s": {}, "3 u/s": {"wall.slide_speed": 3.0}}, solids=(FLOOR, WALL), keys=AT_WALL,
        length=70,
    ),
    "wall.jump_speed": RuleFigure(
        "Off a wall, without and with a lock", "y", {
            "none": {}, "no lock": {"wall.jump_speed": 13.0, "wall.lock": 0.0},
            "0.2 s": {"wall.jump_speed": 13.0, "wall.lock": 0.2},
        },
        across="x", solids=(FLOOR, WALL), keys=AT_WALL, length=80,
    ),
    "look.mouse_dt": RuleFigure(
        "The same move of a mouse at 30 ticks a second", "look_yaw", {"false": {}, "true": {"look.mouse_dt": True}},
        keys=Keys(), mouse=tuple(Moved(frame, 6, 0) for frame in range(10, 30)), view="top", tick_rate=30,
    ),
    "pose.hysteresis": RuleFigure(
        "Around the speed of a run", "pose", {"0": {"pose.hysteresis": 0.0}, "0.3": {"pose.hysteresis": 0.3}},
        first={"drive.law": "instant", "drive.top_speed": 5.0, "pose.run_above": 3.6, "input.dead_zone_shape": "none"},
        keys=Keys(), stick=tuple(Push(frame, 0.8 if frame // 6 % 2 else 0.6, 0.0) for frame in range(6, 54, 6)),
    ),
}  # fmt: skip
