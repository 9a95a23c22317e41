"""Two categories against each other: how many rows have each pair, what chance would give, how far they go together."""

from dataclasses import dataclass

import numpy as np

from culvix.caching import cached_property
from culvix.progress import Progress, silent
from culvix.stats.association.contingency_tests import (
    CountTest,
    Ratio,
    chi_square,
    fisher_exact,
    mcnemar,
    odds_ratio,
    risk_ratio,
)
from culvix.stats.association.cramers_v import cramers_v
from culvix.stats.association.result import Association
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.quantiles import quantile
from culvix.stats.core.sample import Sample
from culvix.study.analysis.grouping import Grouping

__all__ = ["CrossedCategories", "cross"]

_LEAST_EXPECTED, _MOST_BELOW = 5.0, 0.2
"""χ² is trusted where no more than this share of the expected counts is below that (Cochran 1954), and none below 1."""


@dataclass(frozen=True, eq=False)
class CrossedCategories:
    """The groups ``down`` and ``across`` with their ``counts``, shape ``(r, c)``; ``lost`` rows have only one of both.

    ``quartiles`` are those of a ``measure`` in each cell, shape ``(r, c, 3)``, NaN where it has no value there, of
    which ``sizes`` counts the values. ``exact`` is Fisher's test where χ² is not to be trusted.
    """

    down: Grouping
    across: Grouping
    counts: Ints
    lost: int
    chi_square: CountTest
    exact: CountTest | None
    strength: Association
    measure: str = ""
    quartiles: Floats | None = None
    sizes: Ints | None = None

    @property
    def n(self) -> int:
        return int(self.counts.sum())

    @property
    def test(self) -> CountTest:
        """The test that is read: the exact one where the other is not to be trusted."""
        return self.exact or self.chi_square

    @property
    def why(self) -> str:
        """Why it is that test."""
        expected = self.chi_square.expected
        if expected is None:
            return ""
        few = expected < _LEAST_EXPECTED
        words = f"{np.count_nonzero(few)} of {few.size} expected counts are below 5"
        return f"Fisher's exact test: {words}." if self.exact else f"χ²: {words}."

    @cached_property
    def ratios(self) -> tuple[Ratio, ...]:
        """Odds and risk ratio of two by two; nothing for larger tables."""
        return (odds_ratio(self.counts), risk_ratio(self.counts)) if self.counts.shape == (2, 2) else ()

    @cached_property
    def paired_test(self) -> CountTest | None:
        """McNemar's test, where both columns have the same two categories: as answers before and after."""
        same = self.counts.shape == (2, 2) and self.down.names == self.across.names
        return mcnemar(self.counts) if same else None

    def rows_of(self, row: int, column: int) -> Ints:
        """The rows in a cell."""
        return np.flatnonzero((self.down.codes == row) & (self.across.codes == column))


def cross(
    down: Grouping, across: Grouping, values: Floats | None = None, measure: str = "", progress: Progress = silent
) -> CrossedCategories:
    """The groups ``down`` against those ``across``, and the ``values`` (shape ``(rows,)``) of a ``measure`` in them."""
    r, c = len(down.names), len(across.names)
    both = (down.codes >= 0) & (across.codes >= 0)
    cells = np.where(both, down.codes * c + across.codes, -1)
    counts = np.bincount(cells[both], minlength=r * c).reshape(r, c).astype(np.int64)
    lost = int(np.count_nonzero((down.codes >= 0) != (across.codes >= 0)))
    found = chi_square(counts)
    exact = fisher_exact(counts, progress=progress) if _needs_exact(found) else None
    quartiles, sizes = _quartiles(cells, values, r, c) if values is not None else (None, None)
    strength = cramers_v(down.codes, across.codes)
    return CrossedCategories(down, across, counts, lost, found, exact, strength, measure, quartiles, sizes)


def _needs_exact(found: CountTest) -> bool:
    if found.expected is None:
        return False
    there = found.expected[found.expected > 0]
    return bool((there < _LEAST_EXPECTED).mean() > _MOST_BELOW or (there < 1).any())


def _quartiles(cells: Ints, values: Floats, r: int, c: int) -> tuple[Floats, Ints]:
    """Quartiles of the values in each cell, and how many there are."""
    used = np.flatnonzero((cells >= 0) & np.isfinite(values))
    order = used[np.argsort(cells[used], kind="stable")]
    ends = np.searchsorted(cells[order], np.arange(r * c + 1))
    found = np.full((r * c, 3), np.nan)
    for cell in np.flatnonzero(np.diff(ends)):
        x = Sample.of(values[order[ends[cell] : ends[cell + 1]]]).sorted
        found[cell] = [quantile(x, share) for share in (0.25, 0.5, 0.75)]
    return found.reshape(r, c, 3), np.diff(ends).reshape(r, c).astype(np.int64)
