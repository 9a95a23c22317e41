"""Round numbers along an axis of another scale."""

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from culvix.charts.axes.scale_ticks import scale_ticks, tick_text
from culvix.stats.core.sample import Sample
from culvix.stats.shape.axis_scale import AXIS_SCALES, LOG_AXIS, axis_scale

WIDE = Sample.of(np.exp(np.random.default_rng(4).normal(0, 3, 400)))


def room(one: str, other: str) -> float:
    return max(52.0, 3.5 * (len(one) + len(other)) + 6)


def texts(key: str, low: float, high: float, size: float = 700, sample: Sample = WIDE) -> list[str]:
    scale = axis_scale(sample, key)
    found = scale_ticks(scale, scale.position(low), scale.position(high), size, room)
    return [tick_text(value).replace("\N{NARROW NO-BREAK SPACE}", " ") for value in found.values()]


def test_a_log_axis_has_powers_of_ten_and_between_them_what_fits() -> None:
    assert texts("log", 0.01, 10_000, 500) == ["0.01", "0.1", "1", "10", "100", "1 000", "10 000"]
    assert texts("log", 1, 100) == ["1", "2", "3", "5", "10", "20", "30", "50", "100"]
    assert texts("log", 0.9, 1100, 450) == ["1", "3", "10", "30", "100", "300", "1 000"]
    assert texts("log", 1e-6, 1e12)[:3] == ["1×10⁻⁶", "0.0001", "0.01"], "every second power where all have no room"
    assert texts("log", 1000, 1010)[1:3] == ["1 001", "1 002"]


def test_a_signed_axis_has_zero_in_its_middle() -> None:
    both = Sample.of(np.concatenate([WIDE.values, -WIDE.values]))
    found = texts("signed_log", -1000, 1000, sample=both)
    assert "0" in found and "−1 000" in found and "1 000" in found
    assert [text.lstrip("−") for text in found] == [text.lstrip("−") for text in reversed(found)]


@pytest.mark.parametrize("key", [key for key in AXIS_SCALES if key != "measured"])
@given(
    ends=st.tuples(st.floats(-8, 8), st.floats(0.001, 12)),
    size=st.floats(120, 2000),
    values=st.lists(st.floats(1e-3, 1e9), min_size=5, max_size=40, unique=True),
)
@example(
    (0.0, 7.547499445302158),
    944.1691983431004,
    [3.87, 25.0, 1e7, *(1e8 * k for k in range(1, 10)), 1e9, 999999999.9999999],
)
def test_numbers_on_an_axis_are_in_view_in_order_and_do_not_run_into_each_other(
    key: str, ends: tuple[float, float], size: float, values: list[float]
) -> None:
    scale = axis_scale(Sample.of(values), key)
    low, high = ends[0], ends[0] + ends[1]
    found = scale_ticks(scale, low, high, size, room)
    positions = np.array(list(found))
    assert len(found) <= size / 52 + 2
    assert ((positions >= low - 1e-6 * (high - low)) & (positions <= high + 1e-6 * (high - low))).all()
    for (one, a), (other, b) in zip(list(found.items())[:-1], list(found.items())[1:], strict=True):
        assert (other - one) * size / (high - low) >= room(tick_text(a), tick_text(b)) - 1e-6 and a < b
    for position, value in found.items():
        assert scale.position(value) == pytest.approx(position, abs=1e-6 * (high - low))


def test_an_axis_without_room_or_range_has_no_numbers() -> None:
    assert scale_ticks(LOG_AXIS, 1.0, 1.0, 500, room) == {}
    assert scale_ticks(LOG_AXIS, 0.0, float("inf"), 500, room) == {}
    assert scale_ticks(LOG_AXIS, 0.0, 1.0, 0, room) == {}


def test_round_numbers_are_written_without_noise() -> None:
    assert [tick_text(x) for x in (0.0, 0.30000000000000004, 1e-5, 2e-7, 5e6)] == [
        *("0", "0.3", "0.00001", "2×10⁻⁷", "5×10⁶")
    ]
