"""The column in focus by group."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtTest import QTest

from culvix.app.shape.groups_view import GroupsView
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.study import DecisionKind, Study
from culvix.study.pictures.groups.group_forms import FORMS
from culvix.tables.model.dictionary import ColumnEntry
from tests.app.driving import opened, shown_view, wait_until_idle


def test_groups_stand_on_one_axis_and_two_are_compared(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    bench.hub.set_focus("swim_cm_s")
    shown_view(window, "Alt+3")
    view = bench.shape.stage.views.groups
    view.choose("strain")
    wait_until_idle(window)
    strain, x = study.table["strain"].text.to_numpy(), study.table["swim_cm_s"].sample.values
    assert view.chart.names == ["lake", "river"]
    edges = view.split.form.bars.edges
    for group in view.split.groups:
        own = x[(strain == group.name) & np.isfinite(x)]
        assert group.sample.n == own.size and group.description.median == pytest.approx(np.median(own))
        assert view.split.rest(group.name) == pytest.approx(
            np.histogram(x[(strain != group.name)], edges)[0] / (strain != group.name).sum(),
            abs=2e-3,
        )
    view.order.setCurrentText("median")
    view.order.activated.emit(1)
    assert view.chart.names == ["river", "lake"], "the highest first"
    view.one.setCurrentText("river")
    view.other.setCurrentText("lake")
    view.other.activated.emit(1)
    assert "river less lake: mean +" in view.about.text()
    river = view.split.group("river")
    for form in ("density", "dots", "cumulative", "qq"):
        view.form.setCurrentText(FORMS[form])
        view.form.activated.emit(view.form.currentIndex())
        wait_until_idle(window)
        top, below = view.chart.shown[0]
        assert view.split.form.key == form and (top.name, below.name) == ("river", "lake")
        assert view.split.group("river").sample.n == river.sample.n and not top.heights.size
        # Dots cannot be outlined; in every other form the other group's line runs over this one's.
        assert (top.ghost is None) == (form == "dots") and top.filled == (form == "density")
        assert (view.chart.points.x.size > 0) == (form in ("dots", "qq"))
        assert (top.normal is not None) == (form == "qq")
    view.form.setCurrentIndex(0)
    view.form.activated.emit(0)
    wait_until_idle(window)
    view.chart.clicked.emit(0, 50.0)
    rows = study.selection.rows
    position = int(np.searchsorted(edges, 50.0, side="right")) - 1
    assert (
        rows.tolist()
        == np.flatnonzero((strain == "river") & (x >= edges[position]) & (x < edges[position + 1])).tolist()
    )
    bench.hub.set_focus("mass_g")
    wait_until_idle(window)
    assert view.split.column == "mass_g" and view.split.by == "strain"
    # What arrives for a column that is looked at no more is not drawn under the name of the next.
    for name in ("swim_cm_s", "tank", "feed_ratio"):
        bench.hub.set_focus(name)
    wait_until_idle(window)
    assert view.split.column == "feed_ratio" and "feed" in view.chart.plot.axis("bottom").labelText


def by_strain(window: MainWindow, path: Path) -> tuple[Workbench, Study, GroupsView]:
    """Swimming speed by strain."""
    bench, study = opened(window, path)
    bench.hub.set_focus("swim_cm_s")
    shown_view(window, "Alt+3")
    view = bench.shape.stage.views.groups
    view.by.setCurrentText("strain")
    view.by.activated.emit(view.by.currentIndex())
    wait_until_idle(window)
    return bench, study, view


def test_the_column_that_groups_is_part_of_the_document(window: MainWindow, demo_path: Path) -> None:
    _, study, view = by_strain(window, demo_path)
    assert study.document.view.group_by == "strain" and not study.history.acts
    study.decide(DecisionKind.KEEP, "swim_cm_s", [0])
    QTest.keySequence(window, "Ctrl+Z")
    wait_until_idle(window)
    assert view.by.currentText() == view.split.by == "strain", "undo leaves what is looked at"
    window.opening.read_again(study.table.source.options)
    assert wait_until(lambda: window.bench.hub.study is not study and window.jobs.at_rest, 30)
    window.bench.hub.set_focus("swim_cm_s")
    window.acting.show_stage(STAGES.index("Shape"))
    shown_view(window, "Alt+3")
    assert window.bench.shape.stage.views.groups.split.by == "strain"


def test_rows_out_of_use_are_in_no_group(window: MainWindow, demo_path: Path) -> None:
    _, study, view = by_strain(window, demo_path)
    before = {group.name: group.sample.n for group in view.split.groups}
    strain, x = study.table["strain"].text.to_numpy(), study.table["swim_cm_s"].values
    lost = np.flatnonzero((strain == "lake") & np.isfinite(x))[:7]
    study.decide(DecisionKind.EXCLUDE_ROW, "swim_cm_s", lost)
    wait_until_idle(window)
    after = {group.name: group.sample.n for group in view.split.groups}
    assert after == {"lake": before["lake"] - 7, "river": before["river"]}


def test_a_column_read_anew_makes_other_groups(window: MainWindow, demo_path: Path) -> None:
    bench, study, view = by_strain(window, demo_path)
    study.edit_column("strain", ColumnEntry(missing_codes=("lake",)))
    wait_until_idle(window)
    assert [group.name for group in view.split.groups] == ["river"]
    assert "in no group" in view.about.text()
    QTest.keySequence(window, "Ctrl+Z")
    wait_until_idle(window)
    assert len(view.split.groups) == 2
    bench.hub.set_focus("strain")
    wait_until_idle(window)
    assert view.by.currentText() == "strain"


def test_groups_are_compared_with_one_of_them_or_with_the_rest(window: MainWindow, demo_path: Path) -> None:
    _, _, view = by_strain(window, demo_path)
    lake = view.split.group("lake")
    view.against.setCurrentText("lake")
    view.against.activated.emit(view.against.currentIndex())
    rows = {row.name: row for row in view.chart.shown[0]}
    outline = rows["river"].ghost[1][1::2][: lake.heights.size]
    assert rows["lake"].ghost is None and outline / outline.max() == pytest.approx(lake.heights / lake.heights.max())
    view.against.setCurrentText("nothing")
    view.against.activated.emit(view.against.currentIndex())
    assert all(row.ghost is None for row in view.chart.shown[0])


def test_a_table_without_groups_says_so(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "plain.csv"
    path.write_text("a,b\n" + "".join(f"{i}.5,{i * i}.25\n" for i in range(30)))
    bench, _ = opened(window, path)
    shown_view(window, "Alt+3")
    view = bench.shape.stage.views.groups
    assert "No column here makes groups" in view.about.text() and view.maker() is None and not view.chart.isVisible()
