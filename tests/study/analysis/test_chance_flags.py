"""What chance alone flags of a normal column: against exact values, brute force, and what the window and report say."""

import numpy as np
import pytest
from scipy import stats as oracle

from culvix.stats.core.sample import Sample
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.outliers.chance_flags import chance_flags, few_digits
from culvix.study.document.choices.settings import Settings

PLAIN = Settings()


@pytest.mark.parametrize("n", [12, 40, 300, 1500])
def test_z_scores_flag_what_the_beta_distribution_says(n: int) -> None:
    """n·((x − mean)/SD)²/(n−1)² of a normal sample has a Beta(½, (n−2)/2) distribution (Thompson 1935)."""
    share = oracle.beta(0.5, (n - 2) / 2).sf(9 * n / (n - 1) ** 2)
    assert chance_flags("z_score", n, PLAIN) == pytest.approx(n * share, rel=0.12, abs=0.01)


LIMITS = {"iqr_fences": 1.5, "hampel": 3.0, "z_score": 2.5, "modified_z": 3.5}


@pytest.mark.parametrize(("key", "limit"), LIMITS.items())
def test_long_columns_flag_the_share_of_the_normal_beyond(key: str, limit: float) -> None:
    quartile = oracle.norm.ppf(0.75)
    ends = {"iqr_fences": quartile * (1 + 2 * limit), "modified_z": limit * quartile / 0.6745}
    share = 2 * oracle.norm.sf(ends.get(key, limit))
    settings = PLAIN.with_limit(key, limit)
    assert chance_flags(key, 1_000_000, settings) == pytest.approx(1e6 * share, rel=0.01)


@pytest.mark.parametrize("key", ["iqr_fences", "modified_z", "hampel", "double_mad", "qn_distance", "adjusted_fences"])
def test_short_columns_flag_what_other_normal_samples_flag(key: str) -> None:
    draw, samples, n = np.random.default_rng(5), 400, 25
    flagged = [OUTLIER_METHODS[key].run(Sample(draw.normal(size=n))).rows.size for _ in range(samples)]
    error = 4 * np.std(flagged) / np.sqrt(samples)
    assert chance_flags(key, n, PLAIN) == pytest.approx(np.mean(flagged), abs=1.5 * error)


def test_limits_of_a_column_count_and_what_is_no_chance_has_none() -> None:
    own = PLAIN.with_own_limits("x", "z_score", (2.0, 4.0))
    above = oracle.norm.sf(4.0) + oracle.norm.sf(2.0)
    assert chance_flags("z_score", 100_000, own, column="x") == pytest.approx(100_000 * above, rel=0.01)
    assert chance_flags("valid_range", 500, PLAIN) is None
    assert chance_flags("dixon", 500, PLAIN) is None, "it cannot be applied to so many"
    assert chance_flags("z_score", 2, PLAIN) is None


@pytest.mark.parametrize("key", ["grubbs", "generalized_esd", "fdr", "dixon"])
@pytest.mark.parametrize("n", [10, 20, 28])
def test_tests_for_outliers_hold_their_level(key: str, n: int) -> None:
    """4 to 6 % at 5 %, the rate of 1 % within half of it, as far as 1000 samples tell."""
    settings = PLAIN.with_limit(key, 0.01 if key == "fdr" else 0.05)
    level, error = (0.01, 0.005) if key == "fdr" else (0.05, 0.01)
    assert chance_flags(key, n, settings) == pytest.approx(level, abs=error + 2.5 * np.sqrt(level / 1000))


def test_few_digits_say_what_is_known() -> None:
    assert [few_digits(v) for v in (0.0, 0.034, 1.12, 15.17)] == ["below 0.01", "0.03", "1.1", "15"]
