"""A test, an outlier method or a kind of correlation is one function and one row: every list of them follows."""

import numpy as np
import pytest

from culvix.guide import entry_for
from culvix.report.documents.profile import profile_document
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.result import CorrelationMatrix, PairCorrelation
from culvix.stats.describe.description import Description
from culvix.stats.normality.monte_carlo import monte_carlo_normality
from culvix.stats.normality.result import NormalityResult
from culvix.stats.outliers.result import OutlierResult, by_test
from culvix.stats.registry import (
    CorrelationKind,
    NormalityTest,
    OutlierMethod,
    Setting,
    Statistic,
    registered_keys,
)
from culvix.study import Settings, Study
from culvix.study.analysis.column_analysis import analyse
from culvix.study.analysis.survey.survey import as_text, default_fields, survey_rows
from culvix.study.document.choices.report_layout import ReportLayout, SectionChoice
from culvix.study.relations.pair_analysis import analyse_pair
from culvix.tables.model.table import Table
from tests.registries import add_row
from tests.report.rendering import html_of

LENGTH, MASS = "length_mm", "mass_g"


def farthest(sample: Sample, *, share: float = 0.01) -> OutlierResult:
    """Flag the largest values, as many as ``share`` of n."""
    rows = sample.outer_rows(0, int(share * sample.n))
    return by_test("farthest", "value", sample.n, {"share": share}, None, rows=rows, scores=sample.values[rows])


def middle(sample: Sample) -> NormalityResult:
    """Mean against median: a made-up statistic."""
    assert sample.moments is not None
    gap = abs(sample.moments.mean - float(np.median(sample.sorted))) / (sample.moments.sd or 1.0)
    return NormalityResult("middle", "M", gap, 0.5, sample.n)


def same_side(x: np.ndarray, y: np.ndarray) -> PairCorrelation:
    both = np.isfinite(x) & np.isfinite(y)
    a, b = x[both], y[both]
    r = float(np.mean(np.sign(a - np.median(a)) * np.sign(b - np.median(b))))
    return PairCorrelation("same_side", r, 0.25, int(both.sum()))


def same_side_matrix(columns: list[np.ndarray]) -> CorrelationMatrix:
    pairs = [[same_side(x, y) for y in columns] for x in columns]
    r = np.array([[pair.r for pair in line] for line in pairs], dtype=float)
    return CorrelationMatrix("same_side", r, np.full_like(r, 0.25), np.array([[p.n for p in line] for line in pairs]))


def test_a_statistic_more(demo_table: Table, monkeypatch: pytest.MonkeyPatch) -> None:
    def of(description: Description, sample: Sample) -> float:
        return float(np.abs(sample.sorted - description.mean).mean())

    row = Statistic("mean_deviation", "mean deviation", "statistic", of, short="mean dev.", summary=3, survey=8)
    add_row(monkeypatch, "STATISTICS", row)
    workspace = Study.of_table(demo_table).workspace
    analysis = workspace.analysis(LENGTH)
    expected = float(np.abs(analysis.sample.sorted - analysis.description.mean).mean())
    assert analysis.figures["mean_deviation"] == expected
    assert "mean_deviation" in default_fields()
    text = as_text(survey_rows(workspace), ["mean_deviation"])
    assert "mean dev." in text and repr(expected) in text
    (document,) = profile_document(workspace, columns=[LENGTH])["columns"]
    assert document["mean_deviation"] == expected
    full = Study.of_table(demo_table)
    full.change_report(ReportLayout(sections=(SectionChoice("columns", "full"),)))
    shown = (
        f'<data value="{expected!r}" data-key="column/{LENGTH}/mean_deviation">{analysis.style.statistic(expected)}<'
    )
    assert shown in html_of(full.workspace)
    assert [key for key in registered_keys() if entry_for(key) is None] == ["mean_deviation"]


def test_an_outlier_method_more(demo_table: Table, monkeypatch: pytest.MonkeyPatch) -> None:
    limit = Setting("share", "share of the rows", 0.01, (0.01,), "level")
    words = {"name": "Farthest values", "short": "farthest", "tells": "The largest values.", "source": "made up"}
    add_row(monkeypatch, "OUTLIER_METHODS", OutlierMethod(key="farthest", run=farthest, limit=limit, **words))
    study = Study.of_table(demo_table, Settings().with_methods(["z_score", "farthest"]))
    flags = study.workspace.analysis(LENGTH).flags
    assert flags.results["farthest"].rows.size == 21 and flags.able == 2
    study.change_settings(study.settings.with_limit("farthest", 0.02))
    assert study.workspace.analysis(LENGTH).flags.results["farthest"].rows.size == 43
    (document,) = profile_document(study.workspace, columns=[LENGTH])["columns"]
    assert len(document["outliers"]["farthest"]["rows"]) == 43
    report = html_of(study.workspace)
    assert "Farthest values (limit 0.02 share of the rows; made up)" in report


def test_a_test_of_normality_more(demo_table: Table, monkeypatch: pytest.MonkeyPatch) -> None:
    words = {"name": "Middle", "short": "middle", "tells": "Mean against median.", "source": "made up"}
    row = NormalityTest(key="middle", run=middle, tail="high", smallest_n=3, **words)
    add_row(monkeypatch, "NORMALITY_TESTS", row)
    study = Study.of_table(demo_table, Settings(verdict_test="middle"))
    analysis = study.workspace.analysis(LENGTH)
    assert analysis.normality["middle"].p == 0.5 and analysis.verdict.method == "middle"
    (document,) = profile_document(study.workspace, columns=[LENGTH])["columns"]
    assert document["normality"]["middle"]["p"] == 0.5
    assert "Middle" in html_of(study.workspace)
    simulated = monte_carlo_normality({"middle": row}, Sample.of(np.arange(30.0) ** 4), repeats=99)
    assert simulated["middle"].p is not None and simulated["middle"].p <= 0.05, "its tail says which end speaks against"


def test_a_kind_of_correlation_more(demo_table: Table, monkeypatch: pytest.MonkeyPatch) -> None:
    words = {"name": "Same side", "short": "same side", "tells": "Both above or below.", "source": "made up"}
    add_row(
        monkeypatch,
        "CORRELATION_KINDS",
        CorrelationKind(key="same_side", run=same_side, matrix=same_side_matrix, symbol="s", **words),
    )
    study = Study.of_table(demo_table)
    pair = analyse_pair(*(analyse(study.workspace.request(name)) for name in (LENGTH, MASS)))
    expected = pair.view.with_flagged["same_side"].r
    assert expected is not None and 0.5 < expected < 1
    document = profile_document(study.workspace, columns=[LENGTH, MASS])["correlation"]["same_side"]
    assert document["r"][0][1] == pytest.approx(expected)
    assert "Same side" in html_of(study.workspace)
