"""What reading left open, answered with real clicks in the window; and that nothing there can hurt."""

import os
import signal
import subprocess
import sys
from pathlib import Path

import pytest
from PyQt6.QtCore import QLocale, QMimeData, QPoint, QPointF, Qt
from PyQt6.QtGui import QGuiApplication, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton, QWidget

from culvix.app.shell.controllers.pasting import pasted_file
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.app.widgets.parts import plain_tip
from culvix.errors import Cancelled
from culvix.report.parts import PictureBlock
from culvix.report.render_process import RenderProcess
from culvix.study.pictures.column_pictures import shape_picture
from culvix.tables import Role
from tests.app.driving import rest
from tests.report.rendering import html_of

LEFT = Qt.MouseButton.LeftButton
TEXT = "pond;kind;catch;code\n" + "".join(
    f"{'NA' if k % 9 == 4 else f'P{k % 4}'};{'None' if k % 3 else 'high'};{'1.080' if k % 2 else '990'};{k % 5 + 1}\n"
    for k in range(60)
)


def opened(window: MainWindow, path: Path, stage: str = "Intake") -> Workbench:
    window.opening.open_path(path)
    assert wait_until(lambda: window.bench is not None and window.jobs.at_rest, 30), window.text
    window.acting.show_stage(STAGES.index(stage))
    rest(window)
    assert window.bench is not None
    return window.bench


@pytest.fixture
def bench(window: MainWindow, tmp_path: Path) -> Workbench:
    path = tmp_path / "t.csv"
    path.write_text(TEXT)
    return opened(window, path)


def test_a_spelling_for_missing_is_taken_back_and_put_back_with_a_click(window: MainWindow, bench: Workbench) -> None:
    study, bar = bench.hub.study, bench.intake.stage.missing
    assert study.table["pond"].missing_by == {"NA": 7} and bar.buttons["NA"].isChecked()
    assert not bar.buttons["None"].isChecked() and study.table["kind"].missing == 0
    QTest.mouseClick(bar.buttons["NA"], LEFT)
    rest(window)
    assert study.table["pond"].missing == 0 and not bar.buttons["NA"].isChecked()
    QTest.mouseClick(bar.buttons["None"], LEFT)
    rest(window)
    assert study.table["kind"].missing_by == {"None": 40} and bar.buttons["None"].isChecked()
    window.acting.undo()
    window.acting.undo()
    rest(window)
    assert study.table["pond"].missing_by == {"NA": 7} and study.table["kind"].missing == 0
    bench.hub.set_focus("pond")
    mine = bench.intake.margin.missing
    QTest.mouseClick(mine.buttons["NA"], LEFT)
    rest(window)
    assert study.table["pond"].missing == 0


def test_both_readings_of_a_number_are_shown_and_one_is_chosen(window: MainWindow, bench: Workbench) -> None:
    cards = bench.intake.stage.questions
    point = next(button for (kind, label), button in cards.buttons.items() if label == "A decimal point")
    thousands = next(button for (kind, label), button in cards.buttons.items() if label == "Thousands")
    assert "1.080" in point.text() and "1080" in thousands.text() and thousands.isChecked()
    assert set(bench.hub.study.table["catch"].sample.runs[0]) == {990, 1080}
    QTest.mouseClick(point, LEFT)
    assert wait_until(lambda: window.bench is not bench and window.jobs.at_rest, 30)
    again = window.bench
    assert again is not None and set(again.hub.study.table["catch"].sample.runs[0]) == {990, 1.08}
    assert not again.intake.stage.questions.buttons


def test_codes_or_amounts_is_answered_in_the_margin(window: MainWindow, bench: Workbench) -> None:
    bench.hub.set_focus("code")
    margin = bench.intake.margin
    assert margin.question.isVisible() and bench.hub.study.table["code"].role is Role.ORDERED
    QTest.mouseClick(margin.answers["Counts"], LEFT)
    rest(window)
    assert bench.hub.study.table["code"].role is Role.COUNT and not margin.question.isVisible()


def test_ragged_lines_have_a_way_in_with_one_click(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("a,b,c\n1,2,3\n4,5\n6,7,8\nSource: me\n")
    window.opening.open_path(path)
    assert wait_until(lambda: bool(window.text) and window.jobs.at_rest, 30)
    assert "2 lines do not fit: 3, 5" in window.text and window.bench is None
    ways = {button.text(): button for button in (window.banner.action, window.banner.second)}
    QTest.mouseClick(ways["Leave these lines out"], LEFT)
    assert wait_until(lambda: window.bench is not None and window.jobs.at_rest, 30), window.text
    assert window.bench is not None
    study = window.bench.hub.study
    assert study.table.rows == 2 and any("left out" in note for note in study.table.source.notes)
    assert "left out" in html_of(study.workspace)


def test_a_file_that_is_gone_before_it_is_read_is_told(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "t.csv"
    path.write_text("a,b\n1,2\n3,4\n")
    from culvix.app.shell.controllers import opening

    preview = opening.preview

    def seen_and_gone(given: Path, options: object) -> object:
        found = preview(given, options)
        given.unlink()
        return found

    monkeypatch.setattr(opening, "preview", seen_and_gone)
    window.opening.open_path(path)
    assert wait_until(lambda: bool(window.text) and window.jobs.at_rest, 30)
    assert "cannot be read: no such file" in window.text


def test_a_job_that_a_library_gave_up_on_ends(window: MainWindow) -> None:
    class Panic(BaseException):
        pass

    def work(_: object) -> None:
        raise Panic("gone")

    window.jobs.start("panicking", work, lambda _: None)
    assert wait_until(lambda: window.jobs.at_rest, 30)
    assert "A fault in Culvix stopped “panicking”" in window.text


def test_names_are_never_markup(window: MainWindow, tmp_path: Path) -> None:
    secret = tmp_path / "s.png"
    name = f'<img src="{secret}"><b>x</b>'
    path = tmp_path / "t.csv"
    path.write_text(f"'{name}',y\n" + "".join(f"{k}.5,{k % 7}\n" for k in range(40)))
    bench = opened(window, path, "Survey")
    for stage in range(len(STAGES)):
        window.acting.show_stage(stage)
        rest(window)
    for widget in window.findChildren(QWidget):
        tip = widget.toolTip()
        assert "<img" not in tip and (not Qt.mightBeRichText(tip) or tip.startswith("<qt>")), tip
    (column,) = [c.name for c in bench.hub.study.table if "img" in c.name]
    for text in (bench.rail.model.index(0, 0).data(Qt.ItemDataRole.ToolTipRole), plain_tip(column)):
        assert "&lt;img" in text and "<img" not in text


def test_zooming_stops_where_doubles_end(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("x,y\n" + "".join(f"{1e15 + k * 0.5},{k % 7}\n" for k in range(60)))
    bench = opened(window, path, "Shape")
    bench.hub.set_focus("x")
    rest(window)
    canvas = bench.shape.stage.canvas.viewport()
    middle = QPointF(canvas.width() / 2, 60)
    for angle in (1200,) * 150 + (-1200,) * 400:
        wheel = QWheelEvent(
            middle, QPointF(canvas.mapToGlobal(middle)), QPoint(), QPoint(0, angle), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(canvas, wheel)
    low, high = bench.shape.stage.stack.lanes[0].view_box.viewRange()[0]
    assert low < high and abs(low) < 1e303 and abs(high) < 1e303 and "fault" not in window.text


def test_two_pastes_within_a_second_are_two_files(window: MainWindow, tmp_path: Path) -> None:
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    made = []
    for text in ("a\tb\n1\t2\n", "a\tb\n3\t4\n"):
        data = QMimeData()
        data.setText(text)
        clipboard.setMimeData(data)
        made.append(pasted_file(tmp_path))
    assert made[0] != made[1] and [path.read_text()[4] for path in made] == ["1", "3"]


def test_the_process_that_draws_is_started_again_and_ends_with_the_window(bench: Workbench) -> None:
    study = bench.hub.study
    shape = shape_picture(study.workspace.analysis("catch"), study.working, study.selection.rows)
    picture = PictureBlock("catch", shape, shape.sentence)
    renderer = RenderProcess()
    first = renderer.draw(picture)
    (helper,) = _helpers()
    os.kill(helper, signal.SIGKILL)
    assert renderer.draw(picture) == first and _helpers() != [helper]
    renderer.close()
    assert wait_until(lambda: not _helpers(), 20)
    with pytest.raises(Cancelled):
        renderer.draw(picture)


def _helpers() -> list[int]:
    import multiprocessing

    return [process.pid for process in multiprocessing.active_children() if process.pid and process.is_alive()]


WINDOW = """
import sys, os, signal, threading
from PyQt6.QtCore import QTimer, qWarning
from culvix.app.shell import start
shown = start.MainWindow.show
def show(self):
    shown(self)
    threading.Thread(target=lambda: 1 / 0).start()
    qWarning(b"an odd thing")
    QTimer.singleShot(300, lambda: os.kill(os.getpid(), getattr(signal, sys.argv[1])))
start.MainWindow.show = show
sys.exit(start.run_window(None))
"""


@pytest.mark.parametrize("name", ["SIGINT", "SIGTERM"])
def test_a_signal_closes_the_window_in_order(name: str, tmp_path: Path) -> None:
    home = {"HOME": str(tmp_path), "XDG_CONFIG_HOME": str(tmp_path / "c"), "XDG_STATE_HOME": str(tmp_path / "s")}
    environment = {**os.environ, **home, "QT_QPA_PLATFORM": "offscreen"}
    ended = subprocess.run(
        [sys.executable, "-c", WINDOW, name], env=environment, capture_output=True, timeout=120, check=False
    )
    assert ended.returncode == 0 and b"Traceback" not in ended.stderr
    assert "layout1" in (tmp_path / "c" / "culvix" / "culvix.conf").read_text()
    (log,) = (tmp_path / "s").rglob("culvix.log")
    message = log.read_text()
    assert "ZeroDivisionError" in message and "Qt: an odd thing" in message and (log.parent / "crash.log").exists()


def test_without_a_usable_display_there_is_one_line_and_status_two(tmp_path: Path) -> None:
    environment = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "WAYLAND_DISPLAY")}
    environment |= {"DISPLAY": ":4711", "HOME": str(tmp_path)}
    ended = subprocess.run(
        [sys.executable, "-m", "culvix"], env=environment, capture_output=True, timeout=120, check=False
    )
    lines = ended.stderr.decode().strip().splitlines()
    assert ended.returncode == 2 and len(lines) == 1 and lines[0].startswith("culvix: no window can be opened")


def test_numbers_are_the_same_under_every_locale(window: MainWindow) -> None:
    code = (
        "from culvix.app.shell.start import make_application\nmake_application(offscreen=True)\n"
        "from PyQt6.QtWidgets import QDoubleSpinBox\nbox = QDoubleSpinBox(decimals=3)\n"
        "box.lineEdit().setText('0.251')\nbox.interpretText()\nprint(box.value(), box.text())\n"
    )
    environment = {**os.environ, "LANG": "de_DE.UTF-8", "LC_ALL": "de_DE.UTF-8", "LANGUAGE": "de"}
    said = subprocess.run([sys.executable, "-c", code], env=environment, capture_output=True, timeout=120, check=True)
    assert said.stdout.decode().split() == ["0.251", "0.251"]
    assert QLocale().decimalPoint() == "."


def test_how_the_window_stands_is_written_down_as_it_changes(window: MainWindow, bench: Workbench) -> None:
    window.settings.clear()
    window.resize(1200, 780)
    assert wait_until(lambda: window.settings.value("layout1/window") is not None, 20)
    window.settings.clear()
    window.acting.show_stage(STAGES.index("Shape"))
    bench.across.moveSplitter(240, 1)
    assert wait_until(lambda: window.settings.value("layout1/across") is not None, 20)
    assert window.settings.value("layout/tray-height") is not None


def test_the_report_lets_nothing_in(window: MainWindow, bench: Workbench) -> None:
    html = html_of(bench.hub.study.workspace)
    assert "Missing is written as NA: 7 cells in all." in html
    assert "Content-Security-Policy" in html and "default-src 'none'" in html
    assert not [button for button in window.findChildren(QPushButton) if "<" in button.text()]


def test_a_picture_is_never_saved_over_the_table(window: MainWindow, bench: Workbench) -> None:
    source = bench.hub.study.table.source.path
    before = source.read_bytes()
    window.acting.show_stage(STAGES.index("Shape"))
    bench.hub.set_focus("catch")
    rest(window)
    bench.shape.stage.picture_button.save(source)
    assert source.read_bytes() == before and "never written" in window.text
    bench.shape.stage.picture_button.save(source.with_name("p.png"))
    assert source.with_name("p.png").read_bytes()[1:4] == b"PNG"
