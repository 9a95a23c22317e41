"""Seeded random work: p values counted in random repeats, and permutation p values.

A p value from m random repeats is (1 + as extreme) / (1 + m), never 0 (Davison & Hinkley 1997), with a standard
error. The seed is part of the settings, so the same study gives the same numbers again.
"""

from collections.abc import Callable
from dataclasses import dataclass
from math import sqrt

import numpy as np

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats

__all__ = ["SEED", "SimulatedP", "check_repeats", "permutation_p", "simulated_share"]

SEED = 20260318


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
    for repeat in range(repeats):
        progress(repeat / repeats, "permuting")
        extreme += statistic(draw.permutation(y)) >= observed * (1 - 1e-12)
    return simulated_share(extreme, repeats, seed)
