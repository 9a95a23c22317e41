"""The example study: what is planted in the cohort is decided as its key says, and it never takes the place of work."""

from pathlib import Path

from culvix.demo import Cohort
from culvix.study.document.decisions import DecisionKind
from culvix.study.example_study import example_study, write_example_study
from culvix.study.storage.reopening import reopen


def test_its_decisions_are_about_what_is_planted(demo_path: Path, cohort: Cohort) -> None:
    study = example_study(demo_path)
    found = {(each.column, each.kind): [row + 1 for row in each.rows.tolist()] for each in study.decisions}
    assert found == {
        ("length_mm", DecisionKind.CORRECT): list(cohort.planted("unit_cm").rows),
        ("length_mm", DecisionKind.EXCLUDE_VALUE): list(cohort.planted("two_on_board").rows),
        ("mass_g", DecisionKind.CORRECT): list(cohort.planted("slipped_point").rows),
    }
    assert all(each.reason and each.rule is not None and each.by == "hb" for each in study.decisions)
    assert study.table["oxygen_mg_l"].missing == len(cohort.planted("missing_code").rows)
    assert study.table["glucose_mmol_l"].unread == 0 and study.table["cortisol_ng_ml"].unread == 0


def test_it_is_opened_as_it_was_written_and_never_written_over(demo_path: Path, tmp_path: Path) -> None:
    table = tmp_path / "spring_cohort.csv"
    table.write_bytes(demo_path.read_bytes())
    path = write_example_study(table)
    assert len(reopen(path).decisions) == 3
    path.write_bytes(before := path.read_bytes() + b"more")
    assert write_example_study(table) == path and path.read_bytes() == before
