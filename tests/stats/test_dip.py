"""The dip test against its definition as a linear programme, and its error rates."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import linprog

from culvix.errors import Cancelled, StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.shape.dip import dip, dip_test
from tests.stats.hostile import arrays


class Programme:
    """Least distance d of a function, convex before ``mode`` and concave after it, from an empirical one."""

    def __init__(self, x: np.ndarray, mode: int) -> None:
        self.values, counts = np.unique(x, return_counts=True)
        self.k, self.mode = self.values.size, mode
        high = np.cumsum(counts) / x.size
        # Unknown: the function at each value, its limit from the left at the mode, and d.
        self.rows: list[np.ndarray] = []
        self.bounds: list[float] = []
        for position in range(self.k):
            self._near(self._left(position), high[position] - counts[position] / x.size)
            self._near(position, high[position])
        self._at_most({self.k: 1.0, mode: -1.0}, 0.0)
        for before, after in pairwise(range(self.k)):
            self._at_most({before: 1.0, self._left(after): -1.0}, 0.0)
        self._bent([self._left(position) for position in range(mode + 1)], self.values[: mode + 1], 1.0)
        self._bent(list(range(mode, self.k)), self.values[mode:], -1.0)

    def _left(self, position: int) -> int:
        return self.k if position == self.mode else position

    def _at_most(self, weights: dict[int, float], bound: float) -> None:
        row = np.zeros(self.k + 2)
        for position, weight in weights.items():
            row[position] += weight
        self.rows.append(row)
        self.bounds.append(bound)

    def _near(self, position: int, height: float) -> None:
        self._at_most({position: 1.0, self.k + 1: -1.0}, height)
        self._at_most({position: -1.0, self.k + 1: -1.0}, -height)

    def _bent(self, positions: list[int], x: np.ndarray, sign: float) -> None:
        for here in range(1, len(positions) - 1):
            before, after = 1 / (x[here] - x[here - 1]), 1 / (x[here + 1] - x[here])
            weights = {positions[here]: before + after, positions[here - 1]: -before, positions[here + 1]: -after}
            self._at_most({position: sign * weight for position, weight in weights.items()}, 0.0)

    def least(self) -> float:
        goal = np.eye(self.k + 2)[-1]
        found = linprog(goal, A_ub=np.array(self.rows), b_ub=self.bounds, bounds=[(0, 1)] * (self.k + 2))
        return found.fun if found.success else np.inf


@pytest.mark.parametrize("seed", range(40))
def test_the_dip_is_the_distance_from_the_nearest_unimodal_function(seed: int) -> None:
    draw = np.random.default_rng(seed)
    n = int(draw.integers(4, 15))
    # √2 leaves values without a common step, so that each is taken where it stands.
    shapes = (
        draw.standard_normal(n),
        np.concatenate([draw.normal(0, 1, n // 2), draw.normal(6, 1, n - n // 2)]),
        np.round(draw.normal(0, 1.2, n)) * np.sqrt(2),
        draw.exponential(1, n) * (draw.random(n) < 0.6),
    )
    x = shapes[seed % 4]
    modes = range(np.unique(x).size)
    assert dip(Sample(x)) == pytest.approx(min(Programme(x, mode).least() for mode in modes), abs=1e-9)


def test_long_columns_take_the_same_way() -> None:
    draw = np.random.default_rng(1)
    few = np.concatenate([draw.normal(0, 1, 150), draw.normal(4, 1, 150)])
    # The same distribution function, every jump in ten, hardly apart.
    many = (few[:, None] + 1e-9 * np.arange(10)).ravel()
    assert dip(Sample(many)) == pytest.approx(dip(Sample(few)), abs=1e-3)
    assert dip(Sample(np.concatenate([np.zeros(500), np.ones(500)]) + 1e-3 * draw.random(1000))) > 0.2


@given(arrays())
def test_the_dip_of_anything_lies_between_its_bounds(x: np.ndarray) -> None:
    sample = Sample.of(x)
    assert not sample.n or 0 <= dip(sample) <= 0.25 + 1e-12


@given(st.integers(0, 1000), st.sampled_from([0.5, 2.0, 1024.0, 2.0**-900]), st.sampled_from([0.0, 64.0]))
def test_the_dip_has_no_unit(seed: int, factor: float, offset: float) -> None:
    x = np.random.default_rng(seed).integers(0, 2**20, 30) / 7
    assert dip(Sample(factor * (x + offset))) == pytest.approx(dip(Sample(x)), abs=1e-9)


@pytest.mark.parametrize(
    ("name", "draw_one", "least", "most"),
    [
        ("normal", lambda draw: draw.normal(size=60), 0.0, 0.05),
        ("uniform", lambda draw: draw.random(60), 0.01, 0.1),
        ("normal in whole numbers", lambda draw: np.round(draw.normal(10, 1.5, 60)), 0.0, 0.05),
        ("answers from 1 to 6", lambda draw: draw.integers(1, 7, 60).astype(float), 0.0, 0.1),
        ("two groups", lambda draw: np.concatenate([draw.normal(0, 1, 30), draw.normal(6, 1, 30)]), 0.9, 1.0),
        ("two rounded", lambda draw: np.round(np.concatenate([draw.normal(0, 1, 30), draw.normal(7, 1, 30)])), 0.9, 1),
    ],
)
def test_how_often_two_peaks_are_said(name: str, draw_one: object, least: float, most: float) -> None:
    draw = np.random.default_rng(11)
    said = [dip_test(Sample(draw_one(draw)), repeats=99).p.p <= 0.05 for _ in range(150)]  # type: ignore[operator,union-attr]
    assert least <= np.mean(said) <= most, name


def test_what_the_test_cannot_say() -> None:
    assert "n is 3" in (dip_test(Sample.of([1.0, 2, 3])).note or "")
    assert "Fewer than three" in (dip_test(Sample.of([1.0, 1, 2, 2])).note or "")
    with pytest.raises(StatisticsError):
        dip_test(Sample.of(np.arange(9.0)), repeats=0)

    def stop(share: float, doing: str) -> None:
        raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        dip_test(Sample.of(np.arange(9.0)), progress=stop)


def test_a_seed_gives_the_same_p_again() -> None:
    sample = Sample(np.random.default_rng(4).random(40))
    assert dip_test(sample, seed=3) == dip_test(sample, seed=3)
    assert dip_test(sample, seed=3).p != dip_test(sample, seed=4).p
