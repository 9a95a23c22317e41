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

from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.core.moments import standardise
from culvix.stats.core.row_sums import ROW, RowSums
from culvix.stats.core.sums import blocks, plain_dot, plain_sum

__all__ = ["EdfDistances", "edf_distances"]

_NARROW = 2.0**-8
"""Widest row, in SDs, over which a polynomial of the fourth degree is exact: its error is below 1e-15."""

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


def edf_distances(x: Floats, mean: float, sd: float, rows: RowSums | None = None) -> EdfDistances:
    """Distances of ``x`` (shape ``(n,)``, ascending) from the normal with ``mean`` and ``sd`` > 0.

    ``rows`` are the sums over its rows, where they are known.
    """
    running = _Running(int(x.size))
    if rows is None:
        _one_by_one(running, x, np.arange(x.size), mean, sd)
        return running.distances
    narrow = rows.width <= _NARROW * sd
    wide = (rows.starts[~narrow, None] + np.arange(ROW)).ravel()
    _one_by_one(running, x, np.concatenate((rows.left, wide)), mean, sd)
    if narrow.any():
        _by_rows(running, x, rows, narrow, mean, sd)
    return running.distances


def _one_by_one(running: _Running, x: Floats, positions: np.ndarray, mean: float, sd: float) -> None:
    n = running.n
    for part in blocks(positions.size):
        position = positions[part]
        y = standardise(x[position], mean, sd)
        odd = 2.0 * position + 1
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


def _by_rows(running: _Running, x: Floats, rows: RowSums, narrow: Bools, mean: float, sd: float) -> None:
    n = running.n
    powers = _power_sums(rows, narrow, sd)
    c = (rows.middles[narrow] - mean) / sd
    before: Floats = rows.starts[narrow].astype(np.float64)
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
    _largest_gap(running, x, rows.starts[narrow], mean, sd)


def _odd() -> Floats:
    return np.arange(1.0, 2 * ROW, 2.0)


def _power_sums(rows: RowSums, narrow: Bools, sd: float) -> tuple[Floats, Floats]:
    """Sums of powers 0 to 4 of (x − middle)/sd over each row, plain and times 1, 3, 5 …; shapes ``(5, rows)``."""
    found = []
    for weighted, whole in enumerate((float(ROW), float(_odd().sum()))):
        sums = np.empty((5, int(np.count_nonzero(narrow))))
        sums[0] = whole
        for degree in range(4):
            np.divide(rows.powers[narrow, degree, weighted], sd ** (degree + 1), out=sums[degree + 1])
        found.append(sums)
    return found[0], found[1]


def _of(taylor: Floats, powers: tuple[Floats, Floats]) -> tuple[Floats, Floats]:
    """Plain and weighted sums over each row of the function with the given coefficients (shape ``(5, rows)``)."""
    return (taylor * powers[0]).sum(axis=0), (taylor * powers[1]).sum(axis=0)


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


def _largest_gap(running: _Running, x: Floats, starts: Ints, mean: float, sd: float) -> None:
    """Gaps at both ends of each row; within a row only where its bounds pass what has been found."""
    n = running.n
    low = ndtr((x[starts] - mean) / sd) - (starts + 0.5) / n
    high = ndtr((x[starts + ROW - 1] - mean) / sd) - (starts + ROW - 0.5) / n
    running.reach(low)
    running.reach(high)
    # Shares and steps both rise along a row, so no gap can pass the last share less the first step.
    slack = (ROW - 1) / n
    doubtful = (high + slack > max(running.highest, -running.lowest)) | (
        low - slack < min(running.lowest, -running.highest)
    )
    positions = starts[doubtful, None] + np.arange(ROW)
    running.reach(ndtr((x[positions] - mean) / sd) - (positions + 0.5) / n)
