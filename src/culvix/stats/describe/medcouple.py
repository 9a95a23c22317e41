"""The medcouple, a skewness between −1 and 1 that a quarter of the values cannot upset (Brys, Hubert & Struyf 2004).

It is the median of h(a, b) = ((b − m) − (m − a)) / (b − a) over all pairs with a ≤ median m ≤ b; pairs of values
equal to the median are ranked as in the paper. Time O(n log n), memory O(n).
"""

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample, once
from culvix.stats.core.selection import kth_and_next, kth_smallest

__all__ = ["medcouple"]

_HUGE = 1e307
_ROUNDING = 4e-15
"""What rounding may part kernels by that are equal."""


@once
def medcouple(sample: Sample) -> float | None:
    """The medcouple, a skewness that a quarter of the values cannot upset.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.

    Returns
    -------
    float or None
        From −1 to 1; None below n = 3 and where all values are equal.

    References
    ----------
    Brys, G., Hubert, M. & Struyf, A. 2004: A robust measure of skewness. Journal of Computational and Graphical
    Statistics 13, 996-1017.
    """
    x, n = sample.sorted, sample.n
    if n < 3 or x[0] == x[-1]:
        return None
    z = _about_the_median(x)
    below, above = z[z <= 0], z[z >= 0]
    return _middle_kernel(below, above)


def _about_the_median(x: Floats) -> Floats:
    """``x`` (ascending) less its median, in units of the farthest: differences come first, so that no offset costs."""
    low, high = float(x[(x.size - 1) // 2]), float(x[x.size // 2])
    if max(-float(x[0]), float(x[-1])) > _HUGE:
        x, low, high = x / 8, low / 8, high / 8
    # Twice the distance from the middle of both, which itself may have no place between two doubles.
    z = (x - low) + (x - high)
    return np.asarray(z / max(float(z[-1]), -float(z[0])))


def _middle_kernel(below: Floats, above: Floats) -> float:
    """The median of the kernels: a row for each value at or below the median, ascending along those above."""
    tied = int((below == 0).sum())
    strict, rows = below.size - tied, np.arange(below.size)

    def value(row: Ints, position: Ints) -> Floats:
        a, b = below[row], above[position]
        span = b - a
        with np.errstate(divide="ignore", invalid="ignore"):
            h = (b + a) / span
        # Among pairs of ties the kernel is the sign of their distance from the diagonal.
        return np.where(span == 0, np.sign(position + (row - strict) - (tied - 1.0)), h)

    def count(bound: float) -> Ints:
        # No kernel is above 1.
        edge = -below * ((1 + bound) / (1 - bound)) if bound < 1 else np.where(below < 0, np.inf, 0.0)
        positions = np.searchsorted(above, edge, side="right")
        # In the rows of ties: places before the diagonal hold −1, on it 0, and all others 1.
        diagonal = tied - 1 - (rows - strict) + (1 if bound >= 0 else 0)
        return np.where(rows < strict, positions, np.clip(diagonal, 0, tied))

    sizes = np.full(below.size, above.size)
    total, start = below.size * above.size, -1.0 - 1e-9
    if total % 2:
        return kth_smallest(total // 2 + 1, start, 1.0, sizes, count, value, _ROUNDING)
    return sum(kth_and_next(total // 2, start, 1.0, sizes, count, value, _ROUNDING)) / 2
