"""The Survey stage: every column in one line, sorted, narrowed, copied, saved, opened; and the table as a whole."""

import csv
import io
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton
from pytestqt.qtbot import QtBot

from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.app.survey.lines import SurveyLines
from culvix.charts.plots.groups.comparison_rows import comparison_rows
from culvix.errors import WriteError
from culvix.report.formats.survey_files import harmless, survey_file
from culvix.stats.describe.description import Description
from culvix.study import DecisionKind, Study
from culvix.study.analysis.survey.survey import as_html, as_text, quality, survey_fields, survey_rows
from culvix.tables import Role, read_table
from tests.app.driving import opened, wait_until_idle
from tests.report.rendering import html_of


@pytest.fixture
def window(blank_window: MainWindow, demo_path: Path) -> MainWindow:
    made = blank_window
    made.opening.open_path(demo_path)
    assert wait_until(lambda: made.bench is not None and made.jobs.at_rest and _shown(made), 30)
    return made


def _shown(window: MainWindow) -> bool:
    assert window.bench is not None
    return all(row.analysis is not None for row in window.bench.survey.stage.lines.rows if row.column.is_numeric)


def bench_of(window: MainWindow) -> Workbench:
    assert window.bench is not None
    return window.bench


def names(window: MainWindow) -> list[str]:
    return [row.column.name for row in bench_of(window).survey.stage.lines.rows]


def test_a_table_opens_with_all_its_columns_at_a_glance(window: MainWindow) -> None:
    bench = bench_of(window)
    survey, table = bench.survey.stage, bench.hub.study.table
    assert bench.stage == "Survey" and names(window) == [column.name for column in table]
    model = survey.lines
    shown = {
        (row.column.name, key): model.index(at, 2 + position).data()
        for at, row in enumerate(model.rows)
        for position, key in enumerate(model.fields)
    }
    assert shown["length_mm", "mean"] == "211.88" and shown["tank", "mean"] == "—" and shown["tank", "distinct"] == "6"
    assert shown["cortisol_ng_ml", "unread"] == "38" and not any("nan" in text.lower() for text in shown.values())
    message = " ".join(label.text() for label in bench.survey.margin.findChildren(QLabel))
    assert "12 of 2\u202f180 rows repeat" in message and "2\u202f043 rows are complete" in message
    (show,) = [b for b in bench.survey.margin.findChildren(QPushButton) if b.text() == "Show"]
    QTest.mouseClick(show, Qt.MouseButton.LeftButton)
    assert bench.hub.study.selection.rows.tolist() == table.repeated_rows.tolist()


def test_only_lines_that_read_otherwise_are_told_of_and_all_read_as_they_should(window: MainWindow) -> None:
    bench = bench_of(window)
    lines, study, told = bench.survey.stage.lines, bench.hub.study, []
    lines.dataChanged.connect(lambda first, last: told.append((first.row(), last.row())))
    at = {row.column.name: position for position, row in enumerate(lines.rows)}

    def read() -> list[list[str]]:
        return [
            [lines.index(row, position).data() for position in range(len(lines.heads))]
            for row in range(len(lines.rows))
        ]

    def after(act: Callable[[], object]) -> set[int]:
        """The lines told of for ``act``."""
        told.clear()
        before = read()
        act()
        assert wait_until(lambda: window.jobs.at_rest and not bench.survey.stage.waiting, 10)
        assert all(first == last for first, last in told)
        changed = {row for row, (old, new) in enumerate(zip(before, read(), strict=True)) if old != new}
        assert changed <= {first for first, _ in told}, "no line is left as it was"
        return {first for first, _ in told}

    assert after(bench.survey.stage.refresh) == set()
    assert after(lambda: study.decide(DecisionKind.EXCLUDE_VALUE, "length_mm", [830])) == {at["length_mm"]}
    assert after(lambda: study.set_reviewed("mass_g", True)) == {at["mass_g"]}
    excluded = after(lambda: study.decide(DecisionKind.EXCLUDE_ROW, "mass_g", [5]))
    assert excluded == {at[column.name] for column in study.table.numeric}
    fresh = SurveyLines(bench.hub, bench.survey.stage)
    fresh.put(survey_rows(study.workspace))
    assert read() == [
        [fresh.index(row, position).data() for position in range(len(fresh.heads))] for row in range(len(fresh.rows))
    ]


def test_lines_are_sorted_by_exact_values_and_narrowed(window: MainWindow) -> None:
    survey = bench_of(window).survey.stage
    position = 2 + survey.lines.fields.index("skewness")
    for order, best in ((Qt.SortOrder.DescendingOrder, max), (Qt.SortOrder.AscendingOrder, min)):
        survey.view.sortByColumn(position, order)
        found = [row.analysis.description.skewness for row in survey.lines.rows if row.analysis]
        assert found[0] == best(found) and found == sorted(found, reverse=order == Qt.SortOrder.DescendingOrder)
        assert all(row.analysis is None for row in survey.lines.rows[len(found) :])
    survey.search.setText("LENGTH")
    assert sorted(names(window)) == ["fork_length_mm", "length_mm"]
    survey.search.clear()
    survey.narrow.setCurrentText("category columns")
    assert set(names(window)) == {"tank", "strain", "feed"}
    survey.narrow.setCurrentText("with open findings")
    assert "oxygen_mg_l" in names(window) and "tank" not in names(window)
    survey.narrow.setCurrentText("open: another unit")
    assert "length_mm" in names(window) and "oxygen_mg_l" not in names(window)
    survey.narrow.setCurrentText("open: a code for missing")
    assert names(window) == ["oxygen_mg_l"]


def test_enter_opens_a_column_in_shape(window: MainWindow) -> None:
    bench = bench_of(window)
    bench.survey.stage.view.setFocus()
    bench.survey.stage.view.selectRow(names(window).index("mass_g"))
    QTest.keyClick(bench.survey.stage.view, Qt.Key.Key_Return)
    assert wait_until(lambda: bench.stage == "Shape" and window.jobs.at_rest, 20)
    assert bench.hub.focus == "mass_g" and bench.rail.isVisible()


def test_a_decision_shows_in_the_survey(window: MainWindow) -> None:
    bench = bench_of(window)
    study = bench.hub.study
    study.decide(DecisionKind.EXCLUDE_ROW, "length_mm", range(100))
    assert wait_until(lambda: window.jobs.at_rest and _shown(window), 30)
    row = next(row for row in bench.survey.stage.lines.rows if row.column.name == "swim_cm_s")
    assert row.analysis.description.n == study.table.rows - 100
    in_use = f"{study.table.rows - 100:,} in use".replace(",", "\u202f")
    assert wait_until(lambda: any(in_use in message.text() for message in bench.survey.margin.findChildren(QLabel)), 20)


def test_lines_are_copied_and_saved_as_they_stand(window: MainWindow, tmp_path: Path) -> None:
    survey = bench_of(window).survey.stage
    for key in ("l_skewness", "q1"):
        survey.chooser.list.tick(key)
    survey.chooser.list.tick("role", False)
    assert survey.fields[-2:] == ["q1", "l_skewness"] and "role" not in survey.fields
    survey.search.setText("mass")
    QTest.mouseClick(survey.copy, Qt.MouseButton.LeftButton)
    both = QApplication.clipboard().mimeData()
    head, line = (text.split("\t") for text in both.text().strip().split("\n"))
    described = survey.lines.rows[0].analysis.description
    assert line[0] == "mass_g" and float(line[head.index("mean")]) == described.mean
    assert both.html().count("<tr>") == 2 and repr(described.mean) in both.html()
    for name in ("s.csv", "s.xlsx"):
        window.saving.save_survey(tmp_path / name)
        assert wait_until(lambda name=name: (tmp_path / name).exists() and window.jobs.at_rest, 20)
        back = read_table(tmp_path / name)
        assert back.columns[0].name == "column"
        assert float(back["mean"].cell(0)) == pytest.approx(described.mean, rel=1e-14)
    window.saving.save_survey(tmp_path / "s.odd")
    assert wait_until(lambda: "written as .csv or .xlsx" in window.text, 20)


def test_the_chosen_statistics_are_remembered(window: MainWindow, qtbot: QtBot, demo_path: Path) -> None:
    bench_of(window).survey.stage.chooser.list.tick("iqr")
    chosen = bench_of(window).survey.stage.fields
    window.close_anyway()
    window.settings.sync()
    again = MainWindow(window.settings)
    qtbot.addWidget(again)
    again.opening.open_path(demo_path)
    assert wait_until(lambda: again.bench is not None and again.jobs.at_rest, 30)
    assert bench_of(again).survey.stage.fields == chosen
    again.close()


def test_every_single_number_of_the_core_is_a_statistic_of_the_survey(study: Study) -> None:
    several = {"modes", "percentiles", "notes", "ci_mean", "ci_median", "ci_sd", "ci_sd_bonett"}
    assert set(Description.__dataclass_fields__) - several <= set(survey_fields())
    analysis = study.workspace.analysis("mass_g")
    row = next(row for row in survey_rows(study.workspace) if row.column.name == "mass_g")
    for key in set(Description.__dataclass_fields__) - several - {"missing"}:
        assert survey_fields()[key].raw(row) == getattr(analysis.description, key)
        assert survey_fields()[key].shown(row, survey_fields()[key].raw(row))
    text = as_text(survey_rows(study.workspace), list(survey_fields()))
    lines = list(csv.reader(io.StringIO(text), delimiter="\t"))
    assert len({len(line) for line in lines}) == 1 and len(lines) == 1 + len(study.table.columns)


def test_names_that_are_markup_or_formulas_are_harmless(tmp_path: Path) -> None:
    path = tmp_path / "odd.csv"
    path.write_text("=1+1,<b>x</b>\n" + "".join(f"{k}.5,{k % 7}\n" for k in range(30)))
    study = Study.of_table(read_table(path))
    rows = survey_rows(study.workspace)
    assert "<b>" not in as_html(rows, ["role"]) and "&lt;b&gt;" in as_html(rows, ["role"])
    assert b"'=1+1," in survey_file(rows, ["role"], ".csv") and harmless("-3 m") == "'-3 m"
    assert read_table(_saved(tmp_path, survey_file(rows, ["role"], ".xlsx")))["column"].cell(0) == "=1+1"
    with pytest.raises(WriteError):
        survey_file(rows, ["role"], ".doc")


def _saved(folder: Path, data: bytes) -> Path:
    path = folder / "s.xlsx"
    path.write_bytes(data)
    return path


def test_quality_counts_what_a_listwise_deletion_costs(tmp_path: Path) -> None:
    path = tmp_path / "gaps.csv"
    path.write_text("a,b,c\n1.5,,x\n2.5,1,y\n,2,x\n4.5,n/a,\n5.5,3,y\n2.5,1,y\n")
    table = read_table(path)
    found = quality(table)
    present = np.array([[1, 0, 1], [1, 1, 1], [0, 1, 1], [1, 0, 0], [1, 1, 1], [1, 1, 1]], dtype=bool)
    assert found.complete == present.all(axis=1).sum() == 3 and found.repeated == 1
    assert (found.missing, found.unread) == (4, 0) and dict(found.costliest) == {"b": 2, "a": 1, "c": 1}
    said = found.sentences(5)
    assert "5 in use" in said[0] and any("would cost 3 rows" in sentence for sentence in said)
    whole = tmp_path / "whole.csv"
    whole.write_text("a,b\n1.5,2\n3.5,4\n")
    assert "All rows are complete." in quality(read_table(whole)).sentences(2)


def buttons(window: MainWindow, message: str) -> list[QPushButton]:
    """The buttons of that name which the margin shows, once what was changed has been drawn."""
    margin = bench_of(window).survey.margin
    window.acting.show_stage(STAGES.index("Survey"))
    QTest.qWait(30)
    return [b for b in margin.findChildren(QPushButton) if b.text() == message and b.isVisible()]


def test_marks_are_made_counted_selected_and_cleared(window: MainWindow) -> None:
    bench = bench_of(window)
    pane, study = bench.survey.margin.marks, bench.hub.study
    pane.column.setCurrentText("oxygen_mg_l")
    pane.condition.setCurrentText("is below")
    pane.value.setText("none")
    QTest.mouseClick(pane.add, Qt.MouseButton.LeftButton)
    assert "A number is wanted" in window.text and not study.document.marks
    pane.value.setText("−5")
    QTest.keyClicks(pane.name, "probe failed")
    QTest.keyClick(pane.name, Qt.Key.Key_Return)
    rows = np.flatnonzero(study.table["oxygen_mg_l"].sample.values == -9)
    (count,) = buttons(window, f"{rows.size} rows")
    QTest.mouseClick(count, Qt.MouseButton.LeftButton)
    assert study.selection.rows.tolist() == rows.tolist() and study.selection.origin == "probe failed"
    assert bench.tray.model.heads[1] == "marks" and bench.tray.model.index(0, 1).data() == study.document.marks[0].shape
    # A rule on a column that stops being numbers marks nothing, until it is numbers again.
    bench.hub.edit_columns(["oxygen_mg_l"], lambda entry: replace(entry, role=Role.TEXT))
    assert wait_until(lambda: window.jobs.at_rest, 20) and buttons(window, "0 rows")
    window.acting.undo()
    assert buttons(window, f"{rows.size} rows")
    QTest.mouseClick(pane.clear, Qt.MouseButton.LeftButton)
    assert not study.document.marks and "marks" not in bench.tray.model.heads


def test_the_ends_of_a_column_lead_to_their_rows(window: MainWindow) -> None:
    bench = bench_of(window)
    bench.survey.stage.view.selectRow(names(window).index("mass_g"))
    assert bench.hub.focus == "mass_g" and wait_until(lambda: window.jobs.at_rest, 20)
    assert wait_until(bench.survey.margin.ends.title.isVisible, 5)
    bench.survey.margin.ends.many.setValue(3)
    QTest.qWait(30)
    ends = [b for b in bench.survey.margin.ends.findChildren(QPushButton) if b.isVisible()]
    sample, table = bench.hub.analysis.sample, bench.hub.study.table  # type: ignore[union-attr]
    assert len(ends) == 6
    largest = int(sample.rows[-1])
    (button,) = [b for b in ends if table["tag"].cell(largest) in b.text() and "499" in b.text()]
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    assert bench.hub.study.selection.rows.tolist() == [largest]


def test_columns_are_compared_on_one_axis(window: MainWindow) -> None:
    survey, study = bench_of(window).survey.stage, bench_of(window).hub.study
    QTest.mouseClick(survey.compare, Qt.MouseButton.LeftButton)
    pane = survey.comparison
    assert pane.isVisible() and "length_mm" in pane.names and "fin_score" not in pane.names
    pane.compare(["length_mm", "fork_length_mm"])
    one, other = comparison_rows([study.workspace.analysis(name) for name in pane.names], "standardised")
    d = study.workspace.analysis("length_mm").description
    assert d.mean is not None and d.sd is not None and d.median is not None
    assert one.box[2] == pytest.approx((d.median - d.mean) / d.sd) and other.name == "fork_length_mm"
    pane.axis.setCurrentIndex(1)
    assert wait_until(lambda: window.jobs.at_rest, 5)
    (plain, _) = comparison_rows([study.workspace.analysis(name) for name in pane.names], "common")
    assert plain.box[2] == d.median and pane.chart.plot.axis("bottom").labelText == "value (mm)"
    low, high = pane.chart.plot.view_box.viewRange()[0]
    assert low < plain.far.min() and high > plain.far.max()
    pane.compare(["length_mm", "mass_g"])
    assert wait_until(lambda: window.jobs.at_rest, 5)
    assert "units differ: mm, g" in pane.about.text()


def test_findings_about_the_table_are_noted_and_told_in_the_report(window: MainWindow) -> None:
    study = bench_of(window).hub.study
    before = html_of(study.workspace)
    assert "The table: fork_length_mm follows length_mm" in before
    for _ in range(2):
        QTest.mouseClick(buttons(window, "Noted")[0], Qt.MouseButton.LeftButton)
    assert len(buttons(window, "✓ Noted")) == 2 and len(study.document.noted) == 2
    after = html_of(study.workspace)
    assert "The table: fork_length_mm" not in after and "oxygen_mg_l: " in after


def test_exchanged_values_are_shown_before_they_change_places(blank_window: MainWindow, tmp_path: Path) -> None:
    draw, path = np.random.default_rng(5), tmp_path / "scales.csv"
    height, weight = draw.normal(170, 6, 150).round(1), draw.normal(66, 6, 150).round(1)
    height[7], weight[7] = weight[7], height[7]
    lines = [f"{tall},{heavy}" for tall, heavy in zip(height, weight, strict=True)]
    path.write_text("\n".join(["height,weight", *lines]))
    blank_window.opening.open_path(path)
    assert wait_until(lambda: blank_window.bench is not None and blank_window.jobs.at_rest, 30)
    blank_window.acting.show_stage(STAGES.index("Survey"))
    bench = bench_of(blank_window)
    margin, study, asked = bench.survey.margin, bench.hub.study, bench.tray.bar.exchanging

    def press(message: str) -> None:
        assert wait_until(lambda: any(each.text() == message for each in margin.findChildren(QPushButton)), 20)
        next(each for each in margin.findChildren(QPushButton) if each.text() == message).click()

    press("Exchange …")
    assert f"height {height[7]} → {weight[7]}, weight {weight[7]} → {height[7]}" in asked.text.toolTip()
    assert not study.decisions and not study.document.noted, "nothing is done before it is agreed to"
    QTest.mouseClick(asked.no, Qt.MouseButton.LeftButton)
    press("Exchange …")
    QTest.mouseClick(asked.yes, Qt.MouseButton.LeftButton)
    (act,) = study.decisions
    assert (act.column, act.swapped, act.rows.tolist()) == ("height", "weight", [7]) and len(study.document.noted) == 1


def test_coming_to_the_survey_turns_to_no_other_column(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    bench.hub.set_focus("mass_g")
    for stage in ("Survey", "Shape", "Survey"):
        window.acting.show_stage(STAGES.index(stage))
        wait_until_idle(window)
        assert bench.hub.focus == "mass_g"
    assert bench.survey.stage.lines.rows[bench.survey.stage.view.currentIndex().row()].column.name == "mass_g"
