"""Decisions, the working set, flags, findings, relations and the profile document."""

import hashlib
import json
import math
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.demo import Cohort
from culvix.errors import CulvixError, DecisionError
from culvix.report.documents.profile import profile_document
from culvix.report.documents.profile_extras import COLUMN_EXTRAS, TABLE_EXTRAS, Asked
from culvix.stats.core.normal_scores import normal_scores
from culvix.stats.core.sample import Sample
from culvix.stats.normality.verdict import judge_normality
from culvix.stats.registry import CORRELATION_KINDS, NORMALITY_TESTS, OUTLIER_METHODS
from culvix.study import Cause, Change, DecisionKind, Study
from culvix.study.analysis.relations import rank_pairs, suggest_kind, view_pair
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.document.decisions import factor_text
from culvix.study.document.settings import replaced
from culvix.study.pictures.column_pictures import shape_picture
from culvix.tables import Role, Table, read_table
from culvix.tables.model.dictionary import ColumnEntry

LENGTH = "length_mm"


def test_decisions_change_the_working_set_and_undo_brings_it_back(study: Study) -> None:
    before = study.workspace.analysis(LENGTH).description
    rows = [row for row in range(200) if np.isfinite(study.table[LENGTH].sample.values[row])][:4]
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, rows[:1], cause=Cause.ENTRY, reason="typed twice")
    study.decide(DecisionKind.EXCLUDE_ROW, LENGTH, rows[1:2])
    study.decide(DecisionKind.CORRECT, LENGTH, rows[2:3], factor=10)
    study.decide(DecisionKind.CORRECT, LENGTH, rows[3:4], value=200.5)
    values = study.working.sample(study.table[LENGTH]).values
    imported = study.table[LENGTH].sample.values
    assert np.isnan(values[rows[:2]]).all() and values[rows[3]] == 200.5
    assert values[rows[2]] == pytest.approx(10 * imported[rows[2]])
    assert np.isnan(study.working.sample(study.table["mass_g"]).values[rows[1]])
    assert study.working.rows_used == study.table.rows - 1
    assert study.workspace.analysis(LENGTH).description.n == before.n - 2
    for _ in range(4):
        study.undo()
    assert study.workspace.analysis(LENGTH).description == before
    with pytest.raises(DecisionError):
        study.undo()
    assert study.redo().decisions[0].reason == "typed twice"


def test_a_new_decision_after_undo_takes_the_place_of_the_old_one(study: Study) -> None:
    study.decide(DecisionKind.KEEP, LENGTH, [0], reason="first")
    study.undo()
    study.decide(DecisionKind.KEEP, LENGTH, [0], reason="second")
    assert [decision.reason for decision in study.decisions] == ["second"] and len(study.history.acts) == 1
    with pytest.raises(DecisionError):
        study.redo()


def test_impossible_decisions_are_refused(study: Study) -> None:
    empty = int(np.flatnonzero(np.isnan(study.table[LENGTH].sample.values))[0])
    for kind, column, rows, options in (
        (DecisionKind.KEEP, LENGTH, [], {}),
        (DecisionKind.KEEP, LENGTH, [10**6], {}),
        (DecisionKind.EXCLUDE_VALUE, LENGTH, [empty], {}),
        (DecisionKind.EXCLUDE_VALUE, "tank", [0], {}),
        (DecisionKind.CORRECT, LENGTH, [0], {}),
        (DecisionKind.CORRECT, LENGTH, [0], {"value": math.nan}),
        (DecisionKind.CORRECT, LENGTH, [0], {"factor": 1e308}),
        (DecisionKind.KEEP, LENGTH, [0], {"value": 1.0}),
        (DecisionKind.KEEP, "no such column", [0], {}),
    ):
        with pytest.raises(CulvixError):
            study.decide(kind, column, rows, **options)
    assert not study.decisions


_acts = st.lists(
    st.tuples(
        st.sampled_from(list(DecisionKind)),
        st.sampled_from([LENGTH, "oxygen_mg_l"]),
        st.sets(st.integers(0, 5), min_size=1, max_size=3),
    ),
    max_size=8,
)


@given(acts=_acts, steps=st.integers(0, 8))
def test_undo_and_redo_walk_the_same_states(demo_table: Table, acts: list, steps: int) -> None:
    """The working set is always the source with the decisions in force, however it was reached."""
    study = Study.of_table(demo_table)
    states = []

    def state() -> tuple:
        working = study.working
        samples = (working.sample(demo_table[c]).values.tobytes() for c in (LENGTH, "oxygen_mg_l"))
        return working.rows_used, *samples

    states.append(state())
    for kind, column, rows in acts:
        study.decide(kind, column, rows, **({"factor": 2.0} if kind is DecisionKind.CORRECT else {}))
        states.append(state())
    back = min(steps, len(acts))
    for position in range(back):
        study.undo()
        assert state() == states[len(acts) - position - 1]
    for position in range(back):
        study.redo()
        assert state() == states[len(acts) - back + position + 1]
    rebuilt = WorkingSet.of(demo_table, study.decisions)
    assert rebuilt.sample(demo_table[LENGTH]).values.tobytes() == states[-1][1]


def test_only_the_latest_states_of_a_column_are_kept(study: Study) -> None:
    for row in range(12):
        study.decide(DecisionKind.KEEP if row == 0 else DecisionKind.EXCLUDE_VALUE, "mass_g", [int(row)])
        study.workspace.analysis("mass_g")
    assert study.workspace.known_analysis("mass_g") is study.workspace.analysis("mass_g")
    for known in (True, True, False):
        for _ in range(3):
            study.undo()
        assert (study.workspace.known_analysis("mass_g") is not None) == known


def test_listeners_hear_the_finest_kind(study: Study) -> None:
    heard: list[Change] = []
    study.listen(heard.append)
    study.select([3, 1, 3], "here")
    study.decide(DecisionKind.KEEP, LENGTH, [1])
    study.change_settings(study.settings.with_limit("z_score", 2.5))
    study.change_settings(study.settings)
    study.set_reviewed(LENGTH, True)
    assert heard == [Change.SELECTION, Change.DECISIONS, Change.SETTINGS, Change.REVIEW]
    assert study.selection.rows.tolist() == [1, 3]


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


def test_cells_are_settled_for_the_whole_column_at_once(study: Study, cohort: Cohort) -> None:
    told: list[Change] = []
    study.listen(told.append)
    rows = [row - 1 for row in cohort.planted("decimal_comma").rows]
    before = study.workspace.analysis("glucose_mmol_l").description.n
    study.decide(DecisionKind.EXCLUDE_VALUE, "mass_g", [5])
    study.resolve_cells("glucose_mmol_l", "decimal_comma", "number")
    assert told[-1] is Change.DATA
    column = study.table["glucose_mmol_l"]
    expected = [float(column.cell(row).replace(",", ".")) for row in rows]
    assert column.values[rows].tolist() == expected and not column.unread
    assert study.workspace.analysis("glucose_mmol_l").description.n == before + len(rows)
    assert np.isnan(study.working.sample(study.table["mass_g"]).values[5])
    finding = next(f for f in study.workspace.analysis("glucose_mmol_l").findings(study.working) if f.kind == "cells")
    assert finding.settled and "settled" in finding.sentence
    study.resolve_cells("glucose_mmol_l", "decimal_comma", "unread")
    assert study.workspace.analysis("glucose_mmol_l").description.n == before
    study.resolve_cells("cortisol_ng_ml", "limit", "half")
    assert study.workspace.analysis("cortisol_ng_ml").description.min == 0.25
    for column_name, kind, rule in (("cortisol_ng_ml", "limit", "double"), ("no", "limit", "half")):
        with pytest.raises(CulvixError):
            study.resolve_cells(column_name, kind, rule)
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
    assert [f.settled for f in again if f.kind == "other_unit"] == [True]
    assert study.workspace.analysis(LENGTH).verdict.flags_alone
    picture = shape_picture(study.workspace.analysis(LENGTH), study.working, finding.rows)
    assert picture.corrected.rows.tolist() == finding.rows.tolist()
    assert picture.corrected.values == pytest.approx(10 * picture.corrected_from)
    assert int(picture.selected_counts.sum()) == finding.rows.size


def test_pictures_account_for_every_value(study: Study) -> None:
    flags = study.workspace.analysis(LENGTH).flags
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, flags.rows[:3].tolist())
    picture = shape_picture(study.workspace.analysis(LENGTH), study.working, np.zeros(0, dtype=np.int64))
    assert picture.excluded.rows.tolist() == flags.rows[:3].tolist()
    assert picture.flagged.rows.tolist() == flags.rows[3:].tolist()
    assert picture.histogram is not None and picture.histogram.n == picture.n


def test_relations_with_and_without_flagged_rows(study: Study) -> None:
    columns = study.table.numeric
    ranked = rank_pairs([c.name for c in columns], [c.sample.values for c in columns])
    strengths = [pair.strength for pair in ranked.pairs]
    assert strengths == sorted(strengths, reverse=True) and len(strengths) == len(columns) * (len(columns) - 1) // 2
    assert {ranked.pairs[0].x, ranked.pairs[0].y} == {LENGTH, "fork_length_mm"}
    flagged = study.workspace.analysis(LENGTH).flags.all_agree
    x, y = study.table[LENGTH].sample.values, study.table["fork_length_mm"].sample.values
    view = view_pair(LENGTH, "fork_length_mm", x, y, flagged)
    assert view.with_flagged["pearson"].r < 0.95 < view.without_flagged["pearson"].r
    assert view.without_flagged["pearson"].n == view.with_flagged["pearson"].n - view.flagged.size
    with pytest.raises(CulvixError, match="pairs"):
        rank_pairs([str(k) for k in range(400)], [x] * 400)


def test_the_kind_suggested_follows_shape_and_straightness(demo_table: Table) -> None:
    scores = normal_scores(200)
    x, noise = 10 + scores, np.random.default_rng(0).permutation(scores)

    def suggested(y: np.ndarray) -> str:
        verdicts = {}
        for name, values in (("x", x), ("y", y)):
            sample = Sample.of(values)
            verdicts[name] = judge_normality(sample, NORMALITY_TESTS["shapiro_wilk"].run(sample), None, None)
        return suggest_kind("x", "y", x, y, verdicts, 0.05).kind

    assert suggested(x + noise) == "pearson"
    assert suggested(np.exp(x)) == "spearman"
    assert suggested(0.2 * (x - 10) ** 2 + x + noise) == "spearman"


def test_factor_words() -> None:
    assert [factor_text(f) for f in (10.0, 0.1, 0.001, 2.5)] == ["×10", "÷10", "÷1000", "×2.5"]


# The profile document


@pytest.fixture(scope="module")
def document(demo_table: Table) -> dict:
    return json.loads(msgspec.json.encode(profile_document(Study.of_table(demo_table).workspace, jobs=2)))


KEYS = set(
    """name role unit label n missing unread non_finite distinct zeros negatives sum mean se_mean median modes
    mode_count sd variance min max range q1 q3 iqr percentiles mad mad_scaled sn qn medcouple trimmed_mean
    winsorized_mean geometric_mean harmonic_mean cv skewness excess_kurtosis skewness_g1
    excess_kurtosis_g2 se_skewness se_kurtosis
    l_scale l_skewness l_kurtosis density qq
    ci_mean ci_median ci_sd ci_sd_bonett normality outliers histogram notes""".split()  # noqa: SIM905
)


def test_document_keeps_its_contract(document: dict, demo_path: Path, demo_table: Table) -> None:
    assert document["format"] == "culvix-profile/2"
    source = document["source"]
    assert source["sha256"] == hashlib.sha256(demo_path.read_bytes()).hexdigest()
    assert (source["rows"], source["columns"], source["duplicate_rows"]) == (2180, 18, 12)
    assert set(document["correlation"]) == {k for k, kind in CORRELATION_KINDS.items() if kind.documented}
    for column in document["columns"]:
        if column["role"] in ("measure", "count", "ordered", "yes/no"):
            assert set(column) >= KEYS, column["name"]
            assert set(column["normality"]) >= {*NORMALITY_TESTS, "suggested", "verdict"}
            first = column["normality"][column["normality"]["suggested"]]["p"]
            assert first <= column["normality"]["p_benjamini_hochberg"] <= column["normality"]["p_holm"] <= 1
            assert set(column["outliers"]) == set(OUTLIER_METHODS)
            assert column["n"] + column["missing"] + column["unread"] + column["non_finite"] == 2180
            assert sum(column["histogram"]["counts"]) == column["n"]
            assert all(column["notes"][k] for k in KEYS if column[k] is None and k not in ("unit", "label"))
        else:
            assert {"n", "missing", "distinct", "most_frequent"} <= set(column)


def test_every_reason_stands_in_words_where_a_number_is_missing(tmp_path: Path) -> None:
    """Constant, tiny and endless columns: no number without a reason, and no number that is none."""
    rows = [
        ("constant", "one", "two", "huge", "small", "whole"),
        ("3.5", "1.5", "1.5", "1e308", "5e-324", "9007199254740993"),
        ("3.5", "", "2.25", "-1e308", "1e-310", "1"),
        ("3.5", "", "", "1.7e308", "0", "2"),
        ("3.5", "", "", "-1.7e308", "2e-310", "2"),
        ("3.5", "", "", "0.5", "5e-324", "3"),
        ("3.5", "", "", "1.5", "1e-320", "4"),
    ]
    path = tmp_path / "odd.csv"
    path.write_text("\n".join(",".join(row) for row in rows) + "\n")
    table = read_table(path)
    document = profile_document(Study.of_table(table).workspace, asked=Asked(frozenset(COLUMN_EXTRAS), repeats=19))
    text = msgspec.json.encode(document).decode()
    assert "NaN" not in text and "Infinity" not in text
    numeric = [column for column in document["columns"] if "mean" in column]
    assert len(numeric) >= 5
    for column in numeric:
        for key in KEYS - {"normality", "outliers", "notes", "unit", "label"}:
            assert column[key] is not None or column["notes"][key], (column["name"], key)
        for key in NORMALITY_TESTS:
            assert column["normality"][key]["p"] is not None or column["notes"][f"normality.{key}"]
        for found in (*column["bootstrap"].values(), *column["transformations"].values()):
            missing = {name for name, value in found.items() if value is None} - {"note", "plain"}
            assert not missing or found.get("note") or column["n"] < 3 or column["sd"] == 0, (column["name"], found)


def test_extras_are_those_of_the_core(demo_table: Table) -> None:
    study = Study.of_table(demo_table)
    names = ["length_mm", "mass_g", "vaccinated", "tank"]
    asked = Asked(frozenset({*COLUMN_EXTRAS, *TABLE_EXTRAS}), "tank", ("length_mm",), 7, 39)
    document = profile_document(study.workspace, columns=names, asked=asked)
    mass = document["columns"][1]
    sample = demo_table["mass_g"].sample
    assert mass["bootstrap"]["median"]["interval"] == pytest.approx(mass["ci_median"], rel=0.05)
    assert mass["bootstrap"]["qn"]["seed"] == 7 and mass["bootstrap"]["qn"]["repeats"] == 39
    assert set(mass["monte_carlo"]) == set(NORMALITY_TESTS)
    assert all(0 < found["p"] <= 1 for found in mass["monte_carlo"].values())
    logs = mass["transformations"]["ln"]
    assert logs["skewness"] == pytest.approx(oracle.skew(np.log(sample.sorted), bias=False), abs=1e-9)
    assert abs(logs["skewness"]) < abs(mass["transformations"]["none"]["skewness"])
    assert mass["transformations"]["box_cox"]["power"] == pytest.approx(
        oracle.boxcox_normmax(sample.sorted, method="mle"), abs=1e-3
    )
    centre = mass["intervals"]["hodges_lehmann"]
    assert centre["interval"][0] < centre["estimate"] < centre["interval"][1]
    assert mass["intervals"]["percentiles"]["50"] == list(mass["ci_median"])
    assert mass["ci_sd_bonett"][0] < mass["sd"] < mass["ci_sd_bonett"][1] and mass["unimodality"]["repeats"] == 39
    resampled = document["bootstrap_correlation"]["pairs"][0]["kendall"]
    assert resampled["interval"][0] < document["correlation"]["kendall"]["r"][0][1] < resampled["interval"][1]
    groups = mass["outliers_by_group"]["methods"]["modified_z"]
    assert set(groups["groups"]) == set(demo_table["tank"].text.drop_nulls().to_list())
    pairs = {(pair["x"], pair["y"]): pair for pair in document["pairs"]}
    assert pairs["length_mm", "vaccinated"]["pearson"] == "Point-biserial"
    assert pairs["length_mm", "mass_g"]["suggested"] == "spearman" and pairs["length_mm", "mass_g"]["reason"]
    low, high = document["correlation"]["pearson"]["interval"][0][1]
    assert low < document["correlation"]["pearson"]["r"][0][1] < high
    assert document["robust_correlation"]["biweight"]["r"][0][1] > 0.9
    assert document["distance_correlation"]["pairs"][0]["p"] == 1 / 40
    by_tank = document["correlation_by_group"]["pairs"][0]
    assert by_tank["spearman"]["pooled"]["n"] == sum(g["n"] for g in by_tank["spearman"]["groups"].values())
    held = document["partial_correlation"]["pairs"]
    assert [(pair["x"], pair["y"]) for pair in held] == [("mass_g", "vaccinated")]
    assert document["multivariate"]["columns"] == ["length_mm", "mass_g"]
    assert set(document["multivariate"]["flagged"]) <= set(document["multivariate"]["rows"])


def test_document_agrees_with_numpy(document: dict, demo_table: Table) -> None:
    for column in document["columns"]:
        if "mean" not in column:
            continue
        x = demo_table[column["name"]].sample.sorted
        assert column["mean"] == pytest.approx(x.mean(), rel=1e-13)
        assert column["sd"] == pytest.approx(x.std(ddof=1), rel=1e-12)
        assert list(column["percentiles"].values()) == pytest.approx(
            np.percentile(x, [int(p) for p in column["percentiles"]]), rel=1e-12
        )
        rows = column["outliers"]["iqr_fences"]["rows"]
        assert all(1 <= row <= 2180 for row in rows)
    matrix = document["correlation"]["pearson"]
    i, j = matrix["columns"].index("activity_min_h"), matrix["columns"].index("growth_pct_day")
    pair = [demo_table[c].sample.values for c in ("activity_min_h", "growth_pct_day")]
    assert matrix["r"][i][j] == pytest.approx(np.corrcoef(*pair)[0, 1], rel=1e-12) and matrix["n"][i][j] == 2180


def test_a_long_table_has_slow_matrices_by_name_only(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("culvix.report.documents.profile._MOST_ROWS", 20)
    path = tmp_path / "t.csv"
    path.write_text("x,y\n" + "".join(f"{row * 1.5},{row % 7 + 0.25}\n" for row in range(30)))
    plain = profile_document(Study.of_table(read_table(path)).workspace)["correlation"]
    assert (
        plain["kendall"] is None and "by name" in plain["notes"]["kendall"] and plain["spearman"]["r"][0][1] is not None
    )
    named = profile_document(Study.of_table(read_table(path)).workspace, asked=Asked(frozenset({"kendall"})))[
        "correlation"
    ]
    assert named["kendall"]["r"][0][1] is not None and "notes" not in named
