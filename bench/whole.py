"""Survey of a whole table against the engine's own plain pass (smallest, largest, mean of every column): prints JSON.

``files`` are Parquet parts made here, surveyed by a process whose address space is limited to so many gigabytes beyond
its libraries; with ``--server ADDRESS`` the first rows are copied into a table there, too.
"""

import argparse
import json
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import polars as pl

ROWS_OF_PART = 2_500_000
GIGABYTE = 1 << 30


def part(number: int, rows: int) -> pl.DataFrame:
    """Columns of several kinds: skewed, rounded, with gaps, counts, codes, and plain noise."""
    draw = np.random.default_rng([7, number])
    gaps = draw.random(rows) < 0.02
    return pl.DataFrame(
        {
            "mass_g": draw.lognormal(4.6, 0.5, rows).round(2),
            "length_mm": draw.normal(210, 25, rows).round(1),
            "oxygen_mg_l": np.where(gaps, np.nan, draw.normal(8.8, 0.6, rows).round(2)),
            "cortisol_ng_ml": draw.gamma(2, 2.5, rows),
            "parasite_count": draw.negative_binomial(1, 0.3, rows).astype(np.int32),
            "fin_score": draw.integers(0, 5, rows).astype(np.int8),
            "tank": draw.integers(1, 200, rows).astype(np.int16),
            "growth_pct_day": draw.normal(1.4, 0.3, rows),
        }
    ).with_columns(pl.col("oxygen_mg_l").fill_nan(None))


def make_parts(folder: Path, rows: int) -> None:
    """Write so many ``rows`` in parts, where they are not there already."""
    folder.mkdir(parents=True, exist_ok=True)
    for number, first in enumerate(range(0, rows, ROWS_OF_PART)):
        path = folder / f"part-{number:03}.parquet"
        if not path.exists():
            made = part(number, min(ROWS_OF_PART, rows - first))
            made.write_parquet(path, compression="lz4", row_group_size=500_000)


def plain_pass(folder: Path) -> float:
    """Seconds of the engine's own smallest, largest and mean of all columns."""
    frame = pl.scan_parquet(folder / "*.parquet")
    every = [
        each.alias(f"{name} {place}")
        for name in frame.collect_schema()
        for place, each in enumerate((pl.col(name).min(), pl.col(name).max(), pl.col(name).mean()))
    ]
    begun = time.perf_counter()
    frame.select(every).collect(engine="streaming")
    return time.perf_counter() - begun


def survey(address: str, table: str | None = None) -> dict[str, float]:
    """Seconds from opening until the first figures, those of the survey, and how often the table was read."""
    from culvix.study.whole.survey import survey_whole
    from culvix.tables.engines import open_engine

    on_figures: list[float] = []
    opened_at = time.perf_counter()
    engine = open_engine(address, table=table)
    begun = time.perf_counter()
    found = survey_whole(engine, on_figures=lambda columns: on_figures.append(time.perf_counter() - opened_at))
    ended = time.perf_counter()
    engine.close()
    return {"first_figures": on_figures[0], "all": ended - begun, "readings": found.readings}


def limited(folder: Path, gigabytes: float) -> dict[str, float]:
    """The survey in a process of its own, whose address space may grow so far beyond its libraries."""
    code = (
        "import json, resource, sys; sys.path.insert(0, sys.argv[1]); import whole\n"
        "import culvix.study.whole.survey, culvix.tables.engines.files.engine\n"
        "from pathlib import Path\n"
        "whole.plain_pass(Path(sys.argv[2]))\n"
        "pages = int(open('/proc/self/statm').read().split()[0]) * resource.getpagesize()\n"
        "most = pages + int(float(sys.argv[3]) * whole.GIGABYTE)\n"
        "resource.setrlimit(resource.RLIMIT_AS, (most, most))\n"
        "plain = [whole.plain_pass(Path(sys.argv[2])) for _ in range(3)]\n"
        "found = whole.survey(sys.argv[2])\n"
        "found['plain_pass'] = sorted(plain)[1]\n"
        "found['peak_megabytes'] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024\n"
        "print(json.dumps(found))\n"
    )
    here = str(Path(__file__).parent)
    ended = subprocess.run(
        [sys.executable, "-c", code, here, str(folder), str(gigabytes)], capture_output=True, text=True, check=False
    )
    if ended.returncode:
        return {"failed": ended.returncode, "error": ended.stderr.strip().splitlines()[-1:]}  # type: ignore[dict-item]
    return dict(json.loads(ended.stdout))


def on_server(address: str, folder: Path, rows: int) -> dict[str, float]:
    """The same in a server, against one sequential scan there, and against one that it spreads over processes."""
    from adbc_driver_postgresql import dbapi

    with dbapi.connect(address) as session, session.cursor() as cursor:
        for number, path in enumerate(sorted(folder.glob("*.parquet"))[: -(-rows // ROWS_OF_PART)]):
            cursor.adbc_ingest("bench_whole", pl.read_parquet(path), mode="append" if number else "replace")
        session.commit()
        cursor.execute("analyze bench_whole")
        session.commit()
        names = pl.scan_parquet(folder / "*.parquet").collect_schema().names()
        every = ", ".join(
            f"{each}({name}) as {each}_{place}" for place, name in enumerate(names) for each in ("min", "max", "avg")
        )

        def scan(processes_besides: int) -> float:
            cursor.execute(f"set max_parallel_workers_per_gather = {processes_besides}")
            seconds = []
            for _ in range(3):
                begun = time.perf_counter()
                cursor.execute(f"select {every} from bench_whole")
                cursor.fetch_polars()
                seconds.append(time.perf_counter() - begun)
            return sorted(seconds)[1]

        scans = {"plain_pass": scan(0), "plain_pass_of_several_processes": scan(2)}
    return {**survey(address, "bench_whole"), **scans}


def with_ratio(found: dict[str, float]) -> dict[str, float]:
    """``found`` with how many plain passes the survey took."""
    passes = {name: seconds for name, seconds in found.items() if name.startswith("plain_pass")}
    return found | {name.replace("plain_pass", "ratio"): found["all"] / seconds for name, seconds in passes.items()}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=50_000_000)
    parser.add_argument("--folder", type=Path, help="where the parts are kept (default: made anew)")
    parser.add_argument("--gigabytes", type=float, default=2.0)
    parser.add_argument("--server", metavar="ADDRESS")
    parser.add_argument("--server-rows", type=int, default=5_000_000)
    options = parser.parse_args()
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    with tempfile.TemporaryDirectory(prefix="culvix-") as made:
        folder = options.folder or Path(made)
        make_parts(folder, options.rows)
        found = {"rows": options.rows, "files": with_ratio(limited(folder, options.gigabytes))}
        if options.server:
            found["server"] = with_ratio(on_server(options.server, folder, options.server_rows))
    print(json.dumps(found))


if __name__ == "__main__":
    main()
