"""Requests as expressions of SQL, and answers from what these give."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import singledispatchmethod
from math import nan
from typing import Any

import sqlalchemy as sa

from culvix.tables.engines.edits import KeysWhere, RowCount, Where
from culvix.tables.engines.engine import EngineColumn, Kind
from culvix.tables.engines.requests import (
    Answer,
    CountsBelow,
    Extent,
    NotFinite,
    NotFiniteQuery,
    NumberExtent,
    PairSums,
    PairSumsQuery,
    PowerSums,
    PowerSumsQuery,
    Presence,
    PresenceQuery,
    Products,
    SumsWhere,
    SumsWhereQuery,
)

__all__ = ["ZONED", "Aggregates", "Element", "Expressions", "carried", "double"]

Element = sa.ColumnElement[Any]

_TINY = 1e-75
_FEW_EDGES = 6
"""Values below so many edges are counted one by one; below more, by the bucket they fall into."""


_CARRIED = ("smallint", "integer", "bigint", "real", "double precision")
"""Types of numbers that are carried over as they are; domains and exact decimals are as text."""
ZONED = "with time zone"


def carried(column: EngineColumn, cell: Element, *, text: bool = True) -> Element:
    """A ``cell`` of ``column`` as it is carried over; a number that is of a rarer type exactly, as ``text``."""
    if column.kind is Kind.NUMBER and column.type not in _CARRIED:
        return sa.cast(cell, sa.Text() if text else sa.Double())
    if ZONED in column.type:
        return sa.cast(sa.func.timezone("UTC", cell), sa.Text())
    return sa.cast(cell, sa.Text()) if column.kind in (Kind.TEXT, Kind.DATE) else cell


def double(value: float) -> Element:
    """``value`` as a parameter that is a double whatever it stands beside."""
    return sa.cast(sa.literal(value), sa.Double())


@dataclass(frozen=True)
class Aggregates:
    """Expressions that give one value each, and what makes the answer from these."""

    expressions: tuple[Element, ...]
    read: Callable[..., Answer]


@dataclass(frozen=True)
class Expressions:
    """Of the columns of ``table``; those named ``unclean`` hold NaN or infinities, which are left out."""

    table: sa.FromClause
    columns: Mapping[str, EngineColumn]
    unclean: frozenset[str] = frozenset()
    guarded: bool = False
    """Whether numbers are taken as 0 whose fourth power no double holds: a server refuses such results."""

    def plain(self, name: str) -> Element:
        """The numbers of a column as doubles, whatever they are."""
        return self.as_double(name, self.table.c[name])

    def as_double(self, name: str, cell: Element) -> Element:
        """A ``cell`` of the column of that name as a double."""
        if self.columns[name].kind is Kind.YES_NO:
            cell = sa.cast(cell, sa.Integer())
        return sa.cast(cell, sa.Double())

    def numbers(self, name: str) -> Element:
        """The finite numbers of a column as doubles, null for all else."""
        found = self.plain(name)
        return sa.case((_is_finite(found), found), else_=None) if name in self.unclean else found

    def _distance(self, name: str, centre: float, scale: float) -> Element:
        x = self._not_tiny(self.numbers(name), scale)
        if scale != 1.0:
            x = x / double(scale)
        return self._not_tiny(x - double(centre / scale) if centre else x, 1.0)

    def _not_tiny(self, x: Element, beside: float) -> Element:
        """``x``, or 0 where it is so small ``beside`` another number that its powers would be refused."""
        if not self.guarded:
            return x
        return sa.case((sa.func.abs(x) < double(_TINY * beside), double(0.0)), else_=x)

    def is_met(self, where: Where) -> Element:
        """Whether a row is meant."""
        if isinstance(where, KeysWhere):
            cells = [self._key(name) for name in where.columns]
            floating = [self.columns[name].floating for name in where.columns]
            wanted = [
                tuple(float(cell) if as_number else cell for cell, as_number in zip(row, floating, strict=True))
                for row in where.cells
            ]
            return sa.tuple_(*cells).in_(wanted) if len(cells) > 1 else cells[0].in_([each[0] for each in wanted])
        # Whether NaN is among them may not be known yet, and it is larger than any limit there.
        x = self.plain(where.column)
        finite = _is_finite(x)
        ends = [x >= double(where.low)] if where.low is not None else []
        ends += [x <= double(where.high)] if where.high is not None else []
        inside = sa.and_(finite, *ends)
        met = inside if where.inside else sa.and_(finite, sa.not_(inside))
        return sa.and_(met, *(x != double(code) for code in where.codes))

    def _key(self, name: str) -> Element:
        """The cells of a column as a sample has them: as text, but for numbers that are written in several ways."""
        if self.columns[name].floating:
            return self.as_double(name, self.table.c[name])
        cell: Element = sa.cast(carried(self.columns[name], self.table.c[name]), sa.Text())
        return cell

    @singledispatchmethod
    def aggregates(self, request: object) -> Aggregates | None:
        """The expressions for ``request``; None where it is answered by a query of its own."""
        return None

    @aggregates.register
    def _(self, request: PresenceQuery) -> Aggregates:
        there = sa.func.count(self.table.c[request.column])
        return Aggregates((there, sa.func.count() - there), lambda n, missing: Presence(int(n), int(missing)))

    @aggregates.register
    def _(self, request: Extent) -> Aggregates:
        x, raw = self.numbers(request.column), sa.func.count(self.table.c[request.column])
        zeros, negatives = (sa.func.count().filter(each) for each in (x == double(0.0), x < double(0.0)))

        def read(n: int, missing: int, zeros: int, negatives: int, low: Any, high: Any) -> Answer:
            return NumberExtent(int(n), int(missing), int(zeros), int(negatives), low, high)

        missing = sa.func.count() - raw
        return Aggregates((sa.func.count(x), missing, zeros, negatives, sa.func.min(x), sa.func.max(x)), read)

    @aggregates.register
    def _(self, request: NotFiniteQuery) -> Aggregates:
        x = self.plain(request.column)
        none, infinite = (sa.func.count().filter(each) for each in (x == double(nan), _is_infinite(x)))
        return Aggregates((none, infinite), lambda one, other: NotFinite(int(one), int(other)))

    @aggregates.register
    def _(self, request: PowerSumsQuery) -> Aggregates:
        d = self._distance(request.column, request.centre, request.scale)

        def read(n: int, mean: Any, squared: Any, second: Any, fourth: Any, third: Any) -> Answer:
            if not n:
                return PowerSums(0, (0.0, 0.0, 0.0, 0.0))
            powers = (n * mean, n * squared, third + n * mean * squared, fourth + n * squared * squared)
            return PowerSums(int(n), powers)

        # All six come from one walk through the values: sums of d and d², and of their squares and product.
        return Aggregates(_pair(d * d, d), read)

    @aggregates.register
    def _(self, request: CountsBelow) -> Aggregates | None:
        if len(request.edges) > _FEW_EDGES:
            return None
        x = self.numbers(request.column)
        counts = tuple(sa.func.count().filter(x < double(edge)) for edge in request.edges)
        return Aggregates(counts, lambda *found: tuple(map(int, found)))

    @aggregates.register
    def _(self, request: RowCount) -> Aggregates:
        return Aggregates((sa.func.count().filter(self.is_met(request.where)),), int)

    @aggregates.register
    def _(self, request: Products) -> Aggregates:
        def read(n: int, mean_x: Any, mean_y: Any, xx: Any, yy: Any, xy: Any) -> Answer:
            return float(xy + n * mean_x * mean_y) if n else 0.0

        return self._of_pair(request.x, request.y, request.centres, request.scales, read)

    @aggregates.register
    def _(self, request: SumsWhereQuery) -> Aggregates:
        def read(n: int, mean_x: Any, mean_y: Any, xx: Any, yy: Any, xy: Any) -> Answer:
            return SumsWhere(n * mean_x, xx + n * mean_x**2) if n else SumsWhere(0.0, 0.0)

        return self._of_pair(request.column, request.other, request.centres, request.scales, read)

    @aggregates.register
    def _(self, request: PairSumsQuery) -> Aggregates:
        def read(n: int, mean_x: Any, mean_y: Any, xx: Any, yy: Any, xy: Any) -> Answer:
            if not n:
                return PairSums(0, 0.0, 0.0, 0.0, 0.0, 0.0)
            sums = (n * mean_x, n * mean_y, xx + n * mean_x**2, yy + n * mean_y**2, xy + n * mean_x * mean_y)
            return PairSums(int(n), *sums)

        return self._of_pair(request.x, request.y, request.centres, request.scales, read)

    def _of_pair(
        self, x: str, y: str, centres: tuple[float, float], scales: tuple[float, float], read: Callable[..., Answer]
    ) -> Aggregates:
        """What ``read`` makes of the count, the means of the distances, and the sums about these means.

        The server sums up a pair once, whatever is asked of it, as long as that is written alike: in the order of the
        table.
        """
        places = list(self.columns)
        if places.index(x) > places.index(y):

            def turned(n: int, mean_y: Any, mean_x: Any, yy: Any, xx: Any, xy: Any) -> Answer:
                return read(n, mean_x, mean_y, xx, yy, xy)

            return self._of_pair(y, x, centres[::-1], scales[::-1], turned)
        one, other = (self._distance(*each) for each in zip((x, y), centres, scales, strict=True))
        return Aggregates(_pair(other, one), read)


def _pair(y: Element, x: Element) -> tuple[Element, ...]:
    """What the server adds up of two expressions at once."""
    names = ("regr_count", "regr_avgx", "regr_avgy", "regr_sxx", "regr_syy", "regr_sxy")
    return tuple(getattr(sa.func, name)(y, x) for name in names)


def _is_infinite(x: Element) -> Element:
    return (x == double(float("inf"))) | (x == double(float("-inf")))


def _is_finite(x: Element) -> Element:
    # To the server NaN equals itself, and is larger than infinity.
    return (x > double(float("-inf"))) & (x < double(float("inf")))
