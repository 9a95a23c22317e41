"""Several groups: tests of means, ranks and spreads against SciPy, shares explained, and follow-ups of all pairs."""

import numpy as np
import pytest
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.groups.follow_ups import dunn, games_howell
from culvix.stats.groups.several_means import explained_shares, one_way, welch_one_way
from culvix.stats.groups.several_ranks import explained_ranks, kruskal_wallis
from culvix.stats.groups.spreads import brown_forsythe, fligner_killeen
from culvix.stats.groups.studentized_range import studentized_range_quantile, studentized_range_tail


def drawn(*sizes: int, ties: bool = False) -> list[np.ndarray]:
    draw = np.random.default_rng(sizes)
    made = [draw.normal(20 + place, 1 + place, size) for place, size in enumerate(sizes)]
    return [each.round() for each in made] if ties else made


def samples(groups: list[np.ndarray]) -> list[Sample]:
    return [Sample(each) for each in groups]


@pytest.mark.parametrize("sizes", [(5, 5), (8, 20, 3), (30, 30, 30, 40), (6,) * 10])
@pytest.mark.parametrize("ties", [False, True])
def test_against_scipy(sizes: tuple[int, ...], ties: bool) -> None:
    groups = drawn(*sizes, ties=ties)
    theirs = {
        one_way: oracle.f_oneway(*groups),
        kruskal_wallis: oracle.kruskal(*groups),
        brown_forsythe: oracle.levene(*groups, center="median"),
        fligner_killeen: oracle.fligner(*groups, center="median"),
    }
    for test, expected in theirs.items():
        found = test(samples(groups))
        assert found.statistic == pytest.approx(expected.statistic, rel=1e-9), found.key
        assert found.p == pytest.approx(expected.pvalue, rel=1e-8) and found.sizes == sizes


def test_two_groups_of_welchs_kind_are_welchs_t() -> None:
    groups = drawn(9, 30)
    found, theirs = welch_one_way(samples(groups)), oracle.ttest_ind(*groups, equal_var=False)
    assert found.statistic == pytest.approx(theirs.statistic**2) and found.p == pytest.approx(theirs.pvalue)
    assert found.freedom == pytest.approx((1, theirs.df))


def test_welchs_kind_by_its_definition() -> None:
    groups = drawn(8, 20, 15)
    n, means = np.array([8, 20, 15]), np.array([each.mean() for each in groups])
    w = n / np.array([each.var(ddof=1) for each in groups])
    centre = (w @ means) / w.sum()
    lack = np.sum((1 - w / w.sum()) ** 2 / (n - 1))
    expected = np.sum(w * (means - centre) ** 2) / 2 / (1 + 2 * 1 / 8 * lack)
    found = welch_one_way(samples(groups))
    assert found.statistic == pytest.approx(expected) and found.freedom == pytest.approx((2, 8 / (3 * lack)))
    assert found.p == pytest.approx(oracle.f.sf(expected, 2, 8 / (3 * lack)))


def test_shares_are_those_of_the_sums_of_squares_and_their_ends_noncentral() -> None:
    groups = [each + 2 * place for place, each in enumerate(drawn(12, 15, 20))]
    together = np.concatenate(groups)
    between = sum(each.size * (each.mean() - together.mean()) ** 2 for each in groups)
    within = sum(np.sum((each - each.mean()) ** 2) for each in groups)
    eta, omega = explained_shares(samples(groups), 0.9)
    assert eta.value == pytest.approx(between / (between + within))
    assert omega.value == pytest.approx((between - 2 * within / 44) / (between + within + within / 44))
    f = oracle.f_oneway(*groups).statistic
    tails = [oracle.ncf.cdf(f, 2, 44, end / (1 - end) * 47) for end in (eta.low, eta.high)]
    assert tails == pytest.approx([0.95, 0.05], abs=1e-6)
    nothing = explained_shares(samples([groups[0], groups[0] + 1e-9]))[0]
    assert nothing.low == 0 and nothing.value < 1e-9 and nothing.high >= nothing.value


def test_what_cannot_be_tested_says_why() -> None:
    one, flat = Sample(np.array([1.0, 2.0])), Sample(np.array([3.0, 3.0]))
    for test in (one_way, welch_one_way, kruskal_wallis, brown_forsythe, fligner_killeen):
        assert test([one]).note and test([one, Sample(np.zeros(0))]).note
    assert welch_one_way([one, flat]).note == "A group has no spread." and one_way([flat, flat]).p is None
    assert kruskal_wallis([flat, flat]).note == "All values are equal."


def test_units_and_offsets_change_nothing() -> None:
    groups = drawn(8, 9, 10)
    for test in (one_way, welch_one_way, kruskal_wallis, brown_forsythe, fligner_killeen):
        plain = test(samples(groups)).statistic
        for factor in (2.0**-600, 2.0**600):
            assert test(samples([each * factor for each in groups])).statistic == pytest.approx(plain, rel=1e-9)


@pytest.mark.parametrize("k", [2, 3, 10, 50])
@pytest.mark.parametrize("freedom", [1.0, 2.5, 10.0, 120.0, 1e6])
def test_studentized_range_against_scipy(k: int, freedom: float) -> None:
    for q in (0.5, 2.0, 3.5, 6.0):
        expected = oracle.studentized_range.sf(q, k, freedom)
        assert studentized_range_tail(q, k, freedom) == pytest.approx(expected, abs=2e-7)
    quantile = studentized_range_quantile(0.05, k, freedom)
    assert studentized_range_tail(quantile, k, freedom) == pytest.approx(0.05, abs=1e-9)


def test_studentized_range_against_published_points() -> None:
    """Harter, H. L. 1960: Tables of range and studentized range. Annals of Mathematical Statistics 31, 1122-1147."""
    for k, freedom, expected in ((3, 10.0, 3.877), (5, 20.0, 4.232), (10, 60.0, 4.646), (2, 5.0, 3.635)):
        assert studentized_range_quantile(0.05, k, freedom) == pytest.approx(expected, abs=6e-4)
    with pytest.raises(StatisticsError):
        studentized_range_quantile(1.0, 3, 5.0)


def test_games_howell_by_its_definition() -> None:
    groups = drawn(8, 20, 15)
    found = {(each.first, each.second): each for each in games_howell(samples(groups))}
    assert set(found) == {(0, 1), (0, 2), (1, 2)}
    for (i, j), each in found.items():
        a, b = groups[i], groups[j]
        parts = a.var(ddof=1) / a.size, b.var(ddof=1) / b.size
        freedom = sum(parts) ** 2 / (parts[0] ** 2 / (a.size - 1) + parts[1] ** 2 / (b.size - 1))
        error = np.sqrt(sum(parts) / 2)
        assert each.difference == pytest.approx(a.mean() - b.mean())
        expected = oracle.studentized_range.sf(abs(each.difference) / error, 3, freedom)
        assert each.p == pytest.approx(expected, abs=1e-6)
        assert (each.low < 0 < each.high) == (each.p > 0.05)


def test_two_groups_by_games_and_howell_are_welchs_t() -> None:
    groups = drawn(9, 14)
    (only,) = games_howell(samples(groups))
    assert only.p == pytest.approx(oracle.ttest_ind(*groups, equal_var=False).pvalue, abs=1e-7)


def test_dunn_by_its_definition_with_ties() -> None:
    groups = drawn(8, 12, 10, ties=True)
    together = oracle.rankdata(np.concatenate(groups))
    ranks = np.split(together, [8, 20])
    n, counts = together.size, np.unique(together, return_counts=True)[1]
    variance = n * (n + 1) / 12 - np.sum(counts**3 - counts) / (12 * (n - 1))
    found = dunn(samples(groups))
    raw = []
    for each in found:
        a, b = ranks[each.first], ranks[each.second]
        assert each.difference == pytest.approx(a.mean() - b.mean())
        raw.append(2 * oracle.norm.sf(abs(a.mean() - b.mean()) / np.sqrt(variance * (1 / a.size + 1 / b.size))))
    order = np.argsort(raw)
    holm = np.maximum.accumulate(np.sort(raw) * (3 - np.arange(3))).clip(max=1)
    assert [found[at].p for at in order] == pytest.approx(holm.tolist())


def test_groups_without_values_are_passed_over_in_follow_ups() -> None:
    groups = samples([*drawn(8, 9), np.zeros(0)])
    assert [(each.first, each.second) for each in games_howell(groups)] == [(0, 1)]
    assert [(each.first, each.second) for each in dunn(groups)] == [(0, 1)]


def test_the_share_of_ranks_is_h_over_n_less_one_and_its_interval_holds_it() -> None:
    groups = drawn(12, 20, 15)
    found = explained_ranks(samples(groups))
    n = sum(group.size for group in groups)
    assert found.key == "epsilon_squared"
    assert found.value == pytest.approx(oracle.kruskal(*groups).statistic / (n - 1))
    assert 0 <= found.low <= found.value <= found.high <= 1
    assert explained_ranks([]).value is None and explained_ranks([Sample(np.ones(4)), Sample(np.ones(3))]).value is None


def test_the_interval_of_ranks_holds_the_share_of_a_large_sample_about_as_often_as_it_says() -> None:
    draw = np.random.default_rng(17)

    def sample(n: int) -> list[Sample]:
        return [Sample(draw.gamma(2.0, size=n) + shift) for shift in (0.0, 0.4, 0.9)]

    share = explained_ranks(sample(40_000)).value
    held = [found.low <= share <= found.high for found in (explained_ranks(sample(40)) for _ in range(300))]
    assert 0.90 <= np.mean(held) <= 0.99
