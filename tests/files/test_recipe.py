"""The recipe of a tick: each sentence appears for the tunes that need it, with their numbers, and for no others."""

import pytest

from cinetica.files.recipe import recipe
from cinetica.files.tables import table_csv
from cinetica.model.clock import Clock
from cinetica.model.conventions import Angle, Conventions, Per, Turn, Zero
from cinetica.model.game_units import words
from tests.builders import make_drill, make_tune

CLOCK = Clock()
PER_FRAME = Conventions(pixels_per_unit=10, y_down=True, per=Per.FRAME, rate=50)
NET, BOARD, SLOPE = {"climb": [(1, 0, 4, 3)]}, {"oneway": [(0, 1, 4, 1.5)]}, {"slopes": [(2, 0, 4, 1)]}

# Changes to the tune and its drill, the step, a sentence of it, and whether it appears.
SENTENCES = [
    ("side", {}, {}, "Once", "h, the length of a tick, is 1/60 s.", True),
    ("side", {"stepping__time_base": "frames", "stepping__reference_rate": 40}, {}, "Once", "is 1/40 s.", True),
    ("side", {"stepping__time_base": "frames"}, {}, "Once", "whatever the machine's rate", True),
    ("side", {}, {}, "Once", "whatever the machine's rate", False),
    ("side", {"stepping__time_base": "mixed", "stepping__reference_rate": 30}, {}, "Once", "h is 1/30 s instead", True),
    ("side", {}, {}, "Once", "instead, whatever the length", False),
    ("side", {}, {}, "Once", "y points up; below, “up” is the direction +y.", True),
    ("side", {"input__latency": 3}, {}, "Read the hands", "counts 3 ticks later", True),
    ("side", {}, {}, "Read the hands", "ticks later", False),
    ("side", {}, {}, "Read the hands", "If pressed: since_press = 0", True),
    ("top", {}, {}, "Read the hands", "If pressed", False),
    ("top", {"input__opposed": "latest"}, {}, "From the hands", "the one pressed last wins", True),
    ("top", {"input__opposed": "cancel"}, {}, "From the hands", "both held give 0", True),
    ("top", {"input__key_attack": 0.2}, {}, "From the hands", "climbs to ±1 in 0.2 s and falls to 0 in 0", True),
    ("top", {"input__key_release": 0.3}, {}, "From the hands", "falls to 0 in 0.3 s (0: at once)", True),
    ("top", {}, {}, "From the hands", "It does not jump", False),
    ("top", {"input__key_attack": 0.2, "input__key_reverse_reset": True}, {}, "From the hands", "On a reversal", True),
    ("top", {"input__key_attack": 0.2}, {}, "From the hands", "On a reversal", False),
    ("top", {"input__dead_zone": 0.2, "input__outer_zone": 0.1}, {}, "From the hands",
     "on its length: m up to 0.2 is 0, from 0.9 on it is 1", True),
    ("top", {"input__dead_zone_shape": "axial"}, {}, "From the hands", "A stick, on each axis alone", True),
    ("top", {"input__dead_zone_shape": "none"}, {}, "From the hands", "A stick", False),
    ("top", {"input__dead_zone_rescale": False}, {}, "From the hands", "between them m itself", True),
    ("top", {"input__curve": 2.5}, {}, "From the hands", "raised to the power 2.5", True),
    ("top", {}, {}, "From the hands", "raised to the power", False),
    ("top", {"input__response": ((0.0, 0.0), (0.5, 0.25), (1.0, 1.0))}, {}, "From the hands",
     "Its length becomes that of the curve", True),
    ("top", {}, {}, "From the hands", "that of the curve", False),
    ("top", {"input__diagonal": "normalized"}, {}, "From the hands", "is always made 1 long. That is w.", True),
    ("top", {"drive__law": "steer"}, {}, "From the hands", "two controls, each for itself", True),
    ("top", {"input__axis_ratio": 0.5, "input__axis_ratio_order": "before"}, {}, "From the hands",
     "Its y is times 0.5, before that.", True),
    ("top", {"input__view_yaw": 45}, {}, "From the hands", "It is turned by 45°.", True),
    ("top", {"input__view_yaw": 45, "input__view_pitch": 30, "input__view_flatten": False}, {}, "From the hands",
     "It is turned by 45°, and its forward part is times cos 30°.", True),
    ("top", {"input__view_yaw": 45, "input__view_pitch": 30, "input__view_flatten": True}, {}, "From the hands",
     "It is turned by 45°.", True),
    ("side", {"climb__climb_lock": 0.25}, NET, "Climb",
     "goes over 0.5: it holds on, unless it let go by a jump less than 0.25 s ago", True),
    ("side", {"climb__hold": "held", "climb__climb_speed": 3}, NET, "Climb", "is over 0.5: it holds on", True),
    ("side", {"climb__climb_speed": 3}, NET, "Climb", "v = 3.0 u/s · w", True),
    ("side", {}, {}, "Climb", "", False),
    ("side", {"contact__drop_through": "down"}, BOARD, "Drop through",
     "alone, and down is held: those at its feet", True),
    ("side", {"contact__drop_through": "down"}, BOARD, "Drop through", "That press is used up", False),
    ("side", {"contact__drop_through": "down_jump"}, BOARD, "Drop through", "That press is used up", True),
    ("side", {"contact__drop_through": "down", "contact__ground_probe": 0.1}, BOARD, "Drop through",
     "those at, or within 0.1 u under, its feet", True),
    ("side", {"contact__drop_through": "down"}, {}, "Drop through", "", False),
    ("side", {"jump__buffer": 0.12}, {}, "Launch", "while since_press ≤ 0.12 s.", True),
    ("side", {"jump__repeat": "hold"}, {}, "Launch", "Held jump on the ground launches, too.", True),
    ("side", {"jump__repeat": "press"}, {}, "Launch", "Held jump", False),
    ("side", {"jump__coyote": 0.08}, {}, "Launch", "if since_ground ≤ 0.08 s and nothing has launched", True),
    ("side", {"jump__spend_press": False}, {}, "Launch", "A launch leaves the press armed", True),
    ("side", {}, {}, "Launch", "A launch leaves the press armed", False),
    ("side", {"jump__spend_grace": False}, {}, "Launch", "and nothing has launched", False),
    ("side", {"jump__jump_speed": 11, "jump__run_boost": 0.25}, {}, "Launch", "v.up = 11.0 u/s + 0.25 · |v.x|;", True),
    ("side", {"jump__jump_speed": 11}, {}, "Launch", "v.up = 11.0 u/s; the jump", True),
    ("side", {"jump__air_jumps": 2, "jump__air_jump_speed": 9}, {}, "Launch",
     "fewer than 2 air jumps are used: v.up = 9.0 u/s", True),
    ("side", {"jump__air_jumps": 0}, {}, "Launch", "air jumps", False),
    ("side", {"jump__buffered_release": "full"}, {}, "Launch", "passes for held", True),
    ("side", {"jump__short_hop": "cut", "jump__cut_factor": 0.4, "jump__min_hold": 0.05}, {}, "Short hop",
     "jump is not held and since_launch ≥ 0.05 s and v.up > 0, once: v.up = 0.4 · v.up", True),
    ("side", {"jump__short_hop": "cap", "jump__cap_speed": 3}, {}, "Short hop", "v.up = min(v.up, 3.0 u/s)", True),
    ("side", {"jump__short_hop": "cut", "jump__min_hold": 0}, {}, "Short hop", "since_launch ≥", False),
    ("side", {"jump__short_hop": "none"}, {}, "Short hop", "The hop also closes", False),
    ("side", {"drive__top_speed": 8, "drive__modifier_speed": 0.5}, {}, "Drive", "S = 8.0 u/s, times 0.5 while", True),
    ("side", {"drive__air_control": 0.7, "drive__air_friction": 1}, {}, "Drive",
     "In the air accelerations are times 0.7, frictions times 1.", True),
    ("side", {"drive__air_control": 1, "drive__air_friction": 0.2}, {}, "Drive", "frictions times 0.2.", True),
    ("side", {"drive__air_control": 1, "drive__air_friction": 1}, {}, "Drive", "In the air", False),
    ("top", {}, {}, "Drive", "In the air", False),
    ("top", {"drive__axes": "separate"}, {}, "Drive", "Each axis by itself.", True),
    ("top", {"drive__axes": "joined"}, {}, "Drive", "Each axis by itself.", False),
    ("side", {"drive__friction_curve": ((0.0, 2.0), (1.0, 1.0))}, {}, "Drive", "Friction is times the curve", True),
    ("side", {}, {}, "Drive", "times the curve", False),
    ("top", {"drive__law": "push"}, {}, "Drive", " Then it is cut to S.", True),
    ("top", {"drive__law": "push", "drive__cap_step": "before"}, {}, "Drive", "Then it is cut", False),
    ("top", {"drive__law": "push", "drive__cap_step": "before"}, {}, "Drive", "cut to S, and not afterwards.", True),
    ("side", {"gravity__gravity": 33}, {}, "Gravity", "g = 33.0 u/s²", True),
    ("top", {}, {}, "Gravity", "", False),
    ("side", {"gravity__fall_factor": 1.5}, {}, "Gravity", "Times 1.5 while v.up < 0.", True),
    ("side", {"gravity__fall_factor": 1}, {}, "Gravity", "while v.up < 0.", False),
    ("side", {"gravity__fast_fall_factor": 2}, {}, "Gravity", "Times 2 while v.up < 0 and down is held.", True),
    ("side", {"gravity__apex_speed": 2, "gravity__apex_factor": 0.5}, {}, "Gravity",
     "Times 0.5 in the air while jump is held and |v.up| < 2.0 u/s", True),
    ("side", {"gravity__apex_speed": 0, "gravity__apex_factor": 0.5}, {}, "Gravity", "in the air while", False),
    ("side", {"gravity__apex_speed": 2, "gravity__apex_factor": 1}, {}, "Gravity", "in the air while", False),
    ("side", {"jump__short_hop": "heavy", "jump__heavy_factor": 3}, {}, "Gravity",
     "Times 3 while the hop is open, v.up > 0", True),
    ("side", {"jump__short_hop": "sustain", "jump__sustain_factor": 0.2, "jump__sustain_time": 0.3}, {}, "Gravity",
     "Times 0.2 while the hop is open and since_launch < 0.3 s", True),
    ("side", {"jump__launch_gravity": False}, {}, "Gravity", "None in the tick of a launch.", True),
    ("side", {"jump__launch_gravity": True}, {}, "Gravity", "None in the tick of a launch.", False),
    ("side", {"jump__coyote_float": True}, {}, "Gravity", "None while a coyote jump", True),
    ("side", {"gravity__terminal_speed": 20}, {}, "Gravity", "falls no faster than 20.0 u/s", True),
    ("side", {"gravity__terminal_speed": 0}, {}, "Gravity", "falls no faster", False),
    ("side", {"body__width": 0.5, "body__height": 1.5}, {}, "Move", "The body is 0.5 u wide and 1.5 u high.", True),
    ("side", {"stepping__integrator": "midpoint"}, {}, "Move", "(old v + new v)/2 · h", True),
    ("side", {"contact__sweep": "stepped"}, {}, "Move", "it goes there, and where it overlaps, back out", True),
    ("side", {"contact__sweep": "none"}, {}, "Move", "A blocked axis", False),
    ("side", {"contact__wall": "stop"}, {}, "Move", "at a wall both do", True),
    ("side", {"contact__wall": "slide"}, {}, "Move", "A blocked axis loses its velocity.", True),
    ("side", {"contact__head_bump": "keep"}, {}, "Move", "Except under a ceiling", True),
    ("side", {"contact__corner_slip": 0.3}, {}, "Move", "sideways by up to 0.3 u", True),
    ("side", {"contact__corner_slip": 0}, {}, "Move", "Under a corner", False),
    ("side", {"contact__step_height": 0.5}, {}, "Move", "no higher than 0.5 u over the feet", True),
    ("side", {"contact__step_height": 0.5, "contact__sweep": "stepped"}, {}, "Move", "A walk blocked by a face", False),
    ("side", {"contact__step_height": 0}, {}, "Move", "A walk blocked by a face", False),
    ("side", {}, BOARD, "Move", "One-way solids stop only", True),
    ("side", {}, {}, "Move", "One-way solids", False),
    ("side", {"contact__ground_probe": 0.1}, {}, "Move", "touches, or within 0.1 u under, its feet", True),
    ("side", {"contact__ground_probe": 0}, {}, "Move", "a solid touches its feet", True),
    ("top", {}, {}, "Move", "Grounded", False),
    ("side", {}, {}, "Slopes", "", False),
    ("side", {"contact__sweep": "none"}, SLOPE, "Slopes", "", False),
    ("top", {}, SLOPE, "Slopes", "", False),
    ("side", {"slope__slope_pace": "along"}, SLOPE, "Slopes", "cos a times its way across", True),
    ("side", {"slope__slope_pace": "level"}, SLOPE, "Slopes", "goes its whole way across", True),
    ("side", {"slope__uphill_factor": 0.8}, SLOPE, "Slopes", "S is times 0.8 on the way up a slope.", True),
    ("side", {"slope__downhill_factor": 1.2}, SLOPE, "Slopes", "S is times 1.2 on the way down a slope.", True),
    ("side", {"slope__uphill_factor": 1, "slope__downhill_factor": 1}, SLOPE, "Slopes", "S is times", False),
    ("side", {"slope__max_slope": 40}, SLOPE, "Slopes", "Steeper than 40.0 °", True),
    ("side", {"slope__ground_snap": 0.2}, SLOPE, "Slopes", "within 0.2 u under its feet", True),
    ("side", {"slope__ground_snap": 0}, SLOPE, "Slopes", "A walk that leaves", False),
    ("side", {"slope__slope_carry": 0.5}, SLOPE, "Slopes", "0.5 of the rate at which", True),
    ("side", {"slope__slope_carry": 0}, SLOPE, "Slopes", "of the rate at which", False),
    ("side", {"camera__follow": "none"}, {}, "Camera", "stays where the body began", True),
    ("side", {"camera__follow": "locked"}, {}, "Camera", "The camera moves by the error.", True),
    ("side", {"camera__follow": "constant", "camera__follow_speed": 5}, {}, "Camera", "by at most 5.0 u/s · h", True),
    ("side", {"camera__follow": "ease", "camera__follow_rate": 4}, {}, "Camera",
     "by 1 − exp(−4.0 1/s · h) of the error", True),
    ("side", {"camera__follow": "ease", "camera__follow_rate": 4, "camera__follow_form": "linear"}, {}, "Camera",
     "by min(1, 4.0 1/s · h) of the error", True),
    ("side", {"camera__follow": "ease", "camera__look_ahead": 0.3, "camera__look_ahead_rate": 2}, {}, "Camera",
     "goes toward v · 0.3 s by 1 − exp(−2.0 1/s · h)", True),
    ("side", {"camera__follow": "ease", "camera__look_ahead": 0.3}, {}, "Camera", "position + lead − camera", True),
    ("side", {"camera__follow": "ease", "camera__look_ahead": 0}, {}, "Camera", "lead", False),
    ("side", {"camera__follow": "ease", "camera__window_width": 2}, {}, "Camera",
     "outside a window of 2.0 u × 0", True),
    ("side", {"camera__follow": "ease", "camera__window_height": 1}, {}, "Camera", "× 1.0 u around it", True),
    ("side", {"camera__follow": "ease"}, {}, "Camera", "window of", False),
    ("side", {"camera__follow": "ease", "camera__follow_height": "grounded"}, {}, "Camera",
     "Up and down it counts only", True),
    ("top", {"camera__follow": "ease"}, {}, "Camera", "Up and down it counts only", False),
    ("side", {}, {}, "Timers", "since_ground = 0 if grounded", True),
    ("top", {}, {}, "Timers", "", False),
    ("top", {"facing__facing": "direct"}, {}, "Face", "The facing turns: the angle of w.", True),
    ("top", {"facing__facing": "sectors", "facing__sectors": 6}, {}, "Face", "to the nearest of 6 directions", True),
    ("top", {"facing__facing": "ease", "facing__facing_rate": 9}, {}, "Face", "by 1 − exp(−9 · h)", True),
    ("top", {"facing__facing": "constant", "facing__facing_speed": 90}, {}, "Face", "by at most 90° · h", True),
    ("top", {"facing__facing": "direct", "facing__keep_last": False}, {}, "Face", "goes back to 0°", True),
    ("top", {"facing__facing": "direct", "facing__aim": "aim_stick", "facing__aim_hold": 0.5}, {}, "Face",
     "the second stick, or w while that rests (for 0.5 s more its last direction counts)", True),
    ("top", {"facing__facing": "none"}, {}, "Face", "The facing turns", False),
    ("top", {"facing__facing": "ease", "facing__after_release": "finish"}, {}, "Face", "A turn that has begun", True),
    ("top", {"facing__facing": "ease", "facing__after_release": "stop"}, {}, "Face", "A turn that has begun", False),
    ("top", {"facing__facing": "mirror", "facing__after_release": "finish"}, {}, "Face", "A turn that has", False),
    ("top", {"facing__facing": "direct", "facing__aim": "aim_stick", "facing__aim_release": "moves"}, {}, "Face",
     "stays the source until w", True),
    ("top", {"facing__facing": "direct", "facing__aim": "aim_stick"}, {}, "Face", "stays the source", False),
    ("side", {"pose__land_time": 0.2}, {}, "Pose", "for 0.2 s after a landing land", True),
    ("top", {"pose__hold": 0.1}, {}, "Pose", "On the ground run over", True),
    ("top", {"pose__hold": 0.1}, {}, "Pose", "In a dash: dash. Each pose is shown for 0.1 s at least.", True),
    ("side", {"look__look_rate_x": 90, "look__look_modifier": 0.5}, {}, "Face", "its x · 90.0 °/s · h", True),
    ("side", {"look__look_rate_x": 90, "look__look_modifier": 0.5}, {}, "Face",
     "h, times 0.5 while the modifier", True),
    ("side", {"look__look_rate_y": 60, "look__look_modifier": 1}, {}, "Face", "times", False),
    ("side", {"look__look_rate_x": 0, "look__look_rate_y": 0}, {}, "Face", "turns the view", False),
]  # fmt: skip


def steps_of(view, tune, drill, conventions=Conventions()):  # noqa: B008
    made = recipe(make_tune(view, **tune), [make_drill(view=view, **drill)], CLOCK, conventions)
    return {step.title: " ".join(step.rules) for step in made}


@pytest.mark.parametrize(("view", "tune", "drill", "step", "sentence", "there"), SENTENCES)
def test_sentences_appear_for_the_tunes_that_need_them(view, tune, drill, step, sentence, there):
    steps = steps_of(view, tune, drill)
    found = [text for title, text in steps.items() if title.startswith(step)]
    assert (bool(found) and sentence in found[0]) == there, found


def test_per_frame_values_are_in_frames_and_pixels():
    """50 frames per second, 10 px per unit: 8 u/s are 1.6 px a frame, 33 u/s² 0.132 px/frame²; a tick is 5/6 frames."""
    steps = steps_of("side", {"drive__top_speed": 8, "gravity__gravity": 33, "jump__jump_speed": 11}, {}, PER_FRAME)
    assert "h, the length of a tick, is 0.833333 frames" in steps["Once, before the first tick"]
    assert "y points down; below, “up” is the direction −y." in steps["Once, before the first tick"]
    assert steps["Drive: the new velocity"].startswith("S = 1.6 px/frame")
    assert steps["Gravity"].startswith("g = 0.132 px/frame²")
    # The amount, whatever the sign of the game's y.
    assert "v.up = 2.2 px/frame" in steps["Launch"]


@pytest.mark.parametrize(
    ("conventions", "message"),
    [
        (Conventions(), "world units, y up, per second, degrees"),
        (Conventions(pixels_per_unit=2), "2 pixels per unit, y up, per second, degrees"),
        (PER_FRAME, "10 pixels per unit, y down, per frame at 50 per second, degrees"),
        (Conventions(angle=Angle.RADIAN), "world units, y up, per second, radians"),
        (Conventions(zero=Zero.UP), "world units, y up, per second, degrees from up counter-clockwise"),
        (Conventions(turn=Turn.CLOCKWISE), "world units, y up, per second, degrees from right clockwise"),
        (Conventions(y_down=True, zero=Zero.DOWN), "world units, y down, per second, degrees from down clockwise"),
    ],
)
def test_conventions_are_one_line(conventions, message):
    assert words(conventions) == message


def test_a_turning_body_has_its_angles_in_the_unit_of_the_game():
    for angle, unit in ((Angle.DEGREE, "degrees"), (Angle.RADIAN, "radians")):
        page = " ".join(steps_of("top", {"drive__law": "arc"}, {}, Conventions(angle=angle)).values())
        assert f"The game's angles are {unit}; 0 points to the right" in page


def test_a_table_has_a_header_and_no_formulas():
    text = table_csv(("name", "=height"), [("Wren", "-1.5"), ("=1+1", "x")])
    assert text == "name,'=height\nWren,-1.5\n'=1+1,x\n"
