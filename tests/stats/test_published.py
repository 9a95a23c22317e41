"""Worked examples and tabulated values from the literature, to the digits printed there."""

import numpy as np
import pytest
from scipy import stats as oracle

from culvix.stats.core.sample import Sample
from culvix.stats.correlation.intervals import fisher_interval
from culvix.stats.correlation.pearson import pearson
from culvix.stats.describe.l_moments import l_moments
from culvix.stats.multivariate.row_distances import row_distances
from culvix.stats.normality.dagostino_k2 import kurtosis_z, skewness_z
from culvix.stats.registry import NORMALITY_TESTS, OUTLIER_METHODS
from culvix.stats.resampling.multiple_testing import benjamini_hochberg, holm
from culvix.stats.shape.power_transform import fit_box_cox

CHICKS = [156, 162, 168, 182, 186, 190, 190, 196, 202, 210, 214, 220, 226, 230, 230, 236, 236, 242, 246, 270]


def test_weights_of_twenty_chicks() -> None:
    """Bliss 1967, worked out in D'Agostino & Stephens 1986, section 4.2."""
    sample = Sample.of(CHICKS)
    assert sample.moments.mean == pytest.approx(209.6, abs=0.05) and sample.moments.sd == pytest.approx(
        30.65, abs=0.005
    )
    expected = {"lilliefors": 0.104, "cramer_von_mises": 0.034, "anderson_darling": 0.214}
    for key, value in expected.items():
        result = NORMALITY_TESTS[key].run(sample)
        assert result.statistic == pytest.approx(value, abs=6e-4) and result.p > 0.5


def test_cholesterol_of_sixty_two_people() -> None:
    """D'Agostino, Belanger & D'Agostino 1990: √b1 1.02 and b2 4.58 at n = 62."""
    assert skewness_z(1.02, 62) == pytest.approx(3.14, abs=0.01)
    assert kurtosis_z(4.58 - 3, 62) == pytest.approx(2.21, abs=0.01)
    assert skewness_z(1.02, 62) ** 2 + kurtosis_z(1.58, 62) ** 2 == pytest.approx(14.75, abs=0.05)


def test_fifteen_p_values() -> None:
    """Benjamini & Hochberg 1995, section 4: four rejected by the false discovery rate, three by Bonferroni's kind."""
    p = [
        0.0001,
        0.0004,
        0.0019,
        0.0095,
        0.0201,
        0.0278,
        0.0298,
        0.0344,
        0.0459,
        0.324,
        0.4262,
        0.5719,
        0.6528,
        0.759,
        1,
    ]
    assert (benjamini_hochberg(np.array(p)) <= 0.05).sum() == 4
    assert (holm(np.array(p)) <= 0.05).sum() == 3


def test_fifteen_law_schools() -> None:
    """Efron & Tibshirani 1993, table 3.1: r = 0.776."""
    test = [576, 635, 558, 578, 666, 580, 555, 661, 651, 605, 653, 575, 545, 572, 594]
    grade = [3.39, 3.30, 2.81, 3.03, 3.44, 3.07, 3.00, 3.43, 3.36, 3.13, 3.12, 2.74, 2.76, 2.88, 2.96]
    found = pearson(np.array(test, dtype=float), np.array(grade))
    assert found.r == pytest.approx(0.776, abs=5e-4) and found.p < 0.001
    low, high = fisher_interval(found.r, 15, 0.9)
    assert (low, high) == pytest.approx((0.51, 0.91), abs=0.015)


def test_ten_values_with_two_far_ones() -> None:
    """Iglewicz & Hoaglin 1993: two values that hide each other from z-scores, but not from modified ones."""
    sample = Sample.of([2.1, 2.6, 2.4, 2.5, 2.3, 2.1, 2.3, 2.6, 8.2, 8.3])
    assert OUTLIER_METHODS["z_score"].run(sample).rows.size == 0
    modified = OUTLIER_METHODS["modified_z"].run(sample)
    assert modified.rows.tolist() == [8, 9]
    assert modified.scores == pytest.approx([0.6745 * 5.75 / 0.15, 0.6745 * 5.85 / 0.15])


ANIMALS = (
    (1.35, 8.1), (465, 423), (36.33, 119.5), (27.66, 115), (1.04, 5.5), (11_700, 50), (2547, 4603), (187.1, 419),
    (521, 655), (10, 115), (3.3, 25.6), (529, 680), (207, 406), (62, 1320), (6654, 5712), (9400, 70), (6.8, 179),
    (35, 56), (0.12, 1), (0.023, 0.4), (2.5, 12.1), (55.5, 175), (100, 157), (52.16, 440), (0.28, 1.9),
    (87_000, 154.5), (0.122, 3), (192, 180),
)  # fmt: skip
"""Weights of body (kg) and brain (g), Rousseeuw & Leroy 1987, table 2.7."""


def test_bodies_and_brains_of_twenty_eight_animals() -> None:
    """Rousseeuw & Leroy 1987: the three dinosaurs (6, 16, 26) lie far off, hidden from classical distances."""
    logs = np.log10(np.array(ANIMALS))
    found = row_distances([np.ascontiguousarray(column) for column in logs.T])
    farthest = found.rows[np.argsort(-found.robust)] + 1
    assert set(farthest[:3].tolist()) == {6, 16, 26} and {6, 16, 26} <= set((found.flagged + 1).tolist())
    assert found.robust[[5, 15, 25]].min() > 4 > 3 > found.classical[[5, 15]].max()


@pytest.mark.parametrize(
    ("distribution", "skewness", "kurtosis"),
    [
        (oracle.uniform(), 0.0, 0.0),
        (oracle.expon(), 1 / 3, 1 / 6),
        (oracle.norm(), 0.0, 0.1226),
        (oracle.logistic(), 0.0, 1 / 6),
        (oracle.gumbel_r(), 0.1699, 0.1504),
    ],
)
def test_l_moment_ratios_of_known_distributions(distribution: object, skewness: float, kurtosis: float) -> None:
    """Hosking 1990, table 1; the values stand at the middles of 200 000 equal shares of the distribution."""
    x = distribution.ppf((np.arange(200_000) + 0.5) / 200_000)  # type: ignore[attr-defined]
    found = l_moments(x, float(x.mean()))
    assert (found.skewness, found.kurtosis) == pytest.approx((skewness, kurtosis), abs=2e-4)


def test_l_moments_by_definition() -> None:
    """Sums over all subsamples, as Hosking 1990 defines the unbiased figures."""
    x = np.sort(np.random.default_rng(2).gamma(2, size=9))
    pairs = [x[j] - x[i] for i in range(9) for j in range(i + 1, 9)]
    triples = [x[k] - 2 * x[j] + x[i] for i in range(9) for j in range(i + 1, 9) for k in range(j + 1, 9)]
    found = l_moments(x, float(x.mean()))
    assert found.scale == pytest.approx(np.mean(pairs) / 2, rel=1e-12)
    assert found.skewness * found.scale == pytest.approx(np.mean(triples) / 3, rel=1e-12)


def test_survival_times_ask_for_their_reciprocal() -> None:
    """Box & Cox 1964, section 5: survival times of animals in an experiment, here as one column."""
    times = [
        0.31, 0.45, 0.46, 0.43, 0.82, 1.10, 0.88, 0.72, 0.43, 0.45, 0.63, 0.76, 0.45, 0.71, 0.66, 0.62,
        0.36, 0.29, 0.40, 0.23, 0.92, 0.61, 0.49, 1.24, 0.44, 0.35, 0.31, 0.40, 0.56, 1.02, 0.71, 0.38,
        0.22, 0.21, 0.18, 0.23, 0.30, 0.37, 0.38, 0.29, 0.23, 0.25, 0.24, 0.22, 0.30, 0.36, 0.31, 0.33,
    ]  # fmt: skip
    fitted = fit_box_cox(Sample.of(times))
    assert fitted.power == pytest.approx(oracle.boxcox_normmax(np.array(times), method="mle"), abs=1e-4)
    assert fitted.interval[0] < fitted.power < fitted.interval[1] < 1 and fitted.plain in (0.0, -0.5)
