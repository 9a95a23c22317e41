"""How far the empirical distribution lies from the normal with the sample's mean and SD, by three measures at once.

The largest gap D (Kolmogorov), the summed squared gap W² (Cramér–von Mises) and the gap weighed towards both tails A²
(Anderson–Darling) all need the normal share below every value. In a long column most values stand so close that over
a row of 128 neighbours each of the functions needed is a polynomial of the fourth degree to within rounding: the sums
then follow from sums of powers (matrix products), and only the rows that could hold the largest gap, and those too wide
for a polynomial, are worked out value by value.
"""

from dataclasses import dataclass
from math import fsum, pi, sqrt

import numpy as np
from scipy.special import log_ndtr, ndtr

from culvix.stats.arrays import Bools, Floats
from culvix.stats.moments import standardise
from culvix.stats.sums import BLOCK, blocks, plain_dot, plain_sum

__all__ = ["EdfDistances", "edf_distances"]

_ROW = 128
_NARROW = 2.0**-9
"""Widest row, in SDs, over which a polynomial of the fourth degree is exact: its error is below 1e-16."""

_LONG = 100 * _ROW
"""Values from which rows are worth their while."""

_PLAIN = 4.0
"""SDs from the mean up to which the plain logarithm of a share keeps its digits."""


@dataclass(frozen=True)
class EdfDistances:
    """D, W² and A² of one sample, without any correction for its size."""

    largest: float
    squared: float
    weighted: float


class _Running:
    """Sums and extremes so far."""

    def __init__(self, n: int) -> None:
        self.n = n
        self.lowest = self.highest = 0.0
        self.squares: list[float] = []
        self.logarithms: list[float] = []

    def reach(self, gap: Floats) -> None:
        if gap.size:
            self.lowest, self.highest = min(self.lowest, float(gap.min())), max(self.highest, float(gap.max()))

    @property
    def distances(self) -> EdfDistances:
        return EdfDistances(
            largest=0.5 / self.n + max(self.highest, -self.lowest),
            squared=1 / (12 * self.n) + fsum(self.squares),
            weighted=-self.n - fsum(self.logarithms) / self.n,
        )


def edf_distances(x: Floats, mean: float, sd: float) -> EdfDistances:
    """Distances of ``x`` (shape ``(n,)``, ascending) from the normal with ``mean`` and ``sd`` > 0."""
    n = int(x.size)
    running = _Running(n)
    whole = n // _ROW * _ROW if n >= _LONG else 0
    rows = x[:whole].reshape(-1, _ROW)
    # Beyond the reach of squares every value is taken by itself.
    narrow = (rows[:, -1] - rows[:, 0] <= _NARROW * sd) & (1e-290 < sd < 1e290)
    wide = (np.flatnonzero(~narrow)[:, None] * _ROW + np.arange(_ROW)).ravel()
    _one_by_one(running, x, np.concatenate((wide, np.arange(whole, n))), mean, sd)
    if narrow.any():
        _by_rows(running, rows, narrow, mean, sd)
    return running.distances


def _one_by_one(running: _Running, x: Floats, places: np.ndarray, mean: float, sd: float) -> None:
    n = running.n
    for part in blocks(places.size):
        place = places[part]
        y = standardise(x[place], mean, sd)
        odd = 2.0 * place + 1
        share = ndtr(y)
        # Each step of the empirical distribution is taken at its middle.
        gap = share - odd / (2 * n)
        running.reach(gap)
        running.squares.append(plain_dot(gap, gap))
        running.logarithms.append(plain_dot(2 * n - odd, _logarithms(1 - share, -y)))
        running.logarithms.append(plain_dot(odd, _logarithms(share, y)))


def _logarithms(share: Floats, y: Floats) -> Floats:
    """ln of the shares Φ(y), in their place; in the tail the plain logarithm would lose digits."""
    tail = y < -_PLAIN
    share[tail] = 1.0
    logarithms = np.log(share, out=share)
    logarithms[tail] = log_ndtr(y[tail])
    return logarithms


def _by_rows(running: _Running, rows: Floats, narrow: Bools, mean: float, sd: float) -> None:
    n = running.n
    centres = rows[:, 0] / 2 + rows[:, -1] / 2
    powers = _power_sums(rows, centres, sd)[narrow]
    c = standardise(centres[narrow], mean, sd)
    before: Floats = np.flatnonzero(narrow).astype(np.float64) * _ROW
    share = _taylor_of_share(c)
    share[0] -= before / n
    gap_squares = (_of(_squared(share), powers)[0] - _of(share, powers)[1] / n).tolist()
    running.squares += gap_squares
    running.squares.append(before.size * plain_dot(_odd(), _odd()) / (4.0 * n * n))
    below, below_weighted = _of(_taylor_of_logarithm(c), powers)
    flipped = _taylor_of_logarithm(-c) * np.array([1.0, -1.0, 1.0, -1.0, 1.0])[:, None]
    above, above_weighted = _of(flipped, powers)
    running.logarithms.append(plain_sum(2 * before * below + below_weighted))
    running.logarithms.append(plain_sum(2 * (n - before) * above - above_weighted))
    _largest_gap(running, rows[narrow], before, mean, sd)


def _odd() -> Floats:
    return np.arange(1.0, 2 * _ROW, 2.0)


def _power_sums(rows: Floats, centres: Floats, sd: float) -> Floats:
    """Sums of powers 0 to 4 of (x − centre)/sd over each row, plain and times 1, 3, 5, …; shape ``(rows, 5, 2)``."""
    weights = np.stack((np.ones(_ROW), _odd()), axis=1)
    sums = np.empty((rows.shape[0], 5, 2))
    sums[:, 0] = weights.sum(axis=0)
    step = 2 * BLOCK // _ROW
    for first in range(0, rows.shape[0], step):
        part = slice(first, first + step)
        d = rows[part] - centres[part, None]
        d *= 1 / sd
        power = d
        for degree in range(1, 5):
            power = d if degree == 1 else power * d
            sums[part, degree] = power @ weights
    return sums


def _of(taylor: Floats, powers: Floats) -> tuple[Floats, Floats]:
    """Plain and weighted sums over each row of the function with the given coefficients (shape ``(5, rows)``)."""
    sums = np.einsum("pr,rpw->wr", taylor, powers)
    return sums[0], sums[1]


def _taylor_of_share(c: Floats) -> Floats:
    """Coefficients of Φ(c + d) in powers of d."""
    density = np.exp(-c * c / 2) / sqrt(2 * pi)
    return np.stack((ndtr(c), density, -c * density / 2, (c * c - 1) * density / 6, (3 - c * c) * c * density / 24))


def _taylor_of_logarithm(c: Floats) -> Floats:
    """Coefficients of ln Φ(c + d), by the derivatives of its slope h = φ/Φ, which obeys h′ = −h(c + h)."""
    level = log_ndtr(c)
    h = np.exp(-c * c / 2 - level) / sqrt(2 * pi)
    first = -h * (c + h)
    second = -first * (c + h) - h * (1 + first)
    third = -second * (c + h) - 2 * first * (1 + first) - h * second
    return np.stack((level, h, first / 2, second / 6, third / 24))


def _squared(p: Floats) -> Floats:
    """Coefficients of the square of a polynomial, up to the fourth degree."""
    return np.stack((
        p[0] * p[0],
        2 * p[0] * p[1],
        p[1] * p[1] + 2 * p[0] * p[2],
        2 * (p[0] * p[3] + p[1] * p[2]),
        p[2] * p[2] + 2 * (p[0] * p[4] + p[1] * p[3]),
    ))  # fmt: skip


def _largest_gap(running: _Running, rows: Floats, before: Floats, mean: float, sd: float) -> None:
    """Gaps at both ends of each row; within a row only where its bounds pass what has been found."""
    n = running.n
    low = ndtr(standardise(rows[:, 0], mean, sd)) - (before + 0.5) / n
    high = ndtr(standardise(rows[:, -1], mean, sd)) - (before + _ROW - 0.5) / n
    running.reach(low)
    running.reach(high)
    # Shares and steps both rise along a row, so no gap can pass the last share less the first step.
    slack = (_ROW - 1) / n
    doubtful = (high + slack > max(running.highest, -running.lowest)) | (
        low - slack < min(running.lowest, -running.highest)
    )
    steps = (before[doubtful, None] + np.arange(_ROW) + 0.5) / n
    running.reach(ndtr(standardise(rows[doubtful], mean, sd)) - steps)
