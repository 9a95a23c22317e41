"""Mean, spread, skewness and kurtosis of a long ascending column from the sums over its rows."""

from dataclasses import replace
from math import fsum, sqrt

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.moments import Moments, about_the_mean, central_sums
from culvix.stats.core.row_sums import ROW, RowSums
from culvix.stats.core.sums import careful_sum

__all__ = ["moments_by_rows"]


def moments_by_rows(x: Floats, sums: RowSums, whole: int | None = None) -> Moments:
    """Moments of ``x`` (shape ``(n,)``, ascending), whose rows have the ``sums``, as by `moments`.

    ``whole`` is the exact sum of whole numbers, where it is known.
    """
    n, rest = sums.n, x[sums.left]
    first, second, third, fourth = np.ascontiguousarray(sums.powers[:, :, 0].T)
    total = fsum((careful_sum(ROW * sums.middles), careful_sum(first), careful_sum(rest)))
    centre = total / n
    c = sums.middles - centre
    by_rows = (
        ROW * c + first,
        c * (ROW * c + 2 * first) + second,
        c * (c * (ROW * c + 3 * first) + 3 * second) + third,
        c * (c * (c * (ROW * c + 4 * first) + 6 * second) + 4 * third) + fourth,
    )
    by_values = central_sums(rest, centre)
    one, two, three, four = (float(of.sum()) + left for of, left in zip(by_rows, by_values, strict=True))
    # Far from zero the total is rounded more than the deviations are, near to it less.
    left_over = one if abs(centre) > max(x[-1] - centre, centre - x[0]) else 0.0
    m2, m3, m4 = about_the_mean(n, (one, two, three, four))
    mean = centre + left_over / n
    found = Moments(
        n, total + left_over, mean, sqrt(m2 * n / (n - 1)), sqrt(m2), m3 / (m2 * sqrt(m2)), m4 / (m2 * m2) - 3
    )
    # Division of integers rounds once.
    return found if whole is None else replace(found, sum=whole, mean=whole / n)
