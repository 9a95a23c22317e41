"""Columns are functions of source and document: read anew when that changes, and the same ones when it comes back."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from culvix.errors import CulvixError, StatisticsError
from culvix.stats.shape.transform import Scale
from culvix.study import DecisionKind, Study
from culvix.study.analysis import column_versions
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Role
from tests.study.document.random_studies import small_table

MASS = "mass_g"


@pytest.fixture
def study(tmp_path: Path) -> Study:
    return Study.of_table(small_table(tmp_path))


def values_of(study: Study, name: str) -> np.ndarray:
    return study.table[name].sample.values


def test_undo_brings_back_the_same_column_with_all_that_was_worked_out(study: Study) -> None:
    before, analysis = study.table[MASS], study.workspace.analysis(MASS)
    study.edit_column(MASS, ColumnEntry(missing_codes=("101.5",)))
    assert study.table[MASS] is not before and study.table[MASS].missing == 1
    study.undo()
    assert study.table[MASS] is before and study.workspace.known_analysis(MASS) is analysis
    study.redo()
    assert study.table[MASS].missing == 1


def test_other_columns_are_left_alone(study: Study) -> None:
    others = [column for column in study.table if column.name != MASS]
    study.edit_column(MASS, ColumnEntry(unit="kg"))
    assert all(column is study.table[column.name] for column in others)


def test_a_valid_range_reads_nothing_anew(study: Study) -> None:
    table, working = study.table, study.working
    study.set_valid_range(MASS, (0.0, 900.0))
    assert study.table is table and study.working is working
    assert study.workspace.analysis(MASS).flags.results["valid_range"].rows.size == 11
    study.edit_column(MASS, replace(study.dictionary.of(MASS), valid_range=(0.0, 1000.0)))
    assert study.table is table and study.workspace.bounds(MASS) == (0.0, 1000.0)


def test_columns_of_columns_follow_what_is_read_anew(study: Study) -> None:
    root = study.derive(MASS, Scale("sqrt"))
    top = study.derive(root, Scale("log10"))
    expected = np.log10(np.sqrt(values_of(study, MASS)))
    assert values_of(study, top) == pytest.approx(expected)
    study.edit_column(MASS, ColumnEntry(missing_codes=("100.5", "101.5")))
    assert np.isnan(values_of(study, top)[:2]).all() and values_of(study, top)[2:] == pytest.approx(expected[2:])
    assert np.isnan(study.working.sample(study.table[top]).values[:2]).all()
    study.undo()
    assert values_of(study, top) == pytest.approx(expected)


def test_columns_of_columns_follow_decisions(study: Study) -> None:
    top = study.derive(study.derive(MASS, Scale("sqrt")), Scale("log10"))
    study.decide(DecisionKind.CORRECT, MASS, [3], value=10_000.0)
    study.decide(DecisionKind.EXCLUDE_VALUE, MASS, [4])
    found = study.working.sample(study.table[top]).values
    assert found[3] == pytest.approx(2.0) and np.isnan(found[4])


def test_a_column_stands_behind_the_one_it_follows(study: Study) -> None:
    root = study.derive(MASS, Scale("sqrt"))
    second = study.derive(MASS, Scale("ln"))
    names = [column.name for column in study.table]
    assert names == ["tank", MASS, second, root, "length_mm"]


def test_another_label_of_a_derived_column_keeps_its_numbers(study: Study) -> None:
    root = study.derive(MASS, Scale("sqrt"))
    numbers = study.table[root].values
    study.edit_column(root, ColumnEntry(label="root of the mass", role=Role.MEASURE))
    assert study.table[root].values is numbers and study.table[root].is_data
    assert study.table[root].title == "root of the mass"


def test_flags_counted_once_stay_as_they_were(study: Study) -> None:
    study.change_settings(study.settings.with_limit("z_score", 1.0))
    flags = study.workspace.analysis(MASS).flags
    name = study.add_flag_counts(study.workspace.analysis(MASS))
    assert flags.rows.size and np.array_equal(np.flatnonzero(values_of(study, name)), flags.rows)
    study.change_settings(study.settings.with_limit("z_score", 9.0))
    study.edit_column(MASS, ColumnEntry(unit="g"))
    assert np.array_equal(np.flatnonzero(values_of(study, name)), flags.rows)


def test_values_outside_the_domain_are_refused_at_first_and_missing_later(study: Study) -> None:
    study.edit_column("length_mm", ColumnEntry(mapping={str(200 + i): float(i - 5) for i in range(40)}))
    with pytest.raises(StatisticsError, match="row"):
        study.derive("length_mm", Scale("ln"))
    assert len(study.history.acts) == 1
    study.undo()
    name = study.derive("length_mm", Scale("ln"))
    study.edit_column("length_mm", ColumnEntry(mapping={str(200 + i): float(i - 5) for i in range(40)}))
    assert np.isnan(values_of(study, name)[:6]).all() and "outside its domain" in study.table[name].reason


def test_a_column_that_others_follow_stays_one_of_numbers(study: Study) -> None:
    study.derive(MASS, Scale("sqrt"))
    before = study.document
    with pytest.raises(CulvixError, match="no numbers any more"):
        study.edit_column(MASS, ColumnEntry(role=Role.TEXT))
    assert study.document is before and study.table[MASS].is_numeric


def test_versions_that_were_let_go_are_read_again(study: Study, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(column_versions, "BUDGET", 0)
    plain = values_of(study, MASS).copy()
    for code in ("100.5", "101.5", "104.5"):
        study.edit_column(MASS, ColumnEntry(missing_codes=(code,)))
        assert study.table[MASS].missing == 1
    study.go_to(0)
    assert np.array_equal(values_of(study, MASS), plain)
    study.go_to(2)
    assert np.isnan(values_of(study, MASS)[1]) and study.table[MASS].missing == 1


def test_columns_read_for_another_table_are_refused(study: Study) -> None:
    late = study.rereading({MASS: ColumnEntry(unit="kg")})(lambda share, doing: None)
    study.derive("length_mm", Scale("sqrt"))
    with pytest.raises(CulvixError, match="another way meanwhile"):
        study.apply_reparsed(late)
    assert study.table[MASS].unit == "g"
