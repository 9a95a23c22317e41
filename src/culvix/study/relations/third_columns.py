"""Columns that may stand behind a pair: with one of them held fixed, little of the relation is left, or it turns."""

from collections.abc import Mapping
from dataclasses import dataclass

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats
from culvix.stats.correlation.partial import partial_correlation
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.result import PairCorrelation, present_pairs
from culvix.stats.correlation.spearman import spearman

__all__ = ["MOST_TRIED", "ThirdColumn", "third_columns"]

MOST_TRIED = 60
"""With more other columns than this, only the first ones are tried."""

_LEAST_R = 0.1
_LEAST_REVERSED = 0.1
_COPY = 0.98
"""A column that is nearly one of the two leaves nothing of any relation."""
_FEWEST = 10


@dataclass(frozen=True)
class ThirdColumn:
    """With the column ``name`` held fixed the coefficient goes from ``r``, over the same rows, to ``given``."""

    name: str
    r: float
    given: PairCorrelation

    @property
    def turns(self) -> bool:
        return self.given.r is not None and self.given.r * self.r < 0


def third_columns(
    x: Floats, y: Floats, others: Mapping[str, Floats], *, ranks: bool = False, progress: Progress = silent
) -> tuple[ThirdColumn, ...]:
    """The columns of ``others`` that halve the coefficient of ``x`` and ``y``, or turn it, the worst first.

    All columns have shape ``(rows,)``; coefficients are Pearson's, or those of ``ranks``, before and after over rows
    that have all three values. Columns that are nearly ``x`` or ``y`` are left out. Raises what ``progress`` raises.
    """
    run = spearman if ranks else pearson
    found = []
    for position, (name, column) in enumerate(list(others.items())[:MOST_TRIED]):
        progress(position / min(len(others), MOST_TRIED), f"holding {name} fixed")
        rows = present_pairs(x, y) & present_pairs(column, column)
        a, b, c = x[rows], y[rows], column[rows]
        if a.size < _FEWEST or any(abs(run(c, each).r or 0.0) > _COPY for each in (a, b)):
            continue
        r = run(a, b).r
        if r is None or abs(r) < _LEAST_R:
            continue
        given = partial_correlation(a, b, [c], ranks=ranks)
        if given.r is None:
            continue
        reversed_sign = given.r * r < 0 and abs(given.r) >= _LEAST_REVERSED
        if reversed_sign or abs(given.r) < abs(r) / 2:
            found.append(ThirdColumn(name, r, given))
    return tuple(sorted(found, key=lambda each: (each.given.r or 0.0) * (1 if each.r > 0 else -1)))
