"""What became of a press of jump, followed from its row to the landing. Compiled; see `subtick.py`."""

from __future__ import annotations

import numpy as np

from cinetica.motion.compiling import apart, copy_record
from cinetica.motion.jump import HOLD
from cinetica.motion.records import (
    AIR_LAUNCH,
    BUFFERED_LAUNCH,
    CLIMB_OFF,
    CLIMB_ON,
    COYOTE_LAUNCH,
    JUMP_HELD,
    LAND,
    LAUNCH,
    LOST_PRESS,
    PRESS,
    SLACK,
)
from cinetica.reading.facts import again_at, row_at, run_on, state_at, tune_at
from cinetica.reading.subtick import PER_FRAME

OUTCOMES = ("lost", "ground", "coyote", "buffered", "air", "net")
LOST, FROM_GROUND, COYOTE, BUFFERED, IN_AIR, OFF_NET = range(len(OUTCOMES))
# `row`: the row of the press, an input; 0 if no tick sees it. `launch`, `landing`: rows, 0 if there is none. `x`, `y`:
# where it lands, or is at the end of the take.
PRESS_OUTCOME = np.dtype(
    [("row", "i8"), ("outcome", "i8"), ("launch", "i8"), ("landing", "i8"), ("x", "f8"), ("y", "f8")], align=True
)


@apart
def outcome_of(marks):
    """How a launch with these marks came about."""
    if marks & AIR_LAUNCH:
        return IN_AIR
    if marks & CLIMB_OFF:
        return OFF_NET
    if marks & BUFFERED_LAUNCH:
        return BUFFERED
    if marks & COYOTE_LAUNCH:
        return COYOTE
    return FROM_GROUND


@apart
def move_hands(f, place, first, end):
    """Copy the input with the shift at `place`, from one row up to another."""
    for row in range(first, end):
        hand, shifted = f.moved[row], f.shifted[place * f.n.count + row]
        copy_record(f.plain[row], hand)
        hand.jump, hand.pressed, hand.released = shifted.jump, shifted.pressed, shifted.released
        if shifted.jump:
            hand.held += JUMP_HELD


@apart
def last_chance(f, pressed):
    """The row after the last one in which a press of that row can launch or be lost.

    That is when its buffer is over by the actual tick lengths or, where holding jumps again, the end of the take.
    """
    p, count = tune_at(f, 0), f.n.count
    if p.repeat_rule == HOLD:
        return count
    end, waited = pressed, 0.0
    while end < count and waited <= p.buffer + SLACK:
        waited += 1.0 / p.reference_rate if p.time_base == PER_FRAME else row_at(f, end).dt
        end += 1
    return min(count, end + 1)


@apart
def is_over(f, end, expired):
    """Whether a press is settled: it has expired, and holding does not jump again or has ended."""
    return expired and (tune_at(f, 0).repeat_rule != HOLD or not end.jump_held)


@apart
def has_no_effect(f, lost):
    """Whether the press that expires in the row `lost` leads to no launch, not even by holding."""
    for row in range(lost, f.n.count):
        end = row_at(f, row)
        if is_over(f, end, True) or (end.marks & PRESS and row > lost):
            return True
        if end.marks & LAUNCH:
            return False
    return True


@apart
def launches(f, place):
    """Whether the press of the shift at `place` becomes a launch.

    Continues from the saved state, only until the press is used or settled, and saves the state before the press, from
    which a later shift can continue.
    """
    begin, pressed = f.n.kept, f.shift_rows[place]
    if pressed == 0:
        return False
    p = tune_at(f, 0)
    comes = max(begin, pressed)
    pressed += p.latency
    end = last_chance(f, pressed)
    move_hands(f, place, max(0, begin - p.latency), end)
    f.n.moved = True
    copy_record(state_at(f, 1), state_at(f, 0))
    run_on(f, 0, False, comes, begin)
    copy_record(state_at(f, 0), state_at(f, 1))
    f.n.kept = comes
    run_on(f, 0, False, end, comes)
    f.n.moved = False
    expired = False
    for row in range(pressed, end):
        marks = again_at(f, row).marks
        expired = expired or marks & LOST_PRESS != 0
        if (marks & PRESS and row > pressed) or is_over(f, again_at(f, row), expired):
            return False
        if marks & (LAUNCH | AIR_LAUNCH):
            return True
    return False


@apart
def follow(f, result):
    """Find out what became of the press in the row `result.row` of the input.

    It is the first launch after it, unless another press comes first or it expires. Where holding jumps again, an
    expired press still counts while it is held.
    """
    result.outcome = LOST
    result.launch = result.landing = 0
    last = f.n.count - 1
    result.x, result.y = row_at(f, last).x, row_at(f, last).y
    if result.row == 0:
        return
    pressed = result.row + tune_at(f, 0).latency
    expired = False
    for row in range(pressed, f.n.count):
        marks = row_at(f, row).marks
        expired = expired or marks & LOST_PRESS != 0
        if (marks & PRESS and row > pressed) or is_over(f, row_at(f, row), expired):
            return
        if marks & (LAUNCH | AIR_LAUNCH):
            result.outcome, result.launch = outcome_of(marks), row
            break
    if result.launch == 0:
        return
    for row in range(result.launch, f.n.count):
        if row_at(f, row).marks & (LAND | CLIMB_ON) and (row > result.launch or row_at(f, row).marks & LAND):
            result.landing, result.x, result.y = row, row_at(f, row).x, row_at(f, row).y
            return
