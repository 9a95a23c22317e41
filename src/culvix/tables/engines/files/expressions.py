"""Requests as expressions of Polars, and answers from what these give.

What several expressions share, the numbers of a column and their distances from a centre, is a column of its own that
is made once: otherwise each of them would work it out anew.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import singledispatchmethod

import polars as pl

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

__all__ = ["Aggregates", "Reading"]


@dataclass(frozen=True)
class Aggregates:
    """Expressions that give one value each, and what makes the answer from these."""

    expressions: tuple[pl.Expr, ...]
    read: Callable[..., Answer]


@dataclass
class Reading:
    """One reading of a frame with ``columns``, by the names they have in the table and with those in the frame."""

    columns: Mapping[str, EngineColumn]
    _numbers: dict[str, pl.Expr] = field(default_factory=dict)
    _distances: dict[str, pl.Expr] = field(default_factory=dict)
    _squares: dict[str, pl.Expr] = field(default_factory=dict)
    _presences: dict[str, pl.Expr] = field(default_factory=dict)
    _used: set[str] = field(default_factory=set)

    def of(self, frame: pl.LazyFrame) -> pl.LazyFrame:
        """``frame`` with all that was made for the requests."""
        with_numbers = frame.with_columns(*(each.alias(name) for name, each in self._numbers.items()))
        with_distances = with_numbers.with_columns(*(each.alias(name) for name, each in self._distances.items()))
        more = self._squares | self._presences
        return with_distances.with_columns(*(each.alias(name) for name, each in more.items()))

    @property
    def used(self) -> list[str]:
        """The columns of the frame that are asked about; others need not be read."""
        return sorted(self._used)

    def _raw(self, name: str) -> pl.Expr:
        self._used.add(self.columns[name].name)
        return pl.col(self.columns[name].name)

    def numbers(self, name: str) -> pl.Expr:
        """The finite numbers of a column as doubles, null for all else."""
        column = self.columns[name]
        found = self._raw(name).cast(pl.Float64)
        made = f"x {column.name}"
        self._numbers[made] = pl.when(found.is_finite()).then(found) if column.floating else found
        return pl.col(made)

    def text(self, name: str) -> pl.Expr:
        """The cells of a column as they are written."""
        return self._raw(name).cast(pl.String)

    def distances(self, name: str, centre: float, scale: float = 1.0) -> pl.Expr:
        """How far these are from ``centre``, over ``scale``; 0, which is nothing in a sum, where there is none."""
        made = f"{centre!r} {scale!r} {self.columns[name].name}"
        x = self.numbers(name)
        distance = x - centre if scale == 1.0 else x / scale - centre / scale
        self._distances[made] = distance.fill_null(0.0)
        return pl.col(made)

    def squares(self, name: str, centre: float, scale: float = 1.0) -> pl.Expr:
        """These distances squared."""
        d = self.distances(name, centre, scale)
        made = f"{centre!r} {scale!r} {self.columns[name].name} squared"
        self._squares[made] = d * d
        return pl.col(made)

    def _presence(self, name: str) -> pl.Expr:
        """1 where a column has a number, else 0: another one times this counts only in the rows with both."""
        x = self.numbers(name)
        made = f"1 {self.columns[name].name}"
        self._presences[made] = x.is_not_null().cast(pl.Float64)
        return pl.col(made)

    def is_met(self, where: Where) -> pl.Expr:
        """Whether a row is meant."""
        if isinstance(where, KeysWhere):
            names = [f"k{index}" for index in range(len(where.columns))]
            key = pl.struct(self.text(column).alias(name) for column, name in zip(where.columns, names, strict=True))
            kind = pl.Struct(dict.fromkeys(names, pl.String))
            keys = pl.Series([dict(zip(names, each, strict=True)) for each in where.cells], dtype=kind)
            return key.is_in(keys.implode())
        x = self.numbers(where.column)
        ends = [x >= where.low] if where.low is not None else []
        ends += [x <= where.high] if where.high is not None else []
        inside = pl.all_horizontal(x.is_not_null(), *ends)
        met = inside if where.inside else x.is_not_null() & ~inside
        codes = x.is_in(list(where.codes)) if where.codes else pl.lit(False)
        return (met & ~codes).fill_null(False)

    @singledispatchmethod
    def aggregates(self, request: object) -> Aggregates | None:
        """The expressions for ``request``; None where it is answered by a query of its own."""
        return None

    @aggregates.register
    def _(self, request: PresenceQuery) -> Aggregates:
        column = self._raw(request.column)
        return Aggregates(
            (column.count(), column.null_count()), lambda there, missing: Presence(int(there), int(missing))
        )

    @aggregates.register
    def _(self, request: Extent) -> Aggregates:
        about, x = self.columns[request.column], self.numbers(request.column)
        raw = self._raw(request.column)
        negatives = pl.lit(0) if about.kind is Kind.YES_NO else (x < 0).sum()

        def read(n: int, missing: int, zeros: int, negatives: int, *ends: float) -> Answer:
            low, high = ends if n else (None, None)
            return NumberExtent(int(n), int(missing), int(zeros), int(negatives), low, high)

        return Aggregates((x.count(), raw.null_count(), (x == 0).sum(), negatives, x.min(), x.max()), read)

    @aggregates.register
    def _(self, request: NotFiniteQuery) -> Aggregates:
        raw = self._raw(request.column)
        return Aggregates(
            (raw.is_nan().sum(), raw.is_infinite().sum()), lambda nan, infinite: NotFinite(int(nan), int(infinite))
        )

    @aggregates.register
    def _(self, request: PowerSumsQuery) -> Aggregates:
        d = self.distances(request.column, request.centre, request.scale)
        squares = self.squares(request.column, request.centre, request.scale)

        def read(n: int, *powers: float) -> Answer:
            one, two, three, four = (float(power) for power in powers)
            return PowerSums(int(n), (one, two, three, four))

        n = self.numbers(request.column).count()
        return Aggregates((n, d.sum(), squares.sum(), (squares * d).sum(), (squares * squares).sum()), read)

    @aggregates.register
    def _(self, request: CountsBelow) -> Aggregates:
        x = self.numbers(request.column)
        return Aggregates(tuple((x < edge).sum() for edge in request.edges), lambda *counts: tuple(map(int, counts)))

    @aggregates.register
    def _(self, request: RowCount) -> Aggregates:
        return Aggregates((self.is_met(request.where).sum(),), int)

    @aggregates.register
    def _(self, request: Products) -> Aggregates:
        x = self.distances(request.x, request.centres[0], request.scales[0])
        y = self.distances(request.y, request.centres[1], request.scales[1])
        return Aggregates(((x * y).sum(),), float)

    @aggregates.register
    def _(self, request: PairSumsQuery) -> Aggregates:
        x = self.distances(request.x, request.centres[0], request.scales[0])
        y = self.distances(request.y, request.centres[1], request.scales[1])

        def read(n: int, *sums: float) -> Answer:
            return PairSums(int(n), *(float(each) for each in sums))

        xx = self.squares(request.x, request.centres[0], request.scales[0])
        yy = self.squares(request.y, request.centres[1], request.scales[1])
        in_x, in_y = self._presence(request.x), self._presence(request.y)
        sums = ((x * in_y).sum(), (y * in_x).sum(), (xx * in_y).sum(), (yy * in_x).sum(), (x * y).sum())
        return Aggregates(((in_x * in_y).sum(), *sums), read)

    @aggregates.register
    def _(self, request: SumsWhereQuery) -> Aggregates:
        x = self.distances(request.column, request.centres[0], request.scales[0])
        xx = self.squares(request.column, request.centres[0], request.scales[0])
        there = self._presence(request.other)
        return Aggregates(((x * there).sum(), (xx * there).sum()), lambda one, two: SumsWhere(float(one), float(two)))

    def values(self, name: str) -> pl.Expr:
        """The finite numbers of a column, or its values of another kind."""
        return self.numbers(name) if self.columns[name].kind.has_numbers else self._raw(name)
