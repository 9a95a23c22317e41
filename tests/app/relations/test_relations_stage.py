"""The Relations stage: a first look at long tables, refined in the background."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton
from scipy import stats as oracle

from culvix.app.relations.stage import RelationsStage
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.stats.correlation.spearman import spearman
from culvix.stats.display import signed
from culvix.stats.resampling.pair_bootstrap import bootstrap_correlation
from culvix.study import Study
from culvix.study.document.decisions import DecisionKind
from culvix.tables.model.dictionary import ColumnEntry
from tests.app.driving import LEFT, opened, press, rest, wait_until_idle, words_of


def test_rank_correlations_come_approximately_and_are_refined(
    window: MainWindow, demo_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("culvix.study.relations.ranking.MOST_WORK_AT_ONCE", 1000)
    bench, study = opened(window, demo_path)
    seen = []
    bench.hub.related.connect(lambda: seen.append((bench.hub.relations, words_of(bench.relations.stage))))
    window.acting.show_stage(STAGES.index("Relations"))
    rest(window)
    QTest.qWait(20)
    assert wait_until(lambda: len(seen) == 2, 30)
    (first, said), (exact, said_last) = seen
    assert first.is_approximate and not exact.is_approximate
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
    assert "Distance correlation: 0." in words_of(bench.relations.margin)
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


def in_relations(window: MainWindow, path: Path) -> tuple[Workbench, Study, RelationsStage]:
    bench, study = opened(window, path)
    window.acting.show_stage(STAGES.index("Relations"))
    wait_until_idle(window)
    return bench, study, bench.relations.stage


def test_the_pair_looked_at_is_part_of_the_document(window: MainWindow, demo_path: Path) -> None:
    _, study, relations = in_relations(window, demo_path)
    strongest = relations.model.pairs[0]
    assert study.document.view.pair == (strongest.x, strongest.y) and not study.history.acts
    other = relations.model.pairs[4]
    relations.table.setCurrentIndex(relations.model.index(4, 0))
    wait_until_idle(window)
    assert study.document.view.pair == (other.x, other.y) == (relations.pair.view.x, relations.pair.view.y)
    study.decide(DecisionKind.EXCLUDE_ROW, other.x, [5])
    wait_until_idle(window)
    assert (relations.pair.view.x, relations.pair.view.y) == (other.x, other.y), "ranked anew, it is still looked at"
    row = relations.table.currentIndex().row()
    assert (relations.model.pairs[row].x, relations.model.pairs[row].y) == (other.x, other.y)


def test_the_pair_is_that_of_the_study_as_it_stands(window: MainWindow, demo_path: Path) -> None:
    bench, study, relations = in_relations(window, demo_path)
    relations.choose("length_mm", "mass_g")
    wait_until_idle(window)
    x, y = (study.table[name].values for name in ("length_mm", "mass_g"))
    both = np.isfinite(x) & np.isfinite(y)
    flagged = study.workspace.analysis("length_mm").flags.rows
    far = np.union1d(flagged, study.workspace.analysis("mass_g").flags.rows)
    clean = both.copy()
    clean[far] = False
    view = relations.pair.view
    for found, rows in ((view.with_flagged, both), (view.without_flagged, clean)):
        assert found["pearson"].r == pytest.approx(oracle.pearsonr(x[rows], y[rows]).statistic, abs=1e-12)
        assert found["spearman"].r == pytest.approx(oracle.spearmanr(x[rows], y[rows]).statistic, abs=1e-12)
    shown = words_of(bench.relations.margin)
    assert signed(view.with_flagged["pearson"].r, 3) in shown and signed(view.without_flagged["pearson"].r, 3) in shown


def test_pairs_are_sorted_by_every_column(window: MainWindow, demo_path: Path) -> None:
    _, _, relations = in_relations(window, demo_path)
    model = relations.model
    for column in range(len(model.heads)):
        for order in (Qt.SortOrder.AscendingOrder, Qt.SortOrder.DescendingOrder):
            relations.table.sortByColumn(column, order)
            shown = [model.index(row, column).data() for row in range(len(model.pairs))]
            if model.heads[column] == "to note":
                assert len({text == "" for text in shown}) == 2
            elif column < 2:
                assert shown == sorted(shown, reverse=order is Qt.SortOrder.DescendingOrder)
            else:
                bare = [text.replace("−", "-").replace("\u202f", "").lstrip("<> ") for text in shown]
                sizes = [abs(float(text)) for text in bare]
                assert sizes == sorted(sizes, reverse=order is Qt.SortOrder.DescendingOrder)


def test_a_table_with_one_numeric_column_says_what_is_missing(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "one.csv"
    path.write_text("tank,mass_g\n" + "".join(f"T{i % 3},{i * i}.5\n" for i in range(20)))
    _, study, relations = in_relations(window, path)
    assert "needs two numeric columns" in relations.about.text() and study.document.view.pair is None


def test_what_is_drawn_over_a_pair_is_chosen_on_it_and_kept(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Relations"))
    stage = bench.relations.stage
    stage.show_view(1)
    stage.choose("length_mm", "mass_g")
    wait_until_idle(window)
    assert stage.pane.canvas.plot.pair.band is not None and stage.pane.canvas.plot.pair.smooth is None
    for words in ("band", "smooth"):
        press(window, words)
    assert stage.pane.canvas.plot.pair.band is None and stage.pane.canvas.plot.smooth.getData()[0].size > 100
    assert study.document.view.pair_parts == ("line", "without", "smooth", "lanes")
    assert stage.table.currentIndex().row() == next(
        at for at, pair in enumerate(stage.model.pairs) if {pair.x, pair.y} == {"length_mm", "mass_g"}
    )


def test_a_row_that_moves_the_line_is_selected_from_the_margin(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Relations"))
    bench.relations.stage.choose("length_mm", "mass_g")
    wait_until_idle(window)
    worst = bench.relations.stage.pair.view.influential[0]
    named = study.table.label_column.cell(worst.row)
    (button,) = [b for b in bench.relations.margin.findChildren(QPushButton) if named in b.text()]
    assert signed(worst.r_without, 3) in button.text()
    QTest.mouseClick(button, LEFT)
    assert study.selection.rows.tolist() == [worst.row]
    said = words_of(bench.relations.margin)
    assert "slope ±" in said and "Without flagged rows" in said


def test_a_pair_that_is_not_listed_follows_the_data_all_the_same(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Relations"))
    stage = bench.relations.stage
    stage.choose("length_mm", "mass_g")
    wait_until_idle(window)
    n = stage.pair.view.rows.size
    stage.search.setText("oxygen cortisol")
    study.decide(DecisionKind.EXCLUDE_ROW, "length_mm", stage.pair.view.rows[:7].tolist())
    wait_until_idle(window)
    assert (stage.pair.view.x, stage.pair.view.y) == ("length_mm", "mass_g") and stage.pair.view.rows.size == n - 7
    assert len(stage.model.pairs) == 1
