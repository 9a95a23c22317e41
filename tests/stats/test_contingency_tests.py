"""Tables of counts: tests against SciPy and by hand, and ratios with their intervals."""

import numpy as np
import pytest
from scipy import stats as oracle
from scipy.stats import contingency as tables

from culvix.errors import Cancelled, StatisticsError
from culvix.stats.association.contingency_tests import chi_square, fisher_exact, mcnemar, odds_ratio, risk_ratio

TEA = np.array([[3, 1], [1, 3]])
"""Fisher, R. A. 1935: The design of experiments. Edinburgh, Oliver & Boyd, chapter 2."""
SHARES = np.array([[12, 5, 9], [3, 14, 8], [7, 7, 20], [1, 0, 2]])


def test_chi_square_against_scipy_with_residuals_that_are_standard() -> None:
    theirs = oracle.chi2_contingency(SHARES, correction=False)
    found = chi_square(SHARES)
    assert (found.statistic, found.p, found.freedom) == pytest.approx((theirs.statistic, theirs.pvalue, theirs.dof))
    assert found.expected == pytest.approx(theirs.expected_freq)
    n, rows, columns = SHARES.sum(), SHARES.sum(axis=1), SHARES.sum(axis=0)
    spread = np.sqrt(theirs.expected_freq * np.outer(1 - rows / n, 1 - columns / n))
    assert found.residuals == pytest.approx((SHARES - theirs.expected_freq) / spread)


def test_empty_rows_and_columns_count_as_not_there() -> None:
    padded = np.zeros((6, 4), dtype=int)
    padded[1:5, :3] = SHARES
    assert chi_square(padded).p == pytest.approx(chi_square(SHARES).p)
    assert not chi_square(padded).residuals[0].any()
    assert fisher_exact(padded).p == fisher_exact(SHARES).p
    assert "two categories" in chi_square(padded[:, :1]).note and "two categories" in fisher_exact(padded[:2]).note


@pytest.mark.parametrize(
    "table", [TEA, np.array([[8, 2], [1, 5]]), np.array([[0, 9], [7, 30]]), np.array([[90, 4], [60, 20]])]
)
def test_two_by_two_against_scipy(table: np.ndarray) -> None:
    assert fisher_exact(table).p == pytest.approx(oracle.fisher_exact(table).pvalue, rel=1e-9)
    theirs, found = tables.odds_ratio(table), odds_ratio(table, 0.9)
    ends = theirs.confidence_interval(0.9)
    assert (found.value, found.low, found.high) == pytest.approx((theirs.statistic, ends.low, ends.high), rel=1e-5)


def test_the_lady_tasting_tea() -> None:
    assert fisher_exact(TEA).p == pytest.approx(34 / 70)


def test_larger_tables_are_drawn_with_a_seed_and_can_be_stopped() -> None:
    found = fisher_exact(SHARES, repeats=20_000)
    assert found == fisher_exact(SHARES, repeats=20_000) and "20000 seeded" in (found.p_by or "")
    small = SHARES[:3, :2]
    assert fisher_exact(small, repeats=20_000).p == pytest.approx(_by_all_tables(small), abs=0.004)

    def stop(share: float, _: str) -> None:
        if share > 0.4:
            raise Cancelled("")

    with pytest.raises(Cancelled):
        fisher_exact(SHARES, progress=stop)


def _by_all_tables(table: np.ndarray) -> float:
    """p of a table of three by two from all that have its sums."""
    rows, column = table.sum(axis=1), int(table[:, 0].sum())
    shares = {}
    for a in range(rows[0] + 1):
        for b in range(rows[1] + 1):
            c = column - a - b
            if 0 <= c <= rows[2]:
                shares[a, b, c] = oracle.multivariate_hypergeom.pmf([a, b, c], rows, column)
    seen = shares[tuple(int(x) for x in table[:, 0])]
    return sum(share for share in shares.values() if share <= seen * (1 + 1e-7))


def test_mcnemar_is_the_binomial_of_the_changes() -> None:
    found = mcnemar(np.array([[20, 3], [11, 40]]))
    assert found.statistic == 3 and found.p == pytest.approx(oracle.binomtest(3, 14).pvalue)
    assert mcnemar(np.array([[20, 0], [0, 40]])).note == "Nothing changed."
    with pytest.raises(StatisticsError):
        mcnemar(SHARES)


def test_risks_against_scipy() -> None:
    table = np.array([[15, 85], [5, 95]])
    theirs = tables.relative_risk(15, 100, 5, 100)
    found, ends = risk_ratio(table), theirs.confidence_interval(0.95)
    assert (found.value, found.low, found.high) == pytest.approx((3.0, ends.low, ends.high))


def test_empty_cells_have_open_ends() -> None:
    none = odds_ratio(np.array([[0, 9], [7, 30]]))
    assert (none.value, none.low) == (0, 0) and none.high == pytest.approx(
        tables.odds_ratio(np.array([[0, 9], [7, 30]])).confidence_interval().high, rel=1e-5
    )
    every = odds_ratio(np.array([[9, 0], [7, 30]]))
    assert every.value == every.high == np.inf and every.low > 1
    assert odds_ratio(np.array([[0, 0], [7, 30]])).note and risk_ratio(np.array([[0, 4], [0, 3]])).note
    assert risk_ratio(np.array([[0, 4], [1, 3]])).value == 0


def test_what_is_no_table_of_counts_is_refused() -> None:
    for test in (chi_square, fisher_exact, mcnemar, odds_ratio, risk_ratio):
        with pytest.raises(StatisticsError):
            test(np.array([[1, -1], [2, 3]]))
