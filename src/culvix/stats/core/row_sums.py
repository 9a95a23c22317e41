"""Sums of powers and of rank-weighted values of a long ascending column, by rows of neighbours, in one pass.

Over 128 neighbours any smooth weight of the rank, or smooth function of the value, is a polynomial of low degree to
within rounding. The sums that moments, L-moments, normal scores and distances from the normal are made of then follow
from a few numbers a row: its middle, the sums of the powers of the distances from it, and the distances spread over
Chebyshev nodes. Rows much wider than the others, at the ends mostly, are left out; their values are taken one by one.
"""

from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.rank_sums import chebyshev_nodes, spreading
from culvix.stats.core.sums import binary_exponent

__all__ = ["NODES", "ROW", "RowSums", "row_sums"]

ROW = 128
"""Values in a row."""

NODES = 7
"""Nodes that carry a polynomial of the sixth degree exactly."""

_LONG = 100 * ROW
"""Values from which rows are worth their while."""

_AT_ONCE = 96
_WIDE = 1 / 64
"""Widest row, as a share of the distance between the quartiles."""

_SAFE_EXPONENT = 200
"""Fourth powers of values below 2**200 and above 2**-200 stay well inside a double."""


@dataclass(frozen=True, eq=False)
class RowSums:
    """Sums over the rows of an ascending column of ``n`` values that are narrow enough.

    With d = x − middle: ``powers`` (shape ``(rows, 4, 2)``) has Σ d, Σ d², Σ d³ and Σ d⁴, plain and times 1, 3, 5, …
    along the row; ``at_nodes`` (shape ``(rows, 7)``) is such that Σ f(place) d = Σ f(node) at_nodes for any polynomial
    f of at most the sixth degree. Rows are told by the place of their first value, ``starts``, and their ``width``.
    """

    n: int
    starts: Ints
    middles: Floats
    width: Floats
    powers: Floats
    at_nodes: Floats
    left: Ints
    """Places of the values in no such row, ascending."""


def row_sums(x: Floats) -> RowSums | None:
    """The sums over the rows of ``x`` (shape ``(n,)``, ascending, finite).

    None for short columns, and for values whose fourth powers a double may not hold.
    """
    n = int(x.size)
    if n < _LONG or x[0] == x[-1]:
        return None
    low, high = float(x[0]), float(x[-1])
    if not all(abs(binary_exponent(-end, end)) <= _SAFE_EXPONENT for end in (max(-low, high), high / 2 - low / 2)):
        return None
    whole = n // ROW * ROW
    rows = x[:whole].reshape(-1, ROW)
    width = rows[:, -1] - rows[:, 0]
    narrow = width <= _WIDE * (float(x[3 * n // 4]) - float(x[n // 4]))
    positions = np.flatnonzero(narrow)
    middles = rows[:, 0] / 2 + rows[:, -1] / 2
    powers, at_nodes = _one_pass(rows, middles)
    wide = (np.flatnonzero(~narrow)[:, None] * ROW + np.arange(ROW)).ravel()
    return RowSums(
        n=n,
        starts=positions * ROW,
        middles=middles[positions],
        width=width[positions],
        powers=powers[positions],
        at_nodes=at_nodes[positions],
        left=np.concatenate((wide, np.arange(whole, n))),
    )


def _one_pass(rows: Floats, middles: Floats) -> tuple[Floats, Floats]:
    spread = np.ascontiguousarray(spreading(ROW, NODES))
    odd = np.arange(1.0, 2 * ROW, 2.0)
    weights = np.stack((np.ones(ROW), odd), axis=1)
    many = rows.shape[0]
    powers, at_nodes = np.empty((many, 4, 2)), np.empty((many, NODES))
    distances, power = np.empty((_AT_ONCE, ROW)), np.empty((_AT_ONCE, ROW))
    of_nodes = np.stack((np.ones(NODES), 2 * chebyshev_nodes(ROW, NODES) + 1), axis=1)
    for first in range(0, many, _AT_ONCE):
        part = slice(first, min(first + _AT_ONCE, many))
        d, p = distances[: part.stop - first], power[: part.stop - first]
        np.subtract(rows[part], middles[part, None], out=d)
        at_nodes[part] = d @ spread
        np.multiply(d, d, out=p)
        for degree in range(1, 4):
            powers[part, degree] = p @ weights
            if degree < 3:
                np.multiply(p, d, out=p)
    # A straight weight is a polynomial, too.
    powers[:, 0] = at_nodes @ of_nodes
    return powers, at_nodes
