"""The report: what it names, what it says was decided, and by which conventions."""

import re
from html import unescape
from types import MappingProxyType

import pytest

from culvix.demo import Cohort
from culvix.errors import Cancelled
from culvix.report.formats.html import report_html
from culvix.stats.registry import CORRELATION_KINDS, NORMALITY_TESTS, OUTLIER_METHODS
from culvix.study import Cause, DecisionKind, Settings, Study
from culvix.tables import Role, Table
from culvix.tables.model.dictionary import ColumnEntry

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


def test_ordered_codes_are_told_by_their_words_and_shares(demo_table: Table) -> None:
    study = Study.of_table(demo_table)
    words = MappingProxyType({"0": "whole", "4": "worn away"})
    study.edit_column("fin_score", ColumnEntry(role=Role.ORDERED, words=words))
    text = unescape(report_html(study.workspace, draw))
    codes = re.search(r">(0 whole: .* highest .*)\.<", text)
    assert codes is not None
    values = demo_table["fin_score"].sample.values
    assert f"0 whole: {int((values == 0).sum())} (" in codes[1] and "4 worn away: " in codes[1]
    assert " · median " in codes[1]
