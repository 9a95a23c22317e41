"""What a survey of the whole is held against: the same data in memory, by the core."""

import numpy as np
import polars as pl
import pytest

from culvix.stats.core.quantiles import PERCENTILES, quantile
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.pair_sums import pair_sums
from culvix.study.whole.column_figures import ColumnOfWhole
from culvix.study.whole.survey import WholeSurvey


def values_of(frame: pl.DataFrame, name: str) -> np.ndarray:
    return frame.get_column(name).rename("x").cast(pl.Float64).to_numpy()


def agree(survey: WholeSurvey, frame: pl.DataFrame) -> None:
    """Every figure of every column of numbers, and all correlations, are those of ``frame``."""
    assert survey.rows == frame.height
    for column in survey.columns:
        if column.numbers is not None:
            _column_agrees(column, values_of(frame, column.column.name))
            assert column.missing == frame.get_column(column.column.name).rename("x").null_count()
    _correlations_agree(survey, frame)


def _column_agrees(column: ColumnOfWhole, cells: np.ndarray) -> None:
    numbers = column.numbers
    assert numbers is not None
    x = cells[np.isfinite(cells)]
    assert (column.n, numbers.zeros, numbers.negatives) == (x.size, int((x == 0).sum()), int((x < 0).sum()))
    assert numbers.infinite == np.isinf(cells).sum()
    if not x.size:
        assert numbers.moments is None and numbers.low is None and not numbers.quantiles
        return
    assert (numbers.low, numbers.high) == (x.min(), x.max())
    own, ours = Sample.of(x).moments, numbers.moments
    assert own is not None and ours is not None
    scale = own.sd or abs(own.mean) or 1.0
    assert ours.n == own.n and ours.mean == pytest.approx(own.mean, rel=1e-12, abs=1e-12 * scale)
    assert ours.sum == pytest.approx(own.sum, rel=1e-12, abs=1e-12 * scale * own.n)
    for name, most in (("sd", 1e-10), ("skewness", 1e-8), ("excess_kurtosis", 1e-8)):
        one, other = getattr(ours, name), getattr(own, name)
        assert (one is None) == (other is None), name
        assert one is None or one == pytest.approx(other, rel=most, abs=0.0 if name == "sd" else 1e-9), name
    ordered = np.sort(x)
    assert dict(numbers.quantiles) == {each: quantile(ordered, each / 100) for each in PERCENTILES}
    for each in numbers.beyond:
        assert (each.below, each.above) == (int((x < each.low).sum()), int((x > each.high).sum())), each.method
    fences = [each for each in numbers.beyond if each.method == "iqr"]
    q1, q3 = numbers.quantiles[25], numbers.quantiles[75]
    assert [(each.low, each.high) for each in fences] == [(q1 - 1.5 * (q3 - q1), q3 + 1.5 * (q3 - q1))]
    if numbers.bins is not None:
        edges = np.array(numbers.bins.edges)
        below = [(x < edge).sum() for edge in edges]
        assert list(numbers.bins.counts) == np.diff(below).tolist()
        assert numbers.bins.below + sum(numbers.bins.counts) + numbers.bins.above == x.size
    for value in column.frequent:
        assert value.count == int((x == float(value.text)).sum())
    if column.distinct.exact:
        assert column.distinct.count == np.unique(x).size


def _correlations_agree(survey: WholeSurvey, frame: pl.DataFrame) -> None:
    columns = [values_of(frame, name) for name in survey.correlated]
    for a, x in enumerate(columns):
        for b, y in enumerate(columns[:a]):
            both = np.isfinite(x) & np.isfinite(y)
            assert survey.pairs[a, b] == both.sum()
            own = pair_sums(x[both], y[both])
            expected = float("nan") if own is None or both.sum() < 2 else own.r
            assert survey.r[a, b] == pytest.approx(expected, abs=1e-10, nan_ok=True)
