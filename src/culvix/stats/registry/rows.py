"""What a row of the table of methods holds."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import isfinite
from types import MappingProxyType
from typing import Literal, TypeVar

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.result import CorrelationMatrix, PairCorrelation
from culvix.stats.groups.result import GroupTest
from culvix.stats.normality.result import NormalityResult
from culvix.stats.outliers.result import OutlierResult

__all__ = ["CorrelationKind", "GroupTestKind", "NormalityTest", "OutlierMethod", "Setting", "table"]


@dataclass(frozen=True)
class Setting:
    """A number a method can be tuned by: its key, what it is called, its default and its usual values.

    A ``"distance"`` is any number above 0, a ``"level"`` a share of wrong flags below 1.
    """

    key: str
    name: str
    default: float
    usual: tuple[float, ...]
    kind: Literal["distance", "level"]

    def check(self, value: float, whose: str) -> None:
        """Raise StatisticsError for a ``value`` that is none; ``whose`` names the method."""
        if not (value > 0 and isfinite(value)):
            raise StatisticsError(f"The limit of {whose} must be above 0, not {value:g}.")
        if self.kind == "level" and value >= 1:
            raise StatisticsError(f"The {self.name} of {whose} lies between 0 and 1, not at {value:g}.")


@dataclass(frozen=True)
class Named:
    key: str
    name: str
    short: str
    tells: str
    source: str


@dataclass(frozen=True)
class NormalityTest(Named):
    """A test of normality and the sample sizes it is valid for (``largest_n`` None: any).

    ``tail`` says which end of the statistic speaks against normality.
    """

    run: Callable[[Sample], NormalityResult]
    tail: Literal["low", "high"]
    smallest_n: int
    largest_n: int | None = None


@dataclass(frozen=True)
class OutlierMethod(Named):
    """A one-column outlier method.

    ``limit`` is the one number it is tuned by (None: none). ``follows_quantiles``: it takes the study's quantile type;
    ``follows_range``: the column's valid range. ``deferred``: too slow for the prompt profile of a long column;
    ``single``: it flags one value at the most, so it has no vote on the others. ``anchor``: its span widens in
    proportion to the limit from the ``"mean"``, the ``"median"`` or the ``"quartiles"`` (None: it does not).
    """

    run: Callable[..., OutlierResult]
    limit: Setting | None
    follows_quantiles: bool = False
    follows_range: bool = False
    deferred: bool = False
    single: bool = False
    anchor: str | None = None


@dataclass(frozen=True)
class CorrelationKind(Named):
    """A correlation coefficient, for a pair of columns and for all pairs of many.

    ``watched``: its matrix takes a progress, which may stop it. ``ranks``: quick enough to rank all pairs by;
    ``documented``: its matrix stands in the profile document unasked, but for a ``slow`` one of long tables.
    ``interval`` gives the coefficient's interval from r, n and the confidence, None for a kind that has none;
    ``approximation`` the matrix much sooner, its last digits left open; None where `matrix` is quick, or there is none.
    """

    run: Callable[[Floats, Floats], PairCorrelation]
    matrix: Callable[..., CorrelationMatrix]
    interval: Callable[[float, int, float], tuple[float, float] | None] | None = None
    symbol: str = "r"
    ranks: bool = False
    documented: bool = True
    watched: bool = False
    slow: bool = False
    approximation: Callable[[list[Floats]], CorrelationMatrix] | None = None


@dataclass(frozen=True)
class GroupTestKind(Named):
    """A test that compares groups: their means, ranks, spreads or whole shapes.

    ``run`` takes the samples of at least two groups and of ``most`` at the most (None: any number), or where it is
    ``paired`` two columns of the same rows. ``statistic`` is the letter of what it finds.
    """

    run: Callable[..., GroupTest]
    compares: Literal["means", "ranks", "spreads", "shapes"]
    statistic: str
    most: int | None = None
    paired: bool = False

    def fits(self, groups: int, *, paired: bool) -> bool:
        """Whether it is one for so many groups, of pairs or not."""
        return self.paired == paired and (self.most is None or groups <= self.most)


_Row = TypeVar("_Row", bound=Named)


def table(*rows: _Row) -> Mapping[str, _Row]:
    return MappingProxyType({row.key: row for row in rows})
