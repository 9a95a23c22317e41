"""How far from the others a row must lie to be flagged: as rarely in short tables as is said."""

from itertools import pairwise

import numpy as np
import pytest
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.multivariate.row_cutoffs import row_cutoff
from culvix.stats.multivariate.row_distances import row_distances


@pytest.mark.parametrize(("n", "p", "tables"), [(10, 2, 100), (28, 5, 40), (45, 9, 30), (60, 3, 30), (200, 2, 15)])
def test_of_normal_rows_about_one_in_forty_is_flagged(n: int, p: int, tables: int) -> None:
    draw = np.random.default_rng((n, p))
    shares = [row_distances(list(draw.normal(size=(p, n)))).flagged.size / n for _ in range(tables)]
    assert 0.013 < np.mean(shares) < 0.038


@pytest.mark.parametrize("p", [2, 5, 10])
@pytest.mark.parametrize("level", [0.9, 0.975, 0.99, 0.999])
def test_cut_offs_fall_to_the_chi_square_point_with_n(p: int, level: float) -> None:
    cut = [row_cutoff(n * p, p, level) for n in (5, 6, 7, 9, 14, 30, 80, 300, 3000, 10**6)]
    assert all(later < earlier for earlier, later in pairwise(cut))
    assert cut[-1] == pytest.approx(oracle.chi2(p).ppf(level), rel=1e-3) and cut[0] > 2 * cut[-1]
    assert row_cutoff(60, p, 0.99) > row_cutoff(60, p, 0.975)


def test_where_a_normal_was_not_simulated_the_method_says_it_cannot_judge() -> None:
    draw = np.random.default_rng(1)
    with pytest.raises(StatisticsError, match="Over 12 columns it is known from 300 rows on"):
        row_distances(list(draw.normal(size=(12, 200))))
    assert row_distances(list(draw.normal(size=(12, 320)))).cutoff > 0
    with pytest.raises(StatisticsError, match="level of the cut-off"):
        row_cutoff(100, 2, 0.3)


def test_a_row_that_is_far_from_all_is_flagged_in_a_short_table_too() -> None:
    x = np.random.default_rng(2).normal(size=(3, 18))
    x[:, 4] = 90.0
    assert row_distances(list(x)).flagged.tolist() == [4]
