"""Questions that are answered by many rows: groups, from which all else is put together, or values."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import polars as pl
import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import array

from culvix.stats.core.arrays import Floats, Ints
from culvix.tables.engines.postgres.expressions import Element, Expressions, Labelled, double
from culvix.tables.engines.postgres.plan import Distance, ValueGrouping, columns_of
from culvix.tables.engines.requests import (
    Answer,
    CountsBelow,
    Frequencies,
    Frequency,
    Products,
    Request,
    ValueCounts,
    ValuesWithin,
    ValuesWithinQuery,
)

__all__ = ["MOST_GROUPS", "Ask", "counts_and_rest", "frequencies", "values_and_products", "values_within"]

Ask = Callable[[sa.Select[*tuple[Any, ...]], str], pl.DataFrame]
"""Gives the rows that answer a question, while what is done is said."""
MOST_GROUPS = 200_000
"""More groups by several columns at once are not waited for."""


def _bucket(x: Element, edges: Sequence[float]) -> Element:
    """How many of ``edges`` (ascending) are at most as large as ``x``."""
    return sa.func.width_bucket(x, sa.cast(array([double(edge) for edge in edges]), sa.ARRAY(sa.Double())))


def values_and_products(ask: Ask, expressions: Expressions, grouping: ValueGrouping) -> dict[Request, Answer]:
    """All that ``grouping`` answers, in one question; of too many groups each column by itself, without products."""
    alone = len(grouping.counted) == 1
    most = min(each.limit for each in grouping.counted) if alone else MOST_GROUPS
    found = ask(_grouped(expressions, grouping, most), f"counting the values of {', '.join(grouping.columns)}")
    if found.height > most:
        answers: dict[Request, Answer] = dict.fromkeys(grouping.counted)
        for each in () if alone else grouping.counted:
            answers |= values_and_products(ask, expressions, ValueGrouping((each,)))
        return answers
    n = found["n"].to_numpy()
    values = {name: found[f"k{index}"] for index, name in enumerate(grouping.columns)}
    summed = {each: found[f"s{index}"].fill_null(0.0).to_numpy() for index, each in enumerate(grouping.sums)}
    answers = {each: _value_counts(values[each.column], n, each.limit) for each in grouping.counted}
    doubles = {name: each.to_numpy() for name, each in values.items()}
    return answers | {each: _product(each, doubles, n, summed) for each in grouping.products}


def _grouped(expressions: Expressions, grouping: ValueGrouping, most: int) -> sa.Select[*tuple[Any, ...]]:
    """The groups' values ``k0`` and so on as doubles, how many rows ``n`` each has, and the sums ``s0`` and so on."""
    cells = [expressions.table.c[name] for name in grouping.columns]
    sums = [sa.func.sum(expressions.distance(each.column, each.centre, each.scale)) for each in grouping.sums]
    named = [each.label(f"{kind}{index}") for kind, of in (("k", cells), ("s", sums)) for index, each in enumerate(of)]
    # Grouped as they are: most types are quicker there than doubles.
    question = sa.select(*named, sa.func.count().label("n")).select_from(expressions.table)
    groups = question.group_by(*cells).limit(most + 1).subquery("groups")
    keys = (expressions.as_double(name, groups.c[f"k{index}"]) for index, name in enumerate(grouping.columns))
    named = [each.label(f"k{index}") for index, each in enumerate(keys)]
    return sa.select(*named, groups.c.n, *(groups.c[f"s{index}"] for index in range(len(sums))))


def _value_counts(values: pl.Series, n: Ints, limit: int) -> ValueCounts | None:
    there = values.is_not_null().to_numpy()
    counted = ValueCounts.of(values.to_numpy()[there], n[there], int(n[~there].sum()))
    return counted if counted.values.size <= limit else None


def _product(request: Products, values: dict[str, Floats], n: Ints, summed: dict[Distance, Floats]) -> float:
    """The sum of the products of two distances over all rows, from that of one of them in each group, or from none."""
    both = Distance.both_of(request)
    by_value = [each for each in both if each.column in values]
    weights = n.astype(np.float64) if len(by_value) == 2 else next(summed[each] for each in both if each in summed)
    inside = np.logical_and.reduce([np.isfinite(values[each.column]) for each in by_value])
    total = weights[inside]
    # Where what was summed holds NaN, infinities or unseen extremes, the sum is none; it is asked anew without them.
    with np.errstate(invalid="ignore", over="ignore"):
        for each in by_value:
            total = total * (values[each.column][inside] / each.scale - each.centre / each.scale)
        return float(total.sum())


def counts_and_rest(
    ask: Ask, expressions: Expressions, counts: CountsBelow, rest: Sequence[Request]
) -> dict[Request, Answer]:
    """Rows grouped by the edges of ``counts`` between which they lie; the ``rest`` is put together from the groups."""
    names = sorted({*columns_of(counts), *(name for each in rest for name in columns_of(each))})
    bucket_name = next(name for name in map("bucket{}".format, range(len(names) + 1)) if name not in names)
    cells = [expressions.table.c[name] for name in names]
    found_in = _bucket(expressions.numbers(counts.column), counts.edges).label(bucket_name)
    # Of an expression the server thinks that each row has another value, and reads alone. Of a union it does not know.
    rows = sa.union_all(
        sa.select(found_in, *cells).select_from(expressions.table),
        sa.select(sa.null().label(bucket_name), *cells).select_from(expressions.table).where(sa.false()),
    ).subquery("rows")
    asked = [(each, replace(expressions, table=rows).aggregates(each)) for each in rest]
    labelled = Labelled([(request, each) for request, each in asked if each is not None])
    question = sa.select(rows.c[bucket_name].label("bucket"), sa.func.count().label("n"), *labelled.expressions)
    found = ask(question.group_by(rows.c[bucket_name]), f"counting {counts.column}")
    by_bucket = np.zeros(len(counts.edges) + 1, dtype=np.int64)
    inside = found.drop_nulls("bucket")
    by_bucket[inside["bucket"].to_numpy()] = inside["n"].to_numpy()
    below = tuple(int(each) for each in np.cumsum(by_bucket)[:-1])
    return {counts: below, **labelled.answers(found)}


def values_within(ask: Ask, expressions: Expressions, request: ValuesWithinQuery) -> ValuesWithin:
    """The values in the ranges, each as often as it occurs."""
    x = expressions.numbers(request.column)
    ends = sorted({end for each in request.ranges for end in each})
    inside = [index + 1 for index, end in enumerate(ends) if any(low <= end < high for low, high in request.ranges)]
    found = ask(
        sa.select(x.label("x"))
        .select_from(expressions.table)
        .where(_bucket(x, ends) == sa.any_(sa.cast(array(inside), sa.ARRAY(sa.Integer())))),
        f"ordering {request.column}",
    )
    return ValuesWithin(*np.unique(found["x"].to_numpy(), return_counts=True))


def frequencies(ask: Ask, expressions: Expressions, request: Frequencies) -> tuple[Frequency, ...] | None:
    """The values as text, the most frequent first; nothing where they are too many."""
    cell = expressions.table.c[request.column]
    text = sa.cast(cell, sa.Text())
    found = ask(
        sa.select(text.label("text"), sa.func.count().label("n"))
        .select_from(expressions.table)
        .where(cell.is_not(None))
        # By what it is, not by its name: a column of the table may be called so.
        .group_by(text)
        .limit(request.limit + 1),
        f"counting the values of {request.column}",
    )
    if found.height > request.limit:
        return None
    ordered = found.sort(["n", "text"], descending=[True, False])
    return tuple(Frequency(str(text), int(n)) for text, n in ordered.rows())
