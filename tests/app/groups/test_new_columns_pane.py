"""Columns made by a rule in the Groups stage: described in fields, looked at, added, changed and taken away."""

import numpy as np
import pytest
from PyQt6.QtWidgets import QMenu

from culvix.app.groups.stage import VIEWS, GroupsStage
from culvix.app.groups.subsets.new_columns_pane import NewColumnsPane
from culvix.app.shell.window import MainWindow
from culvix.app.widgets.choice import Choice
from culvix.tables.model.derived.column_rule import KINDS, Clause
from tests.app.driving import wait_until_idle, words_of
from tests.app.groups.test_groups_pane import pick


@pytest.fixture
def pane(stage: GroupsStage, groups_window: MainWindow) -> NewColumnsPane:
    stage.show_view(list(VIEWS).index("New columns"))
    wait_until_idle(groups_window)
    return stage.columns


def choose(box: Choice, words: str) -> None:
    box.setCurrentIndex(box.findText(words))
    box.activated.emit(box.currentIndex())


def looked_at(pane: NewColumnsPane, window: MainWindow) -> str:
    """What is told of the column described."""
    pane.look()
    wait_until_idle(window)
    return words_of(pane.margin)


def test_a_condition_is_described_looked_at_added_and_used(pane: NewColumnsPane, groups_window: MainWindow) -> None:
    fields = pane.fields["condition"]
    fields.lines[0].show(Clause("feed", "is", "insect"))
    fields.more.click()
    fields.lines[1].show(Clause("vaccinated", "is", "no"))
    assert "yes: 264 (12.1 %)" in looked_at(pane, groups_window)
    pane.name.setText("ill fed")
    pane.add.click()
    wait_until_idle(groups_window)
    study = pane.hub.study
    assert pane.hub.focus == "ill fed" and np.nansum(study.table["ill fed"].values) == 264
    assert [column.name for column in pane.model.items] == ["ill fed"]
    # It makes groups like any other.
    pane.hub.set_focus("feed_ratio")
    stage = groups_window.bench.groups.stage
    stage.show_view(0)
    wait_until_idle(groups_window)
    pick(groups_window, stage.groups.fields.by, "ill fed")
    assert [group.name for group in stage.groups.shown] == ["0 no", "1 yes"]


def test_a_rule_is_changed_and_the_column_taken_away(pane: NewColumnsPane, groups_window: MainWindow) -> None:
    choose(pane.kind, KINDS["two"])
    fields = pane.fields["two"]
    for box, words in ((fields.first, "mass_g"), (fields.operation, "over"), (fields.other, "length_mm")):
        choose(box, words)
    assert "mass_g over length_mm" in looked_at(pane, groups_window)
    pane.name.setText("weight per length")
    pane.add.click()
    wait_until_idle(groups_window)
    pane.table.selectRow(0)
    pane.change.click()
    assert not pane.name.isEnabled() and pane.add.text() == "Change weight per length"
    choose(fields.other, "fork_length_mm")
    pane.add.click()
    wait_until_idle(groups_window)
    study = pane.hub.study
    mass, fork = (study.table[name].values for name in ("mass_g", "fork_length_mm"))
    assert np.allclose(study.table["weight per length"].values, mass / fork, equal_nan=True)
    pane.table.selectRow(0)
    pane.drop.click()
    wait_until_idle(groups_window)
    assert "weight per length" not in study.table and not pane.model.items


def test_classes_dates_and_levels_have_fields_of_their_own(pane: NewColumnsPane, groups_window: MainWindow) -> None:
    choose(pane.kind, KINDS["classes"])
    fields = pane.fields["classes"]
    choose(fields.first, "mass_g")
    fields.cuts.setText("100; 150")
    fields.names.setText("small; middle; large")
    assert "middle: " in looked_at(pane, groups_window)
    choose(pane.kind, KINDS["date"])
    choose(pane.fields["date"].part, "day of the week")
    assert "Wednesday: " in looked_at(pane, groups_window)
    choose(pane.kind, KINDS["levels"])
    choose(pane.fields["levels"].first, "feed")
    pane.fields["levels"].lines["standard"].setText("plant")
    pane.fields["levels"].lines["high oil"].setText("plant")
    told = looked_at(pane, groups_window)
    assert "plant: " in told and "insect: " in told and "standard: " not in told


def test_several_columns_are_averaged_by_row(pane: NewColumnsPane, groups_window: MainWindow) -> None:
    choose(pane.kind, KINDS["several"])
    assert "at least two columns" in looked_at(pane, groups_window)
    fields, menu = pane.fields["several"], QMenu()
    fields.list_columns(menu)
    for action in menu.actions():
        if action.text() in ("length_mm", "fork_length_mm"):
            action.setChecked(True)
    assert "mean of length_mm, fork_length_mm by row" in looked_at(pane, groups_window)
    assert fields.columns.text() == "2 columns"
    fields.complete.click()
    assert "of those that have a value" in looked_at(pane, groups_window)


def test_what_cannot_be_made_is_said_and_nothing_is_added(pane: NewColumnsPane, groups_window: MainWindow) -> None:
    choose(pane.kind, KINDS["condition"])
    fields = pane.fields["condition"]
    while len(fields.lines) > 1:
        fields.lines[-1].remove.click()
    fields.lines[0].show(Clause("tank", "above", "3"))
    assert "tank has no numbers" in looked_at(pane, groups_window)
    said: list[str] = []
    pane.problem.connect(said.append)
    pane.name.setText("wrong")
    pane.add.click()
    assert said and "wrong" not in pane.hub.study.table
    fields.lines[0].show(Clause("mass_g", "above", "100"))
    pane.name.setText("tank")
    pane.add.click()
    assert "called tank already" in said[-1]


def test_a_subset_becomes_a_column(pane: NewColumnsPane, groups_window: MainWindow) -> None:
    stage, hub = groups_window.bench.groups.stage, pane.hub
    hub.study.change_view(subset_columns=None, subset_conditions=3, subset_seed=1)
    hub.set_focus("feed_ratio")
    stage.show_view(list(VIEWS).index("Subsets"))
    wait_until_idle(groups_window)
    rows = stage.subsets.subset.rows
    stage.subsets.margin.made_column.emit()
    wait_until_idle(groups_window)
    made = hub.study.table["subset_feed_vaccinated"]
    assert np.array_equal(np.flatnonzero(made.values == 1), rows)
