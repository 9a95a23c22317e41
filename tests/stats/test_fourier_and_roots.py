"""The cosine transform and the root finder against SciPy's."""

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.fft import dct
from scipy.optimize import brentq

from culvix.stats.core.fourier import cosine_transform, fast_size
from culvix.stats.core.roots import root_between


@pytest.mark.parametrize("n", [1, 2, 3, 4, 5, 100, 16_384])
def test_the_cosine_transform(n: int) -> None:
    x = np.random.default_rng(n).normal(size=n)
    assert cosine_transform(x) == pytest.approx(dct(x), abs=1e-12 * n)


@given(st.integers(1, 10**7))
def test_a_fast_size_is_hardly_longer_and_has_small_factors(n: int) -> None:
    size = rest = fast_size(n)
    assert n <= size <= 1.26 * n + 8 and size % 2 == 0
    while rest % 2 == 0:
        rest //= 2
    assert rest in (1, 3, 5, 9, 15)


@pytest.mark.parametrize(
    ("f", "low", "high"),
    [
        (lambda t: t**3 - 2, 0.0, 5.0),
        (lambda t: np.exp(t) - 5, -10.0, 10.0),
        (lambda t: t - 1e-9, 1e-12, 1.0),
        (lambda t: 1e6 - 1 / t, 1e-9, 1.0),
        (lambda t: np.arctan(t - 3), 200.0, -100.0),
        (lambda t: 1.0 if t > 0.3 else -1.0, 0.0, 1.0),
        (lambda t: t * t - 4, 2.0, 7.0),
    ],
)
def test_a_root_is_found_in_few_steps(f: Callable[[float], float], low: float, high: float) -> None:
    asked = []

    def counted(t: float) -> float:
        asked.append(t)
        return f(t)

    assert root_between(counted, low, high, 1e-10) == pytest.approx(brentq(f, low, high, rtol=1e-12), rel=1e-9)
    assert len(asked) < 45
