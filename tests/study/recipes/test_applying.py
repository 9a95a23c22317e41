"""A recipe run on its own table gives the same study; on another one the same rules, and what a person must look at."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from culvix.errors import ReadError
from culvix.report.documents.profile import profile_document
from culvix.stats.shape.transform import Scale
from culvix.study import Cause, DecisionKind, Study
from culvix.study.document.choices.report_layout import ReportLayout, SectionChoice
from culvix.study.document.marks import Mark
from culvix.study.document.rules import agreed, between, flagged_by
from culvix.study.recipes.applying import Applied, apply_recipe, apply_to_table
from culvix.tables import Table, read_table
from culvix.tables.model.dictionary import ColumnEntry
from tests.study.recipes.making import cells, decide_by_rule, fish, made


def _with_all_kinds_of_work(table: Table) -> Study:
    """A demo study with everything in it that a recipe is about."""
    study = Study.of_table(table)
    study.sign("mo")
    study.edit_column("oxygen_mg_l", ColumnEntry(missing_codes=("-9",), unit="mg/l"))
    study.edit_column("cortisol_ng_ml", ColumnEntry(rules={"limit": "half"}))
    study.set_valid_range("length_mm", (60.0, 320.0))
    study.derive("mass_g", Scale("ln"))
    study.add_mark(Mark("small", "length_mm", "below", "150", 1))
    decide_by_rule(study, "length_mm", between(None, 50.0), DecisionKind.CORRECT, factor=10.0, cause=Cause.ENTRY)
    study.change_settings(study.settings.with_methods(["iqr_fences", "z_score", "valid_range"]))
    decide_by_rule(study, "length_mm", flagged_by("valid_range"), DecisionKind.EXCLUDE_VALUE)
    decide_by_rule(study, "mass_g", agreed(2), DecisionKind.KEEP, cause=Cause.GENUINE)
    study.change_settings(study.settings.with_limit("z_score", 4.0))
    study.decide(DecisionKind.EXCLUDE_ROW, "swim_cm_s", [17, 400], reason="dead")
    study.decide(DecisionKind.CORRECT, "mass_g", [30], value=99.5)
    study.begin_pass()
    decide_by_rule(study, "feed_ratio", flagged_by("z_score"), DecisionKind.MISSING)
    return study


def test_a_recipe_on_its_own_table_gives_the_same_figures(demo_table: Table, demo_path: Path) -> None:
    study = _with_all_kinds_of_work(demo_table)
    applied = apply_recipe(made(study), demo_path)
    before, after = (profile_document(each.workspace) for each in (study, applied.study))
    assert after == before
    assert applied.study.document.marks == study.document.marks
    assert not applied.discrepancies and not applied.notes
    kinds = [(each.kind, each.rows.tolist(), each.by, each.pass_number) for each in study.decisions]
    assert [(each.kind, each.rows.tolist(), each.by, each.pass_number) for each in applied.study.decisions] == kinds


def test_the_layout_of_the_report_travels_but_for_sentences_about_the_old_table(
    demo_table: Table, demo_path: Path
) -> None:
    study = Study.of_table(demo_table)
    layout = ReportLayout(author="mo", date="2026-05-01", sections=(SectionChoice("columns", "line"),))
    study.change_report(replace(layout.with_text("source", "Weighed on two scales."), summary=("Mass is 130 g.",)))
    recipe = made(study)
    applied = apply_recipe(recipe, demo_path.with_name("last_cohort.csv")).study.document.report
    assert applied == replace(study.document.report, summary=(), date="")
    assert "first page of the report are about spring_cohort.csv" in recipe.left_out[0]


def test_on_last_years_cohort_a_person_must_look_at_what_is_other(demo_table: Table, demo_path: Path) -> None:
    applied = apply_recipe(made(_with_all_kinds_of_work(demo_table)), demo_path.with_name("last_cohort.csv"))
    assert [each.kind for each in applied.discrepancies] == ["missing_column", "new_column", "moved", "open_flags"]
    gone, new, moved, sentence = (each.sentence for each in applied.discrepancies)
    assert "glucose_mmol_l is missing; “glucose”, which is new, may be the same" in gone and "glucose is new" in new
    assert moved.startswith("fork_length_mm has moved"), "it was noted in another unit"
    assert sentence == ("parasite_count has 250 flagged values that no rule covers, 12.9 % of its rows; it was 8.9 %.")
    assert applied.notes[0].startswith("Decisions on 3 single values of spring_cohort.csv are about rows")
    assert "The rule “length_mm: all values up to 50” means no row here." in applied.notes
    assert applied.study.document.discrepancies == applied.discrepancies


def test_rules_are_found_anew_in_the_next_table(tmp_path: Path) -> None:
    table = fish(tmp_path)
    lengths = cells(table, "length_mm")
    study = Study.of_table(fish(tmp_path, "june.csv", length_mm=["19.0", *lengths[1:]]))
    decide_by_rule(study, "length_mm", between(None, 50.0), DecisionKind.CORRECT, factor=10.0)
    july = fish(tmp_path, "july.csv", length_mm=[*lengths[:-2], "21.5", "20.0"])
    applied = apply_to_table(made(study), july)
    (decision,) = applied.study.decisions
    assert decision.rows.tolist() == [198, 199] and decision.rule == between(None, 50.0)
    assert applied.study.working.sample(july["length_mm"]).values[198] == pytest.approx(215.0)


def test_a_single_value_is_decided_again_only_where_it_is_the_same(tmp_path: Path) -> None:
    table = fish(tmp_path)
    study = Study.of_table(table)
    study.decide(DecisionKind.EXCLUDE_VALUE, "weight_g", [3, 5, 9])
    weights = cells(table, "weight_g")
    tags = cells(table, "tag")
    # One fish went, so that all rows below move up; another was weighed again.
    weights[5] = "77.7"
    del tags[9]
    moved = fish(tmp_path, "moved.csv", tag=[*tags, "F999"], weight_g=[*weights[:9], *weights[10:], "80.0"])
    applied = apply_to_table(made(study), moved)
    assert [decision.rows.tolist() for decision in applied.study.decisions] == [[3]]
    assert [cell.key for cell in applied.repeated[0].cells] == [("F005",), ("F009",)]


def test_row_numbers_mean_nothing_in_another_file_without_a_key(tmp_path: Path) -> None:
    study = Study.of_table(fish(tmp_path, tag=None))
    study.decide(DecisionKind.EXCLUDE_VALUE, "weight_g", [3])
    again = apply_to_table(made(study), read_table(tmp_path / "fish.csv"))
    assert [decision.rows.tolist() for decision in again.study.decisions] == [[3]]
    other = fish(tmp_path, "other.csv", tag=None, length_mm=["200.0"] * 200)
    assert not apply_to_table(made(study), other).study.decisions


def _kinds(recipe_of: Study, table: Table) -> Applied:
    return apply_to_table(made(recipe_of), table)


@pytest.fixture
def june(tmp_path: Path) -> Study:
    study = Study.of_table(fish(tmp_path))
    study.set_valid_range("length_mm", (50.0, 400.0))
    return study


def _table_with(change: str, folder: Path, plain: Table) -> Table:
    lengths, nets = cells(plain, "length_mm"), cells(plain, "net")
    weights = cells(plain, "weight_g")
    changed: dict[str, dict[str, list[str] | None]] = {
        "missing_column": {"length_mm": None, "len_mm": lengths},
        "new_column": {"observer": ["mo"] * 200},
        "new_level": {"net": ["east", "east", *nets[2:]]},
        "new_kind": {"weight_g": ["<0.5", "<0.5", *weights[2:]]},
        "outside_range": {"length_mm": ["20.0", *lengths[1:]]},
        "missing": {"weight_g": [""] * 20 + weights[20:]},
        "moved": {"length_mm": [f"{float(cell) + 30:.1f}" for cell in lengths]},
        "open_flags": {"weight_g": ["400.0"] * 8 + weights[8:]},
        "role": {"length_mm": [("long", "short")[number % 2] for number in range(200)]},
    }
    return fish(folder, f"{change}.csv", **changed[change])


@pytest.mark.parametrize(
    ("kind", "said"),
    [
        (
            "missing_column",
            "The column length_mm is missing; “len_mm”, which is new, may be the same under another name.",
        ),
        ("new_column", "The column observer is new: the recipe says nothing of it."),
        ("new_level", "net has 1 level never seen before, in 2 rows: “east”."),
        ("new_kind", "weight_g has 2 cells of a kind not met before: "),
        ("outside_range", "length_mm has 1 value outside its valid range (50 to 400 mm) that no decision covers."),
        ("missing", "weight_g lacks 10.0 % of its cells; it was 0.0 %."),
        ("moved", "length_mm has moved: its quantiles lie "),
        ("open_flags", "weight_g has 8 flagged values that no rule covers"),
        ("role", "length_mm is read as "),
    ],
)
def test_each_way_to_be_other_is_told(june: Study, tmp_path: Path, kind: str, said: str) -> None:
    applied = _kinds(june, _table_with(kind, tmp_path, june.table))
    sentences = {each.kind: each.sentence for each in applied.discrepancies}
    assert said in sentences[kind]
    assert applied.needs_review


def test_the_same_catch_drawn_again_needs_no_look(june: Study, tmp_path: Path) -> None:
    applied = _kinds(june, fish(tmp_path, "again.csv", seed=4))
    assert not applied.discrepancies


def test_rows_of_a_discrepancy_are_those_it_is_about(june: Study, tmp_path: Path) -> None:
    applied = _kinds(june, _table_with("new_level", tmp_path, june.table))
    (found,) = (each for each in applied.discrepancies if each.kind == "new_level")
    assert found.column == "net" and found.rows == (0, 1)


def test_thresholds_of_the_recipe_decide_what_is_worth_a_look(june: Study, tmp_path: Path) -> None:
    recipe = made(june)
    moved = _table_with("moved", tmp_path, june.table)
    generous = replace(recipe, thresholds=replace(recipe.thresholds, distance=50.0, open_flags=1.0))
    kinds = {each.kind for each in apply_to_table(generous, moved).discrepancies}
    assert "moved" not in kinds


def test_a_decision_without_its_column_is_told(tmp_path: Path) -> None:
    study = Study.of_table(fish(tmp_path))
    decide_by_rule(study, "weight_g", between(None, 100.0), DecisionKind.MISSING)
    applied = apply_to_table(made(study), fish(tmp_path, "short.csv", weight_g=None))
    told = [each.sentence for each in applied.discrepancies if each.kind == "decision"]
    what = "treat as missing, weight_g, all values up to 100"
    assert told == [f"A decision cannot be made again ({what}): there is no column weight_g."]


def test_a_file_written_another_way_is_read_as_it_looks_and_that_is_told(june: Study, tmp_path: Path) -> None:
    lines = (tmp_path / "fish.csv").read_text().replace(".", "·").replace(",", ";").replace("·", ",")
    path = tmp_path / "semicolons.csv"
    path.write_text("exported by hand\n" + lines)
    applied = apply_recipe(made(june), path)
    assert [each.kind for each in applied.discrepancies] == ["reading"]
    assert applied.study.table["length_mm"].sample.n == 200
    assert np.allclose(applied.study.table["length_mm"].sample.values, june.table["length_mm"].sample.values)


def test_what_is_no_table_is_refused(june: Study, tmp_path: Path) -> None:
    path = tmp_path / "empty.csv"
    path.write_bytes(b"")
    with pytest.raises(ReadError):
        apply_recipe(made(june), path)
