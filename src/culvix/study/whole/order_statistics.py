"""Values of given ranks in a column of the whole, found from counts below edges and the values between two of them."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from math import ceil, inf

import numpy as np

from culvix.errors import ReadError
from culvix.stats.core.arrays import Floats, Ints
from culvix.tables.engines.requests import ValuesWithin

__all__ = ["MOST_FETCHED", "OrderStatistics"]

MOST_FETCHED, FEW_FETCHED = 1_000_000, 20_000
"""More values than the first between two edges are not fetched, fewer than the second always are."""
_SHARE_FETCHED = 50
"""Of so many values one is fetched rather than counted."""
_PARTS, _FEW_EDGES = 64, 16
_EXACT = 2.0**53


@dataclass(eq=False)
class OrderStatistics:
    """``n`` values from ``low`` to ``high``, ``whole`` numbers or not; what is known grows with every answer.

    ``seen`` are values (ascending) that were seen in a part of the column.
    """

    n: int
    low: float
    high: float
    whole: bool = False
    seen: Floats = field(default_factory=lambda: np.zeros(0))
    _edges: Floats = field(default_factory=lambda: np.zeros(0))
    _below: Ints = field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    _known: dict[tuple[float, float], ValuesWithin] = field(default_factory=dict)
    _values: dict[int, float] = field(default_factory=dict)
    """By rank, where they were found already."""

    def __post_init__(self) -> None:
        self.counted(np.array([self.low, np.nextafter(self.high, inf)]), np.array([0, self.n]))

    def counted(self, edges: Iterable[float], below: Iterable[int]) -> None:
        """Take up how many values lie below each of ``edges``."""
        merged = dict(zip(self._edges.tolist(), self._below.tolist(), strict=True))
        merged |= dict(zip(map(float, edges), map(int, below), strict=True))
        inside = sorted(edge for edge in merged if self.low <= edge <= np.nextafter(self.high, inf))
        self._edges = np.array(inside)
        self._below = np.array([merged[edge] for edge in inside], dtype=np.int64)

    def fetched(self, ranges: Iterable[tuple[float, float]], found: ValuesWithin) -> None:
        """Take up all values in ``ranges``, each from an edge to below another one."""
        for low, high in ranges:
            inside = slice(*np.searchsorted(found.values, (low, high)))
            self._known[low, high] = ValuesWithin(found.values[inside], found.counts[inside])

    def _bin_of(self, rank: int) -> tuple[float, float, int, int]:
        """The edges between which the value of a ``rank`` (from 1) lies, and how many lie below each."""
        # Of equal counts the last edge is the one just below the value.
        index = int(np.searchsorted(self._below, rank, side="left")) - 1
        low, high = float(self._edges[index]), float(self._edges[index + 1])
        return low, high, int(self._below[index]), int(self._below[index + 1])

    def value(self, rank: int) -> float | None:
        """The value of a ``rank`` (from 1), where it is known by now."""
        if rank not in self._values and (found := self._find(rank)) is not None:
            self._values[rank] = found
        return self._values.get(rank)

    def _find(self, rank: int) -> float | None:
        low, high, below, above = self._bin_of(rank)
        if high <= np.nextafter(low, inf) or (self.whole and ceil(low) + 1 >= high and abs(high) < _EXACT):
            return float(ceil(low)) if self.whole else low
        if rank == self.n and self.high < high and self.high >= low:
            return self.high
        if rank == 1:
            return self.low
        for (first, last), found in self._known.items():
            if first <= low and high <= last:
                inside = (found.values >= low) & (found.values < high)
                reached = below + np.cumsum(found.counts[inside])
                if above != reached[-1]:
                    raise ReadError("The table was changed while it was surveyed; survey it again.")
                return float(found.values[inside][np.searchsorted(reached, rank)])
        return None

    def missing(self, ranks: Iterable[int]) -> tuple[list[tuple[float, float]], list[float]]:
        """What is to be asked for the values of ``ranks``: ranges to be fetched, and edges to be counted below."""
        ranges, edges = set(), set()
        for rank in ranks:
            if self.value(rank) is not None:
                continue
            low, high, below, above = self._bin_of(rank)
            closer = self._closer(low, high) - {low, high} if above - below > FEW_FETCHED else set()
            if closer and (above - below > MOST_FETCHED or len(closer) <= _FEW_EDGES):
                edges |= closer
            else:
                ranges.add((low, high))
        return sorted(ranges), sorted(edges)

    def _closer(self, low: float, high: float) -> set[float]:
        """Edges between two others: around each value seen there where these are few, else among them, else evenly."""
        seen = self.seen[slice(*np.searchsorted(self.seen, (low, high)))]
        if 0 < 2 * seen.size <= _FEW_EDGES:
            return {*seen.tolist(), *np.nextafter(seen, inf).tolist()}
        if seen.size > _FEW_EDGES:
            return set(seen[np.linspace(0, seen.size - 1, _PARTS).astype(int)].tolist())
        return set(np.linspace(low, high, _PARTS + 1)[1:-1].tolist())

    def around(self, ranks: Sequence[int]) -> tuple[float, float]:
        """Two numbers between which the values of ``ranks`` lie."""
        found = [
            (value, value) if (value := self.value(rank)) is not None else self._bin_of(rank)[:2] for rank in ranks
        ]
        return min(low for low, _ in found), max(high for _, high in found)

    def count_below(self, edge: float) -> int | None:
        """How many values are less than ``edge``, where that is known by now."""
        if edge <= self.low or not self.n:
            return 0
        if edge > self.high:
            return self.n
        index = int(np.searchsorted(self._edges, edge))
        if index < self._edges.size and self._edges[index] == edge:
            return int(self._below[index])
        for (low, high), found in self._known.items():
            if low <= edge <= high and (first := self.count_below(low)) is not None:
                return first + int(found.counts[found.values < edge].sum())
        return None

    def at_most_within(self, low: float, high: float) -> int:
        """At most so many values lie between two numbers."""
        first, last = self._places(low, high)
        return int(self._below[last] - self._below[first])

    def _places(self, low: float, high: float) -> tuple[int, int]:
        """Those of the edges around two numbers, as far as there are any."""
        first = max(int(np.searchsorted(self._edges, low, side="right")) - 1, 0)
        return first, min(int(np.searchsorted(self._edges, high)), self._edges.size - 1)

    def few_around(self, low: float, high: float) -> tuple[float, float] | None:
        """The edges around two numbers, where so few values lie between them that to fetch is less than to count."""
        if self.at_most_within(low, high) > min(max(self.n // _SHARE_FETCHED, FEW_FETCHED), MOST_FETCHED):
            return None
        first, last = self._places(low, high)
        return float(self._edges[first]), float(self._edges[last])

    def below(self) -> tuple[Floats, Ints]:
        """All edges with the number of values below each."""
        return self._edges, self._below
