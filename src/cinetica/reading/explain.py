"""What happened in one tick of a trace: one line for each rule that acted, with its numbers.

The tick is run again as plain Python while its functions are watched, so the kernel itself is explained. The changes of
all lines add up to the change of velocity and position that the trace shows. Each rule's equation is the docstring of
its function, which also fills the table in docs/model.md. Its words are in `rules/`.
"""

from __future__ import annotations

from cinetica.motion.simulate import Trace
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.rules import course, drive, hands, jump, looks
from cinetica.reading.rules.register import COVERED, EXPLAINED, Line, equation
from cinetica.reading.ticks import RULES, Tick

# Imported for their registrations.
PARTS = (hands, jump, drive, course, looks)
__all__ = ["COVERED", "RULES", "Line", "equation", "explain", "rule_of"]

_RULE_OF_GROUP = {
    "input": "intend", "gravity": "weight", "jump": "launch", "climb": "climb", "contact": "move",
    "facing": "face_and_look", "look": "face_and_look", "slope": "on_slope", "camera": "follow",
    "stepping": "travel", "wall": "jump_off_wall", "dash": "dash",
}  # fmt: skip
_RULE_OF_NUMBER = {
    "jump.buffer": "arm", "contact.corner_slip": "slip", "contact.drop_through": "drop",
    "slope.max_slope": "feel_lines", "slope.slope_pace": "pace", "slope.ground_snap": "snap",
    "slope.slope_carry": "seen", "jump.cut_repeat": "cut_again", "drive.friction_step": "late_friction",
    "climb.jump_float": "fall", "drive.stun": "stun", "contact.step_height": "step_up", "contact.late": "show_late",
    "wall.slide_speed": "slide_down", "jump.stale_timer": "arm_with_timers", "jump.air_jumps": "jump_in_air",
    "jump.air_jump_speed": "jump_in_air",
    **{f"jump.{key}": "shorten" for key in ("short_hop", "cut_factor", "cap_speed", "heavy_factor", "sustain_factor",
    "sustain_time", "min_hold")},
}  # fmt: skip


def rule_of(id: str, law: str) -> str:
    """The rule in which a tune's number acts, given the drive law; empty for a number of no rule."""
    if id in _RULE_OF_NUMBER:
        return _RULE_OF_NUMBER[id]
    return law if id.startswith("drive.") else _RULE_OF_GROUP.get(id.partition(".")[0], "")


def explain(trace: Trace, row: int, units: DisplayUnits = OURS) -> list[Line]:
    """The rules that acted in the tick that ends in `row`, in order, with their numbers in these units.

    Empty for row 0, the start, and for logs.
    """
    if trace.logged or not 1 <= row < len(trace):
        return []
    tick = Tick(trace, row, units)
    lines: list[Line] = []
    for call in tick.calls:
        if call.rule in EXPLAINED:
            lines += EXPLAINED[call.rule](tick, call)
    return lines
