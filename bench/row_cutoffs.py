"""Simulates how far normal rows lie by robust distance in short tables, and prints the factors of their cut-offs.

    python bench/row_cutoffs.py > cutoffs.txt      about 20 minutes; --repeats 100 for a rough look

For p columns and n rows the squared distances of all rows of many normal tables are pooled; their quantile at each
level over that of χ² with p degrees of freedom is the factor that `culvix.stats.multivariate.row_cutoffs` holds.
"""

import argparse

import numpy as np
from scipy.special import chdtri

from culvix.stats.multivariate.minimum_covariance import minimum_covariance_determinant, squared_distances
from culvix.stats.multivariate.row_cutoffs import COLUMNS, LEVELS, RATIOS

_SEED = 20021


def factors(n: int, p: int, repeats: int, draw: np.random.Generator) -> list[float]:
    """The factor at each of `LEVELS` of tables of ``n`` rows and ``p`` columns."""
    squared = []
    for _ in range(repeats):
        x = draw.normal(size=(n, p))
        squared.append(squared_distances(x, *minimum_covariance_determinant(x, seed=int(draw.integers(2**31)))))
    quantiles = np.quantile(np.concatenate(squared), LEVELS)
    return [round(float(q / chdtri(p, 1 - level)), 4) for q, level in zip(quantiles, LEVELS, strict=True)]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--repeats", type=int, default=1000, help="tables of the shortest sizes")
    parser.add_argument("--columns", type=int, nargs="*", default=list(COLUMNS))
    asked = parser.parse_args()
    for p in asked.columns:
        for ratio in RATIOS:
            repeats = max(60, int(asked.repeats * min(1.0, 8 / ratio)))
            found = factors(ratio * p, p, repeats, np.random.default_rng((_SEED, p, ratio)))
            print(f"({p}, {ratio}): {tuple(found)},", flush=True)


if __name__ == "__main__":
    main()
