"""Selections of cells and rows, what a decision on them would be about, and acts over several columns."""

from collections.abc import Mapping

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.errors import DecisionError
from culvix.study import Study
from culvix.study.analysis.outliers.decision_preview import CONFIRMED_VALUES, preview_decision
from culvix.study.document.choices.selection import Selection, cells_with_values
from culvix.study.document.decisions import DecisionKind
from culvix.tables import Table

LENGTH, MASS = "length_mm", "mass_g"
CELLS = st.dictionaries(st.sampled_from("abcd"), st.lists(st.integers(0, 40), max_size=8), max_size=4)


@given(CELLS)
def test_a_selection_of_cells_is_what_was_given_each_once(cells: dict[str, list[int]]) -> None:
    found = Selection.of_cells(cells)
    wanted = {column: sorted(set(rows)) for column, rows in cells.items() if rows}
    assert {column: rows.tolist() for column, rows in found.cells.items()} == wanted
    assert found.rows.tolist() == sorted(set().union(*wanted.values())) and bool(found) == bool(wanted)
    for column in "abcd":
        expected = wanted.get(column, found.rows.tolist())
        assert found.in_column(column).tolist() == expected


@given(CELLS, st.lists(st.integers(0, 40), min_size=1, max_size=8))
def test_rows_of_one_column_take_the_place_of_those_before(cells: dict[str, list[int]], rows: list[int]) -> None:
    before = Selection.of_cells(cells)
    found = before.with_rows("a", np.array(sorted(set(rows))))
    assert found.cells["a"].tolist() == sorted(set(rows))
    assert {c: r.tolist() for c, r in found.cells.items() if c != "a"} == {
        c: r.tolist() for c, r in before.cells.items() if c != "a"
    }


def test_cells_of_columns_that_are_gone_are_selected_no_more(demo_table: Table) -> None:
    selection = Selection.of_cells({LENGTH: [1], "gone": [2]})
    assert selection.within(demo_table).columns == (LENGTH,)
    rows = Selection.of_rows([3, 1, 3])
    assert rows.within(demo_table) is rows and rows.rows.tolist() == [1, 3] and not rows.columns


def test_what_is_not_there_cannot_be_selected(study: Study) -> None:
    for wrong in (Selection.of_cells({"gone": [1]}), Selection.of_cells({LENGTH: [99999]}), Selection.of_rows([-1])):
        with pytest.raises(DecisionError):
            study.select_these(wrong)
    assert not study.selection


def test_only_cells_with_a_value_are_decided_about(study: Study) -> None:
    values = study.table[LENGTH].values
    empty, full = np.flatnonzero(np.isnan(values))[:2], np.flatnonzero(np.isfinite(values))[:3]
    cells = {LENGTH: np.union1d(empty, full)}
    assert cells_with_values(study.table, cells)[LENGTH].tolist() == full.tolist()
    assert cells_with_values(study.table, {LENGTH: empty})[LENGTH].tolist() == empty.tolist()


def preview_of(study: Study, cells: Mapping[str, list[int]], focus: str | None) -> object:
    study.select_these(Selection.of_cells(cells))
    return preview_decision(study.workspace, study.selection, focus)


def test_words_say_values_columns_and_n(study: Study) -> None:
    n = study.working.sample(study.table[LENGTH]).n
    found = preview_of(study, {LENGTH: [0, 1, 2], MASS: [4]}, MASS)
    assert found.about == "4 values in 2 columns" and not found.large  # type: ignore[attr-defined]
    message = found.text.replace("\u202f", "")  # type: ignore[attr-defined]
    assert f"n at most {n} → {n - 3} in {LENGTH} if excluded" in message
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [0])
    again = preview_of(study, {LENGTH: [0, 1]}, LENGTH)
    assert f"n {n - 1} → {n - 2}" in again.text.replace("\u202f", "")  # type: ignore[attr-defined]


@pytest.mark.parametrize("kind", list(DecisionKind))
def test_nothing_is_offered_under_another_column(study: Study, kind: DecisionKind) -> None:
    found = preview_of(study, {LENGTH: [0, 1]}, MASS)
    assert not found.kinds and f"selected in {LENGTH}" in found.refusal(kind)  # type: ignore[attr-defined]
    here = preview_of(study, {LENGTH: [0, 1]}, LENGTH)
    assert kind in here.kinds and here.refusal(kind) == ""  # type: ignore[attr-defined]


def test_large_decisions_are_those_of_many_values_or_of_a_large_share(study: Study) -> None:
    rows = np.flatnonzero(np.isfinite(study.table[LENGTH].values))
    assert not preview_of(study, {LENGTH: rows[:CONFIRMED_VALUES].tolist()}, LENGTH).large  # type: ignore[attr-defined]
    assert preview_of(study, {LENGTH: rows[: CONFIRMED_VALUES + 1].tolist()}, LENGTH).large  # type: ignore[attr-defined]
    half = {LENGTH: rows[:60].tolist(), "swim_cm_s": rows[:60].tolist()}
    assert preview_of(study, half, LENGTH).large, "together they are more than a hundred"  # type: ignore[attr-defined]


def test_a_decision_over_columns_is_one_act_and_a_row_goes_out_once(study: Study) -> None:
    made = study.decide_on(DecisionKind.EXCLUDE_ROW, {LENGTH: [1, 2], MASS: [2, 3], "swim_cm_s": [1]})
    assert [(each.column, each.rows.tolist()) for each in made] == [(LENGTH, [1, 2]), (MASS, [3])]
    assert study.working.rows_out.tolist() == [1, 2, 3] and len(study.history.acts) == 1
    assert study.undo().label == "exclude row: 3 values in 2 columns" and not study.working.rows_out.size
    study.redo()
    assert study.working.rows_out.tolist() == [1, 2, 3]


def test_where_one_cell_cannot_be_decided_nothing_is(study: Study) -> None:
    empty = int(np.flatnonzero(np.isnan(study.table[MASS].values))[0])
    for cells in ({LENGTH: [1], MASS: [empty]}, {LENGTH: [1], MASS: [999999]}, {}, {LENGTH: []}):
        with pytest.raises(DecisionError):
            study.decide_on(DecisionKind.EXCLUDE_VALUE, cells)
    with pytest.raises(DecisionError, match="Whole rows can be excluded"):
        study.decide_on(DecisionKind.KEEP, {"": [1]})
    assert not study.decisions and not study.history.acts


def test_a_snapshot_in_a_later_pass_judges_the_same_values(study: Study) -> None:
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, study.workspace.analysis(LENGTH).flags.most)
    study.begin_pass()
    study.decide(DecisionKind.CORRECT, LENGTH, [40], value=900.0)
    copy = study.workspace
    assert copy.document.pass_number == 2 and copy.pass_begins is study.workspace.pass_begins
    assert copy.analysis(LENGTH).flags.rows.tolist() == study.workspace.analysis(LENGTH).flags.rows.tolist()
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [41])
    assert len(copy.document.decisions) == 2 and len(study.decisions) == 3


def test_columns_nothing_was_decided_about_share_their_samples(study: Study) -> None:
    study.decide(DecisionKind.EXCLUDE_ROW, LENGTH, [5])
    before = study.working
    samples = {name: before.sample(study.table[name]) for name in (LENGTH, MASS, "swim_cm_s")}
    study.decide(DecisionKind.EXCLUDE_VALUE, MASS, [6])
    now = {name: study.working.sample(study.table[name]) for name in samples}
    assert now[LENGTH] is samples[LENGTH] and now["swim_cm_s"] is samples["swim_cm_s"]
    assert now[MASS] is not samples[MASS] and np.isnan(now[MASS].values[6]) and np.isfinite(samples[MASS].values[6])
    study.decide(DecisionKind.EXCLUDE_ROW, LENGTH, [7])
    assert np.isnan(study.working.sample(study.table["swim_cm_s"]).values[7])
