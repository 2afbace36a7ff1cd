"""The step without the game's move, in a small game of these tests: against closed forms and the kernel."""

import math
import random

import pytest

from cinetica.codegen.make import cut_program
from cinetica.files.shipped import shipped_study
from cinetica.model.clock import Clock
from cinetica.model.conventions import Conventions, Per
from cinetica.model.take import Shove
from cinetica.model.tune import PARAMETERS
from cinetica.motion.clock import schedule
from cinetica.motion.simulate import simulate
from tests.builders import make_drill, make_tune
from tests.codegen.tools import loaded
from tests.motion.test_against_reference import clock_of, random_drill
from tests.motion.test_step import random_tune
from tests.repetitions import TIMES

DT = 1 / 60
FLOOR = [make_drill()]
PLAIN = {"drive__acceleration": 60, "drive__friction": 60, "drive__top_speed": 6, "gravity__gravity": 36}


class Game:
    """A body over a floor at 0, or over nothing: its move, and what it hits."""

    def __init__(self, tune, drills=FLOOR, conventions=None, *, floor=True, x=0.0, y=0.0, **hits):
        self.tune, self.floor, self.hits = tune, floor, hits
        self.code = loaded(cut_program(tune, drills, conventions or Conventions()))
        self.down = -1 if conventions is None or not conventions.y_down else 1
        self.state, self.numbers, self.input = self.code.State(), self.code.Numbers(), self.code.Input()
        self.code.begin(self.state, self.numbers, x, y, floor)
        self.jumped = False

    def tick(self, dt=DT, edges=None, **held):
        was = self.jumped
        self.jumped = held.get("jump", False)
        for name in vars(self.input):
            if name not in ("jump_pressed", "jump_released"):
                setattr(self.input, name, held.get(name, 0.0 if name.startswith(("stick", "aim")) else False))
        if edges is None:
            edges = {"jump_pressed": self.jumped and not was, "jump_released": was and not self.jumped}
        for name, value in edges.items():
            setattr(self.input, name, value)
        state, hit = self.state, self.code.Hit()
        dx, dy = self.code.before_move(state, self.numbers, self.input, dt)
        state.x += dx
        hit.floor = self.falls(dy)
        for name, value in self.hits.items():
            setattr(hit, name, value)
        self.code.after_move(state, self.numbers, self.input, hit, dt)

    def falls(self, dy):
        """Move by dy, at most down to the floor at 0 (docs/model.md, section 8); returns whether it stands."""
        state, free = self.state, -self.state.y * self.down
        if not self.floor or dy * self.down <= 0 or free < -1e-9 or free >= abs(dy):
            state.y += dy
            blocked = False
        else:
            state.y += free * self.down
            blocked = free < abs(dy) - 1e-9
        touches = self.floor and abs(state.y) <= 1e-9 and state.vy * self.down >= -1e-9
        return blocked or touches

    def ticks(self, count, **held):
        for _ in range(count):
            self.tick(**held)


def test_a_run_speeds_up_and_stops_as_its_numbers_say():
    game = Game(make_tune(**PLAIN))
    game.ticks(3, right=True)
    assert game.state.vx == pytest.approx(3.0)
    # 1 + 2 + 3 sixtieths of a unit.
    assert game.state.x == pytest.approx(6 / 60)
    game.ticks(20, right=True)
    assert game.state.vx == 6.0
    game.ticks(5)
    assert game.state.vx == pytest.approx(1.0)


@pytest.mark.parametrize(("late", "launches"), [(10, True), (11, False)])
def test_a_press_counts_within_the_coyote_time(late, launches):
    game = Game(make_tune(**PLAIN, jump__coyote=0.15, jump__jump_speed=12, gravity__fall_factor=1))
    game.tick()
    game.floor = False
    game.ticks(late - 1)
    # The ground was left one tick before the first of these; 0.15 s are 9 ticks.
    game.tick(jump=True)
    assert game.state.launched is launches
    assert (game.state.vy > 0) is launches


@pytest.mark.parametrize(("before", "launches"), [(5, True), (6, False)])
def test_a_press_before_the_ground_is_remembered_for_the_buffer(before, launches):
    game = Game(make_tune(**PLAIN, jump__buffer=0.1, jump__coyote=0, jump__jump_speed=12), floor=False)
    game.ticks(3)
    game.tick(jump=True)
    game.ticks(before - 1, jump=True)
    # The body lands in the next tick, and may launch in the one after it.
    game.floor, game.state.y = True, 0.0
    game.tick(jump=True)
    game.tick(jump=True)
    assert (game.state.vy > 0) is launches


def test_letting_go_while_rising_cuts_the_jump_once():
    game = Game(make_tune(**PLAIN, jump__jump_speed=12, jump__cut_factor=0.5, jump__short_hop="cut"))
    game.tick()
    game.tick(jump=True)
    assert game.state.vy == pytest.approx(12 - 36 / 60)
    game.tick()
    assert game.state.vy == pytest.approx((12 - 36 / 60) / 2 - 36 / 60)
    game.tick()
    assert game.state.vy == pytest.approx((12 - 36 / 60) / 2 - 2 * 36 / 60)


def test_walls_and_ceilings_take_the_speed_into_them():
    game = Game(make_tune(**PLAIN), wall=True)
    game.ticks(4, right=True)
    assert game.state.vx == 0.0
    game = Game(make_tune(**PLAIN, jump__jump_speed=12))
    game.tick()
    game.tick(jump=True)
    game.hits = {"ceiling": True}
    game.tick(jump=True)
    assert game.state.vy == 0.0
    assert game.state.motion == game.code.MOTION_FALL


@pytest.mark.parametrize("y_down", [False, True])
def test_part_of_the_rise_of_a_slope_is_carried_off_its_end(y_down):
    """Half of 3 u/s, less one tick of gravity; nothing while the slope continues, or off a level floor."""
    tune = make_tune(**PLAIN, gravity__fall_factor=1, slope__slope_carry=0.5)
    game = Conventions(y_down=y_down)
    for rise, left in ((3.0, 0.5 * 3 - 36 / 60), (0.0, -36 / 60)):
        made = Game(tune, [make_drill(slopes=[(2, 0, 6, 2)])], game, slope=0.5, rise_rate=rise * (-1 if y_down else 1))
        made.ticks(3, right=True)
        assert made.state.vy == 0.0
        assert made.state.grounded
        made.floor, made.hits = False, {}
        made.tick(right=True)
        assert not made.state.grounded
        assert made.state.vy * -made.down == pytest.approx(left)
        made.tick(right=True)
        assert made.state.vy * -made.down == pytest.approx(left - 36 / 60)


def test_a_jump_takes_the_rise_of_the_slope_along_once():
    tune = make_tune(**PLAIN, gravity__fall_factor=1, slope__slope_carry=0.5, jump__jump_speed=12)
    made = Game(tune, [make_drill(slopes=[(2, 0, 6, 2)])], slope=0.5, rise_rate=3.0)
    made.ticks(3, right=True)
    made.floor, made.hits = False, {}
    made.tick(right=True, jump=True)
    assert made.state.vy == pytest.approx(12 + 0.5 * 3 - 36 / 60)


@pytest.mark.parametrize(("rising", "stands"), [(False, True), (True, False)])
def test_ground_within_the_probe_counts_for_a_body_that_does_not_rise(rising, stands):
    game = Game(make_tune(**PLAIN, contact__ground_probe=0.1, jump__jump_speed=12), floor=False, near_floor=True)
    game.tick(jump=False)
    assert game.state.grounded
    game.tick(jump=rising)
    assert game.state.grounded is stands


def test_a_game_in_pixels_per_frame_with_y_down_gets_its_own_numbers():
    game = Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME, rate=50)
    made = Game(make_tune(**PLAIN, jump__jump_speed=12.5), conventions=game, floor=False)
    numbers = made.numbers
    # 36 u/s² are 36 · 32 / 50² px/frame²; up is negative.
    assert numbers.gravity == pytest.approx(0.4608)
    assert numbers.top_speed == pytest.approx(3.84)
    assert numbers.jump_speed == pytest.approx(-8.0)
    for _ in range(3):
        made.tick(dt=1.0)
    assert made.state.vy == pytest.approx(3 * 0.4608)
    assert made.state.y == pytest.approx(6 * 0.4608)


def test_on_a_flat_floor_it_moves_as_the_kernel_does():
    study = shipped_study("harbour")
    wren = study.tune("Wren")
    drill = make_drill(
        length=240, right=[(0, 60), (90, 140)], left=[(61, 85)], jump=[(20, 24), (70, 100), (150, 180)],
        modifier=[(120, 200)],
    )  # fmt: skip
    trace, hands = simulate(wren, drill, Clock()), schedule(drill.take, Clock()).hands
    game = Game(wren)
    for row in range(1, len(trace)):
        hand = hands[row]
        game.tick(**{name: bool(hand[name]) for name in ("left", "right", "up", "down", "jump", "modifier")})
        state = game.state
        assert (state.x, state.y, state.vx, state.vy) == tuple(trace[name][row] for name in ("x", "y", "vx", "vy"))
        assert state.motion == trace["state"][row]


def without_contact(tune):
    """The tune with default contact, slopes and nets, since the game of these tests has only a floor."""
    for parameter in PARAMETERS:
        if parameter.group in ("contact", "slope", "climb", "pose"):
            tune = tune.put(parameter.id, parameter.default)
    return tune.put("input.latency", 0)


@pytest.mark.thorough
@pytest.mark.parametrize("seed", range(8 + 8 * TIMES))
def test_random_tunes_move_on_a_floor_as_in_the_kernel(seed):
    chance = random.Random(seed)
    view = ("side", "side", "top")[seed % 3]
    tune, drill = without_contact(random_tune(view, chance)), random_drill(chance, view)
    take = drill.take.model_copy(update={"mouse": (), "shoves": (), "aim": ()})
    drill = make_drill(view=view).model_copy(update={"take": take})
    planned = schedule(take, clock_of(seed))
    trace, game = simulate(tune, drill, clock_of(seed)), Game(tune, [drill], floor=view == "side")
    for row in range(1, len(trace)):
        hand = planned.hands[row]
        keys = {name: bool(hand[name]) for name in ("left", "right", "up", "down", "jump", "modifier", "dash_pressed")}
        sticks = {name: float(hand[name]) for name in ("stick_x", "stick_y")}
        pressed = {"jump_pressed": bool(hand["pressed"]), "jump_released": bool(hand["released"])}
        game.tick(float(planned.dts[row]), edges=pressed, **keys, **sticks)
        state = game.state
        moved = (state.x, state.y, state.vx, state.vy, state.motion)
        assert moved == tuple(trace[name][row] for name in ("x", "y", "vx", "vy", "state")), row


def test_in_top_view_walls_stop_motion_into_them():
    tune = make_tune("top", drive__law="instant", drive__top_speed=6, input__diagonal="free")
    game = Game(tune, [make_drill(view="top")], floor=False, wall_x=True)
    game.ticks(2, right=True, up=True)
    assert (game.state.vx, game.state.vy) == (0.0, 6.0)


def test_a_shove_is_a_call_of_its_own():
    shoved = FLOOR[0].model_copy(update={"take": FLOOR[0].take.model_copy(update={"shoves": (Shove(3, 1.0, 2.0),)})})
    game = Game(make_tune(**PLAIN, drive__stun=0.1), [shoved])
    game.tick(right=True)
    game.code.shove(game.state, game.numbers, -5.0, 3.0)
    assert game.state.vx == pytest.approx(1.0 - 5.0)
    game.tick(right=True)
    # Stunned: input is ignored, and friction slows.
    assert game.state.vx == pytest.approx(-4.0 + 1.0)


def test_the_code_takes_the_surroundings_from_the_game():
    drill = make_drill(oneway=[(2, 1, 4, 1.2)], climb=[(5, 0, 6, 3)])
    game = Game(make_tune(**PLAIN, contact__drop_through="down", climb__climb_speed=4), [drill])
    game.tick(up=True, over_net=True)
    assert game.state.climbing
    assert game.state.vy == 4.0
    game.tick(over_net=False)
    assert not game.state.climbing
    game = Game(make_tune(**PLAIN, contact__drop_through="down"), [drill])
    game.floor, game.hits = False, {"in_oneway": True}
    game.ticks(3, down=True, on_oneway=True)
    assert game.state.dropping
    game.hits = {}
    game.tick()
    assert not game.state.dropping


def test_slopes_change_the_walking_speed():
    drill = make_drill(slopes=[(8, 0, 12, 1)])
    tune = make_tune(**PLAIN, drive__law="instant", slope__uphill_factor=0.5)
    game = Game(tune, [drill], slope=0.25, rise_rate=0.0)
    game.ticks(3, right=True)
    assert game.state.vx == pytest.approx(3.0)
    game.ticks(3, left=True)
    assert game.state.vx == pytest.approx(-6.0)


def test_angles_are_in_radians_and_follow_the_axes():
    tune = make_tune("top", drive__law="steer", drive__turn_rate=90, drive__turn_ease=0)
    up = Game(tune, [make_drill(view="top")], floor=False)
    down = Game(tune, [make_drill(view="top")], Conventions(y_down=True), floor=False)
    for game in (up, down):
        game.ticks(60, left=True)
    # One second of 90°/s, counter-clockwise on the screen.
    assert up.state.facing == pytest.approx(math.pi / 2)
    assert down.state.facing == pytest.approx(-math.pi / 2)
