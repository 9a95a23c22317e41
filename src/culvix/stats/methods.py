"""The one table of methods: window, report, profile document and tests all walk it.

A method is one small module with one public function and one row here. Keys are those of the profile document.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import TypeVar

from culvix.stats.arrays import Floats
from culvix.stats.correlation import (
    CorrelationMatrix,
    PairCorrelation,
    pearson,
    pearson_matrix,
    spearman,
    spearman_matrix,
)
from culvix.stats.normality.result import NormalityResult
from culvix.stats.normality.shapiro_wilk import shapiro_wilk
from culvix.stats.outliers.iqr_fences import iqr_fences
from culvix.stats.outliers.modified_z import modified_z
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.outliers.z_score import z_score
from culvix.stats.sample import Sample

__all__ = [
    "CORRELATION_KINDS",
    "NORMALITY_TESTS",
    "OUTLIER_METHODS",
    "CorrelationKind",
    "NormalityTest",
    "OutlierMethod",
    "Setting",
    "suggested_test",
]


@dataclass(frozen=True)
class Setting:
    """A number a method can be tuned by: its key, what it is called, its default and its usual values."""

    key: str
    name: str
    default: float
    usual: tuple[float, ...]


@dataclass(frozen=True)
class _Named:
    key: str
    name: str
    short: str
    tells: str
    source: str


@dataclass(frozen=True)
class NormalityTest(_Named):
    """A test of normality and the sample sizes it is valid for (``largest_n`` None: any)."""

    run: Callable[[Sample], NormalityResult]
    smallest_n: int
    largest_n: int | None = None


@dataclass(frozen=True)
class OutlierMethod(_Named):
    """A one-column outlier method. ``follows_quantiles``: it takes the study's quantile type."""

    run: Callable[..., OutlierResult]
    limit: Setting
    follows_quantiles: bool = False


@dataclass(frozen=True)
class CorrelationKind(_Named):
    """A correlation coefficient, for a pair of columns and for all pairs of many."""

    run: Callable[[Floats, Floats], PairCorrelation]
    matrix: Callable[[list[Floats]], CorrelationMatrix]
    symbol: str = field(default="r")


_Row = TypeVar("_Row", bound=_Named)


def _table(*rows: _Row) -> Mapping[str, _Row]:
    return MappingProxyType({row.key: row for row in rows})


NORMALITY_TESTS = _table(
    NormalityTest(
        key="shapiro_wilk",
        name="Shapiro–Wilk",
        short="Shapiro–Wilk",
        tells="How straight the Q-Q points are: W is near 1 for a normal sample and falls with any departure.",
        source="Royston 1995, algorithm AS R94",
        run=shapiro_wilk,
        smallest_n=3,
        largest_n=5000,
    ),
)

OUTLIER_METHODS = _table(
    OutlierMethod(
        key="z_score",
        name="z-score",
        short="z-score",
        tells="Distance from the mean in SDs. Both move with the outliers, so several hide each other.",
        source="Shiffler 1988 for its bound (n−1)/√n",
        run=z_score,
        limit=Setting("k", "SDs from the mean", 3.0, (2.0, 2.5, 3.0)),
    ),
    OutlierMethod(
        key="iqr_fences",
        name="IQR fences",
        short="fences",
        tells="Distance beyond the quartiles in IQRs. About 0.7 % of a normal sample lies outside the inner fences.",
        source="Tukey 1977",
        run=iqr_fences,
        limit=Setting("c", "IQRs beyond the quartiles", 1.5, (1.5, 3.0)),
        follows_quantiles=True,
    ),
    OutlierMethod(
        key="modified_z",
        name="modified z-score",
        short="robust z",
        tells="Distance from the median in scaled MADs: half of the values may be wrong and not move the limits.",
        source="Iglewicz & Hoaglin 1993",
        run=modified_z,
        limit=Setting("limit", "scaled MADs from the median", 3.5, (3.0, 3.5)),
    ),
)

CORRELATION_KINDS = _table(
    CorrelationKind(
        key="pearson",
        name="Pearson",
        short="Pearson",
        tells="Strength of a straight-line relation; one far point can make or break it.",
        source="Pearson 1896; t test, Student 1908",
        run=pearson,
        matrix=pearson_matrix,
    ),
    CorrelationKind(
        key="spearman",
        name="Spearman",
        short="Spearman",
        tells="Strength of a steadily rising or falling relation, straight or not, from ranks.",
        source="Spearman 1904",
        run=spearman,
        matrix=spearman_matrix,
        symbol="ρ",
    ),
)


def suggested_test(n: int) -> NormalityTest:
    """The test to read first at this n: the first in the table that is valid there, or else its first."""
    for test in NORMALITY_TESTS.values():
        if test.smallest_n <= n and (test.largest_n is None or n <= test.largest_n):
            return test
    return next(iter(NORMALITY_TESTS.values()))
