"""The margin of the Shape stage: statistics with what there is to tell of them, and all that bears on normality."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel
from scipy import stats as oracle

from culvix.app.shell.window import MainWindow
from culvix.stats.core.sample import Sample
from culvix.stats.describe.hodges_lehmann import hodges_lehmann_interval
from culvix.stats.describe.intervals import bonett_interval, quantile_interval
from culvix.stats.display import p_value
from culvix.stats.registry import Statistic
from culvix.stats.resampling.column_bootstrap import bootstrap_interval
from culvix.stats.shape.dip import dip_test
from culvix.study.document.choices.settings import replaced
from tests.app.driving import LEFT, opened, press, rest, wait_until_idle, words_of
from tests.registries import add_row


def bootstrap_ends(sample: Sample, key: str) -> tuple[float, float]:
    found = bootstrap_interval(sample, key)
    return found.low, found.high


def test_a_click_on_a_statistic_tells_its_interval(
    window: MainWindow, demo_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench, study = opened(window, demo_path)
    summary, analysis = bench.shape.margin.summary, bench.hub.analysis
    d, style = analysis.description, analysis.style

    def click(shown: str) -> str:
        """What stands below the summary after a click on the number ``shown``."""
        (number,) = [w for w in summary.findChildren(QLabel) if w.text() == shown and w.objectName() == "several"]
        QTest.mouseClick(number, LEFT)
        rest(window)
        return words_of(summary.detail)

    def told(ends: tuple[float, float]) -> str:
        return f"{style.statistic(ends[0])} to {style.statistic(ends[1])}"

    x = analysis.sample.values[np.isfinite(analysis.sample.values)]
    ends = oracle.t.interval(0.95, x.size - 1, x.mean(), x.std(ddof=1) / np.sqrt(x.size))
    message = click(style.statistic(d.mean))
    assert "mean: 95 % interval" in message and told(ends) in message and "elsewhere" not in message
    message = click(style.statistic(d.sd))
    squares = x.var(ddof=1) * (x.size - 1)
    assert told(tuple(np.sqrt(squares / oracle.chi2.ppf([0.975, 0.025], x.size - 1)))) in message
    assert "n in the denominator" in message
    for found in (bonett_interval(analysis.sample, 0.95), bootstrap_ends(analysis.sample, "sd")):
        assert told(found) in message, "for normal columns and for any"
    message = click(style.statistic(d.q3))
    assert told(quantile_interval(analysis.sample, 0.75, 0.95)) in message and "type 6" in message
    summary.detail.quantile.share.setValue(99)
    assert style.statistic(d.percentiles[99]) in words_of(summary.detail)
    assert told(quantile_interval(analysis.sample, 0.99, 0.95)) in words_of(summary.detail)
    message = click(style.statistic(d.median))
    assert told(hodges_lehmann_interval(analysis.sample)) in message and "Hodges–Lehmann" in message
    message = click(style.statistic(d.mad_scaled))
    found = bootstrap_interval(analysis.sample, "mad_scaled")
    assert told((found.low, found.high)) in message and f"seed {found.seed}" in message, "resampled in the background"
    study.change_settings(replaced(study.settings, confidence=0.8))
    rest(window)
    assert "80 % interval" in words_of(summary.detail) and told((found.low, found.high)) not in words_of(summary.detail)
    # Stopped, it says so instead of waiting for ever, and a click begins it again.
    summary.compared = None
    bench.hub.set_focus("mass_g")
    wait_until_idle(window)
    style = bench.hub.analysis.style
    (number,) = [w for w in summary.findChildren(QLabel) if w.toolTip().startswith("MAD")]
    begun = []
    start = bench.hub.start
    monkeypatch.setattr(bench.hub, "start", lambda name, *a, **k: (begun.append(name), start(name, *a, **k)))
    QTest.mouseClick(number, LEFT)
    summary.show_analysis(bench.hub.analysis)
    assert begun == ["resampling"], "told of the same again, it goes on"
    bench.hub.jobs.cancel("resampling")
    wait_until_idle(window)
    assert "Cancelled." in words_of(summary.detail) and "resampling …" not in words_of(summary.detail)
    QTest.mouseClick(number, LEFT)
    QTest.mouseClick(number, LEFT)
    rest(window)
    found = bootstrap_interval(bench.hub.analysis.sample, "mad_scaled", confidence=0.8)
    assert told((found.low, found.high)) in words_of(summary.detail)
    bench.hub.set_focus("vaccinated")
    wait_until_idle(window)
    assert summary.detail.isHidden() and not [w for w in summary.findChildren(QLabel) if w.objectName() == "several"]
    bench.hub.set_focus("tank")
    wait_until_idle(window)
    assert summary.detail.isHidden() or summary.isHidden()


def test_the_margin_tells_all_that_bears_on_normality(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    pane, summary = bench.shape.margin.normality, bench.shape.margin.summary
    message = words_of(pane)
    assert "without 8 flagged values" in message and "Holm" in message and "over 11 columns" in message
    press(window, "Simulate p")
    wait_until_idle(window)
    assert "simulated p" in words_of(pane) and pane.simulated["shapiro_wilk"].p < 0.01
    pane.alpha.setValue(0.01)
    wait_until_idle(window)
    assert study.settings.alpha == 0.01 and "α 0.01" in bench.hub.analysis.verdict.sentence
    (q1,) = [w for w in summary.findChildren(QLabel) if w.text() == "194.30" and w.objectName() == "several"]
    QTest.mouseClick(q1, LEFT)
    assert "type 6" in words_of(summary) and "hinge" in words_of(summary)
    summary.choice.chosen.emit(["mad", "n"])
    QTest.qWait(20)
    assert summary.fields == ("mad", "n") and "skew" not in words_of(summary)
    summary.decimals.setValue(4)
    wait_until_idle(window)
    assert study.settings.decimals == 4 and bench.hub.analysis.style.statistic_decimals == 4


def test_two_peaks_are_tested_for_beside_what_the_density_shows(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    pane = bench.shape.margin.normality
    press(window, "Two peaks?")
    wait_until_idle(window)
    assert "one peak is not ruled out" in words_of(pane)
    bench.hub.set_focus("swim_cm_s")
    wait_until_idle(window)
    assert "one peak" not in words_of(pane), "what was found of another column is gone"
    press(window, "Two peaks?")
    wait_until_idle(window)
    found = dip_test(bench.hub.analysis.sample)
    assert p_value(found.p.p) in words_of(pane) and "More than one peak" in words_of(pane)


def test_a_statistic_more_stands_in_the_summary(
    blank_window: MainWindow, demo_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    row = Statistic("last", "the last value", "value", lambda _, sample: float(sample.values[-1]), summary=3)
    add_row(monkeypatch, "STATISTICS", row)
    bench, _ = opened(blank_window, demo_path)
    summary = bench.shape.margin.summary
    assert "last" in summary.fields and "the last value" in words_of(summary)
