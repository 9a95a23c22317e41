import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.stats.core.sample import Sample
from culvix.stats.display import (
    coefficient,
    correlation,
    count,
    decimals_of,
    number,
    p_value,
    per_cent,
    signed,
    style_for,
)


@pytest.mark.parametrize(
    ("value", "decimals", "text"),
    [
        (2180, 0, "2\u202f180"),
        (-3.14159, 2, "−3.14"),
        (0.0, 2, "0.00"),
        (-0.0, 1, "0.0"),
        (0.00289, 2, "0.0029"),
        (4e-12, 2, "4×10⁻¹²"),
        (-1.5e12, 1, "−1.5×10¹²"),
        (1_000_000_003.45, 2, "1\u202f000\u202f000\u202f003.45"),
        (1.2345678e15, 2, "1.234568×10¹⁵"),
        (None, 2, "—"),
        (math.nan, 2, "—"),
        (math.inf, 2, "—"),
        (2.5, 0, "2"),
        (3.5, 0, "4"),
    ],
)
def test_numbers(value: float | None, decimals: int, text: str) -> None:
    assert number(value, decimals) == text


@given(st.floats(), st.integers(0, 6))
def test_what_is_not_zero_is_never_shown_as_zero(value: float, decimals: int) -> None:
    text = number(value, decimals)
    assert "nan" not in text and "inf" not in text and "-" not in text
    if math.isfinite(value) and value != 0:
        assert any(digit in text for digit in "123456789")


@given(st.floats(0, 1))
def test_p_values_are_never_zero(p: float) -> None:
    assert "0.000" not in p_value(p) and "1.00" not in p_value(p)


def test_the_rest() -> None:
    assert signed(0.5) == "+0.50" and signed(-0.5) == "−0.50" and count(12) == "12"
    assert per_cent(0.00001) == "< 0.1 %" and per_cent(0.99999) == "> 99.9 %" and per_cent(0.5) == "50.0 %"
    assert decimals_of(Sample.of([1.5, 2.25])) == 2 and decimals_of(Sample.of([1.0, 1 / 3])) is None
    assert decimals_of(Sample.of(np.arange(0, 100, 0.1).round(1))) == 1
    style = style_for(Sample.of([0.0001, 0.0002, 0.0005]), 0.0002)
    assert style.value(0.0005) == "0.0005" and style.statistic(0.00021) not in ("0.00", "0.0002")


@pytest.mark.parametrize(
    ("value", "shown"),
    [
        (1.0, "+1.000"),
        (-1.0, "−1.000"),
        (0.9994, "+0.999"),
        (0.99996, "+0.99996"),
        (-0.99996, "−0.99996"),
        (1 - 1e-9, "+0.99999"),
        (-(1 - 1e-15), "−0.99999"),
        (0.0004, "0.000"),
    ],
)
def test_a_coefficient_short_of_one_is_never_shown_as_one(value: float, shown: str) -> None:
    assert coefficient(value) == shown


def test_a_correlation_short_of_one_is_never_shown_as_one() -> None:
    assert [correlation(value) for value in (1.0, 0.99984, 0.99996, 1 - 1e-12)] == [
        "1.0000",
        "0.9998",
        "0.99996",
        "0.99999",
    ]


@given(st.floats(0.001, 1e5), st.integers(0, 4), st.floats(1e-4, 1e6))
def test_a_statistic_has_five_significant_digits_and_one_decimal_more_than_the_data(
    spread: float, recorded: int, value: float
) -> None:
    sample = Sample.of(np.round(np.linspace(-2, 2, 9) * 7.3, recorded))
    style = style_for(sample, spread)
    decimals = len(style.statistic(value).partition(".")[2].rstrip("⁰¹²³⁴⁵⁶⁷⁸⁹"))
    least = max(0, 1 - int(np.floor(np.log10(spread))))
    own = decimals_of(sample)
    assert style.statistic_decimals == min(max(own + 1, least), 8)
    if value > 0.5 * 10.0**-style.statistic_decimals and value < 1e5:
        significant_digits = decimals + int(np.floor(np.log10(value))) + 1
        assert significant_digits <= 5 or decimals <= least


def test_a_small_spread_far_from_zero_is_told() -> None:
    offset = Sample.of(1e6 + np.array([0.12, 0.55, 0.91, 0.33]))
    assert style_for(offset, 0.35).statistic(1_000_000.4775) == "1\u202f000\u202f000.48"
