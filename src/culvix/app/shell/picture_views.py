"""Pictures of the main views, made without a display from a window in which the example is worked on."""

import os
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from functools import partial
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QCoreApplication, QEvent, QSettings

from culvix.app.groups.stage import VIEWS as GROUP_VIEWS
from culvix.app.session.picture_settings import change_axis_scale
from culvix.app.shape.views import VIEWS
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import make_application, wait_until
from culvix.app.shell.window import MainWindow
from culvix.places import scratch_folder
from culvix.study import Cause, DecisionKind
from culvix.study.analysis.outliers.rule_rows import rows_of
from culvix.study.document.rules import between
from culvix.study.pictures.pair_pictures import PARTS

__all__ = ["picture_views"]

View = tuple[str, Callable[[], object]]
"""A main view: its name, and what brings it up."""


def _views(window: MainWindow) -> list[View]:
    """Each picture's name, and what brings the window there; a table without groups has fewer."""
    bench = window.bench
    assert bench is not None
    views: list[View] = [
        (stage.lower(), partial(window.acting.show_stage, position)) for position, stage in enumerate(STAGES)
    ]
    if not {"swim_cm_s", "strain"} <= {column.name for column in bench.hub.study.table}:
        return views

    shape = _Shape(window)
    own = {"outliers": partial(_outliers, window), "groups": partial(_groups, window, "Compare", "growth_pct_day")}
    first: list[View] = [(name, own.get(name, show)) for name, show in views]
    return [
        *first,
        ("pair", partial(_pair, window)),
        ("subsets", partial(_subsets, window)),
        ("compare", partial(_compare, window)),
        ("shape-groups", shape.groups),
        ("shape-axis", shape.log_axis),
        ("questions", partial(_questions, window)),
        ("outliers-multivariate", partial(_distances, window)),
        ("what-if", partial(_what_if, window)),
    ]


class _Shape:
    """The views of the Shape stage of ``window``."""

    def __init__(self, window: MainWindow) -> None:
        assert window.bench is not None
        self.window, self.bench = window, window.bench

    def show_view(self, view: str) -> None:
        self.window.acting.show_stage(STAGES.index("Shape"))
        self.bench.hub.set_focus("swim_cm_s")
        wait_until(lambda: self.window.jobs.at_rest)
        self.bench.shape.stage.show_view(list(VIEWS).index(view))

    def groups(self) -> None:
        self.show_view("By group")
        self.bench.shape.stage.views.groups.choose("strain")

    def log_axis(self) -> None:
        self.show_view("One column")
        self.bench.hub.set_focus("mass_g")
        self.bench.hub.study.select([])
        change_axis_scale(self.bench.hub, "log")


def _pair(window: MainWindow) -> None:
    """Two columns by group, with the lanes of both."""
    bench = window.bench
    assert bench is not None
    stage = bench.relations.stage
    window.acting.show_stage(STAGES.index("Relations"))
    bench.hub.study.change_view(pair_parts=(*PARTS, "lanes"), pair_by="tank")
    stage.show_view(1)
    stage.choose("activity_min_h", "growth_pct_day")
    wait_until(lambda: window.jobs.at_rest)


def _subsets(window: MainWindow) -> None:
    """A subset that departs from the rest, confirmed on rows the search has not seen."""
    _groups(window, "Subsets", "feed_ratio")


def _compare(window: MainWindow) -> None:
    """This cohort against the last one, beside it in the same folder."""
    bench = window.bench
    assert bench is not None
    last = bench.hub.study.table.source.path.with_name("last_cohort.csv")
    if last.exists():
        bench.hub.study.change_view(other_table=last.name)
    _groups(window, "Another table", "fork_length_mm")


def _groups(window: MainWindow, view: str, focus: str) -> None:
    bench = window.bench
    assert bench is not None
    stage = bench.groups.stage
    bench.hub.study.select([])
    window.acting.show_stage(STAGES.index("Groups"))
    bench.hub.set_focus(focus)
    stage.show_view(list(GROUP_VIEWS).index(view))
    wait_until(lambda: window.jobs.at_rest)


def _distances(window: MainWindow) -> None:
    """Robust distances of several columns."""
    _outliers(window)
    if window.bench is not None:
        stage = window.bench.outliers.stage
        stage.show_view(1)
        stage.distances.choose(("length_mm", "fork_length_mm", "mass_g", "growth_pct_day"))


def _what_if(window: MainWindow) -> None:
    """One value dragged along the axis."""
    _outliers(window)
    if window.bench is not None:
        stage = window.bench.outliers.stage
        stage.show_view(0)
        stage.trying.setChecked(True)
        stage.hand.move_to(300.0)


def _questions(window: MainWindow) -> None:
    """The list of open questions beside the column of the first."""
    window.acting.show_stage(STAGES.index("Shape"))
    if window.bench is not None:
        window.bench.toggle_questions()


def _outliers(window: MainWindow) -> None:
    """The Outliers stage with a few decisions made, the largest value in hand."""
    bench = window.bench
    assert bench is not None
    window.acting.show_stage(STAGES.index("Outliers"))
    if bench.shows_questions:
        bench.toggle_questions()
    bench.hub.set_focus("length_mm")
    wait_until(lambda: window.jobs.at_rest)
    study, preview = bench.hub.study, bench.hub.preview
    if preview is not None and not study.decisions:
        study.sign("mk")
        short = rows_of(between(None, 50.0), preview.flags, preview.flag_basis)
        how = {"factor": 10.0, "rule": between(None, 50.0)}
        study.decide(DecisionKind.CORRECT, "length_mm", short, cause=Cause.ENTRY, reason="entered in cm", **how)
        wait_until(lambda: window.jobs.at_rest)
    if preview is not None:
        study.select([int(np.nanargmax(preview.flag_basis.values))], column=preview.column.name)
    wait_until(lambda: window.jobs.at_rest)


def _waiting(window: MainWindow) -> bool:
    """Whether something worked out is still to be shown."""
    return window.strip.waiting or (window.bench is not None and window.bench.survey.stage.waiting)


@contextmanager
def _window(scratch: Path, size: tuple[int, int]) -> Iterator[MainWindow]:
    """A window that remembers nothing of others, shown and closed again."""
    settings = QSettings(str(scratch / "layout.ini"), QSettings.Format.IniFormat)
    window = MainWindow(settings)
    window.resize(*size)
    window.show()
    try:
        yield window
    finally:
        window.close_anyway()
        window.deleteLater()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        # What is not written yet would be when nothing is there any more.
        settings.sync()


def picture_views(path: Path, folder: Path, *, size: tuple[int, int] = (1280, 800)) -> Sequence[Path]:
    """Open ``path`` in a window without a display and save a picture of each main view into ``folder``."""
    make_application(offscreen=True)
    saved: list[Path] = []

    def save(window: MainWindow, name: str) -> None:
        wait_until(lambda: window.jobs.at_rest and not _waiting(window))
        QCoreApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest)
        window.remark.hide()
        window.hinting.put_away()
        saved.append(folder / f"{name}.png")
        window.grab().save(str(saved[-1]))

    with scratch_folder() as scratch:
        # What is done for the pictures is no draft of anybody's.
        os.environ["XDG_STATE_HOME"] = str(scratch)
        with _window(scratch, size) as window:
            window.opening.open_path(path)
            there = wait_until(lambda: (window.bench is not None or bool(window.text)) and window.jobs.at_rest)
            if not there or window.bench is None:
                raise RuntimeError(f"The table could not be pictured: {window.text}")
            for name, show in _views(window):
                show()
                save(window, name)
        with _window(scratch, size) as window:
            window.opening.open_path(_write_wide(scratch / "sensors.csv"))
            wait_until(lambda: window.bench is not None and window.jobs.at_rest)
            window.acting.show_stage(STAGES.index("Relations"))
            save(window, "relations-wide")
        with _window(scratch, size) as window:
            # The pictures of the example come a moment after the page.
            wait_until(lambda: window.jobs.at_rest, 3, still=150)
            save(window, "start")
    return saved


def _write_wide(path: Path) -> Path:
    """A made-up table of a hundred columns, in blocks that go together."""
    draw = np.random.default_rng(41)
    common = draw.normal(size=(300, 16))
    block, share = draw.integers(0, 16, 100), draw.uniform(0.35, 0.95, 100)
    cells = common[:, block] * share * draw.choice([-1.0, 1.0], 100) + draw.normal(size=(300, 100)) * (1 - share)
    names = [f"sensor_{chr(97 + at)}{column:02d}" for column, at in enumerate(block)]
    np.savetxt(path, 20 + 3 * cells, fmt="%.3f", delimiter=",", header=",".join(names), comments="")
    return path
