"""Every stage on tables of all kinds, in small and large windows and with small and large letters: all can be read."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtGui import QFont
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from tests.app.driving import wait_until_idle
from tests.app.fitting import unreadable

ROWS = 60
IDENTIFIER, WARD = "identifier_of_the_questionnaire_as_sent0", "ward_where_the_patient_was_admitted_firs"
NAMES = [f"waiting_time_until_the_first_answer_no{each}" for each in range(5)]


def _write(path: Path, heads: list[str], rows: list[list[object]]) -> Path:
    path.write_text("\n".join(",".join(map(str, row)) for row in [heads, *rows]) + "\n")
    return path


def long_names(folder: Path) -> Path:
    """Names of forty letters and numbers of seven digits."""
    draw = np.random.default_rng(2)
    heads = [
        "identifier_of_the_questionnaire_as_it_was_sent"[:40],
        *NAMES,
        WARD,
    ]
    wards = ("intensive care for the newly born", "day clinic")
    rows = [
        [f"id{row:06}", *(f"{x:.2f}" for x in 1_234_567 + draw.normal(0, 54_321, 5)), wards[row % 2]]
        for row in range(ROWS)
    ]
    return _write(folder / "a_study_with_a_long_name_of_its_own.csv", heads, rows)


def many_columns(folder: Path) -> Path:
    """Three hundred survey items."""
    draw = np.random.default_rng(3)
    return _write(folder / "many.csv", [f"q{each}" for each in range(300)], draw.integers(1, 7, (20, 300)).tolist())


def no_rows(folder: Path) -> Path:
    return _write(folder / "none.csv", ["id", "level", "kind"], [])


def right_to_left(folder: Path) -> Path:
    """Names that run from right to left."""
    draw = np.random.default_rng(4)
    rows = [[f"{x:.1f}", f"{y:.3f}", ("אדום", "ירוק")[int(x > 20)]] for x, y in draw.normal(20, 5, (ROWS, 2))]
    return _write(folder / "rtl.csv", ["זמן_ההמתנה", "درجة_الحرارة_القصوى", "המחלקה"], rows)


KINDS = {each.__name__: each for each in (long_names, many_columns, no_rows, right_to_left)}
CASES = [
    *((size, kind) for size in (8.0, 16.0) for kind in ("long_names", "no_rows")),
    # Of so many columns each takes its time, and the larger letters are what fits worse.
    (16.0, "many_columns"),
    (8.0, "right_to_left"),
]
SIZES = {"1024x700": (1024, 700), "1280x800": (1280, 800), "1920x1080": (1920, 1080)}


@pytest.fixture(params=[8.0, 16.0], ids=["8 pt", "16 pt"])
def letters(request: pytest.FixtureRequest, qapp: QApplication) -> Iterator[float]:
    before = QFont(qapp.font())
    changed = QFont(before)
    changed.setPointSizeF(request.param)
    qapp.setFont(changed)
    yield request.param
    qapp.setFont(before)


@pytest.mark.parametrize(("letters", "kind"), CASES, ids=lambda each: str(each), indirect=["letters"])
def test_every_stage_can_be_read(letters: float, window: MainWindow, tmp_path: Path, kind: str) -> None:
    window.resize(*SIZES["1024x700"])
    window.opening.open_path(KINDS[kind](tmp_path))
    wait_until_idle(window)
    faults = {}
    for position, stage in enumerate(STAGES):
        if stage == "Groups":
            # What Relations is still at would be waited for.
            window.jobs.cancel_loud()
        if window.bench is not None:
            window.acting.show_stage(position)
        # Correlations of three hundred columns take a while, and are not what is looked at.
        busy = stage in ("Relations", "Report") and kind == many_columns.__name__
        show = (lambda _: QTest.qWait(200)) if busy else wait_until_idle
        for name, size in SIZES.items():
            window.resize(*size)
            show(window)
            assert (window.width(), window.height()) == size, f"{stage} asks for more room than {name}"
            faults[stage, name] = unreadable(window)
    assert {seen: found for seen, found in faults.items() if found} == {}


def test_every_view_of_a_column_and_a_selection_can_be_read(letters: float, window: MainWindow, tmp_path: Path) -> None:
    window.resize(*SIZES["1024x700"])
    window.opening.open_path(long_names(tmp_path))
    wait_until_idle(window)
    assert window.bench is not None
    stage = window.bench.shape.stage
    window.acting.show_stage(STAGES.index("Shape"))
    faults = {}
    for view in range(len(stage.view_buttons)):
        stage.show_view(view)
        wait_until_idle(window)
        faults[view] = unreadable(window)
    study = window.bench.hub.study
    study.select(np.arange(3), "three rows", column=NAMES[0])
    wait_until_idle(window)
    assert {view: found for view, found in {**faults, "selected": unreadable(window)}.items() if found} == {}
    window.bench.hub.set_focus(WARD)
    wait_until_idle(window)
    assert unreadable(window) == []
    window.acting.show_stage(STAGES.index("Relations"))
    for by in ("", WARD):
        study.change_view(pair_by=by)
        for view in (1, 2):
            window.bench.relations.stage.show_view(view)
            wait_until_idle(window)
            faults[f"relations {view} by {by}"] = unreadable(window)
    assert {view: found for view, found in faults.items() if found} == {}
