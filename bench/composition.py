"""The prompt profile composed from general libraries, call by call, as a careful analyst would write it."""

import numpy as np
import polars as pl
from scipy import stats

__all__ = ["compose"]


def compose(values: np.ndarray) -> dict[str, object]:
    """The same numbers as the prompt profile of ``values`` (shape ``(rows,)``, NaN for missing)."""
    x = values[np.isfinite(values)]
    series = pl.Series(x)
    mean, sd = x.mean(), x.std(ddof=1)
    q1, q3 = np.percentile(x, [25, 75])
    median = np.median(x)
    mad = stats.median_abs_deviation(x)
    z = stats.zscore(x, ddof=1)
    robust = 0.6745 * (x - median) / mad
    rejected = stats.false_discovery_control(2 * stats.t.sf(np.abs(robust), x.size - 1)) < 0.01
    return {
        "describe": (series.n_unique(), series.sum(), mean, sd, x.min(), x.max(), stats.sem(x)),
        "modes": stats.mode(x),
        "percentiles": [np.percentile(x, p) for p in (1, 5, 10, 25, 50, 75, 90, 95, 99)],
        "robust": (mad, stats.iqr(x), stats.trim_mean(x, 0.1), stats.mstats.winsorize(x, (0.1, 0.1)).mean()),
        "positive": (stats.gmean(x), stats.hmean(x), stats.variation(x)),
        "shape": [f(x, bias=b) for f in (stats.skew, stats.kurtosis) for b in (True, False)],
        "interval": stats.t.interval(0.95, x.size - 1, mean, sd / np.sqrt(x.size)),
        "histogram": np.histogram(x, bins="fd"),
        "qq": stats.probplot(x),
        "tests": (
            stats.shapiro(x[:5000]),
            stats.anderson(x, method="interpolate"),
            stats.kstest((x - mean) / sd, "norm"),
            stats.cramervonmises((x - mean) / sd, "norm"),
            stats.normaltest(x),
            stats.jarque_bera(x),
        ),
        "outliers": (
            np.flatnonzero(np.abs(z) > 3),
            np.flatnonzero((x < q1 - 1.5 * (q3 - q1)) | (x > q3 + 1.5 * (q3 - q1))),
            np.flatnonzero(np.abs(robust) > 3.5),
            np.flatnonzero(np.abs(x - median) > 3 * 1.4826 * mad),
            np.flatnonzero(rejected),
        ),
    }
