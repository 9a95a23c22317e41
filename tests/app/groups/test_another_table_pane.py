"""This table against another one in the Groups stage."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest
from PyQt6.QtWidgets import QPushButton

from culvix.app.groups.changes.another_table_pane import AnotherTablePane
from culvix.app.groups.stage import VIEWS, GroupsStage
from culvix.app.shell.window import MainWindow
from tests.app.driving import wait_until_idle, words_of
from tests.app.groups.test_groups_pane import pick


@pytest.fixture
def pane(stage: GroupsStage, groups_window: MainWindow) -> AnotherTablePane:
    stage.hub.study.change_view(other_table="", other_key=())
    stage.show_view(list(VIEWS).index("Another table"))
    wait_until_idle(groups_window)
    return stage.other


def compare(pane: AnotherTablePane, window: MainWindow, path: Path) -> None:
    pane.compare_with(path)
    wait_until_idle(window)


def button(pane: AnotherTablePane, words: str) -> QPushButton:
    return next(each for each in pane.margin.findChildren(QPushButton) if words in each.text())


def test_last_year_is_read_and_the_column_in_focus_is_shown_in_both(
    pane: AnotherTablePane, groups_window: MainWindow, demo_path: Path
) -> None:
    assert "Choose a table" in pane.about.text() and not pane.body.isVisible()
    compare(pane, groups_window, demo_path.with_name("last_cohort.csv"))
    assert "1 940 of last_cohort" in pane.about.text().replace("\u202f", " ") and "6 changed" in pane.about.text()
    assert pane.hub.study.document.view.other_table == "last_cohort.csv", "both can be moved together"
    pane.hub.set_focus("fork_length_mm")
    wait_until_idle(groups_window)
    assert "about 10 times those there" in words_of(pane.margin)
    here, there = pane.groups.picture.rows
    assert (here.name, there.name) == ("spring_cohort", "last_cohort") and abs(here.mean - there.mean) < 10
    pane.hub.set_focus("tank")
    wait_until_idle(groups_window)
    assert pane.cells.picture.column_names[-1] == "T6" and "new here: “T6”" in words_of(pane.margin)
    # A line of the list turns every other view to its column.
    pane.table.selectRow(next(at for at, c in enumerate(pane.model.items) if c.pair.here == "oxygen_mg_l"))
    wait_until_idle(groups_window)
    assert pane.hub.focus == "oxygen_mg_l"
    button(pane, "with the code").click()
    assert pane.hub.study.selection.rows.size == 14


def test_rows_are_matched_by_a_key_and_changed_ones_selected(
    pane: AnotherTablePane, groups_window: MainWindow, demo_path: Path, tmp_path: Path
) -> None:
    frame = pl.read_csv(demo_path, infer_schema=False).head(2000)
    masses = frame["mass_g"].to_list()
    masses[6], masses[40] = "1.5", "2.5"
    other = tmp_path / "before.csv"
    frame.with_columns(pl.Series("mass_g", masses)).slice(5).write_csv(other)
    compare(pane, groups_window, other)
    pane.hub.set_focus("mass_g")
    wait_until_idle(groups_window)
    assert "2 cells changed" in words_of(pane.margin) and "H-0007: 1.5 →" in words_of(pane.margin)
    button(pane, "with another mass_g").click()
    assert pane.hub.study.selection.rows.tolist() == [6, 40]
    button(pane, "added").click()
    assert set(range(5)) <= set(pane.hub.study.selection.rows.tolist())
    pick(groups_window, pane.key, "strain")
    assert pane.found.rows.both == 0 and pane.found.rows.repeated > 2000


def test_a_table_that_is_gone_is_said_and_nothing_is_lost(
    pane: AnotherTablePane, groups_window: MainWindow, demo_path: Path, tmp_path: Path
) -> None:
    compare(pane, groups_window, tmp_path / "nowhere.csv")
    assert "cannot be read" in pane.about.text() and not pane.body.isVisible()
    compare(pane, groups_window, demo_path.with_name("last_cohort.csv"))
    assert pane.body.isVisible() and np.isfinite(pane.model.items[0].distance)
