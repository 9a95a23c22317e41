"""A column compared by groups, columns compared with each other, and two categories against each other."""

import numpy as np
import pytest
from scipy import stats as oracle

from culvix.errors import CulvixError
from culvix.stats.core.sample import Sample
from culvix.stats.shape.axis_scale import MEASURED_AXIS
from culvix.study import Study
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.study.analysis.outliers.flags import run_method
from culvix.study.groups.comparison.compared_column import ComparedColumn, Comparing, compare_column, compare_columns
from culvix.study.groups.crossed import cross
from culvix.study.groups.row_groups import GroupsBy
from culvix.study.groups.value_groups import ordered_groups
from culvix.study.pictures.groups.crossed_picture import CELLS, crossed_picture
from culvix.study.pictures.groups.group_rows import differences_picture, groups_picture


def compared(study: Study, measure: str, by: str, **how: object) -> ComparedColumn:
    analysis = study.workspace.analysis(measure)
    return compare_column(analysis, study.table[by], GroupsBy(by), Comparing(**how))  # type: ignore[arg-type]


def test_each_group_has_the_numbers_of_its_rows(study: Study) -> None:
    found = compared(study, "swim_cm_s", "strain")
    codes, values = grouping(study.table["strain"]).codes, study.working.sample(study.table["swim_cm_s"]).values
    for place, group in enumerate(found.groups):
        own = values[(codes == place) & np.isfinite(values)]
        assert group.sample.n == own.size == group.rows.size
        assert group.description.median == pytest.approx(float(np.median(own)))
        assert group.missing == np.count_nonzero((codes == place) & ~np.isfinite(values))
        assert np.array_equal(np.sort(values[group.rows]), group.sample.sorted)
    assert found.comparison.result.p == pytest.approx(
        oracle.ttest_ind(*(group.sample.values for group in found.groups), equal_var=False).pvalue
    )


def test_groups_stand_in_the_order_asked_for(study: Study) -> None:
    groups = compared(study, "mass_g", "tank").groups
    assert [group.name for group in ordered_groups(groups, "name")] == [f"T{k}" for k in range(1, 7)]
    for order, number in (("n", "n"), ("median", "median"), ("sd", "sd")):
        values = [getattr(group.description, number) for group in ordered_groups(groups, order)]
        assert values == sorted(values, reverse=True)


def test_two_columns_are_compared_by_row_where_they_are_paired(study: Study) -> None:
    names = ("length_mm", "fork_length_mm")
    analyses = [study.workspace.analysis(name) for name in names]
    found = compare_columns(analyses, Comparing(test="paired_t"), paired=True)
    x, y = (each.sample.values for each in analyses)
    both = np.isfinite(x) & np.isfinite(y)
    expected = oracle.ttest_rel(x[both], y[both])
    assert found.comparison.result.p == pytest.approx(expected.pvalue) and found.comparison.pairs == both.sum()
    mean = next(effect for effect in found.comparison.effects if effect.key == "mean_of_differences")
    ends = expected.confidence_interval()
    assert (mean.low, mean.high) == pytest.approx((ends.low, ends.high))
    assert set(found.comparison.others) == {"signed_rank"}
    plain = compare_columns(analyses, Comparing(), paired=False)
    assert plain.comparison.pairs == 0 and "paired_t" not in plain.comparison.others
    pooled = np.concatenate([x[np.isfinite(x)], y[np.isfinite(y)]])
    assert plain.total.sample.n == pooled.size and plain.total.description.mean == pytest.approx(pooled.mean())
    with pytest.raises(CulvixError, match="different units"):
        compare_columns([analyses[0], study.workspace.analysis("mass_g")], Comparing(), paired=False)


def test_outlier_methods_judge_several_columns_as_one_sample(study: Study) -> None:
    analyses = [study.workspace.analysis(name) for name in ("length_mm", "fork_length_mm")]
    found = compare_columns(analyses, Comparing(), paired=False)
    values = [each.flag_basis.values for each in analyses]
    result = run_method("modified_z", Sample.of(np.concatenate(values)), study.settings)
    flags = found.pooled_flags
    assert "modified_z" in flags.methods and result.rows.size and flags.count == found.total.flagged
    for place, name in enumerate(flags.rows):
        within = result.rows[result.rows // values[0].size == place] % values[0].size
        assert np.isin(within, flags.rows[name]).all() and np.isfinite(values[place][flags.rows[name]]).all()
    assert compare_columns(analyses, Comparing(), paired=True).pooled_flags is None


def test_values_far_out_do_not_squeeze_the_groups_and_are_counted(study: Study) -> None:
    found = compared(study, "mass_g", "tank")
    picture = groups_picture(found.groups, found.title, found.style, MEASURED_AXIS)
    for row, group in zip(picture.rows, found.groups, strict=True):
        low, high = picture.extent
        assert row.beyond == (np.sum(group.sample.values < low), np.sum(group.sample.values > high))
        assert low <= row.values.min() and row.values.max() <= high
    assert sum(sum(row.beyond) for row in picture.rows) == 2


def test_differences_are_named_so_that_they_are_positive(study: Study) -> None:
    found = compared(study, "swim_cm_s", "tank", answers={"shapes": True})
    picture = differences_picture(found.comparison, found.style)
    means = {group.name: group.description.mean for group in found.groups}
    assert len(picture.rows) == 15 and "Games and Howell" in picture.held
    for row in picture.rows:
        assert row.value == pytest.approx(means[row.first] - means[row.second]) and row.value >= 0
        assert row.interval[0] <= row.value <= row.interval[1]
        assert row.differs == (row.interval[0] > 0), "interval and p tell the same"


def codes_of(counts: np.ndarray, names: str = "abcdef") -> tuple[Grouping, Grouping]:
    r, c = counts.shape
    pairs = np.repeat(np.arange(r * c), counts.ravel())
    return Grouping("one", tuple(names[:r]), pairs // c), Grouping("other", tuple(names[:c]), pairs % c)


def test_counts_of_two_categories_are_tested_by_what_they_allow() -> None:
    many = np.array([[30, 40, 20], [25, 35, 60]])
    found = cross(*codes_of(many))
    expected = oracle.chi2_contingency(many, correction=False)
    assert np.array_equal(found.counts, many) and found.test.key == "chi_square"
    assert found.test.p == pytest.approx(expected.pvalue) and not found.ratios and found.paired_test is None
    few = np.array([[3, 1], [1, 5]])
    found = cross(*codes_of(few))
    assert found.test.key == "fisher_exact" and found.test.p == pytest.approx(oracle.fisher_exact(few).pvalue)
    assert [ratio.key for ratio in found.ratios] == ["odds_ratio", "risk_ratio"] and found.paired_test is not None


def test_every_way_to_fill_the_cells_says_what_it_says_it_does() -> None:
    counts = np.array([[30, 10], [20, 40]])
    found = cross(*codes_of(counts))
    words = {key: crossed_picture(found, key).words for key in CELLS}
    assert words["counts"] == (("30", "10"), ("20", "40"))
    assert words["rows"][0] == ("75.0 %", "25.0 %") and words["columns"][0] == ("60.0 %", "20.0 %")
    assert words["all"][1][1] == "40.0 %" and words["expected"][0] == ("20.0", "20.0")
    assert words["residuals"][0][0] == "4.1" and words["residuals"][0][1] == "−4.1"


def test_a_measure_has_its_quartiles_in_each_pair_of_groups(study: Study) -> None:
    down, across = grouping(study.table["tank"]), grouping(study.table["feed"])
    values = study.table["mass_g"].values
    found = cross(down, across, values, "mass_g")
    inside = values[found.rows_of(2, 1)]
    inside = inside[np.isfinite(inside)]
    assert found.sizes[2, 1] == inside.size
    assert found.quartiles[2, 1] == pytest.approx(np.quantile(inside, (0.25, 0.5, 0.75)))
    assert f"n {inside.size}" in crossed_picture(found, "values").words[2][1]
