"""What an engine is asked of a whole table. All requests of one pass are answered from one reading of it.

Numbers are taken as doubles. Missing values, NaN and infinities are in no count and no sum but those named so.
"""

from dataclasses import dataclass, field

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.tables.engines.edits import RowCount

__all__ = [
    "Answer",
    "CountsBelow",
    "Distinct",
    "DistinctCount",
    "Extent",
    "Frequencies",
    "Frequency",
    "NotFinite",
    "NotFiniteQuery",
    "NumberExtent",
    "PairSums",
    "PairSumsQuery",
    "PowerSums",
    "PowerSumsQuery",
    "Presence",
    "PresenceQuery",
    "Products",
    "Request",
    "SumsWhere",
    "SumsWhereQuery",
    "ValueCounts",
    "ValueCountsQuery",
    "ValuesWithin",
    "ValuesWithinQuery",
]


@dataclass(frozen=True)
class PresenceQuery:
    """How many rows have a value in ``column``, of any kind."""

    column: str


@dataclass(frozen=True)
class Presence:
    """``there`` rows have a value, ``missing`` none."""

    there: int
    missing: int


@dataclass(frozen=True)
class Extent:
    """How many numbers ``column`` has, of which kinds, and from where to where."""

    column: str


@dataclass(frozen=True)
class NumberExtent:
    """``n`` finite numbers from ``low`` to ``high`` (None where there are none), in the column's unit."""

    n: int
    missing: int
    zeros: int
    negatives: int
    low: float | None
    high: float | None


@dataclass(frozen=True)
class NotFiniteQuery:
    """How many cells of ``column`` hold no finite number, and are not missing."""

    column: str


@dataclass(frozen=True)
class NotFinite:
    """Cells that are not a number, and infinite ones."""

    not_a_number: int
    infinite: int


@dataclass(frozen=True)
class PowerSumsQuery:
    """The first four powers of the distances from ``centre`` over ``scale``, summed.

    They are precise where the centre is near the mean. The scale is a power of two, so that no power is beyond a
    double, and none vanishes.
    """

    column: str
    centre: float
    scale: float = 1.0


@dataclass(frozen=True)
class PowerSums:
    """Sums of the first to fourth power of (value − centre) / scale over ``n`` values."""

    n: int
    powers: tuple[float, float, float, float]


@dataclass(frozen=True)
class CountsBelow:
    """How many numbers of ``column`` are less than each of ``edges``."""

    column: str
    edges: tuple[float, ...]


@dataclass(frozen=True)
class PairSumsQuery:
    """Sums over the rows in which both columns have a number, of distances from a centre over a scale in each."""

    x: str
    y: str
    centres: tuple[float, float]
    scales: tuple[float, float] = (1.0, 1.0)


@dataclass(frozen=True)
class PairSums:
    """Over ``n`` rows the sums of x, y, x², y² and xy, of distances from the centres asked for."""

    n: int
    x: float
    y: float
    xx: float
    yy: float
    xy: float


@dataclass(frozen=True)
class Products:
    """The sum of xy over the rows in which both columns have a number, of the same distances."""

    x: str
    y: str
    centres: tuple[float, float]
    scales: tuple[float, float] = (1.0, 1.0)


@dataclass(frozen=True)
class SumsWhereQuery:
    """The sums of x and x² of ``column``, of distances from the first centre, in the rows with ``other``, too."""

    column: str
    other: str
    centres: tuple[float, float]
    scales: tuple[float, float] = (1.0, 1.0)


@dataclass(frozen=True)
class SumsWhere:
    """The sums of x and of x²."""

    x: float
    xx: float


@dataclass(frozen=True)
class ValueCountsQuery:
    """How often each number of ``column`` occurs; where it has more than ``limit`` different ones none are told.

    It is thought to have ``about`` so many, 0 where nothing is known. The answer does not depend on it.
    """

    column: str
    limit: int
    about: int = 0


@dataclass(frozen=True, eq=False)
class ValueCounts:
    """Different finite ``values``, ascending, and how often each occurs, both of shape ``(found,)``; and all else."""

    values: Floats
    counts: Ints
    missing: int
    not_a_number: int = 0
    infinite: int = 0

    @classmethod
    def of(cls, values: Floats, counts: Ints, missing: int) -> "ValueCounts":
        """From any ``values`` with the ``counts`` of each (both of shape ``(found,)``), of which some may be equal."""
        finite, nan = np.isfinite(values), np.isnan(values)
        different, indices = np.unique(values[finite], return_inverse=True)
        merged = np.zeros(different.size, dtype=np.int64)
        np.add.at(merged, indices, counts[finite])
        none = int(counts[nan].sum())
        return cls(different, merged, missing, none, int(counts[~finite].sum()) - none)


@dataclass(frozen=True)
class ValuesWithinQuery:
    """The numbers of ``column`` that lie in one of ``ranges``, from the first to just below the second end."""

    column: str
    ranges: tuple[tuple[float, float], ...]


@dataclass(frozen=True, eq=False)
class ValuesWithin:
    """Different ``values``, ascending, and how often each occurs, both of shape ``(found,)``."""

    values: Floats = field(default_factory=lambda: np.zeros(0))
    counts: Ints = field(default_factory=lambda: np.zeros(0, dtype=np.int64))


@dataclass(frozen=True)
class Frequencies:
    """The ``most`` frequent values of ``column``, of any kind, as text; where it has more than ``limit`` none are."""

    column: str
    most: int = 12
    limit: int = 10_000


@dataclass(frozen=True)
class Frequency:
    """How often the value written ``text`` occurs."""

    text: str
    count: int


@dataclass(frozen=True)
class Distinct:
    """How many different values ``column`` has."""

    column: str


@dataclass(frozen=True)
class DistinctCount:
    """The number of different values, exactly or about; ``how`` says by what it was found where it is not exact."""

    count: int | None
    exact: bool
    how: str = ""


Request = (
    PresenceQuery
    | Extent
    | NotFiniteQuery
    | PowerSumsQuery
    | CountsBelow
    | PairSumsQuery
    | Products
    | SumsWhereQuery
    | ValueCountsQuery
    | ValuesWithinQuery
    | RowCount
    | Frequencies
    | Distinct
)
Answer = (
    Presence
    | NumberExtent
    | NotFinite
    | PowerSums
    | tuple[int, ...]
    | PairSums
    | float
    | int
    | SumsWhere
    | ValueCounts
    | ValuesWithin
    | tuple[Frequency, ...]
    | DistinctCount
    | None
)
