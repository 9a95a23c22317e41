"""Columns that follow another one, groups, and acts of every kind undone in their order."""

import re
from pathlib import Path

import numpy as np
import pytest
import scipy.stats

from culvix.errors import CulvixError, DecisionError, StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.shape.density import density
from culvix.stats.shape.transform import SCALE_NAMES, Scale, fitted_scale
from culvix.study import Study
from culvix.study.analysis.grouping import can_group, grouping
from culvix.study.analysis.outliers.impact import impact_of
from culvix.study.analysis.survey.survey import quality
from culvix.study.document.choices.settings import ColumnSettings, replaced
from culvix.study.document.decisions import DecisionKind
from culvix.study.document.picks import Pick, chance_of
from culvix.study.pictures.groups.group_forms import FORMS, MOST_DOTS
from culvix.study.pictures.groups.groups import split
from culvix.tables import read_table
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Role

LENGTH, MASS = "length_mm", "mass_g"


def test_a_derived_column_follows_decisions_cells_and_other_derived_ones(study: Study, tmp_path: object) -> None:
    root = study.derive(MASS, Scale("sqrt"))
    again = study.derive(root, Scale("standard"))
    assert (root, again) == ("sqrt_mass_g", "z_sqrt_mass_g")
    names = [column.name for column in study.table]
    assert names.index(root) == names.index(MASS) + 1 and names.index(again) == names.index(root) + 1
    before = study.working.sample(study.table[again]).values
    study.decide(DecisionKind.EXCLUDE_ROW, LENGTH, [3])
    study.decide(DecisionKind.CORRECT, MASS, [5], value=400.0)
    sources = study.working.sample(study.table[MASS]).values
    roots, scaled = (study.working.sample(study.table[name]).values for name in (root, again))
    assert roots == pytest.approx(np.sqrt(sources), nan_ok=True) and roots[5] == 20.0 and np.isnan(roots[3])
    there = roots[np.isfinite(roots)]
    assert scaled[5] == pytest.approx((20 - there.mean()) / there.std(ddof=1)) and scaled[7] != before[7]
    assert study.workspace.analysis(again).description.mean == pytest.approx(0, abs=1e-12)
    # A decision of its own does not reach back.
    study.decide(DecisionKind.EXCLUDE_VALUE, root, [9])
    assert np.isfinite(study.working.sample(study.table[MASS]).values[9])
    assert np.isnan(study.working.sample(study.table[again]).values[9])
    # Cells read otherwise are followed, and what leaves the domain is left out and said.
    study.edit_column(MASS, ColumnEntry(missing_codes=("100.0",)))
    assert study.table[root].missing == study.table[MASS].missing + study.table[MASS].unread
    assert study.table[again].derivation is not None and study.table[again].derivation.source == root
    for _ in range(6):
        study.undo()
    assert root not in study.table and again not in study.table and not study.decisions
    with pytest.raises(DecisionError, match="nothing to undo"):
        study.undo()
    for _ in range(6):
        study.redo()
    assert study.working.sample(study.table[root]).values[5] == 20.0


def test_what_has_no_such_scale_is_refused_or_left_out(study: Study) -> None:
    with pytest.raises(StatisticsError, match="row"):
        study.derive("parasite_count", Scale("ln"))
    with pytest.raises(CulvixError, match="no numbers"):
        study.derive("tank", Scale("ln"))
    name = study.derive(LENGTH, Scale("ln"))
    study.decide(DecisionKind.CORRECT, LENGTH, [0], value=-4.0)
    assert np.isnan(study.working.sample(study.table[name]).values[0])
    second = study.derive(LENGTH, Scale("ln"))
    assert second == f"{name}_2"


def test_a_derived_column_tells_why_values_of_its_source_have_none(tmp_path: Path) -> None:
    path = tmp_path / "pens.csv"
    path.write_text("depth,gain\n" + "5,1\n5,−2\n5,3\n5,4\n9,5\n")
    study = Study.of_table(read_table(path))
    scaled, logs = study.derive("depth", Scale("standard")), study.derive("gain", Scale("ln"))
    study.edit_column("depth", ColumnEntry(missing_codes=("9",)))
    study.edit_column("gain", ColumnEntry(rules={"true_minus": "number"}))
    assert study.table[scaled].missing == 5
    assert study.table[scaled].reason.endswith("of depth; All values are equal, so they cannot be standardised.")
    assert study.table[logs].reason.endswith("of gain; 1 value outside its domain or too large")


def test_derived_columns_do_not_change_what_is_said_of_the_table(study: Study) -> None:
    before = quality(study.table)
    study.derive(MASS, Scale("standard"))
    after = quality(study.table)
    assert (after.cells, after.complete, len(after.findings)) == (before.cells, before.complete, len(before.findings))


def test_groups_hold_every_row_once(study: Study) -> None:
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [1, 2])
    analysis = study.workspace.analysis(LENGTH)
    for name in can_group(study.table):
        groups = grouping(study.table[name])
        found = split(analysis, groups)
        assert found is not None and sum(group.sample.n for group in found.groups) + found.outside == analysis.sample.n
        counted = np.sum([group.heights * group.sample.n for group in found.groups], axis=0)
        assert found.outside or (counted.round(6) == analysis.histogram.counts).all()  # type: ignore[union-attr]
        texts = study.table[name].text.str.strip_chars().to_list()
        for row in (0, 7, 2000):
            assert groups.codes[row] < 0 or groups.names[groups.codes[row]] == texts[row]
    assert grouping(study.table["tank"]).names == ("T1", "T2", "T3", "T4", "T5", "T6")
    with pytest.raises(CulvixError, match="at most 200 groups"):
        grouping(study.table["tag"])
    with pytest.raises(CulvixError, match="at most 200 groups"):
        grouping(study.table[LENGTH])


@pytest.mark.parametrize("form", FORMS)
def test_groups_and_the_rest_make_up_the_whole_in_every_form(study: Study, form: str) -> None:
    analysis = study.workspace.analysis("swim_cm_s")
    groups = grouping(study.table["strain"])
    found = split(analysis, groups, form)
    assert found is not None and len(found.groups) == 2
    values = analysis.sample.values
    one, other = found.groups
    for group, opposite in ((one, other), (other, one)):
        own = np.sort(values[(groups.codes == groups.names.index(group.name)) & np.isfinite(values)])
        # Of two groups the one is the other's rest.
        assert found.rest(opposite.name) == pytest.approx(group.heights)
        x, y = found.form.outline(group.heights)
        if form == "bars":
            assert group.heights == pytest.approx(np.histogram(own, found.form.grid)[0] / own.size)
            assert x.size == y.size and y[0] == y[-1] == 0
        elif form == "density":
            kernel = scipy.stats.gaussian_kde(own, study_width(own) / own.std(ddof=1))(x)
            assert y == pytest.approx(kernel, abs=2e-3 * kernel.max()) and np.trapezoid(y, x) == pytest.approx(
                1, abs=1e-3
            )
        elif form == "cumulative":
            assert y == pytest.approx((own[:, None] <= x).mean(axis=0)) and y[0] == 0 and y[-1] == 1
        elif form == "qq":
            assert scipy.stats.norm.cdf(y) == pytest.approx((own[:, None] <= x).mean(axis=0))
            positions = (np.arange(1, own.size + 1) - 0.375) / (own.size + 0.25)
            exact = scipy.stats.norm.ppf(positions)
            assert group.points[1] == pytest.approx(exact[np.searchsorted(exact, group.points[1] - 1e-9)])
            assert np.isin(group.points[0], own).all()
        else:
            assert group.points[0][[0, -1]].tolist() == own[[0, -1]].tolist() and group.points[0].size == MOST_DOTS
            assert np.abs(group.points[1]).max() <= 1 and not x.size
    counts = np.array([one.sample.n, other.sample.n])
    if form == "cumulative":
        both = (counts[0] * one.heights + counts[1] * other.heights) / counts.sum()
        used = values[np.isfinite(values)]
        assert both == pytest.approx((used[:, None] <= found.form.grid).mean(axis=0))


def study_width(values: np.ndarray) -> float:
    """The bandwidth that a group's own density has."""
    found = density(Sample.of(values))
    assert found is not None
    return found.bandwidth


def test_groups_stand_in_declared_order_or_by_the_numbers_in_their_names(tmp_path: object) -> None:
    path = tmp_path / "g.csv"  # type: ignore[operator]
    cells = ["pen 10", "pen 9", "", "Pen 2", "<b>&", "ألف"]
    path.write_text("g,x\n" + "\n".join(f"{cell},{row}.5" for row, cell in enumerate(cells * 3)), encoding="utf-8")
    table = read_table(path)
    names = grouping(table["g"]).names
    assert names.index("Pen 2") < names.index("pen 9") < names.index("pen 10") and len(names) == 5
    study = Study.of_table(table)
    study.edit_column("g", ColumnEntry(order=("pen 10", "Pen 2")))
    assert grouping(study.table["g"]).names[:2] == ("pen 10", "Pen 2")
    found = split(study.workspace.analysis("x"), grouping(study.table["g"]))
    assert found is not None and found.outside == 3


def test_each_change_of_settings_is_an_act_with_words(study: Study) -> None:
    study.change_settings(study.settings.with_column(LENGTH, ColumnSettings(bin_width=10.0)))
    study.change_settings(study.settings.with_limit("z_score", 2.5))
    study.change_settings(replaced(study.settings, alpha=0.01))
    study.change_settings(study.settings)
    told = [study.undo().label for _ in range(3)]
    assert told == [
        "change the level α 0.05 → 0.01",
        "change the limit of z-score 3 → 2.5",
        f"change the bin width of {LENGTH} by the rule → 10",
    ]
    assert study.history.undoable is None and study.settings.of(LENGTH).bin_width is None
    study.redo()
    study.change_settings(replaced(study.settings, notch=True))
    assert study.history.redoable is None, "a new act takes the place of what was undone"
    with pytest.raises(StatisticsError):
        replaced(study.settings, whiskers="far")


def test_picks_are_kept_with_their_chance(study: Study) -> None:
    right, wrong = Pick(LENGTH, "qq", 3, 50, 4, 4), Pick(LENGTH, "histogram", 4, 50, 1, 4)
    study.add_pick(right)
    study.add_pick(wrong)
    assert study.workspace.picks_of(LENGTH) == [right, wrong] == study.workspace.picks_of(
        LENGTH
    ) and not study.workspace.picks_of(MASS)
    assert "p = 0.05" in right.sentence and "p = 1" in wrong.sentence and "Picture 2" in wrong.sentence
    assert chance_of([right]) == pytest.approx(0.05) and chance_of([wrong]) == 1.0
    assert chance_of([right, wrong]) == pytest.approx(1 - 0.95**2)


def test_a_column_of_a_name_that_was_undone_is_worked_out_anew(study: Study) -> None:
    source = next(
        column.name for column in study.table.numeric if study.workspace.analysis(column.name).flags.rows.size
    )
    first = study.add_flag_counts(study.workspace.analysis(source))
    before = study.workspace.analysis(first).description.sum
    study.undo()
    for key in study.settings.methods:
        if study.settings.limits.get(key):
            study.change_settings(study.settings.with_limit(key, study.settings.limits[key] / 2))
    assert study.add_flag_counts(study.workspace.analysis(source)) == first
    assert study.workspace.analysis(first).description.sum == np.nansum(study.table[first].values) > before


def test_a_derived_column_is_no_data_until_it_is_given_a_role(study: Study) -> None:
    name = study.derive(MASS, Scale("ln"))
    column = study.table[name]
    assert name == "ln_mass_g" and column.title == "ln mass_g" and not column.is_data
    preview = study.workspace.analysis(name)
    assert not preview.flags.rows.size and not preview.findings(study.working)
    assert "follows mass_g" in preview.flags.results["z_score"].note
    assert name not in impact_of(study.workspace.analysis("swim_cm_s"), study.working).correlations
    study.edit_column(name, ColumnEntry(role=Role.MEASURE))
    taken = study.workspace.analysis(name)
    logs = np.log(study.table[MASS].values)
    far = np.abs(logs - np.nanmean(logs)) > 3 * np.nanstd(logs, ddof=1)
    assert study.table[name].is_data
    assert sorted(taken.flags.results["z_score"].rows) == np.flatnonzero(far).tolist()
    study.undo()
    assert not study.table[name].is_data


@pytest.mark.parametrize("key", sorted(SCALE_NAMES))
def test_names_of_derived_columns_are_plain(study: Study, key: str) -> None:
    column = "swim_cm_s"
    scale, _ = fitted_scale(study.table[column].sample, key)
    name = study.derive(column, scale)
    assert re.fullmatch(r"[a-z0-9_]+", name) and name.endswith(column) and study.derive(column, scale) == f"{name}_2"
