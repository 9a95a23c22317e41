"""Every act decides what the words above the acts say, on the cells that were selected, and nothing else."""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from culvix.app.shape.views import VIEWS
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.stats.core.arrays import Ints
from culvix.study import Study
from culvix.study.document.decisions import Cause, DecisionKind
from tests.app.driving import opened, press, rest, wait_until_idle

LEFT = Qt.MouseButton.LeftButton
KINDS = {"K": "keep", "E": "exclude value", "Shift+E": "exclude row", "M": "treat as missing"}
Cells = dict[str, list[int]]


@pytest.fixture
def few(tmp_path: Path) -> Path:
    """Sixty rows; far values in three columns, of which two share a row; one cell of ``depth`` is empty."""
    draw = np.random.default_rng(7)
    columns = {name: draw.normal(50, 2, 60).round(2).tolist() for name in ("depth", "flow", "gain")}
    columns["depth"][3], columns["depth"][40], columns["flow"][3], columns["gain"][11] = 99.0, 1.0, 150.0, -20.0
    lines = [f"P{k},{','.join(str(columns[name][k]) for name in columns)}" for k in range(60)]
    lines[5] = lines[5].replace(str(columns["depth"][5]), "", 1)
    path = tmp_path / "ponds.csv"
    path.write_text("\n".join(["pond," + ",".join(columns), *lines]) + "\n")
    return path


@pytest.fixture
def outliers(window: MainWindow, few: Path) -> Iterator[tuple[Workbench, Study]]:
    bench, study = opened(window, few)
    window.acting.show_stage(STAGES.index("Outliers"))
    wait_until_idle(window)
    bench.hub.set_focus("depth")
    wait_until_idle(window)
    yield bench, study


def decided(study: Study) -> list[tuple[str, Cells]]:
    """The decisions in force as what was done to which cells, act by act."""
    acts, done = study.history.acts, study.history.cursor
    return [
        (str(act.decisions[0].kind), {each.column: each.rows.tolist() for each in act.decisions}) for act in acts[:done]
    ]


def show_all_columns(window: MainWindow, bench: Workbench) -> None:
    bench.outliers.stage.list.scope.setCurrentIndex(1)
    bench.outliers.stage.list.scope.activated.emit(1)
    wait_until_idle(window)


def flagged(study: Study) -> Cells:
    every = {column.name: study.workspace.analysis(column.name).flags.rows for column in study.table.numeric}
    return {name: rows.tolist() for name, rows in every.items() if rows.size}


def test_all_lines_of_all_columns_are_their_cells(window: MainWindow, outliers: tuple[Workbench, Study]) -> None:
    bench, study = outliers
    show_all_columns(window, bench)
    press(window, "Select all")
    cells = flagged(study)
    values = sum(map(len, cells.values()))
    assert len(cells) == 3 and {c: r.tolist() for c, r in study.selection.cells.items()} == cells
    assert f"{values} values in 3 columns" in bench.tray.bar.about.toolTip()
    QTest.keySequence(window, "E")
    assert not study.decisions or values <= 3
    if not study.decisions:
        QTest.mouseClick(bench.tray.bar.confirm.yes, LEFT)
    wait_until_idle(window)
    assert decided(study) == [("exclude value", cells)]
    assert all(study.working.excluded(name).tolist() == rows for name, rows in cells.items())
    QTest.keySequence(window, "Ctrl+Z")
    assert not study.decisions and not any(study.working.excluded(name).size for name in cells)


def test_a_selection_stays_with_its_column(window: MainWindow, outliers: tuple[Workbench, Study]) -> None:
    bench, study = outliers
    study.select([3, 40], column="depth")
    bench.hub.set_focus("gain")
    wait_until_idle(window)
    for key in KINDS:
        QTest.keySequence(window, key)
    assert not study.decisions and "selected in depth; turn to it" in window.text
    assert "2 values in depth" in bench.tray.bar.about.toolTip() and bench.tray.model.rows.tolist() == [3, 40]
    assert not any(button.isEnabled() for button in bench.tray.bar.buttons.values())
    bench.hub.set_focus("depth")
    QTest.keySequence(window, "K")
    wait_until_idle(window)
    assert decided(study) == [("keep", {"depth": [3, 40]})]


def test_whole_rows_can_be_excluded_and_nothing_else(window: MainWindow, outliers: tuple[Workbench, Study]) -> None:
    bench, study = outliers
    study.select([3, 4], "a picture of two columns")
    QTest.keySequence(window, "M")
    assert not study.decisions and "Whole rows are selected" in window.text
    assert "2 rows · rows in use 60 → 58 if excluded" in bench.tray.bar.about.toolTip()
    QTest.keySequence(window, "Shift+E")
    wait_until_idle(window)
    assert study.working.rows_out.tolist() == [3, 4] and study.decisions[0].column == ""
    # They belong to no column, so that no decision on a value brings them back but to keep it.
    study.decide(DecisionKind.EXCLUDE_VALUE, "flow", [3])
    assert study.working.rows_out.tolist() == [3, 4]
    study.decide(DecisionKind.KEEP, "flow", [3])
    assert study.working.rows_out.tolist() == [4]


def test_shift_n_steps_back_and_selects_one(window: MainWindow, outliers: tuple[Workbench, Study]) -> None:
    bench, study = outliers
    view = bench.outliers.stage.list.view
    view.setFocus()
    walked = []
    for key in (Qt.Key.Key_N, Qt.Key.Key_N):
        QTest.keyClick(view, key)
        walked.append(study.selection.rows.tolist())
    QTest.keyClick(view, Qt.Key.Key_N, Qt.KeyboardModifier.ShiftModifier)
    assert study.selection.rows.tolist() == walked[0] and len(walked[0]) == 1 and walked[0] != walked[1]
    assert len(view.selectionModel().selectedRows()) == 1


def test_letters_in_fields_boxes_and_lists_decide_nothing(
    window: MainWindow, outliers: tuple[Workbench, Study]
) -> None:
    bench, study = outliers
    study.select([3], column="depth")
    bar = bench.tray.bar
    positions = (bar.cause, bar.reason, bar.correction, bench.rail.view, bench.rail.search)
    positions += (bench.outliers.margin.history.list, bench.outliers.stage.within, bench.outliers.margin.rule.which)
    for position in positions:
        position.setFocus()
        for key in (Qt.Key.Key_M, Qt.Key.Key_E, Qt.Key.Key_K, Qt.Key.Key_N):
            QTest.keyClick(position, key)
        assert not study.decisions and study.selection.rows.tolist() == [3], position
        study.select([3], column="depth")
        bench.hub.set_focus("depth")
    assert bar.cause.currentIndex() != 0, "the list of causes was searched by letter"
    bench.outliers.stage.list.view.setFocus()
    QTest.keyClick(bench.outliers.stage.list.view, Qt.Key.Key_K)
    assert decided(study) == [("keep", {"depth": [3]})]


def test_tabbing_into_lists_of_data_selects_nothing(window: MainWindow, outliers: tuple[Workbench, Study]) -> None:
    bench, study = outliers
    for view in (bench.tray.table, bench.outliers.stage.list.view):
        view.setFocus(Qt.FocusReason.TabFocusReason)
        assert not study.selection and not view.selectionModel().hasSelection()
        QTest.keyClick(view, Qt.Key.Key_Tab)
        assert QApplication.focusWidget() is not view and not study.selection


def test_many_values_are_confirmed_once(window: MainWindow, outliers: tuple[Workbench, Study]) -> None:
    bench, study = outliers
    bar = bench.tray.bar
    study.select(range(6, 12), column="depth")
    QTest.keySequence(window, "E")
    assert not study.decisions and bar.confirm.isVisible()
    assert "6 values in depth" in bar.confirm.text.toolTip() and "n 59 → 53" in bar.confirm.text.toolTip()
    QTest.keySequence(window, "E")
    assert not study.decisions, "the same key does not confirm"
    QTest.keyClick(bar.confirm.yes, Qt.Key.Key_Escape)
    assert not bar.confirm.isVisible() and study.selection.rows.size == 6
    QTest.keySequence(window, "E")
    QTest.keyClick(bar.confirm.yes, Qt.Key.Key_Return)
    assert decided(study) == [("exclude value", {"depth": list(range(6, 12))})]
    study.select([20], column="depth")
    QTest.keySequence(window, "E")
    assert len(study.decisions) == 2, "one value is decided at once"


def test_cells_without_a_value_are_left_out_and_said(window: MainWindow, outliers: tuple[Workbench, Study]) -> None:
    bench, study = outliers
    study.select([3, 5], column="depth")
    assert "1 cell without a value left out" in bench.tray.bar.about.toolTip()
    QTest.keySequence(window, "E")
    assert decided(study) == [("exclude value", {"depth": [3]})]


def test_a_suggestion_fills_the_field_and_decides_nothing(
    window: MainWindow, outliers: tuple[Workbench, Study]
) -> None:
    bench, study = outliers
    study.select([40], column="depth")
    field = bench.tray.bar.correction
    field.setFocus()
    QTest.keyClicks(field, "100")
    popup = field.suggestions.popup()
    assert popup is not None and popup.isVisible()
    popup.setCurrentIndex(popup.model().index(0, 0))
    QTest.keyClick(popup, Qt.Key.Key_Return)
    assert field.text() == "×100" and not study.decisions
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert [each.text for each in study.decisions] == ["correct ×100"] and len(study.history.acts) == 1


def test_review_needs_three_keys_a_value(window: MainWindow, outliers: tuple[Workbench, Study]) -> None:
    bench, study = outliers
    show_all_columns(window, bench)
    view, bar = bench.outliers.stage.list.view, bench.tray.bar
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_N)
    QTest.keyClick(view, Qt.Key.Key_2)
    QTest.keyClick(view, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(bar.reason, "drifted")
    assert "Enter: exclude value, cause measurement, “drifted”" in bar.enter.toolTip()
    QTest.keyClick(bar.reason, Qt.Key.Key_Return)
    wait_until_idle(window)
    first = study.decisions[0]
    assert (first.cause, first.reason) == (Cause.MEASUREMENT, "drifted")
    assert QApplication.focusWidget() is view and study.selection.rows.size == 1
    assert (first.column, first.rows.tolist()) != (*study.selection.columns, study.selection.rows.tolist())
    # The digit brings the reason given last for that cause.
    QTest.keyClick(view, Qt.Key.Key_2)
    QTest.keyClick(view, Qt.Key.Key_Return)
    wait_until_idle(window)
    second = study.decisions[1]
    assert (second.cause, second.reason) == (Cause.MEASUREMENT, "drifted") and bar.reason.offered == ["drifted"]
    QTest.keyClick(view, Qt.Key.Key_3)
    QTest.keyClick(view, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(bar.reason, "half a thought")
    QTest.keyClick(bar.reason, Qt.Key.Key_Escape)
    assert QApplication.focusWidget() is view and study.selection.rows.size == 1 and len(study.decisions) == 2
    assert bar.reason.text() == "half a thought"


def test_undo_works_wherever_the_keyboard_is(window: MainWindow, outliers: tuple[Workbench, Study]) -> None:
    bench, study = outliers
    bar = bench.tray.bar
    positions = (
        bar.cause,
        bar.correction,
        bar.reason,
        bench.rail.search,
        bench.outliers.stage.list.view,
        bench.rail.view,
    )
    for position in (*positions, bench.outliers.margin.history.list, bar.buttons[DecisionKind.KEEP]):
        study.decide(DecisionKind.KEEP, "depth", [3])
        position.setFocus()
        QTest.keyClick(position, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        assert not study.decisions, position
    study.decide(DecisionKind.KEEP, "depth", [3])
    study.select([40], column="depth")
    bar.reason.setFocus()
    QTest.keyClicks(bar.reason, "typed")
    QTest.keyClick(bar.reason, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert study.decisions and bar.reason.text() == "", "a text being typed is taken back first"
    QTest.keyClick(bar.reason, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert not study.decisions


def test_strips_and_counts_are_right_after_undo(window: MainWindow, outliers: tuple[Workbench, Study]) -> None:
    bench, study = outliers
    before = dict(bench.hub.sparklines)
    message = window.strip.group.button(STAGES.index("Outliers")).text()
    for name in ("gain", "flow"):
        study.decide(DecisionKind.EXCLUDE_VALUE, name, flagged(study)[name])
        wait_until_idle(window)
    assert bench.hub.sparklines["gain"] is not before["gain"]
    stage = window.strip.group.button(STAGES.index("Outliers"))
    assert message.startswith("Outliers 0/") and wait_until(lambda: stage.text().startswith("Outliers 2/"), 20)
    for _ in range(2):
        QTest.keySequence(window, "Ctrl+Z")
    wait_until_idle(window)
    assert all(bench.hub.sparklines[name] is before[name] for name in ("gain", "flow"))
    assert wait_until(lambda: stage.text() == message, 20)


class Model:
    """What the words on the screen say: which cells are selected, and what was decided act by act."""

    def __init__(self) -> None:
        self.cells: dict[str, Ints] = {}
        self.acts: list[tuple[str, Cells]] = []

    def letter(self, key: str, focus: str | None) -> None:
        """A letter decides on the cells selected, where one of their columns is in view."""
        if focus not in self.cells:
            return
        cells = {name: rows.tolist() for name, rows in self.cells.items()}
        if key == "Shift+E":
            taken: set[int] = set()
            for name, rows in cells.items():
                cells[name] = [row for row in rows if row not in taken]
                taken |= set(rows)
            cells = {name: rows for name, rows in cells.items() if rows}
        self.acts.append((KINDS[key], cells))


@pytest.mark.parametrize("seed", range(1))
def test_the_decisions_in_force_are_those_the_words_say(
    window: MainWindow, outliers: tuple[Workbench, Study], seed: int
) -> None:
    bench, study = outliers
    show_all_columns(window, bench)
    draw, model, view, bar = np.random.default_rng(seed), Model(), bench.outliers.stage.list.view, bench.tray.bar
    names = [column.name for column in study.table.numeric]

    def select_lines(lines: list[int]) -> None:
        keys = Qt.KeyboardModifier.NoModifier
        for line in lines:
            at = view.visualRect(view.model().index(line, 1)).center()
            QTest.mouseClick(view.viewport(), LEFT, keys, at)
            keys = Qt.KeyboardModifier.ControlModifier
        found = bench.outliers.stage.list.model.lines
        picked = {name: sorted(int(found.rows[at]) for at in lines if found.column(at) == name) for name in names}
        model.cells = {name: np.array(rows) for name, rows in picked.items() if rows}

    for _ in range(24):
        act = draw.choice(["lines", "all", "column", "letter", "letter", "letter in a box", "undo", "escape"])
        if act == "lines":
            few_lines = min(len(bench.outliers.stage.list.model.lines), 4)
            select_lines(sorted(draw.choice(few_lines, size=int(draw.integers(1, 3)), replace=False).tolist()))
        elif act == "all":
            press(window, "Select all")
            model.cells = {name: np.array(rows) for name, rows in flagged(study).items()}
        elif act == "column":
            bench.hub.set_focus(str(draw.choice(names)))
        elif act == "letter":
            key = str(draw.choice(list(KINDS)))
            QTest.keySequence(view, key)
            if bar.confirm.isVisible():
                QTest.keyClick(bar.confirm.yes, Qt.Key.Key_Return)
            model.letter(key, bench.hub.focus)
        elif act == "letter in a box":
            bar.cause.setFocus()
            QTest.keyClick(bar.cause, Qt.Key.Key_M)
        elif act == "undo":
            QTest.keySequence(view, "Ctrl+Z")
            model.acts = model.acts[:-1]
        else:
            QTest.keySequence(view, "Esc")
            model.cells = {}
        wait_until_idle(window)
        rest(window)
        assert decided(study) == model.acts, act
        total = sum(rows.size for rows in model.cells.values())
        assert not total or f"{total} value{'s' if total > 1 else ''} in" in bar.about.toolTip() or total == 1


def test_a_declared_missing_code_is_missing_everywhere_at_once(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "pens.csv"
    cells = "".join(f"{'unk' if k % 5 == 0 else 'abc'[k % 3]},{k % 17}.5\n" for k in range(120))
    path.write_text(f"pen,gain\n{cells}")
    bench, study = opened(window, path)
    bench.hub.set_focus("gain")
    window.acting.show_view(list(VIEWS).index("By group"))
    wait_until_idle(window)
    bench.shape.stage.views.groups.choose("pen")
    wait_until_idle(window)
    assert sorted(bench.shape.stage.views.groups.drawn) == ["a", "b", "c", "unk"]
    bench.hub.edit_columns(["pen"], lambda entry: replace(entry, missing_codes=("unk",)))
    wait_until_idle(window)
    groups = bench.shape.stage.views.groups
    assert sorted(groups.drawn) == ["a", "b", "c"] and "24 rows in no group" in groups.about.text()
    assert study.table["pen"].distinct == 3 and study.table["pen"].missing == 24
    window.acting.show_stage(STAGES.index("Survey"))
    lines = bench.survey.stage.lines
    assert wait_until(lambda: lines.index(0, lines.heads.index("distinct")).data() == "3", 20)


def test_a_correction_that_leaves_the_picture_moves_the_axis(
    window: MainWindow, outliers: tuple[Workbench, Study]
) -> None:
    bench, study = outliers
    lane = bench.outliers.stage.stack.lanes[0]
    study.select([20], column="depth")
    bench.tray.bar.correction.setText("500")
    QTest.keySequence(window, "Return")
    wait_until_idle(window)
    low, high = lane.view_box.viewRange()[0]
    assert study.working.corrected("depth").value(20) == 500.0 and low <= 500.0 <= high
