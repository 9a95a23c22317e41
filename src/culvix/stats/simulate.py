"""Seeded random work: Monte Carlo p values of normality tests, and permutation p values.

A p value from m random repeats is (1 + as extreme) / (1 + m), never 0 (Davison & Hinkley 1997), with a standard
error. The seed is part of the settings, so the same study gives the same numbers again.
"""

from collections.abc import Callable
from dataclasses import dataclass
from math import sqrt

import numpy as np

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.arrays import Floats
from culvix.stats.normality.result import NormalityResult
from culvix.stats.sample import Sample

__all__ = ["SimulatedP", "monte_carlo_normality", "permutation_p"]

SEED = 20260318
_LOW_IS_EXTREME = frozenset({"shapiro_wilk", "shapiro_francia"})


@dataclass(frozen=True)
class SimulatedP:
    """A p value from ``repeats`` random repeats, with its standard error and the seed that reproduces it."""

    p: float
    standard_error: float
    repeats: int
    seed: int


def _share(extreme: int, repeats: int, seed: int) -> SimulatedP:
    p = (1 + extreme) / (1 + repeats)
    return SimulatedP(p, sqrt(p * (1 - p) / repeats), repeats, seed)


def _check(repeats: int) -> None:
    if repeats < 1:
        raise StatisticsError(f"At least one random repeat is needed, not {repeats}.")


def monte_carlo_normality(
    run: Callable[[Sample], NormalityResult],
    sample: Sample,
    *,
    repeats: int = 2000,
    seed: int = SEED,
    progress: Progress = silent,
) -> SimulatedP | None:
    """p of the test ``run`` from normal samples of the same n; None where the test cannot be made.

    Raises StatisticsError for fewer than one repeat, and whatever ``progress`` raises.
    """
    _check(repeats)
    observed = run(sample)
    if observed.statistic is None:
        return None
    draw = np.random.Generator(np.random.PCG64(seed))
    extreme = 0
    for turn in range(repeats):
        if turn % 50 == 0:
            progress(turn / repeats, f"simulating {observed.method}")
        simulated = run(Sample(draw.standard_normal(sample.n))).statistic
        assert simulated is not None
        low = observed.method in _LOW_IS_EXTREME
        extreme += simulated <= observed.statistic if low else simulated >= observed.statistic
    return _share(extreme, repeats, seed)


def permutation_p(
    statistic: Callable[[Floats], float],
    y: Floats,
    *,
    repeats: int = 499,
    seed: int = SEED,
    progress: Progress = silent,
) -> SimulatedP:
    """Share of random orders of ``y`` (shape ``(n,)``) whose ``statistic`` is at least that of ``y`` as it stands.

    Raises StatisticsError for fewer than one repeat, and whatever ``progress`` raises.
    """
    _check(repeats)
    observed = statistic(y)
    draw = np.random.Generator(np.random.PCG64(seed))
    extreme = 0
    for turn in range(repeats):
        progress(turn / repeats, "permuting")
        extreme += statistic(draw.permutation(y)) >= observed * (1 - 1e-12)
    return _share(extreme, repeats, seed)
