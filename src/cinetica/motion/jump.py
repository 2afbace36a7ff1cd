"""Press, launch and short hop (docs/model.md, sections 3 and 4)."""

from __future__ import annotations

from cinetica.model.parameters import code
from cinetica.model.tune import BufferedRelease, CutRepeat, Repeat, ShortHop
from cinetica.motion.compiling import apart, compiled, copy_record, on_stack
from cinetica.motion.records import (
    AIR_LAUNCH,
    BUFFERED_LAUNCH,
    COYOTE_LAUNCH,
    CUT,
    LAUNCH,
    LOST_PRESS,
    MOST_TIMERS,
    SLACK,
)

CUT_HOP, CAP_HOP, HEAVY_HOP, SUSTAIN_HOP = (code(hop) for hop in list(ShortHop)[1:])
FULL = code(BufferedRelease.FULL)
HOLD = code(Repeat.HOLD)
EVERY = code(CutRepeat.EVERY)


@compiled
def holding(s):
    """Whether the button is held, or counts as held because its release was discarded."""
    return s.jump or s.passes_for_held


@compiled
def coyote_left(since_ground, p):
    """Remaining coyote time, in s, this long after leaving the ground; negative when over. `p` has `coyote`."""
    return p.coyote - since_ground


@compiled
def buffer_left(since_press, p):
    """Remaining jump buffer, in s, this long after a press; negative when over. `p` has `buffer`."""
    return p.buffer - since_press


@compiled
def lift_off(s, p, vy):
    """Apply what every launch has in common.

    A button already released makes a short hop, or counts as held until the hop closes.
    """
    s.vy = vy
    # A press that is not used up may launch again; it has launched, so it is not lost.
    s.armed = s.armed and not p.spend_press
    s.press_used = True
    s.since_launch = 0.0
    s.launched = True
    s.hop_open = True
    s.passes_for_held = not s.jump and p.buffered_release == FULL
    if p.spend_grace:
        s.spent = True


@compiled
def arm(s, p, pressed):
    """Remember a press for the jump buffer; one that expires unused is lost."""
    if pressed:
        s.armed, s.press_used = True, False
    elif s.armed and buffer_left(s.since_press, p) < -SLACK:
        s.armed = False
        if not s.press_used:
            s.marks |= LOST_PRESS


@compiled
def arm_with_timers(s, p, pressed):
    """Arm as `arm` does, but with a timer for each press: when one passes `buffer`, what was armed before is lost."""
    # On a copy: what a called function may change could not stay in registers.
    copy = on_stack(s)
    arm_copy_with_timers(copy, p, pressed)
    copy_record(copy, s)


@apart
def arm_copy_with_timers(s, p, pressed):
    """The work of `arm_with_timers`."""
    over, kept = False, 0
    for i in range(s.timers_running):
        if buffer_left(s.elapsed - s.timers[i], p) < -SLACK:
            over = True
        else:
            s.timers[kept] = s.timers[i]
            kept += 1
    if over and s.armed:
        s.armed = False
        if not s.press_used and not pressed:
            s.marks |= LOST_PRESS
    if pressed:
        if kept == MOST_TIMERS:
            # The oldest is forgotten.
            for i in range(1, kept):
                s.timers[i - 1] = s.timers[i]
            kept -= 1
        s.timers[kept] = s.elapsed
        kept += 1
        s.armed, s.press_used = True, False
    s.timers_running = kept


@compiled
def launch(s, p, more):
    """Launch from the ground or within coyote time at jump_speed + run_boost·|vx|.

    From a line slope_carry times the rate at which it rises is added.
    """
    repeats = p.repeat_rule == HOLD and s.jump and s.grounded and not (more and s.stunned)
    wanted = s.armed or repeats
    if wanted and coyote_left(s.since_ground, p) >= -SLACK and not s.spent:
        s.marks |= LAUNCH
        if not s.grounded:
            s.marks |= COYOTE_LAUNCH
        if s.armed and s.since_press > 0.0:
            s.marks |= BUFFERED_LAUNCH
        carried = p.slope_carry * s.rise_rate if s.grounded else 0.0
        lift_off(s, p, p.jump_speed + p.run_boost * abs(s.vx) + carried)


@compiled
def jump_in_air(s, p, pressed):
    """Jump in the air on a press, as often as air_jumps allow."""
    if pressed and s.air_jumps_left > 0:
        s.air_jumps_left -= 1
        s.marks |= AIR_LAUNCH
        lift_off(s, p, p.air_jump_speed)


@compiled
def close_hop(s):
    """End the time in which a release can shorten the hop."""
    s.hop_open = False
    s.passes_for_held = False


@compiled
def shorten(s, p):
    """Apply a release while rising: `cut` multiplies vy, `cap` limits it, `sustain` ends.

    `heavy` acts through gravity.
    """
    if not s.hop_open or holding(s):
        return
    if p.short_hop == SUSTAIN_HOP:
        close_hop(s)
    elif s.since_launch >= p.min_hold - SLACK and s.vy > SLACK:
        if p.short_hop == CUT_HOP:
            s.vy *= p.cut_factor
        elif p.short_hop == CAP_HOP:
            s.vy = min(s.vy, p.cap_speed)
        else:
            return
        s.marks |= CUT
        close_hop(s)


@compiled
def cut_again(s, p, released):
    """Apply a release whenever the body rises, whatever made it rise: `cut` multiplies vy, `cap` limits it."""
    if not released or s.climbing or (s.grounded and not s.launched) or s.vy <= SLACK:
        return
    if p.short_hop == CUT_HOP:
        s.vy *= p.cut_factor
    else:
        s.vy = min(s.vy, p.cap_speed)
    s.marks |= CUT
    close_hop(s)
