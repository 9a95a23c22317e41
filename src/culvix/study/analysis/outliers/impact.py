"""Impact: the figures of a column with everything kept, as decided, and with every flagged value left out.

The two ends show how much the decisions could matter; what was decided lies between them.
"""

from collections.abc import Hashable
from dataclasses import dataclass
from functools import partial

import numpy as np

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.pair_sums import PairSums, coefficient_of
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.describe.description import trimmed_means
from culvix.stats.describe.influence import (
    LeftOut,
    left_out,
    pearson_left_out,
    pearson_moved,
    pearson_without,
    sums_of,
)
from culvix.stats.normality.result import NormalityResult
from culvix.stats.registry import NORMALITY_TESTS
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.result_cache import PartCache
from culvix.study.analysis.working_set import WorkingSet
from culvix.tables.model.table import Column, Role, Table

__all__ = ["STATES", "Figures", "Impact", "Influence", "figures_of", "impact_of", "influence_of", "partners"]

STATES = {
    "read": "Every value as it was read",
    "decided": "As decided so far",
    "all out": "The values that this pass judges, without every one that a chosen method flags",
}
"""The states that are compared, with what each is."""
_MOST_PARTNERS = 12
_MOST_INFLUENCES = 20_000


@dataclass(frozen=True, eq=False)
class Figures:
    """What one state of a column comes to. Means and SD are in the column's unit."""

    n: int
    mean: float | None
    median: float | None
    sd: float | None
    skewness: float | None
    excess_kurtosis: float | None
    trimmed_mean: float | None
    winsorized_mean: float | None
    test: NormalityResult


@dataclass(frozen=True, eq=False)
class Impact:
    """``figures`` of ``column`` in each of `STATES`, and Pearson's r with other columns in each of them, by name."""

    column: str
    figures: tuple[Figures, ...]
    correlations: dict[str, tuple[PairCorrelation, ...]]
    flagged: int
    unnamed: int
    """Number of numeric columns that are not compared with, for there are too many."""

    @property
    def moved(self) -> list[str]:
        """The columns of ``correlations``, those first whose coefficient moves most between the two ends."""

        def moves(name: str) -> float:
            r = [pair.r for pair in self.correlations[name]]
            return abs(r[0] - r[2]) if r[0] is not None and r[2] is not None else 0.0

        return sorted(self.correlations, key=lambda name: (-moves(name), name))


@dataclass(frozen=True, eq=False)
class Influence:
    """What each flagged value in use does by itself: the figures without it, and so r with each other column."""

    left_out: LeftOut | None
    correlations: dict[str, Floats]
    sums: dict[str, PairSums | None]
    """What the pairs of the values in use add up to, by the name of the other column."""

    def moved(self, preview: ColumnPreview, working: WorkingSet, row: int, value: float) -> dict[str, float | None]:
        """Pearson's r with each other column, were the value of ``row`` at ``value``."""
        x = preview.sample.values
        others = {name: working.sample(working.table[name]).values for name in self.sums}
        return {name: pearson_moved(sums, x, others[name], row, value) for name, sums in self.sums.items()}


def partners(table: Table, column: str) -> list[str]:
    """The columns that ``column`` is correlated with: other measures and counts that are data."""
    return [
        other.name
        for other in table
        if other.name != column
        and other.role in (Role.MEASURE, Role.COUNT)
        and other.values is not None
        and other.is_data
    ]


def figures_of(sample: Sample, trim: float, test: str, *, brief: bool = False) -> Figures:
    """The figures of ``sample``; ``trim`` is the share cut from each end, ``test`` a normality test by its key.

    ``brief`` leaves out what has to go through all values: the test, and the trimmed and winsorised mean.
    """
    centre = sample.moments
    if brief and centre is not None:
        spread, shape = (centre.mean, sample.median, centre.sd), (centre.skewness, centre.excess_kurtosis)
        untested = NormalityResult(test, NORMALITY_TESTS[test].short, None, None, sample.n, "Left out here.")
        return Figures(sample.n, *spread, *shape, None, None, untested)
    result = NORMALITY_TESTS[test].run(sample)
    if centre is None:
        return Figures(0, None, None, None, None, None, None, None, result)
    means = trimmed_means(sample, trim)
    return Figures(
        sample.n, centre.mean, sample.median, centre.sd, centre.skewness, centre.excess_kurtosis, *means, result
    )


def impact_of(
    preview: ColumnPreview,
    working: WorkingSet,
    cache: PartCache | None = None,
    progress: Progress = silent,
    *,
    pass_begins: WorkingSet | None = None,
) -> Impact:
    """The impact of the decisions in ``working`` on the column of ``preview``; parts come from ``cache`` and go there.

    ``pass_begins`` is the working set that the flags refer to, None in the first pass, which judges the table as read.

    May be worked out on any thread. Raises whatever ``progress`` raises.
    """
    cache = PartCache() if cache is None else cache
    request, column = preview.request, preview.column
    test = request.settings.verdict_test_at(preview.sample.n).key
    # Flags refer to the values at the beginning of the pass: what was decided before it stays decided.
    flag_basis = preview.flag_basis
    out = preview.flags.rows[np.isfinite(flag_basis.values[preview.flags.rows])]
    rest = flag_basis.without(out) if out.size else flag_basis
    samples = (column.sample, preview.sample, rest)
    states = ((), request.version, ("without", request.flag_basis_version, out.tobytes()))
    figures = []
    for position, (sample, state) in enumerate(zip(samples, states, strict=True)):
        progress(position / 6, f"comparing {column.name} before and after")
        depends = ("impact", test, state, request.settings.trim, request.settings.quantile_type)
        figures.append(cache.part(depends, lambda sample=sample: figures_of(sample, request.settings.trim, test)))  # type: ignore[misc]
    others = partners(working.table, column.name)
    found: dict[str, tuple[PairCorrelation, ...]] = {}
    for position, name in enumerate(others[:_MOST_PARTNERS]):
        progress(0.5 + position / (2 * len(others)), f"correlating {column.name} with {name}")
        other = working.table[name]
        as_read, now = _Pair(column.sample, other.sample, ()), _pair(preview, working, name)
        base = _pair_of_basis(preview, other, pass_begins)
        ends = (as_read.coefficient(cache, other), now.coefficient(cache, other))
        found[name] = (*ends, pearson_without(base.sums(cache, other), base.x.values, base.y.values, out))
    return Impact(column.name, tuple(figures), found, int(out.size), max(len(others) - _MOST_PARTNERS, 0))


@dataclass(frozen=True, eq=False)
class _Pair:
    """Two columns in one state, which ``version`` names, and what is kept of them."""

    x: Sample
    y: Sample
    version: Hashable

    def sums(self, cache: PartCache, other: Column) -> PairSums | None:
        """What the pairs add up to; ``other`` is the second column."""
        return cache.part(("pair", other, self.version), partial(sums_of, self.x.values, self.y.values))

    def coefficient(self, cache: PartCache, other: Column) -> PairCorrelation:
        sums = self.sums(cache, other)
        return pearson(self.x.values, self.y.values) if sums is None else coefficient_of("pearson", sums.n, sums)


def _pair_of_basis(preview: ColumnPreview, other: Column, state: WorkingSet | None) -> _Pair:
    """The column of ``preview`` and ``other``, as they were in ``state``, when the pass began."""
    if state is None:
        return _Pair(preview.flag_basis, other.sample, ())
    versions = (preview.request.flag_basis_version, state.version(other.name))
    return _Pair(preview.flag_basis, state.sample(other), versions if versions != ((), ()) else ())


def _pair(preview: ColumnPreview, working: WorkingSet, name: str) -> _Pair:
    """The column of ``preview`` and that called ``name``, as they are in use."""
    versions = (preview.request.version, working.version(name))
    return _Pair(preview.sample, working.sample(working.table[name]), versions if versions != ((), ()) else ())


def influence_of(preview: ColumnPreview, working: WorkingSet, rows: Ints, cache: PartCache | None = None) -> Influence:
    """What each of ``rows`` (flagged, in use) does to the column of ``preview``, and to its correlations.

    Too few values, or none of ``rows``, have no influence to speak of; the sums are there in any case.
    """
    cache, table = PartCache() if cache is None else cache, working.table
    names = partners(table, preview.column.name)[:_MOST_PARTNERS]
    pairs = {name: _pair(preview, working, name) for name in names}
    sums = {name: pair.sums(cache, table[name]) for name, pair in pairs.items()}
    try:
        alone = left_out(preview.sample, rows) if 0 < rows.size <= _MOST_INFLUENCES else None
    except StatisticsError:
        alone = None
    if alone is None:
        return Influence(None, {}, sums)
    singly = {n: pearson_left_out(sums[n], pair.x.values, pair.y.values, rows) for n, pair in pairs.items()}
    return Influence(alone, singly, sums)
