"""A pair in its forms and groups, and what other columns do to it."""

import numpy as np
import pytest
from scipy import stats as oracle

from culvix.stats.correlation.pearson import pearson
from culvix.study import Study
from culvix.study.document.choices.settings import ColumnSettings
from culvix.study.pictures.pair_pictures import MOST_GROUPS, pair_picture, shown_groups, with_selected
from culvix.study.relations.pair_analysis import PairAnalysis, analyse_pair
from culvix.study.relations.pair_details import pair_details
from culvix.study.relations.pair_forms import can_agree, pair_form
from culvix.study.relations.third_columns import third_columns

NOTHING = np.zeros(0, dtype=np.int64)
LENGTH, FORK, MASS, ACTIVITY, GROWTH = "length_mm", "fork_length_mm", "mass_g", "activity_min_h", "growth_pct_day"


def pair_of(study: Study, x: str, y: str) -> PairAnalysis:
    return analyse_pair(study.workspace.analysis(x), study.workspace.analysis(y))


# Forms


def test_ranks_are_those_of_both_columns_and_their_r_is_spearmans(study: Study) -> None:
    pair = pair_of(study, LENGTH, MASS)
    form = pair_form(pair, "ranks")
    assert form.view.x_values.tolist() == oracle.rankdata(pair.view.x_values).tolist()
    assert pearson(form.view.x_values, form.view.y_values).r == pytest.approx(pair.view.with_flagged["spearman"].r)


def test_residuals_stand_at_the_height_of_the_line(study: Study) -> None:
    pair = pair_of(study, LENGTH, MASS)
    form = pair_form(pair, "residuals")
    line = oracle.linregress(pair.view.x_values, pair.view.y_values)
    fitted = line.intercept + line.slope * pair.view.x_values
    assert np.allclose(form.view.x_values, fitted) and np.allclose(form.view.y_values, pair.view.y_values - fitted)
    assert [level.height for level in form.levels] == [0.0] and form.view.line is None


def test_differences_stand_at_the_mean_of_both_between_their_limits(study: Study) -> None:
    pair = pair_of(study, LENGTH, FORK)
    form = pair_form(pair, "differences")
    apart = pair.view.y_values - pair.view.x_values
    high, middle, low = (level.height for level in form.levels)
    assert middle == pytest.approx(apart.mean())
    assert (low, high) == pytest.approx(oracle.norm.interval(0.95, apart.mean(), apart.std(ddof=1)))
    picture = pair_picture(pair, NOTHING, form=form)
    assert picture.x_title == f"mean of {LENGTH} and {FORK} (mm)" and picture.y_title == f"{FORK} less {LENGTH} (mm)"


def test_columns_of_other_units_have_no_differences(study: Study) -> None:
    pair = pair_of(study, LENGTH, MASS)
    assert not can_agree(pair) and pair_form(pair, "differences").key == "values"
    assert pair_details(pair).agreement is None
    limits, found = pair_details(pair_of(study, LENGTH, FORK), confidence=0.9).agreement
    assert limits.within == 0.9 and 0 < found.value < found.precision


def test_the_density_counts_every_row_once(study: Study) -> None:
    study.change_settings(study.settings.with_column(MASS, ColumnSettings(axis_scale="log")))
    form = pair_form(pair_of(study, LENGTH, MASS), "values")
    assert int(form.cells.counts.sum()) == form.view.rows.size
    (left, right), (bottom, top) = form.extent
    assert (form.cells.left, form.cells.bottom) == (left, bottom)
    assert top == pytest.approx(np.log10(form.view.y_values.max())) and right == form.view.x_values.max()


# Groups


def test_each_group_has_the_coefficients_and_the_line_of_its_rows(study: Study) -> None:
    details = pair_details(pair_of(study, ACTIVITY, GROWTH), by=study.table["tank"])
    x, y = (study.table[name].values for name in (ACTIVITY, GROWTH))
    tanks, known = np.array(study.table["tank"].text.to_list()), np.isfinite(x) & np.isfinite(y)
    assert sum(group.n for group in details.groups.groups) + details.groups.missing == details.pair.view.rows.size
    middled = np.full((2, x.size), np.nan)
    for group in details.groups.groups:
        rows = known & (tanks == group.name)
        assert group.n == rows.sum()
        assert group.coefficients["pearson"].r == pytest.approx(oracle.pearsonr(x[rows], y[rows]).statistic)
        assert group.coefficients["spearman"].r == pytest.approx(oracle.spearmanr(x[rows], y[rows]).statistic)
        assert group.line.slope == pytest.approx(oracle.linregress(x[rows], y[rows]).slope)
        middled[:, rows] = x[rows] - x[rows].mean(), y[rows] - y[rows].mean()
    assert details.groups.within.r == pytest.approx(oracle.pearsonr(*middled[:, known]).statistic)
    sizes = [group.n for group in details.groups.groups]
    assert sizes == sorted(sizes, reverse=True)


def test_groups_that_stand_out_leave_the_rest_as_points(study: Study) -> None:
    details = pair_details(pair_of(study, ACTIVITY, GROWTH), by=study.table["tank"])
    chosen = shown_groups(details.groups, ("T3", "T1"))
    picture = pair_picture(details.pair, NOTHING, form=details.form, groups=chosen, most=100_000)
    assert [(each.name, each.style) for each in picture.groups] == [("T3", 0), ("T1", 1)]
    inside = {row for each in picture.groups for row in each.marks.rows.tolist()}
    tanks = study.table["tank"].text.to_list()
    assert inside == {row for row in details.pair.view.rows.tolist() if tanks[row] in ("T1", "T3")}
    assert not inside & set(picture.points.rows.tolist()) and picture.line is None
    assert len(shown_groups(details.groups)) <= MOST_GROUPS


def test_a_column_with_too_many_values_makes_no_groups_and_says_so(study: Study) -> None:
    details = pair_details(pair_of(study, ACTIVITY, GROWTH), by=study.table["tag"])
    assert details.groups is None and "different values" in details.note
    assert pair_details(pair_of(study, ACTIVITY, GROWTH), by=study.table[GROWTH]).note == ""


def test_selected_rows_are_marked_in_whatever_form(study: Study) -> None:
    pair = pair_of(study, LENGTH, MASS)
    without = int(np.flatnonzero(~np.isin(np.arange(study.table.rows), pair.view.rows))[0])
    for key in ("values", "ranks", "residuals"):
        form = pair_form(pair, key)
        rows = np.sort(np.array([without, *pair.view.rows[[3, 9]]]))
        picture = with_selected(pair_picture(pair, NOTHING, form=form), form, rows)
        assert picture.selected.rows.tolist() == pair.view.rows[[3, 9]].tolist()
        assert picture.selected_y.tolist() == form.view.y_values[[3, 9]].tolist()


# Columns behind a pair


@pytest.fixture
def draw() -> np.random.Generator:
    return np.random.default_rng(8)


def test_a_column_behind_both_is_found_and_one_beside_them_is_not(draw: np.random.Generator) -> None:
    behind, beside = draw.normal(size=300), draw.normal(size=300)
    x, y = behind + draw.normal(0, 0.5, 300), behind + draw.normal(0, 0.5, 300)
    behind[::9] = np.nan
    (found,) = third_columns(x, y, {"beside": beside, "behind": behind, "copy": x + 1e-3 * beside})
    known = np.isfinite(behind)
    assert found.name == "behind" and not found.turns
    assert found.r == pytest.approx(np.corrcoef(x[known], y[known])[0, 1])
    left = [v[known] - np.poly1d(np.polyfit(behind[known], v[known], 1))(behind[known]) for v in (x, y)]
    assert found.given.r == pytest.approx(np.corrcoef(*left)[0, 1]) and abs(found.given.r) < found.r / 2


def test_a_column_that_turns_the_sign_comes_first(draw: np.random.Generator) -> None:
    group = np.repeat(np.arange(5.0), 60)
    x = group + draw.normal(0, 0.4, 300)
    y = 2 * group - x + draw.normal(0, 0.2, 300)
    half = group + draw.normal(0, 0.7, 300)
    found = third_columns(x, y, {"half": half, "group": group})
    assert found[0].name == "group" and found[0].turns and found[0].r > 0 > found[0].given.r


def test_a_pair_without_a_relation_has_nothing_behind_it(draw: np.random.Generator) -> None:
    x, y, z = draw.normal(size=(3, 400))
    assert third_columns(x, y, {"z": z}) == ()
