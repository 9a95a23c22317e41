"""Reports put to the test:  random single changes, all to be found, and how long the report of a large table takes.

    python bench/reports.py changes [N]     N changed bytes in reports, and N changed cells in their source
    python bench/reports.py large           200 columns of 100 000 rows, in short: seconds and megabytes

Prints one JSON object. Everything is drawn from seeds.
"""

import json
import os
import random
import sys
import tempfile
import time
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
# As the application sets it: a process on its own works with one such thread.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np
import polars as pl

from culvix.app.shell.start import make_application
from culvix.demo import write_demo
from culvix.errors import CulvixError
from culvix.report.formats.report_files import report_file, write_report
from culvix.report.parts import PictureBlock
from culvix.report.render_process import RenderProcess
from culvix.report.verify import verify
from culvix.study import Study
from culvix.study.example_study import example_study
from culvix.tables import read_table

KINDS = (".html", ".pdf", ".docx")


def undrawn(block: PictureBlock) -> str:
    """A stand-in for a picture: what is compared is not in it."""
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><!-- {block.name} --></svg>'


def found(report: Path, source: Path | None) -> bool:
    """Whether a report is said to differ, or refused."""
    try:
        return bool(verify(report, source, undrawn).differences)
    except CulvixError:
        return True


def changed_byte(whole: bytes, draws: random.Random) -> bytes:
    place = draws.randrange(len(whole))
    return whole[:place] + bytes([whole[place] ^ (1 << draws.randrange(8))]) + whole[place + 1 :]


def changed_digit(text: str, draws: random.Random) -> str:
    """One digit of one cell of a table other than it was."""
    places = [place for place in range(text.index("\n"), len(text)) if text[place].isdigit()]
    place = draws.choice(places)
    other = draws.choice([digit for digit in "0123456789" if digit != text[place]])
    return text[:place] + other + text[place + 1 :]


def changes(many: int) -> dict[str, object]:
    """How many of so many changes are found, and whether any is claimed where there is none."""
    draws = random.Random(17)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        table = write_demo(folder)
        study = example_study(table)
        reports = {}
        for kind in KINDS:
            reports[kind] = folder / f"report{kind}"
            reports[kind].write_bytes(report_file(study.workspace, kind, undrawn, written="2026-05-01"))
        claimed = sum(found(path, None) for path in reports.values())
        in_report = in_source = 0
        for k in range(many):
            path = reports[KINDS[k % len(KINDS)]]
            whole = path.read_bytes()
            path.write_bytes(changed_byte(whole, draws))
            in_report += found(path, None)
            path.write_bytes(whole)
        other = folder / "other.csv"
        for _ in range(many):
            other.write_text(changed_digit(table.read_text(), draws))
            in_source += found(reports[".html"], other)
    return {"changes": many, "found_in_report": in_report, "found_in_source": in_source, "claimed_without": claimed}


def large() -> dict[str, object]:
    """Seconds and size of the report of a large table."""
    draw = np.random.default_rng(3)
    rows = 100_000
    with tempfile.TemporaryDirectory() as name:
        table, out = Path(name) / "large.csv", Path(name) / "large.html"
        columns = {
            f"measure_{k:03}": np.where(
                draw.random(rows) < 0.02, np.nan, draw.gamma(2, 3, rows) if k % 3 else draw.normal(50, 9, rows)
            ).round(3)
            for k in range(200)
        }
        pl.DataFrame(columns).fill_nan(None).write_csv(table)
        study = Study.of_table(read_table(table))
        renderer = RenderProcess()
        begun = time.perf_counter()
        write_report(study.workspace, out, renderer.draw)
        seconds = time.perf_counter() - begun
        renderer.close()
        return {"seconds": round(seconds, 1), "megabytes": round(out.stat().st_size / 1e6, 1)}


if __name__ == "__main__":
    make_application(offscreen=True)
    what = sys.argv[1] if len(sys.argv) > 1 else "changes"
    print(json.dumps(large() if what == "large" else changes(int(sys.argv[2]) if len(sys.argv) > 2 else 200)))
