"""Findings about single rows and about what two columns are: rows lost, near-copies, a row that decides."""

from collections.abc import Callable

import numpy as np
from scipy.special import stdtr

from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.spearman import spearman
from culvix.stats.describe.influence import pearson_left_out, sums_of
from culvix.stats.display import coefficients, count, p_value, per_cent
from culvix.stats.regression.line_influence import line_influence
from culvix.study.relations.finding import FEWEST_ROWS, LEVEL, PairRows, RelationFinding, drawn_in, quick_r

__all__ = ["lost_rows", "near_copy", "one_row"]

_MOVES = 0.05
"""A row that moves r by less is no finding, however far off it lies."""
_NEAR_COPY, _LIKELY_COPY = 0.99, 0.9
_ENDS = 0.05
_MOST_LOST = 0.2


def lost_rows(x: str, y: str, lost: int, n: int) -> list[RelationFinding]:
    share = lost / (lost + n) if lost + n else 0.0
    if share <= _MOST_LOST:
        return []
    message = f"{x} and {y}: {per_cent(share)} of the rows have only one of the two values; n is {count(n)}."
    return [RelationFinding("lost", x, y, message)]


def near_copy(pair: PairRows) -> list[RelationFinding]:
    if abs(quick_r(*(drawn_in(values, _ENDS) for values in (pair.a, pair.b)))) < _LIKELY_COPY:
        return []
    ranks = spearman(pair.a, pair.b).r
    if ranks is None or abs(ranks) < _NEAR_COPY or min(np.unique(pair.a).size, np.unique(pair.b).size) < FEWEST_ROWS:
        return []
    ends = f"Spearman {coefficients(ranks)[0]}, n {count(pair.rows.size)}"
    message = f"{pair.x} and {pair.y} are nearly the same measurement: {ends}."
    return [RelationFinding("near_copy", pair.x, pair.y, message)]


def one_row(pair: PairRows, p: float, pairs: int, row_name: Callable[[int], str]) -> list[RelationFinding]:
    """The row without which a relation that holds is none, or which hides most of one that is there."""
    r = pair.r.r
    if r is None:
        return []
    n = pair.rows.size
    without = pearson_left_out(sums_of(pair.a, pair.b), pair.a, pair.b, np.arange(n))
    moves = np.where(np.isnan(without), 1.0, np.abs(r - without))
    worst = int(np.argmax(moves))
    if moves[worst] < _MOVES:
        return []
    left = np.arange(n) != worst
    rest = pearson(pair.a[left], pair.b[left])
    before, after = coefficients(r, rest.r)
    name = row_name(int(pair.rows[worst]))
    if rest.r is None or (p < LEVEL and rest.p is not None and rest.p >= LEVEL):
        end = "without it there is none" if rest.r is None else f"without it it is {after}, {p_value(rest.p)}"
        message = f"{name} alone makes the relation of {pair.x} and {pair.y}: r is {before}, {end} (n {count(n)})."
        return [RelationFinding("one_row", pair.x, pair.y, message, row=int(pair.rows[worst]))]
    lines = line_influence(pair.a, pair.b)
    if lines is None or rest.p is None or min(rest.p * pairs * n, 1.0) >= LEVEL:
        return []
    # How far off the line of all other rows it lies, tested over all rows of all pairs.
    t = float(lines.studentised[worst])
    deleted = t * np.sqrt((n - 3) / max(n - 2 - t * t, 1e-12))
    if 2 * float(stdtr(n - 3, -abs(deleted))) * n * pairs >= LEVEL:
        return []
    message = f"{name} alone moves r of {pair.x} and {pair.y} from {after} to {before} (n {count(n)})."
    return [RelationFinding("one_row", pair.x, pair.y, message, row=int(pair.rows[worst]))]
