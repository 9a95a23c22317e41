"""The figures of a column of the whole, each as it is shown and written."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

from culvix.stats.core.moments import Moments
from culvix.tables.engines.engine import EngineColumn
from culvix.tables.engines.requests import DistinctCount, Frequency

__all__ = ["Beyond", "ColumnOfWhole", "CountedBins", "NumbersOfWhole"]


@dataclass(frozen=True)
class Beyond:
    """How many values lie ``below`` the limit ``low`` and ``above`` the limit ``high`` of an outlier method."""

    method: str
    low: float
    high: float
    below: int
    above: int

    @property
    def count(self) -> int:
        return self.below + self.above


@dataclass(frozen=True)
class CountedBins:
    """Counts between ``edges`` (one more than ``counts``), closed on the left, and of what lies beyond them."""

    edges: tuple[float, ...]
    counts: tuple[int, ...]
    below: int
    above: int


@dataclass(frozen=True)
class NumbersOfWhole:
    """Exact figures of all finite numbers of a column, in its unit.

    ``moments`` is None without numbers; ``quantiles`` are by percentile. ``beyond`` has the IQR fences and the limits
    of the z-score, ``bins`` are None without numbers.
    """

    not_a_number: int
    infinite: int
    zeros: int
    negatives: int
    low: float | None
    high: float | None
    moments: Moments | None
    quantiles: Mapping[int, float] = field(default_factory=lambda: MappingProxyType({}))
    beyond: tuple[Beyond, ...] = ()
    bins: CountedBins | None = None


@dataclass(frozen=True)
class ColumnOfWhole:
    """A column of the whole: how many rows have a value of it, how many different ones, and the most frequent.

    ``frequent_from`` says where these were looked for, as their counts are exact either way. As long as the whole was
    not read, all figures are of so many ``pilot_rows``.
    """

    column: EngineColumn
    n: int
    missing: int
    distinct: DistinctCount
    frequent: tuple[Frequency, ...] = ()
    frequent_from: str = ""
    numbers: NumbersOfWhole | None = None
    pilot_rows: int = 0
