"""What is asked about values and columns: codes, exchanged values, factors that belong to units; and what is not."""

from pathlib import Path

import numpy as np
import pytest

from culvix.report.documents.profile import profile_document
from culvix.study import DecisionKind, Study
from culvix.study.document.decisions import factor_text
from culvix.study.pictures.column_pictures import shape_picture
from culvix.tables import Role, Table, read_table
from culvix.tables.checks.table_checks import check_table
from culvix.tables.model.dictionary import ColumnEntry

draw = np.random.default_rng(11)


def table(folder: Path, **columns: object) -> Table:
    path = folder / "t.csv"
    cells = [[f"{cell:.10g}" if not isinstance(cell, str) else cell for cell in column] for column in columns.values()]  # type: ignore[union-attr]
    path.write_text(",".join(columns) + "\n" + "".join(",".join(row) + "\n" for row in zip(*cells, strict=True)))
    return read_table(path)


def test_yes_and_no_have_no_outliers_and_no_part_in_agreement(tmp_path: Path) -> None:
    rare = np.zeros(200)
    rare[:3] = 1
    study = Study.of_table(table(tmp_path, sick=rare, x=draw.normal(50, 5, 200).round(2)))
    analysis = study.workspace.analysis("sick")
    assert analysis.column.role is Role.YES_NO and not analysis.flags.rows.size and analysis.flags.able == 0
    assert not [finding for finding in analysis.findings(study.working) if finding.rows.size]
    column = profile_document(study.workspace)["columns"][0]
    assert all(not found["rows"] for found in column["outliers"].values())
    assert "no outliers" in column["notes"]["outliers.z_score"]


def test_codes_are_judged_only_once_they_are_said_to_be_amounts(tmp_path: Path) -> None:
    codes = draw.choice([1, 2, 3, 4, 5], 300, p=[0.02, 0.02, 0.02, 0.04, 0.9])
    study = Study.of_table(table(tmp_path, q3=codes, x=draw.normal(50, 5, 300).round(2)))
    analysis = study.workspace.analysis("q3")
    assert analysis.column.role is Role.ORDERED and analysis.flags.able == 0 and analysis.verdict.rejects is None
    (asked,) = [f for f in analysis.findings(study.working) if f.kind == "codes_or_amounts"]
    assert "codes of categories, or amounts" in asked.sentence and not asked.resolved
    counts = {answer.label: answer for answer in asked.question.answers}
    study.edit_column("q3", counts["Measures"].applied(ColumnEntry()))
    again = study.workspace.analysis("q3")
    assert again.column.role is Role.MEASURE and again.flags.able > 0 and again.verdict.rejects is not None
    assert not [f for f in again.findings(study.working) if f.kind == "codes_or_amounts"]


def test_exchanged_values_are_asked_about_and_set_right(tmp_path: Path) -> None:
    height, weight = draw.normal(170, 6, 150).round(1), draw.normal(66, 6, 150).round(1)
    height[7], weight[7] = weight[7], height[7]
    study = Study.of_table(table(tmp_path, height=height, weight=weight, z=draw.normal(0, 1, 150).round(3)))
    (asked,) = [found for found in check_table(study.table) if found.kind == "exchanged_values"]
    assert asked.columns == ("height", "weight") and asked.rows.tolist() == [7] and "Exchanged?" in asked.evidence
    study.decide(DecisionKind.CORRECT, "height", asked.rows, swapped="weight")
    assert study.working.sample(study.table["height"]).values[7] == weight[7]
    height[7] = weight[7] = 170.0
    assert not [f for f in check_table(table(tmp_path, height=height, weight=weight)) if f.kind == "exchanged_values"]


UNITS = {
    "inches": ("length", draw.normal(60, 4, 200), 2.54),
    "pounds": ("mass", draw.normal(70, 5, 200), 0.45359237),
    "slipped point": ("depth", draw.normal(40, 4, 200), 10.0),
}


@pytest.mark.parametrize("case", UNITS)
def test_a_factor_of_a_unit_that_brings_a_value_among_the_others_is_proposed(case: str, tmp_path: Path) -> None:
    name, values, factor = UNITS[case]
    values = values.round(2)
    values[5] = round(float(np.median(values)) / factor, 2)
    study = Study.of_table(table(tmp_path, **{name: values}, x=draw.normal(size=200).round(3)))
    (asked,) = [f for f in study.workspace.analysis(name).findings(study.working) if f.kind == "other_unit"]
    correct = asked.proposals[0]
    assert asked.rows.tolist() == [5] and correct.factor == pytest.approx(factor)
    study.decide(correct.kind, name, asked.rows, factor=correct.factor, shift=correct.shift)
    assert study.working.sample(study.table[name]).values[5] == pytest.approx(np.median(values), abs=0.2)


def test_fahrenheit_among_degrees_is_proposed_with_its_shift(tmp_path: Path) -> None:
    values = draw.normal(12, 1, 200).round(1)
    values[9] = 53.6
    study = Study.of_table(table(tmp_path, temp_c=values, x=draw.normal(size=200).round(3)))
    (asked,) = [f for f in study.workspace.analysis("temp_c").findings(study.working) if f.kind == "other_unit"]
    correct = asked.proposals[0]
    study.decide(correct.kind, "temp_c", asked.rows, factor=correct.factor, shift=correct.shift)
    assert study.working.sample(study.table["temp_c"]).values[9] == pytest.approx(12.0)
    assert "32" not in factor_text(5 / 9) and "17.78" in factor_text(5 / 9, -160 / 9)
    study.undo()
    assert study.working.sample(study.table["temp_c"]).values[9] == 53.6


def test_equal_columns_and_row_numbers_are_no_rescalings(tmp_path: Path) -> None:
    x = draw.normal(20, 4, 100).round(3)
    other = x.copy()
    other[3] += 1
    numbers = np.arange(1, 101)
    found = {f.kind: f.evidence for f in check_table(table(tmp_path, row=numbers, id=numbers, x=x, y=other))}
    assert "1.000 times" not in " ".join(found.values()) and "duplicate_columns" not in found
    assert "hold the same numbers but for 1 row" in found["rescaled_columns"]


def test_many_corrected_values_are_drawn_each_from_where_it_was(tmp_path: Path) -> None:
    values = draw.normal(50, 5, 3000).round(3)
    study = Study.of_table(table(tmp_path, x=values, y=draw.normal(size=3000).round(3)))
    study.decide(DecisionKind.CORRECT, "x", np.arange(2000), factor=2.0)
    picture = shape_picture(study.workspace.analysis("x"), study.working, np.zeros(0, dtype=np.int64))
    assert picture.corrected.rows.size == picture.corrected_from.size > 0
    assert np.array_equal(picture.corrected_from * 2, picture.corrected.values)
