"""The tick of one tune, step by step, with its own numbers.

It is enough to implement the tick without knowing this program.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from cinetica.files.handover import figures
from cinetica.model.clock import Clock
from cinetica.model.conventions import Angle, Conventions, Per
from cinetica.model.curves import EVEN, STRAIGHT, curve_text
from cinetica.model.game_units import factor, is_share, unit_words
from cinetica.model.laws import LAWS
from cinetica.model.parameters import as_number
from cinetica.model.study import Drill
from cinetica.model.tune import Pose, Tune
from cinetica.reading.laws import LAW_WORDS


@dataclass(frozen=True)
class Step:
    """A step of the tick: its title, and its rules, one per line."""

    title: str
    rules: tuple[str, ...]


def recipe(tune: Tune, drills: list[Drill], clock: Clock, conventions: Conventions) -> list[Step]:
    """The steps of a tick in order, without rules that this tune and its drills never use."""
    writing = _Recipe(tune, drills, clock, conventions, _numbers(tune, conventions))
    side = tune.view == "side"
    steps = [
        Step("Once, before the first tick", tuple(writing.before())),
        Step("Read the hands", tuple(writing.hands())),
        Step("From the hands to the intent w", tuple(writing.intent())),
    ]
    steps += [Step("Shoves", tuple(writing.shoves())), Step("Zones", tuple(writing.zones()))]
    if side and any(drill.course.climb for drill in drills):
        steps.append(Step("Climb", tuple(writing.climb())))
    if side and tune.contact.drop_through != "none" and any(drill.course.oneway for drill in drills):
        steps.append(Step("Drop through", tuple(writing.drop())))
    steps.append(Step("Dash", tuple(writing.dash())))
    if side:
        steps += [Step("Launch", tuple(writing.launch())), Step("Short hop", tuple(writing.hop()))]
    steps.append(Step("Drive: the new velocity", tuple(writing.drive())))
    if side:
        steps.append(Step("Gravity", tuple(writing.gravity())))
    steps += [
        Step("Move and touch", tuple(writing.move())),
        Step("Slopes", tuple(writing.slopes())),
        Step("Walls", tuple(writing.walls())),
        Step("Face", tuple(writing.face())),
        Step("Timers", tuple(writing.timers(side))),
        Step("Camera", tuple(writing.camera())),
        Step("Pose: which animation is shown", tuple(writing.pose())),
    ]
    return [step for step in steps if step.rules]


def _numbers(tune: Tune, conventions: Conventions) -> dict[str, str]:
    """Every number with its unit, as the rules have it, by its id."""
    numbers = {}
    for figure in figures(tune, conventions):
        value, unit = figure.value, figure.unit
        if is_share(figure.parameter, conventions):
            # The rules explain how a share follows from its rate.
            unit = unit_words(figure.parameter.unit, conventions)
            value = as_number(tune.get(figure.parameter.id)) * factor(figure.parameter.unit, conventions)
        elif figure.parameter.upward and isinstance(value, float):
            # It is handed over with the sign of the game's y. Here it is a magnitude: the rule gives the direction.
            value = abs(value)
        numbers[figure.parameter.id] = f"{value} {unit}".rstrip()
    return numbers


class _Recipe:
    """Writes the rules. `n` gives a number as it is handed over, with its unit."""

    def __init__(
        self, tune: Tune, drills: list[Drill], clock: Clock, conventions: Conventions, numbers: dict[str, str]
    ) -> None:
        self.tune, self.drills, self.clock, self.conventions, self._numbers = tune, drills, clock, conventions, numbers

    def n(self, id: str) -> str:
        return self._numbers.get(id) or f"{self.tune.get(id):g}"

    def before(self) -> Iterator[str]:
        rate = self.tune.stepping.reference_rate if self.tune.stepping.time_base == "frames" else self.clock.tick_rate
        if self.conventions.per is Per.FRAME:
            yield (
                f"h, the length of a tick, is {self.conventions.rate / rate:g} frames: the numbers below count per"
                " frame."
            )
        else:
            yield f"h, the length of a tick, is 1/{rate:g} s."
        if self.tune.stepping.time_base == "mixed":
            reference = self.tune.stepping.reference_rate
            per_frame = self.conventions.per is Per.FRAME
            forces = f"{self.conventions.rate / reference:g} frames" if per_frame else f"1/{reference:g} s"
            yield f"In the steps of drive and gravity h is {forces} instead, whatever the length of the tick."
        if self.tune.stepping.time_base == "frames":
            yield "It is that long whatever the machine's rate: the numbers count per frame of that rate."
        yield (
            "v = (0, 0), or as the drill says; the body is at its start; since_press is endless; so is since_ground,"
            " or 0 where it starts on the ground."
        )
        yield (
            f"y points {'down' if self.conventions.y_down else 'up'}; below, “up” is the direction"
            f" {'−y' if self.conventions.y_down else '+y'}."
        )

    def angles(self) -> Iterator[str]:
        """Where the game's angles begin, and which way they grow."""
        words = {"right": "to the right", "up": "up", "left": "to the left", "down": "down"}
        way = "clockwise" if self.conventions.turns_clockwise else "counter-clockwise"
        unit = "radians" if self.conventions.angle is Angle.RADIAN else "degrees"
        yield (
            f"The game's angles are {unit}; 0 points {words[self.conventions.zero]} on the screen, and they grow {way}."
        )

    def hands(self) -> Iterator[str]:
        if self.tune.input.latency:
            yield f"Everything the hands do counts {self.tune.input.latency} ticks later."
        if self.clock.hands == "after":
            yield "A frame reads the hands after its ticks: they use what the frame before has read."
        yield "pressed: jump is held and was not in the tick before. released: the reverse."
        if self.tune.view == "side":
            yield "If pressed: since_press = 0, and a jump is armed."

    def intent(self) -> Iterator[str]:
        p = self.tune.input
        words = {
            "cancel": "both held give 0",
            "latest": "the one pressed last wins",
            "first": "the one pressed first wins",
        }
        yield f"Each key axis is −1, 0 or 1; of two opposite keys {words[p.opposed]}."
        if p.key_attack or p.key_release:
            yield (
                f"It does not jump: it climbs to ±1 in {self.n('input.key_attack')} and falls to 0 in"
                f" {self.n('input.key_release')} (0: at once)."
            )
            if p.key_reverse_reset:
                yield "On a reversal it starts from 0."
        yield from self._stick()
        yield from self._vector()

    def _stick(self) -> Iterator[str]:
        p = self.tune.input
        if p.dead_zone_shape != "none":
            where = "on each axis alone" if p.dead_zone_shape == "axial" else "on its length"
            scaled = "(m − dead)/(1 − outer − dead)" if p.dead_zone_rescale else "m itself"
            yield (
                f"A stick, {where}: m up to {p.dead_zone:g} is 0, from {1 - p.outer_zone:g} on it is 1, between them"
                f" {scaled}."
            )
            yield "Beyond its dead zone it wins over the keys."
        if p.response != STRAIGHT:
            yield f"Its length becomes that of the curve {curve_text(p.response)} (x y, straight between them)."
        if p.curve != 1:
            yield f"Its length up to 1 is raised to the power {p.curve:g}."

    def _vector(self) -> Iterator[str]:
        p = self.tune.input
        joined = {
            "free": "stays as it is: diagonals are √2 long", "normalized": "is always made 1 long",
            "limited": "is cut to a length of 1 where it is longer", "disc": "becomes x√(1 − y²/2), y√(1 − x²/2)",
        }  # fmt: skip
        if LAWS[self.tune.drive.law].controls:
            yield "Left and right are w.x, up and down w.y: two controls, each for itself."
        else:
            yield f"The vector of both axes {joined[p.diagonal]}. That is w."
        if p.axis_ratio != 1:
            yield f"Its y is times {p.axis_ratio:g}, {p.axis_ratio_order} that."
        if p.view_yaw or p.view_pitch:
            tilted = (
                f", and its forward part is times cos {p.view_pitch:g}°" if p.view_pitch and not p.view_flatten else ""
            )
            yield f"It is turned by {p.view_yaw:g}°{tilted}."
        if p.view == "look":
            yield "It is turned with the look, too: forward is where the look of the tick before points."

    def shoves(self) -> Iterator[str]:
        if any(drill.take.shoves for drill in self.drills) or self.tune.drive.stun:
            yield (
                "A shove adds its velocity to v at the beginning of its tick, before everything else. It ends a climb"
                " and a dash."
            )
        if self.tune.drive.stun:
            yield (
                f"For {self.n('drive.stun')} after it w is 0, down counts as not held, and presses are not heard; a"
                " jump armed before may launch."
            )

    def zones(self) -> Iterator[str]:
        if any(drill.course.zones for drill in self.drills):
            yield (
                "Where the body's box overlaps a zone as the tick begins, the zone's factors act on S, on"
                " accelerations, on frictions and on g; those of several zones multiply."
            )
            yield "After gravity, unless climbing or in a dash: v += push · h, then v *= exp(−drag · h)."

    def dash(self) -> Iterator[str]:
        p, side = self.tune.dash, self.tune.view == "side"
        if not p.speed:
            return
        asked = "A press of dash"
        if p.trigger == "double_tap":
            asked = f"A direction key pressed twice within {self.n('dash.double_tap')}"
        yield f"{asked} asks for a dash; where none is possible yet it waits for {self.n('dash.buffer')}."
        air = f"; in the air at most {p.air_dashes} before the next landing" if side else ""
        yield f"It begins when {self.n('dash.cooldown')} have passed since the end of the last{air}."
        ways = {
            "intent": "along w, without w along the facing",
            "facing": "along the facing",
            "eight": "along w, without w along the facing, turned to the nearest 45°",
        }
        yield f"For {self.n('dash.time')}, and one tick at least, v = {self.n('dash.speed')} {ways[p.aim]}."
        yield "No drive, gravity, zone, climb or short hop acts meanwhile." + (
            " A launch from the ground ends it and keeps v.x." if side else ""
        )
        left = {"keep": "v stays", "top": "v is cut to S", "stop": "v = 0"}[p.exit]
        yield f"When its time is over, or after a tick in which a wall blocked it, {left}."

    def walls(self) -> Iterator[str]:
        p = self.tune.wall
        if self.tune.view != "side" or not (p.slide_speed or p.jump_speed):
            return
        yield (
            "On a wall, found at the end of a tick: in the air, not climbing or in a dash, v.x not away from it, and"
            f" within {self.n('wall.probe')} of an upright face that is beside at least half of the body's height."
        )
        if p.slide_speed:
            yield f"A tick that began on a wall with w toward it falls no faster than {self.n('wall.slide_speed')}."
        if p.jump_speed:
            spent = " That uses up the wall, too." if self.tune.jump.spend_grace else ""
            yield (
                "An armed jump that the ground does not take, and before any in the air, launches on a wall or within"
                f" {self.n('wall.coyote')} of it: v.up = {self.n('wall.jump_speed')}, v.x ="
                f" {self.n('wall.jump_away')} away from it; for {self.n('wall.lock')} the drive does nothing.{spent}"
            )

    def climb(self) -> Iterator[str]:
        pushed = "is over 0.5" if self.tune.climb.hold == "held" else "goes over 0.5"
        yield (
            f"Where the body overlaps a net and w.up {pushed}: it holds on, unless it let go by a jump less than"
            f" {self.n('climb.climb_lock')} ago."
        )
        yield f"While it holds on: v = {self.n('climb.climb_speed')} · w, no drive, no gravity."
        yield "Off the net it falls; on the floor, with w.up not over 0, it walks."
        yield f"A press lets go and launches upward at {self.n('climb.climb_jump_speed')}."
        if self.tune.climb.jump_float:
            yield f"For {self.n('climb.jump_float')} from then on no gravity acts."

    def drop(self) -> Iterator[str]:
        probe = f", or within {self.n('contact.ground_probe')} under," if self.tune.contact.ground_probe else ""
        by_jump = self.tune.contact.drop_through == "down_jump"
        yield (
            f"If the body stood on one-way solids alone, and {'jump is pressed while down' if by_jump else 'down'} is"
            f" held: those at{probe} its feet do not stop it until it has left them or stands again; its coyote time is"
            " spent."
        )
        if by_jump:
            yield "That press is used up: it neither arms a jump nor counts as an air jump."

    def launch(self) -> Iterator[str]:
        p = self.tune.jump
        held = " Held jump on the ground launches, too." if p.repeat == "hold" else ""
        yield f"A jump that is armed may launch while since_press ≤ {self.n('jump.buffer')}.{held}"
        unspent = " and nothing has launched since the ground was left" if p.spend_grace else ""
        yield f"From the ground: if since_ground ≤ {self.n('jump.coyote')}{unspent}."
        boost = f" + {p.run_boost:g} · |v.x|" if p.run_boost else ""
        yield (
            f"Then v.up = {self.n('jump.jump_speed')}{boost}; the jump is no longer armed; since_launch = 0; the hop is"
            " open."
        )
        if not p.spend_press:
            yield "A launch leaves the press armed: it may launch again until the buffer is over."
        if p.stale_timer:
            yield (
                "Each press starts a timer of its own that nothing stops; when one passes the buffer, a jump armed"
                " before that tick is lost, however fresh."
            )
        if p.air_jumps:
            yield (
                f"Else, if pressed in the air and fewer than {p.air_jumps} air jumps are used: v.up ="
                f" {self.n('jump.air_jump_speed')}."
            )
        if p.buffered_release == "full":
            yield "If jump is not held at that moment it passes for held until the hop closes."

    def hop(self) -> Iterator[str]:
        p = self.tune.jump
        wait = f" and since_launch ≥ {self.n('jump.min_hold')}" if p.min_hold else ""
        when = f"While the hop is open, jump is not held{wait} and v.up > 0, once"
        if p.cut_repeat == "every":
            when = "In every tick with released, while v.up > 0 off the ground, whatever made the body rise"
        if p.short_hop == "cut":
            yield f"{when}: v.up = {p.cut_factor:g} · v.up, and the hop closes."
        elif p.short_hop == "cap":
            yield f"{when}: v.up = min(v.up, {self.n('jump.cap_speed')}), and the hop closes."
        if p.short_hop != "none":
            yield "The hop also closes when v.up is no longer over 0, and on landing."

    def drive(self) -> Iterator[str]:
        p, side = self.tune.drive, self.tune.view == "side"
        yield f"S = {self.n('drive.top_speed')}, times {p.modifier_speed:g} while the modifier is held."
        if side and (p.air_control != 1 or p.air_friction != 1):
            yield f"In the air accelerations are times {p.air_control:g}, frictions times {p.air_friction:g}."
        drawn = (("acceleration", p.acceleration_curve), ("friction", p.friction_curve))
        for what, points in drawn if p.law != "instant" else ():
            if points != EVEN:
                yield (
                    f"What is an {what} below is times the curve {curve_text(points)} (x y, straight between them, x ="
                    " |v|/S as this step begins)."
                    if what == "acceleration"
                    else f"Friction is times the curve {curve_text(points)}, likewise."
                )
        yield from LAW_WORDS[p.law].written(self.tune, self.n)
        if not side and p.axes == "separate":
            yield "Each axis by itself."

    def gravity(self) -> Iterator[str]:
        p, jump = self.tune.gravity, self.tune.jump
        yield f"g = {self.n('gravity.gravity')}."
        if p.fall_factor != 1:
            yield f"Times {p.fall_factor:g} while v.up < 0."
        if p.fast_fall_factor != 1:
            yield f"Times {p.fast_fall_factor:g} while v.up < 0 and down is held."
        if p.apex_speed and p.apex_factor != 1:
            yield f"Times {p.apex_factor:g} in the air while jump is held and |v.up| < {self.n('gravity.apex_speed')}."
        if jump.short_hop == "heavy":
            yield f"Times {jump.heavy_factor:g} while the hop is open, v.up > 0 and jump is not held."
        if jump.short_hop == "sustain":
            yield (
                f"Times {jump.sustain_factor:g} while the hop is open and since_launch < {self.n('jump.sustain_time')}."
            )
        if not jump.launch_gravity:
            yield "None in the tick of a launch."
        if jump.coyote_float:
            yield "None while a coyote jump is still possible."
        stop = f", but falls no faster than {self.n('gravity.terminal_speed')}" if p.terminal_speed else ""
        yield f"v.up −= g · h{stop}. It acts on the ground, too: contact takes it away."

    def move(self) -> Iterator[str]:
        ways = {"velocity_first": "v · h, with the new v",
        "position_first": "v · h, with v as it was after the launch and before drive and gravity",
                "midpoint": "(old v + new v)/2 · h, the old one being that after the launch"}  # fmt: skip
        yield (
            f"The body is {self.n('body.width')} wide and {self.n('body.height')} high. It moves by"
            f" {ways[self.tune.stepping.integrator]}."
        )
        p = self.tune.contact
        sweeps = {
            "swept": "It stops at the first solid in the way, x first, then y.",
            "stepped": "x first, then y: it goes there, and where it overlaps, back out along that axis.",
            "none": "Solids do not stop it.",
        }
        yield sweeps[p.sweep]
        if p.sweep == "none":
            return
        if p.pixel:
            yield f"A blocked axis ends at the last whole multiple of {self.n('contact.pixel')} of its way."
        if p.late:
            yield (
                "What is shown is late: in the tick of a block the whole way into the solid, with the velocity from"
                " before; all else goes by where it really ends."
            )
        yield "A blocked axis loses its velocity" + (
            ": at a wall both do, and the tick's motion ends." if p.wall == "stop" else "."
        )
        if self.tune.view == "side":
            yield from self._blocks_from_the_side()
            yield from self._grounding()

    def _blocks_from_the_side(self) -> Iterator[str]:
        p = self.tune.contact
        if p.head_bump == "keep":
            yield "Except under a ceiling: there v.up stays."
        if p.corner_slip:
            yield (
                f"Under a corner it first shifts sideways by up to {self.n('contact.corner_slip')} where that lets"
                " the whole rise pass."
            )
        if p.step_height and p.sweep == "swept":
            yield (
                f"A walk blocked by a face no higher than {self.n('contact.step_height')} over the feet is set on"
                " its top and goes on, where there is room."
            )
        if any(drill.course.oneway for drill in self.drills):
            yield "One-way solids stop only a body that falls on them from above."

    def _grounding(self) -> Iterator[str]:
        p = self.tune.contact
        probe = f", or within {self.n('contact.ground_probe')} under," if p.ground_probe else ""
        yield (
            f"Grounded: it was stopped downward in this tick, or it does not rise and a solid touches{probe} its feet."
        )
        if p.probe_width:
            yield f"For that only what is under {self.n('contact.probe_width')} about the middle of the feet counts."
        if p.probe_rising:
            yield "A solid that close under the feet grounds a rising body, too."

    def slopes(self) -> Iterator[str]:
        p = self.tune.slope
        felt = any(drill.course.slopes for drill in self.drills) and self.tune.contact.sweep != "none"
        if self.tune.view != "side" or not felt:
            return
        yield (
            "A slope is felt by the middle of the feet, from above: feet that were on or over it are set on it where"
            " they would go under it, and v.up = 0. A body walks that was grounded and has not launched."
        )
        if p.slope_pace == "along":
            yield "A walk along a slope of the angle a goes cos a times its way across."
        else:
            yield "A walk along a slope goes its whole way across, and is faster along the slope than on level ground."
        for share, word in ((p.uphill_factor, "up"), (p.downhill_factor, "down")):
            if share != 1:
                yield f"S is times {share:g} on the way {word} a slope."
        yield (
            f"Steeper than {self.n('slope.max_slope')} it is not ground: it is a wall to a walk uphill, and elsewhere"
            " the body keeps its velocity along it, slides, and is driven only downhill."
        )
        if p.ground_snap:
            yield (
                f"A walk that leaves the ground is set down on a slope, or from a slope on a top, within"
                f" {self.n('slope.ground_snap')} under its feet."
            )
        if p.slope_carry:
            yield (
                f"Where the ground is left from a slope, {p.slope_carry:g} of the rate at which the feet rose is added"
                " to v.up."
            )

    def camera(self) -> Iterator[str]:
        p = self.tune.camera
        if p.follow == "none":
            yield "The camera stays where the body began."
            return
        lead = ""
        if p.look_ahead:
            yield (
                f"The lead, 0 at first, goes toward v · {self.n('camera.look_ahead')} by 1 − exp(−"
                f"{self.n('camera.look_ahead_rate')} · h) of what is missing."
            )
            lead = " + lead"
        window = ""
        if p.window_width or p.window_height:
            window = (
                f", of which on each axis only what lies outside a window of {self.n('camera.window_width')} ×"
                f" {self.n('camera.window_height')} around it counts"
            )
        yield f"The error is position{lead} − camera{window}."
        if self.tune.view == "side" and p.follow_height == "grounded":
            yield "Up and down it counts only while the body stands or climbs, or is under the window."
        share = f"1 − exp(−{self.n('camera.follow_rate')} · h)"
        if p.follow_form == "linear":
            share = f"min(1, {self.n('camera.follow_rate')} · h)"
        ways = {
            "locked": "by the error", "ease": f"by {share} of the error",
            "constant": f"straight along the error, by at most {self.n('camera.follow_speed')} · h",
        }  # fmt: skip
        yield f"The camera moves {ways[p.follow]}."

    def pose(self) -> Iterator[str]:
        p = self.tune.pose
        if p == Pose():
            return
        side = self.tune.view == "side"
        landing = f" for {self.n('pose.land_time')} after a landing land, else" if side else ""
        yield (
            f"On the ground{landing} run over {self.n('pose.run_above')}, walk over {self.n('pose.walk_above')}, else"
            f" idle; back to the slower only {p.hysteresis:g} of the threshold under it."
        )
        yield "Else as the state says: rise, fall, climb, slide, wall, dash." if side else "In a dash: dash."
        if p.hold:
            yield f"Each pose is shown for {self.n('pose.hold')} at least."
        yield f"A cycle of the walk is {self.n('pose.stride_walk')}, of the run {self.n('pose.stride_run')}."

    def face(self) -> Iterator[str]:
        p = self.tune.facing
        if self.tune.view == "top":
            yield from self.angles()
        source = "w"
        if p.aim == "aim_stick":
            held = f" (for {self.n('facing.aim_hold')} more its last direction counts)" if p.aim_hold else ""
            source = f"the second stick, or w while that rests{held}"
        ways = {
            "mirror": "0° or 180°, by the sign of the x of", "direct": "the angle of",
            "sectors": f"to the nearest of {p.sectors} directions, the angle of",
            "ease": f"by 1 − exp(−{p.facing_rate:g} · h) of the shorter way to the angle of",
            "constant": f"by at most {p.facing_speed:g}° · h toward the angle of",
        }  # fmt: skip
        if p.facing in ways and not LAWS[self.tune.drive.law].heading:
            yield (
                f"The facing turns: {ways[p.facing]} {source}. Without one it"
                f" {'stays' if p.keep_last else 'goes back to 0°'}."
            )
            if p.keep_last and p.after_release == "finish" and p.facing in ("ease", "constant"):
                yield "A turn that has begun goes on, without a source, to where the last one pointed."
            if p.aim == "aim_stick" and p.aim_release == "moves":
                yield "After that the stick's last direction stays the source until w is other than 0."
        look = self.tune.look
        if look.look_rate_x or look.look_rate_y:
            pitch = f" (pitch {look.look_modifier_y:g})" if look.look_modifier_y else ""
            modifier = f", times {look.look_modifier:g}{pitch} while the modifier is held"
            modifier = modifier if look.look_modifier != 1 or pitch else ""
            yield (
                f"The second stick turns the view: yaw grows by its x · {self.n('look.look_rate_x')} · h, pitch by its"
                f" y · {self.n('look.look_rate_y')} · h{modifier}. Pitch is limited to ±90°."
            )
        if any(drill.take.mouse for drill in self.drills):
            counts = f", times h · {self.tune.stepping.reference_rate:g}" if look.mouse_dt else ""
            yield (
                f"A mouse turns it, too: yaw by {look.mouse_x:g}° and pitch by {look.mouse_y:g}° for each"
                f" count{counts}."
            )

    def timers(self, side: bool) -> Iterator[str]:
        if side:
            yield "since_ground = 0 if grounded, else it grows by h; since_press and since_launch grow by h."
            yield "A tick that ends grounded closes the hop and allows all air jumps again."
