"""The Relations stage: a first look at long tables, refined in the background."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.stats.correlation.spearman import spearman
from culvix.stats.display import signed
from culvix.stats.resampling.pair_bootstrap import bootstrap_correlation
from culvix.study.document.decisions import DecisionKind
from culvix.tables.model.dictionary import ColumnEntry
from tests.app.driving import LEFT, opened, rest, words_of


def test_rank_correlations_come_at_first_look_and_are_refined(
    window: MainWindow, demo_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("culvix.study.analysis.relations._SOON", 1000)
    bench, study = opened(window, demo_path)
    seen = []
    bench.hub.related.connect(lambda: seen.append((bench.hub.relations, words_of(bench.relations.stage))))
    window.acting.show_stage(STAGES.index("Relations"))
    rest(window)
    QTest.qWait(20)
    assert wait_until(lambda: len(seen) == 2, 30)
    (first, said), (exact, said_last) = seen
    assert first.at_first_look and not exact.at_first_look
    assert "being refined" in said and "being refined" not in said_last
    pair = next(pair for pair in exact.pairs if (pair.x, pair.y) == ("length_mm", "mass_g"))
    values = (study.working.sample(study.table[name]).values for name in ("length_mm", "mass_g"))
    assert pair.coefficients["spearman"].r == pytest.approx(spearman(*values).r, abs=1e-12)
    soon = np.abs(first.matrices["spearman"].r - exact.matrices["spearman"].r)
    assert 0 < np.nanmax(soon) < 0.02


def test_intervals_by_resampling_come_on_demand(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Relations"))
    bench.relations.stage.choose("length_mm", "mass_g")
    rest(window)
    assert "resampled" not in words_of(bench.relations.margin)
    (button,) = [b for b in bench.relations.margin.findChildren(QPushButton) if b.text() == "Resample"]
    QTest.mouseClick(button, LEFT)
    rest(window)
    values = [study.working.sample(study.table[name]).values for name in ("length_mm", "mass_g")]
    found = bootstrap_correlation(*values)
    assert f"Pearson resampled: {signed(found.low, 3)} to {signed(found.high, 3)}" in words_of(bench.relations.margin)
    bench.relations.stage.choose("length_mm", "swim_cm_s")
    rest(window)
    assert "resampled" not in words_of(bench.relations.margin), "what was found of another pair is gone"


def test_pairs_follow_the_data_and_the_decisions(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Relations"))
    rest(window)

    def both_present() -> int:
        rest(window)
        assert bench.hub.relations is not None
        return next(pair.n for pair in bench.hub.relations.pairs if {pair.x, pair.y} == {"length_mm", "mass_g"})

    before = both_present()
    values = [study.table[name].sample.values for name in ("length_mm", "mass_g")]
    row = int(np.flatnonzero(np.isfinite(values[0]) & np.isfinite(values[1]))[0])
    same = int((values[1][np.isfinite(values[0])] == values[1][row]).sum())
    study.edit_column("mass_g", ColumnEntry(missing_codes=(study.table["mass_g"].cell(row),)))
    assert both_present() == before - same, "cells read otherwise count otherwise"
    study.undo()
    assert both_present() == before
    study.decide(DecisionKind.EXCLUDE_ROW, "length_mm", [row])
    assert both_present() == before - 1
    assert (
        bench.relations.stage.pair is not None
        and bench.relations.stage.pair.view.rows.size == bench.relations.stage.model.pairs[0].n
    )


def test_pairs_ranked_while_the_data_changed_are_not_kept(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    rest(window)
    values = study.table["mass_g"].sample.values
    bench.hub.request_relations()
    study.edit_column("mass_g", ColumnEntry(missing_codes=(study.table["mass_g"].cell(int(np.nanargmax(values))),)))
    rest(window)
    bench.hub.request_relations()
    rest(window)
    relations = bench.hub.relations
    assert relations is not None
    present = [np.isfinite(study.table[name].sample.values) for name in ("length_mm", "mass_g")]
    pair = next(pair for pair in relations.pairs if {pair.x, pair.y} == {"length_mm", "mass_g"})
    assert pair.n == np.logical_and(*present).sum()
