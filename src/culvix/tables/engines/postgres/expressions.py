"""Requests as expressions of SQL, and answers from what these give."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import singledispatchmethod
from math import nan
from typing import Any

import numpy as np
import polars as pl
import sqlalchemy as sa

from culvix.tables.engines.edits import KeysWhere, RowCount, Where
from culvix.tables.engines.engine import EngineColumn, Kind
from culvix.tables.engines.postgres.plan import FEW_EDGES
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
    Request,
    SumsWhere,
    SumsWhereQuery,
)

__all__ = ["ZONED", "Aggregates", "Element", "Expressions", "Labelled", "carried", "double"]

Element = sa.ColumnElement[Any]

_TINY = 1e-75

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


Merge = Callable[[Sequence[pl.Series]], Sequence[Any]]


def _added(found: Sequence[pl.Series]) -> Sequence[Any]:
    return [each.sum() for each in found]


def _extents_merged(found: Sequence[pl.Series]) -> Sequence[Any]:
    *counts, low, high = found
    lows, highs = low.drop_nulls().to_numpy(), high.drop_nulls().to_numpy()
    # To the server NaN is larger than all other numbers.
    return [*_added(counts), *((float(np.fmin.reduce(lows)), float(highs.max())) if lows.size else (None, None))]


def _pairs_merged(found: Sequence[pl.Series]) -> Sequence[Any]:
    """Of counts, two means and three sums about them in groups, those of all: Chan, Golub & LeVeque (1983)."""
    n, x, y, xx, yy, xy = (each.to_numpy()[found[0].to_numpy() > 0].astype(np.float64) for each in found)
    total = n.sum()
    if not total:
        return 0, None, None, None, None, None
    # NaN and infinities give none; it is asked anew without them.
    with np.errstate(invalid="ignore"):
        mean_x, mean_y = n @ x / total, n @ y / total
        dx, dy = x - mean_x, y - mean_y
        about = (xx.sum() + n @ (dx * dx), yy.sum() + n @ (dy * dy), xy.sum() + n @ (dx * dy))
    return [int(total), *map(float, (mean_x, mean_y, *about))]


@dataclass(frozen=True)
class Aggregates:
    """Expressions that give one value each, and what makes the answer from these.

    Asked of groups of rows, ``merged`` gives the values of all rows.
    """

    expressions: tuple[Element, ...]
    read: Callable[..., Answer]
    merged: Merge = _added


class Labelled:
    """What is ``asked`` in one question, each expression under a name of its own."""

    def __init__(self, asked: Sequence[tuple[Request, Aggregates]]) -> None:
        self._asked = asked
        self.expressions = [
            expression.label(f"a{index}_{part}")
            for index, (_, each) in enumerate(asked)
            for part, expression in enumerate(each.expressions)
        ]

    def answers(self, found: pl.DataFrame) -> dict[Request, Answer]:
        """From what was ``found``: a row for each group, or one for all."""
        answers: dict[Request, Answer] = {}
        for index, (request, each) in enumerate(self._asked):
            values = [found[f"a{index}_{part}"] for part in range(len(each.expressions))]
            merged = [one.item() for one in values] if found.height == 1 else each.merged(values)
            answers[request] = each.read(*merged)
        return answers


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

    def distance(self, name: str, centre: float, scale: float) -> Element:
        """That of a column's numbers from ``centre``, over ``scale``, a power of two."""
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
            keys = [
                tuple(float(cell) if as_number else cell for cell, as_number in zip(row, floating, strict=True))
                for row in where.cells
            ]
            return sa.tuple_(*cells).in_(keys) if len(cells) > 1 else cells[0].in_([each[0] for each in keys])
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
        ends = sa.func.min(x), sa.func.max(x)
        return Aggregates((sa.func.count(x), missing, zeros, negatives, *ends), read, _extents_merged)

    @aggregates.register
    def _(self, request: NotFiniteQuery) -> Aggregates:
        x = self.plain(request.column)
        none, infinite = (sa.func.count().filter(each) for each in (x == double(nan), _is_infinite(x)))
        return Aggregates((none, infinite), lambda one, other: NotFinite(int(one), int(other)))

    @aggregates.register
    def _(self, request: PowerSumsQuery) -> Aggregates:
        d = self.distance(request.column, request.centre, request.scale)

        def read(n: int, mean: Any, squared: Any, second: Any, fourth: Any, third: Any) -> Answer:
            if not n:
                return PowerSums(0, (0.0, 0.0, 0.0, 0.0))
            powers = (n * mean, n * squared, third + n * mean * squared, fourth + n * squared * squared)
            return PowerSums(int(n), powers)

        # All six come from one walk through the values: sums of d and d², and of their squares and product.
        return Aggregates(_pair(d * d, d), read, _pairs_merged)

    @aggregates.register
    def _(self, request: CountsBelow) -> Aggregates | None:
        if len(request.edges) > FEW_EDGES:
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
        order = list(self.columns)
        if order.index(x) > order.index(y):

            def exchanged(n: int, mean_y: Any, mean_x: Any, yy: Any, xx: Any, xy: Any) -> Answer:
                return read(n, mean_x, mean_y, xx, yy, xy)

            return self._of_pair(y, x, centres[::-1], scales[::-1], exchanged)
        one, other = (self.distance(*each) for each in zip((x, y), centres, scales, strict=True))
        return Aggregates(_pair(other, one), read, _pairs_merged)


def _pair(y: Element, x: Element) -> tuple[Element, ...]:
    """What the server adds up of two expressions at once."""
    names = ("regr_count", "regr_avgx", "regr_avgy", "regr_sxx", "regr_syy", "regr_sxy")
    return tuple(getattr(sa.func, name)(y, x) for name in names)


def _is_infinite(x: Element) -> Element:
    return (x == double(float("inf"))) | (x == double(float("-inf")))


def _is_finite(x: Element) -> Element:
    # To the server NaN equals itself, and is larger than infinity.
    return (x > double(float("-inf"))) & (x < double(float("inf")))
