"""What ten thousand acts on a million rows cost:  prints one JSON object.

Times are milliseconds; ``opening_vs_table`` is a ratio of two openings in turn, the study's and its table's alone, each
to the first analysis of a column in a window.
"""

import argparse
import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from own_state import clear_state

os.environ["QT_QPA_PLATFORM"] = "offscreen"
# As the application sets it: a process on its own works with one such thread.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np
from PyQt6.QtCore import QSettings

from culvix.app.shell.start import make_application, wait_until
from culvix.app.shell.window import MainWindow
from culvix.study import DecisionKind, Study
from culvix.study.carrying.fingerprint import fingerprint_of
from culvix.study.document.choices.settings import ColumnSettings
from culvix.study.storage.study_file import StudyFile
from culvix.tables import read_table

COLUMNS = ("skewed", "plain", "heavy", "codes")


def work(study: Study, file: StudyFile, acts: int, draw: np.random.Generator) -> tuple[list[float], list[float]]:
    """Do so many acts of all kinds, each stored at once; ms that each took to do, and to store."""
    done, stored = [], []
    for act in range(acts):
        begun = time.perf_counter()
        column = COLUMNS[act % len(COLUMNS)]
        if act % 10 == 3:
            study.change_settings(study.settings.with_column(column, ColumnSettings(bin_width=float(1 + act % 7))))
        elif act % 10 == 7:
            study.undo()
        elif act % 50 == 9:
            study.decide(DecisionKind.EXCLUDE_VALUE, column, draw.integers(0, study.table.rows, 100))
        else:
            row = [int(draw.integers(0, study.table.rows))]
            study.decide(DecisionKind.KEEP, column, row, reason=f"looked at {act}")
        between = time.perf_counter()
        file.record(study.history)
        done.append(1000 * (between - begun))
        stored.append(1000 * (time.perf_counter() - between))
    return done, stored


def summary(times: list[float]) -> dict[str, float]:
    last = times[-len(times) // 10 :]
    return {
        "median": round(statistics.median(times), 2),
        "p99": round(float(np.quantile(times, 0.99)), 2),
        "median_of_last_tenth": round(statistics.median(last), 2),
    }


def openings(folder: Path, table: Path, study: Path, acts: int) -> float:
    """How much longer the study takes to open than its table alone, the median of five pairs."""
    make_application(offscreen=True)
    window = MainWindow(QSettings(str(folder / "layout.ini"), QSettings.Format.IniFormat))
    window.resize(1280, 800)
    window.show()

    def opened(path: Path) -> float:
        before, begun = window.bench, time.perf_counter()

        def there() -> bool:
            bench = window.bench
            return bench is not None and bench is not before and bench.hub.analysis is not None

        window.opening.open_path(path)
        wait_until(there, 60, pause=2, still=1)
        taken = time.perf_counter() - begun
        wait_until(lambda: window.jobs.at_rest, 60)
        return taken

    alone, pairs = opened(table), []
    for _ in range(5):
        alone = opened(table)
        pairs.append(opened(study) / alone)
    assert window.bench is not None and len(window.bench.hub.study.history.labels) == acts
    window.close_anyway()
    return statistics.median(pairs)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--acts", type=int, default=10_000)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        table_path, path = Path(folder) / "table.csv", Path(folder) / "table.culvix"
        write = [sys.executable, str(Path(__file__).with_name("window.py")), "--write", str(table_path)]
        subprocess.run([*write, "--rows", str(asked.rows)], check=True)
        study = Study.of_table(read_table(table_path))
        file = StudyFile.create(path, study.history)
        begun = time.perf_counter()
        file.put_source(study.table.source.sha256, fingerprint_of(study.table))
        fingerprint = time.perf_counter() - begun
        done, stored = work(study, file, asked.acts, np.random.default_rng(19))
        file.close()
        size = path.stat().st_size
        opening = openings(Path(folder), table_path, path, len(study.history.labels))
        print(
            json.dumps(
                {
                    "act_ms": summary(done),
                    "stored_ms": summary(stored),
                    "fingerprint_s": round(fingerprint, 2),
                    "file_mb": round(size / 1e6, 2),
                    "opening_vs_table": round(opening, 2),
                }
            )
        )


if __name__ == "__main__":
    main()
    clear_state()
