"""Values of given ranks, found from counts below edges and few of the values themselves."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.errors import ReadError
from culvix.study.whole import order_statistics
from culvix.study.whole.order_statistics import OrderStatistics
from culvix.tables.engines.requests import ValuesWithin

NUMBERS = st.one_of(st.integers(-5, 5).map(float), st.floats(-1e9, 1e9, allow_subnormal=False), st.just(1e300))


@pytest.fixture(autouse=True)
def little_is_fetched(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(order_statistics, "MOST_FETCHED", 6)
    monkeypatch.setattr(order_statistics, "FEW_FETCHED", 2)


def found(values: np.ndarray, ranks: list[int], seen: np.ndarray, *, whole: bool = False) -> OrderStatistics:
    order = OrderStatistics(values.size, float(values[0]), float(values[-1]), whole=whole, seen=seen)
    for _ in range(200):
        ranges, edges = order.missing(ranks)
        if not ranges and not edges:
            return order
        order.counted(edges, [int((values < edge).sum()) for edge in edges])
        inside = np.zeros(values.size, dtype=bool)
        for low, high in ranges:
            inside |= (values >= low) & (values < high)
        order.fetched(ranges, ValuesWithin(*np.unique(values[inside], return_counts=True)))
    raise AssertionError("it does not come to an end")


@given(st.lists(NUMBERS, min_size=1, max_size=300), st.data())
def test_every_rank_has_the_value_that_sorting_gives(drawn: list[float], data: st.DataObject) -> None:
    values = np.sort(np.array(drawn))
    seen = np.unique(data.draw(st.lists(st.sampled_from(drawn), max_size=40)))
    ranks = data.draw(st.lists(st.integers(1, values.size), min_size=1, max_size=9))
    order = found(values, ranks, seen)
    assert [order.value(rank) for rank in ranks] == [values[rank - 1] for rank in ranks]


@given(st.lists(st.integers(-20, 20).map(float), min_size=1, max_size=300))
def test_whole_numbers_need_nothing_fetched_between_two_of_them(drawn: list[float]) -> None:
    values = np.sort(np.array(drawn))
    order = OrderStatistics(values.size, float(values[0]), float(values[-1]), whole=True)
    edges = np.arange(-20.0, 22.0)
    order.counted(edges, [int((values < edge).sum()) for edge in edges])
    ranks = list(range(1, values.size + 1))
    assert order.missing(ranks) == ([], [])
    assert [order.value(rank) for rank in ranks] == values.tolist()


@given(st.lists(NUMBERS, min_size=2, max_size=200), st.floats(-1e9, 1e9))
def test_what_is_counted_below_a_number_is_known_or_said_to_be_unknown(drawn: list[float], edge: float) -> None:
    values = np.sort(np.array(drawn))
    order = OrderStatistics(values.size, float(values[0]), float(values[-1]))
    many = order.count_below(edge)
    assert many is None or many == int((values < edge).sum())
    order.counted([edge], [int((values < edge).sum())])
    assert order.count_below(edge) == int((values < edge).sum())
    low, high = float(values[0]), float(np.nextafter(values[-1], np.inf))
    assert order.at_most_within(low, high) == values.size


def test_a_table_that_changed_between_two_readings_is_told() -> None:
    order = OrderStatistics(100, 0.0, 99.0)
    order.fetched(
        [(0.0, float(np.nextafter(99.0, np.inf)))], ValuesWithin(np.arange(90.0), np.ones(90, dtype=np.int64))
    )
    with pytest.raises(ReadError, match="changed while it was surveyed"):
        order.value(50)
