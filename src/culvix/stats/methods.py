"""The one table of methods: window, report, profile document and tests all walk it.

A method is one small module with one public function and one row here. Keys are those of the profile document.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import TypeVar

from culvix.stats.arrays import Floats
from culvix.stats.correlation import (
    CorrelationMatrix,
    PairCorrelation,
    pearson,
    pearson_matrix,
)
from culvix.stats.kendall import kendall, kendall_matrix
from culvix.stats.normality.anderson_darling import anderson_darling
from culvix.stats.normality.cramer_von_mises import cramer_von_mises
from culvix.stats.normality.dagostino_k2 import dagostino_k2
from culvix.stats.normality.jarque_bera import jarque_bera
from culvix.stats.normality.lilliefors import lilliefors
from culvix.stats.normality.result import NormalityResult
from culvix.stats.normality.shapiro_francia import shapiro_francia
from culvix.stats.normality.shapiro_wilk import shapiro_wilk
from culvix.stats.outliers.adjusted_fences import adjusted_fences
from culvix.stats.outliers.dixon import dixon
from culvix.stats.outliers.double_mad import double_mad
from culvix.stats.outliers.fdr import fdr
from culvix.stats.outliers.generalized_esd import generalized_esd
from culvix.stats.outliers.grubbs import grubbs
from culvix.stats.outliers.hampel import hampel
from culvix.stats.outliers.iqr_fences import iqr_fences
from culvix.stats.outliers.modified_z import modified_z
from culvix.stats.outliers.qn_distance import qn_distance
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.outliers.valid_range import valid_range
from culvix.stats.outliers.z_score import z_score
from culvix.stats.robust_correlation import biweight, biweight_matrix, winsorized, winsorized_matrix
from culvix.stats.sample import Sample
from culvix.stats.spearman import spearman, spearman_matrix

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
    """A one-column outlier method.

    ``limit`` is the one number it is tuned by (None: none). ``follows_quantiles``: it takes the study's quantile type;
    ``follows_range``: the column's valid range. ``deferred``: too slow for the prompt profile of a long column;
    ``single``: it flags one value at the most, so it has no vote on the others.
    """

    run: Callable[..., OutlierResult]
    limit: Setting | None
    follows_quantiles: bool = False
    follows_range: bool = False
    deferred: bool = False
    single: bool = False


@dataclass(frozen=True)
class CorrelationKind(_Named):
    """A correlation coefficient, for a pair of columns and for all pairs of many.

    ``ranks``: quick enough to rank all pairs by; ``documented``: its matrix stands in the profile document.
    """

    run: Callable[[Floats, Floats], PairCorrelation]
    matrix: Callable[[list[Floats]], CorrelationMatrix]
    symbol: str = "r"
    ranks: bool = False
    documented: bool = True


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
    NormalityTest(
        key="shapiro_francia",
        name="Shapiro–Francia",
        short="Shapiro–Francia",
        tells="How straight the Q-Q points are, by their plain correlation; good for long tails.",
        source="Shapiro & Francia 1972; Royston 1993",
        run=shapiro_francia,
        smallest_n=5,
        largest_n=5000,
    ),
    NormalityTest(
        key="anderson_darling",
        name="Anderson–Darling",
        short="Anderson–Darling",
        tells="The gap between data and normal, weighed towards both tails.",
        source="Stephens 1986",
        run=anderson_darling,
        smallest_n=8,
        largest_n=None,
    ),
    NormalityTest(
        key="lilliefors",
        name="Lilliefors",
        short="Lilliefors",
        tells="The largest gap between data and normal, mean and SD being estimated.",
        source="Lilliefors 1967; Dallal & Wilkinson 1986",
        run=lilliefors,
        smallest_n=4,
        largest_n=None,
    ),
    NormalityTest(
        key="cramer_von_mises",
        name="Cramér–von Mises",
        short="Cramér–von Mises",
        tells="The mean squared gap between data and normal.",
        source="Stephens 1986",
        run=cramer_von_mises,
        smallest_n=8,
        largest_n=None,
    ),
    NormalityTest(
        key="dagostino_k2",
        name="D'Agostino–Pearson",
        short="D'Agostino–Pearson",
        tells="Whether skewness and kurtosis together could be those of a normal sample.",
        source="D'Agostino, Belanger & D'Agostino 1990",
        run=dagostino_k2,
        smallest_n=8,
        largest_n=None,
    ),
    NormalityTest(
        key="jarque_bera",
        name="Jarque–Bera (adj.)",
        short="Jarque–Bera",
        tells="Skewness and kurtosis again, for large samples.",
        source="Jarque & Bera 1980; Urzúa 1996",
        run=jarque_bera,
        smallest_n=8,
        largest_n=None,
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
    OutlierMethod(
        key="hampel",
        name="Hampel",
        short="Hampel",
        tells="Distance from the median in scaled MADs, which stand in for the SD.",
        source="Hampel 1974",
        run=hampel,
        limit=Setting("k", "scaled MADs from the median", 3.0, (2.5, 3.0)),
    ),
    OutlierMethod(
        key="double_mad",
        name="two-sided MAD",
        short="split MAD",
        tells="Distance from the median with a MAD of its own for each side: for skewed columns.",
        source="after Hampel 1974",
        run=double_mad,
        limit=Setting("k", "scaled MADs of the own side", 3.0, (2.5, 3.0, 3.5)),
    ),
    OutlierMethod(
        key="adjusted_fences",
        name="adjusted fences",
        short="adj. fences",
        tells="Tukey's fences stretched on the long side by the medcouple: for skewed columns.",
        source="Hubert & Vandervieren 2008",
        run=adjusted_fences,
        limit=Setting("c", "IQRs beyond the quartiles, before adjustment", 1.5, (1.5, 3.0)),
        follows_quantiles=True,
        deferred=True,
    ),
    OutlierMethod(
        key="qn_distance",
        name="Qn distance",
        short="Qn",
        tells="Distance from the median in Qn, a spread that needs no centre.",
        source="Rousseeuw & Croux 1993",
        run=qn_distance,
        limit=Setting("k", "Qn from the median", 3.0, (2.5, 3.0)),
        deferred=True,
    ),
    OutlierMethod(
        key="grubbs",
        name="Grubbs",
        short="Grubbs",
        tells="Whether the one farthest value is too far for a normal sample of this n.",
        source="Grubbs 1969",
        run=grubbs,
        limit=Setting("alpha", "level of the test", 0.05, (0.01, 0.05)),
        single=True,
    ),
    OutlierMethod(
        key="generalized_esd",
        name="generalised ESD",
        short="ESD",
        tells="How many of the farthest values, up to ten, are too far for a normal sample.",
        source="Rosner 1983",
        run=generalized_esd,
        limit=Setting("alpha", "level of the test", 0.05, (0.01, 0.05)),
    ),
    OutlierMethod(
        key="dixon",
        name="Dixon",
        short="Dixon",
        tells="Whether the gap at one end is too wide for a normal sample of 3 to 30 values.",
        source="Dixon 1951",
        run=dixon,
        limit=Setting("alpha", "level of the test", 0.05, (0.01, 0.05, 0.1)),
        single=True,
    ),
    OutlierMethod(
        key="fdr",
        name="FDR test",
        short="FDR",
        tells="Values too far for a normal core, with the share of wrong flags held at the rate Q.",
        source="Benjamini & Hochberg 1995",
        run=fdr,
        limit=Setting("q", "false discovery rate", 0.01, (0.001, 0.01, 0.05)),
    ),
    OutlierMethod(
        key="valid_range",
        name="valid range",
        short="valid range",
        tells="What lies outside the bounds declared for the column: an error, not an opinion.",
        source="the column's declared range",
        run=valid_range,
        limit=None,
        follows_range=True,
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
        ranks=True,
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
        ranks=True,
    ),
    CorrelationKind(
        key="kendall",
        name="Kendall",
        short="Kendall",
        tells="How much more often two rows agree in order than disagree, ties taken into account.",
        source="Kendall 1938; Knight 1966",
        run=kendall,
        matrix=kendall_matrix,
        symbol="τ-b",
    ),
    CorrelationKind(
        key="biweight",
        name="Biweight",
        short="biweight",
        tells="A straight-line relation seen through weights that leave far values out.",
        source="Wilcox 2012",
        run=biweight,
        matrix=biweight_matrix,
        documented=False,
    ),
    CorrelationKind(
        key="winsorized",
        name="Winsorised",
        short="winsorised",
        tells="A straight-line relation after a fifth of each column's values is pulled in at either end.",
        source="Wilcox 2012",
        run=winsorized,
        matrix=winsorized_matrix,
        documented=False,
    ),
)


def suggested_test(n: int) -> NormalityTest:
    """The test to read first at this n: Shapiro–Wilk where it is valid, and beyond it Anderson–Darling."""
    first = NORMALITY_TESTS["shapiro_wilk"]
    if first.largest_n is None or n <= first.largest_n:
        return first
    return NORMALITY_TESTS["anderson_darling"]
