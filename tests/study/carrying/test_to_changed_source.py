"""A study on its table as it is by now: decisions by row key, misfits one by one, the history with it."""

from pathlib import Path

import pytest

from culvix.stats.shape.transform import Scale
from culvix.study import DecisionKind, Study
from culvix.study.carrying.fingerprint import fingerprint_of
from culvix.study.carrying.source_changes import changes_of_source
from culvix.study.carrying.to_changed_source import to_changed_source
from culvix.tables import Table, read_table
from tests.study.recipes.making import cells, fish


@pytest.fixture
def study(tmp_path: Path) -> Study:
    made = Study.of_table(fish(tmp_path))
    made.decide(DecisionKind.EXCLUDE_VALUE, "weight_g", [3, 5, 9], reason="net torn")
    made.change_settings(made.settings.with_limit("z_score", 4.0))
    made.decide(DecisionKind.CORRECT, "length_mm", [20], value=199.0)
    made.begin_pass()
    made.decide(DecisionKind.EXCLUDE_ROW, "", [30, 31])
    made.set_reviewed("weight_g", True)
    made.set_reviewed("length_mm", True)
    return made


def _now(study: Study, table: Table) -> Study:
    return to_changed_source(study.history, table, changes_of_source(fingerprint_of(study.table), table))


def _edited(study: Study, folder: Path) -> Table:
    """The table without F005 and F031, with another weight of F009, a new fish on top."""
    weights = cells(study.table, "weight_g")
    lines = (folder / "fish.csv").read_text().splitlines()
    lines[10] = lines[10].replace(weights[9], "77.7")
    kept = [line for line in lines[1:] if not line.startswith(("F005,", "F031,"))]
    path = folder / "now.csv"
    path.write_text("\n".join([lines[0], "F900,north,200.0,80.0", *kept]) + "\n")
    return read_table(path)


def test_decisions_follow_their_rows(study: Study, tmp_path: Path) -> None:
    now = _now(study, _edited(study, tmp_path))
    tags = [[now.table["tag"].cell(row) for row in each.rows.tolist()] for each in now.decisions]
    assert tags == [["F003"], ["F020"], ["F030"]]
    assert [each.reason for each in now.decisions] == ["net torn", "", ""]
    assert now.document.passes == (2,) and now.document.pass_number == 2


def test_every_misfit_is_told_by_itself(study: Study, tmp_path: Path) -> None:
    told = [each.sentence for each in _now(study, _edited(study, tmp_path)).document.discrepancies]
    assert told == [
        "199 rows where there were 200: 1 new and 2 gone, told apart by tag.",
        "1 cell changed: weight_g (1).",
        "weight_g: exclude value (row 6) was not taken over: its row is gone.",
        "weight_g: exclude value (row 10) was not taken over: its cell is another one now.",
        "exclude row (row 32) was not taken over: its row is gone.",
        "weight_g is to be reviewed again: 1 of its cells changed.",
    ]


def test_what_was_reviewed_stays_so_only_where_nothing_changed(study: Study, tmp_path: Path) -> None:
    assert _now(study, _edited(study, tmp_path)).document.reviewed == ("length_mm",)


def test_the_history_goes_with_it(study: Study, tmp_path: Path) -> None:
    now = _now(study, _edited(study, tmp_path))
    assert now.history.labels == study.history.labels
    now.undo()
    assert now.working.rows_used == 199
    now.go_to(1)
    assert [each.column for each in now.decisions] == ["weight_g"] and now.settings.limits["z_score"] == 3.0
    now.go_to(len(now.history.labels))
    assert now.working.rows_used == 198


def test_nothing_is_other_on_the_same_table(study: Study, tmp_path: Path) -> None:
    now = _now(study, read_table(tmp_path / "fish.csv"))
    assert [each.rows.tolist() for each in now.decisions] == [each.rows.tolist() for each in study.decisions]
    assert [each.kind for each in now.document.discrepancies] == ["source"]


def test_a_column_that_is_gone_takes_its_decisions_along_and_that_is_told(study: Study, tmp_path: Path) -> None:
    now = _now(study, fish(tmp_path, "now.csv", weight_g=None))
    assert [each.column for each in now.decisions] == ["length_mm", ""]
    told = [each.sentence for each in now.document.discrepancies if each.kind == "decision"]
    assert told[0] == "weight_g: exclude value (row 4) was not taken over: weight_g is gone." and len(told) == 3


def test_derived_columns_and_counts_follow(tmp_path: Path) -> None:
    study = Study.of_table(fish(tmp_path))
    root = study.derive("weight_g", Scale("sqrt"))
    counts = study.add_flag_counts(study.workspace.analysis("length_mm"))
    before = study.table[counts].values
    study.decide(DecisionKind.EXCLUDE_VALUE, root, [8])
    lines = (tmp_path / "fish.csv").read_text().splitlines()
    (tmp_path / "now.csv").write_text("\n".join([lines[0], "F900,north,200.0,80.0", *lines[1:]]) + "\n")
    now = _now(study, read_table(tmp_path / "now.csv"))
    assert now.decisions[0].rows.tolist() == [9] and now.table[root].sample.n == 201
    after = now.table[counts].values
    assert after[1:].tolist() == before.tolist() and after[0] != after[0]


def test_thousands_of_misfits_are_summed_up(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from culvix.study.carrying import to_changed_source as module

    monkeypatch.setattr(module, "MOST_LISTED", 5)
    study = Study.of_table(fish(tmp_path))
    study.decide(DecisionKind.EXCLUDE_VALUE, "weight_g", range(50))
    other = fish(tmp_path, "now.csv", weight_g=["1.5"] * 200)
    told = [each.sentence for each in _now(study, other).document.discrepancies if each.kind == "decision"]
    assert len(told) == 6 and told[-1].startswith("45 more values of “exclude value: weight_g, 50 rows”")
