"""Matching: how many random tunes are found again from their curves alone, how soon, and what noise does to it."""

from __future__ import annotations

import random
import statistics
import time
from dataclasses import dataclass

import numpy as np

from cinetica.files.shipped import shipped_study
from cinetica.model.tune import PARAMETERS, Tune, parameter_by_id
from cinetica.motion.simulate import simulate
from cinetica.reading.match.runs import free_number
from cinetica.reading.match.search import Match, match
from cinetica.reading.match.wanted import Wanted, from_trace

FREE = 5
SECTIONS = ("Ground", "Air", "Jump", "Edges")


@dataclass(frozen=True)
class Found:
    """A tune, what was found again, and in how many seconds."""

    true: Tune
    match: Match
    seconds: float


def found_again(seed: int, noise: float = 0.0) -> Found:
    """A random tune of any law and short hop on a drill of the demo, with five numbers that are searched."""
    study, chance = shipped_study("harbour"), random.Random(seed)
    view = chance.choice(("side", "side", "top"))
    tune = Tune(name="Random", view=view)  # type: ignore[arg-type]
    for id in ("drive.law", "jump.short_hop") if view == "side" else ("drive.law",):
        tune = tune.put(id, chance.choice([option.id for option in parameter_by_id(id).choices(view)]))
    numbers = [
        each for each in PARAMETERS
        if each.kind == "number" and each.section in SECTIONS and each.matters(view, tune.values()) and not each.rare
    ]  # fmt: skip
    for each in numbers:
        if each.id not in ("jump.buffer", "jump.coyote"):
            tune = tune.put(each.id, chance.uniform(*each.comfort))
    drill = chance.choice([drill for drill in study.drills if drill.view == view])
    wanted = from_trace(simulate(tune, drill, study.clock))
    if noise:
        random_numbers = np.random.default_rng(seed)
        noisy = {name: values + random_numbers.normal(0, noise, len(values)) for name, values in wanted.columns.items()}
        wanted = Wanted(wanted.time, noisy, {"x": 1.0, "y": 1.0})
    free = chance.sample([each.id for each in numbers], min(FREE, len(numbers)))
    begins = tune
    for id in free:
        begins = begins.put(id, chance.uniform(*parameter_by_id(id).comfort))
    begun = time.perf_counter()
    answer = match(begins, drill, study.clock, wanted, [free_number(begins, id) for id in free])
    return Found(tune, answer, time.perf_counter() - begun)


def rows(count: int = 200, noisy: int = 60) -> list[tuple[str, str, str]]:
    """The rows of docs/benchmarks.md."""
    clean = [found_again(1000 + seed) for seed in range(count)]
    met = sum(each.match.greatest < 1e-6 for each in clean)
    taken = [each.seconds for each in clean]
    clear = right = off = named = 0
    for seed in range(noisy):
        try:
            each = found_again(3000 + seed, 0.02)
        except ValueError:
            # Of a body that never moves nothing can be read.
            continue
        for estimate in each.match.estimates:
            true = float(each.true.get(estimate.free.id))  # type: ignore[arg-type]
            near = abs(estimate.value - true) <= 0.02 * max(abs(true), 1e-3 * (estimate.free.high - estimate.free.low))
            clear, right = clear + estimate.determined, right + (estimate.determined and near)
            off, named = off + (not near), named + (not near and not estimate.determined)
    return [
        (f"{count} random tunes, five numbers each: met to 1e-6 u", f"{100 * met / count:.1f} %", "95 %"),
        ("the same, time of each, median / worst", f"{statistics.median(taken):.2f} / {max(taken):.1f} s", "10 s"),
        ("with noise of 0.02 u: numbers said to be determined, right within 2 %", f"{right} of {clear}", ""),
        ("the same: numbers that are off by more, said not to be determined", f"{named} of {off}", "95 %"),
    ]
