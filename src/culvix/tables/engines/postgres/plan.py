"""Which requests one grouping of all rows answers: every reading, and every expression in it, has its price."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from math import prod
from typing import Self

from culvix.tables.engines.requests import (
    CountsBelow,
    Extent,
    NotFiniteQuery,
    PairSumsQuery,
    PowerSumsQuery,
    PresenceQuery,
    Products,
    Request,
    SumsWhereQuery,
    ValueCountsQuery,
)

__all__ = ["FEW_EDGES", "Distance", "ValueGrouping", "columns_of", "groupings_of_buckets", "groupings_of_values"]

_MOST_TOGETHER = 1 << 14
"""Groups by several columns at once: more leave the processor's cache, and are no quicker than each column alone."""
_MOST_SUMS = 150_000
"""Sums in all groups of a question: more leave the memory that a server gives to one."""


FEW_EDGES = 6
"""Values below so many edges are counted one by one; below more, by the bucket they fall into."""
_MOST_BESIDES = 250
"""A question of the server has at most 1664 expressions."""
_OF_GROUPS = (
    PresenceQuery | Extent | NotFiniteQuery | PowerSumsQuery | CountsBelow | PairSumsQuery | Products | SumsWhereQuery
)
"""What of all rows can be put together from what groups of them give."""


@dataclass(frozen=True)
class Distance:
    """That of the numbers of ``column`` from ``centre``, over ``scale``."""

    column: str
    centre: float
    scale: float

    @classmethod
    def both_of(cls, request: Products) -> tuple[Self, Self]:
        """Those whose products are summed."""
        return (
            cls(request.x, request.centres[0], request.scales[0]),
            cls(request.y, request.centres[1], request.scales[1]),
        )


@dataclass(frozen=True)
class ValueGrouping:
    """Rows grouped by the values of the columns of ``counted``, with ``sums`` in each group.

    From them follow the ``products`` of two of the columns, and those of one of them and of what is summed.
    """

    counted: tuple[ValueCountsQuery, ...]
    sums: tuple[Distance, ...] = ()
    products: tuple[Products, ...] = ()

    @property
    def columns(self) -> tuple[str, ...]:
        """By whose values the rows are grouped."""
        return tuple(each.column for each in self.counted)

    @property
    def groups(self) -> int:
        """About so many, or fewer."""
        return prod(max(each.about, 1) for each in self.counted)

    @property
    def has_room(self) -> bool:
        """Whether one more sum may be asked for."""
        return self.groups * (len(self.sums) + 1) <= _MOST_SUMS

    def summed_for(self, request: Products) -> Distance | None:
        """What is to be summed in the groups for ``request``; nothing where it is of two of the columns, or none."""
        x, y = Distance.both_of(request)
        if (x.column in self.columns) == (y.column in self.columns):
            return None
        return y if x.column in self.columns else x


def columns_of(request: Request) -> set[str]:
    """The columns that ``request`` names, one or two."""
    return {name for at in ("column", "other", "x", "y") if (name := getattr(request, at, ""))}


def groupings_of_values(requests: Sequence[Request]) -> list[ValueGrouping]:
    """How all values that are to be counted are, and which of the products are answered besides."""
    found = _joined(each for each in requests if isinstance(each, ValueCountsQuery))
    # Sums of the rows that have both columns come with their products, by the way.
    by_the_way = {frozenset((each.column, each.other)) for each in requests if isinstance(each, SumsWhereQuery)}
    left = [each for each in requests if isinstance(each, Products) and frozenset((each.x, each.y)) not in by_the_way]
    answered_by: dict[tuple[int, Distance], set[Products]] = defaultdict(set)
    for index, grouping in enumerate(found):
        inside = tuple(each for each in left if {each.x, each.y} <= set(grouping.columns))
        found[index] = replace(grouping, products=inside)
        for each in left:
            if (summed := grouping.summed_for(each)) is not None:
                answered_by[index, summed].add(each)
    while answered_by:
        # The sum that answers the most; of equal ones that in the fewest groups.
        best = max(answered_by, key=lambda at: (len(answered_by[at]), -found[at[0]].groups))
        products, (index, summed) = answered_by.pop(best), best
        if products and found[index].has_room:
            sums, ordered = (*found[index].sums, summed), (each for each in left if each in products)
            found[index] = replace(found[index], sums=sums, products=(*found[index].products, *ordered))
            for others in answered_by.values():
                others -= products
    return found


def _joined(counted: Iterable[ValueCountsQuery]) -> list[ValueGrouping]:
    """Columns of few values together: each, the largest first, goes where the fewest groups are."""
    found: list[ValueGrouping] = []
    for each in sorted(counted, key=lambda request: -request.about):
        index = min(range(len(found)), key=lambda at: found[at].groups, default=None)
        together = None if index is None else ValueGrouping((*found[index].counted, each))
        if index is not None and together is not None and each.about and together.groups <= _MOST_TOGETHER:
            found[index] = together
        else:
            found.append(ValueGrouping((each,)))
    return found


def groupings_of_buckets(requests: Iterable[Request]) -> list[tuple[CountsBelow, list[Request]]]:
    """All counts below many edges, each with what is asked of its column besides, the first with all else."""
    asked = [each for each in requests if isinstance(each, _OF_GROUPS)]
    counts = [each for each in asked if isinstance(each, CountsBelow) and len(each.edges) > FEW_EDGES]
    found: list[tuple[CountsBelow, list[Request]]] = [(each, []) for each in counts]
    for request in asked if found else ():
        if request in counts:
            continue
        own = next((besides for each, besides in found if columns_of(request) == {each.column}), found[0][1])
        if len(own) < _MOST_BESIDES:
            own.append(request)
    return found
