"""A tune: one complete set of numbers that says how a character moves.

Each parameter is declared here and nowhere else (see `parameters`). The group is the key in a study
file, the section is the place in the sheet.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from typing import Literal, Self, cast

from pydantic import model_validator
from pydantic_core import to_json

from cinetica.model.base import Choice, FrozenModel
from cinetica.model.curves import EVEN, STRAIGHT, Points, Shares
from cinetica.model.identity_cache import cached_by_identity
from cinetica.model.laws import FACING_FREE, LAWS, Law, used
from cinetica.model.parameters import VIEWS, Parameter, Value, When, choice, declared_in, drawn, number, switch, whole
from cinetica.model.text import Name, Note
from cinetica.model.words import unknown

SPEED = (0.0, 1e5)
ACCELERATION = (0.0, 1e7)
RATE = (0.0, 1e5)
FACTOR = (0.0, 1000.0)
SECONDS = (0.0, 60.0)
SIDE = ("side",)
TOP = ("top",)

View = Literal["side", "top"]


class Opposed(Choice):
    """Which of two opposite keys counts."""

    CANCEL = "cancel"
    LATEST = "latest"
    FIRST = "first"


class DeadZone(Choice):
    """The shape of the stick's dead zone."""

    NONE = "none"
    AXIAL = "axial"
    RADIAL = "radial"


class Diagonal(Choice):
    """How diagonal input is limited."""

    FREE = "free"
    NORMALIZED = "normalized"
    LIMITED = "limited"
    DISC = "disc"


class RatioOrder(Choice):
    """Whether the ratio of the axes applies before or after diagonals are limited."""

    BEFORE = "before"
    AFTER = "after"


class Forward(Choice):
    """Which way is forward."""

    FIXED = "fixed"
    LOOK = "look"


class Axes(Choice):
    """Whether the two axes are driven together or separately."""

    JOINED = "joined"
    SEPARATE = "separate"


class Form(Choice):
    """How a rate acts in a tick."""

    EXACT = "exact"
    LINEAR = "linear"


class ShortHop(Choice):
    """What an early release does to a jump."""

    NONE = "none"
    CUT = "cut"
    CAP = "cap"
    HEAVY = "heavy"
    SUSTAIN = "sustain"


class BufferedRelease(Choice):
    """What a release does to a jump still buffered."""

    SHORT = "short"
    FULL = "full"


class Repeat(Choice):
    """Whether a held button jumps again."""

    PRESS = "press"
    HOLD = "hold"


class Hold(Choice):
    """Whether sustaining needs the original press or any press."""

    PRESS = "press"
    HELD = "held"


class Sweep(Choice):
    """How motion is tested against solids."""

    SWEPT = "swept"
    STEPPED = "stepped"
    NONE = "none"


class Wall(Choice):
    """What a wall does to velocity."""

    SLIDE = "slide"
    STOP = "stop"


class HeadBump(Choice):
    """What a ceiling does to velocity."""

    STOP = "stop"
    KEEP = "keep"


class DropThrough(Choice):
    """Which keys drop through a one-way solid."""

    NONE = "none"
    DOWN = "down"
    DOWN_JUMP = "down_jump"


class CutRepeat(Choice):
    """How often a release shortens a jump."""

    ONCE = "once"
    EVERY = "every"


class FrictionStep(Choice):
    """When friction acts in a tick."""

    BEFORE = "before"
    AFTER = "after"


class CapStep(Choice):
    """When the speed is capped in a tick."""

    AFTER = "after"
    BEFORE = "before"


class TurnBlend(Choice):
    """What is blended where the heading turns toward the stick."""

    ANGLE = "angle"
    SUM = "sum"


class AfterRelease(Choice):
    """What a turn of the facing does when input ends."""

    STOP = "stop"
    FINISH = "finish"


class AimRelease(Choice):
    """What ends the last direction of the second stick."""

    TIME = "time"
    MOVES = "moves"


class DashAim(Choice):
    """Where a dash goes."""

    INTENT = "intent"
    FACING = "facing"
    EIGHT = "eight"


class DashExit(Choice):
    """What is left of the speed when a dash ends."""

    KEEP = "keep"
    TOP = "top"
    STOP = "stop"


class DashTrigger(Choice):
    """What begins a dash."""

    KEY = "key"
    DOUBLE_TAP = "double_tap"


class SlopePace(Choice):
    """How speed is measured on slopes."""

    LEVEL = "level"
    ALONG = "along"


class Follow(Choice):
    """How the camera follows."""

    NONE = "none"
    LOCKED = "locked"
    EASE = "ease"
    CONSTANT = "constant"


class FollowHeight(Choice):
    """When the camera follows up and down."""

    ALWAYS = "always"
    GROUNDED = "grounded"


class FacingRule(Choice):
    """How the facing turns."""

    NONE = "none"
    MIRROR = "mirror"
    DIRECT = "direct"
    SECTORS = "sectors"
    EASE = "ease"
    CONSTANT = "constant"


class Aim(Choice):
    """What the character faces."""

    MOVE = "move"
    AIM_STICK = "aim_stick"


class Integrator(Choice):
    """The order in which velocity and position are updated."""

    VELOCITY_FIRST = "velocity_first"
    POSITION_FIRST = "position_first"
    MIDPOINT = "midpoint"


class TimeBase(Choice):
    """The unit of time in which the game's numbers are kept."""

    SECONDS = "seconds"
    FRAMES = "frames"
    MIXED = "mixed"


FOLLOWS = When("camera.follow", (Follow.LOCKED, Follow.EASE, Follow.CONSTANT))
SOLID = When("contact.sweep", (Sweep.SWEPT, Sweep.STEPPED))
DEAD_ZONE = When("input.dead_zone_shape", (DeadZone.AXIAL, DeadZone.RADIAL))


class Body(FrozenModel):
    """The box that stands for the character."""

    width: float = number(
        0.8, "Body width", "u", (0.001, 1000), (0.2, 3), "How wide the box of the body is.", section="Contact"
    )
    height: float = number(
        1.6,
        "Body height",
        "u",
        (0.001, 1000),
        (0.2, 4),
        "How high the box of the body is; seen from above, how deep.",
        section="Contact",
    )


class Input(FrozenModel):
    """How the player's input becomes the intended direction."""

    opposed: Opposed = choice(
        Opposed.CANCEL,
        "Opposing keys",
        "What happens while left and right, or up and down, are held together.",
        {
            Opposed.CANCEL: "Both together count as no input.",
            Opposed.LATEST: "The key pressed last wins.",
            Opposed.FIRST: "The key pressed first wins.",
        },
        section="Hands",
    )
    key_attack: float = number(
        0,
        "Key attack",
        "s",
        SECONDS,
        (0, 0.5),
        "Time for a held key to reach full input; 0: at once.",
        section="Hands",
    )
    key_release: float = number(
        0,
        "Key release",
        "s",
        SECONDS,
        (0, 0.5),
        "Time for a released key to fall back to no input; 0: at once.",
        section="Hands",
    )
    key_reverse_reset: bool = switch(
        False,
        "Reset on reversal",
        "Whether a key axis drops to 0 first when the opposite key is pressed.",
        section="Hands",
        when=(When("input.key_attack", over=0),),
    )
    dead_zone_shape: DeadZone = choice(
        DeadZone.RADIAL,
        "Dead zone shape",
        "Which part of the stick's travel counts as no input.",
        {
            DeadZone.NONE: "No dead zone: every drift of the stick counts.",
            DeadZone.AXIAL: "Each axis has its own: the stick snaps to the axes.",
            DeadZone.RADIAL: "A round one: the same in all directions.",
        },
        section="Hands",
    )
    dead_zone: float = number(
        0.15,
        "Dead zone",
        "",
        (0, 1),
        (0, 0.6),
        "Stick deflection up to which there is no input.",
        section="Hands",
        when=(DEAD_ZONE,),
    )
    dead_zone_rescale: bool = switch(
        True,
        "Rescale",
        "Whether input starts from 0 at the edge of the dead zone, or jumps to the stick's own value.",
        section="Hands",
        when=(DEAD_ZONE,),
    )
    outer_zone: float = number(
        0.05,
        "Outer zone",
        "",
        (0, 1),
        (0, 0.4),
        "Width of the rim of the stick's travel that counts as full input.",
        section="Hands",
        when=(DEAD_ZONE,),
    )
    curve: float = number(
        1,
        "Stick curve",
        "",
        (0.01, 100),
        (0.3, 4),
        "Power to which the stick's input is raised; over 1 is finer near the middle.",
        section="Hands",
    )
    response: Shares = drawn(
        STRAIGHT,
        "Stick response",
        "What a push of the stick gives, by how far it is pushed; before the power of the stick curve.",
        (1, 1),
        (0, 1),
        section="Hands",
        rare=True,
    )
    diagonal: Diagonal = choice(
        Diagonal.LIMITED,
        "Diagonals",
        "What happens when both axes are pushed together.",
        {
            Diagonal.FREE: "Each axis on its own: diagonals are √2 too fast.",
            Diagonal.NORMALIZED: "Always length 1: half a push is a full one.",
            Diagonal.LIMITED: "Shortened to length 1 only where it is longer.",
            Diagonal.DISC: "The square of the axes is mapped onto a disc.",
        },
        section="Hands",
    )
    axis_ratio: float = number(
        1, "Axis ratio", "×", FACTOR, (0, 2), "Factor on up and down against left and right.", section="Hands"
    )
    axis_ratio_order: RatioOrder = choice(
        RatioOrder.AFTER,
        "Axis ratio order",
        "Whether the ratio acts before or after the rule for diagonals.",
        {
            RatioOrder.BEFORE: "Before: the rule sees the squeezed input.",
            RatioOrder.AFTER: "After: diagonals are squeezed with the rest.",
        },
        section="Hands",
    )
    view_yaw: float = number(
        0, "View yaw", "°", (-360, 360), (-180, 180), "Turn of the view; input turns with it.", section="Hands"
    )
    view_pitch: float = number(
        0,
        "View pitch",
        "°",
        (-90, 90),
        (0, 90),
        "Tilt of the view.",
        section="Hands",
        when=(When("input.view_flatten", (False,)),),
    )
    view_flatten: bool = switch(
        True, "Flatten view", "Whether forward keeps its full length under a tilted view.", section="Hands"
    )
    latency: int = whole(
        0,
        "Latency",
        "ticks",
        (0, 600),
        (0, 12),
        "Delay of all input, in whole ticks.",
        section="Hands",
    )
    view: Forward = choice(
        Forward.FIXED,
        "Forward",
        "Which way is forward.",
        {
            Forward.FIXED: "Always the same way of the world.",
            Forward.LOOK: "Where the look points: input turns with it.",
        },
        section="Hands",
        rare=True,
    )


class Drive(FrozenModel):
    """How the intended direction becomes velocity."""

    law: Law = choice(
        Law.RAMP,
        "Drive law",
        "The rule by which velocity follows input.",
        {law: about.meaning for law, about in LAWS.items()},
        section="Ground",
        only={law: about.views for law, about in LAWS.items() if about.views != VIEWS},
    )
    axes: Axes = choice(
        Axes.JOINED,
        "Axes",
        "Whether the two axes are driven as one vector or each alone.",
        {Axes.JOINED: "As one vector: turns are round.", Axes.SEPARATE: "Each alone: diagonals reach speed sooner."},
        section="Ground",
        views=TOP,
        when=(used("axes"),),
    )
    top_speed: float = number(7, "Top speed", "u/s", SPEED, (0, 20), "Speed at full input.", section="Ground")
    acceleration: float = number(
        50,
        "Acceleration",
        "u/s²",
        ACCELERATION,
        (0, 150),
        "How fast velocity moves toward the wanted one.",
        section="Ground",
        when=(used("acceleration"),),
    )
    friction: float = number(
        60,
        "Friction",
        "u/s²",
        ACCELERATION,
        (0, 150),
        "How fast speed falls when there is no input.",
        section="Ground",
        when=(used("friction"),),
    )
    turn_acceleration: float = number(
        0,
        "Turn acceleration",
        "u/s²",
        ACCELERATION,
        (0, 200),
        "Acceleration while moving against the input; 0 is as acceleration.",
        section="Ground",
        when=(used("turn_acceleration"),),
    )
    rate: float = number(
        12,
        "Ease rate",
        "/s",
        RATE,
        (0, 40),
        "Share of the gap to the wanted velocity closed per second.",
        section="Ground",
        when=(used("rate"),),
        share="drive.form",
    )
    stop_rate: float = number(
        15,
        "Ease stop rate",
        "/s",
        RATE,
        (0, 40),
        "The same when there is no input.",
        section="Ground",
        when=(used("stop_rate"),),
        share="drive.form",
    )
    form: Form = choice(
        Form.EXACT,
        "Ease form",
        "How a rate per second becomes a share per tick.",
        {
            Form.EXACT: "By the exponential: the same at every tick rate.",
            Form.LINEAR: "Rate times tick: changes with the tick rate.",
        },
        section="Ground",
        when=(used("form"),),
    )
    drag: float = number(
        0,
        "Drag",
        "/s",
        RATE,
        (0, 20),
        "Share of the velocity lost per second.",
        section="Ground",
        when=(used("drag"),),
    )
    release_stop: bool = switch(
        False,
        "Stop on release",
        "Whether the character stands still at once when input ends.",
        section="Ground",
        when=(used("release_stop"),),
    )
    modifier_speed: float = number(
        0.5,
        "Modifier speed",
        "×",
        FACTOR,
        (0, 2),
        "Factor on top speed while the modifier key is held.",
        section="Ground",
    )
    air_control: float = number(
        1, "Air control", "×", FACTOR, (0, 2), "Factor on acceleration while in the air.", section="Air", views=SIDE
    )
    air_friction: float = number(
        1,
        "Air friction",
        "×",
        FACTOR,
        (0, 2),
        "Factor on friction while in the air.",
        section="Air",
        views=SIDE,
        when=(used("air_friction"),),
    )
    turn_rate: float = number(
        180,
        "Turn rate",
        "°/s",
        (0, 36000),
        (0, 720),
        "Turn speed at full input.",
        section="Ground",
        views=TOP,
        when=(used("turn_rate"),),
    )
    turn_ease: float = number(
        0,
        "Turn ease",
        "/s",
        RATE,
        (0, 30),
        "How fast the turn speed follows input or, under arc, the heading follows the stick; 0: at once.",
        section="Ground",
        views=TOP,
        when=(used("turn_ease"),),
        share="exact",
    )
    pivot_angle: float = number(
        180,
        "Pivot angle",
        "°",
        (0, 180),
        (0, 180),
        "A turn of the heading by more than this is done at once; 180 is never.",
        section="Ground",
        views=TOP,
        when=(used("pivot_angle"),),
    )
    grip: float = number(
        60,
        "Grip",
        "/s",
        RATE,
        (0, 100),
        "How fast sideways slip dies away.",
        section="Ground",
        views=TOP,
        when=(used("grip"),),
    )
    reverse_factor: float = number(
        0.5,
        "Reverse factor",
        "×",
        FACTOR,
        (0, 1),
        "Factor on top speed when thrusting backward.",
        section="Ground",
        views=TOP,
        when=(used("reverse_factor"),),
    )
    bank_angle: float = number(
        0,
        "Bank angle",
        "°",
        (-180, 180),
        (0, 60),
        "Lean into a turn at full turn speed.",
        section="Ground",
        views=TOP,
        when=(used("bank_angle"),),
    )
    lean_ease: float = number(
        0,
        "Lean ease",
        "/s",
        RATE,
        (0, 30),
        "How fast the lean begins to follow its turn; 0: at once.",
        section="Ground",
        views=TOP,
        when=(used("lean_ease"),),
        share="exact",
    )
    lean_settle: float = number(
        0,
        "Lean settle",
        "/s",
        RATE,
        (0, 30),
        "How fast the body follows that lean; 0: at once.",
        section="Ground",
        views=TOP,
        when=(used("lean_settle"),),
        share="exact",
    )
    friction_step: FrictionStep = choice(
        FrictionStep.BEFORE,
        "Friction acts",
        "Whether friction slows before the body moves or after it.",
        {
            FrictionStep.BEFORE: "Before the move: the way of the tick is shorter already.",
            FrictionStep.AFTER: "After the move: it slides on for one tick at the old speed.",
        },
        section="Ground",
        rare=True,
        when=(used("friction_step"),),
    )
    cap_step: CapStep = choice(
        CapStep.AFTER,
        "Cap acts",
        "Whether the speed is capped after the push is added or before it.",
        {
            CapStep.AFTER: "After the push: top speed is never passed.",
            CapStep.BEFORE: "Before the push: a tick of it comes on top.",
        },
        section="Ground",
        rare=True,
        when=(used("cap_step"),),
    )
    turn_form: Form = choice(
        Form.EXACT,
        "Turn form",
        "How the rates of turn and lean become a share per tick.",
        {
            Form.EXACT: "By the exponential: the same at every tick rate.",
            Form.LINEAR: "Rate times tick: changes with the tick rate.",
        },
        section="Ground",
        rare=True,
        views=TOP,
        when=(used("turn_form"),),
    )
    turn_blend: TurnBlend = choice(
        TurnBlend.ANGLE,
        "Turn blend",
        "What is blended while the heading turns toward the stick.",
        {
            TurnBlend.ANGLE: "The angle: an even turn along the shorter arc.",
            TurnBlend.SUM: "The two directions: slow at first where they are opposed, and no pivot.",
        },
        section="Ground",
        rare=True,
        views=TOP,
        when=(used("turn_blend"),),
    )
    cruise_speed: float = number(
        0,
        "Cruise speed",
        "u/s",
        SPEED,
        (0, 12),
        "Speed along the heading that is kept without thrust.",
        section="Ground",
        rare=True,
        views=TOP,
        when=(used("cruise_speed"),),
    )
    stun: float = number(
        0,
        "Stun",
        "s",
        SECONDS,
        (0, 1),
        "How long input has no effect after a shove.",
        section="Hands",
        rare=True,
    )
    acceleration_curve: Points = drawn(
        EVEN,
        "Acceleration curve",
        "Factor on acceleration, by the speed as a share of top speed.",
        (1000, 1000),
        (0, 2),
        section="Ground",
        rare=True,
        when=(used("acceleration_curve"),),
    )
    friction_curve: Points = drawn(
        EVEN,
        "Friction curve",
        "Factor on friction, by the speed as a share of top speed.",
        (1000, 1000),
        (0, 2),
        section="Ground",
        rare=True,
        when=(used("friction_curve"),),
    )


class Gravity(FrozenModel):
    """What pulls the character down."""

    gravity: float = number(
        40, "Gravity", "u/s²", ACCELERATION, (0, 120), "Downward acceleration.", section="Air", views=SIDE
    )
    fall_factor: float = number(
        1, "Falling gravity", "×", FACTOR, (0, 4), "Factor on gravity while falling.", section="Air", views=SIDE
    )
    apex_speed: float = number(
        0,
        "Apex speed",
        "u/s",
        SPEED,
        (0, 6),
        "Vertical speed below which the apex factor acts while jump is held; 0: never.",
        section="Air",
        views=SIDE,
    )
    apex_factor: float = number(
        1,
        "Apex gravity",
        "×",
        FACTOR,
        (0, 2),
        "Factor on gravity near the top of a held jump.",
        section="Air",
        views=SIDE,
        when=(When("gravity.apex_speed", over=0),),
    )
    fast_fall_factor: float = number(
        1,
        "Fast fall gravity",
        "×",
        FACTOR,
        (1, 4),
        "Factor on gravity while falling with down held.",
        section="Air",
        views=SIDE,
    )
    terminal_speed: float = number(
        0, "Terminal speed", "u/s", SPEED, (0, 40), "Greatest fall speed; 0: none.", section="Air", views=SIDE
    )


class Jump(FrozenModel):
    """The jump, its variable height, and the tolerances around it."""

    jump_speed: float = number(
        14, "Jump speed", "u/s", SPEED, (0, 30), "Upward speed at a launch.", section="Jump", views=SIDE, upward=True
    )
    run_boost: float = number(
        0,
        "Run boost",
        "×",
        FACTOR,
        (0, 1),
        "Share of the running speed added to the jump speed.",
        section="Jump",
        views=SIDE,
    )
    launch_gravity: bool = switch(
        True, "Gravity on launch tick", "Whether gravity acts in the tick of the launch.", section="Jump", views=SIDE
    )
    short_hop: ShortHop = choice(
        ShortHop.CUT,
        "Short hop",
        "How an early release of the button makes a lower jump.",
        {
            ShortHop.NONE: "It does not: every jump is a full one.",
            ShortHop.CUT: "The release multiplies the upward speed once.",
            ShortHop.CAP: "The release limits the upward speed.",
            ShortHop.HEAVY: "Gravity is heavier while rising without the button.",
            ShortHop.SUSTAIN: "Gravity is lighter for a while, as long as the button is held.",
        },
        section="Jump",
        views=SIDE,
    )
    cut_factor: float = number(
        0.5,
        "Cut factor",
        "×",
        FACTOR,
        (0, 1),
        "Factor on the upward speed at the release.",
        section="Jump",
        views=SIDE,
        when=(When("jump.short_hop", (ShortHop.CUT,)),),
    )
    cap_speed: float = number(
        4,
        "Cap speed",
        "u/s",
        SPEED,
        (0, 15),
        "Greatest upward speed after the release.",
        section="Jump",
        views=SIDE,
        when=(When("jump.short_hop", (ShortHop.CAP,)),),
        upward=True,
    )
    heavy_factor: float = number(
        2.5,
        "Heavy factor",
        "×",
        FACTOR,
        (1, 5),
        "Factor on gravity after the release.",
        section="Jump",
        views=SIDE,
        when=(When("jump.short_hop", (ShortHop.HEAVY,)),),
    )
    sustain_time: float = number(
        0.2,
        "Sustain time",
        "s",
        SECONDS,
        (0, 0.6),
        "How long holding the button makes gravity lighter.",
        section="Jump",
        views=SIDE,
        when=(When("jump.short_hop", (ShortHop.SUSTAIN,)),),
    )
    sustain_factor: float = number(
        0,
        "Sustain factor",
        "×",
        FACTOR,
        (0, 1),
        "Factor on gravity during the sustain time.",
        section="Jump",
        views=SIDE,
        when=(When("jump.short_hop", (ShortHop.SUSTAIN,)),),
    )
    min_hold: float = number(
        0,
        "Minimum hold",
        "s",
        SECONDS,
        (0, 0.3),
        "Time after the launch before a release counts.",
        section="Jump",
        views=SIDE,
        when=(When("jump.short_hop", (ShortHop.CUT, ShortHop.CAP, ShortHop.HEAVY)),),
    )
    buffer: float = number(
        0.1,
        "Jump buffer",
        "s",
        SECONDS,
        (0, 0.3),
        "How long before the ground a press is still remembered.",
        section="Edges",
        views=SIDE,
    )
    buffered_release: BufferedRelease = choice(
        BufferedRelease.SHORT,
        "Buffered release",
        "Whether a button released before a buffered launch cuts the jump.",
        {
            BufferedRelease.SHORT: "The release still counts: a short hop.",
            BufferedRelease.FULL: "The release is forgotten: a full jump.",
        },
        section="Edges",
        views=SIDE,
    )
    coyote: float = number(
        0.1,
        "Coyote time",
        "s",
        SECONDS,
        (0, 0.3),
        "How long after leaving the ground a jump is still allowed.",
        section="Edges",
        views=SIDE,
    )
    coyote_float: bool = switch(
        False,
        "Float in coyote time",
        "Whether gravity waits until the coyote time is over.",
        section="Edges",
        views=SIDE,
    )
    spend_grace: bool = switch(
        True,
        "Jump spends grace",
        "Whether a launch ends the coyote time; if not, a second jump is possible.",
        section="Edges",
        views=SIDE,
    )
    repeat: Repeat = choice(
        Repeat.PRESS,
        "Repeat",
        "Whether holding the button jumps again on landing.",
        {
            Repeat.PRESS: "Each jump needs its own press.",
            Repeat.HOLD: "Holding the button jumps again on each landing.",
        },
        section="Jump",
        views=SIDE,
    )
    air_jumps: int = whole(
        0,
        "Air jumps",
        "",
        (0, 1000),
        (0, 4),
        "Jumps allowed in the air before landing again.",
        section="Jump",
        views=SIDE,
    )
    air_jump_speed: float = number(
        12,
        "Air jump speed",
        "u/s",
        SPEED,
        (0, 30),
        "Upward speed of a jump in the air.",
        section="Jump",
        views=SIDE,
        when=(When("jump.air_jumps", over=0),),
        upward=True,
    )
    cut_repeat: CutRepeat = choice(
        CutRepeat.ONCE,
        "Cut acts",
        "Whether only the first release shortens a jump.",
        {
            CutRepeat.ONCE: "Once for each jump.",
            CutRepeat.EVERY: "At every release while rising, whatever made the body rise.",
        },
        section="Jump",
        rare=True,
        views=SIDE,
        when=(When("jump.short_hop", (ShortHop.CUT, ShortHop.CAP)),),
    )
    spend_press: bool = switch(
        True,
        "Launch spends press",
        "Whether a launch uses up its press; if not, one press may launch again and again (a mistake).",
        section="Edges",
        rare=True,
        views=SIDE,
    )
    stale_timer: bool = switch(
        False,
        "Stale press timer",
        "Whether the timer of an old press can cancel a newer one (a mistake): presses are lost now and then.",
        section="Edges",
        rare=True,
        views=SIDE,
    )


class Climb(FrozenModel):
    """Nets and ladders."""

    climb_speed: float = number(
        4, "Climb speed", "u/s", SPEED, (0, 12), "Speed at full input while climbing.", section="Climb", views=SIDE
    )
    climb_jump_speed: float = number(
        10,
        "Climb jump speed",
        "u/s",
        SPEED,
        (0, 30),
        "Upward speed of a jump off the net.",
        section="Climb",
        views=SIDE,
        upward=True,
    )
    climb_lock: float = number(
        0.25,
        "Climb lock",
        "s",
        SECONDS,
        (0, 1),
        "Time after a jump off the net before it can be held again.",
        section="Climb",
        views=SIDE,
    )
    hold: Hold = choice(
        Hold.PRESS,
        "Hold on",
        "What makes the body grab a net.",
        {
            Hold.PRESS: "Up is pushed while the body is over the net.",
            Hold.HELD: "Up is held, for however long.",
        },
        section="Climb",
        views=SIDE,
    )
    jump_float: float = number(
        0,
        "Float after the jump",
        "s",
        SECONDS,
        (0, 0.5),
        "How long no gravity acts after a jump off a net.",
        section="Climb",
        rare=True,
        views=SIDE,
    )


class Contact(FrozenModel):
    """What happens where the body meets the course."""

    sweep: Sweep = choice(
        Sweep.SWEPT,
        "Sweep",
        "How the body's movement is checked against solids.",
        {
            Sweep.SWEPT: "Stops at the first solid in the way, at any speed.",
            Sweep.STEPPED: "Moves first, then is pushed out: fast bodies tunnel.",
            Sweep.NONE: "Overlaps are left as they are, and recorded.",
        },
        section="Contact",
    )
    wall: Wall = choice(
        Wall.SLIDE,
        "Walls",
        "What hitting a wall does to the speed.",
        {
            Wall.SLIDE: "Only the speed into the wall is lost.",
            Wall.STOP: "All of it is lost: a body pushed against a wall hangs there.",
        },
        section="Contact",
        when=(When("contact.sweep", (Sweep.SWEPT, Sweep.STEPPED)),),
    )
    head_bump: HeadBump = choice(
        HeadBump.STOP,
        "Head bump",
        "What a ceiling does to the rise.",
        {
            HeadBump.STOP: "The rise ends at the ceiling.",
            HeadBump.KEEP: "The upward speed is kept: the body hangs under the beam.",
        },
        section="Contact",
        views=SIDE,
        when=(When("contact.sweep", (Sweep.SWEPT, Sweep.STEPPED)),),
    )
    corner_slip: float = number(
        0,
        "Corner slip",
        "u",
        (0, 1000),
        (0, 0.5),
        "Sideways shift allowed to slip past a corner overhead.",
        section="Contact",
        views=SIDE,
        when=(When("contact.sweep", (Sweep.SWEPT,)),),
    )
    ground_probe: float = number(
        0,
        "Ground probe",
        "u",
        (0, 1000),
        (0, 0.3),
        "Height over the ground that still counts as standing.",
        section="Contact",
        views=SIDE,
    )
    drop_through: DropThrough = choice(
        DropThrough.NONE,
        "Drop through",
        "How the body drops through the one-way solids that it stands on.",
        {
            DropThrough.NONE: "It cannot.",
            DropThrough.DOWN: "While down is held.",
            DropThrough.DOWN_JUMP: "On a press of jump while down is held; that press does not jump.",
        },
        section="Contact",
        views=SIDE,
        when=(SOLID,),
    )
    step_height: float = number(
        0,
        "Step height",
        "u",
        (0, 1000),
        (0, 1),
        "The highest step that a walking body goes up without a jump.",
        section="Contact",
        rare=True,
        views=SIDE,
        when=(When("contact.sweep", (Sweep.SWEPT,)),),
    )
    probe_width: float = number(
        0,
        "Probe width",
        "u",
        (0, 1000),
        (0, 2),
        "Width of the part under the feet that has to be over ground to stand; 0: as wide as the body.",
        section="Contact",
        rare=True,
        views=SIDE,
    )
    probe_rising: bool = switch(
        False,
        "Probe while rising",
        "Whether ground within the probe counts while the body still rises (a mistake): it can jump twice.",
        section="Contact",
        rare=True,
        views=SIDE,
    )
    late: bool = switch(
        False,
        "Late contact",
        "Whether a blocked body is shown inside the solid for a frame and put back in the next (a mistake).",
        section="Contact",
        rare=True,
        when=(SOLID,),
    )
    pixel: float = number(
        0,
        "Pixel size",
        "u",
        (0, 1000),
        (0, 0.25),
        "Size of a pixel, where the body stops at a whole pixel before what blocks it; 0: it stops exactly there.",
        section="Contact",
        rare=True,
        when=(SOLID,),
    )


class Walls(FrozenModel):
    """What a body in the air does at a wall."""

    slide_speed: float = number(
        0,
        "Slide speed",
        "u/s",
        SPEED,
        (0, 12),
        "Fastest fall along a wall that the body pushes against; 0: no slide.",
        section="Walls",
        rare=True,
        views=SIDE,
    )
    jump_speed: float = number(
        0,
        "Wall jump speed",
        "u/s",
        SPEED,
        (0, 30),
        "Upward speed of a jump off a wall; 0: none.",
        section="Walls",
        rare=True,
        views=SIDE,
        upward=True,
    )
    jump_away: float = number(
        8,
        "Wall jump away",
        "u/s",
        SPEED,
        (0, 20),
        "Speed away from the wall of such a jump.",
        section="Walls",
        views=SIDE,
        when=(When("wall.jump_speed", over=0),),
    )
    coyote: float = number(
        0.1,
        "Wall coyote time",
        "s",
        SECONDS,
        (0, 0.3),
        "Time after leaving a wall in which a jump off it still works.",
        section="Walls",
        views=SIDE,
        when=(When("wall.jump_speed", over=0),),
    )
    lock: float = number(
        0.15,
        "Wall jump lock",
        "s",
        SECONDS,
        (0, 0.5),
        "Time after a wall jump in which input does not turn the body back.",
        section="Walls",
        views=SIDE,
        when=(When("wall.jump_speed", over=0),),
    )
    probe: float = number(
        0.05,
        "Wall probe",
        "u",
        (0, 1000),
        (0, 0.3),
        "Distance at which the body still counts as being at a wall.",
        section="Walls",
        rare=True,
        views=SIDE,
    )


DASHES = When("dash.speed", over=0)


class Dash(FrozenModel):
    """A short burst at a fixed speed."""

    speed: float = number(
        0, "Dash speed", "u/s", SPEED, (0, 40), "Speed of a dash; 0: none.", section="Dash", rare=True
    )
    time: float = number(
        0.15, "Dash time", "s", SECONDS, (0, 0.5), "How long a dash lasts.", section="Dash", when=(DASHES,)
    )
    cooldown: float = number(
        0.4,
        "Cooldown",
        "s",
        SECONDS,
        (0, 2),
        "Time from the end of a dash until the next can begin.",
        section="Dash",
        when=(DASHES,),
    )
    buffer: float = number(
        0.1,
        "Dash buffer",
        "s",
        SECONDS,
        (0, 0.3),
        "How long a press waits for a dash that is not possible yet.",
        section="Dash",
        when=(DASHES,),
    )
    air_dashes: int = whole(
        1,
        "Air dashes",
        "",
        (0, 100),
        (0, 3),
        "Dashes in the air before the next landing.",
        section="Dash",
        views=SIDE,
        when=(DASHES,),
    )
    aim: DashAim = choice(
        DashAim.INTENT,
        "Dash direction",
        "Where a dash goes.",
        {
            DashAim.INTENT: "Where input points; without input, where the character faces.",
            DashAim.FACING: "Where the character faces.",
            DashAim.EIGHT: "As input points, turned to the nearest of eight directions.",
        },
        section="Dash",
        when=(DASHES,),
    )
    exit: DashExit = choice(
        DashExit.TOP,
        "After the dash",
        "What is left of the speed when a dash ends.",
        {
            DashExit.KEEP: "All of it.",
            DashExit.TOP: "At most top speed.",
            DashExit.STOP: "Nothing: the body stops.",
        },
        section="Dash",
        when=(DASHES,),
    )
    trigger: DashTrigger = choice(
        DashTrigger.KEY,
        "Dash trigger",
        "What begins a dash.",
        {
            DashTrigger.KEY: "A press of the dash key.",
            DashTrigger.DOUBLE_TAP: "Two quick presses of a direction key.",
        },
        section="Dash",
        when=(DASHES,),
    )
    double_tap: float = number(
        0.25,
        "Double tap",
        "s",
        SECONDS,
        (0.1, 0.5),
        "Longest time between the two presses of a double tap.",
        section="Dash",
        when=(DASHES, When("dash.trigger", (DashTrigger.DOUBLE_TAP,))),
    )


class OnSlopes(FrozenModel):
    """How the body moves along slopes."""

    max_slope: float = number(
        50,
        "Steepest walk",
        "°",
        (0, 90),
        (20, 90),
        "The steepest slope that the body walks on; on steeper ones it slides.",
        section="Slopes",
        views=SIDE,
        when=(SOLID,),
    )
    slope_pace: SlopePace = choice(
        SlopePace.ALONG,
        "Pace on slopes",
        "Which way speed is measured on a slope.",
        {
            SlopePace.LEVEL: "Across: the body is faster along the slope than on level ground.",
            SlopePace.ALONG: "Along the slope: as fast as on level ground.",
        },
        section="Slopes",
        views=SIDE,
        when=(SOLID,),
    )
    uphill_factor: float = number(
        1,
        "Uphill factor",
        "×",
        FACTOR,
        (0.3, 1.5),
        "Factor on top speed while walking up a slope.",
        section="Slopes",
        views=SIDE,
        when=(SOLID,),
    )
    downhill_factor: float = number(
        1,
        "Downhill factor",
        "×",
        FACTOR,
        (0.5, 2),
        "Factor on top speed while walking down a slope.",
        section="Slopes",
        views=SIDE,
        when=(SOLID,),
    )
    ground_snap: float = number(
        0.25,
        "Ground snap",
        "u",
        (0, 1000),
        (0, 0.5),
        "How far a walking body is pulled down onto a slope that falls away under it; 0: it leaves it in small hops.",
        section="Slopes",
        views=SIDE,
        when=(SOLID,),
    )
    slope_carry: float = number(
        0,
        "Slope carry",
        "×",
        FACTOR,
        (0, 1),
        "How much of its climb speed on a slope the body keeps in a jump, or off the end.",
        section="Slopes",
        views=SIDE,
        when=(SOLID,),
    )


class Facing(FrozenModel):
    """Where the character looks."""

    facing: FacingRule = choice(
        FacingRule.MIRROR,
        "Facing",
        "How the facing follows the input.",
        {
            FacingRule.NONE: "It never turns.",
            FacingRule.MIRROR: "Right or left, by the sign of the input.",
            FacingRule.DIRECT: "It snaps to the direction of the input.",
            FacingRule.SECTORS: "The nearest of a number of directions.",
            FacingRule.EASE: "A share of the way along the shorter arc.",
            FacingRule.CONSTANT: "At a constant turn speed along the shorter arc.",
        },
        section="Facing",
        when=(FACING_FREE,),
    )
    sectors: int = whole(
        8,
        "Sectors",
        "",
        (1, 360),
        (2, 16),
        "Number of directions.",
        section="Facing",
        when=(
            FACING_FREE,
            When("facing.facing", (FacingRule.SECTORS,)),
        ),
    )
    facing_rate: float = number(
        15,
        "Facing rate",
        "/s",
        RATE,
        (0, 40),
        "Share of the way closed per second.",
        section="Facing",
        when=(
            FACING_FREE,
            When("facing.facing", (FacingRule.EASE,)),
        ),
        share="exact",
    )
    facing_speed: float = number(
        720,
        "Facing speed",
        "°/s",
        (0, 1e6),
        (0, 1440),
        "Turn speed of the facing.",
        section="Facing",
        when=(
            FACING_FREE,
            When("facing.facing", (FacingRule.CONSTANT,)),
        ),
    )
    keep_last: bool = switch(
        True,
        "Keep last facing",
        "Whether facing stays without input; if not, it returns to 0°.",
        section="Facing",
        when=(FACING_FREE,),
    )
    aim: Aim = choice(
        Aim.MOVE,
        "Aim",
        "Which stick the facing follows.",
        {Aim.MOVE: "The one that moves.", Aim.AIM_STICK: "The second one, while it is pushed."},
        section="Facing",
        when=(FACING_FREE,),
    )
    aim_hold: float = number(
        0,
        "Aim hold",
        "s",
        SECONDS,
        (0, 1),
        "How long the facing keeps the second stick's last direction after its release.",
        section="Facing",
        when=(FACING_FREE, When("facing.aim", (Aim.AIM_STICK,))),
    )
    after_release: AfterRelease = choice(
        AfterRelease.STOP,
        "Turn after release",
        "Whether a turn that has begun is finished when input ends.",
        {
            AfterRelease.STOP: "It stops where it is.",
            AfterRelease.FINISH: "It goes on to where the input last pointed.",
        },
        section="Facing",
        rare=True,
        when=(
            FACING_FREE,
            When("facing.facing", (FacingRule.EASE, FacingRule.CONSTANT)),
            When("facing.keep_last", (True,)),
        ),
    )
    aim_release: AimRelease = choice(
        AimRelease.TIME,
        "Aim ends",
        "What ends the second stick's last direction.",
        {
            AimRelease.TIME: "The aim hold alone.",
            AimRelease.MOVES: "After the aim hold, the next move.",
        },
        section="Facing",
        rare=True,
        when=(FACING_FREE, When("facing.aim", (Aim.AIM_STICK,))),
    )


class Pose(FrozenModel):
    """When a character is shown standing, walking or running; it moves alike."""

    walk_above: float = number(
        0.2, "Walk above", "u/s", SPEED, (0, 3), "The speed over which it is shown walking.", section="Poses"
    )
    run_above: float = number(
        4, "Run above", "u/s", SPEED, (1, 12), "The speed over which it is shown running.", section="Poses"
    )
    hysteresis: float = number(
        0.1,
        "Hysteresis",
        "",
        (0, 1),
        (0, 0.5),
        "By what share the speed has to fall under a threshold again before the slower pose is shown.",
        section="Poses",
    )
    hold: float = number(
        0, "Hold a pose", "s", SECONDS, (0, 0.5), "How long a pose is shown at least.", section="Poses"
    )
    land_time: float = number(
        0.1,
        "Landing time",
        "s",
        SECONDS,
        (0, 0.5),
        "How long the landing is shown.",
        section="Poses",
        views=SIDE,
    )
    stride_walk: float = number(
        0.8,
        "Walking stride",
        "u",
        (0.001, 1000),
        (0.2, 3),
        "Distance that one cycle of the walk covers.",
        section="Poses",
    )
    stride_run: float = number(
        1.6,
        "Running stride",
        "u",
        (0.001, 1000),
        (0.4, 5),
        "Distance that one cycle of the run covers.",
        section="Poses",
    )


class Look(FrozenModel):
    """How the second stick turns the view."""

    look_rate_x: float = number(
        180, "Look rate, yaw", "°/s", (0, 36000), (0, 720), "Turn of the view at full stick.", section="Facing"
    )
    look_rate_y: float = number(
        120, "Look rate, pitch", "°/s", (0, 36000), (0, 720), "Tilt of the view at full stick.", section="Facing"
    )
    look_modifier: float = number(
        0.4, "Look modifier", "×", FACTOR, (0, 2), "Factor on both while the modifier is held.", section="Facing"
    )
    look_modifier_y: float = number(
        0,
        "Look modifier, pitch",
        "×",
        FACTOR,
        (0, 2),
        "The same for the pitch alone; 0 is as the other.",
        section="Facing",
        rare=True,
    )
    mouse_x: float = number(
        0.1,
        "Mouse, yaw",
        "°",
        (-360, 360),
        (0, 1),
        "Turn of the view for each count that the mouse moves.",
        section="Facing",
        rare=True,
    )
    mouse_y: float = number(
        0.1,
        "Mouse, pitch",
        "°",
        (-360, 360),
        (0, 1),
        "Tilt of the view for each count that the mouse moves.",
        section="Facing",
        rare=True,
    )
    mouse_dt: bool = switch(
        False,
        "Mouse times delta time",
        "Whether the mouse's counts are multiplied by the tick, for which they are already (a mistake).",
        section="Facing",
        rare=True,
    )


class Camera(FrozenModel):
    """How the camera follows the body."""

    follow: Follow = choice(
        Follow.LOCKED,
        "Follow",
        "How the camera follows the body.",
        {
            Follow.NONE: "Not at all: it stays where the body began.",
            Follow.LOCKED: "At once.",
            Follow.EASE: "By a share of the distance in each tick.",
            Follow.CONSTANT: "At a constant speed.",
        },
        section="Camera",
    )
    follow_form: Form = choice(
        Form.EXACT,
        "Follow form",
        "How the share per tick is computed.",
        {
            Form.EXACT: "1 − exp(−rate·dt): the same at every rate.",
            Form.LINEAR: "rate·dt: depends on the rate, and jitters where frames are uneven.",
        },
        section="Camera",
        when=(When("camera.follow", (Follow.EASE,)),),
    )
    follow_rate: float = number(
        8,
        "Follow rate",
        "/s",
        RATE,
        (1, 30),
        "How fast the camera follows the body: the share of the distance closed per second.",
        section="Camera",
        when=(When("camera.follow", (Follow.EASE,)),),
        share="camera.follow_form",
    )
    follow_speed: float = number(
        12,
        "Follow speed",
        "u/s",
        SPEED,
        (2, 30),
        "The greatest speed of the camera.",
        section="Camera",
        when=(When("camera.follow", (Follow.CONSTANT,)),),
    )
    window_width: float = number(
        0,
        "Window width",
        "u",
        (0, 1e5),
        (0, 8),
        "How far across the body moves before the camera follows.",
        section="Camera",
        when=(FOLLOWS,),
    )
    window_height: float = number(
        0,
        "Window height",
        "u",
        (0, 1e5),
        (0, 6),
        "How far up and down the body moves before the camera follows.",
        section="Camera",
        when=(FOLLOWS,),
    )
    look_ahead: float = number(
        0,
        "Look ahead",
        "s",
        SECONDS,
        (0, 1),
        "The camera aims at where the body will be this much later.",
        section="Camera",
        when=(FOLLOWS,),
    )
    look_ahead_rate: float = number(
        4,
        "Look ahead rate",
        "/s",
        RATE,
        (0.5, 15),
        "How fast that lead follows a change of velocity.",
        section="Camera",
        when=(FOLLOWS, When("camera.look_ahead", over=0.0)),
        share="exact",
    )
    follow_height: FollowHeight = choice(
        FollowHeight.ALWAYS,
        "Follow height",
        "When the camera follows up and down.",
        {
            FollowHeight.ALWAYS: "Always.",
            FollowHeight.GROUNDED: "On the ground and on nets, and where the body falls out of the window below.",
        },
        section="Camera",
        views=SIDE,
        when=(FOLLOWS,),
    )


class Stepping(FrozenModel):
    """How the game's code advances from one tick to the next."""

    integrator: Integrator = choice(
        Integrator.VELOCITY_FIRST,
        "Integrator",
        "Which velocity moves the body in a tick.",
        {
            Integrator.VELOCITY_FIRST: "The new one.",
            Integrator.POSITION_FIRST: "The old one.",
            Integrator.MIDPOINT: "The mean of both: the same heights at every tick rate.",
        },
        section="Stepping",
    )
    time_base: TimeBase = choice(
        TimeBase.SECONDS,
        "Time base",
        "Whether values count per second or per frame.",
        {
            TimeBase.SECONDS: "Per second: each tick uses its delta time.",
            TimeBase.FRAMES: "Per frame: delta time was forgotten, a faster machine runs a faster game.",
            TimeBase.MIXED: "Half forgotten: movement uses delta time, forces do not.",
        },
        section="Stepping",
    )
    reference_rate: float = number(
        60,
        "Reference rate",
        "/s",
        (1, 10000),
        (30, 240),
        "The rate at which values per frame were tuned.",
        section="Stepping",
        when=(When("stepping.time_base", (TimeBase.FRAMES, TimeBase.MIXED)),),
    )


@cache
def _choices_of(view: View) -> tuple[tuple[str, str, frozenset[str]], ...]:
    """Group, key and allowed values, in a view, of each parameter that is a choice."""
    return tuple(
        (parameter.group, parameter.key, frozenset(option.id for option in parameter.choices(view)))
        for parameter in PARAMETERS
        if parameter.kind == "choice"
    )


class Tune(FrozenModel):
    """One set of numbers with a name. Angles are in degrees, as in files and on screen."""

    name: Name
    note: Note = ""
    # The tune that this one is a snapshot of; empty if it is not one.
    snapshot_of: Note = ""
    view: View = "side"
    body: Body = Body()
    input: Input = Input()
    drive: Drive = Drive()
    gravity: Gravity = Gravity()
    jump: Jump = Jump()
    climb: Climb = Climb()
    contact: Contact = Contact()
    wall: Walls = Walls()
    dash: Dash = Dash()
    facing: Facing = Facing()
    look: Look = Look()
    slope: OnSlopes = OnSlopes()
    camera: Camera = Camera()
    pose: Pose = Pose()
    stepping: Stepping = Stepping()

    @model_validator(mode="after")
    def _choices_go_with_the_view(self) -> Self:
        self._check_choices()
        return self

    def _check_choices(self) -> None:
        for group, key, allowed in _choices_of(self.view):
            value = getattr(getattr(self, group), key)
            if value not in allowed:
                raise ValueError(f"{group}.{key}: {value} does not go with the view {self.view!r}")

    def get(self, id: str) -> Value:
        """The value of the parameter with this id, as in a file; KeyError if there is none."""
        parameter = parameter_by_id(id)
        value = getattr(getattr(self, parameter.group), parameter.key)
        return value.value if isinstance(value, Choice) else cast(Value, value)

    def values(self) -> dict[str, Value]:
        """All values by id, as in a file."""
        found: dict[str, Value] = {}
        for group in GROUPS:
            found |= _values_of_group(getattr(self, group), group)
        return found

    def put(self, id: str, value: Value) -> Tune:
        """A copy with one value changed; pydantic's ValidationError if it is not allowed."""
        parameter = parameter_by_id(id)
        group = getattr(self, parameter.group)
        content = group.model_dump(mode="json") | {parameter.key: value}
        changed = self.model_copy(update={parameter.group: type(group).model_validate_json(_json(content))})
        if parameter.kind == "choice":
            changed._check_choices()
        return changed


@cached_by_identity(1024)
def _values_of_group(group: FrozenModel, name: str) -> dict[str, Value]:
    """Cached, since tunes share the groups that have not been changed."""
    return {f"{name}.{key}": value.value if isinstance(value, Choice) else value for key, value in group}


def _json(content: object) -> bytes:
    # Let NaN and infinity through, so that the field's own check refuses them.
    return to_json(content, inf_nan_mode="constants")


GROUPS: Mapping[str, type[FrozenModel]] = {
    "body": Body, "input": Input, "drive": Drive, "gravity": Gravity, "jump": Jump, "climb": Climb,
    "contact": Contact, "wall": Walls, "dash": Dash, "facing": Facing, "look": Look,
    "slope": OnSlopes, "camera": Camera, "pose": Pose, "stepping": Stepping,
}  # fmt: skip
PARAMETERS: tuple[Parameter, ...] = tuple(
    parameter for group, model in GROUPS.items() for parameter in declared_in(group, model)
)


@cache
def _by_id() -> dict[str, Parameter]:
    return {parameter.id: parameter for parameter in PARAMETERS}


def parameter_by_id(id: str) -> Parameter:
    """The declaration of the parameter with this id; KeyError, with similar ids, if there is none."""
    found = _by_id().get(id)
    if found is None:
        raise KeyError(unknown("number of a tune", id, _by_id()))
    return found
