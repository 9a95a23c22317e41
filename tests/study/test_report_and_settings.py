"""The report, the settings, relations and snapshots: what is written follows what was decided."""

import re
from html import unescape

import numpy as np
import pytest

from culvix.demo import Cohort
from culvix.errors import Cancelled, CulvixError, DecisionError, StatisticsError
from culvix.report.documents.profile import profile_document
from culvix.report.formats.html import report_html
from culvix.stats.registry import CORRELATION_KINDS, NORMALITY_TESTS, OUTLIER_METHODS
from culvix.study import Cause, ColumnSettings, DecisionKind, Settings, Study
from culvix.study.analysis.relations import RANKING, view_pair
from culvix.study.pictures.column_pictures import Marks
from culvix.tables import Table

LENGTH = "length_mm"


def draw(picture: object) -> str:
    """A stand-in for the drawing of pictures, which is tested by itself."""
    return f"<svg><!-- {type(picture).__name__} --></svg>"


@pytest.fixture(scope="module")
def plain(demo_table: Table) -> str:
    return report_html(Study.of_table(demo_table).workspace, draw)


def test_the_report_names_its_source_and_every_column(plain: str, demo_table: Table) -> None:
    assert demo_table.source.sha256 in plain and demo_table.source.name in plain
    assert "12 repeating an earlier row" in plain and "2\u202f043 complete in every column" in plain
    for column in demo_table:
        assert f"<td>{column.name}</td>" in plain and unescape(column.reason) in unescape(plain)
    assert plain.count("<!-- ShapePicture -->") == 13 and plain.count("<!-- PairPicture -->") == 1


def test_the_report_walks_the_tables_of_methods(plain: str) -> None:
    for table in (NORMALITY_TESTS, OUTLIER_METHODS, CORRELATION_KINDS):
        for row in table.values():
            assert row.name in unescape(plain) and f"#guide-{row.key}" in plain
    listed = re.findall(r"<tr><td>(?:<[^>]*>)?([^<]+) \*<", plain)
    assert {"z-score", "IQR fences", "modified z-score"} == set(listed), "only the chosen methods are starred"


def test_the_report_says_what_was_decided_and_what_was_not_reviewed(demo_table: Table, cohort: Cohort) -> None:
    study = Study.of_table(demo_table)
    rows = [row - 1 for row in cohort.planted("unit_cm").rows]
    study.decide(DecisionKind.CORRECT, LENGTH, rows, cause=Cause.ENTRY, reason="in <cm>, see sheet 4", factor=10)
    study.decide(DecisionKind.EXCLUDE_ROW, "oxygen_mg_l", [5], reason="probe broken")
    study.undo()
    study.set_reviewed(LENGTH, True)
    html = report_html(study.workspace, draw)
    assert "in &lt;cm&gt;, see sheet 4" in html and "correct ×10" in html and "<td>entry</td>" in html
    assert "probe broken" not in html, "a decision that was undone is not in force"
    assert f"({demo_table['tag'].cell(rows[0])})" in html and demo_table[LENGTH].cell(rows[0]) in html
    unreviewed = re.search(r"Not reviewed:</strong> ([^<]*)\.", html)
    assert unreviewed and LENGTH not in unreviewed[1].split(", ") and "mass_g" in unreviewed[1]
    assert "5 values" in html and html.count("✓") >= 1


def test_a_report_can_be_cancelled(demo_table: Table) -> None:
    def stop(share: float, doing: str) -> None:
        if share > 0.3:
            raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        report_html(Study.of_table(demo_table).workspace, draw, progress=stop)


def test_conventions_in_the_report_are_those_in_force(demo_table: Table) -> None:
    study = Study.of_table(
        demo_table, Settings(alpha=0.01, quantile_type=6, closed="right").with_limit("iqr_fences", 3.0)
    )
    html = unescape(report_html(study.workspace, draw))
    for message in (
        "<td>0.01</td>",
        "exclusive, (n+1)p (type 6)",
        "belong to the bin below",
        "3 IQRs beyond the quartiles",
    ):
        assert message in html


def test_a_snapshot_does_not_hear_of_later_changes(study: Study) -> None:
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [0], reason="before")
    copy = study.workspace
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [1], reason="after")
    study.set_reviewed(LENGTH, True)
    study.change_settings(study.settings.with_limit("z_score", 2.0))
    assert [d.reason for d in copy.document.decisions] == ["before"] and not copy.document.reviewed
    assert copy.analysis(LENGTH).description.n == 2173 and copy.settings.limits["z_score"] == 3.0
    assert study.workspace.analysis(LENGTH).description.n == 2172


@pytest.mark.parametrize(
    "make",
    [
        lambda: Settings(alpha=0.0),
        lambda: Settings(confidence=1.0),
        lambda: Settings(quantile_type=0),
        lambda: Settings(methods=()),
        lambda: Settings(methods=("no such",)),
        lambda: Settings().with_limit("z_score", -1.0),
        lambda: Settings().with_column("x", ColumnSettings(bin_rule="guess")),
        lambda: Settings().with_column("x", ColumnSettings(scale="logarithmic")),
    ],
)
def test_impossible_settings_are_refused(make: object) -> None:
    with pytest.raises(StatisticsError):
        make()


def test_equal_settings_are_equal_and_methods_keep_the_order_of_the_table() -> None:
    settings = Settings()
    assert settings == Settings() and settings.with_limit("z_score", 3.0) == settings
    assert settings.with_methods(["modified_z", "z_score"]).methods == ("z_score", "modified_z")
    assert settings.with_column("x", ColumnSettings(bin_width=2.0)).of("x").bin_width == 2.0
    assert settings.of("y") == ColumnSettings()


def test_a_valid_range_flags_what_lies_outside(study: Study) -> None:
    study.set_valid_range(LENGTH, (80.0, 400.0))
    settings = study.settings.with_methods(["valid_range", "iqr_fences"])
    study.change_settings(settings)
    flags = study.workspace.analysis(LENGTH).flags
    values = study.table[LENGTH].sample.values
    outside = np.flatnonzero((values < 80) | (values > 400))
    assert flags.results["valid_range"].rows.size == outside.size == 6
    assert (flags.agreement_on(outside) == 1).all() and flags.able == 1, "a declared range has no vote"


def test_selections_outside_the_table_are_refused(study: Study) -> None:
    study.select([1, 2], "here")
    with pytest.raises(DecisionError):
        study.select([2180])
    assert study.selection.rows.tolist() == [1, 2] and study.selection
    study.select([])
    assert not study.selection


def test_pairs_count_only_rows_where_both_are_present(study: Study) -> None:
    x, y = (study.table[name].sample.values for name in (LENGTH, "mass_g"))
    view = view_pair(LENGTH, "mass_g", x, y, np.array([0, 1, 2]))
    both = np.isfinite(x) & np.isfinite(y)
    assert view.rows.tolist() == np.flatnonzero(both).tolist()
    for key in CORRELATION_KINDS:
        assert view.with_flagged[key].n == both.sum() == view.without_flagged[key].n + view.flagged.size
    assert set(RANKING) <= set(CORRELATION_KINDS)


def test_thinned_marks_keep_their_rows_and_values_together() -> None:
    rows, values = np.arange(10_000), np.arange(10_000) * 2.0
    values[::10] = np.nan
    marks = Marks.at(rows, values)
    assert marks.rows.size == 700 and (marks.values == marks.rows * 2).all()


def test_the_profile_of_a_decided_study_is_of_its_working_set(study: Study, cohort: Cohort) -> None:
    codes = [row - 1 for row in cohort.planted("missing_code").rows]
    study.decide(DecisionKind.EXCLUDE_VALUE, "oxygen_mg_l", codes)
    document = profile_document(study.workspace, columns=["oxygen_mg_l"], with_correlation=False)
    (column,) = document["columns"]
    assert column["n"] == 2180 - len(codes) and column["min"] > 5
    assert (column["missing"], column["excluded"]) == (0, len(codes))
    assert len(column["outliers"]["z_score"]["rows"]) == len(codes), "flags stay those of the data as imported"
    with pytest.raises(CulvixError):
        profile_document(study.workspace, columns=["no such column"])


def test_of_too_many_marks_the_outermost_are_drawn() -> None:
    values = np.random.default_rng(3).permutation(np.arange(20_000.0))
    values[7] = np.nan
    marks = Marks.at(np.arange(20_000), values, np.arange(20_000) % 4)
    present = np.sort(values[np.isfinite(values)])
    assert marks.rows.size <= 700 and np.unique(marks.rows).size == marks.rows.size
    assert (marks.values == values[marks.rows]).all() and (marks.weights == marks.rows % 4).all()
    assert set(present[:150]) <= set(marks.values) and set(present[-150:]) <= set(marks.values)
    between = np.sort(marks.values)[175:-175]
    assert np.diff(between).max() < 60


def test_limits_of_one_column_stand_among_the_conventions(study: Study) -> None:
    study.change_settings(study.settings.with_own_limits(LENGTH, "z_score", (2.0, 3.5)))
    assert (f"Limits of {LENGTH} of its own, below and above", "z-score 2 and 3.5") in study.settings.stated()
    assert study.history.acts[0].label == f"change own limits of {LENGTH} none → z-score 2 and 3.5"
