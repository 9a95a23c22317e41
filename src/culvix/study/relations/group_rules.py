"""Findings about groups: a relation that turns within them."""

from collections.abc import Sequence

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.correlation.pearson import pearson
from culvix.stats.display import coefficients, count
from culvix.study.analysis.grouping import Grouping
from culvix.study.relations.finding import FEWEST_ROWS, Candidate, PairRows, RelationFinding, quick_r

__all__ = ["turns_within"]

_LEAST_REVERSAL = 0.1
_LIKELY = 0.9
"""What falls short of a limit by more than this at a quick look is not worked out with care."""


def turns_within(pair: PairRows, groups: Sequence[Grouping]) -> tuple[list[Candidate], int]:
    """Groups within which the sign is the other one, on the whole."""
    found: list[Candidate] = []
    tried = 0
    if pair.r.r is None or pair.r.p is None:
        return found, tried
    for group in groups:
        if group.by in (pair.x, pair.y):
            continue
        codes = group.codes[pair.rows]
        used = codes >= 0
        sizes = np.bincount(codes[used], minlength=len(group.names))
        if np.count_nonzero(sizes) < 2 or used.sum() < 2 * FEWEST_ROWS + np.count_nonzero(sizes):
            continue
        tried += 1
        a, b = (_within(each[used], codes[used], sizes) for each in (pair.a, pair.b))
        rough = quick_r(a, b), quick_r(pair.a[used], pair.b[used])
        if rough[0] * rough[1] >= 0 or min(map(abs, rough)) < _LIKELY * _LEAST_REVERSAL:
            continue
        within, pooled = pearson(a, b), pearson(pair.a[used], pair.b[used])
        if within.r is None or pooled.r is None or within.p is None or pooled.p is None:
            continue
        if within.r * pooled.r < 0 and min(abs(within.r), abs(pooled.r)) >= _LEAST_REVERSAL:
            whole, inside = coefficients(pooled.r, within.r)
            message = (
                f"{pair.x} and {pair.y}: r is {whole} over all rows, but {inside} within {group.by} "
                f"(n {count(pooled.n)}, {np.count_nonzero(sizes)} groups)."
            )
            finding = RelationFinding("reversal", pair.x, pair.y, message, by=group.by)
            found.append(Candidate(max(within.p, pooled.p), finding))
    return found, tried


def _within(values: Floats, codes: Ints, sizes: Ints) -> Floats:
    """``values`` less the mean of their group."""
    with np.errstate(invalid="ignore", divide="ignore"):
        means = np.bincount(codes, values, minlength=sizes.size) / sizes
    return np.asarray(values - means[codes])
