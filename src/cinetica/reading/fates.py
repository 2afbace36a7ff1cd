"""What became of a press of jump: followed from its row to where the body came down. Compiled; see `within.py`."""

from __future__ import annotations

import numpy as np

from cinetica.motion.compiling import apart, copy_record
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

OUTCOMES = ("lost", "ground", "coyote", "buffered", "air", "net")
LOST, FROM_GROUND, COYOTE, BUFFERED, IN_AIR, OFF_NET = range(len(OUTCOMES))
# `row`: that of the press, given; 0 where no tick sees it. `launch`, `landing`: rows, 0 if there is none. `x`, `y`: of
# the landing, or of the end of the take.
FATE = np.dtype(
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
    """The hands with the shift at `place`, from one row up to another."""
    for row in range(first, end):
        hand, shifted = f.moved[row], f.shifted[place * f.n.count + row]
        copy_record(f.plain[row], hand)
        hand.jump, hand.pressed, hand.released = shifted.jump, shifted.pressed, shifted.released
        if shifted.jump:
            hand.held += JUMP_HELD


@apart
def launches(f, place):
    """Whether the press of the shift at `place` becomes a launch. The run goes on from the state that is kept, and only
    until the press is used or has expired; what is kept then is the state before the press, with which that of a later
    shift goes on."""
    begin, pressed = f.n.kept, f.shift_rows[place]
    if pressed == 0:
        return False
    p = tune_at(f, 0)
    comes = max(begin, pressed)
    pressed += p.latency
    waits = int(p.buffer / max(row_at(f, min(pressed, f.n.count - 1)).dt, SLACK)) + 2
    end = min(f.n.count, pressed + waits + 1)
    move_hands(f, place, max(0, begin - p.latency), end)
    f.n.moved = True
    copy_record(state_at(f, 1), state_at(f, 0))
    run_on(f, 0, False, comes, begin)
    copy_record(state_at(f, 0), state_at(f, 1))
    f.n.kept = comes
    run_on(f, 0, False, end, comes)
    f.n.moved = False
    for row in range(pressed, end):
        marks = again_at(f, row).marks
        if (marks & PRESS and row > pressed) or marks & LOST_PRESS:
            return False
        if marks & (LAUNCH | AIR_LAUNCH):
            return True
    return False


@apart
def follow(f, fate):
    """Write down what became of the press in the row `fate.row` of the hands. It belongs to the first launch after it,
    unless another press comes first."""
    fate.outcome = LOST
    fate.launch = fate.landing = 0
    last = f.n.count - 1
    fate.x, fate.y = row_at(f, last).x, row_at(f, last).y
    if fate.row == 0:
        return
    pressed = fate.row + tune_at(f, 0).latency
    for row in range(pressed, f.n.count):
        marks = row_at(f, row).marks
        if (marks & PRESS and row > pressed) or marks & LOST_PRESS:
            return
        if marks & (LAUNCH | AIR_LAUNCH):
            fate.outcome, fate.launch = outcome_of(marks), row
            break
    if fate.launch == 0:
        return
    for row in range(fate.launch, f.n.count):
        if row_at(f, row).marks & (LAND | CLIMB_ON) and (row > fate.launch or row_at(f, row).marks & LAND):
            fate.landing, fate.x, fate.y = row, row_at(f, row).x, row_at(f, row).y
            return
