"""The dip test of unimodality: does the column have more than one peak?

The dip is the largest distance between the empirical distribution function and the unimodal one nearest to it (Hartigan
& Hartigan 1985). Of many equal values only those at the mode may make a jump, as the definition has it; values recorded
in steps are taken to lie anywhere in their step, since each step would otherwise be a peak. The p value is counted in
seeded uniform samples, which of all unimodal ones dip most, recorded in as many steps.
"""

from dataclasses import dataclass
from functools import lru_cache
from math import sqrt

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.recorded_steps import recorded_step
from culvix.stats.core.sample import Sample
from culvix.stats.resampling.simulation import SEED, SimulatedP, check_repeats, simulated_share

__all__ = ["DipResult", "dip", "dip_test"]

_LEAST = 4
_LONGEST_SIMULATED = 500
"""From here on √n · dip of uniform samples hardly changes with n."""

_MOST_STEPS = 1000
"""Uniform values in more steps than this are as good as continuous ones."""

_AT_ONCE = 50
_FEW = 400


@dataclass(frozen=True)
class DipResult:
    """The dip, from 0 to ¼, and its simulated p; both None where ``note`` says why."""

    dip: float | None
    p: SimulatedP | None
    n: int
    note: str | None = None


def dip_test(sample: Sample, *, repeats: int = 999, seed: int = SEED, progress: Progress = silent) -> DipResult:
    """Test whether ``sample`` comes from a distribution with one peak.

    Parameters
    ----------
    sample
        The values, in any unit: the dip has none and does not change with it.
    repeats, seed
        How many uniform samples the p value is counted in, and what they begin from.
    progress
        Told how far the simulation is; whatever it raises ends the work.

    Returns
    -------
    DipResult
        A small p speaks for two peaks or more. Above 500 values the samples have 500 and their dips shrink as 1/√n.

    Raises
    ------
    StatisticsError
        For fewer than one repeat.

    References
    ----------
    Hartigan, J. A. & Hartigan, P. M. 1985: The dip test of unimodality. Annals of Statistics 13, 70-84.
    """
    check_repeats(repeats)
    n = sample.n
    if n < _LEAST:
        return DipResult(None, None, n, f"The dip test needs n ≥ {_LEAST}; n is {n}.")
    if sample.distinct < 3:
        return DipResult(None, None, n, "Fewer than three different values have no peaks to tell apart.")
    found, simulated = dip(sample), min(n, _LONGEST_SIMULATED)
    steps = _steps(sample) if sample.distinct < n else 0
    extreme, least = 0, found * sqrt(n / simulated) * (1 - 1e-12)
    for first in range(0, repeats, _AT_ONCE):
        progress(first / repeats, "simulating uniform samples")
        dips = _uniform_dips(simulated, steps, min(_AT_ONCE, repeats - first), (seed, first))
        extreme += int(np.count_nonzero(dips >= least))
    return DipResult(found, simulated_share(extreme, repeats, seed), n)


def dip(sample: Sample) -> float:
    """The dip: the distance of a sample from the unimodal distribution nearest to it.

    Parameters
    ----------
    sample
        The values, at least one, in any unit: the dip has none.

    Returns
    -------
    float
        0 where one peak fits exactly, at most ¼.

    References
    ----------
    Hartigan, J. A. & Hartigan, P. M. 1985: The dip test of unimodality. Annals of Statistics 13, 70-84.
    """
    values, counts = sample.runs
    ends, n = np.cumsum(counts), sample.n
    x = np.asarray(values, dtype=np.float64)
    # Shifted and scaled, so that no difference of theirs overflows.
    x = x / 2 - x[0] / 2
    x = x / x[-1] if x[-1] else x
    step = recorded_step(sample) if values.size < n else None
    if step is None:
        # Values that differ by less than the scale can show are one.
        first = np.flatnonzero(np.concatenate(([True], x[1:] > x[:-1])))
        last = np.append(first[1:], x.size) - 1
        return _dip(x[first], (ends - counts)[first] / n, ends[last] / n)
    half = (step / 4) / (float(sample.sorted[-1]) / 2 - float(sample.sorted[0]) / 2) if x.size > 1 else 1.0
    return _dip_of_cells(x - half, x + half, ends / n)


def _dip_of_cells(left: Floats, right: Floats, shares: Floats) -> float:
    """The dip where values lie evenly between ``left`` and ``right`` of each cell; ``shares`` up to its right end."""
    edges = np.column_stack((left, right)).ravel()
    heights = np.column_stack((np.concatenate(([0.0], shares[:-1])), shares)).ravel()
    # Neighbours share an edge, where rounding may put the right one first.
    edges = np.maximum.accumulate(edges)
    return _dip(edges, heights, heights)


def _steps(sample: Sample) -> int:
    """In how many steps of their recording the values stand; 0 where these are too fine to matter."""
    step = recorded_step(sample)
    steps = (float(sample.sorted[-1]) - float(sample.sorted[0])) / step if step else 0.0
    return round(steps) + 1 if steps < _MOST_STEPS else 0


@lru_cache(maxsize=4096)
def _uniform_dips(n: int, steps: int, many: int, seed: tuple[int, int]) -> Floats:
    """The dips of so ``many`` uniform samples of ``n`` values, in ``steps`` steps where these are not 0."""
    draw = np.random.Generator(np.random.PCG64((*seed, n, steps)))
    found = np.empty(many)
    positions, below = np.arange(steps, dtype=np.float64), np.arange(n + 1) / n
    for repeat in range(many):
        if steps:
            counts = np.bincount(draw.integers(0, steps, n), minlength=steps)
            found[repeat] = _dip_of_cells(positions, positions + 1, np.cumsum(counts) / n)
        else:
            found[repeat] = _dip(np.sort(draw.random(n)), below[:-1], below[1:])
    return found


def _dip(x: Floats, low: Floats, high: Floats) -> float:
    """The dip of a distribution function with limits ``low`` from the left and ``high`` at ascending ``x``.

    Between them it is flat or straight.
    """
    found = _dip_without_jump(x, low, high)
    masses = high - low
    mode = int(np.argmax(masses))
    # Only the largest jump can be the mode's and pay: with another as mode this one would cost half of itself.
    before = _distance(high, _convex(x[: mode + 1], low[: mode + 1]), slice(0, mode))
    after = _distance(_concave(x[mode:], high[mode:]), low[mode:], slice(1, None))
    with_jump = max(before, after)
    return min(found, with_jump) / 2 if masses[mode] >= with_jump else found / 2


def _distance(upper: Floats, lower: Floats, where: slice) -> float:
    shorter = min(upper.size, lower.size)
    return float((upper[:shorter] - lower[:shorter])[where].max(initial=0.0))


def _dip_without_jump(x: Floats, low: Floats, high: Floats) -> float:
    """Twice the distance to the nearest continuous unimodal function, by narrowing down where its mode lies."""
    first, last, found = 0, x.size - 1, 0.0
    while True:
        part = slice(first, last + 1)
        minorant, touches_low = _hull(x[part], low[part])
        majorant, touches_high = _hull(x[part], -high[part])
        gap = -majorant - minorant
        at_low, at_high = touches_low[np.argmax(gap[touches_low])], touches_high[np.argmax(gap[touches_high])]
        if gap[at_low] >= gap[at_high]:
            left, right = at_low, touches_high[np.searchsorted(touches_high, at_low)]
        else:
            left, right = touches_low[np.searchsorted(touches_low, at_high, side="right") - 1], at_high
        if max(gap[at_low], gap[at_high]) <= found:
            return found
        outside_left = float((high[part] - minorant)[: left + 1].max())
        outside_right = float((-majorant - low[part])[right:].max())
        found = max(found, outside_left, outside_right)
        if left == 0 and right == last - first:
            return found
        first, last = first + int(left), first + int(right)


def _convex(x: Floats, y: Floats) -> Floats:
    return _hull(x, y)[0]


def _concave(x: Floats, y: Floats) -> Floats:
    return -_hull(x, -y)[0]


def _hull(x: Floats, y: Floats) -> tuple[Floats, Ints]:
    """The largest convex function below the points (``x`` ascending), at each ``x``; and the points it touches."""
    remaining = np.arange(x.size)
    while remaining.size > _FEW:
        # A point on or above the line between its neighbours is no corner, whatever becomes of the others.
        left, here, right = remaining[:-2], remaining[1:-1], remaining[2:]
        above = (y[here] - y[left]) * (x[right] - x[left]) >= (y[right] - y[left]) * (x[here] - x[left])
        if not above.any():
            break
        rest = np.concatenate(([True], ~above, [True]))
        fewer = remaining[rest]
        if fewer.size > 0.95 * remaining.size:
            remaining = fewer
            break
        remaining = fewer
    corners = _corners(x[remaining].tolist(), y[remaining].tolist())
    touched = remaining[corners]
    return np.interp(x, x[touched], y[touched]), touched


def _corners(x: list[float], y: list[float]) -> list[int]:
    """The places of the corners of the largest convex function below the points."""
    found: list[int] = []
    for position, (here, height) in enumerate(zip(x, y, strict=True)):
        while len(found) > 1:
            a, b = found[-2], found[-1]
            if (y[b] - y[a]) * (here - x[a]) < (height - y[a]) * (x[b] - x[a]):
                break
            found.pop()
        found.append(position)
    return found
