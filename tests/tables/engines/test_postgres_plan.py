"""Several requests are answered from one grouping of a server's rows, as each of them is by itself."""

from collections.abc import Sequence
from itertools import combinations

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.tables.engines import open_engine
from culvix.tables.engines.postgres import questions
from culvix.tables.engines.postgres.plan import groupings_of_buckets, groupings_of_values
from culvix.tables.engines.requests import (
    Answer,
    CountsBelow,
    Extent,
    PairSums,
    PairSumsQuery,
    PowerSums,
    PowerSumsQuery,
    Products,
    Request,
    SumsWhere,
    SumsWhereQuery,
    ValueCounts,
    ValueCountsQuery,
)
from tests.tables.engines.servers import Server

DRAW = np.random.default_rng(17)


def products_of(names: Sequence[str]) -> list[Products]:
    return [Products(x, y, (0.0, 0.0)) for x, y in combinations(names, 2)]


@given(st.lists(st.integers(0, 100_000), max_size=12), st.integers(0, 3))
def test_each_column_is_counted_once_and_no_product_is_answered_twice(about: list[int], others: int) -> None:
    counted = [ValueCountsQuery(f"c{place}", 1_000_000, each) for place, each in enumerate(about)]
    products = products_of([*(each.column for each in counted), *(f"d{place}" for place in range(others))])
    found = groupings_of_values([*counted, *products])
    assert sorted(name for each in found for name in each.columns) == sorted(each.column for each in counted)
    answered = [product for each in found for product in each.products]
    assert len(answered) == len(set(answered)) and set(answered) <= set(products)
    for each in found:
        assert len(each.counted) == 1 or each.groups <= 1 << 14
        assert len(each.sums) < 2 or each.groups * len(each.sums) <= 150_000
        summed = {distance.column for distance in each.sums}
        for product in each.products:
            assert {product.x, product.y} & set(each.columns)
            assert {product.x, product.y} <= {*each.columns, *summed}


def test_columns_whose_number_of_values_is_not_known_are_counted_alone() -> None:
    counted = [ValueCountsQuery("a", 9), ValueCountsQuery("b", 9), ValueCountsQuery("c", 9, 3)]
    assert {each.columns for each in groupings_of_values(counted)} >= {("a",)} and len(groupings_of_values(counted)) > 1


def test_what_is_asked_of_a_column_comes_with_its_buckets_and_the_rest_with_the_first() -> None:
    x, y = (CountsBelow(name, tuple(map(float, range(9)))) for name in "xy")
    few, elsewhere = CountsBelow("x", (1.0,)), Products("z", "y", (0.0, 0.0))
    found = dict(groupings_of_buckets([Extent("y"), elsewhere, y, few, x, ValueCountsQuery("z", 9, 2)]))
    assert found == {y: [Extent("y"), elsewhere], x: [few]}
    assert groupings_of_buckets([Extent("y"), few]) == []


def odd_frame() -> pl.DataFrame:
    """Codes with gaps, NaN and infinities, numbers that are drawn, a constant, and values beyond all buckets."""
    n = 4_000
    drawn = DRAW.normal(-3, 2, n)
    drawn[:5] = -40.0, 50.0, 0.0, -0.0, 5e-324
    odd = np.where(DRAW.random(n) < 0.01, DRAW.choice([np.nan, np.inf, -np.inf], n), DRAW.normal(size=n).round(1))
    return pl.DataFrame(
        {
            "code": pl.Series(DRAW.integers(-1, 4, n).astype(np.int16)),
            "gaps": pl.Series(DRAW.integers(0, 9, n)).replace(3, None),
            "drawn": drawn,
            "odd": odd,
            "bucket0": np.full(n, 7.25),
            "none": pl.Series([None] * n, dtype=pl.Float64),
        }
    )


def requests_of(frame: pl.DataFrame) -> list[Request]:
    edges = tuple(np.linspace(-9.0, 5.0, 29).tolist())
    names = frame.columns
    own = [request for each in names for request in (Extent(each), PowerSumsQuery(each, 1.5), CountsBelow(each, edges))]
    gaps = [PairSumsQuery("gaps", each, (4.0, 0.5)) for each in ("code", "drawn", "odd", "none")]
    where = [SumsWhereQuery("drawn", "gaps", (0.0, 4.0))]
    return [*(ValueCountsQuery(each, 500, 20) for each in names), *own, *products_of(names), *gaps, *where]


def agree(one: Answer, other: Answer) -> None:
    if isinstance(one, ValueCounts) and isinstance(other, ValueCounts):
        assert one.values.tolist() == other.values.tolist() and one.counts.tolist() == other.counts.tolist()
        assert (one.missing, one.not_a_number, one.infinite) == (other.missing, other.not_a_number, other.infinite)
    elif isinstance(one, PowerSums) and isinstance(other, PowerSums):
        assert one.n == other.n and one.powers == pytest.approx(other.powers, rel=1e-12)
    elif isinstance(one, PairSums) and isinstance(other, PairSums):
        ours, theirs = ([each.n, each.x, each.y, each.xx, each.yy, each.xy] for each in (one, other))
        assert ours == pytest.approx(theirs, rel=1e-11, abs=1e-8)
    elif isinstance(one, SumsWhere) and isinstance(other, SumsWhere):
        assert (one.x, one.xx) == pytest.approx((other.x, other.xx), rel=1e-12)
    elif isinstance(one, float) and isinstance(other, float):
        assert one == pytest.approx(other, rel=1e-11, abs=1e-8)
    else:
        assert type(one) is type(other) and one == other


@pytest.mark.parametrize("most", [200_000, 10])
def test_answers_are_those_that_each_request_has_by_itself(
    most: int, postgres: Server, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(questions, "MOST_GROUPS", most)
    frame = odd_frame()
    postgres.load("together", frame)
    engine, alone = (open_engine(postgres.address(), table="together") for _ in range(2))
    asked = requests_of(frame)
    found = engine.answer(asked)
    assert set(found) >= set(asked)
    alone.answer([ValueCountsQuery("odd", 500)])  # now it knows that not all of these are numbers
    for request in asked:
        agree(found[request], alone.answer([request])[request])
    assert found[ValueCountsQuery("drawn", 500, 20)] is None, "too many"
    engine.close()
    alone.close()
