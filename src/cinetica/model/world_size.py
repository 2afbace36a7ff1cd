"""How large a tune's world is: everything that is drawn, dragged or proposed in lengths follows its body."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

from cinetica.model.parameters import Parameter, as_number
from cinetica.model.rescaling import scales_with_world
from cinetica.model.tune import Tune, parameter_by_id

# A world this small needs more decimals.
SMALL_WORLD = 0.1
# With a body up to this many times larger or smaller than usual, the world still counts as of the usual size.
ABOUT = 2.0
USUAL_HEIGHT = as_number(parameter_by_id("body.height").default)


def world_size(tune: Tune | None) -> float:
    """How many times as large as usual a tune's body is; 1 if it is about as large, or without a tune."""
    size = 1.0 if tune is None else tune.body.height / USUAL_HEIGHT
    return 1.0 if 1 / ABOUT < size < ABOUT else size


def sized(parameter: Parameter, tune: Tune | None) -> Parameter:
    """A parameter whose comfortable range fits the tune's world."""
    size = world_size(tune)
    return parameter if size == 1.0 or not scales_with_world(parameter) else _sized(parameter.id, size)


@lru_cache(1000)
def _sized(id: str, size: float) -> Parameter:
    parameter = parameter_by_id(id)
    low, high = (end * size for end in parameter.comfort)
    return replace(parameter, comfort=(max(low, parameter.low), min(high, parameter.high)), size=size)
