import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.stats.core.sample import Sample
from culvix.stats.display import count, decimals_of, number, p_value, per_cent, signed, style_for


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
