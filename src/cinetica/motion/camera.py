"""The camera that follows the body (docs/model.md, section 9)."""

from __future__ import annotations

import math

from cinetica.model.parameters import code
from cinetica.model.tune import Follow, FollowHeight, Form
from cinetica.motion.compiling import compiled
from cinetica.motion.intent import length
from cinetica.motion.records import SLACK

STILL, LOCKED, CONSTANT = code(Follow.NONE), code(Follow.LOCKED), code(Follow.CONSTANT)
EXACT = code(Form.EXACT)
ON_GROUND = code(FollowHeight.GROUNDED)


@compiled
def beyond(error, window):
    """The part of an error outside a window of this size centred on 0."""
    if error > 0.5 * window:
        return error - 0.5 * window
    if error < -0.5 * window:
        return error + 0.5 * window
    return 0.0


@compiled
def is_new_length(s, h):
    """Whether this tick is not as long as the one before, whose shares are cached."""
    return h != s.share_h


@compiled
def follow(s, p, h):
    """Move the camera toward position + lead, as far as that is outside its window.

    The lead itself follows look_ahead·v.
    """
    if is_new_length(s, h):
        # The exponential is the slowest part here, and most ticks are as long as the previous one.
        s.share_h = h
        s.lead_share = 1.0 - math.exp(-p.look_ahead_rate * h)
        s.follow_share = 1.0 - math.exp(-p.follow_rate * h)
    s.lead_x += (p.look_ahead * s.row_vx - s.lead_x) * s.lead_share
    s.lead_y += (p.look_ahead * s.row_vy - s.lead_y) * s.lead_share
    if p.follow == STILL:
        return
    error_x = beyond(s.x + s.lead_x - s.camera_x, p.window_width)
    error_y = beyond(s.y + s.lead_y - s.camera_y, p.window_height)
    if p.follow_height == ON_GROUND and not p.top_view:
        below = s.y < s.camera_y - 0.5 * p.window_height - SLACK
        if not (s.grounded or s.climbing or below):
            error_y = 0.0
    if p.follow == LOCKED:
        share = 1.0
    elif p.follow == CONSTANT:
        gap = length(error_x, error_y)
        share = p.follow_speed * h / gap if gap > p.follow_speed * h + SLACK else 1.0
    elif p.follow_form == EXACT:
        share = s.follow_share
    else:
        share = min(1.0, p.follow_rate * h)
    s.camera_x += error_x * share
    s.camera_y += error_y * share


@compiled
def camera_of_row(s, p, h):
    """Step 12 of a tick.

    A camera locked to the body, without a window or a lead, is where the body is.
    """
    if p.on_body:
        s.camera_x, s.camera_y, s.lead_x, s.lead_y = s.x, s.y, 0.0, 0.0
    else:
        follow(s, p, h)


@compiled
def look_at_shown(s, p, h):
    """Follow the body as the row shows it."""
    x, y = s.x, s.y
    s.x, s.y = s.shown_x, s.shown_y
    camera_of_row(s, p, h)
    s.x, s.y = x, y
