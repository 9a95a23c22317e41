"""Speed as ratios measured side by side in one run:  ./culvix bench

Prints one JSON object on standard output. Each ratio pairs our work with a yardstick on the same data, in turn, and
takes the median of the pairs, so that it holds on a machine whose speed drifts.
"""

import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
import tracemalloc
from collections.abc import Callable
from functools import partial
from pathlib import Path

# As the application sets it: a process on its own works with one such thread.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np
import polars as pl
from scipy import stats as general

sys.path.insert(0, str(Path(__file__).parent))

from composition import compose

from culvix.stats.core.sample import Sample
from culvix.stats.correlation.distance import distance_correlation
from culvix.stats.correlation.kendall import kendall
from culvix.stats.correlation.pearson import pearson_matrix
from culvix.stats.correlation.spearman_matrix import spearman_matrix
from culvix.stats.describe.description import describe
from culvix.stats.describe.medcouple import medcouple
from culvix.stats.describe.robust_scale import qn, sn
from culvix.stats.multivariate.row_distances import row_distances
from culvix.stats.normality.monte_carlo import monte_carlo_normality
from culvix.stats.registry import NORMALITY_TESTS, OUTLIER_METHODS
from culvix.stats.resampling.column_bootstrap import BOOTSTRAPPED, bootstrap_interval
from culvix.stats.shape.histogram import histogram
from culvix.stats.shape.qq import qq
from culvix.tables import read_table

N = 1_000_000


def column() -> np.ndarray:
    """A million gamma values, one in twenty missing."""
    draw = np.random.default_rng(7)
    values = draw.gamma(2.0, size=N)
    values[draw.random(N) < 0.05] = np.nan
    return values


def prompt_profile(values: np.ndarray) -> None:
    """Everything of the first tier, from the raw column."""
    sample = Sample(values)
    describe(sample)
    histogram(sample)
    qq(sample)
    for test in NORMALITY_TESTS.values():
        test.run(sample)
    for method in OUTLIER_METHODS.values():
        if not method.deferred:
            method.run(sample)


def seconds(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def ratio(ours: Callable[[], object], yardstick: Callable[[], object], pairs: int = 5) -> float:
    """Median of ours over the yardstick, measured in turn after one warm-up of each."""
    ours(), yardstick()
    return statistics.median(seconds(ours) / seconds(yardstick) for _ in range(pairs))


def table(rows: int, columns: int) -> tuple[list[np.ndarray], np.ndarray]:
    """Correlated columns with one cell in twenty missing, and the same table complete."""
    draw = np.random.default_rng(11)
    complete = draw.normal(size=(rows, columns)) + draw.normal(size=(rows, 1))
    holes = np.where(draw.random(complete.shape) < 0.05, np.nan, complete)
    return list(np.ascontiguousarray(holes.T)), np.ascontiguousarray(complete.T)


def deferred(values: np.ndarray) -> dict[str, float]:
    """Seconds of each deferred figure on a fresh sample that is already sorted; of pairs and tables with another."""
    other = np.random.default_rng(17).normal(size=values.size)
    table = [values, other, values + other**2, np.sqrt(values), values * other]
    work: dict[str, Callable[[Sample], object]] = {"sn": sn, "qn": qn, "medcouple": medcouple}
    work |= {key: method.run for key, method in OUTLIER_METHODS.items() if method.deferred}
    work |= {f"bootstrap {key}": partial(bootstrap_interval, key=key) for key in BOOTSTRAPPED}
    work |= {f"monte_carlo {key}": partial(monte_carlo_normality, {key: test}) for key, test in NORMALITY_TESTS.items()}
    work["distance_correlation"] = lambda _: distance_correlation(values, other)
    work["multivariate"] = lambda _: row_distances(table)
    found = {}
    for name, run in work.items():
        sample = Sample(values)
        assert sample.n and sample.moments
        found[name] = round(seconds(lambda run=run, sample=sample: run(sample)), 3)
    return found


def reading(rows: int = 1_000_000) -> dict[str, float]:
    """Reading a file of 20 columns and judging it, every cell at hand as text, over the library's own reading of it."""
    draw = np.random.default_rng(19)
    columns = {f"measure_{k}": draw.normal(100, 15, rows).round(4) for k in range(16)}
    columns |= {"count": draw.poisson(4, rows), "tank": draw.choice(["T1", "T2", "T3"], rows)}
    columns |= {"tag": [f"H-{k:07d}" for k in range(rows)], "gaps": np.where(draw.random(rows) < 0.05, "", "1.5")}
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "table.csv"
        pl.DataFrame(columns).write_csv(path)
        whole = ratio(lambda: read_table(path), lambda: pl.read_csv(path), 3)
    return {"read_vs_polars": round(whole, 2)}


def window() -> dict[str, object]:
    """How quickly the window answers: measured in a process of its own, which has an application object."""
    done = subprocess.run(
        [sys.executable, str(Path(__file__).with_name("window.py"))], check=True, capture_output=True, text=True
    )
    return dict(json.loads(done.stdout.splitlines()[-1]))


def peak_memory_vs_column(values: np.ndarray) -> float:
    tracemalloc.start()
    prompt_profile(values)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return peak / values.nbytes


def false_positive_rates(samples: int = 20_000, sizes: tuple[int, ...] = (20, 60, 2000)) -> dict[str, dict[int, float]]:
    """Share of normal samples of several sizes that each test rejects at 0.05."""
    draw = np.random.default_rng(13)
    counts = {key: dict.fromkeys(sizes, 0) for key in NORMALITY_TESTS}
    for n in sizes:
        for _ in range(samples):
            sample = Sample(draw.normal(size=n))
            for key, test in NORMALITY_TESTS.items():
                p = test.run(sample).p
                counts[key][n] += p is not None and p < 0.05
    return {key: {n: round(count / samples, 4) for n, count in row.items()} for key, row in counts.items()}


def main() -> None:
    values = column()
    holes, complete = table(100_000, 50)
    x, y = complete[0], complete[1]
    figures = {
        "profile_vs_sort": ratio(lambda: prompt_profile(values), lambda: np.sort(values), 9),
        "deferred_s": deferred(values),
        "profile_vs_composition": 1 / ratio(lambda: prompt_profile(values), lambda: compose(values), 1),
        "correlation_vs_corrcoef": ratio(lambda: pearson_matrix(holes), lambda: np.corrcoef(complete)),
        "spearman_vs_corrcoef": ratio(lambda: spearman_matrix(holes), lambda: np.corrcoef(complete), 1),
        "kendall_pair_ms": 1000 * seconds(lambda: kendall(x, y)),
        "kendall_vs_general": ratio(lambda: kendall(x, y), lambda: general.kendalltau(x, y), 3),
        **reading(),
        **window(),
        "peak_memory_vs_column": peak_memory_vs_column(values),
        "false_positive_rate_at_0.05": false_positive_rates(),
    }
    print(json.dumps({k: round(v, 3) if isinstance(v, float) else v for k, v in figures.items()}, indent=1))


if __name__ == "__main__":
    main()
