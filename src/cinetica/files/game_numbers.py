"""The game's numbers as numbers of a tune: which is which, their values in our units, and what could not be read.

A number goes by its own name or the game's. One whose name only means the same is proposed, never taken unasked.
"""

from __future__ import annotations

import difflib
import json
import math
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product

from cinetica.files.assignments import Assigned, UnreadLine, read_assignments, without_unit
from cinetica.files.reading import Refused
from cinetica.model.conventions import Conventions, Per
from cinetica.model.game_units import from_game, game_name, game_unit, sign_in_game, words
from cinetica.model.parameters import Parameter, Value, as_number
from cinetica.model.quantity import BARE, KINDS, POWERS, Units, quantity
from cinetica.model.tune import PARAMETERS, Tune, parameter_by_id
from cinetica.model.world_size import sized

LARGEST = 2**18
# Synonyms, mapped to one word.
SYNONYMS = {
    word: meant
    for meant, said in {
        "speed": "vel velocity spd force impulse strength power",
        "acceleration": "accel acc accelerate",
        "friction": "decel deceleration brake braking stopping",
        "gravity": "grav g",
        "top": "max maximum limit",
        "run": "running walk walking move movement moving ground horizontal",
        "jump": "jumping leap",
        "jumps": "jumpcount",
        "fall": "falling down",
        "factor": "mult multiplier mul scale ratio modifier",
        "time": "timer duration window seconds frames ms",
        "air": "aerial double extra midair",
        "cut": "cutoff release variable",
        "climb": "ladder climbing",
        "body": "collider hitbox box size",
        "apex": "peak hang",
        "turn": "rotation turning",
    }.items()
    for word in said.split()
}
# What a name of these words means; the longest that is in the name counts.
MEANINGS = {
    "drive.top_speed": ("top run speed", "top speed", "run speed", "top run", "speed"),
    "drive.acceleration": ("acceleration", "run acceleration"),
    "drive.friction": ("friction", "run friction"),
    "drive.turn_acceleration": ("turn acceleration",),
    "drive.air_control": ("air control", "air acceleration factor"),
    "drive.air_friction": ("air friction",),
    "drive.turn_rate": ("turn rate", "turn speed"),
    "gravity.gravity": ("gravity", "jump gravity"),
    "gravity.fall_factor": ("fall gravity factor", "fall factor", "fall gravity"),
    "gravity.terminal_speed": ("terminal speed", "terminal", "top fall speed", "top fall", "fall speed"),
    "gravity.apex_speed": ("apex speed",),
    "gravity.apex_factor": ("apex gravity factor", "apex gravity", "apex factor"),
    "jump.jump_speed": ("jump speed", "jump"),
    "jump.cut_factor": ("jump cut factor", "jump cut", "cut factor", "cut"),
    "jump.buffer": ("jump buffer time", "jump buffer", "buffer time", "buffer"),
    "jump.coyote": ("coyote time", "coyote"),
    "jump.air_jumps": ("air jumps", "top jumps", "jumps"),
    "jump.air_jump_speed": ("air jump speed", "air jump"),
    "climb.climb_speed": ("climb speed", "climb"),
    "body.width": ("body width", "width"),
    "body.height": ("body height", "height"),
    "input.dead_zone": ("dead zone", "deadzone"),
}
# Words without which a name means another number; and words without meaning.
TELLING = frozenset(
    ("air", "fall", "jump", "jumps", "apex", "climb", "turn", "cut", "terminal", "factor", "friction", "height",
     "width", "time", "distance", "angle", "delay")
)  # fmt: skip
IDLE = frozenset(("player", "character", "hero", "default", "base", "param", "value", "the", "of"))
ALIKE = 0.85
# Pixels per unit that a game may use; and how much better other conventions must fit to be proposed.
SCALES = (1.0, 16.0, 32.0, 64.0, 100.0)
CLEARLY, PER_CHANGE, WORST = 0.3, 0.08, 3.0


@dataclass(frozen=True)
class NumberFound:
    """A number of the game: which number of a tune it is, its value there, or why it cannot be taken."""

    assigned: Assigned
    parameter: Parameter | None
    # By its own name or the game's, or else by the meaning of the name.
    sure: bool
    value: Value | None = None
    fault: str = ""


@dataclass(frozen=True)
class Numbers:
    """Everything read from a text."""

    entries: tuple[NumberFound, ...]
    unread: tuple[UnreadLine, ...]

    @property
    def values(self) -> dict[str, Value]:
        """The values with known names, in our units, by id."""
        return {each.parameter.id: each.value for each in self.entries
                if each.sure and each.parameter is not None and each.value is not None}  # fmt: skip

    @property
    def unknown(self) -> tuple[str, ...]:
        """Names that we do not know, by name or by meaning."""
        return tuple(each.assigned.name for each in self.entries if each.parameter is None)


def read_numbers(text: str, conventions: Conventions) -> Numbers:
    """The numbers in a text of any format; Refused if there are none, or one that goes by its name is invalid."""
    found = find_numbers(text, conventions)
    faults = [f"{each.assigned.name}: {each.fault}" for each in found.entries if each.sure and each.fault]
    if not found.values and not faults:
        faults = ["no number of a tune in it; it should have lines such as top_speed = 7.5"]
    if faults:
        raise Refused(faults)
    return found


def find_numbers(text: str, conventions: Conventions) -> Numbers:
    """The numbers in a text of any format, with what is wrong with each; Refused if it is too long."""
    if len(text) > LARGEST:
        raise Refused([f"larger than {LARGEST // 2**10} KiB; a tune's numbers are a short text"])
    result = read_assignments(text)
    # If a name is assigned twice, the last value counts.
    latest = {(each.within, each.name): each for each in result.found}
    known = known_names(conventions)
    named = {each.name: known.get(each.name) or known.get(each.name.removesuffix("_")) for each in latest.values()}
    plain = {parameter.id: each.value for each in latest.values() if (parameter := named[each.name]) is not None}
    taken, entries = set(plain), []
    for each in latest.values():
        parameter = named[each.name]
        sure = parameter is not None
        if parameter is None:
            parameter = by_meaning(f"{each.within} {each.name}") or by_meaning(each.name)
            if parameter is not None and parameter.id in taken:
                parameter = None
            elif parameter is not None:
                taken.add(parameter.id)
        # Text that is not one of our options is a name, a path or the like.
        if parameter is not None or not isinstance(each.value, str):
            entries.append(converted(each, parameter, conventions, plain, sure=sure))
    return Numbers(tuple(entries), tuple(result.unread))


def converted(
    assigned: Assigned, parameter: Parameter | None, conventions: Conventions,
    plain: Mapping[str, Value] | None = None, *, sure: bool = False,
) -> NumberFound:  # fmt: skip
    """A number of the game as one of a parameter; `plain` are other numbers of the game by our ids."""
    value = assigned.value
    if parameter is None:
        return NumberFound(assigned, None, sure)
    if not _fits(parameter, value):
        return NumberFound(
            assigned, parameter, sure, None, f"{json.dumps(value)} is not allowed; must be {parameter.allowed}"
        )
    try:
        ours = _in_ours(assigned, parameter, conventions, plain or {})
    except ValueError as error:
        return NumberFound(assigned, parameter, sure, None, f"{json.dumps(value)}: {error}")
    return NumberFound(assigned, parameter, sure, ours)


def _in_ours(assigned: Assigned, parameter: Parameter, conventions: Conventions, plain: Mapping[str, Value]) -> Value:
    unit = assigned.unit
    if parameter.kind != "number" or not unit or unit in (game_unit(parameter, conventions), "share/frame", "factor"):
        return from_game(parameter, assigned.value, conventions, plain)
    frame = 1.0 / conventions.rate
    try:
        entered = quantity(
            f"1 {unit}" if unit[:1] != "1" else unit, Units(1.0 / conventions.pixels_per_unit, frame, frame)
        )
    except ValueError:
        return from_game(parameter, assigned.value, conventions, plain)
    powers = POWERS.get(parameter.unit, BARE)
    if entered.percent and powers == BARE:
        return as_number(assigned.value) * entered.value
    if entered.powers != powers or entered.percent:
        raise ValueError(f"{unit} says {entered.kind}, but {parameter.label} is {KINDS[powers][0]}")
    return sign_in_game(parameter, conventions) * as_number(assigned.value) * entered.value


def with_numbers(tune: Tune, values: Mapping[str, Value]) -> Tune:
    """The tune with these values; Refused, listing every fault, if some are invalid."""
    faults = []
    for id, value in values.items():
        parameter = parameter_by_id(id)
        try:
            tune = tune.put(id, value)
        except ValueError:
            faults.append(f"{parameter.label}: {json.dumps(value)} is not allowed; must be {parameter.allowed}")
    if faults:
        raise Refused(faults)
    return tune


def _fits(parameter: Parameter, value: object) -> bool:
    if parameter.kind == "switch":
        return isinstance(value, bool)
    if parameter.kind in ("choice", "curve"):
        return isinstance(value, str)
    return isinstance(value, int | float) and not isinstance(value, bool)


# Names


def known_names(conventions: Conventions) -> dict[str, Parameter]:
    """Every parameter by its id and by the game's name; text may add a _ to one that is a word of its language."""
    by_id = {parameter.id: parameter for parameter in PARAMETERS}
    return by_id | {game_name(parameter, conventions): parameter for parameter in PARAMETERS}


def words_of(name: str) -> list[str]:
    """The words of a name in any spelling, each as the one that people mean: `maxRunVel` is top, run, speed."""
    parted = re.sub(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])|[^A-Za-z]+", " ", without_unit(name))
    return [SYNONYMS.get(word, word) for word in parted.lower().split() if word not in IDLE]


def by_meaning(name: str) -> Parameter | None:
    """The number that a name means; None if it is none of ours, or not clearly one."""
    mine = set(words_of(name))
    found = sorted(
        (
            (len(words), len(mine - words), id)
            for id, names in MEANINGS.items()
            for words in (set(each.split()) for each in names)
            if words <= mine and len(words) * 2 > len(mine) and words & TELLING == mine & TELLING
        ),
        key=lambda each: (-each[0], each[1]),
    )
    if found and (len(found) == 1 or found[0][:2] != found[1][:2] or found[0][2] == found[1][2]):
        return parameter_by_id(found[0][2])
    alike = difflib.get_close_matches(without_unit(name).lower(), [each.name for each in PARAMETERS], 1, ALIKE)
    return next((each for each in PARAMETERS if alike and each.name == alike[0]), None)


# Conventions


def likely_conventions(entries: Sequence[NumberFound], tune: Tune, conventions: Conventions) -> Conventions | None:
    """Conventions under which the numbers are clearly more like those of a tune, by size and sign; None if none are."""
    asked = [each for each in entries if each.parameter is not None and each.parameter.unit.startswith("u")
             and _fits(each.parameter, each.assigned.value) and each.assigned.value]  # fmt: skip
    if not asked:
        return None
    best = min(_alternatives(conventions), key=lambda other: _mismatch(asked, tune, other, conventions))
    now, then = (_mismatch(asked, tune, each, conventions) for each in (conventions, best))
    return best if then < now - CLEARLY else None


def likely_words(conventions: Conventions) -> str:
    """A proposal of conventions, in a sentence."""
    return f"By size and sign these look like {words(conventions)}."


def _alternatives(conventions: Conventions) -> Iterator[Conventions]:
    scales = dict.fromkeys((conventions.pixels_per_unit, *SCALES))
    for scale, y_down, per in product(scales, (False, True), Per):
        yield conventions.model_copy(update={"pixels_per_unit": scale, "y_down": y_down, "per": per})


def _mismatch(asked: Sequence[NumberFound], tune: Tune, conventions: Conventions, before: Conventions) -> float:
    """How many powers of ten the numbers are from those of the tune, on average; more for what it would change."""
    costs = []
    for each in asked:
        parameter = each.parameter
        assert parameter is not None
        usual = abs(as_number(tune.get(parameter.id))) or sum(sized(parameter, tune).comfort) / 2
        ours = converted(each.assigned, parameter, conventions).value
        if isinstance(ours, float) and ours > 0 and usual > 0:
            costs.append(min(WORST, abs(math.log10(ours / usual))))
        else:
            costs.append(WORST)
    changes = sum(getattr(conventions, name) != getattr(before, name) for name in ("pixels_per_unit", "y_down", "per"))
    return sum(costs) / len(costs) + PER_CHANGE * changes
