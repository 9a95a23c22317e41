"""From a flag to a decision: rules, swaps, passes, history, impact, what-if, and the files that come of it."""

import csv
import hashlib
import io
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.demo import Cohort
from culvix.errors import DecisionError, StatisticsError, WriteError
from culvix.report.documents.cleaned_data import cleaned_frame, flagged_frame
from culvix.report.formats.table_files import as_it_was, frame_file
from culvix.stats.core.sample import Sample
from culvix.stats.multivariate.row_distances import row_distances
from culvix.stats.registry import OUTLIER_METHODS
from culvix.stats.shape.transform import Scale
from culvix.study import Cause, Decision, DecisionKind, Study
from culvix.study.analysis.outliers.agreement import flagged_values
from culvix.study.analysis.outliers.impact import impact_of, influence_of
from culvix.study.analysis.outliers.rule_rows import rows_of
from culvix.study.analysis.outliers.what_if import moved, what_if
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.document.choices.settings import Settings
from culvix.study.document.rules import agreed, between, flagged_by
from culvix.study.pictures.column_pictures import shape_picture
from culvix.tables import Table, read_table

LENGTH, MASS, OXYGEN = "length_mm", "mass_g", "oxygen_mg_l"
WHEN = datetime(2026, 3, 18, tzinfo=UTC)
RANGES = {LENGTH: (80.0, 350.0), MASS: (0.0, 600.0), OXYGEN: (0.0, 20.0)}
_BY_LIMITS = {
    *("z_score", "iqr_fences", "modified_z", "hampel", "double_mad", "adjusted_fences", "qn_distance"),
    *("fdr", "valid_range"),
}
SHOULD_FLAG = {
    "unit_cm": _BY_LIMITS | {"generalized_esd"},
    "two_on_board": _BY_LIMITS | {"generalized_esd"},
    "slipped_point": _BY_LIMITS | {"generalized_esd"},
    # The generalised ESD looks for ten outliers at the most; fourteen codes are more than it can find.
    "missing_code": _BY_LIMITS,
}
"""Which methods flag all planted values of a kind. Grubbs flags one at the most; Dixon is for 30 values at the most."""


def with_ranges(study: Study) -> Study:
    for name, ends in RANGES.items():
        study.set_valid_range(name, ends)
    study.change_settings(study.settings.with_methods(OUTLIER_METHODS))
    return study


@pytest.mark.parametrize("kind", SHOULD_FLAG)
def test_planted_outliers_are_flagged_by_the_methods_that_should_and_no_others(
    kind: str, study: Study, cohort: Cohort
) -> None:
    planted = cohort.planted(kind)
    results = with_ranges(study).workspace.analysis(planted.columns[0]).flags.results
    rows = np.array(planted.rows) - 1
    found = {key: int(np.isin(rows, result.rows).sum()) for key, result in results.items()}
    assert {key for key, hits in found.items() if hits == rows.size} == SHOULD_FLAG[kind]
    assert found["grubbs"] <= 1 and found["dixon"] == 0 and not results["dixon"].applies
    if kind == "missing_code":
        assert found["generalized_esd"] == 10


def decision(kind: DecisionKind, column: str, rows: Sequence[int], **how: object) -> Decision:
    return Decision(kind, column, np.array(rows, dtype=np.int64), Cause.UNKNOWN, "", WHEN, **how)


class Naive:
    """The working set by its words, value by value."""

    def __init__(self, table: Table, decisions: Sequence[Decision]) -> None:
        self.table, self.on, self.out = table, {}, {}
        for made in decisions:
            for row in made.rows.tolist():
                for column in made.columns:
                    self.on[column, row] = made
                if made.kind is DecisionKind.EXCLUDE_ROW:
                    self.out[row] = made
                elif row in self.out and (made.kind is DecisionKind.KEEP or self.out[row].column == made.column):
                    del self.out[row]

    def value(self, column: str, row: int) -> float:
        made, values = self.on.get((column, row)), {c.name: c.values for c in self.table.numeric}
        if row in self.out or (made and made.kind in (DecisionKind.EXCLUDE_VALUE, DecisionKind.MISSING)):
            return float("nan")
        if made is None or made.kind is not DecisionKind.CORRECT:
            return float(values[column][row])
        if made.swapped:
            return float(values[made.swapped if column == made.column else made.column][row])
        return made.value if made.value is not None else float(values[column][row]) * made.factor


@st.composite
def decisions(draw: st.DrawFn) -> list[Decision]:
    made = []
    for _ in range(draw(st.integers(0, 8))):
        kind = draw(st.sampled_from(list(DecisionKind)))
        column, other = draw(st.permutations([LENGTH, MASS]))
        rows = sorted(draw(st.sets(st.integers(0, 7), min_size=1, max_size=5)))
        how: dict[str, object] = {}
        if kind is DecisionKind.CORRECT:
            how = draw(st.sampled_from([{"value": 3.5}, {"factor": 10.0}, {"swapped": other}]))
        made.append(decision(kind, column, rows, **how))
    return made


@given(decisions())
@settings(max_examples=30, deadline=None)
def test_the_working_set_is_the_source_and_the_decisions(small_table: Table, made: list[Decision]) -> None:
    working, naive = WorkingSet.of(small_table, made), Naive(small_table, made)
    for column in (LENGTH, MASS):
        wanted = [naive.value(column, row) for row in range(8)]
        assert np.array_equal(working.sample(small_table[column]).values, wanted, equal_nan=True)
        for row in range(8):
            assert working.decision_on(column, row) is (naive.out.get(row) or naive.on.get((column, row)))
        again = WorkingSet.of(small_table, made)
        assert working.version(column) == again.version(column)
        changed = not np.array_equal(working.sample(small_table[column]).values, small_table[column].values)
        assert (working.version(column) != ()) >= changed
        said = [row for row in range(8) if row in naive.out or (column, row) in naive.on]
        assert working.decided(column).tolist() == said
        gone = [row for row in range(8) if np.isnan(naive.value(column, row))]
        assert working.excluded(column).tolist() == gone
    assert working.rows_out.tolist() == sorted(naive.out)
    # A column nobody decided on loses the excluded rows, and nothing else.
    for untouched in (working.excluded("age_d"), working.decided("age_d")):
        assert untouched.tolist() == sorted(naive.out)
    assert not working.corrected("age_d").rows.size and (working.version("age_d") == ()) == (not naive.out)


@pytest.fixture(scope="session")
def small_table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    path = tmp_path_factory.mktemp("small") / "small.csv"
    lines = (f"{10 + row}.5,{100 + row}.25,{40 + row}\n" for row in range(8))
    path.write_text("length_mm,mass_g,age_d\n" + "".join(lines))
    return read_table(path)


def test_many_rows_are_decided_and_taken_back_and_the_source_is_as_it_was(study: Study, demo_path: Path) -> None:
    before, digest = study.workspace.analysis(LENGTH).description, hashlib.sha256(demo_path.read_bytes()).hexdigest()
    rows = np.flatnonzero(np.isfinite(study.table[LENGTH].values))
    study.sign("mk")
    made = study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, rows, reason="the board was wet")
    assert made.by == "mk" and made.pass_number == 1 and study.workspace.analysis(LENGTH).description.n == 0
    rebuilt = WorkingSet.of(study.table, study.decisions)
    assert rebuilt.version(LENGTH) == study.working.version(LENGTH)
    study.undo()
    assert study.workspace.analysis(LENGTH).description == before
    assert hashlib.sha256(demo_path.read_bytes()).hexdigest() == digest


def test_a_rule_finds_its_rows_and_stays_with_the_decision(study: Study) -> None:
    preview, x = with_ranges(study).workspace.analysis(MASS), study.table[MASS].values
    with np.errstate(invalid="ignore"):
        assert (
            rows_of(flagged_by("valid_range"), preview.flags, preview.flag_basis).tolist()
            == np.flatnonzero(x > 600).tolist()
        )
        inside = np.flatnonzero((x >= 100) & (x <= 101)).tolist()
    assert rows_of(between(100, 101), preview.flags, preview.flag_basis).tolist() == inside
    every = rows_of(agreed(1), preview.flags, preview.flag_basis)
    assert (
        np.array_equal(every, preview.flags.rows)
        and rows_of(agreed(9), preview.flags, preview.flag_basis).size < every.size
    )
    rule = flagged_by("valid_range")
    made = study.decide(DecisionKind.MISSING, MASS, rows_of(rule, preview.flags, preview.flag_basis), rule=rule)
    assert "outside the valid range" in made.sentence and study.working.excluded(MASS).size == made.rows.size
    assert study.workspace.flags_decided(preview) == (made.rows.size, preview.flags.rows.size)
    study.change_settings(study.settings.with_methods(["z_score"]))
    assert "valid_range" in study.workspace.analysis(MASS).flags.results, "a declared range counts, ticked or not"
    with pytest.raises(DecisionError, match="not among the chosen"):
        rows_of(flagged_by("hampel"), study.workspace.analysis(MASS).flags, preview.flag_basis)
    for wrong in (lambda: flagged_by("sight"), lambda: agreed(0), lambda: between(None, None)):
        with pytest.raises(DecisionError):
            wrong()


def test_what_cannot_be_decided_is_refused(study: Study) -> None:
    missing = int(np.flatnonzero(~np.isfinite(study.table[LENGTH].values))[0])
    for message, make in (
        ("itself", lambda: study.decide(DecisionKind.CORRECT, LENGTH, [0], swapped=LENGTH)),
        ("no numbers", lambda: study.decide(DecisionKind.CORRECT, LENGTH, [0], swapped="tank")),
        ("lacks a value", lambda: study.decide(DecisionKind.CORRECT, LENGTH, [missing], swapped=MASS)),
        ("nothing to multiply", lambda: study.decide(DecisionKind.CORRECT, LENGTH, [missing], factor=10.0)),
        ("Only a correction", lambda: study.decide(DecisionKind.MISSING, LENGTH, [0], factor=10.0)),
        ("decided nothing|Nothing was decided", study.begin_pass),
        ("acts to go to", lambda: study.go_to(3)),
    ):
        with pytest.raises(DecisionError, match=message):
            make()
    assert not study.history.acts


def test_flags_stay_until_another_pass_is_begun(study: Study) -> None:
    first = study.workspace.analysis(LENGTH).flags
    far = first.results["z_score"].rows
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, far)
    assert np.array_equal(study.workspace.analysis(LENGTH).flags.rows, first.rows), (
        "one pass over the values as imported"
    )
    study.begin_pass()
    second = study.workspace.analysis(LENGTH)
    assert study.document.pass_number == 2 and second.flag_basis.n == study.table[LENGTH].sample.n - far.size
    x = second.flag_basis.sorted
    limits = x.mean() + 3 * np.array([-1, 1]) * x.std(ddof=1)
    assert [second.flags.results["z_score"].lower, second.flags.results["z_score"].upper] == pytest.approx(limits)
    assert study.decide(DecisionKind.KEEP, LENGTH, second.flags.rows[:1]).pass_number == 2
    study.go_to(1)
    assert study.document.pass_number == 1 and np.array_equal(study.workspace.analysis(LENGTH).flags.rows, first.rows)
    study.go_to(3)
    assert study.document.pass_number == 2 and len(study.decisions) == 2
    study.go_to(0)
    assert not study.decisions and study.history.cursor == 0 and len(study.history.acts) == 3


def test_flags_within_groups_and_on_a_scale(study: Study) -> None:
    tank, x = study.table["tank"].text.to_numpy(), study.table["activity_min_h"].values
    chosen = replace(study.settings.of("activity_min_h"), flag_within="tank")
    study.change_settings(study.settings.with_column("activity_min_h", chosen))
    found = study.workspace.analysis("activity_min_h").flags.results["z_score"]
    wanted = []
    for name in sorted(set(tank)):
        rows = np.flatnonzero((tank == name) & np.isfinite(x))
        z = (x[rows] - x[rows].mean()) / x[rows].std(ddof=1)
        wanted += rows[np.abs(z) > 3].tolist()
    assert sorted(found.rows.tolist()) == sorted(wanted) and found.lower is None
    assert "6 groups of tank" in found.note and found.n == np.isfinite(x).sum()
    chosen = replace(study.settings.of(MASS), flag_scale="ln")
    study.change_settings(study.settings.with_column(MASS, chosen))
    mass = study.table[MASS].sample.sorted
    logs = np.log(mass)
    scaled = study.workspace.analysis(MASS).flags.results["z_score"]
    assert scaled.upper == pytest.approx(np.exp(logs.mean() + 3 * logs.std(ddof=1)), rel=1e-9)
    assert scaled.rows.size == int((np.abs(logs - logs.mean()) > 3 * logs.std(ddof=1)).sum())
    study.change_settings(study.settings.with_column("parasite_count", replace(chosen, flag_scale="ln")))
    refused = study.workspace.analysis("parasite_count").flags.results["z_score"]
    assert not refused.applies and "above 0" in refused.note


def test_a_declared_range_counts_unticked_and_leaves_the_other_spans_alone(study: Study) -> None:
    before = study.workspace.analysis(MASS).flags
    study.set_valid_range(MASS, (0.0, 300.0))
    preview, x = study.workspace.analysis(MASS), study.table[MASS].values
    outside = np.flatnonzero(np.nan_to_num(x) > 300)
    assert preview.flags.results["valid_range"].rows.size == outside.size > 4
    spans = {span.key: span for span in shape_picture(preview, study.working, np.zeros(0, dtype=np.int64)).spans}
    for key, result in before.results.items():
        assert (spans[key].lower, spans[key].upper) == (result.lower, result.upper)
    assert spans["valid_range"].beyond == (0, outside.size) and spans["z_score"].lower < 0
    # It is no opinion: the others have as many votes as before.
    assert preview.flags.able == before.able and np.isin(outside, preview.flags.rows).all()
    found = preview.findings(study.working)[0]
    assert found.kind == "out_of_range" and found.grave and found.rows.tolist() == outside.tolist()
    assert "above 300" in found.sentence and "outside the declared range" in found.sentence
    mine = flagged_values([preview, study.workspace.analysis(LENGTH)], study.working)
    assert mine.methods[-1] == "valid_range" and not mine.by[mine.positions == 1, -1].any()


def test_limits_of_a_column_and_of_each_side(study: Study) -> None:
    common = study.workspace.analysis(LENGTH).flags.results["z_score"]
    study.change_settings(study.settings.with_own_limits(LENGTH, "z_score", (2.0, 4.0)))
    preview, x = study.workspace.analysis(LENGTH), study.table[LENGTH].values
    mean, sd = np.nanmean(x), np.nanstd(x, ddof=1)
    found = preview.flags.results["z_score"]
    assert (found.lower, found.upper) == pytest.approx((mean - 2 * sd, mean + 4 * sd))
    with np.errstate(invalid="ignore"):
        assert sorted(found.rows) == np.flatnonzero((x < mean - 2 * sd) | (x > mean + 4 * sd)).tolist()
    assert found.scores == pytest.approx((x[found.rows] - mean) / sd) and found.settings["k above"] == 4.0
    other = study.workspace.analysis("fork_length_mm").flags.results["z_score"]
    assert other.settings["k"] == common.settings["k"] == 3.0 and "k above" not in other.settings
    study.change_settings(study.settings.with_own_limits(LENGTH, "z_score", None))
    assert study.workspace.analysis(LENGTH).flags.results["z_score"].rows.tolist() == common.rows.tolist()
    for wrong in ((0.0, 3.0), (3.0, np.inf)):
        with pytest.raises(StatisticsError, match="above 0"):
            study.settings.with_own_limits(LENGTH, "z_score", wrong)


def test_impact_is_the_difference_between_the_states(study: Study) -> None:
    preview = study.workspace.analysis(LENGTH)
    out = preview.flags.rows
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, out[:3])
    preview = study.workspace.analysis(LENGTH)
    found, imported = impact_of(preview, study.working), study.table[LENGTH].values
    for figures, gone in zip(found.figures, (out[:0], out[:3], out), strict=True):
        x = np.delete(imported, gone)
        x = x[np.isfinite(x)]
        assert (figures.n, figures.median) == (x.size, np.median(x))
        assert figures.mean == pytest.approx(x.mean(), rel=1e-14) and figures.sd == pytest.approx(x.std(ddof=1))
        assert figures.skewness == pytest.approx(oracle.skew(x, bias=False))
        assert figures.excess_kurtosis == pytest.approx(oracle.kurtosis(x, bias=False))
        assert figures.trimmed_mean == pytest.approx(oracle.trim_mean(x, 0.1))
        assert figures.test.statistic == pytest.approx(oracle.shapiro(x).statistic, abs=2e-5)
    fork = study.table["fork_length_mm"].values
    for pair, gone in zip(found.correlations["fork_length_mm"], (out[:0], out[:3], out), strict=True):
        a, b = np.delete(imported, gone), np.delete(fork, gone)
        both = np.isfinite(a) & np.isfinite(b)
        assert pair.r == pytest.approx(oracle.pearsonr(a[both], b[both]).statistic, abs=1e-12)
    assert found.moved[0] == "fork_length_mm" and "length_mm" not in found.correlations
    alone = influence_of(preview, study.working, out[3:])
    assert alone.left_out.mean[0] == pytest.approx(np.nanmean(np.delete(imported, [*out[:3], out[3]])))


def test_in_a_later_pass_all_out_starts_from_the_values_of_that_pass(study: Study) -> None:
    first = study.workspace.analysis(LENGTH).flags
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, first.most)
    study.decide(DecisionKind.CORRECT, MASS, [640], value=150.0)
    study.begin_pass()
    study.decide(DecisionKind.CORRECT, MASS, [641], value=160.0)
    preview = study.workspace.analysis(LENGTH)
    found = impact_of(preview, study.working, pass_begins=study.workspace.pass_begins)
    values, mass = study.table[LENGTH].values.copy(), study.table[MASS].values.copy()
    values[first.most] = np.nan
    values[preview.flags.rows] = np.nan
    mass[640] = 150.0
    out = found.figures[2]
    assert (out.n, found.flagged) == (np.isfinite(values).sum(), preview.flags.rows.size) and preview.flags.rows.size
    assert out.sd == pytest.approx(np.nanstd(values, ddof=1)) and out.sd < found.figures[1].sd < found.figures[0].sd
    both = np.isfinite(values) & np.isfinite(mass)
    assert found.correlations[MASS][2].r == pytest.approx(
        oracle.pearsonr(values[both], mass[both]).statistic, abs=1e-12
    )


def test_what_if_tells_what_another_value_would_make_of_everything(study: Study, tmp_path: Path) -> None:
    preview, row = study.workspace.analysis(LENGTH), 30
    found = what_if(preview, row, 305.0)
    moved = study.table[LENGTH].values.copy()
    moved[row] = 305.0
    path = tmp_path / "moved.csv"
    pl.DataFrame({LENGTH: pl.Series(moved).fill_nan(None)}).write_csv(path)
    other = Study.of_table(read_table(path)).workspace.analysis(LENGTH)
    assert found.figures.mean == pytest.approx(other.description.mean, rel=1e-14)
    assert found.figures.skewness == pytest.approx(other.description.skewness, rel=1e-12)
    for key, result in found.results.items():
        wanted = other.flags.results[key]
        assert (result.lower, result.upper) == pytest.approx((wanted.lower, wanted.upper), rel=1e-12)
        assert np.array_equal(result.rows, wanted.rows)
    influence = influence_of(preview, study.working, preview.flags.rows)
    mass = study.table[MASS].values
    both = np.isfinite(moved) & np.isfinite(mass)
    r = influence.moved(preview, study.working, row, 305.0)[MASS]
    assert r == pytest.approx(oracle.pearsonr(moved[both], mass[both]).statistic, abs=1e-12)
    assert not study.decisions and not study.history.acts


def test_the_list_tells_who_flags_what_and_by_how_far(study: Study) -> None:
    looks = [study.workspace.analysis(name) for name in (LENGTH, MASS)]
    study.decide(DecisionKind.KEEP, LENGTH, looks[0].flags.rows[:2])
    values = [study.table[name].values for name in (LENGTH, MASS, "fork_length_mm")]
    distances = row_distances(values)
    found = flagged_values(looks, study.working, ((LENGTH, MASS), distances)).ordered()
    assert (np.diff(found.agreement) <= 0).all() and found.decided.sum() == 2
    sizes = [int((found.positions == position).sum()) for position in range(3)]
    assert sizes == [*(preview.flags.rows.size for preview in looks), distances.flagged.size]
    line = int(np.flatnonzero(found.positions == 0)[0])
    x = study.table[LENGTH].values
    x = x[np.isfinite(x)]
    scale = 1.482602218505602 * np.median(np.abs(x - np.median(x)))
    assert found.deviations[line] == pytest.approx((found.values[line] - np.median(x)) / scale, rel=1e-6)
    assert found.by[line].sum() == found.agreement[line] == 3 and len(flagged_values([], study.working)) == 0


def test_cleaned_data_and_flagged_values_as_files(study: Study, cohort: Cohort) -> None:
    planted = np.array(cohort.planted("unit_cm").rows) - 1
    study.decide(DecisionKind.CORRECT, LENGTH, planted, factor=10.0, cause=Cause.ENTRY, reason="=typed in cm")
    study.decide(DecisionKind.EXCLUDE_ROW, MASS, [4])
    study.decide(DecisionKind.MISSING, MASS, [7], reason="-")
    frame = cleaned_frame(study.workspace, trace=True)
    assert frame.height == study.table.rows - 1 and 5 not in frame["row"] and frame["vaccinated"].dtype == pl.String
    at = frame.filter(pl.col("row") == planted[0] + 1)
    assert at[LENGTH][0] == pytest.approx(10 * float(at["length_mm as read"][0]))
    assert "correct ×10; cause: entry; =typed in cm" in at["length_mm decision"][0]
    assert frame.filter(pl.col("row") == 8)[MASS][0] is None
    flagged = flagged_frame(study.workspace, [LENGTH])
    assert flagged.height == study.workspace.analysis(LENGTH).flags.rows.size
    row = flagged.filter(pl.col("row") == planted[0] + 1)
    assert row["methods"][0] == "z_score, iqr_fences, modified_z" and row["reason"][0] == "=typed in cm"
    text = pl.read_csv(io.BytesIO(frame_file(flagged, ".csv")))
    assert text.filter(pl.col("row") == planted[0] + 1)["reason"][0] == "'=typed in cm"
    assert pl.read_parquet(io.BytesIO(frame_file(frame, ".parquet"))).equals(frame)
    sheet = pl.read_excel(io.BytesIO(frame_file(flagged, ".xlsx")), engine="calamine")
    assert sheet.height == flagged.height and "=typed in cm" in sheet["reason"].to_list()
    with pytest.raises(WriteError, match=r"not \.doc"):
        frame_file(frame, ".doc")


def test_whole_numbers_stay_whole_and_the_trace_is_a_choice(study: Study) -> None:
    rows = np.flatnonzero(study.table["parasite_count"].sample.values == 0)[:2]
    study.decide(DecisionKind.CORRECT, "parasite_count", rows[:1], value=7)
    study.decide(DecisionKind.EXCLUDE_VALUE, "parasite_count", rows[1:])
    frame = cleaned_frame(study.workspace)
    column = frame["parasite_count"]
    assert column.dtype == pl.Int64 and column[int(rows[0])] == 7 and column[int(rows[1])] is None
    assert frame.columns == ["row", *(each.name for each in study.table)]
    study.decide(DecisionKind.CORRECT, "parasite_count", rows[:1], value=7.5)
    assert cleaned_frame(study.workspace)["parasite_count"][int(rows[0])] == 7.5


def test_the_file_of_flagged_values_says_what_they_were_judged_by(study: Study) -> None:
    study.change_settings(study.settings.with_own_limits(LENGTH, "z_score", (2.5, 3.0)))
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, study.workspace.analysis(LENGTH).flags.most)
    study.begin_pass()
    frame, preview = flagged_frame(study.workspace, [LENGTH]), study.workspace.analysis(LENGTH)
    assert set(frame["limits"]) == {"z_score 2.5 and 3; iqr_fences 1.5; modified_z 3.5"}
    assert set(frame["judged in pass"]) == {2} and set(frame["scale"]) == {"as measured"}
    found = flagged_values([preview], study.working).ordered()
    assert frame["deviation"].to_list() == pytest.approx(found.deviations) and frame["group"].null_count() == len(frame)


@given(st.lists(st.text(st.characters(codec="utf-8", exclude_characters="\x00\r"), max_size=12), min_size=1))
@settings(max_examples=30, deadline=None)
def test_what_was_made_harmless_comes_back(texts: list[str]) -> None:
    frame = pl.DataFrame({"-a": texts})
    data = frame_file(frame, ".csv")
    head, *cells = [cell for (cell,) in csv.reader(io.StringIO(data.decode(), newline="")) or []]
    assert head == "'-a"
    for cell, text in zip(cells, texts, strict=True):
        assert as_it_was(cell) == text and not cell.startswith(("=", "+", "-", "@", "\t"))


def test_standardised_values_and_flags_become_columns(study: Study) -> None:
    preview = study.workspace.analysis(LENGTH)
    name = study.add_flag_counts(preview)
    flags = study.table[name]
    assert np.array_equal(np.flatnonzero(flags.values > 0), preview.flags.rows) and np.nanmax(flags.values) == 3
    assert np.isnan(flags.values).sum() == study.table[LENGTH].missing
    standard = study.derive(LENGTH, Scale("standard"))
    z = study.table[standard].sample
    assert z.moments.mean == pytest.approx(0, abs=1e-12) and z.moments.sd == pytest.approx(1)
    study.go_to(0)
    assert name not in study.table and standard not in study.table


def test_settings_refuse_a_scale_without_a_way_back() -> None:
    with pytest.raises(Exception, match="way back"):
        Settings().with_column(MASS, replace(Settings().of(MASS), flag_scale="normal_ranks"))


def test_what_if_in_a_long_column_adds_nothing_up_anew() -> None:
    x = np.random.default_rng(5).gamma(2.0, size=60_000)
    sample = Sample(x)
    for value in (0.5, 40.0, float(x[9])):
        other = x.copy()
        other[9] = value
        found, wanted = moved(sample, 9, value), Sample(other)
        assert np.array_equal(found.sorted, wanted.sorted) and found.median == wanted.median
        for name in ("mean", "sd", "skewness", "excess_kurtosis"):
            assert getattr(found.moments, name) == pytest.approx(getattr(wanted.moments, name), rel=1e-10)
