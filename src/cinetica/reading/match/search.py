"""The search for numbers: SciPy's differential evolution on batches of runs, alternating with least squares."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import product

import numpy as np

from cinetica.model.clock import Clock
from cinetica.model.parameters import Value
from cinetica.model.study import Drill
from cinetica.model.tune import PARAMETERS, Tune, parameter_by_id
from cinetica.motion.simulate import simulate
from cinetica.reading.match.estimates import Estimate, estimates_of
from cinetica.reading.match.runs import Free, Runs, free_number
from cinetica.reading.match.wanted import Numbers, Wanted, check

# Members of a population per free number, generations per round, and the RMS residual (u) that counts as met.
MEMBERS, GENERATIONS, MET = 10, 25, 2e-8
STARTS, STEPS, STILL = 4, 40, 8
# The step of a difference, as a share of the bounds.
STEP = 1e-6
# The time limit of a search, in s.
PATIENCE = 10.0
# A residual below this (u, for a body of the usual size) is not worth freeing a number; at most this many are freed.
HAIR, MOST_FREED = 1e-3, 6
# Shifts that are tried for a curve with an uncertain start, in ticks: a log may lag by half a frame.
MOVES = (0.0, -0.5, 0.5, -1.0, 1.0)
# The groups of numbers that are chosen automatically: how the body moves, not how it is steered or seen.
OF_MOTION = ("drive", "gravity", "jump", "climb", "wall", "dash")


@dataclass(frozen=True)
class Gap:
    """The residual of one channel: the greatest and the mean gap, in its unit, and the time of the greatest, in s."""

    greatest: float
    mean: float
    time: float


@dataclass(frozen=True, eq=False)
class Match:
    """The best match so far: the tune, its residuals, and an estimate of each number.

    `off` is the RMS of all residuals, in u. `choices` are the values of the choices that were left open. `moved` is how
    much later the wanted curve fits best, in s.
    """

    tune: Tune
    off: float
    gaps: Mapping[str, Gap]
    estimates: tuple[Estimate, ...] = ()
    choices: Mapping[str, Value] = field(default_factory=dict)
    moved: float = 0.0
    runs: int = 0
    seconds: float = 0.0

    @property
    def greatest(self) -> float:
        """The greatest position gap in u, or the greatest velocity gap if no position counts."""
        places = [gap.greatest for name, gap in self.gaps.items() if not name.startswith("v")]
        return max(places or [gap.greatest for gap in self.gaps.values()])


def matching(
    tune: Tune, drill: Drill, clock: Clock, wanted: Wanted, free: Sequence[Free],
    choices: Mapping[str, Sequence[Value]] | None = None, *,
    moves: Sequence[float] = (0.0,), seed: int = 0, seconds: float = PATIENCE,
    stops: Callable[[], bool] = lambda: False,
) -> Iterator[tuple[float, Match]]:  # fmt: skip
    """Search for the numbers whose run comes closest to a wanted curve; the same request gives the same result.

    Yields the share of the time that has passed, and the best match so far; finally 1 and the result. Every combination
    of the open `choices` is tried, and each of `moves`, by which the curve may be later (s; see `open_start`). Raises
    ValueError with a reason if the curve is too short, or if no number is free.
    """
    check(wanted)
    if not free:
        raise ValueError("No number may move: choose one at least.")
    begun = time.perf_counter()
    searches = [
        _Search(Runs(changed, drill, clock, wanted.moved(later), _mattering(changed, free)), seed, chosen, later)
        for changed, chosen in _combinations(tune, choices or {})
        for later in moves
    ]
    searches = [each for each in searches if each.runs.free]
    if not searches:
        raise ValueError("None of the numbers that may move has any effect under these choices.")
    best = searches[0]
    while True:
        # The most promising one first, and each of the others in turn.
        for search in sorted(searches, key=lambda each: (each.rounds, each.off)):
            search.go_on()
            best = min(searches, key=lambda each: each.off)
            passed = time.perf_counter() - begun
            if best.off < MET or passed >= seconds or stops() or all(each.is_done for each in searches):
                yield 1.0, best.answer(passed)
                return
            yield min(0.99, passed / seconds), best.so_far(passed)


def match(
    tune: Tune, drill: Drill, clock: Clock, wanted: Wanted, free: Sequence[Free] | Sequence[str],
    choices: Mapping[str, Sequence[Value]] | None = None, *, moves: Sequence[float] = (0.0,), seed: int = 0,
    seconds: float = PATIENCE,
) -> Match:  # fmt: skip
    """The result of `matching`, which it waits for; `free` may be ids alone.

    `wanted` is made by `from_log`, `from_trace`, `from_points` or `from_path`.
    """
    numbers = [free_number(tune, each) if isinstance(each, str) else each for each in free]
    *_, (_, found) = matching(tune, drill, clock, wanted, numbers, choices, moves=moves, seed=seed, seconds=seconds)
    return found


def _combinations(
    tune: Tune, choices: Mapping[str, Sequence[Value]]
) -> Iterator[tuple[Tune, dict[str, Value]]]:  # fmt: skip
    for values in product(*choices.values()):
        chosen = dict(zip(choices, values, strict=True))
        changed = tune
        for id, value in chosen.items():
            changed = changed.put(id, value)
        yield changed, chosen


def _mattering(tune: Tune, free: Sequence[Free]) -> list[Free]:
    values = tune.values()
    return [each for each in free if each.parameter.matters(tune.view, values)]


class _Search:
    """A search with one combination of the open choices, and the curve moved by `moved` s."""

    def __init__(self, runs: Runs, seed: int, choices: dict[str, Value], moved: float) -> None:
        self.runs, self.choices, self.moved = runs, choices, moved
        self.rounds, self.off = 0, np.inf
        self._seed, self._still = seed, 0
        count = len(runs.free)
        now = np.array([float(runs.tune.get(each.id)) for each in runs.free])  # type: ignore[arg-type]
        self.best = np.clip((now - runs.low) / runs.width, 0.0, 1.0) if count else np.zeros(0)
        self._population: Numbers | None = None

    @property
    def is_done(self) -> bool:
        """Whether the curve is met, or further rounds bring no improvement."""
        return self.off < MET or self._still >= STILL

    def go_on(self) -> None:
        """Run another round: generations from random members and the best, then least squares from the best few."""
        from scipy.optimize import differential_evolution

        before = self.off
        count = max(8, MEMBERS * len(self.runs.free))
        chance = np.random.default_rng((self._seed, self.rounds))
        population = chance.random((count, len(self.runs.free)))
        if self._population is not None:
            # The better half stays; the other members are new.
            population[: count // 2] = self._population[: count // 2]
        population[-1] = self.best
        kept: list[Numbers] = []

        def note(intermediate_result: object) -> None:
            kept[:] = [intermediate_result.population.copy()]  # type: ignore[attr-defined]

        differential_evolution(
            lambda members: self.runs.costs(members.T), [(0.0, 1.0)] * len(self.runs.free), maxiter=GENERATIONS,
            init=population, polish=False, updating="deferred", vectorized=True, tol=0, atol=0,
            rng=np.random.default_rng((self._seed, self.rounds, 1)), callback=note,
        )  # fmt: skip
        members = kept[0] if kept else population
        members = members[np.argsort(self.runs.costs(members), kind="stable")]
        self._population = members
        for start in _apart(members, STARTS):
            self._polish(start)
            if self.off < MET:
                break
        self.rounds += 1
        self._still = self._still + 1 if self.off > 0.999 * before else 0

    def _polish(self, start: Numbers) -> None:
        from scipy.optimize import least_squares

        moving = ~self.runs.whole
        found = np.clip(start, 0.0, 1.0).copy()

        def off(part: Numbers) -> Numbers:
            shares = found.copy()
            shares[moving] = part
            return self.runs.residuals(shares[np.newaxis])[0]

        def slopes(part: Numbers) -> Numbers:
            return self.runs_slopes(found, part, moving)

        if moving.any():
            inner = np.clip(found[moving], 1e-9, 1.0 - 1e-9)
            result = least_squares(
                off, inner, jac=slopes, bounds=(0.0, 1.0), xtol=1e-15, ftol=1e-15, gtol=1e-15, max_nfev=STEPS
            )
            found[moving] = np.clip(result.x, 0.0, 1.0)
        cost = float(self.runs.costs(found[np.newaxis])[0])
        if cost < self.off:
            self.off, self.best = cost, found

    def runs_slopes(self, shares: Numbers, part: Numbers, moving: Numbers) -> Numbers:
        """The Jacobian of the residuals with respect to the shares that move, by central differences."""
        whole = np.repeat(shares[np.newaxis], 2 * len(part), axis=0)
        places = np.flatnonzero(moving)
        whole[:, places] = part
        for number, place in enumerate(places):
            whole[2 * number, place] = min(1.0, part[number] + STEP)
            whole[2 * number + 1, place] = max(0.0, part[number] - STEP)
        off = self.runs.residuals(whole)
        wide = whole[0::2, places].diagonal() - whole[1::2, places].diagonal()
        slopes: Numbers = ((off[0::2] - off[1::2]) / wide[:, np.newaxis]).T
        return slopes

    def so_far(self, seconds: float) -> Match:
        """The best match so far, without estimates."""
        tune = self.runs.tune_at(self.best)
        return Match(tune, self.off, gaps_of(tune, self.runs), (), self.choices, self.moved, self.runs.count, seconds)

    def answer(self, seconds: float) -> Match:
        """The best match, with an estimate of each number."""
        if not np.isfinite(self.off):
            self.off = float(self.runs.costs(self.best[np.newaxis])[0])
        estimates = estimates_of(self.runs, self.best, self.off, self.runs_slopes)
        tune = self.runs.tune_at(self.best)
        return Match(
            tune, self.off, gaps_of(tune, self.runs), estimates, self.choices, self.moved, self.runs.count, seconds
        )


def _apart(members: Numbers, count: int) -> list[Numbers]:
    """The best members, at most `count`, that are well apart from each other."""
    chosen: list[Numbers] = []
    for member in members:
        if all(float(np.abs(member - other).max()) > 0.02 for other in chosen):
            chosen.append(member)
        if len(chosen) == count:
            break
    return chosen


def gaps_of(tune: Tune, runs: Runs) -> dict[str, Gap]:
    """The residual of each channel of the wanted curve."""
    trace, wanted = simulate(tune, runs.drill, runs.clock), runs.wanted
    inside = wanted.time <= trace["time"][-1] + 1e-9
    gaps = {}
    for name, values in wanted.columns.items():
        off = np.abs(np.interp(wanted.time[inside], trace["time"], trace[name]) - values[inside])
        at = int(off.argmax())
        gaps[name] = Gap(float(off[at]), float(off.mean()), float(wanted.time[inside][at]))
    return gaps


def numbers_that_matter(tune: Tune, drill: Drill, clock: Clock, wanted: Wanted) -> list[Free]:
    """The numbers that change the tune's curve most over the wanted stretch, most effective first."""
    values = tune.values()
    free = [
        free_number(tune, each.id)
        for each in PARAMETERS
        if each.kind == "number" and each.matters(tune.view, values) and each.group in OF_MOTION
        and not (each.rare and values[each.id] == each.default)
    ]  # fmt: skip
    runs = Runs(tune, drill, clock, wanted, free)
    now = np.array([float(tune.get(each.id)) for each in free])  # type: ignore[arg-type]
    here = np.clip((now - runs.low) / runs.width, 0.0, 1.0)
    moved = np.repeat(here[np.newaxis], 2 * len(free) + 1, axis=0)
    for place in range(len(free)):
        moved[2 * place, place] = min(1.0, here[place] + 0.1)
        moved[2 * place + 1, place] = max(0.0, here[place] - 0.1)
    off = runs.residuals(moved)
    effect = np.sqrt(np.mean((off[:-1] - off[-1]) ** 2, axis=1)).reshape(-1, 2).max(axis=1)
    order = np.argsort(-effect, kind="stable")[:MOST_FREED]
    return [free[place] for place in order if effect[place] > HAIR * runs.size]


def open_start(clock: Clock) -> tuple[float, ...]:
    """Shifts to try for a curve with an uncertain start, in s: up to a tick, in half ticks."""
    return tuple(ticks / clock.tick_rate for ticks in MOVES)


def open_choices(tune: Tune, ids: Sequence[str]) -> dict[str, tuple[Value, ...]]:
    """Every option of these choices; KeyError for an unknown id, ValueError for an id that is not a choice."""
    found: dict[str, tuple[Value, ...]] = {}
    for id in ids:
        parameter = parameter_by_id(id)
        if parameter.kind == "switch":
            found[id] = (False, True)
        elif parameter.kind == "choice":
            found[id] = tuple(option.id for option in parameter.choices(tune.view))
        else:
            raise ValueError(f"{id} is not a choice; numbers are freed instead.")
    return found
