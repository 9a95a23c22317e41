"""Seeded random work: Monte Carlo p values of normality tests, and permutation p values.

A p value from m random repeats is (1 + as extreme) / (1 + m), never 0 (Davison & Hinkley 1997), with a standard
error. The seed is part of the settings, so the same study gives the same numbers again.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import sqrt

import numpy as np

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats
from culvix.stats.core.recorded_steps import recorded_step, rounded_to
from culvix.stats.core.sample import Sample
from culvix.stats.normality.result import NormalityResult

__all__ = ["SEED", "SimulatedP", "check_repeats", "monte_carlo_normality", "permutation_p", "simulated_share"]

SEED = 20260318
_AFFORDABLE = 20_000_000
"""Simulated values that take about two seconds."""

_FINE = 0.005
"""Steps of so many SDs change no statistic by what matters."""

_LOW_IS_EXTREME = frozenset({"shapiro_wilk", "shapiro_francia"})


@dataclass(frozen=True)
class SimulatedP:
    """A p value from ``repeats`` random repeats, with its standard error and the seed that reproduces it."""

    p: float
    standard_error: float
    repeats: int
    seed: int


def simulated_share(extreme: int, repeats: int, seed: int) -> SimulatedP:
    p = (1 + extreme) / (1 + repeats)
    return SimulatedP(p, sqrt(p * (1 - p) / repeats), repeats, seed)


def check_repeats(repeats: int) -> None:
    if repeats < 1:
        raise StatisticsError(f"At least one random repeat is needed, not {repeats}.")


def monte_carlo_normality(
    tests: Mapping[str, Callable[[Sample], NormalityResult]],
    sample: Sample,
    *,
    repeats: int | None = None,
    seed: int = SEED,
    progress: Progress = silent,
) -> dict[str, SimulatedP]:
    """p of tests of normality by simulation, from the same normal samples of the same n.

    Samples stand in the same steps as ``sample`` does, where it was recorded in coarse ones: a test sees these, too.

    Parameters
    ----------
    tests
        The tests, by name.
    sample
        The values, in any unit; missing and infinite ones are left out.
    repeats
        How many samples; without it 2000, in long columns fewer, but never fewer than 19, with which p can just reach
        0.05: the standard error says what they are worth.
    seed
        What the samples begin from.
    progress
        Told how far the work is; whatever it raises ends it.

    Returns
    -------
    dict
        The simulated p by test, without those that cannot be made.

    Raises
    ------
    StatisticsError
        For fewer than one repeat.

    References
    ----------
    Davison, A. C. & Hinkley, D. V. 1997: Bootstrap Methods and their Application. Cambridge University Press, section
    4.2.
    """
    repeats = max(min(2000, _AFFORDABLE // max(sample.n, 1)), 19) if repeats is None else repeats
    check_repeats(repeats)
    observed = {key: result.statistic for key, run in tests.items() if (result := run(sample)).statistic is not None}
    extreme = dict.fromkeys(observed, 0)
    draw = np.random.Generator(np.random.PCG64(seed))
    step = recorded_step(sample)
    for turn in range(repeats if observed else 0):
        if turn % 50 == 0:
            progress(turn / repeats, "simulating normal samples")
        simulated = Sample(_like(sample, draw.standard_normal(sample.n), step))
        for key, value in observed.items():
            statistic = tests[key](simulated).statistic
            # One that rounding made all equal has no statistic, and counts against nothing.
            low = key in _LOW_IS_EXTREME
            extreme[key] += statistic is None or (statistic <= value if low else statistic >= value)
    return {key: simulated_share(count, repeats, seed) for key, count in extreme.items()}


def _like(sample: Sample, z: Floats, step: float | None) -> Floats:
    """Standard normal ``z``, in the steps of ``sample`` where these are coarse; no test hangs on mean and SD."""
    centre = sample.moments
    if step is None or centre is None or not centre.sd or step < _FINE * centre.sd:
        return z
    return rounded_to(centre.mean + centre.sd * z, step, float(sample.sorted[0]))


def permutation_p(
    statistic: Callable[[Floats], float],
    y: Floats,
    *,
    repeats: int = 499,
    seed: int = SEED,
    progress: Progress = silent,
) -> SimulatedP:
    """The share of random orders of a column whose statistic is at least that of the order it has.

    Parameters
    ----------
    statistic
        What is worked out of each order.
    y
        The values, shape ``(n,)``.
    repeats, seed
        How many orders are drawn, and what they begin from.
    progress
        Told how far the work is; whatever it raises ends it.

    Returns
    -------
    SimulatedP
        p with its standard error; never 0.

    Raises
    ------
    StatisticsError
        For fewer than one repeat.

    References
    ----------
    Davison, A. C. & Hinkley, D. V. 1997: Bootstrap Methods and their Application. Cambridge University Press, section
    4.3.
    """
    check_repeats(repeats)
    observed = statistic(y)
    draw = np.random.Generator(np.random.PCG64(seed))
    extreme = 0
    for turn in range(repeats):
        progress(turn / repeats, "permuting")
        extreme += statistic(draw.permutation(y)) >= observed * (1 - 1e-12)
    return simulated_share(extreme, repeats, seed)
