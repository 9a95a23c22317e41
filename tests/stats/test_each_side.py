"""A method with another limit above than below is the lower half of one span and the upper half of another."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.stats.core.sample import Sample
from culvix.stats.outliers.each_side import each_side
from culvix.stats.outliers.fdr import fdr
from culvix.stats.outliers.generalized_esd import esd_bound, generalized_esd
from culvix.stats.registry import OUTLIER_METHODS

WITH_ENDS = [key for key, method in OUTLIER_METHODS.items() if method.anchor is not None]
VALUES = st.lists(st.floats(-1e3, 1e3).map(lambda x: round(x, 2)), min_size=8, max_size=60)


@pytest.mark.parametrize("key", WITH_ENDS)
@given(values=VALUES, low=st.floats(0.5, 4.0), high=st.floats(0.5, 4.0))
def test_each_side_is_judged_by_its_own_limit(key: str, values: list[float], low: float, high: float) -> None:
    method, sample = OUTLIER_METHODS[key], Sample.of(values)
    assert method.limit is not None
    below, above = (method.run(sample, **{method.limit.key: limit}) for limit in (low, high))
    found = each_side(sample, below, above)
    if below.lower is None or above.upper is None:
        assert found is below
        return
    x = np.array(values)
    assert (found.lower, found.upper) == (below.lower, above.upper)
    assert sorted(found.rows) == np.flatnonzero((x < below.lower) | (x > above.upper)).tolist()
    assert np.array_equal(x[found.rows], np.sort(x[found.rows])) and found.scores.shape == found.rows.shape
    scores = dict(zip(below.rows.tolist(), below.scores.tolist(), strict=True))
    scores |= {
        row: s for row, s in zip(above.rows.tolist(), above.scores.tolist(), strict=True) if x[row] > above.upper
    }
    assert [scores[row] for row in found.rows.tolist()] == found.scores.tolist()


def test_equal_limits_change_nothing() -> None:
    sample = Sample.of(np.random.default_rng(2).standard_t(2, 80))
    for key in WITH_ENDS:
        once = OUTLIER_METHODS[key].run(sample)
        both = each_side(sample, once, once)
        assert both.rows.tolist() == once.rows.tolist() and both.settings == once.settings


def test_what_decided_is_told_of_tests_for_several() -> None:
    draw = np.random.default_rng(11)
    sample = Sample.of([*draw.normal(0, 1, 60), 9.0, 8.5])
    found = generalized_esd(sample, alpha=0.05, k=5)
    assert found.rows.tolist() == [60, 61] or sorted(found.rows) == [60, 61]
    assert found.settings["step"] == 2 and found.settings["critical"] == pytest.approx(esd_bound(62, 2, 0.05))
    assert found.settings["statistic"] > found.settings["critical"]  # type: ignore[operator]
    quiet = generalized_esd(Sample.of(draw.normal(0, 1, 60)), alpha=0.001, k=5)
    assert not quiet.rows.size and quiet.settings["step"] == 1
    by_rate = fdr(sample, q=0.01)
    assert by_rate.settings["statistic"] > by_rate.settings["critical"] and by_rate.settings["p"] < 0.01  # type: ignore[operator]
    beyond = np.abs(sample.values - sample.median) / (1.482602218505602 * sample.mad)
    assert by_rate.rows.size == (beyond > by_rate.settings["critical"]).sum()
