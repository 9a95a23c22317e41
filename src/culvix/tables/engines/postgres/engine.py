"""A table, view or query of a PostgreSQL server, or of any that speaks its protocol and SQL."""

from collections.abc import Iterator, Mapping, Sequence
from math import isfinite
from pathlib import Path
from typing import Any

import polars as pl
import sqlalchemy as sa

from culvix.errors import ReadError
from culvix.progress import Progress, silent
from culvix.stats.display import count, plural
from culvix.tables.engines.edits import Edit, NumbersWhere
from culvix.tables.engines.engine import EngineColumn, Kind, StateLost
from culvix.tables.engines.postgres.catalog import (
    columns_of_query,
    columns_of_table,
    query_as_table,
    tables_of,
)
from culvix.tables.engines.postgres.connection import OVERFLOW, Connection, ServerError
from culvix.tables.engines.postgres.edits import edited
from culvix.tables.engines.postgres.expressions import ZONED, Aggregates, Expressions, Labelled, carried, double
from culvix.tables.engines.postgres.plan import columns_of, groupings_of_buckets, groupings_of_values
from culvix.tables.engines.postgres.questions import (
    Ask,
    counts_and_rest,
    frequencies,
    values_and_products,
    values_within,
)
from culvix.tables.engines.postgres.server_table import ServerTable
from culvix.tables.engines.requests import (
    Answer,
    Distinct,
    DistinctCount,
    Extent,
    Frequencies,
    NumberExtent,
    Request,
    ValueCounts,
    ValueCountsQuery,
    ValuesWithinQuery,
)

__all__ = ["PostgresEngine"]

_MOST_EXPRESSIONS = 1500
"""A question of the server has at most 1664."""
_ESTIMATED = """
SELECT n_distinct::float8 AS n FROM pg_catalog.pg_stats WHERE schemaname = $1 AND tablename = $2 AND attname = $3
"""


class PostgresEngine:
    """All readings up to `close` see one state of the table."""

    name = "PostgreSQL"
    pairs_at_once = True

    def __init__(
        self,
        connection: Connection,
        title: str,
        source: sa.FromClause,
        columns: tuple[EngineColumn, ...],
        notes: tuple[str, ...],
        table: ServerTable | None,
    ) -> None:
        """``source`` is asked, a ``table`` or a query. Raises ServerError."""
        self.connection, self.title, self.address = connection, title, connection.address
        self.columns, self._source, self._table = columns, source, table
        self.files: tuple[Path, ...] = ()
        self._by_name = {column.name: column for column in columns}
        self._unclean: frozenset[str] = frozenset()
        self._guarded = False
        """Whether a question was refused for a number that no double holds: from then on these are taken as 0."""
        if all(column.kind is Kind.OTHER for column in columns):
            raise ReadError(f"{title} has no column of numbers, texts or dates that may be read.")
        self.rows = self._counted_rows()
        left_out = [column.name for column in columns if column.kind is Kind.OTHER]
        rounded = [column.name for column in columns if "double" in column.note]
        self.notes = (
            f"{plural(self.rows, 'row')}",
            *notes,
            *((f"left out: {', '.join(left_out)}",) if left_out else ()),
            *(("times with a zone are given in UTC",) if any(ZONED in column.type for column in columns) else ()),
            *((f"rounded to doubles: {', '.join(rounded)}",) if rounded else ()),
        )

    @classmethod
    def connected(
        cls,
        address: str,
        *,
        table: str | None = None,
        query: str | None = None,
        seconds: float | None = None,
        progress: Progress = silent,
    ) -> "PostgresEngine":
        """The ``table`` (with its schema where it needs one) or ``query`` of the server at ``address``.

        Raises ServerError, and ReadError where neither or both are named, or there is no such table.
        """
        if (table is None) == (query is None):
            raise ReadError("Name a table of the server, or write a query.")
        progress(0.0, "connecting")
        connection = Connection(address, seconds=seconds, progress=progress)
        try:
            if query is not None:
                columns = columns_of_query(connection, query)
                source = query_as_table(query, tuple(column.name for column in columns))
                return cls(connection, "query", source, columns, (), None)
            found = _chosen(tables_of(connection), table or "")
            columns, notes = columns_of_table(connection, found)
            named = sa.table(found.name, *(sa.column(each.name) for each in columns), schema=found.schema)
            return cls(connection, found.title, named, columns, notes, found)
        except BaseException:
            connection.close()
            raise

    def _counted_rows(self) -> int:
        counted = self.connection.ask(sa.select(sa.func.count().label("n")).select_from(self._source))
        return int(counted["n"][0])

    # Answers

    def answer(self, requests: Sequence[Request], progress: Progress = silent) -> dict[Request, Answer]:
        """Answer all ``requests``; what needs a question of its own is asked after the others."""
        answers = self._answer(requests, progress)
        found = (
            (each.column, answer) for each, answer in answers.items() if isinstance(each, Extent | ValueCountsQuery)
        )
        unclean = {column for column, answer in found if _is_unclean(answer)} - self._unclean
        if unclean:
            # NaN and infinities turned up: what they touched is asked anew without them, but for values counted.
            self._unclean |= unclean
            touched = (each for each in requests if not isinstance(each, ValueCountsQuery))
            again = [each for each in touched if unclean & columns_of(each)]
            answers |= self._answer(again, progress) if again else {}
        return answers

    def _answer(self, requests: Sequence[Request], progress: Progress) -> dict[Request, Answer]:
        expressions = Expressions(self._source, self._by_name, self._unclean, self._guarded)
        answers: dict[Request, Answer] = {}

        def ask(question: sa.Select[*tuple[Any, ...]], doing: str) -> pl.DataFrame:
            return self._ask(question, progress, doing)

        for grouping in groupings_of_values(requests):
            answers |= values_and_products(ask, expressions, grouping)
        for counts, rest in groupings_of_buckets(each for each in requests if each not in answers):
            answers |= counts_and_rest(ask, expressions, counts, rest)
        left = ((each, expressions.aggregates(each)) for each in requests if each not in answers)
        for part in _parts([(each, asked) for each, asked in left if asked is not None]):
            labelled = Labelled(part)
            found = ask(sa.select(*labelled.expressions).select_from(self._source), f"reading {self.title}")
            answers |= labelled.answers(found)
        for request in requests:
            if request not in answers:
                answers[request] = self._answer_alone(request, ask, expressions)
        return answers

    def _ask(self, question: sa.Select[*tuple[Any, ...]], progress: Progress, doing: str) -> pl.DataFrame:
        try:
            return self.connection.ask(question, progress, doing)
        except ServerError as error:
            if error.state != OVERFLOW or self._guarded:
                raise
            # What is left of this transaction is of another state than what was answered before.
            self._guarded = True
            self.rows = self._counted_rows()
            raise StateLost(f"{self.title} holds numbers so large or small that it has to be read anew.") from error

    def _answer_alone(self, request: Request, ask: Ask, expressions: Expressions) -> Answer:
        if isinstance(request, ValuesWithinQuery):
            return values_within(ask, expressions, request)
        if isinstance(request, Frequencies):
            return frequencies(ask, expressions, request)
        if isinstance(request, Distinct):
            return self._distinct(request)
        return None

    def _distinct(self, request: Distinct) -> Answer:
        if self._table is None:
            return DistinctCount(None, exact=False)
        identity = (self._table.schema, self._table.name, request.column)
        found = self.connection.ask_text(_ESTIMATED, identity)
        if not found.height:
            return DistinctCount(None, exact=False)
        estimate = float(found["n"][0])
        # Less than nothing, it is a share of the rows.
        many = round(estimate if estimate >= 0 else -estimate * self.rows)
        return DistinctCount(many, exact=False, how="the server's estimate")

    # Rows

    def pilot_rows(self, size: int, seed: int, progress: Progress = silent) -> pl.DataFrame:
        """About ``size`` rows: blocks from all over a table, or the first rows of a view or query."""
        source = self._source
        if self._table is not None and self._table.has_places and self.rows > size:
            share = min(100 * 1.1 * size / self.rows, 100.0)
            source = sa.tablesample(source, sa.func.system(double(share)), seed=sa.literal(seed))
        chosen = sa.select(*self._cells(source, text=False)).limit(size)
        return self.connection.ask(chosen, progress, f"looking at {self.title}")

    def sample(
        self, size: int, seed: int, *, stratified_by: str | None = None, progress: Progress = silent
    ) -> pl.DataFrame:
        """``size`` rows by the hash of their primary key; without one by the server's own sample, or their content."""
        keys = [column.name for column in self.columns if column.key]
        source = self._source
        cells = list(self._cells(source))
        if keys or stratified_by is not None or self._table is None or not self._table.has_places:
            names = keys or [column.name for column in self.columns if column.kind is not Kind.OTHER]
        else:
            share = min(100 * (size + 6 * size**0.5 + 10) / max(self.rows, 1), 100.0)
            source = sa.tablesample(source, sa.func.bernoulli(double(share)), seed=sa.literal(seed))
            cells = list(self._cells(source))
            names = [column.name for column in self.columns if column.kind is not Kind.OTHER]
        content = sa.cast(sa.func.row(*(source.c[name] for name in names)), sa.Text())
        hashed = sa.func.hashtextextended(content, sa.cast(sa.literal(seed), sa.BigInteger()))
        drawing = f"drawing a sample of {self.title}"
        if stratified_by is None:
            chosen = sa.select(*cells).select_from(source).order_by(hashed, content).limit(size)
            return self.connection.ask(chosen, progress, drawing)
        within = source.c[stratified_by]
        levels = self.connection.ask(
            sa.select(sa.func.count(sa.distinct(within)).label("n")), progress, f"counting {stratified_by}"
        )
        each = max(size // max(int(levels["n"][0]), 1), 1)
        rank = sa.func.row_number().over(partition_by=within, order_by=(hashed, content)).label("culvix place")
        ranked = sa.select(*cells, rank).select_from(source).subquery("ranked")
        columns = [ranked.c[name.name] for name in cells]
        chosen = sa.select(*columns).where(ranked.c["culvix place"] <= each)
        return self.connection.ask(chosen, progress, drawing)

    def rows_beyond(
        self, limits: Mapping[str, tuple[float, float]], most: int, progress: Progress = silent
    ) -> pl.DataFrame:
        """At most ``most`` rows with a number beyond the ``limits`` of its column."""
        expressions = Expressions(self._source, self._by_name, self._unclean)
        parts = (NumbersWhere(name, low, high, inside=False) for name, (low, high) in limits.items())
        outside = sa.or_(sa.false(), *map(expressions.is_met, parts))
        keys = [self._source.c[column.name] for column in self.columns if column.key]
        chosen = sa.select(*self._cells(self._source)).where(outside).order_by(*keys).limit(most)
        return self.connection.ask(chosen, progress, f"fetching rows of {self.title}")

    def _cells(self, source: sa.FromClause, *, text: bool = True) -> Iterator[Any]:
        """The columns that are read, each of a type that is carried over; numbers exactly where they are ``text``."""
        for column in self.columns:
            if column.kind is not Kind.OTHER:
                yield carried(column, source.c[column.name], text=text).label(column.name)

    def edited(self, edits: tuple[Edit, ...], folder: Path, progress: Progress = silent) -> pl.LazyFrame:
        """The table with ``edits`` made, whose rows are in files in ``folder`` by then."""
        expressions = Expressions(self._source, self._by_name, self._unclean)
        pieces, done = [], 0
        for number, piece in enumerate(self.connection.fetch(edited(self._source, expressions, edits), progress)):
            pieces.append(folder / f"{number:06}.parquet")
            piece.write_parquet(pieces[-1])
            done += piece.height
            progress(min(done / max(self.rows, 1), 1.0), f"fetching {self.title}")
        return pl.scan_parquet(pieces, glob=False)

    def close(self) -> None:
        """End the session."""
        self.connection.close()


def _chosen(tables: tuple[ServerTable, ...], name: str) -> ServerTable:
    """The table called ``name``, with its schema or without. Raises ReadError for none, or several."""
    found = [each for each in tables if name in (each.title, each.name)]
    exact = [each for each in found if each.title == name] or found
    if len(exact) == 1:
        return exact[0]
    if exact:
        raise ReadError(f"{name} is in several schemas: {', '.join(each.schema for each in exact)}; name one of them.")
    near = ", ".join(each.title for each in tables[:8])
    there = f"there are {near}{' …' if len(tables) > 8 else ''}" if tables else "there is none that may be read"
    raise ReadError(f"There is no table or view {name} that may be read; {there} ({count(len(tables))}).")


def _parts(asked: list[tuple[Request, Aggregates]]) -> Iterator[list[tuple[Request, Aggregates]]]:
    """What fits into one question each."""
    part: list[tuple[Request, Aggregates]] = []
    size = 0
    for each in asked:
        if part and size + len(each[1].expressions) > _MOST_EXPRESSIONS:
            yield part
            part, size = [], 0
        part.append(each)
        size += len(each[1].expressions)
    if part:
        yield part


def _is_unclean(answer: Answer) -> bool:
    """Whether NaN or an infinity was among the values."""
    if isinstance(answer, ValueCounts):
        return answer.not_a_number + answer.infinite > 0
    return isinstance(answer, NumberExtent) and not all(
        isfinite(end) for end in (answer.low, answer.high) if end is not None
    )
