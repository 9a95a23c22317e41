"""The panes of the window: their sizes, what stands in them first, and another table in them."""

from pathlib import Path

from PyQt6.QtCore import QSettings
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import STAGES, first_column
from culvix.study import Study
from culvix.tables import read_table
from tests.app.driving import wait_until_idle

LENGTH = "length_mm"


def test_the_sizes_of_the_panes_are_remembered(qtbot: QtBot, tmp_path: Path, demo_path: Path) -> None:
    file = str(tmp_path / "layout.ini")
    sizes = []
    for turn in range(2):
        window = MainWindow(QSettings(file, QSettings.Format.IniFormat))
        # The screen without a display is small, so only the panes are asked about, not the place on it.
        window.resize(1300, 820)
        window.show()
        window.opening.open_path(demo_path)
        assert wait_until(lambda window=window: window.bench is not None and window.jobs.at_rest, 30)
        window.acting.show_stage(STAGES.index("Shape"))
        if turn == 0:
            window.bench.across.setSizes([260, 700, 300])
        QApplication.sendPostedEvents()
        sizes.append(window.bench.across.sizes())
        window.close_anyway()
    assert sizes[0] == sizes[1] and sizes[0][0] > 220


def test_opening_a_second_table_replaces_the_first(qtbot: QtBot, tmp_path: Path, demo_path: Path) -> None:
    other = tmp_path / "other.csv"
    other.write_text("a,b\n" + "".join(f"{k},{k * k % 13}\n" for k in range(40)))
    window = MainWindow(QSettings(str(tmp_path / "l.ini"), QSettings.Format.IniFormat))
    window.show()
    for path, rows in ((demo_path, 2180), (other, 40), (demo_path, 2180)):
        before = window.bench
        window.opening.open_path(path)
        assert wait_until(lambda before=before: window.bench is not before and window.jobs.at_rest, 30)
        assert window.bench.hub.study.table.rows == rows
    keys = [action.shortcut() for action in window.actions_of_study if not action.shortcut().isEmpty()]
    assert len({key.toString() for key in keys}) == len(keys) and QKeySequence("Ctrl+R") in keys
    window.close_anyway()


def test_the_first_column_opened_is_a_measurement(tmp_path: Path) -> None:
    def first(text: str) -> str | None:
        path = tmp_path / "t.csv"
        path.write_text(text)
        return first_column(Study.of_table(read_table(path)))

    assert first("tag,ok,mass\na1,yes,1.5\na2,no,2.5\na3,no,2\n") == "mass"
    assert first("tag,ok\na1,yes\na2,no\na3,no\n") == "ok" and first("name\nann\nbob\nann\n") == "name"


def test_the_window_keeps_its_width_whatever_the_names_are(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / f"{'a_survey_of_households_with_a_long_name_' * 2}.csv"
    names = ["household_income_before_tax_and_transfers_eur", "satisfaction_with_the_neighbourhood_1_to_10"]
    path.write_text(",".join(names) + "\n" + "".join(f"{k * k}.25,{k % 7}.5\n" for k in range(60)))
    assert window.width() == 1280
    window.opening.open_path(path)
    assert wait_until(lambda: window.bench is not None and window.jobs.at_rest, 30)
    for position in range(len(STAGES)):
        window.acting.show_stage(position)
        window.jobs.busy.emit("searching the tightest half of the rows", 0.4)
        wait_until_idle(window)
        assert window.width() == 1280 >= window.minimumSizeHint().width(), STAGES[position]
        window.jobs.idle.emit()
