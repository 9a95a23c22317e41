"""Make every picture in docs/screenshots anew from the demo data:  .venv/bin/python docs/make_screenshots.py"""

import os
import tempfile
from pathlib import Path

import numpy as np
import polars as pl
from PyQt6.QtCore import QSettings

from culvix.__main__ import end_process
from culvix.app.shell.dialogs.connect_dialog import ConnectDialog
from culvix.app.shell.picture_views import picture_views
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import make_application, wait_until
from culvix.app.shell.window import MainWindow
from culvix.demo import write_demo
from culvix.study.whole.samples import SampleOf, draw_sample, sample_file
from culvix.study.whole.survey import survey_whole
from culvix.tables import read_table
from culvix.tables.engines import ServerTable, open_engine

COPIES = 300
SERVER = "postgresql://analyst@hatchery/growth"
TABLES = (
    ServerTable("public", "fish", "table", 654_000, "one row a fish and weighing"),
    ServerTable("public", "tanks", "table", 48, "tanks with their feed and volume"),
    ServerTable("public", "water", "partitioned table", 12_400_000, "oxygen and temperature, every minute"),
    ServerTable("reports", "growth_by_week", "view", None, "for the weekly meeting"),
)


def main() -> None:
    target = Path(__file__).parent.resolve() / "screenshots"
    target.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="culvix-") as name:
        folder = Path(name)
        demo = write_demo(folder / "hatchery")
        for picture in (*picture_views(demo, target), *whole_pictures(demo, folder, target)):
            print(picture.relative_to(target.parent))


def whole_pictures(demo: Path, folder: Path, target: Path) -> tuple[Path, ...]:
    """The form by which a table is chosen, and a sample beside the whole: many years of the demo's fish."""
    make_application(offscreen=True)
    os.environ["XDG_STATE_HOME"] = str(folder)
    settings = QSettings(str(folder / "layout.ini"), QSettings.Format.IniFormat)
    window = MainWindow(settings)
    window.resize(1280, 800)
    window.show()
    form = ConnectDialog(window, SERVER)
    form.show_tables(TABLES)
    connect, whole = target / "connect.png", target / "whole-and-sample.png"
    form.grab().save(str(connect))
    _many_years(demo, folder / "fish")
    os.chdir(folder)
    engine = open_engine("fish")
    frame, about = draw_sample(engine, SampleOf(5000))
    sample = folder / "fish sample.parquet"
    sample.write_bytes(sample_file(frame, about, survey_whole(engine)))
    window.opening.open_path(sample)
    wait_until(lambda: window.bench is not None and window.jobs.at_rest)
    assert window.bench is not None
    window.acting.show_stage(STAGES.index("Shape"))
    window.hinting.put_away()
    window.bench.hub.set_focus("fork_length_mm")
    wait_until(lambda: window.jobs.at_rest)
    window.grab().save(str(whole))
    window.close_anyway()
    settings.sync()
    return connect, whole


def _many_years(demo: Path, folder: Path) -> None:
    """The measured columns of the demo many times over, never quite the same, in parts."""
    folder.mkdir()
    table, draw = read_table(demo), np.random.default_rng(3)
    columns = {
        column.name: column.sample.values
        for column in table.numeric
        if column.unit is not None or column.name == "feed_ratio"
    }
    for year in range(4):
        shaken = {
            name: np.tile(values, COPIES // 4) * draw.normal(1, 0.02, values.size * (COPIES // 4))
            for name, values in columns.items()
        }
        made = pl.DataFrame(shaken).fill_nan(None).with_columns(pl.all().round(2))
        made.write_parquet(folder / f"year-{2023 + year}.parquet")


if __name__ == "__main__":
    main()
    end_process(0)
