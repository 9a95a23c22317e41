"""What single values do to the figures of a column: each left out in turn, in closed form.

With y the deviation from the mean in SDs (n in the denominator), the sums of y, y², y³ and y⁴ without one value follow
from those with it, which the skewness and kurtosis are (Joanes & Gill 1998 for the adjusted coefficients, Pébay 2008
for moving sums to another centre). Where a value is nearly all of such a sum, too few digits of the others would be
left: then, and only then, these are added up again.
"""

from dataclasses import dataclass

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.pair_sums import PairSums, p_values, pair_sums
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.result import PairCorrelation, present_pairs

__all__ = ["LeftOut", "left_out", "pearson_left_out", "pearson_moved", "pearson_without", "sums_of"]

_FEW = 5
_ENOUGH = 0.01
"""Share of a sum that must be left: what is taken away costs the rest no more than two digits."""


@dataclass(frozen=True, eq=False)
class LeftOut:
    """Figures of the column without each of ``rows`` (from 0, shape ``(k,)``) in turn, all of the same shape.

    ``mean`` and ``sd`` (n−1) are in the column's unit, ``skewness`` is G1, ``excess_kurtosis`` G2.
    """

    rows: Ints
    mean: Floats
    sd: Floats
    skewness: Floats
    excess_kurtosis: Floats


def left_out(sample: Sample, rows: Ints) -> LeftOut:
    """The figures of a sample without each of some values in turn, in closed form.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    rows
        The rows (from 0) of these values.

    Returns
    -------
    LeftOut
        Mean, SD, skewness and kurtosis without each, in the order of ``rows``.

    Raises
    ------
    StatisticsError
        For fewer than five values, values without a spread, and a row without a value.

    References
    ----------
    Pébay, P. 2008: Formulas for robust, one-pass parallel computation of covariances and arbitrary-order statistical
    moments. Sandia report SAND2008-6212.
    """
    centre = sample.moments
    if centre is None or centre.n < _FEW or not centre.sd_n or centre.g1 is None or centre.g2 is None:
        raise StatisticsError("Leaving values out one by one needs at least five of them, and a spread.")
    x = sample.values[rows]
    if not np.isfinite(x).all():
        raise StatisticsError("One of these rows has no value to leave out.")
    n, m = centre.n, centre.n - 1
    y = (x - centre.mean) / centre.sd_n
    first = -y / m
    second, third, fourth = (n - y**2) / m, (n * centre.g1 - y**3) / m, (n * (centre.g2 + 3) - y**4) / m
    spread = np.maximum(second - first**2, 0)
    with np.errstate(divide="ignore", invalid="ignore"):
        g1 = (third - 3 * first * second + 2 * first**3) / spread**1.5
        g2 = (fourth - 4 * first * third + 6 * first**2 * second - 3 * first**4) / spread**2 - 3
    found = LeftOut(
        rows,
        centre.mean + first * centre.sd_n,
        centre.sd_n * np.sqrt(spread * (m / (m - 1))),
        g1 * np.sqrt(m * (m - 1)) / (m - 2),
        (m - 1) / ((m - 2) * (m - 3)) * ((m + 1) * g2 + 6),
    )
    too_few_digits = (spread < _ENOUGH) | (fourth * m < _ENOUGH * n * (centre.g2 + 3))
    for position in np.flatnonzero(too_few_digits):
        _add_up_again(found, int(position), sample)
    return found


def _add_up_again(found: LeftOut, position: int, sample: Sample) -> None:
    """Put the figures without the row at ``position`` as the other values of ``sample`` themselves have them."""
    rest = sample.without(found.rows[[position]]).moments
    assert rest is not None and rest.sd is not None
    found.mean[position], found.sd[position] = rest.mean, rest.sd
    found.skewness[position] = np.nan if rest.skewness is None else rest.skewness
    found.excess_kurtosis[position] = np.nan if rest.excess_kurtosis is None else rest.excess_kurtosis


def sums_of(x: Floats, y: Floats) -> PairSums | None:
    """The sums over the present pairs of ``x`` and ``y`` (both shape ``(rows,)``); None where they have no r."""
    both = present_pairs(x, y)
    return pair_sums(x[both], y[both])


def _standardised(sums: PairSums, x: Floats, y: Floats, rows: Ints) -> tuple[Floats, Floats, Bools]:
    """The values of ``rows`` in SDs from the mean, 0 where a row lacks one of the two, and which rows lack none."""
    a, b = x[rows], y[rows]
    there = np.isfinite(a) & np.isfinite(b)
    with np.errstate(invalid="ignore"):
        u, v = (a - sums.means[0]) / sums.sds[0], (b - sums.means[1]) / sums.sds[1]
    return np.where(there, u, 0.0), np.where(there, v, 0.0), there


def pearson_left_out(sums: PairSums | None, x: Floats, y: Floats, rows: Ints) -> Floats:
    """Pearson's r without each of some rows in turn.

    Parameters
    ----------
    sums
        The sums of all pairs, as by `pair_sums`; None where there is no coefficient.
    x, y
        Two columns, both of shape ``(rows,)``, in any units; rows where either is missing or infinite are left out.
    rows
        The rows (from 0) that are left out in turn.

    Returns
    -------
    array
        The coefficients, in the order of ``rows``; NaN where nothing is left to correlate. A row that lacks one of the
        two leaves the coefficient as it is.

    References
    ----------
    Pébay, P. 2008: Formulas for robust, one-pass parallel computation of covariances and arbitrary-order statistical
    moments. Sandia report SAND2008-6212.
    """
    if sums is None or sums.n < 4:
        return np.full(rows.size, np.nan)
    a, b, there = _standardised(sums, x, y, rows)
    n, m = sums.n, np.where(there, sums.n - 1.0, float(sums.n))
    with np.errstate(divide="ignore", invalid="ignore"):
        across = (n * sums.r - a * b) / m - a * b / m**2
        spreads = [(n - c**2) / m - c**2 / m**2 for c in (a, b)]
        found = np.clip(across / np.sqrt(spreads[0] * spreads[1]), -1, 1)
    for position in np.flatnonzero(np.minimum(*spreads) < _ENOUGH):
        r = _without(x, y, rows[[position]]).r
        found[position] = np.nan if r is None else r
    return np.asarray(found)


def _without(x: Floats, y: Floats, rows: Ints) -> PairCorrelation:
    """Pearson's r of the pairs left without ``rows``, added up again."""
    left = x.copy()
    left[rows] = np.nan
    return pearson(left, y)


def pearson_moved(sums: PairSums | None, x: Floats, y: Floats, row: int, value: float) -> float | None:
    """Pearson's r of ``x`` and ``y`` (shape ``(rows,)``) with the value of ``x`` in ``row`` moved to ``value``.

    ``sums`` are those of the pairs as they are. None where there is no coefficient; a pair that lacks a value leaves
    it as it is.
    """
    if sums is None or not np.isfinite(x[row] + y[row]):
        return None if sums is None else sums.r
    (mean, centre), (sd, spread), n = sums.means, sums.sds, sums.n
    a, moved, b = (float(x[row]) - mean) / sd, (value - mean) / sd, (float(y[row]) - centre) / spread
    variance = 1 + (moved**2 - a**2) / n - ((moved - a) / n) ** 2
    if variance < _ENOUGH:
        changed = x.copy()
        changed[row] = value
        return pearson(changed, y).r
    return float(np.clip((sums.r + (moved - a) * b / n) / np.sqrt(variance), -1, 1))


def pearson_without(sums: PairSums | None, x: Floats, y: Floats, rows: Ints) -> PairCorrelation:
    """Pearson's r without some rows together.

    Taken from the sums of all pairs where enough of them is left for their digits to hold, otherwise added up again.

    Parameters
    ----------
    sums
        The sums of all pairs, as by `pair_sums`; None where there is no coefficient.
    x, y
        Two columns, both of shape ``(rows,)``, in any units; rows where either is missing or infinite are left out.
    rows
        The rows (from 0) that are left out.

    Returns
    -------
    PairCorrelation
        Coefficient, two-sided p and n; both None with a note where there is none.

    References
    ----------
    Pébay, P. 2008: Formulas for robust, one-pass parallel computation of covariances and arbitrary-order statistical
    moments. Sandia report SAND2008-6212.
    """
    if sums is not None:
        a, b, there = _standardised(sums, x, y, rows)
        m = sums.n - int(np.count_nonzero(there))
        if m >= _FEW:
            first, second = float(a.sum()) / m, float(b.sum()) / m
            spreads = [(sums.n - float(c @ c)) / m - centre**2 for c, centre in ((a, first), (b, second))]
            if min(spreads) > _ENOUGH:
                across = (sums.n * sums.r - float(a @ b)) / m - first * second
                r = min(max(across / float(np.sqrt(spreads[0] * spreads[1])), -1.0), 1.0)
                return PairCorrelation("pearson", r, float(p_values(np.array(r), np.array(float(m)))), m)
    return _without(x, y, rows)
