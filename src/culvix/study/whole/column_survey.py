"""One column of a whole table on the way to its figures: what is still to be asked, and what was answered."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import ceil, inf, isfinite, sqrt

import numpy as np

from culvix.stats.core.moments import Moments, about_the_mean
from culvix.stats.core.quantiles import PERCENTILES, interpolated, quantile_ranks
from culvix.study.whole.column_figures import Beyond, ColumnOfWhole, CountedBins, NumbersOfWhole
from culvix.study.whole.order_statistics import MOST_FETCHED, OrderStatistics
from culvix.study.whole.pilot import Pilot, scale_of
from culvix.study.whole.values_counted import extent_of, power_sums_of
from culvix.tables.engines.engine import EngineColumn, Kind
from culvix.tables.engines.requests import (
    Answer,
    CountsBelow,
    Distinct,
    DistinctCount,
    Extent,
    Frequencies,
    Frequency,
    NotFinite,
    NotFiniteQuery,
    NumberExtent,
    PowerSums,
    PowerSumsQuery,
    Presence,
    PresenceQuery,
    Request,
    ValueCounts,
    ValueCountsQuery,
    ValuesWithin,
    ValuesWithinQuery,
)

__all__ = ["ColumnSurvey", "TextSurvey", "WholeSettings"]

_NEAR = 0.1
"""Sums about a centre no more SDs from the mean lose no digit that matters: the corrections are small beside them."""
_MOST_FREQUENT = 12
_UNKNOWN = DistinctCount(None, exact=False)

Answers = Mapping[Request, Answer]


@dataclass(frozen=True)
class WholeSettings:
    """How quantiles are defined, and how far out values lie that are counted: IQR widths, and SDs.

    ``most_values``: a column with more different ones is not counted value by value, even where it seemed to have few.
    """

    quantile_type: int = 7
    fence: float = 1.5
    z: float = 3.0
    most_values: int = 1_000_000


class TextSurvey:
    """A column without numbers: how many rows have it, and which values are the most frequent."""

    def __init__(self, column: EngineColumn) -> None:
        self.column = column
        self._asked: tuple[Request, ...] = (PresenceQuery(column.name),)
        if column.kind is not Kind.OTHER:
            self._asked += (Frequencies(column.name),)
        self._known: dict[Request, Answer] = {}

    def wanted(self) -> tuple[Request, ...]:
        """What is to be asked in the next reading."""
        return () if self._known else self._asked

    def take(self, answers: Answers) -> None:
        """Take up what was answered."""
        if not self._known:
            self._known = {request: answers[request] for request in self._asked}

    def found(self) -> ColumnOfWhole:
        """The figures as far as they are known."""
        presence = self._known.get(self._asked[0], Presence(0, 0))
        assert isinstance(presence, Presence)
        counted = self._known.get(self._asked[-1]) if len(self._asked) > 1 else None
        if not isinstance(counted, tuple):
            return ColumnOfWhole(self.column, presence.there, presence.missing, _UNKNOWN)
        frequent = tuple(each for each in counted if isinstance(each, Frequency))
        most = Frequencies(self.column.name).most
        distinct = DistinctCount(len(frequent), exact=True)
        return ColumnOfWhole(self.column, presence.there, presence.missing, distinct, frequent[:most], "the whole")


class ColumnSurvey:
    """A column of numbers.

    Where it seems to have few different values, each is counted, and all is known. Else the first reading counts below
    the edges of the pilot, and the second finds what is left.
    """

    def __init__(
        self, column: EngineColumn, pilot: Pilot, rows: int, settings: WholeSettings, *, sums_later: bool = False
    ) -> None:
        """``sums_later``: not before it is known from where to where the numbers go."""
        self.column, self._pilot, self._rows, self._settings = column, pilot, rows, settings
        self._sums_later, self._scale = sums_later, pilot.scale
        self._extent: NumberExtent | None = None
        self._sums: PowerSums | None = None
        self._centred = False
        """Whether these were taken about the mean."""
        self._centre = pilot.centre
        self._order: OrderStatistics | None = None
        self._by_value = pilot.few_values
        self._values = ValuesWithin()
        """All values, where they were counted one by one."""
        self._distinct = _UNKNOWN
        self._not_finite = NotFinite(0, 0)
        self._readings = 0

    @property
    def n(self) -> int:
        """How many finite numbers there are; before the first reading, those that were looked at."""
        return self._pilot.seen.size if self._extent is None else self._extent.n

    @property
    def varies(self) -> bool:
        """Whether not all numbers are equal."""
        return self._extent is not None and self._extent.low != self._extent.high

    @property
    def mean(self) -> float:
        """The mean; before the first reading, that of what was looked at."""
        moments = self.moments
        return self._centre if moments is None else moments.mean

    @property
    def spread(self) -> float:
        """The SD; before the first reading, that of what was looked at."""
        moments = self.moments
        return self._pilot.spread if moments is None else moments.sd or 0.0

    @property
    def moments(self) -> Moments | None:
        """Mean, spread, skewness and kurtosis of all numbers."""
        sums, extent = self._sums, self._extent
        if sums is None or extent is None or not sums.n or extent.low is None or extent.high is None:
            return None
        n, low, high, scale = sums.n, extent.low, extent.high, self._scale
        if low == high:
            return Moments(n, n * low, low, 0.0 if n > 1 else None, 0.0, None, None)
        shift = sums.powers[0] * scale
        mean, total = min(max(self._centre + shift / n, low), high), n * self._centre + shift
        m2, m3, m4 = about_the_mean(n, sums.powers)
        if not (isfinite(m2) and m2 > 0):
            return Moments(n, total, mean, None, None, None, None)
        sd = sqrt(m2 * n / (n - 1)) * scale if n > 1 else None
        g1, g2 = m3 / (m2 * sqrt(m2)), m4 / (m2 * m2) - 3
        return Moments(n, total if isfinite(total) else None, mean, sd, sqrt(m2) * scale, g1, g2)

    @property
    def scale(self) -> float:
        """A power of two over which distances are summed."""
        return self._scale

    @property
    def is_complete(self) -> bool:
        """Whether every row has a finite number, or seems to before the first reading."""
        return self._pilot.complete if self._extent is None else self._extent.n == self._rows

    def sums_about(self, centre: float) -> tuple[float, float]:
        """The sums of all distances from ``centre`` over the scale, and of these squared."""
        sums = self._sums
        if sums is None:
            return 0.0, 0.0
        shift = self._centre / self.scale - centre / self.scale
        one, two = sums.powers[:2]
        return one + sums.n * shift, two + 2 * shift * one + sums.n * shift * shift

    # What is asked

    def wanted(self) -> tuple[Request, ...]:
        """What is to be asked in the next reading; nothing when all is known."""
        name = self.column.name
        if self._extent is None:
            if self._by_value:
                return (ValueCountsQuery(name, self._settings.most_values, ceil(self._pilot.different)),)
            sums = () if self._sums_later else (PowerSumsQuery(name, self._centre, self._scale),)
            return (Extent(name), *sums, CountsBelow(name, self._pilot.edges))
        return tuple(self._next())

    def _next(self) -> Iterator[Request]:
        name, order = self.column.name, self._order
        if self._readings == 1 and self._extent is not None and self._extent.n + self._extent.missing < self._rows:
            yield NotFiniteQuery(name)
        if order is None:
            return
        if self._off_centre:
            yield PowerSumsQuery(name, self.mean, self._scale)
        if self._distinct is _UNKNOWN:
            yield Distinct(name)
        ranges, edges = order.missing(self._ranks)
        about = [] if edges else self._ranges_of_fences()
        limits = [(edge, edge) for edge in self._limits if order.count_below(edge) is None]
        for low, high in (*about, *limits):
            if (few := order.few_around(low, high)) is not None:
                ranges += [few] if few[0] < few[1] else []
            else:
                edges += [edge for edge in (low, high) if order.count_below(edge) is None]
                ranges += [(low, high)] if low < high else []
        if edges:
            yield CountsBelow(name, tuple(sorted(set(edges))))
        if ranges:
            yield ValuesWithinQuery(name, tuple(sorted(set(ranges))))

    @property
    def _limits(self) -> set[float]:
        """Below which it is to be counted for the values beyond, as far as the limits are known."""
        found = [*self._fences, *self._z_limits]
        ends = set(found[::2]) | {float(np.nextafter(high, inf)) for high in found[1::2]}
        return {end for end in ends if isfinite(end)}

    @property
    def _z_limits(self) -> tuple[float, ...]:
        moments = self.moments
        if self._off_centre or moments is None or not moments.sd:
            return ()
        return moments.mean - self._settings.z * moments.sd, moments.mean + self._settings.z * moments.sd

    @property
    def _fences(self) -> tuple[float, ...]:
        quartiles = self._quantile(25), self._quantile(75)
        if quartiles[0] is None or quartiles[1] is None:
            return ()
        reach = self._settings.fence * (quartiles[1] - quartiles[0])
        return quartiles[0] - reach, quartiles[1] + reach

    def _ranges_of_fences(self) -> list[tuple[float, float]]:
        """Where the fences may lie while the quartiles are known only to lie between two edges."""
        order, k = self._order, self._settings.fence
        if order is None or self._fences:
            return []
        (a, b), (c, d) = (order.around(self._ranks_of(percentile)) for percentile in (25, 75))
        low, high = (a - k * (d - a), b - k * max(c - b, 0.0)), (c + k * max(c - b, 0.0), d + k * (d - a))
        # The upper fence itself is no value beyond.
        found = [low, (high[0], float(np.nextafter(high[1], inf)))]
        return [each for each in found if order.at_most_within(*each) <= MOST_FETCHED]

    def _ranks_of(self, percentile: int) -> tuple[int, int]:
        return quantile_ranks(self.n, percentile / 100, self._settings.quantile_type)[:2]

    def _quantile(self, percentile: int) -> float | None:
        """A quantile of all numbers, where the values that it lies on are known."""
        if self._order is None or not self.n:
            return None
        low, high, weight = quantile_ranks(self.n, percentile / 100, self._settings.quantile_type)
        first, last = self._order.value(low), self._order.value(high)
        return None if first is None or last is None else interpolated(first, last, weight)

    @property
    def _off_centre(self) -> bool:
        """Whether the sums were taken about a point so far from the mean that digits cancel."""
        moments = self.moments
        if self._sums is None:
            return self.n > 0
        if moments is None or self._centred:
            return False
        return moments.sd is None or abs(moments.mean - self._centre) > _NEAR * moments.sd

    @property
    def _ranks(self) -> list[int]:
        """The ranks of all values that quantiles lie on."""
        return sorted({rank for each in PERCENTILES for rank in self._ranks_of(each)}) if self.n else []

    def _count_at(self, known: dict[float, int], value: float) -> int:
        extent = self._extent
        assert extent is not None and extent.low is not None and extent.high is not None
        if not extent.low <= value <= extent.high:
            return 0
        return known[float(np.nextafter(value, inf))] - known[value]

    # What was answered

    def take(self, answers: Answers) -> None:
        """Take up what was answered."""
        self._readings += 1
        of_columns = (
            Extent | NotFiniteQuery | PowerSumsQuery | CountsBelow | Distinct | ValuesWithinQuery | ValueCountsQuery
        )
        own = [
            (request, answer)
            for request, answer in answers.items()
            if isinstance(request, of_columns) and request.column == self.column.name
        ]
        # Ranks are found from how many numbers there are.
        for request, answer in sorted(own, key=lambda each: not isinstance(each[0], Extent)):
            self._take(request, answer)

    def _take(self, request: Request, answer: Answer) -> None:
        if isinstance(request, ValueCountsQuery):
            self._by_value = isinstance(answer, ValueCounts)
            if isinstance(answer, ValueCounts):
                self._take_values(answer)
        elif isinstance(answer, NumberExtent):
            self._take_extent(answer)
        elif isinstance(request, PowerSumsQuery) and isinstance(answer, PowerSums):
            if request.scale == self._scale:
                self._centred = self._sums is not None
                self._sums, self._centre = answer, request.centre
        elif isinstance(answer, NotFinite):
            self._not_finite = answer
        elif isinstance(answer, DistinctCount):
            self._distinct = answer
        elif isinstance(request, ValuesWithinQuery) and isinstance(answer, ValuesWithin) and self._order is not None:
            self._order.fetched(request.ranges, answer)
        elif isinstance(request, CountsBelow) and isinstance(answer, tuple) and self._order is not None:
            self._order.counted(request.edges, [each for each in answer if isinstance(each, int)])

    def _take_extent(self, found: NumberExtent) -> None:
        self._extent = found
        if found.low is not None and found.high is not None:
            # Numbers that were not looked at may be so large that sums over the first scale are beyond doubles.
            self._scale = scale_of(found.low, found.high, self._centre)
            self._order = OrderStatistics(
                found.n, found.low, found.high, whole=self.column.whole, seen=self._pilot.seen
            )

    def _take_values(self, found: ValueCounts) -> None:
        """All is known at once."""
        self._take_extent(extent_of(found))
        self._values = ValuesWithin(found.values, found.counts)
        self._distinct = DistinctCount(found.values.size, exact=True)
        self._not_finite = NotFinite(found.not_a_number, found.infinite)
        self._centred, self._centre, self._sums = True, *power_sums_of(found, self.scale)
        if self._order is not None and self._extent is not None and self._extent.high is not None:
            every = float(found.values[0]), float(np.nextafter(found.values[-1], inf))
            self._order.fetched([every], self._values)

    # What is known

    def found(self) -> ColumnOfWhole:
        """The figures as far as they are known."""
        extent, order = self._extent, self._order
        if extent is None:
            return ColumnOfWhole(self.column, 0, 0, _UNKNOWN)
        frequent = self._frequent()
        quantiles = {each: self._quantile(each) for each in PERCENTILES}
        numbers = NumbersOfWhole(
            self._not_finite.not_a_number,
            self._not_finite.infinite,
            extent.zeros,
            extent.negatives,
            extent.low,
            extent.high,
            self.moments,
            {each: value for each, value in quantiles.items() if value is not None},
            tuple(self._beyond()),
            None if order is None else self._bins(order),
        )
        source = "" if not frequent else "the whole" if self._values.values.size else "pilot rows"
        return ColumnOfWhole(self.column, extent.n, extent.missing, self._distinct, frequent, source, numbers)

    def _frequent(self) -> tuple[Frequency, ...]:
        """The values that were counted by themselves, the most frequent first."""
        if self._order is None:
            return ()
        values, counts = self._values.values, self._values.counts
        if not values.size:
            edges, below = self._order.below()
            known = dict(zip(edges.tolist(), below.tolist(), strict=True))
            values = np.array(self._pilot.alone)
            counts = np.array([self._count_at(known, value) for value in self._pilot.alone], dtype=np.int64)
        most = np.argsort(-counts, kind="stable")[:_MOST_FREQUENT]
        found = ((float(values[each]), int(counts[each])) for each in most if counts[each])
        return tuple(Frequency(repr(value).removesuffix(".0"), many) for value, many in found)

    def _beyond(self) -> Iterator[Beyond]:
        order = self._order
        for method, limits in (("iqr", self._fences), ("z", self._z_limits)):
            if order is None or not limits or not all(map(isfinite, limits)):
                continue
            below, inside = order.count_below(limits[0]), order.count_below(float(np.nextafter(limits[1], inf)))
            if below is not None and inside is not None:
                yield Beyond(method, limits[0], limits[1], below, self.n - inside)

    def _bins(self, order: OrderStatistics) -> CountedBins | None:
        counted = [order.count_below(edge) for edge in self._pilot.bins]
        known = [each for each in counted if each is not None]
        if len(known) < 2 or len(known) < len(counted):
            return None
        counts = tuple(int(each) for each in np.diff(known))
        return CountedBins(self._pilot.bins, counts, known[0], self.n - known[-1])
