"""How quickly the window answers at a million rows, and how soon it stands:  prints one JSON object.

Milliseconds here depend on the machine; the targets are those of a frame (33 ms) and of what a hand feels (50, 250 ms).
``start_vs_empty_window`` is a ratio of two processes started in turn.
"""

import argparse
import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from own_state import clear_state

os.environ["QT_QPA_PLATFORM"] = "offscreen"
# As the application sets it: a process on its own works with one such thread.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np
import polars as pl
from PyQt6.QtCore import QSettings, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QMainWindow

from culvix.app.shape.stage import ShapeStage
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import make_application, wait_until
from culvix.app.shell.window import MainWindow
from culvix.demo import write_demo
from culvix.study import DecisionKind, Study

ROWS = 1_000_000
NO_KEYS = Qt.KeyboardModifier.NoModifier


def write_table(path: Path, rows: int) -> None:
    """Columns of several shapes; ``unseen_*`` are opened once each, for the time of a first look."""
    draw = np.random.default_rng(23)
    columns = {
        "skewed": draw.gamma(2.0, size=rows).round(5),
        "plain": draw.normal(100, 15, rows).round(3),
        "heavy": draw.standard_t(3, rows).round(4),
        "codes": draw.integers(0, 2000, rows),
        "unseen_1": draw.gamma(3.0, size=rows).round(5),
        "unseen_2": draw.normal(50, 5, rows).round(3),
        "unseen_3": draw.lognormal(2, 0.4, rows).round(4),
        "unseen_4": draw.normal(0, 1, rows),
        "tank": draw.choice(["T1", "T2", "T3"], rows),
    }
    pl.DataFrame(columns).write_csv(path)


class Stalls:
    """The longest times (ms), by name, for which the interface thread did not come round to a timer.

    ``busy`` is what the thread itself worked in that time: what the clock says beyond it, the machine took for others.
    """

    def __init__(self) -> None:
        self.clock: dict[str, float] = {}
        self.busy: dict[str, float] = {}


@contextmanager
def stalls(found: Stalls, name: str) -> Iterator[None]:
    """Watch the interface thread, and leave the longest times under ``name``."""
    worst, last = np.zeros(2), np.array([time.perf_counter(), time.thread_time()])

    def tick() -> None:
        nonlocal worst, last
        now = np.array([time.perf_counter(), time.thread_time()])
        worst, last = np.maximum(worst, now - last), now

    # Served in turn with what the user does; one without an interval would only be served when nothing else is left.
    timer = QTimer(interval=1, timerType=Qt.TimerType.PreciseTimer)
    timer.timeout.connect(tick)
    timer.start()
    try:
        yield
    finally:
        tick()
        timer.stop()
        found.clock[name], found.busy[name] = (round(1000 * float(each), 1) for each in worst)


def drawn(window: MainWindow, column: str) -> float:
    """Turn to ``column`` and wait for its lanes; ms until they are painted."""
    bench = window.bench
    assert bench is not None
    shape, painted = bench.shape.stage, 0.0
    paint = type(shape.canvas).paintEvent

    def watched(canvas: object, event: object) -> None:
        nonlocal painted
        paint(canvas, event)
        if not painted and shape.shown == column:
            painted = time.perf_counter()

    type(shape.canvas).paintEvent = watched
    begun = time.perf_counter()
    bench.hub.set_focus(column)
    wait_until(lambda: painted > 0, 20, pause=8, still=1)
    type(shape.canvas).paintEvent = paint
    return 1000 * (painted - begun)


def write_wide_table(path: Path, columns: int = 1_000, rows: int = 300) -> None:
    """Measures beside each other, with missing cells in some."""
    draw = np.random.default_rng(29)
    cells = draw.normal(50, 9, (columns, rows)).round(3)
    cells[::7, ::11] = np.nan
    pl.DataFrame({f"measure_{each}": column for each, column in enumerate(cells)}).fill_nan(None).write_csv(path)


def wide_figures(path: Path) -> dict[str, float]:
    """Of a thousand columns: until the Survey stands, the longest stall until all is known, and scrolling both ways."""
    longest = Stalls()
    with tempfile.TemporaryDirectory() as folder:
        window = MainWindow(QSettings(f"{folder}/layout.ini", QSettings.Format.IniFormat))
        window.resize(1280, 800)
        window.show()
        begun = time.perf_counter()
        with stalls(longest, "wide"):
            window.opening.open_path(path)
            wait_until(lambda: window.bench is not None, 60, pause=2, still=1)
            shown = 1000 * (time.perf_counter() - begun)
            wait_until(lambda: window.jobs.at_rest, 120)
        bench = window.bench
        assert bench is not None
        view = bench.survey.stage.view
        down, across = view.verticalScrollBar(), view.horizontalScrollBar()
        assert down is not None and across is not None
        found = {
            "open_ms": round(shown, 1),
            "longest_busy_ms": longest.busy["wide"],
            "scroll_down_frame_p95_ms": frames(lambda k: down.setValue(k * 400)),
        }
        wait_until(lambda: window.jobs.at_rest and not bench.survey.stage.waiting, 120)
        found["scroll_across_frame_p95_ms"] = frames(lambda k: across.setValue(k * 12))
        window.close_anyway()
    return found


def frames(move: Callable[[int], None], many: int = 60) -> float:
    """95th percentile (ms) of the time from a movement of the hand to the painted frame."""
    times = []
    for step in range(many):
        begun = time.perf_counter()
        move(step)
        # What has to be painted is painted when the events it caused are done.
        QApplication.processEvents()
        times.append(1000 * (time.perf_counter() - begun))
    return round(float(np.quantile(times[3:], 0.95)), 1)


def dragging(shape: ShapeStage) -> dict[str, float]:
    """Frames while a bin edge, the bandwidth, a limit and the probe are dragged."""
    shape.stack.choose(["histogram", "density", "box", "Q-Q", "spans"])
    analysis = shape.hub.analysis
    assert analysis is not None and analysis.histogram is not None and analysis.density is not None
    edges, width, box = analysis.histogram.edges, analysis.density.bandwidth, analysis.description
    centre, reach = box.median or 0.0, box.iqr or 1.0
    grab = shape.stack.grabbed.emit
    found = {
        "bin": frames(lambda k: grab("histogram", 20, float(edges[20] + k * (edges[1] - edges[0])), False, NO_KEYS)),
        "bandwidth": frames(lambda k: grab("density", 1, centre + width * (1 + k / 20), False, NO_KEYS)),
        "limit": frames(lambda k: grab("spans", 1, centre + reach * (2 + k / 20), False, NO_KEYS)),
        "probe": frames(lambda k: shape.probe.move(centre + reach * k / 40)),
    }
    # Let go where everything was.
    for lane in ("histogram", "density", "spans"):
        shape.stack.lane_called(lane).show_picture(shape.stack.picture)
    return found


def _forget(study: Study, name: str) -> None:
    """Let go of everything worked out for a column, its order included."""
    study.workspace.cache.follow(column for column in study.table if column.name != name)
    for known, key in ((vars(study.table[name]), "sample"), (vars(study.working)["_samples"], name)):
        known.pop(key, None)


def decisions(window: MainWindow, longest: Stalls) -> dict[str, float]:
    """From an act in the Outliers stage until list and impact show it: many rows decided, taken back, a limit moved."""
    bench = window.bench
    assert bench is not None
    hub, study = bench.hub, bench.hub.study
    window.acting.show_stage(STAGES.index("Outliers"))
    hub.set_focus("heavy")
    wait_until(lambda: window.jobs.at_rest, 60)
    shown = bench.outliers.stage.list.model
    preview = hub.preview
    assert preview is not None and preview.column.name == "heavy"
    rows = np.sort(np.argsort(-np.abs(preview.flag_basis.values))[:100_000])

    def until(act: Callable[[], object], settled: Callable[[], bool]) -> tuple[float, float]:
        """How long the act itself takes, and how long until it is seen."""
        begun = time.perf_counter()
        act()
        done = time.perf_counter()
        wait_until(settled, 60, pause=1, still=1)
        seen = time.perf_counter()
        wait_until(lambda: window.jobs.at_rest, 60)
        return round(1000 * (done - begun), 1), round(1000 * (seen - begun), 1)

    def follows() -> bool:
        impact, now = bench.outliers.margin.impact, hub.preview
        return now is not None and impact.shows(now) and bench.outliers.stage.list.shows(study.working, now)

    with stalls(longest, "deciding"):
        found = {"decide_100_000": until(lambda: study.decide(DecisionKind.EXCLUDE_VALUE, "heavy", rows), follows)}
        found["undo_100_000"] = until(study.undo, follows)
        moves = [
            until(lambda k=k: study.change_settings(study.settings.with_limit("iqr_fences", 3.0 + k / 10)), follows)
            for k in range(6)
        ]
        found["limit"] = (statistics.median(m[0] for m in moves), statistics.median(m[1] for m in moves))
    assert shown.row_count() > 0
    window.acting.show_stage(STAGES.index("Shape"))
    return {
        f"{name} {part}": ms for name, pair in found.items() for part, ms in zip(("act", "seen"), pair, strict=True)
    }


def window_figures(path: Path) -> dict[str, object]:
    """All of a window with the table at ``path``."""
    longest = Stalls()
    with tempfile.TemporaryDirectory() as folder:
        window = MainWindow(QSettings(f"{folder}/layout.ini", QSettings.Format.IniFormat))
        window.resize(1280, 800)
        window.show()
        with stalls(longest, "opening"):
            window.opening.open_path(path)
            wait_until(lambda: window.bench is not None and window.jobs.at_rest, 120)
        bench = window.bench
        assert bench is not None
        with stalls(longest, "first stage"):
            window.acting.show_stage(STAGES.index("Shape"))
            wait_until(lambda: window.jobs.at_rest, 120)
        with stalls(longest, "first column"):
            drawn(window, "heavy")
            wait_until(lambda: window.jobs.at_rest, 120)
        with stalls(longest, "nothing to do"):
            wait_until(lambda: False, 3)
        unseen, seen = [], []
        with stalls(longest, "switching"):
            for name in ("plain", "heavy", "skewed", "codes", "plain", "heavy", "skewed", "codes", "plain"):
                seen.append(drawn(window, name))
                wait_until(lambda: window.jobs.at_rest, 60)
        for name in ("unseen_1", "unseen_2", "unseen_3", "unseen_4"):
            _forget(bench.hub.study, name)
            unseen.append(drawn(window, name))
            wait_until(lambda: window.jobs.at_rest, 60)
        drawn(window, "skewed")
        found = dragging(bench.shape.stage)
        deciding = decisions(window, longest)
        with stalls(longest, "views"):
            for position in (1, 2, 3, 4, 0):
                bench.shape.stage.show_view(position)
                wait_until(lambda: window.jobs.at_rest, 60)
        with stalls(longest, "stages"):
            for position in (*range(len(STAGES)), STAGES.index("Shape")):
                window.acting.show_stage(position)
                wait_until(lambda: window.jobs.at_rest, 60)
        window.close_anyway()
    return {
        "column_switch_ms": {
            "unseen": round(statistics.median(unseen), 1),
            "unseen_longest": round(max(unseen), 1),
            "seen": round(statistics.median(seen[4:]), 1),
        },
        "drag_frame_p95_ms": found,
        "outliers_ms": deciding,
        "longest_stall_ms": longest.clock,
        "longest_busy_ms": longest.busy,
    }


def start(path: Path | None) -> float:
    """Seconds of a process until its window is painted: with the demo open, or an empty one with the same imports."""
    command = [sys.executable, __file__, "--start", str(path) if path else "empty"]
    begun = time.perf_counter()
    subprocess.run(command, check=True, capture_output=True)
    return time.perf_counter() - begun


def stand(path: str) -> None:
    """Show a window, paint it, and leave."""
    application = make_application(offscreen=True)
    if path == "empty":
        empty = QMainWindow()
        empty.resize(1280, 800)
        empty.show()
        application.processEvents()
        empty.grab()
        os._exit(0)
    with tempfile.TemporaryDirectory() as folder:
        window = MainWindow(QSettings(f"{folder}/layout.ini", QSettings.Format.IniFormat))
        window.resize(1280, 800)
        window.show()
        window.opening.open_path(Path(path))
        wait_until(lambda: window.bench is not None, 60, pause=2, still=1)
        window.grab()
        os._exit(0)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--start")
    parser.add_argument("--write", type=Path)
    parser.add_argument("--rows", type=int, default=ROWS)
    asked = parser.parse_args()
    if asked.start:
        stand(asked.start)
    if asked.write:
        write_table(asked.write, asked.rows)
        return
    with tempfile.TemporaryDirectory() as folder:
        demo = write_demo(Path(folder))
        start(demo), start(None)
        ratio = statistics.median(start(demo) / start(None) for _ in range(5))
        path = Path(folder) / "table.csv"
        # Elsewhere: threads that were started here would not step back for the interface, as those of the jobs do.
        write = [sys.executable, __file__, "--write", str(path), "--rows", str(asked.rows)]
        subprocess.run(write, check=True)
        make_application(offscreen=True)
        figures = window_figures(path)
        write_wide_table(Path(folder) / "wide.csv")
        figures["thousand_columns"] = wide_figures(Path(folder) / "wide.csv")
    print(json.dumps({**figures, "start_vs_empty_window": round(ratio, 2)}))
    sys.stdout.flush()
    clear_state()
    os._exit(0)


if __name__ == "__main__":
    main()
