"""Flags are of the data as imported, and findings ask about what stands out."""

from pathlib import Path

import numpy as np
import pytest

from culvix.demo import Cohort
from culvix.errors import CulvixError, DecisionError
from culvix.study import Change, DecisionKind, Study
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.document.choices.settings import replaced
from culvix.study.pictures.column_pictures import shape_picture
from culvix.tables import Role, read_table
from culvix.tables.model.dictionary import ColumnEntry

LENGTH = "length_mm"


def test_only_the_latest_states_of_a_column_are_kept(study: Study) -> None:
    for row in range(12):
        study.decide(DecisionKind.KEEP if row == 0 else DecisionKind.EXCLUDE_VALUE, "mass_g", [int(row)])
        study.workspace.analysis("mass_g")
    assert study.workspace.known_analysis("mass_g") is study.workspace.analysis("mass_g")
    for known in (True, True, False):
        for _ in range(3):
            study.undo()
        assert (study.workspace.known_analysis("mass_g") is not None) == known


def test_flags_are_of_the_data_as_imported(study: Study) -> None:
    before = study.workspace.analysis(LENGTH).flags
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, before.all_agree.tolist())
    after = study.workspace.analysis(LENGTH)
    assert after.flags.rows.tolist() == before.rows.tolist() and after.description.n < 2174


def test_the_tail_of_a_skewed_column_is_no_slipped_decimal_point(tmp_path: Path) -> None:
    """Values of the tail come nearer to the rest step by step; a slipped one stands apart, on whichever side."""
    tail = np.random.default_rng(8).gamma(2.0, 3.0, 400).round(3)

    def asked(values: np.ndarray) -> list[tuple[str, list[int]]]:
        (tmp_path / "mass.csv").write_text("\n".join(["mass", *map(str, values.tolist())]))
        table = read_table(tmp_path / "mass.csv")
        findings = Study.of_table(table).workspace.analysis("mass").findings(WorkingSet.of(table, ()))
        return [(f.proposals[0].label, f.rows.tolist()) for f in findings if f.kind == "other_unit"]

    assert asked(tail) == []
    slipped = np.exp(np.random.default_rng(3).normal(4.0, 0.25, 400)).round(3)
    slipped[[7, 90]], slipped[11] = slipped[[7, 90]] * 10, slipped[11] / 10
    assert sorted(asked(slipped)) == [("×10", [11]), ("÷10", [7, 90])]


def test_a_test_for_one_value_has_no_vote_on_the_others(study: Study, cohort: Cohort) -> None:
    study.change_settings(study.settings.with_methods([*study.settings.methods, "grubbs", "double_mad"]))
    flags = study.workspace.analysis(LENGTH).flags
    assert flags.able == 4 and flags.results["grubbs"].rows.size == 1
    units = [row - 1 for row in cohort.planted("unit_cm").rows]
    assert flags.agreement_on(np.array(units)).tolist() == [4] * 5
    kinds = [f.kind for f in study.workspace.analysis(LENGTH).findings(study.working)]
    assert kinds[:2] == ["other_unit", "all_methods"]


@pytest.mark.parametrize("methods", [("z_score", "iqr_fences"), ("z_score", "iqr_fences", "hampel", "modified_z")])
def test_half_of_the_methods_are_not_most_of_them(study: Study, methods: tuple[str, ...]) -> None:
    study.change_settings(replaced(study.settings, methods=methods))
    flags = study.workspace.analysis(LENGTH).flags
    by = np.array([np.isin(flags.rows, result.rows) for result in flags.results.values()]).sum(axis=0)
    assert (by == len(methods) / 2).any() and flags.able == len(methods)
    assert flags.most.tolist() == flags.rows[by > len(methods) / 2].tolist()
    assert flags.all_agree.tolist() == flags.rows[by == len(methods)].tolist()


def test_one_limit_recomputes_one_method(study: Study) -> None:
    first = study.workspace.analysis(LENGTH)
    study.change_settings(study.settings.with_limit("z_score", 2.0))
    second = study.workspace.analysis(LENGTH)
    assert second.flags.results["z_score"].rows.size > first.flags.results["z_score"].rows.size
    assert second.flags.results["modified_z"] is first.flags.results["modified_z"]
    assert second.description is first.description and second.density is first.density


def test_findings_ask_the_planted_questions(study: Study, cohort: Cohort) -> None:
    def found(column: str, kind: str) -> list[int]:
        findings = study.workspace.analysis(column).findings(study.working)
        return [int(row) + 1 for f in findings if f.kind == kind for row in f.rows]

    assert found(LENGTH, "other_unit") == list(cohort.planted("unit_cm").rows)
    assert set(cohort.planted("two_on_board").rows) <= set(found(LENGTH, "all_methods"))
    assert found("mass_g", "other_unit") == list(cohort.planted("slipped_point").rows)
    assert found("oxygen_mg_l", "suspected_code") == list(cohort.planted("missing_code").rows)
    assert found("cortisol_ng_ml", "cells") == list(cohort.planted("limit_cells").rows)
    for clean in ("swim_cm_s", "activity_min_h", "growth_pct_day"):
        assert not study.workspace.analysis(clean).findings(study.working)


def resolve_cells(study: Study, column: str, kind: str, rule: str) -> None:
    study.edit_column(column, study.dictionary.of(column).with_rule(kind, rule))


def test_cells_are_settled_for_the_whole_column_at_once(study: Study, cohort: Cohort) -> None:
    told: list[Change] = []
    study.listen(told.append)
    rows = [row - 1 for row in cohort.planted("decimal_comma").rows]
    before = study.workspace.analysis("glucose_mmol_l").description.n
    study.decide(DecisionKind.EXCLUDE_VALUE, "mass_g", [5])
    resolve_cells(study, "glucose_mmol_l", "decimal_comma", "number")
    assert told[-1] is Change.DATA
    column = study.table["glucose_mmol_l"]
    expected = [float(column.cell(row).replace(",", ".")) for row in rows]
    assert column.values[rows].tolist() == expected and not column.unread
    assert study.workspace.analysis("glucose_mmol_l").description.n == before + len(rows)
    assert np.isnan(study.working.sample(study.table["mass_g"]).values[5])
    finding = next(f for f in study.workspace.analysis("glucose_mmol_l").findings(study.working) if f.kind == "cells")
    assert finding.resolved and "settled" in finding.sentence
    resolve_cells(study, "glucose_mmol_l", "decimal_comma", "unread")
    assert study.workspace.analysis("glucose_mmol_l").description.n == before
    resolve_cells(study, "cortisol_ng_ml", "limit", "half")
    assert study.workspace.analysis("cortisol_ng_ml").description.min == 0.25
    for column_name, kind, rule in (("cortisol_ng_ml", "limit", "double"), ("no", "limit", "half")):
        with pytest.raises(CulvixError):
            resolve_cells(study, column_name, kind, rule)
    study.decide(DecisionKind.KEEP, "cortisol_ng_ml", [0])
    with pytest.raises(DecisionError, match="undo"):
        study.edit_column("cortisol_ng_ml", ColumnEntry(role=Role.TEXT))
    study.edit_column("oxygen_mg_l", ColumnEntry(valid_range=(0.0, 14.0)))
    beyond = study.workspace.deferred("oxygen_mg_l").outliers["valid_range"]
    assert [row + 1 for row in sorted(beyond.rows.tolist())] == list(cohort.planted("missing_code").rows)
    study.edit_column("oxygen_mg_l", ColumnEntry(missing_codes=("-9",), unit="mg/L"))
    assert study.table["oxygen_mg_l"].missing == 14 and study.table["oxygen_mg_l"].unit == "mg/L"


def test_settling_a_finding(study: Study, cohort: Cohort) -> None:
    finding = study.workspace.analysis(LENGTH).findings(study.working)[0]
    proposal = finding.proposals[0]
    study.decide(proposal.kind, LENGTH, finding.rows, cause=proposal.cause, reason="cm", factor=proposal.factor)
    again = study.workspace.analysis(LENGTH).findings(study.working)
    assert [f.resolved for f in again if f.kind == "other_unit"] == [True]
    assert study.workspace.analysis(LENGTH).verdict.flags_alone
    picture = shape_picture(study.workspace.analysis(LENGTH), study.working, finding.rows)
    assert picture.corrected.rows.tolist() == finding.rows.tolist()
    assert picture.corrected.values == pytest.approx(10 * picture.corrected_from)
    assert int(picture.selected_counts.sum()) == finding.rows.size
