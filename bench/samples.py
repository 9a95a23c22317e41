"""How often figures of seeded samples lie within three standard errors of those of the whole:  prints one JSON object.

Each of so many samples of a table in files gives the mean, the SD and the shares beyond the limits of every column.
"""

import argparse
import json
import tempfile
from pathlib import Path

import numpy as np
import polars as pl

from culvix.stats.core.sample import Sample
from culvix.stats.describe.description import describe
from culvix.stats.display import NumberStyle
from culvix.study.whole.beside_sample import beside_sample
from culvix.study.whole.survey import survey_whole
from culvix.tables.engines import open_engine

STYLE = NumberStyle(2, 3)


def table(rows: int) -> pl.DataFrame:
    """Columns of plain, skewed, counted and two-valued numbers."""
    draw = np.random.default_rng(17)
    return pl.DataFrame(
        {
            "normal": draw.normal(100, 15, rows).round(2),
            "skewed": draw.gamma(2.0, 3.0, rows).round(3),
            "counts": draw.negative_binomial(2, 0.3, rows),
            "two": (draw.random(rows) < 0.3).astype(np.int8),
        }
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=200_000)
    parser.add_argument("--samples", type=int, default=200)
    parser.add_argument("--size", type=int, default=2_000)
    options = parser.parse_args()
    within: dict[str, list[bool]] = {}
    with tempfile.TemporaryDirectory(prefix="culvix-") as folder:
        path = Path(folder) / "whole.parquet"
        table(options.rows).write_parquet(path)
        engine = open_engine(str(path))
        whole = survey_whole(engine)
        for seed in range(options.samples):
            drawn = engine.sample(options.size, seed)
            for column in whole.columns:
                assert column.numbers is not None
                x = drawn[column.column.name].cast(pl.Float64).to_numpy()
                beyond = {b.method: int(((x < b.low) | (x > b.high)).sum()) for b in column.numbers.beyond}
                for each in beside_sample(column, describe(Sample.of(x)), STYLE, beyond):
                    if each.off is not None:
                        within.setdefault(each.name, []).append(abs(each.off) <= 3)
    shares = {name: float(np.mean(found)) for name, found in within.items()}
    every = float(np.mean([one for found in within.values() for one in found]))
    print(json.dumps({"samples": options.samples, "size": options.size, "within_three_errors": shares, "all": every}))


if __name__ == "__main__":
    main()
